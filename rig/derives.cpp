// SPDX-License-Identifier: MIT
// The derived quantities of a rig file: for each kind what it is made of.
#include "rig/table_reader.hpp"

#include <zorilla/derive/derive.hpp>

namespace zorilla::rig {

namespace {

/// What 32 bits can hold, as the core's own arithmetic does.
int32_t saturated(int64_t thousandths) {
    return static_cast<int32_t>(std::clamp<int64_t>(thousandths, INT32_MIN, INT32_MAX));
}

constexpr Kind temperature = Kind::temperature, humidity = Kind::humidity;

template <class Pass> class Derived : public Block {
  public:
    explicit Derived(Pass pass) : pass_(std::move(pass)) {}
    void pass(Instant now, Raw, const AnyReading* sources, AnyReading* out) override {
        *out = pass_(now, sources);
    }

  private:
    Pass pass_;
};
template <class Pass> StartBlock derives(Pass pass) {
    return [pass] { return std::make_unique<Derived<Pass>>(pass); };
}

/// A quantity of the air's temperature and humidity.
template <class Of> ReadPart read_of_air(PartReader& in, Derive& out, Source source, Of of_air) {
    const auto t = in.keys.source("temperature", in.rig, &temperature, "the air's");
    const auto h = in.keys.source("humidity", in.rig, &humidity, "the air's");
    if (!t || !h)
        return {};
    out.of = {*t, *h};
    out.start = derives([t = *t, h = *h, of_air](Instant, const AnyReading* sources) {
        return any(of_air(as<Temperature>(sources[t]), as<RelativeHumidity>(sources[h])));
    });
    return {true, {std::move(source)}};
}

/// A list of sources that all have the same kind.
std::vector<size_t> read_of(PartReader& in, size_t least, size_t most, Kind& kind) {
    std::vector<size_t> out;
    const std::string_view example = "[\"roost\", \"yard\"]";
    in.keys.require("of", "the names of what it is made of", example);
    const auto* list = in.keys.list("of", least, most, example);
    if (list == nullptr)
        return out;
    for (const toml::node& node : *list) {
        const auto source = in.keys.source_of(node, "of", in.rig, out.empty() ? nullptr : &kind);
        if (!source)
            return {};
        kind = in.rig.sources[*source].kind;
        out.push_back(*source);
        if (kind == Kind::truth) {
            in.keys.findings().add(node, fmt::format("{} is yes or no; this needs a quantity",
                                                     in.rig.sources[*source].name));
            return {};
        }
    }
    return out;
}

ReadPart read_difference(PartReader& in, Derive& out) {
    Kind kind{};
    out.of = read_of(in, 2, 2, kind);
    if (out.of.empty())
        return {};
    const Source &a = in.rig.sources[out.of[0]], &b = in.rig.sources[out.of[1]];
    out.about = fmt::format("{} less {}", a.name, b.name);
    out.start = derives([a = out.of[0], b = out.of[1]](Instant, const AnyReading* sources) {
        return difference(sources[a], sources[b]);
    });
    return {true,
            {{out.name, difference_of(kind), saturated(int64_t{a.lowest} - b.highest),
              saturated(int64_t{a.highest} - b.lowest)}}};
}

ReadPart read_rate(PartReader& in, Derive& out) {
    const auto of = in.keys.source("of", in.rig, nullptr, "the quantity whose change is wanted");
    const auto window = in.keys.required_quantity("window", Kind::duration, "5 min",
                                                  "the time over which the change is taken");
    if (!of || !window)
        return {};
    const Source& source = in.rig.sources[*of];
    if (!in.keys.expect(*window >= 8, "window", "at 8 ms or more") ||
        !in.keys.expect(source.kind != Kind::truth && source.kind < Kind::per_minute, "of",
                        "with a quantity, not with yes or no, nor with a rate"))
        return {};
    out.of = {*of};
    out.about = fmt::format("change of {} over {}", source.name, span_to_text(*window));
    out.start =
        derives([of = *of, state = RateOfChange<AnyQuantity>(Duration::from_thousandths(*window))](
                    Instant now, const AnyReading* sources) mutable {
            return any(state.pass(now, sources[of]));
        });
    const int32_t most = detail::largest_int32;
    return {true, {{out.name, per_minute_of(difference_of(source.kind)), -most, most}}};
}

enum class Joining { mean, least, most };

ReadPart read_several(PartReader& in, Derive& out, Joining joining) {
    Kind kind{};
    out.of = read_of(in, 2, 16, kind);
    const auto needed = in.keys.whole("needed", 1, 16);
    if (out.of.empty())
        return {};
    const auto count = static_cast<uint8_t>(out.of.size());
    if (!in.keys.expect(!needed || *needed <= count, "needed", "at most at the number of \"of\""))
        return {};
    const auto least_healthy = static_cast<uint8_t>(needed.value_or(count));
    Source source{out.name, kind, detail::largest_int32, detail::smallest_int32};
    std::string names;
    for (const size_t i : out.of) {
        source.lowest = std::min(source.lowest, in.rig.sources[i].lowest);
        source.highest = std::max(source.highest, in.rig.sources[i].highest);
        names += fmt::format("{}{}", names.empty() ? "" : ", ", in.rig.sources[i].name);
    }
    out.about = fmt::format("{} of {}, at least {} healthy",
                            joining == Joining::mean    ? "mean"
                            : joining == Joining::least ? "least"
                                                        : "most",
                            names, least_healthy);
    out.start =
        derives([of = out.of, count, least_healthy, joining](Instant, const AnyReading* sources) {
            AnyReading list[16];
            for (size_t i = 0; i < of.size(); ++i)
                list[i] = sources[of[i]];
            return joining == Joining::mean    ? mean(list, count, least_healthy)
                   : joining == Joining::least ? least(list, count, least_healthy)
                                               : most(list, count, least_healthy);
        });
    return {true, {std::move(source)}};
}

ReadPart read_air_heat(PartReader& in, Derive& out) {
    // A flow that is known, or one that is measured.
    const toml::node* node = in.keys.find("flow");
    Kind written{};
    const bool named = node != nullptr && node->is_string() &&
                       !kind_of(node->as_string()->get(), written) &&
                       node->as_string()->get().find_first_of("0123456789") != 0;
    std::optional<size_t> measured;
    std::optional<int32_t> flow;
    constexpr Kind streams = Kind::air_flow;
    if (named)
        measured = in.keys.source("flow", in.rig, &streams, "how much air streams");
    else
        flow = in.keys.required_quantity("flow", Kind::air_flow, "80 m3/h",
                                         "how much air streams, or what measures it");
    constexpr Kind wanted = Kind::temperature_difference;
    const auto warmer = in.keys.source("warmer", in.rig, &wanted,
                                       "how much warmer the air leaves than it came: a derived "
                                       "difference");
    if ((!flow && !measured) || !warmer ||
        (flow && !in.keys.expect(*flow > 0 && *flow <= 100'000'000, "flow",
                                 "above 0 and up to 100,000 m3/h")))
        return {};
    out.of = {*warmer};
    if (measured)
        out.of.push_back(*measured);
    out.about = fmt::format("heat that {} of air carry", measured ? in.rig.sources[*measured].name
                                                                  : to_text(*flow, Kind::air_flow));
    out.start = derives([warmer = *warmer, measured, flow](Instant, const AnyReading* sources) {
        return any(air_heat(measured ? as<AirFlow>(sources[*measured])
                                     : Reading<AirFlow>::of(AirFlow::from_thousandths(*flow)),
                            as<TemperatureDifference>(sources[warmer])));
    });
    const int32_t most = detail::largest_int32;
    return {true, {{out.name, Kind::power, -most, most}}};
}

} // namespace

ReadPart read_derive(PartReader& in, Derive& out) {
    static const Names parts = {"dew_point",  "heat_index", "absolute_humidity",
                                "difference", "rate",       "mean",
                                "least",      "most",       "air_heat"};
    const auto part = in.keys.choice("part", parts);
    if (!part) {
        if (in.keys.find("part") == nullptr)
            in.keys.complain(fmt::format("{} needs \"part\", what is to be made; possible are {}",
                                         in.keys.label(), TableReader::listed(parts)));
        in.keys.ignore_the_rest();
        return {};
    }
    if (part == "dew_point") {
        out.about = "dew point";
        return read_of_air(in, out, {out.name, temperature, -80'000, 60'000}, dew_point<>);
    }
    if (part == "heat_index") {
        out.about = "heat index";
        return read_of_air(in, out, {out.name, temperature, -5'000, 200'000}, heat_index<>);
    }
    if (part == "absolute_humidity") {
        out.about = "absolute humidity";
        return read_of_air(in, out, {out.name, Kind::absolute_humidity, 0, 131'000},
                           absolute_humidity<>);
    }
    if (part == "difference")
        return read_difference(in, out);
    if (part == "rate")
        return read_rate(in, out);
    if (part == "air_heat")
        return read_air_heat(in, out);
    return read_several(in, out,
                        part == "mean"    ? Joining::mean
                        : part == "least" ? Joining::least
                                          : Joining::most);
}

} // namespace zorilla::rig
