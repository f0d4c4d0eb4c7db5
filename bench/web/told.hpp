// SPDX-License-Identifier: MIT
/// \file
/// What a browser is told of a device, as JSON (docs/live.md).
#pragma once

#include "bench/live/watched.hpp"
#include "bench/web/chart.hpp"

#include <cstdint>
#include <deque>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// What a device is: its parts and who looks at whom, as JSON that never changes.
std::string about_device(const rig::Rig& rig);

/// How a device is. Whoever has seen a version of it gets what has changed since.
class Told {
  public:
    explicit Told(const rig::Rig& rig);

    const std::string& id() const { return id_; }
    const std::string& name() const { return name_; }
    const std::string& about() const { return about_; }
    const rig::Rig& rig() const { return rig_; }
    /// Looks at it anew. \param line  what the port is doing; empty: all is well
    void look(const Watched& watched, const std::string& line, int64_t utc);
    void add(const Event& event, int64_t utc);
    /// Its charts begin with what a history has.
    void remember(History& history, int64_t utc);

    uint64_t version() const { return version_; }
    /// What has changed since a version, as an object with "id", "parts" and "events"; since 0:
    /// all.
    std::string since(uint64_t version) const;
    /// A part in a span of time, as an object; empty if there is no such part or span.
    std::string chart(std::string_view part, std::string_view span, int64_t utc) const;
    /// The question that asks for the whole why of a part; nothing if nothing is called that.
    static std::optional<Question> question(const rig::Rig& rig, const std::string& part);
    /// A reading as /metrics has it.
    struct Metric {
        std::string name;
        bool known;
        double value;
    };
    /// Of each source, then of each output; and how many rows came, and were damaged.
    const std::vector<Metric>& metrics() const { return metrics_; }
    uint64_t rows() const { return rows_; }
    uint64_t damaged() const { return damaged_; }

  private:
    struct Part {
        std::string text;
        uint64_t version = 0;
    };
    struct Happened {
        std::string text;
        uint64_t version;
    };
    void put(const std::string& name, std::string text);

    const rig::Rig& rig_;
    std::string id_, name_, about_;
    std::vector<std::pair<std::string, Part>> parts_;
    std::deque<Happened> events_;
    std::vector<Chart> charts_; ///< of each source, then of each output
    std::vector<Metric> metrics_;
    uint64_t version_ = 0, seen_rows_ = 0, number_ = 0;
    uint64_t rows_ = 0, damaged_ = 0;
    int64_t last_row_ = 0;
};

} // namespace zorilla::bench
