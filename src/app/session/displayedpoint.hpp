// SPDX-License-Identifier: GPL-3.0-or-later
// The moment that the copper line shows, and what is chosen on it.
#pragma once

#include "line/operating.hpp"
#include "session/results.hpp"

#include <QObject>
#include <QString>
#include <QStringList>

namespace sipper::app {

class DisplayedPoint : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;

    [[nodiscard]] double charge() const { return m_charge; }
    /// Place of the mode shown in the project that was followed last. The mode is kept by its id:
    /// another order of the list does not change what is shown.
    [[nodiscard]] std::size_t mode() const { return m_mode; }
    [[nodiscard]] const OperatingPoint& point() const { return m_point; }
    /// Ids of the sources besides the pack that are plugged in.
    [[nodiscard]] const QStringList& plugged() const { return m_plugged; }
    [[nodiscard]] const QString& selected() const { return m_selected; }
    [[nodiscard]] const QString& highlighted() const { return m_highlighted; }

    /// Another document: a mode, a charge at which it runs, and what needs mending first chosen.
    void begin(const Project& project, const Results& results);
    /// Its figures have come late: as `begin`, but what was set, plugged or chosen since stays.
    void beginLate(const Project& project, const Results& results);
    /// The same document changed: mode, sources and choice are kept as far as they are still there.
    void follow(const Project& project);

    void set(const Project& project, double charge, std::size_t mode);
    /// Light on the panels, W/m2, and the air around them, degC; nothing: the brief's typical.
    void setLight(const Project& project, double light, std::optional<double> air);
    [[nodiscard]] double light() const { return m_light; }
    [[nodiscard]] std::optional<double> lightAir() const { return m_lightAir; }
    void plug(const Project& project, const QString& source, bool in);
    void select(const QString& id);
    void highlight(const QString& id);

  signals:
    void changed();
    void selectionChanged();
    void highlightChanged();

  private:
    void plugWhatIsNeeded(const Project& project);
    void solve(const Project& project);
    /// What the user has settled since the document was opened.
    struct Settled {
        bool point = false;
        bool plugs = false;
        bool choice = false;
    };
    Settled m_settled;

    double m_charge = 1;
    std::size_t m_mode = 0;
    std::string m_modeId;
    bool m_externallyFed = false;
    double m_light = 0;
    std::optional<double> m_lightAir;
    OperatingPoint m_point;
    QStringList m_plugged;
    QString m_selected;
    QString m_highlighted;
};

} // namespace sipper::app
