// SPDX-License-Identifier: GPL-3.0-or-later
// One fault at a time: a grid of parts by loads, and what would clear the chosen one.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QCheckBox;
class QGridLayout;
class QHBoxLayout;
class QLabel;
class QScrollArea;

namespace sipper::app {

class FaultCard : public QFrame {
    Q_OBJECT
  public:
    explicit FaultCard(Session& session, QWidget* parent = nullptr);

    void show(const std::shared_ptr<const ProtectionAnalysis>& look);
    /// Waits for the cures of what is chosen; for tests and pictures.
    bool settle();

  signals:
    void refused(const QString& says);

  private:
    static constexpr const char* kCures = "fault-cures";
    void fill();
    void addRow(int row, const Fault& fault);
    void choose(const Fault& fault, std::size_t load);
    void showMitigations(const std::vector<FaultMitigation>& cures, std::size_t load);

    Session& m_session;
    std::shared_ptr<const ProtectionAnalysis> m_look;
    QCheckBox* m_all;
    QScrollArea* m_scroll;
    QWidget* m_body;
    QGridLayout* m_grid;
    QLabel* m_says;
    QHBoxLayout* m_mitigations;
    std::string m_stage; ///< of the fault that is chosen; empty: none
    FaultKind m_kind = FaultKind::failsShort;
    std::string m_load;
};

} // namespace sipper::app
