// SPDX-License-Identifier: MIT
// Traces: RFC 4180, units in the header, and nothing lost on a bad line.
#include "bench/ahead.hpp"
#include "bench/samples.hpp"
#include "bench/trace/trace.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

#include <random>
#include <vector>

namespace {

using namespace zorilla;
using desk::has;

struct Read {
    std::string refused;
    std::vector<int64_t> times;
    std::vector<int> codes; ///< -1 where no sample was taken
    std::vector<uint64_t> bad_lines;
    std::string said;
};

Read read(const std::string& text) {
    const desk::Folder folder;
    const std::string path = folder.write("t.csv", text);
    Read out;
    try {
        bench::TraceReader trace(path, {{"roost", {rig::RawKind::code, 1023}}},
                                 [&](uint64_t line, const std::string& what) {
                                     out.bad_lines.push_back(line);
                                     out.said += what + "\n";
                                 });
        while (trace.next()) {
            out.times.push_back(trace.milliseconds());
            const Sample sample = trace.raws()[0].sample();
            out.codes.push_back(sample.taken() ? sample.code() : -1);
        }
    } catch (const rig::InputError& error) {
        out.refused = error.what();
    }
    return out;
}

using Times = std::vector<int64_t>;
using Codes = std::vector<int>;
using Lines = std::vector<uint64_t>;

TEST(Trace, reads_times_in_any_unit_and_codes_in_any_column) {
    const Read plain = read("time (s),roost (code)\n0,512\n0.5,513\n1e1,514\n");
    EXPECT_EQ(plain.refused, "");
    EXPECT_EQ(plain.times, (Times{0, 500, 10'000}));
    EXPECT_EQ(plain.codes, (Codes{512, 513, 514}));
    EXPECT_EQ(read("roost (code),door,time (min)\n7,open,1\n8,,1.5\n").times,
              (Times{60'000, 90'000}));
    EXPECT_EQ(read("time (ms),roost (code)\n0.4,1\n0.5,1\n").times, (Times{0, 1}));
    EXPECT_EQ(read("time (h),roost (code)\n-1,1\n").times, (Times{-3'600'000}));
}

TEST(Trace, follows_rfc_4180) {
    const Read quoted = read("\xEF\xBB\xBF\"time (s)\",note,\"roost (code)\"\r\n"
                             "1,\"two\r\nlines, and a \"\"word\"\"\",\"600\"\r\n"
                             "\"2\",plain,601\r\n"
                             "3,,602");
    EXPECT_EQ(quoted.refused, "");
    EXPECT_EQ(quoted.bad_lines, Lines{});
    EXPECT_EQ(quoted.times, (Times{1000, 2000, 3000}));
    EXPECT_EQ(quoted.codes, (Codes{600, 601, 602})) << "no line end is needed at the end";
}

TEST(Trace, an_empty_field_is_a_sample_that_was_not_taken) {
    const Read gaps = read("time (s),roost (code)\n1,\n2,5\n");
    EXPECT_EQ(gaps.codes, (Codes{-1, 5}));
    EXPECT_EQ(gaps.bad_lines, Lines{});
    const Read blanks = read("time (s), roost (code)\n 1 , 7\n2, \n3,\t9 \n");
    EXPECT_EQ(blanks.codes, (Codes{7, -1, 9})) << "blanks around a number are no harm";
    EXPECT_EQ(blanks.bad_lines, Lines{});
}

TEST(Trace, a_bad_line_is_told_counts_as_missing_and_the_next_is_read) {
    const std::string head = "time (s),roost (code)\n1,100\n", tail = "3,300\n";
    const struct {
        std::string line;
        int64_t time;
        const char* said;
    } cases[] = {
        {"2,abc\n", 2000, "\"abc\" is not a number"},
        {"2,200x\n", 2000, "is not a number"},
        {"2,nan\n", 2000, "whole number from 0 to 1023"},
        {"2,inf\n", 2000, "whole number from 0 to 1023"},
        {"2,1024\n", 2000, "whole number from 0 to 1023"},
        {"2,-1\n", 2000, "whole number from 0 to 1023"},
        {"2,12.5\n", 2000, "whole number from 0 to 1023"},
        {"nan,200\n", 1000, "is not a time"},
        {"1e300,200\n", 1000, "is not a time"},
        {"x,200\n", 1000, "\"x\" is not a number"},
        {"0.5,200\n", 1000, "goes back from 0d 00:00:01 to 0d 00:00:00.500"},
        {"9e6,200\n", 1000, "the next line goes on from before"},
        {"2\n", 2000, "1 fields where the header has 2"},
        {"2,200,7\n", 2000, "more fields than the 2"},
        {"2,\"200\n", 1000, "a quote is not where it may be"},
        {"2,2\"00\"\n", 1000, "a quote is not where it may be"},
        {std::string("2,2\0000\n", 6), 2000, "is not a number"},
        {"2," + std::string(200'000, '7') + "\n", 1000, "longer than 65,536 characters"},
        {std::string(200'000, '"') + "\n", 1000, "longer than 65,536 characters"},
    };
    for (const auto& c : cases) {
        const Read got = read(head + c.line + tail);
        const std::string line = c.line.substr(0, 20);
        EXPECT_EQ(got.refused, "") << line;
        EXPECT_EQ(got.times, (Times{1000, c.time, 3000})) << line;
        EXPECT_EQ(got.codes, (Codes{100, -1, 300})) << line;
        EXPECT_EQ(got.bad_lines, Lines{3}) << line;
        EXPECT_TRUE(has(got.said, c.said)) << line << ": " << got.said;
    }
}

TEST(Trace, a_file_that_is_no_trace_is_refused_with_what_to_write) {
    const struct {
        std::string text;
        const char* said;
    } cases[] = {
        {"", "the file is empty"},
        {"0,512\n1,513\n",
         "must be a header such as \"time (s),roost (code)\"; found the number 0"},
        {"time (s);roost (code)\n1;2\n", "separated by semicolons; save the file with commas"},
        {"time,roost (code)\n", "write for example \"time (s)\""},
        {"time (days),roost (code)\n", "must be in ms, s, min or h"},
        {"time (s),roost (degC)\n", "raw codes of the converter, not degC; write \"roost (code)\""},
        {"time (s),roost\n", "write \"roost (code)\""},
        {"time (s),rost (code)\n", "it wants \"roost (code)\", and the file has \"rost\""},
        {"roost (code)\n", "no column holds the time"},
        {"time (s),time (s),roost (code)\n", "two columns are called \"time\""},
        {"time (s),roost (code),roost (code)\n", "two columns are called \"roost\""},
        {"\"time (s),roost (code)\n", "quote in the header is not closed"},
        {std::string("\x7f"
                     "ELF\0\1\2\n",
                     8),
         "not a CSV text file"},
        {std::string(200'000, 'x'), "not a CSV text file"},
    };
    for (const auto& c : cases) {
        const Read got = read(c.text);
        EXPECT_TRUE(has(got.refused, c.said)) << c.said << "; said: " << got.refused;
    }
}

TEST(Trace, is_the_same_by_the_quick_way_and_with_care) {
    // A quote anywhere in a record takes it off the quick way.
    std::string quick = "time (s),roost (code),note\n", careful = quick;
    for (int i = 0; i < 3000; ++i) {
        const std::string row = fmt::format("{}.{:03},{}", i / 7, i % 7 * 100, i * 37 % 1024);
        quick += row + ",1\n";
        careful += row + ",\"1\"\n";
    }
    const Read a = read(quick), b = read(careful);
    ASSERT_EQ(a.times.size(), 3000u);
    EXPECT_EQ(a.times, b.times);
    EXPECT_EQ(a.codes, b.codes);
}

TEST(Trace, read_ahead_tells_the_same_in_the_same_order) {
    const desk::Folder folder;
    std::mt19937 random(7);
    for (const size_t rows : {0U, 1U, 1023U, 1024U, 1025U, 20'000U}) {
        std::string text = "time (s),roost (code)\n";
        for (size_t i = 0; i < rows; ++i)
            text += random() % 50 == 0 ? "nonsense\n" : fmt::format("{},{}\n", i, random() % 1100);
        const std::string path = folder.write("t.csv", text);
        const auto told = [&](bool ahead) {
            std::string out;
            bench::TraceReader trace(path, {{"roost", {rig::RawKind::code, 1023}}},
                                     [&out](uint64_t line, const std::string& what) {
                                         out += fmt::format("{}: {}\n", line, what);
                                     });
            const auto take = [&out](const bench::TraceReader::Row& row) {
                out += fmt::format("{} {}\n", row.milliseconds, row.values[0].bits());
            };
            if (!ahead)
                while (trace.next())
                    take(trace.row());
            else
                for (bench::RowsAhead lines(trace); lines.next();)
                    take(lines.row());
            return out + fmt::format("{} of {}", trace.bad_lines(), trace.rows());
        };
        EXPECT_EQ(told(true), told(false)) << rows;
    }
}

TEST(Trace, read_ahead_can_be_left_off_anywhere_and_fails_where_the_reader_does) {
    const desk::Folder folder;
    std::string text = "light (code),condition\n";
    for (int i = 0; i < 6000; ++i)
        text += fmt::format("{},{}\n", i % 1000, i < 5000 ? 0 : i);
    bench::SampleReader whole(folder.write("s.csv", text), [](uint64_t, const std::string&) {});
    int rows = 0;
    std::string refused;
    try {
        for (bench::RowsAhead ahead(whole); ahead.next(); ++rows)
            EXPECT_EQ(ahead.row().values[0], rows % 1000);
    } catch (const rig::InputError& error) {
        refused = error.what();
    }
    EXPECT_EQ(rows, 5063);
    EXPECT_TRUE(has(refused, "is condition number 65")) << refused;
    bench::SampleReader left(folder.path() / "s.csv", [](uint64_t, const std::string&) {});
    bench::RowsAhead ahead(left);
    for (int i = 0; i < 1500; ++i)
        ASSERT_TRUE(ahead.next());
}

} // namespace
