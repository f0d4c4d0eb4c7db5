// SPDX-License-Identifier: MIT
// The vector table of a Cortex-M: where the stack begins, and where the program does.
#include <stdint.h>

extern "C" {
extern uint32_t __stack;
void _start();

__attribute__((section(".vectors"), used)) const void* const vectors[] = {
    &__stack,
    reinterpret_cast<const void*>(&_start),
};
}
