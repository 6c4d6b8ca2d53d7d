// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of the chosen stage or load, edited in place.
#pragma once

#include "parts/fields.hpp"
#include "session/session.hpp"

#include <QFrame>
#include <QMap>

class QLabel;
class QLayout;
class QCheckBox;

namespace sipper::app {

class QuantityEdit;

class Inspector : public QFrame {
    Q_OBJECT
  public:
    explicit Inspector(Session& session, QWidget* parent = nullptr);
    /// px, with `rows` of its figures to be seen; the rest scrolls.
    [[nodiscard]] static int heightOf(int rows);
    /// px of the caution under the rows; 0 where there is none.
    [[nodiscard]] int cautionHeight() const;
    /// Puts the cursor into the first figure.
    void enter();

  private:
    /// One editable thing: facts, how to read it, how to make the project with another value.
    struct Row {
        FieldFacts facts;
        QString key; ///< object name of the editor
        std::function<FieldValue(const Project&)> get;
        std::function<void(Project&, const FieldValue&)> set;
        bool primary = false;
    };
    void rebuild();
    void refresh();
    void setFact(const char* name, const QString& text, bool trouble = false);
    void showStage(const Stage& s);
    void showLoad(const Load& l);
    void refreshEditors();
    void fillStage(const Stage& stage);
    void fillLoad(const Load& load);
    void addEditor(const Row& row);
    void addDerive(const std::string& id);
    void addFact(const QString& name, const QString& text);
    void apply(const Row& row, const FieldValue& value);
    [[nodiscard]] bool wanted(const Row& row) const;
    [[nodiscard]] QString signature() const;

    Session& m_session;
    QLabel* m_title;
    QLabel* m_kind;
    QLabel* m_caution;
    QLabel* m_complaint;
    QCheckBox* m_all;
    QWidget* m_fields;
    std::vector<Row> m_rows;
    QMap<QString, QWidget*> m_editors;
    QMap<QString, QLabel*> m_facts;
    QString m_signature;
};

} // namespace sipper::app
