// SPDX-License-Identifier: MIT
/// \file
/// What a part promises besides its behaviour, written down in its test file and collected: what
/// does not compile and why, how exact its conversions are, and what they cost on the chip.
///
///     const CppMistakes percent_mistakes{{"constexpr auto p = ...; Thermistor<p> t;", "Beta must
///     lie"}}; const Accuracy percent_accuracy{bank::percent, "percent", "0 to 100 %", 0.01, "%",
///     4, measure}; const Cost percent_costs{bank::percent, "percent between two codes", 400};
#pragma once

#include "tests/chips/bank_io.hpp"

#include <fmt/format.h>

#include <cmath>
#include <functional>
#include <initializer_list>
#include <string>
#include <vector>

namespace parts {

/// Everything of one kind that the test files have written down, in no particular order.
template <class T> std::vector<T>& all_of() {
    static std::vector<T> all;
    return all;
}

struct CppMistake {
    const char* text;
    const char* said; ///< "" for what must compile
};
struct CppMistakes {
    CppMistakes(std::initializer_list<CppMistake> cases) {
        all_of<CppMistake>().insert(all_of<CppMistake>().end(), cases);
    }
};

/// The worst case so far.
struct Worst {
    double off = 0;
    std::string where;
    long count = 0;
    void see(double got, double exact, double scale, const std::function<std::string()>& place) {
        ++count;
        const double now = std::fabs(got - exact) * scale;
        if (now > off) {
            off = now;
            where = place();
        }
    }
};

/// How far a conversion may be from its formula in double precision, over its whole stated range.
struct Accuracy {
    bank::Which which;
    std::string what, range;
    double most;
    std::string unit;
    int digits;
    std::function<Worst()> measure;

    Accuracy(bank::Which conversion, std::string name, std::string over, double bound,
             std::string of, int shown, std::function<Worst()> measured)
        : which(conversion), what(std::move(name)), range(std::move(over)), most(bound),
          unit(std::move(of)), digits(shown), measure(std::move(measured)) {
        all_of<Accuracy>().push_back(*this);
    }
};

/// Mean cycles that a conversion may take on the ATmega328P; 0 where there is no bound.
struct Cost {
    bank::Which which;
    const char* name;
    int most;

    Cost(bank::Which conversion, const char* what, int cycles)
        : which(conversion), name(what), most(cycles) {
        all_of<Cost>().push_back(*this);
    }
};

/// Every code that a sensor takes for a value, against the value that its formula gives the code.
/// \param relative  whether errors count as a share of the value, in percent
inline std::function<Worst()> every_code(bank::Which which, std::function<double(double)> exact,
                                         bool relative, std::string unit) {
    return [=] {
        Worst worst;
        for (uint32_t code = 0; code < 1024; ++code) {
            const bank::Out out = bank::on_desk({which, 0, code, 0, 0});
            if (out.health != 0)
                continue;
            const double value = exact(code);
            worst.see(out.value / 1000.0, value, relative ? 100 / std::fabs(value) : 1,
                      [&] { return fmt::format("code {}, {:.3f} {}", code, value, unit); });
        }
        return worst;
    };
}

/// A divider's resistance over that of its other half, or the other way round, by its code.
inline double ratio(double code, double full = 1024) { return code / (full - code); }

/// A grid over temperature and humidity, in steps that are no round numbers.
inline Worst over_air(
    bank::Which which, int32_t from, int32_t to, int32_t driest,
    const std::function<double(double, double)>& exact,
    const std::function<double(double)>& shown = [](double x) { return x; }) {
    Worst worst;
    const auto try_one = [&](int32_t t, int32_t h) {
        const bank::Out out = bank::on_desk({which, 0, 0, t, h});
        if (out.health != 0)
            return;
        worst.see(shown(out.value / 1000.0), exact(t / 1000.0, h / 1000.0), 1,
                  [&] { return fmt::format("{:g} degC, {:g} %RH", t / 1000.0, h / 1000.0); });
    };
    for (int32_t t = from; t <= to; t += 47)
        for (int32_t h = driest; h <= 100'000; h += 411)
            try_one(t, h);
    for (int32_t t = from; t <= to; ++t) // the ends of humidity at every temperature
        for (const int32_t h : {driest, 100'000})
            try_one(t, h);
    return worst;
}

} // namespace parts
