// SPDX-License-Identifier: MIT
/// \file
/// Bytes of an RP2040 that outlive a loss of power: the last two sectors of its flash. Data sheet,
/// chapters 2.8.3 (functions of the ROM) and 4.10.
#pragma once

#include "zorilla/board/rp2040/registers.hpp"

namespace zorilla::rp2040 {

/// The flash, a page and a sector at a time, by the functions of the ROM. While it is written
/// nothing can be read from it, so that this runs in RAM and keeps interrupts off: a page takes
/// some 0.7 ms, a sector 45 ms, and at most 400 ms.
struct FlashRom {
    static constexpr uint32_t page_size = 256, sector_size = 4096;

    static uint32_t word(uint32_t offset) { return at(0x1000'0000 + offset); }
    /// \param page  null: erases the sector
    [[gnu::noinline, gnu::section(".ram_code")]] static void write(uint32_t offset,
                                                                   const uint8_t* page) {
        const Rom rom;
        const Quiet quiet;
        if (page == nullptr)
            at(watchdog + 4) = 0xff'ffff; // 8 s, should it be at work
        rom.connect();
        rom.leave();
        if (page != nullptr)
            rom.program(offset, page, page_size);
        else
            rom.erase(offset, sector_size, sector_size, 0x20);
        rom.flush();
        rom.enter();
        missed_edges = true;
    }

  private:
    static constexpr uint32_t code(char a, char b) {
        return static_cast<uint32_t>(a) | static_cast<uint32_t>(b) << 8;
    }
    struct Rom {
        using Find = void* (*)(const uint16_t* table, uint32_t code);
        static const void* half_pointer(uintptr_t place) {
            // A compiler takes so low an address for a mistake.
            __asm__("" : "+r"(place));
            return reinterpret_cast<const void*>(
                static_cast<uintptr_t>(*reinterpret_cast<const volatile uint16_t*>(place)));
        }
        template <class Function> static Function find(uint32_t what) {
            const auto search =
                reinterpret_cast<Find>(reinterpret_cast<uintptr_t>(half_pointer(0x18)));
            return reinterpret_cast<Function>(
                search(static_cast<const uint16_t*>(half_pointer(0x14)), what));
        }
        void (*const connect)() = find<void (*)()>(code('I', 'F'));
        void (*const leave)() = find<void (*)()>(code('E', 'X'));
        void (*const erase)(uint32_t, uint32_t, uint32_t, uint8_t) =
            find<void (*)(uint32_t, uint32_t, uint32_t, uint8_t)>(code('R', 'E'));
        void (*const program)(uint32_t, const uint8_t*, uint32_t) =
            find<void (*)(uint32_t, const uint8_t*, uint32_t)>(code('R', 'P'));
        void (*const flush)() = find<void (*)()>(code('F', 'C'));
        void (*const enter)() = find<void (*)()>(code('C', 'X'));
    };
};

/// Bytes kept in two sectors in turn, for `Stored`. Each write appends four bytes to the one in
/// use: where, what, and a check of both. Once it is full, what is kept goes into the other, which
/// is valid only when all of it stands there: so whatever is being written as the power goes, each
/// byte is the old one or the new. A sector takes 1,023 writes, less the bytes that are kept,
/// before the other is erased for it, and bears 100,000 erasures (as flashes for it promise): with
/// 60 bytes kept, some 190 million writes.
///
/// A write takes 0.7 ms, in which no edge is timed: an echo or a frame that is under way then is
/// given up, and comes anew. Where the sector is full it takes 50 ms more, and at most 0.4 s, for
/// which the watchdog waits.
/// \tparam Rom  another one to write and read by, such as a desk's
template <class Rom = FlashRom> class KeptBytes {
  public:
    static constexpr uint16_t size = 256;
    static constexpr uint32_t first_sector = chips::Rp2040::facts.flash;

    static bool ready() { return true; }
    /// As after power has come back: what is kept is read anew.
    static void begin_anew() { loaded_ = false; }
    static uint8_t read(uint16_t address) {
        load();
        return bytes_[address];
    }
    static void write(uint16_t address, uint8_t byte) {
        load();
        bytes_[address] = byte;
        if (used_ == words) {
            move();
            return;
        }
        append(sector_, used_, entry_of(address));
        ++used_;
    }

  private:
    static constexpr uint32_t words = Rom::sector_size / 4, in_page = Rom::page_size / 4;
    static constexpr uint32_t blank = 0xffff'ffff;

    static constexpr uint32_t offset_of(uint8_t sector) {
        return first_sector + sector * Rom::sector_size;
    }
    /// Never all ones, so that it is told from what was never written.
    static constexpr uint32_t checked(uint32_t low) {
        const uint32_t check = (low * 0x9e37U >> 4 ^ low ^ 0x5a5aU) & 0x7fffU;
        return low | check << 16;
    }
    static uint32_t entry_of(uint16_t address) {
        return checked(static_cast<uint32_t>(address) | static_cast<uint32_t>(bytes_[address])
                                                            << 8);
    }
    /// The mark of a sector: how often it was changed for the other one, twice, the second time
    /// turned over, so that no erasing that ends halfway makes another of it.
    static constexpr uint32_t mark_of(uint8_t turn) {
        return 0x4b5aU << 16 | static_cast<uint32_t>(static_cast<uint8_t>(~turn)) << 8 | turn;
    }
    static bool is_valid(uint8_t sector, uint8_t& turn) {
        const uint32_t mark = Rom::word(offset_of(sector));
        turn = static_cast<uint8_t>(mark);
        return mark == mark_of(turn);
    }

    static void load() {
        if (loaded_)
            return;
        loaded_ = true;
        for (uint8_t& byte : bytes_)
            byte = 0xff;
        uint8_t turns[2] = {};
        const bool valid[2] = {is_valid(0, turns[0]), is_valid(1, turns[1])};
        if (!valid[0] && !valid[1]) {
            used_ = words; // the first write begins a sector
            return;
        }
        sector_ = valid[0] && valid[1] ? (static_cast<int8_t>(turns[1] - turns[0]) > 0 ? 1 : 0)
                                       : (valid[0] ? 0 : 1);
        turn_ = turns[sector_];
        for (used_ = 1; used_ < words; ++used_) {
            const uint32_t word = Rom::word(offset_of(sector_) + 4 * used_);
            if (word == blank)
                break;
            // One that was cut off says nothing.
            if (checked(word & 0xffff) == word)
                bytes_[word & 0xff] = static_cast<uint8_t>(word >> 8);
        }
    }
    /// Into the other sector, its mark last.
    static void move() {
        const auto to = static_cast<uint8_t>(sector_ ^ 1U);
        const uint8_t turn = static_cast<uint8_t>(turn_ + 1);
        Rom::write(offset_of(to), nullptr);
        uint32_t next = 1;
        uint32_t page[in_page];
        for (uint16_t address = 0; address < size;) {
            for (uint32_t& word : page)
                word = blank;
            const uint32_t first = next / in_page * in_page;
            for (; address < size && next < first + in_page; ++address)
                if (bytes_[address] != 0xff)
                    page[next++ - first] = entry_of(address);
            Rom::write(offset_of(to) + 4 * first, reinterpret_cast<const uint8_t*>(page));
        }
        append(to, 0, mark_of(turn));
        sector_ = to;
        turn_ = turn;
        used_ = next;
    }
    static void append(uint8_t sector, uint32_t place, uint32_t word) {
        uint32_t page[in_page];
        for (uint32_t& one : page)
            one = blank; // which changes nothing
        page[place % in_page] = word;
        Rom::write(offset_of(sector) + 4 * (place / in_page * in_page),
                   reinterpret_cast<const uint8_t*>(page));
    }

    static inline uint8_t bytes_[size] = {};
    static inline bool loaded_ = false;
    static inline uint8_t sector_ = 1, turn_ = 0;
    static inline uint32_t used_ = 0;
};

} // namespace zorilla::rp2040
