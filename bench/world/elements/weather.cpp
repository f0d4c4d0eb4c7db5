// SPDX-License-Identifier: MIT
// The weather: a curve of the day, days that differ, wet days, the seasons; or a recorded file.
#include "bench/samples.hpp"
#include "bench/world/elements/elements.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::Kind;

namespace {

constexpr double day = 86'400;

/// Where a normal number lies below with this chance, by halving.
double normal_below(double chance) {
    double low = -8, high = 8;
    while (high - low > 1e-9) {
        const double middle = (low + high) / 2;
        (0.5 * std::erfc(-middle / std::sqrt(2.0)) < chance ? low : high) = middle;
    }
    return low;
}

/// A cosine over the day, moved by how much days differ and by the season. The water in a cubic
/// metre of outside air stays the same over the day. A wet day is damp and, without the sun, warms
/// up by half as much.
class Weather : public Element {
  public:
    std::vector<WorldValue> values() const override {
        return {{name, Kind::temperature},
                {name + ".humidity", Kind::humidity},
                {name + ".vapour", Kind::absolute_humidity},
                {name + ".wet", Kind::percentage}};
    }

    std::optional<Climate> climate() const override { return Climate{value, value + 1}; }

    void read(rig::TableReader& keys, WorldScope& scope) override {
        const auto degrees = [&](const char* key, Kind kind, const char* example) {
            const auto is = keys.quantity(key, kind, example);
            return is ? std::optional(rig::in_formulas(*is, kind)) : std::nullopt;
        };
        const auto coldest = degrees("coldest", Kind::temperature, "-2 degC");
        const auto warmest = degrees("warmest", Kind::temperature, "6 degC");
        coldest_at_ = clock_time(keys, "coldest_at").value_or(coldest_at_);
        differ_ = degrees("days_differ", Kind::temperature_difference, "2 K").value_or(0);
        if (const auto spell = keys.quantity("spell", Kind::duration, "3 d");
            spell && keys.expect(*spell >= 86'400'000 / 4, "spell", "6 h or more"))
            alike_ = std::exp(-86'400e3 / *spell);
        season_ = degrees("summer_warmer", Kind::temperature_difference, "18 K").value_or(0);
        humidity_ = degrees("humidity", Kind::humidity, "80 %RH").value_or(80);
        if (const auto wet = keys.quantity("wet_days", Kind::percentage, "40 %");
            wet && keys.expect(*wet >= 0 && *wet < 100'000, "wet_days", "from 0 to below 100 %"))
            wet_ = rig::in_formulas(*wet, Kind::percentage) / 100;
        wet_from_ = normal_below(1 - wet_);
        stream_ = stream_of(name);
        wet_stream_ = stream_of(name + ".wet");
        const auto file = keys.text("file", "november.csv");
        if (file) {
            if (coldest || warmest)
                keys.complain(fmt::format("{} takes its weather from a file, or from \"coldest\" "
                                          "and \"warmest\"; not from both",
                                          keys.label()));
            for (const char* key :
                 {"coldest_at", "days_differ", "spell", "summer_warmer", "wet_days"})
                if (keys.table().get(key) != nullptr)
                    scope.findings->add(*keys.table().get(key),
                                        fmt::format("\"{}\" is of days that are made up; {} takes "
                                                    "its weather from a file: leave it out",
                                                    key, keys.label()));
            return load(keys, scope, *file);
        }
        if (!coldest || !warmest) {
            if (keys.table().get("coldest") == nullptr || keys.table().get("warmest") == nullptr)
                keys.complain(fmt::format("{} needs \"coldest\" and \"warmest\", of a usual day, "
                                          "or \"file\"; for example coldest = \"-2 degC\"",
                                          keys.label()));
            return;
        }
        keys.expect(*coldest <= *warmest, "warmest", "above \"coldest\"");
        mean_ = (*coldest + *warmest) / 2;
        swing_ = (*warmest - *coldest) / 2;
    }

    void happen_slowly(const Moment& now, double* values) const override {
        if (!rows_.empty())
            return from_file(now.seconds, values);
        const double hour = std::fmod(now.of_day, day);
        // The warmest days come a month after the longest one.
        const double mean = mean_ + (season_ == 0 ? 0 : season_of(now.day_of_year)) +
                            (differ_ == 0 ? 0 : differ_ * differs(now));
        const double wet = wet_ == 0 ? 0 : wetness(now);
        const double celsius =
            mean - (1 - wet / 2) * swing_ * std::cos(2 * pi * (hour - coldest_at_) / day);
        const double damp = humidity_ + wet * std::max(wet_humidity - humidity_, 0.0);
        set(values, celsius,
            std::min(damp / 100 * saturated_vapour(mean), saturated_vapour(celsius)));
        values[value + 3] = 100 * wet;
    }

  private:
    struct Row {
        double seconds, celsius, humidity;
    };
    double differs(const Moment& now) const {
        return smooth_chance(now.seed, stream_, now.of_day / day, alike_);
    }
    static constexpr double wet_humidity = 95; ///< %RH at the mean temperature
    /// From 0, bright, to 1, wet, and above a half in the share of time that the file says.
    double wetness(const Moment& now) const {
        const double is = smooth_chance(now.seed, wet_stream_, now.of_day / day, alike_);
        return std::clamp(0.5 + (is - wet_from_) / 0.3, 0.0, 1.0);
    }
    /// Apart from what the season was on the day that the file speaks of: January.
    double season_of(double of_year) const {
        return season_ / 2 * (1 - std::cos(2 * pi * (of_year - 20) / 365.25));
    }
    void set(double* values, double celsius, double vapour) const {
        values[value] = celsius;
        values[value + 1] = 100 * vapour / saturated_vapour(celsius);
        values[value + 2] = vapour;
    }

    void load(rig::TableReader& keys, WorldScope& scope, const std::string& file) {
        try {
            SampleReader reader(file.front() == '/' ? file : scope.folder + file,
                                [](uint64_t, const std::string&) {});
            size_t celsius = SIZE_MAX, humidity = SIZE_MAX;
            for (size_t i = 0; i < reader.columns().size(); ++i) {
                const SampleColumn& column = reader.columns()[i];
                if (column.unit == "degC" && celsius == SIZE_MAX)
                    celsius = i;
                if (column.unit == "%RH" && humidity == SIZE_MAX)
                    humidity = i;
            }
            if (celsius == SIZE_MAX || !reader.has_time()) {
                scope.findings->add(*keys.table().get("file"),
                                    fmt::format("{} needs a column of time and one in degC, such "
                                                "as \"time (h),outside (degC)\"",
                                                file));
                return;
            }
            while (reader.next()) {
                const double* is = reader.row().values;
                if (std::isnan(is[celsius]))
                    continue;
                const double damp =
                    humidity == SIZE_MAX || std::isnan(is[humidity]) ? humidity_ : is[humidity];
                rows_.push_back({reader.row().milliseconds / 1000, is[celsius], damp});
            }
            if (rows_.size() < 2 || rows_.back().seconds <= rows_.front().seconds)
                scope.findings->add(*keys.table().get("file"),
                                    fmt::format("{} has fewer than two rows of weather", file));
        } catch (const rig::InputError& problem) {
            scope.findings->add(*keys.table().get("file"), problem.what());
        }
        if (rows_.empty())
            rows_ = {{0, 0, 50}, {1, 0, 50}}; // the mistake has been told
    }

    /// Straight from row to row; when the file ends, it begins anew.
    void from_file(double seconds, double* values) const {
        const double first = rows_.front().seconds, span = rows_.back().seconds - first;
        const double at = first + std::fmod(seconds, span);
        auto next = std::upper_bound(rows_.begin(), rows_.end(), at,
                                     [](double a, const Row& b) { return a < b.seconds; });
        next = std::clamp(next, rows_.begin() + 1, rows_.end() - 1);
        const Row &a = *(next - 1), &b = *next;
        const double t = b.seconds > a.seconds
                             ? std::clamp((at - a.seconds) / (b.seconds - a.seconds), 0.0, 1.0)
                             : 0.0;
        const double celsius = a.celsius + t * (b.celsius - a.celsius);
        set(values, celsius,
            (a.humidity + t * (b.humidity - a.humidity)) / 100 * saturated_vapour(celsius));
    }

    double mean_ = 0, swing_ = 0, coldest_at_ = 5 * 3600, differ_ = 0, season_ = 0, humidity_ = 80;
    double wet_ = 0, wet_from_ = 0; ///< a share, and from which normal number on it is wet
    double alike_ =
        std::exp(-1.0 / 3); ///< a day and the next: a spell of weather lasts for three days
    uint64_t stream_ = 0, wet_stream_ = 0;
    std::vector<Row> rows_;
};

} // namespace

ElementKind weather_element() {
    return {"weather",
            "The air outside: how warm and how damp.",
            {{"coldest", "\"-2 degC\""},
             {"warmest", "\"6 degC\""},
             {"coldest_at", "\"05:00\""},
             {"days_differ", "\"2 K\""},
             {"spell", "\"3 d\""},
             {"summer_warmer", "\"18 K\""},
             {"wet_days", "\"40 %\""},
             {"humidity", "\"80 %RH\""},
             {"file", "\"november.csv\""}},
            [] { return std::unique_ptr<Element>(std::make_unique<Weather>()); }};
}

} // namespace zorilla::bench
