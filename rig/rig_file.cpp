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
        static const Names tables = {"rig", "board", "sense", "decide", "drive"};
        for (const auto& [key, node] : top) {
            const std::string word(key.str());
            if (std::find(tables.begin(), tables.end(), word) == tables.end()) {
                const std::string near = nearest(word, tables);
                findings_.add(key, fmt::format("there is no table [{}]; {}", word,
                                               near.empty()
                                                   ? "possible are [rig], [board], [sense.NAME], "
                                                     "[decide.NAME] and [drive.NAME]"
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

    std::string pin(TableReader& keys, bool analogue) {
        const std::string example = analogue ? "ADC0" : "PB0";
        auto text = keys.required_text("pin", example, "where it is connected");
        if (!text)
            return {};
        std::optional<std::string> physical = *text;
        if (rig_.chip == "atmega328p")
            physical = atmega328p_pin(*text, analogue);
        const toml::node& node = *keys.find("pin");
        if (!physical)
            findings_.add(node, fmt::format("the atmega328p has no {} pin \"{}\"; write {}",
                                            analogue ? "analogue" : "output", *text,
                                            analogue ? "ADC0 to ADC7"
                                                     : "PB0 to PB7, PC0 to PC5 or PD0 to PD7"));
        else
            findings_.claim_pin(node, *physical, keys.label());
        return *text;
    }

    void sense(const toml::key& key, TableReader& keys) {
        Sense out;
        out.name = key.str();
        out.pin = pin(keys, true);
        sound_.push_back(read_sensor(keys, rig_.converter_bits, out));
        rig_.senses.push_back(std::move(out));
    }

    void decide(const toml::key& key, TableReader& keys) {
        Decide out;
        out.name = key.str();
        Names senses;
        for (const Sense& sense : rig_.senses)
            senses.push_back(sense.name);
        bool known = false;
        if (const auto of = keys.required_text("of", senses.empty() ? "roost" : senses.front(),
                                               "the sensor that it judges")) {
            const auto found = std::find(senses.begin(), senses.end(), *of);
            known = found != senses.end();
            out.of = known ? static_cast<size_t>(found - senses.begin()) : 0;
            if (!known)
                findings_.add(*keys.find("of"), fmt::format("there is no [sense.{}]{}", *of,
                                                            suggestion(*of, senses)));
        }
        const auto below = keys.quantity("below", Kind::temperature, "4 degC");
        const auto above = keys.quantity("above", Kind::temperature, "30 degC");
        const bool has_below = keys.find("below") != nullptr;
        const bool has_above = keys.find("above") != nullptr;
        if (has_below == has_above)
            keys.complain(fmt::format("{} needs either \"below\" or \"above\"{}; for example below "
                                      "= \"4 degC\"",
                                      keys.label(), has_below ? ", not both" : ""));
        const auto release =
            keys.quantity("release", Kind::temperature, has_above ? "28 degC" : "6 degC");
        if (keys.find("release") == nullptr)
            keys.complain(fmt::format(
                "{} needs \"release\", the point where it lets go again, {} the threshold; without "
                "that gap the output would chatter. For example release = \"{}\"",
                keys.label(), has_above ? "below" : "above", has_above ? "28 degC" : "6 degC"));
        if (release && (below || above) && has_below != has_above) {
            out.spec = {has_below ? Side::below : Side::above,
                        Temperature::from_thousandths(below ? *below : *above),
                        Temperature::from_thousandths(*release)};
            placed(keys, out, known && sound_[out.of]);
        }
        rig_.decides.push_back(std::move(out));
    }

    /// Complains about a release point on the wrong side, and about points out of reach.
    void placed(TableReader& keys, const Decide& decide, bool sensor_is_sound) {
        const bool is_below = decide.spec.side == Side::below;
        const toml::node& threshold = *keys.find(is_below ? "below" : "above");
        const toml::node& release = *keys.find("release");
        if (!decide.spec.release_is_beyond()) {
            const auto gap = is_below ? 2_K : -2_K;
            findings_.add(release,
                          fmt::format("the release point {} must lie {} the threshold {}, or it "
                                      "could never let go; for example release = \"{}\"",
                                      to_text(decide.spec.release, 0), is_below ? "above" : "below",
                                      to_text(decide.spec.threshold, 0),
                                      to_text(decide.spec.threshold + gap, 0)));
            return;
        }
        if (!sensor_is_sound)
            return;
        const Sense& sense = rig_.senses[decide.of];
        const bool reaches_threshold = reachable(threshold, sense, decide.spec.threshold);
        const bool reaches_release = reachable(release, sense, decide.spec.release);
        const int32_t counts = hysteresis_counts(sense, decide.spec);
        if (reaches_threshold && reaches_release && counts < least_hysteresis_counts)
            findings_.add(release,
                          fmt::format("from {} to {} is {} of the converter, so that its "
                                      "noise alone would make the output chatter; move the "
                                      "release point further {}",
                                      to_text(decide.spec.threshold, 0),
                                      to_text(decide.spec.release, 0),
                                      counts == 0 ? "less than one count" : "only one count",
                                      is_below ? "up" : "down"));
    }

    /// Whether the sensor reaches the point; complains if not.
    bool reachable(const toml::node& node, const Sense& sense, Temperature point) {
        const int32_t inside = sense.counts_inside(point);
        if (point < sense.lowest() || point > sense.highest() || inside < 0)
            findings_.add(node,
                          fmt::format("{} cannot measure {}: its range goes from {} to {}; "
                                      "move this point, or widen \"range\" of [sense.{}]",
                                      sense.name, to_text(point, 0), to_text(sense.lowest(), 0),
                                      to_text(sense.highest(), 0), sense.name));
        else if (inside < least_counts_inside)
            findings_.add(node,
                          fmt::format("{} is only {} {} of the converter from the end of "
                                      "{}'s range ({} to {}), so that noise alone would make "
                                      "it unhealthy; keep {} counts away, or widen \"range\"",
                                      to_text(point, 0), inside, inside == 1 ? "count" : "counts",
                                      sense.name, to_text(sense.lowest(), 0),
                                      to_text(sense.highest(), 0), least_counts_inside));
        return inside >= least_counts_inside;
    }

    void drive(const toml::key& key, TableReader& keys) {
        Drive out;
        out.name = key.str();
        if (!keys.choice("part", {"relay"}) && keys.find("part") == nullptr)
            keys.complain(fmt::format("{} needs \"part\", what kind of output it is; write part = "
                                      "\"relay\"",
                                      keys.label()));
        out.pin = pin(keys, false);
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
        Names decisions;
        for (const Decide& decide : rig_.decides)
            decisions.push_back(decide.name);
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
    std::vector<bool> sound_; ///< for each sensor, whether its numbers can be used
};

} // namespace

RigFile parse_rig(std::string_view text) { return RigReader().read(text); }

RigFile load_rig(const std::string& path) { return parse_rig(read_file(path)); }

} // namespace zorilla::rig
