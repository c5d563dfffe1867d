// A card with a title, and clearing what stands in a layout.
#pragma once
#include <QFrame>
#include <QLabel>
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
