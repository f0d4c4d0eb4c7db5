// SPDX-License-Identifier: MIT
/// \file
/// What the room of a kind of derived quantity offers. To add one, write its room: a file of this
/// folder with the function FILE_room().
#pragma once

#include "rig/sense/part.hpp"

#include <zorilla/derive/derive.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace zorilla::rig {

/// A derived quantity as its room has made it from its keys.
class DerivePart {
  public:
    explicit DerivePart(StartBlock starts) : start(std::move(starts)) {}
    StartBlock start; ///< how it begins to run
};

/// One kind of derived quantity.
struct DeriveKind {
    const char* word; ///< what it is called in rig files
    uint8_t rank;     ///< where it stands in lists, the most usual first
    std::vector<PartKey> keys;
    /// Reads its keys, says what is wrong with them, and makes it.
    ReadPart (*read)(PartReader&, Derive&);
    /// In C++, as forms of its keys: its block, if it has one, and what makes it of the readings.
    /// `{self}` is the block, `{type}` the type of what it is made of, `{list}` all of them.
    const char* block;
    const char* init;
    const char* makes;
};

/// All kinds that there are, by their rank.
const std::vector<DeriveKind>& derive_kinds();
/// Reads what a derived quantity is made of.
ReadPart read_derive(PartReader& in, Derive& out);

// --- What their rooms share

/// A block from a function of the time and the readings so far.
template <class Pass> class DerivedBlock : public Block {
  public:
    explicit DerivedBlock(Pass pass) : pass_(std::move(pass)) {}
    void pass(Instant now, Raw, const AnyReading* sources, AnyReading* out) override {
        *out = pass_(now, sources);
    }
    std::unique_ptr<Block> copy() const override { return std::make_unique<DerivedBlock>(*this); }

  private:
    Pass pass_;
};
/// Each start gets its own copy of `pass`, and so its own state.
template <class Pass> std::shared_ptr<const DerivePart> derives(Pass pass) {
    return std::make_shared<DerivePart>(
        [pass] { return std::make_unique<DerivedBlock<Pass>>(pass); });
}

/// A quantity of the air's temperature and humidity.
template <class Of> ReadPart read_of_air(PartReader& in, Derive& out, Source source, Of of_air) {
    constexpr Kind temperature = Kind::temperature, humidity = Kind::humidity;
    const auto t = in.keys.source("temperature", in.rig, &temperature, "the air's");
    const auto h = in.keys.source("humidity", in.rig, &humidity, "the air's");
    if (!t || !h)
        return {};
    out.of = {*t, *h};
    // Air changes slowly, and its sensors are read seldom: mostly it is what it was.
    out.part =
        derives([t = *t, h = *h, of_air, of = std::array<AnyReading, 2>(), was = AnyReading(),
                 known = false](Instant, const AnyReading* sources) mutable {
            if (known && sources[t] == of[0] && sources[h] == of[1])
                return was;
            of = {sources[t], sources[h]};
            known = true;
            return was = any(of_air(as<Temperature>(of[0]), as<RelativeHumidity>(of[1])));
        });
    return {true, {std::move(source)}};
}
/// The keys of such a quantity.
std::vector<PartKey> air_keys();

/// A list of sources that all have the same kind.
std::vector<size_t> read_of(PartReader& in, size_t least, size_t most, Kind& kind);

/// One reading out of several. \param join  takes the readings, their number, and how many of them
///     must be healthy  \param word  what that makes of them
template <class Join>
ReadPart read_several(PartReader& in, Derive& out, std::string_view word, Join join) {
    Kind kind{};
    out.of = read_of(in, 2, 16, kind);
    const auto needed = in.keys.whole("needed", 1, 16);
    if (out.of.empty())
        return {};
    const auto count = static_cast<uint8_t>(out.of.size());
    if (!in.keys.expect(!needed || *needed <= count, "needed", "at most at the number of \"of\""))
        return {};
    const auto least_healthy = static_cast<uint8_t>(needed.value_or(count));
    Source source{out.name, kind, INT32_MAX, INT32_MIN};
    std::string names;
    for (const size_t i : out.of) {
        source.lowest = std::min(source.lowest, in.rig.sources[i].lowest);
        source.highest = std::max(source.highest, in.rig.sources[i].highest);
        names += fmt::format("{}{}", names.empty() ? "" : ", ", in.rig.sources[i].name);
    }
    out.about = fmt::format("{} of {}, at least {} healthy", word, names, least_healthy);
    out.part =
        derives([of = out.of, count, least_healthy, join](Instant, const AnyReading* sources) {
            AnyReading list[16];
            for (size_t i = 0; i < of.size(); ++i)
                list[i] = sources[of[i]];
            return join(list, count, least_healthy);
        });
    return {true, {std::move(source)}};
}
/// The keys of such a quantity.
std::vector<PartKey> several_keys();

} // namespace zorilla::rig
