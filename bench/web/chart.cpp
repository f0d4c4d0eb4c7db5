// SPDX-License-Identifier: MIT
#include "bench/web/chart.hpp"

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

void Chart::put(size_t span, int64_t number, double mean, double weight, double least,
                double most) {
    std::deque<Piece>& pieces = spans_[span];
    if (pieces.empty() || pieces.back().number < number)
        pieces.push_back({number, 0, 0, least, most});
    while (pieces.front().number <= number - static_cast<int64_t>(chart_spans[span].pieces))
        pieces.pop_front();
    Piece& piece = pieces.back();
    piece.sum += mean * weight;
    piece.weight += weight;
    piece.least = std::min(piece.least, least);
    piece.most = std::max(piece.most, most);
}

void Chart::add(int64_t utc, double value) {
    // It was what it was until now; a pause of ten minutes is none of the device's.
    const bool goes_on = last_ != INT64_MIN && utc >= last_ && utc - last_ < 600'000;
    for (size_t i = 0; i < count; ++i) {
        const int64_t piece = chart_spans[i].piece;
        for (int64_t from = last_; goes_on && !std::isnan(value_) && from < utc;) {
            const int64_t to = std::min(utc, (from / piece + 1) * piece);
            put(i, from / piece, value_, static_cast<double>(to - from), value_, value_);
            from = to;
        }
        if (!std::isnan(value) && (last_ == INT64_MIN || utc >= last_))
            put(i, utc / piece, value, 1, value, value);
    }
    value_ = value;
    last_ = utc;
}

void Chart::remember(History& history, int64_t device, const std::string& part, double scale,
                     int64_t utc) {
    for (size_t i = 0; i < count; ++i) {
        const ChartSpan& span = chart_spans[i];
        const int64_t step = std::max<int64_t>(span.piece, 60'000);
        const int64_t first =
            (utc - span.piece * static_cast<int64_t>(span.pieces)) / step * step + step;
        int64_t at = first;
        for (const MinuteSums& sums : history.sums(device, part, first, utc, step)) {
            if (sums.known > 0)
                for (int64_t piece = at; piece < std::min(at + step, utc); piece += span.piece)
                    put(i, piece / span.piece, sums.mean() * scale,
                        static_cast<double>(sums.known) * static_cast<double>(span.piece) /
                            static_cast<double>(step),
                        static_cast<double>(sums.least) * scale,
                        static_cast<double>(sums.most) * scale);
            at += step;
        }
    }
}

} // namespace zorilla::bench
