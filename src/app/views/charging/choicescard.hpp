// SPDX-License-Identifier: GPL-3.0-or-later
// The charge beside others: other sources, other rates, and the ways to run the device meanwhile.
#pragma once

#include "charge/commissioning.hpp"
#include "charge/parallel.hpp"
#include "session/session.hpp"
#include "widgets/energystream.hpp"
#include "widgets/pagedcard.hpp"

#include <QAbstractButton>

class QLabel;
class QLineEdit;

namespace sipper::app {

/// What the card shows, solved beside the window.
struct ChargeChoices {
    std::vector<ChargeChoice> sources;
    std::vector<ChargeChoice> rates;
    std::vector<PathChoice> paths;
    bool hasPath = false; ///< the project has a power path already
    std::vector<SetupStep> steps;
    std::string caution;
    TheveninPack pack;                ///< the charged pack, for others of its kind
    std::vector<ChargeChoice> shared; ///< more of this charger on the same supply
    double socketSees = 0;            ///< V on the source's contacts while it is not plugged in
};

/// Why a charge never fills the cells, in a few words.
[[nodiscard]] QString failureReason(ChargeFailure never);

/// A bar of hours, or why there are none. A click opens it as another variant, unless its hint says
/// what else it does.
class ChoiceRow : public QAbstractButton {
    Q_OBJECT
  public:
    struct Look {
        QString name;
        QString note;
        std::optional<double> hours;
        QString figure; ///< in place of the hours
        bool yours = false;
        bool trouble = false;   ///< the note is a reason why not
        QString hint;           ///< what a click does
        double nameWidth = 168; ///< px at 100 %
    };
    ChoiceRow(Look look, double scale, QWidget* parent);
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] const Look& look() const { return m_look; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    Look m_look;
    double m_scale; ///< hours of a whole bar
};

class ChoicesCard : public PagedCard {
    Q_OBJECT
  public:
    explicit ChoicesCard(Session& session, QWidget* parent = nullptr);

    void show(std::shared_ptr<const ChargeChoices> choices);
    /// The charge itself, for the page that shows where its energy goes.
    void showCharge(std::shared_ptr<const ChargeRun> charge);
    /// Watt-hours of a charge from the source to what is stored, losses first.
    [[nodiscard]] static std::vector<EnergyStream::Entry> energyOf(const Project& project,
                                                                   const ChargeLedger& ledger);
    void setState(const QString& text);

  signals:
    void refused(const QString& why);

  private:
    enum class Page { sources, energy, rates, paths, packs, setup };
    void fillPage() override;
    void addChoices(const std::vector<ChargeChoice>& choices, const char* name, bool lives);
    void addPaths();
    void addEnergy();
    void addPacks();
    void addBigPack();
    void addShared();
    void addSetup();
    void addNote(const QString& text, bool caution = false);
    void sayJoined(QLabel& answer, const QString& typed) const;
    void sayFills(QLabel& answer) const;
    void tryOut(const QString& name, const Project& project);

    Session& m_session;
    std::shared_ptr<const ChargeChoices> m_choices;
    std::shared_ptr<const ChargeRun> m_charge;
    double m_bigWh = 0;       ///< of a bigger pack that fills this one; 0: ten times as much
    double m_bigShare = 0.85; ///< of it that reaches the charger
    QString m_volts;          ///< packs to be joined, as typed; empty: three like this one
};

} // namespace sipper::app
