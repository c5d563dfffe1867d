#include "Theme.h"
#include "Icons.h"
#include <QApplication>
#include <QFont>
#include <QFontDatabase>
#include <QPalette>
#include <cmath>

namespace gyre {

namespace {
Theme& current() {
    static Theme t = Theme::paper();
    return t;
}
} // namespace

const Theme& theme() { return current(); }

double Theme::contrast(const QColor& a, const QColor& b) {
    const auto light = [](const QColor& c) {
        const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
        return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const double x = light(a), y = light(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

Theme Theme::paper() {
    Theme t;
    t.ground = "#EFEAE0";
    t.panel = "#F3EEE3";
    t.card = "#FBF8F1";
    t.hairline = "#CFC6B4";
    t.ink = "#22303A";
    t.softInk = "#55636D";
    t.accent = "#156A61";
    t.accentSoft = "#D5E8E2";
    t.ochre = "#B4781E";
    t.ochreInk = "#85570F";
    t.unsafe = "#A8322D";
    t.unsafeSoft = "#F6E3DE";
    t.slate = "#566471";
    t.oat = "#D8C59E";
    t.fixture = "#8D86A8";
    t.clay = "#DDD4C3";
    t.clayEdge = "#22303A";
    t.steel = "#AEB8BF";
    t.steelDark = "#5A6871";
    t.machine = "#B9BCBB";
    t.viewTop = "#FAF7F0";
    t.viewBottom = "#E3DBCB";
    return t;
}

Theme Theme::night() {
    Theme t;
    t.dark = true;
    t.ground = "#161C20";
    t.panel = "#1C2429";
    t.card = "#232D33";
    t.hairline = "#3B474F";
    t.ink = "#E7E2D6";
    t.softInk = "#AFB8BD";
    t.accent = "#5CC2B2";
    t.accentSoft = "#244A47";
    t.ochre = t.ochreInk = "#E0A94E";
    t.unsafe = "#F59B92";
    t.unsafeSoft = "#4A2A29";
    t.slate = "#A8B6C0";
    t.oat = "#C4B28C";
    t.fixture = "#A39CC0";
    t.clay = "#A9A296";
    t.clayEdge = "#10161A";
    t.steel = "#98A4AB";
    t.steelDark = "#66757E";
    t.machine = "#5F676B";
    t.viewTop = "#26313A";
    t.viewBottom = "#151B20";
    return t;
}

namespace {

/// Grounds and texts.
constexpr const char* kGrounds = R"(
QWidget { color: @ink; font-size: 13px; }
QMainWindow, QDialog { background: @ground; }
QWidget#topBar { background: @panel; border-bottom: 1px solid @hairline; }
QWidget#leftPanel, QWidget#setUpSwitch { background: @panel; border-right: 1px solid @hairline; }
QWidget#rightPanel { background: @panel; border-left: 1px solid @hairline; }
QWidget#tapePanel { background: @card; border-top: 1px solid @hairline; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
QLabel[role="heading"] { color: @softInk; font-size: 11px; font-weight: 600; letter-spacing: 1px; }
QLabel[role="soft"] { color: @softInk; font-size: 12px; }
QLabel[role="pendingText"] { color: @softInk; }
QLabel[role="unsafe"] { color: @unsafe; font-size: 12px; }
QLabel[role="title"] { font-weight: 600; }
QFrame[role="card"] { background: @card; border: 1px solid @hairline; border-radius: 8px; }
QFrame[role="card"][active="true"] { border: 1px solid @accent; }
QFrame[role="stop"] { background: @unsafeSoft; border: none; border-left: 3px solid @unsafe; border-radius: 0px; }
QFrame[role="pending"] { background: transparent; border: none; border-left: 3px solid @hairline; border-radius: 0px; }
QFrame[role="look"] { background: transparent; border: none; border-left: 3px solid @ochre; border-radius: 0px; }
)";

/// What is pressed, written in and scrolled.
constexpr const char* kControls = R"(QPushButton, QToolButton { background: @card; border: 1px solid @hairline; border-radius: 6px; padding: 4px 10px; }
QPushButton:hover, QToolButton:hover { border-color: @accent; }
QPushButton:focus, QToolButton:focus { border-color: @accent; outline: none; }
QPushButton:disabled, QToolButton:disabled { color: @softInk; background: transparent; border-style: dashed; }
QPushButton[role="primary"] { background: @accent; color: @card; border-color: @accent; font-weight: 600; }
QPushButton[role="bench"] { border-radius: 0; padding: 6px 18px; border-left: none; font-size: 13px; }
QPushButton[role="bench"]:checked { background: @accent; color: @card; border-color: @accent; font-weight: 600; }
QPushButton[role="bench"][place="first"] { border-left: 1px solid @hairline; border-top-left-radius: 8px; border-bottom-left-radius: 8px; }
QPushButton[role="bench"][place="last"] { border-top-right-radius: 8px; border-bottom-right-radius: 8px; }
QPushButton[role="link"] { background: transparent; border: none; padding: 0; color: @unsafe; font-weight: 600; text-decoration: underline; }
QPushButton[role="link"]:focus { background: @accentSoft; }
QPushButton[role="link"]:disabled { color: @softInk; }
QWidget#dropLine { background: @accent; }
QPushButton[role="fold"] { background: transparent; border: none; padding: 1px 4px; color: @softInk; font-size: 12px; }
QPushButton[role="fold"]:hover, QPushButton[role="fold"]:focus { color: @accent; text-decoration: underline; }
QPushButton[role="verdict"] { text-align: left; padding: 5px 10px; border: 1px solid @hairline; border-left: 3px solid @slate; border-radius: 0; background: @card; }
QPushButton[role="verdict"][rank="stop"] { border-color: @unsafe; background: @unsafeSoft; font-weight: 600; }
QPushButton[role="verdict"][rank="look"] { border-left: 3px solid @ochre; }
QPushButton[role="verdict"]:focus { border-color: @accent; }
QPushButton[role="flat"] { background: transparent; border: 1px solid transparent; padding: 2px 6px; }
QPushButton[role="flat"]:hover { border-color: @hairline; }
QPushButton[role="flat"]:checked { color: @accent; }
QLineEdit { background: @card; border: 1px solid @accent; border-radius: 4px; padding: 1px 4px; selection-background-color: @accent; selection-color: @card; }
QPlainTextEdit { background: @card; border: 1px solid @hairline; border-radius: 8px; font-family: "DejaVu Sans Mono", monospace; font-size: 12px; selection-background-color: @accentSoft; selection-color: @ink; }
QListWidget { background: @card; border: 1px solid @hairline; border-radius: 8px; }
QListWidget::item { padding: 4px 8px; }
QListWidget::item:selected { background: @accentSoft; color: @ink; }
QMenu { background: @card; border: 1px solid @hairline; }
QMenu::item { padding: 5px 22px 5px 14px; }
QMenu::item:selected { background: @accentSoft; color: @ink; }
QToolTip { background: @card; color: @ink; border: 1px solid @hairline; padding: 4px; }
QProgressBar { background: @ground; border: none; border-radius: 3px; max-height: 6px; text-align: center; }
QProgressBar::chunk { background: @accent; border-radius: 3px; }
QScrollBar:vertical { background: transparent; width: 8px; }
QScrollBar::handle:vertical { background: @hairline; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line:vertical, QScrollBar::sub-line:vertical { height: 0; }
)";

} // namespace

QString Theme::styleSheet() const {
    const auto fill = [this](QString s) {
        const std::pair<const char*, QColor> roles[] = {{"@ground", ground},         {"@panel", panel},     {"@card", card},
                                                        {"@hairline", hairline},     {"@softInk", softInk}, {"@ink", ink},
                                                        {"@accentSoft", accentSoft}, {"@accent", accent},   {"@unsafeSoft", unsafeSoft},
                                                        {"@unsafe", unsafe},         {"@ochre", ochre},     {"@slate", slate}};
        for (const auto& [name, colour] : roles) s.replace(name, colour.name());
        return s;
    };
    return fill(QString(kGrounds) + kControls);
}

void applyTheme(bool dark) {
    current() = dark ? Theme::night() : Theme::paper();
    const Theme& t = current();
    QPalette p;
    p.setColor(QPalette::Window, t.ground);
    p.setColor(QPalette::Base, t.card);
    p.setColor(QPalette::Button, t.card);
    p.setColor(QPalette::Text, t.ink);
    p.setColor(QPalette::WindowText, t.ink);
    p.setColor(QPalette::ButtonText, t.ink);
    p.setColor(QPalette::Highlight, t.accent);
    p.setColor(QPalette::HighlightedText, t.card);
    // Icons have the theme's colours: made anew with it.
    QApplication::setStyle(new OwnIcons);
    QApplication::setPalette(p);
    QFont f(QFontDatabase::families().contains("Inter") ? "Inter" : "Sans Serif");
    f.setPixelSize(13);
    QApplication::setFont(f);
    qApp->setStyleSheet(t.styleSheet());
}

QColor mixed(const QColor& a, const QColor& b, double share) {
    const auto mix = [&](int x, int y) { return static_cast<int>(x + share * (y - x)); };
    return {mix(a.red(), b.red()), mix(a.green(), b.green()), mix(a.blue(), b.blue())};
}

std::vector<QColor> workColours(const Theme& t, std::size_t operations) {
    const QColor turns[] = {t.clay, mixed(t.slate, t.card, 0.35), mixed(t.ochre, t.card, 0.55), mixed(t.steel, t.clay, 0.5), mixed(t.fixture, t.card, 0.4)};
    std::vector<QColor> out{t.oat};
    for (std::size_t i = 0; i < operations; ++i) out.push_back(i + 1 == operations ? mixed(t.accent, t.card, 0.25) : turns[i % std::size(turns)]);
    return out;
}

} // namespace gyre
