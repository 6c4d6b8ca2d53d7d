// SPDX-License-Identifier: GPL-3.0-or-later
// Where a session begins: what was not saved, one typed line, have against need, what was opened
// lately, recipes and examples as small drawn lines.
#pragma once

#include "request/conversion.hpp"
#include "request/supplyrequest.hpp"
#include "session/livesearch.hpp"
#include "session/session.hpp"

#include <QTimer>
#include <QWidget>
#include <memory>

class QBoxLayout;
class QLabel;
class QVBoxLayout;

namespace sipper::app {

class FlowLayout;
class ConversionMatrix;
class LineTile;
class RequestLine;

/// The name of the start page, which is no view of a project.
inline constexpr const char* kStartPage = "start";

class StartPage : public QWidget {
    Q_OBJECT
  public:
    explicit StartPage(Session& session, QWidget* parent = nullptr);

    /// Waits for what the tiles and the line work out; for tests and pictures.
    bool waitForIdle();

  signals:
    void recentChosen(const QString& path);
    void recipeChosen(const QString& name);
    /// A recipe made over for what there is, and a device of so many volts.
    void madeFor(sipper::SourceKind have, double volts);
    void exampleChosen(const QString& name);
    void leftChosen(const sipper::app::RecoveryKeeper::UnsavedDocument& left);
    /// What was found for the line; without variants where nothing does it.
    void granted(const std::shared_ptr<const sipper::Proposal>& granted);
    void blankAsked();

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    QWidget* buildWish();
    QWidget* buildMatrix();
    QWidget* buildRecent();
    FlowLayout* tiles(QVBoxLayout* column, const QString& title, const QString& about);
    void fillShipped();
    void fillRecent();
    void fillLeft();
    QWidget* leftRow(const RecoveryKeeper::UnsavedDocument& left, int number);
    void lookAt(LineTile* tile, const QString& path);
    void ask();
    void said(const Error& error);
    void stop();
    void poll();
    void sayWish();

    Session& m_session;
    QVBoxLayout* m_left;   ///< what was not saved; empty most of the time
    QVBoxLayout* m_recent; ///< what was opened lately
    FlowLayout* m_recipes = nullptr;
    FlowLayout* m_examples = nullptr;
    QBoxLayout* m_row = nullptr;
    RequestLine* m_wish = nullptr;
    QLabel* m_wishSays = nullptr;
    QLabel* m_complaint = nullptr;
    QLabel* m_why = nullptr;
    std::shared_ptr<LiveSearch> m_live;
    QTimer m_poll;
    bool m_filled = false;
};

} // namespace sipper::app
