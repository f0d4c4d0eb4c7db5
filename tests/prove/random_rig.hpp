// SPDX-License-Identifier: MIT
// Random small rigs as text: all that a proof has to know of, and more of it in one place than
// anybody would build.
#pragma once

#include "rig/rig_file.hpp"

#include <fmt/format.h>

#include <random>
#include <string>
#include <vector>

namespace random_rig {

using namespace zorilla;

class Maker {
  public:
    explicit Maker(uint64_t seed) : random_(seed) {}

    std::string text() {
        sensors();
        decisions();
        if (one_in(3))
            machine();
        outputs();
        std::string out = "[rig]\nnever = [";
        for (int i = 0; i < 3; ++i)
            out += fmt::format("{}\"{}\"", i == 0 ? "" : ", ", line());
        out += "]\n";
        if (one_in(4))
            out +=
                fmt::format("[rig.self_test]\nwhen = \"{}\"\neach = \"{} s\"\n", fact(), one_to(3));
        if (one_in(4)) {
            out += fmt::format("[rig.shutdown]\nwhen = \"{}\"\ngap = \"{} s\"\norder = [", fact(),
                               one_in(3) ? 0 : one_to(4));
            for (size_t i = 0; i < drives_.size(); ++i)
                out += fmt::format("{}\"{}\"", i == 0 ? "" : ", ", drives_[i].name);
            out += "]\n";
        }
        return out + "[board]\nchip = \"other\"\nadc_bits = 10\n" + body_;
    }

  private:
    struct Output {
        std::string name;
        std::string part;
        bool warns = false, stalls = false, by_hand = false;
    };

    int below(int n) { return static_cast<int>(random_() % static_cast<uint64_t>(n)); }
    int one_to(int n) { return 1 + below(n); }
    bool one_in(int n) { return below(n) == 0; }
    template <class T> const T& any(const std::vector<T>& of) { return of[random_() % of.size()]; }
    template <class... Parts> void add(fmt::format_string<Parts...> text, Parts&&... parts) {
        body_ += fmt::format(text, std::forward<Parts>(parts)...);
    }
    std::string span() { return fmt::format("{} s", one_to(9)); }

    void sensors() {
        for (int i = 0, n = one_to(2); i < n; ++i) {
            add("[sense.q{0}]\npart = \"percent\"\npin = \"A{0}\"\ncode_at_0 = 100\ncode_at_100 = "
                "900\n",
                i);
            quantities_.push_back(fmt::format("q{}", i));
        }
        for (int i = 0, n = one_to(3); i < n; ++i) {
            add("[sense.b{0}]\npart = \"digital_input\"\npin = \"B{0}\"\nactive = "
                "\"high\"\ndebounce "
                "= \"{1}\"\n",
                i, one_in(3) ? "20 ms" : "0 s");
            facts_.push_back(fmt::format("b{}", i));
        }
        if (one_in(4)) {
            add("[sense.speed]\npart = \"pulse_counter\"\npin = \"S\"\nedges_per_turn = 1\nmethod "
                "= "
                "\"window\"\nwindow = \"1 s\"\n");
            has_speed_ = true;
        }
    }

    /// One that may be named in a condition.
    std::string fact() {
        switch (below(12)) {
        case 0: return fmt::format("lost({})", any(quantities_));
        case 1: return fmt::format("rises({})", any(plain()));
        case 2: return fmt::format("falls({})", any(plain()));
        case 3:
            if (!locks_.empty())
                return fmt::format("locked({})", any(locks_));
            break;
        case 4:
        case 5:
            if (!states_.empty())
                return fmt::format("m {} s{}",
                                   any(std::vector<std::string>{"in", "enters", "leaves"}),
                                   below(static_cast<int>(states_.size())));
            break;
        case 6:
            if (!ladders_.empty())
                return fmt::format("{} {} {}", any(ladders_), one_in(2) ? ">=" : "<", one_to(2));
            break;
        case 7:
            if (!told_.empty())
                return any(told_);
            break;
        default: break;
        }
        return any(facts_);
    }
    const std::vector<std::string>& plain() const { return facts_; }
    std::string condition() {
        std::string out = fact();
        if (one_in(4))
            out = "not " + out;
        if (one_in(2))
            out +=
                fmt::format(" {} {}{}", one_in(2) ? "and" : "or", one_in(3) ? "not " : "", fact());
        return out;
    }

    void decisions() {
        for (int i = 0, n = one_to(4); i < n; ++i) {
            const std::string name = fmt::format("d{}", i);
            add("[decide.{}]\n", name);
            switch (below(7)) {
            case 0:
            case 1:
                add("of = \"{}\"\n{}", any(quantities_),
                    one_in(2) ? "above = \"60 %\"\nrelease = \"40 %\"\n"
                              : "below = \"30 %\"\nrelease = \"50 %\"\n");
                timing();
                break;
            case 2:
                add("of = \"{}\"\ninside = [\"30 %\", \"60 %\"]\nrelease = [\"20 %\", \"70 %\"]\n",
                    any(quantities_));
                timing();
                break;
            case 3:
                add("of = \"{}\"\nrising = [\"40 %\", \"70 %\"]\nrelease = [\"30 %\", \"50 %\"]\n",
                    any(quantities_));
                ladders_.push_back(name);
                continue;
            case 4:
                add("of = \"{}\"\npoints = [[\"20 %\", \"{} %\"], [\"80 %\", \"{} %\"]]\n",
                    any(quantities_), one_in(2) ? 0 : 20, one_in(2) ? 100 : 80);
                if (one_in(2))
                    add("dead_band = \"5 %\"\n");
                if (one_in(3))
                    add("floor = \"30 %\"\n");
                curves_.push_back(name);
                continue;
            case 5:
                add("when = \"{}\"\n", condition());
                timing();
                break;
            default:
                add("when = \"{}\"\nact_for = \"{}\"\nrest_for = \"{}\"\n", condition(), span(),
                    span());
                if (one_in(2))
                    add("tries = {}\n", one_to(3));
                if (one_in(3))
                    add("longest_total = \"{} s\"\n", 9 + one_to(20));
                if (one_in(2))
                    add("reset = \"{}\"\n", fact());
                locks_.push_back(name);
                break;
            }
            facts_.push_back(name);
        }
    }
    void timing() {
        if (one_in(3))
            add("for_at_least = \"{}\"\n", span());
        if (one_in(3))
            add("gone_for = \"{}\"\n", span());
        if (one_in(5)) {
            add("times = {}\n", one_in(6) ? 20 : one_to(3));
            if (one_in(2))
                add("reset = \"{}\"\n", fact());
        }
    }

    void machine() {
        const int states = 2 + below(2);
        std::string moves;
        for (int i = 0; i < states; ++i) {
            const int to = (i + 1) % states;
            if (one_in(2))
                moves += fmt::format("  {{ from = \"s{}\", to = \"s{}\", when = \"{}\" }},\n", i,
                                     to, condition());
            else
                moves += fmt::format("  {{ from = \"s{}\", to = \"s{}\", after = \"{}\" }},\n", i,
                                     to, span());
        }
        if (one_in(2))
            moves +=
                fmt::format("  {{ from = \"any\", to = \"s0\", when = \"{}\" }},\n", condition());
        add("[machine.m]\nstart = \"s0\"\nmoves = [\n{}]\n", moves);
        for (int i = 0; i < states; ++i)
            states_.push_back(i);
    }

    void outputs() {
        const int n = 1 + below(3);
        add("[pattern.blink]\nsteps = [[\"on\", \"1 s\"], [\"off\", \"2 "
            "s\"]]\n[pattern.dim]\nsteps = "
            "[[\"40 %\", \"1 s\"], [\"100 %\", \"1 s\"], [\"off\", \"1 s\"]]\n");
        for (int i = 0; i < n; ++i)
            drives_.push_back({fmt::format("o{}", i), below(3) == 0 ? "fan"
                                                      : one_in(3)   ? "led"
                                                                    : "relay"});
        for (int i = 0; i < n; ++i)
            output(i, n);
        // Patterns that nobody uses are mistakes.
        for (const char* name : {"blink", "dim"})
            if (body_.find(fmt::format("then = \"{}\"", name)) == std::string::npos) {
                const size_t at = body_.find(fmt::format("[pattern.{}]", name));
                body_.erase(at, body_.find("]]\n", at) + 3 - at);
            }
    }
    std::string value(const Output& out) {
        if (out.part == "relay")
            return one_in(3) ? "off" : "on";
        return any(std::vector<std::string>{"off", "30 %", "100 %"});
    }
    void output(int index, int count) {
        Output& out = drives_[static_cast<size_t>(index)];
        add("[drive.{}]\npart = \"{}\"\npin = \"P{}\"\nsafe = \"{}\"\n", out.name, out.part, index,
            value(out));
        if (one_in(4))
            add("rest = \"{}\"\n", value(out));
        if (out.part == "relay") {
            add("active = \"high\"\n");
            if (one_in(2))
                add("min_on = \"{}\"\n", span());
            const bool longest = one_in(4);
            if (longest || one_in(2))
                add("min_off = \"{}\"\n", span());
            if (longest)
                add("longest_on = \"{} s\"\n", 9 + one_to(9));
            if (one_in(4)) {
                add("warn = \"{}\"\n", span());
                out.warns = true;
            }
            if (one_in(5)) {
                add("warn_off = \"{}\"\n", span());
                out.warns = true;
            }
            if (count > 1 && one_in(3))
                add("never_with = \"o{}\"\n", (index + 1) % count);
        } else if (out.part == "led" && one_in(2)) {
            add("fade = \"{}\"\n", span());
        } else if (out.part == "fan") {
            if (one_in(2))
                add("kick = \"{} %\"\nkick_for = \"500 ms\"\n", one_in(2) ? 60 : 100);
            if (one_in(2))
                add("ramp = \"{}\"\n", span());
            if (has_speed_ && one_in(2)) {
                add("turns = \"speed\"\nstall_after = \"{} s\"\nrest_when_stalled = \"{}\"\ntries "
                    "= "
                    "{}\n",
                    1 + one_to(3), span(), one_to(3));
                if (one_in(2))
                    add("reset = \"{}\"\n", fact());
                out.stalls = true;
            }
        }
        if (one_in(4)) {
            add("by_hand = {{ when = \"{}\", then = {}, longest = \"{}\"{} }}\n", any(facts_),
                one_in(3) ? fmt::format("[\"{}\", \"off\"]", out.part == "relay" ? "on" : "100 %")
                          : fmt::format("\"{}\"", value(out)),
                span(), one_in(3) ? fmt::format(", back = \"{}\"", fact()) : std::string());
            out.by_hand = true;
        }
        add("claims = [\n");
        for (int i = 0, n = one_to(3); i < n; ++i) {
            std::string then = value(out);
            if (one_in(4))
                then = out.part == "relay" ? "blink" : "dim";
            else if (out.part != "relay" && !curves_.empty() && one_in(2))
                then = any(curves_);
            add("  {{ when = \"{}\", then = \"{}\" }},\n", condition(), then);
        }
        // So that it can be something else than its rest.
        add("  {{ when = \"{}\", then = \"{}\" }},\n  {{ when = \"{}\", then = \"off\" }},\n]\n",
            fact(), out.part == "relay" ? "on" : "100 %", fact());
        if (out.warns)
            told_.push_back(fmt::format("warns({})", out.name));
        if (out.stalls)
            told_.push_back(fmt::format("stalled({})", out.name));
        if (out.by_hand)
            told_.push_back(fmt::format("by_hand({})", out.name));
    }

    /// What must never be: outputs among what conditions may name.
    std::string line() {
        const auto one = [this]() -> std::string {
            if (one_in(3))
                return fact();
            const Output& out = any(drives_);
            return one_in(3) ? out.name + " at full" : out.name;
        };
        std::string out = (one_in(4) ? "not " : "") + one();
        for (int i = 0, n = one_to(3); i < n; ++i)
            out += fmt::format(" and {}{}", one_in(3) ? "not " : "", one());
        return out;
    }

    std::mt19937_64 random_;
    std::string body_;
    std::vector<std::string> quantities_, facts_, locks_, ladders_, curves_, told_;
    std::vector<int> states_;
    std::vector<Output> drives_;
    bool has_speed_ = false;
};

} // namespace random_rig
