#include "panels/ToolDrawing.h"
#include "Theme.h"
#include "model/ToolShelf.h"
#include "panels/Silhouette.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace gyre {

namespace {
constexpr double kEdge = 44.0, kHandle = 5.0; // pixels
}

ToolDrawing::ToolDrawing(OpenJob& open, ToolShelf& tools, QWidget* parent) : QWidget(parent), m_open(open), m_tools(tools) {
    setObjectName("toolDrawing");
    setAccessibleName(tr("Drawing of the tool"));
    setMouseTracking(true);
    setMinimumSize(320, 240);
    connect(&m_tools, &ToolShelf::shownChanged, this, [this] { update(); });
    connect(&m_open, &OpenJob::jobChanged, this, [this] { update(); });
}

void ToolDrawing::set(Assembly& a, const QString& key, double v) {
    Cutter& c = a.cutter;
    if (key == "DC") c.diameter = v;
    if (key == "RE") c.cornerRadius = v;
    if (key == "TA") c.taperDegrees = v;
    if (key == "APMX") c.fluteLength = v;
    if (key == "LU") c.shoulderLength = v;
    if (key == "DN") c.neckDiameter = v;
    if (key == "DMM") c.shankDiameter = v;
    if (key == "OAL") c.overallLength = v;
    if (key == "SIG") c.pointDegrees = v;
    if (key == "tip") c.tipDiameter = v;
    if (key == "PRFRAD") c.profileRadius = v;
    if (key == "NOF") c.flutes = static_cast<int>(std::lround(v));
    if (key == "out") a.stickOut = v;
    if (key == "speed") a.spindleSpeed = v;
    if (key == "bite") a.feedPerTooth = v;
    if (key == "engaged") a.limits.engaged = v;
    if (key == "deep") a.limits.deep = v;
    if (key == "chip") a.limits.chip = v;
}

double ToolDrawing::valueOf(const Assembly& a, const QString& key) {
    const Cutter& c = a.cutter;
    const std::pair<const char*, double> all[] = {{"DC", c.diameter},       {"RE", c.cornerRadius},    {"TA", c.taperDegrees},      {"APMX", c.fluteLength},
                                                  {"LU", c.shoulderLength}, {"DN", c.neckDiameter},    {"DMM", c.shankDiameter},    {"OAL", c.overallLength},
                                                  {"SIG", c.pointDegrees},  {"tip", c.tipDiameter},    {"PRFRAD", c.profileRadius}, {"NOF", c.flutes},
                                                  {"out", a.stickOut},      {"speed", a.spindleSpeed}, {"bite", a.feedPerTooth},    {"engaged", a.limits.engaged},
                                                  {"deep", a.limits.deep},  {"chip", a.limits.chip}};
    for (const auto& [name, value] : all)
        if (key == name) return value;
    return 0.0;
}

double ToolDrawing::scale() const {
    const Assembly* a = m_tools.shown();
    if (!a) return 1.0;
    double widest = 10.0;
    for (const Piece& p : piecesOf(*a)) widest = std::max(widest, 2.0 * p.shape.radius());
    // While a length is dragged the paper stays as it is.
    return std::min((height() - kEdge - 72.0) / std::max(20.0, a->gaugeLength()), 0.42 * width() / widest);
}

QPointF ToolDrawing::pixel(double x, double y) const {
    const double s = m_dragged.isEmpty() ? scale() : m_dragScale;
    return {0.42 * width() + s * x, height() - kEdge - s * y};
}

std::vector<ToolDrawing::Dimension> ToolDrawing::dimensions() const {
    const Assembly* a = m_tools.shown();
    if (!a) return {};
    const Cutter& c = a->cutter;
    const double cut = cuttingLength(c);
    std::vector<Dimension> out;
    double right = 0.0;
    for (const Piece& p : piecesOf(*a)) right = std::max(right, p.shape.radius());
    int column = 0;
    const auto length = [&](const char* key, const QString& label, double value) {
        Dimension d{key, label, true, value, 0.0, {}};
        d.at = pixel(right, 0).x() + 26.0 + 46.0 * column++;
        d.handle = {d.at, pixel(0, value).y()};
        out.push_back(d);
    };
    const auto diameter = [&](const char* key, const QString& label, double value, double at, bool left) {
        Dimension d{key, label, false, value, at, {}};
        d.handle = pixel(left ? -0.5 * value : 0.5 * value, at);
        out.push_back(d);
    };
    if (usedBy(c.shape).fluteLength) length("APMX", tr("cuts"), c.fluteLength);
    length("LU", tr("below shank"), c.shoulderLength);
    length("out", tr("out"), a->stickOut);
    const double atCut = c.shape == CutterShape::Lollipop || c.shape == CutterShape::Ball ? 0.5 * c.diameter : usedBy(c.shape).taper ? 0.0 : 0.75 * cut;
    diameter("DC", tr("cutter"), c.diameter, atCut, true);
    if (c.shoulderLength > cut + 0.05) diameter("DN", tr("neck"), c.neckDiameter, 0.5 * (cut + std::min(c.shoulderLength, a->stickOut)), true);
    if (a->stickOut > std::max(cut, c.shoulderLength) + 0.05) diameter("DMM", tr("shank"), c.shankDiameter, 0.5 * (std::max(cut, c.shoulderLength) + a->stickOut), true);
    return out;
}

// A line every ten millimetres.
void ToolDrawing::paintPaper(QPainter& p, double s) const {
    const Theme& t = theme();
    QColor faint = t.hairline;
    faint.setAlpha(90);
    const double step = s * 10.0 > 14.0 ? 10.0 : 50.0;
    for (double y = 0.0; y < 400.0; y += step) {
        const double py = pixel(0, y).y();
        if (py < 0.0) break;
        p.setPen(faint);
        p.drawLine(QPointF(0, py), QPointF(width(), py));
        p.setPen(t.softInk);
        if (py > 60.0) p.drawText(QPointF(6, py - 3), m_open.inches() ? QString::number(y / kMmPerInch, 'f', 2) : QString::number(y));
    }
}

void ToolDrawing::paintDimension(QPainter& p, const Dimension& d, const Assembly& a) const {
    const Theme& t = theme();
    const bool hot = d.key == m_hovered || d.key == m_dragged;
    const QColor ink = hot ? t.ochreInk : t.ink;
    p.setPen(QPen(ink, hot ? 1.8 : 1.0));
    const QString number = QString::fromStdString(formatLength(d.value, m_open.inches() ? LengthUnit::Inch : LengthUnit::Millimetre));
    if (d.along) {
        const double low = pixel(0, 0).y(), high = d.handle.y();
        p.drawLine(QPointF(d.at, low), QPointF(d.at, high));
        p.drawLine(QPointF(d.at - 4, low), QPointF(d.at + 4, low));
        QPen thin(ink, 0.6);
        p.setPen(thin);
        p.drawLine(QPointF(pixel(0.5 * a.cutter.diameter, 0).x(), high), QPointF(d.at, high));
        const QString words = d.label + "  " + number;
        p.save(); // upright beside its line
        p.translate(d.at - 4, 0.5 * (low + high));
        p.rotate(-90);
        const QRectF box = QRectF(p.fontMetrics().boundingRect(words)).adjusted(-4, -1, 4, 1);
        const QRectF place(-0.5 * box.width(), -box.height(), box.width(), box.height());
        p.fillRect(place, t.card);
        p.setPen(ink);
        p.drawText(place, Qt::AlignCenter, words);
        p.restore();
    } else {
        const QPointF l = pixel(-0.5 * d.value, d.at), r = pixel(0.5 * d.value, d.at);
        p.drawLine(l, r);
        p.setPen(QPen(ink, 0.6));
        const QString words = d.label + QString::fromUtf8("  Ø") + number;
        const QRectF box = QRectF(p.fontMetrics().boundingRect(words)).adjusted(-5, -2, 5, 2);
        const QRectF text(l.x() - box.width() - 26, l.y() - 0.5 * box.height(), box.width(), box.height());
        p.drawLine(QPointF(text.right(), l.y()), l);
        p.setPen(ink);
        p.drawText(text, Qt::AlignCenter, words);
    }
    p.setPen(QPen(t.card, 1.2));
    p.setBrush(hot ? t.ochre : t.accent);
    p.drawEllipse(d.handle, kHandle, kHandle);
}

void ToolDrawing::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), t.card);
    const Assembly* a = m_tools.shown();
    if (!a) {
        p.setPen(t.softInk);
        p.drawText(rect(), Qt::AlignCenter, tr("No tool yet. Import a library, or duplicate a tool."));
        return;
    }
    const double s = m_dragged.isEmpty() ? scale() : m_dragScale;
    paintPaper(p, s);
    p.save();
    const QPointF origin = pixel(0, 0);
    p.translate(origin);
    p.scale(s, -s);
    drawPieces(p, piecesOf(*a));
    p.restore();
    p.setPen(QPen(t.softInk, 1, Qt::DashDotLine));
    p.drawLine(pixel(0, -6.0 / s * 3.0), pixel(0, a->gaugeLength() + 10.0 / s));
    for (const Dimension& d : dimensions()) paintDimension(p, d, *a);
    p.setPen(t.ink);
    QFont title = font();
    title.setWeight(QFont::DemiBold);
    p.setFont(title);
    p.drawText(QRectF(16, 12, width() - 32, 24), Qt::AlignLeft, QString::fromStdString(a->name));
    p.setFont(font());
    p.setPen(t.softInk);
    p.drawText(QRectF(16, 32, width() - 32, 20), Qt::AlignLeft, QString::fromStdString(shortName(a->cutter) + "  ·  " + a->holderName));
    p.drawText(QRectF(16, height() - 26, width() - 32, 20), Qt::AlignLeft, tr("Drag the round ends of the dimension lines."));
}

void ToolDrawing::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    for (const Dimension& d : dimensions())
        if (std::hypot(d.handle.x() - e->position().x(), d.handle.y() - e->position().y()) < 2.2 * kHandle) {
            m_dragScale = scale();
            m_dragged = d.key;
            m_from = d.value;
            ++m_drags;
            m_pressed = e->position();
            return;
        }
}

void ToolDrawing::mouseMoveEvent(QMouseEvent* e) {
    if (m_dragged.isEmpty()) {
        QString over;
        for (const Dimension& d : dimensions())
            if (std::hypot(d.handle.x() - e->position().x(), d.handle.y() - e->position().y()) < 2.2 * kHandle) over = d.key;
        if (over != m_hovered) {
            m_hovered = over;
            setCursor(over.isEmpty() ? Qt::ArrowCursor : Qt::PointingHandCursor);
            update();
        }
        return;
    }
    const bool along = m_dragged == "APMX" || m_dragged == "LU" || m_dragged == "out";
    const double by = along ? (m_pressed.y() - e->position().y()) / m_dragScale : 2.0 * (m_pressed.x() - e->position().x()) / m_dragScale;
    const double grid = m_open.inches() ? 0.254 : 0.1; // a hundredth of an inch, a tenth of a millimetre
    const double value = std::max(grid, std::round((m_from + by) / grid) * grid);
    (void)m_tools.changeTool(
        m_tools.shownId(), [&](Assembly& a) { set(a, m_dragged, value); }, QString("%1#%2").arg(m_dragged).arg(m_drags));
}

void ToolDrawing::mouseReleaseEvent(QMouseEvent*) {
    m_dragged.clear();
    update();
}

} // namespace gyre
