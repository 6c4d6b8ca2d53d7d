// SPDX-License-Identifier: GPL-3.0-or-later
// Damped least squares with priors (Levenberg-Marquardt); parameters that the data leave
// undetermined are dropped.
#pragma once

#include "parts/names.hpp"

#include <functional>
#include <string>
#include <vector>

namespace sipper {

/// Something that may move by `u`, with a rectangular limit of its own.
struct FitParameter {
    std::string id;
    double limit = 0; ///< its standard deviation is limit/√3
    Basis basis = Basis::dataSheet;
    bool nuisance = false; ///< stays, whatever it keeps
    bool additive = false; ///< u is added to what was; else exp(u) multiplies it
    double before = 1;
};

/// Residuals over their sigma for the u of every parameter.
using Residuals = std::function<std::vector<double>(const std::vector<double>& u)>;

struct FitResult {
    std::vector<double> u;          ///< of every parameter; 0 where it was excluded
    std::vector<double> sigma;      ///< of u, from the curvature
    std::vector<double> sigmaRatio; ///< share of the prior sigma that is left
    std::vector<bool> in;           ///< still part of the fit
    std::vector<std::pair<std::size_t, std::string>> out; ///< in the order in which they went
    double chi2 = 0;                                      ///< of the residuals alone
    std::size_t observations = 0;
};

/// Minimum of Σ r² + Σ (u/s)², to 1e-4; not_seen before the fit, then weak and tied, one at a time.
[[nodiscard]] FitResult fitParameters(const std::vector<FitParameter>& knobs,
                                      const Residuals& residuals);

} // namespace sipper
