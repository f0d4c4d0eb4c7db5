// SPDX-License-Identifier: MIT
// The decisions of a rig file: what they judge, how long, and how often.
#include "rig/decide/decides.hpp"

#include "rig/sense/part.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace zorilla::rig {

void DecideReader::decide(const Key& key, TableReader& keys) {
    Decide out;
    out.name = key.text;
    out.place = key.place;
    keys.allow({{"of",""},{"when",""},{"below",""},{"above",""},{"release",""},{"inside",""},{"outside",""},{"rising",""},{"falling",""},{"points",""},{"floor",""},{"dead_band",""},{"act_for",""},{"rest_for",""},{"tries",""},{"longest_total",""},{"reset",""},{"for_at_least",""},{"gone_for",""},{"times",""}});
    if (keys.find("when") != nullptr) {
        if (keys.find("of") != nullptr)
            keys.complain(fmt::format("{} has both \"of\", a quantity that it judges, and "
                                      "\"when\", a condition; give one of them",
                                      keys.label()));
        about_truths(keys, out);
    } else {
        about_quantity(keys, out);
    }
    if (out.has_truth()) {
        out.fact = rig_.facts.size();
        rig_.facts.push_back({Fact::Kind::decision, rig_.decides.size(), 0, out.name});
    }
    rig_.decides.push_back(std::move(out));
}

void DecideReader::about_quantity(TableReader& keys, Decide& out) {
    const auto of = keys.source("of", rig_, nullptr, "the sensor or quantity that it judges");
    out.of = of.value_or(0);
    const bool is_truth = of && rig_.sources[*of].kind == Kind::truth;
    if (is_truth)
        findings_.add(*keys.find("of"),
                      fmt::format("{0} is yes or no already: name it in a condition, such as when "
                                  "= \"{0}\", and drop \"of\"",
                                  rig_.sources[*of].name));
    if (is_truth || !of)
        return keys.ignore_the_rest();
    const Kind kind = rig_.sources[*of].kind;
    if (!rig_.sources[*of].kind_known) {
        // What is wrong with the sensor was said; here stands something that can be named.
        const bool rungs = keys.find("rising") != nullptr || keys.find("falling") != nullptr;
        out.part = keys.find("points") != nullptr ? Decide::Part::curve
                   : rungs                        ? Decide::Part::ladder
                                                  : Decide::Part::threshold;
        if (rungs)
            out.stages.resize(16);
        return keys.ignore_the_rest();
    }
    if (keys.find("points") != nullptr)
        return curve(keys, kind, out);
    const bool rising = keys.find("rising") != nullptr;
    if (rising || keys.find("falling") != nullptr)
        return ladder(keys, kind, rising, out);
    const bool inside = keys.find("inside") != nullptr;
    if (inside || keys.find("outside") != nullptr)
        window(keys, kind, inside, out);
    else
        threshold(keys, kind, out);
    timing(keys, out);
}

void DecideReader::about_truths(TableReader& keys, Decide& out) {
    out.part = Decide::Part::condition;
    out.when = scope_.condition(keys, "when");
    if (keys.find("act_for") == nullptr)
        return timing(keys, out);
    out.part = Decide::Part::attempts;
    const auto act = keys.quantity("act_for", Kind::duration, "2 s");
    const auto rest = keys.required_quantity("rest_for", Kind::duration, "5 s",
                                             "how long to rest before looking again");
    out.attempts = act_for(Duration::from_thousandths(act.value_or(1000)))
                       .rest_for(Duration::from_thousandths(rest.value_or(1000)))
                       .tries(static_cast<uint8_t>(keys.whole("tries", 1, 255).value_or(0)));
    if (const auto total = keys.quantity("longest_total", Kind::duration, "5 min"))
        out.attempts = out.attempts.longest_total(Duration::from_thousandths(*total));
    keys.expect(out.attempts.times_can_be_told(), "act_for",
                "between 1 ms and 24 d, and so must \"rest_for\" and \"longest_total\"");
    keys.expect(out.attempts.total_makes_sense(), "longest_total",
                "at \"act_for\" or more, so that there is room for one action");
    out.reset = scope_.condition(keys, "reset");
    looks_at_something_new(keys, out);
}

/// Complains about an action that would look again at what was read before it acted.
void DecideReader::looks_at_something_new(TableReader& keys, const Decide& decide) {
    std::vector<bool> seen(rig_.sources.size());
    for (const size_t fact : decide.when.condition.facts())
        find_sources(fact, seen);
    const Node* rest = keys.find("rest_for");
    for (const Sense& sense : rig_.senses) {
        bool asked = false;
        for (size_t i = 0; i < sense.sources; ++i)
            asked = asked || seen[sense.source + i];
        if (!asked || sense.every <= decide.attempts.rest() || rest == nullptr)
            continue;
        const std::string every = span_to_text(sense.every.thousandths());
        const std::string least = span_to_text(decide.attempts.rest().thousandths());
        findings_.add(*rest, fmt::format("{} looks again {} after an action, but {} is read every "
                                         "{} only: it would act on what it knew before. Make "
                                         "\"rest_for\" at least \"{}\", or \"every\" of "
                                         "[sense.{}] at most \"{}\"",
                                         keys.label(), least, sense.name, every, every, sense.name,
                                         least));
    }
}
/// The sources behind a fact, and behind those that are made of others.
void DecideReader::find_sources(size_t index, std::vector<bool>& seen) const {
    const Fact& fact = rig_.facts[index];
    if (fact.kind == Fact::Kind::switched || fact.kind == Fact::Kind::lost)
        return find_made_of(fact.of, seen);
    if (fact.kind == Fact::Kind::rises || fact.kind == Fact::Kind::falls)
        return find_sources(fact.of, seen);
    if (fact.kind != Fact::Kind::decision && fact.kind != Fact::Kind::at_least)
        return;
    const Decide& decide = rig_.decides[fact.of];
    if (decide.judges())
        return find_made_of(decide.of, seen);
    for (const size_t one : decide.when.condition.facts())
        find_sources(one, seen);
}
void DecideReader::find_made_of(size_t source, std::vector<bool>& seen) const {
    if (seen[source])
        return;
    seen[source] = true;
    for (const Derive& derive : rig_.derives)
        if (derive.source == source)
            for (const size_t of : derive.of)
                find_made_of(of, seen);
}

/// How long a truth must last, and how often it must have come.
void DecideReader::timing(TableReader& keys, Decide& out) {
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
    out.reset = scope_.condition(keys, "reset");
    if (out.reset.given() && out.times == 0)
        findings_.add(*keys.find("reset"),
                      "\"reset\" belongs to \"times\", after which it is yes until the reset; "
                      "add times = 3, or drop it");
}

/// The values of a list that a decision is made of.
std::vector<AnyQuantity> DecideReader::points(TableReader& keys, std::string_view key, Kind kind,
                                              size_t least, size_t most) {
    std::vector<AnyQuantity> out;
    for (const int32_t value : keys.quantities(key, kind, least, most,
                                               fmt::format("[\"{0}\", \"{0}\"]", example_of(kind))))
        out.push_back(AnyQuantity::from_thousandths(value));
    return out;
}

void DecideReader::window(TableReader& keys, Kind kind, bool inside, Decide& out) {
    out.part = Decide::Part::window;
    const std::string_view key = inside ? "inside" : "outside";
    if (keys.find("inside") != nullptr && keys.find("outside") != nullptr)
        keys.complain(
            fmt::format("{} has both \"inside\" and \"outside\"; give one of them", keys.label()));
    const auto ends = points(keys, key, kind, 2, 2);
    keys.require("release", "the two points where it lets go again",
                 fmt::format("[\"{0}\", \"{0}\"]", example_of(kind)));
    const auto release = points(keys, "release", kind, 2, 2);
    if (ends.size() != 2 || release.size() != 2)
        return;
    out.window = {inside, ends[0], ends[1], release[0], release[1]};
    if (!keys.expect(out.window.is_a_range(), key, "with the lower end first"))
        return;
    keys.expect(out.window.release_is_beyond(), "release",
                inside ? "further out than \"inside\", on both sides: that gap is the hysteresis"
                       : "further in than \"outside\", on both sides: that gap is the hysteresis");
    for (size_t i = 0; i < 2; ++i)
        placed_pair(*keys.find(key), *keys.find("release"), out, ends[i], release[i]);
}

void DecideReader::ladder(TableReader& keys, Kind kind, bool rising, Decide& out) {
    out.part = Decide::Part::ladder;
    const std::string_view key = rising ? "rising" : "falling";
    if (keys.find("rising") != nullptr && keys.find("falling") != nullptr)
        keys.complain(
            fmt::format("{} has both \"rising\" and \"falling\"; give one of them", keys.label()));
    const auto begins = points(keys, key, kind, 1, 16);
    const Node* node = keys.find("release");
    std::vector<AnyQuantity> releases;
    if (node == nullptr)
        keys.require("release", "where the stages let go: one point for all, or one for each",
                     fmt::format("\"{}\"", example_of(kind)));
    else if (node->is_list())
        releases = points(keys, "release", kind, begins.size(), begins.size());
    else if (const auto one = keys.quantity("release", kind, example_of(kind)))
        releases.assign(begins.size(), AnyQuantity::from_thousandths(*one));
    if (begins.empty() || releases.size() != begins.size())
        return;
    bool ordered = true, beyond = true;
    for (size_t i = 0; i < begins.size(); ++i) {
        out.stages.push_back({rising ? Side::above : Side::below, begins[i], releases[i]});
        beyond = beyond && out.stages[i].release_is_beyond();
        if (i == 0)
            continue;
        ordered = ordered && (rising ? begins[i - 1] < begins[i] : begins[i] < begins[i - 1]) &&
                  (rising ? !(releases[i] < releases[i - 1]) : !(releases[i - 1] < releases[i]));
    }
    keys.expect(ordered, key,
                "in order: each stage beyond the one before it, and none may let go "
                "before the one below it");
    keys.expect(beyond, "release",
                rising ? "below the point where the stage begins: that gap is the hysteresis"
                       : "above the point where the stage begins: that gap is the hysteresis");
    for (size_t i = 0; ordered && beyond && i < begins.size(); ++i)
        placed_pair(*keys.find(key), *node, out, begins[i], releases[i]);
}

void DecideReader::curve(TableReader& keys, Kind kind, Decide& out) {
    out.part = Decide::Part::curve;
    const std::string example = fmt::format("[[\"{}\", \"20 %\"], ...]", example_of(kind));
    const auto duty = [&](const Node& node, std::string_view key) {
        const auto share = keys.quantity_of(node, key, Kind::percentage, "20 %");
        if (share && (*share < 0 || *share > 100'000))
            findings_.add(node, "a duty must lie between 0 % and 100 %");
        return Duty(Percentage::from_thousandths(std::clamp(share.value_or(0), 0, 100'000)));
    };
    if (const auto* list = keys.list("points", 2, 16, example))
        for (const Node& node : list->inside()) {
            const auto* pair = node.as_list();
            if (pair == nullptr || pair->size() != 2) {
                findings_.add(node, fmt::format("a point of a curve is a quantity and a duty, "
                                                "such as [\"{}\", \"20 %\"]",
                                                example_of(kind)));
                continue;
            }
            const auto at = keys.quantity_of((*pair)[0], "points", kind, example_of(kind));
            const Duty share = duty((*pair)[1], "points");
            if (!at)
                continue;
            const auto point = AnyQuantity::from_thousandths(*at);
            if (!out.points.empty() && !(out.points.back().at < point))
                findings_.add((*pair)[0], "the points of a curve must go up in their "
                                             "quantity; put them in order");
            out.points.push_back({point, share});
        }
    for (const char* key : {"floor", "dead_band"})
        if (const Node* node = keys.find(key))
            (key[0] == 'f' ? out.floor : out.dead_band) = duty(*node, key);
}

void DecideReader::threshold(TableReader& keys, Kind kind, Decide& out) {
    const bool degrees = kind == Kind::temperature;
    const std::string_view above_example = degrees ? "30 degC" : example_of(kind);
    const auto below = keys.quantity("below", kind, example_of(kind));
    const auto above = keys.quantity("above", kind, above_example);
    const bool has_below = keys.find("below") != nullptr;
    const bool has_above = keys.find("above") != nullptr;
    if (has_below == has_above)
        keys.complain(fmt::format("{} needs either \"below\" or \"above\"{}; for example below "
                                  "= \"{}\"",
                                  keys.label(), has_below ? ", not both" : "", example_of(kind)));
    const auto release = keys.quantity("release", kind, example_of(kind));
    if (keys.find("release") == nullptr)
        keys.complain(fmt::format(
            "{} needs \"release\", the point where it lets go again, {} the threshold; without "
            "that gap the output would chatter. For example release = \"{}\"",
            keys.label(), has_above ? "below" : "above",
            degrees ? has_above ? "28 degC" : "6 degC" : example_of(kind)));
    if (release && (below || above) && has_below != has_above) {
        out.spec = {has_below ? Side::below : Side::above,
                    AnyQuantity::from_thousandths(below ? *below : *above),
                    AnyQuantity::from_thousandths(*release)};
        placed(keys, out, kind);
    }
}

/// Complains about a release point on the wrong side, and about points out of reach.
void DecideReader::placed(TableReader& keys, const Decide& decide, Kind kind) {
    const bool is_below = decide.spec.side == Side::below;
    const Node& threshold = *keys.find(is_below ? "below" : "above");
    const Node& release = *keys.find("release");
    const auto shown = [kind](AnyQuantity value) { return to_text(value.thousandths(), kind); };
    if (!decide.spec.release_is_beyond()) {
        const int32_t point = decide.spec.threshold.thousandths();
        // A tenth of the threshold away, or, for temperatures, two degrees.
        const int32_t gap =
            kind == Kind::temperature ? 2000 : std::max(detail::magnitude(point) / 10, 1);
        findings_.add(release,
                      fmt::format("the release point {} must lie {} the threshold {}, or it "
                                  "could never let go; for example release = \"{}\"",
                                  shown(decide.spec.release), is_below ? "above" : "below",
                                  shown(decide.spec.threshold),
                                  to_text(is_below ? point + gap : point - gap, kind)));
        return;
    }
    placed_pair(threshold, release, decide, decide.spec.threshold, decide.spec.release);
}

/// Complains about a point and its release that the sensor cannot reach or tell apart.
void DecideReader::placed_pair(const Node& point, const Node& release,
                               const Decide& decide, AnyQuantity at, AnyQuantity lets_go) {
    if (!rig_.sources[decide.of].sound)
        return;
    const bool reaches_point = reachable(point, decide.of, at);
    const bool reaches_release = reachable(release, decide.of, lets_go);
    const Sense* sense = rig_.sense_of(decide.of);
    if (!reaches_point || !reaches_release || sense == nullptr || !codes_of(*sense).known())
        return;
    const Kind kind = rig_.sources[decide.of].kind;
    const auto shown = [kind](AnyQuantity value) { return to_text(value.thousandths(), kind); };
    const int32_t counts =
        hysteresis_counts(codes_of(*sense), ThresholdSpec<AnyQuantity>{Side::below, at, lets_go});
    if (counts == 0)
        findings_.add(release,
                      fmt::format("from {} to {} is less than one count of the converter, so "
                                  "that it would make the output chatter; move the release "
                                  "point further {}",
                                  shown(at), shown(lets_go), lets_go > at ? "up" : "down"));
    else if (counts < least_hysteresis_counts)
        findings_.warn(release,
                       fmt::format("from {} to {} is only one count of the converter; unless "
                                   "the part is free of noise the output will chatter. Move "
                                   "the release point further {}",
                                   shown(at), shown(lets_go), lets_go > at ? "up" : "down"));
}

/// Whether the source can deliver the point; complains if not.
bool DecideReader::reachable(const Node& node, size_t index, AnyQuantity point) {
    const Source& source = rig_.sources[index];
    const Sense* sense = rig_.sense_of(index);
    const bool counted = sense != nullptr && codes_of(*sense).known();
    const auto shown = [&source](int32_t value) { return to_text(value, source.kind); };
    const int32_t inside = counted ? codes_of(*sense).counts_inside(point) : least_counts_inside;
    if (point.thousandths() < source.lowest || point.thousandths() > source.highest || inside < 0) {
        findings_.add(node, fmt::format("{} cannot measure {}: its range goes from {} to {}; move "
                                        "this point{}",
                                        source.name, shown(point.thousandths()),
                                        shown(source.lowest), shown(source.highest),
                                        counted ? fmt::format(", or widen \"range\" of [sense.{}]",
                                                              source.name)
                                                : std::string()));
        return false;
    }
    if (inside < least_counts_inside)
        findings_.add(node, fmt::format("{} is only {} {} of the converter from the end of "
                                        "{}'s range ({} to {}), so that noise alone would make "
                                        "it unhealthy; keep {} counts away, or widen \"range\"",
                                        shown(point.thousandths()), inside,
                                        inside == 1 ? "count" : "counts", source.name,
                                        shown(source.lowest), shown(source.highest),
                                        least_counts_inside));
    return inside >= least_counts_inside;
}

} // namespace zorilla::rig
