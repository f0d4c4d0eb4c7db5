// SPDX-License-Identifier: MIT
#include "bench/stand_in.hpp"

#include "bench/samples.hpp"
#include "rig/sense/forward.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/inotify.h>
#include <sys/stat.h>
#include <termios.h>
#include <unistd.h>

#include <cerrno>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <memory>
#include <thread>

namespace zorilla::bench {

using rig::AnalogueModel;
using rig::beta_ohms;
using rig::DividerModel;
using rig::Noise;
using rig::photoresistor_ohms;

using rig::InputError;

Script recorded(const std::string& path) {
    auto reader = std::make_shared<SampleReader>(path, [](uint64_t, const std::string&) {});
    Script out;
    for (const SampleColumn& column : reader->columns())
        out.names.push_back(column.unit.empty() ? column.name
                                                : fmt::format("{} ({})", column.name, column.unit));
    auto rows = std::make_shared<uint64_t>(0);
    out.next = [reader, rows](Script::Line& line) {
        if (!reader->next())
            return false;
        // Without a time, ten lines a second.
        line.milliseconds =
            reader->has_time() ? reader->row().milliseconds : 100 * static_cast<double>((*rows)++);
        line.values.clear();
        for (size_t i = 0; i < reader->columns().size(); ++i)
            line.values.push_back(std::isnan(reader->row().values[i])
                                      ? std::string("nan")
                                      : fmt::format("{}", reader->row().values[i]));
        return true;
    };
    return out;
}

Script held(const std::string& sensor, const std::string& value, double every) {
    const bool thermistor = sensor == "thermistor";
    if (!thermistor && sensor != "photoresistor")
        throw InputError(fmt::format("there is no model \"{}\"; possible are \"thermistor\" and "
                                     "\"photoresistor\"",
                                     sensor));
    const rig::Kind kind = thermistor ? rig::Kind::temperature : rig::Kind::light;
    const rig::QuantityText read = rig::parse_quantity(value, kind, rig::example_of(kind));
    if (!read.problem.empty())
        throw InputError(read.problem);
    auto model = std::make_shared<AnalogueModel>(
        thermistor ? DividerModel{10'000}.model(beta_ohms(10'180, 3926), 10)
                   : DividerModel{10'000, false}.model(photoresistor_ohms(9'100, 10, 0.72), 10));
    model->noise = 1.1;
    // The same value always makes the same noise.
    auto noise = std::make_shared<Noise>(1000 + static_cast<uint64_t>(std::abs(read.thousandths)));
    auto time = std::make_shared<double>(0);
    Script out;
    out.names = {thermistor ? "probe (code)" : "light (code)"};
    out.next = [=, level = read.thousandths / 1000.0](Script::Line& line) {
        line.milliseconds = *time;
        *time += every;
        line.values = {std::to_string(model->at(level, *noise).bits())};
        return true;
    };
    return out;
}

StandIn::StandIn(std::string link) : link_(std::move(link)) {
    master_ = posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC | O_NONBLOCK);
    if (master_ < 0 || grantpt(master_) != 0 || unlockpt(master_) != 0)
        throw InputError(fmt::format("no pseudo-terminal could be made: {}", std::strerror(errno)));
    terminal_ = ptsname(master_);
    termios settings{};
    if (tcgetattr(master_, &settings) == 0) {
        cfmakeraw(&settings);
        tcsetattr(master_, TCSANOW, &settings);
    }
    // A reader who leaves while the next one comes must not be missed, so that each is asked for.
    watch_ = inotify_init1(IN_NONBLOCK | IN_CLOEXEC);
    if (watch_ < 0 || inotify_add_watch(watch_, terminal_.c_str(), IN_OPEN) < 0) {
        const int error = errno;
        close(master_);
        throw InputError(fmt::format("{}: cannot be watched: {}", terminal_, std::strerror(error)));
    }
    if (link_.empty())
        return;
    struct stat about {};
    if (lstat(link_.c_str(), &about) == 0 && S_ISLNK(about.st_mode))
        unlink(link_.c_str());
    if (symlink(terminal_.c_str(), link_.c_str()) != 0) {
        const int error = errno;
        close(watch_);
        close(master_);
        throw InputError(fmt::format("{}: cannot be made: {}", link_, std::strerror(error)));
    }
}

StandIn::~StandIn() {
    // Another stand-in may have taken the name over.
    std::error_code ignored;
    if (!link_.empty() && std::filesystem::read_symlink(link_, ignored) == terminal_)
        unlink(link_.c_str());
    close(watch_);
    close(master_);
}

bool StandIn::is_read() {
    // Events that are alike may come as one, so they do not tell how many are still there. Who has
    // hung up is asked for first: who comes after that is in the events.
    pollfd line{master_, 0, 0};
    const bool hung_up = poll(&line, 1, 0) > 0 && (line.revents & POLLHUP) != 0;
    alignas(inotify_event) char events[4096];
    ssize_t got = 0;
    while ((got = ::read(watch_, events, sizeof events)) > 0)
        for (ssize_t at = 0; at < got;) {
            const auto* event = reinterpret_cast<const inotify_event*>(events + at);
            turns_ += (event->mask & IN_OPEN) != 0 ? 1 : 0;
            at += static_cast<ssize_t>(sizeof(inotify_event) + event->len);
        }
    // Before anybody has come, nobody has hung up either.
    return turns_ > 0 && !hung_up;
}

std::string StandIn::take() {
    char bytes[4096];
    const ssize_t got = ::read(master_, bytes, sizeof bytes);
    return got > 0 ? std::string(bytes, static_cast<size_t>(got)) : std::string();
}

bool StandIn::write_all(const std::string& text, const std::function<bool()>& stop) {
    size_t done = 0;
    while (done < text.size()) {
        if (stop() || !is_read() || turns_ != turn_)
            return false;
        const ssize_t written = ::write(master_, text.data() + done, text.size() - done);
        if (written > 0) {
            done += static_cast<size_t>(written);
        } else if (errno == EAGAIN || errno == EINTR) {
            pollfd poller{master_, POLLOUT, 0};
            poll(&poller, 1, 50);
        } else {
            return false;
        }
    }
    return true;
}

uint64_t StandIn::print(Script script, PrintedForm form, double pace, bool with_time,
                        const std::function<bool()>& stop) {
    using Clock = std::chrono::steady_clock;
    turn_ = turns_;
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
    std::string text;
    if (form == PrintedForm::table) {
        text = with_time ? "time (ms)" : "";
        for (const std::string& name : script.names)
            text += (text.empty() ? "" : ",") + name;
        text += "\r\n";
    }
    const auto bare = [](const std::string& name) {
        return std::string(parse_column_name(name).name);
    };
    const auto begin = Clock::now();
    double first = std::nan("");
    uint64_t lines = 0;
    Script::Line line;
    while (script.next(line)) {
        if (std::isnan(first))
            first = line.milliseconds;
        const double since = line.milliseconds - first;
        if (pace > 0) {
            const auto due = begin + std::chrono::duration_cast<Clock::duration>(
                                         std::chrono::duration<double, std::milli>(since / pace));
            // What is due at once goes out at once.
            if (due > Clock::now() + std::chrono::microseconds(500)) {
                if (!write_all(text, stop))
                    return lines;
                text.clear();
                while (due > Clock::now() && !stop() && is_read() && turns_ == turn_)
                    std::this_thread::sleep_for(std::min<Clock::duration>(
                        due - Clock::now(), std::chrono::milliseconds(20)));
            }
        }
        if (with_time)
            text += form == PrintedForm::pairs ? fmt::format("time={:.0f} ", since)
                                               : fmt::format("{:.0f},", since);
        for (size_t i = 0; i < line.values.size(); ++i)
            text += form == PrintedForm::pairs
                        ? fmt::format("{}{}={}", i == 0 ? "" : " ", bare(script.names[i]),
                                      line.values[i])
                        : fmt::format("{}{}", i == 0 ? "" : ",", line.values[i]);
        text += "\r\n";
        ++lines;
        if (text.size() > 1024) {
            if (!write_all(text, stop))
                return lines;
            text.clear();
        }
    }
    write_all(text, stop);
    return lines;
}

} // namespace zorilla::bench
