// SPDX-License-Identifier: GPL-3.0-or-later
// The brief: a short page of sentences whose values are changed in place, and what follows from
// them.
#pragma once

#include "session/session.hpp"

#include <QMap>
#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QToolButton;
class QVBoxLayout;

namespace sipper::app {

class QuantityEdit;

class BriefView : public QWidget {
    Q_OBJECT
  public:
    explicit BriefView(Session& session, QWidget* parent = nullptr);

  private:
    void buildName(QWidget* page);
    void buildStart(QWidget* page);
    void buildRefills();
    QWidget* buildFollows();
    void sayWhere(QWidget* page, QVBoxLayout* lines);
    void sayHowLong(QWidget* page, QVBoxLayout* lines);
    void sayCare(QWidget* page, QVBoxLayout* lines);
    void sayNoise(QWidget* page, QVBoxLayout* lines);
    void sayLimits(QWidget* page, QVBoxLayout* lines);
    QLayout* sentence(QWidget* page);
    void words(QLayout* line, const QString& text);
    QuantityEdit* figure(QLayout* line, const char* key, double width);
    QComboBox* choice(QLayout* line, const char* key);
    void commit(const QString& name, const std::function<void(Brief&)>& change);
    void take(const QString& name, Project after); ///< as one edit; what is against it is shown
    void complain(const QString& text);            ///< empty: nothing is wrong
    void refresh();
    void follow();
    QToolButton* ticks(QWidget* page, const char* name, const QString& about, const QString& help);
    void fillNoise();

    Session& m_session;
    QLineEdit* m_name;
    QMap<QString, QuantityEdit*> m_figures;
    QMap<QString, QComboBox*> m_choices;
    QLineEdit* m_start;
    QToolButton* m_refills;
    QToolButton* m_noise;
    QLabel* m_complaint;
    QWidget* m_follows;
    QVBoxLayout* m_followsColumn;
};

} // namespace sipper::app
