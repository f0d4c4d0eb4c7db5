// SPDX-License-Identifier: MIT
// Gives every command that takes a file damaged ones, and looks that it ends as it should: done,
// found wanting, or refused with a word about why; never by a signal or a sanitizer's report.
// Prints how many were taken, which is what got past the first look at the file.
//   commands_fuzz SECONDS [COMMAND]
#include "tests/desk/process.hpp"

#include <fmt/format.h>

#include <chrono>
#include <cstdlib>
#include <random>
#include <string>
#include <vector>

namespace {

const std::string examples = ZORILLA_SOURCE "/examples/";

/// What a command takes, with {0} for the damaged file.
struct Tried {
    const char* name;
    std::string command; ///< the tool's, with {folder} for a place of its own
    std::vector<std::string> files;
    bool is_text = true;
};

std::vector<Tried> all() {
    const std::string hens = examples + "hen_house/hen_house.toml";
    const std::string box = examples + "proofing_box/proofing_box.toml";
    const std::vector<std::string> rigs = {hens,
                                           box,
                                           examples + "fume_hood/fume_hood.toml",
                                           examples + "dew_heater/dew_heater.toml",
                                           examples + "aquarium_light/aquarium_light.toml",
                                           examples + "pellet_feeder/pellet_feeder.toml"};
    const std::string dough = examples + "proofing_box/dough.csv";
    const std::string kitchen = examples + "proofing_box/kitchen.toml";
    return {
        {"check", "check {0} --limit '1 s'", rigs},
        {"firmware", "firmware {0} --force --out {folder}/out", rigs},
        {"firmware --build", "firmware {0} --force --build --send --out {folder}/out", rigs},
        {"move", "move {0} --board rp2040 --force --out {folder}/moved", rigs},
        {"draw", "draw {0} --wires --out {folder}/wires.svg", rigs},
        {"run", "run " + box + " --trace {0}", {dough}},
        {"live", "live " + box + " - --history {folder}/h.db < {0}", {dough}},
        {"rehearse", "rehearse " + box + " --trace {0} --for '1 s'", {dough}},
        {"world", "try " + box + " --world {0} --for '10 min' --summary", {kitchen}},
        {"faults", "faults " + box + " --world {0} --for '1 h' --lasts '20 min'", {kitchen}},
        {"history", "history {0} --promises", {"{folder}/kept.db"}, false},
        {"history --csv", "history {0} --csv {folder}/out.csv", {"{folder}/kept.db"}, false},
        {"survey", "survey {0}", {"{folder}/look.csv"}},
    };
}

class Damage {
  public:
    explicit Damage(uint32_t seed) : random_(seed) {}

    std::string of(std::string text, bool is_text) {
        for (size_t times = 1 + below(2); times > 0 && !text.empty(); --times)
            is_text ? written(text) : bytes(text);
        return text;
    }

  private:
    size_t below(size_t n) { return random_() % n; }
    void bytes(std::string& data) {
        // Behind what says which kind of file it is.
        const size_t at = 100 + below(data.size() - 100);
        data[at] = static_cast<char>(random_());
    }
    /// One digit becomes another, mostly; else something worse.
    void written(std::string& text) {
        const size_t from = below(text.size());
        const size_t line = text.rfind('\n', from) + 1;
        const size_t end = std::min(text.find('\n', from), text.size() - 1) + 1;
        const auto quoted = [&] {
            const size_t open = text.find('"', line);
            const size_t close = open == std::string::npos ? open : text.find('"', open + 1);
            if (close != std::string::npos && close < end)
                text.replace(open + 1, close - open - 1, worse[below(std::size(worse))]);
        };
        switch (below(20)) {
        case 0: text.erase(line, end - line); break;
        case 1: text.insert(line, text.substr(line, end - line)); break;
        case 2: text[from] = static_cast<char>(random_()); break;
        case 3: text.resize(from + 1); break;
        case 4: text.insert(from, 1 + below(300), "9 \"[#,"[below(6)]); break;
        case 5:
        case 6: quoted(); break;
        case 7:
            if (const size_t name = text.find("name = \""); name != std::string::npos)
                text.insert(name + 8, worse[below(std::size(worse))]);
            break;
        case 8: text.insert(line, std::string("# ") + worse[below(std::size(worse))] + "\n"); break;
        default:
            if (const size_t digit = text.find_first_of("0123456789", from);
                digit != std::string::npos)
                text[digit] = static_cast<char>('0' + below(10));
        }
    }
    static constexpr const char* worse[] = {
        "x\\\\",
        "*/ #error",
        "\\n#define on off\\n",
        "a\\\"b",
        "${HOME}",
        "%s%n",
        "<b>&amp;",
        "';--",
        "\\u0007",
        "\\u202e",
        "a name that is longer than sixty-four characters, which nobody needs",
        "Stall für Hühner",
        "a\\tb",
        "//",
        "?\?/",
        "R\\\"(",
        "]]",
        "-1",
        "1e99",
        "nan",
        "0",
        "100 %",
        "4 degC",
        "off"};
    std::mt19937 random_;
};

std::string put(std::string text, const std::string& word, const std::string& instead) {
    for (size_t at; (at = text.find(word)) != std::string::npos;)
        text.replace(at, word.size(), instead);
    return text;
}

/// \return  whether it always ended as it should
bool try_one(const Tried& one, const desk::Folder& folder, std::chrono::seconds time) {
    using Clock = std::chrono::steady_clock;
    int tried = 0, taken = 0;
    Damage damage(1);
    for (const auto end = Clock::now() + time; Clock::now() < end; ++tried) {
        const std::string whole =
            desk::read_all(put(one.files[static_cast<size_t>(tried) % one.files.size()], "{folder}",
                               folder.path().string()));
        const std::string text = damage.of(whole, one.is_text);
        const std::string path = folder.write("damaged", text);
        const desk::Outcome is =
            desk::shell("timeout 100 " + std::string(ZORILLA_TOOL) + " " +
                        put(put(one.command, "{0}", path), "{folder}", folder.path().string()));
        const bool fine = (is.status == 0 || is.status == 1 || is.status == 2) &&
                          !desk::has(is.err, "Sanitizer") && !desk::has(is.err, "runtime error") &&
                          !desk::has(is.err, "does not compile") &&
                          (is.status == 0 || !(is.out + is.err).empty());
        if (!fine) {
            const std::string kept = fmt::format(
                "{}/zorilla-damaged-{}", std::filesystem::temp_directory_path().string(), tried);
            std::filesystem::copy_file(path, kept,
                                       std::filesystem::copy_options::overwrite_existing);
            fmt::print("{}: ended with {} on {}\n{}{}\n", one.name, is.status, kept, is.out,
                       is.err);
            return false;
        }
        // A list of mistakes is all that the first look comes to.
        taken += is.status == 0 || (is.status == 1 && is.err.empty()) ? 1 : 0;
    }
    const int share = tried == 0 ? 0 : 100 * taken / tried;
    fmt::print("{:<18}{:>6} files, of which {} % were taken\n", one.name, tried, share);
    std::fflush(stdout);
    return true;
}

} // namespace

int main(int argc, char** argv) {
    const std::chrono::seconds time(argc > 1 ? std::atoi(argv[1]) : 10);
    const desk::Folder folder;
    // The emulator of the 8-bit chips keeps what it has taken until its process ends.
    folder.write("leaks.txt", "leak:libsimavr\n");
    setenv("LSAN_OPTIONS",
           fmt::format("suppressions={}:print_suppressions=0", folder / "leaks.txt").c_str(), 1);
    const std::string box = examples + "proofing_box/proofing_box";
    desk::zorilla(fmt::format("live {}.toml - --began 2026-01-01 --history {} < {}/dough.csv", box,
                              folder / "kept.db", examples + "proofing_box"));
    std::string look = "time (s),condition,ADC0 (code)\n";
    for (int i = 0; i < 400; ++i)
        look += fmt::format("{:.1f},{},{}\n", i / 10.0, i < 200 ? "dark" : "bright",
                            (i < 200 ? 200 : 700) + i * 7 % 5);
    folder.write("look.csv", look);
    bool fine = true;
    for (const Tried& one : all())
        if (argc <= 2 || one.name == std::string(argv[2]))
            fine = try_one(one, folder, time) && fine;
    return fine ? 0 : 1;
}
