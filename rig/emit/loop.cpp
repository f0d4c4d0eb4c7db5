// SPDX-License-Identifier: MIT
#include "rig/emit/loop.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fmt/format.h>

namespace zorilla::rig {

uint32_t number_of(std::string_view text) {
    uint32_t sum = 0x811c'9dc5;
    for (const char c : text)
        sum = (sum ^ static_cast<uint8_t>(c)) * 0x0100'0193;
    return sum;
}

MainWriter::MainWriter(const ChipFacts& chip, const std::string& line)
    : chip_(chip), line_(*line_named(chip, line)) {
    includes = fmt::format("#include <zorilla/board/{}.hpp>\n", chip.name);
}

/// What its line is; the first of a chip need not be numbered.
std::string MainWriter::line_role() const {
    if (line_.kind == LineKind::usb)
        return "UsbLine";
    return fmt::format("{}<38'400{}>", listens() ? "SerialLine" : "SerialOut",
                       line_.number == 0 ? "" : fmt::format(", {}", line_.number));
}

std::string MainWriter::role(const std::string& of, const std::string& what) {
    const std::string called = names_.take(camel(of, ""));
    roles_ += fmt::format("using {} = {};\n", called, what);
    wires_ += (wires_.empty() ? "pins::" : ", pins::") + called;
    return "pins::" + called;
}

size_t MainWriter::width(RawKind kind) {
    return kind == RawKind::frame ? 11 : kind == RawKind::level ? 2 : 6;
}

std::string MainWriter::head(const std::string& name, RawKind kind) {
    return fmt::format(",{} ({})", name, unit_of(kind));
}

std::string MainWriter::header(const std::string& columns, uint32_t number) {
    return fmt::format("time (s){},check ({:08x})", columns, number);
}

void MainWriter::column(const std::string& name, RawKind kind, const std::string& value) {
    columns_ += head(name, kind);
    row_ += fmt::format("            put_raw(row, {});\n", value);
    row_size_ += width(kind);
}

void MainWriter::output(const std::string& name, size_t width, const std::string& value) {
    columns_ += output_head(name);
    row_ += fmt::format("            put_output(row, {});\n", value);
    row_size_ += width;
}

void MainWriter::send(Duration every) {
    sends_ = true;
    report_ = every;
}

void MainWriter::said(const std::string& name, const std::string& makes) {
    said_ += fmt::format("LineInput {}({});\n", name, makes);
    named_ += fmt::format(
        "    if (command.is(ZORILLA_TEXT(\"{0}\")))\n        return &line::{0};\n", name);
}

void MainWriter::setting(const std::string& name, const std::string& spec,
                         const std::string& means) {
    means_ += name + " " + means + "\n";
    said_ += fmt::format("LineSetting<{}> {};\n", spec, name);
    changes_ += fmt::format("    if (command.is(ZORILLA_TEXT(\"{0}\"))) {{\n"
                            "        if (sets)\n"
                            "            return keep(line::{0}.set(command));\n"
                            "        if (!command.ends())\n"
                            "            return Answer::no_name;\n"
                            "        line::{0}.clear();\n        return keep(Answer::ok);\n"
                            "    }}\n",
                            name);
    kept_ += ", line::" + name;
}

/// What is said over the line, and what is answered to it.
std::string MainWriter::commands() {
    std::string out = fmt::format("\nnamespace line {{\n{}}} // namespace line\n\n", said_);
    if (!kept_.empty()) {
        includes += "#include <zorilla/board/stored.hpp>\n";
        // Another version for whoever means something else by the same bytes; the rest of a rig may
        // change, and what was set stays.
        out += fmt::format("using Kept = Settings<{:#010x}{}>;\nKept settings;\n"
                           "Stored<Kept, Board::Eeprom> store;\n\n"
                           "Answer keep(Answer answer) {{\n    if (answer == Answer::ok)\n"
                           "        store.save(settings);\n    return answer;\n}}\n\n",
                           number_of(means_), kept_);
    }
    if (!named_.empty())
        out += fmt::format("LineInput* named(Command& command) {{\n{}    return nullptr;\n}}\n\n",
                           named_);
    out += "Answer change(Command& command, bool sets) {\n" + changes_;
    if (!named_.empty())
        out += "    if (LineInput* input = named(command)) {\n        if (sets)\n"
               "            return input->set(command, now);\n        if (!command.ends())\n"
               "            return Answer::no_name;\n        input->clear();\n"
               "        return Answer::ok;\n    }\n";
    out += "    return Answer::no_name;\n}\n\nProgramText answer_to(Command command) {\n";
    if (sends_)
        out +=
            "    if (command.is_only(ZORILLA_TEXT(\"header\")))\n        return header_text();\n";
    return out + fmt::format("    if (command.is_only(ZORILLA_TEXT(\"who\")))\n"
                             "        return ZORILLA_TEXT(\"ok {:08x}\\n\");\n"
                             "    const bool sets = command.is(ZORILLA_TEXT(\"set\"));\n"
                             "    if (!sets && !command.is(ZORILLA_TEXT(\"clear\")))\n"
                             "        return text_of(Answer::no_command);\n"
                             "    return text_of(change(command, sets));\n}}\n\n"
                             "ProgramLine answer(ZORILLA_TEXT(\"\"));\n",
                             who_);
}

std::string MainWriter::text(const std::string& title, Duration every) {
    std::string line, sends, row;
    if (sends_ || listens())
        role("line", line_role());
    if (sends_) {
        includes += "#include <zorilla/board/trace_row.hpp>\n";
        line =
            fmt::format("\nProgramText header_text() {{\n    return ZORILLA_TEXT(\"{}\\n\");\n}}\n"
                        "ProgramLine header(header_text());\n"
                        "CheckedRow<{}> row;\n{}",
                        header(columns_, who_), row_size_,
                        report_ == Duration{} ? "" : "Reporting reporting;\n");
        // However long the header is: outputs are off meanwhile.
        if (line_.kind == LineKind::usb)
            sends = "        if (row.done() && Wires::opened())\n"
                    "            header = ProgramLine(header_text());\n";
        // What follows is a whole pass away from the first, so that its row is out by then.
        sends += "        if (header.send<Wires>()) {\n            Wires::fed();\n"
                 "            Wires::restarts();\n"
                 "            continue; // the first pass is the first row\n        }\n";
        row = fmt::format("        if (row.done(){}) {{\n            row.begin(now, 0x{:04x});\n{}"
                          "        }}\n",
                          report_ == Duration{}
                              ? ""
                              : fmt::format(" && reporting.due(now, {})",
                                            cpp_quantity(report_.thousandths(), Kind::duration)),
                          check_start(who_), row_);
    }
    if (listens()) {
        includes += "#include <zorilla/board/line.hpp>\n";
        if (!sends_)
            includes += "#include <zorilla/board/trace_row.hpp>\n";
        line += commands();
        // No answer stands within a row, and none within an answer.
        sends += fmt::format(
            "        if (!answer.send<Wires>()) {{\n{}            {}if (const char* text "
            "= Wires::line()) {{\n"
            "                answer = ProgramLine(answer_to(Command(text)));\n"
            "                Wires::line_done();\n            }}\n        }}\n",
            sends_ ? "            if (!row.done())\n                row.send<Wires>();\n" : "",
            sends_ ? "else " : "");
    } else if (sends_) {
        sends += "        row.send<Wires>();\n";
    }
    if (!kept_.empty())
        writes += "        store.step(); // a byte in each pass, until all are written\n";
    // What is so anyhow need not be said.
    for (size_t at; (at = roles_.find(", active_high>")) != std::string::npos;)
        roles_.erase(at, 13);
    return wrapped(fmt::format(
        "{}{}\nusing namespace zorilla;\nusing Board = {};\n\nnamespace pins {{\n{}}} "
        "// namespace pins\n\nusing Wires = Wiring<Board, {}, Watchdog>;\n"
        "ZORILLA_INTERRUPTS(Wires)\n\n{}{}\nint main() {{\n"
        "    Wires::begin(); // each output is off from here on\n{}    for (;;) {{\n"
        "        Wires::idle();\n{}        if (!Wires::due({}))\n            continue;\n"
        "        now = Wires::now();\n{}{}{}        Wires::fed();\n    }}\n}}\n",
        cpp_comment(title), includes, board_class(chip_), roles_, wires_, globals, line,
        kept_.empty() ? "" : "    store.load(settings);\n", sends,
        cpp_quantity(every.thousandths(), Kind::duration), reads, writes, row));
}

} // namespace zorilla::rig
