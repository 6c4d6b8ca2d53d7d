// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/benchlist.hpp"

#include "measure/text.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kRow = 30;    ///< px
constexpr double kBand = 44;   ///< px of the band's bar
constexpr double kFigure = 68; ///< px of the reading
constexpr double kSpan = 98;   ///< px of the band in figures
constexpr double kNumber = 20;
constexpr double kOver = 0.18; ///< of the bar on either side of the band

QuantityEdit* fieldFor(const char* key, Unit unit, double low, double high, QWidget* parent) {
    auto* edit = quantityField(
        parent, QStringLiteral("bench.") + QLatin1String(key),
        typedFacts(key, "Reading", "What the meter says; Enter takes it down", unit, low, high));
    edit->setAlignment(Qt::AlignRight);
    edit->hide();
    return edit;
}

} // namespace

BenchList::BenchList(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("bench.list"));
    setAccessibleName(tr("Checks in order"));
    setFocusPolicy(Qt::StrongFocus);
    m_fields = {fieldFor("volts", Unit::volt, -1000, 1000, this),
                fieldFor("amps", Unit::ampere, -1000, 1000, this),
                fieldFor("degrees", Unit::celsius, -100, 1000, this)};
    for (QuantityEdit* edit : m_fields) {
        edit->installEventFilter(this);
        connect(edit, &QuantityEdit::committed, this, [this](std::optional<double> value) {
            if (value && m_marked >= 0)
                emit typed(m_marked, *value);
        });
    }
}

double BenchList::rowHeight() const {
    return Theme::now().px(kRow);
}

/// As wide as the widest of the readings, which are never cut.
double BenchList::figureWidth() const {
    const Theme& t = Theme::now();
    double wide = t.px(kFigure);
    const QFontMetricsF metrics(t.font(12.5, true));
    for (const Row& row : m_rows)
        wide = std::max(wide, metrics.horizontalAdvance(row.figure) + t.px(2));
    return wide;
}

void BenchList::show(const Project& project, const BenchAnalysis& look) {
    m_rows.clear();
    for (const BenchCheck& check : look.checks)
        m_rows.push_back({check, qs(checkTitle(project, check)), qs(checkBand(check)),
                          check.value ? qs(readingFigure(check, *check.value)) : QString()});
    if (m_marked >= static_cast<int>(m_rows.size()))
        m_marked = static_cast<int>(m_rows.size()) - 1;
    if (m_marked < 0)
        markNext();
    setMinimumHeight(
        static_cast<int>(std::ceil(rowHeight() * std::max<double>(1, double(m_rows.size())))));
    place();
    update();
}

void BenchList::mark(int row) {
    const int last = static_cast<int>(m_rows.size()) - 1;
    row = std::clamp(row, last < 0 ? -1 : 0, last);
    if (row == m_marked)
        return;
    m_marked = row;
    place();
    if (row >= 0) {
        const Row& at = m_rows[static_cast<std::size_t>(row)];
        setAccessibleDescription(at.title + ", " + at.band + ", " + at.figure);
        emit wants(rowBox(row).toAlignedRect());
    }
    emit moved(row);
    update();
}

void BenchList::markNext() {
    for (std::size_t i = 0; i < m_rows.size(); ++i)
        if (m_rows[i].check.verdict == CheckVerdict::untested && m_rows[i].check.expect)
            return mark(static_cast<int>(i));
    if (m_marked < 0 && !m_rows.empty())
        mark(0);
}

QRectF BenchList::rowBox(int row) const {
    return {0, row * rowHeight(), double(width()), rowHeight()};
}

QuantityEdit* BenchList::field() const {
    if (m_marked < 0 || m_marked >= static_cast<int>(m_rows.size()))
        return nullptr;
    const BenchCheck& check = m_rows[static_cast<std::size_t>(m_marked)].check;
    switch (unitRead(check.kind, check.quantity)) {
    case Unit::volt:
        return m_fields[0];
    case Unit::ampere:
        return m_fields[1];
    default:
        return m_fields[2];
    }
}

void BenchList::place() {
    const Theme& t = Theme::now();
    QuantityEdit* now = field();
    const bool typing = std::any_of(m_fields.begin(), m_fields.end(),
                                    [](QuantityEdit* edit) { return edit->hasFocus(); });
    for (QuantityEdit* edit : m_fields)
        if (edit != now)
            edit->hide();
    if (!now)
        return;
    const QRectF box = rowBox(m_marked);
    const double wide = figureWidth();
    now->setGeometry(QRectF(box.right() - wide - t.px(6), box.top() + t.px(2), wide + t.px(4),
                            box.height() - t.px(4))
                         .toRect());
    now->setValue(std::nullopt);
    now->setAccessibleName(
        tr("Reading of %1").arg(m_rows[static_cast<std::size_t>(m_marked)].title));
    now->setVisible(true);
    if (typing)
        now->setFocus();
}

void BenchList::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    for (int row = 0; row < static_cast<int>(m_rows.size()); ++row)
        paintRow(p, row);
}

void BenchList::paintRow(QPainter& p, int number) const {
    const Theme& t = Theme::now();
    const Row& row = m_rows[static_cast<std::size_t>(number)];
    const QRectF box = rowBox(number);
    const bool marked = number == m_marked;
    const bool outside = row.check.verdict == CheckVerdict::outside;
    if (marked) {
        p.fillRect(box, onCard(Role::copper, 0.14));
        p.fillRect(QRectF(box.left(), box.top(), t.px(3), box.height()), colour(Role::copper));
    }
    p.setFont(t.font(11.5));
    p.setPen(colour(Role::muted));
    p.drawText(QRectF(box.left() + t.px(8), box.top(), t.px(kNumber), box.height()),
               Qt::AlignVCenter | Qt::AlignLeft, QString::number(number + 1));
    const double right = box.right() - t.px(8);
    const double figure = right - figureWidth();
    const double band = figure - t.px(kBand + 10);
    const double span = band - t.px(kSpan + 8);
    const QFont name = t.font(12.5, marked);
    p.setFont(name);
    p.setPen(colour(Role::ink));
    const QRectF title(box.left() + t.px(8 + kNumber), box.top(),
                       span - box.left() - t.px(16 + kNumber), box.height());
    p.drawText(title, Qt::AlignVCenter | Qt::AlignLeft,
               QFontMetricsF(name).elidedText(row.title, Qt::ElideRight, title.width()));
    const QFont small = t.font(11.5);
    p.setFont(small);
    p.setPen(colour(Role::muted));
    p.drawText(QRectF(span, box.top(), t.px(kSpan), box.height()),
               Qt::AlignVCenter | Qt::AlignRight,
               QFontMetricsF(small).elidedText(row.band, Qt::ElideRight, t.px(kSpan)));
    paintBand(p, row.check, QRectF(band, box.top(), t.px(kBand), box.height()));
    if (marked || row.figure.isEmpty())
        return;
    p.setFont(t.font(12.5, true));
    p.setPen(colour(outside ? Role::stop : Role::ink));
    p.drawText(QRectF(figure, box.top(), figureWidth(), box.height()),
               Qt::AlignVCenter | Qt::AlignRight, row.figure);
}

void BenchList::paintBand(QPainter& p, const BenchCheck& c, const QRectF& box) const {
    if (!c.expect)
        return;
    const Theme& t = Theme::now();
    const double y = box.center().y();
    const double inside = box.width() * (1 - 2 * kOver);
    const double from = box.left() + box.width() * kOver;
    p.setPen(Qt::NoPen);
    p.setBrush(onCard(Role::fine, 0.25));
    p.drawRoundedRect(QRectF(from, y - t.px(3), inside, t.px(6)), t.px(3), t.px(3));
    const auto x = [&](double v) {
        const double share = c.coverageHigh > c.coverageLow
                                 ? (v - c.coverageLow) / (c.coverageHigh - c.coverageLow)
                                 : 0.5;
        return std::clamp(from + share * inside, box.left() + t.px(4), box.right() - t.px(4));
    };
    p.setPen(QPen(colour(Role::muted), t.px(1)));
    p.drawLine(QPointF(x(*c.expect), y - t.px(5)), QPointF(x(*c.expect), y + t.px(5)));
    if (!c.value)
        return;
    const bool good = c.verdict == CheckVerdict::inside;
    p.setPen(Qt::NoPen);
    p.setBrush(colour(good ? Role::fine : Role::stop));
    // A shape besides the colour: a dot inside, a square outside.
    const QRectF dot(x(*c.value) - t.px(5), y - t.px(5), t.px(10), t.px(10));
    if (good)
        p.drawEllipse(dot);
    else
        p.drawRect(dot.adjusted(t.px(1), t.px(1), -t.px(1), -t.px(1)));
}

void BenchList::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    place();
}

void BenchList::mousePressEvent(QMouseEvent* event) {
    const int row = static_cast<int>(event->position().y() / rowHeight());
    if (row >= static_cast<int>(m_rows.size()))
        return;
    mark(row);
    if (QuantityEdit* edit = field())
        edit->setFocus();
}

void BenchList::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Down:
        mark(m_marked + 1);
        return;
    case Qt::Key_Up:
        mark(m_marked - 1);
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (QuantityEdit* edit = field())
            edit->setFocus();
        return;
    default:
        break;
    }
    // A figure typed on the list goes into the field.
    const QString text = event->text();
    if (QuantityEdit* edit = field(); edit && !text.isEmpty() && text[0].isPrint()) {
        edit->setFocus();
        edit->setText(text);
        return;
    }
    QWidget::keyPressEvent(event);
}

bool BenchList::eventFilter(QObject* watched, QEvent* event) {
    // In an empty field the arrows walk the list.
    if (event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        const auto* edit = qobject_cast<QuantityEdit*>(watched);
        if (edit && edit->text().isEmpty() &&
            (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up)) {
            mark(m_marked + (key->key() == Qt::Key_Down ? 1 : -1));
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace sipper::app
