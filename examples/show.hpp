// SPDX-License-Identifier: MIT
// Printing for the examples that run on the desk: a reading with its unit, or what is wrong with
// it.
#pragma once

#include <zorilla/board/report.hpp>
#include <zorilla/units/truth.hpp>

#include <initializer_list>
#include <stdio.h>

/// The desk as far as a report needs a board: every character goes out at once.
struct Desk {
    static bool send(char c) { return putchar(c) != EOF; }
};

template <class Q>
void show(const char* what, zorilla::Reading<Q> reading, zorilla::ProgramText unit) {
    printf("%s ", what);
    zorilla::Report<40> report;
    report.clear();
    report.put_reading(reading, unit);
    while (!report.done())
        report.send<Desk>();
}

inline void show(const char* what, zorilla::Truth truth) {
    printf("%s %s", what,
           truth == zorilla::Truth::yes  ? "yes"
           : truth == zorilla::Truth::no ? "no"
                                         : "unknown");
}
