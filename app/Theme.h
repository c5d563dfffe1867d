// Colours by role, fonts, and the one style sheet. Nothing else in the window names a colour.
#pragma once
#include <QColor>
#include <QString>
#include <vector>

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
/// For the stock as it was, then for operations by turns; the last of them, which is the one in hand, stands out.
[[nodiscard]] std::vector<QColor> workColours(const Theme& t, std::size_t operations);
/// The theme in force. Changed only by applyTheme().
[[nodiscard]] const Theme& theme();
/// Sets palette, font and style sheet of the application.
void applyTheme(bool dark);

} // namespace gyre
