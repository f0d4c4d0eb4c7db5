// SPDX-License-Identifier: MIT
// How far each conversion is from its formula in double precision, over its whole stated range: the
// worst case, and where. Prints the table of docs/accuracy.md; ends with 1 if a bound is not kept.
// What is measured, and how, stands in the test of each part.
#include "tests/parts/promises.hpp"

#include <fmt/format.h>

#include <algorithm>

int main() {
    std::vector<parts::Accuracy> rows = parts::all_of<parts::Accuracy>();
    std::sort(rows.begin(), rows.end(),
              [](const auto& a, const auto& b) { return a.which < b.which; });
    bool all_kept = rows.size() >= 20;
    fmt::print("| conversion | range | largest error | where | bound | kept "
               "|\n|---|---|---|---|---|---|\n");
    for (const parts::Accuracy& row : rows) {
        const parts::Worst worst = row.measure();
        const bool kept = worst.off <= row.most && worst.count > 250;
        all_kept = all_kept && kept;
        fmt::print("| {} | {} | {:.{}f} {} | {} | {:g} {} | {} |\n", row.what, row.range, worst.off,
                   row.digits, row.unit, worst.where, row.most, row.unit, kept ? "yes" : "NO");
    }
    return all_kept ? 0 : 1;
}
