// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/sums/sumsdrawer.hpp"

#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/text.hpp"

#include "quantity/read.hpp"

#include <QGridLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QToolButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

const Calculator& sumAt(int index) {
    return allCalculators()[static_cast<std::size_t>(std::max(0, index))];
}

QString valueText(const CalculatorResult& r) {
    if (const auto* words = std::get_if<std::string>(&r.value))
        return qs(*words).replace('_', ' ');
    const double value = std::get<double>(r.value);
    return r.unit == Unit::fraction ? qs(writeShare(value)) : quantity(value, r.unit);
}

} // namespace

SumsDrawer::SumsDrawer(QWidget* parent) : QFrame(parent) {
    makeCard(*this, QStringLiteral("sums"), tr("Quick sums"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 6, Margins{20, 8, 12, 10});
    auto* head = newRow(nullptr, 10);
    auto* title = textLabel(this, tr("Quick sums"), {.size = 13, .bold = true});
    head->addWidget(title);
    m_sum = choiceField(this, "sums.which", tr("Which sum"), tr("Which sum"));
    for (const Calculator& sum : allCalculators())
        m_sum->addItem(qs(sum.title), qs(sum.name));
    head->addWidget(m_sum);
    m_about = mutedLabel({}, this, 12);
    head->addWidget(m_about, 1);
    auto* close = new QToolButton(this);
    close->setText(QStringLiteral("×"));
    close->setObjectName(QStringLiteral("sums.close"));
    close->setAccessibleName(tr("Close the quick sums"));
    close->setToolTip(tr("Close (Escape)"));
    close->setAutoRaise(true);
    close->setFocusPolicy(Qt::TabFocus);
    connect(close, &QToolButton::clicked, this, &SumsDrawer::closed);
    head->addWidget(close);
    column->addLayout(head);
    m_fields = new QWidget(this);
    column->addWidget(m_fields);
    m_results = new QWidget(this);
    m_grid = new QGridLayout(m_results);
    m_grid->setContentsMargins(0, 0, 0, 0);
    m_grid->setHorizontalSpacing(t.ipx(16));
    m_grid->setVerticalSpacing(t.ipx(2));
    m_grid->setColumnStretch(2, 1);
    column->addWidget(m_results);
    m_complaint = complaintLabel(QStringLiteral("sums.complaint"), this);
    column->addWidget(m_complaint);
    connect(m_sum, &QComboBox::currentIndexChanged, this, &SumsDrawer::build);
    build();
}

void SumsDrawer::open(const QString& name) {
    if (!name.isEmpty())
        m_sum->setCurrentIndex(std::max(0, m_sum->findData(name)));
    show();
    if (!m_edits.isEmpty()) {
        m_edits.front()->setFocus();
        m_edits.front()->selectAll();
    }
}

void SumsDrawer::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape)
        emit closed();
    else
        QFrame::keyPressEvent(event);
}

void SumsDrawer::build() {
    const Theme& t = Theme::now();
    const Calculator& sum = sumAt(m_sum->currentIndex());
    m_about->setText(qs(sum.about));
    m_edits.clear();
    for (QWidget* old : m_fields->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly)) {
        old->hide();
        old->setObjectName({});
        old->deleteLater();
    }
    delete m_fields->layout();
    auto* flow = new FlowLayout(m_fields, t.ipx(12), t.ipx(6));
    QWidget* before = m_sum;
    for (const CalculatorField& f : sum.fields) {
        auto* box = new QWidget(m_fields);
        auto* column = newColumn(box, 2, Margins{});
        QLabel* label = mutedLabel(qs(f.label), box);
        auto* edit = new QLineEdit(box);
        const QString key = QStringLiteral("sums.%1.%2").arg(qs(sum.name), qs(f.key));
        edit->setObjectName(key);
        edit->setAccessibleName(qs(f.label));
        edit->setToolTip(f.key == "series" ? tr("E12, E24 or E96") : qs(expectedText(f.unit)));
        edit->setFixedWidth(t.ipx(104));
        edit->setAlignment(Qt::AlignRight);
        edit->setText(m_typed.value(key, qs(f.example)));
        label->setBuddy(edit);
        column->addWidget(label);
        column->addWidget(edit);
        box->setFixedWidth(
            t.ipx(std::max(104, QFontMetrics(t.font(11)).horizontalAdvance(qs(f.label)))));
        flow->addWidget(box);
        box->show();
        connect(edit, &QLineEdit::textChanged, this, [this, edit, key] {
            m_typed.insert(key, edit->text());
            refresh();
        });
        m_edits << edit;
        setTabOrder(before, edit);
        before = edit;
    }
    if (sum.name == "wire" && !m_typed.contains(QStringLiteral("sums.wire.area")))
        m_edits[1]->setText(QStringLiteral("0.75 mm2"));
    refresh();
}

void SumsDrawer::refresh() {
    const Calculator& sum = sumAt(m_sum->currentIndex());
    std::map<std::string, std::string> arguments;
    for (qsizetype i = 0; i < m_edits.size(); ++i)
        if (const QString text = m_edits[i]->text().trimmed(); !text.isEmpty())
            arguments[std::string(sum.fields[static_cast<std::size_t>(i)].key)] =
                text.toStdString();
    while (QLayoutItem* item = m_grid->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->setObjectName({});
            w->deleteLater();
        }
        delete item;
    }
    const auto answer = runCalculator(sum.name, arguments);
    complain(*m_complaint, answer ? QString() : qs(answer.error().message()));
    if (!answer)
        return;
    int row = 0;
    for (const CalculatorResult& r : answer.value()) {
        auto* name = textLabel(m_results, qs(r.label), {.size = 12});
        auto* value = textLabel(
            m_results, valueText(r),
            {.size = 13, .bold = true, .name = QStringLiteral("sums.result.%1").arg(qs(r.key))});
        value->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        value->setTextInteractionFlags(Qt::TextSelectableByMouse);
        auto* formula = mutedLabel(QStringLiteral("= %1").arg(qs(r.formula)), m_results, 12);
        m_grid->addWidget(name, row, 0);
        m_grid->addWidget(value, row, 1);
        m_grid->addWidget(formula, row, 2);
        for (QWidget* w : {name, value, formula})
            w->show();
        ++row;
    }
}

} // namespace sipper::app
