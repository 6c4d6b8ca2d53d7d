// SPDX-License-Identifier: GPL-3.0-or-later
// Beside the panel's year: the map of panel against pack, what would change it, how much it takes,
// a reading at noon, and watching the battery.
#pragma once

#include "session/session.hpp"
#include "solar/map.hpp"
#include "solar/sensedivider.hpp"
#include "widgets/pagedcard.hpp"

class QLabel;

namespace sipper::app {

class SunMapPlot;

/// What the card shows, solved beside the window.
struct SunBeside {
    std::vector<SolarImprovement> levers;
    MinimumSizing need;
    std::optional<SenseDivider> watch;
    double before = 0; ///< h missed as it is
    std::size_t years = 1;
};

class SunCard : public PagedCard {
    Q_OBJECT
  public:
    explicit SunCard(Session& session, QWidget* parent = nullptr);

    void showMap(const std::shared_ptr<const SizingMap>& map);
    void showBeside(std::shared_ptr<const SunBeside> beside);
    /// The panel and place that a reading at noon belongs to.
    void setPanel(const std::string& stage, double latitude);
    void setState(const QString& text);

  signals:
    void refused(const QString& why);

  private:
    enum class Page { map, levers, need, reading, watch };
    void fillPage() override;
    void addMap();
    void addImprovements();
    void addNeed();
    void addReading();
    void addWatch();
    void addNote(const QString& text);
    QLabel* addSentence(const char* name, const QString& text);
    void tryPair(std::size_t panel, std::size_t pack);
    void tryOut(const QString& name, const Project& project);
    void sayFactor(QLabel& answer) const;
    [[nodiscard]] std::optional<double> factor() const;

    Session& m_session;
    std::shared_ptr<const SizingMap> m_map;
    std::shared_ptr<const SunBeside> m_beside;
    SunMapPlot* m_plot = nullptr; ///< while its page is shown
    std::string m_panel;
    double m_latitude = 0;
    // A reading at noon, as typed.
    double m_readAmps = 0;
    double m_readWatts = 0; ///< at its best point, where amps were not read
    double m_readDay = 172;
    double m_readHour = 12;
};

} // namespace sipper::app
