// SPDX-License-Identifier: MIT
// Measures what each block costs in a firmware: builds many, made of parts of the examples and of
// the file with every part, runs each on the emulated chip, and finds the costs that fit them best.
// Prints how far each example's estimate is from what was built; with FILE, writes the costs there.
//   zorilla_budget [FIRMWARES [FILE]]
#include "bench/budget/budget.hpp"
#include "bench/firmware.hpp"
#include "bench/rehearse/rehearse.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"
#include "tests/budget/chip_rig.hpp"

#include <Eigen/Dense>
#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <filesystem>
#include <future>
#include <unistd.h>

namespace {

using namespace zorilla;

/// What a firmware is of, and what its estimates are held to.
struct Kind {
    const char* says;
    double weight;  ///< devices as people build them count more
    double at_most; ///< that a figure may be off, as a share
};
constexpr Kind an_example{"the examples", 6, 0.15}, one_sensor{"one sensor alone", 3, 0.15},
    two_sensors{"two of one sensor", 3, 0.21}, at_random{"others, which are not judged", 1, 1e9},
    not_seen{"others, of which the costs know nothing", 0, 1e9};

struct MadeFirmware {
    std::string name;
    std::string text;
    const Kind* kind;
    bench::Cost cost{};
};

/// Builds it and tries it out; false if it cannot be written as C++.
bool measure(MadeFirmware& one, const std::string& folder) {
    const rig::RigFile file = rig::parse_rig(one.text);
    const bench::FirmwareFolder written = bench::firmware_folder(file.rig, "rig", one.text);
    if (!file.mistakes.empty() || !written.gaps.empty())
        return false;
    std::filesystem::create_directories(folder);
    for (const auto& [name, text] : written.files) {
        rig::OutputFile out(folder + "/" + name);
        out.write(text);
        out.commit();
    }
    const bench::Built built = bench::build_firmware(*rig::all_chips().front(), folder);
    if (!built.problem.empty() || !built.fits.empty())
        return false;
    constexpr int64_t tried = 20'000;
    const bench::Rehearsal is = bench::rehearse(
        file.rig, folder, bench::random_rows(file.rig, tried), tried, {false, {}, false});
    one.cost = {1.0 * built.flash, 1.0 * built.ram, 1.0 * is.stack,
                static_cast<double>(is.worst_cycles)};
    return true;
}

/// Costs that are not below 0 and fit best, in relative error; found one after the other.
/// \param weights  of each firmware
Eigen::VectorXd fit(const Eigen::MatrixXd& counts, const Eigen::VectorXd& is,
                    const Eigen::VectorXd& weights) {
    const Eigen::MatrixXd a = weights.cwiseQuotient(is).asDiagonal() * counts;
    const Eigen::VectorXd& b = weights;
    Eigen::MatrixXd square = a.transpose() * a;
    const Eigen::VectorXd along = a.transpose() * b;
    // Of blocks that mostly come together, none takes all.
    square.diagonal().array() += 2e-6 * square.diagonal().maxCoeff();
    Eigen::VectorXd x = Eigen::VectorXd::Zero(a.cols());
    for (int round = 0; round < 20'000; ++round)
        for (Eigen::Index i = 0; i < x.size(); ++i)
            x[i] = std::max(0.0, x[i] + (along[i] - square.row(i).dot(x)) / square(i, i));
    return x;
}

struct Column {
    const char* name;
    double bench::Cost::*value;
};
constexpr Column columns[] = {{"flash", &bench::Cost::flash},
                              {"RAM", &bench::Cost::ram},
                              {"stack", &bench::Cost::stack},
                              {"cycles", &bench::Cost::cycles}};

std::vector<MadeFirmware> examples() {
    std::vector<MadeFirmware> out;
    for (const auto& entry : std::filesystem::directory_iterator(ZORILLA_SOURCE "/examples")) {
        const std::string name = entry.path().filename();
        const std::string path = fmt::format("{}/{}.toml", entry.path().string(), name);
        if (std::filesystem::exists(path) && rig::load_rig(path).rig.chip == "atmega328p")
            out.push_back({name, rig::read_file(path), &an_example});
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
    return out;
}

/// Adds so many made at random: of the file with every part as many as of all the examples.
void add_random(std::vector<MadeFirmware>& all, size_t wanted) {
    const size_t others = all.size();
    std::vector<chip_rig::Maker> makers;
    makers.emplace_back(
        chip_rig::sections_of(rig::read_file(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 1,
        true);
    for (size_t i = 0; i < others; ++i)
        makers.emplace_back(chip_rig::sections_of(all[i].text), static_cast<uint32_t>(i + 2), true);
    for (size_t tries = 0; all.size() < others + wanted && tries < 50 * wanted; ++tries) {
        const std::string text = makers[tries % 2 == 0 ? 0 : 1 + tries / 2 % others].text();
        if (!text.empty())
            all.push_back({fmt::format("random {}", tries), text,
                           all.size() % 4 == 0 ? &not_seen : &at_random});
    }
}

/// Adds small devices of each sensor alone, as the file with every part has it and with no more
/// than it needs, and of two of it.
void add_small(std::vector<MadeFirmware>& all) {
    chip_rig::Maker maker(
        chip_rig::sections_of(rig::read_file(ZORILLA_SOURCE "/tests/desk/every_part.toml")), 1);
    const struct {
        const char *about, *part;
        bool bare, two;
    } kinds[] = {{"bare {}, relay", "relay", true, false},
                 {"bare {}, led", "led", true, false},
                 {"{}, relay", "relay", false, false},
                 {"{}, led", "led", false, false},
                 {"two {}, relay", "relay", false, true}};
    for (const chip_rig::Section& one : maker.sections())
        for (const auto& kind : kinds) {
            const std::string output =
                fmt::format("[drive.out]\npart = \"{}\"\npin = \"PB1\"\nactive = "
                            "\"high\"\nsafe = \"off\"\n",
                            kind.part);
            std::string text = one.group == "sense" ? maker.small(one, kind.bare, kind.two, output)
                                                    : std::string();
            if (!text.empty())
                all.push_back({fmt::format(fmt::runtime(kind.about), one.name), std::move(text),
                               kind.two ? &two_sensors : &one_sensor});
        }
}

/// Measures all, on two cores; what cannot be built is left out.
void measure_all(std::vector<MadeFirmware>& all) {
    const std::string folder =
        (std::filesystem::temp_directory_path() / fmt::format("zorilla-budget-{}", getpid()))
            .string();
    std::atomic<size_t> next = 0;
    const auto work = [&](int worker) {
        for (size_t i = next++; i < all.size(); i = next++)
            try {
                measure(all[i], fmt::format("{}/{}", folder, worker));
            } catch (const std::exception& error) {
                fmt::print(stderr, "{}: {}\n{}\n", all[i].name, error.what(), all[i].text);
            }
    };
    auto other = std::async(std::launch::async, work, 1);
    work(0);
    other.get();
    std::filesystem::remove_all(folder);
    all.erase(std::remove_if(all.begin(), all.end(),
                             [](const MadeFirmware& one) { return one.cost.flash == 0; }),
              all.end());
}

/// Which blocks a firmware has, and how many of each.
std::map<std::string, int> counted(const MadeFirmware& one) {
    std::map<std::string, int> out;
    for (const bench::PartBlocks& part : bench::blocks_of(rig::parse_rig(one.text).rig))
        for (const auto& [block, count] : part.blocks)
            out[block] += count;
    return out;
}

/// How far off the estimates are of firmwares that had no part in them: 95 of 100 are less.
/// \param costs  of all blocks, in the order of `count`
double spread_of(const Eigen::MatrixXd& counts, const Eigen::VectorXd& is,
                 const Eigen::VectorXd& costs, const Eigen::VectorXd& weights) {
    std::vector<double> off;
    for (Eigen::Index row = 0; row < is.size(); ++row)
        if (weights[row] == 0)
            off.push_back(std::abs(counts.row(row).dot(costs) / is[row] - 1));
    if (off.empty())
        return 1;
    std::sort(off.begin(), off.end());
    return off[std::min(off.size() - 1, off.size() * 95 / 100)];
}

/// Fits the costs of all blocks, and writes them as bench/budget/costs.cpp. \return  how many
size_t write_costs(const std::vector<MadeFirmware>& all, const std::string& path) {
    std::map<std::string, Eigen::Index>
        places; // of the first one; that of each further one is next
    for (const MadeFirmware& one : all)
        for (const auto& [block, count] : counted(one))
            places.try_emplace(block, 0);
    Eigen::Index width = 1;
    for (auto& [block, place] : places) {
        place = width;
        width += 2;
    }
    const auto rows = static_cast<Eigen::Index>(all.size());
    Eigen::MatrixXd matrix = Eigen::MatrixXd::Zero(rows, width);
    Eigen::VectorXd weights(rows);
    for (Eigen::Index row = 0; row < rows; ++row) {
        const MadeFirmware& one = all[static_cast<size_t>(row)];
        weights[row] = one.kind->weight;
        matrix(row, 0) = 1;
        for (const auto& [block, count] : counted(one)) {
            matrix(row, places[block]) = 1;
            matrix(row, places[block] + 1) = count - 1;
        }
    }
    std::vector<Eigen::VectorXd> fits;
    std::vector<double> spreads;
    for (const Column& column : columns) {
        Eigen::VectorXd is(rows);
        for (Eigen::Index row = 0; row < rows; ++row)
            is[row] = all[static_cast<size_t>(row)].cost.*column.value;
        fits.push_back(fit(matrix, is, weights));
        spreads.push_back(spread_of(matrix, is, fits.back(), weights));
    }
    const auto cost = [&fits](Eigen::Index at) {
        return fmt::format("{{{:.0f}, {:.0f}, {:.0f}, {:.0f}}}", fits[0][at], fits[1][at],
                           fits[2][at], fits[3][at]);
    };
    rig::OutputFile out(path);
    out.write("// SPDX-License-Identifier: MIT\n// Written by ./dev budget: flash, RAM, stack, "
              "cycles.\n#include \"bench/budget/budget.hpp\"\n\nnamespace zorilla::bench "
              "{\n\n// clang-format off\nconst std::vector<BlockCost> block_costs = {\n");
    out.write(fmt::format("    {{\"every firmware\", {}, {{}}}},\n", cost(0)));
    for (const auto& [block, place] : places)
        out.write(fmt::format("    {{\"{}\", {}, {}}},\n", block, cost(place), cost(place + 1)));
    out.write("};\n// clang-format on\n\n");
    out.write(
        fmt::format("const Cost within = {{{:.2f}, {:.2f}, {:.2f}, {:.2f}}};\n\n}} // namespace "
                    "zorilla::bench\n",
                    spreads[0], spreads[1], spreads[2], spreads[3]));
    out.commit();
    return places.size();
}

/// How far the estimates are from what was built. \return  whether they are as near as they are
/// to be
bool print_differences(const std::vector<MadeFirmware>& all) {
    struct Tally {
        size_t looked = 0, over = 0;
        double sum = 0, worst = 0;
    };
    std::map<const Kind*, Tally> tallies;
    fmt::print("  {:<16}", "");
    for (const Column& column : columns)
        fmt::print("{:>9}{:>9}{:>8}", column.name, "said", "off");
    for (const MadeFirmware& one : all) {
        const bench::Cost cost = bench::budget_of(rig::parse_rig(one.text).rig).all;
        if (one.kind == &an_example)
            fmt::print("\n  {:<16}", one.name);
        for (const Column& column : columns) {
            const double is = one.cost.*column.value, said = cost.*column.value;
            const double off = std::abs(said / is - 1);
            Tally& tally = tallies[one.kind];
            ++tally.looked;
            tally.over += off > 0.15 ? 1 : 0;
            tally.sum += off;
            tally.worst = std::max(tally.worst, off);
            if (one.kind == &an_example)
                fmt::print("{:>9.0f}{:>9.0f}{:>+7.1f}%", is, said, 100 * (said / is - 1));
            else if (one.kind != &at_random && one.kind != &not_seen && off > 0.15)
                fmt::print("\n  {:<24} {} {:.0f}, said {:.0f}", one.name, column.name, is, said);
        }
    }
    fmt::print("\n\n");
    bool kept = true;
    for (const Kind* kind : {&an_example, &one_sensor, &two_sensors, &at_random, &not_seen})
        if (const Tally& tally = tallies[kind]; tally.looked > 0) {
            fmt::print("  Of {} figures of {} {} are more than 15 % off, {:.1f} % on average, "
                       "{:.1f} % at most\n",
                       tally.looked, kind->says, tally.over,
                       100 * tally.sum / static_cast<double>(tally.looked), 100 * tally.worst);
            kept = kept && tally.worst <= kind->at_most;
        }
    return kept;
}

} // namespace

int main(int argc, char** argv) {
    std::vector<MadeFirmware> all = examples();
    add_random(all, argc > 1 ? std::stoul(argv[1]) : 0);
    add_small(all);
    measure_all(all);
    if (argc <= 2)
        return print_differences(all) ? 0 : 1;
    const size_t blocks = write_costs(all, argv[2]);
    fmt::print("{} firmwares measured, costs of {} blocks written to {}; build again to see how "
               "close they are\n",
               all.size(), blocks, argv[2]);
    return 0;
}
