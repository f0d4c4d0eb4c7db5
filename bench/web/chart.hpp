// SPDX-License-Identifier: MIT
/// \file
/// What a part has been over the last hour, day and week, in pieces of time.
#pragma once

#include "bench/history/history.hpp"

#include <cstdint>
#include <deque>
#include <string_view>

namespace zorilla::bench {

/// A span of time that is drawn, and how long its pieces are, in milliseconds.
struct ChartSpan {
    std::string_view name;
    int64_t piece;
    size_t pieces;
};
inline constexpr ChartSpan chart_spans[] = {
    {"hour", 10'000, 360}, {"day", 300'000, 288}, {"week", 1'800'000, 336}};

class Chart {
  public:
    struct Piece {
        int64_t number = 0; ///< of milliseconds since 1970, divided by its length
        double sum = 0;
        double weight = 0;
        double least = 0, most = 0;
    };
    /// \param value  NaN while it is not known
    void add(int64_t utc, double value);
    /// What was before this began, of a history.
    void remember(History& history, int64_t device, const std::string& part, double scale,
                  int64_t utc);
    const std::deque<Piece>& pieces(size_t span) const { return spans_[span]; }

  private:
    static constexpr size_t count = std::size(chart_spans);
    void put(size_t span, int64_t number, double mean, double weight, double least, double most);

    std::deque<Piece> spans_[count];
    double value_ = 0;
    int64_t last_ = INT64_MIN; ///< when `value_` was added
};

} // namespace zorilla::bench
