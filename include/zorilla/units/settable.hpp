// SPDX-License-Identifier: MIT
/// \file
/// Fluent setters in a line each.
///
///     constexpr RelaySpec min_on(Duration d) const { return detail::with(*this,
///     &RelaySpec::min_on_, d); }
#pragma once

namespace zorilla::detail {

/// A copy of which one member is another.
template <class Spec, class Owner, class Member, class Value>
constexpr Spec with(Spec copy, Member Owner::*member, Value value) {
    copy.*member = value;
    return copy;
}
/// The same of two members.
template <class Spec, class Owner, class Member, class Value, class Second, class SecondValue>
constexpr Spec with(Spec copy, Member Owner::*member, Value value, Second Owner::*second,
                    SecondValue second_value) {
    copy.*member = value;
    copy.*second = second_value;
    return copy;
}

} // namespace zorilla::detail
