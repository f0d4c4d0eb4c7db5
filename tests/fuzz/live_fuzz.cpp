// SPDX-License-Identifier: MIT
// Anything may come from a device: what is taken for a row is one that its check vouches for, and
// the rig beside it goes on, whatever comes.
#include "bench/live/watched.hpp"
#include "bench/row_check.hpp"
#include "rig/emit/device.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"

#include <cstdlib>
#include <string>

using namespace zorilla;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    static const rig::Rig rig =
        rig::parse_rig(rig::read_file(ZORILLA_SOURCE "/data/live/box.toml")).rig;
    static const std::string header = rig::header_of(rig) + "\n";
    uint64_t told = 0;
    bench::Watched watched(
        rig, {[](const bench::Event&) {}, [](const std::string&) {}, [&told] { ++told; }});
    // A first byte says how large the pieces are in which it comes, and whether its header does.
    const size_t piece = size == 0 ? 1 : 1 + data[0] % 64;
    if (size > 0 && data[0] >= 128)
        watched.take(header);
    for (size_t at = 1; at < size; at += piece)
        watched.take({reinterpret_cast<const char*>(data) + at, std::min(piece, size - at)});
    watched.finish();
    if (watched.companion().rows() != told)
        std::abort();
    for (size_t i = 0; i < rig.drives.size() && watched.companion().any(); ++i)
        if (watched.why({bench::Question::About::drive, i, 0}).empty())
            std::abort();
    return 0;
}
