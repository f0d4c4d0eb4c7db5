// SPDX-License-Identifier: MIT
// Damaged traces must be refused or read on, never crash; time must never go back.
#include "bench/trace/trace.hpp"
#include "rig/text/files.hpp"

#include <cstdlib>
#include <sys/mman.h>
#include <unistd.h>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const int file = memfd_create("trace", 0);
    if (file < 0 || write(file, data, size) != static_cast<ssize_t>(size))
        std::abort();
    const std::string path = "/proc/self/fd/" + std::to_string(file);
    try {
        uint64_t complaints = 0;
        const std::vector<zorilla::bench::WantedColumn> wanted = {
            {"roost", {zorilla::rig::RawKind::code, 1023}},
            {"litter", {zorilla::rig::RawKind::frame, 0xff'ffff'ffff}}};
        zorilla::bench::TraceReader trace(path, wanted,
                                          [&](uint64_t, const std::string&) { ++complaints; });
        int64_t before = INT64_MIN;
        while (trace.next()) {
            if (trace.milliseconds() < before || trace.raws()[0].bits() > 1023 ||
                trace.raws()[1].bits() > 0xff'ffff'ffff)
                std::abort();
            before = trace.milliseconds();
        }
        if (complaints != trace.bad_lines())
            std::abort();
    } catch (const zorilla::rig::InputError&) {
    }
    close(file);
    return 0;
}
