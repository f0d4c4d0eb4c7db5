// SPDX-License-Identifier: MIT
// Takes the pictures of the demo's page: page_pictures FOLDER.
#include "tests/live/browser.hpp"

int main(int count, char** arguments) {
    if (count != 2)
        return 2;
    const std::string folder = std::string(arguments[1]) + "/";
    const desk::Folder at;
    const int port = desk::free_port();
    const desk::Background demo(
        at, fmt::format("demo --live --page {} --out {}", port, at / "demo"), "log");
    if (!desk::wait_for([&] { return desk::has(demo.log(), "The page: "); }))
        return 1;
    live::Browser browser(1280, 1020);
    browser.go(fmt::format("http://127.0.0.1:{}/", port));
    const auto settle = [] { std::this_thread::sleep_for(std::chrono::milliseconds(1500)); };
    // Once the gas sensor is warm: five minutes of the house.
    for (int i = 0; i < 4 && !browser.sees("[data-key=\"source.ammonia\"] .is", "ppm"); ++i) {
    }
    browser.click("[data-span=week]");
    settle();
    browser.take_picture(folder + "page.png");
    return 0;
}
