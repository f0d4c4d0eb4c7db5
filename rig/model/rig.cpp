// SPDX-License-Identifier: MIT
#include "rig/model/rig.hpp"

namespace zorilla::rig {

const Sense* Rig::sense_of(size_t source) const {
    for (const Sense& sense : senses)
        if (source >= sense.source && source < sense.source + sense.sources)
            return &sense;
    return nullptr;
}

} // namespace zorilla::rig
