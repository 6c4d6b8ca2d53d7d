// SPDX-License-Identifier: GPL-3.0-or-later
// The library as a table, with what each part would do to this project.
#pragma once

#include "improve/swaps.hpp"

#include <QAbstractTableModel>
#include <QSortFilterProxyModel>
#include <memory>

namespace sipper::app {

class LibraryModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { name, kind, volts, amps, charge, grams, price, wouldRun, gain, note, columns };
    static constexpr int kSort = Qt::UserRole; ///< what a column sorts by

    using QAbstractTableModel::QAbstractTableModel;
    void setLibrary(std::shared_ptr<const Library> library);
    /// Results for the stage that a part would replace; none: browsing.
    void setSwaps(std::vector<Swap> swaps, const Project& project);
    [[nodiscard]] const Library& library() const { return *m_library; }
    [[nodiscard]] const LibraryPart& part(int row) const {
        return m_library->parts[static_cast<std::size_t>(row)];
    }
    [[nodiscard]] const Swap* swap(int row) const;

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation way, int role) const override;

  private:
    [[nodiscard]] QVariant figure(int row, int column) const; ///< a number, or nothing
    [[nodiscard]] QString text(int row, int column) const;

    std::shared_ptr<const Library> m_library = std::make_shared<Library>();
    std::vector<Swap> m_swaps; ///< by part; empty: browsing
    std::vector<int> m_swapOf;
    Project m_project; ///< that they were solved for
    bool m_tethered = false;
};

/// What is shown of it: by words, trade, volts, amps, grams, price, and what fits.
class LibraryFilter : public QSortFilterProxyModel {
    Q_OBJECT
  public:
    using QSortFilterProxyModel::QSortFilterProxyModel;
    struct Wanted {
        QString words{};
        QString trade{}; ///< empty: all
        std::optional<double> leastVolts{};
        std::optional<double> mostVolts{};
        std::optional<double> leastAmps{};
        std::optional<double> mostGrams{};
        std::optional<double> mostPrice{};
        bool fitting = false;
        bool own = false;
    };
    void setWanted(const Wanted& wanted);

  protected:
    bool filterAcceptsRow(int row, const QModelIndex& parent) const override;
    bool lessThan(const QModelIndex& left, const QModelIndex& right) const override;

  private:
    Wanted m_wanted;
};

/// `cells`, `regulators`, `guards`, `sources`, `wiring`, `paths`.
[[nodiscard]] QString sectionOf(const Part& part);

} // namespace sipper::app
