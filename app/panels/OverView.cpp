#include "panels/OverView.h"
#include <QKeyEvent>
#include <algorithm>

namespace gyre {

OverView::OverView(const QString& name, int wide, QWidget* parent) : QFrame(parent), m_wide(wide) {
    setObjectName(name);
    setProperty("role", "card");
    setAttribute(Qt::WA_StyledBackground);
    setFocusPolicy(Qt::StrongFocus);
    parent->installEventFilter(this);
}

int OverView::high() const { return parentWidget()->height(); }

void OverView::place() {
    setGeometry(12, 12, std::min(m_wide, parentWidget()->width() - 24), std::max(160, std::min(high(), parentWidget()->height() - 24)));
    raise();
}

QPushButton* OverView::closeButton(const QString& name, const QString& said) {
    auto* button = new QPushButton(QString::fromUtf8("×"), this);
    button->setObjectName(name);
    button->setAccessibleName(said);
    button->setToolTip(tr("Close (Esc)"));
    button->setProperty("role", "flat");
    connect(button, &QPushButton::clicked, this, [this] { close(); });
    return button;
}

bool OverView::eventFilter(QObject* watched, QEvent* e) {
    if (watched == parent() && e->type() == QEvent::Resize) place();
    return QFrame::eventFilter(watched, e);
}

// Escape closes it while it has the focus; else it is the window's.
bool OverView::event(QEvent* e) {
    if (e->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) e->accept();
    return QFrame::event(e);
}

void OverView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape) return close();
    QFrame::keyPressEvent(e);
}

} // namespace gyre
