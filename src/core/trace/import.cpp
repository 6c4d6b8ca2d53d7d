// SPDX-License-Identifier: GPL-3.0-or-later
#include "trace/import.hpp"

#include "project/edits.hpp"
#include "project/library.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kAlike = 1.5; ///< ratio of currents under which a level is a known mode's
constexpr int kCurrentDigits = 4;
constexpr int kTimeDigits = 4;

double rounded(double value, int digits) {
    if (value == 0)
        return 0;
    const double unit = std::pow(10.0, std::floor(std::log10(std::abs(value))) + 1 - digits);
    return std::round(value / unit) * unit;
}

std::size_t modeNamed(const Project& p, const std::string& name) {
    const auto at = std::find_if(p.modes.begin(), p.modes.end(),
                                 [&](const Mode& m) { return nameOf(m) == name; });
    return static_cast<std::size_t>(at - p.modes.begin());
}

void setTimes(Mode& mode, const TraceMode& level) {
    const double lasts = rounded(level.typicalSeconds, kTimeDigits);
    mode.duration = Seconds{lasts};
    mode.every = Seconds{std::max(lasts, rounded(lasts / level.share, kTimeDigits))};
    mode.within.clear();
}

Draw drawOf(const TraceMode& level, const std::string& mode, bool asPower) {
    Draw draw;
    draw.mode = mode;
    if (asPower && level.watts > 0)
        draw.power = Watts{rounded(level.watts, kCurrentDigits)};
    else
        draw.current = Amps{std::max(0.0, rounded(level.amps, kCurrentDigits))};
    if (level.burstAmps > 0) {
        draw.burst = Amps{rounded(level.burstAmps, kCurrentDigits)};
        draw.burstTime = Seconds{rounded(level.burstSeconds, kTimeDigits)};
        draw.burstsPerSecond = PerSecond{rounded(level.burstsPerSecond, kTimeDigits)};
    }
    draw.basis = Basis::measured;
    return draw;
}

/// Each level a name of its own, so that none takes another's mode: a second one is numbered.
void tellApart(std::vector<std::string>& names) {
    for (std::size_t i = 1; i < names.size(); ++i) {
        const auto before = names.begin() + static_cast<std::ptrdiff_t>(i);
        const std::string wanted = names[i];
        for (int n = 2; std::find(names.begin(), before, names[i]) != before; ++n)
            names[i] = wanted + " " + std::to_string(n);
    }
}

} // namespace

std::vector<std::string> proposedNames(const Project& p, const TraceSegments& cut,
                                       std::string_view loadId) {
    const Load* load = p.load(loadId);
    std::vector<std::string> names;
    for (std::size_t i = 0; i < cut.modes.size(); ++i) {
        std::string name = i == 0 ? nameOf(p.modes[p.baseMode()])
                                  : "At " + writeQuantity(cut.modes[i].amps, Unit::ampere);
        double nearest = kAlike;
        for (std::size_t m = 0; i > 0 && load && m < p.modes.size(); ++m) {
            const Draw* draw = drawIn(p, *load, m);
            if (p.modes[m].isBase() || !draw || !draw->current || draw->current->value() <= 0)
                continue;
            const double a = draw->current->value();
            const double ratio = std::max(a / cut.modes[i].amps, cut.modes[i].amps / a);
            const std::string known = nameOf(p.modes[m]);
            if (ratio < nearest && std::find(names.begin(), names.end(), known) == names.end()) {
                nearest = ratio;
                name = known;
            }
        }
        names.push_back(name);
    }
    tellApart(names);
    return names;
}

Project withTraceModes(Project p, const TraceSegments& cut, const TraceImport& take) {
    std::vector<std::string> names = proposedNames(p, cut, take.load);
    for (std::size_t i = 0; i < std::min(names.size(), take.names.size()); ++i)
        if (!take.names[i].empty())
            names[i] = take.names[i];
    tellApart(names);
    std::string id = take.load;
    if (!p.load(id)) {
        Project with = withNewLoad(p);
        if (with.loads.size() == p.loads.size())
            return p; // nothing that it could hang on
        p = std::move(with);
        id = p.loads.back().id;
        p.loads.back().label = "Measured load";
        p.loads.back().draws.clear();
    }
    const std::size_t before = p.modes.size();
    std::vector<char> kept(before, take.how == ImportMode::add);
    std::vector<std::string> modeIds;
    for (std::size_t i = 0; i < cut.modes.size(); ++i) {
        const TraceMode& level = cut.modes[i];
        std::size_t at = modeNamed(p, names[i]);
        if (i == 0) {
            at = p.baseMode();
            if (take.how == ImportMode::replace || !take.names.empty())
                p.modes[at].label = names[0];
        } else if (at == p.modes.size()) {
            const std::string freshId = freeModeId(p);
            Mode& fresh = p.modes.emplace_back();
            fresh.id = freshId;
            fresh.label = names[i];
        }
        Mode& mode = p.modes[at];
        if (at < before)
            kept[at] = 1;
        if (i > 0 && !mode.isWindowed() && !mode.isBase())
            setTimes(mode, level);
        modeIds.push_back(mode.id);
    }
    // Draws: the measured load's are the trace's, with nothing left of what was guessed.
    Load& load = *p.load(id);
    if (take.how == ImportMode::replace)
        load.draws.clear();
    for (std::size_t i = 0; i < cut.modes.size(); ++i) {
        std::erase_if(load.draws, [&](const Draw& d) { return d.mode == modeIds[i]; });
        load.draws.push_back(drawOf(cut.modes[i], modeIds[i], take.asPower));
    }
    for (std::size_t m = before; m-- > 0;)
        if (!kept[m]) {
            const std::string gone = p.modes[m].id;
            p.modes.erase(p.modes.begin() + static_cast<std::ptrdiff_t>(m));
            for (Load& other : p.loads)
                std::erase_if(other.draws, [&](const Draw& d) { return d.mode == gone; });
            for (Mode& other : p.modes)
                if (other.within == gone)
                    other.within.clear();
        }
    return p;
}

} // namespace sipper
