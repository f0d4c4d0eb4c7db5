// SPDX-License-Identifier: MIT
/// \file
/// What a device says of itself over USB to be a serial port. Universal Serial Bus Specification
/// 2.0, chapter 9; Class Definitions for Communications Devices 1.2, and for PSTN Devices 1.2.
#pragma once

#include <stdint.h>

namespace zorilla::rp2040 {

/// The sizes of its ends: 0 for control, 1 tells of nothing (its class asks for it), 2 carries
/// text.
constexpr uint8_t usb_packet = 64, usb_notes = 8;

/// 9.6.1. The vendor 0x1209 keeps its product 0x0001 for devices under test; who sells some, asks
/// for a number of their own.
constexpr uint8_t usb_device[] = {
    18,         1,    0x00, 0x02, // USB 2.0
    2,          0,    0,          // communications
    usb_packet,                   // of its end 0
    0x09,       0x12, 0x01, 0x00, // vendor, product
    0x00,       0x01,             // version 1.0
    1,          2,    0,          // words for its maker and for itself
    1,                            // configuration
};
constexpr uint8_t usb_configuration[] = {
    9, 2,    67,   0,    2,          1,  0,  0x80, 250, // two interfaces, 500 mA from the bus
    9, 4,    0,    0,    1,          2,  2,  0,    0,   // 0: communications, abstract control
    5, 0x24, 0,    0x20, 0x01,                          // version 1.2
    5, 0x24, 1,    0,    1,                  // calls are managed over interface 1, or not at all
    4, 0x24, 2,    2,                        // it knows rates and whether somebody listens
    5, 0x24, 6,    0,    1,                  // both belong together
    7, 5,    0x81, 3,    usb_notes,  0,  64, // end 1, in, now and then
    9, 4,    1,    0,    2,          10, 0,  0,    0, // 1: data
    7, 5,    0x82, 2,    usb_packet, 0,  0,           // end 2, in
    7, 5,    0x02, 2,    usb_packet, 0,  0,           // end 2, out
};
static_assert(sizeof usb_configuration == 67 && sizeof usb_device == 18);
// Their last packet is a short one, which ends it.
static_assert(sizeof usb_configuration % usb_packet != 0);

constexpr uint8_t usb_languages[] = {4, 3, 0x09, 0x04};
constexpr uint8_t usb_maker[] = {16, 3, 'Z', 0, 'o', 0, 'r', 0, 'i', 0, 'l', 0, 'l', 0, 'a', 0};
constexpr uint8_t usb_name[] = {30,  3, 'Z', 0, 'o', 0, 'r', 0, 'i', 0, 'l', 0, 'l', 0, 'a', 0,
                                ' ', 0, 'd', 0, 'e', 0, 'v', 0, 'i', 0, 'c', 0, 'e', 0};
static_assert(sizeof usb_maker == 16 && sizeof usb_name == 30);

} // namespace zorilla::rp2040
