// SPDX-License-Identifier: MIT
// Every example device on its trace and on random steps: from its rig file, in C++ on the desk, and
// as it is fed to the chips.
#pragma once

#include "rig/rig_file.hpp"
#include "tests/chips/passes.hpp"

#include <string>
#include <vector>

namespace chips {

/// One of the example devices.
struct ExampleDevice {
    std::string name;     ///< of its folder and of its rig file
    std::string firmware; ///< "device_NAME"
    std::string trace;    ///< its data; empty for the hen house, whose trace is made
    size_t in_size;
    size_t out_size;
    Bytes (*run)(const Fed&); ///< the C++ device on the desk
};
const std::vector<ExampleDevice>& example_devices();

zorilla::rig::Rig rig_of(const ExampleDevice& device);
/// Its trace, packed.
Fed trace_of(const ExampleDevice& device, const zorilla::rig::Rig& rig);
/// Steps at random times across the wrap of the clock, with faults and missing samples among them.
Fed random_steps(const ExampleDevice& device, const zorilla::rig::Rig& rig, size_t count);
/// What the rig file's device does with the same passes.
Bytes run_rig(const Fed& fed, const zorilla::rig::Rig& rig);

} // namespace chips
