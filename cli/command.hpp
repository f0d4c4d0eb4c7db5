// SPDX-License-Identifier: MIT
/// \file
/// The commands of the tool: each adds itself to the arguments, and says what to do if it is named.
#pragma once

#include "bench/firmware.hpp"
#include "bench/port.hpp"
#include "bench/world/world.hpp"
#include "cli/arguments.hpp"
#include "cli/page.hpp"

#include <functional>
#include <string>

namespace zorilla::cli {

void add_capture(Command& app, Chosen& chosen);
void add_live(Command& app, Chosen& chosen);
void add_setting(Command& app, Chosen& chosen);
void add_history(Command& app, Chosen& chosen);
void add_survey(Command& app, Chosen& chosen);
void add_size(Command& app, Chosen& chosen);
void add_fit(Command& app, Chosen& chosen);
void add_check(Command& app, Chosen& chosen);
void add_run(Command& app, Chosen& chosen);
void add_world(Command& app, Chosen& chosen);
void add_try(Command& app, Chosen& chosen);
void add_tune(Command& app, Chosen& chosen);
void add_yield(Command& app, Chosen& chosen);
void add_faults(Command& app, Chosen& chosen);
void add_draw(Command& app, Chosen& chosen);
void add_machine(Command& app, Chosen& chosen);
void add_firmware(Command& app, Chosen& chosen);
void add_move(Command& app, Chosen& chosen);
void add_rehearse(Command& app, Chosen& chosen);
void add_look(Command& app, Chosen& chosen);
void add_upload(Command& app, Chosen& chosen);
void add_outputs(Command& app, Chosen& chosen);
void add_demo(Command& app, Chosen& chosen);
void add_device(Command& app, Chosen& chosen);

/// Tells of the lines of a file that were not understood: the first few, and how many more.
class Complaints {
  public:
    explicit Complaints(std::string path) : path_(std::move(path)) {}
    void operator()(uint64_t line, const std::string& text);
    /// To be called once all has been read.
    void finish() const;
    bool any() const { return count_ > 0; }

  private:
    static constexpr uint64_t most = 20;
    std::string path_;
    uint64_t count_ = 0;
};

/// Loads a rig that is to be used, not only checked. \throws rig::InputError
rig::Rig usable_rig(const std::string& path);
/// Says which medians would count one echo several times, were passes so many milliseconds apart.
void tell_repeated_echoes(const std::string& path, const rig::Rig& rig, int64_t pass);
/// The chip of a rig of which all is known, so that firmware can be written. \throws
/// rig::InputError
const ChipFacts& known_chip(const std::string& path, const rig::Rig& rig);
/// How a rig's program is to pass and to send. \param pass_text  of --pass \throws rig::InputError
rig::FirmwarePlan firmware_plan(const std::string& path, const rig::Rig& rig,
                                const std::string& pass_text, bool sends);
/// Loads a world that is to be used. \throws rig::InputError
bench::WorldFile usable_world(const std::string& path);
/// An option that is a time above 0. \throws rig::InputError
int64_t time_option(const std::string& option, const std::string& text, const std::string& example);

/// Opens a port, or says which there are. \throws rig::InputError
void open_or_explain(bench::Port& port, const std::string& name);

/// The names of chips that are known.
std::vector<std::string> chip_words();
/// What would change for another chip. False if it does not fit there. \throws rig::InputError
bool print_move(Page& page, const std::string& path, const rig::RigFile& file,
                const std::string& board);

/// Writes a folder of firmware, unless a person has changed what is there. \throws rig::InputError
void fill_folder(const std::string& path, const bench::FirmwareFolder& folder, bool force);

/// A file that `text` is written to as a whole. \throws rig::InputError
void write_file(const std::string& path, std::string_view text);

} // namespace zorilla::cli
