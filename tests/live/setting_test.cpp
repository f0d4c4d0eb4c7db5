// SPDX-License-Identifier: MIT
// A value that is changed on a running device, and put back into its rig file.
#include "bench/live/write_back.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "rig/sense/said.hpp"
#include "rig/text/files.hpp"
#include "tests/desk/background.hpp"
#include "tests/live/box.hpp"

#include <gtest/gtest.h>

#include <random>

namespace {

using namespace zorilla;
using desk::has;
using desk::Outcome;
using live::box;

TEST(Setting, is_changed_on_the_device_and_in_its_place_in_the_file) {
    const desk::Folder folder;
    const std::string text = rig::read_file(box), rig = folder.write("box.toml", text);
    const desk::Background device(
        folder,
        fmt::format("device {} --trace {}/examples/proofing_box/dough.csv --pace 50 --link {}", rig,
                    ZORILLA_SOURCE, folder / "port"),
        "device");
    ASSERT_TRUE(desk::is_there(folder / "port"));
    const auto set = [&](const std::string& more) {
        return desk::zorilla(fmt::format("setting {} {} {}", rig, folder / "port", more));
    };
    const Outcome out = set("rise_at '75.2 degF' --write-back");
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_TRUE(has(out.out, "rise_at is 24 degC on the device from now on; it was 27 degC"))
        << out.out;
    std::string wanted = text;
    wanted.replace(wanted.find("value = \"27 degC\""), 17, "value = \"24 degC\"");
    EXPECT_EQ(desk::read_all(rig), wanted);
    // It is the same device still: in the file stands what its rows say.
    const Outcome live =
        desk::zorilla(fmt::format("live {} {} --for '700 ms'", rig, folder / "port"));
    EXPECT_EQ(live.status, 0) << live.out << live.err;
    const struct {
        const char* command;
        const char* says;
    } refused[] = {
        {"rise_at '33 degC'",
         "33 degC is outside of what the rig file lets it be, 20 degC to 32 degC"},
        {"rise_at 24", "rise_at: "},
        {"rise_at '24 %'", "rise_at: "},
        {"rises_at '24 degC'", "there is no setting \"rises_at\"; did you mean \"rise_at\""},
        {"cool '24 degC'", "there is no setting \"cool\""},
    };
    for (const auto& one : refused) {
        const Outcome is = set(one.command);
        EXPECT_EQ(is.status, 2) << one.command;
        EXPECT_TRUE(has(is.err, one.says)) << one.command << ": " << is.err;
    }
    EXPECT_TRUE(has(desk::zorilla(fmt::format("setting {}/examples/heat_lamp/heat_lamp.toml {} x 1",
                                              ZORILLA_SOURCE, folder / "port"))
                        .err,
                    "has no setting: what is to be changed"));
    EXPECT_EQ(desk::read_all(rig), wanted);
}

TEST(Setting, trims_a_sensor_so_that_it_reads_what_is_true) {
    const desk::Folder folder;
    std::string text = rig::read_file(box);
    text.insert(text.find("[sense.air]"), "[sense.air_trim]\npart = \"line_setting\"\n"
                                          "value = \"0.5 K\"\nfrom = \"-3 K\"\nto = \"3 K\"\n\n");
    text.insert(text.find("points = [[\"0 degC\""), "trimmed_by = \"air_trim\"\n");
    const std::string rig = folder.write("box.toml", text);
    // 512: half way, 25 degC by its table.
    std::string steady = "time (s),air (code)\n";
    for (int i = 0; i < 4000; ++i)
        steady += fmt::format("{}.{},512\n", i / 10, i % 10);
    const desk::Background device(folder,
                                  fmt::format("device {} --trace {} --link {}", rig,
                                              folder.write("steady.csv", steady), folder / "port"),
                                  "device");
    ASSERT_TRUE(desk::is_there(folder / "port"));
    const auto set = [&](const std::string& more) {
        return desk::zorilla(fmt::format("setting {} {} air_trim {}", rig, folder / "port", more));
    };
    const rig::RigFile before = rig::load_rig(rig);
    rig::RunningRig running(before.rig);
    const std::vector<rig::Raw> raws = {rig::Raw(), rig::Raw(int64_t{512}), rig::Raw(), rig::Raw()};
    running.pass(Instant(0), raws.data());
    const int32_t plain = running.readings()[1].value_or({}).thousandths() - 500;
    EXPECT_NEAR(plain, 25'000, 60);
    const Outcome out = set("--reads '26.5 degC' --write-back");
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_TRUE(
        has(out.out, fmt::format("air_trim is {} on the device from now on; it was 0.5 K",
                                 rig::to_text(26'500 - plain, rig::Kind::temperature_difference))))
        << out.out;
    // What was written back reads it from then on, wherever the sensor is looked at.
    const rig::RigFile after = rig::load_rig(rig);
    rig::RunningRig trimmed(after.rig);
    trimmed.pass(Instant(0), raws.data());
    EXPECT_EQ(trimmed.readings()[1].value_or({}).thousandths(), 26'500);
    const Outcome why =
        desk::zorilla(fmt::format("run {} --trace {} --why 'air@1 s'", rig, folder / "steady.csv"));
    EXPECT_TRUE(has(why.out, "from code 512 of 1023 on ADC0, and 1.5")) << why.out << why.err;
    EXPECT_TRUE(has(why.out, " K of air_trim.")) << why.out;
    for (const auto& [command, says] :
         {std::pair("--reads '40 degC'", "is outside of what the rig file lets it be, -3 K to 3 K"),
          std::pair("--reads '40 %'", "--reads: "), std::pair("", "say either"),
          std::pair("'1 K' --reads '25 degC'", "say either")}) {
        const Outcome is = set(command);
        EXPECT_EQ(is.status, 2) << command;
        EXPECT_TRUE(has(is.err, says)) << is.err;
    }
    const Outcome unknown =
        desk::zorilla(fmt::format("setting {} {} air_trm --reads '25 degC'", rig, folder / "port"));
    EXPECT_TRUE(has(unknown.err, "did you mean \"air_trim\"")) << unknown.err;
    const Outcome none =
        desk::zorilla(fmt::format("setting {} {} rise_at --reads '25 degC'", rig, folder / "port"));
    EXPECT_TRUE(has(none.err, "rise_at trims no sensor")) << none.err;
}

TEST(Setting, whatever_a_file_looks_like_one_value_in_it_changes_and_no_other_letter) {
    std::mt19937 random(8);
    const auto any = [&](std::initializer_list<const char*> of) {
        return std::string(*(of.begin() + random() % of.size()));
    };
    for (int i = 0; i < 300; ++i) {
        const std::string quote = any({"\"", "'"});
        const std::string value =
            fmt::format("{}value{}={}{}{}.5 degC{}", any({"", "  ", "\t"}), any({" ", "", "  "}),
                        any({" ", "", "\t"}), quote, 21 + random() % 10, quote);
        std::vector<std::string> keys = {value + any({"", "   # not too warm: \"24 degC\"", " #"}),
                                         "from = \"20 degC\"", "to = \"32 degC\"",
                                         "part = \"line_setting\""};
        std::shuffle(keys.begin(), keys.end(), random);
        const std::string end = any({"\n", "\r\n", "\n\n", "\n# value = \"1 degC\"\n"});
        std::string text =
            "# é and value = \"25 degC\"\n[sense.air]\npart = \"raw\"\npin = \"ADC0\"\n" +
            any({"[sense.at]", "[sense.at] # its value"}) + end;
        for (const std::string& key : keys)
            text += key + end;
        text += "[decide.d]\nof = \"at\"\nbelow = \"25 degC\"\nrelease = \"26 "
                "degC\"\n[drive.o]\npart = "
                "\"relay\"\npin = \"PB0\"\nactive = \"low\"\nsafe = \"off\"\nclaims = [ { when = "
                "\"d\", "
                "then = \"on\" } ]\n";
        const rig::RigFile file = rig::parse_rig(text);
        ASSERT_TRUE(file.mistakes.empty()) << text << file.mistakes.front().text;
        const std::string to = fmt::format("{}.{} degC", 20 + random() % 12, random() % 1000);
        const std::string out = bench::with_setting(text, file.rig, file.rig.senses[1], to);
        const rig::RigFile is = rig::parse_rig(out);
        ASSERT_TRUE(is.mistakes.empty()) << out;
        EXPECT_EQ(*rig::table_of(is.rig, is.rig.senses[1]).get("value")->as_text(), to);
        // The rest is the same before it and behind it.
        const auto differs = std::mismatch(text.begin(), text.end(), out.begin()).first;
        const auto behind = std::mismatch(text.rbegin(), text.rend(), out.rbegin()).first.base();
        EXPECT_EQ(std::count(differs, std::max(differs, behind), '\n'), 0) << out;
        EXPECT_EQ(out.size(), text.size() - std::string("21.5 degC").size() + to.size()) << out;
    }
}

} // namespace
