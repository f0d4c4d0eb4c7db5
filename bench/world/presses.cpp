// SPDX-License-Identifier: MIT
#include "bench/world/presses.hpp"

#include "rig/sense/truths.hpp"

#include <cmath>

namespace zorilla::bench {

namespace {

/// Whether a press shows in a pass, if it begins just after one and the contact was at rest before.
bool is_seen(const rig::Sense& sense, int64_t lasts, int64_t every) {
    const auto block = sense.part->start();
    rig::ForwardModel forward = sense.part->forward;
    rig::Noise noise(1);
    std::vector<rig::AnyReading> readings(sense.source + sense.sources);
    rig::Raw raw;
    rig::Surroundings around;
    int64_t now = 0;
    const auto pass = [&](bool pressed) {
        around.value = pressed ? 1 : 0;
        raw = forward(around, noise, rig::Fault::none, raw);
        block->pass(Instant(static_cast<uint32_t>(now)), raw, readings.data(),
                    &readings[sense.source]);
        now += every;
        return readings[sense.source] == rig::reading_of(Truth::yes);
    };
    // No contact bounces for longer than ten seconds.
    for (int64_t rest = 0; rest <= 10'000 + every; rest += every)
        pass(false);
    for (int64_t since = every; since <= lasts; since += every)
        if (pass(true))
            return true;
    return pass(false);
}

} // namespace

std::vector<ShortPress> short_presses(const WorldWiring& wiring, int64_t every) {
    std::vector<ShortPress> out;
    for (size_t i = 0; i < wiring.seen().size(); ++i) {
        const rig::Sense& sense = wiring.rig().senses[i];
        const WorldWiring::Seen& seen = wiring.seen()[i];
        if (!seen.looks || seen.fixed || sense.raw != rig::RawKind::level)
            continue;
        double lasts = 0;
        for (const auto& element : wiring.world().elements)
            if (element->value == seen.of)
                lasts = element->lasts();
        ShortPress press{sense.name, std::llround(lasts * 1000), 0};
        if (lasts == 0 || is_seen(sense, press.lasts, every))
            continue;
        for (int64_t tens = 1; tens <= 1000 && tens < every; tens *= 10)
            for (const int64_t pass : {tens, 2 * tens, 5 * tens})
                if (pass < every && is_seen(sense, press.lasts, pass))
                    press.seen_with = pass;
        out.push_back(press);
    }
    return out;
}

} // namespace zorilla::bench
