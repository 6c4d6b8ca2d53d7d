// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/guardcard.hpp"

#include "parts/chemistry.hpp"
#include "protect/text.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QGridLayout>
#include <QPushButton>
#include <QVBoxLayout>

namespace sipper::app {

GuardCard::GuardCard(Session& session, QWidget* parent)
    : PagedCard(QStringLiteral("guardCard"), tr("Beside the guard"), QStringLiteral("guard"),
                parent),
      m_session(session) {
    addPage(tr("Schools"), "guard.schools.show", tr("How deep to go: hours against cycles"));
    addPage(tr("Proof"), "guard.proof.show", tr("How to prove it at the bench"));
    addPage(tr("After the cut"), "guard.after.show",
            tr("What goes on being drawn, and who finds the pack again"));
    addPage(tr("Ways back"), "guard.ways.show", tr("Where one source pushes into another"));
    choose(0);
}

const GuardAnalysis* GuardCard::guard() const {
    return m_look && m_guard < m_look->guards.size() ? &m_look->guards[m_guard] : nullptr;
}

void GuardCard::show(const std::shared_ptr<const ProtectionAnalysis>& look, std::size_t guard) {
    m_look = look;
    m_guard = guard;
    showPage();
}

QLabel* GuardCard::addText(const QString& text, const QString& name) {
    auto* label = textLabel(body(), text, {.size = 12, .wrap = true, .name = name});
    rows().addWidget(label);
    return label;
}

void GuardCard::fillPage() {
    if (!m_look)
        return;
    switch (static_cast<Page>(page())) {
    case Page::policies:
        return addPolicies();
    case Page::proof:
        return addProof();
    case Page::after:
        return addAfter();
    case Page::ways:
        return addWays();
    }
}

void GuardCard::addPolicies() {
    const Project& p = m_session.project();
    const auto& lives = m_session.results().cutoffPolicies();
    const Pack* pack = p.pack();
    if (!pack || policyCutoff(pack->cell.chemistry, CellCare::balanced) <= 0) {
        addText(tr("These cells have no schools of cut-off: they are used up, or there are none."));
        return;
    }
    const GuardAnalysis* g = guard();
    if (!g) {
        addText(tr("No guard: what each school would be, a cell and for the pack of %1 in series:")
                    .arg(pack->series));
    } else if (lives.empty()) {
        addText(m_session.resultsCurrent() ? tr("Nothing runs down here.") : tr("running …"));
    }
    auto* table = new QWidget(body()); // goes with the page
    auto* grid = new QGridLayout(table);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(Theme::now().ipx(12));
    grid->setVerticalSpacing(Theme::now().ipx(3));
    rows().addWidget(table);
    const QStringList heads{tr("school"), tr("a cell"), tr("pack"), tr("runs for"), tr("cycles")};
    for (int i = 0; i < (lives.empty() ? 3 : 5); ++i)
        grid->addWidget(mutedLabel(heads[i], body(), 11), 0, i);
    const auto cell = [&](const QString& text, int row, int column, bool bold) {
        auto* label = new QLabel(text, body());
        label->setFont(Theme::now().font(12, bold));
        grid->addWidget(label, row, column);
    };
    int row = 1;
    for (const CellCare school : {CellCare::squeeze, CellCare::balanced, CellCare::gentle}) {
        const double volts = pack->series * policyCutoff(pack->cell.chemistry, school);
        const bool yours = g && std::abs(volts - g->cutoff) < 0.01 * pack->series;
        cell(qs(nameOf(school)) + (yours ? tr(", yours") : QString()), row, 0, yours);
        cell(quantity(volts / pack->series, Unit::volt), row, 1, yours);
        cell(quantity(volts, Unit::volt), row, 2, yours);
        for (const PolicyLife& life : lives)
            if (life.policy == school) {
                cell(hours(life.hours), row, 3, yours);
                cell(qs(writeCycles(life.life)), row, 4, yours);
            }
        if (g) {
            auto* b = pushButton(body(), QStringLiteral("guard.school.%1").arg(qs(nameOf(school))),
                                 tr("Use it"));
            b->setEnabled(!yours);
            connect(b, &QPushButton::clicked, this,
                    [this, id = g->id, volts, back = g->reconnect - g->cutoff] {
                        Project after = m_session.project();
                        auto& part = std::get<Guard>(after.stage(id)->part);
                        part.cutoff = Volts{volts};
                        if (part.reconnect) // as far apart as before
                            part.reconnect = Volts{volts + back};
                        if (const auto trouble = m_session.edit(
                                tr("cut off at %1").arg(quantity(volts, Unit::volt)), after))
                            emit refused(qs(trouble->message()));
                    });
            grid->addWidget(b, row, 5);
        }
        ++row;
    }
    grid->setColumnStretch(6, 1);
    auto* note = mutedLabel(
        tr("Hours are run, cycles (to four fifths) a rule of thumb. Deeper gives hours today "
           "and takes cycles."),
        body(), 11);
    note->setWordWrap(true);
    rows().addWidget(note);
}

void GuardCard::addProof() {
    const GuardAnalysis* g = guard();
    if (!g || !g->proof) {
        addText(g ? tr("The guard is never reached: there is nothing to prove with cells. A bench "
                       "supply turned down to %1 proves its threshold.")
                        .arg(quantity(g->cutoff, Unit::volt))
                  : tr("No guard to prove."));
        return;
    }
    addText(qs(proofText(*g, *g->proof)), QStringLiteral("guard.proof"));
    auto* table = new QWidget(body()); // goes with the page
    auto* grid = new QGridLayout(table);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(Theme::now().ipx(12));
    rows().addWidget(table);
    grid->addWidget(mutedLabel(tr("into the test"), body(), 11), 0, 0);
    grid->addWidget(mutedLabel(tr("meter at the cells"), body(), 11), 1, 0);
    int column = 1;
    for (const DrainTest::Mark& m : g->proof->marks) {
        auto* when = textLabel(body(), hours(m.hours), {.size = 12});
        grid->addWidget(when, 0, column);
        auto* volts = textLabel(body(), QStringLiteral("%1 V").arg(m.volts, 0, 'f', 2),
                                {.size = 12, .bold = true});
        grid->addWidget(volts, 1, column++);
    }
    grid->setColumnStretch(column, 1);
}

void GuardCard::addAfter() {
    const Project& p = m_session.project();
    const GuardAnalysis* g = guard();
    if (!g) {
        addText(tr("No guard: nothing is cut off."));
        return;
    }
    if (!g->usual.acts) {
        addText(qs(guardVerdict(p, *g).says));
        return;
    }
    addText(qs(afterCutText(p, *g)), QStringLiteral("guard.after"));
    for (const ChargerRestart& f : g->chargers)
        addText(qs(foundAgainText(p, f)));
    if (g->chargers.empty())
        addText(tr("No charger on the line has to find the pack again."));
}

void GuardCard::addWays() {
    const Project& p = m_session.project();
    if (m_look->backfeeds.empty()) {
        addText(tr("No source can push into another, and no cells into a panel or a socket."));
        return;
    }
    for (const BackfeedPath& push : m_look->backfeeds) {
        QLabel* label = addText(qs(pushText(p, push)));
        label->setStyleSheet(inkOf(push.kind == BackfeedKind::socket ? Role::ink : Role::stop));
    }
    auto* note = mutedLabel(tr("Drawn dashed in red on the supply line."), body(), 11);
    rows().addWidget(note);
}

} // namespace sipper::app
