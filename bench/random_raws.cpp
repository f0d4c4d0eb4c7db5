// SPDX-License-Identifier: MIT
#include "bench/random_raws.hpp"

namespace zorilla::bench {

void random_raws(const rig::Rig& rig, std::mt19937& random, std::vector<rig::Raw>& raws) {
    const auto below = [&random](int64_t end) { return static_cast<int64_t>(random()) % end; };
    for (size_t i = 0; i < raws.size(); ++i) {
        const rig::Sense& sense = rig.senses[i];
        rig::Raw& raw = raws[i];
        const bool fails = below(10) == 0;
        switch (sense.raw) {
        case rig::RawKind::code:
            raw = rig::Raw(fails ? below(2) * sense.largest_raw : below(sense.largest_raw + 1));
            break;
        case rig::RawKind::microseconds:
            raw = fails ? rig::Raw::silent() : rig::Raw(150 + below(24'000));
            break;
        case rig::RawKind::frame: {
            // Four bytes of values that there are, and their sum.
            int64_t bits = 0, sum = 0;
            for (const int64_t end : {3, 256, 2, 256}) {
                const int64_t byte = below(end);
                bits = bits << 8 | byte;
                sum += byte;
            }
            raw = fails ? rig::Raw::silent() : rig::Raw(bits << 8 | (sum & 0xff));
            break;
        }
        case rig::RawKind::level: raw = rig::Raw(below(2)); break;
        case rig::RawKind::edges:
            raw = rig::Raw((raw.taken() ? raw.bits() + below(50) : 0) & 0xffff);
            break;
        }
    }
}

} // namespace zorilla::bench
