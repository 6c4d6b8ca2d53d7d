// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/tracedialog.hpp"

#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QGridLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <array>

namespace sipper::app {
namespace {

constexpr std::size_t kRowsShown = 7;

struct Named {
    char mark;
    const char* name;
};
constexpr std::array kSeparators{Named{',', "commas"}, Named{';', "semicolons"},
                                 Named{'\t', "tabs"}, Named{'|', "bars"}, Named{' ', "blanks"}};

struct NamedScale {
    const char* unit;
    double scale;
};
constexpr std::array kTimes{NamedScale{"s", 1}, NamedScale{"ms", 1e-3}, NamedScale{"µs", 1e-6},
                            NamedScale{"min", 60}, NamedScale{"h", 3600}};
constexpr std::array kCurrents{NamedScale{"A", 1}, NamedScale{"mA", 1e-3}, NamedScale{"µA", 1e-6},
                               NamedScale{"nA", 1e-9}};
constexpr std::array kVolts{NamedScale{"V", 1}, NamedScale{"mV", 1e-3}};

template <std::size_t N>
void fillUnits(QComboBox* box, const std::array<NamedScale, N>& units) {
    box->addItem(QObject::tr("in …"), -1.0);
    for (const NamedScale& u : units)
        box->addItem(QObject::tr("in %1").arg(QString::fromUtf8(u.unit)), u.scale);
}

void showUnit(QComboBox* box, std::optional<double> scale) {
    const QSignalBlocker quiet(box);
    int at = 0;
    for (int i = 1; scale && i < box->count(); ++i)
        if (std::abs(box->itemData(i).toDouble() / *scale - 1) < 1e-9)
            at = i;
    box->setCurrentIndex(at);
}

} // namespace

TraceDialog::TraceDialog(const QString& fileName, std::string text, QWidget* parent)
    : QDialog(parent), m_text(std::move(text)) {
    setObjectName(QStringLiteral("traceDialog"));
    setWindowTitle(tr("Read a measured trace"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 8, Margins{16, 12, 16, 12});
    auto* title = textLabel(this, fileName, {.size = 15, .bold = true});
    column->addWidget(title);
    m_found = mutedLabel({}, this, 12);
    m_found->setObjectName(QStringLiteral("traceDialog.found"));
    m_found->setWordWrap(true);
    column->addWidget(m_found);
    m_table = new QTableWidget(this);
    m_table->setObjectName(QStringLiteral("traceDialog.rows"));
    m_table->setAccessibleName(tr("The first rows of the file"));
    m_table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_table->setSelectionMode(QAbstractItemView::NoSelection);
    m_table->setFocusPolicy(Qt::NoFocus);
    m_table->setFont(t.font(12));
    m_table->horizontalHeader()->setFont(t.font(12, true));
    m_table->horizontalHeader()->setStretchLastSection(true);
    m_table->verticalHeader()->setFont(t.font(11));
    m_table->setStyleSheet(
        QStringLiteral("QTableWidget { background: %1; gridline-color: %2; border: 1px solid %2; }"
                       "QHeaderView::section { background: %3; border: none; padding: 3px 6px; }"
                       "QTableCornerButton::section { background: %3; border: none; }")
            .arg(colour(Role::card).name(), colour(Role::hairline).name(),
                 colour(Role::button).name()));
    column->addWidget(m_table, 1);

    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(t.ipx(8));
    grid->setVerticalSpacing(t.ipx(6));
    const auto line = [&](int row, const QString& label, std::initializer_list<QWidget*> fields,
                          std::function<bool()> unknown) {
        QLabel* name = mutedLabel(label, this, 12);
        grid->addWidget(name, row, 0);
        m_asked.append({name, unknown});
        int at = 1;
        for (QWidget* f : fields) {
            grid->addWidget(f, row, at++);
            m_asked.append({f, unknown});
        }
    };
    m_time = choice("time", tr("Which column is the time"));
    m_timeUnit = choice("timeUnit", tr("The unit of the time"));
    fillUnits(m_timeUnit, kTimes);
    line(0, tr("Time is"), {m_time, m_timeUnit}, [this] {
        return !m_format.time || !m_format.timeScale || m_told.time || m_told.timeScale;
    });
    m_current = choice("current", tr("Which column is the current"));
    m_currentUnit = choice("currentUnit", tr("The unit of the current"));
    fillUnits(m_currentUnit, kCurrents);
    line(1, tr("Current is"), {m_current, m_currentUnit}, [this] {
        return !m_format.current || !m_format.currentScale || m_told.current || m_told.currentScale;
    });
    m_voltage = choice("voltage", tr("Which column is the voltage, if any"));
    m_voltageUnit = choice("voltageUnit", tr("The unit of the voltage"));
    fillUnits(m_voltageUnit, kVolts);
    line(2, tr("Voltage is"), {m_voltage, m_voltageUnit},
         [this] { return (m_format.voltage && !m_format.voltageScale) || m_told.voltageScale; });
    m_separator = choice("separator", tr("What parts the columns"));
    for (const Named& s : kSeparators)
        m_separator->addItem(tr("parted by %1").arg(QString::fromLatin1(s.name)), QChar(s.mark));
    m_decimal = choice("decimal", tr("The decimal mark"));
    m_decimal->addItem(tr("decimal point"), QChar('.'));
    m_decimal->addItem(tr("decimal comma"), QChar(','));
    m_header = checkBox(this, "traceDialog.header", tr("the first row names them"),
                        tr("Whether the first row holds names in place of figures"));
    line(3, tr("Columns are"), {m_separator, m_decimal, m_header}, [] { return false; });
    grid->setColumnStretch(4, 1);
    column->addLayout(grid);

    m_missing = complaintLabel(QStringLiteral("traceDialog.missing"), this);
    column->addWidget(m_missing);
    auto* foot = new QHBoxLayout;
    m_more = pushButton(this, "traceDialog.more", tr("Change what was found"));
    m_more->setAutoDefault(false);
    m_more->setToolTip(tr("Show everything that was found, to change it"));
    foot->addWidget(m_more);
    foot->addStretch();
    auto* cancel = pushButton(this, "traceDialog.cancel", tr("Leave it"));
    cancel->setAutoDefault(false);
    cancel->setToolTip(tr("Do not read this file"));
    m_read = pushButton(this, "traceDialog.read", tr("Read it"));
    m_read->setProperty("accent", true);
    m_read->setDefault(true);
    m_read->setToolTip(tr("Read the file and cut it into modes"));
    foot->addWidget(cancel);
    foot->addWidget(m_read);
    column->addLayout(foot);

    connect(m_more, &QPushButton::clicked, this, [this] {
        m_all = true;
        refresh();
    });
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
    connect(m_read, &QPushButton::clicked, this, &QDialog::accept);
    const auto column_ = [this](QComboBox* box, std::optional<std::size_t> TraceFormat::*member,
                                std::optional<double> TraceFormat::*unit) {
        connect(box, &QComboBox::activated, this, [this, box, member, unit] {
            const int chosen = box->currentData().toInt();
            m_told.*member =
                chosen < 0 ? std::nullopt : std::optional(static_cast<std::size_t>(chosen));
            m_told.*unit = std::nullopt; // the unit is that column's
            guess();
        });
    };
    column_(m_time, &TraceFormat::time, &TraceFormat::timeScale);
    column_(m_current, &TraceFormat::current, &TraceFormat::currentScale);
    column_(m_voltage, &TraceFormat::voltage, &TraceFormat::voltageScale);
    const auto unit = [this](QComboBox* box, std::optional<double> TraceFormat::*member) {
        connect(box, &QComboBox::activated, this, [this, box, member] {
            const double scale = box->currentData().toDouble();
            m_told.*member = scale > 0 ? std::optional(scale) : std::nullopt;
            guess();
        });
    };
    unit(m_timeUnit, &TraceFormat::timeScale);
    unit(m_currentUnit, &TraceFormat::currentScale);
    unit(m_voltageUnit, &TraceFormat::voltageScale);
    connect(m_separator, &QComboBox::activated, this, [this] {
        m_told.separator = static_cast<char>(m_separator->currentData().toChar().toLatin1());
        guess();
    });
    connect(m_decimal, &QComboBox::activated, this, [this] {
        m_told.decimal = static_cast<char>(m_decimal->currentData().toChar().toLatin1());
        guess();
    });
    connect(m_header, &QCheckBox::clicked, this, [this](bool on) {
        m_told.header = on;
        guess();
    });
    resize(t.ipx(560), t.ipx(430));
    guess();
    for (QWidget* w : {static_cast<QWidget*>(m_time), static_cast<QWidget*>(m_timeUnit),
                       static_cast<QWidget*>(m_current), static_cast<QWidget*>(m_currentUnit)})
        if (w->isVisibleTo(this) && static_cast<QComboBox*>(w)->currentData().toDouble() < 0) {
            w->setFocus(); // the first question
            return;
        }
    m_read->setFocus();
}

QComboBox* TraceDialog::choice(const char* name, const QString& about) {
    auto* box =
        choiceField(this, QStringLiteral("traceDialog.%1").arg(QLatin1String(name)), about, about);
    return box;
}

void TraceDialog::guess() {
    m_format = guessFormat(m_text, m_told);
    refresh();
}

void TraceDialog::fillTable() {
    const auto rows = firstRows(m_text, m_format.separator.value_or(','), kRowsShown + 1);
    const std::size_t first = m_format.header.value_or(false) ? 1 : 0;
    std::size_t wide = 0;
    for (const auto& row : rows)
        wide = std::max(wide, row.size());
    m_table->setColumnCount(static_cast<int>(wide));
    const std::size_t shown = rows.size() > first ? std::min(rows.size() - first, kRowsShown) : 0;
    m_table->setRowCount(static_cast<int>(shown));
    QStringList heads;
    for (std::size_t c = 0; c < wide; ++c) {
        const QString name =
            c < m_format.names.size() ? qs(m_format.names[c]) : tr("column %1").arg(c + 1);
        heads << name;
    }
    m_table->setHorizontalHeaderLabels(heads);
    QStringList numbers;
    for (std::size_t r = 0; r < shown; ++r) {
        numbers << QString::number(r + first + 1);
        for (std::size_t c = 0; c < wide; ++c) {
            const auto& row = rows[r + first];
            auto* item = new QTableWidgetItem(c < row.size() ? qs(row[c]) : QString());
            item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            const bool meant = m_format.time == c || m_format.current == c || m_format.voltage == c;
            item->setForeground(colour(meant ? Role::ink : Role::muted));
            m_table->setItem(static_cast<int>(r), static_cast<int>(c), item);
        }
    }
    m_table->setVerticalHeaderLabels(numbers);
    for (QComboBox* box : {m_time, m_current, m_voltage}) {
        const QSignalBlocker quiet(box);
        box->clear();
        box->addItem(box == m_voltage ? tr("not there") : tr("which column?"), -1);
        for (qsizetype c = 0; c < heads.size(); ++c)
            box->addItem(heads[c], static_cast<int>(c));
    }
    const auto showColumn = [](QComboBox* box, const std::optional<std::size_t>& column) {
        const QSignalBlocker quiet(box);
        box->setCurrentIndex(column ? static_cast<int>(*column) + 1 : 0);
    };
    showColumn(m_time, m_format.time);
    showColumn(m_current, m_format.current);
    showColumn(m_voltage, m_format.voltage);
}

void TraceDialog::refresh() {
    fillTable();
    showUnit(m_timeUnit, m_format.timeScale);
    showUnit(m_currentUnit, m_format.currentScale);
    showUnit(m_voltageUnit, m_format.voltageScale);
    {
        const QSignalBlocker quiet(m_separator);
        m_separator->setCurrentIndex(
            m_separator->findData(QChar(m_format.separator.value_or(','))));
        m_decimal->setCurrentIndex(m_format.decimal == ',' ? 1 : 0);
        m_header->setChecked(m_format.header.value_or(false));
    }
    QStringList found;
    found << tr("Columns parted by %1").arg(m_separator->currentText().section(' ', -1))
          << m_decimal->currentText()
          << (m_format.header.value_or(false) ? tr("names in the first row") : tr("no names"));
    const auto told = [&](const QString& what, const std::optional<std::size_t>& column,
                          const QComboBox* unit, const std::optional<double>& scale) {
        if (column && scale)
            found << tr("%1 in column %2, %3").arg(what).arg(*column + 1).arg(unit->currentText());
    };
    told(tr("time"), m_format.time, m_timeUnit, m_format.timeScale);
    told(tr("current"), m_format.current, m_currentUnit, m_format.currentScale);
    told(tr("voltage"), m_format.voltage, m_voltageUnit, m_format.voltageScale);
    m_found->setText(tr("Found: %1.").arg(found.join(QStringLiteral(", "))));
    for (const auto& [widget, unknown] : m_asked)
        widget->setVisible(m_all || unknown());
    m_more->setVisible(!m_all);
    const auto open = missing();
    complain(*m_missing, open ? tr("Please tell %1.").arg(qs(*open)) : QString());
    m_read->setEnabled(!open);
}

} // namespace sipper::app
