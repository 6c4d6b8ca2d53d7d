// SPDX-License-Identifier: GPL-3.0-or-later
// The simulated meter, load and supply as a process of this window: begun for a project, ended with
// it.
#pragma once

#include "measure/plantedfault.hpp"

#include <QObject>
#include <QProcess>
#include <QTemporaryDir>

namespace sipper::app {

class StandIn : public QObject {
    Q_OBJECT
  public:
    explicit StandIn(QObject* parent = nullptr);
    /// Ends the process.
    ~StandIn() override;

    /// Plays the project on free ports of this machine; one that plays already is ended.
    void start(const Project& project, const std::optional<PlantedFault>& fault = {});
    void stop();
    [[nodiscard]] bool running() const { return m_process.state() != QProcess::NotRunning; }
    /// What was planted, for who has to find it.
    [[nodiscard]] const std::optional<PlantedFault>& fault() const { return m_fault; }

  signals:
    void ready(int meter, int load, int supply);
    void failed(const QString& why);

  private:
    void take();

    QTemporaryDir m_folder;
    QProcess m_process;
    std::optional<PlantedFault> m_fault;
    bool m_said = false;  ///< its ports
    bool m_ended = false; ///< by us
};

} // namespace sipper::app
