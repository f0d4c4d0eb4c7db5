// SPDX-License-Identifier: MIT
// Devices in the OpenMetrics text format 1.0 (draft-richih-opsawg-openmetrics).
#include "bench/web/web_page.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

namespace zorilla::bench {

namespace {

/// A text between double quotes, as the format has it.
std::string label(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (c == '"' || c == '\\')
            out += '\\';
        out += c == '\n' ? std::string("\\n") : std::string(1, c);
    }
    return out;
}

} // namespace

std::string open_metrics(const std::vector<std::unique_ptr<Told>>& devices) {
    std::string out =
        "# TYPE zorilla_reading gauge\n"
        "# HELP zorilla_reading What a sensor reads, or what is derived; absent while "
        "it has no health.\n";
    for (const auto& device : devices)
        for (size_t i = 0; i < device->rig().sources.size(); ++i)
            if (const Told::Metric& one = device->metrics()[i]; one.known)
                out += fmt::format("zorilla_reading{{device=\"{}\",name=\"{}\",unit=\"{}\"}} {}\n",
                                   label(device->name()), label(one.name),
                                   label(rig::stored_unit_of(device->rig().sources[i].kind)),
                                   one.value);
    out += "# TYPE zorilla_healthy gauge\n"
           "# HELP zorilla_healthy Whether a reading can be trusted.\n";
    for (const auto& device : devices)
        for (size_t i = 0; i < device->rig().sources.size(); ++i)
            out += fmt::format("zorilla_healthy{{device=\"{}\",name=\"{}\"}} {}\n",
                               label(device->name()), label(device->metrics()[i].name),
                               device->metrics()[i].known ? 1 : 0);
    out += "# TYPE zorilla_output_on gauge\n"
           "# HELP zorilla_output_on Whether an output is more than off.\n";
    for (const auto& device : devices)
        for (size_t i = device->rig().sources.size(); i < device->metrics().size(); ++i)
            if (const Told::Metric& one = device->metrics()[i]; one.known)
                out += fmt::format("zorilla_output_on{{device=\"{}\",name=\"{}\"}} {}\n",
                                   label(device->name()), label(one.name), one.value);
    for (const bool rows : {true, false}) {
        const char* name = rows ? "zorilla_rows" : "zorilla_damaged_lines";
        out += fmt::format("# TYPE {0} counter\n# HELP {0} {1}\n", name,
                           rows ? "Rows that came from a device."
                                : "Lines that were not what was sent.");
        for (const auto& device : devices)
            out += fmt::format("{}_total{{device=\"{}\"}} {}\n", name, label(device->name()),
                               rows ? device->rows() : device->damaged());
    }
    return out + "# EOF\n";
}

} // namespace zorilla::bench
