// SPDX-License-Identifier: GPL-3.0-or-later
// Colours by role, fonts and sizes. Two themes with the same roles; nothing else names a colour.
#pragma once

#include <QBrush>
#include <QColor>
#include <QFont>
#include <QString>

namespace sipper::app {

enum class Role {
    paper,    ///< the work area
    shelf,    ///< the steps' ground
    card,     ///< raised surfaces
    ink,      ///< text
    muted,    ///< second text
    hairline, ///< lines and borders
    header,   ///< the verdict strip
    headerInk,
    headerMuted,
    copper,    ///< power, the one accent
    copperInk, ///< text on copper
    band,      ///< the voltages that occur
    charging,
    accepts, ///< what a load takes
    stop,
    weigh,
    fine,
    headerFine,
    headerStop,
    button,
    field,
};

class Theme {
  public:
    /// The theme in use. Set once at start and when the user changes it.
    static const Theme& now();
    static void use(bool night, double scale);

    [[nodiscard]] QColor colour(Role role) const;
    [[nodiscard]] bool night() const { return m_night; }
    /// Pixels at the present scale; 1 at 100 %.
    [[nodiscard]] double px(double n) const { return n * m_scale; }
    [[nodiscard]] int ipx(double n) const { return qRound(n * m_scale); }
    [[nodiscard]] double scale() const { return m_scale; }
    /// B612 of this size in pixels at 100 %; nothing under 11.
    [[nodiscard]] QFont font(double size = 13, bool bold = false) const;
    /// Palette and style sheet for the whole application.
    void apply() const;

  private:
    bool m_night = false;
    double m_scale = 1;
};

/// Loads B612 from the program's resources; false when a face is missing.
bool loadFonts();

/// Diagonal lines in the colour of `stop`: where something does not get what it needs.
[[nodiscard]] QBrush hatchBrush();

/// Shorthand for the present theme's colour.
[[nodiscard]] inline QColor colour(Role role) {
    return Theme::now().colour(role);
}

/// A role's colour laid on the card, `share` of it, opaque.
[[nodiscard]] inline QColor onCard(Role role, double share) {
    const QColor over = colour(role);
    const QColor ground = colour(Role::card);
    const auto mix = [share](int a, int b) { return qRound(a * share + b * (1 - share)); };
    return {mix(over.red(), ground.red()), mix(over.green(), ground.green()),
            mix(over.blue(), ground.blue())};
}

} // namespace sipper::app
