// SPDX-License-Identifier: MIT
#include "rig/rig_file.hpp"

#include "rig/files.hpp"
#include "rig/outputs.hpp"
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
        name_outputs(top);
        each_part(top, "pattern",
                  [&](const toml::key& key, TableReader& table) { outputs_.pattern(key, table); });
        // A decision may name a machine's states, and a machine's moves name decisions.
        each_part(top, "machine",
                  [&](const toml::key& key, TableReader& table) { machine(key, table); });
        each_part(top, "decide",
                  [&](const toml::key& key, TableReader& table) { decide(key, table); });
        finish_machines();
        each_part(top, "drive",
                  [&](const toml::key& key, TableReader& table) { outputs_.drive(key, table); });
        if (const auto* table = top["rig"]["shutdown"].as_table()) {
            TableReader keys(*table, "[rig.shutdown]", findings_);
            outputs_.shutdown(keys);
            keys.finish();
        }
        if (const auto* table = top["rig"]["self_test"].as_table()) {
            TableReader keys(*table, "[rig.self_test]", findings_);
            outputs_.self_test(keys);
            keys.finish();
        }
        outputs_.finish();
        nevers(top);
        if (rig_.senses.empty() && top.get("sense") == nullptr)
            findings_.add(top, "a rig needs at least one sensor: a table [sense.NAME]");
        return {std::move(rig_), findings_.sorted()};
    }

  private:
    void known_tables(const toml::table& top) {
        static const Names tables = {"rig",    "board",   "sense",   "derive",
                                     "decide", "machine", "pattern", "drive"};
        for (const auto& [key, node] : top) {
            const std::string word(key.str());
            if (std::find(tables.begin(), tables.end(), word) == tables.end()) {
                const std::string near = nearest(word, tables);
                findings_.add(
                    key, fmt::format("there is no table [{}]; {}", word,
                                     near.empty() ? "possible are [rig], [board], [sense.NAME], "
                                                    "[derive.NAME], [decide.NAME], [machine.NAME], "
                                                    "[pattern.NAME] and [drive.NAME]"
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
        keys.find("never"); // read once every name is known
        for (const char* key : {"shutdown", "self_test"})
            if (const toml::node* node = keys.find(key); node != nullptr && !node->is_table())
                findings_.add(*node, fmt::format("\"{0}\" must be a table: write [rig.{0}]", key));
        keys.finish();
    }

    /// What must never be, over outputs too.
    void nevers(const toml::table& top) {
        const toml::node* node =
            top["rig"].is_table() ? top["rig"].as_table()->get("never") : nullptr;
        if (node == nullptr)
            return;
        TableReader keys(*top["rig"].as_table(), "[rig]", findings_);
        const auto* list = keys.list("never", 1, 64, "[\"heat_lamp and ventilator\"]");
        if (list == nullptr)
            return;
        outputs_may_be_named_ = true;
        for (const toml::node& one : *list) {
            const auto* text = one.as_string();
            if (text == nullptr) {
                findings_.add(one, "what must never be is a condition, such as \"heat_lamp and "
                                   "ventilator\"");
                continue;
            }
            rig_.nevers.push_back(condition_of(one, text->get()));
        }
        outputs_may_be_named_ = false;
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
        return pin_at(*keys.find(key), *text, use, keys);
    }

    std::string pin_at(const toml::node& node, const std::string& text, PinUse use,
                       const TableReader& keys) {
        const bool analogue = use == PinUse::analogue;
        std::optional<std::string> physical = text;
        if (rig_.chip == "atmega328p")
            physical = atmega328p_pin(text, analogue);
        if (!physical)
            findings_.add(node, fmt::format("the atmega328p has no {} pin \"{}\"; write {}",
                                            analogue                ? "analogue"
                                            : use == PinUse::output ? "output"
                                                                    : "digital",
                                            text,
                                            analogue ? "ADC0 to ADC7"
                                                     : "PB0 to PB7, PC0 to PC5 or PD0 to PD7"));
        else
            findings_.claim_pin(node, *physical, keys.label());
        return text;
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
            add_fact({Fact::Kind::switched, out.source, 0, out.name});
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

    // --- Facts and conditions

    size_t add_fact(Fact fact) {
        rig_.facts.push_back(std::move(fact));
        return rig_.facts.size() - 1;
    }
    /// The number of a fact that may be there already.
    size_t fact_number(Fact fact) {
        for (size_t i = 0; i < rig_.facts.size(); ++i)
            if (rig_.facts[i].name == fact.name)
                return i;
        return add_fact(std::move(fact));
    }

    std::optional<size_t> find_fact(const FactText& text, std::string& problem) {
        if (text.verb == "warns" || text.verb == "by_hand" || text.verb == "stalled")
            return find_of_drive(text, problem);
        if (text.verb == "at")
            return find_full(text, problem);
        if (text.verb == "rises") {
            const auto plain = find_plain({text.name, "", ""}, problem);
            return plain ? std::optional(fact_number(
                               {Fact::Kind::rises, *plain, 0, fmt::format("rises({})", text.name)}))
                         : std::nullopt;
        }
        if (text.verb.empty() || text.verb == "lost")
            return text.verb.empty() ? find_plain(text, problem) : find_lost(text, problem);
        return text.verb == ">=" || text.verb == "locked" ? find_of_decide(text, problem)
                                                          : find_of_machine(text, problem);
    }

    /// A name that is a truth by itself.
    std::optional<size_t> find_plain(const FactText& text, std::string& problem) {
        Names names;
        for (size_t i = 0; i < rig_.facts.size(); ++i) {
            const Fact& fact = rig_.facts[i];
            if (fact.kind != Fact::Kind::switched && fact.kind != Fact::Kind::decision)
                continue;
            if (fact.name == text.name)
                return i;
            names.push_back(fact.name);
        }
        for (size_t i = 0; i < rig_.drives.size(); ++i)
            if (rig_.drives[i].name == text.name) {
                if (outputs_may_be_named_ && text.verb.empty())
                    return fact_number({Fact::Kind::is_on, i, 0, std::string(text.name)});
                return fail_fact(
                    problem,
                    "{0} is an output; only \"never\" of [rig] may look at those. Name "
                    "what switches it",
                    text.name);
            }
        for (const Decide& decide : rig_.decides)
            if (decide.name == text.name && decide.part == Decide::Part::curve)
                return fail_fact(problem,
                                 "{0} is a curve, neither yes nor no; an output follows it with "
                                 "then = \"{0}\"",
                                 text.name);
            else if (decide.name == text.name)
                return fail_fact(problem,
                                 "{0} has stages; write {0} >= 1, with the stage from which "
                                 "on it counts",
                                 text.name);
        for (const RigMachine& machine : rig_.machines)
            if (machine.name == text.name)
                return fail_fact(problem, "{0} is a machine; write {0} in {1}", text.name,
                                 machine.states.empty() ? "STATE" : machine.states.front());
        for (const Source& source : rig_.sources)
            if (source.name == text.name)
                return fail_fact(
                    problem,
                    "{0} is a quantity, neither yes nor no; make a [decide.NAME] with of "
                    "= \"{0}\", or write lost({0})",
                    text.name);
        return fail_fact(problem, "there is no [decide.{}]{}", text.name,
                         suggestion(text.name, names));
    }
    std::optional<size_t> find_lost(const FactText& text, std::string& problem) {
        Names names;
        for (size_t i = 0; i < rig_.sources.size(); ++i) {
            if (rig_.sources[i].name == text.name)
                return fact_number({Fact::Kind::lost, i, 0, fmt::format("lost({})", text.name)});
            names.push_back(rig_.sources[i].name);
        }
        return fail_fact(problem, "there is no [sense.{}] that could be lost{}", text.name,
                         suggestion(text.name, names));
    }
    /// What an output tells of itself, after the pass before if it stands further down.
    std::optional<size_t> find_of_drive(const FactText& text, std::string& problem) {
        const struct {
            std::string_view verb;
            Fact::Kind kind;
            const char* key;
            const char* needs;
        } verbs[] = {
            {"warns", Fact::Kind::warns, "warn", "\"warn\", how long it warns"},
            {"by_hand", Fact::Kind::by_hand, "by_hand", "\"by_hand\", who may take it over"},
            {"stalled", Fact::Kind::stalled, "turns", "\"turns\", what counts its turns"},
        };
        Names names;
        for (const auto& verb : verbs) {
            if (verb.verb != text.verb)
                continue;
            const auto drive = outputs_.number_of(text.name, names);
            if (!drive)
                return fail_fact(problem, "there is no [drive.{}]{}", text.name,
                                 suggestion(text.name, names));
            const toml::table* table = drives_[*drive].second;
            if (table != nullptr && table->get(verb.key) == nullptr)
                return fail_fact(problem, "{0}({1}) can never be: [drive.{1}] has no {2}",
                                 text.verb, text.name, verb.needs);
            return fact_number({verb.kind, *drive, 0, fmt::format("{}({})", text.verb, text.name)});
        }
        return std::nullopt;
    }
    std::optional<size_t> find_full(const FactText& text, std::string& problem) {
        Names names;
        const auto drive = outputs_.number_of(text.name, names);
        if (!outputs_may_be_named_ || !drive)
            return fail_fact(problem,
                             drive ? "only \"never\" of [rig] may look at outputs. Name "
                                     "what sets {}"
                                   : "there is no [drive.{}]",
                             text.name);
        if (text.object != "full")
            return fail_fact(problem, "write {0} at full, or {0} alone for anything but off",
                             text.name);
        return fact_number({Fact::Kind::at_full, *drive, 0, fmt::format("{} at full", text.name)});
    }
    std::optional<size_t> find_of_decide(const FactText& text, std::string& problem) {
        const bool locked = text.verb == "locked";
        const auto wanted = locked ? Decide::Part::attempts : Decide::Part::ladder;
        Names names;
        for (size_t i = 0; i < rig_.decides.size(); ++i) {
            const Decide& decide = rig_.decides[i];
            if (decide.part == wanted)
                names.push_back(decide.name);
            if (decide.name != text.name || decide.part != wanted)
                continue;
            if (locked)
                return fact_number(
                    {Fact::Kind::locked, i, 0, fmt::format("locked({})", text.name)});
            const auto most = std::max<size_t>(decide.stages.size(), 1);
            const size_t stage = stage_number(text.object);
            if (stage < 1 || stage > most)
                return fail_fact(problem, "{} has the stages 1 to {}, not \"{}\"", text.name, most,
                                 text.object);
            return fact_number({Fact::Kind::at_least, i, static_cast<uint8_t>(stage),
                                fmt::format("{} >= {}", text.name, stage)});
        }
        return locked ? fail_fact(problem,
                                  "there is no [decide.{}] with act_for that could be locked{}",
                                  text.name, suggestion(text.name, names))
                      : fail_fact(problem, "there is no [decide.{}] with stages{}", text.name,
                                  suggestion(text.name, names));
    }
    static size_t stage_number(std::string_view text) {
        return text.size() > 2 || text.find_first_not_of("0123456789") != std::string_view::npos
                   ? 0
                   : static_cast<size_t>(std::stoi(std::string(text)));
    }
    std::optional<size_t> find_of_machine(const FactText& text, std::string& problem) {
        Names names;
        for (size_t i = 0; i < rig_.machines.size(); ++i) {
            const RigMachine& machine = rig_.machines[i];
            names.push_back(machine.name);
            if (machine.name != text.name)
                continue;
            for (size_t s = 0; s < machine.states.size(); ++s)
                if (machine.states[s] == text.object)
                    return fact_number(
                        {text.verb == "in"       ? Fact::Kind::in_state
                         : text.verb == "enters" ? Fact::Kind::enters
                                                 : Fact::Kind::leaves,
                         i, static_cast<uint8_t>(s),
                         fmt::format("{} {} {}", text.name, text.verb, text.object)});
            return fail_fact(problem, "{} has no state \"{}\"{}", text.name, text.object,
                             suggestion(text.object, machine.states));
        }
        return fail_fact(problem, "there is no [machine.{}]{}", text.name,
                         suggestion(text.name, names));
    }
    template <class... Parts>
    static std::optional<size_t> fail_fact(std::string& problem, fmt::format_string<Parts...> text,
                                           Parts&&... parts) {
        problem = fmt::format(text, std::forward<Parts>(parts)...);
        return std::nullopt;
    }

    /// A condition as a key holds it; not given if the key is missing.
    WrittenCondition condition(TableReader& keys, std::string_view key) {
        WrittenCondition out;
        const toml::node* node = keys.find(key);
        if (node == nullptr)
            return out;
        const auto text = keys.text(key, "cold and not airing");
        return text ? condition_of(*node, *text) : out;
    }
    WrittenCondition condition_of(const toml::node& node, const std::string& text) {
        WrittenCondition out;
        out.text = text;
        ConditionText read =
            parse_condition(text, [this](const FactText& fact, std::string& problem) {
                return find_fact(fact, problem);
            });
        if (!read.problem.empty()) {
            auto at = node.source().begin;
            at.column += static_cast<toml::source_index>(1 + read.offset);
            findings_.add(at, std::move(read.problem));
        }
        out.condition = std::move(read.condition);
        return out;
    }

    // --- Decisions

    void decide(const toml::key& key, TableReader& keys) {
        Decide out;
        out.name = key.str();
        if (keys.find("when") != nullptr) {
            if (keys.find("of") != nullptr)
                keys.complain(fmt::format("{} has both \"of\", a quantity that it judges, and "
                                          "\"when\", a condition; give one of them",
                                          keys.label()));
            about_truths(keys, out);
        } else {
            about_quantity(keys, out);
        }
        if (out.has_truth())
            out.fact = add_fact({Fact::Kind::decision, rig_.decides.size(), 0, out.name});
        rig_.decides.push_back(std::move(out));
    }

    void about_quantity(TableReader& keys, Decide& out) {
        const auto of = keys.source("of", rig_, nullptr, "the sensor or quantity that it judges");
        out.of = of.value_or(0);
        const bool is_truth = of && rig_.sources[*of].kind == Kind::truth;
        if (is_truth)
            findings_.add(
                *keys.find("of"),
                fmt::format("{0} is yes or no already: name it in a condition, such as when "
                            "= \"{0}\", and drop \"of\"",
                            rig_.sources[*of].name));
        if (is_truth || !of)
            return keys.ignore_the_rest();
        const Kind kind = rig_.sources[*of].kind;
        if (keys.find("points") != nullptr)
            return curve(keys, kind, out);
        const bool rising = keys.find("rising") != nullptr;
        if (rising || keys.find("falling") != nullptr)
            return ladder(keys, kind, rising, out);
        const bool inside = keys.find("inside") != nullptr;
        if (inside || keys.find("outside") != nullptr)
            window(keys, kind, inside, out);
        else
            threshold(keys, kind, out);
        timing(keys, out);
    }

    void about_truths(TableReader& keys, Decide& out) {
        out.part = Decide::Part::condition;
        out.when = condition(keys, "when");
        if (keys.find("act_for") == nullptr)
            return timing(keys, out);
        out.part = Decide::Part::attempts;
        const auto act = keys.quantity("act_for", Kind::duration, "2 s");
        const auto rest = keys.required_quantity("rest_for", Kind::duration, "5 s",
                                                 "how long to rest before looking again");
        out.attempts = act_for(Duration::from_thousandths(act.value_or(1000)))
                           .rest_for(Duration::from_thousandths(rest.value_or(1000)))
                           .tries(static_cast<uint8_t>(keys.whole("tries", 1, 255).value_or(0)));
        if (const auto total = keys.quantity("longest_total", Kind::duration, "5 min"))
            out.attempts = out.attempts.longest_total(Duration::from_thousandths(*total));
        keys.expect(out.attempts.times_can_be_told(), "act_for",
                    "between 1 ms and 24 d, and so must \"rest_for\" and \"longest_total\"");
        keys.expect(out.attempts.total_makes_sense(), "longest_total",
                    "at \"act_for\" or more, so that there is room for one action");
        out.reset = condition(keys, "reset");
    }

    /// How long a truth must last, and how often it must have come.
    void timing(TableReader& keys, Decide& out) {
        const auto yes = keys.quantity("for_at_least", Kind::duration, "30 s");
        const auto no = keys.quantity("gone_for", Kind::duration, "2 min");
        if (yes || no) {
            out.lasting = lasting(Duration::from_thousandths(yes.value_or(0)),
                                  Duration::from_thousandths(no.value_or(0)));
            keys.expect(out.lasting->times_can_be_told(), yes ? "for_at_least" : "gone_for",
                        "between 0 and 24 d");
        }
        if (const auto times = keys.whole("times", 1, 60'000))
            out.times = static_cast<uint16_t>(*times);
        out.reset = condition(keys, "reset");
        if (out.reset.given() && out.times == 0)
            findings_.add(*keys.find("reset"),
                          "\"reset\" belongs to \"times\", after which it is yes until the reset; "
                          "add times = 3, or drop it");
    }

    /// The values of a list that a decision is made of.
    std::vector<AnyQuantity> points(TableReader& keys, std::string_view key, Kind kind,
                                    size_t least, size_t most) {
        std::vector<AnyQuantity> out;
        for (const int32_t value : keys.quantities(
                 key, kind, least, most, fmt::format("[\"{0}\", \"{0}\"]", example_of(kind))))
            out.push_back(AnyQuantity::from_thousandths(value));
        return out;
    }

    void window(TableReader& keys, Kind kind, bool inside, Decide& out) {
        out.part = Decide::Part::window;
        const std::string_view key = inside ? "inside" : "outside";
        if (keys.find("inside") != nullptr && keys.find("outside") != nullptr)
            keys.complain(fmt::format("{} has both \"inside\" and \"outside\"; give one of them",
                                      keys.label()));
        const auto ends = points(keys, key, kind, 2, 2);
        keys.require("release", "the two points where it lets go again",
                     fmt::format("[\"{0}\", \"{0}\"]", example_of(kind)));
        const auto release = points(keys, "release", kind, 2, 2);
        if (ends.size() != 2 || release.size() != 2)
            return;
        out.window = {inside, ends[0], ends[1], release[0], release[1]};
        if (!keys.expect(out.window.is_a_range(), key, "with the lower end first"))
            return;
        keys.expect(out.window.release_is_beyond(), "release",
                    inside
                        ? "further out than \"inside\", on both sides: that gap is the hysteresis"
                        : "further in than \"outside\", on both sides: that gap is the hysteresis");
        for (size_t i = 0; i < 2; ++i)
            placed_pair(*keys.find(key), *keys.find("release"), out, ends[i], release[i]);
    }

    void ladder(TableReader& keys, Kind kind, bool rising, Decide& out) {
        out.part = Decide::Part::ladder;
        const std::string_view key = rising ? "rising" : "falling";
        if (keys.find("rising") != nullptr && keys.find("falling") != nullptr)
            keys.complain(fmt::format("{} has both \"rising\" and \"falling\"; give one of them",
                                      keys.label()));
        const auto begins = points(keys, key, kind, 1, 16);
        const toml::node* node = keys.find("release");
        std::vector<AnyQuantity> releases;
        if (node == nullptr)
            keys.require("release", "where the stages let go: one point for all, or one for each",
                         fmt::format("\"{}\"", example_of(kind)));
        else if (node->is_array())
            releases = points(keys, "release", kind, begins.size(), begins.size());
        else if (const auto one = keys.quantity("release", kind, example_of(kind)))
            releases.assign(begins.size(), AnyQuantity::from_thousandths(*one));
        if (begins.empty() || releases.size() != begins.size())
            return;
        bool ordered = true, beyond = true;
        for (size_t i = 0; i < begins.size(); ++i) {
            out.stages.push_back({rising ? Side::above : Side::below, begins[i], releases[i]});
            beyond = beyond && out.stages[i].release_is_beyond();
            if (i == 0)
                continue;
            ordered =
                ordered && (rising ? begins[i - 1] < begins[i] : begins[i] < begins[i - 1]) &&
                (rising ? !(releases[i] < releases[i - 1]) : !(releases[i - 1] < releases[i]));
        }
        keys.expect(ordered, key,
                    "in order: each stage beyond the one before it, and none may let go "
                    "before the one below it");
        keys.expect(beyond, "release",
                    rising ? "below the point where the stage begins: that gap is the hysteresis"
                           : "above the point where the stage begins: that gap is the hysteresis");
        for (size_t i = 0; ordered && beyond && i < begins.size(); ++i)
            placed_pair(*keys.find(key), *node, out, begins[i], releases[i]);
    }

    void curve(TableReader& keys, Kind kind, Decide& out) {
        out.part = Decide::Part::curve;
        const std::string example = fmt::format("[[\"{}\", \"20 %\"], ...]", example_of(kind));
        const auto duty = [&](const toml::node& node, std::string_view key) {
            const auto share = keys.quantity_of(node, key, Kind::percentage, "20 %");
            if (share && (*share < 0 || *share > 100'000))
                findings_.add(node, "a duty must lie between 0 % and 100 %");
            return Duty(Percentage::from_thousandths(std::clamp(share.value_or(0), 0, 100'000)));
        };
        if (const auto* list = keys.list("points", 2, 16, example))
            for (const toml::node& node : *list) {
                const auto* pair = node.as_array();
                if (pair == nullptr || pair->size() != 2) {
                    findings_.add(node, fmt::format("a point of a curve is a quantity and a duty, "
                                                    "such as [\"{}\", \"20 %\"]",
                                                    example_of(kind)));
                    continue;
                }
                const auto at = keys.quantity_of(*pair->get(0), "points", kind, example_of(kind));
                const Duty share = duty(*pair->get(1), "points");
                if (!at)
                    continue;
                const auto point = AnyQuantity::from_thousandths(*at);
                if (!out.points.empty() && !(out.points.back().at < point))
                    findings_.add(*pair->get(0), "the points of a curve must go up in their "
                                                 "quantity; put them in order");
                out.points.push_back({point, share});
            }
        for (const char* key : {"floor", "dead_band"})
            if (const toml::node* node = keys.find(key))
                (key[0] == 'f' ? out.floor : out.dead_band) = duty(*node, key);
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
        placed_pair(threshold, release, decide, decide.spec.threshold, decide.spec.release);
    }

    /// Complains about a point and its release that the sensor cannot reach or tell apart.
    void placed_pair(const toml::node& point, const toml::node& release, const Decide& decide,
                     AnyQuantity at, AnyQuantity lets_go) {
        if (!sound_[decide.of])
            return;
        const bool reaches_point = reachable(point, decide.of, at);
        const bool reaches_release = reachable(release, decide.of, lets_go);
        const Sense* sense = rig_.sense_of(decide.of);
        if (!reaches_point || !reaches_release || sense == nullptr || !sense->scale.known())
            return;
        const Kind kind = rig_.sources[decide.of].kind;
        const auto shown = [kind](AnyQuantity value) { return to_text(value.thousandths(), kind); };
        const int32_t counts =
            hysteresis_counts(sense->scale, ThresholdSpec<AnyQuantity>{Side::below, at, lets_go});
        if (counts < least_hysteresis_counts)
            findings_.add(
                release,
                fmt::format("from {} to {} is {} of the converter, so that noise alone would "
                            "make the output chatter; move the release point further {}",
                            shown(at), shown(lets_go),
                            counts == 0 ? "less than one count" : "only one count",
                            lets_go > at ? "up" : "down"));
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

    // --- Machines

    /// The states of a machine and its moves, without their events.
    void machine(const toml::key& key, TableReader& keys) {
        RigMachine out;
        out.name = key.str();
        const std::string example = "[ { from = \"shut\", to = \"open\", when = \"dawn\" } ]";
        Waiting waiting{keys.find("start"), rig_.machines.size(), keys.label(), {}, {}};
        keys.require("start", "the state that it starts in", "\"shut\"");
        if (const auto start = keys.text("start", "shut"))
            out.start = state_number(out, *start, keys.find("start"));
        keys.require("moves", "its transitions", example);
        if (const auto* moves = keys.list("moves", 1, 127, example))
            for (const toml::node& node : *moves) {
                const auto* table = node.as_table();
                if (table == nullptr) {
                    findings_.add(node, fmt::format("a move must look like {}",
                                                    example.substr(2, example.size() - 4)));
                    continue;
                }
                move(*table, out);
                waiting.moves.push_back(table);
            }
        // What it may end in.
        if (const auto* ends = keys.list("ends_in", 1, 32, "[\"done\"]"))
            for (const toml::node& node : *ends) {
                const auto* name = node.as_string();
                const size_t before = out.states.size();
                const uint8_t state =
                    name == nullptr ? uint8_t{0} : state_number(out, name->get(), &node);
                if (name == nullptr || out.states.size() > before)
                    findings_.add(node, fmt::format("{} has no such state{}", out.name,
                                                    name == nullptr
                                                        ? std::string()
                                                        : suggestion(name->get(), out.states)));
                waiting.ends.push_back(state);
            }
        waiting_.push_back(std::move(waiting));
        rig_.machines.push_back(std::move(out));
    }

    uint8_t state_number(RigMachine& machine, const std::string& name, const toml::node* node) {
        for (size_t i = 0; i < machine.states.size(); ++i)
            if (machine.states[i] == name)
                return static_cast<uint8_t>(i);
        if (!is_plain_name(name))
            findings_.add(*node, fmt::format("\"{}\" cannot be a state; use lower-case letters, "
                                             "digits and _, beginning with a letter",
                                             name));
        if (machine.states.size() == 32)
            findings_.add(*node, "a machine has at most 32 states");
        machine.states.push_back(name);
        return static_cast<uint8_t>(std::min<size_t>(machine.states.size() - 1, 31));
    }

    void move(const toml::table& table, RigMachine& out) {
        TableReader keys(table, "a move", findings_);
        MachineMove result;
        keys.require("from", "the state that it leaves, or \"any\"", "\"shut\"");
        const auto from = keys.text("from", "shut");
        if (from && *from != "any")
            result.from = state_number(out, *from, keys.find("from"));
        keys.require("to", "the state that it goes to", "\"open\"");
        if (const auto to = keys.text("to", "open"))
            result.to = state_number(out, *to, keys.find("to"));
        if (const auto after = keys.quantity("after", Kind::duration, "20 s")) {
            result.after = static_cast<uint32_t>(std::max(*after, 0));
            keys.expect(*after > 0 && Duration::from_thousandths(*after) <= MachineState::longest,
                        "after", "above 0, and up to 24 d");
        }
        if (keys.find("when") == nullptr && keys.find("after") == nullptr)
            keys.complain(
                "a move needs \"when\", its event, or \"after\", how long the state lasts; "
                "for example after = \"20 s\"");
        keys.finish();
        out.moves.push_back(result);
    }

    /// The events of all machines, now that every name is known, and what is wrong with their
    /// tables.
    void finish_machines() {
        for (const Waiting& waiting : waiting_) {
            RigMachine& machine = rig_.machines[waiting.machine];
            for (size_t i = 0; i < waiting.moves.size(); ++i) {
                TableReader keys(*waiting.moves[i], "a move", findings_);
                WrittenCondition when = condition(keys, "when");
                if (!when.given())
                    continue;
                size_t event = 0;
                while (event < machine.events.size() && machine.events[event].text != when.text)
                    ++event;
                if (event == machine.events.size())
                    machine.events.push_back(std::move(when));
                machine.moves[i].when = static_cast<uint8_t>(event);
            }
            look_at(waiting, machine);
        }
    }

    struct Waiting {
        const toml::node* start;
        size_t machine;
        std::string label;
        std::vector<const toml::table*> moves;
        std::vector<uint8_t> ends;
    };

    void look_at(const Waiting& waiting, const RigMachine& machine) {
        if (waiting.moves.size() != machine.moves.size() || machine.moves.empty())
            return;
        const auto at = [&machine](uint8_t i) { return machine.moves[i]; };
        const detail::MachineChecks<decltype(at)> checks{
            at, static_cast<uint8_t>(machine.moves.size()),
            static_cast<uint8_t>(machine.states.size()), machine.start};
        const toml::table& first = *waiting.moves.front();
        const bool start_is_named =
            std::any_of(machine.moves.begin(), machine.moves.end(), [&](const MachineMove& move) {
                return move.from == machine.start || move.to == machine.start;
            });
        if (!start_is_named && waiting.start != nullptr) {
            const Names others(machine.states.begin() + 1, machine.states.end());
            return findings_.add(*waiting.start,
                                 fmt::format("no move leaves \"{}\", or leads there{}",
                                             machine.states[machine.start],
                                             suggestion(machine.states[machine.start], others)));
        }
        for (size_t i = 0; i < machine.states.size(); ++i) {
            const auto state = static_cast<uint8_t>(i);
            const auto place = [&]() -> const toml::node& {
                for (const toml::table* move : waiting.moves)
                    for (const char* key : {"to", "from"})
                        if (const auto* text = (*move)[key].as_string();
                            text != nullptr && text->get() == machine.states[i])
                            return *text;
                return first;
            };
            if (!checks.is_reachable(state))
                findings_.add(place(),
                              fmt::format("{} can never come into \"{}\": no way leads there "
                                          "from \"{}\", where it starts",
                                          machine.name, machine.states[i],
                                          machine.states[machine.start]));
            const bool ends =
                std::find(waiting.ends.begin(), waiting.ends.end(), state) != waiting.ends.end();
            if (!checks.has_way_out(state) && !ends)
                findings_.add(
                    place(),
                    fmt::format("{} can never leave \"{}\"; if that is meant, write ends_in "
                                "= [\"{}\"] in {}",
                                machine.name, machine.states[i], machine.states[i], waiting.label));
        }
        for (uint8_t i = 0; i < machine.moves.size(); ++i)
            if (checks.is_hidden(i))
                findings_.add(*waiting.moves[i],
                              "this move can never be taken: one above it always is, or another's "
                              "\"after\" runs out earlier; drop it, or put it first");
    }

    // --- Outputs

    /// Learns the names of all outputs, since whatever is read before them may name them.
    void name_outputs(const toml::table& top) {
        const auto* drives = top["drive"].as_table();
        if (drives == nullptr)
            return;
        for (const auto& [key, node] : *drives)
            drives_.emplace_back(&key, node.as_table());
        std::sort(drives_.begin(), drives_.end(), [](const auto& a, const auto& b) {
            const auto from = a.first->source().begin, to = b.first->source().begin;
            return std::tie(from.line, from.column) < std::tie(to.line, to.column);
        });
        std::vector<const toml::key*> keys;
        for (const auto& [key, table] : drives_)
            keys.push_back(key);
        outputs_.outputs(std::move(keys));
    }

    std::vector<std::string> pins(TableReader& keys, std::string_view key) {
        std::vector<std::string> out;
        const std::string example = "[\"PD4\", \"PD5\", \"PD6\"]";
        if (!keys.require(key, "where its LEDs are connected, the lowest first", example))
            return out;
        const auto* list = keys.list(key, 1, 16, example);
        if (list == nullptr)
            return out;
        for (const toml::node& node : *list) {
            const auto* text = node.as_string();
            if (text == nullptr)
                findings_.add(node, "a pin is a text, such as \"PD4\"");
            else
                out.push_back(pin_at(node, text->get(), PinUse::output, keys));
        }
        return out;
    }

    bool has_pwm(const std::string& name) const {
        static const Names with_pwm = {"PB1", "PB2", "PB3", "PD3", "PD5", "PD6"};
        return rig_.chip != "atmega328p" ||
               std::find(with_pwm.begin(), with_pwm.end(), name) != with_pwm.end();
    }

    Findings findings_;
    Rig rig_;
    bool outputs_may_be_named_ = false;
    std::vector<std::pair<const toml::key*, const toml::table*>> drives_; ///< in their order
    OutputReader outputs_{
        rig_,
        findings_,
        {[this](TableReader& keys, std::string_view key) { return condition(keys, key); },
         [this](TableReader& keys, std::string_view key, std::string_view why) {
             return pin(keys, PinUse::output, key, why);
         },
         [this](TableReader& keys, std::string_view key) { return pins(keys, key); },
         [this](const std::string& name) { return has_pwm(name); },
         [this](Fact fact) { return fact_number(std::move(fact)); }}};
    std::vector<Waiting> waiting_; ///< machines whose events are not yet read
    std::vector<bool> sound_;      ///< for each source, whether its numbers can be used
};

} // namespace

std::vector<DecidePoint> points_of(const Decide& decide) {
    const auto side = [](Side s) { return s == Side::below ? "below" : "above"; };
    switch (decide.part) {
    case Decide::Part::threshold:
        return {{decide.spec.threshold, decide.spec.release,
                 fmt::format("{} {}", decide.name, side(decide.spec.side))}};
    case Decide::Part::window: {
        const auto& w = decide.window;
        return {{w.low, w.low_release,
                 fmt::format("{} {}", decide.name, w.is_inside ? "from" : "below")},
                {w.high, w.high_release,
                 fmt::format("{} {}", decide.name, w.is_inside ? "up to" : "above")}};
    }
    case Decide::Part::ladder: {
        std::vector<DecidePoint> out;
        for (size_t i = 0; i < decide.stages.size(); ++i)
            out.push_back(
                {decide.stages[i].threshold, decide.stages[i].release,
                 fmt::format("{} {} {}", decide.name, i + 1, side(decide.stages[i].side))});
        return out;
    }
    case Decide::Part::curve:
    case Decide::Part::condition:
    case Decide::Part::attempts: break;
    }
    return {};
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
