// SPDX-License-Identifier: MIT
/// \file
/// A few bytes that outlive a loss of power, wherever it happens: two slots in turn, each with its
/// version and a checksum.
#pragma once

#include <stdint.h>

namespace zorilla {

/// What was found in the storage.
enum class StoredState : uint8_t {
    found,
    empty,         ///< nothing was ever stored
    damaged,       ///< there is something, but no slot is whole
    other_version, ///< stored by firmware that meant other bytes by it
};

/// A value kept in a board's byte storage, such as the EEPROM of an ATmega328P.
///
///     Stored<Trim<Temperature>, Atmega328p::Eeprom> kept;   // at address 0
///     kept.load(trim);                                      // at power-up; says what it found
///     ...
///     kept.save(trim);                                      // begins; waits for nothing
///     kept.step();                                          // in every pass: at most one byte
///
/// The newest whole slot is never touched: a save goes into the other one, is made invalid first
/// and valid last, by one byte. So whatever byte is being written when the power goes, and
/// whatever it holds afterwards, the next `load` finds the old value whole or the new one.
///
/// \tparam Value    has `byte_count`, `version`, `bytes_to` and `bytes_from`, as `Trim` does. It
/// may
///     have a `meaning` too, a number of 16 bits: what was stored with another one is not taken
/// \tparam Storage  has `static uint8_t read(uint16_t)`, `static void write(uint16_t, uint8_t)`
///     and `static bool ready()`, which is false while a byte is still being written
/// \tparam Address  of the first of the `size` bytes that are used
template <class Value, class Storage, uint16_t Address = 0> class Stored {
    static constexpr uint8_t slot_size = Value::byte_count + 6;
    static_assert(Value::byte_count <= 200, "at most 200 bytes can be stored as one value");

  public:
    /// How many bytes of the storage are used.
    static constexpr uint16_t size = 2 * slot_size;

    /// Reads the newest whole slot into `value`, which stays as it is if there is none.
    StoredState load(Value& value) {
        const uint8_t newest = newest_slot();
        if (newest == none) {
            for (uint16_t i = 0; i < size; ++i)
                if (Storage::read(static_cast<uint16_t>(Address + i)) != 0xff)
                    return StoredState::damaged;
            return StoredState::empty;
        }
        const uint16_t slot = address_of(newest);
        if (Storage::read(static_cast<uint16_t>(slot + at_version)) != Value::version ||
            Storage::read(static_cast<uint16_t>(slot + at_count)) != Value::byte_count)
            return StoredState::other_version;
        uint8_t bytes[Value::byte_count];
        for (uint8_t i = 0; i < Value::byte_count; ++i)
            bytes[i] = Storage::read(static_cast<uint16_t>(slot + at_value + i));
        value.bytes_from(bytes);
        return StoredState::found;
    }

    /// Begins to store a copy of `value`; one that is still being stored is given up for it.
    void save(const Value& value) {
        const uint8_t newest = newest_slot();
        slot_ = newest == 0 ? uint8_t{1} : uint8_t{0};
        bytes_[at_mark] = mark_valid;
        bytes_[at_order] =
            newest == none
                ? uint8_t{0}
                : static_cast<uint8_t>(
                      Storage::read(static_cast<uint16_t>(address_of(newest) + at_order)) + 1);
        bytes_[at_version] = Value::version;
        bytes_[at_count] = Value::byte_count;
        value.bytes_to(bytes_ + at_value);
        uint16_t sum = meaning;
        for (uint8_t i = at_order; i < at_sum; ++i)
            sum = sum_with(sum, bytes_[i]);
        bytes_[at_sum] = static_cast<uint8_t>(sum);
        bytes_[at_sum + 1] = static_cast<uint8_t>(sum >> 8);
        next_ = 0;
    }

    /// Writes the next byte if the storage is ready for it. True while something is left to do.
    bool step() {
        if (next_ > slot_size || !Storage::ready())
            return next_ <= slot_size;
        // The mark is the first byte that is written, as invalid, and the last.
        const uint8_t index = next_ == slot_size ? uint8_t{0} : next_;
        const auto address = static_cast<uint16_t>(address_of(slot_) + index);
        const uint8_t byte = next_ == 0 ? mark_invalid : bytes_[index];
        ++next_;
        // A byte that is right already is spared: a cell bears a hundred thousand writes or so.
        if (Storage::read(address) != byte)
            Storage::write(address, byte);
        return true;
    }

  private:
    // A slot: mark, order, version, count, value, sum.
    static constexpr uint8_t at_mark = 0, at_order = 1, at_version = 2, at_count = 3, at_value = 4,
                             at_sum = at_value + Value::byte_count;
    static constexpr uint8_t mark_valid = 0xa5, mark_invalid = 0x00;
    static constexpr uint8_t none = 2;

    static constexpr uint16_t address_of(uint8_t slot) {
        return slot == 0 ? Address : static_cast<uint16_t>(Address + slot_size);
    }

    /// CRC-16 with the polynomial of ITU-T V.41 (x^16 + x^12 + x^5 + 1), first bit first.
    // The sum begins with what the bytes mean.
    template <class V> static constexpr auto meaning_of(V*) -> decltype(uint16_t{V::meaning}) {
        return V::meaning;
    }
    static constexpr uint16_t meaning_of(const void*) { return 0xffff; }
    static constexpr uint16_t meaning = meaning_of(static_cast<Value*>(nullptr));

    static uint16_t sum_with(uint16_t sum, uint8_t byte) {
        sum = static_cast<uint16_t>(sum ^ static_cast<uint16_t>(byte << 8));
        for (uint8_t bit = 0; bit < 8; ++bit)
            sum = static_cast<uint16_t>((sum & 0x8000U) != 0 ? sum << 1 ^ 0x1021 : sum << 1);
        return sum;
    }

    static bool is_whole(uint8_t slot) {
        const uint16_t from = address_of(slot);
        if (Storage::read(from) != mark_valid)
            return false;
        // The slot of another version may be longer or shorter.
        const uint8_t count = Storage::read(static_cast<uint16_t>(from + at_count));
        if (count != Value::byte_count)
            return Storage::read(static_cast<uint16_t>(from + at_version)) != Value::version;
        uint16_t sum = meaning;
        for (uint8_t i = at_order; i < at_sum; ++i)
            sum = sum_with(sum, Storage::read(static_cast<uint16_t>(from + i)));
        return Storage::read(static_cast<uint16_t>(from + at_sum)) == static_cast<uint8_t>(sum) &&
               Storage::read(static_cast<uint16_t>(from + at_sum + 1)) ==
                   static_cast<uint8_t>(sum >> 8);
    }

    static uint8_t newest_slot() {
        const bool first = is_whole(0);
        const bool second = is_whole(1);
        if (!first || !second)
            return first ? 0 : second ? 1 : none;
        const auto order = [](uint8_t slot) {
            return Storage::read(static_cast<uint16_t>(address_of(slot) + at_order));
        };
        return static_cast<uint8_t>(order(1) - order(0)) < 128 ? 1 : 0;
    }

    uint8_t bytes_[slot_size] = {};
    uint8_t slot_ = 0;
    uint8_t next_ = slot_size + 1;
};

} // namespace zorilla
