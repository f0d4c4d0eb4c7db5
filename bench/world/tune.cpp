// SPDX-License-Identifier: MIT
#include "bench/world/tune.hpp"

#include "bench/world/workers.hpp"
#include "rig/rig_file.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace zorilla::bench {

using rig::InputError;
using rig::Node;

namespace {

constexpr const char* groups[] = {"sense", "derive", "decide", "machine", "drive"};

const Node* number_at(const Node& written, const Vary& vary) {
    const Node* node = written.get(vary.group);
    node = node == nullptr ? nullptr : node->get(vary.part);
    node = node == nullptr ? nullptr : node->get(vary.key);
    if (node != nullptr && vary.in_list)
        node = node->is_list() && vary.place < node->size() ? &(*node)[vary.place] : nullptr;
    return node;
}

/// Values of a search for more than two: evenly over all of them (J. Halton, Numerische Mathematik
/// 2, 1960).
double halton(size_t i, size_t dimension) {
    constexpr unsigned primes[] = {2, 3, 5, 7, 11, 13};
    const unsigned base = primes[dimension % 6];
    double out = 0, share = 1;
    for (size_t n = i + 1; n > 0; n /= base) {
        share /= base;
        out += share * static_cast<double>(n % base);
    }
    return out;
}

class Tuner {
  public:
    Tuner(const rig::Rig& rig, const World& world, const std::vector<Vary>& vary,
          const TunePlan& plan)
        : rig_(rig), world_(world), vary_(vary), plan_(plan) {}

    Tuned run() {
        std::vector<int32_t> now;
        for (const Vary& one : vary_)
            now.push_back(one.is);
        add(now);
        if (vary_.size() <= 2)
            grid();
        else
            spread();
        try_new();
        if (vary_.size() > 2)
            for (int round = 0; round < 3; ++round)
                closer(round);
        choose();
        try_elsewhere();
        return std::move(out_);
    }

  private:
    void add(const std::vector<int32_t>& values) {
        if (!seen_.insert(values).second)
            return;
        out_.points.emplace_back();
        out_.points.back().values = values;
    }
    int32_t along(size_t i, double share) const {
        return rounded(vary_[i], vary_[i].from + share * (vary_[i].to - vary_[i].from));
    }
    /// As a person would write it: the last digits are not worth having.
    static int32_t rounded(const Vary& vary, double value) {
        const double span = std::abs(static_cast<double>(vary.to) - vary.from);
        double grain = 1;
        while (grain * 1000 < span)
            grain *= 10;
        return static_cast<int32_t>(std::lround(std::round(value / grain) * grain));
    }
    void grid() {
        const size_t runs = plan_.runs > 0 ? plan_.runs : vary_.size() == 1 ? 20 : 81;
        const size_t each =
            vary_.size() == 1 ? runs : static_cast<size_t>(std::sqrt(static_cast<double>(runs)));
        if (each < 2)
            throw InputError("--runs: must be at least 2 for each number that is varied");
        const size_t first = steps_of(0, each - 1),
                     second = vary_.size() == 2 ? steps_of(1, each - 1) : 0;
        for (size_t i = 0; i <= first; ++i)
            for (size_t j = 0; j <= second; ++j) {
                std::vector<int32_t> values = {
                    along(0, static_cast<double>(i) / static_cast<double>(first))};
                if (vary_.size() == 2)
                    values.push_back(
                        along(1, static_cast<double>(j) / static_cast<double>(second)));
                add(values);
            }
    }
    /// So many steps, or a few more or less, if that makes them round ones.
    size_t steps_of(size_t i, size_t steps) const {
        const double span = static_cast<double>(vary_[i].to) - vary_[i].from;
        const double rough = span / static_cast<double>(steps);
        size_t best = steps;
        double nearest = 1.7;
        for (double ten = std::pow(10, std::floor(std::log10(rough)) - 1); ten < 10 * rough;
             ten *= 10)
            for (const double times : {1.0, 2.0, 2.5, 5.0}) {
                const double step = times * ten, count = span / step;
                const double off = std::max(step / rough, rough / step);
                if (std::fabs(count - std::round(count)) < 1e-9 && off < nearest) {
                    nearest = off;
                    best = static_cast<size_t>(std::lround(count));
                }
            }
        return best;
    }
    void spread() {
        const size_t runs = plan_.runs > 0 ? plan_.runs : 96;
        for (size_t i = 0; i < runs / 2; ++i) {
            std::vector<int32_t> values;
            for (size_t d = 0; d < vary_.size(); ++d)
                values.push_back(along(d, halton(i, d)));
            add(values);
        }
    }
    /// Around the best so far, each round half as far.
    void closer(int round) {
        choose();
        if (!out_.best)
            return;
        const std::vector<int32_t> middle = out_.points[*out_.best].values;
        const size_t runs = (plan_.runs > 0 ? plan_.runs : 96) / 6;
        const double reach = 0.25 / (1 << round);
        for (size_t i = 0; i < runs; ++i) {
            std::vector<int32_t> values;
            for (size_t d = 0; d < vary_.size(); ++d) {
                const double span = static_cast<double>(vary_[d].to) - vary_[d].from;
                const double by =
                    (2 * halton(i + 1000 * static_cast<size_t>(round + 1), d) - 1) * reach * span;
                values.push_back(rounded(
                    vary_[d], std::clamp<double>(middle[d] + by, vary_[d].from, vary_[d].to)));
            }
            add(values);
        }
        try_new();
    }

    void try_new() {
        const size_t from = tried_;
        all_at_once(out_.points.size() - from, plan_.threads,
                    [&](size_t i) { try_point(out_.points[from + i]); });
        tried_ = out_.points.size();
    }
    void try_point(TunePoint& point) const {
        const rig::RigFile file = rig_with(point.values);
        if (!file.mistakes.empty()) {
            point.impossible = file.mistakes.front().text;
            return;
        }
        const WorldWiring wiring(world_, file.rig);
        point.lived = live_in_world(wiring, plan_.around, plan_.length,
                                    plan_.has_wish ? &plan_.wished : nullptr);
        const double days = static_cast<double>(plan_.length) / 86'400'000;
        point.times_a_day = static_cast<double>(point.lived.times_on[plan_.output]) / days;
        point.kwh_a_day = point.lived.joules / 3.6e6 / days;
        for (size_t i = 0; i < point.lived.verdicts.size(); ++i)
            if (point.lived.verdicts[i].broken)
                point.broken.push_back(i);
    }

    /// How the best, and those beside it, do in other weathers; another one of these is chosen
    /// where it keeps everything more often.
    void try_elsewhere() {
        if (!out_.best)
            return;
        std::set<size_t> looked = {*out_.best};
        const auto at = std::find(out_.front.begin(), out_.front.end(), *out_.best);
        if (at != out_.front.end() && at != out_.front.begin())
            looked.insert(*(at - 1));
        if (at != out_.front.end() && at + 1 != out_.front.end())
            looked.insert(*(at + 1));
        const std::vector<size_t> which(looked.begin(), looked.end());
        std::vector<char> kept(which.size() * Tuned::others);
        all_at_once(kept.size(), plan_.threads, [&](size_t i) {
            const rig::RigFile file = rig_with(out_.points[which[i / Tuned::others]].values);
            const WorldWiring wiring(world_, file.rig);
            AroundPlan around = plan_.around;
            around.seed = mixed(plan_.around.seed, i % Tuned::others + 1);
            kept[i] = live_in_world(wiring, around, plan_.length).kept ? 1 : 0;
        });
        for (size_t i = 0; i < kept.size(); ++i) {
            auto& holds = out_.points[which[i / Tuned::others]].holds;
            holds = holds.value_or(0) + static_cast<size_t>(kept[i]);
        }
        const size_t before = *out_.best;
        for (const size_t i : which)
            if (*out_.points[i].holds > *out_.points[*out_.best].holds)
                out_.best = i;
        if (*out_.best != before)
            out_.why = "of the best and those beside it, it keeps every promise in most weathers";
    }
    rig::RigFile rig_with(const std::vector<int32_t>& values) const {
        Node written = rig_.written;
        for (size_t i = 0; i < vary_.size(); ++i)
            written = with_number(std::move(written), vary_[i], values[i]);
        return rig::make_rig(std::move(written));
    }

    /// What is traded for fewer switchings.
    double cost(const TunePoint& point) const {
        return plan_.has_wish ? point.lived.deviation : point.kwh_a_day;
    }

    void choose() {
        std::vector<size_t> usable;
        for (size_t i = 0; i < out_.points.size(); ++i)
            if (out_.points[i].usable())
                usable.push_back(i);
        out_.best.reset();
        out_.front.clear();
        if (usable.empty()) {
            out_.why = "none of these keeps every promise";
            return;
        }
        const auto& points = out_.points;
        std::sort(usable.begin(), usable.end(), [&](size_t a, size_t b) {
            return std::pair(points[a].times_a_day, cost(points[a])) <
                   std::pair(points[b].times_a_day, cost(points[b]));
        });
        for (const size_t i : usable)
            if (out_.front.empty() || cost(points[i]) < cost(points[out_.front.back()]))
                out_.front.push_back(i);
        using Least = TunePlan::Least;
        if (plan_.least != Least::knee) {
            const auto key = [&](size_t i) {
                const TunePoint& point = points[i];
                return plan_.least == Least::switchings ? std::pair(point.times_a_day, cost(point))
                       : plan_.least == Least::deviation
                           ? std::pair(point.lived.deviation, point.times_a_day)
                           : std::pair(point.kwh_a_day, cost(point));
            };
            out_.best = *std::min_element(usable.begin(), usable.end(),
                                          [&](size_t a, size_t b) { return key(a) < key(b); });
            out_.why =
                fmt::format("of all {} that keep every promise, it has the least {}", usable.size(),
                            plan_.least == Least::switchings  ? "switchings"
                            : plan_.least == Least::deviation ? "deviation"
                                                              : "energy");
            return;
        }
        std::vector<double> x, y;
        for (const size_t i : out_.front) {
            x.push_back(points[i].times_a_day);
            y.push_back(cost(points[i]));
        }
        const size_t knee = knee_of(x, y);
        out_.best = out_.front[knee];
        explain(x, y, knee);
    }

    void explain(const std::vector<double>& x, const std::vector<double>& y, size_t knee) {
        const std::string unit =
            plan_.has_wish
                ? rig::stored_unit_of(rig::difference_of(rig_.sources[plan_.wished.source].kind))
                : "kWh a day";
        if (x.size() == 1)
            out_.why =
                "of all that keep every promise it has the fewest switchings, and the least of "
                "what is traded for them";
        else if (knee == 0)
            out_.why =
                fmt::format("it has the fewest switchings of all that keep every promise; from "
                            "there up to {:.1f} a day, {:.3g} {} less is gained without a bend",
                            x.back(), y.front() - y.back(), unit);
        else
            out_.why = fmt::format(
                "from {:.1f} switchings a day down to its {:.1f} costs {:.3g} {}, and "
                "the way on to {:.1f} another {:.3g}",
                x.back(), x[knee], y[knee] - y.back(), unit, x.front(), y.front() - y[knee]);
    }

    const rig::Rig& rig_;
    const World& world_;
    const std::vector<Vary>& vary_;
    const TunePlan& plan_;
    Tuned out_;
    std::set<std::vector<int32_t>> seen_;
    size_t tried_ = 0;
};

} // namespace

Vary parse_vary(const std::string& text, const rig::Rig& rig) {
    const size_t is = text.find('='), dots = text.find("..");
    const auto wrong = [&](const std::string& what) {
        return InputError(fmt::format("--vary: \"{}\": {}; write for example "
                                      "cold.release=\"4.2 degC\"..\"8 degC\"",
                                      text, what));
    };
    if (is == std::string::npos || dots == std::string::npos || dots < is)
        throw wrong("write a part and its key, and from where to where it is varied");
    Vary out;
    out.name = text.substr(0, is);
    const size_t dot = out.name.find('.');
    if (dot == std::string::npos)
        throw wrong("there is a part, but no key of it");
    out.part = out.name.substr(0, dot);
    out.key = out.name.substr(dot + 1);
    if (const size_t index = out.key.find('.'); index != std::string::npos) {
        const std::string number = out.key.substr(index + 1);
        if (number.empty() || number.find_first_not_of("0123456789") != std::string::npos ||
            number.size() > 2 || number == "0")
            throw wrong("behind the key of a list stands a place in it, from 1");
        out.in_list = true;
        out.place = static_cast<size_t>(std::stoi(number)) - 1;
        out.key = out.key.substr(0, index);
    }
    const Node* part = nullptr;
    rig::Names names;
    for (const char* group : groups)
        if (const Node* tables = rig.written.get(group); tables != nullptr)
            for (size_t i = 0; i < tables->size(); ++i) {
                names.push_back(tables->keys()[i].text);
                if (names.back() == out.part) {
                    out.group = group;
                    part = &(*tables)[i];
                }
            }
    if (part == nullptr)
        throw wrong(
            fmt::format("there is no part \"{}\"{}", out.part, rig::suggestion(out.part, names)));
    const Node* node = number_at(rig.written, out);
    if (node == nullptr) {
        rig::Names keys;
        for (const rig::Key& key : part->keys())
            keys.push_back(key.text);
        throw wrong(fmt::format("[{}.{}] has no \"{}\"{}", out.group, out.part,
                                out.name.substr(dot + 1), rig::suggestion(out.key, keys)));
    }
    if (node->is_list())
        throw wrong(fmt::format("\"{0}\" is a list: say which of it, such as {1}.{0}.1", out.key,
                                out.part));
    if (!node->measure())
        throw wrong(fmt::format("\"{}\" is no quantity", out.key));
    out.kind = node->measure()->kind;
    out.is = node->measure()->thousandths;
    const auto end = [&](const std::string& value) {
        const rig::QuantityText read =
            rig::parse_quantity(value, out.kind, rig::example_of(out.kind));
        if (!read.problem.empty())
            throw wrong(read.problem);
        return read.thousandths;
    };
    out.from = end(text.substr(is + 1, dots - is - 1));
    out.to = end(text.substr(dots + 2));
    if (out.from >= out.to)
        throw wrong("the first end is not below the second");
    return out;
}

const Node& number_of(const rig::Rig& rig, const Vary& vary) {
    return *number_at(rig.written, vary);
}

Node with_number(Node written, const Vary& vary, int32_t value) {
    Node* node = written.get(vary.group)->get(vary.part)->get(vary.key);
    if (vary.in_list)
        node = &node->inside()[vary.place];
    *node = Node::text(rig::exact_text(value, vary.kind), node->place());
    return written;
}

size_t knee_of(const std::vector<double>& x, const std::vector<double>& y) {
    size_t best = x.size() / 2;
    double furthest = -1;
    const double wide = x.back() - x.front(), high = y.front() - y.back();
    for (size_t i = 0; i < x.size(); ++i) {
        if (wide <= 0 || high <= 0)
            break;
        const double below = 1 - (x[i] - x.front()) / wide - (y[i] - y.back()) / high;
        if (below > furthest) {
            furthest = below;
            best = i;
        }
    }
    return best;
}

Tuned tune(const rig::Rig& rig, const World& world, const std::vector<Vary>& vary,
           const TunePlan& plan) {
    return Tuner(rig, world, vary, plan).run();
}

} // namespace zorilla::bench
