// SPDX-License-Identifier: MIT
// The heat lamp's device on a Cortex-M: passes come from one file and go to another.
#include "tests/chips/feed.hpp"

#include <stdio.h>

int main() {
    FILE* in_file = fopen("passes.in", "rb");
    FILE* out_file = fopen("passes.out", "wb");
    if (in_file == nullptr || out_file == nullptr)
        return 2;
    heat_lamp::Device device;
    static uint8_t in[feed::pass_in_size * 128];
    static uint8_t out[feed::pass_out_size * 128];
    for (;;) {
        const size_t passes = fread(in, feed::pass_in_size, 128, in_file);
        for (size_t i = 0; i < passes; ++i)
            feed::run(device, in + i * feed::pass_in_size, out + i * feed::pass_out_size);
        if (passes == 0 || fwrite(out, feed::pass_out_size, passes, out_file) != passes)
            break;
    }
    return fclose(out_file) == 0 ? 0 : 2;
}
