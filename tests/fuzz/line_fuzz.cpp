// SPDX-License-Identifier: MIT
// Anything may come in on the serial line: lines are whole or lost, and a command that is not
// understood changes nothing.
#include <zorilla/board/line.hpp>

#include <cstdlib>
#include <cstring>
#include <string>

using namespace zorilla;

namespace {

void expect(bool holds) {
    if (!holds)
        std::abort();
}

std::string text(ProgramText of) { return of.begin; }

/// What an input gives in a pass.
int given(LineInput& input, Instant now) {
    const Sample said = input.sample(now);
    return said.taken() ? said.code() : -1;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    LineIn in;
    LineInput share(10_min, said_full), turned(1_h, 1);
    uint32_t now = 0xffff'f000;
    std::string since; // what has come since the last end of a line
    bool torn = false;
    for (size_t i = 0; i < size; ++i) {
        const auto c = static_cast<char>(data[i]);
        now += data[i];
        in.take(c, c == '\xff');
        const bool ends = c == '\n' || c == '\r';
        torn = torn || (!ends && (c < ' ' || c > '~'));
        if (!ends) {
            since += c;
            continue;
        }
        torn = torn || since.size() > LineIn::size;
        const char* const line = in.line();
        // A line comes just as it was typed, or not at all.
        expect(line == nullptr || (!torn && since == line && since.size() <= LineIn::size));
        expect(line != nullptr || torn || since.empty());
        since.clear();
        torn = false;
        if (line == nullptr)
            continue;
        const int before[] = {given(share, Instant(now)), given(turned, Instant(now))};
        Command command(line);
        Answer answer = Answer::no_command;
        const bool sets = command.is(ZORILLA_TEXT("set"));
        if (sets && command.is(ZORILLA_TEXT("share")))
            answer = share.set(command, Instant(now));
        else if (sets && command.is(ZORILLA_TEXT("turned")))
            answer = turned.set(command, Instant(now));
        const int after[] = {given(share, Instant(now)), given(turned, Instant(now))};
        if (answer != Answer::ok)
            expect(std::memcmp(before, after, sizeof before) == 0);
        expect(after[0] <= said_full && after[1] <= 1);
        const std::string said = text(text_of(answer));
        expect(said.size() <= 35 && said.back() == '\n' &&
               (said.substr(0, 2) == "ok") == (answer == Answer::ok));
        in.done();
    }
    return 0;
}
