// SPDX-License-Identifier: MIT
// Least squares by the Levenberg-Marquardt method (J. Nocedal and S. Wright, Numerical
// Optimization, 2nd ed., section 10.3), over the logarithms of numbers that are above 0.
#include "bench/world/fit_world.hpp"
#include "bench/world/alike_rows.hpp"

#include "bench/fit/solve.hpp"
#include "bench/replay.hpp"
#include "bench/world/around.hpp"
#include "rig/text/files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

using rig::InputError;
using rig::Node;

WorldRun read_world_run(const std::string& path, const rig::Rig& rig) {
    TraceReader trace(path, columns_of(rig), [](uint64_t, const std::string&) {});
    rig::RunningRig running(rig);
    WorldRun out;
    std::optional<int64_t> first;
    while (trace.next()) {
        first = first.value_or(trace.milliseconds());
        out.milliseconds.push_back(trace.milliseconds() - *first);
        running.pass(Instant(static_cast<uint32_t>(out.milliseconds.back())), trace.raws());
        const rig::Raw* said = trace.raws() + rig.senses.size();
        std::vector<float> outputs;
        for (size_t i = 0; i < rig.drives.size(); ++i) {
            const bool told = trace.has_outputs() && said[i].bits() >= 0;
            const rig::AnyValue value =
                told ? rig::AnyValue::from_bits(static_cast<uint32_t>(said[i].bits()))
                     : running.drivens()[i].value;
            outputs.push_back(static_cast<float>(value.share(rig.drives[i].kind())) / 255.0F);
        }
        out.outputs.push_back(std::move(outputs));
        std::vector<double> read;
        for (const rig::AnyReading& reading : running.readings())
            read.push_back(reading.ok() ? reading.value_or({}).thousandths() / 1000.0
                                        : std::nan(""));
        out.read.push_back(std::move(read));
        ++out.rows;
    }
    if (out.rows < 20)
        throw InputError(
            fmt::format("{}: has too few rows to find anything from: {}", path, out.rows));
    return out;
}

namespace {

struct Number {
    std::string name;
    rig::Kind kind;
    double value;     ///< thousandths
    bool logarithmic; ///< else it may be below 0
};

constexpr const char* amounts[] = {"heat", "power", "flow", "vapour", "gas", "adds"};

} // namespace

Node* number_in_world(Node& written, const std::string& name) {
    std::vector<std::string> words;
    for (size_t at = 0; at <= name.size();) {
        const size_t dot = std::min(name.find('.', at), name.size());
        words.push_back(name.substr(at, dot - at));
        at = dot + 1;
    }
    if (words.size() < 2)
        return nullptr;
    Node* node = nullptr;
    for (const ElementKind& kind : element_kinds())
        if (Node* group = written.get(kind.word); group != nullptr && node == nullptr)
            node = group->get(words[0]);
    for (size_t i = 1; i < words.size() && node != nullptr; ++i) {
        if (node->is_list()) {
            const int place = std::atoi(words[i].c_str());
            node = place >= 1 && static_cast<size_t>(place) <= node->size()
                       ? &node->inside()[static_cast<size_t>(place) - 1]
                       : nullptr;
        } else {
            node = node->get(words[i]);
        }
    }
    if (node != nullptr && node->is_table())
        for (const char* amount : amounts)
            if (Node* is = node->get(amount))
                return is;
    return node;
}

namespace {

class WorldFitter {
  public:
    WorldFitter(const World& world, const std::string& folder, const rig::Rig& rig,
                const WorldRun& run)
        : world_(world), folder_(folder), rig_(rig), run_(run) {
        const WorldWiring wiring(world, rig);
        const WorldLife life(world, 1, world.begins);
        for (const rig::Sense& sense : rig.senses)
            if (wiring.truly(life, sense.source) &&
                rig.sources[sense.source].kind != rig::Kind::light)
                seen_.push_back(sense.source);
    }

    FittedWorld run(const std::vector<std::string>& names) {
        names.empty() ? usual() : asked(names);
        if (numbers_.empty())
            throw InputError("no sensor looks at a body of [warmth.NAME]: say what is to be found "
                             "by --find, such as --find house.leaks");
        starts();
        weights_.assign(seen_.size(), 1.0);
        VectorXd at = VectorXd::Zero(static_cast<Eigen::Index>(numbers_.size()));
        const std::vector<double> before = left(at);
        reweigh(before);
        at = solve(at);
        reweigh(left(at));
        at = solve(at);
        return tell(at, before);
    }

  private:
    void add(const std::string& name) {
        Node written = world_.written;
        const Node* node = number_in_world(written, name);
        if (node == nullptr || !node->measure())
            throw InputError(fmt::format("--find: there is no number \"{}\" in this world; write "
                                         "for example roost.capacity, or roost.loses.1",
                                         name));
        const rig::Kind kind = node->measure()->kind;
        const bool logarithmic = kind != rig::Kind::temperature && node->measure()->thousandths > 0;
        numbers_.push_back(
            {name, kind, static_cast<double>(node->measure()->thousandths), logarithmic});
    }
    void asked(const std::vector<std::string>& names) {
        for (const std::string& name : names)
            add(name);
    }
    /// Whether a sensor looks at an element.
    bool is_seen(const std::string& name) const {
        const WorldWiring wiring(world_, rig_);
        for (size_t i = 0; i < rig_.senses.size(); ++i)
            if (wiring.seen()[i].looks && !wiring.seen()[i].fixed &&
                (world_.values[wiring.seen()[i].of].name == name ||
                 (rig_.senses[i].sources > 1 && wiring.seen()[i].has_at &&
                  world_.values[wiring.seen()[i].at].name == name)))
                return true;
        return false;
    }
    void usual() {
        const Node* bodies = world_.written.get("warmth");
        for (size_t i = 0; bodies != nullptr && i < bodies->size(); ++i) {
            const std::string& name = bodies->keys()[i].text;
            if (!is_seen(name))
                continue;
            const Node& body = (*bodies)[i];
            add(name + (body.get("capacity") != nullptr ? ".capacity" : ".settles_in"));
            const Node* losses = body.get("loses");
            for (size_t k = 0; losses != nullptr && k < losses->size(); ++k)
                if ((*losses)[k].get("by") == nullptr)
                    add(fmt::format("{}.loses.{}", name, k + 1));
        }
        asked_ = numbers_.size();
    }
    /// How warm each body was at the beginning is not known better than it was read.
    void starts() {
        asked_ = numbers_.size();
        Node* bodies = start_.get("warmth");
        for (size_t i = 0; bodies != nullptr && i < bodies->size(); ++i) {
            const std::string name = bodies->keys()[i].text;
            if (!is_seen(name))
                continue;
            double first = std::nan("");
            const WorldWiring wiring(world_, rig_);
            for (size_t s = 0; s < rig_.senses.size(); ++s)
                if (wiring.seen()[s].looks && !wiring.seen()[s].fixed &&
                    world_.values[wiring.seen()[s].of].name == name)
                    for (const auto& row : run_.read)
                        if (!std::isnan(row[rig_.senses[s].source])) {
                            first = row[rig_.senses[s].source];
                            break;
                        }
            if (std::isnan(first))
                continue;
            Node& body = bodies->inside()[i];
            body.drop("start");
            Node text = Node::text(rig::exact_text(static_cast<int32_t>(std::lround(first * 1000)),
                                                   rig::Kind::temperature));
            text.understood(
                {static_cast<int32_t>(std::lround(first * 1000)), rig::Kind::temperature});
            body.add({"start", {}}, std::move(text));
            numbers_.push_back({name + ".start", rig::Kind::temperature, first * 1000, false});
        }
    }

    double number(const VectorXd& at, size_t i) const {
        const double by = at[static_cast<Eigen::Index>(i)];
        return numbers_[i].logarithmic ? numbers_[i].value * std::exp(by)
                                       : numbers_[i].value + 1000 * by;
    }
    Node with(const VectorXd& at, bool asked_only) const {
        Node written = asked_only ? world_.written : start_;
        for (size_t i = 0; i < (asked_only ? asked_ : numbers_.size()); ++i) {
            Node* node = number_in_world(written, numbers_[i].name);
            *node = Node::text(rig::exact_text(static_cast<int32_t>(std::lround(
                                                   std::clamp(number(at, i), -2.0e9, 2.0e9))),
                                               numbers_[i].kind),
                               node->place());
        }
        return written;
    }

    /// What is left between the run and the world, for each reading: 0 where nothing was read.
    std::vector<double> left(const VectorXd& at) const {
        const WorldFile file = make_world(with(at, false), folder_);
        std::vector<double> out(run_.rows * seen_.size());
        if (!file.mistakes.empty()) {
            std::fill(out.begin(), out.end(), 1e6);
            return out;
        }
        const WorldWiring wiring(*file.world, rig_);
        WorldLife life(*file.world, 1, file.world->begins);
        std::vector<double> felt(seen_.size(), std::nan(""));
        for (size_t row = 0; row < run_.rows; ++row) {
            const int64_t by = row == 0 ? 0 : run_.milliseconds[row] - run_.milliseconds[row - 1];
            if (by > 0)
                life.go_on(by);
            for (size_t i = 0; i < seen_.size(); ++i) {
                const double is = *wiring.truly(life, seen_[i]);
                const double lag = lag_of(wiring, seen_[i]);
                felt[i] =
                    lag <= 0 || std::isnan(felt[i])
                        ? is
                        : is + (felt[i] - is) * std::exp(-static_cast<double>(by) / 1000 / lag);
                const double read = run_.read[row][seen_[i]];
                out[row * seen_.size() + i] = std::isnan(read) ? 0 : felt[i] - read;
            }
            for (size_t i = 0; i < wiring.outputs().size(); ++i)
                life.set(file.world->outputs[i].value,
                         static_cast<double>(run_.outputs[row][wiring.outputs()[i]]));
        }
        return out;
    }
    double lag_of(const WorldWiring& wiring, size_t source) const {
        for (size_t i = 0; i < rig_.senses.size(); ++i)
            if (rig_.senses[i].source == source)
                return wiring.seen()[i].lag;
        return 0;
    }

    /// Readings in other units count by how far they stray themselves.
    void reweigh(const std::vector<double>& left) {
        for (size_t i = 0; i < seen_.size(); ++i) {
            double sum = 0;
            for (size_t row = 0; row < run_.rows; ++row)
                sum += left[row * seen_.size() + i] * left[row * seen_.size() + i];
            const double rms = std::sqrt(sum / static_cast<double>(run_.rows));
            weights_[i] = rms > 0 ? 1 / rms : 0;
        }
    }
    VectorXd weighted(const std::vector<double>& left) const {
        VectorXd out(static_cast<Eigen::Index>(left.size()));
        for (size_t k = 0; k < left.size(); ++k)
            out[static_cast<Eigen::Index>(k)] = left[k] * weights_[k % seen_.size()];
        return out;
    }
    MatrixXd slopes(const VectorXd& at) const {
        MatrixXd out(static_cast<Eigen::Index>(run_.rows * seen_.size()),
                     static_cast<Eigen::Index>(numbers_.size()));
        constexpr double step = 3e-3;
        for (Eigen::Index i = 0; i < at.size(); ++i) {
            VectorXd more = at, less = at;
            more[i] += step;
            less[i] -= step;
            out.col(i) = (weighted(left(more)) - weighted(left(less))) / (2 * step);
        }
        return out;
    }

    VectorXd solve(VectorXd at) const {
        double damp = 1e-3;
        VectorXd rest = weighted(left(at));
        for (int round = 0; round < 30; ++round) {
            const MatrixXd slope = slopes(at);
            const MatrixXd normal = slope.transpose() * slope;
            const VectorXd down = slope.transpose() * rest;
            bool better = false;
            for (int tries = 0; tries < 8 && !better; ++tries) {
                MatrixXd damped = normal;
                for (Eigen::Index i = 0; i < damped.rows(); ++i)
                    damped(i, i) += damp * std::max(normal(i, i), 1e-12);
                VectorXd by = pseudo_inverse(damped) * down;
                for (Eigen::Index i = 0; i < by.size(); ++i)
                    by[i] = std::clamp(by[i], -1.0, 1.0);
                const VectorXd next = at - by;
                const VectorXd then = weighted(left(next));
                better = then.squaredNorm() < rest.squaredNorm();
                const bool done = by.lpNorm<Eigen::Infinity>() < 1e-5;
                if (better) {
                    at = next;
                    rest = then;
                    damp = std::max(damp / 5, 1e-9);
                } else {
                    damp *= 5;
                }
                if (done)
                    return at;
            }
            if (!better)
                return at;
        }
        return at;
    }

    /// How alike a reading's rest is to the one before it.
    double together(const std::vector<double>& left, size_t i) const {
        double both = 0, one = 0;
        for (size_t row = 1; row < run_.rows; ++row) {
            const double a = left[(row - 1) * seen_.size() + i], b = left[row * seen_.size() + i];
            both += a * b;
            one += a * a;
        }
        return one > 0 ? both / one : 0;
    }

    FittedWorld tell(const VectorXd& at, const std::vector<double>& before) const {
        FittedWorld out;
        out.rows = run_.rows;
        out.written = with(at, true);
        const std::vector<double> rest = left(at);
        double wider = 1;
        for (size_t i = 0; i < seen_.size(); ++i) {
            FittedWorld::Left one;
            one.sensor = rig_.sources[seen_[i]].name;
            one.kind = rig_.sources[seen_[i]].kind;
            for (size_t row = 0; row < run_.rows; ++row) {
                one.rms += rest[row * seen_.size() + i] * rest[row * seen_.size() + i];
                one.rms_before += before[row * seen_.size() + i] * before[row * seen_.size() + i];
            }
            one.rms = std::sqrt(one.rms / static_cast<double>(run_.rows));
            one.rms_before = std::sqrt(one.rms_before / static_cast<double>(run_.rows));
            one.together = together(rest, i);
            // Neighbours that hang together say less than as many that do not.
            wider = std::max(wider, std::sqrt(alike_rows(run_.rows, [&](size_t row) {
                                 return rest[row * seen_.size() + i];
                             })));
            out.left.push_back(std::move(one));
        }
        const MatrixXd slope = slopes(at);
        const MatrixXd normal = slope.transpose() * slope;
        const MatrixXd inverse = pseudo_inverse(normal);
        const double free = static_cast<double>(slope.rows() - slope.cols());
        const double variance = weighted(rest).squaredNorm() / std::max(free, 1.0);
        for (size_t i = 0; i < asked_; ++i) {
            const auto k = static_cast<Eigen::Index>(i);
            FoundNumber found;
            found.name = numbers_[i].name;
            found.kind = numbers_[i].kind;
            found.before = numbers_[i].value;
            found.value = number(at, i);
            const double error = wider * std::sqrt(std::max(variance * inverse(k, k), 0.0));
            found.error = error * (numbers_[i].logarithmic ? found.value : 1000);
            // What moves nothing, or what only others together tell, is not found.
            found.told = normal(k, k) > 1e-9 && error < 0.5;
            out.found.push_back(std::move(found));
        }
        return out;
    }

    const World& world_;
    const std::string& folder_;
    const rig::Rig& rig_;
    const WorldRun& run_;
    Node start_ = world_.written;
    std::vector<size_t> seen_; ///< sources
    std::vector<double> weights_;
    std::vector<Number> numbers_;
    size_t asked_ = 0;
};

} // namespace

FittedWorld fit_world(const World& world, const std::string& folder, const rig::Rig& rig,
                      const WorldRun& run, const std::vector<std::string>& names) {
    return WorldFitter(world, folder, rig, run).run(names);
}

} // namespace zorilla::bench
