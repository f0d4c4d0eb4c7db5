// SPDX-License-Identifier: MIT
// How far each conversion is from its formula in double precision, over its whole stated range: the
// worst case, and where. Prints the table of docs/accuracy.md; ends with 1 if a bound is not kept.
#include "rig/sense/forward.hpp"
#include "rig/text/text.hpp"
#include "tests/chips/bank.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <string>

namespace {

using namespace zorilla;
using bank::In;
using bank::Out;

Out run(const In& in) {
    static bank::State state;
    return bank::dispatch(state, in, [](auto* convert, bank::State& s, const In& one, Out& out) {
        convert(s, one, out);
    });
}

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

bool all_kept = true;

void row(const std::string& what, const std::string& range, const Worst& worst, double most,
         const std::string& unit, int digits) {
    const bool kept = worst.off <= most && worst.count > 250;
    all_kept = all_kept && kept;
    fmt::print("| {} | {} | {:.{}f} {} | {} | {:g} {} | {} |\n", what, range, worst.off, digits,
               unit, worst.where, most, unit, kept ? "yes" : "NO");
}

/// Every code that a sensor takes for a value, against the value that its formula gives the code.
/// \param relative  whether errors count as a share of the value, in percent
Worst every_code(bank::Which which, const std::function<double(double)>& exact, bool relative,
                 const std::string& unit) {
    Worst worst;
    for (uint32_t code = 0; code < 1024; ++code) {
        const Out out = run({which, 0, code, 0, 0});
        if (out.health != 0)
            continue;
        const double value = exact(code);
        worst.see(out.value / 1000.0, value, relative ? 100 / std::fabs(value) : 1,
                  [&] { return fmt::format("code {}, {:.3f} {}", code, value, unit); });
    }
    return worst;
}

double ratio(double code, double full = 1024) { return code / (full - code); }

double steinhart_hart(double ohms, double a, double b, double c) {
    const double l = std::log(ohms);
    return 1 / (a + b * l + c * l * l * l) - 273.15;
}

double by_points(double ohms, std::vector<std::pair<double, double>> p) {
    const auto l = [&](int i) { return std::log(p[static_cast<size_t>(i)].second); };
    const auto y = [&](int i) { return 1 / (p[static_cast<size_t>(i)].first + 273.15); };
    const double g2 = (y(1) - y(0)) / (l(1) - l(0)), g3 = (y(2) - y(0)) / (l(2) - l(0));
    const double c = (g3 - g2) / (l(2) - l(1)) / (l(0) + l(1) + l(2));
    const double b = g2 - c * (l(0) * l(0) + l(0) * l(1) + l(1) * l(1));
    return steinhart_hart(ohms, y(0) - (b + l(0) * l(0) * c) * l(0), b, c);
}

double by_lines(double ohms, const std::vector<std::pair<double, double>>& lines) {
    size_t i = 0;
    while (i + 2 < lines.size() && ohms > lines[i + 1].second)
        ++i;
    const double from = 1 / (lines[i].first + 273.15), to = 1 / (lines[i + 1].first + 273.15);
    return 1 / (from + (to - from) * std::log(ohms / lines[i].second) /
                           std::log(lines[i + 1].second / lines[i].second)) -
           273.15;
}

double dew_point_of(double t, double h) {
    const double g = std::log(h / 100) + 17.62 * t / (243.12 + t);
    return 243.12 * g / (17.62 - g);
}

double vapour_of(double t, double h) {
    return 216.68 * h / 100 * 6.112 * std::exp(17.62 * t / (243.12 + t)) / (273.15 + t);
}

/// In degF, of degF.
double heat_index_of(double t, double r) {
    const double simple = 0.5 * (t + 61 + (t - 68) * 1.2 + r * 0.094);
    if ((simple + t) / 2 < 80)
        return (simple + t) / 2;
    double out = -42.379 + 2.04901523 * t + 10.14333127 * r - 0.22475541 * t * r -
                 0.00683783 * t * t - 0.05481717 * r * r + 0.00122874 * t * t * r +
                 0.00085282 * t * r * r - 0.00000199 * t * t * r * r;
    if (r < 13 && t >= 80 && t <= 112)
        out -= (13 - r) / 4 * std::sqrt((17 - std::fabs(t - 95)) / 17);
    else if (r > 85 && t >= 80 && t <= 87)
        out += (r - 85) / 10 * ((87 - t) / 5);
    return out;
}

/// A grid over temperature and humidity, in steps that are no round numbers.
Worst over_air(bank::Which which, int32_t from, int32_t to, int32_t driest,
               const std::function<double(double, double)>& exact, double scale,
               const std::function<double(double)>& shown) {
    Worst worst;
    const auto try_one = [&](int32_t t, int32_t h) {
        const Out out = run({which, 0, 0, t, h});
        if (out.health != 0)
            return;
        worst.see(shown(out.value / 1000.0), exact(t / 1000.0, h / 1000.0), scale,
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

} // namespace

int main() {
    fmt::print("| conversion | range | largest error | where | bound | kept "
               "|\n|---|---|---|---|---|---|\n");
    using namespace bank;

    row("thermistor, Beta", "-30 to 80 degC",
        every_code(
            thermistor_beta,
            [](double c) { return 1 / (1 / 298.15 + std::log(ratio(c)) / 3950) - 273.15; }, false,
            "degC"),
        0.05, "degC", 3);
    row("thermistor, three points", "-25 to 85 degC",
        every_code(
            thermistor_points,
            [](double c) {
                return ::by_points(10'000 / ratio(c), {{-20, 97'070}, {25, 10'000}, {80, 1255}});
            },
            false, "degC"),
        0.05, "degC", 3);
    row("thermistor, Steinhart-Hart, other reference", "-10 to 60 degC",
        every_code(
            thermistor_coefficients,
            [](double c) {
                return steinhart_hart(10'000 * ratio(c, 1024 * 3.3 / 5), 1.129148e-3, 2.34125e-4,
                                      8.76741e-8);
            },
            false, "degC"),
        0.05, "degC", 3);
    row("thermistor, table of a PTC", "-40 to 125 degC",
        every_code(
            thermistor_lines,
            [](double c) {
                return ::by_lines(1000 * ratio(c),
                                  {{-40, 567}, {0, 815}, {25, 1000}, {60, 1299}, {100, 1696}});
            },
            false, "degC"),
        0.05, "degC", 3);
    row("linear temperature chip", "-40 to 125 degC",
        every_code(
            linear_chip_, [](double c) { return (c * 3.3 / 1024 - 0.5) / 0.01; }, false, "degC"),
        0.01, "degC", 4);
    row("photoresistor, power law", "0.5 to 2,000 lx",
        every_code(
            photoresistor_, [](double c) { return 10 * std::pow(ratio(c), 1 / 0.7); }, true, "lx"),
        1, "%", 3);
    row("phototransistor", "10 to 950 lx",
        every_code(
            phototransistor_, [](double c) { return c * 5 / 1024 / (500e-9 * 10'000); }, true,
            "lx"),
        1, "%", 4);
    row("percent between two codes", "0 to 100 %",
        every_code(
            percent, [](double c) { return std::clamp((c - 60) * 100 / (910 - 60), 0.0, 100.0); },
            false, "%"),
        0.01, "%", 4);
    row("table of measured points", "0 to 350 mm",
        every_code(
            value_table_,
            [](double c) {
                return c < 480   ? (c - 112) * 200 / 368
                       : c < 700 ? 200 + (c - 480) * 60 / 220
                                 : 260 + (c - 700) * 90 / 200;
            },
            false, "mm"),
        0.001, "mm", 4);

    Worst humidity, distance, gas_worst, climate_worst, frames;
    for (uint32_t code = 0; code < 1024; ++code)
        for (int32_t t = -40'000; t <= 85'000; t += 97) {
            const Out out = run({humidity_chip_, 0, code, t, 0});
            const double exact =
                (code * 5.0 / 1024 - 0.8) / 0.031 / (1 - 0.00216 * (t / 1000.0 - 25));
            if (out.health == 0)
                humidity.see(out.value / 1000.0, std::clamp(exact, 0.0, 100.0), 1,
                             [&] { return fmt::format("code {}, {:g} degC", code, t / 1000.0); });
        }
    row("analogue humidity, compensated", "0 to 100 %RH, -40 to 85 degC", humidity, 0.05, "%RH", 4);

    for (uint32_t us = 100; us < 27'000; us += 7)
        for (int32_t t = -40'000; t <= 85'000; t += 307) {
            const Out out = run({ranger_, 0, us, t, 0});
            const double exact = us * rig::speed_of_sound(t / 1000.0) / 2000;
            if (out.health == 0)
                distance.see(out.value / 1000.0, exact, 1,
                             [&] { return fmt::format("{} us, {:g} degC", us, t / 1000.0); });
        }
    row("ultrasonic distance", "20 to 4,000 mm, -40 to 85 degC", distance, 0.1, "mm", 4);

    const rig::FrameModel tenths_model{FrameCoding::tenths}, whole_model{FrameCoding::whole};
    for (int t = -400; t <= 800; ++t)
        for (int h = 1; h <= 1000; h += 13)
            for (const auto which : {frame_tenths, frame_whole}) {
                const Frame sent =
                    (which == frame_tenths ? tenths_model : whole_model).frame(h / 10.0, t / 10.0);
                In in{which, 0, 0, sent.bytes[4], 0};
                for (int i = 0; i < 4; ++i)
                    in.a = in.a << 8 | sent.bytes[i];
                const Out out = run(in);
                const double off = std::fabs(out.value / 1000.0 - h / 10.0) +
                                   std::fabs(out.second / 1000.0 - t / 10.0) + (out.health != 0);
                frames.see(off < 1e-9 ? 0 : off, 0, 1, [&] { return fmt::format("{} {}", h, t); });
            }
    row("one-wire frame, both codings", "0.1 to 100 %RH, -40 to 80 degC", frames, 0, "", 0);

    const auto curve = [](double c, double factor) {
        const double rs = 10'000 / ratio(c) / factor;
        return 10 * std::pow(rs / 30'000 / 2.6, std::log(20.0) / std::log(0.7 / 2.6));
    };
    run({gas, 0, 500, 0, 0}); // it warms up
    for (uint32_t code = 0; code < 1024; ++code) {
        const Out out = run({gas, 10'000, code, 0, 0});
        const double exact = curve(code, 1);
        if (out.health == 0)
            gas_worst.see(out.value / 1000.0, exact, 100 / exact,
                          [&] { return fmt::format("code {}, {:.2f} ppm", code, exact); });
        for (int32_t t = -10'000; t <= 50'000; t += 3001)
            for (int32_t h = 33'000; h <= 85'000; h += 2003) {
                const Out corrected = run({gas_in_climate, 10'000, code, t, h});
                const double factors[3][2] = {{1.7, 1.5}, {1.0, 0.9}, {0.8, 0.7}};
                const int i = t >= 20'000;
                const double along = (t / 1000.0 - (i ? 20 : -10)) / 30;
                const double across = (h / 1000.0 - 33) / 52;
                const auto at_row = [&](int r) {
                    return std::log(factors[r][0]) +
                           across * (std::log(factors[r][1]) - std::log(factors[r][0]));
                };
                const double value =
                    curve(code, std::exp(at_row(i) + along * (at_row(i + 1) - at_row(i))));
                if (corrected.health == 0)
                    climate_worst.see(corrected.value / 1000.0, value, 100 / value, [&] {
                        return fmt::format("code {}, {:g} degC, {:g} %RH", code, t / 1000.0,
                                           h / 1000.0);
                    });
            }
    }
    row("gas sensor", "0.5 to 500 ppm", gas_worst, 1, "%", 3);
    row("gas sensor, corrected for the climate", "0.5 to 500 ppm", climate_worst, 1, "%", 3);

    Worst window, period;
    State rates;
    const auto run_rate = [&](const In& in) {
        return dispatch(rates, in, [](auto* convert, State& s, const In& one, Out& out) {
            convert(s, one, out);
        });
    };
    uint32_t now = 0, edges = 0;
    run_rate({rate_by_window, now, edges, 0, 0});
    run_rate({rate_by_period, now, edges, 0, 0});
    for (uint32_t i = 1; i < 20'000; ++i) {
        const uint32_t step = 1000 + i * 7 % 977, counted = 1 + i * i % 1500;
        now += step;
        edges += counted;
        const Out out = run_rate({rate_by_window, now, edges & 0xffff, 0, 0});
        const double exact = counted * 60'000.0 / step / 2;
        if (out.health == 0)
            window.see(out.value / 1000.0, exact, 100 / exact,
                       [&] { return fmt::format("{} edges in {} ms", counted, step); });
    }
    for (uint32_t us = 605; us < 60'000'000; us += 1 + us / 700) {
        edges += 2;
        const Out out =
            run_rate({rate_by_period, ++now, edges & 0xffff, static_cast<int32_t>(us), 0});
        const double exact = 60e6 / us / 2;
        if (out.health == 0)
            period.see(out.value / 1000.0, exact, 100 / exact,
                       [&] { return fmt::format("{} us", us); });
    }
    row("turning speed by window", "20 to 45,000 rpm", window, 0.1, "%", 4);
    row("turning speed by period", "0.5 to 49,587 rpm", period, 0.1, "%", 4);

    const auto same = [](double x) { return x; };
    const auto to_fahrenheit = [](double celsius) { return celsius * 1.8 + 32; };
    row("dew point", "-40 to 60 degC, 1 to 100 %RH",
        over_air(dew_point_, -40'000, 60'000, 1000, dew_point_of, 1, same), 0.1, "degC", 3);
    row("heat index", "0 to 45 degC, 0 to 100 %RH",
        over_air(
            heat_index_, 0, 45'000, 0,
            [&](double t, double h) { return heat_index_of(to_fahrenheit(t), h); }, 1,
            to_fahrenheit),
        0.3, "degF", 3);
    row("absolute humidity", "-40 to 60 degC, 0 to 100 %RH",
        over_air(absolute_humidity_, -40'000, 60'000, 0, vapour_of, 1, same), 0.03, "g/m3", 4);

    Worst heat;
    for (uint32_t flow = 1000; flow < 2'000'000; flow += flow / 31)
        for (int32_t by = -60'000; by <= 60'000; by += 223) {
            const Out out = run({air_heat_, 0, flow, by, 0});
            const double exact = flow / 1000.0 * by / 1000.0 * 0.33648;
            if (out.health == 0 && std::fabs(exact) > 1)
                heat.see(out.value / 1000.0, exact, 100 / std::fabs(exact), [&] {
                    return fmt::format("{:g} m3/h, {:g} K", flow / 1000.0, by / 1000.0);
                });
        }
    row("heat of an air stream, from 1 W up", "1 to 2,000 m3/h, -60 to 60 K", heat, 0.2, "%", 4);
    return all_kept ? 0 : 1;
}
