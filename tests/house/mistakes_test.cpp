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
    const std::string avr =
        std::string(ZORILLA_CLANG) +
        " --target=avr -mmcu=atmega328p -isystem /usr/lib/avr/include -nostdinc++";
    // On the hosts, nothing of the C++ library may be in reach.
    const std::string hosts[] = {std::string(ZORILLA_CXX) + " -nostdinc++",
                                 std::string(ZORILLA_CLANG) + " -nostdinc++",
                                 "arm-none-eabi-g++ -mcpu=cortex-m0 -mthumb -nostdinc++", avr};
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
        // A board is for its chip, a family's rooms are for each of it.
        std::vector<std::string> chips;
        for (const char* chip : {"atmega328p", "atmega2560", "attiny85"})
            if (has(path, "/avr/") || has(path, "board/" + std::string(chip)))
                chips.emplace_back(chip);
        if (has(path, "rp2040.hpp") || has(path, "/rp2040/")) {
            if (has(path, "/chips/"))
                compile(avr, text);
            compile("arm-none-eabi-g++ -mcpu=cortex-m0plus -mthumb -nostdinc++", text);
            continue;
        }
        for (const std::string& chip : chips)
            compile(std::string(ZORILLA_CLANG) + " --target=avr -mmcu=" + chip +
                        " -isystem /usr/lib/avr/include -nostdinc++",
                    text);
        if (!chips.empty())
            continue;
        compile(hosts[0], text);
        all += text;
    }
    // Which compiler it is makes no difference to that; each takes all of them once.
    for (const std::string& compiler : hosts)
        compile(compiler, all);
    EXPECT_GT(headers, 15);
}

} // namespace
