// SPDX-License-Identifier: GPL-3.0-or-later
// Between the core's strings and Qt's.
#pragma once

#include "quantity/write.hpp"

#include <QDateTime>
#include <QString>

namespace sipper::app {

/// Of what matters beside it: a smaller figure reads `none`.
inline constexpr double kNoticedShare = 1e-3;

[[nodiscard]] inline QString qs(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}
[[nodiscard]] inline QString quantity(double value, Unit unit) {
    return qs(writeQuantity(value, unit));
}
[[nodiscard]] inline QString hours(double value) {
    return qs(writeHours(value));
}

/// `41 208`: thousands apart, on one line.
[[nodiscard]] inline QString countText(std::uint64_t count) {
    QString text = QString::number(count);
    for (qsizetype at = text.size() - 3; at > 0; at -= 3)
        text.insert(at, QChar(0x202F));
    return text;
}

/// This minute as files have it: `2031-04-02T12:15`.
[[nodiscard]] inline std::string minuteNow() {
    return QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-ddTHH:mm")).toStdString();
}

} // namespace sipper::app
