// Damped least squares with priors, and putting out what the data do not tell.
#pragma once

#include "parts/names.hpp"

#include <functional>
#include <string>
#include <vector>

namespace sipper {

/// Something that may move by `u`, with a rectangular limit of its own.
struct Knob {
    std::string id;
    double limit = 0; ///< its standard deviation is limit/√3
    Basis basis = Basis::dataSheet;
    bool nuisance = false; ///< stays, whatever it keeps
    bool additive = false; ///< u is added to what was; else exp(u) multiplies it
    double before = 1;
};

/// Residuals over their sigma for the u of every knob.
using Residuals = std::function<std::vector<double>(const std::vector<double>& u)>;

struct KnobFit {
    std::vector<double> u;                                ///< of every knob; 0 where it was put out
    std::vector<double> sigma;                            ///< of u, from the curvature
    std::vector<double> keeps;                            ///< share of the prior sigma that is left
    std::vector<bool> in;                                 ///< still part of the fit
    std::vector<std::pair<std::size_t, std::string>> out; ///< in the order in which they went
    double chi2 = 0;                                      ///< of the residuals alone
    std::size_t observations = 0;
};

/// Minimum of Σ r² + Σ (u/s)², to 1e-4; not_seen before the fit, then weak and tied, one at a time.
[[nodiscard]] KnobFit fitKnobs(const std::vector<Knob>& knobs, const Residuals& residuals);

} // namespace sipper
