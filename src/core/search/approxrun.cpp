// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/approxrun.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

constexpr double kLongestRun = 1e5; ///< h
constexpr double kRowJump = 0.04;   ///< of the amps, the same between two heights
constexpr int kMeanRounds = 6;
constexpr double kSameMean = 1e-3;    ///< it acts through the relaxation only
constexpr double kLastDrop = 0.002;   ///< the same, of the last
constexpr double kLeastStep = 1e-4;   ///< h
constexpr double kDrop = 1.0 / 40;    ///< of the height, that a step may take
constexpr double kCalmDay = 1.0 / 96; ///< of the height: days that take less are taken together
constexpr double kNodeVolts = 0.02;   ///< of the volts at rest, between two nodes
constexpr double kNodeOhms = 0.05;
constexpr double kNodeHeight = 0.05;
constexpr double kFlat = 1e-2; ///< of the volts: less tells nothing of the height
constexpr int kEndRounds = 9;

} // namespace

std::vector<DaySegment> dayOf(const Project& p, const Schedule& schedule) {
    std::vector<DaySegment> day;
    double minute = p.brief.startMinutes();
    for (double done = 0; done < 24 - 1e-9;) {
        const Schedule::Now now = schedule.at(minute);
        const double hours = std::clamp(now.minutesLeft / 60, 1e-3, 24 - done);
        day.push_back({hours, now.setting});
        done += hours;
        minute = std::fmod(minute + hours * 60, 1440);
    }
    return day;
}

ApproxCell::ApproxCell(const PackModel& m, const Schedule& schedule,
                       const std::vector<DaySegment>& day)
    : model(&m) {
    std::vector<std::size_t> at{0};
    const auto nodeAt = [&](std::size_t i) {
        return Node{heightOf(i), m.openCircuitAt(heightOf(i)), m.resistanceAt(heightOf(i))};
    };
    nodes.push_back(nodeAt(0));
    for (std::size_t i = 1; i <= kHeights; ++i) {
        const Node next = nodeAt(i);
        const Node& last = nodes.back();
        const bool far = next.height - last.height > kNodeHeight ||
                         next.volts - last.volts > kNodeVolts * next.volts ||
                         std::abs(next.ohms - last.ohms) > kNodeOhms * next.ohms;
        // One before it, so that none is further from the last than that.
        if (far && at.back() + 1 < i) {
            at.push_back(i - 1);
            nodes.push_back(nodeAt(i - 1));
        }
    }
    at.push_back(kHeights);
    nodes.push_back(nodeAt(kHeights));
    for (std::size_t n = 0; n + 1 < at.size(); ++n) {
        const double rise = nodes[n + 1].volts - nodes[n].volts;
        const double climb = nodes[n + 1].height - nodes[n].height;
        const auto shareAt = [&](std::size_t i) {
            return rise > kFlat * nodes[n].volts
                       ? (m.openCircuitAt(heightOf(i)) - nodes[n].volts) / rise
                       : (heightOf(i) - nodes[n].height) / climb;
        };
        for (std::size_t i = at[n]; i < at[n + 1]; ++i)
            cells[i] = {n, heightOf(i), shareAt(i),
                        (shareAt(i + 1) - shareAt(i)) / (heightOf(i + 1) - heightOf(i))};
    }
    for (const ModeMix& setting : schedule.settings) {
        std::vector<double> of;
        for (const Share& share : setting.shares)
            if (share.share > 0)
                of.push_back(rcSettlingAfter(share.seconds, m.tau));
        settled.push_back(std::move(of));
    }
    for (const DaySegment& stretch : day) {
        std::array<Fade, kHalvings + 1> of;
        double hours = stretch.hours;
        for (Fade& f : of) {
            f = fadeOver(m, hours);
            hours /= 2;
        }
        fades.push_back(of);
    }
}

ApproxCell::Fade ApproxCell::fadeOver(const PackModel& m, double hours) {
    const double x = m.wellRate * hours;
    const double gone = -std::expm1(-x);
    return {hours, std::exp(-x), gone, m.wellRate <= 0 ? hours : (x - gone) / m.wellRate};
}

namespace {

/// One candidate's run.
class ApproxRun {
  public:
    ApproxRun(const LineTable& line, const ApproxCell& cell, const std::vector<DaySegment>& day,
              double series, double parallel)
        : m_line(line), m_cell(cell), m_model(*cell.model), m_day(day), m_series(series),
          m_parallel(parallel), m_rows(line.settings().size()), m_guess(line.demands(), 0) {}

    double go() {
        m_wells = m_model.level(1);
        for (const DaySegment& stretch : m_day)
            if (!m_rows[stretch.setting].known)
                readRow(stretch.setting);
        while (m_hours < kLongestRun) {
            leap();
            for (std::size_t i = 0; i < m_day.size(); ++i)
                if (!through(i))
                    return m_hours;
        }
        return std::numeric_limits<double>::infinity();
    }

  private:
    /// What one setting takes over the height, down to where it ends.
    struct Row {
        bool known = false;
        std::vector<double> amps; ///< of one cell, by node
        std::vector<double> rise; ///< to the next; none where it jumps
        double end = 0;           ///< height
        double endAmps = 0;
        std::size_t endNode = 0; ///< under it
    };
    struct Taken {
        double amps = 0; ///< of the pack, on average
        bool ended = false;
    };
    LineTable::Case caseAt(std::size_t demand, double volts, double ohms) {
        const LineTable::Case found = m_line.at(demand, volts, ohms, m_guess[demand]);
        if (!found.ended)
            m_guess[demand] = found.amps;
        return found;
    }
    Taken takenAt(std::size_t setting, double e, double r0, double guess) {
        const auto& modes = m_line.settings()[setting];
        const auto& settled = m_cell.settled[setting];
        const double r1 = m_model.relaxation;
        const double groups = m_series / m_parallel;
        double mean = guess / m_parallel;
        Taken out;
        for (int round = 0; round < kMeanRounds; ++round) {
            out = {};
            bool depends = false;
            for (std::size_t i = 0; i < modes.size(); ++i) {
                const LineTable::Mode& m = modes[i];
                const double g = settled[i];
                depends = depends || (g < 1 && r1 > 0);
                const LineTable::Case plain = caseAt(m.plain, m_series * (e - mean * r1 * (1 - g)),
                                                     groups * (r0 + r1 * g) + m_model.connection);
                double amps = plain.amps;
                bool ended = plain.ended;
                if (m.burst) {
                    const double eb =
                        m_series * (e - r1 * (g * plain.amps / m_parallel + (1 - g) * mean));
                    const double rb = groups * r0 + m_model.connection;
                    const LineTable::Case all = caseAt(*m.burst, eb, rb);
                    ended = ended || all.ended;
                    for (const auto& [share, demand] : m.singles) {
                        const LineTable::Case single =
                            demand == *m.burst ? all : caseAt(demand, eb, rb);
                        ended = ended || single.ended;
                        amps += share * (single.amps - plain.amps);
                    }
                }
                out.amps += m.share * amps;
                out.ended = out.ended || ended;
            }
            const double before = mean;
            mean = out.amps / m_parallel;
            if (!depends || std::abs(mean - before) <= kSameMean * mean)
                break;
        }
        return out;
    }
    void readRow(std::size_t setting) {
        Row& row = m_rows[setting];
        readNodes(setting, row);
        row.rise.assign(row.amps.size(), 0);
        for (std::size_t i = 0; i + 1 < row.amps.size(); ++i) {
            row.rise[i] = row.amps[i + 1] - row.amps[i];
            if (std::abs(row.rise[i]) > kRowJump * row.amps[i + 1] && row.amps[i] > 0) {
                row.amps[i] = std::min(row.amps[i], row.amps[i + 1]);
                row.rise[i] = 0;
            }
        }
    }
    void readNodes(std::size_t setting, Row& row) {
        row.known = true;
        double amps = 0;
        double rise = 0; // of the amps from the node above, as the next is likely to rise
        const std::vector<ApproxCell::Node>& nodes = m_cell.nodes;
        row.amps.assign(nodes.size(), 0);
        for (std::size_t i = nodes.size(); i-- > 0;) {
            const Taken taken = takenAt(setting, nodes[i].volts, nodes[i].ohms, amps + rise);
            if (!taken.ended) {
                rise = i + 1 < nodes.size() ? taken.amps - amps : 0;
                amps = taken.amps;
                row.amps[i] = taken.amps / m_parallel;
                continue;
            }
            if (i + 1 == nodes.size()) {
                row.end = 2;
                return;
            }
            double good = nodes[i + 1].height;
            double bad = nodes[i].height;
            double there = amps;
            for (int round = 0; round < kEndRounds; ++round) {
                const double middle = (good + bad) / 2;
                const Taken t = takenAt(setting, m_model.openCircuitAt(middle),
                                        m_model.resistanceAt(middle), amps);
                if (t.ended) {
                    bad = middle;
                } else {
                    good = middle;
                    there = t.amps;
                }
            }
            row.end = bad;
            row.endAmps = there / m_parallel;
            row.endNode = i;
            return;
        }
        row.endAmps = row.amps[0];
    }
    [[nodiscard]] double ampsAt(const Row& row, double height) const {
        if (height <= row.end)
            return row.endAmps;
        const auto [node, share] = m_cell.between(height);
        // Towards a collapse it rises steeply at last: no more than above that step.
        if (row.end > 0 && node == row.endNode)
            return std::min(row.endAmps, row.amps[node + 1]);
        return row.amps[node] + share * row.rise[node];
    }
    [[nodiscard]] Wells after(const ApproxCell::Fade& f, double amps) const {
        const double before = m_wells.total();
        const double left = before - amps * f.hours;
        if (m_model.availableFraction >= 1)
            return {left, 0};
        if (m_model.wellRate <= 0)
            return {m_wells.available - amps * f.hours, m_wells.bound};
        const double c = m_model.availableFraction;
        const double atHand = m_wells.available * f.fade + before * c * f.gone -
                              amps * f.gone / m_model.wellRate - amps * c * f.lag;
        return {atHand, left - atHand};
    }
    /// One stretch of the day; false where the run has ended in it.
    bool through(std::size_t index) {
        const DaySegment& stretch = m_day[index];
        const Row& row = m_rows[stretch.setting];
        double height = m_model.height(m_wells);
        if (height <= row.end || height <= 0)
            return false;
        const auto& halves = m_cell.fades[index];
        std::size_t halved = 0;
        double cap = stretch.hours;
        for (double left = stretch.hours; left > 1e-9 * stretch.hours;) {
            const double flows = ampsAt(row, height) + m_model.selfAmps;
            // The first well falls by no more than this; it may stand still, or rise.
            const double most = std::min(
                {cap, left * (1 + 1e-9),
                 flows > 0 ? kDrop * m_model.usable * m_model.availableFraction / flows : left});
            while (halved > 0 && halves[halved - 1].hours <= most)
                --halved;
            while (halved + 1 < halves.size() && halves[halved].hours > most)
                ++halved;
            const ApproxCell::Fade fade =
                halves[halved].hours > most ? ApproxCell::fadeOver(m_model, most) : halves[halved];
            const double ahead = ampsAt(row, m_model.height(after(fade, flows))) + m_model.selfAmps;
            const bool jumps = std::abs(ahead - flows) > kRowJump * flows;
            const Wells next = after(fade, jumps ? std::min(flows, ahead) : (flows + ahead) / 2);
            const double reached = m_model.height(next);
            if (reached <= row.end || reached <= 0) {
                // The first well falls fast at first: the last bit of the way is taken in small
                // steps.
                if (height - reached > kLastDrop && fade.hours > kLeastStep) {
                    cap = fade.hours / 4;
                    continue;
                }
                const double end = std::max(row.end, 0.0);
                m_hours += fade.hours * (height - end) / (height - reached);
                return false;
            }
            m_wells = next;
            height = reached;
            m_hours += fade.hours;
            left -= fade.hours;
        }
        return true;
    }
    /// Whole days at once, where one takes hardly anything and the end is far.
    void leap() {
        const double height = m_model.height(m_wells);
        double ampHours = 0;
        double end = 0;
        for (const DaySegment& stretch : m_day) {
            const Row& row = m_rows[stretch.setting];
            end = std::max(end, row.end);
            ampHours += stretch.hours * (ampsAt(row, height) + m_model.selfAmps);
        }
        if (end >= height)
            return;
        const double drop = ampHours / m_model.usable;
        if (!(drop > 0) || drop > kCalmDay) {
            if (drop <= 0)
                m_hours = kLongestRun;
            return;
        }
        const double room = height - end - 2 * kDrop;
        const double days = std::floor(std::min(room, kDrop / 2) / drop);
        if (days < 2)
            return;
        // The mean of the currents at both ends.
        const double hours = 24 * days;
        const Wells there = m_model.drained(m_wells, ampHours / 24, hours);
        const double lower = m_model.height(there);
        double below = 0;
        for (const DaySegment& stretch : m_day)
            below += stretch.hours * (ampsAt(m_rows[stretch.setting], lower) + m_model.selfAmps);
        m_wells = m_model.drained(m_wells, (ampHours + below) / 48, hours);
        m_hours += hours;
    }

    const LineTable& m_line;
    const ApproxCell& m_cell;
    const PackModel& m_model;
    const std::vector<DaySegment>& m_day;
    double m_series;
    double m_parallel;
    std::vector<Row> m_rows;
    std::vector<double> m_guess; ///< A of each demand, seen last
    Wells m_wells;
    double m_hours = 0;
};

} // namespace

double approxHours(const LineTable& line, const ApproxCell& cell,
                   const std::vector<DaySegment>& day, double series, double parallel) {
    return ApproxRun(line, cell, day, series, parallel).go();
}

} // namespace sipper
