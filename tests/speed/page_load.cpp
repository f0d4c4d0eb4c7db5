// SPDX-License-Identifier: MIT
// What zorilla live takes to watch many devices with history, broker and page, and how long a row
// is on its way to a browser. Ends with 1 if a bound is not kept.
#include "bench/live/sending.hpp"
#include "rig/text/files.hpp"
#include "tests/live/browser.hpp"
#include "tests/winter.hpp"

#include <algorithm>
#include <atomic>
#include <mutex>
#include <thread>

namespace {

using namespace zorilla;
using Clock = std::chrono::steady_clock;

constexpr int devices = 20, browsers = 5;
constexpr double pace = 50; ///< of passes that are five seconds apart: ten a second
constexpr int64_t row_every = 100;

/// When the newest value of the counting device was sent.
struct Sent {
    std::mutex guard;
    std::vector<Clock::time_point> at = std::vector<Clock::time_point>(1024);
};

/// A device that counts its rows, so that each can be found again.
class Counting : public bench::Surroundings {
  public:
    explicit Counting(Sent& sent) : sent_(sent) {}
    bool next(int64_t& milliseconds) override {
        milliseconds = passes_ * row_every;
        raw_ = rig::Raw(++passes_ % 1000);
        return true;
    }
    void passed(const rig::RunningRig&) override {
        const std::lock_guard<std::mutex> lock(sent_.guard);
        sent_.at[static_cast<size_t>(passes_ % 1000)] = Clock::now();
    }
    const rig::Raw* raws() const override { return &raw_; }

  private:
    Sent& sent_;
    int64_t passes_ = 0;
    rig::Raw raw_;
};

/// What a process has used of a core so far, in seconds, and of memory at most, in MB.
double core_seconds(pid_t process) {
    const std::string stat = desk::read_all(fmt::format("/proc/{}/stat", process));
    std::istringstream in(stat.substr(stat.rfind(')') + 2));
    std::string word;
    double out = 0;
    for (int i = 3; in >> word && i <= 15; ++i)
        if (i >= 14)
            out += std::stod(word);
    return out / static_cast<double>(sysconf(_SC_CLK_TCK));
}
double peak_megabytes(pid_t process) {
    const std::string status = desk::read_all(fmt::format("/proc/{}/status", process));
    return std::stod(status.substr(status.find("VmHWM:") + 6)) / 1024;
}

} // namespace

int main() {
    const desk::Folder folder;
    std::atomic<bool> stop = false;
    const auto stops = [&stop] { return stop.load(); };
    Sent sent;
    std::vector<rig::Rig> rigs(devices);
    std::vector<std::thread> threads;
    std::string places;
    std::string hens = rig::read_file(ZORILLA_SOURCE "/data/live/hen_house.toml");
    for (size_t i = 0; i < devices; ++i) {
        std::string text = hens;
        text.replace(text.find("Hen house"), 9, fmt::format("House {}", i));
        if (i == 0)
            text = "[rig]\nname = \"Counter\"\n[sense.n]\npart = \"raw\"\npin = \"ADC0\"\n";
        const std::string path = folder.write(fmt::format("{}.toml", i), text);
        rig::RigFile file = rig::load_rig(path);
        if (!file.mistakes.empty()) {
            fmt::print("{}: {}\n", path, file.mistakes.front().text);
            return 2;
        }
        rigs[i] = std::move(file.rig);
        const std::string port = folder / fmt::format("port{}", i);
        places += fmt::format(" {} {}", path, port);
        threads.emplace_back([&, i, port] {
            bench::StandIn stand_in(port);
            std::unique_ptr<bench::Surroundings> around;
            if (i == 0)
                around = std::make_unique<Counting>(sent);
            else
                around = tests::winter(rigs[i], 6.0 + static_cast<double>(i));
            while (!stop)
                if (stand_in.is_read_by_another())
                    bench::serve(rigs[i], stand_in, *around, i == 0 ? 1 : pace, stops);
                else
                    std::this_thread::sleep_for(std::chrono::milliseconds(5));
        });
        desk::is_there(port);
    }
    const int broker_port = desk::free_port(), page = desk::free_port();
    const std::string settings = folder.write(
        "broker.conf",
        fmt::format("listener {} 127.0.0.1\nallow_anonymous true\nlog_dest none\n", broker_port));
    pid_t broker = 0;
    const char* const argv[] = {"mosquitto", "-c", settings.c_str(), nullptr};
    posix_spawnp(&broker, "mosquitto", nullptr, nullptr, const_cast<char* const*>(argv), environ);
    int status = 0;
    {
        desk::Background watch(folder,
                               fmt::format("live{} --page {} --history {} --broker 127.0.0.1:{}",
                                           places, page, folder / "all.db", broker_port),
                               "log");
        desk::wait_for([&] { return desk::has(watch.log(), "The page: "); });
        std::mutex guard;
        std::vector<double> delays;
        std::vector<std::thread> readers;
        std::atomic<bool> counts = false;
        for (int i = 0; i < browsers; ++i)
            readers.emplace_back([&] {
                httplib::Client client("127.0.0.1", page);
                std::string rest;
                client.Get("/api/changes", [&](const char* data, size_t size) {
                    const auto now = Clock::now();
                    rest.append(data, size);
                    for (size_t end = rest.find("\n\n"); end != std::string::npos;
                         end = rest.find("\n\n")) {
                        const size_t value =
                            rest.find("\"source.n\":{\"health\":\"ok\",\"value\":");
                        if (counts && value < end) {
                            const auto n = static_cast<size_t>(std::stod(rest.substr(value + 34)));
                            std::lock_guard<std::mutex> sent_lock(sent.guard);
                            const std::lock_guard<std::mutex> lock(guard);
                            delays.push_back(
                                std::chrono::duration<double, std::milli>(now - sent.at[n % 1000])
                                    .count());
                        }
                        rest.erase(0, end + 2);
                    }
                    return !stop;
                });
            });
        std::this_thread::sleep_for(std::chrono::seconds(5));
        counts = true;
        const double used_before = core_seconds(watch.process());
        const auto begin = Clock::now();
        std::this_thread::sleep_for(std::chrono::seconds(20));
        const double seconds = std::chrono::duration<double>(Clock::now() - begin).count();
        const double share = (core_seconds(watch.process()) - used_before) / seconds;
        const double memory = peak_megabytes(watch.process());
        counts = false;
        httplib::Client client("127.0.0.1", page);
        const std::string metrics = client.Get("/metrics")->body;
        uint64_t rows = 0, lost = 0;
        for (size_t i = 0; i < devices; ++i) {
            const live::json device = live::json::parse(
                client.Get("/api/devices/" + (i == 0 ? "counter" : fmt::format("house_{}", i)))
                    ->body)["parts"]["device"];
            lost += device["missed"].get<uint64_t>() + device["damaged"].get<uint64_t>();
        }
        for (size_t at = metrics.find("zorilla_rows_total{"); at != std::string::npos;
             at = metrics.find("zorilla_rows_total{", at + 1))
            rows += std::stoull(metrics.substr(metrics.find("} ", at) + 2));
        stop = true;
        for (std::thread& reader : readers)
            reader.join();
        std::sort(delays.begin(), delays.end());
        const double median = delays[delays.size() / 2], most = delays[delays.size() * 99 / 100];
        fmt::print("Watching {} devices of ten rows a second, page open {} times, history and "
                   "broker on, for {:.0f} s:\n"
                   "  {:.1f} % of a core (at most 50), {:.0f} MB at most (at most 100), {} rows "
                   "came, {} were lost (none)\n"
                   "  from the line to the browser: {:.1f} ms (median, at most 50), {:.1f} ms (99 "
                   "%, at most 200), of {}\n",
                   devices, browsers, seconds, 100 * share, memory, rows, lost, median, most,
                   delays.size());
        if (share > 0.5 || memory > 100 || lost > 0 || median > 50 || most > 200 ||
            delays.size() < 500)
            status = 1;
        watch.end(SIGINT);
    }
    stop = true;
    for (std::thread& thread : threads)
        thread.join();
    kill(broker, SIGTERM);
    waitpid(broker, nullptr, 0);
    return status;
}
