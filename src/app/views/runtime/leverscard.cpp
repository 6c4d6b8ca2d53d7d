#include "views/runtime/leverscard.hpp"

#include "runtime/envelope.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

QString signedHours(double value) {
    return (value >= 0 ? QStringLiteral("+") : QString()) + hours(value);
}

QString ruleText(const std::string& rule) {
    if (rule == "capacity_over_current")
        return QObject::tr("Capacity over current");
    if (rule == "energy_over_power")
        return QObject::tr("Watt-hours over the loads' watts");
    return QObject::tr("The same, times a flat 0.9");
}

} // namespace

LeversCard::LeversCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("leversCard"), tr("What would lengthen it"));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(8), t.ipx(8));
    column->setSpacing(t.ipx(6));
    auto* head = new QHBoxLayout;
    head->setSpacing(t.ipx(6));
    const auto button = [&](const QString& text, const char* name, const QString& help) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(QLatin1String(name));
        b->setCheckable(true);
        b->setToolTip(help);
        head->addWidget(b);
        return b;
    };
    m_leversButton = button(tr("What lengthens it"), "levers.show",
                            tr("Every adjustable thing moved by one step, each solved"));
    m_envelopeButton = button(tr("On an envelope"), "envelope.show",
                              tr("What people reckon, and why it differs, term by term"));
    connect(m_leversButton, &QPushButton::clicked, this, [this] { choose(false); });
    connect(m_envelopeButton, &QPushButton::clicked, this, [this] { choose(true); });
    head->addStretch();
    m_state = mutedLabel({}, this);
    m_state->setObjectName(QStringLiteral("levers.state"));
    head->addWidget(m_state);
    column->addLayout(head);
    m_scroll = new QScrollArea(this);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setFocusPolicy(Qt::NoFocus);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setStyleSheet(
        QStringLiteral("QScrollArea, #leversBody { background: transparent; }"));
    m_body = new QWidget;
    m_body->setObjectName(QStringLiteral("leversBody"));
    m_rows = new QVBoxLayout(m_body);
    m_rows->setContentsMargins(0, 0, t.ipx(4), 0);
    m_rows->setSpacing(t.ipx(2));
    m_scroll->setWidget(m_body);
    column->addWidget(m_scroll, 1);
    connect(&session, &Session::projectChanged, this, [this] {
        if (isVisible())
            solve();
    });
    choose(false);
}

void LeversCard::showEvent(QShowEvent* event) {
    QFrame::showEvent(event);
    solve();
}

void LeversCard::choose(bool envelope) {
    m_envelope = envelope;
    for (auto* b : {m_leversButton, m_envelopeButton}) {
        const bool on = (b == m_envelopeButton) == envelope;
        b->setChecked(on);
        b->setProperty("accent", on);
        b->style()->unpolish(b);
        b->style()->polish(b);
    }
    envelope ? showEnvelope() : showLevers();
}

/// Beside the window; the old list stays until the new one is there.
void LeversCard::solve() {
    if (m_envelope)
        showEnvelope();
    if (m_of == m_session.project() && !m_levers.empty())
        return;
    m_state->setText(tr("solving …"));
    m_background.run([this, project = m_session.project()](
                         const std::stop_token& stop) -> std::function<void()> {
        const Library library = loadLibrary(Session::partsFolder().toStdString());
        auto levers = std::make_shared<std::vector<Lever>>(leversOf(project, library, stop));
        if (stop.stop_requested())
            return {};
        auto pairs = leverPairs(project, *levers);
        levers->insert(levers->end(), std::make_move_iterator(pairs.begin()),
                       std::make_move_iterator(pairs.end()));
        return [this, levers, project] {
            m_levers = std::move(*levers);
            m_of = project;
            m_state->setText({});
            if (!m_envelope)
                showLevers();
        };
    });
}

void LeversCard::clear() {
    while (QLayoutItem* item = m_rows->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->setObjectName({});
            w->deleteLater();
        }
        delete item;
    }
}

void LeversCard::addLever(const Lever& lever, std::size_t number) {
    const Theme& t = Theme::now();
    auto* row = new QWidget(m_body);
    row->setObjectName(QStringLiteral("lever.%1").arg(number));
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(t.ipx(8));
    auto* gain = new QLabel(signedHours(lever.gainHours), row);
    gain->setObjectName(QStringLiteral("lever.%1.gain").arg(number));
    gain->setFont(t.font(12, true));
    gain->setStyleSheet(inkOf(Role::fine));
    gain->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    gain->setFixedWidth(t.ipx(62));
    auto* name = new QLabel(qs(lever.name), row);
    name->setFont(t.font(12));
    name->setWordWrap(true);
    QStringList costs;
    if (std::abs(lever.gramsMore) > 0.05)
        costs << QStringLiteral("%1%2").arg(lever.gramsMore > 0 ? "+" : "",
                                            quantity(lever.gramsMore, Unit::gram));
    if (std::abs(lever.priceMore) > 0.005)
        costs << QStringLiteral("%1%2")
                     .arg(lever.priceMore > 0 ? "+" : "")
                     .arg(lever.priceMore, 0, 'f', 2);
    auto* cost = mutedLabel(costs.join(QStringLiteral(" · ")), row);
    auto* use = new QPushButton(tr("Do it"), row);
    use->setObjectName(QStringLiteral("lever.%1.use").arg(number));
    use->setAccessibleName(tr("Do it: %1").arg(qs(lever.name)));
    use->setToolTip(tr("Take this step; one undo takes it back"));
    connect(use, &QPushButton::clicked, this, [this, number] {
        if (number < m_levers.size()) {
            const Lever chosen = m_levers[number];
            m_session.edit(qs(chosen.name), chosen.project);
        }
    });
    line->addWidget(gain);
    line->addWidget(name, 1);
    line->addWidget(cost);
    line->addWidget(use);
    m_rows->addWidget(row);
}

void LeversCard::showLevers() {
    clear();
    for (std::size_t i = 0; i < m_levers.size(); ++i)
        addLever(m_levers[i], i);
    if (m_levers.empty())
        m_rows->addWidget(mutedLabel(m_background.busy() ? tr("solving each step …")
                                                         : tr("No single step lengthens it."),
                                     m_body, 12));
    m_rows->addStretch();
}

void LeversCard::showEnvelope() {
    clear();
    const Results& r = m_session.results();
    const auto list = envelopes(m_session.project(), r.runtime, r.budget);
    for (const Envelope& e : list) {
        QString text = QStringLiteral("<b>%1: %2</b> = %3")
                           .arg(ruleText(e.rule), hours(e.hours), qs(e.formula).toHtmlEscaped());
        text += QStringLiteral("<table cellspacing='0' cellpadding='1'>");
        for (const EnvelopeTerm& term : e.terms) {
            if (std::abs(term.hours) < 0.0005 * e.hours)
                continue;
            text += QStringLiteral("<tr><td align='right'>%1&nbsp;</td><td>%2</td></tr>")
                        .arg(signedHours(-term.hours), qs(term.words).toHtmlEscaped());
        }
        text += QStringLiteral("<tr><td align='right'><b>= %1</b>&nbsp;</td><td>this run</td></tr>"
                               "</table>")
                    .arg(hours(r.runtime.hours->value()));
        auto* label = new QLabel(text, m_body);
        label->setObjectName("envelope." + qs(e.rule));
        label->setTextFormat(Qt::RichText);
        label->setFont(Theme::now().font(12));
        label->setWordWrap(true);
        m_rows->addWidget(label);
        m_rows->addSpacing(Theme::now().ipx(6));
    }
    if (list.empty())
        m_rows->addWidget(mutedLabel(tr("There is no run to reckon."), m_body, 12));
    m_rows->addStretch();
}

} // namespace sipper::app
