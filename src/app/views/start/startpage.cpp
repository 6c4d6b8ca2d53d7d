#include "views/start/startpage.hpp"

#include "session/session.hpp"
#include "theme/theme.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QFileInfo>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

/// Name and a sentence, as one button.
class Entry : public QAbstractButton {
  public:
    Entry(const QString& name, const QString& title, const QString& about, QWidget* parent)
        : QAbstractButton(parent), m_title(title), m_about(about) {
        setObjectName(name);
        setAccessibleName(title);
        setAccessibleDescription(about);
        setToolTip(about);
        setCursor(Qt::PointingHandCursor);
        setFocusPolicy(Qt::StrongFocus);
        const Theme& t = Theme::now();
        setFixedHeight(t.ipx(about.isEmpty() ? 32 : 56));
        setMinimumWidth(t.ipx(200));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const Theme& t = Theme::now();
        const bool lit = hasFocus() || underMouse();
        p.setPen(QPen(colour(lit ? Role::copper : Role::hairline), lit ? 1.6 : 1));
        p.setBrush(colour(Role::card));
        p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 4, 4);
        const QRectF inner = QRectF(rect()).adjusted(t.px(10), t.px(6), -t.px(10), -t.px(5));
        p.setPen(colour(Role::ink));
        p.setFont(t.font(12.5, true));
        p.drawText(
            inner, Qt::AlignLeft | Qt::AlignTop,
            p.fontMetrics().elidedText(m_title, Qt::ElideRight, static_cast<int>(inner.width())));
        p.setPen(colour(Role::muted));
        p.setFont(t.font(11));
        p.drawText(inner.adjusted(0, t.px(17), 0, 0),
                   Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, m_about);
    }

  private:
    QString m_title;
    QString m_about;
};

QString titleOf(QString name) {
    name.replace('-', ' ');
    if (!name.isEmpty())
        name[0] = name[0].toUpper();
    return name;
}

} // namespace

StartPage::StartPage(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("start"));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(16), t.ipx(8), t.ipx(16), t.ipx(12));
    column->setSpacing(t.ipx(8));
    column->addLayout(viewTitle(
        this, tr("Start"), tr("from a recipe with loads to overwrite, an example, or a file")));
    auto* halves = new QHBoxLayout;
    halves->setSpacing(t.ipx(16));
    column->addLayout(halves, 1);
    const auto list = [&](const QString& title, int stretch) {
        auto* box = new QWidget;
        auto* entries = new QVBoxLayout(box);
        entries->setContentsMargins(0, 0, t.ipx(4), 0);
        entries->setSpacing(t.ipx(6));
        auto* scroll = new QScrollArea(this);
        scroll->setWidgetResizable(true);
        scroll->setFrameShape(QFrame::NoFrame);
        scroll->setFocusPolicy(Qt::NoFocus);
        scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        scroll->setWidget(box);
        auto* half = new QVBoxLayout;
        auto* label = new QLabel(title, this);
        label->setFont(t.font(13, true));
        half->addWidget(label);
        half->addWidget(scroll, 1);
        halves->addLayout(half, stretch);
        return entries;
    };
    QVBoxLayout* recipes = list(tr("Recipes: supplies that run"), 3);
    for (const Session::Shipped& s : Session::recipes()) {
        auto* entry = new Entry("recipe." + s.name, s.title, s.about, this);
        connect(entry, &QAbstractButton::clicked, this,
                [this, name = s.name] { emit recipeChosen(name); });
        recipes->addWidget(entry);
    }
    recipes->addStretch();
    auto* right = list(tr("Examples"), 2);
    for (const QString& name : Session::exampleNames()) {
        auto* entry = new Entry("example." + name, titleOf(name), {}, this);
        connect(entry, &QAbstractButton::clicked, this, [this, name] { emit exampleChosen(name); });
        right->addWidget(entry);
    }
    auto* label = new QLabel(tr("Opened lately"), this);
    label->setFont(t.font(13, true));
    label->setContentsMargins(0, t.ipx(12), 0, 0);
    right->addWidget(label);
    m_recent = new QVBoxLayout;
    m_recent->setSpacing(t.ipx(6));
    right->addLayout(m_recent);
    right->addStretch();
    fillRecent();
}

void StartPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fillRecent();
}

void StartPage::fillRecent() {
    while (QLayoutItem* item = m_recent->takeAt(0)) {
        if (item->widget())
            item->widget()->deleteLater();
        delete item;
    }
    const QStringList recent = Session::recentFiles();
    for (const QString& path : recent) {
        auto* entry = new Entry("recent." + path, QFileInfo(path).completeBaseName(), {}, this);
        entry->setToolTip(path);
        connect(entry, &QAbstractButton::clicked, this, [this, path] { emit recentChosen(path); });
        m_recent->addWidget(entry);
    }
    if (recent.isEmpty()) {
        auto* none = new QLabel(tr("nothing yet"), this);
        none->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
        m_recent->addWidget(none);
    }
}

} // namespace sipper::app
