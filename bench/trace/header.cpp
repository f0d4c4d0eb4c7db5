// SPDX-License-Identifier: MIT
// The first line of a trace: which column is what.
#include "bench/row_check.hpp"
#include "bench/trace/trace.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::bench {

namespace {

std::string_view what_is_held(rig::RawKind kind) {
    switch (kind) {
    case rig::RawKind::code: return "raw codes of the converter";
    case rig::RawKind::microseconds: return "a pulse's time in microseconds here";
    case rig::RawKind::frame: return "frames of ten hexadecimal digits here";
    case rig::RawKind::level: return "levels, 0 or 1, here";
    case rig::RawKind::edges: break;
    }
    return "the number of edges so far here";
}

} // namespace

void TraceReader::read_header(const std::vector<WantedColumn>& wanted) {
    const std::vector<std::string> fields = records_.header("time (s),roost (code)");
    for (const std::string& field : fields) {
        add_column(field, wanted);
        header_milliseconds_ += static_cast<int64_t>(field.size()) + 1;
    }
    if (const auto number = check_number(without_blanks(fields.back()))) {
        columns_.back().role = Column::Role::check;
        check_ = check_start(*number);
        unused_.pop_back();
    }
    if (time_scale_ == 0)
        records_.refuse(
            1, "no column holds the time; name it with its unit, \"time (s)\" or \"time (ms)\"");
    for (size_t i = 0; i < wanted.size(); ++i) {
        const bool here = std::any_of(columns_.begin(), columns_.end(), [i](const Column& column) {
            return column.role == Column::Role::raw && column.index == i;
        });
        if (!here && !wanted[i].holds.output)
            absent_.push_back(wanted[i].name);
    }
    const auto sensors =
        std::count_if(wanted.begin(), wanted.end(),
                      [](const WantedColumn& column) { return !column.holds.output; });
    if (absent_.size() == static_cast<size_t>(sensors)) {
        std::string names;
        for (const WantedColumn& column : wanted)
            if (!column.holds.output)
                names += fmt::format("{}\"{} ({})\"", names.empty() ? "" : ", ", column.name,
                                     rig::unit_of(column.holds.kind));
        records_.refuse(
            1, fmt::format("no column belongs to a sensor of the rig; it wants {}{}", names,
                           unused_.empty()
                               ? ""
                               : fmt::format(", and the file has \"{}\"", shown(unused_.front()))));
    }
}

void TraceReader::add_column(std::string_view field, const std::vector<WantedColumn>& wanted) {
    const size_t number = columns_.size() + 1;
    Column column;
    field = without_blanks(field);
    const auto [name, unit, has_unit] = parse_column_name(field);
    const auto found = std::find_if(wanted.begin(), wanted.end(),
                                    [wanted_name = name, is_out = unit == "out"](const auto& w) {
                                        return w.name == wanted_name && (!w.holds.output || is_out);
                                    });
    if (name == "time") {
        if (time_scale_ != 0)
            records_.refuse(1, "two columns are called \"time\"");
        time_scale_ = milliseconds_in(unit);
        if (time_scale_ == 0)
            records_.refuse(
                1, fmt::format("column {}, \"{}\": the time must be in ms, s, min or h; write "
                               "for example \"time (s)\"",
                               number, shown(field)));
        column.role = Column::Role::time;
    } else if (found != wanted.end()) {
        const rig::RawKind kind = found->holds.kind;
        if (!found->holds.output && unit != rig::unit_of(kind))
            records_.refuse(1,
                            fmt::format("column {}, \"{}\": a trace holds {}{}; write \"{} ({})\"",
                                        number, shown(field), what_is_held(kind),
                                        has_unit ? fmt::format(", not {}", shown(unit)) : "", name,
                                        rig::unit_of(kind)));
        column.role = Column::Role::raw;
        column.index = static_cast<size_t>(found - wanted.begin());
        column.holds = found->holds;
        has_outputs_ = has_outputs_ || found->holds.output;
        for (const Column& other : columns_)
            if (other.role == Column::Role::raw && other.index == column.index)
                records_.refuse(1, fmt::format("two columns are called \"{}\"", name));
    } else if (name != "condition") { // what a capture notes beside
        unused_.emplace_back(name);
    }
    columns_.push_back(column);
}

} // namespace zorilla::bench
