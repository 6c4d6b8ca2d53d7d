// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/choicescard.hpp"

#include "charge/text.hpp"
#include "quantity/read.hpp"
#include "views/charging/limitcolour.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QLineEdit>
#include <QRegularExpression>
#include <cmath>
#include <map>

namespace sipper::app {
namespace {

constexpr double kMostWh = 1e6; ///< of a bigger pack

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

QString failureReason(ChargeFailure never) {
    switch (never) {
    case ChargeFailure::notRechargeable:
        return ChoicesCard::tr("the cells are used once");
    case ChargeFailure::tooCold:
        return ChoicesCard::tr("too cold for these cells");
    case ChargeFailure::wrongTopology:
        return ChoicesCard::tr("can't get from there to the pack");
    case ChargeFailure::inputTooHigh:
        return ChoicesCard::tr("over what its input survives");
    case ChargeFailure::sourceTooWeak:
        return ChoicesCard::tr("asked for too much, it lets go");
    case ChargeFailure::recoveryTrap:
        return ChoicesCard::tr("never leaves recovery");
    case ChargeFailure::endTrap:
        return ChoicesCard::tr("never ends");
    case ChargeFailure::deviceTakesMore:
        return ChoicesCard::tr("the device takes more");
    case ChargeFailure::tooSlow:
        return ChoicesCard::tr("hardly gains");
    case ChargeFailure::endsEarly:
        return ChoicesCard::tr("ends far from full");
    }
    return {};
}

ChoicesCard::ChoicesCard(Session& session, QWidget* parent)
    : PagedCard(QStringLiteral("chargeChoices"), tr("The charge beside others"),
                QStringLiteral("choices"), parent),
      m_session(session) {
    // In the order of Page.
    addPage(tr("Sources"), "choices.sources.show",
            tr("The same charge from other sources, each solved"));
    addPage(tr("Energy"), "choices.energy.show",
            tr("Where the energy of the charge goes, from the source to what is stored"));
    addPage(tr("Rates"), "choices.rates.show",
            tr("Three schools of how fast to charge, and what they cost"));
    addPage(tr("In use"), "choices.paths.show",
            tr("The device on the pack, behind diodes or behind FETs while it charges"));
    addPage(tr("Packs"), "choices.packs.show", tr("Several packs: joined, or on one supply"));
    addPage(tr("Set up"), "choices.setup.show",
            tr("The order on the bench, each step with its figure"));
    choose(static_cast<int>(Page::sources));
}

void ChoicesCard::setState(const QString& text) {
    state().setText(text);
}

void ChoicesCard::show(std::shared_ptr<const ChargeChoices> choices) {
    m_choices = std::move(choices);
    showPage();
}

void ChoicesCard::showCharge(std::shared_ptr<const ChargeRun> charge) {
    m_charge = std::move(charge);
    if (static_cast<Page>(page()) == Page::energy)
        showPage();
}

std::vector<EnergyStream::Entry> ChoicesCard::energyOf(const Project& p,
                                                       const ChargeLedger& ledger) {
    std::vector<EnergyStream::Entry> losses;
    for (const Stage& s : p.stages)
        if (const auto at = ledger.stages.find(s.id); at != ledger.stages.end())
            losses.push_back({qs(nameOf(s)), at->second, false});
    losses.push_back({tr("the charger"), ledger.charger, false});
    losses.push_back({tr("heat in the cells"), ledger.packHeat, false});
    auto all = EnergyStream::lossesWorthShowing(losses, ledger.input);
    all.push_back({tr("stored"), ledger.stored, true});
    for (const Load& load : p.loads)
        if (const auto at = ledger.loads.find(load.id); at != ledger.loads.end() && at->second > 0)
            all.push_back({qs(nameOf(load)), at->second, true});
    return all;
}

void ChoicesCard::addEnergy() {
    if (!m_charge || m_charge->ledger.input <= 0) {
        addNote(tr("No energy flows in this charge."));
        return;
    }
    const ChargeLedger& ledger = m_charge->ledger;
    auto* stream = new EnergyStream(body());
    stream->setObjectName(QStringLiteral("charge.energy"));
    stream->setFrameless();
    stream->show(energyOf(m_session.project(), ledger), ledger.input,
                 tr("%1 from the source: %2 is stored")
                     .arg(quantity(ledger.input, Unit::wattHour),
                          qs(writeShare(ledger.stored / ledger.input))),
                 Role::charging);
    rows().addWidget(stream, 1);
}

void ChoicesCard::fillPage() {
    if (!m_choices)
        return;
    switch (static_cast<Page>(page())) {
    case Page::sources:
        addChoices(m_choices->sources, "source", false);
        addNote(tr("Click one to open it as another variant."));
        break;
    case Page::energy:
        addEnergy();
        return;
    case Page::rates:
        addChoices(m_choices->rates, "rate", true);
        addNote(tr("From a source that is strong enough. Above 0.5 C each doubling costs about a "
                   "third of the cycles (rule of thumb)."));
        break;
    case Page::paths:
        addPaths();
        break;
    case Page::packs:
        addPacks();
        return;
    case Page::setup:
        addSetup();
        return;
    }
    addNote(tr("Never charge lithium unattended, on something that burns, or under 0 °C. What "
               "local codes say comes first."),
            true);
}

void ChoicesCard::addSetup() {
    const Theme& t = Theme::now();
    int number = 0;
    for (const SetupStep& step : m_choices->steps) {
        ++number;
        auto* label =
            textLabel(body(),
                      QStringLiteral("<b>%1 · %2</b>%3<br><span style='color:%4'>%5: %6.</span>")
                          .arg(number)
                          .arg(qs(step.what).toHtmlEscaped(),
                               step.to.empty() ? QString()
                                               : QStringLiteral(": <b style='color:%1'>%2</b>")
                                                     .arg(colour(Role::copper).name(),
                                                          qs(step.to).toHtmlEscaped()),
                               colour(Role::muted).name(), qs(step.where).toHtmlEscaped(),
                               qs(step.why).toHtmlEscaped()),
                      {.size = 12, .wrap = true, .name = QStringLiteral("setup.%1").arg(number)});
        label->setTextInteractionFlags(Qt::TextSelectableByMouse);
        rows().addWidget(label);
        rows().addSpacing(t.ipx(4));
    }
    if (!m_choices->caution.empty())
        addNote(qs(m_choices->caution), true);
}

/// What would flow between packs of these volts, of the kind that is charged here.
void ChoicesCard::sayJoined(QLabel& answer, const QString& typed) const {
    std::vector<TheveninPack> packs;
    for (const QString& part :
         typed.split(QRegularExpression(QStringLiteral("[;,]\\s+|;")), Qt::SkipEmptyParts)) {
        const auto volts = readQuantity(part.trimmed().toStdString(), Unit::volt);
        if (!volts || volts.value() <= 0) {
            answer.setText(tr("Found “%1”, expected volts with a comma and a space between them, "
                              "such as 4.1 V, 3.8 V.")
                               .arg(part.trimmed()));
            return;
        }
        packs.push_back({volts.value(), m_choices->pack.ohms, m_choices->pack.most});
    }
    if (packs.size() < 2 || packs.size() > 10) {
        answer.setText(tr("Found %1 packs, expected two to ten.").arg(packs.size()));
        return;
    }
    const Joined joined = joinPacks(packs, 0);
    QStringList flows;
    for (std::size_t i = 0; i < packs.size(); ++i)
        flows << tr("pack %1 %2 %3")
                     .arg(i + 1)
                     .arg(joined.amps[i] >= 0 ? tr("takes") : tr("gives"),
                          quantity(std::abs(joined.amps[i]), Unit::ampere));
    QString says = tr("Joined at once they meet at %1: %2.")
                       .arg(quantity(joined.volts, Unit::volt), flows.join(QStringLiteral(", ")));
    if (joined.refused)
        says += tr(" <b style='color:%1'>Don't: %2.</b> They may differ by %3. Charge pack %4 "
                   "first, up to the others.")
                    .arg(colour(Role::stop).name(), qs(joined.why),
                         quantity(joined.mayDiffer, Unit::volt))
                    .arg(joined.order.front() + 1);
    else
        says +=
            tr(" That is within what the cells take; their charging currents add from then on.");
    answer.setText(says);
}

void ChoicesCard::addPacks() {
    const Theme& t = Theme::now();
    auto* head = mutedLabel(tr("Packs like this one, to be joined side by side. At rest they show"),
                            body(), 12);
    head->setWordWrap(true);
    rows().addWidget(head);
    constexpr double kApart = 0.02; // of the volts: three packs that lay about
    const double rest = m_choices->pack.volts;
    const QString usual =
        QStringLiteral("%1, %2, %3")
            .arg(quantity(rest * (1 + kApart), Unit::volt), quantity(rest, Unit::volt),
                 quantity(rest * (1 - kApart), Unit::volt));
    auto* volts = new QLineEdit(m_volts.isEmpty() ? usual : m_volts, body());
    volts->setObjectName(QStringLiteral("packs.volts"));
    volts->setAccessibleName(tr("Volts of the packs"));
    volts->setToolTip(tr("Two to ten voltages, with a comma and a space between them"));
    rows().addWidget(volts);
    auto* answer = textLabel(body(), {}, {.size = 12, .wrap = true, .name = "packs.answer"});
    answer->setTextFormat(Qt::RichText);
    rows().addSpacing(t.ipx(4));
    rows().addWidget(answer);
    sayJoined(*answer, volts->text());
    connect(volts, &QLineEdit::textChanged, this, [this, answer](const QString& typed) {
        m_volts = typed;
        sayJoined(*answer, typed);
    });
    addBigPack();
    addShared();
    addNote(
        tr("Join only packs of the same cells, age and count in series, each with its own fuse. "
           "Salvaged cells: measure each first."),
        true);
}

/// Watt-hours, with what the bigger pack's converter and this charger lose.
void ChoicesCard::sayFills(QLabel& answer) const {
    const double own =
        m_charge && m_charge->ledger.input > 0 ? m_charge->storedWh / m_charge->ledger.input : 0;
    if (own <= 0) {
        answer.setText(tr("This charge stores nothing: no pack fills it."));
        return;
    }
    const double times = fillsFrom(m_bigWh, m_bigShare, m_choices->pack.wattHours, own);
    answer.setText(tr("fills this one (%1) <b>%2 times</b>: this charger stores %3 of what it "
                      "takes.")
                       .arg(quantity(m_choices->pack.wattHours, Unit::wattHour),
                            QString::number(times, 'f', times < 10 ? 1 : 0), qs(writeShare(own))));
}

void ChoicesCard::addBigPack() {
    constexpr double kBigger = 10; // times this pack, as a first question, in round tens
    if (m_bigWh <= 0)
        m_bigWh = std::max(1.0, std::round(m_choices->pack.wattHours)) * kBigger;
    auto* row = new QWidget(body());
    auto* line = newRow(row, 6, Margins{0, 8, 0, 0});
    auto* answer = textLabel(body(), {}, {.size = 12, .wrap = true, .name = "packs.fills"});
    const auto field = [&](const char* name, const char* label, const char* help, Unit unit,
                           double high, double now, double ChoicesCard::*into) {
        FieldFacts facts = typedFacts(name, label, help, unit, 0, high);
        facts.limits.minOpen = true;
        auto* edit = quantityField(row, QLatin1String(name), facts, 74);
        edit->setValue(now);
        connect(edit, &QuantityEdit::committed, this,
                [this, into, answer](std::optional<double> value) {
                    if (value && *value > 0)
                        this->*into = *value;
                    sayFills(*answer);
                });
        line->addWidget(edit);
    };
    line->addWidget(mutedLabel(tr("A bigger pack of"), row, 12));
    field("packs.big", "Bigger pack", "Watt-hours of its cells", Unit::wattHour, kMostWh, m_bigWh,
          &ChoicesCard::m_bigWh);
    line->addWidget(mutedLabel(tr("through"), row, 12));
    field("packs.share", "Its converter", "Share of it that reaches the charger", Unit::percent, 1,
          m_bigShare, &ChoicesCard::m_bigShare);
    line->addStretch();
    rows().addWidget(row);
    rows().addWidget(answer);
    sayFills(*answer);
}

void ChoicesCard::addShared() {
    auto* head = mutedLabel(tr("Several such chargers and packs on this supply"), body(), 12);
    rows().addSpacing(Theme::now().ipx(8));
    rows().addWidget(head);
    double most = 0;
    for (const ChargeChoice& c : m_choices->shared)
        most = std::max(most, c.hours.value_or(0));
    for (std::size_t i = 0; i < m_choices->shared.size(); ++i) {
        const ChargeChoice& c = m_choices->shared[i];
        ChoiceRow::Look look;
        look.name = qs(c.says);
        look.hours = c.hours;
        look.yours = true; // nothing to open: the others are not in this project
        look.trouble = c.never.has_value();
        look.note = c.never    ? failureReason(*c.never)
                    : c.heldBy ? qs(limitShort(*c.heldBy, c.source))
                               : QString();
        auto* row = new ChoiceRow(look, most, body());
        row->setObjectName(QStringLiteral("choice.shared.%1").arg(i));
        rows().addWidget(row);
    }
}

void ChoicesCard::addNote(const QString& text, bool caution) {
    auto* label = mutedLabel(text, body(), 11);
    label->setWordWrap(true);
    if (caution)
        label->setStyleSheet(inkOf(Role::stop));
    rows().addSpacing(Theme::now().ipx(4));
    rows().addWidget(label);
}

void ChoicesCard::addChoices(const std::vector<ChargeChoice>& choices, const char* name,
                             bool lives) {
    double most = 0;
    for (const ChargeChoice& c : choices)
        most = std::max(most, c.hours.value_or(0));
    std::map<ChargeFailure, QStringList> refused;
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
            look.note = failureReason(*c.never);
        else if (lives)
            look.note =
                c.lifeFactor < 0.99
                    ? tr("%1 · %2 of the cycles").arg(qs(c.note), qs(writeShare(c.lifeFactor)))
                    : tr("%1 · all of the cycles").arg(qs(c.note));
        else if (c.heldBy)
            look.note = qs(limitShort(*c.heldBy, c.source));
        auto* row = new ChoiceRow(look, most, body());
        row->setObjectName(QStringLiteral("choice.%1.%2").arg(QLatin1String(name)).arg(i));
        if (!c.yours)
            connect(row, &QAbstractButton::clicked, this, [this, held = m_choices, &c] {
                tryOut(tr("charge: %1").arg(qs(c.says)), c.project);
            });
        rows().addWidget(row);
    }
    // What can't be stands together by its reason.
    for (const auto& [why, names] : refused) {
        auto* label = mutedLabel(QStringLiteral("<span style='color:%1'>%2</span>: %3")
                                     .arg(colour(Role::stop).name(), failureReason(why),
                                          names.join(QStringLiteral(", ")).toHtmlEscaped()),
                                 body(), 11);
        label->setObjectName(QStringLiteral("choice.refused.%1").arg(qs(failureName(why))));
        label->setWordWrap(true);
        rows().addWidget(label);
    }
}

void ChoicesCard::addPaths() {
    if (m_choices->paths.empty()) {
        addNote(m_choices->hasPath
                    ? tr("The device has a power path already: while its source is plugged in it "
                         "takes nothing from the pack.")
                    : tr("Nothing hangs on the charged pack."));
        if (m_choices->socketSees > 0)
            addNote(tr("Unplugged, the source's contacts see up to %1 from the pack: the path does "
                       "not block.")
                        .arg(quantity(m_choices->socketSees, Unit::volt)),
                    true);
        else if (m_choices->hasPath)
            addNote(tr("Unplugged, the source's contacts see nothing from the pack: the path "
                       "blocks."));
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
            notes << failureReason(*c.never);
        if (c.runsFor)
            notes << tr("runs %1 (%2 reaches the loads)")
                         .arg(hours(*c.runsFor), qs(writeShare(c.usable)));
        notes << (c.fromFlat ? tr("a flat pack %1").arg(failureReason(*c.fromFlat))
                             : tr("a flat pack comes back"));
        if (c.cyclesAtTop > 0)
            notes << tr("cycles %1 a day at the top").arg(qs(writeShare(c.cyclesAtTop)));
        look.note = notes.join(QStringLiteral(" · "));
        auto* row = new ChoiceRow(look, most, body());
        row->setObjectName(QStringLiteral("choice.path.%1").arg(i));
        row->setToolTip(look.note);
        if (!c.yours)
            connect(row, &QAbstractButton::clicked, this,
                    [this, held = m_choices, &c] { tryOut(wayText(c.way), c.project); });
        rows().addWidget(row);
    }
    addNote(tr("Plugged in, the source also has to carry the device. Unplugged, its contacts see "
               "nothing from the pack: chargers and paths here block."));
}

void ChoicesCard::tryOut(const QString& name, const Project& project) {
    if (const auto trouble = m_session.addVariant(name, project))
        emit refused(qs(trouble->message()));
}

} // namespace sipper::app
