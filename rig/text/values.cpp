// SPDX-License-Identifier: MIT
#include "rig/text/values.hpp"

#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace zorilla::rig {

namespace {

std::string percent_of(Duty duty) {
    const int32_t share = (duty.share().thousandths() + 500) / 1000;
    // What is not quite nothing is not told as nothing, nor what is not quite all as all.
    if ((share == 0 && duty != Duty{}) || (share == 100 && duty.of_255() != 255))
        return fmt::format("{:.1f} %", duty.share().thousandths() / 1000.0);
    return fmt::format("{} %", share);
}

/// A share of the whole; a sentence if it is none.
std::string read_share(std::string_view text, std::string_view example, Duty& out) {
    QuantityText read = parse_quantity(text, Kind::percentage, example);
    if (!read.problem.empty())
        return std::move(read.problem);
    if (read.thousandths < 0 || read.thousandths > 100'000)
        return fmt::format("\"{}\" must lie between 0 % and 100 %", text);
    out = Duty(Percentage::from_thousandths(read.thousandths));
    return {};
}

std::string read_colour(std::string_view text, Colour& out) {
    constexpr std::string_view example = "red 100 %, green 40 %";
    for (size_t at = 0; at <= text.size();) {
        const size_t comma = std::min(text.find(',', at), text.size());
        const std::string_view part = without_blanks(text.substr(at, comma - at));
        at = comma + 1;
        const size_t blank = std::min(part.find(' '), part.size());
        const std::string_view name = part.substr(0, blank);
        Duty share = 100_percent;
        if (blank < part.size())
            if (std::string problem = read_share(without_blanks(part.substr(blank)), "40 %", share);
                !problem.empty())
                return problem;
        if (name == "red")
            out.red = share;
        else if (name == "green")
            out.green = share;
        else if (name == "blue")
            out.blue = share;
        else if (name == "white")
            out = {share, share, share};
        else
            return fmt::format("\"{}\" is not a colour; write how much of red, green and blue, "
                               "such as \"{}\"",
                               text, example);
    }
    return {};
}

} // namespace

uint8_t AnyValue::share(ValueKind kind) const {
    switch (kind) {
    case ValueKind::duty: return duty().of_255();
    case ValueKind::colour: {
        const Colour c = colour();
        return std::max({c.red.of_255(), c.green.of_255(), c.blue.of_255()});
    }
    case ValueKind::on_off:
    case ValueKind::tone:
    case ValueKind::stage: break;
    }
    return any() ? uint8_t{255} : uint8_t{0};
}

bool AnyValue::is_between(ValueKind kind) const {
    const auto between = [](Duty duty) { return duty.of_255() > 0 && duty.of_255() < 255; };
    const Colour c = colour();
    return kind == ValueKind::duty     ? between(duty())
           : kind == ValueKind::colour ? between(c.red) || between(c.green) || between(c.blue)
                                       : false;
}

std::string to_text(AnyValue value, ValueKind kind) {
    if (!value.any())
        return "off";
    switch (kind) {
    case ValueKind::on_off: break;
    case ValueKind::duty: return percent_of(value.duty());
    case ValueKind::tone: return fmt::format("{} Hz", value.tone().hertz);
    case ValueKind::stage: return fmt::format("stage {}", value.stage().number());
    case ValueKind::colour: {
        const Colour c = value.colour();
        if (c.red == c.green && c.green == c.blue)
            return "white " + percent_of(c.red);
        std::string out;
        const std::array<std::pair<std::string_view, Duty>, 3> parts = {
            {{"red", c.red}, {"green", c.green}, {"blue", c.blue}}};
        for (const auto& [name, share] : parts)
            if (share != Duty())
                out += fmt::format("{}{} {}", out.empty() ? "" : ", ", name, percent_of(share));
        return out;
    }
    }
    return "on";
}

std::string_view example_of(ValueKind kind) {
    switch (kind) {
    case ValueKind::on_off: break;
    case ValueKind::duty: return "40 %";
    case ValueKind::colour: return "red 100 %, green 40 %";
    case ValueKind::tone: return "880 Hz";
    case ValueKind::stage: return "stage 2";
    }
    return "on";
}

ValueText parse_value(std::string_view text, ValueKind kind) {
    ValueText out;
    if (text == "off")
        return out;
    const auto needed = [&](std::string_view what) {
        return fmt::format("\"{}\" is not {}; write \"off\" or, for example, \"{}\"", text, what,
                           example_of(kind));
    };
    switch (kind) {
    case ValueKind::on_off:
        out.value = on;
        if (text != "on")
            out.problem =
                fmt::format("\"{}\" is not a value of a relay; write \"off\" or \"on\"", text);
        return out;
    case ValueKind::duty: {
        Duty duty = 100_percent;
        if (text != "on")
            out.problem = read_share(text, "40 %", duty);
        out.value = duty;
        return out;
    }
    case ValueKind::colour: {
        Colour colour;
        out.problem = read_colour(text == "on" ? "white" : text, colour);
        out.value = colour;
        return out;
    }
    case ValueKind::tone: {
        const QuantityText read = parse_quantity(text, Kind::frequency, "880 Hz");
        const int32_t hertz = read.thousandths / 1000;
        if (!read.problem.empty())
            out.problem = text == "on" ? needed("a tone") : read.problem;
        else if (hertz < 20 || hertz > 20'000 || read.thousandths % 1000 != 0)
            out.problem = fmt::format("\"{}\": a tone must be a whole number of hertz from 20 to "
                                      "20,000, or nobody hears it",
                                      text);
        out.value = Tone{static_cast<uint16_t>(hertz)};
        return out;
    }
    case ValueKind::stage: break;
    }
    constexpr std::string_view word = "stage ";
    const std::string_view number =
        text.substr(0, word.size()) == word ? text.substr(word.size()) : std::string_view();
    if (number.empty() || number.size() > 2 ||
        number.find_first_not_of("0123456789") != std::string_view::npos)
        out.problem = needed("a stage");
    else
        out.value = Stage(static_cast<uint8_t>(std::stoi(std::string(number))));
    return out;
}

} // namespace zorilla::rig
