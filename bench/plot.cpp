// SPDX-License-Identifier: MIT
#include "bench/plot.hpp"

#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <utility>

#include <sys/types.h>
#include <sys/wait.h>
#include <unistd.h>

namespace zorilla::bench::plot {

namespace {

using rig::InputError;

bool ends_with(const std::string& text, const std::string& end) {
    return text.size() >= end.size() &&
           text.compare(text.size() - end.size(), end.size(), end) == 0;
}

std::string temporary_pattern() {
    const char* directory = std::getenv("TMPDIR");
    return fmt::format("{}/zorilla-figure-XXXXXX", directory != nullptr ? directory : "/tmp");
}

/// A path for the shell.
std::string in_quotes(const std::string& path) {
    std::string out = "'";
    for (const char c : path)
        out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

} // namespace

namespace {

void write_script(const rig::TemporaryFile& file, const std::string& script) {
    if (::write(file.descriptor(), script.data(), script.size()) !=
        static_cast<ssize_t>(script.size()))
        throw InputError(fmt::format("{}: cannot be written; is the disk full?", file.path()));
}

/// \throws InputError  if a drawing program has not ended well, or has drawn nothing
void expect_image(int status, const std::string& image, const std::string& name,
                  const std::string& package, const rig::TemporaryFile& said) {
    if (WIFEXITED(status) && WEXITSTATUS(status) == 127)
        throw InputError(fmt::format("figures are drawn by {}, which is not installed; install the "
                                     "package {}",
                                     name, package));
    if (status != 0 || image.empty())
        throw InputError(fmt::format("{} could not draw the figure: {}", name,
                                     rig::one_line(rig::read_file(said.path()))));
}

constexpr const char* gnuplot_package = "gnuplot-nox";
constexpr const char* figure_size = "1280,800";

} // namespace

std::string output_of(const std::string& program, const std::string& script,
                      const std::string& name, const std::string& package) {
    const rig::TemporaryFile file(temporary_pattern()), said(temporary_pattern());
    write_script(file, script);
    std::FILE* pipe = popen(
        fmt::format("{} {} 2>{}", program, in_quotes(file.path()), in_quotes(said.path())).c_str(),
        "re");
    if (pipe == nullptr)
        throw InputError(fmt::format("{} could not be started", name));
    std::string image;
    char chunk[1 << 16];
    size_t got = 0;
    while ((got = std::fread(chunk, 1, sizeof chunk, pipe)) > 0)
        image.append(chunk, got);
    expect_image(pclose(pipe), image, name, package, said);
    return image;
}

std::string terminal_of(const std::string& path) {
    if (ends_with(path, ".png"))
        return fmt::format("pngcairo size {} font 'DejaVu Sans,11'", figure_size);
    if (ends_with(path, ".svg"))
        return fmt::format("svg size {} font 'DejaVu Sans,13'", figure_size);
    throw InputError(fmt::format("{}: a figure's name must end in .png or .svg", path));
}

std::string beginning(const std::string& terminal, std::string_view title) {
    return fmt::format("set terminal {}\nset encoding utf8\nset border 3 lc rgb '{}'\n"
                       "set tics nomirror out textcolor rgb '{}'\n"
                       "set grid xtics ytics lc rgb '{}' lt 1\n"
                       "set label 1000 {} at screen 0.12,0.972 left font ',15' textcolor rgb '{}' "
                       "noenhanced\n",
                       terminal, faint, ink, grid, plot::quoted(title), ink);
}

std::string quoted(std::string_view text) {
    std::string out = "'";
    for (const char c : text) {
        if (c == '\'')
            out += '\'';
        out += c == '\n' || c == '\r' ? ' ' : c;
    }
    return out + "'";
}

std::string label(int number, std::string_view text, std::string_view place) {
    return fmt::format("set label {} {} at {} font ',10' textcolor rgb '{}' noenhanced front\n",
                       number, plot::quoted(text), place, ink);
}

std::string axis_label(std::string_view axis, std::string_view text) {
    return fmt::format("set {}label {} textcolor rgb '{}' noenhanced\n", axis, plot::quoted(text),
                       ink);
}

double step_of(double span, int parts) {
    const double rough = span / parts;
    const double ten = std::pow(10, std::floor(std::log10(rough)));
    for (const double times : {1.0, 2.0, 5.0})
        if (times * ten >= rough)
            return times * ten;
    return 10 * ten;
}

void draw(const std::string& path, const std::string& script) {
    rig::OutputFile file(path);
    file.write(output_of("gnuplot -d", script, "gnuplot", gnuplot_package));
    file.commit();
}

Pen::Pen(const std::string& terminal)
    : image_(temporary_pattern()), said_(temporary_pattern()),
      pipe_(popen(
          fmt::format("exec gnuplot -d >{} 2>{}", in_quotes(image_.path()), in_quotes(said_.path()))
              .c_str(),
          "we")) {
    if (pipe_ == nullptr)
        throw InputError("gnuplot could not be started");
    // A small one, which loads its fonts as well, and is soon drawn.
    std::string small = terminal;
    const size_t at = small.find(figure_size);
    if (at != std::string::npos)
        small.replace(at, std::strlen(figure_size), "240,150");
    fmt::print(pipe_, "set terminal {}\nset output '/dev/null'\nplot [0:1] x notitle\nset output\n",
               small);
    std::fflush(pipe_); // if it is not there, that is told when it is to draw
}

Pen::~Pen() {
    if (pipe_ != nullptr)
        pclose(pipe_);
}

void Pen::draw(const std::string& path, const std::string& script) {
    rig::OutputFile file(path);
    const rig::TemporaryFile whole(temporary_pattern());
    write_script(whole, script);
    fmt::print(pipe_, "load {}\n", plot::quoted(whole.path()));
    const int status = pclose(std::exchange(pipe_, nullptr));
    const std::string image = rig::read_file(image_.path());
    expect_image(status, image, "gnuplot", gnuplot_package, said_);
    file.write(image);
    file.commit();
}

} // namespace zorilla::bench::plot
