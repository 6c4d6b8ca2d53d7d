#include "views/charging/choicescard.hpp"

#include "charge/words.hpp"
#include "views/charging/limitcolour.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>
#include <cmath>
#include <map>

namespace sipper::app {
namespace {

constexpr double kName = 168; ///< px of a row's words
constexpr double kFigure = 84;

QString reason(ChargeNever never) {
    switch (never) {
    case ChargeNever::notRechargeable:
        return ChoicesCard::tr("the cells are used once");
    case ChargeNever::tooCold:
        return ChoicesCard::tr("too cold for these cells");
    case ChargeNever::wrongTopology:
        return ChoicesCard::tr("can't get from there to the pack");
    case ChargeNever::inputTooHigh:
        return ChoicesCard::tr("over what its input survives");
    case ChargeNever::sourceTooWeak:
        return ChoicesCard::tr("asked for too much, it lets go");
    case ChargeNever::recoveryTrap:
        return ChoicesCard::tr("never leaves recovery");
    case ChargeNever::endTrap:
        return ChoicesCard::tr("never ends");
    }
    return {};
}

QString wayText(PathWay way) {
    switch (way) {
    case PathWay::node:
        return ChoicesCard::tr("on the pack");
    case PathWay::diode:
        return ChoicesCard::tr("path of diodes");
    case PathWay::fet:
        return ChoicesCard::tr("path of FETs");
    }
    return {};
}

} // namespace

ChoiceRow::ChoiceRow(Look look, double scale, QWidget* parent)
    : QAbstractButton(parent), m_look(std::move(look)), m_scale(scale) {
    setFocusPolicy(m_look.yours ? Qt::NoFocus : Qt::StrongFocus);
    setEnabled(true);
    setCursor(m_look.yours ? Qt::ArrowCursor : Qt::PointingHandCursor);
    const QString says =
        QStringLiteral("%1: %2, %3")
            .arg(m_look.name, m_look.hours ? hours(*m_look.hours) : m_look.figure, m_look.note);
    setAccessibleName(says);
    setToolTip(m_look.yours
                   ? says
                   : ChoicesCard::tr("%1. Click to open it as another variant.").arg(says));
}

QSize ChoiceRow::sizeHint() const {
    const Theme& t = Theme::now();
    return {t.ipx(kName + 160), t.ipx(m_look.note.isEmpty() ? 24 : 34)};
}

void ChoiceRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    if (hasFocus() || underMouse()) {
        p.setPen(hasFocus() ? QPen(colour(Role::copper), 1) : Qt::NoPen);
        p.setBrush(colour(Role::button));
        p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    }
    const double name = t.px(kName);
    p.setFont(t.font(12, m_look.yours));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(t.px(4), t.px(1), name - t.px(8), t.px(17)), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_look.name, Qt::ElideRight, qRound(name - t.px(8))));
    p.setFont(t.font(11));
    p.setPen(colour(m_look.trouble ? Role::stop : Role::muted));
    p.drawText(QRectF(t.px(4), t.px(17), width() - t.px(8), t.px(15)),
               Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_look.note, Qt::ElideRight, width() - t.ipx(8)));
    const double room = width() - name - t.px(kFigure);
    QRectF bar(name, t.px(4), 0, t.px(12));
    if (m_look.hours && m_scale > 0) {
        bar.setWidth(std::max(t.px(2), room * *m_look.hours / m_scale));
        QColor fill = colour(Role::charging);
        if (!m_look.yours)
            fill.setAlphaF(0.28F);
        p.setPen(Qt::NoPen);
        p.setBrush(fill);
        p.drawRoundedRect(bar, t.px(2), t.px(2));
    } else if (m_look.trouble) {
        bar.setWidth(t.px(44));
        p.setPen(Qt::NoPen);
        p.setBrush(hatchBrush());
        p.drawRect(bar);
    }
    p.setFont(t.font(12, true));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(bar.right() + t.px(6), t.px(1), t.px(kFigure + 30), t.px(17)),
               Qt::AlignLeft | Qt::AlignVCenter,
               m_look.hours ? hours(*m_look.hours) : m_look.figure);
}

ChoicesCard::ChoicesCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("chargeChoices"), tr("The charge beside others"));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(8), t.ipx(8));
    column->setSpacing(t.ipx(6));
    auto* head = new QHBoxLayout;
    head->setSpacing(t.ipx(6));
    const auto page = [&](const QString& text, const char* name, const QString& help, Page which) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(QLatin1String(name));
        b->setToolTip(help);
        b->setCheckable(true);
        connect(b, &QPushButton::clicked, this, [this, which] { choose(which); });
        head->addWidget(b);
        m_pages << b;
    };
    page(tr("Sources"), "choices.sources", tr("The same charge from other sources, each solved"),
         Page::sources);
    page(tr("Rates"), "choices.rates",
         tr("Three schools of how fast to charge, and what they cost"), Page::rates);
    page(tr("In use"), "choices.paths",
         tr("The device on the pack, behind diodes or behind FETs while it charges"), Page::paths);
    head->addStretch();
    m_state = mutedLabel({}, this);
    m_state->setObjectName(QStringLiteral("choices.state"));
    head->addWidget(m_state);
    column->addLayout(head);
    auto* scroll = new QScrollArea(this);
    scroll->setObjectName(QStringLiteral("choices.scroll"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setStyleSheet(QStringLiteral("QScrollArea, #choicesBody { background: transparent; }"));
    m_body = new QWidget;
    m_body->setObjectName(QStringLiteral("choicesBody"));
    m_rows = new QVBoxLayout(m_body);
    m_rows->setContentsMargins(0, 0, t.ipx(4), 0);
    m_rows->setSpacing(t.ipx(2));
    scroll->setWidget(m_body);
    column->addWidget(scroll, 1);
    choose(Page::sources);
}

void ChoicesCard::setState(const QString& text) {
    m_state->setText(text);
}

void ChoicesCard::show(std::shared_ptr<const ChargeChoices> choices) {
    m_choices = std::move(choices);
    fill();
}

void ChoicesCard::choose(Page page) {
    m_page = page;
    for (qsizetype i = 0; i < m_pages.size(); ++i) {
        const bool on = i == static_cast<qsizetype>(page);
        m_pages[i]->setChecked(on);
        m_pages[i]->setProperty("accent", on);
        m_pages[i]->style()->unpolish(m_pages[i]);
        m_pages[i]->style()->polish(m_pages[i]);
    }
    fill();
}

void ChoicesCard::fill() {
    clearLayout(*m_rows);
    if (m_choices) {
        switch (m_page) {
        case Page::sources:
            addChoices(m_choices->sources, "source", false);
            addNote(tr("Click one to open it as another variant."));
            break;
        case Page::rates:
            addChoices(m_choices->rates, "rate", true);
            addNote(tr("From a source that is strong enough. Above 0.5 C each doubling costs about "
                       "a third of the cycles (rule of thumb)."));
            break;
        case Page::paths:
            addPaths();
            break;
        }
        addNote(tr("Never charge lithium unattended, on something that burns, or under 0 °C. What "
                   "local codes say comes first."),
                true);
    }
    m_rows->addStretch();
}

void ChoicesCard::addNote(const QString& text, bool caution) {
    auto* label = mutedLabel(text, m_body, 11);
    label->setWordWrap(true);
    if (caution)
        label->setStyleSheet(inkOf(Role::stop));
    m_rows->addSpacing(Theme::now().ipx(4));
    m_rows->addWidget(label);
}

void ChoicesCard::addChoices(const std::vector<ChargeChoice>& choices, const char* name,
                             bool lives) {
    double most = 0;
    for (const ChargeChoice& c : choices)
        most = std::max(most, c.hours.value_or(0));
    std::map<ChargeNever, QStringList> refused;
    for (std::size_t i = 0; i < choices.size(); ++i) {
        const ChargeChoice& c = choices[i];
        if (c.never && !c.yours) {
            refused[*c.never] << qs(c.says);
            continue;
        }
        ChoiceRow::Look look;
        look.name = qs(c.says);
        look.hours = c.hours;
        look.yours = c.yours;
        look.trouble = c.never.has_value();
        if (c.never)
            look.note = reason(*c.never);
        else if (lives)
            look.note =
                c.lifeFactor < 0.99
                    ? tr("%1 · %2 of the cycles").arg(qs(c.note), qs(writeShare(c.lifeFactor)))
                    : tr("%1 · all of the cycles").arg(qs(c.note));
        else if (c.heldBy)
            look.note = qs(limitShort(*c.heldBy, c.source));
        auto* row = new ChoiceRow(look, most, m_body);
        row->setObjectName(QStringLiteral("choice.%1.%2").arg(QLatin1String(name)).arg(i));
        if (!c.yours)
            connect(row, &QAbstractButton::clicked, this, [this, held = m_choices, &c] {
                tryOut(tr("charge: %1").arg(qs(c.says)), c.project);
            });
        m_rows->addWidget(row);
    }
    // What can't be stands together by its reason.
    for (const auto& [why, names] : refused) {
        auto* label = mutedLabel(QStringLiteral("<span style='color:%1'>%2</span>: %3")
                                     .arg(colour(Role::stop).name(), reason(why),
                                          names.join(QStringLiteral(", ")).toHtmlEscaped()),
                                 m_body, 11);
        label->setObjectName(QStringLiteral("choice.refused.%1").arg(qs(neverName(why))));
        label->setWordWrap(true);
        m_rows->addWidget(label);
    }
}

void ChoicesCard::addPaths() {
    if (m_choices->paths.empty()) {
        addNote(m_choices->hasPath
                    ? tr("The device has a power path already: while its source is plugged in it "
                         "takes nothing from the pack.")
                    : tr("Nothing hangs on the charged pack."));
        return;
    }
    double most = 0;
    for (const PathChoice& c : m_choices->paths)
        most = std::max(most, c.hours.value_or(0));
    for (std::size_t i = 0; i < m_choices->paths.size(); ++i) {
        const PathChoice& c = m_choices->paths[i];
        ChoiceRow::Look look;
        look.name = wayText(c.way);
        look.yours = c.yours;
        look.hours = c.hours;
        look.trouble = c.never.has_value();
        QStringList notes;
        if (c.never)
            notes << reason(*c.never);
        if (c.runsFor)
            notes << tr("runs %1 (%2 reaches the loads)")
                         .arg(hours(*c.runsFor), qs(writeShare(c.usable)));
        notes << (c.fromFlat ? tr("a flat pack %1").arg(reason(*c.fromFlat))
                             : tr("a flat pack comes back"));
        if (c.cyclesAtTop > 0)
            notes << tr("cycles %1 a day at the top").arg(qs(writeShare(c.cyclesAtTop)));
        look.note = notes.join(QStringLiteral(" · "));
        auto* row = new ChoiceRow(look, most, m_body);
        row->setObjectName(QStringLiteral("choice.path.%1").arg(i));
        row->setToolTip(look.note);
        if (!c.yours)
            connect(row, &QAbstractButton::clicked, this,
                    [this, held = m_choices, &c] { tryOut(wayText(c.way), c.project); });
        m_rows->addWidget(row);
    }
    addNote(tr("Plugged in: the source also has to carry the device. Unplugged: a path must block, "
               "or the pack feeds what hangs on the socket."));
}

void ChoicesCard::tryOut(const QString& name, const Project& project) {
    if (const auto trouble = m_session.addVariant(name, project))
        emit refused(qs(trouble->message()));
}

} // namespace sipper::app
