// SPDX-License-Identifier: MIT
#include "bench/history/history.hpp"
#include "bench/history/schema.hpp"
#include "rig/emit/device.hpp"
#include "rig/text/files.hpp"

#include <SQLiteCpp/SQLiteCpp.h>
#include <fmt/chrono.h>
#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <ctime>
#include <filesystem>
#include <tuple>

namespace zorilla::bench {

using SQLite::Statement;

std::optional<Utc> utc_of(const std::string& text) {
    std::tm time{};
    int length = 0;
    const char* const from = text.c_str();
    const auto ends = [&] { return length == static_cast<int>(text.size()); };
    const bool read =
        (std::sscanf(from, "%4d-%2d-%2d %2d:%2d:%2d%n", &time.tm_year, &time.tm_mon, &time.tm_mday,
                     &time.tm_hour, &time.tm_min, &time.tm_sec, &length) == 6 &&
         ends()) ||
        (time.tm_sec = 0, std::sscanf(from, "%4d-%2d-%2d %2d:%2d%n", &time.tm_year, &time.tm_mon,
                                      &time.tm_mday, &time.tm_hour, &time.tm_min, &length) == 5 &&
                              ends()) ||
        (time.tm_hour = time.tm_min = 0, std::sscanf(from, "%4d-%2d-%2d%n", &time.tm_year,
                                                     &time.tm_mon, &time.tm_mday, &length) == 3 &&
                                             ends());
    if (!read || time.tm_year < 1970 || time.tm_year > 9000 || time.tm_mon < 1 ||
        time.tm_mon > 12 || time.tm_mday < 1 || time.tm_hour > 23 || time.tm_min > 59 ||
        time.tm_sec > 59)
        return std::nullopt;
    const int day_of_month = time.tm_mday;
    time.tm_year -= 1900;
    time.tm_mon -= 1;
    const std::time_t seconds = timegm(&time);
    // The 31st of a month of 30 days is the first of another.
    return time.tm_mday == day_of_month ? std::optional<Utc>(int64_t{seconds} * 1000)
                                        : std::nullopt;
}

std::string utc_text(Utc time) {
    return fmt::format("{:%Y-%m-%d %H:%M:%S}", fmt::gmtime(static_cast<std::time_t>(time / 1000)));
}

History::History(const std::string& path) {
    if (!std::filesystem::exists(path))
        throw rig::InputError(
            fmt::format("{}: is not there; zorilla live ... --history {} makes it", path, path));
    try {
        db_ = std::make_unique<SQLite::Database>(path, SQLite::OPEN_READWRITE);
        db_->setBusyTimeout(2000);
        if (db_->execAndGet("PRAGMA application_id").getInt() != history::application)
            throw rig::InputError(path + ": is no history");
        if (db_->execAndGet("PRAGMA user_version").getInt() != history::version)
            throw rig::InputError(path + ": was written by another version of zorilla");
    } catch (const SQLite::Exception& error) {
        throw rig::InputError(
            fmt::format("{}: is no history that can be read: {}", path, error.what()));
    }
}

History::~History() = default;

std::string History::header(const rig::Rig& rig) {
    const std::string sent = rig::header_of(rig);
    return sent.substr(0, sent.rfind(','));
}

std::vector<KnownDevice> History::devices() {
    Statement all(*db_,
                  "SELECT id, name, number, rig, (SELECT count(*) FROM sent JOIN stretch ON "
                  "stretch.id = sent.stretch WHERE device = device.id), (SELECT count(*) FROM "
                  "stretch WHERE device = device.id), (SELECT count(*) FROM event WHERE device = "
                  "device.id) FROM device ORDER BY id");
    std::vector<KnownDevice> out;
    while (all.executeStep()) {
        KnownDevice device;
        device.id = all.getColumn(0).getInt64();
        device.name = all.getColumn(1).getString();
        device.number = static_cast<uint32_t>(all.getColumn(2).getInt64());
        device.rig = all.getColumn(3).getString();
        device.rows = all.getColumn(4).getInt64();
        device.stretches = all.getColumn(5).getInt64();
        device.events = all.getColumn(6).getInt64();
        const std::vector<Stretch> stretches = this->stretches(device.id, 0, INT64_MAX);
        if (!stretches.empty()) {
            device.first = INT64_MAX;
            for (const Stretch& stretch : stretches) {
                device.first = std::min(device.first, stretch.earliest);
                device.last = std::max(device.last, stretch.latest);
            }
        }
        out.push_back(std::move(device));
    }
    return out;
}

std::vector<Stretch> History::stretches(int64_t device, Utc from, Utc to) {
    Statement all(*db_,
                  "SELECT stretch.id, whole, begin, min(sent.clock), max(sent.clock), "
                  "count(sent.clock) FROM stretch LEFT JOIN sent ON sent.stretch = stretch.id "
                  "WHERE device = ? GROUP BY stretch.id ORDER BY begin");
    all.bind(1, device);
    std::vector<Stretch> out;
    while (all.executeStep()) {
        Stretch stretch;
        stretch.id = all.getColumn(0).getInt64();
        stretch.whole = all.getColumn(1).getInt() != 0;
        stretch.begin = all.getColumn(2).getInt64();
        stretch.first = all.getColumn(3).getInt64();
        stretch.last = all.getColumn(4).getInt64();
        stretch.rows = all.getColumn(5).getInt64();
        const ClockMap map = clock_of(stretch.id);
        stretch.end = map.at(stretch.last);
        std::tie(stretch.earliest, stretch.latest) = map.reach(stretch.last);
        if (stretch.rows > 0 && stretch.latest >= from && stretch.earliest < to)
            out.push_back(stretch);
    }
    return out;
}

namespace {

/// What a damaged file may hold as a time is no further off than 35,000 years, so that sums of it
/// stay numbers.
int64_t possible_time(int64_t milliseconds) {
    constexpr int64_t most = int64_t{1} << 50;
    return std::clamp(milliseconds, -most, most);
}

} // namespace

ClockMap History::clock_of(int64_t stretch) {
    Statement all(*db_, "SELECT clock, utc FROM clock WHERE stretch = ? ORDER BY clock");
    all.bind(1, stretch);
    std::vector<std::pair<int64_t, Utc>> points;
    while (all.executeStep())
        points.emplace_back(possible_time(all.getColumn(0).getInt64()),
                            possible_time(all.getColumn(1).getInt64()));
    return ClockMap(std::move(points));
}

Utc ClockMap::at(int64_t clock) const {
    clock = possible_time(clock);
    const auto next = std::upper_bound(points_.begin(), points_.end(), std::pair(clock, INT64_MAX));
    if (next == points_.begin())
        return points_.empty() ? 0 : next->second + clock - next->first;
    const auto& [before, then] = *std::prev(next);
    if (next == points_.end())
        return then + clock - before;
    return then + static_cast<int64_t>(static_cast<double>(next->second - then) *
                                       static_cast<double>(clock - before) /
                                       static_cast<double>(next->first - before));
}

std::pair<Utc, Utc> ClockMap::reach(int64_t to) const {
    std::pair<Utc, Utc> out(at(to), at(to));
    for (const auto& [clock, utc] : points_)
        out = {std::min(out.first, utc), std::max(out.second, utc)};
    return out;
}

void History::rows(int64_t stretch, int64_t to,
                   const std::function<void(int64_t, const std::string&)>& row) {
    Statement all(*db_,
                  "SELECT clock, rest FROM sent WHERE stretch = ? AND clock <= ? ORDER BY clock");
    all.bind(1, stretch);
    all.bind(2, to);
    while (all.executeStep())
        row(all.getColumn(0).getInt64(), all.getColumn(1).getString());
}

std::vector<std::pair<Utc, Event>> History::events(int64_t device, Utc from, Utc to) {
    Statement all(*db_,
                  "SELECT utc, clock, who, what, reason, good FROM event WHERE device = ? AND "
                  "utc >= ? AND utc < ? ORDER BY utc, id");
    all.bind(1, device);
    all.bind(2, from);
    all.bind(3, to);
    std::vector<std::pair<Utc, Event>> out;
    while (all.executeStep())
        out.emplace_back(all.getColumn(0).getInt64(),
                         Event{all.getColumn(1).getInt64(), all.getColumn(2).getString(),
                               all.getColumn(3).getString(), all.getColumn(4).getString(), false,
                               all.getColumn(5).getInt() != 0});
    return out;
}

std::vector<MinuteSums> History::sums(int64_t device, const std::string& part, Utc from, Utc to,
                                      int64_t span) {
    Statement all(*db_, "SELECT minute, known, sum, least, most, switched FROM minute JOIN part ON "
                        "part.id = minute.part WHERE device = ? AND name = ? AND minute >= ? AND "
                        "minute < ? ORDER BY minute");
    all.bind(1, device);
    all.bind(2, part);
    all.bind(3, from / 60'000);
    all.bind(4, to / 60'000);
    std::vector<MinuteSums> out(static_cast<size_t>((to - from + span - 1) / span));
    while (all.executeStep()) {
        const Utc at = all.getColumn(0).getInt64() * 60'000;
        MinuteSums& into = out[static_cast<size_t>(
            std::clamp<int64_t>((at - from) / span, 0, static_cast<int64_t>(out.size()) - 1))];
        const int64_t known = all.getColumn(1).getInt64();
        const int64_t least = all.getColumn(3).getInt64(), most = all.getColumn(4).getInt64();
        if (known > 0) {
            into.least = into.known == 0 ? least : std::min(into.least, least);
            into.most = into.known == 0 ? most : std::max(into.most, most);
        }
        ++into.minutes;
        into.known += known;
        into.sum += all.getColumn(2).getDouble();
        into.switched += all.getColumn(5).getInt64();
    }
    return out;
}

} // namespace zorilla::bench
