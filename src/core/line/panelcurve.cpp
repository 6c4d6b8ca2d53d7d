// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/panelcurve.hpp"

#include <algorithm>
#include <boost/math/special_functions/lambert_w.hpp>
#include <cmath>
#include <numbers>

namespace sipper {

PanelShape::PanelShape(const PanelLabel& l)
    : label(l), c2((l.vmp / l.openCircuit - 1) / std::log(1 - l.maxPowerCurrent / l.shortCircuit)) {
    c1 = (1 - l.maxPowerCurrent / l.shortCircuit) * std::exp(-l.vmp / (c2 * l.openCircuit));
    topBend = boost::math::lambert_w0(std::numbers::e * (1 + c1) / c1) - 1;
    topShare = 1 - c1 * std::expm1(topBend);
}

PanelCurve::PanelCurve(const PanelLabel& label, double light, double cellC)
    : PanelCurve(PanelShape(label), light, cellC, 1, 1) {}

PanelCurve::PanelCurve(const PanelShape& s, double light, double cellC, double series,
                       double parallel)
    : m_c1(s.c1), m_short(parallel * s.label.shortCircuit * light / 1000) {
    if (light <= 0)
        return;
    const double open = s.label.openCircuit;
    m_open =
        series * (open + s.label.perKelvin * (cellC - 25) + s.c2 * open * std::log(light / 1000));
    if (!lit())
        return;
    m_bend = s.c2 * m_open;
    m_topVolts = s.topBend * m_bend;
    m_topAmps = s.topShare * m_short;
}

double PanelCurve::amps(double volts) const {
    return lit() ? std::max(0.0, m_short * (1 - m_c1 * std::expm1(volts / m_bend))) : 0;
}

double PanelCurve::volts(double amps) const {
    return lit() ? m_bend * std::log1p((1 - amps / m_short) / m_c1) : 0;
}

double PanelCurve::slope(double volts) const {
    return lit() ? -m_short * m_c1 / m_bend * std::exp(volts / m_bend) : 0;
}

} // namespace sipper
