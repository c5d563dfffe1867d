// Colours by role, fonts, and the one style sheet. Nothing else in the window names a colour.
#pragma once
#include <QColor>
#include <QString>

namespace gyre {

struct Theme {
    bool dark = false;
    QColor ground, panel, card, hairline, ink, softInk;
    QColor accent, accentSoft; ///< what is worked with, what cuts
    QColor ochre, ochreInk;    ///< entries, exits, keys, rails; as text
    QColor unsafe, unsafeSoft;
    QColor slate;            ///< links, joints
    QColor oat, fixture;     ///< stock, fixture
    QColor clay, clayEdge;   ///< the part
    QColor steel, steelDark; ///< shank, holder
    QColor machine;
    QColor viewTop, viewBottom;

    /// Of two colours, 1 … 21: text needs 4.5 on what it stands on.
    [[nodiscard]] static double contrast(const QColor& a, const QColor& b);
    [[nodiscard]] static Theme paper();
    [[nodiscard]] static Theme night();
    [[nodiscard]] QString styleSheet() const;
};

/// From one colour to another, by a share from 0 to 1.
[[nodiscard]] QColor mixed(const QColor& a, const QColor& b, double share);
/// The theme in force. Changed only by applyTheme().
[[nodiscard]] const Theme& theme();
/// Sets palette, font and style sheet of the application.
void applyTheme(bool dark);

} // namespace gyre
