// SPDX-License-Identifier: MIT
/// \file
/// The names of an AVR's pins, as members of its board.
#pragma once

#include "zorilla/board/avr/pin.hpp"

namespace zorilla::avr {

#if defined(__AVR_ATmega328P__)

struct Pins {
    template <uint8_t Bit> using B = AvrPin<'B', Bit>;
    template <uint8_t Bit> using C = AvrPin<'C', Bit>;
    template <uint8_t Bit> using D = AvrPin<'D', Bit>;
    using pb0 = B<0>;
    using pb1 = B<1>;
    using pb2 = B<2>;
    using pb3 = B<3>;
    using pb4 = B<4>;
    using pb5 = B<5>;
    using pc0 = C<0>;
    using pc1 = C<1>;
    using pc2 = C<2>;
    using pc3 = C<3>;
    using pc4 = C<4>;
    using pc5 = C<5>;
    using pd0 = D<0>;
    using pd1 = D<1>;
    using pd2 = D<2>;
    using pd3 = D<3>;
    using pd4 = D<4>;
    using pd5 = D<5>;
    using pd6 = D<6>;
    using pd7 = D<7>;
    using adc0 = pc0;
    using adc1 = pc1;
    using adc2 = pc2;
    using adc3 = pc3;
    using adc4 = pc4;
    using adc5 = pc5;
    using adc6 = AvrConverterPin<6>;
    using adc7 = AvrConverterPin<7>;
};

#elif defined(__AVR_ATmega2560__)

// A port's eight pins, and its six.
#define ZORILLA_SIX(letter, name)                                                                  \
    using p##name##0 = AvrPin<letter, 0>;                                                          \
    using p##name##1 = AvrPin<letter, 1>;                                                          \
    using p##name##2 = AvrPin<letter, 2>;                                                          \
    using p##name##3 = AvrPin<letter, 3>;                                                          \
    using p##name##4 = AvrPin<letter, 4>;                                                          \
    using p##name##5 = AvrPin<letter, 5>;
#define ZORILLA_EIGHT(letter, name)                                                                \
    ZORILLA_SIX(letter, name)                                                                      \
    using p##name##6 = AvrPin<letter, 6>;                                                          \
    using p##name##7 = AvrPin<letter, 7>;

struct Pins {
    ZORILLA_EIGHT('A', a)
    ZORILLA_EIGHT('B', b)
    ZORILLA_EIGHT('C', c)
    ZORILLA_EIGHT('D', d)
    ZORILLA_EIGHT('E', e)
    ZORILLA_EIGHT('F', f)
    ZORILLA_SIX('G', g)
    ZORILLA_EIGHT('H', h)
    ZORILLA_EIGHT('J', j)
    ZORILLA_EIGHT('K', k)
    ZORILLA_EIGHT('L', l)
    using adc0 = pf0;
    using adc1 = pf1;
    using adc2 = pf2;
    using adc3 = pf3;
    using adc4 = pf4;
    using adc5 = pf5;
    using adc6 = pf6;
    using adc7 = pf7;
    using adc8 = pk0;
    using adc9 = pk1;
    using adc10 = pk2;
    using adc11 = pk3;
    using adc12 = pk4;
    using adc13 = pk5;
    using adc14 = pk6;
    using adc15 = pk7;
};
#undef ZORILLA_EIGHT
#undef ZORILLA_SIX

#else

struct Pins {
    using pb0 = AvrPin<'B', 0>;
    using pb1 = AvrPin<'B', 1>;
    using pb2 = AvrPin<'B', 2>;
    using pb3 = AvrPin<'B', 3>;
    using pb4 = AvrPin<'B', 4>;
    using adc1 = pb2;
    using adc2 = pb4;
    using adc3 = pb3;
};

#endif

} // namespace zorilla::avr
