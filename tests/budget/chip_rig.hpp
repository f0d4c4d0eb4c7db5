// SPDX-License-Identifier: MIT
// Random rigs for the chip, made of parts of other rig files.
#pragma once

#include "rig/rig_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <random>
#include <regex>
#include <set>
#include <sstream>
#include <string>
#include <vector>

namespace chip_rig {

using namespace zorilla;

/// A rig file, taken apart at its tables.
struct Section {
    std::string name; ///< "cold"; empty of [rig], [board]
    std::string group;
    std::string text;
    std::vector<size_t> needs; ///< other sections that it names
};
inline std::vector<Section> sections_of(const std::string& text) {
    std::vector<Section> out;
    static const std::regex head(R"(^\[(\w+)(?:\.(\w+))?\])");
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        std::smatch match;
        if (std::regex_search(line, match, head))
            out.push_back({match[2], match[1], "", {}});
        if (!out.empty())
            out.back().text += line + "\n";
    }
    for (Section& one : out)
        for (size_t i = 0; i < out.size(); ++i)
            if (!out[i].name.empty() && out[i].name != one.name &&
                std::regex_search(one.text, std::regex("\\b" + out[i].name + "\\b")))
                one.needs.push_back(i);
    return out;
}

/// What an output of a word may be asked for.
inline std::string value_of(const std::string& text) {
    const auto is = [&text](const char* word) {
        return text.find(fmt::format("part = \"{}\"", word)) != std::string::npos;
    };
    return is("relay")     ? "on"
           : is("buzzer")  ? "1 kHz"
           : is("rgb_led") ? "red 40 %"
           : is("led_bar") ? "stage 2"
                           : "50 %";
}

/// Random rigs out of the sections of a file.
class Maker {
  public:
    /// \param by_people  whether some have a self-test, and outputs that are taken over by hand
    Maker(std::vector<Section> sections, uint32_t seed, bool by_people = false)
        : sections_(std::move(sections)), random_(seed), by_people_(by_people) {}

    /// Empty if what it has come upon is no rig.
    std::string text() {
        std::set<size_t> taken;
        for (size_t i = 1 + below(5); i > 0; --i)
            take(any("sense"), taken);
        if (below(2) == 0)
            take(any("derive"), taken);
        for (size_t i = below(6); i > 0; --i)
            take(any("decide"), taken);
        if (below(3) == 0)
            take(any("machine"), taken);
        std::vector<std::string> truths;
        for (const size_t i : taken)
            if (sections_[i].group == "decide" || sections_[i].group == "sense")
                truths.push_back(sections_[i].group == "sense" ? "lost(" + sections_[i].name + ")"
                                                               : sections_[i].name);
        std::string out = "[board]\nchip = \"atmega328p\"\nadc_bits = 10\n";
        for (const size_t i : taken)
            out += sections_[i].text;
        std::set<size_t> outputs;
        for (size_t i = 1 + below(5); i > 0; --i)
            outputs.insert(any("drive"));
        for (const size_t i : outputs) {
            out += output(sections_[i].text, truths);
            if (by_people_ && below(4) == 0)
                out += fmt::format("by_hand = {{ when = \"{}\", then = \"{}\", longest = \"10 "
                                   "min\" }}\n",
                                   truths[below(truths.size())], value_of(sections_[i].text));
        }
        if (by_people_ && below(4) == 0)
            out += fmt::format("[rig.self_test]\nwhen = \"{}\"\neach = \"500 ms\"\n",
                               truths[below(truths.size())]);
        return with_pins(out);
    }
    /// A sensor with or without what is not needed, or two of it, each judged by a threshold that
    /// switches something. Empty if that is no rig.
    std::string small(const Section& sense, bool bare, bool two, const std::string& output) {
        const auto needed = [&](const Section& one) {
            static const std::regex more(
                "^(trim|trimmed_by|median|fastest_change|believe_after|smooth|"
                "stuck_after|stale_after|hold|spread|extra_bits|accuracy|"
                "wire_check|tries) *=");
            std::string out;
            std::istringstream lines(one.text);
            for (std::string line; std::getline(lines, line);)
                if (!bare || !std::regex_search(line, more))
                    out += line + "\n";
            return out;
        };
        std::string senses = needed(sense);
        for (const size_t other : sense.needs)
            if (sections_[other].group == "sense" &&
                std::regex_search(senses, std::regex("\\b" + sections_[other].name + "\\b")))
                senses += needed(sections_[other]);
        const std::string second = sense.name + "_too";
        if (two)
            senses +=
                std::regex_replace(needed(sense), std::regex("\\b" + sense.name + "\\b"), second);
        const std::string head =
            "[board]\nchip = \"atmega328p\"\nadc_bits = 10\n" + senses + output;
        const auto when = [&head](const std::string& truth, const std::string& decide) {
            return fmt::format("{}claims = [ {{ when = \"{}\", then = \"on\" }} ]\n{}", head, truth,
                               decide);
        };
        const rig::RigFile file = rig::parse_rig(with_pins(when("lost(" + sense.name + ")", "")));
        std::string truths, decides;
        for (const rig::Sense& is : file.rig.senses) {
            const rig::Source& source = file.rig.sources[is.source];
            if (is.name != sense.name && !(two && is.name == second))
                continue;
            const std::string high = "high_" + is.name;
            truths += (truths.empty() ? "" : " or ") +
                      (source.kind == rig::Kind::truth ? source.name : high);
            const int32_t middle = source.lowest / 2 + source.highest / 2;
            if (source.kind != rig::Kind::truth)
                decides += fmt::format(
                    "[decide.{}]\nof = \"{}\"\nabove = \"{}\"\nrelease = \"{}\"\n", high,
                    source.name, rig::exact_text(middle, source.kind),
                    rig::exact_text(middle - (source.highest / 2 - source.lowest / 2) / 8,
                                    source.kind));
        }
        return truths.empty() ? std::string() : with_pins(when(truths, decides));
    }
    const std::vector<Section>& sections() const { return sections_; }

  private:
    size_t below(size_t n) { return random_() % n; }
    size_t any(const std::string& group) {
        std::vector<size_t> of;
        for (size_t i = 0; i < sections_.size(); ++i)
            if (sections_[i].group == group)
                of.push_back(i);
        return of.empty() ? sections_.size() : of[below(of.size())];
    }
    void take(size_t i, std::set<size_t>& taken) {
        if (i < sections_.size() && taken.insert(i).second)
            for (const size_t other : sections_[i].needs)
                take(other, taken);
    }
    /// An output that asks for something when one of these is so.
    std::string output(const std::string& text, const std::vector<std::string>& truths) {
        std::string out;
        std::istringstream lines(text);
        for (std::string line; std::getline(lines, line);)
            if (line.find('=') == std::string::npos ||
                std::regex_search(line,
                                  std::regex("^(part|pins?|\\w+_pin|active|safe|min_on|min_off|"
                                             "longest_on|warn|warn_off|fade|kick|kick_for|"
                                             "ramp|lights) ")))
                out += line + "\n";
        out += "claims = [";
        for (size_t i = 1 + below(3); i > 0; --i)
            out += fmt::format(
                "{{ when = \"{}{}\", then = \"{}\" }},", truths[below(truths.size())],
                below(3) == 0 ? " and " + truths[below(truths.size())] : "", value_of(text));
        return out + "]\n";
    }
    /// With pins of the chip, shuffled until the checker has no more to say.
    std::string with_pins(const std::string& text) {
        std::vector<std::string> analogue = {"ADC0", "ADC1", "ADC2", "ADC3", "ADC4", "ADC5"};
        std::vector<std::string> others = {"PD2", "PD3", "PD4", "PD5", "PD6", "PD7",
                                           "PB0", "PB1", "PB2", "PB3", "PB4", "PB5"};
        for (int tries = 0; tries < 25; ++tries) {
            std::shuffle(analogue.begin(), analogue.end(), random_);
            std::shuffle(others.begin(), others.end(), random_);
            size_t a = 0, o = 0;
            std::string out;
            const std::regex pin("\"(ADC\\d|P[BCD]\\d|[ADE]\\d+)\"");
            auto at = text.cbegin();
            for (std::smatch match; std::regex_search(at, text.cend(), match, pin);
                 at = match.suffix().first) {
                out.append(at, match.prefix().second);
                const bool converter = match[1].str()[0] == 'A';
                std::vector<std::string>& from = converter ? analogue : others;
                size_t& next = converter ? a : o;
                if (next == from.size())
                    return {};
                out += "\"" + from[next++] + "\"";
            }
            out.append(at, text.cend());
            if (rig::parse_rig(out).mistakes.empty())
                return out;
        }
        return {};
    }

    std::vector<Section> sections_;
    std::mt19937 random_;
    bool by_people_;
};

} // namespace chip_rig
