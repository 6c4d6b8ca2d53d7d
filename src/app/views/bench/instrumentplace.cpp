// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/instrumentplace.hpp"

#include "widgets/controls.hpp"
#include "widgets/panel.hpp"

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr int kPlaceName = 46; ///< px of what the instrument is called

} // namespace

InstrumentPlace::InstrumentPlace(const QString& words, const char* name, QWidget* parent)
    : QWidget(parent), m_key(QStringLiteral("instrument.") + QLatin1String(name)),
      m_link(new ScpiLink(this)) {
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 2, Margins{});
    auto* row = newRow(nullptr, 6);
    auto* label = new QLabel(words, this);
    label->setFixedWidth(t.ipx(kPlaceName));
    row->addWidget(label);
    m_address = new QLineEdit(QSettings().value(m_key).toString(), this);
    m_address->setObjectName(m_key);
    m_address->setPlaceholderText(QStringLiteral("127.0.0.1:5025"));
    m_address->setAccessibleName(tr("Address of the %1").arg(words.toLower()));
    m_address->setToolTip(tr("Where the %1 answers: an address and a port, or the port alone of "
                             "this machine")
                              .arg(words.toLower()));
    m_address->setMinimumWidth(t.ipx(60));
    row->addWidget(m_address, 1);
    m_button = pushButton(this, m_key + QStringLiteral(".connect"), tr("Connect"));
    row->addWidget(m_button);
    column->addLayout(row);
    m_state = mutedLabel(tr("not there"), this, 11);
    m_state->setObjectName(m_key + QStringLiteral(".state"));
    m_state->setContentsMargins(t.ipx(kPlaceName + 6), 0, 0, 0);
    m_state->setWordWrap(true);
    column->addWidget(m_state);
    connect(m_button, &QPushButton::clicked, this, &InstrumentPlace::press);
    connect(m_link, &ScpiLink::opened, this, [this] {
        m_state->setText(m_link->identity());
        m_button->setText(tr("Leave"));
        emit opened();
    });
    connect(m_link, &ScpiLink::failed, this, [this](const QString& why) {
        showShut(why);
        emit gone(why);
    });
}

void InstrumentPlace::connectTo(const QString& address) {
    leave();
    m_address->setText(address);
    m_state->setText(tr("asking…"));
    m_link->open(address);
}

void InstrumentPlace::leave() {
    if (!m_link->isOpen())
        return;
    emit leaving();
    m_link->close();
    showShut(tr("not there"));
}

void InstrumentPlace::press() {
    if (m_link->isOpen()) {
        leave();
        return;
    }
    QSettings().setValue(m_key, m_address->text().trimmed());
    m_state->setText(tr("asking…"));
    m_link->open(m_address->text());
}

void InstrumentPlace::showShut(const QString& why) {
    m_state->setText(why);
    m_button->setText(tr("Connect"));
}

void InstrumentPlace::say(const QString& text) {
    if (m_link->isOpen())
        m_state->setText(text.isEmpty() ? m_link->identity() : text);
}

} // namespace sipper::app
