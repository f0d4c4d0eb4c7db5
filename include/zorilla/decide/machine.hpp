// SPDX-License-Identifier: MIT
/// \file
/// State machines: constant tables of transitions, checked by the compiler.
#pragma once

#include "zorilla/units/one_sentence.hpp"
#include "zorilla/units/program_memory.hpp"
#include "zorilla/units/time.hpp"
#include "zorilla/units/truth.hpp"

#include <stdint.h>

namespace zorilla {

/// One transition as the machine looks at it. States and events are numbers.
struct MachineMove {
    static constexpr uint8_t any = 0xff;

    uint8_t from = any; ///< a state, or any of them
    uint8_t to = 0;
    uint8_t when = any; ///< the event that must be yes; `any` if there is none
    uint32_t after = 0; ///< milliseconds that the state must have lasted

    constexpr bool has_event() const { return when != any; }
    constexpr bool leaves(uint8_t state) const {
        return from == state || (from == any && to != state);
    }
};

/// A transition of a machine whose states and events are enumerations.
///
///     transition(Hatch::shut, Hatch::opening).when(Event::dawn)
///     transition(Hatch::opening, Hatch::jammed).after(20_s)
///     transition_from_any(Hatch::jammed).when(Event::blocked)
///
/// With both `when` and `after`, the event counts once the state has lasted for so long.
template <class State> struct Transition {
    MachineMove move;

    template <class Event> constexpr Transition when(Event event) const {
        Transition out = *this;
        out.move.when = static_cast<uint8_t>(event);
        return out;
    }
    constexpr Transition after(Duration time) const {
        Transition out = *this;
        out.move.after = static_cast<uint32_t>(time.thousandths() < 0 ? 0 : time.thousandths());
        return out;
    }
};
template <class State> constexpr Transition<State> transition(State from, State to) {
    return {{static_cast<uint8_t>(from), static_cast<uint8_t>(to), MachineMove::any, 0}};
}
template <class State> constexpr Transition<State> transition_from_any(State to) {
    return {{MachineMove::any, static_cast<uint8_t>(to), MachineMove::any, 0}};
}

/// The truth of an event of a machine, by its name: `event<Cue::dawn>(is_dawn)`.
template <auto Name> struct EventTruth {
    static constexpr auto name = Name;
    Truth truth;
};
template <auto Name> constexpr EventTruth<Name> event(Truth truth) { return {truth}; }

/// What can be wrong with a machine's table, for the compiler and for the checker alike. All work
/// on `moves(i)`, move number i.
template <class Moves> struct MachineChecks {
    Moves moves;
    uint8_t count;
    uint8_t states;
    uint8_t start;

    /// Whether a state can be reached from the start.
    constexpr bool is_reachable(uint8_t state) const {
        bool reached[256] = {};
        reached[start] = true;
        for (bool more = true; more;) {
            more = false;
            for (uint8_t i = 0; i < count; ++i) {
                const MachineMove move = moves(i);
                bool from_there = false;
                for (uint16_t s = 0; s < states; ++s)
                    from_there = from_there || (reached[s] && move.leaves(static_cast<uint8_t>(s)));
                if (from_there && !reached[move.to]) {
                    reached[move.to] = true;
                    more = true;
                }
            }
        }
        return reached[state];
    }
    constexpr bool has_way_out(uint8_t state) const {
        for (uint8_t i = 0; i < count; ++i)
            if (moves(i).leaves(state) && moves(i).to != state)
                return true;
        return false;
    }
    /// Whether a move can never be taken, because one before it always is.
    constexpr bool is_hidden(uint8_t index) const {
        const MachineMove move = moves(index);
        for (uint8_t i = 0; i < index; ++i) {
            const MachineMove before = moves(i);
            const bool covers_from = before.from == move.from ||
                                     (before.from == MachineMove::any && before.to != move.from);
            const bool covers_event = !before.has_event() || before.when == move.when;
            if (covers_from && covers_event && before.after <= move.after)
                return true;
        }
        // A plain timer behind it that always runs out earlier.
        for (uint8_t i = static_cast<uint8_t>(index + 1); i < count; ++i) {
            const MachineMove other = moves(i);
            if (other.from == move.from && !other.has_event() && other.after < move.after)
                return true;
        }
        return false;
    }
    constexpr bool needs_no_cause(uint8_t index) const {
        return !moves(index).has_event() && moves(index).after == 0;
    }
};

/// A machine: where it starts, its transitions in their order, and the states that it may end in.
///
///     enum class Hatch : uint8_t { shut, opening, open, closing, jammed };
///     enum class Event : uint8_t { dawn, dusk, at_end, reset };
///     constexpr auto hatch = machine(Hatch::shut,
///         transition(Hatch::shut, Hatch::opening).when(Event::dawn),
///         transition(Hatch::opening, Hatch::open).when(Event::at_end),
///         transition(Hatch::opening, Hatch::jammed).after(20_s),
///         transition(Hatch::open, Hatch::closing).when(Event::dusk),
///         transition(Hatch::closing, Hatch::shut).when(Event::at_end),
///         transition(Hatch::closing, Hatch::jammed).after(20_s),
///         transition(Hatch::jammed, Hatch::closing).when(Event::reset));
///
/// In each pass at most one transition is taken: the first in the order given that leaves the
/// present state, has lasted long enough, and whose event is yes. An event that is unknown takes
/// none. What happens while a machine is in a state stands in the claims of the outputs, such as
/// `on_when(hatch.in(Hatch::opening))`; so an event may well act without a transition.
template <class State, uint8_t N> struct MachineSpec {
    State start;
    MachineMove moves[N];
    uint32_t finals = 0; ///< a bit for each state that it may end in

    static constexpr uint8_t count = N;

    /// Declares states that have no way out on purpose.
    template <class... States> constexpr MachineSpec ends_in(States... states) const {
        static_assert(detail::all_are<State, States...>, "a machine ends in states of its own");
        MachineSpec out = *this;
        ((out.finals |= uint32_t{1} << static_cast<uint8_t>(states)), ...);
        return out;
    }
    /// One more than the highest state that is named.
    constexpr uint8_t states() const {
        auto highest = static_cast<uint8_t>(start);
        for (const MachineMove& move : moves) {
            if (move.to > highest)
                highest = move.to;
            if (move.from != MachineMove::any && move.from > highest)
                highest = move.from;
        }
        return static_cast<uint8_t>(highest + 1);
    }
    constexpr uint8_t events() const {
        uint8_t out = 0;
        for (const MachineMove& move : moves)
            if (move.has_event() && move.when >= out)
                out = static_cast<uint8_t>(move.when + 1);
        return out;
    }
    /// Whether these are the events of the table, each once.
    template <auto... Names> constexpr bool has_just() const {
        uint8_t seen[256] = {};
        ((seen[static_cast<uint8_t>(Names)]++), ...);
        for (const MachineMove& move : moves)
            if (move.has_event())
                seen[move.when] |= 0x80;
        for (const uint8_t one : seen)
            if (one != 0 && one != 0x81)
                return false;
        return true;
    }
    constexpr auto checks() const {
        auto at = [this](uint8_t i) { return moves[i]; };
        return MachineChecks<decltype(at)>{at, N, states(), static_cast<uint8_t>(start)};
    }
    constexpr bool every_state_is_reachable() const {
        for (uint8_t s = 0; s < states(); ++s)
            if (!checks().is_reachable(s))
                return false;
        return true;
    }
    constexpr bool every_state_has_a_way_out() const {
        for (uint8_t s = 0; s < states(); ++s)
            if (!checks().has_way_out(s) && (finals >> s & 1) == 0)
                return false;
        return true;
    }
    constexpr bool every_transition_can_be_taken() const {
        for (uint8_t i = 0; i < N; ++i)
            if (checks().is_hidden(i))
                return false;
        return true;
    }
    /// Whether a transition waits for a time and an event too: then its state may last for long
    /// after that time. One that waits for a time alone is taken as it is over.
    constexpr bool may_stay() const {
        for (uint8_t i = 0; i < N; ++i)
            if (moves[i].after != 0 && moves[i].has_event())
                return true;
        return false;
    }
    constexpr bool every_transition_has_a_cause() const {
        for (uint8_t i = 0; i < N; ++i)
            if (checks().needs_no_cause(i))
                return false;
        return true;
    }
};

template <class State, class... Moves>
constexpr MachineSpec<State, sizeof...(Moves)> machine(State start, Moves... moves) {
    static_assert(sizeof...(moves) > 0 && sizeof...(moves) < 128, "a machine has 1 to 127 moves");
    static_assert(detail::all_are<Transition<State>, Moves...>,
                  "a machine is made of its first state and transitions between its states");
    return {start, {detail::this_or(Transition<State>{}, moves).move...}, 0};
}

namespace detail {
/// Whether a state has lasted for longer than the clock can tell; nothing where nobody asks.
template <bool> struct LongState {
    static constexpr bool is_long = false;
    constexpr void set(bool) {}
};
template <> struct LongState<true> {
    bool is_long = false;
    constexpr void set(bool value) { is_long = value; }
};
} // namespace detail

/// The memory of one machine. \tparam Stays  whether a transition may wait for its event when its
/// time is long over
template <bool Stays> class MachineStateOf : detail::LongState<Stays> {
    using Long = detail::LongState<Stays>;

  public:
    constexpr explicit MachineStateOf(uint8_t start) : state_(start) {}

    /// One pass. `now` may wrap; passes must be less than 24 days apart.
    /// \param move_at  gives a transition  \param event_at  gives the truth of an event
    template <class MoveAt, class EventAt>
    [[gnu::always_inline]] constexpr void pass(uint8_t count, MoveAt move_at, Instant now,
                                               EventAt event_at) {
        begin(now);
        for (uint8_t i = 0; i < count; ++i) {
            const MachineMove move = move_at(i);
            if (takes(move, now, move.has_event() ? event_at(move.when) : Truth::yes))
                return;
        }
    }

    /// Begins a pass, in which `takes` is then asked of one transition after the other.
    [[gnu::always_inline]] constexpr void begin(Instant now) {
        if (!running_) {
            running_ = true;
            since_ = now;
        }
        left_ = state_;
        // A clock that has gone half round would seem to have gone back: what was served stays so.
        if (Stays && !Long::is_long && now - since_ >= longest)
            Long::set(true);
    }
    /// Whether a transition is taken; then the pass is over.
    [[gnu::always_inline]] constexpr bool takes(const MachineMove& move, Instant now, Truth event) {
        if (!move.leaves(state_) || event != Truth::yes)
            return false;
        if (move.after != 0 && !Long::is_long &&
            static_cast<uint32_t>((now - since_).thousandths()) < move.after)
            return false;
        state_ = move.to;
        since_ = now;
        Long::set(false);
        return true;
    }

    constexpr uint8_t state() const { return state_; }
    /// The state before the last pass.
    constexpr uint8_t left() const { return left_; }

    static constexpr Duration longest = 24_h * 24;

  private:
    Instant since_{};
    uint8_t state_;
    uint8_t left_ = state_;
    bool running_ = false;
};
/// One that may wait, for the desk.
using MachineState = MachineStateOf<true>;

/// A machine whose table is a constant of the program. RAM: seven bytes; eight if a transition
/// waits for both an event and a time.
///
///     Machine<hatch> door;
///     door.pass(now, event<Event::dawn>(is_dawn), event<Event::dusk>(is_dusk),
///               event<Event::at_end>(at_end), event<Event::reset>(reset));
///     motor_up.drive(now, on_when(door.in(Hatch::opening)));
template <const auto& Spec, bool = detail::is_constant<Spec>> class Machine {
    using State = decltype(Spec.start);
    static_assert(Spec.states() <= 32, "a machine has at most 32 states");
    static_assert(Spec.every_state_is_reachable(), "a state cannot be reached from the start");
    static_assert(Spec.every_state_has_a_way_out(),
                  "a state has no way out; if that is meant, say so with .ends_in(...)");
    static_assert(Spec.every_transition_has_a_cause(),
                  "a transition needs .when(...) or .after(...)");
    static_assert(Spec.every_transition_can_be_taken(),
                  "a transition can never be taken: one before it is, or a timer is earlier");

  public:
    /// One pass with the truth of each event that the table names, in any order.
    template <auto... Names>
    [[gnu::always_inline]] State pass(Instant now, EventTruth<Names>... events) {
        static_assert(
            Spec.template has_just<Names...>(),
            "give the truth of every event in the machine's table once, by its name, and of no "
            "other: door.pass(now, event<Cue::dawn>(is_dawn), event<Cue::dusk>(is_dusk))");
        Truth all[Spec.events() + 1] = {};
        ((all[static_cast<uint8_t>(Names) < Spec.events() ? static_cast<uint8_t>(Names)
                                                          : Spec.events()] = events.truth),
         ...);
        if constexpr (Spec.count <= most_written_out) {
            state_.begin(now);
            try_from<0>(now, all);
        } else {
            state_.pass(
                Spec.count, [](uint8_t i) { return load(i); }, now,
                [&all](uint8_t i) { return all[i]; });
        }
        return state();
    }

    constexpr State state() const { return static_cast<State>(state_.state()); }
    /// Whether it is in a state.
    constexpr Truth in(State state) const {
        return truth_of(state_.state() == static_cast<uint8_t>(state));
    }
    /// Whether it has come into a state, or left one, in the last pass.
    constexpr Truth enters(State state) const {
        return truth_of(in(state) == Truth::yes && state_.left() != state_.state());
    }
    constexpr Truth leaves(State state) const {
        return truth_of(state_.left() == static_cast<uint8_t>(state) &&
                        state_.left() != state_.state());
    }

  private:
    /// A chip goes through a few transitions quicker, and in no more flash, one after the other.
    static constexpr uint8_t most_written_out = 8;
    template <uint8_t I>
    [[gnu::always_inline]] constexpr void try_from(Instant now, const Truth* events) {
        if constexpr (I < Spec.count) {
            constexpr MachineMove move = Spec.moves[I];
            if (!state_.takes(move, now, move.has_event() ? events[move.when] : Truth::yes))
                try_from<I + 1>(now, events);
        }
    }
    /// A transition in program memory: from and to, event, and the time in two halves.
    struct Table {
        int16_t words[4 * Spec.count];
    };
    static constexpr Table build() {
        Table out{};
        for (uint8_t i = 0; i < Spec.count; ++i) {
            const MachineMove& move = Spec.moves[i];
            out.words[4 * i] =
                static_cast<int16_t>(static_cast<uint16_t>(move.from | move.to << 8));
            out.words[4 * i + 1] = move.when;
            out.words[4 * i + 2] = static_cast<int16_t>(static_cast<uint16_t>(move.after));
            out.words[4 * i + 3] = static_cast<int16_t>(static_cast<uint16_t>(move.after >> 16));
        }
        return out;
    }
    static MachineMove load(uint8_t i) {
        ZORILLA_PROGRAM_MEMORY static constexpr Table table = build();
        const int16_t* at = table.words + 4 * i;
        const auto ends = static_cast<uint16_t>(detail::load_entry(at));
        MachineMove out;
        out.from = static_cast<uint8_t>(ends);
        out.to = static_cast<uint8_t>(ends >> 8);
        out.when = static_cast<uint8_t>(detail::load_entry(at + 1));
        out.after = static_cast<uint16_t>(detail::load_entry(at + 2)) |
                    uint32_t{static_cast<uint16_t>(detail::load_entry(at + 3))} << 16;
        return out;
    }

    MachineStateOf<Spec.may_stay()> state_{static_cast<uint8_t>(Spec.start)};
};
template <const auto& Spec> class Machine<Spec, false> : public detail::NotMade<Spec> {};

} // namespace zorilla
