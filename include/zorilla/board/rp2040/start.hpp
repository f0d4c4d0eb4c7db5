// SPDX-License-Identifier: MIT
/// \file
/// How an RP2040 begins: the second stage of its boot, which the first copies out of the flash and
/// runs if its checksum is right; the table of vectors; and what stands before `main`. For one
/// source file, by ZORILLA_INTERRUPTS. Data sheet, chapters 2.8.1.3 and 4.10.
#pragma once

#include <stdint.h>

extern "C" {
// NOLINTBEGIN: the names are those of memory.ld
extern uint32_t zorilla_data_begin, zorilla_data_end, zorilla_data_from;
extern uint32_t zorilla_bss_begin, zorilla_bss_end, zorilla_stack_top;
extern void (*zorilla_init_begin)();
extern void (*zorilla_init_end)();
int zorilla_main() __asm__("main");
// NOLINTEND
}

namespace zorilla::rp2040 {

/// The first 16 interrupts and the chip's own.
struct Vectors {
    const void* stack;
    void (*handlers[47])();
};

/// An interrupt that nobody waits for; the watchdog ends it.
[[noreturn]] inline void hang() {
    for (;;) {
    }
}

[[noreturn]] inline void start() {
    const uint32_t* from = &zorilla_data_from;
    for (uint32_t* to = &zorilla_data_begin; to != &zorilla_data_end;)
        *to++ = *from++;
    for (uint32_t* to = &zorilla_bss_begin; to != &zorilla_bss_end;)
        *to++ = 0;
    for (void (**make)() = &zorilla_init_begin; make != &zorilla_init_end; ++make)
        (*make)();
    zorilla_main();
    hang();
}

/// \tparam Hub  whose interrupts they are
template <class Hub> constexpr Vectors vectors_of(void (*on_alarm)()) {
    Vectors out{&zorilla_stack_top, {}};
    for (auto& handler : out.handlers)
        handler = hang;
    out.handlers[0] = start;
    out.handlers[15 + 0] = on_alarm;
    out.handlers[15 + 5] = Hub::on_usb;
    out.handlers[15 + 13] = Hub::on_pins;
    out.handlers[15 + 20] = out.handlers[15 + 21] = Hub::on_character;
    return out;
}

} // namespace zorilla::rp2040

/// 252 bytes of program, which read the flash byte by byte as any of them can (command 0x03), and
/// their checksum (CRC-32 from 0xffffffff, the highest bit first; a test works it out anew).
#define ZORILLA_BOOT                                                                               \
    __asm__(".section .boot, \"ax\"\n"                                                             \
            ".syntax unified\n"                                                                    \
            ".thumb\n"                                                                             \
            "    mov r4, lr\n"                                                                     \
            "    ldr r3, =0x18000000\n" /* the flash's interface */                                \
            "    movs r1, #0\n"                                                                    \
            "    str r1, [r3, #8]\n" /* SSIENR: off while it is set up */                          \
            "    movs r1, #4\n"                                                                    \
            "    str r1, [r3, #0x14]\n" /* BAUDR: a quarter of the clock */                        \
            "    ldr r1, =0x001f0300\n" /* CTRLR0: 32 bits, one wire, send and then read */        \
            "    str r1, [r3]\n"                                                                   \
            "    movs r1, #0\n"                                                                    \
            "    str r1, [r3, #4]\n"    /* CTRLR1: one word at a time */                           \
            "    ldr r1, =0x03000218\n" /* command 3, of 8 bits, then an address of 24 */          \
            "    ldr r0, =0x180000f4\n" /* SPI_CTRLR0 */                                           \
            "    str r1, [r0]\n"                                                                   \
            "    movs r1, #1\n"                                                                    \
            "    str r1, [r3, #8]\n"                                                               \
            "    cmp r4, #0\n" /* called by a program, it goes back there */                       \
            "    beq 1f\n"                                                                         \
            "    bx r4\n"                                                                          \
            "1:  ldr r0, =0x10000100\n" /* the table of vectors */                                 \
            "    ldr r1, =0xe000ed08\n" /* VTOR */                                                 \
            "    str r0, [r1]\n"                                                                   \
            "    ldr r1, [r0, #4]\n"                                                               \
            "    ldr r0, [r0]\n"                                                                   \
            "    msr msp, r0\n"                                                                    \
            "    bx r1\n"                                                                          \
            "    .ltorg\n"                                                                         \
            "    .org 252\n"                                                                       \
            "    .word " ZORILLA_BOOT_SUM "\n"                                                     \
            ".text\n");
#define ZORILLA_BOOT_SUM "0x1769bb5c"
