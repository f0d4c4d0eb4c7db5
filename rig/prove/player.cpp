// SPDX-License-Identifier: MIT
// Finding raw inputs: a sensor is tried with some, and what lies between them is searched.
#include "rig/prove/replay.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::rig::prove {

namespace {

/// The times of passes while a sensor settles: close together first.
int64_t next_time(int64_t time) {
    return time + (time < 1000 ? 10 : time < 60'000 ? 100 : time < 600'000 ? 1000 : 10'000);
}
constexpr int64_t longest_settling = 3'600'000;

Raw fed(const Raw& raw, double edges_per_second, int64_t time) {
    return edges_per_second < 0
               ? raw
               : Raw(static_cast<int64_t>(edges_per_second * static_cast<double>(time) / 1000));
}

} // namespace

int Player::reading_number(size_t source, AnyReading reading) const {
    if (!reading.ok())
        return -1;
    const Saying& saying = model_.sayings[source];
    const int32_t value = reading.value_or({}).thousandths();
    for (size_t i = 0; i < saying.readings.size(); ++i)
        if (value >= saying.lowest[i] && value <= saying.highest[i])
            return static_cast<int>(i);
    return -1;
}

Player::Look Player::look_of(const Sense& sense, const AnyReading* readings) const {
    Look out;
    for (size_t i = 0; i < sense.sources; ++i)
        out.push_back(reading_number(sense.source + i, readings[i]));
    return out;
}

Player::Look Player::wanted(const Sequence& sequence, size_t pass, size_t index) const {
    const Sense& sense = rig_.senses[index];
    Look out;
    for (size_t i = 0; i < sense.sources; ++i) {
        const Saying& saying = model_.sayings[sense.source + i];
        int is = sequence.knows(saying.lost) && sequence.holds(pass, saying.lost) ? -1 : 0;
        for (size_t r = 0; is >= 0 && r < saying.says.size(); ++r)
            if (sequence.knows(saying.says[r]) && sequence.holds(pass, saying.says[r]))
                is = static_cast<int>(r);
        out.push_back(is);
    }
    return out;
}

std::vector<AnyReading> Player::calm_sources() const {
    std::vector<AnyReading> out;
    for (const Saying& saying : model_.sayings)
        out.push_back(AnyReading::of_bounded(AnyQuantity::from_thousandths(saying.readings[0])));
    return out;
}

Player::Look Player::settled_look(size_t index, const Input& input) {
    const Sense& sense = rig_.senses[index];
    std::vector<AnyReading> sources = calm_sources();
    for (size_t i = 0; i < sense.sources; ++i)
        sources[sense.source + i] = AnyReading();
    const auto block = sense.part->start();
    for (int64_t time = 0; time <= longest_settling; time = next_time(time)) {
        block->pass(Instant(static_cast<uint32_t>(time)),
                    fed(input.raw, input.edges_per_second, time), sources.data(),
                    &sources[sense.source]);
        bool all = true;
        for (size_t i = 0; i < sense.sources; ++i)
            all = all && sources[sense.source + i].ok();
        if (all)
            break;
    }
    return look_of(sense, &sources[sense.source]);
}

std::optional<int64_t> Player::settles(size_t index, const Input* before, const Input& now,
                                       const Look& look) {
    const Sense& sense = rig_.senses[index];
    if (!sense.by_code.empty())
        return 0;
    const auto key =
        std::pair(index, std::pair(before == nullptr ? Input{Raw(-9), 0} : *before, now));
    if (const auto known = settled_.find(key); known != settled_.end())
        return known->second;
    std::vector<AnyReading> sources = calm_sources();
    for (size_t i = 0; i < sense.sources; ++i)
        sources[sense.source + i] = AnyReading();
    const auto block = sense.part->start();
    const auto pass = [&](const Input& input, int64_t time) {
        block->pass(Instant(static_cast<uint32_t>(time)),
                    fed(input.raw, input.edges_per_second, time), sources.data(),
                    &sources[sense.source]);
    };
    int64_t begin = 0;
    if (before != nullptr) {
        for (int64_t time = 0; time <= 600'000; time = next_time(time)) {
            pass(*before, time);
            begin = time + 1;
        }
    }
    std::optional<int64_t>& out = settled_[key];
    for (int64_t time = 0; time <= longest_settling; time = next_time(time)) {
        pass(now, begin + time);
        if (look_of(sense, &sources[sense.source]) == look)
            return out = time;
    }
    return out;
}

std::vector<Player::Input> Player::frames(const Sense& sense) const {
    std::vector<Input> out;
    const Saying& humidity = model_.sayings[sense.source];
    const Saying& temperature = model_.sayings[sense.source + 1];
    for (const int32_t percent : humidity.readings)
        for (const int32_t celsius : temperature.readings)
            for (const bool whole : {false, true}) {
                // Tenths of both, as 16 bits each or as two bytes each, with the sign bit.
                const auto h = static_cast<int64_t>(std::lround(percent / 100.0));
                const auto t = static_cast<int64_t>(std::lround(std::abs(celsius) / 100.0));
                const int64_t sign = celsius < 0 ? 0x80 : 0;
                const int64_t bytes[4] = {whole ? h / 10 : h >> 8 & 0xff, whole ? h % 10 : h & 0xff,
                                          whole ? t / 10 : (t >> 8 & 0x7f) | sign,
                                          whole ? t % 10 | sign : t & 0xff};
                int64_t bits = 0, sum = 0;
                for (const int64_t byte : bytes) {
                    bits = bits << 8 | (byte & 0xff);
                    sum += byte;
                }
                out.push_back({Raw(bits << 8 | (sum & 0xff)), -1});
            }
    return out;
}

std::vector<Player::Input> Player::candidates(const Sense& sense) const {
    std::vector<Input> out = {{Raw(), -1}};
    if (sense.raw == RawKind::frame || sense.raw == RawKind::microseconds)
        out.push_back({Raw::silent(), -1});
    switch (sense.raw) {
    case RawKind::level:
        out.push_back({Raw(0), -1});
        out.push_back({Raw(1), -1});
        break;
    case RawKind::frame:
        for (const Input& frame : frames(sense))
            out.push_back(frame);
        break;
    case RawKind::edges:
        for (const double rate : {0.0, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0,
                                  1000.0, 2000.0, 5000.0})
            out.push_back({Raw(), rate});
        break;
    case RawKind::microseconds:
        for (double width = 1; width <= static_cast<double>(sense.largest_raw); width *= 1.3)
            out.push_back({Raw(static_cast<int64_t>(width)), -1});
        break;
    case RawKind::code:
        for (int64_t i = 0; i <= 64; ++i)
            out.push_back({Raw(sense.largest_raw * i / 64), -1});
        break;
    }
    return out;
}

void Player::find_inputs(size_t index, std::map<Look, Input>& out) {
    const Sense& sense = rig_.senses[index];
    if (!sense.by_code.empty()) {
        // Of the codes that look alike, the one nearest to the reading that stands for them.
        std::map<Look, int64_t> distances;
        for (int64_t code = 0; code <= sense.largest_raw; ++code) {
            const AnyReading reading = sense.by_code[static_cast<size_t>(code)];
            const Look look = look_of(sense, &reading);
            const int64_t distance =
                look[0] < 0
                    ? -code
                    : std::abs(int64_t{reading.value_or({}).thousandths()} -
                               model_.sayings[sense.source].readings[static_cast<size_t>(look[0])]);
            const auto [known, fresh] = distances.emplace(look, distance);
            if (!fresh && distance >= known->second)
                continue;
            known->second = distance;
            out[look] = {Raw(code), -1};
        }
        out.emplace(Look{-1}, Input{Raw(), -1});
        return;
    }
    std::vector<std::pair<Input, Look>> tried;
    for (const Input& input : candidates(sense)) {
        tried.emplace_back(input, settled_look(index, input));
        out.emplace(tried.back().second, input);
    }
    if (sense.raw != RawKind::code && sense.raw != RawKind::microseconds)
        return;
    // Readings that none of these has made lie between two that made others.
    for (size_t i = 1; i < tried.size(); ++i) {
        int64_t low = tried[i - 1].first.raw.bits(), high = tried[i].first.raw.bits();
        if (low < 0 || tried[i - 1].second == tried[i].second)
            continue;
        for (int steps = 0; steps < 12 && high - low > 1; ++steps) {
            const Input middle{Raw(low + (high - low) / 2), -1};
            const Look look = settled_look(index, middle);
            out.emplace(look, middle);
            (look == tried[i - 1].second ? low : high) = middle.raw.bits();
        }
    }
}

const std::map<Player::Look, Player::Input>& Player::inputs_of(size_t sense) {
    if (!inputs_[sense]) {
        inputs_[sense].emplace();
        find_inputs(sense, *inputs_[sense]);
    }
    return *inputs_[sense];
}

Player::Input Player::input_for(const Sequence& sequence, size_t pass, size_t sense) {
    const Look look = wanted(sequence, pass, sense);
    const auto& inputs = inputs_of(sense);
    if (const auto found = inputs.find(look); found != inputs.end())
        return found->second;
    // The closest: one that agrees in most of its sources.
    const auto likeness = [&look](const Look& other) {
        size_t out = 0;
        for (size_t i = 0; i < look.size(); ++i)
            out += look[i] == other[i] ? 2 : (look[i] < 0) == (other[i] < 0) ? 1 : 0;
        return out;
    };
    return std::max_element(
               inputs.begin(), inputs.end(),
               [&](const auto& a, const auto& b) { return likeness(a.first) < likeness(b.first); })
        ->second;
}

int64_t Player::lead(const Sequence& sequence, size_t pass) {
    int64_t longest = 0;
    for (size_t i = 0; i < rig_.senses.size(); ++i) {
        const Look look = wanted(sequence, pass, i);
        if (pass > 0 && wanted(sequence, pass - 1, i) == look)
            continue;
        const Input now = input_for(sequence, pass, i);
        if (pass == 0 && rig_.senses[i].raw != RawKind::level) {
            const bool rests = std::all_of(look.begin(), look.end(), [](int v) { return v == 0; });
            if (rig_.senses[i].by_code.empty() && !rests)
                longest = std::max(longest, settles(i, nullptr, now, look).value_or(0));
            continue;
        }
        std::optional<Input> before;
        if (pass > 0)
            before = input_for(sequence, pass - 1, i);
        longest = std::max(longest, settles(i, before ? &*before : nullptr, now, look).value_or(0));
    }
    return longest == 0 ? 0 : longest + (pass == 0 ? 0 : 1);
}

std::vector<Row> Player::rows(const Sequence& sequence) {
    std::vector<Row> out;
    std::vector<Input> now(rig_.senses.size());
    std::vector<double> edges(rig_.senses.size());
    int64_t last = 0;
    const auto add = [&](int64_t time) {
        Row row{time, {}};
        for (size_t i = 0; i < now.size(); ++i) {
            edges[i] +=
                std::max(now[i].edges_per_second, 0.0) * static_cast<double>(time - last) / 1000;
            row.raws.push_back(now[i].edges_per_second < 0 ? now[i].raw
                                                           : Raw(static_cast<int64_t>(edges[i])));
        }
        last = time;
        out.push_back(std::move(row));
    };
    for (size_t pass = 0; pass < sequence.size(); ++pass) {
        // Each sensor changes as early as it has to, so that all of them say it in this pass.
        std::map<int64_t, std::vector<size_t>> changes;
        std::vector<Input> next(now.size());
        for (size_t i = 0; i < now.size(); ++i) {
            const Look look = wanted(sequence, pass, i);
            next[i] = input_for(sequence, pass, i);
            const bool same = pass > 0 && wanted(sequence, pass - 1, i) == look;
            const auto lead = same        ? std::optional<int64_t>(0)
                              : pass == 0 ? std::optional<int64_t>(sequence.time(0))
                                          : settles(i, &now[i], next[i], look);
            changes[std::max<int64_t>(sequence.time(pass) - lead.value_or(0), 0)].push_back(i);
        }
        for (const auto& [begin, senses] : changes) {
            if (begin == sequence.time(pass))
                break;
            for (const size_t i : senses)
                now[i] = next[i];
            const auto following = changes.upper_bound(begin);
            const int64_t until =
                following == changes.end() ? sequence.time(pass) : following->first;
            for (int64_t time = 0; begin + time < until; time = next_time(time))
                if (out.empty() || begin + time > out.back().time)
                    add(begin + time);
        }
        now = next;
        add(sequence.time(pass));
    }
    return out;
}

} // namespace zorilla::rig::prove
