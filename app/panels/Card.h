// A card with a title, small things that stand in cards, and clearing what stands in a layout.
#pragma once
#include <QApplication>
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace gyre {

inline QFrame* card(const QString& title, QWidget* parent, QVBoxLayout*& inside) {
    auto* frame = new QFrame(parent);
    frame->setProperty("role", "card");
    inside = new QVBoxLayout(frame);
    inside->setContentsMargins(12, 8, 12, 10);
    inside->setSpacing(4);
    auto* label = new QLabel(title, frame);
    label->setProperty("role", "title");
    inside->addWidget(label);
    return frame;
}

inline QPushButton* flatButton(const QString& text, const QString& name, const QString& accessible, QWidget* parent) {
    auto* b = new QPushButton(text, parent);
    b->setProperty("role", "flat");
    b->setObjectName(name);
    b->setAccessibleName(accessible);
    b->setToolTip(accessible);
    return b;
}

inline QLabel* softLabel(const QString& text, QWidget* parent) {
    auto* l = new QLabel(text, parent);
    l->setProperty("role", "soft");
    l->setWordWrap(true);
    return l;
}

/// While a panel is filled anew: the keyboard stays on the word or button of the same name. Use it in the panel's refresh().
class KeepFocus {
public:
    explicit KeepFocus(QWidget* panel) : m_panel(panel) {
        QWidget* now = QApplication::focusWidget();
        if (now && panel->isAncestorOf(now)) m_name = now->objectName();
    }
    ~KeepFocus() {
        if (m_name.isEmpty()) return;
        for (QWidget* w : m_panel->findChildren<QWidget*>(m_name)) {
            bool gone = false; // the old ones have been hidden, they or what holds them
            for (QWidget* up = w; up && up != m_panel; up = up->parentWidget()) gone = gone || (up->isHidden() && up->testAttribute(Qt::WA_WState_ExplicitShowHide));
            if (gone) continue;
            w->setFocus();
            return;
        }
    }
    KeepFocus(const KeepFocus&) = delete;
    KeepFocus& operator=(const KeepFocus&) = delete;

private:
    QWidget* m_panel;
    QString m_name;
};

/// Is something of the panel being dragged? Then it is filled anew once the mouse is let go.
inline bool draggedIn(const QWidget* panel) {
    const QWidget* grabbed = QWidget::mouseGrabber();
    return QApplication::mouseButtons() != Qt::NoButton && grabbed && panel->isAncestorOf(grabbed);
}

/// Takes all widgets out; they are deleted once their own signals have been served.
inline void clear(QLayout* layout) {
    while (QLayoutItem* item = layout->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
}

} // namespace gyre
