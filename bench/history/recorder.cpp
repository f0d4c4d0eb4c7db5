// SPDX-License-Identifier: MIT
#include "bench/history/recorder.hpp"

#include <SQLiteCpp/Exception.h>
#include <fmt/format.h>

#include <cstdlib>

namespace zorilla::bench {

Recorder::Recorder(std::shared_ptr<HistoryFile> file, const rig::Rig& rig,
                   const std::string& rig_text, std::optional<Utc> began,
                   std::function<void(const std::string&)> complain)
    : began_(began), complain_(std::move(complain)),
      writer_(std::make_unique<HistoryWriter>(std::move(file), rig, rig_text)) {}

template <class Do> void Recorder::attempt(Do what) {
    if (!writer_)
        return;
    try {
        what();
    } catch (const SQLite::Exception& error) {
        writer_.reset();
        complain_(fmt::format("the history is kept no longer: {}; what came before is in it",
                              error.what()));
    }
}

void Recorder::row(const Watched& watched, Utc now) {
    attempt([&] {
        const Companion& beside = watched.companion();
        const int64_t clock = beside.milliseconds();
        now = time(clock, now);
        if (beside.stretch() != stretches_) {
            writer_->begin(now, clock, beside.begun() != begun_);
            stretches_ = beside.stretch();
            begun_ = beside.begun();
        }
        const rig::Rig& rig = watched.rig();
        const std::vector<rig::Raw>& raws = watched.receiver().row().raws;
        std::string text;
        for (size_t i = 0; i < raws.size(); ++i)
            text +=
                (i == 0 ? "" : ",") +
                field_text(i < rig.senses.size() ? rig.senses[i].raw : rig::RawKind::code, raws[i]);
        writer_->row(now, clock, text);
        size_t part = 0;
        for (size_t i = 0; i < rig.sources.size(); ++i) {
            const rig::AnyReading reading = beside.running().readings()[i];
            writer_->passed(now, part++,
                            {reading.ok() && !beside.is_open_source(i),
                             reading.value_or({}).thousandths(), false});
        }
        for (size_t i = 0; i < rig.drives.size(); ++i) {
            // What the device says of it goes before what the desk makes of it; a pattern is on as
            // a whole.
            const int64_t said = beside.said(i);
            const rig::Driven& driven = beside.running().drivens()[i];
            const bool known = said >= 0 || !beside.is_open_drive(i);
            const bool on = said < 0 || said == driven.value.bits() ? driven.is_on : said != 0;
            writer_->passed(now, part++, {known, on ? 1000 : 0, true});
        }
        writer_->done();
    });
}

void Recorder::event(const Event& event, Utc now) {
    attempt([&] { writer_->event(time(event.milliseconds, now), event); });
}

void Recorder::finish() {
    attempt([&] { writer_->finish(); });
}

void Recorder::step(Utc now) {
    if (std::abs(now - committed_) < 1000)
        return;
    committed_ = now;
    attempt([&] { writer_->commit(); });
}

} // namespace zorilla::bench
