// SPDX-License-Identifier: MIT
/// \file
/// A device that is not there: a pseudo-terminal on which somebody prints readings, as a program on
/// a board does.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace zorilla::bench {

/// How the lines look.
enum class PrintedForm {
    table, ///< a header, then numbers with commas
    plain, ///< numbers with commas
    pairs, ///< name=value
};

/// What one stretch of printing holds: the time of each line in milliseconds, and its numbers.
struct Script {
    std::vector<std::string> names; ///< with units
    struct Line {
        double milliseconds;
        std::vector<std::string> values;
    };
    /// Gives the next line; false at the end.
    std::function<bool(Line&)> next;
};

/// The raw columns of a recorded file, line by line. \throws rig::InputError
Script recorded(const std::string& path);
/// A sensor that is held at a value for ever: "thermistor" (10 kohm, 3950 K, 10 kohm to the supply;
/// a temperature) or "photoresistor" (10 kohm at 10 lx, gamma 0.7, 10 kohm to ground; a light),
/// each a little off as parts are, on a 10-bit converter with noise. \param every  milliseconds
/// from line to line \throws rig::InputError  if there is no such sensor
Script held(const std::string& sensor, const std::string& value, double every);

/// A pseudo-terminal that prints whenever somebody reads it.
class StandIn {
  public:
    /// \param link  a name for it that stays the same; may be empty  \throws rig::InputError
    explicit StandIn(std::string link);
    ~StandIn();
    StandIn(const StandIn&) = delete;
    StandIn& operator=(const StandIn&) = delete;

    /// The name to read from.
    const std::string& path() const { return link_.empty() ? terminal_ : link_; }
    bool is_read();
    /// Whether the reader has changed since the last script.
    bool is_read_by_another() { return is_read() && turns_ != turn_; }
    /// Takes this reader as the one that is printed for.
    void turn_to_reader() { turn_ = turns_; }
    /// What the reader has written, without waiting.
    std::string take();
    /// Bytes for the reader; false if they left. \param stop  ends it
    bool put(const std::string& text, const std::function<bool()>& stop) {
        return write_all(text, stop);
    }
    /// Prints a script to the reader who is there, beginning a moment after they came, as a board
    /// does that starts when its port is opened. Ends with the script, when the reader leaves, or
    /// when `stop` says so. \param pace  times as fast as recorded; 0 for as fast as it is read
    /// \param with_time  whether each line begins with the device's own clock
    /// \return  how many lines were printed
    uint64_t print(Script script, PrintedForm form, double pace, bool with_time,
                   const std::function<bool()>& stop);

  private:
    bool write_all(const std::string& text, const std::function<bool()>& stop);

    std::string link_;
    std::string terminal_;
    int master_ = -1;
    int watch_ = -1;     ///< tells each time that the terminal is opened
    uint64_t turns_ = 0; ///< how often it has been opened
    uint64_t turn_ = 0;  ///< the one that is printed for
};

} // namespace zorilla::bench
