// SPDX-License-Identifier: MIT
// What goes into a conversion of the bank and comes out of it, without the conversions themselves.
#pragma once

#include <stdint.h>

namespace bank {

/// One raw input; what its numbers mean depends on the conversion.
struct In {
    uint8_t which = 0;
    uint32_t now = 0;
    uint32_t a = 0;
    int32_t b = 0;
    int32_t c = 0;
};
struct Out {
    int32_t value = 0;
    uint8_t health = 0;
    int32_t second = 0;
    uint8_t second_health = 0;
};
constexpr uint8_t in_size = 17, out_size = 10;

enum Which : uint8_t {
#define COSTED(name) name,
#define BANKED(name) name,
#include "tests/chips/bank_list.h"
#undef COSTED
#undef BANKED
    count
};
constexpr const char* name_of(Which which) {
    constexpr const char* names[] = {
#define COSTED(name) #name,
#define BANKED(name) #name,
#include "tests/chips/bank_list.h"
#undef COSTED
#undef BANKED
    };
    return names[which];
}

/// On the desk; one conversion remembers what it was given before.
Out on_desk(const In& in);

} // namespace bank
