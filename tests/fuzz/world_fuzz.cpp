// SPDX-License-Identifier: MIT
// Damaged world files must be told, never crash. What has no mistake must go on.
#include "bench/world/world.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const zorilla::bench::WorldFile file = zorilla::bench::parse_world(text, "/nowhere/");
    for (const auto& mistake : file.mistakes)
        if (mistake.text.empty() || mistake.line == 0)
            std::abort();
    if (file.mistakes.empty()) {
        zorilla::bench::WorldLife life(*file.world, size, file.world->begins);
        for (int i = 0; i < 20; ++i) {
            for (const auto& output : file.world->outputs)
                life.set(output.value, i % 3 / 2.0);
            life.go_on(i % 2 == 0 ? 100 : 30'000);
        }
        zorilla::bench::WorldLife copy = life;
        copy.go_on(1000);
        life.go_on(1000);
        for (uint32_t i = 0; i < file.world->values.size(); ++i)
            if (!(life.value(i) == copy.value(i)) && life.value(i) == life.value(i))
                std::abort();
    }
    return 0;
}
