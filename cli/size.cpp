// SPDX-License-Identifier: MIT
// size: which standard parts to take.
#include "cli/size.hpp"

namespace zorilla::cli {

bench::Series series_of(const std::string& name) {
    static const std::map<std::string, bench::Series> names = {
        {"E12", bench::Series::e12}, {"E24", bench::Series::e24}, {"E96", bench::Series::e96}};
    return names.at(name);
}

Option* add_series(Command* command, std::string& series) {
    return command
        ->add_option("--series", series,
                     "The series of preferred values that you have: E12, E24 or E96.")
        ->one_of({"E12", "E24", "E96"})
        ->type_name("SERIES");
}

void add_size(Command& app, Chosen& chosen) {
    Command* size = app.add_subcommand(
        "size", "Which standard parts to take: a divider's resistor, an LED's, what a load needs.\n"
                "Example: zorilla size led --colour red");
    size->require_subcommand();
    add_divider(size, chosen);
    add_led(size, chosen);
    add_load(size, chosen);
}

} // namespace zorilla::cli
