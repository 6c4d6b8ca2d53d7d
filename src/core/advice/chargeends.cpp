// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about what keeps a charge from ending well: the device, its end current, heat and limits.
#include "advice/chargerrules.hpp"

namespace sipper::rules {
namespace {

constexpr double kWorthLifting = 0.05; ///< of the hours: a limit that costs less is not named
constexpr double kHarmless = 0.1;      ///< 1/h; nickel cells take that on and on
constexpr double kSafely = 0.95;       ///< of the current at which a part is just at its limit
constexpr double kHalfFull = 0.5;
constexpr double kFullFrom = 0.97;     ///< charge under which nothing is called full
constexpr double kEndShare = 0.05;     ///< of the capacity: the usual end current
constexpr double kOverTwentieth = 1.5; ///< times that: an end current that is the cause

} // namespace

namespace {

/// Means over the day, by every mode's share of it, with the pack half full.
struct OverDay {
    double takes = 0;
    double gives = 0;
};
OverDay overDay(const RuleInput& s, const ChargeContext& b) {
    OverDay day;
    const Schedule schedule(s.project);
    const std::vector<double> hours = schedule.hoursBySetting();
    const double e = b.restVolts(kHalfFull);
    const double r = b.packOhms(kHalfFull);
    std::map<std::size_t, ChargerPoint> moments;
    for (std::size_t k = 0; k < schedule.settings.size(); ++k)
        for (const Share& share : schedule.settings[k].shares) {
            if (share.share <= 0 || hours[k] <= 0)
                continue;
            if (!moments.contains(share.mode)) {
                ChargeOptions ask;
                ask.charger = s.project.stages[b.charger].id;
                ask.source = s.project.stages[b.source].id;
                ask.from = kHalfFull;
                ask.mode = share.mode;
                if (const auto there = chargeContextOf(s.project, ask))
                    moments[share.mode] = there.value()->limits.at(e, r, false);
            }
            const double part = share.share * hours[k] / 24;
            day.takes += part * moments[share.mode].node.loadAmps;
            day.gives += part * moments[share.mode].chargerAmps;
        }
    return day;
}

} // namespace

void deviceTakesMore(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const ChargeRun& c = look.usual;
        const OverDay day = overDay(s, b);
        const bool always = day.gives > 0 && day.takes >= day.gives;
        const bool inBase = c.failure == ChargeFailure::deviceTakesMore;
        const bool slow = c.failure == ChargeFailure::tooSlow;
        if (c.failure && !inBase && !slow)
            return;
        if (!always && !inBase && !slow)
            return;
        // The base mode is most of the day; where the rest gives it back it is worth a look only.
        const bool passing = inBase && day.takes < day.gives && s.project.modes.size() > 1;
        const double takes = inBase || slow ? c.takesAmps : day.takes;
        const double gives = inBase || slow ? c.givesAmps : day.gives;
        const Stage& stage = s.project.stages[b.charger];
        Finding f = finding(
            "device_takes_more", passing || (slow && !always) ? Severity::care : Severity::stop,
            stage.id,
            slow ? "The charge hardly gains" : "The device takes more than the charger gives",
            fmt::format("The device takes {} at the cells{}, {} gives {}: the charge gets nowhere "
                        "while it is on. {}",
                        amps(takes), inBase || slow ? "" : ", on the mean of the day,",
                        nameOf(stage), amps(gives), offText(c)),
            {{"takes_a", takes}, {"gives_a", gives}});
        if (c.offHoursToFull)
            f.numbers["off_hours"] = *c.offHoursToFull;
        if (!hasPowerPath(s.project, stage.id))
            f.fix = pathFix(stage.id);
        out.push_back(std::move(f));
    });
}

void endsEarly(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const ChargeRun& c = look.usual;
        if (c.failure != ChargeFailure::endsEarly || !c.endsAtCharge)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double twentieth = kEndShare * b.pack.cell.capacity.value() * b.pack.parallel;
        // At the end current it is the end current; else the clock or the set voltage.
        const bool byCurrent =
            c.endAmps >= kOverTwentieth * twentieth || (c.setAmps > 0 && c.endAmps >= c.setAmps);
        // Set lower on purpose it is gentle, and no fault of the end current.
        const bool gentle = b.settings.volts > 0 && b.settings.volts < b.restVolts(kFullFrom);
        Finding f = finding(
            "ends_early", gentle && !byCurrent ? Severity::note : Severity::stop, stage.id,
            gentle && !byCurrent ? "It is filled to less than full" : "It ends far from full",
            chargeHeadline(s.project, c),
            {{"ends_at_charge", *c.endsAtCharge}, {"end_a", c.endAmps}, {"set_a", c.setAmps}});
        const double end = std::min(twentieth, c.setAmps > 0 ? c.setAmps / 2 : twentieth);
        if (byCurrent && end < c.endAmps)
            f.fix = figureFix(stage, &Charger::endCurrent, Amps{end}, "End it at " + amps(end),
                              fmt::format("let {} end at {}", nameOf(stage), amps(end)));
        out.push_back(std::move(f));
    });
}

namespace {

/// What the device takes at the set voltage in a mode.
double takesAt(const RuleInput& s, const ChargeContext& b, std::size_t mode) {
    const BatteryNode node(s.project, b.packAt, b.source, mode, b.ambient, b.settings.volts);
    return node.loadAt(b.settings.volts);
}

} // namespace

void endTrap(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const ChargeSettings& set = b.settings;
        if (look.usual.failure == ChargeFailure::deviceTakesMore || !endsByCurrent(b.part) ||
            isSupercapacitor(b.pack.cell))
            return;
        if (set.volts <= 0 || set.endCurrent <= 0 || !canRecharge(b.pack.cell))
            return;
        const auto [takes, mode] = hungriest(s, b, set.volts);
        const double least = set.endCurrent * (1 - kRelTol);
        if (takes < least)
            return;
        // It ends in the first moment whose mode leaves it alone.
        const std::vector<double> shares = Schedule(s.project).modeShares(s.project.modes.size());
        double held = 0;
        for (std::size_t m = 0; m < shares.size(); ++m)
            if (shares[m] > 0 && takesAt(s, b, m) >= least)
                held += shares[m];
        const double whole = std::accumulate(shares.begin(), shares.end(), 0.0);
        const bool never = held >= whole * (1 - kRelTol);
        // The charge itself knows better where the device gives up meanwhile, or takes too much.
        if (never && !look.usual.curve.empty() && look.usual.failure != ChargeFailure::endTrap)
            return;
        const std::string says = fmt::format(
            "At {} the device takes {} in mode “{}”, and the charger ends at {}: ",
            volts(set.volts), amps(takes), nameOf(s.project.modes[mode]), amps(set.endCurrent));
        const std::string off =
            look.usual.offHoursToFull
                ? fmt::format(" With the output switched off it is full after {}.",
                              writeHours(*look.usual.offHoursToFull))
                : std::string();
        Finding f = finding(
            "end_trap", never ? Severity::stop : Severity::note, s.project.stages[b.charger].id,
            never ? "The charge never ends" : "The charge waits for the device",
            never ? says + "it holds the cells at their fullest for good." + off
                  : says + fmt::format("that delays its end, for {} of the day.{}",
                                       writeHours(held * 24), off),
            {{"load_a", takes}, {"limit_a", set.endCurrent}, {"hours_a_day", held * 24}});
        if (look.usual.offHoursToFull)
            f.numbers["off_hours"] = *look.usual.offHoursToFull;
        if (never && !hasPowerPath(s.project, s.project.stages[b.charger].id))
            f.fix = pathFix(s.project.stages[b.charger].id);
        out.push_back(std::move(f));
    });
}

void chargeHeat(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        if (!look.hot || b.limits.converter().theta <= 0)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double most = maxPartOf(stage.part);
        const bool folds = look.hot->hoursLimitedBy(ChargeLimit::heat) > 0;
        const bool past = overSet(look.hot->peakPart, most);
        if (!folds && !past)
            return;
        const double limit = folds ? b.settings.foldBack : most;
        const double air = s.project.brief.air().high.value_or(b.ambient).value();
        // In proportion to the loss: what comes in, less the pack, stays the same.
        double peak = 0;
        double atPeak = 0;
        for (const ChargePoint& p : look.hot->curve)
            if (p.loss > peak) {
                peak = p.loss;
                atPeak = p.packAmps;
            }
        const double may = (limit - air) / b.limits.converter().theta;
        const double allowed = peak > 0 ? kSafely * atPeak * std::min(1.0, may / peak) : 0;
        Finding f = finding(
            "charge_heat", past && !folds ? Severity::stop : Severity::care, stage.id,
            folds ? nameOf(stage) + " folds back" : nameOf(stage) + " gets too warm",
            folds ? fmt::format("In air of {:.0f} °C it holds its loss at {} for {}: {} would stay "
                                "under {:.0f} °C.",
                                air, writeQuantity(may, Unit::watt),
                                writeHours(look.hot->hoursLimitedBy(ChargeLimit::heat)),
                                amps(allowed), limit)
                  : fmt::format("In air of {:.0f} °C it reaches {:.0f} °C and may have {:.0f} °C: "
                                "{} would stay under it.",
                                air, look.hot->peakPart, limit, amps(allowed)),
            {{"part_c", look.hot->peakPart}, {"limit_c", limit}, {"allowed_a", allowed}});
        if (allowed > 0 && allowed < b.settings.current)
            f.fix = currentFix(stage, std::floor(allowed * 100) / 100);
        out.push_back(std::move(f));
    });
}

void chargeLimited(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        if (!look.lift || !look.usual.hoursToFull || look.lift->relaxed == ChargeLimit::cc ||
            !look.lift->hours || look.lift->saved < kWorthLifting * *look.usual.hoursToFull)
            return;
        const Part& source = s.project.stages[b.source].part;
        const auto from = std::find_if(
            look.usual.phases.begin(), look.usual.phases.end(),
            [&](const ChargePhase& phase) { return phase.limit == look.lift->relaxed; });
        const std::string next =
            look.lift->next ? limitNamed(*look.lift->next, source) : std::string("nothing");
        out.push_back(finding(
            "charge_limited", Severity::note, s.project.stages[b.charger].id,
            fmt::format("{} holds the charge back",
                        [&] {
                            std::string who = limitNamed(look.lift->relaxed, source);
                            who[0] =
                                static_cast<char>(std::toupper(static_cast<unsigned char>(who[0])));
                            return who;
                        }()),
            fmt::format("From {} on, and it costs {}: without it {} is next, and full after {}.",
                        from->from > 0 ? writeHours(from->from) : std::string("the start"),
                        writeHours(look.lift->saved), next, writeHours(*look.lift->hours)),
            {{"hours_lost", look.lift->saved}, {"hours", *look.usual.hoursToFull}}));
    });
}

void dumbCharger(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const bool open = b.limits.converter().topology == Topology::direct;
        if (!open || !look.usual.hoursToFull)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double ampHours = b.pack.cell.capacity.value() * b.pack.parallel;
        const double rate = look.usual.afterAmps / ampHours;
        const bool lithium = isRechargeableLithium(b.pack.cell.chemistry);
        const bool harms = lithium || rate > kHarmless;
        out.push_back(finding(
            "dumb_charger",
            lithium ? Severity::stop
            : harms ? Severity::care
                    : Severity::note,
            stage.id, "Nothing ends this charge but you",
            lithium
                ? fmt::format("{} goes on pushing into full lithium cells until they burn. They "
                              "take a charger that ends.",
                              nameOf(stage))
                : fmt::format("From empty it is full after {}, then {} go on into it, {} of its "
                              "capacity an hour{}. Take it off after {}.",
                              writeHours(*look.usual.hoursToFull / (1 - look.usual.from)),
                              amps(look.usual.afterAmps), writeShare(rate),
                              harms ? ": that cooks it" : "",
                              writeHours(*look.usual.hoursToFull / (1 - look.usual.from))),
            {{"after_a", look.usual.afterAmps}, {"hours", *look.usual.hoursToFull}}));
    });
}

} // namespace sipper::rules
