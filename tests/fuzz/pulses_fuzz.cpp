// SPDX-License-Identifier: MIT
// Any list of pulse widths may come in on a pin: it must never crash the decoder, and what is taken
// for a frame must have pulses that make just these bits.
#include <zorilla/sense/humidity_frame.hpp>

#include <cstdlib>
#include <cstring>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    using namespace zorilla;
    if (size < 2)
        return 0;
    std::vector<uint16_t> widths(size / 2);
    std::memcpy(widths.data(), data, widths.size() * 2);
    for (const Level first : {Level::low, Level::high}) {
        const FrameSample sample =
            decode_pulses(widths.data(), static_cast<uint16_t>(widths.size()), first);
        if (!sample.has_frame())
            continue;
        // The bits again from the list, by the difference that no clock can blur: the answer's low
        // of 80 us comes first, and every bit's high is short or long.
        size_t at = first == Level::low ? 0 : 1;
        while (widths[at] < 62 || widths[at] > 98)
            at += 2;
        for (int bit = 0; bit < 40; ++bit) {
            const bool is_long = widths.at(at + 3 + 2 * static_cast<size_t>(bit)) > 45;
            if (is_long != ((sample.frame().bytes[bit / 8] >> (7 - bit % 8) & 1) != 0))
                std::abort();
        }
    }
    return 0;
}
