// SPDX-License-Identifier: MIT
/// \file
/// What the room of a kind of sensor offers: all that the desk knows of it. To add one, write its
/// room: a file of this folder with the function FILE_room().
#pragma once

#include "rig/read/table_reader.hpp"
#include "rig/sense/forward.hpp"

#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace zorilla::rig {

/// A block of the core at work, wired to the readings that it needs.
class Block {
  public:
    virtual ~Block() = default;
    /// One pass. \param sources  all readings of the rig so far  \param out  its own among them
    virtual void pass(Instant now, Raw raw, const AnyReading* sources, AnyReading* out) = 0;
    /// Whether it ever lets a good reading stand in for one that was missed.
    virtual bool may_hold() const { return false; }
    /// How old its reading is, where the last good one stands in for one that was missed; else 0.
    virtual Duration held(Instant) const { return {}; }
    /// Whether more passes of the raw input that it has just seen, however late, make the same of
    /// it, and change nothing of what it makes of another.
    virtual bool rests(Raw /*seen*/) const { return false; }
    /// Another one that remembers the same.
    virtual std::unique_ptr<Block> copy() const = 0;
};
using StartBlock = std::function<std::unique_ptr<Block>()>;

/// The codes of a converter that a sensor's values stand at; it offers what the core's placement
/// checks ask of a sensor.
struct CodeScale {
    std::function<uint16_t(int32_t)> of; ///< empty where a reading is not one of a code
    std::function<int32_t(int32_t)> inside;
    uint16_t first = 0;
    uint16_t last = 0;
    bool rising = true;

    bool known() const { return of != nullptr; }
    uint16_t code_at(AnyQuantity value) const { return of(value.thousandths()); }
    int32_t counts_inside(AnyQuantity value) const { return inside(value.thousandths()); }
};

/// A sensor as its room has made it from its keys.
class SensePart {
  public:
    SensePart(StartBlock starts, ForwardModel forwards, CodeScale codes)
        : start(std::move(starts)), forward(std::move(forwards)), scale(std::move(codes)) {}
    StartBlock start;     ///< how it begins to run
    ForwardModel forward; ///< what its pin delivers, from its formula and not from its conversion
    CodeScale scale;
    /// What somebody types behind "set NAME" to say it; of what is said over the serial line.
    std::function<std::string(Raw)> typed{};
};

/// The codes of a sensor; none of one that could not be made.
inline const CodeScale& codes_of(const Sense& sense) {
    static const CodeScale none;
    return sense.part == nullptr ? none : sense.part->scale;
}

/// What reading a sensor or a derived quantity may look at.
struct PartReader {
    TableReader& keys;
    const Rig& rig; ///< as far as it has been read
    uint8_t converter_bits;
};

/// Whether a part that was read can be used, and the sources that it makes.
struct ReadPart {
    bool sound = false;
    std::vector<Source> sources;
};

/// What it is in C++, in forms of its keys (rig/emit/cpp.hpp).
struct SenseCpp {
    /// How its spec begins, by the key that says which; "unit=Hz": if that is its value.
    std::vector<std::pair<const char*, const char*>> starts;
    const char* block; ///< a template of the spec; empty where there is none
    const char* init;  ///< what the block is made with
    const char* reads; ///< `{in}` is the raw input, `{air}` the temperature that corrects it
    const char* role;  ///< of its pin; empty of what is said over the serial line
    const char* input; ///< the type of what that reads
    /// How it reads where the temperature that corrects it is fixed, which is then `{air}`, in
    /// thousandths of a degC; null: as everywhere.
    const char* reads_at = nullptr;
};

/// One kind of sensor.
struct SenseKind {
    const char* word; ///< what it is called in rig files
    uint8_t rank;     ///< where it stands in lists, the most usual first
    bool analogue;    ///< whether it hangs on a pin of the converter
    /// What it measures, where that is known whatever its keys say.
    std::optional<Kind> measures;
    /// The pins that it has besides the one that is read, and what each is for.
    std::vector<std::pair<const char*, const char*>> other_pins;
    std::vector<PartKey> keys;
    /// Reads its keys, says what is wrong with them, and makes it.
    ReadPart (*read)(PartReader&, Sense&);
    SenseCpp cpp;
    std::vector<Wired> wired;
};

/// All kinds that there are, by their rank.
const std::vector<SenseKind>& sense_kinds();
/// The kind of a word; null if there is none.
const SenseKind* sense_kind(std::string_view word);
/// Reads what kind of sensor a table describes, and all of it but its name and pins.
ReadPart read_sensor(PartReader& in, Sense& out);

} // namespace zorilla::rig
