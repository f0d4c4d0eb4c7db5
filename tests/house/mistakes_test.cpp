// SPDX-License-Identifier: MIT
// Mistakes in a C++ device do not compile, and the compiler's message says what is wrong. Tried
// with the compiler of this build and with clang.
#include "tests/desk/process.hpp"

#include <gtest/gtest.h>

namespace {

using desk::has;

const std::string compilers[] = {ZORILLA_CXX, ZORILLA_CLANG};

TEST(Mistakes, a_compiler_that_is_too_old_is_told_which_one_to_take) {
    const desk::Folder folder;
    const std::string source = folder.write("old.cpp", "#include <zorilla/zorilla.hpp>\n");
    for (const std::string& compiler : {std::string(ZORILLA_CXX) + " -std=c++14",
                                        std::string("avr-g++ -mmcu=atmega328p -std=gnu++1z")}) {
        const desk::Outcome out =
            desk::shell(compiler + " -fsyntax-only -I" ZORILLA_SOURCE "/include " + source);
        EXPECT_NE(out.status, 0);
        EXPECT_TRUE(has(out.err, "take clang 19 (clang++-19")) << out.err;
        EXPECT_LT(desk::lines_of(out.err), 20) << out.err;
    }
}

TEST(Headers, each_stands_alone_on_every_compiler_without_a_standard_library) {
    const std::string flags =
        " -std=c++17 -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror "
        "-fno-exceptions -fno-rtti -fsyntax-only -x c++ -I" ZORILLA_SOURCE "/include ";
    const std::string avr_clang =
        ZORILLA_CLANG " --target=avr -isystem /usr/lib/avr/include -nostdinc++ -mmcu=";
    // On the hosts, nothing of the C++ library may be in reach.
    const std::string hosts[] = {
        std::string(ZORILLA_CXX) + " -nostdinc++", std::string(ZORILLA_CLANG) + " -nostdinc++",
        "arm-none-eabi-g++ -mcpu=cortex-m0 -mthumb -nostdinc++", avr_clang + "atmega328p"};
    const auto compile = [&flags](const std::string& compiler, const std::string& text) {
        const desk::Folder folder;
        const desk::Outcome out = desk::shell(compiler + flags + folder.write("one.cpp", text));
        EXPECT_EQ(out.status, 0) << compiler << " on " << text << "\n" << out.err;
    };
    int headers = 0;
    std::string all;
    for (const auto& entry :
         std::filesystem::recursive_directory_iterator(ZORILLA_SOURCE "/include")) {
        const std::string path = entry.path().string();
        if (entry.path().extension() != ".hpp")
            continue;
        ++headers;
        const std::string text = "#include \"" + path + "\"\n";
        // A board is for its chip; a family's rooms stand alone on one of them, and each of it
        // takes all of them once.
        const auto is_of = [&path](const std::string& chip) {
            return has(path, "board/" + chip + ".hpp");
        };
        if (has(path, "/rp2040/") || is_of("rp2040")) {
            compile("arm-none-eabi-g++ -mcpu=cortex-m0plus -mthumb -nostdinc++", text);
            continue;
        }
        if (has(path, "/avr/") || is_of("atmega328p") || is_of("atmega2560") || is_of("attiny85")) {
            const std::string chip = is_of("atmega2560") ? "atmega2560"
                                     : is_of("attiny85") ? "attiny85"
                                                         : "atmega328p";
            compile(avr_clang + chip, text);
            continue;
        }
        compile(hosts[0], text);
        all += text;
    }
    // Which compiler it is makes no difference to that; each takes all of them once.
    for (const std::string& compiler : hosts)
        compile(compiler, all);
    EXPECT_GT(headers, 15);
}

} // namespace
