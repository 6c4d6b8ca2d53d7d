// SPDX-License-Identifier: GPL-3.0-or-later
// Where the energy of a discharge goes: one stream from the nameplate to the loads.
#pragma once

#include "session/session.hpp"
#include "widgets/energystream.hpp"

class QCheckBox;

namespace sipper::app {

class LedgerStream : public EnergyStream {
    Q_OBJECT
  public:
    explicit LedgerStream(Session& session, QWidget* parent = nullptr);

    /// Losses from the nameplate down, then what each load got; `byMode` parts the loads by mode.
    [[nodiscard]] static std::vector<Entry> entries(const Project& project, const Ledger& ledger,
                                                    bool byMode = false);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void refresh();

    Session& m_session;
    QCheckBox* m_byMode;
};

} // namespace sipper::app
