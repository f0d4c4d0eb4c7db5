// SPDX-License-Identifier: MIT
#include "rig/model/rig.hpp"

namespace zorilla::rig {

int64_t Rig::round_of_pings() const {
    int64_t out = 0;
    for (const Sense& sense : senses)
        out += sense.pings.thousandths();
    return out;
}

const Sense* Rig::sense_of(size_t source) const {
    for (const Sense& sense : senses)
        if (source >= sense.source && source < sense.source + sense.sources)
            return &sense;
    return nullptr;
}

} // namespace zorilla::rig
