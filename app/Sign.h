// Our sign: a turning spiral with a pen on it. packaging/humble-gyre.svg is the same for the desktop.
#pragma once
#include <QIcon>
#include <QWidget>

namespace gyre {

class Sign : public QWidget {
public:
    explicit Sign(QWidget* parent) : QWidget(parent) { setFixedSize(28, 28); }
    [[nodiscard]] static QIcon asIcon();

protected:
    void paintEvent(QPaintEvent* e) override;
};

} // namespace gyre
