// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/viewtable.hpp"

#include "charge/text.hpp"
#include "protect/text.hpp"
#include "text/text.hpp"
#include "views/bench/benchview.hpp"
#include "views/brief/briefview.hpp"
#include "views/charging/chargingview.hpp"
#include "views/compare/compareview.hpp"
#include "views/find/findview.hpp"
#include "views/loads/loadsview.hpp"
#include "views/protection/protectionview.hpp"
#include "views/runtime/runtimeview.hpp"
#include "views/sheet/sheetview.hpp"
#include "views/start/startpage.hpp"
#include "views/supplyline/supplylineview.hpp"
#include "widgets/text.hpp"

namespace sipper::app {
namespace {

template <class V>
QWidget* make(Session& session) {
    return new V(session);
}

StepLine briefLine(const Session& s) {
    const Brief& b = s.project().brief;
    const QString where = b.setting ? qs(nameOf(*b.setting)) : QObject::tr("anywhere");
    return {b.targetRuntime ? where + ", " + hours(b.targetRuntime->value()) : where};
}

StepLine loadsLine(const Session& s) {
    const std::size_t count = s.project().loads.size();
    return {QObject::tr("%1 · %2").arg(count == 1 ? QObject::tr("1 load")
                                                  : QObject::tr("%1 loads").arg(count),
                                       quantity(s.results().budget.meanWatts, Unit::watt))};
}

StepLine supplyLine(const Session& s) {
    std::vector<Finding> ofLine;
    for (const Finding& f : s.results().findings)
        if (f.subject != "project")
            ofLine.push_back(f);
    const bool source = s.results().sweep || !s.results().externalLoads.empty();
    const bool open = countOf(ofLine, Severity::stop) + countOf(ofLine, Severity::care) > 0;
    return {open     ? qs(adviceText(ofLine))
            : source ? QObject::tr("all loads in window")
                     : QObject::tr("no source yet"),
            countOf(ofLine, Severity::stop) > 0};
}

StepLine runtimeLine(const Session& s) {
    const Runtime& r = s.results().runtime;
    if (!r.hours)
        return {QObject::tr("does not run down")};
    if (r.hours->value() == 0)
        return {QObject::tr("never starts"), true};
    if (byTheSun(s.project()))
        return {QObject::tr("%1 without sun").arg(hours(r.hours->value()))};
    const auto& target = s.project().brief.targetRuntime;
    const bool miss = target && r.hours->value() < target->value();
    const QString runs = hours(r.hours->value());
    return {miss ? QObject::tr("%1 of %2").arg(runs, hours(target->value())) : runs, miss};
}

StepLine chargingLine(const Session& s) {
    const ChargeRun* refill = s.results().refill();
    if (const SolarAnalysis* sun = s.results().sun(); sun && (!refill || byTheSun(s.project()))) {
        const double missed = sun->year.all.lossOfLoadHours / static_cast<double>(sun->year.years);
        return {missed > 0 ? QObject::tr("%1 a year missed").arg(hours(missed))
                           : QObject::tr("nothing missed"),
                missed > 0};
    }
    if (!refill)
        return {byTheSun(s.project()) ? QObject::tr("by the sun") : QObject::tr("no charger")};
    if (!refill->hoursToFull)
        return {QObject::tr("charge: %1").arg(qs(neverShort(*refill)).toLower()), true};
    return {QObject::tr("%1 by %2")
                .arg(hours(*refill->hoursToFull),
                     qs(sourceWord(s.project().stage(refill->source)->part)))};
}

StepLine benchLine(const Session& s) {
    const auto& look = s.results().bench;
    if (!look || look->checks.empty())
        return {QObject::tr("nothing to check yet")};
    const int outside = look->count(CheckVerdict::outside);
    const QString read =
        QObject::tr("%1 of %2 read")
            .arg(static_cast<int>(look->checks.size()) - look->count(CheckVerdict::untested))
            .arg(look->checks.size());
    return {outside > 0 ? QObject::tr("%1 of %2, %3 outside")
                              .arg(static_cast<int>(look->checks.size()) -
                                   look->count(CheckVerdict::untested))
                              .arg(look->checks.size())
                              .arg(outside)
                        : read,
            outside > 0};
}

StepLine sheetLine(const Session& s) {
    const auto parts = partsFor(s.project());
    const auto bought =
        std::count_if(parts.begin(), parts.end(), [](const SheetPart& p) { return p.have; });
    if (parts.empty())
        return {QObject::tr("nothing to build yet")};
    return {bought > 0 ? QObject::tr("%1 of %2 bought").arg(bought).arg(parts.size())
                       : QObject::tr("%1 parts").arg(parts.size())};
}

StepLine protectionLine(const Session& s) {
    const auto& look = s.results().protect;
    if (!look)
        return {};
    const ProtectVerdict verdict = protectVerdict(s.project(), *look);
    return {qs(verdict.word), verdict.bad};
}

} // namespace

std::span<const ViewEntry> viewTable() {
    static const std::vector<ViewEntry> table{
        {"brief",
         "Brief",
         "&Brief",
         "Ctrl+1",
         1,
         make<BriefView>,
         briefLine,
         {{"brief", "--example nest-box-listener"}}},
        {"loads",
         "Loads",
         "&Loads",
         "Ctrl+2",
         2,
         make<LoadsView>,
         loadsLine,
         {{"loads", "--example nest-box-listener"},
          {"loads-trace", "--example nest-box-listener --select recorder --trace "
                          "data/traces/listener-night.csv"}}},
        {"supply-line",
         "Supply line",
         "&Supply line",
         "Ctrl+3",
         3,
         make<SupplyLineView>,
         supplyLine,
         {{"supply-line", "--example nest-box-listener"},
          {"supply-line-night", "--example lake-parade-lantern --theme night"},
          {"regulator-curves", "--example nest-box-listener --select boost5 --curves"},
          {"library", "--example nest-box-listener --select logic33 --library"},
          {"supply-line-charging", "--example moth-counter --plug socket --select topper"}}},
        {"runtime",
         "Runtime",
         "&Runtime",
         "Ctrl+4",
         4,
         make<RuntimeView>,
         runtimeLine,
         {{"runtime", "--example nest-box-listener"},
          {"quick-sums", "--example stage-theremin --sum divider"}}},
        {"charging",
         "Charging",
         "&Charging",
         "Ctrl+5",
         5,
         make<ChargingView>,
         chargingLine,
         {{"charging", "--example moth-counter"},
          {"charging-night", "--example hedge-lantern --theme night"},
          {"charging-sun", "--example ridge-weather-mast"}}},
        {"protection",
         "Protection",
         "&Protection",
         "Ctrl+6",
         6,
         make<ProtectionView>,
         protectionLine,
         {{"protection", "--example hand-cart-organ"}}},
        {"bench",
         "Bench",
         "B&ench",
         "Ctrl+7",
         7,
         make<BenchView>,
         benchLine,
         {{"bench", "--example hand-cart-organ"}}},
        {"build-sheet",
         "Build sheet",
         "Build s&heet",
         "Ctrl+8",
         8,
         make<SheetView>,
         sheetLine,
         {{"build-sheet", "--example hand-cart-organ"}}},
        {"find",
         "Find a supply",
         "&Find a supply",
         "Ctrl+F",
         0,
         make<FindView>,
         nullptr,
         {{"find", "--example moth-counter"}}},
        {"compare",
         "Variants",
         "&Compare variants",
         "Ctrl+E",
         0,
         make<CompareView>,
         nullptr,
         {{"variants", "--example model-ferry-winch"}}},
    };
    return table;
}

const ViewEntry* viewNamed(std::string_view name) {
    for (const ViewEntry& entry : viewTable())
        if (entry.name == name)
            return &entry;
    return nullptr;
}

QString viewNames() {
    QStringList names{QString::fromLatin1(kStartPage)};
    for (const ViewEntry& entry : viewTable())
        names << QString::fromLatin1(entry.name);
    return names.join(QStringLiteral(", "));
}

} // namespace sipper::app
