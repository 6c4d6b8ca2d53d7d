// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/start/requestline.hpp"

#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QTimer>

namespace sipper::app {
namespace {

constexpr double kWishSize = 17; ///< px of the line's words
constexpr std::size_t kMostWishes = 6;

struct WishPlace {
    Setting setting;
    const char* text;
};
constexpr std::array kWishPlaces{
    WishPlace{Setting::portable, QT_TRANSLATE_NOOP("WishLine", "carried")},
    WishPlace{Setting::worn, QT_TRANSLATE_NOOP("WishLine", "worn")},
    WishPlace{Setting::desk, QT_TRANSLATE_NOOP("WishLine", "on a desk")},
    WishPlace{Setting::outdoor, QT_TRANSLATE_NOOP("WishLine", "outdoors")}};

} // namespace

RequestLine::RequestLine(QWidget* parent) : QWidget(parent) {
    const Theme& t = Theme::now();
    setObjectName(QStringLiteral("wish"));
    m_flow = new FlowLayout(this, t.ipx(8), t.ipx(8));
    build();
}

void RequestLine::word(const QString& text) {
    auto* label = new QLabel(text, this);
    label->setFont(Theme::now().font(kWishSize));
    label->setFixedHeight(Theme::now().ipx(34));
    m_flow->addWidget(label);
    m_made.push_back(label);
}

QuantityEdit* RequestLine::field(const QString& name, const char* label, Unit unit, double low,
                                 double high, int wide) {
    const Theme& t = Theme::now();
    auto* edit = quantityField(this, name, typedFacts("wish", label, label, unit, low, high));
    edit->setFont(t.font(kWishSize, true));
    edit->setFixedSize(t.ipx(wide), t.ipx(34));
    edit->installEventFilter(this);
    m_flow->addWidget(edit);
    m_made.push_back(edit);
    return edit;
}

void RequestLine::addNeed(std::size_t i) {
    const QString number = QString::number(i);
    if (i > 0)
        word(tr("and"));
    QuantityEdit* volts = field(QStringLiteral("wish.volts.") + number, "Volts that it wants",
                                Unit::volt, 0.8, 48, 76);
    volts->setValue(m_wish.needs[i].volts);
    connect(volts, &QuantityEdit::committed, this, [this, i](std::optional<double> v) {
        m_wish.needs[i].volts = v.value_or(5);
        emit changed();
    });
    if (i == 0)
        m_first = volts;
    word(tr("at"));
    QuantityEdit* amps = field(QStringLiteral("wish.amps.") + number, "Amps that it draws",
                               Unit::ampere, 1e-6, 20, 96);
    amps->setValue(m_wish.needs[i].amps);
    connect(amps, &QuantityEdit::committed, this, [this, i](std::optional<double> v) {
        m_wish.needs[i].amps = v.value_or(0.2);
        emit changed();
    });
}

void RequestLine::build() {
    const Theme& t = Theme::now();
    for (QWidget* w : m_made) {
        w->setObjectName({});
        w->deleteLater();
    }
    m_made.clear();
    while (QLayoutItem* item = m_flow->takeAt(0))
        delete item;
    word(tr("I need"));
    for (std::size_t i = 0; i < m_wish.needs.size(); ++i)
        addNeed(i);
    auto* more = pushButton(this, "wish.more", QStringLiteral("+"));
    more->setAccessibleName(tr("Another voltage"));
    more->setToolTip(tr("Another voltage (the + key)"));
    more->setFixedSize(t.ipx(30), t.ipx(34));
    more->setEnabled(m_wish.needs.size() < kMostWishes);
    connect(more, &QPushButton::clicked, this, [this] {
        SupplyRequest w = m_wish;
        w.needs.push_back({12, 0.1});
        setWish(w);
        if (auto* fresh =
                findChild<QuantityEdit*>(QStringLiteral("wish.volts.%1").arg(w.needs.size() - 1))) {
            fresh->setFocus();
            fresh->selectAll();
        }
    });
    m_flow->addWidget(more);
    m_made.push_back(more);
    if (m_wish.needs.size() > 1) {
        auto* less = pushButton(this, "wish.less", QStringLiteral("−"));
        less->setAccessibleName(tr("Without the last voltage"));
        less->setToolTip(less->accessibleName());
        less->setFixedSize(t.ipx(30), t.ipx(34));
        connect(less, &QPushButton::clicked, this, [this] {
            SupplyRequest w = m_wish;
            w.needs.pop_back();
            setWish(w);
        });
        m_flow->addWidget(less);
        m_made.push_back(less);
    }
    word(tr("for"));
    QuantityEdit* hours =
        field(QStringLiteral("wish.hours"), "How long it must run", Unit::hour, 0.01, 87600, 76);
    hours->setValue(m_wish.hours);
    connect(hours, &QuantityEdit::committed, this, [this](std::optional<double> v) {
        m_wish.hours = v.value_or(8);
        emit changed();
    });
    word(tr("from"));
    const auto combo = [&](const char* name, const QString& says) {
        auto* box = choiceField(this, QLatin1String(name), says, says);
        box->setFont(t.font(kWishSize, true));
        box->setFixedHeight(t.ipx(34));
        box->installEventFilter(this);
        m_flow->addWidget(box);
        m_made.push_back(box);
        return box;
    };
    PlainCombo* from = combo("wish.from", tr("From what it runs"));
    for (std::size_t i = 0; i < kWishFroms; ++i)
        from->addItem(qs(wishFromText(static_cast<RequestedSource>(i))));
    from->setCurrentIndex(static_cast<int>(m_wish.from));
    connect(from, &QComboBox::currentIndexChanged, this, [this](int at) {
        m_wish.from = static_cast<RequestedSource>(at);
        emit changed();
    });
    PlainCombo* place = combo("wish.setting", tr("Where it lives"));
    for (const WishPlace& p : kWishPlaces)
        place->addItem(tr(p.text), static_cast<int>(p.setting));
    place->setCurrentIndex(std::max(0, place->findData(static_cast<int>(m_wish.setting))));
    connect(place, &QComboBox::currentIndexChanged, this, [this, place](int) {
        m_wish.setting = static_cast<Setting>(place->currentData().toInt());
        emit changed();
    });
    m_go = pushButton(this, "wish.go", {});
    m_go->setFont(t.font(15, true));
    m_go->setFixedHeight(t.ipx(34));
    connect(m_go, &QPushButton::clicked, this, [this] { m_busy ? emit stopped() : emit asked(); });
    m_flow->addWidget(m_go);
    m_made.push_back(m_go);
    setBusy(m_busy);
    for (QWidget* w : m_made)
        w->show();
    updateGeometry();
}

void RequestLine::setWish(const SupplyRequest& wish) {
    m_wish = wish;
    build();
    emit changed();
}

void RequestLine::setBusy(bool busy) {
    m_busy = busy;
    m_go->setText(busy ? tr("Stop") : tr("Find it"));
    m_go->setToolTip(busy ? tr("Stops the search") : tr("Three supplies that do it (Enter)"));
    accentButton(*m_go, !busy);
}

void RequestLine::focusFirst() {
    m_first->setFocus();
    m_first->selectAll();
}

/// Enter in any field asks, once the field has taken what was typed; + adds a voltage.
bool RequestLine::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) {
            QTimer::singleShot(0, this, [this, watched] {
                const auto* edit = qobject_cast<QuantityEdit*>(watched);
                if (!m_busy && (!edit || edit->complaint().isEmpty()))
                    emit asked();
            });
            return false;
        }
        if (key->text() == QLatin1String("+")) {
            if (auto* more = findChild<QPushButton*>(QStringLiteral("wish.more")))
                QTimer::singleShot(0, more, [more] { more->click(); });
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace sipper::app
