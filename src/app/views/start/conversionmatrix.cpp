// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/start/conversionmatrix.hpp"

#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace sipper::app {
namespace {

constexpr double kMatrixHead = 34; ///< px of the sources' names
constexpr double kMatrixSide = 48; ///< px of the wanted volts
constexpr double kMatrixRow = 33;  ///< px of a row
constexpr double kMatrixGap = 3;

} // namespace

ConversionMatrix::ConversionMatrix(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("haveMatrix"));
    setAccessibleName(tr("Have against need"));
    setAccessibleDescription(tr("Arrows walk, Enter opens the recipe"));
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    const Theme& t = Theme::now();
    setFixedHeight(t.ipx(kMatrixHead + kMatrixRow * static_cast<double>(kTargetVolts.size())));
    setMinimumWidth(t.ipx(440));
    for (std::size_t h = 0; h < kHaves; ++h)
        for (std::size_t w = 0; w < kTargetVolts.size(); ++w)
            m_all[h][w] = betweenOf(static_cast<SourceKind>(h), kTargetVolts[w]);
}

const ConversionAdvice& ConversionMatrix::between(Field f) const {
    return m_all[static_cast<std::size_t>(f.have)][static_cast<std::size_t>(f.want)];
}

QRectF ConversionMatrix::box(Field f) const {
    const Theme& t = Theme::now();
    const double wide = (width() - t.px(kMatrixSide)) / static_cast<double>(kHaves);
    return {t.px(kMatrixSide) + f.have * wide + t.px(kMatrixGap) / 2,
            t.px(kMatrixHead + kMatrixRow * f.want) + t.px(kMatrixGap) / 2, wide - t.px(kMatrixGap),
            t.px(kMatrixRow - kMatrixGap)};
}

std::optional<ConversionMatrix::Field> ConversionMatrix::under(const QPointF& at) const {
    for (int h = 0; h < static_cast<int>(kHaves); ++h)
        for (int w = 0; w < static_cast<int>(kTargetVolts.size()); ++w)
            if (box({h, w}).contains(at))
                return Field{h, w};
    return {};
}

void ConversionMatrix::point(Field f) {
    m_at = f;
    m_lit = true;
    update();
    setAccessibleDescription(qs(between(f).why));
    emit pointed(qs(between(f).why));
}

void ConversionMatrix::choose(Field f) {
    point(f);
    emit chosen(static_cast<SourceKind>(f.have), kTargetVolts[static_cast<std::size_t>(f.want)]);
}

void ConversionMatrix::paintEvent(QPaintEvent*) {
    const Theme& t = Theme::now();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    for (int h = 0; h < static_cast<int>(kHaves); ++h) {
        const QRectF top = box({h, 0});
        p.setFont(t.font(11, m_lit && h == m_at.have));
        p.setPen(colour(m_lit && h == m_at.have ? Role::ink : Role::muted));
        p.drawText(QRectF(top.left(), 0, top.width(), t.px(kMatrixHead - 3)),
                   static_cast<int>(Qt::AlignHCenter) | static_cast<int>(Qt::AlignBottom) |
                       static_cast<int>(Qt::TextWordWrap),
                   qs(haveBands()[static_cast<std::size_t>(h)].name));
    }
    for (int w = 0; w < static_cast<int>(kTargetVolts.size()); ++w) {
        const QRectF first = box({0, w});
        p.setFont(t.font(12.5, true));
        p.setPen(colour(Role::ink));
        p.drawText(QRectF(0, first.top(), t.px(kMatrixSide - 8), first.height()),
                   static_cast<int>(Qt::AlignRight) | static_cast<int>(Qt::AlignVCenter),
                   QStringLiteral("%1 V").arg(kTargetVolts[static_cast<std::size_t>(w)]));
        for (int h = 0; h < static_cast<int>(kHaves); ++h) {
            const Field f{h, w};
            const ConversionAdvice& b = between(f);
            const QRectF r = box(f);
            // What is easy is green, what takes a converter copper, the more the more it does.
            const auto ground = [&] {
                switch (b.stands) {
                case Conversion::straight:
                    return onCard(Role::fine, 0.26);
                case Conversion::dropOut:
                    return onCard(Role::fine, 0.12);
                case Conversion::buck:
                    return onCard(Role::copper, 0.12);
                case Conversion::boost:
                    return onCard(Role::copper, 0.2);
                case Conversion::both:
                    return onCard(Role::copper, 0.3);
                case Conversion::notWithout:
                    break;
                }
                return onCard(Role::muted, 0.1);
            }();
            const bool lit = m_lit && f == m_at;
            p.setPen(lit ? QPen(colour(Role::copper), t.px(2)) : QPen(Qt::NoPen));
            p.setBrush(ground);
            p.drawRoundedRect(r, t.px(3), t.px(3));
            p.setPen(colour(b.stands == Conversion::notWithout ? Role::muted : Role::ink));
            p.setFont(t.font(11));
            p.drawText(r.adjusted(t.px(1), 0, -t.px(1), 0),
                       static_cast<int>(Qt::AlignCenter) | static_cast<int>(Qt::TextWordWrap),
                       qs(b.text));
        }
    }
}

void ConversionMatrix::mouseMoveEvent(QMouseEvent* event) {
    if (const auto f = under(event->position()); f && !(m_lit && *f == m_at))
        point(*f);
}

void ConversionMatrix::mousePressEvent(QMouseEvent* event) {
    if (const auto f = under(event->position()); f && event->button() == Qt::LeftButton)
        choose(*f);
}

void ConversionMatrix::keyPressEvent(QKeyEvent* event) {
    Field f = m_at;
    switch (event->key()) {
    case Qt::Key_Left:
        f.have = std::max(0, f.have - 1);
        break;
    case Qt::Key_Right:
        f.have = std::min(static_cast<int>(kHaves) - 1, f.have + 1);
        break;
    case Qt::Key_Up:
        f.want = std::max(0, f.want - 1);
        break;
    case Qt::Key_Down:
        f.want = std::min(static_cast<int>(kTargetVolts.size()) - 1, f.want + 1);
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Space:
        return choose(f);
    default:
        return QWidget::keyPressEvent(event);
    }
    point(f);
}

void ConversionMatrix::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    point(m_at);
}

void ConversionMatrix::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    m_lit = false;
    emit pointed({});
    update();
}

void ConversionMatrix::leaveEvent(QEvent* event) {
    QWidget::leaveEvent(event);
    if (hasFocus())
        return;
    m_lit = false;
    emit pointed({});
    update();
}

} // namespace sipper::app
