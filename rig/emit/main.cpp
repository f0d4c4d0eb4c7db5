// SPDX-License-Identifier: MIT
// The firmware around a device: what its loop reads and writes.
#include "rig/emit/loop.hpp"
#include "rig/emit/writer.hpp"
#include "rig/read/toml.hpp"
#include "rig/sense/said.hpp"

namespace zorilla::rig {

namespace {

size_t width_of(ValueKind kind) {
    switch (kind) {
    case ValueKind::on_off: return 2;
    case ValueKind::duty: return 4;
    case ValueKind::stage: return 3;
    case ValueKind::tone: return 6;
    case ValueKind::colour: break;
    }
    return 9;
}

} // namespace

size_t row_size(const Rig& rig) {
    size_t out = MainWriter::time_width;
    bool listens = false;
    for (const Sense& sense : rig.senses) {
        out += MainWriter::width(sense.raw);
        listens = listens || sense.pin.empty();
    }
    for (const Drive& drive : rig.drives)
        out += width_of(drive.kind());
    return out + (listens ? MainWriter::answer_width : 0);
}

int64_t converter_round(const Rig& rig) {
    const ChipFacts* chip = rig.chip_facts();
    if (chip == nullptr || chip->port_at == nullptr)
        return 0;
    // On an AVR one conversion in each, and one more that is dropped where there are several.
    int64_t conversions = 0, channels = 0;
    for (const Sense& sense : rig.senses)
        if (sense_kind(sense.word)->analogue) {
            conversions += int64_t{1} << 2 * sense.extra_bits;
            ++channels;
        }
    return channels > 1 ? conversions + channels : conversions;
}

uint32_t number_of(const Rig& rig) {
    Node written = rig.written;
    written.drop("promise"); // which changes nothing of the device
    // What a setting usually is stands in no row: that says what it is.
    for (const Sense& sense : rig.senses)
        if (sense.word == "line_setting")
            written.get("sense")->get(sense.name)->drop("value");
    return number_of(to_toml(written));
}

std::string header_of(const Rig& rig) {
    std::string columns;
    for (const Sense& sense : rig.senses)
        columns += MainWriter::head(sense.name, sense.raw);
    for (const Drive& drive : rig.drives)
        columns += MainWriter::output_head(drive.name);
    return MainWriter::header(columns, number_of(rig));
}

Firmware firmware_of(const Rig& rig, const std::string& name, std::string_view text,
                     const FirmwarePlan& plan) {
    Firmware out;
    DeviceWriter writer(rig, text, out);
    writer.write(name);
    if (rig.chip_facts() == nullptr)
        return out; // what is around the device, nobody knows
    const ChipFacts& chip = *rig.chip_facts();
    MainWriter loop(chip, rig.line);
    for (const DeviceWriter::Input& input : writer.inputs()) {
        if (input.role.empty() && !input.part.empty()) {
            const Node& table = *rig.written.get("sense")->get(input.name);
            loop.setting(input.name, name + "::" + input.part,
                         fmt::format("{} {}", table.get("from")->measure()->thousandths,
                                     table.get("to")->measure()->thousandths));
            loop.reads += fmt::format("        in.{0} = line::{0}.sample();\n", input.name);
            loop.column(input.name, input.sense->raw, "in." + input.name);
            continue;
        }
        if (input.role.empty()) {
            const bool is_level = input.sense->raw == RawKind::level;
            loop.said(
                input.name,
                fmt::format(
                    "{}, {}",
                    cpp_quantity(
                        longest_said(*rig.written.get("sense")->get(input.name)).thousandths(),
                        Kind::duration),
                    is_level ? "1" : "said_full"));
            loop.reads += fmt::format("        in.{0} = line::{0}.{1}(now);\n", input.name,
                                      is_level ? "level" : "sample");
            loop.column(input.name, input.sense->raw, "in." + input.name);
            continue;
        }
        const std::string called = loop.role(input.name, input.role);
        loop.reads += fmt::format("        in.{} = Wires::read<{}>();\n", input.name, called);
        loop.column(input.name, input.sense->raw, "in." + input.name);
        // After the pass: before it, the block does not know yet of the answer just read.
        if (input.type == "FrameSample")
            loop.writes += fmt::format("        if (device.{}.due(now))\n"
                                       "            Wires::start<{}>();\n",
                                       input.block, called);
        for (const PartPin& pin : input.sense->other_pins)
            if (pin.key == "power_pin") {
                const std::string power =
                    loop.role(input.name + "_power", "Switched<" + board_pin(pin.pin) + ">");
                loop.writes +=
                    fmt::format("        Wires::write<{}>(device.{}.powered() ? on : off);\n",
                                power, input.block);
            }
    }
    for (size_t i = 0; i < rig.drives.size(); ++i) {
        const DeviceWriter::OutputPin& output = writer.outputs()[i];
        loop.writes += fmt::format("        Wires::write<{}>({});\n",
                                   loop.role(rig.drives[i].name, output.role), output.value);
        loop.output(rig.drives[i].name, width_of(rig.drives[i].kind()), output.is);
    }
    if (plan.sends)
        loop.send(rig.report);
    loop.identify(number_of(rig));
    loop.reads += "        device.pass(now, in);\n";
    loop.includes = "#include \"device.hpp\"\n\n" + loop.includes;
    loop.globals = fmt::format("// Where a rehearsal can find them, and not on the stack, which "
                               "would take more code.\n{0}::Device device;\n{0}::Inputs in;\n"
                               "Instant now;\n",
                               name);
    out.main = loop.text(
        fmt::format("{} on {}. Written from its rig file.", rig.name, with_clock(chip)), plan.pass);
    return out;
}

} // namespace zorilla::rig
