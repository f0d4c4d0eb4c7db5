// SPDX-License-Identifier: MIT
// What a program prints, and files of samples and pairs: damaged ones must be refused or read on,
// never crash; every number that is taken is one.
#include "bench/fit/fit.hpp"
#include "bench/printed.hpp"
#include "bench/survey/survey.hpp"
#include "rig/text/files.hpp"

#include <cmath>
#include <cstdlib>
#include <sys/mman.h>
#include <unistd.h>

using namespace zorilla;

namespace {

/// A frame stands as ten hexadecimal digits.
bool is_frame(std::string_view value) {
    return value.size() == 10 &&
           value.find_first_not_of("0123456789abcdefABCDEF") == std::string_view::npos;
}

void print(std::string_view text) {
    bench::PrintedLines lines;
    while (!text.empty()) {
        const size_t end = std::min(text.find('\n'), text.size());
        if (lines.take(text.substr(0, end)) == bench::PrintedLines::Kind::row)
            for (const std::string_view value : lines.values())
                if (!value.empty() && !bench::is_number(value) && !is_frame(value))
                    std::abort();
        text.remove_prefix(std::min(end + 1, text.size()));
    }
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    print({reinterpret_cast<const char*>(data), size});
    const int file = memfd_create("samples", 0);
    if (file < 0 || write(file, data, size) != static_cast<ssize_t>(size))
        std::abort();
    const std::string path = "/proc/self/fd/" + std::to_string(file);
    try {
        const bench::SurveyResult survey =
            bench::survey_file(path, 0, [](uint64_t, const std::string&) {});
        for (const bench::ColumnSurvey& column : survey.columns)
            for (const bench::ConditionSurvey& condition : column.conditions)
                if (condition.count() > survey.rows || !std::isfinite(condition.median()))
                    std::abort();
    } catch (const rig::InputError&) {
    }
    try {
        bench::FitTask task;
        task.data = bench::read_fit_data(path, "", "");
        for (const bench::FitPoint& point : task.data.points)
            if (!std::isfinite(point.raw) || !std::isfinite(point.truth))
                std::abort();
        task.model = bench::FitModel::linear;
        if (task.data.points.size() < 40)
            bench::fit(task);
    } catch (const rig::InputError&) {
    }
    close(file);
    return 0;
}
