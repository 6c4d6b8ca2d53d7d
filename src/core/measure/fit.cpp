// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/fit.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kNotSeen = 1e-4;
constexpr double kMaxSigmaRatio = 0.8;
constexpr double kMaxCorrelation = 0.95;
constexpr double kMaxStep = 5; ///< prior sigmas that a parameter may move in one step
constexpr int kRoundsOfFit = 60;
constexpr double kDiff = 1e-3; ///< of the prior sigma, for slopes

using Vec = Eigen::VectorXd;
using Mat = Eigen::MatrixXd;

/// Everything in units of the prior sigma: z = u/s, whose own prior is 1.
class Fitter {
  public:
    Fitter(const std::vector<FitParameter>& knobs, const Residuals& residuals)
        : m_parameters(knobs), m_residuals(residuals), m_in(knobs.size(), true),
          m_z(Vec::Zero(static_cast<Eigen::Index>(knobs.size()))) {}

    FitResult run() {
        dropUnseen();
        while (true) {
            minimise();
            if (!dropOne())
                break;
        }
        return result();
    }

  private:
    [[nodiscard]] double sigmaOf(std::size_t i) const {
        return m_parameters[i].limit / std::sqrt(3.0);
    }
    [[nodiscard]] Vec residualsAt(const Vec& z) const {
        std::vector<double> u(m_parameters.size());
        for (std::size_t i = 0; i < u.size(); ++i)
            u[i] = m_in[i] ? z[static_cast<Eigen::Index>(i)] * sigmaOf(i) : 0;
        const std::vector<double> r = m_residuals(u);
        return Eigen::Map<const Vec>(r.data(), static_cast<Eigen::Index>(r.size()));
    }
    [[nodiscard]] Mat jacobianAt(const Vec& z) const {
        Mat j;
        for (std::size_t i = 0; i < m_parameters.size(); ++i) {
            const auto at = static_cast<Eigen::Index>(i);
            Vec up = z;
            Vec down = z;
            up[at] += kDiff;
            down[at] -= kDiff;
            const Vec column =
                m_in[i] ? Vec((residualsAt(up) - residualsAt(down)) / (2 * kDiff)) : Vec();
            if (j.size() == 0)
                j = Mat::Zero(column.size() > 0 ? column.size() : residualsAt(z).size(),
                              static_cast<Eigen::Index>(m_parameters.size()));
            if (m_in[i])
                j.col(at) = column;
        }
        return j;
    }
    void dropUnseen() {
        const Mat j = jacobianAt(m_z);
        for (std::size_t i = 0; i < m_parameters.size(); ++i)
            if (!m_parameters[i].nuisance && j.col(static_cast<Eigen::Index>(i)).norm() < kNotSeen)
                exclude(i, "not_seen");
    }
    void exclude(std::size_t i, const char* why) {
        m_in[i] = false;
        m_z[static_cast<Eigen::Index>(i)] = 0;
        m_out.emplace_back(i, why);
    }
    [[nodiscard]] double cost(const Vec& z) const {
        return residualsAt(z).squaredNorm() + z.squaredNorm();
    }
    void minimise() {
        double damping = 1e-4;
        double now = cost(m_z);
        for (int round = 0; round < kRoundsOfFit; ++round) {
            const Mat j = jacobianAt(m_z);
            const Mat hessian = j.transpose() * j + Mat::Identity(j.cols(), j.cols());
            const Vec gradient = j.transpose() * residualsAt(m_z) + m_z;
            bool moved = false;
            for (int tries = 0; tries < 12 && !moved; ++tries) {
                const Mat dampedHessian = hessian + damping * Mat(hessian.diagonal().asDiagonal());
                Vec step = dampedHessian.ldlt().solve(gradient);
                const double longest = step.cwiseAbs().maxCoeff();
                if (longest > kMaxStep)
                    step *= kMaxStep / longest;
                const Vec next = m_z - step;
                const double then = cost(next);
                if (std::isfinite(then) && then <= now) {
                    const double small = step.cwiseAbs().maxCoeff();
                    m_z = next;
                    now = then;
                    damping = std::max(1e-9, damping / 8);
                    moved = true;
                    if (small < 1e-5)
                        return;
                } else {
                    damping = std::max(damping * 6, 1e-6);
                }
            }
            if (!moved)
                return;
        }
    }
    /// Covariance of z at the minimum; what is out has its prior.
    [[nodiscard]] Mat covariance() const {
        const Mat j = jacobianAt(m_z);
        return (j.transpose() * j + Mat::Identity(j.cols(), j.cols())).inverse();
    }
    bool dropOne() {
        const Mat c = covariance();
        const auto sigmaRatio = [&](std::size_t i) {
            const auto at = static_cast<Eigen::Index>(i);
            return std::sqrt(std::max(0.0, c(at, at)));
        };
        std::optional<std::size_t> weakest;
        for (std::size_t i = 0; i < m_parameters.size(); ++i)
            if (m_in[i] && !m_parameters[i].nuisance &&
                (!weakest || sigmaRatio(i) > sigmaRatio(*weakest)))
                weakest = i;
        if (weakest && sigmaRatio(*weakest) > kMaxSigmaRatio) {
            exclude(*weakest, "weak");
            return true;
        }
        double highest = kMaxCorrelation;
        std::optional<std::size_t> tied;
        for (std::size_t i = 0; i < m_parameters.size(); ++i)
            for (std::size_t k = i + 1; k < m_parameters.size(); ++k) {
                if (!m_in[i] || !m_in[k] || (m_parameters[i].nuisance && m_parameters[k].nuisance))
                    continue;
                const double with =
                    std::abs(c(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(k))) /
                    (sigmaRatio(i) * sigmaRatio(k));
                if (with <= highest)
                    continue;
                highest = with;
                tied = m_parameters[i].nuisance         ? k
                       : m_parameters[k].nuisance       ? i
                       : sigmaRatio(i) >= sigmaRatio(k) ? i
                                                        : k;
            }
        if (!tied)
            return false;
        exclude(*tied, "tied");
        return true;
    }
    [[nodiscard]] FitResult result() const {
        FitResult fit;
        const Mat c = covariance();
        const Vec r = residualsAt(m_z);
        fit.chi2 = r.squaredNorm();
        fit.observations = static_cast<std::size_t>(r.size());
        fit.in = m_in;
        fit.out = m_out;
        for (std::size_t i = 0; i < m_parameters.size(); ++i) {
            const auto at = static_cast<Eigen::Index>(i);
            const double sigmaRatio = std::sqrt(std::max(0.0, c(at, at)));
            fit.u.push_back(m_z[at] * sigmaOf(i));
            fit.sigmaRatio.push_back(sigmaRatio);
            fit.sigma.push_back(sigmaRatio * sigmaOf(i));
        }
        return fit;
    }

    const std::vector<FitParameter>& m_parameters;
    const Residuals& m_residuals;
    std::vector<bool> m_in;
    Vec m_z;
    std::vector<std::pair<std::size_t, std::string>> m_out;
};

} // namespace

FitResult fitParameters(const std::vector<FitParameter>& knobs, const Residuals& residuals) {
    return Fitter(knobs, residuals).run();
}

} // namespace sipper
