// SPDX-License-Identifier: MIT
/// \file
/// The converter of an AVR, channel by channel in the background. Data sheet, chapter 24.
#pragma once

#include "zorilla/board/avr/roles.hpp"
#include "zorilla/sense/sample.hpp"

#include <avr/io.h>

namespace zorilla {

namespace avr {

/// Scans channels one after the other at 125 kHz, so that a conversion takes 0.1 ms; the first
/// after a change of channel is dropped (24.5.2: it may not have settled). One is taken in each
/// millisecond, so that eight channels come round in 16 ms, sixteen in 32. Against its own
/// reference it begins 30 ms late: through some 32 kohm that charges the 100 nF on AREF first.
/// Where a channel is to have more bits, it is converted 4, 16 or 64 times before the next. \tparam
/// Extra  of each role its bits beyond those of the converter \tparam All  of each role its
/// channel, or -1
template <uint32_t Hertz, Reference Against, class Extra, int8_t... All> class Converter;
template <uint8_t...> struct ExtraBits {};

template <uint32_t Hertz, Reference Against, uint8_t... Extra, int8_t... All>
class Converter<Hertz, Against, ExtraBits<Extra...>, All...> {
    static constexpr uint8_t speed = Hertz == 16'000'000 ? 7 : 6; // a 128th or a 64th of the clock

    static constexpr bool charges = Against == Reference::internal;
    static constexpr uint8_t reference = charges                        ? reference_of_own
                                         : Against == Reference::supply ? reference_of_supply
                                                                        : reference_of_pin;

  public:
    static constexpr uint8_t count = ((All >= 0 ? 1 : 0) + ... + 0);
    using Places = detail::Either<(count > 8), uint16_t, uint8_t>;
    static constexpr bool adds_up = (Extra | ... | 0) != 0;
    /// How long it takes to come round from power-up, in milliseconds.
    static constexpr uint16_t round =
        static_cast<uint16_t>(((All >= 0 ? 1U << 2 * Extra : 0U) + ... + 0U) +
                              (count > 1 ? count : 0) + (charges ? 30 : 0));

    /// Takes 0.2 ms where there is one channel alone: the first conversion is thrown away.
    static void begin() {
        select(0);
        ADCSRA = static_cast<uint8_t>(1 << ADEN | 1 << ADSC | speed);
        if constexpr (count == 1 && !charges) {
            while ((ADCSRA & 1 << ADSC) != 0) {
            }
            ADCSRA |= 1 << ADSC;
        }
    }
    /// Takes a conversion that is over and starts the next.
    [[gnu::always_inline]] static void step() {
        if ((ADCSRA & 1 << ADSC) != 0)
            return;
        if constexpr (charges)
            if (charging_ != 0) {
                charging_ = static_cast<uint8_t>(charging_ - 1);
                ADCSRA |= 1 << ADSC;
                return;
            }
        if constexpr (count == 1) {
            if (takes_up(ADC))
                fresh_ = 1;
        } else if (!settled_) {
            settled_ = true;
        } else if (takes_up(ADC)) {
            fresh_ = static_cast<Places>(fresh_ | Places{1} << at_);
            at_ = at_ + 1 == count ? uint8_t{0} : static_cast<uint8_t>(at_ + 1);
            select(at_);
            settled_ = false;
        }
        ADCSRA |= 1 << ADSC;
    }
    /// The newest code of a channel; none if none came since the last was taken.
    template <int8_t Channel> [[gnu::always_inline]] static Sample take() {
        constexpr uint8_t place = place_of(Channel);
        constexpr Places bit = Places{1} << place;
        if ((fresh_ & bit) == 0)
            return Sample();
        fresh_ = static_cast<Places>(fresh_ & ~bit);
        return Sample(codes_[place]);
    }

  private:
    /// \return  whether that is all for this channel
    [[gnu::always_inline]] static bool takes_up(uint16_t code) {
        const uint8_t at = count == 1 ? uint8_t{0} : at_;
        if constexpr (adds_up) {
            uint8_t i = 0, extra = 0;
            ((All >= 0 && i++ == at ? void(extra = Extra) : void()), ...);
            sum_ = static_cast<uint16_t>(sum_ + code); // 64 codes of 10 bits at most
            if (++added_ < 1 << 2 * extra)
                return false;
            code = static_cast<uint16_t>(sum_ >> extra);
            sum_ = added_ = 0;
        }
        codes_[at] = code;
        return true;
    }
    static constexpr uint8_t place_of(int8_t channel) {
        uint8_t out = 0;
        bool found = false;
        ((found = found || All == channel, out = static_cast<uint8_t>(out + (!found && All >= 0))),
         ...);
        return out;
    }
    static void select(uint8_t place) {
        uint8_t i = 0;
        int8_t channel = 0;
        // Written out, since a small chip would keep a table in its RAM.
        ((All >= 0 && i++ == place ? void(channel = All) : void()), ...);
        ADMUX = static_cast<uint8_t>(reference | (channel & 7));
#if defined(__AVR_ATmega2560__)
        ADCSRB = channel >= 8 ? 1 << MUX5 : 0;
#endif
    }
    static inline uint16_t codes_[count == 0 ? 1 : count] = {};
    static inline uint8_t at_ = 0;
    static inline uint8_t added_ = 0;
    static inline uint16_t sum_ = 0;
    static inline Places fresh_ = 0;
    static inline bool settled_ = false;
    static inline uint8_t charging_ = 30; ///< ms
};

constexpr uint8_t how(Reference against) {
    return static_cast<uint8_t>(references + static_cast<uint8_t>(against));
}
/// The pin that an ATtiny85 needs for a reference from outside; the others have one for that alone.
constexpr Bits pins_of(Reference against) {
    return Chip::facts.pin_count < 10 && against == Reference::external
               ? Bits::one(pin_index('B', 0))
               : Bits{};
}
/// The first that is not the supply; a wiring with two does not compile.
constexpr Reference common(const Reference* all, uint8_t count) {
    Reference out = Reference::supply;
    for (uint8_t i = 0; i < count; ++i)
        out = all[i] == Reference::supply ? out : all[i];
    return out;
}

} // namespace avr

template <uint32_t H, char P, uint8_t Bit, Reference Against, uint8_t Extra>
struct Does<AvrBoard<H>, Analogue<AvrPin<P, Bit>, Against, Extra>> : avr::Role {
    static constexpr uint8_t extra = Extra;
    static_assert(AvrPin<P, Bit>::channel >= 0,
                  "this pin is none of the converter's: take adc0 or another of those");
    static constexpr Needs needs{AvrPin<P, Bit>::id, avr::reference_bit | avr::pins_of(Against),
                                 avr::how(Against)};
    static constexpr Reference reference = Against;
    static constexpr int8_t channel = AvrPin<P, Bit>::channel;
    /// No level need be told from another on it (24.9.5: saves power at half of the supply).
    static void begin() { avr::unplug(channel, Bit); }
};
template <uint32_t H, uint8_t Channel, Reference Against, uint8_t Extra>
struct Does<AvrBoard<H>, Analogue<AvrConverterPin<Channel>, Against, Extra>> : avr::Role {
    static constexpr uint8_t extra = Extra;
    static constexpr Needs needs{AvrConverterPin<Channel>::id, avr::reference_bit,
                                 avr::how(Against)};
    static constexpr Reference reference = Against;
    static constexpr int8_t channel = Channel;
};

} // namespace zorilla
