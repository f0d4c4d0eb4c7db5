// SPDX-License-Identifier: MIT
/// \file
/// From a device that is watched to its history.
#pragma once

#include "bench/history/history.hpp"
#include "bench/live/watched.hpp"

#include <functional>
#include <optional>
#include <string>

namespace zorilla::bench {

/// Writes down what a watched device does. Where that fails, as on a full disk, it says so once and
/// stops; who watches goes on.
class Recorder {
  public:
    /// \param began  the UTC at which the device's clock began, if that is to be taken as right: of
    ///     what was recorded; else rows have the time at which they come
    Recorder(std::shared_ptr<HistoryFile> file, const rig::Rig& rig, const std::string& rig_text,
             std::optional<Utc> began, std::function<void(const std::string&)> complain);

    void row(const Watched& watched, Utc now);
    void event(const Event& event, Utc now);
    /// To be called now and then; keeps what is older than a second.
    void step(Utc now);
    /// Keeps all of it.
    void finish();

  private:
    template <class Do> void attempt(Do what);
    Utc time(int64_t milliseconds, Utc now) const { return began_ ? *began_ + milliseconds : now; }

    std::optional<Utc> began_;
    std::function<void(const std::string&)> complain_;
    std::unique_ptr<HistoryWriter> writer_;
    uint64_t begun_ = 0, stretches_ = 0;
    Utc committed_ = 0;
};

} // namespace zorilla::bench
