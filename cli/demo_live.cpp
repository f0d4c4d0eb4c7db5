// SPDX-License-Identifier: MIT
#include "cli/demo_live.hpp"

#include "bench/live/sending.hpp"
#include "bench/world/place.hpp"
#include "cli/command.hpp"
#include "cli/signals.hpp"
#include "cli/watching.hpp"
#include "demo_rig.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <atomic>
#include <chrono>
#include <filesystem>
#include <thread>

namespace zorilla::cli {

namespace {

constexpr bench::Utc a_day = 86'400'000;
constexpr double pace = 10;

/// A week of the house up to now, as if somebody had watched it; nothing if it is ended before.
void make_week(const std::string& path, const rig::Rig& rig, const std::string& text,
               bench::Surroundings& house, bench::Utc began) {
    const std::string beside = path + ".new";
    for (const char* ending : {"", "-wal", "-shm"})
        std::filesystem::remove(beside + ending);
    {
        bench::Recorder recorder(std::make_shared<bench::HistoryFile>(beside, 30 * a_day), rig,
                                 text, began, [](const std::string& what) { message(what); });
        bench::Watched* self = nullptr;
        bench::Watched watched(rig, {[&](const bench::Event& event) { recorder.event(event, 0); },
                                     [](const std::string&) {}, [&] { recorder.row(*self, 0); }});
        self = &watched;
        bench::SendingDevice device(rig);
        watched.take(device.header());
        const int64_t end = utc_now() - began;
        for (int64_t now = 0; house.next(now) && now < end && !asked_to_end();) {
            watched.take(device.pass(Instant(static_cast<uint32_t>(now)),
                                     {house.raws(), house.raws() + rig.senses.size()}));
            house.passed(device.running());
        }
        recorder.finish();
    }
    if (!asked_to_end())
        std::filesystem::rename(beside, path);
    for (const char* ending : {"", "-wal", "-shm"})
        std::filesystem::remove(beside + ending);
}

} // namespace

Status demo_live(const std::string& directory, const std::string& where, Page& page) {
    end_on_signals();
    std::error_code failed;
    std::filesystem::create_directories(directory, failed);
    if (failed)
        throw rig::InputError(fmt::format("{}: cannot be made: {}", directory, failed.message()));
    const std::string rig_path = directory + "/watched_hen_house.toml";
    const std::string history = directory + "/history.db";
    if (!std::filesystem::exists(rig_path))
        write_file(rig_path, demo_live_rig);
    const rig::Rig rig = usable_rig(rig_path);
    const bench::Utc began = (utc_now() / a_day - 7) * a_day;
    const bool has_week = std::filesystem::exists(history);
    // Its days begin at midnight of UTC.
    bench::AroundPlan plan;
    plan.every = 5000;
    plan.seed = 2024;
    plan.begins = has_week ? static_cast<double>(utc_now() - began) / 1000.0 : 0.0;
    const auto house =
        std::make_unique<bench::WorldPlace>(rig, bench::parse_world(demo_live_world), plan);
    if (!has_week) {
        message("Making a week of history first ...");
        make_week(history, rig, rig::read_file(rig_path), *house, began);
        if (asked_to_end())
            return done;
    }
    bench::StandIn stand_in(directory + "/device");
    page.line("A hen house that is not there, ten times as fast as life. Take its lamp or its "
              "ventilator over, and see why.");
    page.line(fmt::format("  rig      {}", rig_path));
    page.line(fmt::format("  history  {}", history));
    page.line("Ctrl-C, or q, ends it.");
    page.finish();
    std::atomic<bool> over = false;
    const auto stop = [&over] { return over || asked_to_end(); };
    std::thread device([&] {
        while (!stop())
            if (stand_in.is_read_by_another())
                bench::serve(rig, stand_in, *house, pace, stop);
            else
                std::this_thread::sleep_for(std::chrono::milliseconds(10));
    });
    WatchPlan watched;
    watched.devices = {{rig_path, directory + "/device"}};
    watched.history = history;
    watched.page = where;
    const auto join = [&] {
        over = true;
        device.join();
    };
    try {
        const Status status = watch(watched, page);
        join();
        page.line();
        page.line("What it has left to look at:");
        page.line(fmt::format("  zorilla history {} --last week --figure week.png", history));
        page.finish();
        return status;
    } catch (...) {
        join();
        throw;
    }
}

} // namespace zorilla::cli
