// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/quantityedit.hpp"

#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <QKeyEvent>
#include <QStyle>
#include <cmath>

namespace sipper::app {

FieldFacts typedFacts(const char* key, const char* label, const char* help, Unit unit, double low,
                      double high) {
    FieldFacts f;
    f.key = key;
    f.label = label;
    f.help = help;
    f.unit = unit;
    f.limits = {low, high, false};
    return f;
}

QuantityEdit::QuantityEdit(const FieldFacts& facts, QWidget* parent)
    : QLineEdit(parent), m_facts(facts) {
    const auto text = [](std::string_view s) {
        return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
    };
    m_help = QStringLiteral("%1. Type %2.")
                 .arg(text(facts.help), QString::fromStdString(expectedText(facts.unit)));
    setToolTip(m_help);
    setAccessibleName(text(facts.label));
    setAccessibleDescription(m_help);
    setAlignment(Qt::AlignRight);
    if (const double* preset = std::get_if<double>(&facts.preset))
        setPlaceholderText(QString::fromStdString(writeExact(*preset, facts.unit)));
    connect(this, &QLineEdit::returnPressed, this, &QuantityEdit::commit);
}

QString QuantityEdit::shown() const {
    return m_value ? QString::fromStdString(writeExact(*m_value, m_facts.unit)) : QString();
}

void QuantityEdit::setValue(std::optional<double> value) {
    // Figures that arrive late take nothing from what is being typed.
    if (value == m_value && hasFocus() && isModified())
        return;
    m_value = value;
    if (!hasFocus() || m_complaint.isEmpty())
        setText(shown());
    if (!m_complaint.isEmpty() && !hasFocus())
        show({});
}

void QuantityEdit::show(const QString& complaint) {
    m_complaint = complaint;
    setProperty("wrong", !complaint.isEmpty());
    setToolTip(complaint.isEmpty() ? m_help : complaint);
    setAccessibleDescription(toolTip());
    style()->unpolish(this);
    style()->polish(this);
    emit complained(complaint);
}

void QuantityEdit::commit() {
    const QString typed = text().trimmed();
    if (typed == shown()) {
        if (!m_complaint.isEmpty())
            show({});
        return;
    }
    if (typed.isEmpty() && !m_facts.required) {
        show({});
        m_value.reset();
        emit committed(std::nullopt);
        return;
    }
    const auto read = readQuantity(typed.toStdString(), m_facts.unit);
    if (!read) {
        show(QString::fromStdString(read.error().message()));
        return;
    }
    if (!m_facts.limits.holds(read.value()) ||
        (m_facts.unit == Unit::count && read.value() != std::floor(read.value()))) {
        show(QStringLiteral("found %1, expected %2")
                 .arg(typed, QString::fromStdString(expectedOf(m_facts))));
        return;
    }
    show({});
    m_value = read.value();
    setText(shown());
    emit committed(m_value);
}

void QuantityEdit::focusOutEvent(QFocusEvent* event) {
    commit();
    QLineEdit::focusOutEvent(event);
}

void QuantityEdit::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape && text() != shown()) {
        setText(shown());
        show({});
        return;
    }
    if ((event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) && m_value) {
        const double step =
            m_facts.unit == Unit::count
                ? 1.0
                : std::pow(10.0, std::floor(std::log10(std::max(1e-12, std::abs(*m_value)))) - 1);
        const double next = *m_value + (event->key() == Qt::Key_Up ? step : -step);
        setText(QString::fromStdString(writeExact(std::round(next / step) * step, m_facts.unit)));
        commit();
        return;
    }
    QLineEdit::keyPressEvent(event);
}

} // namespace sipper::app
