// SPDX-License-Identifier: MIT
#include "bench/world/yield.hpp"

#include "bench/world/workers.hpp"
#include "rig/decide/part.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/sense/part.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::Node;

namespace {

/// What data sheets and shops usually promise of a number, where the world says nothing.
struct Usual {
    const char* key;
    double share;
};
constexpr Usual usual[] = {
    {"pull_up", 0.01}, {"pull_down", 0.01}, {"load", 0.01},      {"nominal", 0.03},
    {"beta", 0.01},    {"resistance", 0.3}, {"gamma", 0.1},      {"zero", 0.2},
    {"slope", 0.01},   {"at_zero", 0.01},   {"reference", 0.01}, {"per_lux", 0.3},
};
/// By how much such a sensor is off as a whole, in its unit. A thermistor by a table or
/// coefficients has no number that could stray: 3 % of its resistance are some 0.7 K.
double usual_offset(const rig::Sense& sense, bool has_numbers) {
    return sense.word == "humidity_frame" || sense.word == "ranger" ? 3
           : sense.word == "thermistor" && !has_numbers             ? 0.7
                                                                    : 0;
}
/// What a sensor that was measured point by point strays as a whole, as a share.
double usual_gain(const rig::Sense& sense) { return sense.word == "value_table" ? 0.03 : 0; }

const Node* number_of(const rig::Rig& rig, const std::string& sensor, const std::string& key) {
    const Node* node = rig.written.get("sense");
    node = node == nullptr ? nullptr : node->get(sensor);
    node = node == nullptr ? nullptr : node->get(key);
    return node != nullptr && (node->measure() || node->is_number()) ? node : nullptr;
}

/// How much a number of a device strays, as a share of its tolerance.
double drawn(uint64_t seed, size_t device, size_t stray) {
    return 2 * even_chance(seed, 0x7061727473 + stray, static_cast<int64_t>(device)) - 1;
}

/// The parts of one device.
struct Parts {
    std::optional<rig::RigFile> made_of; ///< where a number of a part strays
    std::vector<double> offsets, gains;
    bool are_possible() const { return !made_of || made_of->mistakes.empty(); }
    /// The rig whose forward models its sensors have; where there can be no such, the exact ones.
    const rig::Rig& rig(const rig::Rig& exact) const {
        return made_of && are_possible() ? made_of->rig : exact;
    }
};
/// \param exact  the number that does not stray; SIZE_MAX: all do; SIZE_MAX - 1: none does
Parts parts_of(const rig::Rig& rig, const std::vector<Stray>& strays, uint64_t seed, size_t device,
               size_t exact) {
    Parts out;
    out.offsets.resize(rig.senses.size());
    out.gains.resize(rig.senses.size(), 1.0);
    // Of the sensors alone: what the rig decides does not stray, and is no reason to refuse a part.
    Node written = Node::table();
    for (const char* group : {"board", "sense"})
        if (const Node* tables = rig.written.get(group))
            written.add({group, {}}, *tables);
    bool strays_at_all = false;
    for (size_t i = 0; i < strays.size(); ++i) {
        const Stray& stray = strays[i];
        if (i == exact || exact == SIZE_MAX - 1)
            continue;
        const double by = stray.tolerance * drawn(seed, device, i);
        if (stray.offset)
            out.offsets[stray.sense] = by;
        else if (stray.gain)
            out.gains[stray.sense] = 1 + by;
        else {
            strays_at_all = true;
            Node* node = written.get("sense")->get(stray.sensor)->get(stray.key);
            if (node->is_number()) {
                *node = Node::number(*node->as_number() * (1 + by), node->place());
            } else {
                const rig::Measure is = *node->measure();
                const auto value = static_cast<int32_t>(std::lround(is.thousandths * (1 + by)));
                *node = Node::text(rig::exact_text(value, is.kind), node->place());
            }
        }
    }
    if (strays_at_all)
        out.made_of = rig::make_rig(std::move(written));
    return out;
}

AroundPlan around_of(const YieldPlan& plan, size_t device, const rig::Rig& rig,
                     const Parts& parts) {
    AroundPlan out = plan.around;
    out.seed = mixed(plan.around.seed, device);
    out.made_of = &parts.rig(rig);
    out.offsets = parts.offsets;
    out.gains = parts.gains;
    return out;
}

class Calibration {
  public:
    /// \param points  1 or 2
    Calibration(const WorldWiring& wiring, size_t points) : wiring_(wiring), points_(points) {
        for (size_t i = 0; i < wiring.rig().senses.size(); ++i)
            if (can_be(i))
                sensors_.push_back(i);
    }
    const std::vector<size_t>& sensors() const { return sensors_; }

    /// The rig that a device gets once each sensor has been shown what is true, and each was told.
    rig::RigFile of(const Parts& parts) const {
        rig::RigFile best = rig::make_rig(wiring_.rig().written);
        for (const size_t sense : sensors_) {
            Node written = best.rig.written;
            calibrate(written, sense, parts);
            // A trim that the tool would refuse is not made.
            if (rig::RigFile file = rig::make_rig(std::move(written)); file.mistakes.empty())
                best = std::move(file);
        }
        return best;
    }

  private:
    bool can_be(size_t index) const {
        const rig::Sense& sense = wiring_.rig().senses[index];
        const rig::SenseKind* kind = rig::sense_kind(sense.word);
        const rig::Source& source = wiring_.rig().sources[sense.source];
        if (sense.sources != 1 || source.kind == rig::Kind::truth || !wiring_.seen()[index].looks ||
            wiring_.rig().written.get("sense")->get(sense.name)->get("trim") != nullptr)
            return false;
        return std::any_of(kind->keys.begin(), kind->keys.end(), [](const rig::PartKey& key) {
            return std::string_view(key.name) == "trim";
        });
    }

    /// Where it is shown the truth: in the middle of what the decisions about it turn at, or ten
    /// degrees (or a fifth of its range) below and above.
    std::vector<double> truths(size_t index) const {
        const rig::Rig& rig = wiring_.rig();
        const rig::Source& source = rig.sources[rig.senses[index].source];
        double middle = (source.lowest + source.highest) / 2e3;
        for (const rig::Decide& decide : rig.decides)
            if (decide.judges && decide.of == rig.senses[index].source) {
                const auto points = rig::points_of(decide);
                if (!points.empty()) {
                    middle = points.front().at.thousandths() / 1e3;
                    break;
                }
            }
        const double reach =
            source.kind == rig::Kind::temperature ? 10 : (source.highest - source.lowest) / 5e3;
        if (points_ == 1)
            return {middle};
        return {std::max(middle - reach, source.lowest / 1e3),
                std::min(middle + reach, source.highest / 1e3)};
    }

    void calibrate(Node& written, size_t index, const Parts& parts) const {
        const rig::Rig& rig = wiring_.rig();
        const rig::Sense& sense = rig.senses[index];
        const rig::Rig& made_of = parts.rig(rig);
        const rig::Kind kind = rig.sources[sense.source].kind;
        Node trims = Node::list();
        for (const double truth : truths(index)) {
            // What it reads there, without noise, once it has settled.
            rig::Noise none(1);
            rig::Surroundings around;
            around.value = truth * parts.gains[index] + parts.offsets[index];
            around.celsius = 20;
            const rig::Raw raw =
                made_of.senses[index].part->forward(around, none, rig::Fault::none, {});
            rig::RunningRig running(rig);
            std::vector<rig::Raw> raws(rig.senses.size());
            raws[index] = raw;
            for (uint32_t second = 0; second < 4000; second += 100)
                running.pass(Instant(second * 1000), raws.data());
            const rig::AnyReading read = running.readings()[sense.source];
            if (!read.ok())
                return;
            Node pair = Node::list();
            pair.add(Node::text(rig::exact_text(read.value_or({}).thousandths(), kind)));
            pair.add(
                Node::text(rig::exact_text(static_cast<int32_t>(std::lround(truth * 1000)), kind)));
            trims.add(std::move(pair));
        }
        written.get("sense")->get(sense.name)->add({"trim", {}}, std::move(trims));
    }

    const WorldWiring& wiring_;
    size_t points_;
    std::vector<size_t> sensors_;
};

} // namespace

double Share::lowest() const {
    if (all == 0)
        return 0;
    constexpr double z = 1.959964;
    const auto n = static_cast<double>(all);
    const double p = value(), middle = p + z * z / (2 * n);
    const double reach = z * std::sqrt(p * (1 - p) / n + z * z / (4 * n * n));
    return std::max(0.0, (middle - reach) / (1 + z * z / n));
}
double Share::highest() const {
    const Share other{all - of, all};
    return all == 0 ? 1 : 1 - other.lowest();
}

std::vector<Stray> strays_of(const rig::Rig& rig, const World& world) {
    std::vector<Stray> out;
    for (const World::Parts& parts : world.parts) {
        const auto is = std::find_if(rig.senses.begin(), rig.senses.end(),
                                     [&](const auto& sense) { return sense.name == parts.sensor; });
        if (is == rig.senses.end())
            throw rig::InputError(fmt::format("the world, line {}: the rig has no [sense.{}]",
                                              parts.place.line, parts.sensor));
        for (const auto& [key, tolerance] : parts.tolerances)
            if (key != "offset" && key != "gain" && number_of(rig, parts.sensor, key) == nullptr)
                throw rig::InputError(fmt::format(
                    "the world, line {}: [sense.{}] has no number \"{}\" that could stray",
                    parts.place.line, parts.sensor, key));
    }
    for (size_t i = 0; i < rig.senses.size(); ++i) {
        const rig::Sense& sense = rig.senses[i];
        const World::Parts* said = nullptr;
        for (const World::Parts& parts : world.parts)
            if (parts.sensor == sense.name)
                said = &parts;
        const auto tolerance = [&](const std::string& key) -> std::optional<double> {
            if (said != nullptr)
                for (const auto& [name, value] : said->tolerances)
                    if (name == key)
                        return value;
            return std::nullopt;
        };
        const auto add = [&](const std::string& key, double without, bool offset, bool gain) {
            const auto known = tolerance(key);
            if (known.value_or(without) > 0)
                out.push_back({sense.name, key, i, known.value_or(without), offset, gain, !known});
        };
        if (sense.pin.empty())
            continue;
        std::vector<std::string> done;
        for (const Usual& one : usual)
            if (number_of(rig, sense.name, one.key) != nullptr) {
                // A chip's own reference is good for a tenth (data sheets, "internal reference").
                const bool is_own =
                    std::string_view(one.key) == "reference" && rig.chip_facts() != nullptr &&
                    rig.chip_facts()->reference_of(sense.reference) == Reference::internal;
                add(one.key, is_own ? 0.1 : one.share, false, false);
                done.emplace_back(one.key);
            }
        if (said != nullptr)
            for (const auto& [key, value] : said->tolerances)
                if (key != "offset" && key != "gain" &&
                    std::find(done.begin(), done.end(), key) == done.end())
                    add(key, value, false, false);
        add("offset", usual_offset(sense, number_of(rig, sense.name, "nominal") != nullptr), true,
            false);
        add("gain", usual_gain(sense), false, true);
    }
    return out;
}

Yielded yield_of(const WorldWiring& wiring, const std::vector<Stray>& strays,
                 const YieldPlan& plan) {
    const rig::Rig& rig = wiring.rig();
    const auto live = [&](size_t device, size_t exact) {
        const Parts parts = parts_of(rig, strays, plan.around.seed, device, exact);
        return live_in_world(wiring, around_of(plan, device, rig, parts), plan.length);
    };
    struct Result {
        std::vector<char> broken;
        uint64_t times = 0;
        bool kept = false, impossible = false;
    };
    std::vector<Result> results(plan.devices);
    std::vector<std::string> says;
    for (const Verdict& verdict : Judge(rig).verdicts())
        says.push_back(verdict.says);
    all_at_once(plan.devices, plan.threads, [&](size_t i) {
        const Parts parts = parts_of(rig, strays, plan.around.seed, i, SIZE_MAX);
        results[i].impossible = !parts.are_possible();
        const Lived lived = live_in_world(wiring, around_of(plan, i, rig, parts), plan.length);
        results[i].kept = lived.kept;
        for (const Verdict& verdict : lived.verdicts) {
            results[i].broken.push_back(verdict.broken ? 1 : 0);
            results[i].times += verdict.times;
        }
    });
    Yielded out;
    out.says = says;
    out.each.resize(says.size());
    std::vector<size_t> failing;
    for (size_t i = 0; i < plan.devices; ++i) {
        const Result& result = results[i];
        out.impossible += result.impossible ? 1U : 0U;
        out.kept.of += result.kept ? 1 : 0;
        ++out.kept.all;
        for (size_t p = 0; p < says.size(); ++p) {
            out.each[p].of += result.broken[p] == 0 ? 1 : 0;
            ++out.each[p].all;
        }
        if (result.kept)
            continue;
        failing.push_back(i);
        if (!out.worst || result.times > results[*out.worst].times)
            out.worst = i;
    }
    if (out.worst)
        for (size_t p = 0; p < says.size(); ++p)
            if (results[*out.worst].broken[p] != 0)
                out.worst_says += (out.worst_says.empty() ? "" : "; ") + says[p];

    // Who is to blame: with that one number exact, and all else as it was, it would keep all.
    failing.resize(std::min(failing.size(), plan.looked_at));
    out.looked_at = failing.size();
    std::vector<char> mended(failing.size() * (strays.size() + 1));
    const auto mend = [&](size_t i) {
        const size_t device = failing[i / (strays.size() + 1)], stray = i % (strays.size() + 1);
        mended[i] = live(device, stray == strays.size() ? SIZE_MAX - 1 : stray).kept ? 1 : 0;
    };
    // What becomes of devices that are calibrated, at one point and at two.
    const Calibration at_points[] = {{wiring, 1}, {wiring, 2}};
    const std::vector<size_t>& sensors = at_points[0].sensors();
    const size_t calibrated =
        failing.empty() || sensors.empty() ? 0 : std::min(plan.calibrated, plan.devices);
    std::vector<char> kept(2 * calibrated);
    const auto calibrate = [&](size_t i) {
        const size_t device = i % calibrated;
        const Parts parts = parts_of(rig, strays, plan.around.seed, device, SIZE_MAX);
        const rig::RigFile of = at_points[i / calibrated].of(parts);
        const WorldWiring own(wiring.world(), of.rig);
        kept[i] =
            live_in_world(own, around_of(plan, device, of.rig, parts), plan.length).kept ? 1 : 0;
    };
    // All of it at once, so that no core waits for the last of each.
    all_at_once(mended.size() + kept.size(), plan.threads,
                [&](size_t i) { i < mended.size() ? mend(i) : calibrate(i - mended.size()); });
    for (size_t s = 0; s < strays.size(); ++s) {
        Yielded::Blame blame{strays[s]};
        for (size_t i = 0; i < failing.size(); ++i)
            blame.mended += mended[i * (strays.size() + 1) + s] != 0 ? 1U : 0U;
        out.blames.push_back(std::move(blame));
    }
    std::stable_sort(out.blames.begin(), out.blames.end(),
                     [](const auto& a, const auto& b) { return a.mended > b.mended; });
    for (size_t i = 0; i < failing.size(); ++i)
        out.weather += mended[i * (strays.size() + 1) + strays.size()] == 0 ? 1U : 0U;

    if (calibrated == 0)
        return out;
    for (const size_t sense : sensors)
        out.calibrated_sensors.push_back(rig.senses[sense].name);
    const auto count = [&](const char* how, const auto& is_kept) {
        Share share{0, calibrated};
        for (size_t i = 0; i < calibrated; ++i)
            share.of += is_kept(i) ? 1U : 0U;
        out.calibrated.push_back({how, share});
    };
    count("none", [&](size_t i) { return results[i].kept; });
    count("at one point", [&](size_t i) { return kept[i] != 0; });
    count("at two points", [&](size_t i) { return kept[calibrated + i] != 0; });
    return out;
}

Tried trace_of_device(const WorldWiring& wiring, const std::vector<Stray>& strays,
                      const YieldPlan& plan, size_t device, const std::string& path) {
    const Parts parts = parts_of(wiring.rig(), strays, plan.around.seed, device, SIZE_MAX);
    TryPlan trial;
    static_cast<AroundPlan&>(trial) = around_of(plan, device, wiring.rig(), parts);
    trial.length = plan.length;
    trial.save = path;
    return try_in_world(wiring, trial, [](const Event&) {}, {});
}

} // namespace zorilla::bench
