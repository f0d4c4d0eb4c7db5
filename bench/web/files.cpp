// SPDX-License-Identifier: MIT
// What the page is made of, carried inside the tool.
#include "bench/web/web_page.hpp"

// NOLINTBEGIN: the assembler reads a file as it is; there is no other way to that yet.
#define ZORILLA_FILE(name, path)                                                                   \
    asm(".section .rodata\n"                                                                       \
        ".global zorilla_file_" #name "\n"                                                         \
        "zorilla_file_" #name ":\n"                                                                \
        ".incbin \"" path "\"\n"                                                                   \
        ".global zorilla_file_" #name "_end\n"                                                     \
        "zorilla_file_" #name "_end:\n"                                                            \
        ".previous\n");                                                                            \
    extern "C" const char zorilla_file_##name[], zorilla_file_##name##_end[];
// NOLINTEND

ZORILLA_FILE(html, ZORILLA_WEB_FILES "/page.html")
ZORILLA_FILE(css, ZORILLA_WEB_FILES "/page.css")
ZORILLA_FILE(page, ZORILLA_WEB_FILES "/page.js")
ZORILLA_FILE(pass, ZORILLA_WEB_FILES "/pass.js")
ZORILLA_FILE(graph, ZORILLA_WEB_FILES "/graph.js")
ZORILLA_FILE(act, ZORILLA_WEB_FILES "/act.js")
ZORILLA_FILE(units, ZORILLA_WEB_FILES "/units.js")
ZORILLA_FILE(chart, ZORILLA_CHART_LIBRARY)

namespace zorilla::bench {

namespace {

std::string_view text(const char* begin, const char* end) {
    return {begin, static_cast<size_t>(end - begin)};
}

} // namespace

std::vector<WebFile> web_files() {
    constexpr const char* script = "text/javascript; charset=utf-8";
    return {
        {"/", "text/html; charset=utf-8", text(zorilla_file_html, zorilla_file_html_end)},
        {"/page.css", "text/css; charset=utf-8", text(zorilla_file_css, zorilla_file_css_end)},
        {"/page.js", script, text(zorilla_file_page, zorilla_file_page_end)},
        {"/pass.js", script, text(zorilla_file_pass, zorilla_file_pass_end)},
        {"/graph.js", script, text(zorilla_file_graph, zorilla_file_graph_end)},
        {"/act.js", script, text(zorilla_file_act, zorilla_file_act_end)},
        {"/units.js", script, text(zorilla_file_units, zorilla_file_units_end)},
        {"/library/chart.js", script, text(zorilla_file_chart, zorilla_file_chart_end)},
    };
}

} // namespace zorilla::bench
