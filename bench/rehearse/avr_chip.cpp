// SPDX-License-Identifier: MIT
#include "bench/rehearse/avr_chip.hpp"

#include "rig/model/chip.hpp"

#include <algorithm>
#include <cstdarg>
#include <cstdio>
#include <stdexcept>

extern "C" {
#include <simavr/avr_adc.h>
#include <simavr/avr_eeprom.h>
#include <simavr/avr_extint.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_interrupts.h>
#include <simavr/sim_io.h>
}

namespace zorilla::bench {

namespace {

bool is(const ChipFacts& facts, std::string_view name) { return name == facts.name; }

/// GPIOR0 to GPIOR2, by which a program under test is fed, tells, and marks its passes.
struct Told {
    avr_io_addr_t feeds, collects, marks;
};
Told told_by(const ChipFacts& facts) {
    return is(facts, "attiny85") ? Told{0x31, 0x32, 0x33} : Told{0x3e, 0x4a, 0x4b};
}

int bit_of(const std::string& pin) { return pin[2] - '0'; }
avr_irq_t* irq_of(avr_t* avr, const std::string& pin) {
    const auto port = static_cast<uint32_t>(AVR_IOCTL_IOPORT_GETIRQ(pin[1]));
    return avr_io_getirq(avr, port, bit_of(pin));
}

/// The emulator tells what it loads; only its complaints are of interest.
void complain_only() {
    avr_global_logger_set([](avr_t*, const int level, const char* format, va_list arguments) {
        if (level <= LOG_ERROR && std::string(format).find("UART") == std::string::npos)
            vfprintf(stderr, format, arguments);
    });
}

elf_firmware_t read_elf(const std::string& path) {
    complain_only();
    elf_firmware_t firmware = {};
    if (elf_read_firmware(path.c_str(), &firmware) != 0)
        throw std::runtime_error(path + ": cannot be read as firmware");
    return firmware;
}

} // namespace

AvrChip::AvrChip(const std::string& elf) : AvrChip(*rig::all_chips().front(), elf) {}

AvrChip::AvrChip(const ChipFacts& facts, const std::string& elf) : AvrChip(facts) {
    elf_firmware_t firmware = read_elf(elf);
    avr_load_firmware(avr_, &firmware);
    avr_->frequency = facts.hertz;
    avr_->vcc = avr_->avcc = avr_->aref = 5000;
}

AvrChip::AvrChip(std::vector<uint8_t> flash) : AvrChip(*rig::all_chips().front()) {
    avr_loadcode(avr_, flash.data(), static_cast<uint32_t>(flash.size()), 0);
    avr_->codeend = static_cast<avr_flashaddr_t>(flash.size());
}

AvrChip::AvrChip(const ChipFacts& facts) : EmulatedChip(facts) {
    complain_only();
    avr_ = avr_make_mcu_by_name(facts.name);
    if (avr_ == nullptr || avr_init(avr_) != 0)
        throw std::runtime_error(std::string("the emulator does not know the ") + facts.name);
    avr_->frequency = facts.hertz;
    avr_->vcc = avr_->avcc = avr_->aref = 5000;
    // The emulator would wait in real time while the chip sleeps.
    avr_->sleep = [](avr_t*, avr_cycle_count_t) {};

    // It would look at pins with interrupts of their own every other cycle while they are low, for
    // those that nobody has asked for.
    for (uint8_t number = 0; number < 8; ++number)
        if (avr_extint_is_strict_lvl_trig(avr_, number) > 0)
            avr_extint_set_strict_lvl_trig(avr_, number, 0);

    if (!is(facts, "attiny85")) {
        listen_to(0);
    } else {
        listen_to_bits();
        // The emulator counts with this timer, but does not interrupt.
        avr_register_io_write(
            avr_, facts.timers[1].control,
            [](avr_t* avr, avr_io_addr_t at, uint8_t value, void* self) {
                avr->data[at] = value;
                auto* chip = static_cast<AvrChip*>(self);
                ++chip->timer_1_;
                chip->run_timer_1();
            },
            this);
    }
    if (is(facts, "atmega2560"))
        tell_edges();
    const Told told = told_by(facts);
    avr_register_io_read(
        avr_, told.feeds,
        [](avr_t*, avr_io_addr_t, void* self) {
            auto* chip = static_cast<AvrChip*>(self);
            return chip->next_in_ < chip->in_.size() ? chip->in_[chip->next_in_++] : uint8_t{0};
        },
        this);
    avr_register_io_write(
        avr_, told.collects,
        [](avr_t*, avr_io_addr_t, uint8_t value, void* self) {
            static_cast<AvrChip*>(self)->out_.push_back(value);
        },
        this);
    avr_register_io_write(
        avr_, told.marks,
        [](avr_t* avr, avr_io_addr_t, uint8_t value, void* self) {
            auto* chip = static_cast<AvrChip*>(self);
            if (chip->on_mark)
                chip->on_mark(value, avr->cycle);
        },
        this);
}

void AvrChip::listen_to(int line) {
    line_ = static_cast<char>('0' + line);
    uint32_t flags = 0;
    avr_ioctl(avr_, static_cast<uint32_t>(AVR_IOCTL_UART_GET_FLAGS(line_)), &flags);
    flags &= ~static_cast<uint32_t>(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POOL_SLEEP);
    avr_ioctl(avr_, static_cast<uint32_t>(AVR_IOCTL_UART_SET_FLAGS(line_)), &flags);
    avr_irq_register_notify(
        avr_io_getirq(avr_, static_cast<uint32_t>(AVR_IOCTL_UART_GETIRQ(line_)), UART_IRQ_OUTPUT),
        [](avr_irq_t*, uint32_t value, void* self) {
            static_cast<AvrChip*>(self)->serial_ += static_cast<char>(value);
        },
        this);
}

/// Timer 1 of an ATtiny85 as it begins anew at its top, with the interrupt of its first half; data
/// sheet, chapter 12.3.
void AvrChip::run_timer_1() {
    const TimerFacts& timer = facts().timers[1];
    const int step = avr_->data[timer.control] & 15;
    if (step == 0 || (avr_->data[timer.control] & 1 << 7) == 0)
        return;
    const uint64_t counts = avr_->data[timer.top] + 1U;
    in_cycles(counts << (step - 1), [this, setting = timer_1_] {
        if (setting != timer_1_)
            return;
        constexpr uint8_t compare_a = 3;
        for (uint8_t i = 0; i < avr_->interrupts.vector_count; ++i)
            if (avr_->interrupts.vector[i]->vector == compare_a)
                avr_raise_interrupt(avr_, avr_->interrupts.vector[i]);
        run_timer_1();
    });
}

/// The emulator knows of an ATmega2560's edges on port B alone; those of J and K are told here,
/// data sheet, chapter 15.2.
void AvrChip::tell_edges() {
    constexpr uint8_t control = 0x68, flags = 0x3b, first_mask = 0x6b, first_vector = 9;
    std::shared_ptr<avr_int_vector_t> vectors[3];
    for (const PinFacts* pin = facts().pins; pin != facts().pins + facts().pin_count; ++pin) {
        if (pin->edges < 1)
            continue;
        const auto group = static_cast<uint8_t>(pin->edges);
        std::shared_ptr<avr_int_vector_t>& vector = vectors[group];
        if (vector == nullptr) {
            vector = std::make_shared<avr_int_vector_t>();
            vector->vector = static_cast<uint8_t>(first_vector + group);
            vector->enable.reg = control;
            vector->enable.bit = vector->raised.bit = static_cast<uint8_t>(group & 7);
            vector->enable.mask = vector->raised.mask = 1;
            vector->raised.reg = flags;
            avr_register_vector(avr_, vector.get());
        }
        // Port J begins at the second bit of its group.
        const int bit = bit_of(pin->name) + (pin->name[1] == 'J' ? 1 : 0);
        edged_.push_back(
            std::make_unique<Edged>(Edged{avr_, vector, static_cast<uint16_t>(first_mask + group),
                                          static_cast<uint8_t>(bit), 0}));
        avr_irq_register_notify(
            irq_of(avr_, pin->name),
            [](avr_irq_t*, uint32_t value, void* self) {
                auto* edge = static_cast<Edged*>(self);
                const uint32_t level = value & 1;
                if (std::exchange(edge->level, level) != level &&
                    (edge->avr->data[edge->mask_at] >> edge->bit & 1) != 0)
                    avr_raise_interrupt(edge->avr, edge->vector.get());
            },
            edged_.back().get());
    }
}

/// What a chip without hardware for a line sends by a timer, 38,400 bits a second: a start bit,
/// eight, a stop bit, each looked at in its middle.
void AvrChip::listen_to_bits() {
    const std::string pin = facts().lines[1].sends;
    const uint64_t bit = facts().hertz / 38'400;
    watch(pin, [this, pin, bit](bool high) {
        if (high || bits_left_ != 0)
            return;
        bits_left_ = 9;
        for (int i = 0; i < 9; ++i)
            in_cycles(bit * 3 / 2 + static_cast<uint64_t>(i) * bit, [this, pin] {
                const bool is_one = is_high(pin);
                if (--bits_left_ > 0)
                    bits_ = static_cast<uint8_t>(bits_ >> 1 | (is_one ? 0x80 : 0));
                else // the stop bit; without one it is noise
                    serial_ += is_one ? static_cast<char>(bits_) : '\xff';
            });
    });
}

AvrChip::~AvrChip() { avr_terminate(avr_); }

bool AvrChip::step() {
    const uint64_t before = avr_->cycle;
    const bool sleeps = avr_->state == cpu_Sleeping;
    const int state = avr_run(avr_);
    // The instruction that goes to sleep may be the one that wakes too; no other takes as long.
    if (const uint64_t took = avr_->cycle - before; sleeps || took > 8)
        asleep_ += took;
    const auto stack = static_cast<uint16_t>(avr_->data[R_SPL] | avr_->data[R_SPH] << 8);
    if (stack != 0)
        lowest_stack_ = std::min(lowest_stack_, stack);
    for (auto& [pin, watched] : watched_drives_)
        if (const int is = drives(pin) ? 1 : 0; is != watched.level) {
            watched.level = is;
            watched.changed(is == 1);
        }
    if (state == cpu_Crashed)
        throw std::runtime_error("the firmware crashed");
    return state != cpu_Done;
}

void AvrChip::run_for(uint32_t milliseconds) {
    const uint64_t until = cycles() + milliseconds * cycles_per_ms();
    while (cycles() < until && step()) {
    }
}

void AvrChip::run_to_end() {
    while (step()) {
    }
}

uint64_t AvrChip::cycles() const { return avr_->cycle; }

void AvrChip::set_millivolts(uint32_t millivolts, uint8_t channel) {
    avr_raise_irq(avr_io_getirq(avr_, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + channel), millivolts);
}

void AvrChip::set_reference(uint32_t millivolts) { avr_->aref = millivolts; }

void AvrChip::put(const std::string& pin, bool high) {
    // Held from outside, so that it outlasts what the program writes to the other pins of the port.
    Held& held = held_[pin[1]];
    const auto bit = static_cast<uint8_t>(1U << bit_of(pin));
    held.pins = static_cast<uint8_t>(held.pins | bit);
    held.levels = static_cast<uint8_t>(high ? held.levels | bit : held.levels & ~bit);
    avr_ioport_external_t external = {static_cast<unsigned char>(pin[1]) & 0x7fU, held.pins,
                                      held.levels};
    avr_ioctl(avr_, static_cast<uint32_t>(AVR_IOCTL_IOPORT_SET_EXTERNAL(pin[1])), &external);
    avr_raise_irq(irq_of(avr_, pin), high ? 1 : 0);
}

uint16_t AvrChip::port_of(const std::string& pin) const { return facts().port_at(pin[1]); }
bool AvrChip::drives(const std::string& pin) const {
    return (avr_->data[port_of(pin) + 1] >> bit_of(pin) & 1) != 0;
}
bool AvrChip::is_high(const std::string& pin) const {
    return (avr_->data[port_of(pin) + 2] >> bit_of(pin) & 1) != 0;
}

uint32_t AvrChip::stack() const {
    const auto end = static_cast<uint16_t>(facts().ram_begins + facts().ram - 1);
    return static_cast<uint32_t>(end - std::min(lowest_stack_, end));
}

uint8_t AvrChip::memory(uint32_t address) const { return avr_->data[address]; }

void AvrChip::set_memory(uint32_t address, uint8_t byte) { avr_->data[address] = byte; }

void AvrChip::receive(char c) {
    avr_raise_irq(
        avr_io_getirq(avr_, static_cast<uint32_t>(AVR_IOCTL_UART_GETIRQ(line_)), UART_IRQ_INPUT),
        static_cast<uint8_t>(c));
}

void AvrChip::in_cycles(uint64_t cycles, std::function<void()> action) {
    due_in(avr_->cycle + cycles, std::move(action));
    const avr_cycle_timer_t timer = [](avr_t*, avr_cycle_count_t, void* self) -> avr_cycle_count_t {
        return static_cast<AvrChip*>(self)->do_what_is_due();
    };
    avr_cycle_timer_register(avr_, next_due() - avr_->cycle, timer, this);
}

void AvrChip::watch(const std::string& pin, std::function<void(bool high)> changed) {
    const bool is_new = watched_.count(pin) == 0;
    Watched& place = watched_[pin];
    place.changed = std::move(changed);
    if (!is_new)
        return;
    avr_irq_register_notify(
        irq_of(avr_, pin),
        [](avr_irq_t*, uint32_t value, void* to) {
            auto* watched = static_cast<Watched*>(to);
            const int level = value != 0 ? 1 : 0;
            if (watched->level == level)
                return;
            watched->level = level;
            watched->changed(level == 1);
        },
        &place);
}

void AvrChip::watch_drive(const std::string& pin, std::function<void(bool drives)> changed) {
    watched_drives_[pin] = {std::move(changed), drives(pin) ? 1 : 0};
}

/// Which registers stand behind a pin that a timer can drive.
struct AvrChip::Output {
    const TimerFacts* timer = nullptr;
    uint16_t compare = 0;
    int pinned = 0; ///< 0 not at all, 1 toggles, 2 high until the compare value
};

AvrChip::Output AvrChip::output_of(const std::string& pin) const {
    const PinFacts* is = rig::pin_named(facts(), pin);
    if (is == nullptr || is->timer < 0)
        return {};
    const TimerFacts& timer = facts().timers[is->timer];
    const bool powers = timer.kind == TimerKind::powers;
    const uint8_t control = memory(powers && is->half == 1 ? timer.mode : timer.control);
    return {&timer, timer.compare[is->half], control >> (powers ? 4 : 6 - 2 * is->half) & 3};
}

uint32_t AvrChip::compare_of(const Output& output) const {
    return memory(output.compare) + (output.timer->kind == TimerKind::wide
                                         ? uint32_t{memory(output.compare + 1U)} << 8
                                         : 0U);
}

double AvrChip::share_of(const std::string& pin) const {
    const Output is = output_of(pin);
    if (is.pinned != 2)
        return is_high(pin) ? 1 : 0;
    return (compare_of(is) + (is.timer->kind == TimerKind::powers ? 0 : 1)) / 256.0;
}

double AvrChip::hertz_of(const std::string& pin) const {
    const Output is = output_of(pin);
    if (is.pinned != 1)
        return 0;
    constexpr double wide[] = {0, 1, 8, 64, 256, 1024, 1, 1};
    constexpr double narrow[] = {0, 1, 8, 32, 64, 128, 256, 1024};
    const double divisor = is.timer->kind == TimerKind::powers
                               ? (1U << (memory(is.timer->control) & 15)) / 2.0
                           : is.timer->kind == TimerKind::wide ? wide[memory(is.timer->mode) & 7]
                                                               : narrow[memory(is.timer->mode) & 7];
    return facts().hertz / 2.0 / divisor / (compare_of(is) + 1);
}

double AvrChip::pulse_of(const std::string& pin) const {
    const Output is = output_of(pin);
    return is.pinned == 2 ? (compare_of(is) + 1) * 8e6 / facts().hertz : 0;
}

std::vector<uint8_t> AvrChip::eeprom() const {
    std::vector<uint8_t> out(facts().kept);
    avr_eeprom_desc_t all = {out.data(), 0, facts().kept};
    avr_ioctl(avr_, AVR_IOCTL_EEPROM_GET, &all);
    return out;
}

void AvrChip::set_eeprom(const std::vector<uint8_t>& bytes) {
    std::vector<uint8_t> copy = bytes;
    avr_eeprom_desc_t all = {copy.data(), 0, facts().kept};
    avr_ioctl(avr_, AVR_IOCTL_EEPROM_SET, &all);
}

Size size_of(const std::string& elf) {
    const elf_firmware_t firmware = read_elf(elf);
    Size out;
    out.flash = firmware.flashsize; // with the initial values of variables
    out.ram = firmware.datasize + firmware.bsssize;
    return out;
}

} // namespace zorilla::bench
