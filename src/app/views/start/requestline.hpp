// SPDX-License-Identifier: GPL-3.0-or-later
// One typed line: I need so many volts at so many amps for so many hours, from something.
#pragma once

#include "request/supplyrequest.hpp"

#include <QWidget>
#include <vector>

class QComboBox;
class QLabel;
class QPushButton;

namespace sipper::app {

class FlowLayout;
class QuantityEdit;

class RequestLine : public QWidget {
    Q_OBJECT
  public:
    explicit RequestLine(QWidget* parent = nullptr);

    [[nodiscard]] const SupplyRequest& wish() const { return m_wish; }
    void setWish(const SupplyRequest& wish);
    /// While it is being searched for the button stops it.
    void setBusy(bool busy);
    void focusFirst();

  signals:
    void asked();   ///< Enter in any field, or the button
    void stopped(); ///< the button, while it is busy
    void changed();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void build();
    void addNeed(std::size_t i);
    QuantityEdit* field(const QString& name, const char* label, Unit unit, double low, double high,
                        int wide);
    void word(const QString& text);

    SupplyRequest m_wish;
    FlowLayout* m_flow;
    std::vector<QWidget*> m_made; ///< everything in the line, in order
    QuantityEdit* m_first = nullptr;
    QPushButton* m_go = nullptr;
    bool m_busy = false;
};

} // namespace sipper::app
