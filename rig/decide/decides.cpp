// SPDX-License-Identifier: MIT
// The decisions of a rig file, and what their rooms share in reading them.
#include "rig/decide/part.hpp"

#include "rig/read/keys.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

std::vector<PartKey> with_timing_keys(std::vector<PartKey> own) {
    static const std::vector<PartKey> more = {
        {"for_at_least", "\"30 s\"", ""},
        {"gone_for", "\"2 min\"", ""},
        {"times", "3", ""},
        {"reset", "\"reset_button\"", ""},
    };
    return keys::with(std::move(own), more);
}

std::vector<AnyQuantity> DecideReader::points(std::string_view key, Kind kind, size_t least,
                                              size_t most) {
    std::vector<AnyQuantity> out;
    for (const int32_t value : keys.quantities(key, kind, least, most,
                                               fmt::format("[\"{0}\", \"{0}\"]", example_of(kind))))
        out.push_back(AnyQuantity::from_thousandths(value));
    return out;
}

void DecideReader::timing(Decide& out) {
    const auto yes = keys.quantity("for_at_least", Kind::duration, "30 s");
    const auto no = keys.quantity("gone_for", Kind::duration, "2 min");
    if (yes || no) {
        out.lasting = lasting(Duration::from_thousandths(yes.value_or(0)),
                              Duration::from_thousandths(no.value_or(0)));
        keys.expect(out.lasting->times_can_be_told(), yes ? "for_at_least" : "gone_for",
                    "between 0 and 24 d");
    }
    if (const auto times = keys.whole("times", 1, 60'000))
        out.times = static_cast<uint16_t>(*times);
    out.reset = scope.condition(keys, "reset");
    if (out.reset.given() && out.times == 0)
        scope.findings.add(*keys.find("reset"),
                           "\"reset\" belongs to \"times\", after which it is yes until the reset; "
                           "add times = 3, or drop it");
}

void DecideReader::placed(const Node& point, const Node& release, const Decide& decide,
                          AnyQuantity at, AnyQuantity lets_go) {
    const Rig& rig = scope.rig;
    if (!rig.sources[decide.of].sound)
        return;
    const bool reaches_point = reachable(point, decide.of, at);
    const bool reaches_release = reachable(release, decide.of, lets_go);
    const Sense* sense = rig.sense_of(decide.of);
    if (!reaches_point || !reaches_release || sense == nullptr || !codes_of(*sense).known())
        return;
    const Kind kind = rig.sources[decide.of].kind;
    const auto shown = [kind](AnyQuantity value) { return to_text(value.thousandths(), kind); };
    const ThresholdSpec<AnyQuantity> spec{lets_go > at ? Side::below : Side::above, at, lets_go};
    // From where it turns to where it turns back, as it is told to a person.
    const int gap =
        std::abs(code_of_point(
                     *sense, [spec](AnyQuantity q) { return spec.reached_by(q); }, at) -
                 code_of_point(
                     *sense, [spec](AnyQuantity q) { return spec.released_by(q); }, lets_go));
    if (hysteresis_counts(codes_of(*sense), spec) == 0)
        scope.findings.add(release,
                           fmt::format("from {} to {} is less than one count of the converter, so "
                                       "that it would make the output chatter; move the release "
                                       "point further {}",
                                       shown(at), shown(lets_go), lets_go > at ? "up" : "down"));
    else if (gap <= least_hysteresis_counts)
        scope.findings.warn(
            release, fmt::format("from {} to {} is a hysteresis of only {} counts; unless "
                                 "the part is free of noise the output will chatter. Move "
                                 "the release point further {}",
                                 shown(at), shown(lets_go), gap, lets_go > at ? "up" : "down"));
}

/// Whether the source can deliver the point; complains if not.
bool DecideReader::reachable(const Node& node, size_t index, AnyQuantity point) {
    const Source& source = scope.rig.sources[index];
    const Sense* sense = scope.rig.sense_of(index);
    const bool counted = sense != nullptr && codes_of(*sense).known();
    const auto shown = [&source](int32_t value) { return to_text(value, source.kind); };
    const int32_t inside = counted ? codes_of(*sense).counts_inside(point) : least_counts_inside;
    if (point.thousandths() < source.lowest || point.thousandths() > source.highest || inside < 0) {
        scope.findings.add(
            node,
            fmt::format("{} cannot measure {}: its range goes from {} to {}; move "
                        "this point{}",
                        source.name, shown(point.thousandths()), shown(source.lowest),
                        shown(source.highest),
                        counted ? fmt::format(", or widen \"range\" of [sense.{}]", source.name)
                                : std::string()));
        return false;
    }
    if (inside < least_counts_inside)
        scope.findings.add(
            node, fmt::format("{} is only {} {} of the converter from the end of "
                              "{}'s range ({} to {}), so that noise alone would make "
                              "it unhealthy; keep {} counts away, or widen \"range\"",
                              shown(point.thousandths()), inside, inside == 1 ? "count" : "counts",
                              source.name, shown(source.lowest), shown(source.highest),
                              least_counts_inside));
    return inside >= least_counts_inside;
}

namespace {

bool is_key_of_any(const std::string& word) {
    return std::any_of(decide_kinds().begin(), decide_kinds().end(), [&](const DecideKind& kind) {
        return std::any_of(kind.keys.begin(), kind.keys.end(),
                           [&](const PartKey& key) { return word == key.name; });
    });
}

/// Of those that judge a quantity, or of the others, the one whose signs the table has; if it has
/// none, the one that has most of its keys.
const DecideKind& kind_of_table(TableReader& keys, bool judges) {
    const DecideKind* last = nullptr;
    size_t most = 0;
    for (const DecideKind& kind : decide_kinds()) {
        if (kind.judges != judges)
            continue;
        for (const char* sign : kind.signs)
            if (keys.find(sign) != nullptr)
                return kind;
        for (const Key& key : keys.table().keys())
            if (!is_key_of_any(key.text) &&
                !nearest(key.text, Names(kind.signs.begin(), kind.signs.end())).empty())
                return kind; // mistyped
        const auto shared = static_cast<size_t>(
            std::count_if(kind.keys.begin(), kind.keys.end(), [&](const PartKey& key) {
                return keys.table().get(key.name) != nullptr;
            }));
        if (shared >= most) {
            most = shared;
            last = &kind;
        }
    }
    return *last;
}

/// Whether a table has a key that makes it one of a kind; of the plainest kind it needs none here.
bool has_sign(const TableReader& keys, const DecideKind& kind) {
    const DecideKind* plainest = nullptr;
    for (const DecideKind& one : decide_kinds())
        if (one.judges == kind.judges)
            plainest = &one;
    return &kind == plainest ||
           std::any_of(kind.signs.begin(), kind.signs.end(),
                       [&](const char* sign) { return keys.table().get(sign) != nullptr; });
}
void needs_sign(TableReader& keys, const DecideKind& kind) {
    const char* const sign = kind.signs.front();
    for (const PartKey& key : kind.keys)
        if (std::string_view(key.name) == sign)
            keys.complain(fmt::format(
                "{} needs {}\"{}\"{}; for example {} = {}", keys.label(),
                kind.signs.size() > 1 ? "either " : "", sign,
                kind.signs.size() > 1 ? fmt::format(" or \"{}\"", kind.signs[1]) : std::string(),
                sign, key.example));
}

/// What a decision judges; nothing if that cannot be.
std::optional<size_t> source_of(Scope& scope, TableReader& keys) {
    const auto of = keys.source("of", scope.rig, nullptr, "the sensor or quantity that it judges");
    const bool is_truth = of && scope.rig.sources[*of].kind == Kind::truth;
    if (is_truth)
        scope.findings.add(
            *keys.find("of"),
            fmt::format("{0} is yes or no already: name it in a condition, such as when "
                        "= \"{0}\", and drop \"of\"",
                        scope.rig.sources[*of].name));
    return is_truth ? std::nullopt : of;
}

void read_kind(Scope& scope, TableReader& keys, Decide& out) {
    if (keys.find("when") != nullptr && keys.find("of") != nullptr)
        keys.complain(fmt::format("{} has both \"of\", a quantity that it judges, and "
                                  "\"when\", a condition; give one of them",
                                  keys.label()));
    out.judges = keys.find("when") == nullptr;
    const DecideKind& kind = kind_of_table(keys, out.judges);
    out.word = kind.word;
    out.gives = kind.gives;
    keys.allow(kind.keys);
    if (!has_sign(keys, kind)) {
        for (const PartKey& key : kind.keys)
            keys.find(key.name);
        return needs_sign(keys, kind);
    }
    std::optional<size_t> of;
    if (out.judges) {
        of = source_of(scope, keys);
        if (!of)
            return keys.ignore_the_rest();
        out.of = *of;
    } else {
        out.when = scope.condition(keys, "when");
    }
    if (of && !scope.rig.sources[*of].kind_known) {
        // What is wrong with the sensor was said; here stands something that can be named.
        return keys.ignore_the_rest();
    }
    DecideReader reader(scope, keys);
    kind.read(reader, of ? scope.rig.sources[*of].kind : Kind::truth, out);
}

} // namespace

void read_decide(Scope& scope, const Key& key, TableReader& keys) {
    // What tells the kinds apart; the keys of its own kind follow once that is known.
    keys.allow(rig::keys::of_decide);
    for (const DecideKind& kind : decide_kinds())
        for (const char* sign : kind.signs)
            keys.allow({{sign, ""}});
    Decide out;
    out.name = key.text;
    out.place = key.place;
    read_kind(scope, keys, out);
    if (out.has_truth())
        out.fact = scope.add_fact({Fact::Kind::decision, scope.rig.decides.size(), 0, out.name});
    scope.rig.decides.push_back(std::move(out));
}

} // namespace zorilla::rig
