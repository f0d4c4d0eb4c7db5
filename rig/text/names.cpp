// SPDX-License-Identifier: MIT
#include "rig/text/names.hpp"

#include <algorithm>
#include <iterator>

namespace zorilla::rig {

bool is_plain_name(std::string_view text) {
    return !text.empty() && text[0] >= 'a' && text[0] <= 'z' &&
           text.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") ==
               std::string_view::npos;
}

bool is_taken_word(std::string_view text) {
    constexpr std::string_view taken[] = {"and", "or",   "not",     "in",  "on",
                                          "off", "lost", "unknown", "time"};
    return std::find(std::begin(taken), std::end(taken), text) != std::end(taken);
}

bool is_cpp_word(std::string_view text) {
    // The standard's table of keywords (lex.key), and its other names for operators (lex.digraph).
    constexpr std::string_view words[] = {
        "alignas",
        "alignof",
        "and_eq",
        "asm",
        "auto",
        "bitand",
        "bitor",
        "bool",
        "break",
        "case",
        "catch",
        "char",
        "char16_t",
        "char32_t",
        "class",
        "compl",
        "const",
        "const_cast",
        "constexpr",
        "continue",
        "decltype",
        "default",
        "delete",
        "do",
        "double",
        "dynamic_cast",
        "else",
        "enum",
        "explicit",
        "export",
        "extern",
        "false",
        "float",
        "for",
        "friend",
        "goto",
        "if",
        "inline",
        "int",
        "long",
        "mutable",
        "namespace",
        "new",
        "noexcept",
        "not_eq",
        "nullptr",
        "operator",
        "or_eq",
        "private",
        "protected",
        "public",
        "register",
        "return",
        "short",
        "signed",
        "sizeof",
        "static",
        "struct",
        "switch",
        "template",
        "this",
        "thread_local",
        "throw",
        "true",
        "try",
        "typedef",
        "typeid",
        "typename",
        "union",
        "unsigned",
        "using",
        "virtual",
        "void",
        "volatile",
        "wchar_t",
        "while",
        "xor",
        "xor_eq",
        "reinterpret_cast",
        "static_assert",
        "static_cast",
    };
    return std::find(std::begin(words), std::end(words), text) != std::end(words);
}

std::string NameMaker::make(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const char lower = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
        const bool fits = (lower >= 'a' && lower <= 'z') || (lower >= '0' && lower <= '9');
        if (fits)
            out += lower;
        else if (!out.empty() && out.back() != '_')
            out += '_';
    }
    while (!out.empty() && out.back() == '_')
        out.pop_back();
    if (out.empty() || (out[0] >= '0' && out[0] <= '9') || is_taken_word(out) || is_cpp_word(out))
        out = out.empty() ? "unnamed" : "is_" + out;
    const std::string stem = out;
    for (int i = 2; std::find(made_.begin(), made_.end(), out) != made_.end(); ++i)
        out = stem + "_" + std::to_string(i);
    made_.push_back(out);
    return out;
}

} // namespace zorilla::rig
