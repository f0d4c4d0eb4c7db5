// SPDX-License-Identifier: MIT
// Sensors, derived quantities, decisions and machines as C++.
#include "rig/decide/part.hpp"
#include "rig/derive/part.hpp"
#include "rig/emit/writer.hpp"
#include "rig/sense/part.hpp"

#include <algorithm>

namespace zorilla::rig {

namespace {

std::string type_of(Kind kind) {
    const std::string plain(cpp_type_of(kind));
    return kind < Kind::per_minute                               ? plain
           : kind == per_minute_of(Kind::temperature_difference) ? "ChangePerMinute<Temperature>"
                                                                 : "ChangePerMinute<" + plain + ">";
}

std::string literal(const Node* node) {
    return node == nullptr || !node->measure()
               ? std::string()
               : cpp_quantity(node->measure()->thousandths, node->measure()->kind);
}

} // namespace

void DeviceWriter::sense(const Sense& sense) {
    const SenseKind& kind = *sense_kind(sense.word);
    const Node& table = table_of("sense", sense.name);
    const std::string label = fmt::format("[sense.{}]", sense.name);
    constants_ += comment(sense.place);
    const CppForm form(table, [](const std::string& text) {
        const std::string pin = board_pin(text);
        return pin.empty() ? text : pin;
    });
    std::string value = spec(table, kind.keys, kind.cpp.starts, form, label, sense.place);
    const Node* extra = table.get("extra_bits");
    const int64_t bits = rig_.converter_bits + (extra == nullptr ? 0 : *extra->as_whole());
    constexpr int64_t usual_bits = 10; // where nothing else is said
    if (kind.analogue && bits != usual_bits && !value.empty())
        value += fmt::format(".bits({})", bits);
    const std::string name = names_.take(sense.name);
    const std::string part = value.empty() ? std::string() : constant(sense.name + "_part", value);
    if (*kind.cpp.block != '\0')
        member(fmt::format("{}<{}>", kind.cpp.block, part), name, form.fill(kind.cpp.init));
    inputs_text_ += fmt::format("    {} {};\n", kind.cpp.input, sense.name);
    // The role of its pin, with what no key says as it is.
    std::string role = kind.cpp.role;
    const Node* active = table.get("active");
    put(role, "{held}", active != nullptr && *active->as_text() == "low" ? "up" : "none");
    const ChipFacts* chip = rig_.chip_facts();
    const Reference reference =
        chip == nullptr ? Reference::supply : chip->reference_of(sense.reference);
    if (kind.analogue && (reference != Reference::supply || sense.extra_bits != 0))
        put(role, "{pin}",
            fmt::format("{{pin}}, Reference::{}{}",
                        reference == Reference::internal   ? "internal"
                        : reference == Reference::external ? "external"
                                                           : "supply",
                        sense.extra_bits == 0 ? "" : fmt::format(", {}", sense.extra_bits)));
    const Node* shortest = table.get("shortest");
    put(role, "{shortest}",
        fmt::format("{}",
                    shortest == nullptr ? 0 : int64_t{shortest->measure()->thousandths} * 1000));
    inputs_.push_back({sense.name, form.fill(role), kind.cpp.input, &sense, name, part});

    const Node* air = table.get("temperature");
    const bool fixed = kind.cpp.reads_at != nullptr && air != nullptr && air->measure();
    std::string reads = fixed ? kind.cpp.reads_at : kind.cpp.reads;
    if (fixed)
        put(reads, "{air}", fmt::format("{}", air->measure()->thousandths));
    put(reads, "{air}",
        air == nullptr          ? std::string("Reading<Temperature>::of(20_degC)")
        : !sense.inputs.empty() ? sources_[sense.inputs.front()]
                                : fmt::format("Reading<Temperature>::of({})", literal(air)));
    std::string sample = "in." + sense.name;
    const Kind measured = rig_.sources[sense.source].kind;
    put(reads, "{type}", type_of(measured));
    put(reads, "{part}", part);
    if (const Node* table_of_it = table.get("climate"))
        reads = fmt::format("read<{}>(now, {{in}}, AirReading{{{}, {}}})",
                            climate(*table_of_it, sense.name), sources_[sense.inputs[1]],
                            sources_[sense.inputs[0]]);
    std::string reading = (*kind.cpp.block == '\0' ? "" : name + ".") + reads;
    filters(table, sense, type_of(measured), reading, sample);
    put(reading, "{in}", sample);
    if (sense.trimmed_by)
        reading = fmt::format("trimmed<{}>({}, {})", type_of(measured), reading,
                              sources_[*sense.trimmed_by]);
    std::string now;
    if (const Node* stuck = table.get("stuck_after"); stuck != nullptr && sense.sources == 2) {
        now = names_.take(sense.name + "_now");
        watch_frame(*stuck, now, reading);
    } else {
        now = local(sense.name + "_now", reading);
    }
    sources_[sense.source] = now;
    if (sense.sources == 2) {
        sources_[sense.source] = now + ".humidity";
        sources_[sense.source + 1] = now + ".temperature";
    }
    for (size_t i = 0; i < rig_.facts.size(); ++i)
        if (rig_.facts[i].kind == Fact::Kind::switched && rig_.facts[i].of == sense.source)
            truths_[i] = now;
}

std::string DeviceWriter::climate(const Node& table, const std::string& name) {
    const CppForm form(table);
    std::string factors;
    for (const Node& row : table.get("factors")->inside())
        for (const Node& factor : row.inside())
            factors += (factors.empty() ? "" : ", ") + form.value(factor) + "_times";
    const std::string out = names_.take(name + "_climate");
    constants_ +=
        fmt::format("inline constexpr ClimateTable<{}, {}> {}{{{{{}}}, {{{}}}, {{{}}}}};\n",
                    table.get("temperatures")->size(), table.get("humidities")->size(), out,
                    form.fill("{temperatures:{}}"), form.fill("{humidities:{}}"), factors);
    return out;
}

void DeviceWriter::watch_frame(const Node& stuck, const std::string& name,
                               const std::string& reading) {
    // Temperature may well stand still for hours; humidity wanders.
    const std::string watch = names_.take(name + "_watch");
    member("Watch<RelativeHumidity>", watch, literal(&stuck) + ", 0_s");
    statement(fmt::format("auto {} = {};", name, reading));
    statement(fmt::format("{0}.humidity = {1}.pass(now, {0}.humidity);", name, watch));
    statement(fmt::format("if ({}.humidity.health() == Health::stuck)", name));
    statement(fmt::format("    {} = AirReading::without_value(Health::stuck);", name));
}

void DeviceWriter::filters(const Node& table, const Sense& sense, const std::string& type,
                           std::string& reading, std::string& sample) {
    const bool is_frame = sense.sources == 2;
    const auto add = [&](const char* key, const std::string& block, const std::string& init,
                         const char* calls) {
        const std::string name = names_.take(fmt::format("{}_{}", sense.name, key));
        member(block, name, init);
        reading = fmt::format("{}.pass({}{})", name, calls, reading);
    };
    const auto of = [&](const char* key) {
        // A frame's "hold" is its own.
        return is_frame && std::string_view(key) == "hold" ? nullptr : table.get(key);
    };
    const Node* const added = of("spread"); // over passes
    if (added != nullptr) {
        const std::string name = names_.take(sense.name + "_finer");
        member(fmt::format("Oversampling<{}>", *table.get("extra_bits")->as_whole()), name,
               fmt::format("{}", *added->as_whole()));
        sample = fmt::format("{}.pass({})", name, sample);
    }
    if (const Node* trim = of("trim")) {
        const std::string name = names_.take(sense.name + "_trim");
        member(fmt::format("Trim<{}>", type), name);
        std::string points;
        for (const Node& pair : trim->inside())
            points += fmt::format("{}Reading<{}>::of({}), {}", points.empty() ? "" : ", ", type,
                                  literal(&pair[0]), literal(&pair[1]));
        begin_ += fmt::format("        {}.{}({});\n", name,
                              trim->size() == 1 ? "one_point" : "two_point", points);
        reading = fmt::format("{}.pass({})", name, reading);
    }
    if (const Node* hold = of("hold"))
        add("hold", fmt::format("Hold<{}>", type), literal(hold), "now, ");
    if (const Node* median = of("median"))
        add("calm", fmt::format("Median<{}, {}>", *median->as_whole(), type), {}, "");
    if (const Node* fastest = of("fastest_change"))
        add("gate", fmt::format("RateGate<{}>", type),
            fmt::format("{}, {}",
                        // The change in a minute, as the difference that it is.
                        cpp_quantity(fastest->measure()->thousandths,
                                     difference_of(rig_.sources[sense.source].kind)),
                        of("believe_after") == nullptr ? std::string("30_s")
                                                       : literal(of("believe_after"))),
            "now, ");
    if (const Node* smooth = of("smooth"))
        add("smooth", fmt::format("Smoothing<{}>", type), literal(smooth), "now, ");
    if (is_frame)
        return;
    const Node *stuck = of("stuck_after"), *stale = of("stale_after");
    if (stuck != nullptr || stale != nullptr || added != nullptr)
        add("watch", fmt::format("Watch<{}>", type),
            fmt::format("{}, {}", stuck == nullptr ? std::string("0_s") : literal(stuck),
                        stale != nullptr   ? literal(stale)
                        : added != nullptr ? std::string("1_s")
                                           : std::string("0_s")),
            "now, ");
}

void DeviceWriter::derive(const Derive& derive) {
    const auto kind = std::find_if(derive_kinds().begin(), derive_kinds().end(),
                                   [&](const DeriveKind& one) { return derive.word == one.word; });
    const Node& table = table_of("derive", derive.name);
    const CppForm form(table, [this](const std::string& text) {
        for (size_t i = 0; i < rig_.sources.size(); ++i)
            if (rig_.sources[i].name == text)
                return sources_[i];
        return text;
    });
    std::string makes = kind->makes, block = kind->block;
    const std::string type = type_of(rig_.sources[derive.of.front()].kind);
    put(block, "{type}", type);
    put(makes, "{count}", fmt::format("{}", derive.of.size()));
    if (!block.empty()) {
        const std::string self = names_.take(derive.name);
        member(block, self, form.fill(kind->init));
        put(makes, "{self}", self);
    }
    if (makes.find("{list}") != std::string::npos) {
        const std::string list = names_.take(derive.name + "_of");
        std::string readings;
        for (const size_t of : derive.of)
            readings += (readings.empty() ? "" : ", ") + sources_[of];
        statement(fmt::format("const Reading<{}> {}[] = {{{}}};", type, list, readings));
        put(makes, "{list}", list);
    }
    // A fixed flow is a reading too.
    if (const Node* flow = table.get("flow"); flow != nullptr && flow->measure())
        put(makes, "{flow}", fmt::format("Reading<AirFlow>::of({})", literal(flow)));
    sources_[derive.source] = local(derive.name + "_now", form.fill(makes));
}

void DeviceWriter::decide(const Decide& decide) {
    const auto kind = std::find_if(decide_kinds().begin(), decide_kinds().end(),
                                   [&](const DecideKind& one) { return decide.word == one.word; });
    const auto index = static_cast<size_t>(&decide - rig_.decides.data());
    const Node& table = table_of("decide", decide.name);
    constants_ += comment(decide.place);
    const CppForm form(table);
    const std::string name = names_.take(decide.name);
    decides_[index] = name;
    if (*kind->block != '\0') {
        const std::string points = constant(
            decide.name + "_points", spec(table, kind->keys, kind->starts, form,
                                          fmt::format("[decide.{}]", decide.name), decide.place));
        member(fmt::format("{}<{}>", kind->block, points), name);
    }
    std::string truth;
    if (decide.judges) {
        truth = fmt::format("{}.decide({})", name, sources_[decide.of]);
    } else if (*kind->block == '\0') {
        truth = condition(decide.when);
    } else {
        statement(fmt::format("{}.pass(now, {}, {});", name, condition(decide.when),
                              decide.reset.given() ? condition(decide.reset) : "Truth::no"));
        truth = name + ".acts()";
    }
    if (!decide.has_truth()) {
        given_[index] = local(decide.name + "_now", truth);
        return;
    }
    timing(decide, table, truth);
    truths_[decide.fact] = local(decide.name + "_now", truth);
}

void DeviceWriter::timing(const Decide& decide, const Node& table, std::string& truth) {
    if (decide.lasting) {
        const auto time = [&table](const char* key) {
            const Node* node = table.get(key);
            return node == nullptr ? std::string("0_s") : literal(node);
        };
        const std::string spec =
            constant(decide.name + "_lasting",
                     fmt::format("lasting({}, {})", time("for_at_least"), time("gone_for")));
        const std::string block = names_.take(decide.name + "_long");
        member(fmt::format("Lasting<{}>", spec), block);
        truth = fmt::format("{}.pass(now, {})", block, truth);
    }
    if (decide.times > 0) {
        const std::string block = names_.take(decide.name + "_count");
        member(fmt::format("Counter<{}>", decide.times), block);
        truth = fmt::format("{}.pass({}, {})", block, truth,
                            decide.reset.given() ? condition(decide.reset) : "Truth::no");
    }
}

void DeviceWriter::machine(const RigMachine& machine) {
    const auto index = static_cast<size_t>(&machine - rig_.machines.data());
    const std::string state = camel(machine.name, "State"), event = camel(machine.name, "Event");
    constants_ += comment(machine.place);
    const auto listed = [](const std::vector<std::string>& words) {
        return fmt::format("{}", fmt::join(words, ", "));
    };
    constants_ += fmt::format("enum class {} : uint8_t {{ {} }};\n", state, listed(machine.states));
    CppNames taken;
    std::vector<std::string> events;
    for (const WrittenCondition& one : machine.events)
        events.push_back(taken.take(plain_name(one.text)));
    if (!events.empty())
        constants_ += fmt::format("enum class {} : uint8_t {{ {} }};\n", event, listed(events));
    const auto of = [&](uint8_t number) { return state + "::" + machine.states[number]; };
    std::string moves, ends;
    for (const MachineMove& move : machine.moves) {
        moves += move.from == MachineMove::any
                     ? fmt::format(",\n    transition_from_any({})", of(move.to))
                     : fmt::format(",\n    transition({}, {})", of(move.from), of(move.to));
        if (move.has_event())
            moves += fmt::format(".when({}::{})", event, events[move.when]);
        if (move.after > 0)
            moves += fmt::format(".after({})",
                                 cpp_quantity(static_cast<int32_t>(move.after), Kind::duration));
    }
    if (const Node* list = table_of("machine", machine.name).get("ends_in"))
        for (const Node& one : list->inside())
            ends += fmt::format("{}{}::{}", ends.empty() ? "" : ", ", state, *one.as_text());
    const std::string moves_name = constant(
        machine.name + "_moves", fmt::format("machine({}{}){}", of(machine.start), moves,
                                             ends.empty() ? ends : ".ends_in(" + ends + ")"));
    member(fmt::format("Machine<{}>", moves_name), machines_[index]);
    std::string call = "now";
    for (size_t i = 0; i < events.size(); ++i)
        call += fmt::format(", event<{}::{}>({})", event, events[i], condition(machine.events[i]));
    statement(fmt::format("{}.pass({});", machines_[index], call));
}

} // namespace zorilla::rig
