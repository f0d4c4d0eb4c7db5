// SPDX-License-Identifier: MIT
#include "rig/emit/cpp.hpp"

#include "rig/text/names.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::rig {

namespace {

/// A number of thousandths, without zeros behind it.
std::string decimal(int64_t thousandths) {
    std::string out = fmt::format("{}", thousandths / 1000);
    if (thousandths < 0 && thousandths > -1000)
        out = "-0";
    if (const int64_t rest = std::abs(thousandths % 1000); rest != 0) {
        out += fmt::format(".{:03}", rest);
        out.erase(out.find_last_not_of('0') + 1);
    }
    return out;
}

std::string span(int32_t ms) {
    const struct {
        int32_t each;
        const char* literal;
    } units[] = {{3'600'000, "h"}, {60'000, "min"}, {1000, "s"}};
    for (const auto& unit : units)
        if (ms != 0 && ms % unit.each == 0)
            return fmt::format("{}_{}", ms / unit.each, unit.literal);
    return ms == 0 ? "0_s" : fmt::format("{}_ms", ms);
}

/// A duty as a percentage, if one of whole tenths stands for it; else its 255ths.
std::string duty(Duty value) {
    for (int32_t t = 0; t <= 100'000; t += 100)
        if (Duty(Percentage::from_thousandths(t)) == value) {
            // The roundest that does.
            for (const int32_t step : {10'000, 5000, 1000, 500}) {
                const int32_t round = (t + step - 1) / step * step;
                if (round <= 100'000 && Duty(Percentage::from_thousandths(round)) == value)
                    return cpp_quantity(round, Kind::percentage);
            }
            return cpp_quantity(t, Kind::percentage);
        }
    return fmt::format("Duty::from_255ths({})", value.of_255());
}

} // namespace

std::string cpp_quantity(int32_t thousandths, Kind kind) {
    if (kind == Kind::duration)
        return span(thousandths);
    if (kind == Kind::resistance && thousandths < 1000)
        return fmt::format("{}_ohm", thousandths);
    const bool per_minute = kind >= Kind::per_minute;
    const Kind plain =
        per_minute
            ? static_cast<Kind>(static_cast<uint8_t>(kind) - static_cast<uint8_t>(Kind::per_minute))
            : kind;
    const std::string literal = decimal(thousandths) + "_" + std::string(cpp_literal_of(plain));
    return per_minute ? "per_minute(" + literal + ")" : literal;
}

std::string cpp_value(AnyValue value, ValueKind kind) {
    switch (kind) {
    case ValueKind::on_off: return value.on_off() == on ? "on" : "off";
    case ValueKind::duty: return duty(value.duty());
    case ValueKind::colour: {
        const Colour c = value.colour();
        return value.any()
                   ? fmt::format("colour({}, {}, {})", duty(c.red), duty(c.green), duty(c.blue))
                   : std::string("Colour()");
    }
    case ValueKind::tone:
        return value.any() ? fmt::format("tone({})", value.tone().hertz) : std::string("silence");
    case ValueKind::stage: return fmt::format("Stage({})", value.stage().number());
    }
    return {};
}

std::string_view cpp_type(ValueKind kind) {
    constexpr std::string_view types[] = {"OnOff", "Duty", "Colour", "Tone", "Stage"};
    return types[static_cast<size_t>(kind)];
}

std::string cpp_typed(AnyValue value, ValueKind kind) {
    const std::string out = cpp_value(value, kind);
    return kind == ValueKind::duty && out.find("Duty") == std::string::npos ? "Duty(" + out + ")"
                                                                            : out;
}

std::string CppNames::take(std::string name) {
    while (is_cpp_word(name))
        name += "_";
    while (!taken_.insert(name).second)
        name += "_";
    return name;
}

std::string camel(std::string_view name, std::string_view more) {
    std::string out;
    bool big = true;
    for (const char c : name) {
        if (c != '_')
            out += big ? static_cast<char>(std::toupper(static_cast<unsigned char>(c))) : c;
        big = c == '_';
    }
    return out + std::string(more);
}

std::string plain_name(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (std::isalnum(static_cast<unsigned char>(c)) != 0)
            out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        else if (!out.empty() && out.back() != '_')
            out += '_';
    }
    while (!out.empty() && out.back() == '_')
        out.pop_back();
    if (out.empty() || std::isdigit(static_cast<unsigned char>(out.front())) != 0)
        out = "event_" + out;
    return out.size() > 40 ? out.substr(0, 40) : out;
}

std::string cpp_comment(std::string_view text) {
    std::string out = "//";
    if (!text.empty() && text.front() != ' ')
        out += ' ';
    for (const char c : text)
        out += static_cast<unsigned char>(c) < 0x20 || c == 0x7f ? ' ' : c;
    // What ends in a backslash would go on in the next line.
    while (out.back() == '\\' || out.back() == ' ')
        out.pop_back();
    return out + "\n";
}

std::string board_pin(std::string_view pin) {
    const size_t digits = pin.find_first_of("0123456789");
    if (digits == std::string_view::npos ||
        pin.find_first_not_of("0123456789", digits) != std::string_view::npos)
        return {};
    const std::string_view kind = pin.substr(0, digits);
    if (kind != "ADC" && kind != "GPIO" &&
        (kind.size() != 2 || kind[0] != 'P' || kind[1] < 'A' || kind[1] > 'L'))
        return {};
    std::string out = "Board::";
    for (const char c : pin)
        out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

void put(std::string& in, std::string_view from, std::string_view to) {
    if (const size_t at = in.find(from); at != std::string::npos)
        in.replace(at, from.size(), to);
}

namespace {

constexpr size_t widest = 100;

/// Where a line is broken: behind the last comma, or before the last point of a call or the last
/// "&&" or "||", that leaves it short enough; the fewer brackets around it the better.
size_t break_of(const std::string& line, size_t indent) {
    size_t best = 0;
    int depth = 0, best_depth = 1000;
    for (size_t i = 0; i + 1 < line.size() && i < widest; ++i) {
        const char c = line[i];
        depth += c == '(' || c == '{' || c == '<' ? 1 : c == ')' || c == '}' || c == '>' ? -1 : 0;
        size_t at = 0;
        if (c == ',' && line[i + 1] == ' ')
            at = i + 2;
        else if (c == ')' && line[i + 1] == '.')
            at = i + 1;
        else if (c == ' ' &&
                 (line.compare(i + 1, 3, "&& ") == 0 || line.compare(i + 1, 3, "|| ") == 0))
            at = i + 1;
        if (at > indent + 4 && depth <= best_depth) {
            best = at;
            best_depth = depth;
        }
    }
    return best;
}

} // namespace

std::string wrapped(const std::string& text) {
    std::string out;
    for (size_t from = 0; from < text.size();) {
        const size_t end = std::min(text.find('\n', from), text.size());
        std::string line = text.substr(from, end - from);
        const size_t indent = line.find_first_not_of(' ');
        const bool is_comment = indent != std::string::npos && line.compare(indent, 2, "//") == 0;
        bool first = true;
        while (line.size() > widest && !is_comment) {
            const size_t at = break_of(line, indent + (first ? 0 : 4));
            if (at == 0)
                break;
            std::string head = line.substr(0, at);
            head.erase(head.find_last_not_of(' ') + 1);
            out += head + "\n";
            line = std::string(indent + 4, ' ') + line.substr(at);
            first = false;
        }
        out += line + "\n";
        from = end + 1;
    }
    return out;
}

std::string CppForm::value(const Node& node) const {
    if (node.measure())
        return cpp_quantity(node.measure()->thousandths, node.measure()->kind);
    if (const std::string* text = node.as_text())
        return source_ ? source_(*text) : *text;
    if (const auto whole = node.as_whole())
        return fmt::format("{}", *whole);
    if (const auto number = node.as_number())
        return fmt::format("{}", *number);
    return {};
}

std::string CppForm::place(std::string_view inside, const Node* own) const {
    const auto any_of = [&](std::string_view key) {
        return key.empty() ? own : table_.get(std::string(key));
    };
    if (const size_t colon = inside.find(':'); colon != std::string_view::npos) {
        const Node* list = any_of(inside.substr(0, colon));
        std::string out;
        if (list == nullptr)
            return out;
        const std::string_view each = inside.substr(colon + 1);
        // One that is no list is a list of one.
        const std::vector<Node> entries =
            list->is_list() ? list->inside() : std::vector<Node>{*list};
        for (const Node& entry : entries) {
            size_t next = 0;
            out += out.empty() ? "" : ", ";
            for (size_t i = 0; i < each.size(); ++i) {
                if (each.substr(i, 2) == "{}") {
                    out += entry.is_list() ? value(entry[next++]) : value(entry);
                    ++i;
                } else {
                    out += each[i];
                }
            }
        }
        return out;
    }
    const size_t bar = inside.find('|');
    const std::string_view key = inside.substr(0, bar);
    const size_t dot = key.find('.');
    const Node* node = any_of(key.substr(0, dot));
    if (node == nullptr)
        return bar == std::string_view::npos ? std::string() : std::string(inside.substr(bar + 1));
    if (dot != std::string_view::npos)
        node = &(*node)[static_cast<size_t>(key[dot + 1] - '0')];
    return value(*node);
}

std::string CppForm::fill(std::string_view form, const Node* own) const {
    std::string out;
    for (size_t i = 0; i < form.size(); ++i) {
        if (form[i] != '{') {
            out += form[i];
            continue;
        }
        int depth = 1;
        size_t end = i + 1;
        for (; depth > 0; ++end)
            depth += form[end] == '{' ? 1 : form[end] == '}' ? -1 : 0;
        out += place(form.substr(i + 1, end - i - 2), own);
        i = end - 1;
    }
    return out;
}

} // namespace zorilla::rig
