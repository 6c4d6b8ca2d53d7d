// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/discharge.hpp"

#include "base/statistics.hpp"
#include "base/tolerance.hpp"
#include <Eigen/Dense>

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kGapSteps = 5;     ///< usual steps, over which a step is a gap
constexpr double kOnShare = 0.02;   ///< of the largest current
constexpr double kStepShare = 0.2;  ///< of it, from which a step tells a resistance
constexpr double kCalmShare = 0.05; ///< of it, within which the rows beside a step have to lie
constexpr double kStepSeconds = 30;
constexpr double kRecovers = 600;  ///< s in which rest is looked at
constexpr double kNearCut = 1.02;  ///< times the cut-off: it was reached
constexpr double kSameRate = 0.03; ///< of the watts, within which runs are repeats
constexpr double kGroupSigma = 0.01;
constexpr double kPeukertRatio = 1.5;
constexpr double kWellRatio = 4;
constexpr std::size_t kWellGroups = 3;
constexpr double kHour = 3600;

class Summing {
  public:
    Summing(const DischargeLog& log, const DischargeOptions& ask) : m_log(log), m_ask(ask) {}

    DischargeRun sum() {
        DischargeRun& r = m_run;
        r.file = m_log.file;
        r.rows = m_log.seconds.size();
        r.badRows = m_log.badRows;
        r.outOfOrder = m_log.outOfOrder;
        r.clockSetBack = m_log.clockSetBack;
        r.warmest = m_log.warmest;
        m_usual = usualStep(m_log.seconds);
        for (std::size_t i = 1; i < r.rows; ++i)
            if (gap(i))
                r.gaps.emplace_back(t(i - 1), t(i));
        for (const double a : m_log.amps)
            m_most = std::max(m_most, a);
        ends();
        integrate();
        resistance();
        rest();
        return std::move(r);
    }

  private:
    [[nodiscard]] double t(std::size_t i) const { return m_log.seconds[i] - m_log.seconds[0]; }
    [[nodiscard]] double v(std::size_t i) const { return m_log.volts[i]; }
    [[nodiscard]] double a(std::size_t i) const { return m_log.amps[i]; }
    [[nodiscard]] bool on(std::size_t i) const { return a(i) > kOnShare * m_most; }
    /// Is the step up to row i a gap?
    [[nodiscard]] bool gap(std::size_t i) const { return t(i) - t(i - 1) > kGapSteps * m_usual; }

    void ends() {
        DischargeRun& r = m_run;
        r.firstOn = r.rows;
        for (std::size_t i = 0; i < r.rows; ++i)
            if (m_most > 0 && on(i)) {
                r.firstOn = std::min(r.firstOn, i);
                r.lastOn = i;
            }
        m_any = r.firstOn < r.rows;
        if (!m_any)
            r.firstOn = 0;
        r.startVolts = v(r.firstOn);
        r.endVolts = v(r.lastOn);
        if (r.firstOn > 0)
            r.restVolts = v(r.firstOn - 1);
        r.cut = m_any && (r.lastOn + 1 < r.rows ||
                          (m_ask.cutVolts && r.endVolts <= kNearCut * *m_ask.cutVolts));
    }
    void integrate() {
        DischargeRun& r = m_run;
        if (!m_any)
            return;
        const std::size_t from = r.firstOn > 0 ? r.firstOn : 1;
        const std::size_t to = std::min(r.lastOn + 1, r.rows - 1);
        double ah = 0;
        double wh = 0;
        for (std::size_t i = from; i <= to; ++i) {
            const bool both = on(i - 1) && on(i);
            if (gap(i) ? !both : !(on(i - 1) || on(i)))
                continue;
            const double hours = (t(i) - t(i - 1)) / kHour;
            const double charge = (a(i - 1) + a(i)) / 2 * hours;
            ah += charge;
            wh += (v(i - 1) * a(i - 1) + v(i) * a(i)) / 2 * hours;
            if (gap(i))
                r.gapAh += charge;
        }
        double begin = t(r.firstOn);
        if (r.firstOn > 0 && !gap(r.firstOn))
            begin = (begin + t(r.firstOn - 1)) / 2;
        double end = t(r.lastOn);
        if (r.lastOn + 1 < r.rows && !gap(r.lastOn + 1))
            end = (end + t(r.lastOn + 1)) / 2;
        r.hours = (end - begin) / kHour;
        r.meanVolts = ah > 0 ? wh / ah : 0;
        r.ownWh = m_ask.ownWatts * r.hours;
        r.ownAh = r.meanVolts > 0 ? r.ownWh / r.meanVolts : 0;
        r.ah = ah + r.ownAh;
        r.wh = wh + r.ownWh;
        r.meanWatts = r.hours > 0 ? r.wh / r.hours : 0;
        r.meanAmps = r.hours > 0 ? r.ah / r.hours : 0;
        if (m_ask.labelWh && *m_ask.labelWh > 0)
            r.efficiency = r.wh / *m_ask.labelWh;
    }
    void resistance() {
        DischargeRun& r = m_run;
        std::vector<double> ohms;
        const double least = r.meanVolts / 2;
        const auto calm = [&](std::size_t i, std::size_t beside) {
            return std::abs(a(i) - a(beside)) <= kCalmShare * m_most;
        };
        for (std::size_t i = 1; i < r.rows; ++i) {
            const double step = a(i) - a(i - 1);
            if (m_most <= 0 || std::abs(step) < kStepShare * m_most ||
                t(i) - t(i - 1) > kStepSeconds || gap(i) || v(i) < least || v(i - 1) < least)
                continue;
            if ((i >= 2 && !calm(i - 2, i - 1)) || (i + 1 < r.rows && !calm(i + 1, i)))
                continue;
            ohms.push_back(-(v(i) - v(i - 1)) / step);
        }
        r.ohmSteps = ohms.size();
        const double middle = median(std::move(ohms));
        if (r.ohmSteps > 0 && middle > 0)
            r.ohms = middle;
    }
    void rest() {
        DischargeRun& r = m_run;
        if (!m_any)
            return;
        std::size_t last = r.lastOn;
        for (std::size_t i = r.lastOn + 1; i < r.rows && t(i) - t(r.lastOn) <= kRecovers; ++i)
            last = i;
        if (last == r.lastOn || v(last) < r.meanVolts / 2)
            return;
        r.recoveryVolts = v(last) - v(r.lastOn);
        r.recoverySeconds = t(last) - t(r.lastOn);
    }

    const DischargeLog& m_log;
    const DischargeOptions& m_ask;
    DischargeRun m_run;
    double m_usual = 0;
    double m_most = 0;
    bool m_any = false;
};

void groupRuns(Discharges& all) {
    for (std::size_t i = 0; i < all.runs.size(); ++i) {
        const DischargeRun& run = all.runs[i];
        if (!Discharges::counts(run) || run.meanWatts <= 0 || run.wh <= 0)
            continue;
        const auto same =
            std::find_if(all.groups.begin(), all.groups.end(), [&](const DischargeGroup& g) {
                const double first = all.runs[g.runs.front()].meanWatts;
                return std::abs(run.meanWatts - first) <= kSameRate * first;
            });
        if (same != all.groups.end())
            same->runs.push_back(i);
        else
            all.groups.emplace_back().runs.push_back(i);
    }
    for (DischargeGroup& g : all.groups) {
        const auto count = static_cast<double>(g.runs.size());
        double least = all.runs[g.runs.front()].wh;
        double most = least;
        for (const std::size_t i : g.runs) {
            const DischargeRun& run = all.runs[i];
            g.meanWatts += run.meanWatts / count;
            g.meanAmps += run.meanAmps / count;
            g.ah += run.ah / count;
            g.wh += run.wh / count;
            if (run.efficiency)
                g.efficiency = g.efficiency.value_or(0) + *run.efficiency / count;
            least = std::min(least, run.wh);
            most = std::max(most, run.wh);
        }
        if (g.runs.size() > 1)
            g.spread = (most - least) / g.wh;
    }
    std::stable_sort(
        all.groups.begin(), all.groups.end(),
        [](const DischargeGroup& a, const DischargeGroup& b) { return a.meanWatts < b.meanWatts; });
}

/// Highest over lowest mean current.
double rateRatio(const std::vector<DischargeGroup>& groups) {
    if (groups.empty())
        return 0;
    const auto [least, most] = std::minmax_element(
        groups.begin(), groups.end(),
        [](const DischargeGroup& a, const DischargeGroup& b) { return a.meanAmps < b.meanAmps; });
    return least->meanAmps > 0 ? most->meanAmps / least->meanAmps : 0;
}

void fitPeukert(Discharges& all) {
    if (all.groups.size() < 2) {
        all.leftAlone.push_back({"peukert", "under two rates"});
        return;
    }
    if (rateRatio(all.groups) < kPeukertRatio) {
        all.leftAlone.push_back({"peukert", "rates too near each other"});
        return;
    }
    const auto count = static_cast<double>(all.groups.size());
    double mx = 0;
    double my = 0;
    for (const DischargeGroup& g : all.groups) {
        mx += std::log(g.meanAmps) / count;
        my += std::log(g.ah) / count;
    }
    double xy = 0;
    double xx = 0;
    for (const DischargeGroup& g : all.groups) {
        const double x = std::log(g.meanAmps) - mx;
        xy += x * (std::log(g.ah) - my);
        xx += x * x;
    }
    all.peukert = 1 - xy / xx;
}

double logistic(double x) {
    return 1 / (1 + std::exp(-x));
}

/// Damped least squares of ln Ah over ln Q, logit c and ln k'.
class WellFit {
  public:
    explicit WellFit(const std::vector<DischargeGroup>& groups) : m_groups(groups) {}

    std::optional<TwoWellFit> best() {
        double most = 0;
        double amps = 0;
        for (const DischargeGroup& g : m_groups) {
            most = std::max(most, g.ah);
            amps = std::max(amps, g.meanAmps);
        }
        // Multi-start: the problem is ill-conditioned. The lowest sum counts.
        std::optional<Eigen::Vector3d> found;
        double lowest = 0;
        for (const double c : {0.3, 0.6, 0.9})
            for (const double k : {0.2, 1.0, 5.0}) {
                Eigen::Vector3d p(std::log(most * 1.03), std::log(c / (1 - c)), std::log(k));
                const double sum = levenbergMarquardt(p);
                if (!found || sum < lowest) {
                    found = p;
                    lowest = sum;
                }
            }
        TwoWellFit fit;
        fit.capacityAh = std::exp((*found)[0]);
        fit.availableFraction = logistic((*found)[1]);
        fit.wellRate = std::exp((*found)[2]);
        const Eigen::MatrixXd j = slope(*found);
        const Eigen::Matrix3d dampedHessian = j.transpose() * j;
        const Eigen::FullPivLU<Eigen::Matrix3d> lu(dampedHessian);
        if (!lu.isInvertible())
            return std::nullopt;
        const Eigen::Matrix3d spread = lu.inverse();
        fit.sigmaFraction = std::sqrt(std::max(0.0, spread(1, 1))) * fit.availableFraction *
                            (1 - fit.availableFraction);
        fit.sigmaLnRate = std::sqrt(std::max(0.0, spread(2, 2)));
        return fit;
    }

  private:
    [[nodiscard]] Eigen::VectorXd residuals(const Eigen::Vector3d& p) const {
        Eigen::VectorXd r(static_cast<Eigen::Index>(m_groups.size()));
        for (std::size_t i = 0; i < m_groups.size(); ++i)
            r[static_cast<Eigen::Index>(i)] =
                (std::log(twoWellAh(std::exp(p[0]), logistic(p[1]), std::exp(p[2]),
                                    m_groups[i].meanAmps)) -
                 std::log(m_groups[i].ah)) /
                kGroupSigma;
        return r;
    }
    [[nodiscard]] Eigen::MatrixXd slope(const Eigen::Vector3d& p) const {
        constexpr double kStep = 1e-5;
        Eigen::MatrixXd j(static_cast<Eigen::Index>(m_groups.size()), 3);
        for (int k = 0; k < 3; ++k) {
            Eigen::Vector3d up = p;
            Eigen::Vector3d down = p;
            up[k] += kStep;
            down[k] -= kStep;
            j.col(k) = (residuals(up) - residuals(down)) / (2 * kStep);
        }
        return j;
    }
    double levenbergMarquardt(Eigen::Vector3d& p) const {
        double damping = 1e-3;
        double sum = residuals(p).squaredNorm();
        for (int round = 0; round < 200; ++round) {
            const Eigen::MatrixXd j = slope(p);
            Eigen::Matrix3d dampedHessian = j.transpose() * j;
            const Eigen::Vector3d gradient = j.transpose() * residuals(p);
            for (int k = 0; k < 3; ++k)
                dampedHessian(k, k) += damping * std::max(dampedHessian(k, k), 1e-9);
            const Eigen::Vector3d move = dampedHessian.ldlt().solve(gradient);
            Eigen::Vector3d next = p - move;
            next[1] = std::clamp(next[1], -8.0, 8.0);
            next[2] = std::clamp(next[2], -9.0, 9.0);
            const double then = residuals(next).squaredNorm();
            if (std::isfinite(then) && then < sum) {
                const bool still = sum - then < 1e-12 * (1 + sum);
                p = next;
                sum = then;
                damping = std::max(1e-9, damping / 5);
                if (still)
                    break;
            } else {
                damping *= 4;
                if (damping > 1e9)
                    break;
            }
        }
        return sum;
    }

    const std::vector<DischargeGroup>& m_groups;
};

void fitWells(Discharges& all) {
    const auto leave = [&](const char* why) { all.leftAlone.push_back({"two_well", why}); };
    if (all.groups.size() < kWellGroups)
        return leave("under three rates");
    if (rateRatio(all.groups) < kWellRatio)
        return leave("rates within 4 to 1");
    const auto fit = WellFit(all.groups).best();
    if (!fit || fit->availableFraction <= 0.02 || fit->availableFraction >= 0.98 ||
        fit->wellRate <= 0.01 || fit->wellRate >= 100)
        return leave("at the edge of what two wells are");
    if (fit->sigmaFraction > 0.10 || fit->sigmaLnRate > 0.5)
        return leave("not told apart by these runs");
    all.twoWell = fit;
}

} // namespace

double usualStep(const std::vector<double>& seconds) {
    std::vector<double> steps;
    for (std::size_t i = 1; i < seconds.size(); ++i)
        steps.push_back(seconds[i] - seconds[i - 1]);
    return median(std::move(steps));
}

double twoWellAh(double capacity, double c, double k, double amps) {
    // y1 at hours t under a constant current; it falls steadily (docs/model.md: Cells and packs).
    const auto first = [&](double t) {
        const double fade = std::exp(-k * t);
        const double gone = -std::expm1(-k * t);
        return c * capacity * fade + (capacity * k * c - amps) * gone / k -
               amps * c * (k * t - gone) / k;
    };
    constexpr int kRounds = 80;
    return bisect(0, capacity / amps, kRounds, [&](double t) { return first(t) > 0; }) * amps;
}

DischargeRun sumUp(const DischargeLog& log, const DischargeOptions& ask) {
    return Summing(log, ask).sum();
}

Discharges dischargesOf(const std::vector<DischargeLog>& logs, const DischargeOptions& ask) {
    DischargeTable table;
    for (const DischargeLog& log : logs)
        table.runs.push_back(sumUp(log, ask));
    return dischargesOf(table);
}

Discharges dischargesOf(const DischargeTable& table) {
    Discharges all;
    all.runs = table.runs;
    all.leftAlone = table.leftAlone;
    groupRuns(all);
    double most = 0;
    double least = 0;
    for (const DischargeRun& run : all.runs)
        if (Discharges::counts(run) && (run.wh > 0 || !run.fromTotals)) {
            least = most == 0 ? run.wh : std::min(least, run.wh);
            most = std::max(most, run.wh);
        }
    if (most > 0) {
        all.gapWh = most - least;
        all.gapShare = (most - least) / most;
    }
    // Rates are told by amps.
    const bool charges = std::all_of(all.groups.begin(), all.groups.end(),
                                     [](const auto& g) { return g.meanAmps > 0 && g.ah > 0; });
    if (charges) {
        fitPeukert(all);
        fitWells(all);
    } else {
        for (const char* what : {"peukert", "two_well"})
            all.leftAlone.push_back({what, "no amps and amp-hours of every rate"});
    }
    return all;
}

} // namespace sipper
