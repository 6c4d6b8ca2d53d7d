// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/lossfit.hpp"

#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr int kTerms = 4;
constexpr int kMostRounds = 60;
constexpr double kTiny = 1e-12;

/// Inductor current: of the output stepping down, of the input stepping up.
double inductorOf(Topology topology, const LossPoint& p) {
    const bool down =
        topology == Topology::buck || (topology == Topology::buckBoost && p.vIn >= p.vOut);
    return down ? p.iOut : p.iIn;
}

/// Non-negative least squares by active sets (Lawson and Hanson 1974, chapter 23).
Eigen::VectorXd nonNegative(const Eigen::MatrixXd& a, const Eigen::VectorXd& b) {
    const Eigen::Index n = a.cols();
    Eigen::VectorXd x = Eigen::VectorXd::Zero(n);
    std::vector<char> free(static_cast<std::size_t>(n), 0);
    for (int round = 0; round < kMostRounds; ++round) {
        const Eigen::VectorXd pull = a.transpose() * (b - a * x);
        Eigen::Index best = -1;
        for (Eigen::Index i = 0; i < n; ++i)
            if (!free[static_cast<std::size_t>(i)] && pull(i) > kTiny &&
                (best < 0 || pull(i) > pull(best)))
                best = i;
        if (best < 0)
            break;
        free[static_cast<std::size_t>(best)] = 1;
        for (int inner = 0; inner < kMostRounds; ++inner) {
            std::vector<Eigen::Index> set;
            for (Eigen::Index i = 0; i < n; ++i)
                if (free[static_cast<std::size_t>(i)])
                    set.push_back(i);
            Eigen::MatrixXd part(a.rows(), static_cast<Eigen::Index>(set.size()));
            for (std::size_t k = 0; k < set.size(); ++k)
                part.col(static_cast<Eigen::Index>(k)) = a.col(set[k]);
            const Eigen::VectorXd s = part.colPivHouseholderQr().solve(b);
            double step = 1;
            for (std::size_t k = 0; k < set.size(); ++k)
                if (const double to = s(static_cast<Eigen::Index>(k)); to <= 0)
                    step = std::min(step, x(set[k]) / std::max(kTiny, x(set[k]) - to));
            for (std::size_t k = 0; k < set.size(); ++k)
                x(set[k]) += step * (s(static_cast<Eigen::Index>(k)) - x(set[k]));
            if (step >= 1)
                break;
            for (const Eigen::Index i : set)
                if (x(i) <= kTiny) {
                    x(i) = 0;
                    free[static_cast<std::size_t>(i)] = 0;
                }
        }
    }
    return x;
}

} // namespace

Outcome<LossFit> fitLosses(Topology topology, const std::vector<LossPoint>& points) {
    if (points.size() < 3)
        return Error{"few", "", fmt::format("{} points", points.size()), "three points or more",
                     ""};
    for (std::size_t i = 0; i < points.size(); ++i)
        if (points[i].loss() < 0)
            return Error{"point", fmt::format("row {}", i + 1),
                         fmt::format("more out ({}) than in ({})",
                                     writeQuantity(points[i].vOut * points[i].iOut, Unit::watt),
                                     writeQuantity(points[i].vIn * points[i].iIn, Unit::watt)),
                         "an efficiency of 100 % at most", ""};
    const auto n = static_cast<Eigen::Index>(points.size());
    Eigen::MatrixXd a(n, kTerms);
    Eigen::VectorXd b(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const LossPoint& p = points[static_cast<std::size_t>(i)];
        const double j = inductorOf(topology, p);
        // An error of a watt weighs by the watts that it is part of: small loads count too.
        const double weight = 1 / std::max(1e-9, p.vOut * p.iOut);
        a.row(i) << p.vIn * weight, weight, j * weight, j * j * weight;
        b(i) = p.loss() * weight;
    }
    // Columns of like size keep the search well conditioned.
    Eigen::VectorXd scale = a.colwise().norm().transpose();
    for (Eigen::Index k = 0; k < kTerms; ++k) {
        scale(k) = scale(k) > 0 ? scale(k) : 1;
        a.col(k) /= scale(k);
    }
    const Eigen::VectorXd x = nonNegative(a, b).cwiseQuotient(scale);
    LossFit fit;
    fit.quiescent = x(0);
    fit.fixed = x(1);
    fit.drop = x(2);
    fit.resistance = x(3);
    for (std::size_t i = 0; i < points.size(); ++i) {
        const LossPoint& p = points[i];
        const double j = inductorOf(topology, p);
        const double loss = x(0) * p.vIn + x(1) + x(2) * j + x(3) * j * j;
        const double out = p.vOut * p.iOut;
        const double efficiency = out > 0 ? out / (out + loss) : 0;
        fit.efficiency.push_back(efficiency);
        if (const double error = std::abs(efficiency - p.efficiency()); error > fit.worst) {
            fit.worst = error;
            fit.worstPoint = i;
        }
    }
    return fit;
}

Outcome<std::vector<LossPoint>> readLossPoints(std::string_view text) {
    std::vector<LossPoint> points;
    std::size_t row = 0;
    std::size_t from = 0;
    while (from < text.size()) {
        const auto end = std::min(text.find('\n', from), text.size());
        const std::string line(text.substr(from, end - from));
        from = end + 1;
        ++row;
        const char separator = line.find('\t') != std::string::npos  ? '\t'
                               : line.find(';') != std::string::npos ? ';'
                               : line.find(',') != std::string::npos ? ','
                                                                     : ' ';
        std::vector<std::string> cells;
        std::string cell;
        for (const char c : line + separator)
            if (c == separator) {
                const auto first = cell.find_first_not_of(" \r");
                if (first != std::string::npos)
                    cells.push_back(cell.substr(first, cell.find_last_not_of(" \r") - first + 1));
                cell.clear();
            } else {
                cell += c;
            }
        if (cells.empty())
            continue;
        const auto refuse = [&](const std::string& found) {
            return Error{"point", fmt::format("row {}", row), found,
                         "V in, V out, I out, and efficiency or I in", ""};
        };
        if (cells.size() != 4)
            return refuse(fmt::format("{} values", cells.size()));
        const auto vIn = readQuantity(cells[0], Unit::volt);
        const auto vOut = readQuantity(cells[1], Unit::volt);
        const auto iOut = readQuantity(cells[2], Unit::ampere);
        for (const auto& [value, words] :
             {std::pair(&vIn, &cells[0]), std::pair(&vOut, &cells[1]), std::pair(&iOut, &cells[2])})
            if (!*value || value->value() <= 0)
                return refuse("\"" + *words + "\"");
        LossPoint p{vIn.value(), vOut.value(), iOut.value(), 0};
        const bool amps = cells[3].find_first_of("aA") != std::string::npos;
        const auto last = readQuantity(cells[3], amps ? Unit::ampere : Unit::fraction);
        if (!last || last.value() <= 0)
            return refuse("\"" + cells[3] + "\"");
        const bool efficiency = !amps && last.value() <= 1;
        p.iIn = efficiency ? p.vOut * p.iOut / (last.value() * p.vIn) : last.value();
        points.push_back(p);
    }
    return points;
}

} // namespace sipper
