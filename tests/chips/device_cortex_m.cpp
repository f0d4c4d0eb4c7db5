// SPDX-License-Identifier: MIT
// One example device (DEVICE) on a Cortex-M: passes come from one file and go to another.
#include "tests/chips/devices.hpp"

#include <stdio.h>

int main() {
    using Device = devices::DEVICE;
    FILE* in_file = fopen("passes.in", "rb");
    FILE* out_file = fopen("passes.out", "wb");
    if (in_file == nullptr || out_file == nullptr)
        return 2;
    static Device device;
    static uint8_t in[Device::in_size * 128];
    static uint8_t out[Device::out_size * 128];
    for (;;) {
        const size_t passes = fread(in, Device::in_size, 128, in_file);
        for (size_t i = 0; i < passes; ++i)
            devices::run(device, in + i * Device::in_size, out + i * Device::out_size);
        if (passes == 0 || fwrite(out, Device::out_size, passes, out_file) != passes)
            break;
    }
    return fclose(out_file) == 0 ? 0 : 2;
}
