// SPDX-License-Identifier: MIT
/// \file
/// Numbers of a rig, tried one beside the other in the same world and the same weather.
#pragma once

#include "bench/world/trying.hpp"

#include <string>
#include <vector>

namespace zorilla::bench {

/// A number of a rig that is varied.
struct Vary {
    std::string name;  ///< "cold.release", "cool.falling.1"
    std::string group; ///< "decide"
    std::string part, key;
    size_t place = 0; ///< in a list, from 0
    bool in_list = false;
    rig::Kind kind = rig::Kind::temperature;
    int32_t from = 0, to = 0, is = 0; ///< thousandths; what it is in the file
};
/// "cold.release=4.2 degC..8 degC" \throws rig::InputError
Vary parse_vary(const std::string& text, const rig::Rig& rig);
/// Where it stands in the tables of a rig.
const rig::Node& number_of(const rig::Rig& rig, const Vary& vary);
/// The tables of a rig in which one number is another.
rig::Node with_number(rig::Node written, const Vary& vary, int32_t value);

struct TunePlan {
    AroundPlan around;
    int64_t length = 0; ///< ms
    size_t runs = 0;    ///< 0: as many as are usual
    unsigned threads = 0;
    Wished wished;
    bool has_wish = false;
    size_t output = 0; ///< whose switchings count
    enum class Least : uint8_t { knee, switchings, deviation, energy } least = Least::knee;
};

struct TunePoint {
    std::vector<int32_t> values; ///< of each that is varied
    std::string impossible;      ///< why the rig cannot be so; empty: it can
    Lived lived;
    double times_a_day = 0;
    double kwh_a_day = 0;
    std::vector<size_t> broken; ///< verdicts
    std::optional<size_t>
        holds{}; ///< in so many other weathers it keeps all too, of `Tuned::others`
    bool usable() const { return impossible.empty() && lived.kept; }
};

struct Tuned {
    static constexpr size_t others = 20; ///< other seeds in which the best and those beside it live
    std::vector<TunePoint> points;       ///< the first is the rig as it is
    std::vector<size_t> front;  ///< of which none is better in both, from few switchings to many
    std::optional<size_t> best; ///< nothing if none keeps all promises
    std::string why;            ///< of the best, one sentence
};
/// \throws rig::InputError
Tuned tune(const rig::Rig& rig, const World& world, const std::vector<Vary>& vary,
           const TunePlan& plan);

/// The point of a falling curve that bends most: the one furthest below the line between its ends,
/// both axes counted from end to end. \param x  rising
size_t knee_of(const std::vector<double>& x, const std::vector<double>& y);

/// Draws the trade of switchings against deviation, and of energy. \throws rig::InputError
void draw_trade(const std::string& path, const std::string& title, const rig::Rig& rig,
                const std::vector<Vary>& vary, const TunePlan& plan, const Tuned& tuned);

} // namespace zorilla::bench
