// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/library/librarymodel.hpp"

#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "text/text.hpp"
#include "theme/theme.hpp"
#include "widgets/text.hpp"

namespace sipper::app {
namespace {

std::optional<double> positive(double value) {
    return value > 0 ? std::optional(value) : std::nullopt;
}

} // namespace

QString sectionOf(const Part& part) {
    return qs(nameOf(kindFacts(part).section));
}

void LibraryModel::setLibrary(std::shared_ptr<const Library> library) {
    beginResetModel();
    m_library = std::move(library);
    m_swaps.clear();
    m_swapOf.assign(m_library->parts.size(), -1);
    endResetModel();
}

void LibraryModel::setSwaps(std::vector<Swap> swaps, const Project& project) {
    beginResetModel();
    m_swaps = std::move(swaps);
    m_tethered = !project.pack();
    m_project = project;
    m_swapOf.assign(m_library->parts.size(), -1);
    for (std::size_t i = 0; i < m_swaps.size(); ++i)
        m_swapOf[m_swaps[i].part] = static_cast<int>(i);
    endResetModel();
}

const Swap* LibraryModel::swap(int row) const {
    const int at = m_swapOf[static_cast<std::size_t>(row)];
    return at < 0 ? nullptr : &m_swaps[static_cast<std::size_t>(at)];
}

int LibraryModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(m_library->parts.size());
}

int LibraryModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : columns;
}

QVariant LibraryModel::figure(int row, int column) const {
    const Stage& stage = part(row).stage;
    const auto* pack = std::get_if<Pack>(&stage.part);
    std::optional<double> value;
    switch (column) {
    case volts:
        value = labelVolts(stage.part);
        break;
    case amps:
        value = std::holds_alternative<Wire>(stage.part)
                    ? std::optional(ampacity(std::get<Wire>(stage.part)))
                    : labelAmps(stage.part);
        break;
    case charge:
        if (pack)
            value = pack->cell.capacity.value();
        break;
    case grams:
        value = pack         ? (pack->cell.mass ? positive(pack->cell.mass->value()) : std::nullopt)
                : stage.mass ? positive(stage.mass->value())
                             : std::nullopt;
        break;
    case price:
        value = pack ? pack->cell.price : stage.price;
        break;
    case wouldRun:
        if (const Swap* s = swap(row); s && s->fits)
            value = m_tethered ? std::optional(s->heatWatts) : s->hours;
        break;
    case gain:
        if (const Swap* s = swap(row); s && s->fits && !m_tethered)
            value = s->gainHours;
        break;
    default:
        break;
    }
    return value ? QVariant(*value) : QVariant();
}

QString LibraryModel::text(int row, int column) const {
    const LibraryPart& p = part(row);
    switch (column) {
    case name: {
        const Swap* s = swap(row);
        const QString label = qs(p.stage.label);
        const auto* pack = std::get_if<Pack>(&p.stage.part);
        const double blocks = s && pack ? s->series / std::max(1.0, pack->series * 1.0) : 1;
        return blocks > 1 ? QStringLiteral("%1 × %2").arg(blocks).arg(label) : label;
    }
    case kind:
        return qs(kindText(p.stage.part));
    case note:
        if (const Swap* s = swap(row); s && !s->fits)
            return tr("does not fit: %1").arg(qs(whyNotText(m_project, *s)));
        return qs(p.note);
    default:
        break;
    }
    const QVariant value = figure(row, column);
    if (!value.isValid())
        return {};
    const double v = value.toDouble();
    switch (column) {
    case volts:
        return quantity(v, Unit::volt);
    case amps:
        return quantity(v, Unit::ampere);
    case charge:
        return quantity(v, Unit::ampereHour);
    case grams:
        return quantity(v, Unit::gram);
    case price:
        return QString::number(v, 'f', 2);
    case wouldRun:
        return m_tethered ? tr("%1 of heat").arg(quantity(v, Unit::watt)) : hours(v);
    default:
        return (v > 0 ? QStringLiteral("+") : QString()) + hours(v);
    }
}

QVariant LibraryModel::data(const QModelIndex& index, int role) const {
    const int column = index.column();
    switch (role) {
    case Qt::DisplayRole:
        return text(index.row(), column);
    case kSort:
        if (column == name || column == kind || column == note)
            return text(index.row(), column);
        return figure(index.row(), column);
    case Qt::TextAlignmentRole:
        return column == name || column == kind || column == note
                   ? int(Qt::AlignLeft | Qt::AlignVCenter)
                   : int(Qt::AlignRight | Qt::AlignVCenter);
    case Qt::ForegroundRole: {
        const Swap* s = swap(index.row());
        if (s && !s->fits)
            return colour(Role::muted);
        if (column == gain && s)
            return colour(s->gainHours > 0 ? Role::fine : Role::ink);
        return {};
    }
    case Qt::ToolTipRole: {
        const LibraryPart& p = part(index.row());
        QStringList guessed;
        for (const std::string& key : p.guessed)
            guessed << qs(key);
        return tr("%1\n%2\nBasis: %3%4%5")
            .arg(qs(p.stage.label), qs(p.note), qs(p.basis).replace('_', ' '),
                 guessed.isEmpty() ? QString()
                                   : tr("; a guess: %1").arg(guessed.join(QStringLiteral(", "))),
                 p.own ? tr("\nYour own part") : QString());
    }
    default:
        return {};
    }
}

QVariant LibraryModel::headerData(int section, Qt::Orientation way, int role) const {
    if (way != Qt::Horizontal || role != Qt::DisplayRole)
        return {};
    switch (section) {
    case name:
        return tr("Part");
    case kind:
        return tr("Kind");
    case volts:
        return tr("Volts");
    case amps:
        return tr("Amps");
    case charge:
        return tr("Charge");
    case grams:
        return tr("Mass");
    case price:
        return tr("Price");
    case wouldRun:
        return m_tethered ? tr("Would burn") : tr("Would run");
    case gain:
        return tr("Gains");
    default:
        return tr("Good at");
    }
}

void LibraryFilter::setWanted(const Wanted& wanted) {
    m_wanted = wanted;
    invalidateFilter();
}

bool LibraryFilter::filterAcceptsRow(int row, const QModelIndex&) const {
    const auto* model = static_cast<const LibraryModel*>(sourceModel());
    const LibraryPart& p = model->part(row);
    if (!m_wanted.trade.isEmpty() && sectionOf(p.stage.part) != m_wanted.trade)
        return false;
    if (m_wanted.own && !p.own)
        return false;
    const Swap* swap = model->swap(row);
    if (m_wanted.fitting && !(swap && swap->fits))
        return false;
    for (const QString& word : m_wanted.words.split(' ', Qt::SkipEmptyParts)) {
        bool found = false;
        for (const int column : {LibraryModel::name, LibraryModel::kind, LibraryModel::note})
            found = found ||
                    model->index(row, column).data().toString().contains(word, Qt::CaseInsensitive);
        if (const auto* pack = std::get_if<Pack>(&p.stage.part))
            found = found || qs(pack->cell.size).contains(word, Qt::CaseInsensitive) ||
                    qs(chemistryText(pack->cell.chemistry)).contains(word, Qt::CaseInsensitive);
        if (!found)
            return false;
    }
    const auto within = [&](int column, std::optional<double> least, std::optional<double> most) {
        if (!least && !most)
            return true;
        const QVariant value = model->index(row, column).data(LibraryModel::kSort);
        return value.isValid() && value.toDouble() >= least.value_or(-1e300) &&
               value.toDouble() <= most.value_or(1e300);
    };
    return within(LibraryModel::volts, m_wanted.leastVolts, m_wanted.mostVolts) &&
           within(LibraryModel::amps, m_wanted.leastAmps, {}) &&
           within(LibraryModel::grams, {}, m_wanted.mostGrams) &&
           within(LibraryModel::price, {}, m_wanted.mostPrice);
}

bool LibraryFilter::lessThan(const QModelIndex& left, const QModelIndex& right) const {
    const QVariant a = left.data(LibraryModel::kSort);
    const QVariant b = right.data(LibraryModel::kSort);
    if (a.typeId() == QMetaType::QString || b.typeId() == QMetaType::QString)
        return a.toString().localeAwareCompare(b.toString()) < 0;
    // What has no figure stands last, whichever way is up.
    if (!a.isValid() || !b.isValid())
        return sortOrder() == Qt::AscendingOrder ? a.isValid() && !b.isValid()
                                                 : !a.isValid() && b.isValid();
    return a.toDouble() < b.toDouble();
}

} // namespace sipper::app
