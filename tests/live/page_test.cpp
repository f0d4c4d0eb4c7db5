// SPDX-License-Identifier: MIT
// The page of zorilla live in a real browser.
#include "bench/history/history.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"
#include "tests/live/browser.hpp"
#include "tests/live/hens.hpp"

#include <random>

namespace {

using namespace zorilla;
using desk::Background;
using desk::free_port;
using desk::has;
using live::Browser;
using live::hens;
using live::json;
using live::Page;

std::string card(const std::string& key) { return "[data-key=\"" + key + "\"]"; }

TEST(WebPage,
     shows_a_device_takes_its_ventilator_over_hands_it_back_and_says_when_the_line_is_cut) {
    Page page;
    Browser browser;
    browser.go(page.address());
    ASSERT_TRUE(browser.sees("#standing", "seen from its start")) << browser.complaints();
    const std::string first = browser.text(card("source.roost") + " .is");
    EXPECT_TRUE(has(first, "°C")) << first;
    EXPECT_TRUE(
        desk::wait_for([&] { return browser.text(card("source.roost") + " .is") != first; }));
    // Taken over: the pin is what was asked for, as the device's own row says, and so is why.
    const std::string fan = card("output.ventilator");
    browser.click(fan + " .take");
    browser.click(fan + " form [type=submit]");
    EXPECT_TRUE(browser.sees(fan, "by hand, ")) << browser.text(fan);
    EXPECT_TRUE(browser.sees(fan + " .is", "100 %"));
    EXPECT_TRUE(desk::wait_for([&] { return has(page.last_row(), ",255,"); })) << page.last_row();
    EXPECT_TRUE(browser.sees("#events-list", "air_on yes"));
    browser.click(fan + " .name");
    EXPECT_TRUE(browser.sees("#why-text", "air_on: yes, from the line.")) << browser.text("#why");
    browser.click(fan + " .back");
    EXPECT_TRUE(desk::wait_for([&] { return browser.text(fan + " .by").empty(); }));
    EXPECT_TRUE(desk::wait_for([&] { return !has(page.last_row(), ",255,"); })) << page.last_row();
    // A setting, within its limits and outside of them.
    const auto set = [&](const char* value) {
        browser.run("document.querySelector('#setting-warm_at').focus(); "
                    "document.querySelector('#setting-warm_at').value = ''");
        browser.type(value + std::string("\n"));
    };
    set("20");
    EXPECT_TRUE(browser.sees("#settings", "outside of what the rig file lets it be"))
        << browser.text("#settings");
    set("6.5");
    EXPECT_TRUE(browser.sees(card("source.warm_at") + " .is", "6.50 °C"));
    // In the other unit, of values and of sentences; remembered.
    browser.click("#units");
    EXPECT_TRUE(browser.sees(card("source.warm_at") + " .is", "43.70 °F"));
    browser.click("[data-span=day]");
    browser.go(page.address());
    EXPECT_TRUE(browser.sees(card("source.warm_at") + " .is", "43.70 °F"));
    EXPECT_EQ(browser.run(
                  "return document.querySelector('[data-span=day]').getAttribute('aria-pressed')"),
              "true");
    EXPECT_TRUE(desk::wait_for([&] {
        return browser.run("return document.querySelectorAll('#strips .strip').length") == 4;
    }));
    // What it is judged by is drawn into the chart.
    browser.click(card("source.litter.humidity") + " .name");
    EXPECT_TRUE(desk::wait_for([&] {
        return browser.run("const chart = Chart.getChart('canvas'); "
                           "return chart.data.datasets[3]?.label ?? ''") == "damp above 80 %RH";
    }));
    EXPECT_EQ(
        browser.run("return Chart.getChart('canvas').getDatasetMeta(3).dataset.segments.length"),
        1);
    // The line is cut, and mended.
    page.cut();
    EXPECT_TRUE(browser.sees("#standing", "has vanished")) << browser.text("#standing");
    browser.click(fan + " .take");
    browser.click(fan + " form [type=submit]");
    EXPECT_TRUE(browser.sees(fan + " .problem", "the device is not there"));
    page.mend();
    EXPECT_TRUE(browser.sees("#standing", "seen from its start")) << browser.text("#standing");
    EXPECT_EQ(page.end(), 0) << page.log();
    EXPECT_TRUE(browser.sees("#lost", "zorilla live is cut"));
}

TEST(WebPage, is_used_by_keyboard_alone_fits_a_phone_and_takes_what_comes_from_a_file_as_text) {
    const desk::Folder folder;
    std::string text = rig::read_file(hens);
    const std::string name = "<img src=x onerror=document.title=1>";
    text.replace(text.find("\"Hen house\""), 11, "\"" + name + "\"");
    const std::string rig = folder.write("hens.toml", text);
    Page page("", rig);
    Browser browser;
    browser.go(page.address());
    ASSERT_TRUE(browser.sees("#devices", name)) << browser.complaints();
    EXPECT_EQ(browser.run("return document.querySelectorAll('img').length"), 0);
    EXPECT_EQ(browser.run("return document.title"), name + " – Zorilla");
    ASSERT_TRUE(browser.sees("#standing", "seen from its start"));
    // Each thing that can be pressed can be reached, and shows it.
    browser.run("document.body.focus()");
    const auto reach = [&](const std::string& selector) {
        for (int i = 0; i < 60; ++i) {
            browser.type("\t");
            if (browser.run("return document.activeElement.matches(`" + selector + "`)") == true)
                return true;
        }
        return false;
    };
    ASSERT_TRUE(reach(card("output.ventilator") + " .take"));
    EXPECT_NE(browser.run("return getComputedStyle(document.activeElement).outlineStyle"), "none");
    browser.type("\n");
    ASSERT_TRUE(reach(card("output.ventilator") + " [type=submit]"));
    browser.type("\n");
    EXPECT_TRUE(browser.sees(card("output.ventilator"), "by hand, "));
    for (const int width : {390, 800, 1280, 1920}) {
        browser.size(width, 900);
        EXPECT_LE(browser.run("return document.documentElement.scrollWidth").get<int>(), width);
    }
    // Every text stands out from what is behind it, in both themes (WCAG 2.1, contrast of AA).
    for (int theme = 0; theme < 2; ++theme) {
        browser.click("#theme");
        const json worst = browser.run(R"(
            const light = colour => {
                const c = colour.match(/[\d.]+/g).map(Number);
                const [r, g, b] = c.map(v => v / 255).map(v => v <= .03928 ? v / 12.92 : ((v + .055) / 1.055) ** 2.4);
                return .2126 * r + .7152 * g + .0722 * b;
            };
            let worst = { ratio: 99 };
            for (const one of document.querySelectorAll('main *, header *')) {
                if (![...one.childNodes].some(n => n.nodeType === 3 && n.data.trim()) || !one.offsetParent) continue;
                let behind = one;
                while (behind && /^rgba\(0, 0, 0, 0\)$/.test(getComputedStyle(behind).backgroundColor)) behind = behind.parentElement;
                const a = light(getComputedStyle(one).color), b = light(getComputedStyle(behind || document.body).backgroundColor);
                const ratio = (Math.max(a, b) + .05) / (Math.min(a, b) + .05);
                if (ratio < worst.ratio) worst = { ratio, what: one.outerHTML.slice(0, 120) };
            }
            return worst;)");
        EXPECT_GE(worst["ratio"].get<double>(), 4.5) << worst;
    }
    EXPECT_EQ(browser.complaints(), "");
}

TEST(WebPage, says_sentences_in_the_other_unit_as_the_desk_would) {
    Page page;
    Browser browser;
    browser.go(page.address());
    std::mt19937 random(3);
    json texts = json::array(), wanted = json::array();
    for (int i = 0; i < 200; ++i) {
        const auto value = static_cast<int32_t>(random() % 200'000) - 60'000;
        const rig::Kind kind =
            i % 2 == 0 ? rig::Kind::temperature : rig::Kind::temperature_difference;
        texts.push_back("x is " + rig::to_text(value, kind, 3) + ", y " +
                        rig::to_text(1'234'000, rig::Kind::light));
        const rig::ShownUnits units({"degF"});
        wanted.push_back("x is " + rig::to_text(value, kind, 3) + ", y " +
                         rig::to_text(1'234'000, rig::Kind::light));
    }
    const json said =
        browser.run("const units = await import('/units.js'); units.setFahrenheit(true, false); "
                    "return " +
                    texts.dump() + ".map(units.sentence)");
    ASSERT_EQ(said.size(), wanted.size()) << said;
    for (size_t i = 0; i < said.size(); ++i) {
        std::string is = said[i].get<std::string>();
        is.replace(is.find("°F"), 3, "degF");
        // The last digit may be rounded the other way.
        const double a = std::stod(is.substr(5)),
                     b = std::stod(wanted[i].get<std::string>().substr(5));
        EXPECT_NEAR(a, b, 0.0011) << texts[i] << is << wanted[i];
        EXPECT_EQ(is.substr(is.find(' ', 6)), wanted[i].get<std::string>().substr(is.find(' ', 6)))
            << is;
    }
}

TEST(WebPage, asks_for_a_pass_phrase_where_others_can_reach_it) {
    const desk::Folder folder;
    const std::string phrase = "a hen and a half";
    EXPECT_TRUE(has(desk::zorilla(fmt::format("live {} - --page 0.0.0.0:1 < /dev/null", hens)).err,
                    "others can reach that; give a file with a pass phrase"));
    EXPECT_TRUE(
        has(desk::zorilla(fmt::format("live {} - --page 0.0.0.0:1 --page-phrase {} < /dev/null",
                                      hens, folder.write("short", "hen\n")))
                .err,
            "a pass phrase has at least eight characters"));
    EXPECT_TRUE(
        has(desk::zorilla(fmt::format("live {} - --page hens.example:1 < /dev/null", hens)).err,
            "is no address of this machine in numbers"));
    Page page("--page-phrase " + folder.write("phrase", phrase + "\n"));
    auto client = page.client();
    const httplib::Headers known = {{"Authorization", "Bearer " + phrase}};
    ASSERT_TRUE(desk::wait_for([&] {
        const auto reply = client.Get("/api/devices/hen_house", known);
        return reply && has(reply->body, "seen from its start");
    }));
    EXPECT_EQ(client.Get("/")->status, 200); // which asks for it
    for (const char* path : {"/api/devices", "/api/devices/hen_house", "/api/changes", "/metrics"})
        EXPECT_EQ(client.Get(path)->status, 401) << path;
    EXPECT_EQ(client.Get("/metrics", known)->status, 200);
    EXPECT_EQ(client
                  .Post("/api/devices/hen_house/command", known,
                        R"({"command":"set lamp_on on for 5 min"})", "application/json")
                  ->status,
              200);
    Browser browser;
    browser.go(page.address());
    EXPECT_TRUE(browser.sees("#phrase", "Pass phrase"));
    browser.click("#phrase-text");
    browser.type("a hen and a duck\n");
    EXPECT_TRUE(browser.sees("#phrase-problem", "that is not the pass phrase"));
    browser.run("document.querySelector('#phrase-text').value = ''");
    browser.type(phrase + "\n");
    EXPECT_TRUE(browser.sees("#standing", "seen from its start"));
    const auto tried = [&](const std::string& what) {
        return client.Post("/api/session", json{{"phrase", what}}.dump(), "application/json")
            ->status;
    };
    std::vector<int> is;
    for (int i = 0; i < 11; ++i)
        is.push_back(tried("a hen and a duc" + std::string(1, static_cast<char>('a' + i))));
    EXPECT_EQ(std::count(is.begin(), is.end(), 401), 9); // one was tried by the browser
    EXPECT_EQ(tried(phrase), 429);
    // Who is in stays in.
    EXPECT_TRUE(browser.sees("#standing", "seen from its start"));
}

TEST(WebPage, the_demo_runs_with_a_week_behind_it_and_ends_when_asked_to) {
    const desk::Folder folder;
    const int port = free_port();
    Background demo(folder, fmt::format("demo --live --page {} --out {}", port, folder / "demo"),
                    "log");
    ASSERT_TRUE(desk::wait_for([&] { return has(demo.log(), "The page: "); })) << demo.log();
    httplib::Client client("127.0.0.1", port);
    EXPECT_TRUE(desk::wait_for(
        [&] { return has(client.Get("/api/devices/hen_house")->body, "seen from its start"); }));
    const json chart =
        json::parse(client.Get("/api/devices/hen_house/chart?part=roost&span=week")->body);
    size_t known = 0;
    for (const json& value : chart["mean"])
        known += value.is_number() ? 1 : 0;
    EXPECT_GE(known, chart["mean"].size() - 2) << chart;
    EXPECT_EQ(demo.end(SIGINT), 0) << demo.log();
    EXPECT_TRUE(has(demo.log(), "they are the rig's")) << demo.log();
    // A week is drawn of its minutes, and compared with what was wished for.
    const std::string history = "history " + folder / "demo/history.db";
    const desk::Outcome drawn =
        desk::zorilla(history + " --last week --figure " + folder / "week.svg");
    EXPECT_EQ(drawn.status, 0) << drawn.err;
    const std::string figure = desk::read_all(folder / "week.svg");
    EXPECT_TRUE(has(figure, "heat_lamp") && has(figure, "damp above 80 %RH") && has(figure, "168"));
    const std::string middle =
        bench::utc_text(
            std::chrono::duration_cast<std::chrono::milliseconds>(
                std::chrono::system_clock::now().time_since_epoch() - std::chrono::hours(24 * 4))
                .count())
            .substr(0, 10);
    const desk::Outcome compared = desk::zorilla(
        fmt::format("{} --compare 'before {}' 'after {}' --wish 'roost=4 degC..8 degC'", history,
                    middle, middle));
    EXPECT_TRUE(has(compared.out, "a day not in 4 degC..8 degC")) << compared.out << compared.err;
    for (const char* wrong :
         {"roost=4..8", "rooster=1 degC..2 degC", "roost=8 degC..4 degC", "roost"})
        EXPECT_TRUE(has(desk::zorilla(fmt::format("{} --compare 'before {}' 'after {}' --wish '{}'",
                                                  history, middle, middle, wrong))
                            .err,
                        "--wish: "))
            << wrong;
}

} // namespace
