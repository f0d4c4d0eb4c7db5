// SPDX-License-Identifier: MIT
#include "bench/trace/field.hpp"

#include "bench/csv.hpp"

#include <fast_float/fast_float.h>
#include <fmt/format.h>

namespace zorilla::bench {

bool take_raw(const FieldKind& of, std::string_view field, rig::Raw& raw, std::string& problem) {
    const char* const end = field.data() + field.size();
    const bool asks = of.kind == rig::RawKind::frame || of.kind == rig::RawKind::microseconds;
    if (field.empty()) {
        raw = rig::Raw();
        return true;
    }
    if (asks && field == "none") {
        raw = rig::Raw::silent();
        return true;
    }
    if (of.kind == rig::RawKind::frame) {
        uint64_t bits = 0;
        raw = rig::Raw(static_cast<int64_t>(bits));
        const bool whole = field.size() == 10 && end_of_frame(field.data(), end, bits) == end;
        raw = rig::Raw(static_cast<int64_t>(bits));
        if (!whole)
            problem = fmt::format("\"{}\" is not a frame of ten hexadecimal digits, such as "
                                  "028c015df2, nor \"none\"",
                                  shown(field));
        return whole;
    }
    double value = 0;
    const auto parsed = fast_float::from_chars(field.data(), end, value);
    if (parsed.ec != std::errc() || parsed.ptr != end) {
        problem = fmt::format("\"{}\" is not a number", shown(field));
        return false;
    }
    if (!is_raw(value, of.largest)) {
        problem = fmt::format("\"{}\" is not {}, a whole number from 0 to {}", shown(field),
                              of.output                        ? "what this output can be"
                              : of.kind == rig::RawKind::code  ? "a code of this converter"
                              : of.kind == rig::RawKind::level ? "a level"
                              : of.kind == rig::RawKind::edges ? "a count of edges"
                                                               : "a time in microseconds",
                              of.largest);
        return false;
    }
    raw = rig::Raw(static_cast<int64_t>(value));
    return true;
}

std::string field_text(rig::RawKind kind, rig::Raw raw) {
    return !raw.taken()                  ? std::string()
           : raw.is_silent()             ? std::string("none")
           : kind == rig::RawKind::frame ? fmt::format("{:010x}", raw.bits())
                                         : fmt::format("{}", raw.bits());
}

} // namespace zorilla::bench
