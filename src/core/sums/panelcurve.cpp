#include "sums/panelcurve.hpp"

#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cmath>

namespace sipper {

PanelCurve::PanelCurve(const PanelLabel& l, double light, double cellC) {
    m_c2 = (l.maxPower / l.openCircuit - 1) / std::log(1 - l.maxPowerCurrent / l.shortCircuit);
    m_c1 =
        (1 - l.maxPowerCurrent / l.shortCircuit) * std::exp(-l.maxPower / (m_c2 * l.openCircuit));
    m_short = l.shortCircuit * light / 1000;
    m_open = light > 0 ? l.openCircuit + l.perKelvin * (cellC - 25) +
                             m_c2 * l.openCircuit * std::log(light / 1000)
                       : 0;
}

double PanelCurve::amps(double volts) const {
    if (m_short <= 0 || m_open <= 0)
        return 0;
    return std::max(0.0, m_short * (1 - m_c1 * (std::exp(volts / (m_c2 * m_open)) - 1)));
}

std::pair<double, double> PanelCurve::top() const {
    if (m_short <= 0 || m_open <= 0)
        return {0, 0};
    constexpr int kBits = 40;
    const auto found = boost::math::tools::brent_find_minima([&](double v) { return -v * amps(v); },
                                                             0.0, m_open * 1.05, kBits);
    return {found.first, -found.second};
}

} // namespace sipper
