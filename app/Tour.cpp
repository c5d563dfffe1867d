#include "Tour.h"
#include "Theme.h"
#include <QDir>
#include <QEvent>
#include <QFile>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>
#include <array>

namespace gyre {

namespace {

struct Stop {
    const char *about, *title, *text; ///< the widget that it is about, by name
};
const std::array<Stop, 6> kStops{
    {{"view", QT_TRANSLATE_NOOP("Tour", "The work"),
      QT_TRANSLATE_NOOP(
          "Tour", "A made-up part in its fixture, and the tool on its path. Drag to turn it, the wheel zooms; whatever a click would take is told beside the pointer.")},
     {"leftPanel", QT_TRANSLATE_NOOP("Tour", "The route"),
      QT_TRANSLATE_NOOP("Tour",
                        "Operations in machining order. Five shapes tell what was checked: gouge, shank, holder, travel, machine. An outline is not proven yet.")},
     {"rightPanel", QT_TRANSLATE_NOOP("Tour", "The recipe"),
      QT_TRANSLATE_NOOP(
          "Tour", "Five stages in sentences. Click a word to change it; hovering explains it and lights what it speaks of. The eye shows the result up to a stage.")},
     {"verdict", QT_TRANSLATE_NOOP("Tour", "The verdict"),
      QT_TRANSLATE_NOOP(
          "Tour", "What stands against running it, always in sight. Here the holder is too near to a clamp: click to go there; the card of the Guard offers cures.")},
     {"tapePanel", QT_TRANSLATE_NOOP("Tour", "The tape"),
      QT_TRANSLATE_NOOP("Tour", "The whole path: drag to move the tool, hatched where something is too near. Values stand where you are.")},
     {"finderButton", QT_TRANSLATE_NOOP("Tour", "Everything else"),
      QT_TRANSLATE_NOOP("Tour", "Ctrl K finds every action and word by what you call it; F1 opens the guide. Prove drives the machine, Send writes the program.")}}};

class Around : public QWidget {
public:
    explicit Around(QWidget* parent) : QWidget(parent) { setAttribute(Qt::WA_TransparentForMouseEvents); }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().ochre, 3));
        p.drawRoundedRect(rect().adjusted(2, 2, -3, -3), 8, 8);
    }
};

} // namespace

Tour::Tour(QWidget* window) : QFrame(window), m_around(new Around(window)) {
    setObjectName("tour");
    setProperty("role", "card");
    setFixedWidth(340);
    setFocusPolicy(Qt::StrongFocus);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 12, 16, 12);
    m_title = new QLabel(this);
    m_title->setProperty("role", "title");
    column->addWidget(m_title);
    m_text = new QLabel(this);
    m_text->setWordWrap(true);
    column->addWidget(m_text);
    auto* buttons = new QHBoxLayout;
    auto* leaveIt = new QPushButton(tr("Leave the tour"), this);
    leaveIt->setObjectName("tourLeave");
    leaveIt->setProperty("role", "flat");
    connect(leaveIt, &QPushButton::clicked, this, &Tour::leave);
    m_next = new QPushButton(this);
    m_next->setObjectName("tourNext");
    m_next->setProperty("role", "primary");
    connect(m_next, &QPushButton::clicked, this, &Tour::next);
    buttons->addWidget(leaveIt);
    buttons->addStretch();
    buttons->addWidget(m_next);
    column->addLayout(buttons);
    window->installEventFilter(this);
    show(0);
}

namespace {
// A file that says that the tour was seen by being there.
QString seenFile() { return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/tour-seen"; }
} // namespace

bool Tour::seen() { return QFile::exists(seenFile()); }
int Tour::steps() const { return static_cast<int>(kStops.size()); }

void Tour::next() {
    if (m_step + 1 < steps())
        show(m_step + 1);
    else
        leave();
}

void Tour::leave() {
    QDir().mkpath(QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation));
    QFile file(seenFile());
    (void)file.open(QIODevice::WriteOnly); // a convenience only
    m_around->deleteLater();
    hide();
    deleteLater();
}

void Tour::show(int step) {
    m_step = step;
    const Stop& stop = kStops[static_cast<std::size_t>(step)];
    m_title->setText(tr(stop.title));
    m_text->setText(tr(stop.text));
    m_next->setText(step + 1 < steps() ? tr("Next (%1 of %2)").arg(step + 1).arg(steps()) : tr("Done"));
    setAccessibleName(tr("Tour: %1").arg(m_title->text()));
    QFrame::show();
    place();
    m_next->setFocus();
}

// Beside what it speaks of, inside of the window, and never over it where there is room elsewhere.
void Tour::place() {
    QWidget* window = parentWidget();
    auto* about = window->findChild<QWidget*>(kStops[static_cast<std::size_t>(m_step)].about);
    adjustSize();
    resize(width(), m_text->heightForWidth(width() - 32) + 110);
    const QRect all = window->rect();
    if (!about) return move((all.width() - width()) / 2, (all.height() - height()) / 2);
    const QRect at(about->mapTo(window, QPoint()), about->size());
    m_around->setGeometry(at.adjusted(-4, -4, 4, 4).intersected(all));
    m_around->show();
    m_around->raise();
    QPoint to(at.center().x() - width() / 2, at.center().y() - height() / 2);
    if (at.right() + width() + 12 < all.right())
        to.setX(at.right() + 12);
    else if (at.left() - width() - 12 > all.left())
        to.setX(at.left() - width() - 12);
    else if (at.top() - height() - 12 > all.top())
        to.setY(at.top() - height() - 12);
    move(std::clamp(to.x(), 8, std::max(8, all.width() - width() - 8)), std::clamp(to.y(), 52, std::max(52, all.height() - height() - 8)));
    raise();
}

bool Tour::eventFilter(QObject* object, QEvent* event) {
    if (event->type() == QEvent::Resize) place();
    return QFrame::eventFilter(object, event);
}

// Escape belongs to the tour while it stands there, not to the window's own shortcut.
bool Tour::event(QEvent* e) {
    if (e->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
        e->accept();
        return true;
    }
    return QFrame::event(e);
}

void Tour::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape) return leave();
    QFrame::keyPressEvent(e);
}

} // namespace gyre
