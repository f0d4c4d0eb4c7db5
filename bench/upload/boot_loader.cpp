// SPDX-License-Identifier: MIT
#include "bench/upload/boot_loader.hpp"

#include <algorithm>

namespace zorilla::bench {

namespace {

// AVR061, chapter 3: commands, and what stands around each.
enum Word : uint8_t {
    in_sync = 0x14,
    ok = 0x10,
    no_sync = 0x15,
    end_of_command = 0x20,
    get_parameter = 0x41,
    set_device = 0x42,
    set_device_more = 0x45,
    load_address = 0x55,
    universal = 0x56,
    write_page = 0x64,
    read_page = 0x74,
    read_signature = 0x75,
};

uint8_t byte_of(const std::string& text, size_t at) { return static_cast<uint8_t>(text[at]); }

} // namespace

void BootLoader::reset() {
    waiting_.clear();
    address_ = 0;
    asked_ = false;
}

/// With the byte that ends it; 0 as long as that cannot be told.
size_t BootLoader::length_of_command() const {
    switch (byte_of(waiting_, 0)) {
    case get_parameter: return 3;
    case set_device: return 22;
    // Its first byte counts them, itself too.
    case set_device_more: return waiting_.size() < 2 ? 0 : size_t{2} + byte_of(waiting_, 1);
    case load_address: return 4;
    case universal: return 6;
    case read_page: return 5;
    case write_page:
        return waiting_.size() < 4 ? 0
                                   : size_t{5} + byte_of(waiting_, 1) * 256U + byte_of(waiting_, 2);
    default: return 2;
    }
}

/// What a chip answers to a command of its own: a byte of its signature, or a fuse.
uint8_t BootLoader::of_chip() const {
    if (extended_fuse_ < 0)
        return 0;
    switch (byte_of(waiting_, 1)) {
    case 0x30: return signature_[byte_of(waiting_, 3) % signature_.size()];
    case 0x50:
        return byte_of(waiting_, 2) == 0x08 ? static_cast<uint8_t>(extended_fuse_) : uint8_t{0xff};
    case 0x58: return 0xd9;
    default: return 0;
    }
}

std::string BootLoader::answer() {
    const size_t count =
        waiting_.size() < 4 ? 0 : byte_of(waiting_, 1) * 256U + byte_of(waiting_, 2);
    std::string out;
    switch (byte_of(waiting_, 0)) {
    case get_parameter: out = std::string(1, '\0'); break; // not told
    case universal: out = std::string(1, static_cast<char>(of_chip())); break;
    case load_address: address_ = 2 * (byte_of(waiting_, 1) + byte_of(waiting_, 2) * 256U); break;
    case read_signature: out.assign(signature_.begin(), signature_.end()); break;
    case write_page:
        // It does not overwrite itself.
        if (address_ + count <= room)
            std::copy_n(waiting_.begin() + 4, count,
                        flash_.begin() + static_cast<std::ptrdiff_t>(address_));
        break;
    case read_page:
        for (size_t i = 0; i < count; ++i)
            out += address_ + i < room ? static_cast<char>(flash_[address_ + i]) : '\xff';
        break;
    default: break;
    }
    return static_cast<char>(in_sync) + out + static_cast<char>(ok);
}

std::string BootLoader::take(std::string_view bytes) {
    std::string out;
    for (const char c : bytes) {
        waiting_ += c;
        const size_t length = length_of_command();
        if (length == 0 || waiting_.size() < length)
            continue;
        if (byte_of(waiting_, length - 1) == end_of_command) {
            asked_ = true;
            out += answer();
            waiting_.clear();
        } else {
            // Out of step: at the next byte it may be right.
            out += static_cast<char>(no_sync);
            waiting_.erase(0, 1);
        }
    }
    return out;
}

} // namespace zorilla::bench
