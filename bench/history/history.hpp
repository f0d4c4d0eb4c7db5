// SPDX-License-Identifier: MIT
/// \file
/// What devices have sent, kept in one SQLite file for years: rows for a while, then minutes;
/// events for ever.
#pragma once

#include "bench/replay.hpp"
#include "rig/model/rig.hpp"

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace SQLite {
class Database;
class Statement;
} // namespace SQLite

namespace zorilla::bench {

/// Milliseconds of UTC since 1970.
using Utc = int64_t;

/// "2026-11-20", "2026-11-20 06:30" or with seconds; nothing for anything else.
std::optional<Utc> utc_of(const std::string& text);
/// "2026-11-20 06:30:05".
std::string utc_text(Utc time);

/// A device of a history: one for each number that rig files of this name had.
struct KnownDevice {
    int64_t id = 0;
    std::string name;
    uint32_t number = 0;
    std::string rig; ///< the rig file
    Utc first = 0, last = 0;
    int64_t rows = 0, stretches = 0, events = 0;
};

/// Rows of one device that follow one another, on one run of its clock.
struct Stretch {
    int64_t id = 0;
    bool whole = false;          ///< it begins with the device's first pass
    int64_t first = 0, last = 0; ///< of the device's clock
    Utc begin = 0, end = 0;
    Utc earliest = 0, latest = 0; ///< other than these where the desk's clock was set back
    int64_t rows = 0;
};

/// Where the moments of a stretch's clock lie in UTC, by the points at which both were seen.
class ClockMap {
  public:
    explicit ClockMap(std::vector<std::pair<int64_t, Utc>> points) : points_(std::move(points)) {}
    Utc at(int64_t clock) const;
    /// The first and the last moment up to one of the clock: where the desk's clock was set back,
    /// neither need be at an end.
    std::pair<Utc, Utc> reach(int64_t to) const;

  private:
    std::vector<std::pair<int64_t, Utc>> points_; ///< in order of the clock
};

/// How a part was in a span of time, of its minutes.
struct MinuteSums {
    int64_t minutes = 0;
    int64_t known = 0;           ///< milliseconds in which it was healthy, or an output was told
    double sum = 0;              ///< of what it was, times milliseconds: thousandths
    int64_t least = 0, most = 0; ///< thousandths
    int64_t switched = 0;        ///< of an output: how often it was switched on

    double mean() const { return known > 0 ? sum / static_cast<double>(known) : 0; }
    /// Of an output, for how long it was on, in milliseconds.
    double on() const { return sum / 1000; }
};

/// A history that is looked at. Whoever writes it may go on.
class History {
  public:
    /// \throws rig::InputError  if it is not there, or is no history
    explicit History(const std::string& path);
    ~History();

    std::vector<KnownDevice> devices();
    std::vector<Stretch> stretches(int64_t device, Utc from, Utc to);
    /// The header of its rows, as a trace has it.
    static std::string header(const rig::Rig& rig);
    /// The rows of a stretch up to a moment of its clock. \param row  the clock, and the rest
    void rows(int64_t stretch, int64_t to,
              const std::function<void(int64_t, const std::string&)>& row);
    /// What came about, in order of time.
    std::vector<std::pair<Utc, Event>> events(int64_t device, Utc from, Utc to);
    /// The sums of a part over its minutes, for each span of this length (or for all in one).
    std::vector<MinuteSums> sums(int64_t device, const std::string& part, Utc from, Utc to,
                                 int64_t span);
    ClockMap clock_of(int64_t stretch);

  private:
    std::unique_ptr<SQLite::Database> db_;
};

/// A history that is written, by one process at a time.
class HistoryFile {
  public:
    /// \param keep  for how long rows are kept, in milliseconds  \throws rig::InputError  if it
    ///     cannot be written, is no history, or somebody writes it already
    HistoryFile(const std::string& path, int64_t keep);
    ~HistoryFile();
    HistoryFile(const HistoryFile&) = delete;
    HistoryFile& operator=(const HistoryFile&) = delete;

    const std::string& path() const { return path_; }
    int64_t keep() const { return keep_; }
    SQLite::Database& db() { return *db_; }
    /// From here on all belongs together, up to the next `commit`.
    void begin();
    void commit();

  private:
    std::string path_;
    int64_t keep_;
    int lock_ = -1;
    std::unique_ptr<SQLite::Database> db_;
    bool open_ = false;
};

/// Writes one device down.
class HistoryWriter {
  public:
    /// \throws rig::InputError  if it cannot be written
    HistoryWriter(std::shared_ptr<HistoryFile> file, const rig::Rig& rig,
                  const std::string& rig_text);
    ~HistoryWriter();
    HistoryWriter(const HistoryWriter&) = delete;
    HistoryWriter& operator=(const HistoryWriter&) = delete;

    /// From here on the clock runs anew. \param whole  whether that is the device's first pass
    void begin(Utc now, int64_t clock, bool whole);
    /// \param rest  the row behind its time, without its check
    void row(Utc now, int64_t clock, std::string_view rest);
    void event(Utc now, const Event& event);
    /// All of a pass was told.
    void done() { off_before_ = false; }
    /// What a part was from this pass to the next one.
    struct Pass {
        bool known;
        int64_t value; ///< thousandths of a reading; of an output 1,000 for all that is not off
        bool is_output;
    };
    void passed(Utc now, size_t part, Pass is);
    /// Keeps what came so far: to be called every second.
    void commit();
    /// The same at the end, with the minute that runs.
    void finish();

  private:
    struct Minute {
        MinuteSums sums;
        int64_t minute = -1;
        Pass is{false, 0, false};
        Utc since = 0;
        bool any = false;
    };
    void add_span(size_t part, Utc from, Utc to);
    void go_to_minute(size_t part, Utc now);
    void put_minute(size_t part);
    void thin(Utc now);
    void put_clock(int64_t clock, Utc at);

    std::shared_ptr<HistoryFile> file_;
    std::unique_ptr<SQLite::Statement> row_, event_, minute_, clock_;
    std::vector<std::string> names_; ///< sources, then outputs
    std::vector<Minute> minutes_;
    int64_t device_ = 0, stretch_ = 0;
    int64_t first_clock_ = 0, last_clock_ = 0;
    Utc first_utc_ = 0, clocked_ = 0, thinned_ = 0;
    bool off_before_ = false; ///< in the pass that comes
};

} // namespace zorilla::bench
