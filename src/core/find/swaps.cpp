#include "find/swaps.hpp"

#include "line/unloaded.hpp"
#include "parts/chemistry.hpp"
#include "parts/fields.hpp"
#include "project/build.hpp"
#include "quantity/write.hpp"
#include "runtime/tether.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kSlack = 1e-9;
constexpr double kCoarseCharge = 0.02; ///< a ranking needs no more than half a per cent
constexpr double kCoarseVolts = 0.02;
constexpr double kCoarseTolerance = 3e-4;

bool regulates(const Part& part) {
    return std::holds_alternative<Linear>(part) || std::holds_alternative<Switcher>(part);
}
bool oneWay(const Part& part) {
    return std::holds_alternative<Diode>(part) || std::holds_alternative<IdealDiode>(part);
}
bool mains(const Part& part) {
    return isSource(part) && !std::holds_alternative<Pack>(part) &&
           !std::holds_alternative<Panel>(part);
}

double nominalOf(const Cell& cell) {
    return cell.nominal ? cell.nominal->value() : voltsOf(cell.chemistry).nominal;
}

/// Volts everywhere with nothing drawn: the pack full, or the source at its highest.
Flows unloaded(const Project& p) {
    if (p.pack())
        return unloadedAtFull(p);
    const auto sources = mainsSources(p);
    return sources.empty() ? Flows{} : unloadedFrom(p, sources.front());
}

/// What the unloaded line already says against it; empty when nothing does.
std::string trouble(const Project& p, const Flows& idle) {
    for (std::size_t i = 0; i < p.stages.size() && i < idle.stages.size(); ++i) {
        const double limit = figureOf(p.stages[i].part, "input_never_above_v");
        if (limit > 0 && idle.stages[i].vIn > limit * (1 + kSlack))
            return fmt::format("{} would see {}", nameOf(p.stages[i]),
                               writeQuantity(idle.stages[i].vIn, Unit::volt));
    }
    for (std::size_t i = 0; i < p.loads.size() && i < idle.loads.size(); ++i)
        if (idle.loads[i].v > p.loads[i].window.max.value() * (1 + kSlack))
            return fmt::format("{} would see {}", nameOf(p.loads[i]),
                               writeQuantity(idle.loads[i].v, Unit::volt));
    return {};
}

std::string whyNotSet(const Part& part) {
    const double set = figureOf(part, "set_v");
    const double least = figureOf(part, "adjust_min_v");
    const double most = figureOf(part, "adjust_max_v");
    if (least > 0 && set < least * (1 - kSlack))
        return "its output starts at " + writeQuantity(least, Unit::volt);
    if (most > 0 && set > most * (1 + kSlack))
        return "its output ends at " + writeQuantity(most, Unit::volt);
    return {};
}

std::string endText(const Project& p, const Ending& end) {
    const Stage* stage = p.stage(end.at);
    const Load* load = p.load(end.at);
    const std::string at = load ? nameOf(*load) : stage ? nameOf(*stage) : end.at;
    switch (end.reason) {
    case EndReason::collapse:
        return "the supply collapses";
    case EndReason::limit:
        return at + " is at its limit";
    case EndReason::cutoff:
        return at + " opens at once";
    default:
        return at + " is outside its window";
    }
}

} // namespace

bool sameTrade(const Part& part, const Part& other) {
    if (regulates(part))
        return regulates(other);
    if (oneWay(part))
        return oneWay(other);
    if (mains(part))
        return mains(other);
    return part.index() == other.index();
}

Project withSwap(const Project& project, std::string_view id, const LibraryPart& part,
                 double series) {
    const Stage* before = project.stage(id);
    if (!before || !sameTrade(before->part, part.stage.part))
        return project;
    Project p = withPart(project, id, part.stage);
    Stage& stage = *p.stage(id);
    if (auto* pack = std::get_if<Pack>(&stage.part)) {
        // The pack stays what it is but for its cells; what was measured on the old ones is gone.
        const Pack& old = std::get<Pack>(before->part);
        Pack next = old;
        next.cell = pack->cell;
        next.measuredResistance.reset();
        next.weakestGroup.reset();
        next.health.reset();
        const double volts = old.series * nominalOf(old.cell);
        next.series = series > 0 ? series : std::max(1.0, std::round(volts / nominalOf(next.cell)));
        stage.part = next;
    }
    if (std::holds_alternative<Wire>(stage.part))
        setValue(stage.part, "length_m", valueOf(before->part, "length_m"));
    return p;
}

namespace {

/// One candidate after another against the project as it is.
class Solver {
  public:
    Solver(const Project& project, const Library& library, std::string_view id)
        : m_project(project), m_library(library), m_id(id), m_grams(project.massGrams()),
          m_price(project.totalPrice()) {
        m_coarse.record = false;
        m_coarse.chargeShare = kCoarseCharge;
        m_coarse.voltsPerCell = kCoarseVolts;
        m_coarse.tolerance = kCoarseTolerance;
        if (project.pack())
            m_hours = predictRuntime(project, typicalConditions(project), m_coarse)
                          .hours.value_or(Hours{0})
                          .value();
    }

    [[nodiscard]] Swap solve(std::size_t part, double series) const {
        Swap swap;
        swap.part = part;
        const Project with = withSwap(m_project, m_id, m_library.parts[part], series);
        swap.series = figureOf(with.stage(m_id)->part, "series");
        swap.gramsMore = with.massGrams() - m_grams;
        swap.priceMore = with.totalPrice() - m_price;
        swap.why = whyNotSet(with.stage(m_id)->part);
        if (swap.why.empty())
            swap.why = trouble(with, unloaded(with));
        if (swap.why.empty() && with.pack())
            onCells(with, swap);
        else if (swap.why.empty())
            onMains(with, swap);
        swap.fits = swap.why.empty();
        return swap;
    }

  private:
    void onCells(const Project& with, Swap& swap) const {
        const Runtime r = predictRuntime(with, typicalConditions(with), m_coarse);
        if (!r.hours)
            return;
        swap.hours = r.hours->value();
        swap.gainHours = *swap.hours - m_hours;
        if (*swap.hours <= 0)
            swap.why = endText(with, r.ending);
    }
    static void onMains(const Project& with, Swap& swap) {
        for (const Tether& t : tethersOf(with)) {
            swap.heatWatts = std::max(swap.heatWatts, t.heatWatts);
            if (t.collapses || t.trips)
                swap.why = nameOf(with.stages[t.source]) + " can't carry it";
            for (std::size_t l = 0; l < with.loads.size(); ++l)
                if (t.seen.leavesAt[l].seen)
                    swap.why = nameOf(with.loads[l]) + " gets too little";
        }
    }

    const Project& m_project;
    const Library& m_library;
    std::string m_id;
    Stepping m_coarse;
    double m_hours = 0;
    double m_grams;
    double m_price;
};

} // namespace

std::vector<Swap> suggestSwaps(const Project& project, const Library& library, std::string_view id,
                               const std::stop_token& stop,
                               const std::function<void(std::size_t, std::size_t)>& each) {
    std::vector<Swap> list;
    const Stage* stage = project.stage(id);
    if (!stage)
        return list;
    const Solver solver(project, library, id);
    std::vector<std::size_t> parts;
    for (std::size_t i = 0; i < library.parts.size(); ++i)
        if (sameTrade(stage->part, library.parts[i].stage.part))
            parts.push_back(i);
    for (const std::size_t i : parts) {
        if (stop.stop_requested())
            return {};
        Swap swap = solver.solve(i, 0);
        if (const auto* pack = std::get_if<Pack>(&stage->part);
            pack && pack->series != swap.series) {
            Swap asMany = solver.solve(i, pack->series);
            if (asMany.fits > swap.fits ||
                (asMany.fits == swap.fits && asMany.gainHours > swap.gainHours))
                swap = std::move(asMany);
        }
        list.push_back(std::move(swap));
        if (each)
            each(list.size(), parts.size());
    }
    std::stable_sort(list.begin(), list.end(), [](const Swap& a, const Swap& b) {
        return std::tuple(!a.fits, -a.gainHours, a.heatWatts, a.priceMore) <
               std::tuple(!b.fits, -b.gainHours, b.heatWatts, b.priceMore);
    });
    return list;
}

} // namespace sipper
