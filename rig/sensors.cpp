// SPDX-License-Identifier: MIT
// The sensors of a rig file: for each kind its keys, and what its numbers must be like.
#include "rig/filters.hpp"
#include "rig/table_reader.hpp"

#include <zorilla/sense/sense.hpp>

namespace zorilla::rig {

namespace {

template <class Q> Q of(std::optional<int32_t> thousandths) {
    return Q::from_thousandths(thousandths.value_or(0));
}

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

/// A block from a function of the time, the raw input and the readings so far.
template <class Pass> class FunctionBlock : public Block {
  public:
    explicit FunctionBlock(Pass pass) : pass_(std::move(pass)) {}
    void pass(Instant now, Raw raw, const AnyReading* sources, AnyReading* out) override {
        pass_(now, raw, sources, out);
    }

  private:
    Pass pass_;
};
/// Each start gets its own copy of `pass`, and so its own state.
template <class Pass> StartBlock starts(Pass pass) {
    return [pass] { return std::make_unique<FunctionBlock<Pass>>(pass); };
}

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

// What every analogue sensor of one quantity has.
class AnalogueReader {
  public:
    AnalogueReader(PartReader& in, Kind kind, Sense& out) : keys_(in.keys), kind_(kind), out_(out) {
        read_oversampling(keys_, filters_);
        bits_ = static_cast<uint8_t>(in.converter_bits + filters_.extra_bits);
        out.largest_raw = (int64_t{1} << in.converter_bits) - 1;
        if (bits_ > 16)
            keys_.complain(fmt::format("{}: the converter's {} bits and {} \"extra_bits\" are more "
                                       "than 16; ask for fewer",
                                       keys_.label(), in.converter_bits, filters_.extra_bits));
    }
    uint8_t bits() const { return bits_; }

    /// Range, accuracy, wire check and filters. False if they cannot be understood.
    template <class Spec> bool read_common(Spec& spec, bool has_range = true) {
        using Q = typename Spec::Value;
        bool complete = bits_ <= 16;
        const std::string_view low = kind_ == Kind::temperature ? "-30 degC" : example_of(kind_);
        if (has_range && keys_.find("range") != nullptr) {
            const auto* ends = keys_.list(
                "range", 2, 2,
                fmt::format("[\"{}\", \"{}\"], the lowest and the highest "
                            "value",
                            low, kind_ == Kind::temperature ? "60 degC" : example_of(kind_)));
            if (ends == nullptr)
                return false;
            const auto lowest = keys_.quantity_of(*ends->get(0), "range", kind_, low);
            const auto highest =
                keys_.quantity_of(*ends->get(1), "range", kind_, example_of(kind_));
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
    ReadPart finish(const Spec& spec, std::string what, MakeConverter make_converter) {
        ReadPart part = finish_with(spec, std::move(what), make_converter, [](auto converter) {
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
    ReadPart finish_with(const Spec& spec, std::string what, MakeConverter make_converter,
                         Start start) {
        if (!numbers_are_possible(spec))
            return {};
        auto converter = make_converter(what);
        if (!converter)
            return {};
        out_.about = std::move(what);
        if (filters_.extra_bits == 0 && !filters_.trim.is_set())
            out_.scale = scale_of(spec);
        out_.start = with_filters(filters_, start(converter));
        int32_t lowest = spec.lowest().thousandths(), highest = spec.highest().thousandths();
        if (kind_ == Kind::percentage || kind_ == Kind::humidity) {
            lowest = std::max(lowest, 0);
            highest = std::min(highest, 100'000);
        }
        return {true, {{out_.name, kind_, lowest, highest}}};
    }

    /// A converter by a table of the core, for `finish`.
    template <class Spec> auto by_table(const Spec& spec) {
        using Q = typename Spec::Value;
        return [this, spec](std::string& about) {
            std::function<Reading<Q>(Sample)> converter;
            if (const auto table = table_of(spec, about))
                converter = [table, ends = spec.wire_ends()](Sample sample) {
                    return read_by_table<Q>(ends, table->plan(), table->entry(), sample);
                };
            return converter;
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
        about += fmt::format("; table of {} bytes, at most {} off its exact curve",
                             2 * plan.entries, to_text(plan.largest_error, gap));
        return std::make_shared<DeskTable<Curve>>(spec.curve(), plan);
    }

    /// The reading of every code, for a block that looks at nothing else.
    void by_code() {
        const std::unique_ptr<Block> block = out_.start();
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
            keys_.complain(fmt::format(
                "{}: {} the codes run from {} to {}; those below {} or above {} cannot be told "
                "from a "
                "broken or shorted wire. Narrow \"range\", or choose parts that bring it nearer to "
                "the middle of the converter; or write wire_check = \"off\", and a broken wire "
                "reads "
                "as a value",
                keys_.label(), range, spec.first_code(), spec.last_code(), ends.low, ends.high));
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
};

/// Supply and reference of a divider, where they are not the same.
template <class Spec> void read_voltages(TableReader& keys, Spec& spec) {
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
}

/// The divider's resistor, on the side that the keys say. False if it is not clear.
template <class Spec> bool read_divider(TableReader& keys, Spec& spec) {
    const auto up = keys.quantity("pull_up", Kind::resistance, "10 kohm");
    const auto down = keys.quantity("pull_down", Kind::resistance, "10 kohm");
    read_voltages(keys, spec);
    const bool has_up = keys.find("pull_up") != nullptr;
    const bool has_down = keys.find("pull_down") != nullptr;
    if (has_up == has_down) {
        keys.complain(fmt::format("{} needs either \"pull_up\" (resistor to the supply) or "
                                  "\"pull_down\" (resistor to ground), {}; for example pull_up = "
                                  "\"10 kohm\"",
                                  keys.label(), has_up ? "not both" : "to form the divider"));
        return false;
    }
    if (up)
        spec = spec.pull_up(of<Resistance>(up));
    if (down)
        spec = spec.pull_down(of<Resistance>(down));
    if (up || down)
        keys.expect(spec.divider_is_possible(), has_up ? "pull_up" : "pull_down",
                    "between 1 ohm and 10 Mohm");
    return up || down;
}

/// A list of pairs, each of two quantities, or of a number and a quantity.
/// \param take  takes both nodes of a pair; false if they cannot be understood
template <class Take>
bool read_pairs(TableReader& keys, std::string_view key, size_t least, size_t most,
                std::string_view example, Take take) {
    const auto* list = keys.list(key, least, most, example);
    if (list == nullptr)
        return false;
    for (const toml::node& node : *list) {
        const auto* pair = node.as_array();
        if (pair == nullptr || pair->size() != 2) {
            keys.findings().add(node,
                                fmt::format("each of \"{}\" must be a pair; for example {} = {}",
                                            key, key, example));
            return false;
        }
        if (!take(*pair->get(0), *pair->get(1)))
            return false;
    }
    return true;
}

// --- Thermistors

/// For a part of which the rest cannot be looked at: its other keys are not called unknown.
ReadPart unread(TableReader& keys) {
    keys.ignore_the_rest();
    return {};
}

template <class Model>
ReadPart finish_thermistor(AnalogueReader& analogue, PartReader& in, ThermistorSpec<Model> spec,
                           std::string_view what) {
    spec = spec.bits(analogue.bits());
    const bool divided = read_divider(in.keys, spec);
    const bool ranged = analogue.read_common(spec);
    if (!divided || !ranged)
        return {};
    return analogue.finish(spec, std::string(what), analogue.by_table(spec));
}

constexpr uint8_t most_lines = 64;

bool read_lines(TableReader& keys, std::string_view key, size_t least, size_t most,
                ResistanceTableModel<most_lines>& out) {
    out.count = 0;
    const std::string_view example = "[[\"0 degC\", \"32.65 kohm\"], [\"25 degC\", \"10 kohm\"], "
                                     "[\"60 degC\", \"2.488 kohm\"]]";
    return read_pairs(keys, key, least, most, example,
                      [&](const toml::node& a, const toml::node& b) {
                          const auto t = keys.quantity_of(a, key, Kind::temperature, "25 degC");
                          const auto r = keys.quantity_of(b, key, Kind::resistance, "10 kohm");
                          out.lines[out.count++] = {of<Temperature>(t), of<Resistance>(r)};
                          return t && r;
                      });
}

ReadPart read_thermistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::temperature, out);
    const bool by_points = keys.find("points") != nullptr;
    const bool by_table = keys.find("table") != nullptr;
    const bool by_coefficients = keys.find("steinhart_hart") != nullptr;
    const bool by_beta = keys.find("beta") != nullptr || keys.find("nominal") != nullptr;
    if (by_points + by_table + by_coefficients + by_beta > 1) {
        keys.complain(fmt::format("{} is described twice; give either \"nominal\" and \"beta\", or "
                                  "\"points\", or \"steinhart_hart\", or \"table\"",
                                  keys.label()));
        return unread(keys);
    }
    if (by_points) {
        ResistanceTableModel<most_lines> lines;
        if (!read_lines(keys, "points", 3, 3, lines))
            return unread(keys);
        const auto model =
            SteinhartHartModel::through(lines.lines[0], lines.lines[1], lines.lines[2]);
        keys.expect(model.is_possible(), "points",
                    "on a thermistor's curve: three different points from the data sheet, best the "
                    "ends and the middle of the range");
        return model.is_possible() ? finish_thermistor(analogue, in, ThermistorSpec(model),
                                                       "thermistor by three points")
                                   : unread(keys);
    }
    if (by_coefficients) {
        SteinhartHartModel model{0, 0, 0};
        const auto* list =
            keys.list("steinhart_hart", 3, 3, "[1.129148e-3, 2.34125e-4, 8.76741e-8]");
        if (list == nullptr)
            return unread(keys);
        int64_t* const into[] = {&model.a, &model.b, &model.c};
        for (size_t i = 0; i < 3; ++i) {
            const double value = list->get(i)->value<double>().value_or(1.0);
            *into[i] = std::fabs(value) < 0.1 ? std::llround(value * 1e15) : 0;
        }
        keys.expect(
            model.is_possible(), "steinhart_hart",
            "where those of thermistors do, for R in ohm: such as [1.129148e-3, 2.34125e-4, "
            "8.76741e-8]");
        return model.is_possible() ? finish_thermistor(analogue, in, ThermistorSpec(model),
                                                       "thermistor by Steinhart-Hart")
                                   : unread(keys);
    }
    if (by_table) {
        ResistanceTableModel<most_lines> model;
        if (!read_lines(keys, "table", 2, most_lines, model))
            return unread(keys);
        keys.expect(
            model.is_possible(), "table",
            "in order: going up in temperature, and its resistance one way, from 1 ohm to 10 "
            "Mohm");
        return model.is_possible() ? finish_thermistor(analogue, in, ThermistorSpec(model),
                                                       "thermistor by its table")
                                   : unread(keys);
    }
    const auto nominal = keys.required_quantity("nominal", Kind::resistance, "10 kohm",
                                                "its resistance by the data sheet");
    const auto beta = keys.required_quantity("beta", Kind::temperature_difference, "3950 K",
                                             "its Beta by the data sheet");
    BetaModel model{of<Resistance>(nominal), of<TemperatureDifference>(beta)};
    if (const auto at = keys.quantity("nominal_at", Kind::temperature, "25 degC"))
        model.nominal_at = of<Temperature>(at);
    if (nominal)
        keys.expect(model.nominal_is_possible(), "nominal", "between 1 ohm and 10 Mohm");
    keys.expect(model.nominal_at_is_possible(), "nominal_at", "between -50 and 150 degC");
    if (beta)
        keys.expect(model.beta_is_possible(), "beta",
                    "between 500 K and 10,000 K; data sheets mostly say 3,000 to 4,500 K");
    ReadPart part = finish_thermistor(analogue, in, ThermistorSpec(model), "thermistor");
    part.sound = part.sound && nominal && beta;
    return part;
}

ReadPart read_linear_chip(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::temperature, out);
    const auto slope = keys.required_quantity("slope", Kind::voltage_per_kelvin, "10 mV/K",
                                              "how much its voltage rises with each degree");
    const auto at_zero =
        keys.required_quantity("at_zero", Kind::voltage, "500 mV", "its voltage at 0 degC");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    LinearChipSpec spec = linear_chip(of<VoltagePerKelvin>(slope), of<Voltage>(at_zero))
                              .reference(of<Voltage>(reference))
                              .bits(analogue.bits());
    const bool ranged = analogue.read_common(spec);
    if (!slope || !at_zero || !reference || !ranged)
        return {};
    keys.expect(spec.slope_is_possible(), "slope", "between 0.1 and 1,000 mV/K, up or down");
    keys.expect(spec.at_zero_is_possible(), "at_zero", "between -5 and 5 V");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    out.shorted_reads_supply = true;
    return analogue.finish(spec, "linear chip", analogue.by_table(spec));
}

// --- Light

ReadPart read_photoresistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::light, out);
    const auto anchor = keys.required_quantity("resistance", Kind::resistance, "10 kohm",
                                               "its resistance at a known light by the data sheet");
    const auto light = keys.required_quantity("at_light", Kind::light, "10 lx",
                                              "the light that it has this resistance at");
    keys.require("gamma", "how steep its curve is by the data sheet", "0.7");
    const auto gamma = keys.ratio("gamma");
    PhotoresistorSpec spec =
        photoresistor(of<Resistance>(anchor), of<Illuminance>(light), of<Ratio>(gamma))
            .bits(analogue.bits());
    const bool divided = read_divider(keys, spec);
    const bool ranged = analogue.read_common(spec);
    if (!anchor || !light || !gamma || !divided || !ranged)
        return {};
    keys.expect(spec.anchor_is_possible(), "resistance",
                "between 1 ohm and 10 Mohm, and \"at_light\" between 0.1 and 100,000 lx");
    keys.expect(spec.gamma_is_possible(), "gamma",
                "between 0.3 and 1.5; data sheets mostly say 0.6 to 0.9");
    return analogue.finish(spec, "photoresistor by its power law", [&](std::string&) {
        return std::function<Reading<Illuminance>(Sample)>(
            [range = spec.code_range(), law = spec.law()](Sample sample) {
                return read_by_power_law<Illuminance>(range, law, sample);
            });
    });
}

ReadPart read_phototransistor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::light, out);
    const auto sensitivity =
        keys.required_quantity("sensitivity", Kind::current_per_light, "500 nA/lx",
                               "how much current a lux makes by the data sheet");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    PhototransistorSpec spec = phototransistor(of<CurrentPerLux>(sensitivity))
                                   .reference(of<Voltage>(reference))
                                   .bits(analogue.bits());
    const auto ground = keys.quantity("load_to_ground", Kind::resistance, "10 kohm");
    const auto supply = keys.quantity("load_to_supply", Kind::resistance, "10 kohm");
    const bool has_ground = keys.find("load_to_ground") != nullptr;
    if (has_ground == (keys.find("load_to_supply") != nullptr))
        keys.complain(
            fmt::format("{} needs either \"load_to_ground\" or \"load_to_supply\", its load "
                        "resistor{}; for example load_to_ground = \"10 kohm\"",
                        keys.label(), has_ground ? ", not both" : ""));
    if (ground)
        spec = spec.load_to_ground(of<Resistance>(ground));
    else if (supply)
        spec = spec.load_to_supply(of<Resistance>(supply));
    const bool ranged = analogue.read_common(spec);
    if (!sensitivity || !reference || !(ground || supply) || !ranged)
        return {};
    keys.expect(spec.sensitivity_is_possible(), "sensitivity", "between 0.1 and 100,000 nA/lx");
    keys.expect(spec.load_is_possible(), has_ground ? "load_to_ground" : "load_to_supply",
                "between 1 ohm and 10 Mohm");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    return analogue.finish(spec, "phototransistor", [&](std::string&) {
        return std::function<Reading<Illuminance>(Sample)>(
            [range = spec.code_range(), proportion = spec.proportion(), rises = spec.rising(),
             full_scale = spec.full_scale()](Sample sample) {
                return read_phototransistor(range, proportion, rises, full_scale, sample);
            });
    });
}

// --- Between two points

template <class Spec> void read_wire_off(TableReader& keys, Spec& spec) {
    if (const auto level = keys.choice("wire_off_reads", {"high", "low"}))
        spec = spec.wire_off_reads(*level == "low" ? Level::low : Level::high);
}

/// Two codes of the converter. False if one is missing or is no code.
bool read_two_codes(TableReader& keys, std::string_view first, std::string_view second,
                    std::string_view what, int64_t full_scale, uint16_t (&codes)[2]) {
    bool complete = true;
    const std::string_view names[] = {first, second};
    for (size_t i = 0; i < 2; ++i) {
        keys.require(names[i],
                     fmt::format("the code that was read {}", i == 0 ? what
                                                                     : "at the other "
                                                                       "end"),
                     i == 0 ? "620" : "210");
        const auto code = keys.whole(names[i], 0, full_scale);
        complete = complete && code;
        codes[i] = static_cast<uint16_t>(code.value_or(0));
    }
    return complete;
}

ReadPart read_share(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::percentage, out);
    uint16_t codes[2] = {};
    const bool complete = read_two_codes(keys, "code_at_0", "code_at_100", "at 0 %",
                                         (int64_t{1} << analogue.bits()) - 1, codes);
    ShareSpec spec = percent_between(codes[0], codes[1]).bits(analogue.bits());
    read_wire_off(keys, spec);
    const bool common = analogue.read_common(spec, false);
    if (!complete || !common)
        return {};
    keys.expect(spec.points_are_possible(), "code_at_100",
                fmt::format("at least {} codes from \"code_at_0\"", spec.least_codes));
    return analogue.finish(spec, "percent between two codes", analogue.by_share(spec));
}

ReadPart read_moisture_probe(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::percentage, out);
    uint16_t codes[2] = {};
    const bool complete = read_two_codes(keys, "dry", "wet", "in dry material",
                                         (int64_t{1} << analogue.bits()) - 1, codes);
    MoistureSpec spec = moisture_probe(codes[0], codes[1]).bits(analogue.bits());
    if (const auto every = keys.quantity("every", Kind::duration, "10 min"))
        spec = spec.every(of<Duration>(every));
    if (const auto settle = keys.quantity("settle", Kind::duration, "100 ms"))
        spec = spec.settle(of<Duration>(settle));
    read_wire_off(keys, spec);
    const bool common = analogue.read_common(spec, false);
    if (!complete || !common)
        return {};
    keys.expect(spec.points_are_possible(), "wet",
                fmt::format("at least {} codes from \"dry\"", spec.least_codes));
    keys.expect(spec.every() >= 1_s && spec.every() <= 24_h * 24, "every", "between 1 s and 24 d");
    keys.expect(spec.settle() <= 1_min && spec.settle() < spec.every(), "settle",
                "between 0 and 1 min, and below \"every\"");
    return analogue.finish_with(
        spec,
        fmt::format("moisture probe; powered for {} every {}",
                    span_to_text(spec.settle().thousandths()),
                    span_to_text(spec.every().thousandths())),
        analogue.by_share(spec), [spec](auto converter) {
            return starts([spec, converter, state = MoistureState()](
                              Instant now, Raw raw, const AnyReading*, AnyReading* to) mutable {
                *to = any(state.read(spec, now, raw.sample(), converter));
            });
        });
}

// --- Humidity

/// A temperature that corrects a sensor: that of a source, or a fixed one.
struct AirInput {
    std::optional<size_t> source;
    Temperature fixed = 20_degC;
    bool sound = true;
    Reading<Temperature> at(const AnyReading* sources) const {
        return source ? as<Temperature>(sources[*source]) : Reading<Temperature>::of(fixed);
    }
};
AirInput read_air(PartReader& in, std::string_view why, Sense& sense) {
    AirInput out;
    TableReader& keys = in.keys;
    const toml::node* node = keys.find("temperature");
    Kind kind{};
    if (node != nullptr && node->is_string() && kind_of(node->as_string()->get(), kind)) {
        const auto fixed = keys.quantity("temperature", Kind::temperature, "20 degC");
        out.fixed = of<Temperature>(fixed);
        out.sound = fixed.has_value();
        if (fixed)
            out.sound = keys.expect(detail::in_climate(out.fixed), "temperature",
                                    "between -40 and 85 degC");
        return out;
    }
    constexpr Kind wanted = Kind::temperature;
    out.source = keys.source("temperature", in.rig, &wanted, why);
    out.sound = out.source.has_value();
    if (out.source)
        sense.inputs.push_back(*out.source);
    return out;
}

ReadPart read_humidity_chip(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    AnalogueReader analogue(in, Kind::humidity, out);
    const auto slope = keys.required_quantity("slope", Kind::voltage_per_humidity, "31 mV/%RH",
                                              "how much its voltage rises with each percent");
    const auto at_zero =
        keys.required_quantity("at_zero", Kind::voltage, "800 mV", "its voltage at 0 %RH");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    HumidityChipSpec spec = humidity_chip(of<VoltagePerPercent>(slope), of<Voltage>(at_zero))
                                .reference(of<Voltage>(reference))
                                .bits(analogue.bits());
    if (const auto loss = keys.quantity("loses", Kind::percent_per_kelvin, "0.216 %/K"))
        spec = spec.loses(of<PercentPerKelvin>(loss));
    const AirInput air = read_air(in,
                                  "the air's, which corrects it: a sensor above it, or a fixed "
                                  "one such as \"20 degC\"",
                                  out);
    const bool common = analogue.read_common(spec);
    if (!slope || !at_zero || !reference || !air.sound || !common)
        return {};
    keys.expect(spec.slope_is_possible(), "slope", "between 1 and 200 mV/%RH");
    keys.expect(spec.at_zero_is_possible(), "at_zero", "between 0 and 5 V");
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    keys.expect(spec.loss_is_possible(), "loses", "between -0.5 and 0.5 %/K");
    if (!spec.loss_is_possible())
        return {};
    const detail::CompensationCurve curve{spec.loss().thousandths()};
    const auto factors = std::make_shared<DeskTable<detail::CompensationCurve>>(
        curve, plan_table(curve, 0, detail::last_climate_argument, curve.error));
    out.shorted_reads_supply = true;
    return analogue.finish_with(
        spec, "analogue humidity chip", analogue.by_table(spec), [air, factors](auto converter) {
            return starts([=](Instant, Raw raw, const AnyReading* sources, AnyReading* to) {
                *to = any(compensate(converter(raw.sample()), air.at(sources), [&](uint16_t x) {
                    return look_up(factors->plan(), factors->entry(), x);
                }));
            });
        });
}

ReadPart read_humidity_frame(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    keys.require("coding", "how its bytes stand for numbers, \"whole\" or \"tenths\"",
                 "\"tenths\"");
    const auto coding = keys.choice("coding", {"whole", "tenths"});
    HumidityFrameSpec spec =
        humidity_frame(coding == "whole" ? FrameCoding::whole : FrameCoding::tenths);
    if (const auto every = keys.quantity("every", Kind::duration, "5 s"))
        spec = spec.every(of<Duration>(every));
    if (const auto tries = keys.whole("tries", 1, 100))
        spec = spec.tries(static_cast<uint8_t>(*tries));
    if (const auto hold = keys.quantity("hold", Kind::duration, "30 s"))
        spec = spec.hold(of<Duration>(hold));
    if (coding)
        keys.expect(
            spec.every_is_possible(), "every",
            fmt::format("between {} and 1 h; read more often, a sensor with coding = \"{}\" "
                        "repeats itself or hangs",
                        span_to_text(spec.least_interval(spec.coding()).thousandths()), *coding));
    keys.expect(spec.hold_is_possible(), "hold", "between 0 and 1 h");
    // Temperature may well stand still for hours; humidity wanders.
    const auto stuck_after = keys.quantity("stuck_after", Kind::duration, "2 h");
    out.raw = RawKind::frame;
    out.largest_raw = 0xff'ffff'ffff;
    out.about =
        fmt::format("one-wire humidity sensor; {}, read every {}, missing after {} failed {}",
                    coding.value_or("tenths"), span_to_text(spec.every().thousandths()),
                    spec.tries(), spec.tries() == 1 ? "read" : "reads");
    out.start = starts([spec, state = HumidityFrameState(),
                        watch = Watch<RelativeHumidity>(of<Duration>(stuck_after), Duration{})](
                           Instant now, Raw raw, const AnyReading*, AnyReading* to) mutable {
        AirReading air = state.read(spec, now, raw.frame());
        air.humidity = watch.pass(now, air.humidity);
        if (air.humidity.health() == Health::stuck)
            air = AirReading::without_value(Health::stuck);
        to[0] = any(air.humidity);
        to[1] = any(air.temperature);
    });
    return {coding && spec.every_is_possible() && spec.hold_is_possible(),
            {{out.name + ".humidity", Kind::humidity, 0, 100'000},
             {out.name + ".temperature", Kind::temperature, -40'000, 80'000}}};
}

// --- Distance

ReadPart read_ranger(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    const auto blind =
        keys.required_quantity("blind", Kind::length, "20 mm", "nearer than this it cannot see");
    const auto far = keys.required_quantity("far", Kind::length, "4 m",
                                            "further than this it is not to be trusted");
    RangerSpec spec = ranger(of<Length>(blind), of<Length>(far));
    if (const auto silent = keys.quantity("silent_from", Kind::duration, "36 ms"))
        spec = spec.silent_from(of<Duration>(silent));
    const AirInput air = read_air(in,
                                  "the air's, which the speed of sound goes with: a sensor above "
                                  "it, or a fixed one such as \"20 degC\"",
                                  out);
    read_filters(keys, Kind::length, filters);
    if (!blind || !far || !air.sound)
        return {};
    keys.expect(spec.limits_are_possible(), "far",
                "at least 10 mm beyond \"blind\", and at most at 6 m; \"blind\" between 0 and 1 m");
    if (keys.find("silent_from") != nullptr || spec.limits_are_possible()) {
        if (!spec.silence_is_possible())
            keys.complain(
                fmt::format("{}: \"silent_from\" must be longer than an echo from \"far\" "
                            "takes, about 6.5 ms for each metre, and at most 65 ms",
                            keys.label()));
    }
    out.raw = RawKind::microseconds;
    out.largest_raw = 65'535;
    out.about = "ultrasonic ranger";
    out.start = with_filters(
        filters, starts([spec, air](Instant, Raw raw, const AnyReading* sources, AnyReading* to) {
            const Reading<Temperature> t = air.at(sources);
            Reading<Length> reading = Reading<Length>::without_value(t.health());
            if (t.ok())
                reading = detail::in_climate(t.value_or({}))
                              ? read_echo(spec, raw.echo(),
                                          detail::FunctionTable<detail::HalfSoundCurve>::at(
                                              detail::climate_argument(t.value_or({}))))
                              : Reading<Length>::without_value(Health::out_of_range);
            *to = any(reading);
        }));
    return {spec.is_possible(),
            {{out.name, Kind::length, spec.blind().thousandths(), spec.far().thousandths()}}};
}

// --- Gas

/// A climate table of any size, as the core takes it.
struct Climate {
    size_t temperature = 0; ///< sources
    size_t humidity = 0;
    std::vector<uint32_t> rows, columns, inverse_rows, inverse_columns;
    std::vector<int16_t> logs;

    int16_t at(Temperature t, RelativeHumidity h) const {
        return detail::correction_between(
            detail::along(rows.data(), inverse_rows.data(), static_cast<uint8_t>(rows.size()),
                          t.thousandths()),
            detail::along(columns.data(), inverse_columns.data(),
                          static_cast<uint8_t>(columns.size()), h.thousandths()),
            logs.data(), static_cast<uint8_t>(columns.size()));
    }
};

bool read_axis(TableReader& keys, std::string_view key, Kind kind, std::string_view example,
               std::vector<uint32_t>& points, std::vector<uint32_t>& inverse) {
    keys.require(key, "an axis of the data sheet's picture", example);
    const auto values = keys.quantities(key, kind, 2, 16, example);
    if (values.empty())
        return false;
    for (size_t i = 0; i < values.size(); ++i) {
        points.push_back(static_cast<uint32_t>(values[i]));
        const int64_t step = i + 1 < values.size() ? int64_t{values[i + 1]} - values[i] : 1000;
        if (!keys.expect(step >= 1000 && step <= 120'000, key,
                         "in order, going up by 1 to 120 each"))
            return false;
        inverse.push_back(detail::inverse_distance(static_cast<uint32_t>(step)));
    }
    return true;
}

/// The correction of a gas sensor, if it has one. False if it is there and wrong.
bool read_climate(PartReader& in, std::optional<Climate>& out) {
    const toml::node* node = in.keys.find("climate");
    if (node == nullptr)
        return true;
    const auto* table = node->as_table();
    if (table == nullptr) {
        in.keys.findings().add(*node,
                               "\"climate\" must be a table: write [sense.NAME.climate] above "
                               "its keys");
        return false;
    }
    TableReader keys(*table, "the table \"climate\"", in.keys.findings());
    Climate climate;
    constexpr Kind temperature = Kind::temperature, humidity = Kind::humidity;
    const auto t = keys.source("temperature", in.rig, &temperature, "the air's at the sensor");
    const auto h = keys.source("humidity", in.rig, &humidity, "the air's at the sensor");
    bool sound = read_axis(keys, "temperatures", temperature, "[\"-10 degC\", \"20 degC\"]",
                           climate.rows, climate.inverse_rows);
    sound = read_axis(keys, "humidities", humidity, "[\"33 %RH\", \"85 %RH\"]", climate.columns,
                      climate.inverse_columns) &&
            sound;
    const std::string_view example = "[[1.7, 1.5], [1.0, 0.9]], a row for each temperature";
    keys.require("factors", "the factor to the sensor's resistance at each pair", example);
    const auto* rows = keys.list("factors", 2, 16, example);
    for (size_t i = 0; rows != nullptr && i < rows->size(); ++i) {
        const auto* row = rows->get(i)->as_array();
        if (row == nullptr || row->size() != climate.columns.size() ||
            rows->size() != climate.rows.size()) {
            keys.findings().add(*rows->get(i),
                                fmt::format("\"factors\" must have a row for each of the {} "
                                            "temperatures, with a number for each of the {} "
                                            "humidities",
                                            climate.rows.size(), climate.columns.size()));
            sound = false;
            break;
        }
        for (const toml::node& factor : *row) {
            const auto value = keys.ratio_of(factor, "factors");
            const bool fine = value && *value >= 100 && *value <= 10'000;
            if (value)
                keys.expect(fine, "factors", "between 0.1 and 10");
            sound = sound && fine;
            climate.logs.push_back(
                detail::log_of_factor(Ratio::from_thousandths(fine ? *value : 1000)));
        }
    }
    keys.finish();
    climate.temperature = t.value_or(0);
    climate.humidity = h.value_or(0);
    out = std::move(climate);
    return sound && rows != nullptr && t && h;
}

ReadPart read_gas_sensor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    GasPoint points[2] = {};
    size_t count = 0;
    const std::string_view example = "[[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]";
    keys.require("points", "two points of the data sheet's curve, each a concentration and Rs/R0",
                 example);
    const bool pointed =
        read_pairs(keys, "points", 2, 2, example, [&](const toml::node& a, const toml::node& b) {
            const auto c = keys.quantity_of(a, "points", Kind::concentration, "10 ppm");
            const auto ratio = keys.ratio_of(b, "points");
            points[count++] = {of<Concentration>(c), of<Ratio>(ratio)};
            return c && ratio;
        });
    GasSpec spec = gas_sensor(points[0], points[1]).bits(in.converter_bits);
    const auto load = keys.required_quantity("pull_down", Kind::resistance, "10 kohm",
                                             "the load resistor from the pin to ground");
    spec = spec.pull_down(of<Resistance>(load));
    read_voltages(keys, spec);
    const auto zero = keys.required_quantity("zero", Kind::resistance, "30 kohm",
                                             "its R0, from a calibration in clean air");
    if (const auto warm_up = keys.quantity("warm_up", Kind::duration, "3 min"))
        spec = spec.warm_up(of<Duration>(warm_up));
    bool ranged = true;
    if (keys.find("range") != nullptr) {
        const auto ends =
            keys.quantities("range", Kind::concentration, 2, 2,
                            "[\"1 ppm\", \"300 ppm\"], the lowest and the highest value");
        ranged = ends.size() == 2;
        if (ranged)
            spec = spec.range(Concentration::from_thousandths(ends[0]),
                              Concentration::from_thousandths(ends[1]));
    }
    std::optional<Climate> climate;
    const bool climatic = read_climate(in, climate);
    read_filters(keys, Kind::concentration, filters);
    if (!pointed || !load || !zero || !ranged || !climatic)
        return {};
    keys.expect(
        spec.points_are_possible(), "points",
        "on a falling curve: two different points, 0.1 to 1,000,000 ppm, ratios of 0.01 to 100");
    keys.expect(spec.divider_is_possible(), "pull_down", "between 1 ohm and 10 Mohm");
    const bool zero_fits = spec.zero_is_possible(of<Resistance>(zero));
    keys.expect(zero_fits, "zero", "between 10 ohm and 10 Mohm");
    keys.expect(spec.range_is_possible(), "range",
                "between 0.01 and 1,000,000 ppm, the lower end first");
    out.largest_raw = spec.full_scale();
    if (climate)
        out.inputs = {climate->temperature, climate->humidity};
    out.about =
        fmt::format("gas sensor; warming up for {}{}", span_to_text(spec.warm_up().thousandths()),
                    climate ? ", corrected for the climate" : "");
    if (!spec.is_possible() || !zero_fits)
        return {};
    out.start = with_filters(
        filters,
        starts([spec, climate, range = spec.code_range(), law = spec.law(),
                state = GasState(spec.load(), of<Resistance>(zero))](
                   Instant now, Raw raw, const AnyReading* sources, AnyReading* to) mutable {
            int16_t correction = 0;
            if (climate) {
                const AnyReading t = sources[climate->temperature];
                const AnyReading h = sources[climate->humidity];
                if (!t.ok() || !h.ok()) {
                    *to = AnyReading::without_value(t.ok() ? h.health() : t.health());
                    return;
                }
                correction = climate->at(as<Temperature>(t).value_or({}),
                                         as<RelativeHumidity>(h).value_or({}));
            }
            *to = any(state.read(spec, range, law, now, raw.sample(), correction));
        }));
    return {true,
            {{out.name, Kind::concentration, spec.lowest().thousandths(),
              spec.highest().thousandths()}}};
}

// --- Yes or no

ReadPart truth_part(const Sense& out, bool sound) {
    return {sound, {{out.name, Kind::truth, 0, 1000}}};
}
AnyReading reading_of(Truth truth) {
    return truth == Truth::unknown ? AnyReading()
                                   : AnyReading::of_bounded(AnyQuantity::from_thousandths(
                                         truth == Truth::yes ? 1000 : 0));
}

ReadPart read_digital_input(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    keys.require("active", "the level that means yes, \"low\" or \"high\"", "\"low\"");
    const auto active = keys.choice("active", {"low", "high"});
    DigitalInputSpec spec = digital_input(active == "low" ? active_low : active_high);
    if (const auto time = keys.quantity("debounce", Kind::duration, "20 ms"))
        spec = spec.debounce(of<Duration>(time));
    keys.expect(spec.debounce_is_possible(), "debounce", "between 0 and 10 s");
    out.raw = RawKind::level;
    out.largest_raw = 1;
    out.about = fmt::format("digital input; yes when the pin is {}, debounced for {}",
                            active.value_or("low"), span_to_text(spec.debounce().thousandths()));
    out.start = starts([spec, state = DigitalInputState()](Instant now, Raw raw, const AnyReading*,
                                                           AnyReading* to) mutable {
        *to = reading_of(state.read(spec, now, raw.level()));
    });
    return truth_part(out, active && spec.debounce_is_possible());
}

ReadPart read_analogue_level(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const auto low =
        keys.required_quantity("low", Kind::voltage, "1.2 V", "low up to this voltage");
    const auto high =
        keys.required_quantity("high", Kind::voltage, "2.8 V", "high from this voltage on");
    const auto reference = keys.required_quantity("reference", Kind::voltage, "5 V",
                                                  "the voltage that full scale stands for");
    const auto active = keys.choice("active", {"high", "low"});
    const AnalogueLevelSpec spec = analogue_level(of<Voltage>(low), of<Voltage>(high))
                                       .reference(of<Voltage>(reference))
                                       .bits(in.converter_bits)
                                       .active(active == "low" ? active_low : active_high);
    out.largest_raw = spec.full_scale();
    if (!low || !high || !reference)
        return {};
    keys.expect(spec.reference_is_possible(), "reference", "between 0.5 and 10 V");
    keys.expect(
        !spec.reference_is_possible() || spec.zone_is_possible(), "high",
        "above \"low\", at least four codes of the converter from it, and below \"reference\"; "
        "\"low\" above 0");
    if (!spec.is_possible())
        return {};
    out.about = fmt::format("level of an analogue pin; yes {} code {}, no {} code {}",
                            spec.active() == active_high ? "from" : "up to",
                            spec.active() == active_high ? spec.high_code() : spec.low_code(),
                            spec.active() == active_high ? "up to" : "from",
                            spec.active() == active_high ? spec.low_code() : spec.high_code());
    out.start = starts([spec, state = AnalogueLevelState()](Instant, Raw raw, const AnyReading*,
                                                            AnyReading* to) mutable {
        *to =
            reading_of(state.read(spec.low_code(), spec.high_code(), spec.active(), raw.sample()));
    });
    return truth_part(out, true);
}

// --- Pulses

template <class Q>
ReadPart read_rate(PartReader& in, Kind kind, PulseRateSpec<Q> spec, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    const auto method = keys.choice("method", {"window", "period"});
    const bool by_period = method == "period";
    if (const auto window = keys.quantity("window", Kind::duration, "1 s")) {
        spec = spec.by_window(of<Duration>(window));
        if (by_period)
            keys.expect(false, "window", "with method = \"window\" only; drop it");
    }
    if (by_period)
        spec = spec.by_period();
    if (const auto still = keys.quantity("still_after", Kind::duration, "2 s"))
        spec = spec.still_after(of<Duration>(still));
    if (const auto fastest = keys.quantity("fastest", kind, example_of(kind)))
        spec = spec.fastest(of<Q>(fastest));
    const auto shortest = keys.quantity("shortest", Kind::duration, "1 ms");
    read_filters(keys, kind, filters);
    keys.expect(spec.window() >= 100_ms && spec.window() <= 60_s, "window",
                "between 100 ms and 60 s");
    keys.expect(spec.still_after() >= 10_ms && spec.still_after() <= 60_s, "still_after",
                "between 10 ms and 60 s");
    keys.expect(spec.fastest_is_possible(), "fastest",
                fmt::format("above 0 and up to 1,000,000 {}", unit_of(kind)));
    out.raw = by_period ? RawKind::microseconds : RawKind::edges;
    out.largest_raw = by_period ? 0xffff'ffffLL : 0xffff'ffff'ffffLL;
    out.about = fmt::format(
        "pulses; {}",
        by_period ? "by the time between two edges"
                  : fmt::format("counted over {}", span_to_text(spec.window().thousandths())));
    const auto least = static_cast<uint32_t>(shortest.value_or(0)) * 1000U;
    out.start = with_filters(
        filters, starts([spec, by_period, least, factor = spec.factor(), sample = PulseSample(),
                         state = PulseRateState<Q>()](Instant now, Raw raw, const AnyReading*,
                                                      AnyReading* to) mutable {
            if (!by_period) {
                sample.taken = raw.bits() >= 0;
                sample.edges = static_cast<uint16_t>(raw.bits());
            } else {
                // A row with a time has seen two edges; one without has seen none.
                sample.taken = true;
                if (raw.bits() >= 0 && raw.bits() >= least) {
                    sample.edges = static_cast<uint16_t>(sample.edges + 2);
                    sample.period = static_cast<uint32_t>(raw.bits());
                }
            }
            *to = any(state.read(spec, factor, now, sample));
        }));
    return {spec.is_possible(), {{out.name, kind, 0, spec.fastest().thousandths()}}};
}

ReadPart read_pulse_counter(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const auto unit = keys.choice("unit", {"rpm", "Hz"});
    keys.require("edges_per_turn", "how many edges make one turn (or one cycle)", "2");
    const auto edges = keys.whole("edges_per_turn", 1, 1000);
    const auto count = static_cast<uint16_t>(edges.value_or(1));
    ReadPart part = unit == "Hz" ? read_rate(in, Kind::frequency, frequency(count), out)
                                 : read_rate(in, Kind::turning_speed, turning_speed(count), out);
    part.sound = part.sound && edges;
    return part;
}

// --- Measured points

constexpr uint8_t most_points = 32;

template <class Q>
ReadPart finish_value_table(PartReader& in, AnalogueReader& analogue,
                            const PointsCurve<AnyQuantity, most_points>& points) {
    PointsCurve<Q, most_points> curve;
    curve.count = points.count;
    for (uint8_t i = 0; i < points.count; ++i)
        curve.points[i] = {points.points[i].code,
                           Q::from_thousandths(points.points[i].value.thousandths())};
    if (!in.keys.expect(curve.is_possible(), "points",
                        "in order: going up in code, and their values one way"))
        return unread(in.keys);
    auto spec = ValueTableSpec<Q, most_points>(curve).bits(analogue.bits());
    read_wire_off(in.keys, spec);
    if (!analogue.read_common(spec))
        return {};
    in.keys.expect(
        spec.points_are_possible(), "points",
        fmt::format("within the converter, whose largest code is {}", spec.full_scale()));
    return analogue.finish(
        spec, fmt::format("table of {} measured points", points.count), [&](std::string&) {
            return std::function<Reading<Q>(Sample)>(
                [spec, range = spec.code_range()](Sample sample) {
                    const Health health = range.health_of(sample);
                    if (health != Health::ok)
                        return Reading<Q>::without_value(health);
                    return Reading<Q>::of(Q::from_thousandths(value_by_points(
                        spec.lines(),
                        [&spec](int line) { return spec.entry(static_cast<uint8_t>(line)); },
                        sample.code())));
                });
        });
}

ReadPart read_value_table(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    const std::string_view example = "[[112, \"0 cm\"], [480, \"20 cm\"], [900, \"35 cm\"]]";
    keys.require("points", "measured pairs of a code and a value", example);
    Kind kind = Kind::length;
    bool first = true;
    PointsCurve<AnyQuantity, most_points> points;
    points.count = 0;
    const bool read = read_pairs(
        keys, "points", 2, most_points, example, [&](const toml::node& a, const toml::node& b) {
            const auto code = a.is_integer() ? a.value<int64_t>() : std::nullopt;
            if (!code || *code < 0 || *code > 65'535) {
                keys.findings().add(a, "the first of each pair in \"points\" must be a code of the "
                                       "converter, a whole number");
                return false;
            }
            if (first && b.is_string())
                kind_of(b.as_string()->get(), kind);
            first = false;
            const auto value = keys.quantity_of(b, "points", kind, example_of(kind));
            points.points[points.count++] = {static_cast<uint16_t>(*code), of<AnyQuantity>(value)};
            return value.has_value();
        });
    AnalogueReader analogue(in, kind, out);
    if (!read || points.count < 2)
        return unread(keys);
    return kind == Kind::temperature ? finish_value_table<Temperature>(in, analogue, points)
                                     : finish_value_table<AnyQuantity>(in, analogue, points);
}

struct Part {
    const char* name;
    bool analogue; ///< whether it hangs on a pin of the converter
    ReadPart (*read)(PartReader&, Sense&);
};
constexpr Part parts[] = {
    {"thermistor", true, read_thermistor},
    {"linear_chip", true, read_linear_chip},
    {"photoresistor", true, read_photoresistor},
    {"phototransistor", true, read_phototransistor},
    {"percent", true, read_share},
    {"humidity_chip", true, read_humidity_chip},
    {"humidity_frame", false, read_humidity_frame},
    {"ranger", false, read_ranger},
    {"gas_sensor", true, read_gas_sensor},
    {"moisture_probe", true, read_moisture_probe},
    {"digital_input", false, read_digital_input},
    {"analogue_level", true, read_analogue_level},
    {"pulse_counter", false, read_pulse_counter},
    {"value_table", true, read_value_table},
};

} // namespace

bool is_analogue_part(std::string_view name) {
    for (const Part& part : parts)
        if (part.name == name)
            return part.analogue;
    return true;
}

ReadPart read_sensor(PartReader& in, Sense& out) {
    Names names;
    for (const Part& part : parts)
        names.emplace_back(part.name);
    const auto name = in.keys.choice("part", names);
    if (!name) {
        if (in.keys.find("part") == nullptr)
            in.keys.complain(
                fmt::format("{} needs \"part\", what kind of sensor it is; possible are {}",
                            in.keys.label(), TableReader::listed(names)));
        in.keys.ignore_the_rest();
        return {};
    }
    for (const Part& part : parts)
        if (part.name == *name)
            return part.read(in, out);
    return {};
}

} // namespace zorilla::rig
