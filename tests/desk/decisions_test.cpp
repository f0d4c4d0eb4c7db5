// SPDX-License-Identifier: MIT
// Decisions and machines in rig files: the same blocks as in C++, and mistakes in them told.
#include "bench/diagram.hpp"
#include "bench/scxml.hpp"
#include "rig/rig_file.hpp"
#include "rig/run/running_rig.hpp"
#include "tests/chips/device_runs.hpp"
#include "tests/parts/feeder.hpp"

#include <gtest/gtest.h>
#include <zorilla/zorilla.hpp>

#include <random>

namespace {

using namespace parts;

// The same in C++.
constexpr auto probe = thermistor(10_kohm, 3950_K).pull_up(10_kohm).range(-10_degC, 60_degC);
constexpr auto fine_room = inside(18_degC, 24_degC).release(17_degC, 25_degC);
constexpr auto for_a_while = lasting(10_s, 3_s);
constexpr auto fan_stages = rising(28_degC, 34_degC).release(26_degC);
constexpr auto unjam = act_for(2_s).rest_for(5_s).tries(3);
enum class Hatch : uint8_t { shut, opening, open, jammed };
enum class Cue : uint8_t { button, cool, locked, pressed };
constexpr auto hatch =
    machine(Hatch::shut, transition(Hatch::shut, Hatch::opening).when(Cue::button),
            transition(Hatch::opening, Hatch::open).after(4_s),
            transition(Hatch::open, Hatch::shut).when(Cue::cool).after(10_s),
            transition_from_any(Hatch::jammed).when(Cue::locked),
            transition(Hatch::jammed, Hatch::shut).when(Cue::pressed));
constexpr auto motor_wiring = relay(active_high).safe(off).warn(1_s);
constexpr auto siren_wiring = relay(active_high).safe(off);
constexpr auto fan_wiring = relay(active_high).safe(on);

struct Feeder {
    Thermistor<probe> room;
    Window<fine_room> fine;
    Lasting<for_a_while> fine_for_long;
    Ladder<fan_stages> fans;
    Attempts<unjam> shake;
    Counter<3> slams;
    Machine<hatch> door;
    Edge press;
    Relay<motor_wiring> motor;
    Relay<siren_wiring> siren;
    Relay<fan_wiring> second_fan;

    std::vector<int> pass(Instant now, Sample code, Truth button, Truth stuck) {
        const auto air = room.read(code);
        const Truth is_fine = fine_for_long.pass(now, fine.decide(air));
        const auto stage = fans.decide(air);
        shake.pass(now, stuck, button);
        const Truth is_lost = truth_of(!air.ok());
        const Truth is_odd = !is_fine && !is_lost;
        const Truth slammed = slams.pass(button, door.in(Hatch::jammed));
        door.pass(now, event<Cue::button>(button), event<Cue::cool>(!at_least(stage, 1)),
                  event<Cue::locked>(shake.is_locked()), event<Cue::pressed>(press.pass(button)));
        motor.drive_unless(truth_of(second_fan.value() == on), now,
                           on_when(door.in(Hatch::opening)), on_when(shake.acts()));
        siren.drive(now, on_when(motor.is_warning()));
        second_fan.drive(now, on_when(at_least(stage, 2) || is_lost || door.enters(Hatch::open)));
        const auto n = [](auto x) { return static_cast<int>(x); };
        return {n(is_fine),      n(shake.acts()),  n(is_odd),        n(slammed),
                n(door.state()), n(motor.value()), n(siren.value()), n(second_fan.value())};
    }
};

TEST(Decisions, in_a_rig_file_do_what_the_same_blocks_do_in_cpp) {
    const rig::RigFile file = rig::parse_rig(feeder);
    ASSERT_TRUE(file.mistakes.empty()) << file.mistakes.front().text;
    rig::RunningRig running(file.rig);
    const auto fact = [&](const char* name) {
        for (size_t i = 0; i < file.rig.facts.size(); ++i)
            if (file.rig.facts[i].name == name)
                return static_cast<int>(running.truths()[i]);
        ADD_FAILURE() << name;
        return -1;
    };
    Feeder device;
    std::mt19937 random(6);
    uint32_t now = 0xffff'0000;
    int code = 560, button = 1, stuck = 1;
    std::vector<int> seen(4);
    for (int i = 0; i < 60'000; ++i) {
        now += static_cast<uint32_t>(random() % 1200);
        code = random() % 300 == 0
                   ? 1023
                   : std::clamp((code == 1023 ? 500 : code) + static_cast<int>(random() % 31) - 15,
                                390, 640);
        if (random() % 12 == 0)
            button = random() % 4 != 0;
        if (random() % 25 == 0)
            stuck = random() % 2;
        const rig::Raw raws[] = {rig::Raw(int64_t{code}), rig::Raw(int64_t{button}),
                                 rig::Raw(int64_t{stuck})};
        running.pass(Instant(now), raws);
        // The first sample of a debounced input is not one yet, here as there.
        const auto truth = [&](const char* name) { return static_cast<Truth>(fact(name)); };
        const auto expected = device.pass(Instant(now), Sample(static_cast<uint16_t>(code)),
                                          truth("button"), truth("stuck"));
        const std::vector<int> told = {fact("fine"),
                                       fact("shake"),
                                       fact("odd"),
                                       fact("slams"),
                                       running.state(0),
                                       static_cast<int>(running.drivens()[0].is_on),
                                       static_cast<int>(running.drivens()[1].is_on),
                                       static_cast<int>(running.drivens()[2].is_on)};
        ASSERT_EQ(told, expected) << "pass " << i;
        ++seen[running.state(0)];
    }
    for (const int times : seen)
        EXPECT_GT(times, 500) << "every state is visited";
}

TEST(Decisions, the_tool_tells_what_they_are_and_why_they_changed) {
    const desk::Folder folder;
    const std::string rig = folder.write("feeder.toml", feeder);
    std::string trace = "time (s),room (code),button (level),stuck (level)\n";
    for (int i = 0; i < 120; ++i)
        trace += fmt::format("{},{},{},{}\n", i,
                             i < 60    ? 570
                             : i < 100 ? 380
                                       : 1023,
                             i == 4 || i == 5 ? 0 : 1, i > 50 && i < 85 ? 0 : 1);
    const desk::Outcome check = desk::zorilla("check '" + rig + "'");
    EXPECT_EQ(check.status, 0) << check.err;
    for (const char* line :
         {"fine        room from 18 degC (code 592), lets go at 17 degC (code 605)",
          "for_at_least 10 s, gone_for 3 s", "stage 2 above 34 degC",
          "when stuck, act_for 2 s, rest_for 5 s, tries 3, reset when button",
          "hatch       machine, starts in shut\n", "  shut to opening when button\n",
          "  opening to open after 4 s\n"})
        EXPECT_TRUE(has(check.out, line)) << line << "\n" << check.out;
    const desk::Outcome run = desk::zorilla(
        fmt::format("run '{}' --trace '{}' --csv '{}' --figure '{}'", rig,
                    folder.write("t.csv", trace), folder / "o.csv", folder / "o.png"));
    EXPECT_EQ(run.status, 0) << run.err;
    for (const char* line :
         {"hatch       opening        from shut, \"button\": button is yes",
          "hatch       open           from opening, after 4 s",
          "motor       on             claim 1, \"hatch in opening\": hatch is in opening",
          "claim 2, \"shake\": shake is yes (acting: stuck is yes, reset \"button\" at 0d ",
          "hatch       jammed         from shut, \"locked(shake)\": shake is locked",
          "second_fan  on             claim 1, \"fans >= 2 or lost(room) or hatch enters open\": "
          "fans "
          "is at stage 2 (room is 37.364 degC)\n",
          "hatch       moved 4 times; shut for"})
        EXPECT_TRUE(has(run.out, line)) << line << "\n" << run.out;
    const std::string table = desk::read_all(folder / "o.csv");
    EXPECT_TRUE(has(table, ",fine,")) << table.substr(0, 300);
    EXPECT_TRUE(has(table, ",hatch,motor,motor cause")) << table.substr(0, 300);
    EXPECT_TRUE(has(table, ",jammed,"));
}

TEST(Draw, a_machine_becomes_a_picture_a_text_and_scxml) {
    const desk::Folder folder;
    const std::string rig = folder.write("feeder.toml", feeder);
    const desk::Outcome dot = desk::zorilla("draw '" + rig + "'");
    EXPECT_EQ(dot.status, 0) << dot.err;
    for (const char* part :
         {"digraph \"hatch\" {", "\"power up\" -> \"shut\"",
          "\"shut\" -> \"opening\" [label=\"button\"]",
          "\"opening\" -> \"open\" [label=\"after 4 s\"]",
          "\"open\" -> \"shut\" [label=\"fans < 1,\\nafter 10 s\"]",
          "-> \"jammed\" [label=\"locked(shake)\"", "\"opening\" [label=\"opening\\nmotor on\""})
        EXPECT_TRUE(has(dot.out, part)) << part << "\n" << dot.out;
    for (const char* name : {"h.svg", "h.png", "h.dot"}) {
        const desk::Outcome out =
            desk::zorilla(fmt::format("draw '{}' --machine hatch --out '{}'", rig, folder / name));
        EXPECT_EQ(out.status, 0) << out.err;
        EXPECT_GT(std::filesystem::file_size(folder / name), 500u) << name;
    }
    EXPECT_TRUE(has(desk::read_all(folder / "h.svg"), "after 4 s"));
    const desk::Outcome xml =
        desk::zorilla(fmt::format("draw '{}' --out '{}'", rig, folder / "h.scxml"));
    // What does not map is named.
    EXPECT_EQ(xml.status, 1);
    EXPECT_TRUE(has(xml.err, "from open to shut: the event \"fans < 1\" counts only after 10 s"))
        << xml.err;
    const std::string text = desk::read_all(folder / "h.scxml");
    for (const char* part :
         {"initial=\"shut\"", "<!-- event fans_1: fans < 1 -->",
          "<send id=\"after.opening.1\" event=\"after.opening.1\" delay=\"4000ms\"/>",
          "<cancel sendid=\"after.opening.1\"/>",
          "<transition event=\"after.opening.1\" target=\"open\"/>",
          "<transition event=\"button\" target=\"opening\"/>",
          "<transition event=\"locked_shake\" target=\"jammed\"/>"})
        EXPECT_TRUE(has(text, part)) << part << "\n" << text;

    EXPECT_TRUE(
        has(desk::zorilla("draw '" + rig + "' --machine hutch").err, "did you mean \"hatch\"?"));
    EXPECT_TRUE(has(desk::zorilla("draw '" + rig + "' --out x.jpg").err, "must end in .svg"));
    EXPECT_TRUE(has(desk::zorilla("draw " ZORILLA_SOURCE "/examples/heat_lamp/heat_lamp.toml").err,
                    "has no machine to draw"));
}

TEST(Scxml, a_machine_that_went_out_comes_back_and_does_the_same) {
    int machines = 0;
    for (const chips::ExampleDevice& device : chips::example_devices()) {
        const rig::Rig before = chips::rig_of(device);
        for (const rig::RigMachine& machine : before.machines) {
            std::vector<std::string> left_out;
            const std::string table =
                bench::machine_of_scxml(bench::scxml_of(machine, left_out), "it.scxml", left_out);
            EXPECT_TRUE(left_out.empty()) << left_out.front();
            std::string text =
                desk::read_all(fmt::format(ZORILLA_SOURCE "/examples/{0}/{0}.toml", device.name));
            const size_t from = text.find("[machine."), to = text.find("\n[", from);
            text.replace(from, to - from, table);
            const rig::RigFile after = rig::parse_rig(text);
            ASSERT_TRUE(after.mistakes.empty()) << after.mistakes.front().text << "\n" << table;
            const chips::Fed fed = chips::random_steps(device, before, 20'000);
            EXPECT_EQ(chips::run_rig(fed, before), chips::run_rig(fed, after.rig)) << device.name;
            ++machines;
        }
    }
    EXPECT_EQ(machines, 3);
}

TEST(Scxml, what_does_not_map_is_named) {
    const desk::Folder folder;
    const std::string path = folder.write("door.scxml", R"xml(<?xml version="1.0"?>
<!-- event dusk: light < 2 -->
<scxml xmlns="http://www.w3.org/2005/07/scxml" version="1.0" name="Barn door" initial="Shut">
  <!-- event dawn: light >= 2 and not frost -->
  <datamodel><data id="x" expr="1"/></datamodel>
  <state id="Shut">
    <transition event="dawn door.pushed" target="opening"/>
    <transition event="knock"/>
  </state>
  <state id="opening">
    <onentry><send event="slow" delay="1.5s"/><log expr="1"/></onentry>
    <transition event="slow" cond="x &gt; 1" target="stuck"/>
    <transition event="at_end" target="open"><log expr="2"/></transition>
    <state id="inner"/>
  </state>
  <state id="open"><transition target="Shut"/><transition event="gone" target="nowhere"/></state>
  <final id="stuck"/>
  <parallel id="both"/>
</scxml>
)xml");
    const desk::Outcome out = desk::zorilla("machine '" + path + "'");
    EXPECT_EQ(out.status, 1);
    EXPECT_EQ(out.out,
              "[machine.barn_door]\nstart = \"shut\"\nmoves = [\n"
              "    { from = \"shut\", to = \"opening\", when = \"light >= 2 and not frost\" },\n"
              "    { from = \"shut\", to = \"opening\", when = \"door_pushed\" }, # say when "
              "\"door.pushed\" comes: a [decide.NAME], or a condition\n"
              "    { from = \"opening\", to = \"stuck\", after = \"1500 ms\" },\n"
              "    { from = \"opening\", to = \"open\", when = \"at_end\" }, # say when \"at_end\" "
              "comes: "
              "a [decide.NAME], or a condition\n]\nends_in = [\"stuck\"]\n");
    for (const char* said :
         {"<datamodel>", "<parallel>", "\"Shut\": here it is shut", "without a target",
          "<log> in onentry of opening", "cond=\"x > 1\"", "what is done from opening to open",
          "states within states", "from open to shut: it has no event",
          "from open to \"nowhere\": there is no such state"})
        EXPECT_TRUE(has(out.err, said)) << said << "\n" << out.err;
    for (const auto& [text, said] : {std::pair("<scxml>\n<state", ":2: this is not XML"),
                                     {"<html/>", "must be <scxml>"},
                                     {"<scxml/>", "has no <state>"},
                                     {"", "this is not XML"}}) {
        const desk::Outcome bad =
            desk::zorilla("machine '" + folder.write("bad.scxml", text) + "'");
        EXPECT_EQ(bad.status, 2);
        EXPECT_TRUE(has(bad.err, said)) << bad.err;
    }
}

} // namespace
