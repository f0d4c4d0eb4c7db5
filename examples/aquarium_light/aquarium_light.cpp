// SPDX-License-Identifier: MIT
// A light above an aquarium that comes on when the room gets dark: a photoresistor in lux,
// smoothed, so that a hand over it does not count; and a phototransistor in the water that tells
// whether the lamp works.
#include "examples/show.hpp"

#include <zorilla/zorilla.hpp>

using namespace zorilla;

constexpr auto room_part =
    photoresistor(10_kohm, 10_lx, 0.7_times).pull_down(10_kohm).range(0.5_lx, 2000_lx);
constexpr auto water_part =
    phototransistor(500_nA_per_lx).load_to_ground(10_kohm).reference(5_V).range(10_lx, 950_lx);
constexpr auto dark = below(30_lx).release(60_lx);

struct AquariumLight {
    Photoresistor<room_part> room;
    Smoothing<Illuminance> calm{30_s};
    Phototransistor<water_part> water;
    Threshold<dark> is_dark;
};

int main() {
    AquariumLight light;
    // A bright room for a minute, a hand over the sensor for two seconds, then evening.
    for (uint32_t s = 0; s <= 240; ++s) {
        const bool hand = s >= 60 && s < 62, evening = s >= 100;
        const auto raw = Sample(hand ? 200 : evening ? 420 : 870);
        const auto room = light.calm.pass(Instant(s * 1000), light.room.read(raw));
        const Truth lamp = light.is_dark.decide(room);
        if (s % 60 == 1 || s == 240) {
            printf("%3u s: ", static_cast<unsigned>(s));
            show("room", room, ZORILLA_TEXT(" lx"));
            show(", lamp", lamp);
            show(", water", light.water.read(Sample(lamp == Truth::yes ? 640 : 40)),
                 ZORILLA_TEXT(" lx"));
            printf("\n");
        }
    }
}
