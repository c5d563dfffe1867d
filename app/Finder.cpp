#include "Finder.h"
#include <QAction>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

namespace gyre {

Finder::Finder(const QList<QAction*>& actions, QWidget* parent) : QDialog(parent, Qt::Popup), m_actions(actions) {
    setObjectName("finder");
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    m_line = new QLineEdit(this);
    m_line->setObjectName("finderLine");
    m_line->setAccessibleName(tr("Find an action"));
    m_line->setPlaceholderText(tr("Find an action"));
    m_line->installEventFilter(this);
    m_list = new QListWidget(this);
    m_list->setObjectName("finderList");
    m_list->setFocusPolicy(Qt::NoFocus);
    column->addWidget(m_line);
    column->addWidget(m_list);
    resize(420, 360);
    connect(m_line, &QLineEdit::textChanged, this, &Finder::filter);
    connect(m_line, &QLineEdit::returnPressed, this, &Finder::take);
    connect(m_list, &QListWidget::itemClicked, this, &Finder::take);
    filter({});
    m_line->setFocus();
}

void Finder::filter(const QString& text) {
    m_list->clear();
    const QStringList words = text.split(' ', Qt::SkipEmptyParts);
    for (QAction* a : m_actions) {
        const bool fits = std::all_of(words.begin(), words.end(), [&](const QString& w) { return a->text().contains(w, Qt::CaseInsensitive); });
        if (!fits || !a->isEnabled()) continue;
        auto* item = new QListWidgetItem(a->shortcut().isEmpty() ? a->text() : a->text() + "    " + a->shortcut().toString(QKeySequence::NativeText), m_list);
        item->setData(Qt::UserRole, QVariant::fromValue(static_cast<QObject*>(a)));
    }
    m_list->setCurrentRow(0);
}

void Finder::take() {
    auto* item = m_list->currentItem();
    auto* action = item ? qobject_cast<QAction*>(item->data(Qt::UserRole).value<QObject*>()) : nullptr;
    close();
    if (action) action->trigger();
}

bool Finder::eventFilter(QObject* object, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            m_list->setCurrentRow(std::clamp(m_list->currentRow() + (key == Qt::Key_Down ? 1 : -1), 0, std::max(0, m_list->count() - 1)));
            return true;
        }
    }
    return QDialog::eventFilter(object, event);
}

} // namespace gyre
