#include "views/start/startpage.hpp"

#include "theme/theme.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"
#include "words/words.hpp"

#include <QFileInfo>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
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
        setFixedHeight(t.ipx(about.isEmpty() ? 32 : 60));
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
        const QRectF inner = QRectF(rect()).adjusted(t.px(12), t.px(7), -t.px(14), -t.px(7));
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

StartPage::StartPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QString::fromLatin1(kStartPage));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(16), t.ipx(8), t.ipx(16), t.ipx(12));
    column->setSpacing(t.ipx(8));
    column->addLayout(viewTitle(
        this, tr("Start"), tr("from a recipe with loads to overwrite, an example, or a file")));
    m_left = new QVBoxLayout;
    m_left->setSpacing(t.ipx(6));
    column->addLayout(m_left);
    auto* halves = new QHBoxLayout;
    halves->setSpacing(t.ipx(16));
    column->addLayout(halves, 1);
    fillRecipes(list(halves, tr("Recipes: supplies that run"), 3));
    fillExamples(list(halves, tr("Examples"), 2));
    fillLeft();
    fillRecent();
}

QVBoxLayout* StartPage::list(QBoxLayout* halves, const QString& title, int stretch) {
    const Theme& t = Theme::now();
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
}

void StartPage::fillRecipes(QVBoxLayout* to) {
    for (const Session::Shipped& s : Session::recipes()) {
        auto* entry = new Entry("recipe." + s.name, s.title, s.about, this);
        connect(entry, &QAbstractButton::clicked, this,
                [this, name = s.name] { emit recipeChosen(name); });
        to->addWidget(entry);
    }
    to->addStretch();
}

void StartPage::fillExamples(QVBoxLayout* to) {
    const Theme& t = Theme::now();
    for (const QString& name : Session::exampleNames()) {
        auto* entry = new Entry("example." + name, titleOf(name), {}, this);
        connect(entry, &QAbstractButton::clicked, this, [this, name] { emit exampleChosen(name); });
        to->addWidget(entry);
    }
    auto* label = new QLabel(tr("Opened lately"), this);
    label->setFont(t.font(13, true));
    label->setContentsMargins(0, t.ipx(12), 0, 0);
    to->addWidget(label);
    m_recent = new QVBoxLayout;
    m_recent->setSpacing(t.ipx(6));
    to->addLayout(m_recent);
    to->addStretch();
}

/// What a program that ended without saving has left, each with when and how much.
void StartPage::fillLeft() {
    clearLayout(*m_left);
    int number = 0;
    for (const RecoveryKeeper::Left& left : RecoveryKeeper::left())
        if (!m_session.recovery().declined(left))
            m_left->addWidget(leftRow(left, number++));
}

QWidget* StartPage::leftRow(const RecoveryKeeper::Left& left, int number) {
    const Theme& t = Theme::now();
    const Recovery& r = left.recovery;
    auto* row = new QFrame(this);
    makeCard(*row, QStringLiteral("left%1").arg(number), tr("Not saved when Sipper ended"));
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(8), t.ipx(8));
    line->setSpacing(t.ipx(10));
    const QString name = r.document.name.empty() ? tr("Untitled") : qs(tame(r.document.name));
    const QString file = r.path.empty() ? qs(tame(r.origin)) : QFileInfo(qs(r.path)).fileName();
    auto* says = new QLabel(
        tr("<b>%1</b> was not saved when Sipper ended: %2, the last at %3%4.")
            .arg(name.toHtmlEscaped(), r.edits == 1 ? tr("one edit") : tr("%1 edits").arg(r.edits),
                 qs(tame(r.when)).toHtmlEscaped(),
                 file.isEmpty() ? QString() : QStringLiteral(" (%1)").arg(file.toHtmlEscaped())),
        row);
    says->setObjectName(QStringLiteral("left.%1.says").arg(number));
    says->setTextFormat(Qt::RichText);
    says->setFont(t.font(12.5));
    says->setWordWrap(true);
    line->addWidget(says, 1);
    auto* take = new QPushButton(tr("Open it"), row);
    take->setObjectName(QStringLiteral("left.%1.take").arg(number));
    take->setProperty("accent", true);
    take->setToolTip(tr("Opens it as changed and not saved; the file on disk stays as it is"));
    connect(take, &QPushButton::clicked, this, [this, left] { emit leftChosen(left); });
    auto* later = new QPushButton(tr("Not now"), row);
    later->setObjectName(QStringLiteral("left.%1.decline").arg(number));
    later->setToolTip(tr("Stays on disk until something is saved, and is not offered again"));
    connect(later, &QPushButton::clicked, this, [this, left] {
        m_session.recovery().decline(left);
        QTimer::singleShot(0, this, &StartPage::fillLeft);
    });
    line->addWidget(later);
    line->addWidget(take);
    return row;
}

void StartPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fillLeft();
    fillRecent();
}

void StartPage::fillRecent() {
    clearLayout(*m_recent);
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
