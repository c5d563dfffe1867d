// The pictures that Qt's own dialogs ask for, drawn like the rest of the window.
#pragma once
#include <QProxyStyle>

namespace gyre {

class OwnIcons : public QProxyStyle {
public:
    OwnIcons();
    [[nodiscard]] QIcon standardIcon(StandardPixmap which, const QStyleOption* option = nullptr, const QWidget* widget = nullptr) const override;
    [[nodiscard]] QPixmap standardPixmap(StandardPixmap which, const QStyleOption* option = nullptr, const QWidget* widget = nullptr) const override;
    [[nodiscard]] int styleHint(StyleHint hint, const QStyleOption* option, const QWidget* widget, QStyleHintReturn* answer) const override;
};

} // namespace gyre
