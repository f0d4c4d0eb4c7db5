// SPDX-License-Identifier: MIT
// The sensors of a rig file, by the names of their parts.
#include "rig/sense/analogue.hpp"

#include "rig/model/own.hpp"
#include "rig/read/keys.hpp"

namespace zorilla::rig {

std::vector<PartKey> with_analogue_keys(std::vector<PartKey> own) {
    static const std::vector<PartKey> more = {
        {"extra_bits", "2", ""},
        {"spread", "8", ""},
        {"range", "[\"-30 degC\", \"60 degC\"]", ".range({.0}, {.1})"},
        {"accuracy", "\"0.1 K\"", ".accuracy({})"},
        {"wire_check", "\"off\"", "off=.without_wire_check()"},
    };
    return with_filter_keys(keys::with(std::move(own), more));
}

std::vector<PartKey> with_divider_keys(std::vector<PartKey> own) {
    static const std::vector<PartKey> more = {
        {"pull_up", "\"10 kohm\"", ".pull_up({})"},
        {"pull_down", "\"10 kohm\"", ".pull_down({})"},
        {"supply", "\"5 V\"", ".supplied({}, {reference})"},
        {"reference", "\"3.3 V\"", ""},
    };
    return with_analogue_keys(keys::with(std::move(own), more));
}

namespace {

/// A sensor to whose reading another one is added.
class TrimmedBlock : public Block {
  public:
    TrimmedBlock(std::unique_ptr<Block> sensor, size_t by) : sensor_(std::move(sensor)), by_(by) {}
    void pass(Instant now, Raw raw, const AnyReading* sources, AnyReading* out) override {
        sensor_->pass(now, raw, sources, out);
        *out = trimmed(*out, sources[by_]);
    }
    bool may_hold() const override { return sensor_->may_hold(); }
    Duration held(Instant now) const override { return sensor_->held(now); }
    std::unique_ptr<Block> copy() const override { return std::make_unique<TrimmedBlock>(*this); }

  private:
    Own<Block> sensor_;
    size_t by_;
};

/// What somebody sets over the line is added to what it reads.
void trim_by_setting(PartReader& in, Sense& out, const ReadPart& part) {
    if (in.keys.find("trimmed_by") == nullptr)
        return;
    const Kind gap = part.sources.empty() ? Kind::temperature_difference
                                          : difference_of(part.sources.front().kind);
    const auto by = in.keys.source("trimmed_by", in.rig, part.sources.empty() ? nullptr : &gap,
                                   "the setting that is added to what it reads");
    if (!by || !part.sound)
        return;
    const Sense* setting = in.rig.sense_of(*by);
    if (!in.keys.expect(setting != nullptr && setting->word == "line_setting", "trimmed_by",
                        "a line_setting, which somebody sets on the running device"))
        return;
    out.trimmed_by = by;
    out.by_code.clear();
    out.about += fmt::format("; trimmed by {}", setting->name);
    // A value stands at no code any more: which, the setting says.
    auto trimmed = std::make_shared<SensePart>(*out.part);
    trimmed->scale = CodeScale();
    trimmed->start = [inner = out.part, by = *by] {
        return std::make_unique<TrimmedBlock>(inner->start(), by);
    };
    out.part = std::move(trimmed);
}

} // namespace

const SenseKind* sense_kind(std::string_view word) {
    for (const SenseKind& kind : sense_kinds())
        if (kind.word == word)
            return &kind;
    return nullptr;
}

ReadPart read_sensor(PartReader& in, Sense& out) {
    Names names;
    for (const SenseKind& kind : sense_kinds())
        names.emplace_back(kind.word);
    const auto name = in.keys.choice("part", names);
    if (!name) {
        if (in.keys.find("part") == nullptr)
            in.keys.complain(
                fmt::format("{} needs \"part\", what kind of sensor it is; possible are {}",
                            in.keys.label(), TableReader::listed(names)));
        return unread(in.keys);
    }
    const SenseKind& kind = *sense_kind(*name);
    out.word = kind.word;
    in.keys.allow(kind.keys);
    const auto may_have = [&kind](std::string_view wanted) {
        return std::any_of(kind.keys.begin(), kind.keys.end(),
                           [wanted](const PartKey& key) { return key.name == wanted; });
    };
    const Node* extra = may_have("extra_bits") && in.keys.find("spread") == nullptr
                            ? in.keys.find("extra_bits")
                            : nullptr;
    if (extra != nullptr && extra->as_whole())
        out.extra_bits =
            static_cast<uint8_t>(std::clamp<int64_t>(extra->as_whole().value_or(0), 0, 3));
    in.converter_bits = static_cast<uint8_t>(in.converter_bits + out.extra_bits);
    const ReadPart part = kind.read(in, out);
    if (may_have("trimmed_by"))
        trim_by_setting(in, out, part);
    return part;
}

} // namespace zorilla::rig
