// SPDX-License-Identifier: MIT
// Every conversion on a Cortex-M: inputs come from one file and results go to another.
#include "tests/chips/bank.hpp"

#include <stdio.h>

int main() {
    FILE* in_file = fopen("passes.in", "rb");
    FILE* out_file = fopen("passes.out", "wb");
    if (in_file == nullptr || out_file == nullptr)
        return 2;
    static bank::State state;
    static uint8_t in[bank::in_size * 64];
    static uint8_t out[bank::out_size * 64];
    for (;;) {
        const size_t passes = fread(in, bank::in_size, 64, in_file);
        for (size_t i = 0; i < passes; ++i)
            bank::pack(out + i * bank::out_size,
                       bank::dispatch(state, bank::unpack(in + i * bank::in_size),
                                      [](auto* convert, bank::State& s, const bank::In& one,
                                         bank::Out& result) { convert(s, one, result); }));
        if (passes == 0 || fwrite(out, bank::out_size, passes, out_file) != passes)
            break;
    }
    return fclose(out_file) == 0 ? 0 : 2;
}
