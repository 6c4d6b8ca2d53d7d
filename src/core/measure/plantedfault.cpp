// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/plantedfault.hpp"

#include "measure/benchprobe.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kMisSetOver = 1.1;    ///< times what it should be, where nobody says
constexpr double kJoinedMetres = 0.01; ///< of the wire that a shorted part is
constexpr double kJoinedArea = 1;      ///< mm2
constexpr std::size_t kMostSuspects = 3;
constexpr double kHalf = 0.5; ///< of what is outside, that a suspect has to explain

/// What a mis-set part is set wrong by: volts of its set-point, cut-off or charge; nothing where it
/// has none.
std::optional<double> settingOf(const Part& part) {
    if (const auto* guard = std::get_if<Guard>(&part))
        return guard->cutoff.value();
    if (const auto* charger = std::get_if<Charger>(&part))
        return charger->chargeVoltage ? std::optional(charger->chargeVoltage->value())
                                      : std::nullopt;
    if (const auto* adapter = std::get_if<Adapter>(&part))
        return adapter->set ? std::optional(adapter->set->value()) : std::nullopt;
    const auto set = setPointOf(part);
    return set ? std::optional(set->value()) : std::nullopt;
}

void setTo(Part& part, double volts) {
    if (auto* guard = std::get_if<Guard>(&part)) {
        if (guard->reconnect)
            guard->reconnect = std::max(*guard->reconnect, Volts{volts});
        guard->cutoff = Volts{volts};
    } else if (auto* charger = std::get_if<Charger>(&part)) {
        charger->chargeVoltage = Volts{volts};
    } else if (auto* adapter = std::get_if<Adapter>(&part)) {
        adapter->set = Volts{volts};
    } else {
        static_cast<void>(setPointTo(part, Volts{volts}));
    }
}

bool canFail(const Part& part, FaultKind kind) {
    if (kind == FaultKind::misSet)
        return settingOf(part).has_value();
    if (kind == FaultKind::failsOpen)
        return true;
    return kind == FaultKind::failsShort && !isSource(part) && !isCharger(part) &&
           !kindFacts(part).severalFeeds;
}

constexpr std::array kPlanted{FaultKind::failsShort, FaultKind::failsOpen, FaultKind::misSet};

/// Does what the fault makes of a check stand where it was read: within the check's own band,
/// moved there, and no less than its meter tells?
bool readsAs(const BenchCheck& c, const std::optional<double>& then) {
    if (!then)
        return std::abs(*c.value) < 1e-3;
    const double half = std::max((c.coverageHigh - c.coverageLow) / 2, 0.03 * std::abs(*then));
    return std::abs(*c.value - *then) <= half;
}

/// The volts that a check read at the part, where its setting is what was read.
std::optional<double> readSetting(const BenchAnalysis& bench, const std::string& id) {
    for (const BenchCheck& c : bench.checks)
        if (c.at == id && c.value && *c.value > 0 &&
            (c.kind == CheckKind::setPoint || c.kind == CheckKind::cutoff))
            return c.value;
    return std::nullopt;
}

} // namespace

Outcome<PlantedFault> readFault(const Project& project, std::string_view text) {
    const auto equals = text.find('=');
    const std::string form = "STAGE=short, STAGE=open or STAGE=mis_set:VOLTS";
    if (equals == std::string_view::npos || equals == 0)
        return Error{"fault", "--fault", '"' + std::string(text) + '"', form, ""};
    PlantedFault fault;
    fault.stage = std::string(text.substr(0, equals));
    std::string_view what = text.substr(equals + 1);
    if (const auto colon = what.find(':'); colon != std::string_view::npos) {
        const auto volts = readQuantity(std::string(what.substr(colon + 1)), Unit::volt);
        if (!volts || !(volts.value() > 0) || what.substr(0, colon) != "mis_set")
            return Error{"fault", "--fault", '"' + std::string(text) + '"', form, ""};
        fault.volts = volts.value();
        what = what.substr(0, colon);
    }
    const auto kind = std::find_if(kPlanted.begin(), kPlanted.end(),
                                   [&](FaultKind k) { return faultName(k) == what; });
    if (kind == kPlanted.end())
        return Error{"fault", "--fault", '"' + std::string(text) + '"', form, ""};
    fault.kind = *kind;
    const Stage* stage = project.stage(fault.stage);
    if (!stage)
        return Error{"dangling_id", "--fault", '"' + fault.stage + '"', "the id of a stage", ""};
    if (!canFail(stage->part, fault.kind))
        return Error{"kind", "--fault",
                     fmt::format("{} of \"{}\", a {}", what, fault.stage, kindText(stage->part)),
                     "a fault that such a part can have", ""};
    return fault;
}

std::string writeFault(const PlantedFault& fault) {
    return fault.stage + "=" + std::string(faultName(fault.kind)) +
           (fault.volts ? fmt::format(":{:g}", *fault.volts) : std::string());
}

std::string faultSentence(const Project& project, const PlantedFault& fault) {
    const Stage* stage = project.stage(fault.stage);
    const std::string name = stage ? nameOf(*stage) : fault.stage;
    switch (fault.kind) {
    case FaultKind::failsShort:
        return name + " is shorted through";
    case FaultKind::failsOpen:
        return name + " is open";
    default:
        return fault.volts ? name + " is set to " + writeQuantity(*fault.volts, Unit::volt)
                           : name + " is set wrong";
    }
}

FaultyBench::FaultyBench(const Project& project, const std::vector<PlantedFault>& faults)
    : m_project(project) {
    for (const PlantedFault& fault : faults) {
        Stage* stage = m_project.stage(fault.stage);
        if (!stage || !canFail(stage->part, fault.kind))
            continue;
        m_faults[fault.stage] = fault.kind;
        if (fault.kind == FaultKind::misSet) {
            setTo(stage->part, fault.volts.value_or(kMisSetOver * *settingOf(stage->part)));
        } else if (fault.kind == FaultKind::failsShort) {
            Wire joined;
            joined.length = Metres{kJoinedMetres};
            joined.area = SquareMillimetres{kJoinedArea};
            stage->part = joined;
        } else {
            m_unpowered.insert(fault.stage);
            for (const std::string& id : downstreamIds(m_project, fault.stage))
                m_unpowered.insert(id);
        }
    }
    // What has another feed beside the dead one lives on that.
    for (bool again = true; again;) {
        again = false;
        for (const Stage& s : m_project.stages)
            if (m_unpowered.contains(s.id) && !m_faults.contains(s.id) &&
                std::any_of(s.fedBy.begin(), s.fedBy.end(),
                            [&](const std::string& feed) { return !m_unpowered.contains(feed); }))
                again = m_unpowered.erase(s.id) > 0;
        for (const Load& l : m_project.loads)
            if (m_unpowered.contains(l.id) && !m_unpowered.contains(l.fedBy))
                again = m_unpowered.erase(l.id) > 0 || again;
    }
    for (Stage& s : m_project.stages)
        std::erase_if(s.fedBy, [&](const std::string& feed) { return m_unpowered.contains(feed); });
    std::erase_if(m_project.stages, [&](const Stage& s) {
        const auto* charger = std::get_if<Charger>(&s.part);
        return (m_unpowered.contains(s.id) || (charger && m_unpowered.contains(charger->charges)));
    });
    std::erase_if(m_project.loads, [&](const Load& l) { return m_unpowered.contains(l.id); });
}

std::vector<std::optional<double>> FaultyBench::read(const std::vector<BenchCheck>& checks,
                                                     double charge, Celsius ambient) const {
    TestSetup here;
    here.project = m_project;
    here.stated = here.charge = charge;
    BenchProbe probe(here, ambient);
    std::vector<std::optional<double>> out;
    out.reserve(checks.size());
    for (const BenchCheck& c : checks) {
        const bool there = m_project.stage(c.at) || m_project.load(c.at);
        const auto fault = m_faults.find(c.at);
        const bool joined = fault != m_faults.end() && fault->second == FaultKind::failsShort;
        const bool threshold = c.kind == CheckKind::cutoff || c.kind == CheckKind::reconnect;
        // A guard that is joined through never opens; nothing comes out of what is open.
        if (!there || (joined && (threshold || c.kind == CheckKind::currentLimit)))
            out.emplace_back(c.quantity == PointQuantity::partC ? ambient.value() : 0);
        else
            out.push_back(probe.read(c));
    }
    return out;
}

std::optional<double> FaultyBench::read(const BenchCheck& check, double charge,
                                        Celsius ambient) const {
    return read(std::vector{check}, charge, ambient).front();
}

std::vector<PlantedFault> noticeableFaults(const Project& project) {
    const BenchAnalysis bench = analyseBench(project);
    std::vector<PlantedFault> list;
    for (const Stage& stage : project.stages)
        for (const FaultKind kind : kPlanted) {
            if (!canFail(stage.part, kind) || isSource(stage.part))
                continue;
            const PlantedFault fault{stage.id, kind, {}};
            const auto then =
                FaultyBench(project, {fault}).read(bench.checks, bench.charge, Celsius{20});
            for (std::size_t i = 0; i < then.size(); ++i)
                if (const BenchCheck& c = bench.checks[i];
                    c.expect &&
                    (then[i].value_or(0) < c.coverageLow || then[i].value_or(0) > c.coverageHigh)) {
                    list.push_back(fault);
                    break;
                }
        }
    return list;
}

std::vector<Suspect> suspectsOf(const Project& project, const BenchAnalysis& bench) {
    std::vector<BenchCheck> taken;
    for (const BenchCheck& c : bench.checks)
        if (c.value && c.expect)
            taken.push_back(c);
    const auto outside = [](const BenchCheck& c) { return c.verdict == CheckVerdict::outside; };
    const auto wrong = std::count_if(taken.begin(), taken.end(), outside);
    std::vector<Suspect> list;
    if (wrong == 0)
        return list;
    for (const Stage& stage : project.stages)
        for (const FaultKind kind : kPlanted) {
            if (!canFail(stage.part, kind))
                continue;
            Suspect s;
            s.fault = {stage.id, kind, {}};
            if (kind == FaultKind::misSet) {
                s.fault.volts = readSetting(bench, stage.id);
                if (!s.fault.volts)
                    continue;
            }
            const FaultyBench faulty(project, {s.fault});
            const auto then = faulty.read(taken, bench.charge, Celsius{20});
            for (std::size_t i = 0; i < taken.size(); ++i)
                if (!readsAs(taken[i], then[i]))
                    ++s.against;
                else if (outside(taken[i]))
                    ++s.explained;
            if (s.explained >= kHalf * static_cast<double>(wrong) && s.explained > s.against)
                list.push_back(std::move(s));
        }
    std::stable_sort(list.begin(), list.end(), [](const Suspect& a, const Suspect& b) {
        return std::pair(a.against - a.explained, a.against) <
               std::pair(b.against - b.explained, b.against);
    });
    if (list.size() > kMostSuspects)
        list.resize(kMostSuspects);
    return list;
}

bool readsStrange(const BenchAnalysis& bench) {
    const int wrong = bench.count(CheckVerdict::outside);
    const int all = wrong + bench.count(CheckVerdict::inside);
    return 2 * wrong > all && all > 2;
}

std::string suspectText(const Project& project, const BenchAnalysis& bench) {
    const int wrong = bench.count(CheckVerdict::outside);
    const int all = wrong + bench.count(CheckVerdict::inside);
    if (wrong == 0)
        return {};
    const std::vector<Suspect> suspects = suspectsOf(project, bench);
    if (!suspects.empty()) {
        std::string text =
            fmt::format("It reads as if {}", faultSentence(project, suspects.front().fault));
        for (std::size_t i = 1; i < suspects.size(); ++i)
            if (suspects[i].against - suspects[i].explained ==
                suspects.front().against - suspects.front().explained)
                text += ", or " + faultSentence(project, suspects[i].fault);
        return text + fmt::format(": that explains {} of the {} outside.",
                                  suspects.front().explained, wrong);
    }
    if (readsStrange(bench))
        return fmt::format("{} of {} are outside and no single fault explains them: these readings "
                           "can't be of this supply. Is it another variant, or the probe in "
                           "another place?",
                           wrong, all);
    return {};
}

} // namespace sipper
