// SPDX-License-Identifier: MIT
// setting: changes a value on a running device, and in its rig file if that is wanted.
#include "bench/live/setting.hpp"
#include "bench/conversation.hpp"
#include "bench/live/watched.hpp"
#include "bench/live/write_back.hpp"
#include "cli/command.hpp"
#include "cli/listening.hpp"
#include "cli/signals.hpp"
#include "rig/text/files.hpp"
#include "rig/text/text.hpp"

#include <fmt/format.h>

#include <optional>

namespace zorilla::cli {

namespace {

using rig::InputError;

struct SettingOptions {
    std::string rig, port, name, value, reads;
    int baud = 38'400;
    bool write_back = false;
};

/// What is asked of the device, and what that does to the rig file.
struct Asked {
    bench::NewSetting is;
    std::string file; ///< as it is then
};

/// The setting with which what it trims reads what is true; over some rows, since readings tremble.
class Trimming {
  public:
    Trimming(const rig::Rig& rig, const std::string& setting, const std::string& truth) {
        for (const rig::Sense& sense : rig.senses)
            if (sense_ == nullptr && sense.trimmed_by &&
                rig.sources[*sense.trimmed_by].name == setting)
                sense_ = &sense;
        if (sense_ == nullptr)
            throw InputError(fmt::format("--reads: {} trims no sensor: none has trimmed_by = "
                                         "\"{}\"",
                                         setting, setting));
        kind_ = rig.sources[sense_->source].kind;
        const rig::QuantityText value = rig::parse_quantity(truth, kind_, rig::example_of(kind_));
        if (!value.problem.empty())
            throw InputError(fmt::format("--reads: {}", value.problem));
        truth_ = value.thousandths;
    }
    /// \return  whether it has seen enough
    bool add(const rig::RunningRig& running, int64_t after) {
        const rig::AnyReading reading = running.readings()[sense_->source];
        if (reading.ok()) {
            const rig::AnyReading by = running.readings()[*sense_->trimmed_by];
            sum_ += int64_t{reading.value_or({}).thousandths()} - by.value_or({}).thousandths();
            ++count_;
        }
        return count_ >= 10 || (after > 5000 && count_ > 0);
    }
    std::string value() const {
        const int64_t plain = (2 * sum_ + (sum_ < 0 ? -count_ : count_)) / (2 * count_);
        return rig::exact_text(static_cast<int32_t>(truth_ - plain), rig::difference_of(kind_));
    }
    const std::string& sensor() const { return sense_->name; }

  private:
    const rig::Sense* sense_ = nullptr;
    rig::Kind kind_{};
    int32_t truth_ = 0;
    int64_t sum_ = 0, count_ = 0;
};

/// Says it to the device, once a row has come; its answer.
class Saying {
  public:
    Saying(const SettingOptions& options, const rig::Rig& rig, std::string text)
        : options_(options), rig_(rig), text_(std::move(text)) {
        if (options.reads.empty() == options.value.empty())
            throw InputError("say either what the setting is to be, such as \"24 degC\", or with "
                             "--reads what the sensor that it trims is to read now");
        setting(); // a name that is none is told before all else
        if (!options.reads.empty())
            trimming_.emplace(rig, options.name, options.reads);
        else // whatever cannot be is found before the device is told
            ask(options.value);
    }

    std::string answer() {
        bench::Port port(options_.port, options_.baud, true);
        open_or_explain(port, options_.port);
        end_on_signals();
        bench::Conversation conversation({});
        std::optional<std::string> answer;
        bool said = false;
        bench::Watched watched(rig_, {[](const bench::Event&) {},
                                      [&](const std::string& heard) { conversation.hear(heard); },
                                      [] {}});
        uint64_t rows = 0;
        Listening listening(port, -1,
                            {[&](std::string_view bytes) { watched.take(bytes); }, [] {},
                             [](const std::string&) {}});
        while (!answer && !asked_to_end() && !listening.over() && listening.now() < 10'000) {
            listening.wait(listening.now() + 50);
            const bench::Companion& beside = watched.companion();
            if (!beside.any())
                continue;
            const auto& readings = beside.running().readings();
            if (before.empty())
                before = to_text(readings[setting().source]);
            if (!said && trimming_ && beside.rows() != rows) {
                rows = beside.rows();
                if (!trimming_->add(beside.running(), listening.now()))
                    continue;
                ask(trimming_->value());
            }
            if (!said && asked) {
                conversation = bench::Conversation({asked->is.command});
                said = true;
            }
            if (said)
                conversation.step(port, listening.now(),
                                  [&](const std::string&, const std::string& is) { answer = is; });
        }
        if (answer)
            return *answer;
        if (watched.companion().any() && !said)
            throw InputError(fmt::format("{}: {} has no reading that could be trimmed",
                                         options_.port, trimming_->sensor()));
        throw InputError(
            options_.port +
            (watched.is_foreign()
                 ? ": the device was made of another rig file"
                 : ": no row came that this rig file explains; is it the right port, and was "
                   "the program built with --send?"));
    }

    std::optional<Asked> asked;
    std::string before; ///< what it was

  private:
    void ask(const std::string& value) {
        asked = Asked{bench::new_setting(rig_, options_.name, value), {}};
        if (options_.write_back)
            asked->file =
                bench::with_setting(text_, rig_, *asked->is.setting,
                                    rig::exact_text(asked->is.thousandths,
                                                    rig_.sources[asked->is.setting->source].kind));
    }
    const rig::Sense& setting() const { return bench::setting_called(rig_, options_.name); }
    std::string to_text(rig::AnyReading reading) const {
        return rig::to_text(reading.value_or({}).thousandths(),
                            rig_.sources[setting().source].kind);
    }

    const SettingOptions& options_;
    const rig::Rig& rig_;
    std::string text_;
    std::optional<Trimming> trimming_;
};

Status setting(const SettingOptions& options, Page& page) {
    const rig::Rig rig = usable_rig(options.rig);
    Saying saying(options, rig, rig::read_file(options.rig));
    const std::string answer = saying.answer();
    if (answer != "ok") {
        message(fmt::format("{}: {}", options.port, answer));
        return found_wanting;
    }
    const rig::Sense& changed = *saying.asked->is.setting;
    page.line(
        fmt::format("{} is {} on the device from now on; it was {}", changed.name,
                    rig::to_text(saying.asked->is.thousandths, rig.sources[changed.source].kind),
                    saying.before));
    if (options.write_back) {
        rig::OutputFile file(options.rig, true);
        file.write(saying.asked->file);
        file.commit();
        page.line(fmt::format("{} says so too", options.rig));
    }
    page.finish();
    return done;
}

} // namespace

void add_setting(Command& app, Chosen& chosen) {
    auto options = std::make_shared<SettingOptions>();
    Command* command = app.add_subcommand(
        "setting", "Change a value on a running device, where the rig has it as a line_setting.\n"
                   "Example: zorilla setting box.toml /dev/ttyUSB0 rise_at \"24 degC\"");
    command->add_option("RIG", options->rig, "The rig file that the device was made of.")
        ->required();
    command->add_option("PORT", options->port, "Its serial port.")->required();
    command->add_option("NAME", options->name, "The setting.")->required();
    command->add_option("VALUE", options->value, "What it is to be, with its unit.");
    command->add_option(
        "--reads", options->reads,
        "Instead: what the sensor that it trims is to read now, since that is true.");
    command->add_option("--baud", options->baud, "The speed of the line.")
        ->between(300, 4'000'000)
        ->capture_default_str();
    command->add_flag("--write-back", options->write_back,
                      "Put it into the rig file, too, in its place.");
    command->callback(
        [options, &chosen] { chosen = [options](Page& page) { return setting(*options, page); }; });
}

} // namespace zorilla::cli
