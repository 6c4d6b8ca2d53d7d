// SPDX-License-Identifier: GPL-3.0-or-later
// The resistors that set a threshold or a set-point: drawn with their values, the best five to
// take.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QComboBox;
class QLabel;
class QVBoxLayout;

namespace sipper::app {

class DividerDrawing;
class QuantityEdit;

class DividerCard : public QFrame {
    Q_OBJECT
  public:
    explicit DividerCard(Session& session, QWidget* parent = nullptr);

    void show(const std::shared_ptr<const ProtectionAnalysis>& look);
    /// Waits for the search; for tests and pictures.
    bool settle();

  signals:
    void refused(const QString& says);

  private:
    static constexpr const char* kSearch = "dividers";
    void choose(int place);
    void search();
    void showFound(const std::vector<Divider>& found, const QString& why);
    void showDivider(const Divider* divider);
    void take(const Divider& divider);
    [[nodiscard]] const DividerPlace* place() const;
    QuantityEdit* field(const char* name, const char* label, const char* help, Unit unit,
                        double least, double most, void (DividerCard::*set)(double));
    void setReference(double volts);
    void setDraw(double amps);
    void setTap(double ohms);

    Session& m_session;
    std::shared_ptr<const ProtectionAnalysis> m_look;
    QComboBox* m_places;
    QComboBox* m_series;
    QuantityEdit* m_reference;
    QuantityEdit* m_draw;
    QuantityEdit* m_tap;
    DividerDrawing* m_drawing;
    QVBoxLayout* m_rows;
    QLabel* m_says;
    std::string m_id; ///< of the part whose divider is shown
    DividerUse m_use = DividerUse::setPoint;
    std::optional<double> m_ownReference;
    std::optional<double> m_ownDraw;
    std::optional<double> m_ownTap;
};

} // namespace sipper::app
