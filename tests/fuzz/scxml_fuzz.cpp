// SPDX-License-Identifier: MIT
// SCXML: damaged text must be refused, or give a table that a rig file's reader at least
// understands as TOML.
#include "bench/scxml.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    std::vector<std::string> left_out;
    try {
        const std::string table = zorilla::bench::machine_of_scxml(
            {reinterpret_cast<const char*>(data), size}, "it.scxml", left_out);
        for (const zorilla::rig::Mistake& mistake : zorilla::rig::parse_rig(table).mistakes)
            if (mistake.text.find("not TOML") != std::string::npos)
                std::abort();
    } catch (const zorilla::rig::InputError&) {
    }
    return 0;
}
