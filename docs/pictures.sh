#!/bin/sh
# Makes docs/screenshots and docs/examples anew, from the demo's and the examples' data. It is run
# within an X server: ./dev pictures starts one.
set -eu
cd "$(dirname "$0")/.."

picture() { # NAME ROWS COMMAND: the screen of a terminal of 160 columns after the command
    rm -f build/pictures/done
    xterm -fa 'DejaVu Sans Mono' -fs 9 -geometry "160x$2+0+0" -b 0 -bw 0 -bg white -fg black -e sh -c \
        "$3; printf '\033[?25l'; touch build/pictures/done; sleep 3" &
    while [ ! -e build/pictures/done ]; do sleep 0.2; done
    sleep 1
    import -window root -crop "1280x$((15 * $2))+0+0" +repage "docs/screenshots/$1.png"
    wait $!
}

first_sensor_pictures() { # in build/pictures; a warning of the tool is no failure here
    rm -f look.csv
    cp ../../data/first_sensor/*.csv .
    zorilla device thermistor --values "0 degC,21 degC" --on ADC0 --pace 10 --link board >/dev/null &
    board=$!
    while [ ! -e board ]; do sleep 0.1; done
    zorilla look ADC0 --force >/dev/null
    zorilla upload look --port board >/dev/null
    for condition in "ice water" room; do
        zorilla capture board --condition "$condition" --lines 300 --out look.csv --append >/dev/null
    done
    kill $board
    zorilla survey look.csv --figure ../../docs/screenshots/survey.png >/dev/null || true
    zorilla size divider --thermistor "10 kohm" "3950 K" --from "-10 degC" --to "30 degC" --series E12 \
        --figure ../../docs/screenshots/size.png >/dev/null || true
    zorilla fit pairs.csv --model beta --pull-up "10 kohm" --range "-10 degC" "45 degC" \
        --figure ../../docs/screenshots/fit.png >/dev/null 2>&1 || true
    wait
    zorilla device desk.csv --link board --pace 2 --once >/dev/null &
}

rm -rf build/pictures/zorilla-demo
mkdir -p build/pictures docs/screenshots
PATH=$PWD/build/release:$PATH
export PATH
(cd build/pictures && script -qec 'zorilla demo' typescript >/dev/null && sed '1d; /^Script done/d' typescript >demo)
cp build/pictures/zorilla-demo/winter.png docs/screenshots/demo-figure.png
for trace in heat_lamp/ hen_house/ pellet_feeder/half_hour dew_heater/night rain_barrel/shower \
    fume_hood/evening bilge_pump/rough_day proofing_box/dough aquarium_light/day; do
    name=${trace%%/*}
    file=examples/$trace.csv
    [ "$trace" != "$name/" ] || file=build/pictures/zorilla-demo/winter.csv
    zorilla run "examples/$name/$name.toml" --trace "$file" --figure "docs/examples/$name.png" >/dev/null 2>&1 || true
done
(cd build/pictures && first_sensor_pictures)
rm -f build/pictures/desk-look.csv
picture capture 16 'cd build/pictures; while [ ! -e board ]; do sleep 0.1; done; LC_ALL=C.UTF-8 zorilla capture board --condition "hand off, lamp on" --out desk-look.csv --for "27 s"; cd ../..'
zorilla device data/live/box.toml --trace examples/proofing_box/dough.csv --pace 60 --link build/pictures/box --once >/dev/null &
while [ ! -e build/pictures/box ]; do sleep 0.1; done
picture live 30 '(sleep 14; touch build/pictures/done) & LC_ALL=C.UTF-8 zorilla live data/live/box.toml build/pictures/box --say "set open_flap on for 20 min" --say "set rise_at 24" --for "17 s"'
(cd build/pictures/zorilla-demo && rm -f hens.db && zorilla live hen_house.toml - --began "2026-11-17" --history hens.db <winter.csv >/dev/null)
picture history 51 'cd build/pictures/zorilla-demo; zorilla history hens.db | sed "/^The last/,\$d"; zorilla history hens.db --compare "before 2026-11-18" "after 2026-11-18" --watts heat_lamp=60 --wish "roost=4 degC..8 degC"; cd ../../..'
build/release/tests/zorilla_page_pictures docs/screenshots
picture demo 54 "sed -n '7,24p' build/pictures/demo; echo '...'; sed -n '/02:00:00/,/08:30:10/p' build/pictures/demo | head -18; echo '...'; tail -n 13 build/pictures/demo"
picture check 28 'zorilla check docs/six-mistakes.toml; echo; zorilla check docs/pin-mistakes.toml; echo; zorilla check examples/heat_lamp/heat_lamp.toml'
zorilla draw examples/pellet_feeder/pellet_feeder.toml --out docs/screenshots/draw.png
zorilla draw examples/hen_house/hen_house.toml --wires --out build/pictures/wires-8.png
zorilla move examples/hen_house/hen_house.toml --board rp2040 --out build/pictures/moved --force >/dev/null
zorilla draw build/pictures/moved/hen_house.toml --wires --out build/pictures/wires-32.png
convert build/pictures/wires-8.png build/pictures/wires-32.png -background white -append docs/screenshots/wires.png
sed '/never_with = "heat_lamp"/d' examples/hen_house/hen_house.toml >build/pictures/one_guard_less.toml
picture never 27 'cd build/pictures; zorilla check ../../examples/hen_house/hen_house.toml | sed -n "/^Never/,\$p"; echo; echo "Without never_with in [drive.water_valve]:"; zorilla check one_guard_less.toml --counter-example broken.csv | sed -n "/^Never/,\$p"; echo; zorilla run one_guard_less.toml --trace broken.csv --only heat_lamp,water_valve | head -n 5; cd ../..'
picture why 24 'cd build/pictures/zorilla-demo; for at in "heat_lamp@2d 02:30" "ventilator@1d 11:05"; do zorilla run hen_house.toml --trace winter.csv --why "$at"; echo; done; cd ../../..'
picture try 24 'zorilla try examples/heat_lamp/heat_lamp.toml --world examples/heat_lamp/frost.toml --for "5 d" --only heat_lamp --every "18 h"'
zorilla tune examples/heat_lamp/heat_lamp.toml --world examples/heat_lamp/frost.toml --vary cold.release="4.5 degC".."9 degC" \
    --for "5 d" --figure docs/screenshots/tune.png >/dev/null
zorilla yield examples/hen_house/hen_house.toml --world examples/hen_house/winter.toml --devices 1000 --pass "10 s" \
    --figure docs/screenshots/yield.png >/dev/null || true
zorilla faults examples/hen_house/hen_house.toml --world examples/hen_house/winter.toml --pass "5 s" \
    --figure docs/screenshots/faults.png >/dev/null || true
zorilla firmware examples/pellet_feeder/pellet_feeder.toml --out build/pictures/feeder --force >/dev/null
sed -i 's/Switched<Board::pb0>/Switched<Board::pb0, active_low>/' build/pictures/feeder/main.cpp
picture rehearse 46 'cd build/pictures/zorilla-demo; zorilla firmware hen_house.toml --out hen_house --force --build; echo; zorilla rehearse hen_house.toml --trace winter.csv --from "30 h" --for "1 min"; echo; cd ../../..; zorilla rehearse examples/pellet_feeder/pellet_feeder.toml --trace examples/pellet_feeder/half_hour.csv --firmware build/pictures/feeder'
