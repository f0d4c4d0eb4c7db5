// SPDX-License-Identifier: MIT
#include "rig/sense/filters.hpp"

#include "rig/model/own.hpp"
#include "rig/read/keys.hpp"

#include <fmt/format.h>

#include <zorilla/sense/filters.hpp>
#include <zorilla/sense/smoothing.hpp>

namespace zorilla::rig {

namespace {

class FilteredBlock : public Block {
  public:
    FilteredBlock(const FilterSpec& spec, std::unique_ptr<Block> sensor)
        : spec_(spec), sensor_(std::move(sensor)), oversampling_(spec.spread),
          gate_(spec.fastest_change.value_or(AnyQuantity{}), spec.believe_after),
          smoothing_(spec.smooth.value_or(1_s)), watch_(spec.stuck_after, spec.stale_after),
          hold_(spec.hold) {}

    void pass(Instant now, Raw raw, const AnyReading* sources, AnyReading* out) override {
        AnyReading reading;
        if (spec_.extra_bits != 0) {
            const Sample sample = oversampling_.pass(raw.sample(), spec_.extra_bits);
            sensor_->pass(now, Raw(sample), sources, &reading);
        } else {
            sensor_->pass(now, raw, sources, &reading);
        }
        reading = spec_.trim.pass(reading);
        if (spec_.hold > Duration{})
            reading = hold_.pass(now, reading);
        if (spec_.median != 0)
            reading = median_.pass(reading, spec_.median);
        if (spec_.fastest_change)
            reading = gate_.pass(now, reading);
        if (spec_.smooth)
            reading = smoothing_.pass(now, reading);
        *out = watch_.pass(now, reading);
    }
    bool may_hold() const override { return spec_.hold > Duration{} || sensor_->may_hold(); }
    Duration held(Instant now) const override {
        return hold_.holds() ? hold_.age(now) : sensor_->held(now);
    }
    std::unique_ptr<Block> copy() const override { return std::make_unique<FilteredBlock>(*this); }

  private:
    FilterSpec spec_;
    Own<Block> sensor_;
    Oversampling<3> oversampling_;
    Median<15, AnyQuantity> median_;
    RateGate<AnyQuantity> gate_;
    Smoothing<AnyQuantity> smoothing_;
    Watch<AnyQuantity> watch_;
    Hold<AnyQuantity> hold_;
};

} // namespace

std::vector<PartKey> with_filter_keys(std::vector<PartKey> own) {
    static const std::vector<PartKey> more = {
        {"trim", "[[\"21.4 degC\", \"20.8 degC\"]]", ""},
        {"trimmed_by", "\"roost_trim\"", ""},
        {"median", "5", ""},
        {"fastest_change", "\"10 K/min\"", ""},
        {"believe_after", "\"30 s\"", ""},
        {"smooth", "\"30 s\"", ""},
        {"stuck_after", "\"2 h\"", ""},
        {"stale_after", "\"5 s\"", ""},
        {"hold", "\"2 s\"", ""},
    };
    return keys::with(std::move(own), more);
}

void read_oversampling(TableReader& keys, FilterSpec& out) {
    const auto bits = keys.whole("extra_bits", 1, 3);
    const auto spread = keys.whole("spread", 1, 1000);
    if (spread)
        keys.expect(keys.find("extra_bits") != nullptr, "spread",
                    "with \"extra_bits\" only; drop it");
    // Without it the converter adds up, and gives the sum as its code.
    if (bits && keys.find("spread") != nullptr) {
        out.extra_bits = static_cast<uint8_t>(*bits);
        out.spread = static_cast<uint16_t>(spread.value_or(0));
        // Between two sums there is no sample; the last value stands meanwhile.
        out.stale_after = 1_s;
    }
}

std::string too_many_bits(const std::string& label, int bits) {
    return fmt::format(
        "{}: with \"extra_bits\" its codes have {} bits, and 16 is the most; ask for "
        "fewer",
        label, bits);
}

void read_trim(TableReader& keys, Kind kind, Trim<AnyQuantity>& out) {
    const std::string_view example = example_of(kind);
    const auto* list = keys.list(
        "trim", 1, 2,
        fmt::format("[[\"{0}\", \"{0}\"]], what was read and what was true, at one or two points",
                    example));
    if (list == nullptr)
        return;
    AnyReading read[2];
    AnyQuantity truth[2];
    for (size_t i = 0; i < list->size(); ++i) {
        const auto* pair = (*list)[i].as_list();
        if (pair == nullptr || pair->size() != 2)
            return keys.findings().add(
                (*list)[i],
                fmt::format("each of \"trim\" must be a pair, what was read and what was true; for "
                            "example trim = [[\"{0}\", \"{0}\"]]",
                            example));
        const auto first = keys.quantity_of((*pair)[0], "trim", kind, example);
        const auto second = keys.quantity_of((*pair)[1], "trim", kind, example);
        if (!first || !second)
            return;
        read[i] = AnyReading::of(AnyQuantity::from_thousandths(*first));
        truth[i] = AnyQuantity::from_thousandths(*second);
    }
    const TrimResult result = list->size() == 1
                                  ? out.one_point(read[0], truth[0])
                                  : out.two_point(read[0], truth[0], read[1], truth[1]);
    keys.expect(result != TrimResult::too_close, "trim",
                fmt::format("at two points at least {} apart",
                            to_text(Trim<AnyQuantity>::least_span, difference_of(kind))));
    keys.expect(result != TrimResult::too_much, "trim",
                "within half and one and a half of what was read; what is further off has another "
                "fault than its trim");
}

void read_filters(TableReader& keys, Kind kind, FilterSpec& out) {
    read_trim(keys, kind, out.trim);
    if (const auto size = keys.whole("median", 3, 15)) {
        out.median = static_cast<uint8_t>(*size);
        keys.expect(*size % 2 == 1, "median", "at an odd number from 3 to 15");
    }
    const Kind change = per_minute_of(difference_of(kind));
    if (const auto fastest = keys.quantity("fastest_change", change, example_of(change))) {
        out.fastest_change = AnyQuantity::from_thousandths(*fastest);
        keys.expect(*fastest > 0, "fastest_change", "above 0");
    }
    const auto time = [&](std::string_view key, std::string_view example, Duration& into) {
        const auto value = keys.quantity(key, Kind::duration, example);
        if (value && keys.expect(*value > 0, key, "above 0"))
            into = Duration::from_thousandths(*value);
        return value.has_value();
    };
    time("believe_after", "30 s", out.believe_after);
    Duration smooth = 1_s;
    if (time("smooth", "30 s", smooth))
        out.smooth = smooth;
    time("stuck_after", "2 h", out.stuck_after);
    time("stale_after", "5 s", out.stale_after);
    time("hold", "2 s", out.hold);
    keys.expect(out.hold <= 1_h, "hold", "above 0, and up to 1 h");
}

StartBlock with_filters(const FilterSpec& spec, StartBlock sensor) {
    if (!spec.any())
        return sensor;
    return [spec, sensor = std::move(sensor)] {
        return std::make_unique<FilteredBlock>(spec, sensor());
    };
}

} // namespace zorilla::rig
