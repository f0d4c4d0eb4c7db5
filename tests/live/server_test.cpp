// SPDX-License-Identifier: MIT
// The page of zorilla live by requests, also those that no browser would send.
#include "bench/web/chart.hpp"
#include "tests/live/box.hpp"
#include "tests/live/hens.hpp"

#include <nlohmann/json.hpp>

#include <cmath>
#include <cstring>
#include <random>
#include <set>

namespace {

using namespace zorilla;
using desk::Background;
using desk::has;
using live::hens;
using live::Page;
using nlohmann::json;

TEST(WebServer, lets_nobody_command_who_has_no_session_or_comes_from_another_site) {
    Page page;
    auto client = page.client();
    ASSERT_TRUE(page.runs(client)) << page.log();
    const httplib::Headers none;
    const std::string say = "/api/devices/hen_house/command", on = R"({"command":"set air_on on"})";
    const auto post = [&](const httplib::Headers& headers, const std::string& body,
                          const char* type = "application/json") {
        const auto reply = client.Post(say.c_str(), headers, body, type);
        return reply ? reply->status : 0;
    };
    EXPECT_EQ(post(none, on), 403);
    const auto entered = client.Post("/api/session", "{}", "application/json");
    ASSERT_TRUE(entered && entered->status == 200);
    const std::string cookie = entered->get_header_value("Set-Cookie");
    EXPECT_TRUE(has(cookie, "HttpOnly; SameSite=Strict")) << cookie;
    const std::string token = json::parse(entered->body)["token"].get<std::string>();
    const httplib::Headers good = {{"Cookie", cookie.substr(0, cookie.find(';'))},
                                   {"X-Zorilla-Token", token}};
    auto with = [&](const char* name, const std::string& value) {
        httplib::Headers out = good;
        out.erase(name);
        out.emplace(name, value);
        return out;
    };
    EXPECT_EQ(post(with("X-Zorilla-Token", std::string(32, '0')), on), 403);
    EXPECT_EQ(post(with("Cookie", "zorilla=1"), on), 403);
    EXPECT_EQ(post(with("Origin", "http://hens.example"), on), 403);
    EXPECT_EQ(post(with("Host", "hens.example"), on), 421);
    EXPECT_EQ(post(good, on, "text/plain"), 415);
    EXPECT_EQ(post(good, std::string(5000, ' ') + on), 413);
    EXPECT_EQ(post(good, "no JSON"), 400);
    EXPECT_EQ(post(good, R"({"command":"set air_on on\nset lamp_on on"})"), 400);
    EXPECT_EQ(post(good, R"({"command":"set fan on"})"), 409);
    EXPECT_EQ(post(good, R"({"command":"clear air_on now"})"), 409);
    EXPECT_EQ(post(good, R"({"command":"header"})"), 200);
    // None of these has come to the device.
    EXPECT_FALSE(has(client.Get("/api/devices/hen_house")->body, R"("is":"100 %")"));
    EXPECT_EQ(post(with("Origin", fmt::format("http://127.0.0.1:{}", page.port())), on), 200);
    EXPECT_TRUE(desk::wait_for(
        [&] { return has(client.Get("/api/devices/hen_house")->body, R"("by":"hand")"); }));
    // Twenty commands a second at most.
    int refused = 0;
    for (int i = 0; i < 40; ++i)
        refused += post(good, "no JSON") == 429 ? 1 : 0;
    EXPECT_GE(refused, 15);
    for (const char* path : {"/api/devices/hens", "/api/devices/hen_house/chart?part=fan&span=day",
                             "/api/devices/hen_house/why?part=fan", "/../etc/passwd", "/nothing"})
        EXPECT_EQ(client.Get(path)->status, 404) << path;
    EXPECT_FALSE(client.Get("/")->has_header("Access-Control-Allow-Origin"));
    EXPECT_EQ(
        desk::zorilla(fmt::format("live {} {} --page {}", hens, page.folder / "port", page.port()))
            .status,
        2);
}

TEST(WebServer, tells_numbers_to_programs) {
    Page page;
    auto client = page.client();
    ASSERT_TRUE(page.runs(client)) << page.log();
    const auto metrics = client.Get("/metrics");
    EXPECT_EQ(metrics->get_header_value("Content-Type"),
              "application/openmetrics-text; version=1.0.0; charset=utf-8");
    const std::string& text = metrics->body;
    EXPECT_EQ(text.substr(text.size() - 6), "# EOF\n");
    EXPECT_TRUE(has(text, "zorilla_reading{device=\"Hen house\",name=\"roost\",unit=\"degC\"} "));
    EXPECT_TRUE(has(text, "zorilla_healthy{device=\"Hen house\",name=\"ammonia\"} 0\n"));
    EXPECT_FALSE(has(text, "zorilla_reading{device=\"Hen house\",name=\"ammonia\""));
    EXPECT_TRUE(has(text, "# TYPE zorilla_rows counter\n"));
    const json chart =
        json::parse(client.Get("/api/devices/hen_house/chart?part=roost&span=hour")->body);
    EXPECT_EQ(chart["mean"].size(), 360U);
    EXPECT_TRUE(chart["mean"].back().is_number()) << chart["mean"].back();
    const json about = json::parse(client.Get("/api/devices")->body).front();
    EXPECT_EQ(about["settings"].front()["least"], 1.0);
    // Every line of the picture leads from a part to a part.
    std::set<std::string> names;
    for (const char* kind : {"sources", "decisions", "machines", "outputs"})
        for (const json& one : about[kind])
            names.insert(std::string(kind).substr(0, std::strlen(kind) - 1) + "." +
                         one["name"].get<std::string>());
    for (const char* kind : {"sources", "decisions", "machines"})
        for (const json& one : about[kind])
            for (const json& from : one["from"])
                EXPECT_TRUE(names.count(from.get<std::string>())) << from;
}

TEST(WebServer, charts_are_what_was_whatever_comes_when) {
    std::mt19937 random(11);
    for (int run = 0; run < 40; ++run) {
        bench::Chart chart;
        const int64_t start = 1'795'000'000'000 + static_cast<int64_t>(random() % 1'000'000);
        std::vector<std::pair<int64_t, double>> rows;
        int64_t now = start;
        for (int i = 0; i < 300; ++i) {
            const double value =
                random() % 9 == 0 ? std::nan("") : static_cast<double>(random() % 1000);
            chart.add(now, value);
            rows.emplace_back(now, value);
            now += 1 + static_cast<int64_t>(random() % (random() % 40 == 0 ? 900'000U : 20'000U));
        }
        for (size_t span = 0; span < std::size(bench::chart_spans); ++span) {
            const int64_t length = bench::chart_spans[span].piece;
            for (const bench::Chart::Piece& piece : chart.pieces(span)) {
                // Second by second what was the last row, unless a pause was too long.
                double sum = 0, weight = 0, least = 1e9, most = -1e9;
                for (size_t i = 0; i < rows.size(); ++i) {
                    const auto [at, value] = rows[i];
                    if (std::isnan(value))
                        continue;
                    const int64_t begin = piece.number * length, end = begin + length;
                    const int64_t next = i + 1 < rows.size() ? rows[i + 1].first : at;
                    const int64_t until = next - at < 600'000 ? next : at;
                    const int64_t held = std::min(until, end) - std::max(at, begin);
                    const bool begins = at >= begin && at < end;
                    if (held <= 0 && !begins)
                        continue;
                    least = std::min(least, value);
                    most = std::max(most, value);
                    const double counts =
                        static_cast<double>(std::max<int64_t>(held, 0)) + (begins ? 1 : 0);
                    sum += value * counts;
                    weight += counts;
                }
                ASSERT_NEAR(piece.weight, weight, 1e-6) << run << " " << span;
                ASSERT_NEAR(piece.sum, sum, 1e-3 * (1 + sum));
                ASSERT_EQ(piece.least, least);
                ASSERT_EQ(piece.most, most);
            }
        }
    }
}

TEST(WebServer, two_devices_are_watched_at_once_and_kept_in_one_history) {
    const desk::Folder folder;
    const Background hens_device(folder,
                                 fmt::format("device {} --in {} --pass 5s --pace 20 --link {}",
                                             hens, live::hens_world, folder / "a"),
                                 "a.log");
    const Background box_device(folder,
                                fmt::format("device {} --trace {} --pace 20 --link {}", live::box,
                                            live::dough, folder / "b"),
                                "b.log");
    ASSERT_TRUE(desk::is_there(folder / "a") && desk::is_there(folder / "b"));
    const std::string both =
        fmt::format("live {} {} {} {}", hens, folder / "a", live::box, folder / "b");
    const desk::Outcome out =
        desk::zorilla(fmt::format("{} --for '2 s' --history {}", both, folder / "both.db"));
    EXPECT_EQ(out.status, 0) << out.err;
    EXPECT_TRUE(has(out.out, "Hen house in all") && has(out.out, "Proofing box in all")) << out.out;
    EXPECT_TRUE(has(out.out, "Proofing box   0d 00:00:00  air ")) << out.out;
    const desk::Outcome kept = desk::zorilla("history " + folder / "both.db");
    EXPECT_TRUE(has(kept.out, "Hen house") && has(kept.out, "Proofing box"))
        << kept.out << kept.err;
    EXPECT_TRUE(has(desk::zorilla(both + " --save x").err, "--save: is of one device"));
    EXPECT_TRUE(has(desk::zorilla(fmt::format("live {0} {1} {0} {1}", hens, folder / "a")).err,
                    "there is a \"Hen house\" already"));
    EXPECT_TRUE(has(desk::zorilla(fmt::format("live {0} {1} {0}", hens, folder / "a")).err,
                    "say which port it is at"));
}

} // namespace
