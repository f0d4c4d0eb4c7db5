// SPDX-License-Identifier: MIT
#include "rig/emit/loop.hpp"

#include <fmt/format.h>

namespace zorilla::rig {

std::string MainWriter::role(const std::string& of, const std::string& what) {
    const std::string called = names_.take(camel(of, ""));
    roles_ += fmt::format("using {} = {};\n", called, what);
    wires_ += (wires_.empty() ? "pins::" : ", pins::") + called;
    return "pins::" + called;
}

size_t MainWriter::width(RawKind kind) {
    return kind == RawKind::frame ? 11 : kind == RawKind::level ? 2 : 6;
}

void MainWriter::column(const std::string& name, RawKind kind, const std::string& value) {
    header_ += fmt::format(",{} ({})", name, unit_of(kind));
    row_ += fmt::format("        put_raw(row, {});\n", value);
    row_size_ += width(kind);
}

void MainWriter::send() {
    role("line", "SerialOut<38'400>");
    sends_ = true;
}

std::string MainWriter::text(const std::string& title, Duration every) {
    std::string line, sends, row;
    if (sends_) {
        includes += "#include <zorilla/board/trace_row.hpp>\n";
        line = fmt::format("ProgramLine header(ZORILLA_TEXT(\"{}\\n\"));\nReport<{}> row;\n",
                           header_, row_size_);
        // However long the header is: outputs are off meanwhile.
        sends = "        if (header.send<Wires>()) {\n            Wires::fed();\n"
                "            continue; // the first pass is the first row\n        }\n"
                "        row.send<Wires>();\n";
        row = "        row.clear();\n        put_time(row, now);\n" + row_ +
              "        row.put('\\n');\n";
    }
    // What is so anyhow need not be said.
    for (size_t at; (at = roles_.find(", active_high>")) != std::string::npos;)
        roles_.erase(at, 13);
    return wrapped(fmt::format(
        "// {}\n{}\nusing namespace zorilla;\nusing Board = Atmega328p;\n\nnamespace pins {{\n{}}} "
        "// namespace pins\n\nusing Wires = Wiring<Board, {}, Watchdog>;\n"
        "ZORILLA_INTERRUPTS(Wires)\n\n{}{}\nint main() {{\n"
        "    Wires::begin(); // each output is off from here on\n    for (;;) {{\n"
        "        Wires::idle();\n{}        if (!Wires::due({}))\n            continue;\n"
        "        now = Wires::now();\n{}{}{}        Wires::fed();\n    }}\n}}\n",
        title, includes, roles_, wires_, globals, line, sends,
        cpp_quantity(every.thousandths(), Kind::duration), reads, writes, row));
}

} // namespace zorilla::rig
