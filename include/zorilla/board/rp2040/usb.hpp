// SPDX-License-Identifier: MIT
/// \file
/// The USB plug of an RP2040 as a serial port: text out and in. Data sheet, chapter 4.1.
#pragma once

#include "zorilla/board/line.hpp"
#include "zorilla/board/rp2040/clock.hpp"
#include "zorilla/board/rp2040/roles.hpp"
#include "zorilla/board/rp2040/serial.hpp"
#include "zorilla/board/rp2040/usb_words.hpp"

namespace zorilla {

namespace rp2040 {

/// Whether a plug is in, and somebody listens, makes no difference to a pass: what nobody takes is
/// dropped, at once where no program has the port open, else after 50 ms. What comes in waits on
/// the other side until the line before it was read.
class Usb : public NoLine {
  public:
    static constexpr uint32_t parts = part_usb;
    static void begin() {
        for (uint32_t i = 0; i < 0x180; i += 4)
            at(memory + i) = 0;
        at(base + 0x74) = 1U << 0 | 1U << 3;             // its own transceiver
        at(base + 0x78) = 1U << 2 | 1U << 3;             // as if power came from the plug
        at(base + 0x40) = 1;                             // a device
        at(base + 0x4c) = 1U << 29;                      // told of each packet of end 0
        at(base + 0x90) = 1U << 4 | 1U << 12 | 1U << 16; // packets, resets, requests
        at(memory + 0x08) = 1U << 31 | 1U << 29 | 3U << 26 | notes;
        at(memory + 0x10) = 1U << 31 | 1U << 29 | 2U << 26 | out_text;
        at(memory + 0x14) = 1U << 31 | 1U << 29 | 2U << 26 | in_text;
        listen_to(rp2040::on_usb);
        set_bits(base + 0x4c, 1U << 16); // the host may see it
    }

    /// True also where nobody takes it. To a program that has just opened the port whole lines go
    /// alone.
    static bool send(char c) {
        const Quiet quiet;
        if (opening_ && begins_)
            opening_ = false;
        begins_ = c == '\n';
        if (!open_ || opening_ || stalled_)
            return true;
        if (static_cast<uint16_t>(end_ - begin_) == room)
            return false;
        ring_[end_ % room] = c;
        end_ = static_cast<uint16_t>(end_ + 1);
        return true;
    }
    /// Whether a program has opened the port since this was asked last, to which a header is due.
    static bool opened() {
        const bool out = opened_;
        opened_ = false;
        return out;
    }
    /// Each millisecond, and once there is nothing more to send.
    static void step(Instant now) {
        take_text();
        const Quiet quiet;
        if (!sending_) {
            stalled_ = false;
            since_ = now;
            send_text();
        } else if (now - since_ > patience) {
            stalled_ = true; // the host is there, and takes nothing
            begin_ = end_;
        }
    }
    static bool is_busy() { return begin_ != end_ || sending_ || came_ != 0; }

    /// The interrupt.
    static void on_usb() {
        const uint32_t why = at(base + 0x98);
        // In the order in which they can have come: a request ends what was before it.
        if ((why & 1U << 4) != 0) {
            const uint32_t done = at(base + 0x58);
            at(base + 0x58) = done;
            if ((done & 1U << 0) != 0)
                control_sent();
            if ((done & 1U << 1) != 0 && expects_coding_) {
                expects_coding_ = false;
                answer(nullptr, 0, 0);
            }
            if ((done & 1U << 4) != 0) {
                sending_ = false;
                send_text();
            }
            if ((done & 1U << 5) != 0) {
                came_ = static_cast<uint8_t>(at(memory + 0x94) & 0x7f);
                read_ = 0;
                if (came_ == 0) // an empty packet
                    listen();
            }
        }
        if ((why & 1U << 12) != 0) {
            at(base + 0x50) = 1U << 19;
            at(base) = 0;
            address_ = configured_ = 0;
            close();
        }
        if ((why & 1U << 16) != 0) {
            at(base + 0x50) = 1U << 17;
            obey();
        }
    }

    static const char* line() { return in_.line(); }
    static void line_done() {
        in_.done();
        take_text();
    }
    static uint8_t lost() { return in_.lost(); }

  private:
    static constexpr uint32_t memory = 0x5010'0000, base = 0x5011'0000;
    static constexpr uint32_t control = 0x100, notes = 0x180, out_text = 0x1c0, in_text = 0x200;
    static constexpr uint16_t room = 512;
    static constexpr Duration patience = 50_ms;
    static_assert(usb_packet <= 64);

    /// Lets an end send or take a packet. \param place  of its control word
    static void arm(uint32_t place, uint32_t word) {
        at(memory + place) = word;
        // The controller must have seen the rest before it sees that (4.1.2.5.1).
        __asm__ volatile("nop\n\tnop\n\tnop\n\tnop\n\tnop\n\tnop");
        at(memory + place) = word | 1U << 10;
    }
    /// Packets of an end are numbered 0, 1, 0, 1, from 0 on, those of an answer from 1 on (8.6 of
    /// the specification).
    static uint32_t turned(bool& is_one) {
        const bool now = is_one;
        is_one = !now;
        return now ? 1U << 13 : 0;
    }
    static void put(uint32_t place, const uint8_t* bytes, uint32_t count) {
        volatile auto* to =
            reinterpret_cast<volatile uint8_t*>(static_cast<uintptr_t>(memory + place));
        for (uint32_t i = 0; i < count; ++i)
            to[i] = bytes[i];
    }
    [[gnu::always_inline]] static uint8_t got(uint32_t place) {
        return *reinterpret_cast<volatile uint8_t*>(static_cast<uintptr_t>(memory + place));
    }

    static void close() {
        open_ = opened_ = opening_ = stalled_ = sending_ = false;
        begin_ = end_;
        came_ = 0;
        at(memory + 0x90) = at(memory + 0x94) = 0;
    }

    // --- Requests

    static void stall() {
        at(base + 0x68) = 3;
        at(memory + 0x80) = 1U << 11;
        at(memory + 0x84) = 1U << 11;
    }
    /// Answers a request with bytes, or none. \param asked  how many were asked for at most
    static void answer(const uint8_t* bytes, uint32_t count, uint32_t asked) {
        rest_ = bytes;
        left_ = count < asked ? count : asked;
        is_one_ = true;
        send_rest();
    }
    static void send_rest() {
        const uint32_t now = left_ < usb_packet ? left_ : usb_packet;
        put(control, rest_, now);
        rest_ += now;
        left_ -= now;
        arm(0x80, 1U << 15 | turned(is_one_) | now);
    }
    static void control_sent() {
        if (address_ != 0) {
            at(base) = address_;
            address_ = 0;
        } else if (left_ != 0) {
            send_rest();
        } else if (answers_) {
            answers_ = false;
            arm(0x84, 1U << 13 | usb_packet); // the host says that it has it
        }
    }
    static void obey() {
        const uint8_t kind = got(0), what = got(1);
        const auto value = static_cast<uint16_t>(got(2) | got(3) << 8);
        const auto asked = static_cast<uint32_t>(got(6) | got(7) << 8);
        answers_ = (kind & 0x80) != 0 && asked != 0;
        expects_coding_ = false;
        left_ = 0;
        address_ = 0;
        const auto tell = [asked](const uint8_t* bytes, uint32_t count) {
            answer(bytes, count, asked);
        };
        static uint8_t two[2];
        // What a class asks may be said to an interface or to the whole device.
        switch ((kind & 0x60) == 0x20 ? (kind | 1) << 8 | what : kind << 8 | what) {
        case 0x8006: // describe
            if (value == 0x100)
                return tell(usb_device, sizeof usb_device);
            if (value == 0x200)
                return tell(usb_configuration, sizeof usb_configuration);
            if (value == 0x300)
                return tell(usb_languages, sizeof usb_languages);
            if (value == 0x301)
                return tell(usb_maker, sizeof usb_maker);
            if (value == 0x302)
                return tell(usb_name, sizeof usb_name);
            return stall();
        case 0x0005: // take an address, once it was acknowledged
            address_ = static_cast<uint8_t>(value & 0x7f);
            return answer(nullptr, 0, 0);
        case 0x0009: // be configured
            configured_ = static_cast<uint8_t>(value);
            close();
            out_is_one_ = in_is_one_ = false;
            if (configured_ != 0)
                listen();
            return answer(nullptr, 0, 0);
        case 0x8008: return tell(&configured_, 1);
        case 0x8000: // its state, or an end's
        case 0x8100:
        case 0x8200: two[0] = two[1] = 0; return tell(two, 2);
        case 0x810a: two[0] = 0; return tell(two, 1);
        case 0x0201: // an end may go on
            if (got(4) == 0x82)
                out_is_one_ = false;
            if (got(4) == 0x02) {
                in_is_one_ = false;
                if (configured_ != 0 && came_ == 0)
                    listen();
            }
            return answer(nullptr, 0, 0);
        case 0x010b: // the only setting that an interface has
        case 0x2123: // a break
            return answer(nullptr, 0, 0);
        case 0x2120: // a rate, which makes no difference here
            expects_coding_ = true;
            return arm(0x84, 1U << 13 | usb_packet);
        case 0xa121: return tell(coding_, sizeof coding_);
        case 0x2122: // whether a program has the port open
            opened_ = opening_ = (value & 1) != 0 && !open_;
            open_ = (value & 1) != 0;
            stalled_ = false;
            begin_ = end_;
            return answer(nullptr, 0, 0);
        default: return stall();
        }
    }

    // --- Text

    static void send_text() {
        if (configured_ == 0 || sending_ || begin_ == end_)
            return;
        uint32_t count = 0;
        volatile auto* to =
            reinterpret_cast<volatile char*>(static_cast<uintptr_t>(memory + out_text));
        // One less than a whole packet: the host hands it on without waiting for the next.
        for (; count < usb_packet - 1 && begin_ != end_; ++count) {
            to[count] = ring_[begin_ % room];
            begin_ = static_cast<uint16_t>(begin_ + 1);
        }
        sending_ = true;
        arm(0x90, 1U << 15 | turned(out_is_one_) | count);
    }
    static void listen() { arm(0x94, turned(in_is_one_) | usb_packet); }
    /// From the main program: as far as the next end of a line.
    static void take_text() {
        while (came_ != 0 && in_.line() == nullptr) {
            in_.take(static_cast<char>(got(in_text + read_)), false);
            read_ = static_cast<uint8_t>(read_ + 1);
            if (read_ < came_)
                continue;
            const Quiet quiet;
            came_ = 0;
            listen();
        }
    }

    static inline LineIn in_;
    static inline char ring_[room] = {};
    static inline volatile uint16_t begin_ = 0, end_ = 0;
    static inline volatile bool opened_ = false, opening_ = false;
    static inline bool begins_ = true;
    static inline volatile bool open_ = false, stalled_ = false, sending_ = false;
    static inline volatile uint8_t came_ = 0;
    static inline uint8_t read_ = 0;
    static inline Instant since_{};
    static inline bool in_is_one_ = false, out_is_one_ = false, is_one_ = false;
    static inline bool expects_coding_ = false, answers_ = false;
    static inline uint8_t address_ = 0, configured_ = 0;
    static inline const uint8_t* rest_ = nullptr;
    static inline uint32_t left_ = 0;
    static constexpr uint8_t coding_[7] = {0x00, 0x96, 0, 0, 0, 0, 8}; // 38,400, 8 bits
};

} // namespace rp2040

template <> struct Does<Rp2040, UsbLine> : rp2040::Role {
    static constexpr Needs needs{rp2040::line_bit(0)};
};

} // namespace zorilla
