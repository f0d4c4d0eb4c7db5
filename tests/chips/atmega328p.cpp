// SPDX-License-Identifier: MIT
#include "tests/chips/atmega328p.hpp"

#include <cstdarg>
#include <cstdio>
#include <stdexcept>

extern "C" {
#include <simavr/avr_adc.h>
#include <simavr/avr_eeprom.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_io.h>
}

namespace chips {

namespace {

// Data addresses, from the data sheet's register summary.
constexpr avr_io_addr_t ddrb = 0x24, portb = 0x25, gpior0 = 0x3e, gpior1 = 0x4a, gpior2 = 0x4b;

elf_firmware_t read_elf(const std::string& path) {
    // The emulator tells what it loads; only its complaints are of interest.
    avr_global_logger_set([](avr_t*, const int level, const char* format, va_list arguments) {
        if (level <= LOG_ERROR)
            vfprintf(stderr, format, arguments);
    });
    elf_firmware_t firmware = {};
    if (elf_read_firmware(path.c_str(), &firmware) != 0)
        throw std::runtime_error(path + ": cannot be read as firmware");
    return firmware;
}

} // namespace

Atmega328p::Atmega328p(const std::string& elf) {
    elf_firmware_t firmware = read_elf(elf);
    avr_ = avr_make_mcu_by_name("atmega328p");
    if (avr_ == nullptr || avr_init(avr_) != 0)
        throw std::runtime_error("the emulator does not know the atmega328p");
    avr_->frequency = 16'000'000;
    avr_load_firmware(avr_, &firmware);
    avr_->vcc = avr_->avcc = avr_->aref = 5000;
    // The emulator would wait in real time while the chip sleeps.
    avr_->sleep = [](avr_t*, avr_cycle_count_t) {};

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
    const int state = avr_run(avr_);
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

void Atmega328p::set_millivolts(uint32_t millivolts) {
    avr_raise_irq(avr_io_getirq(avr_, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0), millivolts);
}

bool Atmega328p::drives_pb0() const { return (avr_->data[ddrb] & 1) != 0; }
bool Atmega328p::pb0_is_high() const { return (avr_->data[portb] & 1) != 0; }

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

} // namespace chips
