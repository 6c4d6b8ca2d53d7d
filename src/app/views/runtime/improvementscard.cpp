// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/runtime/improvementscard.hpp"

#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>
#include <cmath>

namespace sipper::app {
ImprovementsCard::ImprovementsCard(Session& session, QWidget* parent)
    : PagedCard(QStringLiteral("leversCard"), tr("What would lengthen it"),
                QStringLiteral("levers"), parent),
      m_session(session) {
    // In the order of Page.
    addPage(tr("Levers"), "levers.show",
            tr("Every adjustable thing moved by one step, each solved"));
    addPage(tr("Envelope"), "envelope.show",
            tr("What people reckon, and why it differs, term by term"));
    addPage(tr("Range"), "range.show", tr("What the range rests on, the widest first"));
    addPage(tr("Units"), "units.show", tr("The same charge at the cells and at every load"));
    addPage(tr("Wear"), "wear.show",
            tr("How long the cells last on the shelf, and how many cycles"));
    new Refresher(this, session, {&Session::projectChanged}, [this] { solve(); });
    new Refresher(this, session, {&Session::resultsUpdated}, [this] {
        if (which() == Page::range || which() == Page::wear)
            showPage();
    });
    choose(static_cast<int>(Page::levers));
}

void ImprovementsCard::fillPage() {
    body()->setEnabled(which() != Page::levers || isOfNow());
    const Results& r = m_session.results();
    switch (which()) {
    case Page::levers:
        showImprovements();
        break;
    case Page::envelope:
        addTexts(handEstimatePage(r), tr("There is no run to reckon."));
        break;
    case Page::range:
        addTexts(rangePage(m_session),
                 r.runtime.hours ? tr("being computed …") : tr("There is no run to have a range."));
        break;
    case Page::units:
        addTexts(unitsPage(m_session.project(), r), tr("There is no run to measure."));
        if (r.equivalents)
            rows().addWidget(new DeviceRow(*r.equivalents, m_device, body()));
        break;
    case Page::wear:
        addTexts(wearPage(m_session), tr("There are no cells to age."));
        break;
    }
}

bool ImprovementsCard::isOfNow() const {
    return m_of && *m_of == m_session.project();
}

void ImprovementsCard::addTexts(const std::vector<PageText>& page, const QString& none) {
    for (const PageText& part : page)
        addText(part.name, part.text);
    if (page.empty())
        rows().addWidget(mutedLabel(none, body(), 12));
}

QLabel* ImprovementsCard::addText(const QString& name, const QString& richText) {
    auto* label = new QLabel(richText, body());
    label->setObjectName(name);
    label->setTextFormat(Qt::RichText);
    label->setFont(Theme::now().font(12));
    label->setWordWrap(true);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    rows().addWidget(label);
    rows().addSpacing(Theme::now().ipx(6));
    return label;
}

/// Beside the window; the old list stays until the new one is there.
void ImprovementsCard::solve() {
    if (which() != Page::levers)
        showPage();
    if (isOfNow())
        return;
    state().setText(tr("solving …"));
    // Steps of an older project are still read, but taking one would undo what was edited since.
    body()->setEnabled(which() != Page::levers);
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::idle,
        [this, project = std::make_shared<const Project>(m_session.project())](
            const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            const Library library = loadLibrary(Session::partsFolder().toStdString());
            auto levers =
                std::make_shared<std::vector<Improvement>>(improvementsOf(*project, library, stop));
            if (stop.stop_requested())
                return {};
            auto pairs = improvementPairs(*project, *levers);
            levers->insert(levers->end(), std::make_move_iterator(pairs.begin()),
                           std::make_move_iterator(pairs.end()));
            return [this, levers, project] {
                m_improvements = std::move(*levers);
                m_of = project;
                state().setText({});
                body()->setEnabled(true);
                if (which() == Page::levers)
                    showPage();
            };
        },
        this);
}

QString ImprovementsCard::costsOf(const Improvement& lever) {
    QStringList costs;
    if (std::abs(lever.gramsMore) > 0.05)
        costs << QStringLiteral("%1%2").arg(lever.gramsMore > 0 ? "+" : "",
                                            quantity(lever.gramsMore, Unit::gram));
    if (std::abs(lever.priceMore) > 0.005)
        costs << QStringLiteral("%1%2")
                     .arg(lever.priceMore > 0 ? "+" : "")
                     .arg(lever.priceMore, 0, 'f', 2);
    return costs.join(QStringLiteral(" · "));
}

/// A button that takes the step of a row, as an edit or as a variant.
QPushButton* ImprovementsCard::improvementButton(
    std::size_t number, const char* name, const QString& text, const QString& help,
    std::optional<Error> (ImprovementsCard::*act)(const Improvement&)) {
    auto* b = pushButton(body(), QStringLiteral("lever.%1.%2").arg(number).arg(QLatin1String(name)),
                         text);
    b->setAccessibleName(tr("%1: %2").arg(text, qs(m_improvements[number].name)));
    b->setToolTip(help);
    connect(b, &QPushButton::clicked, this, [this, number, act] {
        if (number >= m_improvements.size())
            return;
        const Improvement chosen = m_improvements[number];
        if (const auto trouble = (this->*act)(chosen))
            state().setText(qs(trouble->message()));
    });
    return b;
}

std::optional<Error> ImprovementsCard::use(const Improvement& lever) {
    return m_session.edit(qs(lever.name), lever.project);
}

std::optional<Error> ImprovementsCard::attempt(const Improvement& lever) {
    return m_session.addVariant(tr("try %1").arg(qs(lever.name)), lever.project);
}

void ImprovementsCard::addImprovement(const Improvement& lever, std::size_t number) {
    const Theme& t = Theme::now();
    auto* row = new QWidget(body());
    row->setObjectName(QStringLiteral("lever.%1").arg(number));
    auto* line = newRow(row, 8, Margins{});
    auto* gain = textLabel(row, signedHours(lever.gainHours),
                           {.size = 12,
                            .bold = true,
                            .ink = Role::fine,
                            .name = QStringLiteral("lever.%1.gain").arg(number)});
    gain->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    gain->setFixedWidth(t.ipx(62));
    line->addWidget(gain);
    auto* name = textLabel(row, qs(lever.name), {.size = 12, .wrap = true});
    auto* what = newColumn(nullptr, 0);
    what->addWidget(name);
    if (const QString costs = costsOf(lever); !costs.isEmpty())
        what->addWidget(mutedLabel(costs, row));
    line->addLayout(what, 1);
    line->addWidget(improvementButton(number, "use", tr("Do it"),
                                      tr("Take this step; one undo takes it back"),
                                      &ImprovementsCard::use));
    line->addWidget(improvementButton(
        number, "try", tr("Try"), tr("Take this step in a new variant; this one stays as it is"),
        &ImprovementsCard::attempt));
    rows().addWidget(row);
}

void ImprovementsCard::showImprovements() {
    for (std::size_t i = 0; i < m_improvements.size(); ++i)
        addImprovement(m_improvements[i], i);
    if (m_improvements.empty())
        rows().addWidget(mutedLabel(m_session.jobs().busy(kJob)
                                        ? tr("solving each step …")
                                        : tr("No single step lengthens it."),
                                    body(), 12));
}

} // namespace sipper::app
