// SPDX-License-Identifier: MIT
// Gas sensors, and what the climate does to them.
#include "rig/sense/analogue.hpp"

namespace zorilla::rig {

namespace {

/// A climate table of any size, as the core takes it.
struct Climate {
    size_t temperature = 0; ///< sources
    size_t humidity = 0;
    std::vector<uint32_t> rows, columns, inverse_rows, inverse_columns;
    std::vector<int16_t> logs;
    std::vector<double> factors; // the same for the forward model

    int16_t at(Temperature t, RelativeHumidity h) const {
        return climate_correction(
            {rows.data(), inverse_rows.data(), static_cast<uint8_t>(rows.size())},
            {columns.data(), inverse_columns.data(), static_cast<uint8_t>(columns.size())},
            logs.data(), t, h);
    }
    /// The factor at a place, straight between the logarithms.
    double factor(double celsius, double percent) const {
        const auto along = [](const std::vector<uint32_t>& points, double value, size_t& i) {
            const auto at = [&points](size_t k) {
                return thousandth_of(static_cast<int32_t>(points[k]));
            };
            i = 0;
            while (i + 2 < points.size() && value > at(i + 1))
                ++i;
            return std::clamp((value - at(i)) / (at(i + 1) - at(i)), 0.0, 1.0);
        };
        size_t row = 0, column = 0;
        const double down = along(rows, celsius, row), across = along(columns, percent, column);
        const auto log_at = [&](size_t r, size_t c) {
            return std::log(factors[r * columns.size() + c]);
        };
        const auto between = [](double a, double b, double share) { return a + share * (b - a); };
        return std::exp(
            between(between(log_at(row, column), log_at(row, column + 1), across),
                    between(log_at(row + 1, column), log_at(row + 1, column + 1), across), down));
    }
};

bool read_axis(TableReader& keys, std::string_view key, Kind kind, std::string_view example,
               std::vector<uint32_t>& points, std::vector<uint32_t>& inverse) {
    keys.require(key, "an axis of the data sheet's picture", example);
    const auto values = keys.quantities(key, kind, 2, 16, example);
    if (values.empty())
        return false;
    for (size_t i = 0; i < values.size(); ++i) {
        points.push_back(static_cast<uint32_t>(values[i]));
        const int64_t step = i + 1 < values.size() ? int64_t{values[i + 1]} - values[i] : 1000;
        if (!keys.expect(step >= 1000 && step <= 120'000, key,
                         "in order, going up by 1 to 120 each"))
            return false;
        inverse.push_back(inverse_distance(static_cast<uint32_t>(step)));
    }
    return true;
}

const std::vector<PartKey> climate_keys = {
    {"temperature", "\"air.temperature\""},          {"humidity", "\"air.humidity\""},
    {"temperatures", "[\"-10 degC\", \"20 degC\"]"}, {"humidities", "[\"33 %RH\", \"85 %RH\"]"},
    {"factors", "[[1.7, 1.5], [1.0, 0.9]]"},
};

/// The correction of a gas sensor, if it has one. False if it is there and wrong.
bool read_climate(PartReader& in, std::optional<Climate>& out) {
    const Node* node = in.keys.find("climate");
    if (node == nullptr)
        return true;
    const auto* table = node->as_table();
    if (table == nullptr) {
        in.keys.findings().add(*node,
                               "\"climate\" must be a table: write [sense.NAME.climate] above "
                               "its keys");
        return false;
    }
    TableReader keys(*table, "the table \"climate\"", in.keys.findings(), climate_keys);
    Climate climate;
    constexpr Kind temperature = Kind::temperature, humidity = Kind::humidity;
    const auto t = keys.source("temperature", in.rig, &temperature, "the air's at the sensor");
    const auto h = keys.source("humidity", in.rig, &humidity, "the air's at the sensor");
    bool sound = read_axis(keys, "temperatures", temperature, "[\"-10 degC\", \"20 degC\"]",
                           climate.rows, climate.inverse_rows);
    sound = read_axis(keys, "humidities", humidity, "[\"33 %RH\", \"85 %RH\"]", climate.columns,
                      climate.inverse_columns) &&
            sound;
    const std::string_view example = "[[1.7, 1.5], [1.0, 0.9]], a row for each temperature";
    keys.require("factors", "the factor to the sensor's resistance at each pair", example);
    const auto* rows = keys.list("factors", 2, 16, example);
    for (size_t i = 0; rows != nullptr && i < rows->size(); ++i) {
        const auto* row = (*rows)[i].as_list();
        if (row == nullptr || row->size() != climate.columns.size() ||
            rows->size() != climate.rows.size()) {
            keys.findings().add((*rows)[i],
                                fmt::format("\"factors\" must have a row for each of the {} "
                                            "temperatures, with a number for each of the {} "
                                            "humidities",
                                            climate.rows.size(), climate.columns.size()));
            sound = false;
            break;
        }
        for (const Node& factor : row->inside()) {
            const auto value = keys.ratio_of(factor, "factors");
            const bool fine = value && *value >= 100 && *value <= 10'000;
            if (value)
                keys.expect(fine, "factors", "between 0.1 and 10");
            sound = sound && fine;
            climate.logs.push_back(log_of_factor(Ratio::from_thousandths(fine ? *value : 1000)));
            climate.factors.push_back(thousandth_of(fine ? *value : 1000));
        }
    }
    keys.finish();
    climate.temperature = t.value_or(0);
    climate.humidity = h.value_or(0);
    out = std::move(climate);
    return sound && rows != nullptr && t && h;
}

/// What a sensor that is warm reads at each code.
std::shared_ptr<const std::vector<AnyReading>> warm_readings(const GasSpec& spec, GasState state) {
    auto out = std::make_shared<std::vector<AnyReading>>();
    const CodeRange range = spec.code_range();
    const PowerLaw law = spec.law();
    (void)state.read(spec, range, law, Instant(), Sample(), 0);
    for (uint32_t code = 0; code <= spec.full_scale(); ++code)
        out->push_back(any(state.read(spec, range, law, Instant() + spec.warm_up(),
                                      Sample(static_cast<uint16_t>(code)), 0)));
    return out;
}

ReadPart read_gas_sensor(PartReader& in, Sense& out) {
    TableReader& keys = in.keys;
    FilterSpec filters;
    GasPoint points[2] = {};
    size_t count = 0;
    const std::string_view example = "[[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]";
    keys.require("points", "two points of the data sheet's curve, each a concentration and Rs/R0",
                 example);
    const bool pointed =
        read_pairs(keys, "points", 2, 2, example, [&](const Node& a, const Node& b) {
            const auto c = keys.quantity_of(a, "points", Kind::concentration, "10 ppm");
            const auto ratio = keys.millionths_of(b, "points");
            points[count++] = {of<Concentration>(c), ratio.value_or(0)};
            return c && ratio;
        });
    GasSpec spec = gas_sensor(points[0], points[1]).bits(in.converter_bits);
    const auto load = keys.required_quantity("pull_down", Kind::resistance, "10 kohm",
                                             "the load resistor from the pin to ground");
    spec = spec.pull_down(of<Resistance>(load));
    DividerModel divider{static_cast<double>(load.value_or(0)), false};
    read_voltages(keys, spec, divider);
    const auto zero = keys.required_quantity("zero", Kind::resistance, "30 kohm",
                                             "its R0, from a calibration in clean air");
    if (const auto warm_up = keys.quantity("warm_up", Kind::duration, "3 min"))
        spec = spec.warm_up(of<Duration>(warm_up));
    bool ranged = true;
    if (keys.find("range") != nullptr) {
        const auto ends =
            keys.quantities("range", Kind::concentration, 2, 2,
                            "[\"1 ppm\", \"300 ppm\"], the lowest and the highest value");
        ranged = ends.size() == 2;
        if (ranged)
            spec = spec.range(Concentration::from_thousandths(ends[0]),
                              Concentration::from_thousandths(ends[1]));
    }
    std::optional<Climate> climate;
    const bool climatic = read_climate(in, climate);
    read_filters(keys, Kind::concentration, filters);
    if (!pointed || !load || !zero || !ranged || !climatic)
        return {};
    keys.expect(
        spec.points_are_possible(), "points",
        "on a falling curve: two different points, 0.1 to 1,000,000 ppm, ratios of 0.01 to 100");
    keys.expect(spec.divider_is_possible(), "pull_down", "between 1 ohm and 10 Mohm");
    const bool zero_fits = spec.zero_is_possible(of<Resistance>(zero));
    keys.expect(zero_fits, "zero", "between 10 ohm and 10 Mohm");
    keys.expect(spec.range_is_possible(), "range",
                "between 0.01 and 1,000,000 ppm, the lower end first");
    out.largest_raw = spec.full_scale();
    if (climate)
        out.inputs = {climate->temperature, climate->humidity};
    out.about =
        fmt::format("gas sensor; warming up for {}{}", span_to_text(spec.warm_up().thousandths()),
                    climate ? ", corrected for the climate" : "");
    if (!spec.is_possible() || !zero_fits)
        return {};
    const auto ppm = [](const GasPoint& point) {
        return std::make_pair(thousandth_of(point.concentration.thousandths()),
                              point.millionths / 1e6);
    };
    const auto ohms = gas_ohms(*zero, ppm(points[0]), ppm(points[1]));
    const GasState cold(spec.load(), of<Resistance>(zero));
    // Where no climate has a say, a reading is one of the code alone once the sensor is warm.
    const auto by_code = climate ? nullptr : warm_readings(spec, cold);
    out.part = std::make_shared<SensePart>(
        with_filters(filters, starts([spec, climate, range = spec.code_range(), law = spec.law(),
                                      by_code, state = cold,
                                      warm = false](Instant now, Raw raw, const AnyReading* sources,
                                                    AnyReading* to) mutable {
                         if (warm && raw.bits() >= 0 &&
                             raw.bits() < static_cast<int64_t>(by_code->size())) {
                             *to = (*by_code)[static_cast<size_t>(raw.bits())];
                             return;
                         }
                         int16_t correction = 0;
                         if (climate) {
                             const AnyReading t = sources[climate->temperature];
                             const AnyReading h = sources[climate->humidity];
                             if (!t.ok() || !h.ok()) {
                                 *to = AnyReading::without_value(t.ok() ? h.health() : t.health());
                                 return;
                             }
                             correction = climate->at(as<Temperature>(t).value_or({}),
                                                      as<RelativeHumidity>(h).value_or({}));
                         }
                         *to = any(state.read(spec, range, law, now, raw.sample(), correction));
                         warm = !climate && to->ok();
                     })),
        climate
            ? ForwardModel([divider, ohms, climate, bits = in.converter_bits](
                               const Surroundings& around, Noise& noise, Fault fault, Raw before) {
                  const double factor = climate->factor(around.celsius, around.humidity);
                  return divider.model([&](double value) { return ohms(value) * factor; }, bits)
                      .at(around.value, noise, fault, before, around.noise);
              })
            : divider.model(ohms, in.converter_bits).forward(),
        CodeScale());
    return {true,
            {{out.name, Kind::concentration, spec.lowest().thousandths(),
              spec.highest().thousandths()}}};
}

} // namespace

SenseKind gas_sensor_room() {
    return {"gas_sensor",
            8,
            true,
            Kind::concentration,
            {},
            with_filter_keys({
                {"points", "[[\"10 ppm\", 2.6], [\"200 ppm\", 0.7]]", ""},
                {"pull_down", "\"10 kohm\"", ".pull_down({})"},
                {"supply", "\"5 V\"", ".supplied({}, {reference})"},
                {"reference", "\"3.3 V\"", ""},
                {"zero", "\"30 kohm\"", ""},
                {"warm_up", "\"3 min\"", ".warm_up({})"},
                {"range", "[\"1 ppm\", \"300 ppm\"]", ".range({.0}, {.1})"},
                {"climate", "[sense.NAME.climate]", ""},
            }),
            read_gas_sensor,
            {{{"", "gas_sensor({points:gas_point({}, {}_times)})"}},
             "GasSensor",
             "{zero}",
             "read(now, {in})",
             "Analogue<{pin}>",
             "Sample"},
            {{"pin", "",
              "its output, which goes on through {pull_down} to ground; its other leg to "
              "{supply}, its heater to 5 V and ground"}}};
}

} // namespace zorilla::rig
