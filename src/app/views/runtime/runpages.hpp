// SPDX-License-Identifier: GPL-3.0-or-later
// What stands beside the discharge, in words: the envelope, the range, the units and the wear.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QVBoxLayout;

namespace sipper::app {

/// `+3 h 20`, `−40 min`.
[[nodiscard]] QString signedHours(double value);

/// Each page as rich text; empty where there is nothing to say, and then `none` says why.
struct PageText {
    QString name; ///< object name of the label
    QString text;
};
[[nodiscard]] std::vector<PageText> handEstimatePage(const Results& results);
[[nodiscard]] std::vector<PageText> rangePage(const Session& session);
[[nodiscard]] std::vector<PageText> unitsPage(const Project& project, const Results& results);
[[nodiscard]] std::vector<PageText> wearPage(const Session& session);

/// How often the charge fills another device's battery; the device is typed in.
class DeviceRow : public QWidget {
    Q_OBJECT
  public:
    struct Device {
        double ah = 3;
        double volts = 3.7;
    };
    /// `device` outlives the row: it keeps what was typed.
    DeviceRow(const EnergyEquivalents& worth, Device& device, QWidget* parent);
};

} // namespace sipper::app
