// SPDX-License-Identifier: MIT
/// \file
/// What the readers of sensors on the converter share.
#pragma once

#include "rig/sense/common.hpp"

namespace zorilla::rig {

/// What every sensor of one quantity on the converter may have.
std::vector<PartKey> with_analogue_keys(std::vector<PartKey> own);
/// The same for one in a divider.
std::vector<PartKey> with_divider_keys(std::vector<PartKey> own);

/// A table of the core, built on the desk.
template <class Curve> class DeskTable {
  public:
    DeskTable(const Curve& curve, const TablePlan& plan) : plan_(plan), entries_(plan.entries) {
        fill_table(curve, plan, entries_.data());
    }
    auto entry() const {
        return [at = entries_.data()](uint16_t i) { return at[i]; };
    }
    const TablePlan& plan() const { return plan_; }

  private:
    TablePlan plan_;
    std::vector<int16_t> entries_;
};

/// The codes of an analogue sensor.
template <class Spec> CodeScale scale_of(const Spec& spec) {
    using Q = typename Spec::Value;
    CodeScale out;
    out.of = [spec](int32_t value) { return spec.code_at(Q::from_thousandths(value)); };
    out.inside = [spec](int32_t value) { return spec.counts_inside(Q::from_thousandths(value)); };
    out.first = spec.first_code();
    out.last = spec.last_code();
    out.rising = spec.rising();
    return out;
}

/// What every analogue sensor of one quantity has.
class AnalogueReader {
  public:
    AnalogueReader(PartReader& in, Kind kind, Sense& out) : keys_(in.keys), kind_(kind), out_(out) {
        read_oversampling(keys_, filters_);
        bits_ = static_cast<uint8_t>(in.converter_bits + filters_.extra_bits);
        out.largest_raw = (int64_t{1} << in.converter_bits) - 1;
        if (bits_ > 16)
            keys_.complain(too_many_bits(keys_.label(), bits_));
    }
    uint8_t bits() const { return bits_; }

    /// Range, accuracy, wire check and filters. False if they cannot be understood.
    template <class Spec> bool read_common(Spec& spec, bool has_range = true) {
        using Q = typename Spec::Value;
        bool complete = bits_ <= 16;
        has_range_ = has_range;
        const std::string_view low = kind_ == Kind::temperature ? "-30 degC" : example_of(kind_);
        if (has_range && keys_.find("range") != nullptr) {
            const auto* ends = keys_.list(
                "range", 2, 2,
                fmt::format("[\"{}\", \"{}\"], the lowest and the highest "
                            "value",
                            low, kind_ == Kind::temperature ? "60 degC" : example_of(kind_)));
            if (ends == nullptr)
                return false;
            const auto lowest = keys_.quantity_of((*ends)[0], "range", kind_, low);
            const auto highest = keys_.quantity_of((*ends)[1], "range", kind_, example_of(kind_));
            complete = complete && lowest && highest;
            spec = spec.range(of<Q>(lowest), of<Q>(highest));
        }
        const Kind gap = difference_of(kind_);
        if constexpr (Spec::has_accuracy)
            if (const auto within = keys_.quantity("accuracy", gap, example_of(gap)))
                spec = spec.accuracy(of<typename Spec::Gap>(within));
        if (keys_.on_off("wire_check") == off)
            spec = spec.without_wire_check();
        read_filters(keys_, kind_, filters_);
        return complete;
    }

    /// Checks the numbers, and wires the sensor. \param what  the kind of part, for a person
    /// \param make_converter  makes a reading of a sample; empty if it cannot
    template <class Spec, class MakeConverter>
    ReadPart finish(const Spec& spec, std::string what, ForwardModel forward,
                    MakeConverter make_converter) {
        ReadPart part = finish_with(
            spec, std::move(what), std::move(forward), make_converter, [](auto converter) {
                return starts([converter](Instant, Raw raw, const AnyReading*, AnyReading* to) {
                    *to = any(converter(raw.sample()));
                });
            });
        if (part.sound && !filters_.any())
            by_code();
        return part;
    }

    /// The same for a sensor that looks at more than its sample.
    /// \param start  makes a block of the converter
    template <class Spec, class MakeConverter, class Start>
    ReadPart finish_with(const Spec& spec, std::string what, ForwardModel forward,
                         MakeConverter make_converter, Start start) {
        if (!numbers_are_possible(spec))
            return {};
        auto converter = make_converter(what);
        if (!converter)
            return {};
        out_.about = std::move(what);
        const bool direct = filters_.extra_bits == 0 && !filters_.trim.is_set();
        out_.part =
            std::make_shared<SensePart>(with_filters(filters_, start(converter)),
                                        std::move(forward), direct ? scale_of(spec) : CodeScale());
        int32_t lowest = spec.lowest().thousandths(), highest = spec.highest().thousandths();
        if (kind_ == Kind::percentage || kind_ == Kind::humidity) {
            lowest = std::max(lowest, 0);
            highest = std::min(highest, 100'000);
        }
        return {true, {{out_.name, kind_, lowest, highest}}};
    }

    /// A converter by a table of the core, or by a line where its curve is one; for `finish`.
    template <class Spec> auto by_table(const Spec& spec) {
        using Q = typename Spec::Value;
        using Converter = std::function<Reading<Q>(Sample)>;
        if constexpr (detail::is_line<std::decay_t<decltype(spec.curve())>>)
            return [spec](std::string& about) -> Converter {
                about += "; straight, exact to a thousandth";
                const CodeRange range = spec.code_range();
                return [range, line = spec.curve().line(range.first)](Sample sample) {
                    return read_by_line<Q>(range, line, sample);
                };
            };
        else
            return [this, spec](std::string& about) -> Converter {
                const auto table = table_of(spec, about);
                if (!table)
                    return {};
                return [table, ends = spec.wire_ends()](Sample sample) {
                    return read_by_table<Q>(ends, table->plan(), table->entry(), sample);
                };
            };
    }
    /// Likewise, cut to 0 and 100 %.
    template <class Spec> auto by_share(const Spec& spec) {
        return [this, spec](std::string& about) {
            auto whole = by_table(spec)(about);
            if (whole)
                whole = [whole](Sample sample) {
                    return within(whole(sample), 0_percent, 100_percent);
                };
            return whole;
        };
    }

    /// A sensor's table, if it can be close enough; says in `about` how large and how close it is.
    template <class Spec> auto table_of(const Spec& spec, std::string& about) {
        using Curve = std::decay_t<decltype(spec.curve())>;
        const TablePlan plan = spec.plan();
        const Kind gap = difference_of(kind_);
        if (!plan.close_enough) {
            keys_.complain(fmt::format(
                "{}: no table of {} entries is within {} of the exact curve (the best has {}); ask "
                "for less \"accuracy\" or a smaller \"range\"",
                keys_.label(), most_table_entries, to_text(spec.accuracy().thousandths(), gap),
                to_text(plan.largest_error, gap)));
            return std::shared_ptr<DeskTable<Curve>>();
        }
        const auto table = std::make_shared<DeskTable<Curve>>(spec.curve(), plan);
        // What is promised here is true of every code, not of those that a compiler has patience
        // for.
        int32_t worst = 0;
        for (int32_t code = plan.first_code; code <= plan.last_code; ++code) {
            const auto c = static_cast<uint16_t>(code);
            worst = std::max(worst,
                             std::abs(look_up(plan, table->entry(), c) - spec.curve().value_at(c)));
        }
        about += fmt::format("; table of {} bytes, at most {} off its exact curve",
                             2 * plan.entries, to_text(worst, gap));
        return table;
    }

    /// The reading of every code, for a block that looks at nothing else.
    void by_code() {
        const std::unique_ptr<Block> block = out_.part->start();
        for (int64_t code = 0; code <= out_.largest_raw; ++code) {
            AnyReading reading;
            block->pass({}, Raw(code), nullptr, &reading);
            out_.by_code.push_back(reading);
        }
    }

    /// Complains about what cannot be right in range, accuracy, and the converter's codes.
    template <class Spec> bool numbers_are_possible(const Spec& spec) {
        const auto shown = [](int32_t thousandths, Kind kind) {
            return to_text(thousandths, kind);
        };
        const Kind gap = difference_of(kind_);
        keys_.expect(spec.range_is_possible(), "range",
                     fmt::format("between {} and {}, the lower end first, and span at least {}",
                                 shown(Spec::smallest.thousandths(), kind_),
                                 shown(Spec::largest.thousandths(), kind_),
                                 shown(Spec::least_span.thousandths(), gap)));
        if constexpr (Spec::has_accuracy)
            keys_.expect(spec.accuracy_is_possible(), "accuracy",
                         fmt::format("at {} or more, and be less than the range", shown(1, gap)));
        if (!spec.is_possible())
            return false;
        const std::string range =
            fmt::format("from {} to {}", shown(spec.lowest().thousandths(), kind_),
                        shown(spec.highest().thousandths(), kind_));
        if (!spec.codes_can_be_told()) {
            keys_.complain(fmt::format("{}: {} there are fewer than {} codes of the converter. "
                                       "Widen \"range\", or choose a "
                                       "part, a resistor or a reference that uses more of it",
                                       keys_.label(), range, spec.least_codes));
            return false;
        }
        if (!spec.wires_can_be_told()) {
            const WireEnds ends = spec.wire_ends();
            if (!has_range_)
                keys_.complain(fmt::format(
                    "{}: its codes, and a tenth of the way beyond each, run from {} to {}; those "
                    "below "
                    "{} or above {} cannot be told from a broken or shorted wire. Choose parts "
                    "that "
                    "bring both codes nearer to the middle of the converter; or write wire_check = "
                    "\"off\", and a broken wire reads as a value",
                    keys_.label(), spec.first_code(), spec.last_code(), ends.low, ends.high));
            else
                keys_.complain(fmt::format(
                    "{}: {} the codes run from {} to {}; those below {} or above {} cannot be told "
                    "from a "
                    "broken or shorted wire. Narrow \"range\", or choose parts that bring it "
                    "nearer to "
                    "the middle of the converter; or write wire_check = \"off\", and a broken wire "
                    "reads "
                    "as a value",
                    keys_.label(), range, spec.first_code(), spec.last_code(), ends.low,
                    ends.high));
            return false;
        }
        return true;
    }

  private:
    TableReader& keys_;
    Kind kind_;
    Sense& out_;
    FilterSpec filters_;
    uint8_t bits_ = 10;
    bool has_range_ = true;
};

/// Supply and reference of a divider, where they are not the same; for the forward model in volts.
template <class Spec> void read_voltages(TableReader& keys, Spec& spec, DividerModel& model) {
    const auto supply = keys.quantity("supply", Kind::voltage, "5 V");
    const auto reference = keys.quantity("reference", Kind::voltage, "3.3 V");
    if (!supply && !reference)
        return;
    if (!supply || !reference)
        return keys.complain(
            fmt::format("{} needs both \"supply\" and \"reference\", or neither where "
                        "the converter measures against the divider's supply",
                        keys.label()));
    spec = spec.supplied(of<Voltage>(supply), of<Voltage>(reference));
    const bool fine = spec.voltages_are_possible();
    keys.expect(fine, "supply", "between 1 and 24 V, and \"reference\" between 0.5 and 10 V");
    model.supply = volts(supply);
    model.reference = volts(reference);
}

/// The divider's resistor, on the side that the keys say. None if it is not clear.
template <class Spec> std::optional<DividerModel> read_divider(TableReader& keys, Spec& spec) {
    const auto up = keys.quantity("pull_up", Kind::resistance, "10 kohm");
    const auto down = keys.quantity("pull_down", Kind::resistance, "10 kohm");
    DividerModel model{static_cast<double>(up.value_or(down.value_or(0))), up.has_value()};
    read_voltages(keys, spec, model);
    const bool has_up = keys.find("pull_up") != nullptr;
    const bool has_down = keys.find("pull_down") != nullptr;
    if (has_up == has_down) {
        keys.complain(fmt::format("{} needs either \"pull_up\" (resistor to the supply) or "
                                  "\"pull_down\" (resistor to ground), {}; for example pull_up = "
                                  "\"10 kohm\"",
                                  keys.label(), has_up ? "not both" : "to form the divider"));
        return std::nullopt;
    }
    if (up)
        spec = spec.pull_up(of<Resistance>(up));
    if (down)
        spec = spec.pull_down(of<Resistance>(down));
    if (up || down)
        keys.expect(spec.divider_is_possible(), has_up ? "pull_up" : "pull_down",
                    "between 1 ohm and 10 Mohm");
    return up || down ? std::optional(model) : std::nullopt;
}

template <class Spec> void read_wire_off(TableReader& keys, Spec& spec) {
    if (const auto level = keys.choice("wire_off_reads", {"high", "low"}))
        spec = spec.wire_off_reads(*level == "low" ? Level::low : Level::high);
}

} // namespace zorilla::rig
