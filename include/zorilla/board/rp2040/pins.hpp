// SPDX-License-Identifier: MIT
/// \file
/// The names of an RP2040's pins, as members of its board.
#pragma once

#include "zorilla/board/rp2040/pin.hpp"

namespace zorilla::rp2040 {

struct Pins {
    using gpio0 = RpPin<0>;
    using gpio1 = RpPin<1>;
    using gpio2 = RpPin<2>;
    using gpio3 = RpPin<3>;
    using gpio4 = RpPin<4>;
    using gpio5 = RpPin<5>;
    using gpio6 = RpPin<6>;
    using gpio7 = RpPin<7>;
    using gpio8 = RpPin<8>;
    using gpio9 = RpPin<9>;
    using gpio10 = RpPin<10>;
    using gpio11 = RpPin<11>;
    using gpio12 = RpPin<12>;
    using gpio13 = RpPin<13>;
    using gpio14 = RpPin<14>;
    using gpio15 = RpPin<15>;
    using gpio16 = RpPin<16>;
    using gpio17 = RpPin<17>;
    using gpio18 = RpPin<18>;
    using gpio19 = RpPin<19>;
    using gpio20 = RpPin<20>;
    using gpio21 = RpPin<21>;
    using gpio22 = RpPin<22>;
    using gpio23 = RpPin<23>;
    using gpio24 = RpPin<24>;
    using gpio25 = RpPin<25>;
    using gpio26 = RpPin<26>;
    using gpio27 = RpPin<27>;
    using gpio28 = RpPin<28>;
    using gpio29 = RpPin<29>;
    using adc0 = gpio26;
    using adc1 = gpio27;
    using adc2 = gpio28;
    using adc3 = gpio29;
};

} // namespace zorilla::rp2040
