// SPDX-License-Identifier: MIT
/// \file
/// From a sequence that a circuit allows to raw samples that a running rig is fed with: only what
/// happens there has been shown to happen.
#pragma once

#include "rig/prove/search.hpp"
#include "rig/run/running_rig.hpp"

#include <map>
#include <string>
#include <vector>

namespace zorilla::rig::prove {

/// The raw inputs of one pass, in milliseconds since power-up.
struct Row {
    int64_t time;
    std::vector<Raw> raws;
};

/// The truth of each fact after a pass, with those of outputs that only such lines look at.
void all_truths(const RunningRig& running, std::vector<Truth>& out);
/// The truth of a line of `never` after a pass of a running rig.
Truth truth_of_line(const RunningRig& running, const WrittenCondition& line);

/// Makes sensors say what a sequence asks for.
class Player {
  public:
    Player(const Rig& rig, const Model& model)
        : rig_(rig), model_(model), inputs_(rig.senses.size()) {}

    /// The time that sensors need before they say what they say in a pass of the sequence.
    int64_t lead(const Sequence& sequence, size_t pass);
    /// The rows of a sequence; those that only lead to the next pass stand before it.
    std::vector<Row> rows(const Sequence& sequence);
    /// Raw inputs that make a sensor say each of what it may say.
    std::vector<Raw> raws_of(size_t sense);

  private:
    /// What a sensor's pin is fed with: a raw input, or so many edges in a second.
    struct Input {
        Raw raw;
        double edges_per_second = 0;
        bool operator<(const Input& other) const {
            return raw.bits() != other.raw.bits() ? raw.bits() < other.raw.bits()
                                                  : edges_per_second < other.edges_per_second;
        }
    };
    /// What a sensor's sources look like: the number of a reading, or -1 without one.
    using Look = std::vector<int>;

    Look wanted(const Sequence& sequence, size_t pass, size_t sense) const;
    Look look_of(const Sense& sense, const AnyReading* readings) const;
    int reading_number(size_t source, AnyReading reading) const;
    const std::map<Look, Input>& inputs_of(size_t sense);
    void find_inputs(size_t sense, std::map<Look, Input>& out);
    std::vector<Input> candidates(const Sense& sense) const;
    std::vector<Input> frames(const Sense& sense) const;
    Input input_for(const Sequence& sequence, size_t pass, size_t sense);
    /// How long one input must stand after another until the sensor looks like that; nothing if it
    /// never does.
    std::optional<int64_t> settles(size_t sense, const Input* before, const Input& now,
                                   const Look& look);
    Look settled_look(size_t sense, const Input& input);
    std::vector<AnyReading> calm_sources() const;

    const Rig& rig_;
    const Model& model_;
    std::vector<std::optional<std::map<Look, Input>>> inputs_;
    std::map<std::pair<size_t, std::pair<Input, Input>>, std::optional<int64_t>> settled_;
};

/// A replay that has come to what must never be: its rows, and what each step did.
struct Shown {
    std::vector<Row> rows;
    std::vector<std::string> steps;
};

/// The times that mean something to a rig, in milliseconds.
std::vector<int64_t> times_of(const Rig& rig);

/// Lives at random: inputs that stay for a while, passes that come early and late. What has come to
/// the line is cut down to the rows that it needs; nothing if it never came, or time is over.
std::optional<std::vector<Row>> wander(const Rig& rig, size_t line, Player& player,
                                       Deadline deadline);

/// Feeds a running rig; nothing if the line stays no. For a while after the last row, all stays as
/// it is, and the rig goes on. The steps tell of what bears on the line.
std::optional<Shown> replay(const Rig& rig, const Model& model, size_t line, std::vector<Row> rows);

} // namespace zorilla::rig::prove
