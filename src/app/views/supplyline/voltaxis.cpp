// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/voltaxis.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace sipper::app {
namespace {

constexpr std::array kFamiliar{0.5, 0.8,  1.0,  1.2,  1.5,  1.8,  2.5,  3.3,  4.0,  5.0,  6.0,  7.5,
                               9.0, 12.0, 15.0, 18.0, 24.0, 30.0, 36.0, 48.0, 60.0, 80.0, 100.0};

} // namespace

VoltAxis::VoltAxis(double low, double high, double top, double bottom)
    : m_low(std::max(0.01, low)), m_high(std::max(high, m_low * 1.5)), m_top(top),
      m_bottom(bottom) {}

double VoltAxis::y(double volts) const {
    return m_bottom -
           std::log(std::max(volts, 1e-3) / m_low) / std::log(m_high / m_low) * (m_bottom - m_top);
}

double VoltAxis::volts(double y) const {
    return m_low * std::exp((m_bottom - y) / (m_bottom - m_top) * std::log(m_high / m_low));
}

std::vector<double> VoltAxis::ticks(double gap) const {
    std::vector<double> list;
    for (const double v : kFamiliar)
        if (v >= m_low && v <= m_high && (list.empty() || y(list.back()) - y(v) >= gap))
            list.push_back(v);
    return list;
}

} // namespace sipper::app
