// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/compare/compareview.hpp"

#include "project/variants.hpp"
#include "text/text.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QCheckBox>
#include <QGridLayout>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <tuple>

namespace sipper::app {
namespace {

constexpr std::size_t kMost = 5; ///< columns that can be read
constexpr std::size_t kTitles = 3;

/// A row of figures before it is filled: what it says of a variant, and what the best is told by,
/// the least first.
struct Figure {
    const char* key;
    QString head;
    std::function<QString(const EvaluatedVariant&)> text;
    std::function<double(const EvaluatedVariant&)> rank;
};

QString rangeText(const EvaluatedVariant& w) {
    return w.range ? QStringLiteral("%1 – %2").arg(hours(w.range->p10), hours(w.range->p90))
                   : QStringLiteral("–");
}

QString spareText(const EvaluatedVariant& w) {
    if (!w.project.brief.targetRuntime || !w.runtime.hours)
        return QStringLiteral("–");
    const double spare = w.runtime.hours->value() - w.project.brief.targetRuntime->value();
    return spare >= 0 ? CompareView::tr("%1 to spare").arg(hours(spare))
                      : CompareView::tr("%1 short").arg(hours(-spare));
}

QString worstText(const EvaluatedVariant& w) {
    if (!w.runtime.hours && !w.externalLoads.empty())
        return CompareView::tr("%1 from %2")
            .arg(quantity(w.externalLoads.front().asked(), Unit::ampere),
                 qs(nameOf(w.project.stages[w.externalLoads.front().source])));
    const QString worst = quantity(w.runtime.worstCurrent.value(), Unit::ampere);
    return w.allowedAmps > 0
               ? CompareView::tr("%1 of %2").arg(worst, quantity(w.allowedAmps, Unit::ampere))
               : worst;
}

QString warmestText(const EvaluatedVariant& w) {
    return w.hottest.empty()
               ? QStringLiteral("–")
               : QStringLiteral("%1, %2").arg(quantity(w.hottestC, Unit::celsius),
                                              qs(nameOf(*w.project.stage(w.hottest))));
}

QString adviceText(const EvaluatedVariant& w, Severity severity) {
    const int count = w.count(severity);
    if (count == 0)
        return CompareView::tr("nothing");
    QStringList titles;
    for (const Finding& f : w.findings)
        if (f.severity == severity && titles.size() < static_cast<int>(kTitles))
            titles << qs(f.title);
    const auto more = count - titles.size();
    return QStringLiteral("%1: %2%3")
        .arg(count)
        .arg(titles.join(QStringLiteral("; ")),
             more > 0 ? CompareView::tr(" and %1 more").arg(more) : QString());
}

} // namespace

RunBar::RunBar(double hours, std::optional<RuntimeQuantiles> range, double target, double scale,
               QWidget* parent)
    : QWidget(parent), m_hours(hours), m_range(range), m_target(target), m_scale(scale) {
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

QSize RunBar::sizeHint() const {
    return {Theme::now().ipx(90), Theme::now().ipx(18)};
}

void RunBar::paintEvent(QPaintEvent*) {
    if (m_scale <= 0)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const double wide = width() - t.px(2);
    const auto at = [&](double h) { return t.px(1) + wide * h / m_scale; };
    const double middle = height() / 2.0;
    p.fillRect(QRectF(at(0), middle - t.px(4), wide, t.px(8)), colour(Role::paper));
    p.fillRect(QRectF(at(0), middle - t.px(4), at(m_hours) - at(0), t.px(8)), colour(Role::copper));
    if (m_range) {
        p.setPen(QPen(colour(Role::ink), t.px(1.4)));
        p.drawLine(QPointF(at(m_range->p10), middle), QPointF(at(m_range->p90), middle));
        for (const double end : {m_range->p10, m_range->p90})
            p.drawLine(QPointF(at(end), middle - t.px(3)), QPointF(at(end), middle + t.px(3)));
    }
    if (m_target > 0) {
        p.setPen(QPen(colour(Role::fine), t.px(1.6), Qt::DashLine));
        p.drawLine(QPointF(at(m_target), 0), QPointF(at(m_target), height()));
    }
}

/// One line: a text for each variant, and which is the better one.
struct CompareView::Row {
    QString key;
    QString head;
    QStringList texts;
    std::vector<double> rank; ///< the smaller the better; empty where nothing is better
    QStringList helps;

    [[nodiscard]] bool same() const {
        return std::all_of(texts.begin(), texts.end(),
                           [&](const QString& text) { return text == texts.front(); });
    }
};

CompareView::CompareView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("compare"));
    auto* column = newColumn(this, 8, Margins{16, 8, 16, 12});
    auto* title = viewTitle(this, tr("Variants"), tr("side by side, what differs first"));
    m_state = mutedLabel({}, this);
    m_state->setObjectName(QStringLiteral("compare.state"));
    title->addWidget(m_state);
    m_choice = newRow(nullptr, 4);
    title->addLayout(m_choice);
    column->addLayout(title);
    m_scroll = new QScrollArea(this);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setAccessibleName(tr("Variants side by side"));
    column->addWidget(m_scroll, 1);
    new Refresher(this, session, {&Session::projectChanged, &Session::variantsChanged},
                  [this] { refresh(); });
    fillChoice();
}

std::vector<std::size_t> CompareView::chosen() const {
    const Project& document = m_session.document();
    const auto pick = [&](bool all) {
        std::vector<std::size_t> numbers;
        for (std::size_t i = 0; i < variantCount(document) && numbers.size() < kMost; ++i)
            if (all || !m_left.contains(qs(variantName(document, i))))
                numbers.push_back(i);
        return numbers;
    };
    // Where too few are left, as in another document, the choice begins anew.
    const auto numbers = pick(false);
    return numbers.size() < 2 ? pick(true) : numbers;
}

void CompareView::refresh() {
    fillChoice();
    const auto numbers = chosen();
    const bool known = m_shown && m_numbers == numbers && m_of == m_session.file().shared();
    known ? fill() : solve(); // which one is open may have changed
}

void CompareView::fillChoice() {
    clearLayout(*m_choice);
    const std::size_t count = variantCount(m_session.document());
    if (count < 3)
        return; // nothing to choose from
    const auto in = chosen();
    for (std::size_t i = 0; i < count; ++i) {
        const QString name = qs(variantName(m_session.document(), i));
        auto* b = checkBox(this, QStringLiteral("compare.take.%1").arg(i), name);
        const bool on = std::find(in.begin(), in.end(), i) != in.end();
        b->setChecked(on);
        b->setToolTip(tr("Variant %1 in the comparison, two to five at a time").arg(name));
        b->setAccessibleName(b->toolTip());
        b->setEnabled(on ? in.size() > 2 : in.size() < kMost);
        connect(b, &QCheckBox::clicked, this, [this, name](bool take) {
            if (take)
                m_left.remove(name);
            else
                m_left.insert(name);
            refresh();
        });
        m_choice->addWidget(b);
    }
}

/// Beside the window; what was there stays, dimmed by the note, until the new one is there.
void CompareView::solve() {
    const auto numbers = chosen();
    m_state->setText(tr("solving …"));
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::shown,
        [this, numbers, document = m_session.file().shared(),
         parallelFor = m_session.jobs().parallelFor()](const std::stop_token& stop,
                                                       const Jobs::Progress&) -> Jobs::Deliver {
            auto comparison = compareVariants(*document, numbers, stop, parallelFor);
            if (!comparison)
                return {};
            return [this, shown = std::make_shared<const Comparison>(std::move(*comparison)),
                    numbers, document] {
                m_shown = shown;
                m_numbers = numbers;
                m_of = document;
                m_state->setText({});
                fill();
            };
        },
        this);
}

std::vector<CompareView::Row> CompareView::figures() const {
    const std::array<Figure, 8> table{{
        {"range", tr("Eight builds in ten"), rangeText,
         [](const EvaluatedVariant& w) { return w.range ? -w.range->p10 : 0.0; }},
        {"spare", tr("Against the target"), spareText,
         [](const EvaluatedVariant& w) {
             return w.runtime.hours ? -w.runtime.hours->value() : 0.0;
         }},
        {"ends", tr("Ends when"),
         [](const EvaluatedVariant& w) { return qs(endText(w.project, w.runtime.ending)); },
         [](const EvaluatedVariant&) { return 0.0; }},
        {"worst", tr("Worst draw"), worstText,
         [](const EvaluatedVariant& w) {
             return w.allowedAmps > 0 ? w.runtime.worstCurrent.value() / w.allowedAmps : 0.0;
         }},
        {"heat", tr("Warmest part"), warmestText,
         [](const EvaluatedVariant& w) { return w.hottestC; }},
        {"reaches", tr("Reaches the loads"),
         [](const EvaluatedVariant& w) {
             return w.deliveredShare > 0 ? qs(writeShare(w.deliveredShare)) : QStringLiteral("–");
         },
         [](const EvaluatedVariant& w) { return -w.deliveredShare; }},
        {"weight", tr("Weight"),
         [](const EvaluatedVariant& w) { return quantity(w.grams, Unit::gram); },
         [](const EvaluatedVariant& w) { return w.grams; }},
        {"price", tr("Price"),
         [](const EvaluatedVariant& w) { return QString::number(w.price, 'f', 2); },
         [](const EvaluatedVariant& w) { return w.price; }},
    }};
    std::vector<Row> rows;
    const auto add = [&](const Figure& figure) {
        Row row{QLatin1String(figure.key), figure.head, {}, {}, {}};
        for (const EvaluatedVariant& w : m_shown->variants) {
            row.texts << figure.text(w);
            row.rank.push_back(figure.rank(w));
        }
        rows.push_back(std::move(row));
    };
    for (const Figure& figure : table)
        add(figure);
    for (const auto& [key, head, severity] : {std::tuple{"stop", tr("To mend"), Severity::stop},
                                              std::tuple{"care", tr("To weigh"), Severity::care}})
        add({key, head,
             [severity = severity](const EvaluatedVariant& w) { return adviceText(w, severity); },
             [severity = severity](const EvaluatedVariant& w) { return w.count(severity) * 1.0; }});
    return rows;
}

QLabel* CompareView::cell(const QString& text, const QString& name) {
    auto* label = textLabel(m_grid->parentWidget(), text, {.size = 12, .wrap = true, .name = name});
    label->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return label;
}

void CompareView::addHeads() {
    const Theme& t = Theme::now();
    double scale = 0;
    for (const EvaluatedVariant& w : m_shown->variants) {
        const double target =
            w.project.brief.targetRuntime ? w.project.brief.targetRuntime->value() : 0;
        const double runs = w.runtime.hours ? w.runtime.hours->value() : 0;
        scale = std::max({scale, runs, w.range ? w.range->p90 : 0.0, std::min(target, 4 * runs)});
    }
    m_grid->addWidget(mutedLabel(tr("Runs for"), m_grid->parentWidget(), 12), 1, 0,
                      Qt::AlignLeft | Qt::AlignVCenter);
    auto* key = mutedLabel(scale > 0 ? tr("line: eight builds in ten\ndashed: target") : QString(),
                           m_grid->parentWidget());
    m_grid->addWidget(key, 2, 0, Qt::AlignLeft | Qt::AlignVCenter);
    for (std::size_t i = 0; i < m_shown->variants.size(); ++i) {
        const EvaluatedVariant& w = m_shown->variants[i];
        const int column = static_cast<int>(i) + 1;
        const bool open = m_numbers[i] == m_session.variant();
        auto* head =
            pushButton(m_grid->parentWidget(), QStringLiteral("compare.%1.open").arg(i),
                       open ? tr("%1, open").arg(qs(w.name)) : qs(w.name),
                       open ? tr("This variant is open") : tr("Open variant %1").arg(qs(w.name)));
        head->setAccessibleName(head->toolTip());
        head->setProperty("accent", open);
        connect(head, &QPushButton::clicked, this,
                [this, number = m_numbers[i]] { m_session.showVariant(number); });
        m_grid->addWidget(head, 0, column, Qt::AlignLeft);
        auto* runs = cell(w.runtime.hours ? hours(w.runtime.hours->value())
                          : w.runtime.ending.reason == EndReason::mains ? tr("no cells")
                                                                        : tr("for ever"),
                          QStringLiteral("compare.%1.runs").arg(i));
        runs->setFont(t.font(20, true));
        m_grid->addWidget(runs, 1, column);
        m_grid->addWidget(
            new RunBar(w.runtime.hours ? w.runtime.hours->value() : 0, w.range,
                       w.project.brief.targetRuntime ? w.project.brief.targetRuntime->value() : 0,
                       scale, m_grid->parentWidget()),
            2, column);
    }
}

void CompareView::addSection(const QString& title) {
    auto* label = textLabel(m_grid->parentWidget(), title, {.size = 13, .bold = true});
    label->setContentsMargins(0, Theme::now().ipx(8), 0, 0);
    m_grid->addWidget(label, m_grid->rowCount(), 0, 1, -1);
}

void CompareView::addRow(const Row& row) {
    const int at = m_grid->rowCount();
    auto* rule = new QFrame(m_grid->parentWidget());
    rule->setFixedHeight(1);
    rule->setStyleSheet(QStringLiteral("background: %1").arg(colour(Role::hairline).name()));
    m_grid->addWidget(rule, at, 0, 1, -1);
    auto* head = mutedLabel(row.head, m_grid->parentWidget(), 12);
    head->setWordWrap(true);
    m_grid->addWidget(head, at + 1, 0, Qt::AlignTop);
    const bool ranked = !row.rank.empty() && !row.same();
    const double best = ranked ? *std::min_element(row.rank.begin(), row.rank.end()) : 0;
    const double worst = ranked ? *std::max_element(row.rank.begin(), row.rank.end()) : 0;
    for (qsizetype i = 0; i < row.texts.size(); ++i) {
        QLabel* label = cell(row.texts[i], QStringLiteral("compare.%1.%2").arg(i).arg(row.key));
        if (ranked && best < worst && row.rank[static_cast<std::size_t>(i)] == best) {
            label->setFont(Theme::now().font(12, true));
            label->setStyleSheet(inkOf(Role::fine));
            label->setToolTip(tr("the best of them"));
        }
        m_grid->addWidget(label, at + 1, static_cast<int>(i) + 1);
    }
}

void CompareView::fill() {
    const Theme& t = Theme::now();
    auto* body = new QWidget;
    body->setObjectName(QStringLiteral("compareBody"));
    m_grid = new QGridLayout(body);
    m_grid->setContentsMargins(0, 0, t.ipx(8), t.ipx(8));
    m_grid->setHorizontalSpacing(t.ipx(14));
    m_grid->setVerticalSpacing(t.ipx(5));
    m_grid->setColumnMinimumWidth(0, t.ipx(130));
    for (std::size_t i = 0; i < m_shown->variants.size(); ++i)
        m_grid->setColumnStretch(static_cast<int>(i) + 1, 1);
    addHeads();
    const std::vector<Row> rows = figures();
    QStringList alike;
    for (const Row& row : rows)
        if (!row.same())
            addRow(row);
        else if (row.texts.front() != QStringLiteral("–"))
            alike << QStringLiteral("%1 %2").arg(row.head.toLower(), row.texts.front());
    if (m_shown->variants.size() > 1)
        addSection(m_shown->differences.empty() ? tr("No part or figure differs between them.")
                                                : tr("What makes the difference"));
    for (const Difference& d : m_shown->differences) {
        Row row{qs(d.subject + "." + d.key),
                d.key.empty() ? qs(d.where) : QStringLiteral("%1: %2").arg(qs(d.where), qs(d.what)),
                {},
                {},
                {}};
        for (const std::string& value : d.values)
            row.texts << qs(value);
        addRow(row);
    }
    if (m_shown->variants.size() == 1) {
        auto* hint = mutedLabel(tr("There is one variant. “+” beside its name, or Ctrl+T, makes "
                                   "another as a copy to change."),
                                body, 12);
        hint->setWordWrap(true);
        m_grid->addWidget(hint, m_grid->rowCount(), 0, 1, -1);
    } else if (!alike.isEmpty()) {
        auto* same =
            mutedLabel(tr("The same in all: %1.").arg(alike.join(QStringLiteral("; "))), body, 12);
        same->setObjectName(QStringLiteral("compare.alike"));
        same->setWordWrap(true);
        m_grid->addWidget(same, m_grid->rowCount(), 0, 1, -1);
    }
    m_grid->setRowStretch(m_grid->rowCount(), 1);
    // The one before may be where the click came from that is under way.
    const QWidget* focused = m_scroll->widget() ? m_scroll->widget()->focusWidget() : nullptr;
    const QString name = focused && focused->hasFocus() ? focused->objectName() : QString();
    if (QWidget* before = m_scroll->takeWidget()) {
        before->hide();
        before->deleteLater();
    }
    m_scroll->setWidget(body);
    if (auto* again = name.isEmpty() ? nullptr : body->findChild<QWidget*>(name))
        again->setFocus();
}

} // namespace sipper::app
