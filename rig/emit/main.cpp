// SPDX-License-Identifier: MIT
// The firmware around a device: roles, wiring, and the loop.
#include "rig/emit/writer.hpp"

namespace zorilla::rig {

size_t row_size(const Rig& rig) {
    size_t out = 12; // seconds, and the end of the line
    for (const Sense& sense : rig.senses)
        out += sense.raw == RawKind::frame ? 11 : sense.raw == RawKind::level ? 2 : 6;
    return out;
}

namespace {

std::string header_of(const Rig& rig) {
    std::string out = "time (s)";
    for (const Sense& sense : rig.senses)
        out += fmt::format(",{} ({})", sense.name, unit_of(sense.raw));
    return out;
}

} // namespace

Firmware firmware_of(const Rig& rig, const std::string& name, std::string_view text,
                     const FirmwarePlan& plan) {
    Firmware out;
    DeviceWriter writer(rig, text, out);
    writer.write(name);
    std::string roles, wires, reads, writes;
    CppNames names;
    const auto role = [&](const std::string& of, const std::string& what) {
        const std::string called = names.take(camel(of, ""));
        roles += fmt::format("using {} = {};\n", called, what);
        wires += (wires.empty() ? "pins::" : ", pins::") + called;
        return "pins::" + called;
    };
    for (const DeviceWriter::Input& input : writer.inputs()) {
        const std::string called = role(input.name, input.role);
        reads += fmt::format("        in.{} = Wires::read<{}>();\n", input.name, called);
        if (input.type == "FrameSample")
            reads += fmt::format("        if (device.{}.due(now))\n"
                                 "            Wires::start<{}>();\n",
                                 input.block, called);
        for (const PartPin& pin : input.sense->other_pins)
            if (pin.key == "power_pin") {
                const std::string power =
                    role(input.name + "_power", "Switched<" + board_pin(pin.pin) + ">");
                writes += fmt::format("        Wires::write<{}>(device.{}.powered() ? on : off);\n",
                                      power, input.block);
            }
    }
    for (size_t i = 0; i < rig.drives.size(); ++i)
        writes += fmt::format("        Wires::write<{}>({});\n",
                              role(rig.drives[i].name, writer.outputs()[i].role),
                              writer.outputs()[i].value);
    std::string line, sends, row;
    if (plan.sends) {
        role("line", "SerialOut<38'400>");
        line = fmt::format("ProgramLine header(ZORILLA_TEXT(\"{}\\n\"));\nReport<{}> row;\n",
                           header_of(rig), row_size(rig));
        sends = "        if (header.send<Wires>())\n            continue; // the first pass is the "
                "first row\n"
                "        row.send<Wires>();\n";
        row = "        row.clear();\n        put_time(row, now);\n";
        for (const DeviceWriter::Input& input : writer.inputs())
            row += fmt::format("        put_raw(row, in.{});\n", input.name);
        row += "        row.put('\\n');\n";
    }
    // What is so anyhow need not be said.
    for (size_t at; (at = roles.find(", active_high>")) != std::string::npos;)
        roles.erase(at, 13);
    out.main = wrapped(fmt::format(
        "// {0} on an ATmega328P at 16 MHz. Written from its rig file.\n#include \"device.hpp\"\n\n"
        "#include <zorilla/board/atmega328p.hpp>\n{7}\nusing namespace zorilla;\n"
        "using Board = Atmega328p;\n\nnamespace pins {{\n{1}}} // namespace pins\n\n"
        "using Wires = Wiring<Board, {2}, Watchdog>;\nZORILLA_INTERRUPTS(Wires)\n\n"
        "// Where a rehearsal can find them, and not on the stack, which would take more code.\n"
        "{3}::Device device;\n{3}::Inputs in;\nInstant now;\n{8}\nint main() {{\n"
        "    Wires::begin(); // each output is off from here on\n    for (;;) {{\n"
        "        Wires::idle();\n{9}        if (!Wires::due({4}))\n            continue;\n"
        "        now = Wires::now();\n{5}        device.pass(now, in);\n{6}"
        "        Wires::fed();\n{10}    }}\n}}\n",
        rig.name, roles, wires, name, cpp_quantity(plan.pass.thousandths(), Kind::duration), reads,
        writes, plan.sends ? "#include <zorilla/board/trace_row.hpp>\n" : "", line, sends, row));
    return out;
}

} // namespace zorilla::rig
