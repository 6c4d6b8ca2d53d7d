// The ledger as bars: from nameplate to loads, every loss with its watt-hours and share.
#pragma once

#include "session/session.hpp"

#include <QFrame>

namespace sipper::app {

class LedgerBars : public QFrame {
    Q_OBJECT
  public:
    explicit LedgerBars(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QSize minimumSizeHint() const override;

    struct Entry {
        QString name;
        double wattHours;
        bool delivered;
    };
    /// The rows shown: losses from the nameplate down, then what each load got.
    [[nodiscard]] static std::vector<Entry> entries(const Project& project, const Ledger& ledger);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& m_session;
};

} // namespace sipper::app
