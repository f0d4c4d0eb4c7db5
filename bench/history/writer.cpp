// SPDX-License-Identifier: MIT
#include "bench/history/history.hpp"
#include "bench/history/schema.hpp"
#include "rig/emit/device.hpp"
#include "rig/text/files.hpp"

#include <SQLiteCpp/SQLiteCpp.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>

namespace zorilla::bench {

HistoryFile::HistoryFile(const std::string& path, int64_t keep) : path_(path), keep_(keep) {
    // The file itself, whatever its name: through a link it is the same. Closed after SQLite's own,
    // since whoever closes a file gives up what else this process has locked of it.
    // NOLINTNEXTLINE: open has a third argument with O_CREAT
    lock_ = open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (lock_ < 0)
        throw rig::InputError(
            fmt::format("{}: cannot be written here: {}", path, std::strerror(errno)));
    if (flock(lock_, LOCK_EX | LOCK_NB) != 0) {
        close(lock_);
        throw rig::InputError(
            fmt::format("{}: another zorilla live writes it already; take another "
                        "file, or end that one",
                        path));
    }
    try {
        db_ =
            std::make_unique<SQLite::Database>(path, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        const int application = db_->execAndGet("PRAGMA application_id").getInt();
        const bool is_new = !db_->tableExists("device");
        if (application != history::application &&
            (application != 0 ||
             db_->execAndGet("SELECT count(*) FROM sqlite_master").getInt() > 0))
            throw rig::InputError(path + ": is another kind of file; choose another name");
        db_->exec("PRAGMA journal_mode = WAL");
        // Each commit is on the disk, and there is one a second: no more is lost with the power.
        db_->exec("PRAGMA synchronous = FULL");
        if (is_new) {
            SQLite::Transaction all(*db_);
            db_->exec(history::tables);
            db_->exec(fmt::format("PRAGMA application_id = {}", history::application));
            db_->exec(fmt::format("PRAGMA user_version = {}", history::version));
            all.commit();
        } else if (db_->execAndGet("PRAGMA user_version").getInt() != history::version) {
            throw rig::InputError(path + ": was written by another version of zorilla");
        }
    } catch (const SQLite::Exception& error) {
        close(lock_);
        throw rig::InputError(fmt::format("{}: cannot be kept here: {}", path, error.what()));
    } catch (...) {
        close(lock_);
        throw;
    }
}

HistoryFile::~HistoryFile() {
    try {
        commit();
    } catch (const std::exception&) { // NOLINT: what came before is kept
    }
    db_.reset();
    close(lock_);
}

void HistoryFile::begin() {
    if (!open_)
        db_->exec("BEGIN IMMEDIATE");
    open_ = true;
}

void HistoryFile::commit() {
    if (open_)
        db_->exec("COMMIT");
    open_ = false;
}

HistoryWriter::HistoryWriter(std::shared_ptr<HistoryFile> file, const rig::Rig& rig,
                             const std::string& rig_text)
    : file_(std::move(file)) {
    using SQLite::Statement;
    SQLite::Database& db = file_->db();
    try {
        file_->begin();
        Statement known(db, "INSERT INTO device (name, number, rig) VALUES (?, ?, ?) ON CONFLICT "
                            "DO UPDATE SET rig = excluded.rig RETURNING id");
        known.bind(1, rig.name);
        known.bind(2, static_cast<int64_t>(rig::number_of(rig)));
        known.bind(3, rig_text);
        known.executeStep();
        device_ = known.getColumn(0).getInt64();
        known.reset();
        for (const rig::Source& source : rig.sources)
            names_.push_back(source.name);
        for (const rig::Drive& drive : rig.drives)
            names_.push_back(drive.name);
        for (const std::string& name : names_) {
            Statement part(db, "INSERT OR IGNORE INTO part (device, name) VALUES (?, ?)");
            part.bind(1, device_);
            part.bind(2, name);
            part.exec();
        }
        minutes_.resize(names_.size());
        row_ = std::make_unique<Statement>(db, "INSERT OR IGNORE INTO sent VALUES (?, ?, ?)");
        event_ = std::make_unique<Statement>(
            db, "INSERT INTO event (device, utc, clock, who, what, reason, good) VALUES (?, ?, ?, "
                "?, ?, ?, ?)");
        minute_ = std::make_unique<Statement>(
            db, "INSERT INTO minute SELECT id, ?, ?, ?, ?, ?, ? FROM part WHERE device = ? AND "
                "name = ? ON CONFLICT DO UPDATE SET known = known + excluded.known, sum = sum + "
                "excluded.sum, least = min(least, excluded.least), most = max(most, "
                "excluded.most), switched = switched + excluded.switched");
        clock_ = std::make_unique<Statement>(db, "INSERT OR REPLACE INTO clock VALUES (?, ?, ?)");
        commit();
    } catch (const SQLite::Exception& error) {
        throw rig::InputError(
            fmt::format("{}: cannot be kept here: {}", file_->path(), error.what()));
    }
}

void HistoryWriter::finish() {
    for (size_t i = 0; i < minutes_.size(); ++i)
        put_minute(i);
    commit();
}

HistoryWriter::~HistoryWriter() {
    try {
        finish();
    } catch (const std::exception&) { // NOLINT: what came before is kept
    }
}

void HistoryWriter::commit() { file_->commit(); }

void HistoryWriter::begin(Utc now, int64_t clock, bool whole) {
    file_->begin();
    SQLite::Statement begun(file_->db(),
                            "INSERT INTO stretch (device, whole, begin) VALUES (?, ?, ?)");
    begun.bind(1, device_);
    begun.bind(2, whole ? 1 : 0);
    begun.bind(3, now);
    begun.exec();
    stretch_ = file_->db().getLastInsertRowid();
    first_utc_ = now;
    first_clock_ = clock;
    clocked_ = 0;
    // What was before that is not known to have gone on; before its first pass all is off.
    for (Minute& minute : minutes_)
        minute.is = {false, 0, false};
    off_before_ = whole;
}

void HistoryWriter::row(Utc now, int64_t clock, std::string_view rest) {
    file_->begin();
    row_->reset();
    row_->bind(1, stretch_);
    row_->bind(2, clock);
    row_->bind(3, std::string(rest));
    row_->exec();
    // Where the device's clock and ours have gone apart, the map between them gets a point; where
    // ours was set, two: what came before is not moved.
    const Utc mapped = first_utc_ + (clock - first_clock_);
    if (clocked_ == 0 || (std::abs(mapped - now) > 500 && std::abs(now - clocked_) >= 1000)) {
        if (clocked_ != 0 && std::abs(mapped - now) > 10'000)
            put_clock(last_clock_, first_utc_ + (last_clock_ - first_clock_));
        put_clock(clock, now);
        first_utc_ = now;
        first_clock_ = clock;
        clocked_ = now;
    }
    last_clock_ = clock;
    if (std::abs(now - thinned_) > 3'600'000)
        thin(now);
}

void HistoryWriter::put_clock(int64_t clock, Utc at) {
    clock_->reset();
    clock_->bind(1, stretch_);
    clock_->bind(2, clock);
    clock_->bind(3, at);
    clock_->exec();
}

void HistoryWriter::event(Utc now, const Event& event) {
    file_->begin();
    event_->reset();
    event_->bind(1, device_);
    event_->bind(2, now);
    event_->bind(3, event.milliseconds);
    event_->bind(4, event.who);
    event_->bind(5, event.what);
    event_->bind(6, event.reason);
    event_->bind(7, event.is_good ? 1 : 0);
    event_->exec();
}

void HistoryWriter::passed(Utc now, size_t part, Pass is) {
    Minute& minute = minutes_[part];
    if (minute.any)
        add_span(part, minute.since, std::max(now, minute.since));
    const bool was_off = minute.is.value == 0 && (minute.is.known || off_before_);
    const bool switches = is.is_output && is.known && is.value != 0 && was_off;
    minute.any = true;
    minute.is = is;
    minute.since = now;
    go_to_minute(part, now);
    minute.sums.switched += switches ? 1 : 0;
}

/// What it was since the last pass, minute by minute; a pause of ten minutes is none of the
/// device's.
void HistoryWriter::add_span(size_t part, Utc from, Utc to) {
    Minute& minute = minutes_[part];
    if (!minute.is.known || to - from > 600'000)
        return;
    while (from < to) {
        go_to_minute(part, from);
        const Utc end = std::min(to, (minute.minute + 1) * 60'000);
        MinuteSums& sums = minute.sums;
        const int64_t value = minute.is.value;
        sums.least = sums.known == 0 ? value : std::min(sums.least, value);
        sums.most = sums.known == 0 ? value : std::max(sums.most, value);
        sums.known += end - from;
        sums.sum += static_cast<double>(value) * static_cast<double>(end - from);
        from = end;
    }
}

void HistoryWriter::go_to_minute(size_t part, Utc now) {
    if (now / 60'000 == minutes_[part].minute)
        return;
    put_minute(part);
    minutes_[part].minute = now / 60'000;
}

void HistoryWriter::put_minute(size_t part) {
    Minute& minute = minutes_[part];
    if (minute.minute >= 0 && (minute.sums.known > 0 || minute.sums.switched > 0)) {
        file_->begin();
        minute_->reset();
        minute_->bind(1, minute.minute);
        minute_->bind(2, minute.sums.known);
        minute_->bind(3, minute.sums.sum);
        minute_->bind(4, minute.sums.least);
        minute_->bind(5, minute.sums.most);
        minute_->bind(6, minute.sums.switched);
        minute_->bind(7, device_);
        minute_->bind(8, names_[part]);
        minute_->exec();
    }
    minute.sums = {};
}

/// Rows that are older than what is kept go; their minutes stay.
void HistoryWriter::thin(Utc now) {
    thinned_ = now;
    const Utc oldest = now - file_->keep();
    // Up to the last point of its map of clocks that is as old, and from there by the clock itself.
    SQLite::Statement cut(
        file_->db(),
        "DELETE FROM sent WHERE stretch = ?1 AND clock < min((SELECT clock + ?2 - utc FROM "
        "clock WHERE stretch = ?1 AND utc < ?2 ORDER BY clock DESC LIMIT 1), ifnull((SELECT "
        "min(clock) FROM clock WHERE stretch = ?1 AND utc >= ?2), 9e18))");
    SQLite::Statement old(file_->db(), "SELECT id FROM stretch WHERE device = ? AND begin < ?");
    old.bind(1, device_);
    old.bind(2, oldest);
    while (old.executeStep()) {
        cut.bind(1, old.getColumn(0).getInt64());
        cut.bind(2, oldest);
        cut.exec();
        cut.reset();
    }
}

} // namespace zorilla::bench
