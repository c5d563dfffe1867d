#include "Icons.h"
#include "Theme.h"
#include <QPainter>
#include <QPainterPath>
#include <optional>

namespace gyre {
namespace {

void ink(QPainter& p, const QColor& c) { p.setPen(QPen(c, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin)); }

void stroke(QPainter& p, std::initializer_list<QPointF> points) {
    QPainterPath path(*points.begin());
    for (const QPointF& q : points) path.lineTo(q);
    p.drawPath(path);
}

/// Through the middle of the field, along X or Y.
void arrow(QPainter& p, const QPointF& way) {
    const QPointF middle(8, 8), tip = middle + 5.0 * way, across(way.y(), way.x());
    stroke(p, {middle - 5.0 * way, tip, tip - 4.0 * way - 4.0 * across});
    stroke(p, {tip, tip - 4.0 * way + 4.0 * across});
}

std::optional<QPointF> wayOf(QStyle::StandardPixmap which) {
    switch (which) {
    case QStyle::SP_ArrowBack:
    case QStyle::SP_ArrowLeft:
        return QPointF(-1, 0);
    case QStyle::SP_ArrowForward:
    case QStyle::SP_ArrowRight:
        return QPointF(1, 0);
    case QStyle::SP_FileDialogToParent:
    case QStyle::SP_ArrowUp:
        return QPointF(0, -1);
    default:
        return std::nullopt;
    }
}

/// A cutter's end over a line that it has not decided on yet.
void message(QPainter& p, const QColor& colour) {
    ink(p, colour);
    QPainterPath end(QPointF(5, 1.5));
    end.lineTo(5, 7);
    end.arcTo(QRectF(5, 4, 6, 6), 180, 180);
    end.lineTo(11, 1.5);
    p.drawPath(end);
    for (const double x : {1.5, 6.75, 12.0}) stroke(p, {{x, 13.5}, {x + 2.5, 13.5}});
}

/// Strokes on a field of 16 by 16; false: there is none of our own.
bool drawn(QPainter& p, QStyle::StandardPixmap which) {
    const Theme& t = theme();
    const auto line = [&](std::initializer_list<QPointF> points) { stroke(p, points); };
    ink(p, t.softInk);
    p.setBrush(Qt::NoBrush);
    if (const auto way = wayOf(which)) {
        arrow(p, *way);
        return true;
    }
    switch (which) {
    case QStyle::SP_DirIcon:
    case QStyle::SP_DirOpenIcon:
    case QStyle::SP_DirClosedIcon:
    case QStyle::SP_DirLinkIcon:
    case QStyle::SP_DirHomeIcon:
    case QStyle::SP_DesktopIcon:
    case QStyle::SP_ComputerIcon:
    case QStyle::SP_DriveHDIcon:
        p.setBrush(t.oat);
        line({{2, 13}, {2, 4}, {6, 4}, {7.5, 6}, {14, 6}, {14, 13}, {2, 13}});
        return true;
    case QStyle::SP_FileIcon:
    case QStyle::SP_FileLinkIcon:
        p.setBrush(t.card);
        line({{4, 2}, {10, 2}, {13, 5}, {13, 14}, {4, 14}, {4, 2}});
        line({{6.5, 8}, {10.5, 8}});
        line({{6.5, 11}, {10.5, 11}});
        return true;
    case QStyle::SP_FileDialogNewFolder:
        line({{2, 13}, {2, 4}, {6, 4}, {7.5, 6}, {14, 6}, {14, 13}, {2, 13}});
        ink(p, t.accent);
        line({{8, 7.5}, {8, 11.5}});
        line({{6, 9.5}, {10, 9.5}});
        return true;
    case QStyle::SP_FileDialogListView:
        for (const double x : {3.0, 9.5})
            for (const double y : {4.0, 8.0, 12.0}) line({{x, y}, {x + 3.5, y}});
        return true;
    case QStyle::SP_FileDialogDetailedView:
    case QStyle::SP_FileDialogInfoView:
    case QStyle::SP_FileDialogContentsView:
        for (const double y : {4.0, 8.0, 12.0}) {
            line({{3, y}, {7, y}});
            line({{9.5, y}, {13, y}});
        }
        return true;
    case QStyle::SP_MessageBoxQuestion:
    case QStyle::SP_MessageBoxInformation:
    case QStyle::SP_MessageBoxWarning:
    case QStyle::SP_MessageBoxCritical:
        message(p, which == QStyle::SP_MessageBoxQuestion || which == QStyle::SP_MessageBoxInformation ? t.accent : t.unsafe);
        return true;
    default:
        return false;
    }
}

QPixmap pictureOf(QStyle::StandardPixmap which, int size) {
    QPixmap picture(size * 2, size * 2);
    picture.setDevicePixelRatio(2.0);
    picture.fill(Qt::transparent);
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    p.scale(size / 16.0, size / 16.0);
    return drawn(p, which) ? picture : QPixmap();
}

} // namespace

OwnIcons::OwnIcons() : QProxyStyle("Fusion") {}

// Words are enough on the buttons of a question.
int OwnIcons::styleHint(StyleHint hint, const QStyleOption* option, const QWidget* widget, QStyleHintReturn* answer) const {
    return hint == SH_DialogButtonBox_ButtonsHaveIcons ? 0 : QProxyStyle::styleHint(hint, option, widget, answer);
}

QIcon OwnIcons::standardIcon(StandardPixmap which, const QStyleOption* option, const QWidget* widget) const {
    const QPixmap own = pictureOf(which, 24);
    return own.isNull() ? QProxyStyle::standardIcon(which, option, widget) : QIcon(own);
}

QPixmap OwnIcons::standardPixmap(StandardPixmap which, const QStyleOption* option, const QWidget* widget) const {
    const QPixmap own = pictureOf(which, 32);
    return own.isNull() ? QProxyStyle::standardPixmap(which, option, widget) : own;
}

} // namespace gyre
