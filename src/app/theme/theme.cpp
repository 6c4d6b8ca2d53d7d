// SPDX-License-Identifier: GPL-3.0-or-later
#include "theme/theme.hpp"

#include <QApplication>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QPixmap>
#include <QStyleFactory>
#include <algorithm>
#include <array>

/// Resources of a static library are reached only once they are named; the macro wants no
/// namespace.
static void initialiseResources() {
    Q_INIT_RESOURCE(theme);
}

namespace sipper::app {
namespace {

struct Pair {
    Role role;
    QRgb day;
    QRgb night;
};

constexpr std::array kColours{
    Pair{Role::paper, 0xFFF3EFE6, 0xFF1B1F24},       Pair{Role::shelf, 0xFFE9E3D5, 0xFF15181C},
    Pair{Role::card, 0xFFFBF9F4, 0xFF242930},        Pair{Role::ink, 0xFF23282E, 0xFFECE7DB},
    Pair{Role::muted, 0xFF6B655B, 0xFFA9A294},       Pair{Role::hairline, 0xFFD8D1C3, 0xFF3A4048},
    Pair{Role::header, 0xFF23282E, 0xFF0F1215},      Pair{Role::headerInk, 0xFFFBF9F4, 0xFFF3EFE6},
    Pair{Role::headerMuted, 0xFFB9B3A6, 0xFFA9A294}, Pair{Role::copper, 0xFFB85F2B, 0xFFD98148},
    Pair{Role::copperInk, 0xFFFFFFFF, 0xFF1B1F24},   Pair{Role::band, 0x38B85F2B, 0x40D98148},
    Pair{Role::charging, 0xFF1B7472, 0xFF4FB5B0},    Pair{Role::accepts, 0xFF35507E, 0xFF8FA9D8},
    Pair{Role::stop, 0xFFB3261E, 0xFFF0837B},        Pair{Role::weigh, 0xFFB97F00, 0xFFE2B04A},
    Pair{Role::fine, 0xFF477338, 0xFF93C47D},        Pair{Role::headerFine, 0xFFA9CF8E, 0xFFA9CF8E},
    Pair{Role::headerStop, 0xFFF0938B, 0xFFF0938B},  Pair{Role::button, 0xFFECE5D8, 0xFF333A43},
    Pair{Role::field, 0xFFFFFFFF, 0xFF1B1F24},
};

Theme& mutableTheme() {
    static Theme theme;
    return theme;
}

} // namespace

const Theme& Theme::now() {
    return mutableTheme();
}

void Theme::use(bool night, double scale) {
    Theme& theme = mutableTheme();
    theme.m_night = night;
    theme.m_scale = std::clamp(scale, 0.8, 2.0);
    theme.apply();
}

QColor Theme::colour(Role role) const {
    for (const Pair& pair : kColours)
        if (pair.role == role)
            return QColor::fromRgba(m_night ? pair.night : pair.day);
    return {};
}

QFont Theme::font(double size, bool bold) const {
    QFont font(QStringLiteral("B612"));
    font.setPixelSize(ipx(std::max(11.0, size)));
    font.setBold(bold);
    return font;
}

bool loadFonts() {
    initialiseResources();
    for (const char* face : {"Regular", "Bold", "Italic"})
        if (QFontDatabase::addApplicationFont(
                QStringLiteral(":/sipper/fonts/B612-%1.otf").arg(face)) < 0)
            return false;
    return true;
}

QBrush hatchBrush() {
    constexpr int kPitch = 7;
    const int side = std::max(kPitch, Theme::now().ipx(kPitch));
    QPixmap tile(side, side);
    tile.fill(Qt::transparent);
    QPainter p(&tile);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(colour(Role::stop), 1.1));
    for (const int at : {-side, 0, side})
        p.drawLine(QPointF(at - 1, side + 1), QPointF(at + side + 1, -1));
    return QBrush(tile);
}

void Theme::apply() const {
    QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QApplication::setFont(font());
    QPalette p;
    const auto c = [this](Role role) { return colour(role); };
    p.setColor(QPalette::Window, c(Role::paper));
    p.setColor(QPalette::WindowText, c(Role::ink));
    p.setColor(QPalette::Base, c(Role::field));
    p.setColor(QPalette::AlternateBase, c(Role::card));
    p.setColor(QPalette::Text, c(Role::ink));
    p.setColor(QPalette::Button, c(Role::button));
    p.setColor(QPalette::ButtonText, c(Role::ink));
    p.setColor(QPalette::Highlight, c(Role::copper));
    p.setColor(QPalette::HighlightedText, c(Role::copperInk));
    p.setColor(QPalette::ToolTipBase, c(Role::card));
    p.setColor(QPalette::ToolTipText, c(Role::ink));
    p.setColor(QPalette::PlaceholderText, c(Role::muted));
    p.setColor(QPalette::Light, c(Role::hairline));
    p.setColor(QPalette::Dark, c(Role::hairline));
    p.setColor(QPalette::Mid, c(Role::hairline));
    p.setColor(QPalette::Disabled, QPalette::Text, c(Role::muted));
    p.setColor(QPalette::Disabled, QPalette::ButtonText, c(Role::muted));
    p.setColor(QPalette::Disabled, QPalette::WindowText, c(Role::muted));
    QApplication::setPalette(p);
    const auto name = [this](Role role) { return colour(role).name(); };
    const QString sheet =
        QStringLiteral(
            "QToolTip { background: %1; color: %2; border: 1px solid %3; padding: 4px; }"
            "QLineEdit { background: %4; color: %2; border: 1px solid %3;"
            " border-radius: 4px; padding: 2px 6px; }"
            "QLineEdit:focus { border: 1px solid %5; }"
            "QLineEdit[wrong=\"true\"] { border: 1px solid %6; }"
            "QPushButton { background: %7; color: %2; border: none; border-radius: 4px; padding: "
            "4px 10px;"
            " font-weight: bold; text-align: left; }"
            "QPushButton:hover { background: %3; }"
            "QPushButton:focus { border: 1px solid %5; padding: 3px 9px; }"
            "QPushButton[accent=\"true\"] { background: %5; color: %8; }"
            "QPushButton:disabled { background: transparent; color: %11; border: 1px solid %3;"
            " padding: 3px 9px; }"
            "QCheckBox::indicator { width: 11px; height: 11px; border: 1px solid %11;"
            " border-radius: 3px; background: %4; }"
            "QCheckBox::indicator:checked { background: %5; border: 1px solid %5; }"
            "QCheckBox::indicator:disabled { border: 1px dashed %3; }"
            "QCheckBox::indicator:checked:disabled { background: %3; border: 1px solid %11; }"
            "QSlider::groove:horizontal { height: 4px; background: %3; border-radius: 2px; }"
            "QSlider::sub-page:horizontal { background: %5; border-radius: 2px; }"
            "QSlider::handle:horizontal { width: 12px; margin: -5px 0; background: %1;"
            " border: 1px solid %11; border-radius: 7px; }"
            "QSlider::handle:horizontal:focus { border: 2px solid %5; }"
            "QMenuBar { background: %9; color: %10; border: none; }"
            "QMenuBar::item { padding: 3px 9px; background: transparent; }"
            "QMenuBar::item:selected { background: %5; color: %8; }"
            "QMenu { background: %1; color: %2; border: 1px solid %3; }"
            "QMenu::item:selected { background: %5; color: %8; }"
            "QMenu::item:disabled { color: %11; }"
            "QScrollBar:vertical { background: transparent; width: 8px; }"
            "QScrollBar::handle:vertical { background: %3; border-radius: 4px; min-height: 24px; }"
            "QScrollBar:horizontal { background: transparent; height: 8px; }"
            "QScrollBar::handle:horizontal { background: %3; border-radius: 4px; min-width: 24px; }"
            "QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }")
            .arg(name(Role::card), name(Role::ink), name(Role::hairline), name(Role::field),
                 name(Role::copper), name(Role::stop), name(Role::button), name(Role::copperInk),
                 name(Role::header))
            .arg(name(Role::headerInk), name(Role::muted));
    qApp->setStyleSheet(sheet);
}

} // namespace sipper::app
