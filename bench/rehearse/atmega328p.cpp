// SPDX-License-Identifier: MIT
#include "bench/rehearse/atmega328p.hpp"

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
#include <simavr/sim_io.h>
}

namespace zorilla::bench {

namespace {

// Data addresses, from the data sheet's register summary.
constexpr avr_io_addr_t ddrb = 0x24, portb = 0x25, gpior0 = 0x3e, gpior1 = 0x4a, gpior2 = 0x4b;

/// Of a pin such as "PD2": registers of its port are three further on each.
avr_io_addr_t port_offset(const std::string& pin) {
    return static_cast<avr_io_addr_t>(3 * (pin[1] - 'B'));
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

Atmega328p::Atmega328p(const std::string& elf) : Atmega328p() {
    elf_firmware_t firmware = read_elf(elf);
    avr_load_firmware(avr_, &firmware);
    avr_->frequency = 16'000'000;
    avr_->vcc = avr_->avcc = avr_->aref = 5000;
}

Atmega328p::Atmega328p(std::vector<uint8_t> flash) : Atmega328p() {
    avr_loadcode(avr_, flash.data(), static_cast<uint32_t>(flash.size()), 0);
    avr_->codeend = static_cast<avr_flashaddr_t>(flash.size());
}

Atmega328p::Atmega328p() {
    complain_only();
    avr_ = avr_make_mcu_by_name("atmega328p");
    if (avr_ == nullptr || avr_init(avr_) != 0)
        throw std::runtime_error("the emulator does not know the atmega328p");
    avr_->frequency = 16'000'000;
    avr_->vcc = avr_->avcc = avr_->aref = 5000;
    // The emulator would wait in real time while the chip sleeps.
    avr_->sleep = [](avr_t*, avr_cycle_count_t) {};

    // It would look at PD2 and PD3 every other cycle while they are low, for interrupts that nobody
    // has asked for.
    for (const uint8_t number : {uint8_t{0}, uint8_t{1}})
        avr_extint_set_strict_lvl_trig(avr_, number, 0);

    uint32_t flags = 0;
    avr_ioctl(avr_, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~static_cast<uint32_t>(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POOL_SLEEP);
    avr_ioctl(avr_, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(
        avr_io_getirq(avr_, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT),
        [](avr_irq_t*, uint32_t value, void* self) {
            static_cast<Atmega328p*>(self)->serial_ += static_cast<char>(value);
        },
        this);
    avr_register_io_read(
        avr_, gpior0,
        [](avr_t*, avr_io_addr_t, void* self) {
            auto* chip = static_cast<Atmega328p*>(self);
            return chip->next_in_ < chip->in_.size() ? chip->in_[chip->next_in_++] : uint8_t{0};
        },
        this);
    avr_register_io_write(
        avr_, gpior1,
        [](avr_t*, avr_io_addr_t, uint8_t value, void* self) {
            static_cast<Atmega328p*>(self)->out_.push_back(value);
        },
        this);
    avr_register_io_write(
        avr_, gpior2,
        [](avr_t* avr, avr_io_addr_t, uint8_t value, void* self) {
            auto* chip = static_cast<Atmega328p*>(self);
            if (chip->on_mark)
                chip->on_mark(value, avr->cycle);
        },
        this);
}

Atmega328p::~Atmega328p() { avr_terminate(avr_); }

bool Atmega328p::step() {
    const uint64_t before = avr_->cycle;
    const bool sleeps = avr_->state == cpu_Sleeping;
    const int state = avr_run(avr_);
    // The instruction that goes to sleep may be the one that wakes too; no other takes as long.
    if (const uint64_t took = avr_->cycle - before; sleeps || took > 8)
        asleep_ += took;
    const auto stack = static_cast<uint16_t>(avr_->data[R_SPL] | avr_->data[R_SPH] << 8);
    if (stack != 0)
        lowest_stack_ = std::min(lowest_stack_, stack);
    if (state == cpu_Crashed)
        throw std::runtime_error("the firmware crashed");
    return state != cpu_Done;
}

void Atmega328p::run_for(uint32_t milliseconds) {
    const uint64_t until = cycles() + uint64_t{milliseconds} * 16'000;
    while (cycles() < until && step()) {
    }
}

void Atmega328p::run_to_end() {
    while (step()) {
    }
}

uint64_t Atmega328p::cycles() const { return avr_->cycle; }

void Atmega328p::set_millivolts(uint32_t millivolts, uint8_t channel) {
    avr_raise_irq(avr_io_getirq(avr_, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + channel), millivolts);
}

void Atmega328p::set_reference(uint32_t millivolts) { avr_->aref = millivolts; }

void Atmega328p::put(const std::string& pin, bool high) {
    avr_raise_irq(irq_of(avr_, pin), high ? 1 : 0);
}

bool Atmega328p::drives(const std::string& pin) const {
    return (avr_->data[ddrb + port_offset(pin)] >> bit_of(pin) & 1) != 0;
}
bool Atmega328p::is_high(const std::string& pin) const {
    return (avr_->data[portb + port_offset(pin)] >> bit_of(pin) & 1) != 0;
}

uint8_t Atmega328p::memory(uint16_t address) const { return avr_->data[address]; }

void Atmega328p::set_memory(uint16_t address, uint8_t byte) { avr_->data[address] = byte; }

void Atmega328p::receive(char c) {
    avr_raise_irq(avr_io_getirq(avr_, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT),
                  static_cast<uint8_t>(c));
}

/// \return  the cycle of the next; 0 if there is none
uint64_t Atmega328p::do_what_is_due() {
    while (!due_.empty() && due_.begin()->first <= avr_->cycle) {
        const std::function<void()> action = std::move(due_.begin()->second);
        due_.erase(due_.begin());
        action();
    }
    return due_.empty() ? 0 : due_.begin()->first;
}

void Atmega328p::in_cycles(uint64_t cycles, std::function<void()> action) {
    due_.emplace(avr_->cycle + cycles, std::move(action));
    const avr_cycle_timer_t timer = [](avr_t*, avr_cycle_count_t, void* self) -> avr_cycle_count_t {
        return static_cast<Atmega328p*>(self)->do_what_is_due();
    };
    avr_cycle_timer_register(avr_, due_.begin()->first - avr_->cycle, timer, this);
}

void Atmega328p::watch(const std::string& pin, std::function<void(bool high)> changed) {
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

namespace {
constexpr uint32_t eeprom_size = 1024;
}

std::vector<uint8_t> Atmega328p::eeprom() const {
    std::vector<uint8_t> out(eeprom_size);
    avr_eeprom_desc_t all = {out.data(), 0, eeprom_size};
    avr_ioctl(avr_, AVR_IOCTL_EEPROM_GET, &all);
    return out;
}

void Atmega328p::set_eeprom(const std::vector<uint8_t>& bytes) {
    std::vector<uint8_t> copy = bytes;
    avr_eeprom_desc_t all = {copy.data(), 0, eeprom_size};
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
