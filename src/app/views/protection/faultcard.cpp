// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/faultcard.hpp"

#include "project/tree.hpp"
#include "protect/text.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr int kNameColumn = 0;
constexpr int kFaultColumn = 1;
constexpr int kClearsColumn = 2; ///< where many loads would push it out of sight
constexpr int kFirstLoad = 3;
constexpr int kManyLoads = 4;
constexpr double kClearsWide = 170; ///< px
constexpr double kCellWide = 78;
constexpr double kFaultTall = 28; ///< px
constexpr int kMostRows = 13;

QString cellText(double volts) {
    return volts == 0 ? FaultCard::tr("off")
                      : QStringLiteral("%1 V").arg(volts, 0, 'f', std::abs(volts) < 10 ? 2 : 1);
}

/// Ground of a cell by what it means.
QString cellStyle(double volts, bool over) {
    const QColor ground = over         ? onCard(Role::stop, 0.18)
                          : volts == 0 ? onCard(Role::weigh, 0.14)
                                       : onCard(Role::fine, 0.12);
    return QStringLiteral("QPushButton { background: %1; color: %2; text-align: center; "
                          "padding: 3px 4px; font-weight: %3; } "
                          "QPushButton:focus, QPushButton:checked { border: 1px solid %4; "
                          "padding: 2px 3px; }")
        .arg(ground.name(), colour(over ? Role::stop : Role::ink).name(),
             over ? QStringLiteral("bold") : QStringLiteral("normal"), colour(Role::copper).name());
}

} // namespace

FaultCard::FaultCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("faultCard"), tr("One fault at a time"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 4, Margins{12, 8, 8, 8});
    auto* head = new QHBoxLayout;
    auto* title = textLabel(this, tr("One fault at a time: volts that each load then sees"),
                            {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    m_all = checkBox(this, "faults.all", tr("all parts"),
                     tr("Also the faults that change nothing, or only switch off"));
    connect(m_all, &QCheckBox::toggled, this, [this] { fill(); });
    head->addWidget(m_all);
    column->addLayout(head);
    auto* scroll = new QScrollArea(this);
    m_scroll = scroll;
    scroll->setObjectName(QStringLiteral("faults.scroll"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setStyleSheet(QStringLiteral("QScrollArea, #faultsBody { background: transparent; }"));
    m_body = new QWidget;
    m_body->setObjectName(QStringLiteral("faultsBody"));
    m_grid = new QGridLayout(m_body);
    m_grid->setContentsMargins(0, 0, t.ipx(6), 0);
    m_grid->setHorizontalSpacing(t.ipx(8));
    m_grid->setVerticalSpacing(t.ipx(3));
    scroll->setWidget(m_body);
    column->addWidget(scroll, 1);
    m_says = mutedLabel({}, this, 11);
    m_says->setObjectName(QStringLiteral("faults.says"));
    m_says->setWordWrap(true);
    column->addWidget(m_says);
    m_mitigations = newRow(nullptr, 6);
    column->addLayout(m_mitigations);
}

bool FaultCard::settle() {
    return m_session.jobs().waitForIdle(kCures);
}

void FaultCard::show(const std::shared_ptr<const ProtectionAnalysis>& look) {
    m_look = look;
    fill();
}

void FaultCard::fill() {
    clearLayout(*m_grid);
    for (int row = 0; row < m_grid->rowCount(); ++row)
        m_grid->setRowStretch(row, 0);
    for (int column = 0; column < m_grid->columnCount(); ++column)
        m_grid->setColumnStretch(column, 0);
    const Project& p = m_session.project();
    const Theme& t = Theme::now();
    const FaultMatrix& grid = m_look->faults;
    const int loads = static_cast<int>(p.loads.size());
    for (int i = 0; i < loads; ++i) {
        const Load& load = p.loads[static_cast<std::size_t>(i)];
        const QString whole = QStringLiteral("%1 · %2").arg(
            qs(nameOf(load)), quantity(load.window.middle().value(), Unit::volt));
        auto* label = textLabel(m_body, {}, {.size = 11, .bold = true, .ink = Role::charging});
        label->setAlignment(Qt::AlignCenter);
        label->setToolTip(
            load.window.neverAbove
                ? tr("%1, survives %2")
                      .arg(whole, quantity(load.window.neverAbove->value(), Unit::volt))
                : tr("%1, what it survives is not stated").arg(whole));
        label->setText(label->fontMetrics().elidedText(
            qs(nameOf(load)), Qt::ElideRight,
            t.ipx(loads > kManyLoads ? kCellWide : kCellWide * 1.6)));
        m_grid->addWidget(label, 0, kFirstLoad + i);
    }
    int row = 1;
    for (const auto* list : {&grid.parts, &grid.systemFaults})
        for (const Fault& f : *list)
            if (m_all->isChecked() || worthARow(p, f, grid.healthy))
                addRow(row++, f);
    m_grid->setColumnStretch(kFirstLoad + loads, 1);
    m_grid->setRowStretch(row, 1);
    // As high as its rows, up to a dozen of them; more scroll.
    m_scroll->setMinimumHeight(
        t.ipx(kFaultTall * static_cast<double>(std::clamp(row, 3, kMostRows)) + 8));
    // What was chosen is still there, or nothing is.
    const auto again = [&](const std::vector<Fault>& list) {
        for (const Fault& f : list)
            if (f.stage == m_stage && f.kind == m_kind) {
                const std::size_t load = loadIndex(p, m_load);
                if (load != kNotFound)
                    choose(f, load);
                return load != kNotFound;
            }
        return false;
    };
    if (m_stage.empty() || (!again(grid.parts) && !again(grid.systemFaults))) {
        m_stage.clear();
        clearLayout(*m_mitigations);
        m_says->setText(loads == 0 ? tr("No load is there that a fault could reach.")
                                   : tr("Cells full, nothing drawn. Click a red field to see what "
                                        "would keep it off."));
    }
}

void FaultCard::addRow(int row, const Fault& f) {
    const Project& p = m_session.project();
    const Theme& t = Theme::now();
    auto* name = textLabel(m_body, {}, {.size = 12, .bold = true});
    name->setToolTip(qs(nameAt(p, f.stage)));
    name->setText(
        name->fontMetrics().elidedText(qs(nameAt(p, f.stage)), Qt::ElideRight, t.ipx(132)));
    m_grid->addWidget(name, row, kNameColumn);
    m_grid->addWidget(mutedLabel(qs(faultText(f.kind)), m_body, 12), row, kFaultColumn);
    for (std::size_t i = 0; i < f.volts.size(); ++i) {
        auto* cell = pushButton(m_body,
                                QStringLiteral("faults.%1.%2.%3")
                                    .arg(qs(f.stage), qs(faultName(f.kind)), qs(p.loads[i].id)),
                                cellText(f.volts[i]));
        cell->setAccessibleName(tr("%1 %2: %3 sees %4")
                                    .arg(qs(nameAt(p, f.stage)), qs(faultText(f.kind)),
                                         qs(nameOf(p.loads[i])), cellText(f.volts[i])));
        cell->setFont(t.font(12, f.harmed[i]));
        cell->setStyleSheet(cellStyle(f.volts[i], f.harmed[i]));
        cell->setCheckable(true);
        cell->setFixedWidth(
            t.ipx(static_cast<int>(p.loads.size()) > kManyLoads ? kCellWide : kCellWide * 1.25));
        connect(cell, &QPushButton::clicked, this, [this, f, i] { choose(f, i); });
        m_grid->addWidget(cell, row, kFirstLoad + static_cast<int>(i), Qt::AlignCenter);
    }
    QString clears = qs(clearingText(p, f));
    for (const std::string& id : f.alsoFailed)
        clears = tr("with %1; ").arg(qs(nameAt(p, id))) + clears;
    auto* label = mutedLabel(clears, m_body, 11);
    label->setToolTip(clears);
    const int loads = static_cast<int>(f.volts.size());
    if (loads > kManyLoads) {
        label->setFixedWidth(t.ipx(kClearsWide));
        label->setText(label->fontMetrics().elidedText(clears, Qt::ElideRight, t.ipx(kClearsWide)));
        m_grid->addWidget(label, row, kClearsColumn);
        return;
    }
    label->setMinimumWidth(t.ipx(120));
    label->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    m_grid->addWidget(label, row, kFirstLoad + loads);
}

void FaultCard::choose(const Fault& f, std::size_t load) {
    const Project& p = m_session.project();
    m_stage = f.stage;
    m_kind = f.kind;
    m_load = p.loads[load].id;
    for (auto* b : m_body->findChildren<QPushButton*>())
        b->setChecked(
            b->objectName() ==
            QStringLiteral("faults.%1.%2.%3").arg(qs(m_stage), qs(faultName(m_kind)), qs(m_load)));
    clearLayout(*m_mitigations);
    const QString what = tr("%1 %2: %3 sees %4")
                             .arg(qs(nameAt(p, f.stage)), qs(faultText(f.kind)),
                                  qs(nameOf(p.loads[load])), cellText(f.volts[load]));
    if (!f.harmed[load]) {
        m_says->setText(tr("%1. %2").arg(what, qs(clearingText(p, f))));
        return;
    }
    const auto& never = p.loads[load].window.neverAbove;
    m_says->setText(f.volts[load] < 0
                        ? tr("%1, the wrong way round. What keeps it off, solved:").arg(what)
                    : never ? tr("%1 and survives %2. What keeps it off, solved:")
                                  .arg(what, quantity(never->value(), Unit::volt))
                            : what);
    m_session.jobs().runOnProject(
        kCures, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(p), f,
         load](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
            auto cures = std::make_shared<const std::vector<FaultMitigation>>(
                faultMitigations(*project, f, load));
            return [this, cures, load] { showMitigations(*cures, load); };
        },
        this);
}

void FaultCard::showMitigations(const std::vector<FaultMitigation>& cures, std::size_t load) {
    clearLayout(*m_mitigations);
    for (std::size_t i = 0; i < cures.size(); ++i) {
        const FaultMitigation& cure = cures[i];
        auto* b =
            pushButton(this, QStringLiteral("faults.cure.%1").arg(i),
                       tr("%1: then %2").arg(qs(cure.label), cellText(cure.after.volts[load])),
                       cure.clears ? qs(clearingText(cure.project, cure.after))
                                   : tr("It would not keep it off: %1")
                                         .arg(qs(clearingText(cure.project, cure.after))));
        b->setEnabled(cure.clears);
        connect(b, &QPushButton::clicked, this, [this, name = cure.name, after = cure.project] {
            if (const auto trouble = m_session.edit(qs(name), after))
                emit refused(qs(trouble->message()));
        });
        m_mitigations->addWidget(b);
    }
    if (cures.empty())
        m_mitigations->addWidget(mutedLabel(tr("Nothing that is known here would."), this, 11));
    m_mitigations->addStretch();
}

} // namespace sipper::app
