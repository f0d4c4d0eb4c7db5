// SPDX-License-Identifier: MIT
#include "bench/live/kept_trace.hpp"

#include "bench/row_check.hpp"
#include "rig/emit/device.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <zorilla/board/trace_row.hpp>

#include <fmt/format.h>

#include <cerrno>
#include <cstring>
#include <utility>

namespace zorilla::bench {

KeptTrace::KeptTrace(const rig::Rig& rig, std::string path)
    : rig_(rig), path_(std::move(path)), file_(std::fopen(path_.c_str(), "wbx")) {
    if (file_ == nullptr && errno == EEXIST)
        throw rig::InputError(
            fmt::format("{}: cannot be written: it is there already; choose another name", path_));
    if (file_ == nullptr)
        cannot();
}

KeptTrace::~KeptTrace() {
    if (file_ != nullptr)
        std::fclose(file_);
}

void KeptTrace::cannot() const {
    throw rig::InputError(fmt::format("{}: cannot be written: {}", path_, std::strerror(errno)));
}

void KeptTrace::take(std::string_view bytes) {
    constexpr size_t longest = 4096; // what is longer is no line
    rest_ += bytes;
    if (!begun_) {
        const size_t end = rest_.find('\n');
        if (end == std::string::npos && rest_.size() < longest)
            return;
        const std::string_view first = rig::without_blanks(std::string_view(rest_).substr(0, end));
        if (!is_header(first)) {
            const bool is_row = start_of_check(first) == check_start(rig::number_of(rig_));
            rest_.replace(0, is_row ? 0 : end + 1, rig::header_of(rig_) + "\n");
        }
        begun_ = true;
    }
    size_t whole = rest_.rfind('\n') + 1;
    if (rest_.size() - whole >= longest)
        whole = rest_.size();
    if (std::fwrite(rest_.data(), 1, whole, file_) != whole)
        cannot();
    rest_.erase(0, whole);
}

void KeptTrace::flush() {
    if (std::fflush(file_) != 0)
        cannot();
}

void KeptTrace::finish(bool whole) {
    if (whole)
        take("\n");
    flush();
}

} // namespace zorilla::bench
