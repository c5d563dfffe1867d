#include "Icons.h"
#include "Theme.h"
#include <QPainter>
#include <QPainterPath>

namespace gyre {
namespace {

/// Strokes on a field of 16 by 16; false: there is none of our own.
bool drawn(QPainter& p, QStyle::StandardPixmap which) {
    const Theme& t = theme();
    const auto ink = [&](const QColor& c) { p.setPen(QPen(c, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin)); };
    const auto line = [&](std::initializer_list<QPointF> points) {
        QPainterPath path(*points.begin());
        for (const QPointF& q : points) path.lineTo(q);
        p.drawPath(path);
    };
    ink(t.softInk);
    p.setBrush(Qt::NoBrush);
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
    case QStyle::SP_ArrowBack:
    case QStyle::SP_ArrowLeft:
        line({{13, 8}, {3, 8}, {7, 4}});
        line({{3, 8}, {7, 12}});
        return true;
    case QStyle::SP_ArrowForward:
    case QStyle::SP_ArrowRight:
        line({{3, 8}, {13, 8}, {9, 4}});
        line({{13, 8}, {9, 12}});
        return true;
    case QStyle::SP_FileDialogToParent:
    case QStyle::SP_ArrowUp:
        line({{8, 13}, {8, 3}, {4, 7}});
        line({{8, 3}, {12, 7}});
        return true;
    case QStyle::SP_FileDialogNewFolder:
        line({{2, 13}, {2, 4}, {6, 4}, {7.5, 6}, {14, 6}, {14, 13}, {2, 13}});
        ink(t.accent);
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
    case QStyle::SP_MessageBoxCritical: {
        // A cutter's end over a line that it has not decided on yet.
        ink(which == QStyle::SP_MessageBoxQuestion || which == QStyle::SP_MessageBoxInformation ? t.accent : t.unsafe);
        QPainterPath end(QPointF(5, 1.5));
        end.lineTo(5, 7);
        end.arcTo(QRectF(5, 4, 6, 6), 180, 180);
        end.lineTo(11, 1.5);
        p.drawPath(end);
        line({{1.5, 13.5}, {4, 13.5}});
        line({{6.75, 13.5}, {9.25, 13.5}});
        line({{12, 13.5}, {14.5, 13.5}});
        return true;
    }
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
