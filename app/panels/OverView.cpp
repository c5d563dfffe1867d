#include "panels/OverView.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
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

QVBoxLayout* OverView::begin(const QString& closeName, const QString& said) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 10, 10, 10);
    column->setSpacing(6);
    auto* head = new QHBoxLayout;
    m_heading = new QLabel(this);
    m_heading->setProperty("role", "heading");
    head->addWidget(m_heading, 1);
    auto* cross = new QPushButton(QString::fromUtf8("×"), this);
    cross->setObjectName(closeName);
    cross->setAccessibleName(said);
    cross->setToolTip(tr("Close (Esc)"));
    cross->setProperty("role", "flat");
    connect(cross, &QPushButton::clicked, this, [this] { close(); });
    head->addWidget(cross);
    column->addLayout(head);
    return column;
}

QLabel* OverView::softLine(const QString& name, QVBoxLayout* column) {
    auto* line = new QLabel(this);
    line->setObjectName(name);
    line->setProperty("role", "soft");
    line->setWordWrap(true);
    column->addWidget(line);
    return line;
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
