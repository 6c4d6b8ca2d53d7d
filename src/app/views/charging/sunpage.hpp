// SPDX-License-Identifier: GPL-3.0-or-later
// The Charging view where the source is a panel: ten years of weather, and what they miss.
#pragma once

#include "session/session.hpp"
#include "solar/look.hpp"

#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;
class QBoxLayout;

namespace sipper::app {

class QuantityEdit;
class SunCard;
class SunKneePlot;
class SunYearPlot;

class SunPage : public QWidget {
    Q_OBJECT
  public:
    explicit SunPage(Session& session, QWidget* parent = nullptr);

    /// Place, climate and weather, for the row of sources.
    [[nodiscard]] QWidget* controls() { return m_controls; }
    /// Runs what belongs to this charger of the session's project.
    void show(const std::string& charger);
    [[nodiscard]] const SolarYear* year() const { return m_answer ? &m_answer->year : nullptr; }
    [[nodiscard]] const SunPlan* plan() const { return m_answer ? &m_answer->plan : nullptr; }
    /// Runs on a file's weather, in place of the stand-in.
    void openWeather(const QString& path);
    /// Waits for the year (and what stands beside it); for tests and pictures.
    bool settle();

  signals:
    /// The large figure and its sentence.
    void answered(const QString& answer, const QString& why, bool trouble);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    static constexpr const char* kYear = "sun-year";
    static constexpr const char* kMap = "sun-map";
    static constexpr const char* kBeside = "sun-beside";
    static constexpr const char* kRead = "sun-weather";
    struct Answer {
        std::shared_ptr<const Weather> weather;
        SolarYear year;
        SunPlan plan;
        std::vector<MppSnapshot> mppSnapshots; ///< by month, then by hour from kFirstHour
        double latitude = 0;
        /// Light on the panel and air through the year that is shown, by hour.
        std::vector<float> light;
        std::vector<float> air;
    };
    static constexpr std::size_t kFirstHour = 6;
    static constexpr std::size_t kHours = 13;

    void buildControls();
    void buildCards(QBoxLayout& column);
    void refreshControls();
    void solve();
    void solveMap(const std::shared_ptr<const Weather>& weather);
    void solveBeside(const std::shared_ptr<const Weather>& weather);
    void fill();
    void showKnee();
    [[nodiscard]] const MppSnapshot* mppShown() const;
    void askForWeather();

    Session& m_session;
    QWidget* m_controls;
    QString m_yearSays;
    QuantityEdit* m_latitude;
    QComboBox* m_climate;
    QComboBox* m_years;
    QuantityEdit* m_seed;
    QPushButton* m_open;
    QPushButton* m_stop;
    QLabel* m_weatherSays;
    QLabel* m_complaint;
    QLabel* m_yearTitle;
    QLabel* m_rule;
    QLabel* m_mppTitle;
    QComboBox* m_month;
    QComboBox* m_hour;
    QPushButton* m_setKnee;
    SunYearPlot* m_yearPlot;
    SunKneePlot* m_mppPlot;
    SunCard* m_card;
    QBoxLayout* m_beside;
    std::optional<std::pair<std::optional<std::string>, double>> m_climateShown; ///< id, latitude
    std::string m_charger;
    std::size_t m_yearCount = kSunYears;
    std::uint64_t m_seedNumber = 1;
    std::shared_ptr<const Weather> m_file; ///< opened by the user; null: the stand-in
    std::shared_ptr<const Answer> m_answer;
    bool m_fresh = true; ///< month and hour have not been chosen yet
};

} // namespace sipper::app
