// SPDX-License-Identifier: MIT
#include "bench/live/companion.hpp"

#include "bench/random_raws.hpp"
#include "bench/row_check.hpp"
#include "rig/prove/replay.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace zorilla::bench {

Companion::Companion(const rig::Rig& rig, Tells tells)
    : rig_(rig), tells_(std::move(tells)), raws_(rig.senses.size()), said_(rig.drives.size(), -1),
      unheard_(rig.senses.size()) {
    for (const int64_t time : rig::prove::times_of(rig))
        longest_ = std::max(longest_, time);
}

bool Companion::take(const DeviceRow& row) {
    const auto clock = static_cast<uint32_t>(row.milliseconds);
    const auto step = static_cast<int64_t>(static_cast<uint32_t>(clock - clock_));
    const auto header = std::exchange(header_, std::nullopt);
    const bool first = header && is_first_pass(row.milliseconds, *header);
    if (any() && !first && step == 0)
        return false; // said twice
    ++rows_;
    if (!any() || first) {
        begin(row, first || !row.checked);
    } else if (row.milliseconds < static_cast<int64_t>(clock_) && step > 600'000) {
        begin(row, !row.checked); // the clock has begun anew, and has not just wrapped
    } else {
        now_ += row.checked ? step : row.milliseconds - static_cast<int64_t>(clock_);
        if (row.checked)
            fill(row, step);
    }
    clock_ = clock;
    for (size_t i = 0; i < raws_.size(); ++i) {
        raws_[i] = row.raws[i];
        unheard_[i] = unheard_[i] && !row.raws[i].taken();
    }
    pass(now_, raws_.data());
    compare(row);
    tell_standing();
    return true;
}

/// A device that was not followed until now.
void Companion::begin(const DeviceRow& row, bool known) {
    const bool again = any();
    now_ = row.milliseconds;
    others_.clear();
    steps_.clear();
    first_step_.reset();
    differing_ = renewed_ = 0;
    told_differing_ = told_open_ = false;
    told_at_.reset();
    std::fill(unheard_.begin(), unheard_.end(), false);
    replaying_ = std::make_unique<Replaying>(rig_, tells_.event);
    begun_ += known ? 1 : 0;
    ++stretch_;
    whole_ = known;
    agreed_since_ = now_;
    if (again)
        tells_.notice(now_, "the device has begun anew", false);
    if (known)
        return;
    add_strangers(row);
}

void Companion::add(rig::RunningRig running) {
    // Room is made by one that the device contradicts, or that is much like the desk's own.
    if (others_.size() >= most_others)
        others_.erase(
            std::max_element(others_.begin(), others_.end(), [](const Other& a, const Other& b) {
                return std::pair(a.otherwise, a.alike) < std::pair(b.otherwise, b.alike);
            }));
    others_.push_back({std::move(running)});
}

/// Rigs that have lived through something else, each of them at random, for up to some days. Half
/// of them have been for a while in what is the first that is seen.
void Companion::add_strangers(const DeviceRow& row) {
    constexpr size_t random_passes = 200, most_same = 200;
    others_.clear();
    for (size_t i = 0; i < strangers; ++i) {
        rig::RunningRig other(rig_);
        std::vector<rig::Raw> raws(rig_.senses.size());
        std::vector<int64_t> steps(random_passes + (i % 2 == 0 ? random_() % most_same : 0));
        int64_t all = 0;
        for (size_t n = 0; n < steps.size(); ++n) {
            steps[n] =
                n < random_passes
                    ? std::llround(std::pow(10.0, 1 + static_cast<double>(random_() % 60) / 10))
                    : 100;
            all += steps[n];
        }
        // Up to the first pass that is seen.
        uint32_t at = clock_at(now_ - all).milliseconds();
        for (size_t n = 0; n < steps.size(); ++n) {
            if (n < random_passes)
                random_raws(rig_, random_, raws);
            else
                std::copy_n(row.raws.begin(), raws.size(), raws.begin());
            for (size_t s = 0; s < raws.size(); ++s)
                if (rig_.senses[s].raw == rig::RawKind::edges)
                    raws[s] = row.raws[s];
            other.pass(Instant(at), raws.data());
            at += static_cast<uint32_t>(steps[n]);
        }
        add(std::move(other));
    }
    for (size_t i = 0; i < unheard_.size(); ++i)
        unheard_[i] = rig_.senses[i].raw == rig::RawKind::frame;
}

/// A raw input as it may be a moment before or after: noise moves it by a few.
rig::Raw Companion::jittered(size_t sense, rig::Raw raw) {
    const bool moves = rig_.senses[sense].raw == rig::RawKind::code ||
                       rig_.senses[sense].raw == rig::RawKind::microseconds;
    if (!moves || raw.bits() < 0 || rig_.senses[sense].pin.empty())
        return raw;
    const int64_t most = rig_.senses[sense].raw == rig::RawKind::code ? 3 : 30;
    const int64_t by = static_cast<int64_t>(random_() % static_cast<uint32_t>(2 * most + 1)) - most;
    return rig::Raw(std::clamp<int64_t>(raw.bits() + by, 0, rig_.senses[sense].largest_raw));
}

/// Passes of which no row came: what the device has read in them is not known.
void Companion::fill(const DeviceRow& row, int64_t step) {
    // A device makes its first pass as soon as it can, and the next ones when they are due.
    if (!first_step_) {
        first_step_ = step;
        return;
    }
    const bool second = steps_.empty();
    const int64_t before_usual = second ? 0 : *std::min_element(steps_.begin(), steps_.end());
    if (steps_.size() >= 20)
        steps_.pop_front();
    steps_.push_back(step);
    const int64_t usual = *std::min_element(steps_.begin(), steps_.end());
    const auto lost_in = [usual](int64_t of) { return (of + usual / 2) / usual - 1; };
    const int64_t lost = lost_in(step);
    // Only now is it seen that too much time lay between rows that came before.
    const int64_t lost_before = !whole_  ? 0
                                : second ? (*first_step_ - 1) / usual
                                         : lost_in(before_usual);
    missed_ +=
        static_cast<uint64_t>(std::max<int64_t>(lost, 0) + std::max<int64_t>(lost_before, 0));
    if (lost <= 0 && lost_before <= 0)
        return;
    whole_ = false;
    if (lost > most_filled || lost_before > 0) {
        tells_.notice(
            now_,
            fmt::format("{} of the device's passes were not seen",
                        rig::count_to_text(static_cast<uint64_t>(std::max(lost, lost_before)))),
            false);
        ++stretch_;
        const rig::RunningRig as_before = running();
        add_strangers(row);
        add(as_before);
        return;
    }
    // Of each input, that of the row before or of the one behind; a frame may have come, or not.
    std::vector<rig::Raw> before = raws_, after(raws_.size());
    std::copy_n(row.raws.begin(), after.size(), after.begin());
    for (size_t i = 0; i < before.size(); ++i)
        if (rig_.senses[i].raw == rig::RawKind::frame) {
            before[i] = after[i] = rig::Raw();
            unheard_[i] = true;
        }
    std::vector<rig::RunningRig> supposed = suppose(before, after, lost, usual);
    for (int64_t left = lost; left > 0; --left)
        pass(now_ - left * usual, before.data());
    for (rig::RunningRig& other : supposed)
        add(std::move(other));
}

/// Rigs that have lived through passes that were not seen, with what may have been in them.
std::vector<rig::RunningRig> Companion::suppose(const std::vector<rig::Raw>& before,
                                                const std::vector<rig::Raw>& after, int64_t lost,
                                                int64_t usual) {
    std::vector<rig::RunningRig> out;
    const auto live = [&](const rig::RunningRig& from, const auto& raws_of) {
        out.push_back(from);
        for (int64_t left = lost; left > 0; --left)
            out.back().pass(clock_at(now_ - left * usual), raws_of(left));
    };
    // What was before went over to what was behind in one of them.
    const bool same = std::equal(before.begin(), before.end(), after.begin(),
                                 [](rig::Raw a, rig::Raw b) { return a.bits() == b.bits(); });
    for (size_t i = 0; i <= others_.size() && !same && out.size() < most_others / 2; ++i)
        if (i == 0 || others_[i - 1].otherwise == 0)
            for (int64_t turn = lost; turn > 0; turn -= (lost + 1) / 2)
                live(i == 0 ? running() : others_[i - 1].running,
                     [&](int64_t left) { return left > turn ? before.data() : after.data(); });
    // Or each input by itself, with its noise.
    constexpr size_t mixtures = 12;
    std::vector<rig::Raw> mixed(before.size());
    for (size_t n = 0; n < mixtures; ++n)
        live(running(), [&](int64_t) {
            for (size_t i = 0; i < mixed.size(); ++i)
                mixed[i] = jittered(i, random_() % 2 == 0 ? before[i] : after[i]);
            return mixed.data();
        });
    return out;
}

/// What a rig's own clock shows, which begins with the first row.
Instant Companion::clock_at(int64_t milliseconds) const {
    const Summary& so_far = replaying_->so_far();
    return Instant(static_cast<uint32_t>(milliseconds - (so_far.rows > 0 ? so_far.begin : now_)));
}

void Companion::pass(int64_t now, const rig::Raw* raws) {
    replaying_->pass(now, raws);
    for (Other& other : others_)
        other.running.pass(clock_at(now), raws);
}

bool Companion::agrees(const rig::RunningRig& running) const {
    for (size_t i = 0; i < said_.size(); ++i)
        if (said_[i] >= 0 && said_[i] != running.drivens()[i].value.bits())
            return false;
    return true;
}

void Companion::compare(const DeviceRow& row) {
    bool told = false;
    for (size_t i = 0; i < said_.size(); ++i) {
        said_[i] = row.raws[raws_.size() + i].bits();
        told = told || said_[i] >= 0;
    }
    compared_ += told ? 1 : 0;
    if (told) {
        const auto agreeing =
            std::find_if(others_.begin(), others_.end(),
                         [this](const Other& other) { return agrees(other.running); });
        if (!agrees(running()) && agreeing != others_.end()) {
            const rig::RunningRig was = running();
            replaying_->go_on_as(agreeing->running);
            agreeing->running = was;
            agreed_since_ = now_;
        }
        for (Other& other : others_)
            other.otherwise = agrees(other.running) ? 0 : other.otherwise + 1;
        others_.erase(std::remove_if(others_.begin(), others_.end(),
                                     [](const Other& other) { return other.otherwise > 50; }),
                      others_.end());
    }
    // None of them is it: others are tried.
    if (!whole_ && told && !agrees(running()) && differing_ % 10 == 9) {
        const rig::RunningRig own = running();
        add_strangers(row);
        add(own);
        ++renewed_;
    }
    const bool differs_now = told && !agrees(running());
    different_ += differs_now ? 1 : 0;
    differing_ = differs_now ? differing_ + 1 : 0;
    if (!differs_now)
        renewed_ = 0;
    if (differs_now || !told)
        agreed_since_ = now_;
    for (Other& other : others_)
        other.alike = shows_same(other.running) ? other.alike + 1 : 0;
    if (differs() && !told_differing_) {
        tells_.notice(now_, difference(), false);
        told_differing_ = true;
    } else if (told && differing_ == 0 && told_differing_) {
        tells_.notice(now_, "device and desk agree again", true);
        told_differing_ = false;
    }
}

std::string Companion::difference() const {
    std::string out;
    for (size_t i = 0; i < said_.size(); ++i) {
        const rig::AnyValue says = running().drivens()[i].value;
        if (said_[i] < 0 || said_[i] == says.bits())
            continue;
        const rig::ValueKind kind = rig_.drives[i].kind();
        out += fmt::format(
            "{}{} is {} on the device, and {} by the rig file", out.empty() ? "" : "; ",
            rig_.drives[i].name,
            rig::to_text(rig::AnyValue::from_bits(static_cast<uint32_t>(said_[i])), kind),
            rig::to_text(says, kind));
    }
    return "device and desk differ: " + out;
}

template <class Look> bool Companion::is_open(Look look) const {
    if (!whole_ && differing_ > 0)
        return true;
    const auto here = look(running());
    return std::any_of(others_.begin(), others_.end(),
                       [&](const Other& other) { return !(look(other.running) == here); });
}

bool Companion::is_open_drive(size_t drive) const {
    return is_open([drive](const rig::RunningRig& rig) {
        const rig::Driven& driven = rig.drivens()[drive];
        return std::tuple(driven.value.bits(), driven.cause,
                          driven.cause == Cause::claim ? driven.claim : 0);
    });
}

bool Companion::is_open_source(size_t source) const {
    const rig::Sense* sense = rig_.sense_of(source);
    if (sense != nullptr && unheard_[static_cast<size_t>(sense - rig_.senses.data())])
        return true;
    return is_open([source](const rig::RunningRig& rig) {
        const rig::AnyReading reading = rig.readings()[source];
        return std::pair(reading.health(), reading.value_or({}).thousandths());
    });
}

bool Companion::is_open_fact(size_t fact) const {
    return is_open([fact](const rig::RunningRig& rig) { return rig.truths()[fact]; });
}

bool Companion::is_open_machine(size_t machine) const {
    return is_open([machine](const rig::RunningRig& rig) { return rig.state(machine); });
}

bool Companion::shows_same(const rig::RunningRig& other) const {
    const rig::RunningRig& here = running();
    for (size_t i = 0; i < rig_.sources.size(); ++i) {
        const rig::AnyReading a = here.readings()[i], b = other.readings()[i];
        if (a.health() != b.health() ||
            a.value_or({}).thousandths() != b.value_or({}).thousandths())
            return false;
    }
    for (size_t i = 0; i < rig_.machines.size(); ++i)
        if (here.state(i) != other.state(i))
            return false;
    for (size_t i = 0; i < rig_.drives.size(); ++i) {
        const rig::Driven &a = here.drivens()[i], &b = other.drivens()[i];
        if (a.value.bits() != b.value.bits() || a.cause != b.cause)
            return false;
    }
    return here.truths() == other.truths();
}

Standing Companion::standing() const {
    if (!any())
        return Standing::waiting;
    if (whole_)
        return Standing::whole;
    const bool heard =
        std::none_of(unheard_.begin(), unheard_.end(), [](bool unheard) { return unheard; });
    const bool alike = std::all_of(others_.begin(), others_.end(),
                                   [](const Other& other) { return other.alike > 0; });
    const bool alone = others_.empty() && now_ - agreed_since_ < longest_;
    return heard && alike && !alone ? Standing::caught : Standing::open;
}

/// Once a minute at most: on a bad line it changes all the time.
void Companion::tell_standing() {
    const bool open = standing() == Standing::open;
    if (open == told_open_ || (told_at_ && now_ - *told_at_ < 60'000))
        return;
    tells_.notice(now_,
                  open ? "not all that the device has done was seen: what that leaves open is said "
                         "to be open"
                       : "caught up: every past of the device that was tried has led to the same",
                  true);
    told_open_ = open;
    told_at_ = now_;
}

} // namespace zorilla::bench
