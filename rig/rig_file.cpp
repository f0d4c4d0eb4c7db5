// SPDX-License-Identifier: MIT
#include "rig/rig_file.hpp"

#include "rig/files.hpp"
#include "rig/stray.hpp"
#include "rig/table_reader.hpp"
#include "rig/text.hpp"

namespace zorilla::rig {

namespace {

/// A pin of the ATmega328P by the names of its data sheet; ADC0 to ADC5 are PC0 to PC5.
std::optional<std::string> atmega328p_pin(std::string_view pin, bool analogue) {
    const auto bit_in = [&](std::string_view prefix, char last) {
        return pin.size() == prefix.size() + 1 && pin.substr(0, prefix.size()) == prefix &&
               pin.back() >= '0' && pin.back() <= last;
    };
    if (analogue)
        return bit_in("ADC", '7') ? std::optional(std::string(pin)) : std::nullopt;
    if (bit_in("PC", '5'))
        return fmt::format("ADC{}", pin.back());
    if (bit_in("PB", '7') || bit_in("PD", '7'))
        return std::string(pin);
    return std::nullopt;
}

class RigReader {
  public:
    RigFile read(std::string_view text) {
        if (const auto stray = find_stray(text)) {
            findings_.add({stray->line, stray->column},
                          fmt::format("\"{}\" may stand only in quotes or in a comment; names are "
                                      "lower-case letters, digits and _",
                                      stray->character));
            return {{}, findings_.sorted()};
        }
        toml::parse_result parsed = toml::parse(text);
        if (!parsed) {
            const auto at = parsed.error().source().begin;
            findings_.add(at, fmt::format("this is not TOML: {}", parsed.error().description()));
            return {{}, findings_.sorted()};
        }
        const toml::table& top = parsed.table();
        known_tables(top);
        rig_table(top);
        board_table(top);
        each_part(top, "sense",
                  [&](const toml::key& key, TableReader& table) { sense(key, table); });
        each_part(top, "derive",
                  [&](const toml::key& key, TableReader& table) { derive(key, table); });
        each_part(top, "decide",
                  [&](const toml::key& key, TableReader& table) { decide(key, table); });
        each_part(top, "drive",
                  [&](const toml::key& key, TableReader& table) { drive(key, table); });
        if (rig_.senses.empty() && top.get("sense") == nullptr)
            findings_.add(top, "a rig needs at least one sensor: a table [sense.NAME]");
        return {std::move(rig_), findings_.sorted()};
    }

  private:
    void known_tables(const toml::table& top) {
        static const Names tables = {"rig", "board", "sense", "derive", "decide", "drive"};
        for (const auto& [key, node] : top) {
            const std::string word(key.str());
            if (std::find(tables.begin(), tables.end(), word) == tables.end()) {
                const std::string near = nearest(word, tables);
                findings_.add(key, fmt::format("there is no table [{}]; {}", word,
                                               near.empty()
                                                   ? "possible are [rig], [board], [sense.NAME], "
                                                     "[derive.NAME], [decide.NAME] and [drive.NAME]"
                                                   : fmt::format("did you mean [{}]?", near)));
            } else if (!node.is_table()) {
                findings_.add(
                    key, fmt::format("\"{}\" must be a table: write [{}]", word,
                                     word == "rig" || word == "board" ? word : word + ".NAME"));
            }
        }
    }

    void rig_table(const toml::table& top) {
        rig_.name = "unnamed rig";
        const auto* table = top["rig"].as_table();
        if (table == nullptr)
            return;
        TableReader keys(*table, "[rig]", findings_);
        rig_.name = keys.text("name", "Heat lamp").value_or(rig_.name);
        keys.finish();
    }

    void board_table(const toml::table& top) {
        rig_.chip = "atmega328p";
        rig_.converter_bits = 10;
        const auto* table = top["board"].as_table();
        if (table == nullptr)
            return;
        TableReader keys(*table, "[board]", findings_);
        rig_.chip = keys.choice("chip", {"atmega328p", "other"}).value_or(rig_.chip);
        const toml::node* bits = keys.find("adc_bits");
        if (bits != nullptr) {
            const int64_t value = bits->value<int64_t>().value_or(0);
            if (value < 8 || value > 16)
                findings_.add(*bits, "\"adc_bits\" must be a whole number from 8 to 16");
            else if (rig_.chip == "atmega328p" && value != 10)
                findings_.add(*bits, fmt::format("the atmega328p has a converter of 10 bits, not "
                                                 "{}; drop \"adc_bits\", or set chip = \"other\"",
                                                 value));
            else
                rig_.converter_bits = static_cast<uint8_t>(value);
        } else if (rig_.chip == "other") {
            keys.complain("[board] with chip = \"other\" needs \"adc_bits\", the width of its "
                          "converter; for example adc_bits = 12");
        }
        keys.finish();
    }

    template <class Read>
    void each_part(const toml::table& top, const std::string& group, Read read) {
        const auto* tables = top[group].as_table();
        if (tables == nullptr)
            return;
        // toml++ sorts by name; a rig keeps the order of the file, since order has a meaning.
        std::vector<std::pair<const toml::key*, const toml::node*>> parts;
        for (const auto& [key, node] : *tables)
            parts.emplace_back(&key, &node);
        std::sort(parts.begin(), parts.end(), [](const auto& a, const auto& b) {
            const auto from = a.first->source().begin, to = b.first->source().begin;
            return std::tie(from.line, from.column) < std::tie(to.line, to.column);
        });
        for (const auto& [key, node] : parts) {
            const std::string label = fmt::format("[{}.{}]", group, key->str());
            const auto* table = node->as_table();
            if (table == nullptr) {
                findings_.add(*key, fmt::format("\"{}\" must be inside a table of its own: write "
                                                "[{}.NAME] above it",
                                                key->str(), group));
                continue;
            }
            findings_.claim_name(*key, label);
            TableReader keys(*table, label, findings_);
            read(*key, keys);
            keys.finish();
        }
    }

    enum class PinUse { analogue, input, output };

    std::string pin(TableReader& keys, PinUse use, std::string_view key = "pin",
                    std::string_view why = "where it is connected") {
        const bool analogue = use == PinUse::analogue;
        const std::string example = analogue ? "ADC0" : use == PinUse::input ? "PD2" : "PB0";
        auto text = keys.required_text(key, example, why);
        if (!text)
            return {};
        std::optional<std::string> physical = *text;
        if (rig_.chip == "atmega328p")
            physical = atmega328p_pin(*text, analogue);
        const toml::node& node = *keys.find(key);
        if (!physical)
            findings_.add(node, fmt::format("the atmega328p has no {} pin \"{}\"; write {}",
                                            analogue                ? "analogue"
                                            : use == PinUse::output ? "output"
                                                                    : "digital",
                                            *text,
                                            analogue ? "ADC0 to ADC7"
                                                     : "PB0 to PB7, PC0 to PC5 or PD0 to PD7"));
        else
            findings_.claim_pin(node, *physical, keys.label());
        return *text;
    }

    void add_sources(ReadPart part) {
        for (Source& source : part.sources) {
            rig_.sources.push_back(std::move(source));
            sound_.push_back(part.sound);
        }
    }

    void sense(const toml::key& key, TableReader& keys) {
        Sense out;
        out.name = key.str();
        const auto* part_name =
            keys.find("part") != nullptr ? keys.find("part")->as_string() : nullptr;
        const std::string kind = part_name != nullptr ? part_name->get() : "";
        out.pin = pin(keys, is_analogue_part(kind) ? PinUse::analogue : PinUse::input);
        if (kind == "ranger")
            pin(keys, PinUse::output, "ping_pin", "the output that starts a ping");
        if (kind == "moisture_probe")
            pin(keys, PinUse::output, "power_pin", "the output that powers it while it is read");
        PartReader in{keys, rig_, rig_.converter_bits};
        ReadPart part = read_sensor(in, out);
        // Something must stand for a sensor that could not be understood, so that what names it is
        // not called wrong too.
        if (part.sources.empty())
            part = unknown_part(out.name, kind);
        out.source = rig_.sources.size();
        out.sources = part.sources.size();
        if (part.sources.size() == 1 && part.sources.front().kind == Kind::truth)
            rig_.switched.push_back(out.source);
        add_sources(std::move(part));
        rig_.senses.push_back(std::move(out));
    }

    /// The sources of a part whose numbers are not known.
    static ReadPart unknown_part(const std::string& name, std::string_view part) {
        constexpr int32_t most = detail::largest_int32;
        const auto kind = part == "humidity_chip"                                ? Kind::humidity
                          : part == "photoresistor" || part == "phototransistor" ? Kind::light
                          : part == "ranger" || part == "value_table"            ? Kind::length
                          : part == "gas_sensor"                          ? Kind::concentration
                          : part == "percent" || part == "moisture_probe" ? Kind::percentage
                          : part == "analogue_level"                      ? Kind::truth
                                                                          : Kind::temperature;
        return {false, {{name, kind, -most, most}}};
    }

    void derive(const toml::key& key, TableReader& keys) {
        Derive out;
        out.name = key.str();
        PartReader in{keys, rig_, rig_.converter_bits};
        ReadPart part = read_derive(in, out);
        if (part.sources.empty())
            part = unknown_part(out.name, "");
        out.source = rig_.sources.size();
        add_sources(std::move(part));
        rig_.derives.push_back(std::move(out));
    }

    void decide(const toml::key& key, TableReader& keys) {
        Decide out;
        out.name = key.str();
        const auto of = keys.source("of", rig_, nullptr, "the sensor or quantity that it judges");
        out.of = of.value_or(0);
        const bool is_truth = of && rig_.sources[*of].kind == Kind::truth;
        if (is_truth)
            findings_.add(
                *keys.find("of"),
                fmt::format("{0} is yes or no already: name it in a condition, such as when "
                            "= \"{0}\", and drop {1}",
                            rig_.sources[*of].name, keys.label()));
        const Kind kind = of ? rig_.sources[*of].kind : Kind::temperature;
        if (is_truth || !of)
            keys.ignore_the_rest();
        else
            threshold(keys, kind, out);
        rig_.decides.push_back(std::move(out));
    }

    void threshold(TableReader& keys, Kind kind, Decide& out) {
        const bool degrees = kind == Kind::temperature;
        const std::string_view above_example = degrees ? "30 degC" : example_of(kind);
        const auto below = keys.quantity("below", kind, example_of(kind));
        const auto above = keys.quantity("above", kind, above_example);
        const bool has_below = keys.find("below") != nullptr;
        const bool has_above = keys.find("above") != nullptr;
        if (has_below == has_above)
            keys.complain(fmt::format("{} needs either \"below\" or \"above\"{}; for example below "
                                      "= \"{}\"",
                                      keys.label(), has_below ? ", not both" : "",
                                      example_of(kind)));
        const auto release = keys.quantity("release", kind, example_of(kind));
        if (keys.find("release") == nullptr)
            keys.complain(fmt::format(
                "{} needs \"release\", the point where it lets go again, {} the threshold; without "
                "that gap the output would chatter. For example release = \"{}\"",
                keys.label(), has_above ? "below" : "above",
                degrees ? has_above ? "28 degC" : "6 degC" : example_of(kind)));
        if (release && (below || above) && has_below != has_above) {
            out.spec = {has_below ? Side::below : Side::above,
                        AnyQuantity::from_thousandths(below ? *below : *above),
                        AnyQuantity::from_thousandths(*release)};
            placed(keys, out, kind);
        }
    }

    /// Complains about a release point on the wrong side, and about points out of reach.
    void placed(TableReader& keys, const Decide& decide, Kind kind) {
        const bool is_below = decide.spec.side == Side::below;
        const toml::node& threshold = *keys.find(is_below ? "below" : "above");
        const toml::node& release = *keys.find("release");
        const auto shown = [kind](AnyQuantity value) { return to_text(value.thousandths(), kind); };
        if (!decide.spec.release_is_beyond()) {
            const int32_t point = decide.spec.threshold.thousandths();
            // A tenth of the threshold away, or, for temperatures, two degrees.
            const int32_t gap =
                kind == Kind::temperature ? 2000 : std::max(detail::magnitude(point) / 10, 1);
            findings_.add(release,
                          fmt::format("the release point {} must lie {} the threshold {}, or it "
                                      "could never let go; for example release = \"{}\"",
                                      shown(decide.spec.release), is_below ? "above" : "below",
                                      shown(decide.spec.threshold),
                                      to_text(is_below ? point + gap : point - gap, kind)));
            return;
        }
        if (!sound_[decide.of])
            return;
        const bool reaches_threshold = reachable(threshold, decide.of, decide.spec.threshold);
        const bool reaches_release = reachable(release, decide.of, decide.spec.release);
        const Sense* sense = rig_.sense_of(decide.of);
        if (!reaches_threshold || !reaches_release || sense == nullptr || !sense->scale.known())
            return;
        const int32_t counts = hysteresis_counts(sense->scale, decide.spec);
        if (counts < least_hysteresis_counts)
            findings_.add(
                release,
                fmt::format("from {} to {} is {} of the converter, so that noise alone would "
                            "make the output chatter; move the release point further {}",
                            shown(decide.spec.threshold), shown(decide.spec.release),
                            counts == 0 ? "less than one count" : "only one count",
                            is_below ? "up" : "down"));
    }

    /// Whether the source can deliver the point; complains if not.
    bool reachable(const toml::node& node, size_t index, AnyQuantity point) {
        const Source& source = rig_.sources[index];
        const Sense* sense = rig_.sense_of(index);
        const bool counted = sense != nullptr && sense->scale.known();
        const auto shown = [&source](int32_t value) { return to_text(value, source.kind); };
        const int32_t inside = counted ? sense->scale.counts_inside(point) : least_counts_inside;
        if (point.thousandths() < source.lowest || point.thousandths() > source.highest ||
            inside < 0) {
            findings_.add(
                node,
                fmt::format("{} cannot measure {}: its range goes from {} to {}; move "
                            "this point{}",
                            source.name, shown(point.thousandths()), shown(source.lowest),
                            shown(source.highest),
                            counted ? fmt::format(", or widen \"range\" of [sense.{}]", source.name)
                                    : std::string()));
            return false;
        }
        if (inside < least_counts_inside)
            findings_.add(node, fmt::format("{} is only {} {} of the converter from the end of "
                                            "{}'s range ({} to {}), so that noise alone would make "
                                            "it unhealthy; keep {} counts away, or widen \"range\"",
                                            shown(point.thousandths()), inside,
                                            inside == 1 ? "count" : "counts", source.name,
                                            shown(source.lowest), shown(source.highest),
                                            least_counts_inside));
        return inside >= least_counts_inside;
    }

    void drive(const toml::key& key, TableReader& keys) {
        Drive out;
        out.name = key.str();
        if (!keys.choice("part", {"relay"}) && keys.find("part") == nullptr)
            keys.complain(fmt::format("{} needs \"part\", what kind of output it is; write part = "
                                      "\"relay\"",
                                      keys.label()));
        out.pin = pin(keys, PinUse::output);
        const auto active = keys.choice("active", {"low", "high"});
        if (!active && keys.find("active") == nullptr)
            keys.complain(fmt::format("{} needs \"active\", the level that switches it on, \"low\" "
                                      "or \"high\"; many relay modules are \"low\"",
                                      keys.label()));
        out.spec = RelaySpec(active == "low" ? active_low : active_high);
        const auto safe = keys.on_off("safe");
        if (!safe && keys.find("safe") == nullptr)
            keys.complain(fmt::format("{} needs \"safe\", what it does when a sensor fails, "
                                      "\"off\" or \"on\"; for a heater write safe = \"off\"",
                                      keys.label()));
        out.spec = out.spec.safe(safe.value_or(off)).rest(keys.on_off("rest").value_or(off));
        if (const auto time = keys.quantity("min_on", Kind::duration, "2 min"))
            out.spec = out.spec.min_on(Duration::from_thousandths(*time));
        if (const auto time = keys.quantity("min_off", Kind::duration, "5 min"))
            out.spec = out.spec.min_off(Duration::from_thousandths(*time));
        if (const auto time = keys.quantity("longest_on", Kind::duration, "6 h"))
            out.spec = out.spec.longest_on(Duration::from_thousandths(*time));
        if (!out.spec.times_can_be_told())
            keys.complain(fmt::format("{}: times must lie between 0 and 24 days", keys.label()));
        else if (!out.spec.longest_on_makes_sense())
            keys.complain(fmt::format("{}: \"longest_on\" must be at least \"min_on\", and needs a "
                                      "\"min_off\" to rest for afterwards; for example min_off = "
                                      "\"5 min\"",
                                      keys.label()));
        claims(keys, out);
        rig_.drives.push_back(std::move(out));
    }

    void claims(TableReader& keys, Drive& out) {
        const toml::node* node = keys.find("claims");
        const std::string example = "claims = [ { when = \"cold\", then = \"on\" } ]";
        if (node == nullptr)
            return keys.complain(fmt::format("{} needs \"claims\", when it is to be switched; for "
                                             "example {}",
                                             keys.label(), example));
        const auto* list = node->as_array();
        if (list == nullptr || list->empty() || list->size() > 255)
            return findings_.add(*node, fmt::format("\"claims\" must be a list of 1 to 255 claims; "
                                                    "for example {}",
                                                    example));
        for (const toml::node& entry : *list) {
            const auto* table = entry.as_table();
            if (table == nullptr) {
                findings_.add(entry, "a claim must look like { when = \"cold\", then = \"on\" }");
                continue;
            }
            TableReader claim_keys(*table, "a claim", findings_);
            out.claims.push_back(claim(claim_keys));
            claim_keys.finish();
        }
    }

    RigClaim claim(TableReader& keys) {
        RigClaim out;
        const Names decisions = rig_.truth_names();
        if (const auto when = keys.required_text(
                "when", decisions.empty() ? "cold" : decisions.front(), "its condition")) {
            out.text = *when;
            ConditionText read = parse_condition(*when, decisions);
            if (!read.problem.empty()) {
                auto at = keys.find("when")->source().begin;
                at.column += static_cast<toml::source_index>(1 + read.offset);
                findings_.add(at, std::move(read.problem));
            }
            out.when = std::move(read.condition);
        }
        const auto then = keys.on_off("then");
        if (!then && keys.find("then") == nullptr)
            keys.complain("a claim needs \"then\", \"on\" or \"off\"; for example then = \"on\"");
        out.then = then.value_or(off);
        return out;
    }

    Findings findings_;
    Rig rig_;
    std::vector<bool> sound_; ///< for each source, whether its numbers can be used
};

} // namespace

std::vector<std::string> Rig::truth_names() const {
    std::vector<std::string> out;
    for (const size_t source : switched)
        out.push_back(sources[source].name);
    for (const Decide& decide : decides)
        out.push_back(decide.name);
    return out;
}

const Sense* Rig::sense_of(size_t source) const {
    for (const Sense& sense : senses)
        if (source >= sense.source && source < sense.source + sense.sources)
            return &sense;
    return nullptr;
}

RigFile parse_rig(std::string_view text) { return RigReader().read(text); }

RigFile load_rig(const std::string& path) { return parse_rig(read_file(path)); }

} // namespace zorilla::rig
