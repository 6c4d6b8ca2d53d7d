// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/curve.hpp"

#include <cmath>

namespace sipper {
namespace {

/// Three-point end slope, limited so that the curve keeps its shape.
double endSlope(double h0, double h1, double d0, double d1) {
    const double slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if (slope * d0 <= 0)
        return 0;
    if (d0 * d1 <= 0 && std::abs(slope) > 3 * std::abs(d0))
        return 3 * d0;
    return slope;
}

std::vector<double> slopes(const Table& p) {
    const std::size_t n = p.size();
    std::vector<double> h(n - 1);
    std::vector<double> d(n - 1);
    for (std::size_t i = 0; i + 1 < n; ++i) {
        h[i] = p[i + 1].first - p[i].first;
        d[i] = (p[i + 1].second - p[i].second) / h[i];
    }
    if (n == 2)
        return {d[0], d[0]};
    std::vector<double> m(n);
    m.front() = endSlope(h[0], h[1], d[0], d[1]);
    m.back() = endSlope(h[n - 2], h[n - 3], d[n - 2], d[n - 3]);
    for (std::size_t i = 1; i + 1 < n; ++i) {
        if (d[i - 1] * d[i] <= 0)
            continue;
        const double w1 = 2 * h[i] + h[i - 1];
        const double w2 = h[i] + 2 * h[i - 1];
        m[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
    }
    return m;
}

} // namespace

Curve::Curve(const Table& p) {
    if (p.empty())
        return;
    if (p.size() == 1) {
        m_pieces.push_back({p[0].first, p[0].second, 0, 0, 0});
        m_sums.push_back(0);
        return;
    }
    const std::vector<double> m = slopes(p);
    double sum = 0;
    for (std::size_t i = 0; i + 1 < p.size(); ++i) {
        const double h = p[i + 1].first - p[i].first;
        const double d = (p[i + 1].second - p[i].second) / h;
        m_pieces.push_back({p[i].first, p[i].second, m[i], (3 * d - 2 * m[i] - m[i + 1]) / h,
                            (m[i] + m[i + 1] - 2 * d) / (h * h)});
        m_sums.push_back(sum);
        sum += h * (p[i].second + p[i + 1].second) / 2 + h * h * (m[i] - m[i + 1]) / 12;
    }
    m_pieces.push_back({p.back().first, p.back().second, m.back(), 0, 0});
    m_sums.push_back(sum);
}

const Curve::Piece& Curve::piece(double x) const {
    std::size_t i = 0;
    while (i + 1 < m_pieces.size() && m_pieces[i + 1].x <= x)
        ++i;
    return m_pieces[i];
}

double Curve::at(double x) const {
    if (m_pieces.empty())
        return 0;
    const Piece& p = piece(x);
    const double d = x - p.x;
    if (d < 0)
        return p.y + p.slope * d;
    return p.y + d * (p.slope + d * (p.square + d * p.cube));
}

double Curve::slope(double x) const {
    if (m_pieces.empty())
        return 0;
    const Piece& p = piece(x);
    const double d = x - p.x;
    return d < 0 ? p.slope : p.slope + d * (2 * p.square + 3 * d * p.cube);
}

double Curve::primitive(double x) const {
    if (m_pieces.empty())
        return 0;
    const Piece& p = piece(x);
    const double d = x - p.x;
    if (d < 0)
        return d * (p.y + d * p.slope / 2);
    const auto index = static_cast<std::size_t>(&p - m_pieces.data());
    return m_sums[index] + d * (p.y + d * (p.slope / 2 + d * (p.square / 3 + d * p.cube / 4)));
}

double Curve::integral(double a, double b) const {
    return primitive(b) - primitive(a);
}

double factorAt(const Table& table, double x) {
    if (table.empty())
        return 1;
    if (x <= table.front().first)
        return table.front().second;
    for (std::size_t i = 1; i < table.size(); ++i)
        if (x <= table[i].first) {
            const double share = (x - table[i - 1].first) / (table[i].first - table[i - 1].first);
            return table[i - 1].second + share * (table[i].second - table[i - 1].second);
        }
    return table.back().second;
}

} // namespace sipper
