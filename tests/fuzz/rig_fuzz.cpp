// SPDX-License-Identifier: MIT
// Damaged rig files must be told, never crash. What has no mistake must run.
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const zorilla::rig::RigFile file = zorilla::rig::parse_rig(text);
    for (const auto& mistake : file.mistakes)
        if (mistake.text.empty() || mistake.line == 0)
            std::abort();
    if (file.mistakes.empty()) {
        zorilla::rig::RunningRig running(file.rig);
        const std::vector<zorilla::rig::Raw> raws(file.rig.senses.size(), zorilla::rig::Raw(200));
        for (uint32_t i = 0; i < 3; ++i)
            running.pass(zorilla::Instant(i * 10'000), raws.data());
    }
    return 0;
}
