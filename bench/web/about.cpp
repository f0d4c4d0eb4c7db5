// SPDX-License-Identifier: MIT
// What a device is made of, for a browser.
#include "bench/web/told.hpp"

#include "rig/decide/part.hpp"
#include "rig/emit/device.hpp"
#include "rig/sense/said.hpp"
#include "rig/text/kinds.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace zorilla::bench {

using nlohmann::json;

namespace {

/// The parts that facts and conditions look at, each once, by the names that the page knows.
class LooksAt {
  public:
    explicit LooksAt(const rig::Rig& rig) : rig_(rig) {}

    void source(size_t index) { add("source." + rig_.sources[index].name); }
    void decision(size_t index) { add("decision." + rig_.decides[index].name); }
    void condition(const rig::Condition& when) {
        for (const size_t index : when.facts())
            fact(index);
    }
    void condition(const rig::WrittenCondition& when) {
        if (when.given())
            condition(when.condition);
    }
    json take() {
        json out = std::move(out_);
        out_ = json::array();
        return out;
    }

  private:
    void fact(size_t index) {
        const rig::Fact& fact = rig_.facts[index];
        switch (rig::from_of(fact.kind)) {
        case rig::FactFrom::source: source(fact.of); break;
        case rig::FactFrom::edge: this->fact(fact.of); break;
        case rig::FactFrom::truth:
        case rig::FactFrom::decision: decision(fact.of); break;
        case rig::FactFrom::machine: add("machine." + rig_.machines[fact.of].name); break;
        case rig::FactFrom::hand:
            // Whether somebody has it is decided by what that person presses.
            if (rig_.drives[fact.of].hand)
                condition(rig_.drives[fact.of].hand->take);
            break;
        case rig::FactFrom::shutdown: condition(rig_.shutdown.when); break;
        case rig::FactFrom::part:
        case rig::FactFrom::nobody: add("output." + rig_.drives[fact.of].name); break;
        }
    }
    void add(const std::string& name) {
        if (std::find(out_.begin(), out_.end(), json(name)) == out_.end())
            out_.push_back(name);
    }
    const rig::Rig& rig_;
    json out_ = json::array();
};

json quantity(const rig::Source& source) {
    json out = {{"name", source.name}, {"kind", rig::quantity_of(source.kind)}};
    out["unit"] = rig::stored_unit_of(source.kind);
    out["digits"] = std::min(rig::row_of(source.kind).digits, 2);
    if (source.kind == rig::Kind::truth)
        out["truth"] = true;
    return out;
}

json sources_of(const rig::Rig& rig, LooksAt& looks) {
    json out = json::array();
    for (size_t i = 0; i < rig.sources.size(); ++i) {
        json one = quantity(rig.sources[i]);
        if (const rig::Sense* sense = rig.sense_of(i)) {
            one["column"] = "sense";
            one["pin"] = sense->pin;
            for (const size_t input : sense->inputs)
                looks.source(input);
        } else {
            one["column"] = "derive";
            for (const rig::Derive& derive : rig.derives)
                if (derive.source == i)
                    for (const size_t of : derive.of)
                        looks.source(of);
        }
        one["from"] = looks.take();
        out.push_back(std::move(one));
    }
    return out;
}

json decisions_of(const rig::Rig& rig, LooksAt& looks) {
    json out = json::array();
    for (const rig::Decide& decide : rig.decides) {
        if (decide.judges)
            looks.source(decide.of);
        looks.condition(decide.when);
        looks.condition(decide.reset);
        json one = {{"name", decide.name}, {"from", looks.take()}};
        one["about"] = decide.part->about({decide, rig});
        json points = json::array();
        if (decide.judges)
            for (const rig::DecidePoint& point : rig::points_of(decide))
                points.push_back({{"words", point.words},
                                  {"at", point.at.thousandths() / 1000.0},
                                  {"release", point.release.thousandths() / 1000.0}});
        if (decide.judges)
            one["of"] = rig.sources[decide.of].name;
        one["points"] = std::move(points);
        out.push_back(std::move(one));
    }
    return out;
}

json machines_of(const rig::Rig& rig, LooksAt& looks) {
    json out = json::array();
    for (const rig::RigMachine& machine : rig.machines) {
        for (const rig::WrittenCondition& event : machine.events)
            looks.condition(event);
        out.push_back({{"name", machine.name}, {"states", machine.states}, {"from", looks.take()}});
    }
    return out;
}

json outputs_of(const rig::Rig& rig, LooksAt& looks) {
    json out = json::array();
    for (size_t i = 0; i < rig.drives.size(); ++i) {
        const rig::Drive& drive = rig.drives[i];
        json claims = json::array();
        for (const rig::RigClaim& claim : drive.claims) {
            if (claim.by == rig::RigClaim::By::hand && drive.hand)
                looks.condition(drive.hand->take);
            else if (!claim.always())
                looks.condition(claim.when);
            if (claim.follows)
                looks.decision(*claim.follows);
            claims.push_back(looks.take());
        }
        // What somebody can say over the line to move it.
        json says = json::array();
        for (const std::string& name : said_about(rig, i))
            for (const rig::Sense& sense : rig.senses)
                if (sense.name == name)
                    says.push_back(
                        {{"name", name},
                         {"switch", sense.raw == rig::RawKind::level},
                         {"unit", rig::stored_unit_of(rig.sources[sense.source].kind)},
                         {"longest", rig::longest_said(rig::table_of(rig, sense)).thousandths()}});
        out.push_back({{"name", drive.name},
                       {"part", drive.word},
                       {"pins", drive.pins},
                       {"claims", std::move(claims)},
                       {"says", std::move(says)}});
    }
    return out;
}

json settings_of(const rig::Rig& rig) {
    json out = json::array();
    for (const rig::Sense& sense : rig.senses) {
        if (sense.word != "line_setting")
            continue;
        json one = quantity(rig.sources[sense.source]);
        const SettingSpec spec = rig::setting_of(rig::table_of(rig, sense));
        one["least"] = spec.from / 1000.0;
        one["most"] = spec.value(spec.last()) / 1000.0;
        one["usual"] = spec.value(spec.usual) / 1000.0;
        out.push_back(std::move(one));
    }
    return out;
}

} // namespace

std::string about_device(const rig::Rig& rig) {
    LooksAt looks(rig);
    const json out = {{"id", short_name(rig.name)},
                      {"name", rig.name},
                      {"number", fmt::format("{:08x}", rig::number_of(rig))},
                      {"chip", rig.chip},
                      {"sources", sources_of(rig, looks)},
                      {"decisions", decisions_of(rig, looks)},
                      {"machines", machines_of(rig, looks)},
                      {"outputs", outputs_of(rig, looks)},
                      {"settings", settings_of(rig)},
                      {"tests", said_about_test(rig)},
                      {"shutdowns", said_about_shutdown(rig)},
                      {"show", rig.show}};
    return out.dump(-1, ' ', false, json::error_handler_t::replace);
}

} // namespace zorilla::bench
