// SPDX-License-Identifier: MIT
#include "bench/live/serving.hpp"

#include "bench/live/sending.hpp"
#include "bench/replay.hpp"

#include <chrono>
#include <optional>
#include <thread>

namespace zorilla::bench {

namespace {

class TraceAround : public Surroundings {
  public:
    TraceAround(const rig::Rig& rig, const std::string& trace) : rig_(rig), name_(trace) {
        begin();
    }
    void begin() override {
        trace_.emplace(name_, columns_of(rig_), [](uint64_t, const std::string&) {});
        first_.reset();
    }
    bool next(int64_t& milliseconds) override {
        if (!trace_->next())
            return false;
        milliseconds = trace_->milliseconds() - *(first_ = first_.value_or(trace_->milliseconds()));
        return true;
    }
    const rig::Raw* raws() const override { return trace_->raws(); }

  private:
    const rig::Rig& rig_;
    const std::string name_;
    std::optional<TraceReader> trace_;
    std::optional<int64_t> first_;
};

} // namespace

std::unique_ptr<Surroundings> trace_around(const rig::Rig& rig, const std::string& trace) {
    return std::make_unique<TraceAround>(rig, trace);
}

void serve(const rig::Rig& rig, StandIn& stand_in, Surroundings& around, double pace,
           const std::function<bool()>& stop) {
    using Clock = std::chrono::steady_clock;
    const auto rest = [](Clock::duration time) { std::this_thread::sleep_for(time); };
    constexpr auto moment = std::chrono::milliseconds(10);
    stand_in.turn_to_reader();
    rest(moment);
    SendingDevice device(rig);
    around.begin();
    const auto begin = Clock::now();
    std::string text = device.header();
    const auto here = [&] {
        return !stop() && stand_in.is_read() && !stand_in.is_read_by_another();
    };
    for (int64_t now = 0; here() && around.next(now);) {
        const std::chrono::duration<double, std::milli> since(
            pace > 0 ? static_cast<double>(now) / pace : 0);
        const auto due = begin + std::chrono::duration_cast<Clock::duration>(since);
        while (here() && Clock::now() < due)
            rest(std::min<Clock::duration>(due - Clock::now(), 2 * moment));
        device.hear(stand_in.take());
        text += device.pass(Instant(static_cast<uint32_t>(now)),
                            {around.raws(), around.raws() + rig.senses.size()});
        around.passed(device.running());
        if (!stand_in.put(text, stop))
            return;
        text.clear();
    }
    while (here())
        rest(moment);
}

} // namespace zorilla::bench
