// SPDX-License-Identifier: MIT
#include "rig/rig_file.hpp"

#include "rig/decide/part.hpp"
#include "rig/derive/part.hpp"
#include "rig/drive/reader.hpp"
#include "rig/read/groups.hpp"
#include "rig/read/keys.hpp"
#include "rig/read/machines.hpp"
#include "rig/read/promises.hpp"
#include "rig/read/scope.hpp"
#include "rig/read/toml.hpp"
#include "rig/text/files.hpp"
#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

namespace {

/// A table of the file; null if there is none, or it is no table.
const Node* table_of(const Node& top, std::string_view name) {
    const Node* node = top.get(name);
    return node == nullptr ? nullptr : node->as_table();
}

class RigReader {
  public:
    RigFile read(Node written) {
        if (is_world(written)) {
            findings_.add(written, "this is a world, not a rig: it surrounds one, as in zorilla "
                                   "try RIG --world THIS");
            return {std::move(rig_), findings_.sorted(), {}, {}};
        }
        const std::optional<Node> mended = check_groups(written, findings_);
        const Node& top = mended ? *mended : written;
        rig_table(top);
        board_table(top);
        each_part(top, "sense", [&](const Key& key, TableReader& keys) { sense(key, keys); });
        settle_reference(top);
        each_part(top, "derive", [&](const Key& key, TableReader& keys) { derive(key, keys); });
        scope_.name_outputs(top);
        each_part(top, "pattern",
                  [&](const Key& key, TableReader& keys) { patterns_.add(key, keys); });
        // A decision may name a machine's states, and a machine's moves name decisions.
        each_part(top, "machine",
                  [&](const Key& key, TableReader& keys) { machines_.machine(key, keys); });
        each_part(top, "decide",
                  [&](const Key& key, TableReader& keys) { read_decide(scope_, key, keys); });
        machines_.finish();
        each_part(top, "drive", [&](const Key& key, TableReader& keys) {
            read_drive(scope_, key, keys, patterns_);
        });
        for (const char* name : {"shutdown", "self_test"}) {
            const Node* rig = table_of(top, "rig");
            const Node* table = rig == nullptr ? nullptr : table_of(*rig, name);
            if (table == nullptr)
                continue;
            const bool shuts = std::string_view(name) == "shutdown";
            TableReader keys(*table, fmt::format("[rig.{}]", name), findings_,
                             shuts ? rig::keys::of_shutdown : rig::keys::of_self_test);
            shuts ? read_shutdown(scope_, keys) : read_self_test(scope_, keys);
            keys.finish();
        }
        patterns_.finish(findings_);
        scope_.plan.finish(findings_);
        finish_shutdown(rig_);
        nevers(top);
        each_part(top, "promise",
                  [&](const Key& key, TableReader& keys) { read_promise(scope_, key, keys); });
        if (rig_.senses.empty() && top.get("sense") == nullptr)
            findings_.add(top, "a rig needs at least one sensor: a table [sense.NAME]");
        rig_.written = std::move(written);
        return {std::move(rig_), findings_.sorted(), findings_.sorted_warnings(),
                scope_.plan.uses()};
    }

    void rig_table(const Node& top) {
        rig_.name = "unnamed rig";
        const Node* table = table_of(top, "rig");
        if (table == nullptr)
            return;
        TableReader keys(*table, "[rig]", findings_, rig::keys::of_rig);
        rig_.name = keys.text("name", "Heat lamp").value_or(rig_.name);
        if (const Node* name = keys.find("name"); rig_.name.size() > longest_name)
            findings_.add(*name, fmt::format("this name has {} characters; write one of at most {}",
                                             rig_.name.size(), longest_name));
        if (const auto* list = keys.list("show", 1, 16, "[\"degF\"]"))
            for (const Node& one : list->inside()) {
                const auto* unit = one.as_text();
                if (unit == nullptr || !ShownUnits::is_unit(*unit))
                    findings_.add(one, fmt::format("{} is no unit; write one that values are to be "
                                                   "shown in, such as \"degF\" or \"cm\"",
                                                   unit == nullptr ? std::string("this")
                                                                   : fmt::format("\"{}\"", *unit)));
                else
                    rig_.show.push_back(*unit);
            }
        keys.find("never"); // read once every name is known
        for (const char* key : {"shutdown", "self_test"})
            if (const Node* node = keys.find(key); node != nullptr && !node->is_table())
                findings_.add(*node, fmt::format("\"{0}\" must be a table: write [rig.{0}]", key));
        keys.finish();
    }

    /// What must never be, over outputs too.
    void nevers(const Node& top) {
        const Node* table = table_of(top, "rig");
        if (table == nullptr || table->get("never") == nullptr)
            return;
        TableReader keys(*table, "[rig]", findings_, rig::keys::of_rig);
        const auto* list = keys.list("never", 1, 64, "[\"heat_lamp and ventilator\"]");
        if (list == nullptr)
            return;
        scope_.outputs_may_be_named = true;
        for (const Node& one : list->inside()) {
            const auto* text = one.as_text();
            if (text == nullptr) {
                findings_.add(one, "what must never be is a condition, such as \"heat_lamp and "
                                   "ventilator\"");
                continue;
            }
            rig_.nevers.push_back(scope_.condition_of(one, *text));
        }
        scope_.outputs_may_be_named = false;
    }

    void board_table(const Node& top) {
        const ChipFacts* chip = all_chips().front();
        rig_.chip = chip->name;
        rig_.converter_bits = chip->converter_bits;
        const Node* table = table_of(top, "board");
        if (table == nullptr)
            return take_line(*chip, nullptr);
        TableReader keys(*table, "[board]", findings_, rig::keys::of_board);
        Names names;
        for (const ChipFacts* one : all_chips())
            names.emplace_back(one->name);
        names.emplace_back("other");
        rig_.chip = keys.choice("chip", names).value_or(rig_.chip);
        chip = rig_.chip_facts();
        if (chip != nullptr)
            rig_.converter_bits = chip->converter_bits;
        const Node* bits = keys.find("adc_bits");
        if (bits != nullptr) {
            const int64_t value = bits->as_whole().value_or(0);
            if (value < 8 || value > 16)
                findings_.add(*bits, "\"adc_bits\" must be a whole number from 8 to 16");
            else if (chip != nullptr && value != chip->converter_bits)
                findings_.add(*bits, fmt::format("the {} has a converter of {} bits, not "
                                                 "{}; drop \"adc_bits\", or set chip = \"other\"",
                                                 chip->name, chip->converter_bits, value));
            else
                rig_.converter_bits = static_cast<uint8_t>(value);
        } else if (rig_.chip == "other") {
            keys.complain("[board] with chip = \"other\" needs \"adc_bits\", the width of its "
                          "converter; for example adc_bits = 12");
        }
        if (const auto report = keys.quantity("report", Kind::duration, "1 s"))
            if (keys.expect(*report >= 10 && *report <= 3'600'000, "report",
                            "between 10 ms and 1 h"))
                rig_.report = Duration::from_thousandths(*report);
        if (chip != nullptr)
            take_line(*chip, &keys);
        else if (const Node* line = keys.find("line"))
            findings_.add(*line, "of chip = \"other\" nothing is known, nor of its lines; drop "
                                 "\"line\"");
        keys.finish();
    }

    /// Its pins are given to the line that sends what a device does.
    void take_line(const ChipFacts& chip, TableReader* keys) {
        Names names;
        for (uint8_t i = 0; i < chip.line_count; ++i)
            names.emplace_back(chip.lines[i].name);
        rig_.line = names.front();
        const Node* node = keys == nullptr ? nullptr : keys->find("line");
        if (node != nullptr)
            rig_.line = keys->choice("line", names).value_or(rig_.line);
        const LineFacts& line = *line_named(chip, rig_.line);
        for (const char* pin : {line.receives, line.sends})
            if (pin != nullptr && pin_named(chip, pin)->taken == nullptr)
                scope_.plan.give(chip, node == nullptr ? Place{} : node->place(), pin,
                                 line.kind == LineKind::timer ? PinWay::line : PinWay::level,
                                 "[board] line", findings_);
    }

    template <class Read> void each_part(const Node& top, const std::string& group, Read read) {
        const Node* tables = table_of(top, group);
        for (size_t i = 0; tables != nullptr && i < tables->size(); ++i) {
            const Key& key = tables->keys()[i];
            const Node* table = (*tables)[i].as_table();
            const std::string label = fmt::format("[{}.{}]", group, key.text);
            if (table == nullptr) {
                findings_.add(key, fmt::format("\"{}\" must be inside a table of its own: write "
                                               "[{}.NAME] above it",
                                               key.text, group));
                continue;
            }
            findings_.claim_name(key, label);
            TableReader keys(*table, label, findings_, {});
            read(key, keys);
            keys.finish();
        }
    }

    void add_sources(ReadPart part) {
        for (Source& source : part.sources) {
            source.sound = part.sound;
            rig_.sources.push_back(std::move(source));
        }
    }

    void sense(const Key& key, TableReader& keys) {
        Sense out;
        out.name = key.text;
        out.place = key.place;
        keys.allow(rig::keys::of_sense);
        const Node* part_name = keys.find("part");
        const std::string* word = part_name != nullptr ? part_name->as_text() : nullptr;
        const SenseKind* kind = word == nullptr ? nullptr : sense_kind(*word);
        const bool has_pin = kind != nullptr && *kind->cpp.role != '\0';
        if (has_pin)
            out.pin = scope_.pin(keys, kind->analogue ? PinWay::analogue
                                       : std::string_view(kind->cpp.input) == "LevelSample"
                                           ? PinWay::input
                                           : PinWay::edges);
        else if (const Node* pin = keys.find("pin"); pin != nullptr && kind != nullptr)
            findings_.add(
                *pin, fmt::format("a {} has no pin: it is said over the serial line", kind->word));
        if (const ChipFacts* chip = rig_.chip_facts(); kind != nullptr && !has_pin &&
                                                       chip != nullptr &&
                                                       !line_named(*chip, rig_.line)->hears())
            keys.complain(fmt::format("{} is said over the serial line, and the {} has none that "
                                      "receives; take another chip, or a contact on a pin",
                                      keys.label(), chip->name));
        if (kind != nullptr)
            for (const auto& [pin, why] : kind->other_pins) {
                keys.allow({{pin, "\"PB0\""}});
                out.other_pins.push_back({pin, scope_.pin(keys, PinWay::level, pin, why)});
            }
        PartReader in{keys, rig_, rig_.converter_bits};
        ReadPart part = read_sensor(in, out);
        // Something must stand for a sensor that could not be understood, so that what names it is
        // not called wrong too.
        if (part.sources.empty())
            part = unknown_part(out.name, kind == nullptr ? std::nullopt : kind->measures);
        out.source = rig_.sources.size();
        out.sources = part.sources.size();
        if (part.sources.size() == 1 && part.sources.front().kind == Kind::truth)
            scope_.add_fact({Fact::Kind::switched, out.source, 0, out.name});
        add_sources(std::move(part));
        rig_.senses.push_back(std::move(out));
    }

    /// The chip's converter has one reference for all; who names none hangs on what there is.
    void settle_reference(const Node& top) {
        const Node* tables = table_of(top, "sense");
        const ChipFacts* chip = rig_.chip_facts();
        if (chip == nullptr || tables == nullptr)
            return;
        const Sense* first = nullptr;
        for (Sense& sense : rig_.senses) {
            const Node* node = tables->get(sense.name)->get("reference");
            if (node == nullptr || !node->measure() || sense.raw != RawKind::code ||
                !rig_.sources[sense.source].sound)
                continue;
            sense.reference = node->measure()->thousandths / 1000;
            const double volts = sense.reference / 1000.0;
            if (sense.reference < chip->least_reference || sense.reference > chip->most_reference)
                return findings_.add(
                    *node, fmt::format("the converter of the {} measures against {:g} to {:g} V, "
                                       "not {:g} V",
                                       chip->name, chip->least_reference / 1000.0,
                                       chip->most_reference / 1000.0, volts));
            if (first != nullptr && first->reference != sense.reference)
                return findings_.add(
                    *node, fmt::format("[sense.{}] is measured against {:g} V, but [sense.{}] "
                                       "against {:g} V; the converter of the {} has one reference "
                                       "for all its pins",
                                       sense.name, volts, first->name, first->reference / 1000.0,
                                       chip->name));
            if (first == nullptr && chip->reference_pin != nullptr &&
                chip->reference_of(sense.reference) == Reference::external)
                scope_.plan.give(*chip, node->place(), chip->reference_pin, PinWay::level,
                                 "the converter's reference", findings_);
            first = first == nullptr ? &sense : first;
        }
        for (const Sense& sense : rig_.senses)
            if (const Node* supply = tables->get(sense.name)->get("supply");
                sense.raw == RawKind::code && supply != nullptr && supply->measure() &&
                supply->measure()->thousandths / 1000 > chip->supply + 200)
                findings_.warn(*supply,
                               fmt::format("{:g} V is more than a pin of the {} bears, {:g} V; see "
                                           "that its divider lets no more through, or take a "
                                           "lower one",
                                           supply->measure()->thousandths / 1e6, chip->name,
                                           chip->supply / 1000.0));
        for (Sense& sense : rig_.senses) {
            if (first == nullptr || sense.raw != RawKind::code || sense.reference != 0)
                continue;
            const Node& table = *tables->get(sense.name);
            if (chip->reference_of(first->reference) == Reference::internal &&
                (table.get("pull_up") != nullptr || table.get("pull_down") != nullptr))
                return findings_.add(
                    sense.place,
                    fmt::format("[sense.{}] needs \"supply\" and \"reference\": [sense.{}] is "
                                "measured against {:g} V of the chip's own, and no divider can "
                                "hang on that; write supply = \"5 V\" and reference = \"{:g} V\"",
                                sense.name, first->name, first->reference / 1000.0,
                                first->reference / 1000.0));
            sense.reference = first->reference;
        }
    }

    /// The sources of a part whose numbers are not known.
    static ReadPart unknown_part(const std::string& name, std::optional<Kind> measures) {
        constexpr int32_t most = INT32_MAX;
        return {false,
                {{name, measures.value_or(Kind::temperature), -most, most, false,
                  measures.has_value()}}};
    }

    void derive(const Key& key, TableReader& keys) {
        Derive out;
        out.name = key.text;
        out.place = key.place;
        keys.allow(rig::keys::of_derive);
        PartReader in{keys, rig_, rig_.converter_bits};
        ReadPart part = read_derive(in, out);
        if (part.sources.empty())
            part = unknown_part(out.name, std::nullopt);
        out.source = rig_.sources.size();
        add_sources(std::move(part));
        rig_.derives.push_back(std::move(out));
    }

    Findings findings_;
    Rig rig_;
    Scope scope_{rig_, findings_};
    Patterns patterns_;
    MachineReader machines_{scope_};
};

} // namespace

RigFile parse_rig(std::string_view text) {
    Findings findings;
    std::optional<Node> written = parse_toml(text, findings);
    if (!written)
        return {{}, findings.sorted(), {}, {}};
    return make_rig(std::move(*written));
}

RigFile make_rig(Node written) { return RigReader().read(std::move(written)); }

std::string to_toml(const Rig& rig) { return to_toml(rig.written); }

RigFile load_rig(const std::string& path) { return parse_rig(read_file(path)); }

} // namespace zorilla::rig
