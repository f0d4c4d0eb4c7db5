// SPDX-License-Identifier: MIT
#include "bench/sizing.hpp"

#include "bench/plot.hpp"
#include "rig/sense/forward.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace zorilla::bench {

using rig::DividerModel;

namespace {

constexpr double lowest_ohms = 1, highest_ohms = 10e6;

/// One decade of a series, from 100 to under 1,000. (IEC 60063 rounds E24 by hand, E96 by rule.)
std::vector<int> decade_of(Series series) {
    constexpr int e24[] = {100, 110, 120, 130, 150, 160, 180, 200, 220, 240, 270, 300,
                           330, 360, 390, 430, 470, 510, 560, 620, 680, 750, 820, 910};
    std::vector<int> out;
    if (series == Series::e96)
        for (int i = 0; i < 96; ++i)
            out.push_back(static_cast<int>(std::lround(100 * std::pow(10, i / 96.0))));
    else
        for (int i = 0; i < 24; i += series == Series::e12 ? 2 : 1)
            out.push_back(e24[i]);
    return out;
}

std::string three_digits(double value, double scale, const char* unit) {
    return fmt::format("{:.3g} {}", value / scale, unit);
}

} // namespace

std::vector<double> standard_values(Series series, double from, double to) {
    const std::vector<int> decade = decade_of(series);
    std::vector<double> out;
    for (int power = -4; power <= 6; ++power)
        for (const int digits : decade) {
            const double ohms =
                power < 0 ? digits / std::pow(10, -power) : digits * std::pow(10, power);
            if (ohms >= from && ohms <= to)
                out.push_back(ohms);
        }
    return out;
}

double standard_from(Series series, double ohms) {
    const auto values = standard_values(series, ohms * (1 - 1e-9), ohms * 2);
    return values.empty() ? ohms : values.front();
}

double standard_up_to(Series series, double ohms) {
    const auto values = standard_values(series, ohms / 2, ohms * (1 + 1e-9));
    return values.empty() ? ohms : values.back();
}

double point_of(const DividerTask& task) {
    if (task.point)
        return *task.point;
    const double middle = std::sqrt(task.ohms(task.from) * task.ohms(task.to));
    const bool rises = task.ohms(task.to) > task.ohms(task.from);
    double low = task.from, high = task.to;
    for (int i = 0; i < 60; ++i) {
        const double half = (low + high) / 2;
        ((task.ohms(half) < middle) == rises ? low : high) = half;
    }
    return (low + high) / 2;
}

DividerChoice divider_choice(const DividerTask& task, double pull) {
    const DividerModel divider{pull, task.sensor_to_ground, task.supply, task.supply};
    const double codes = std::pow(2, task.bits);
    const auto code_at = [&](double value) { return codes * divider.share(task.ohms(value)); };
    DividerChoice out;
    out.pull = pull;
    out.code_from = code_at(task.from);
    out.code_to = code_at(task.to);
    const double point = point_of(task);
    const double step = std::fabs(task.to - task.from) * 1e-5;
    out.counts_per_unit = std::fabs(code_at(point + step) - code_at(point - step)) / (2 * step);
    const double one = task.ohms(task.from), other = task.ohms(task.to);
    const double least = std::min(one, other), most = std::max(one, other);
    out.amperes = task.supply / (least + pull);
    // A sensor is heated most where its resistance equals the resistor's, if that is in the range.
    const double hottest = std::clamp(pull, least, most);
    const double through = task.supply / (hottest + pull);
    out.sensor_watts = through * through * hottest;
    out.warming = out.sensor_watts / task.watts_per_kelvin;
    return out;
}

DividerResult size_divider(const DividerTask& task) {
    for (const double value : {task.from, task.to}) {
        const double ohms = task.ohms(value);
        if (!(ohms > 0 && std::isfinite(ohms)))
            throw rig::InputError(fmt::format("a sensor of {:.6g} ohm cannot be; its resistance "
                                              "must be above 0 at both ends of the range",
                                              ohms));
    }
    const double one = task.ohms(task.from), other = task.ohms(task.to);
    if (std::fabs(std::log(one / other)) < 1e-6)
        throw rig::InputError(
            fmt::format("at both ends the sensor has {}; a range needs two ends", ohms_text(one)));
    const std::vector<double> all = standard_values(task.series, lowest_ohms, highest_ohms);
    std::vector<DividerChoice> choices;
    for (const double pull : all)
        choices.push_back(divider_choice(task, pull));
    const auto worth = [&task](const DividerChoice& choice) {
        return task.point ? choice.counts_per_unit : choice.span();
    };
    std::vector<size_t> order(choices.size());
    std::iota(order.begin(), order.end(), size_t{0});
    std::sort(order.begin(), order.end(), [&](size_t a, size_t b) {
        return worth(choices[a]) != worth(choices[b]) ? worth(choices[a]) > worth(choices[b])
                                                      : a > b;
    });
    const size_t best = order.front();
    const size_t first = best >= 3 ? best - 3 : 0;
    const size_t last = std::min(best + 3, choices.size() - 1);
    DividerResult out;
    out.choices.assign(choices.begin() + static_cast<ptrdiff_t>(first),
                       choices.begin() + static_cast<ptrdiff_t>(last) + 1);
    out.best = best - first;
    for (const double ohms : task.have)
        out.have.push_back(divider_choice(task, ohms));
    for (size_t i = 0; out.ranking.size() < 3 && i < order.size(); ++i)
        if (order[i] >= first && order[i] <= last)
            out.ranking.push_back(order[i] - first);
    return out;
}

void draw_divider(const std::string& path, const DividerTask& task, const DividerResult& result,
                  const std::string& title, const std::string& axis, bool logarithmic) {
    constexpr int steps = 200;
    std::string out = plot::beginning(plot::terminal_of(path), title);
    out += "$codes << END\n";
    for (int i = 0; i <= steps; ++i) {
        const double along = static_cast<double>(i) / steps;
        const double value = logarithmic ? task.from * std::pow(task.to / task.from, along)
                                         : task.from + (task.to - task.from) * along;
        out += fmt::format("{:.9g}", value);
        for (const size_t which : result.ranking)
            out += fmt::format(" {:.9g}",
                               std::pow(2, task.bits) * DividerModel{result.choices[which].pull,
                                                                     task.sensor_to_ground,
                                                                     task.supply, task.supply}
                                                            .share(task.ohms(value)));
        out += '\n';
    }
    const double full = std::pow(2, task.bits);
    out +=
        fmt::format("END\nset tmargin at screen 0.90\nset bmargin at screen 0.10\n"
                    "set lmargin at screen 0.12\nset rmargin at screen 0.97\n"
                    "set xrange [{:.9g}:{:.9g}]\nset yrange [0:{}]\n{}"
                    "set key at graph 0, graph 1 left Left reverse bottom horizontal samplen 4\n",
                    std::min(task.from, task.to), std::max(task.from, task.to), full,
                    logarithmic ? "set logscale x\n" : "");
    out += plot::axis_label("x", axis);
    out += plot::axis_label("y", fmt::format("code of the {}-bit converter", task.bits));
    if (task.point)
        out += fmt::format("set arrow from first {0:.9g}, graph 0 to first {0:.9g}, graph 1 nohead "
                           "dt 2 lc rgb '{1}'\n",
                           *task.point, plot::ink);
    out += "plot ";
    for (size_t i = 0; i < result.ranking.size(); ++i)
        out +=
            fmt::format("{}$codes using 1:{} with lines lw 2 dt {} lc rgb '{}' title {} "
                        "noenhanced",
                        i == 0 ? "" : ", ", i + 2, i + 1, plot::colours[i],
                        plot::quoted(fmt::format("{}: {:.0f} counts",
                                                 ohms_text(result.choices[result.ranking[i]].pull),
                                                 result.choices[result.ranking[i]].span())));
    plot::draw(path, out + "\n");
}

LedResult size_led(const LedTask& task) {
    LedResult out;
    const double left = task.supply - task.forward;
    out.lights = left > 0;
    if (!out.lights)
        return out;
    // The forward voltage strays by a tenth of a volt or two, and with it what the resistor gets.
    out.settled = left >= 0.5;
    out.ohms = standard_from(task.series, left / task.amperes);
    out.amperes = left / out.ohms;
    out.resistor_watts = out.amperes * left;
    out.pin_bears_it = out.amperes <= task.pin_limit;
    return out;
}

bool is_inductive(LoadKind kind) {
    return kind == LoadKind::relay || kind == LoadKind::solenoid || kind == LoadKind::motor ||
           kind == LoadKind::buzzer;
}

LoadResult size_load(const LoadTask& task) {
    constexpr double base_emitter = 0.7; // volt, of silicon
    constexpr double forced_gain = 20;   // collector over base: well within saturation
    constexpr double small_npn = 0.5;    // ampere, what a small transistor is good for
    LoadResult out;
    out.diode = is_inductive(task.kind);
    out.diode_amperes = task.amperes;
    out.diode_volts = 2 * task.supply;
    if (!out.diode && task.amperes <= task.pin_limit && task.supply <= task.pin_voltage)
        return out;
    const double base = task.amperes / forced_gain;
    if (task.amperes > small_npn || base > task.pin_limit || task.pin_voltage <= base_emitter) {
        out.way = LoadWay::mosfet;
        return out;
    }
    out.way = LoadWay::transistor;
    out.base_ohms = standard_up_to(Series::e12, (task.pin_voltage - base_emitter) / base);
    out.base_amperes = (task.pin_voltage - base_emitter) / out.base_ohms;
    if (out.base_amperes > task.pin_limit)
        out.way = LoadWay::mosfet;
    return out;
}

double contact_share(LoadKind kind) {
    switch (kind) {
    case LoadKind::heater: return 0.75;
    case LoadKind::relay:
    case LoadKind::solenoid:
    case LoadKind::buzzer: return 0.4;
    case LoadKind::motor: return 0.2;
    case LoadKind::lamp: break;
    }
    return 0.1; // a cold filament draws ten times its current
}

std::string ohms_text(double ohms) {
    return ohms >= 999'500 ? three_digits(ohms, 1e6, "Mohm")
           : ohms >= 999.5 ? three_digits(ohms, 1e3, "kohm")
                           : three_digits(ohms, 1, "ohm");
}

std::string amperes_text(double amperes) {
    return amperes >= 0.9995      ? three_digits(amperes, 1, "A")
           : amperes >= 0.0009995 ? three_digits(amperes, 1e-3, "mA")
                                  : three_digits(amperes, 1e-6, "uA");
}

std::string watts_text(double watts) {
    return watts >= 0.9995      ? three_digits(watts, 1, "W")
           : watts >= 0.0009995 ? three_digits(watts, 1e-3, "mW")
                                : three_digits(watts, 1e-6, "uW");
}

} // namespace zorilla::bench
