// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/aim.hpp"

#include "project/edits.hpp"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>

namespace sipper {
namespace {

constexpr int kMostDoublings = 40;
constexpr std::uintmax_t kMostRounds = 40;
constexpr int kDigits = 3;
constexpr double kSmallest = 1e-6; ///< A or W to start from where nothing is drawn
constexpr double kLeastOhms = 1e-3;

double rounded(double value) {
    if (value <= 0)
        return 0;
    const double unit = std::pow(10.0, std::floor(std::log10(value)) + 1 - kDigits);
    return std::round(value / unit) * unit;
}

/// The draw as one rising figure: amps, watts, or siemens.
double figureOf(const Draw& d) {
    return d.current ? d.current->value()
           : d.power ? d.power->value()
           : d.led   ? d.led->value()
                     : 1 / d.resistance->value();
}
void setFigure(Draw& d, double figure) {
    if (d.current)
        d.current = Amps{rounded(figure)};
    else if (d.power)
        d.power = Watts{rounded(figure)};
    else if (d.led)
        d.led = Amps{rounded(figure)};
    else
        d.resistance = Ohms{rounded(1 / std::min(1 / kLeastOhms, std::max(figure, 1e-12)))};
}

} // namespace

std::size_t greatestLoad(const Budget& budget, std::size_t mode) {
    std::size_t best = 0;
    for (std::size_t l = 0; l < budget.loadModeWhPerDay.size(); ++l)
        if (budget.loadModeWhPerDay[l][mode] > budget.loadModeWhPerDay[best][mode])
            best = l;
    return best;
}

Project withModeCurrent(const Project& project, std::size_t load, std::size_t mode, Amps wanted) {
    if (!project.pack() || load >= project.loads.size() || mode >= project.modes.size())
        return project;
    Project p = project;
    Draw& draw = ownDrawIn(project, p.loads[load], mode);
    draw.basis = Basis::guess;
    draw.tolerance.reset();
    // What the mode takes when the draw is `figure`; nothing: it can't.
    const auto takes = [&](double figure) -> std::optional<double> {
        setFigure(draw, figure);
        const Budget b = budgetOf(p);
        if (!b.collapsed.empty())
            return std::nullopt;
        return b.modes[mode].packAmps;
    };
    double low = 0;
    if (takes(low).value_or(wanted.value()) >= wanted.value()) {
        setFigure(draw, 0);
        return p;
    }
    double high = std::max(kSmallest, figureOf(*drawIn(project, project.loads[load], mode)));
    if (const auto now = takes(high); now && *now < wanted.value())
        for (int i = 0; i < kMostDoublings; ++i) {
            low = high;
            high *= 2;
            const auto more = takes(high);
            if (!more || *more >= wanted.value())
                break;
        }
    std::uintmax_t rounds = kMostRounds;
    // A draw that can't be carried counts as too much.
    const auto miss = [&](double figure) {
        const auto amps = takes(figure);
        return amps ? *amps - wanted.value() : wanted.value();
    };
    const double lowMiss = miss(low);
    const double highMiss = miss(high);
    if (lowMiss * highMiss > 0) {
        setFigure(draw, high);
        return p;
    }
    const auto close = [](double a, double b) { return std::abs(a - b) <= 1e-4 * std::abs(b); };
    const auto found =
        boost::math::tools::toms748_solve(miss, low, high, lowMiss, highMiss, close, rounds);
    // Draws are rounded, so that the bracket is a step: its nearer end counts.
    const bool first =
        found.first > 0 && std::abs(miss(found.first)) <= std::abs(miss(found.second));
    setFigure(draw, first ? found.first : found.second);
    return p;
}

} // namespace sipper
