#include "panels/RoutePanel.h"
#include "Theme.h"
#include "Units.h"
#include "edgebreak/BreakSpec.h"
#include "machine/Machine.h"
#include "milling/MillSpec.h"
#include "milling/Sheet.h"
#include "model/Along.h"
#include "model/Holes.h"
#include "model/Milling.h"
#include "model/Route.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "panels/Silhouette.h"
#include "session/TimeSpent.h"
#include <QApplication>
#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <utility>

namespace gyre {

namespace {

// Circle, triangle, square, diamond, double bar: gouge, shank, holder, travel, machine.
QPainterPath markShape(int which, const QRectF& r) {
    QPainterPath p;
    switch (which) {
    case 0:
        p.addEllipse(r);
        break;
    case 1:
        p.addPolygon(QPolygonF({r.bottomLeft(), QPointF(r.center().x(), r.top()), r.bottomRight(), r.bottomLeft()}));
        break;
    case 2:
        p.addRect(r);
        break;
    case 3:
        p.addPolygon(QPolygonF({QPointF(r.center().x(), r.top() - 1), QPointF(r.right() + 1, r.center().y()), QPointF(r.center().x(), r.bottom() + 1),
                                QPointF(r.left() - 1, r.center().y()), QPointF(r.center().x(), r.top() - 1)}));
        break;
    default:
        p.addRect(QRectF(r.left(), r.top(), r.width() * 0.4, r.height()));
        p.addRect(QRectF(r.left() + r.width() * 0.6, r.top(), r.width() * 0.4, r.height()));
    }
    return p;
}

} // namespace

Station::Station(OpenJob& open, Route& route, Holes& holes, const QString& id, QWidget* parent)
    : QWidget(parent), m_open(open), m_route(route), m_holes(holes), m_id(id) {
    setObjectName("station." + id);
    setFocusPolicy(Qt::StrongFocus);
    const Recipe* own = open.job().operation(id.toStdString());
    setFixedHeight(own && carries(own->kind) ? 48 : 82);
    setCursor(Qt::PointingHandCursor);
    if (const Recipe* r = open.job().operation(id.toStdString())) setAccessibleName(QString::fromStdString(r->name));
}

void Station::paintMarks(QPainter& p, const Recipe& r) const {
    const Theme& t = theme();
    const auto result = m_open.result(m_id);
    const Marks marks = marksOf(r.active ? result.get() : nullptr, m_open.proof(m_id));
    const bool proven = m_open.proof(m_id) != nullptr;
    for (int i = 0; i < 5; ++i) {
        const Mark m = marks[static_cast<std::size_t>(i)];
        const QRectF box(45 + 18 * i, 52, 11, 11);
        const QColor c = m == Mark::Stop ? t.unsafe : m == Mark::Look ? t.ochre : m == Mark::Clear ? t.accent : t.slate;
        p.setPen(QPen(c, 1.3));
        // Filled once the machine has proven it; an outline until then. A stop is filled and struck through.
        p.setBrush(m == Mark::Stop || (proven && m == Mark::Clear) ? QBrush(c) : QBrush(Qt::NoBrush));
        p.drawPath(markShape(i, box));
        if (m == Mark::Stop) {
            p.setPen(QPen(t.card, 2));
            p.drawLine(box.bottomLeft(), box.topRight());
        }
    }
}

// Its tool, its time, which of its slices is in hand.
QString Station::workWords(const Recipe& r, const Assembly* tool) const {
    const auto result = m_open.result(m_id);
    const int slices = m_open.job().slices(r);
    QString line = tool ? inUnits(QString::fromStdString(shortName(tool->cutter)), m_open.inches()) : tr("no tool");
    if (!r.active)
        line += tr(" · switched off");
    else if (result && result->complete())
        line += " · " + clockWords(secondsOf(*result));
    else if (result)
        line += result->omitted ? (slices > 0 ? tr(" · nothing") : tr(" · left out")) : tr(" · no path");
    if (slices > 0) line += tr(" · slice %1/%2").arg(m_open.inHand(m_id).section('@', -1)).arg(slices);
    return line;
}

void Station::paintEvent(QPaintEvent*) {
    const Recipe* r = m_open.hasJob() ? m_open.job().operation(m_id.toStdString()) : nullptr;
    if (!r) return;
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool selected = m_open.chosen() == m_id;
    if (selected) {
        p.fillRect(rect(), t.card);
        p.fillRect(0, 0, 3, height(), t.accent);
    }
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(4, 2, -4, -3));
    }
    p.setPen(QPen(t.slate, 2));
    p.drawLine(25, 0, 25, height());
    p.setBrush(selected ? t.accent : t.card);
    p.setPen(QPen(selected ? t.accent : t.slate, 2));
    // Steps hang on the line as smaller beads; what has steps is a wide one.
    const bool step = !r->parent.empty(), group = carries(r->kind);
    if (r->kind == OperationKind::Slices || (step && r->kind != OperationKind::HoleStep)) paintBracket(p, *r);
    if (group)
        p.drawRoundedRect(QRectF(14, 13, 22, 14), 7, 7);
    else
        p.drawEllipse(QPointF(25, 20), step ? 4.5 : 7, step ? 4.5 : 7);
    const auto result = m_open.result(m_id);
    if (width() < 120) { // folded: the silhouette alone
        if (const Assembly* tool = m_open.job().tool(r->tool)) drawSilhouette(p, *tool, QRectF(width() - 28, 8, 24, height() - 18));
        return;
    }
    QFont bold = font();
    bold.setWeight(QFont::DemiBold);
    p.setFont(bold);
    p.setPen(r->active ? t.ink : t.softInk);
    p.drawText(QRect(44, 9, width() - 90, 20), Qt::AlignVCenter,
               QFontMetrics(bold).elidedText(QString("%1  %2").arg(m_route.numberOf(*r), QString::fromStdString(r->name)), Qt::ElideRight, width() - 92));
    p.setFont(font());
    p.setPen(t.softInk);
    if (group) {
        std::size_t steps = 0;
        for (const Recipe& o : m_open.job().route) steps += o.parent == r->id;
        const QString what = r->kind == OperationKind::Slices ? tr("%1 slices · %2 operations").arg(slicesOf(r->slices).size()).arg(steps)
                                                              : tr("%1 holes · %2 steps").arg(r->holes.size()).arg(steps);
        p.drawText(QRect(44, 27, width() - 60, 18), Qt::AlignVCenter, what + (r->active ? QString() : tr(" · switched off")));
        return;
    }
    const Assembly* tool = m_open.job().tool(r->tool);
    p.drawText(QRect(44, 28, width() - 90, 18), Qt::AlignVCenter, workWords(*r, tool));
    paintMarks(p, *r);
    if (tool) drawSilhouette(p, *tool, QRectF(width() - 44, 8, 34, height() - 18));
}

// What runs slice by slice is held together at the left.
void Station::paintBracket(QPainter& p, const Recipe& r) const {
    const auto& route = m_open.job().route;
    const auto next = std::find_if(route.begin(), route.end(), [&](const Recipe& o) { return o.id == r.id; }) + 1;
    const bool head = r.kind == OperationKind::Slices, last = next == route.end() || next->parent != (head ? r.id : r.parent);
    p.setPen(QPen(theme().ochre, 2));
    const int top = head ? 20 : 0, bottom = last ? height() - 8 : height();
    p.drawLine(8, top, 8, bottom);
    if (head) p.drawLine(8, top, 14, top);
    if (last) p.drawLine(8, bottom, 14, bottom);
    p.setPen(QPen(m_open.chosen() == m_id ? theme().accent : theme().slate, 2));
}

void Station::mousePressEvent(QMouseEvent* e) {
    m_pressed = e->globalPosition().toPoint();
    m_open.select(m_id);
}

void Station::mouseMoveEvent(QMouseEvent* e) {
    const QPoint at = e->globalPosition().toPoint();
    if (!(e->buttons() & Qt::LeftButton) || (!m_dragging && (at - m_pressed).manhattanLength() < QApplication::startDragDistance())) return;
    m_dragging = true;
    setCursor(Qt::ClosedHandCursor);
    emit dragged(at, false);
}

void Station::mouseReleaseEvent(QMouseEvent* e) {
    if (!std::exchange(m_dragging, false)) return;
    setCursor(Qt::PointingHandCursor);
    emit dragged(e->globalPosition().toPoint(), true);
}

void Station::mouseDoubleClickEvent(QMouseEvent*) { rename(); }

void Station::rename() {
    const Recipe* r = m_open.job().operation(m_id.toStdString());
    if (!r || findChild<QLineEdit*>("rename")) return;
    auto* edit = new QLineEdit(QString::fromStdString(r->name), this);
    edit->setObjectName("rename");
    edit->setAccessibleName(tr("Name of the operation"));
    edit->setMaxLength(100);
    edit->setGeometry(40, 6, width() - 48, 26);
    edit->selectAll();
    edit->show();
    edit->setFocus();
    // The name is taken when it is left as well; Esc leaves it as it was.
    connect(edit, &QLineEdit::editingFinished, this, [this, edit] {
        if (edit->isHidden()) return;
        edit->hide();
        edit->deleteLater();
        m_route.rename(m_id, edit->text());
    });
    edit->installEventFilter(this);
}

// Escape belongs to the line while it is open, not to the window's own shortcut.
bool Station::eventFilter(QObject* object, QEvent* e) {
    const bool key = e->type() == QEvent::ShortcutOverride || e->type() == QEvent::KeyPress;
    if (auto* edit = qobject_cast<QLineEdit*>(object); edit && key && static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
        e->accept();
        if (e->type() == QEvent::KeyPress) {
            edit->hide();
            edit->deleteLater();
            setFocus();
        }
        return true;
    }
    return QWidget::eventFilter(object, e);
}

void RoutePanel::rename(const QString& id) {
    for (Station* s : m_stations)
        if (s->id() == id) s->rename();
}
void Station::focusInEvent(QFocusEvent* e) {
    update();
    QWidget::focusInEvent(e);
}

void Station::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space) return m_open.select(m_id);
    if (e->key() == Qt::Key_Delete) return m_route.remove(m_id);
    if (e->key() == Qt::Key_F2) return rename();
    if (e->modifiers() & Qt::AltModifier && (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down)) return m_route.move(m_id, e->key() == Qt::Key_Up ? -1 : 1);
    QWidget::keyPressEvent(e);
}

void Station::contextMenuEvent(QContextMenuEvent* e) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Switch on or off"), this, [this] { m_route.toggleActive(m_id); });
    menu->addAction(tr("Move up"), this, [this] { m_route.move(m_id, -1); });
    menu->addAction(tr("Move down"), this, [this] { m_route.move(m_id, 1); });
    if (const Recipe* r = m_open.job().operation(m_id.toStdString()); r && (r->kind == OperationKind::Holes || r->kind == OperationKind::HoleStep)) {
        QMenu* steps = menu->addMenu(tr("Add a step"));
        for (int c = 0; c < kCycles; ++c)
            steps->addAction(QString::fromUtf8(cycleName(static_cast<Cycle>(c))), this, [this, c] { m_holes.addStep(m_id, static_cast<Cycle>(c)); });
    }
    if (const Recipe* r = m_open.job().operation(m_id.toStdString()); r && !carries(r->kind) && r->kind != OperationKind::HoleStep) {
        menu->addAction(tr("Variants side by side"), this, &Station::variantsAsked);
        menu->addAction(r->parent.empty() ? tr("Cut in slices") : tr("Take out of the slices"), this, [this] { m_route.toggleSlices(m_id); });
    }
    menu->addAction(tr("Rename"), this, &Station::rename);
    menu->addAction(tr("Duplicate"), this, [this] { m_route.duplicate(m_id); });
    menu->addAction(tr("Remove"), this, [this] { m_route.remove(m_id); });
    menu->popup(e->globalPos());
}

RoutePanel::RoutePanel(OpenJob& open, Route& route, Milling& milling, Holes& holes, Along& along, QWidget* parent)
    : QWidget(parent), m_open(open), m_route(route), m_milling(milling), m_holes(holes), m_along(along) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 12, 0, 8);
    outer->setSpacing(6);
    m_heading = new QLabel(this);
    m_heading->setProperty("role", "heading");
    m_heading->setContentsMargins(14, 0, 0, 4);
    m_heading->setObjectName("routeHeading");
    m_heading->installEventFilter(this);
    m_fold = new QPushButton(this);
    m_fold->setProperty("role", "fold");
    m_fold->setObjectName("routeFold");
    connect(m_fold, &QPushButton::clicked, this, &RoutePanel::foldAsked);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(0, 0, 8, 0);
    head->addWidget(m_heading, 1);
    head->addWidget(m_fold);
    outer->addLayout(head);
    m_scroll = new QScrollArea(this);
    m_scroll->setWidgetResizable(true);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setFocusPolicy(Qt::NoFocus);
    m_inside = new QWidget;
    m_stationsColumn = new QVBoxLayout(m_inside);
    m_stationsColumn->setContentsMargins(0, 0, 0, 0);
    m_stationsColumn->setSpacing(0);
    m_scroll->setWidget(m_inside);
    m_dropLine = new QWidget(m_inside);
    m_dropLine->setObjectName("dropLine");
    m_dropLine->setAttribute(Qt::WA_StyledBackground);
    m_dropLine->hide();
    // The buttons follow the last station, and stay in sight where there are more than fit.
    outer->addWidget(m_scroll, 1000);
    m_buttons = new QWidget(this);
    m_buttons->setLayout(makeButtons());
    outer->addWidget(m_buttons);
    outer->addStretch(1);
    connect(&m_open, &OpenJob::jobChanged, this, &RoutePanel::rebuild);
    for (auto signal : {&OpenJob::resultChanged, &OpenJob::proofChanged, &OpenJob::selectionChanged}) connect(&m_open, signal, this, &RoutePanel::refresh);
    setFolded(false);
    rebuild();
}

void RoutePanel::setFolded(bool on) {
    m_folded = on;
    m_buttons->setVisible(!on);
    m_heading->setVisible(!on);
    m_fold->setText(on ? QString::fromUtf8("»") : QString::fromUtf8("«"));
    m_fold->setAccessibleName(on ? tr("Show the whole route") : tr("Fold the route to silhouettes"));
    m_fold->setToolTip(m_fold->accessibleName());
}

std::pair<QString, int> RoutePanel::dropAt(const QString& id, int y) const {
    const Recipe* moved = m_open.job().operation(id.toStdString());
    int end = 0;
    for (const Station* s : m_stations) {
        const Recipe* r = m_open.job().operation(s->id().toStdString());
        if (!moved || !r) continue;
        const bool own = r->id == moved->id || r->parent == moved->id, inside = moved->parent.empty() || r->parent == moved->parent;
        if (inside && r->parent == moved->parent && !own && y < s->y() + s->height() / 2) return {s->id(), s->y()};
        if (inside) end = s->y() + s->height();
    }
    return {{}, end};
}

void RoutePanel::dragged(const QString& id, const QPoint& global, bool done) {
    const auto [before, y] = dropAt(id, m_inside->mapFromGlobal(global).y());
    m_dropLine->setVisible(!done);
    m_dropLine->setGeometry(8, std::max(0, y - 1), m_inside->width() - 16, 3);
    m_dropLine->raise();
    m_scroll->ensureVisible(0, m_inside->mapFromGlobal(global).y(), 0, 30);
    if (done) m_route.placeBefore(id, before);
}

QVBoxLayout* RoutePanel::makeButtons() {
    auto* add = new QPushButton(tr("+  Surface operation"), this);
    add->setObjectName("addOperation");
    add->setAccessibleName(tr("New surface operation"));
    add->setToolTip(tr("New operation over faces you pick (Ctrl+N)"));
    connect(add, &QPushButton::clicked, &m_route, &Route::addRows);
    auto* holes = new QPushButton(tr("+  Holes"), this);
    holes->setObjectName("addHoleWork");
    holes->setAccessibleName(tr("Work on holes"));
    holes->setToolTip(tr("Spot and drill the lit group of holes, or every group (Ctrl+H)"));
    connect(holes, &QPushButton::clicked, &m_holes, &Holes::addWork);
    auto* mill = new QPushButton(tr("+  Milling"), this);
    mill->setObjectName("addMill");
    mill->setAccessibleName(tr("New milling"));
    mill->setToolTip(tr("On a plane, or wrapped around an axis (Ctrl+M: what you pick)"));
    auto* kinds = new QMenu(mill);
    kinds->setObjectName("millKinds");
    kinds->addAction(tr("What I pick"), &m_open, [this] { m_milling.add({}); })->setObjectName("millKind.picked");
    kinds->addSeparator();
    for (int s = 0; s < kMillShapes; ++s)
        kinds->addAction(millWords(static_cast<MillShape>(s)), &m_open, [this, s] { m_milling.add(static_cast<MillShape>(s)); })
            ->setObjectName(QString("millKind.%1").arg(millShapeName(static_cast<MillShape>(s))));
    kinds->addAction(tr("A helical groove"), &m_open, [this] { m_milling.addHelicalGroove(); })->setObjectName("millKind.helix");
    mill->setMenu(kinds);
    auto* along = new QPushButton(tr("+  Walls, curves, edges"), this);
    along->setObjectName("addAlong");
    along->setAccessibleName(tr("New work along walls, curves or edges"));
    along->setToolTip(tr("The cutter's side down a wall, along a curve or channel, sharp edges broken"));
    auto* ways = new QMenu(along);
    ways->setObjectName("alongKinds");
    for (const AlongKind& k : alongKinds()) ways->addAction(k.words, &m_open, [this, k] { m_along.add(k.kind, k.edges); })->setObjectName("followKind." + k.id);
    along->setMenu(ways);
    auto* row = new QVBoxLayout;
    row->setContentsMargins(14, 8, 14, 0);
    row->setSpacing(6);
    row->addWidget(add);
    row->addWidget(along);
    row->addWidget(mill);
    row->addWidget(holes);
    return row;
}

std::vector<RoutePanel::AlongKind> RoutePanel::alongKinds() {
    using K = OperationKind;
    return {{"swarf", tr("A wall, with the cutter's side"), K::Swarf, BreakEdges::Picked},
            {"curve", tr("Along a curve, or down a channel"), K::Curve, BreakEdges::Picked},
            {"edges", tr("Sharp edges that I pick"), K::Edge, BreakEdges::Picked},
            {"around", tr("Sharp edges around faces"), K::Edge, BreakEdges::Faces},
            {"body", tr("All sharp edges"), K::Edge, BreakEdges::Body},
            {"holesNear", tr("Near edges of holes"), K::Edge, BreakEdges::HolesNear},
            {"holesFar", tr("Far edges of holes"), K::Edge, BreakEdges::HolesFar},
            {"holesBoth", tr("Near and far edges of holes"), K::Edge, BreakEdges::HolesBoth}};
}

QString RoutePanel::millWords(MillShape shape) {
    switch (shape) {
    case MillShape::Face:
        return tr("Faces, flat across");
    case MillShape::Pocket:
        return tr("A pocket");
    case MillShape::Outline:
        return tr("An outline");
    case MillShape::Bore:
        return tr("Bores");
    case MillShape::Follow:
        return tr("Along curves");
    case MillShape::Round:
        return tr("A whole round part");
    case MillShape::Rough:
        return tr("Roughing");
    case MillShape::Body:
        return tr("A whole body from above");
    }
    return {};
}

void RoutePanel::rebuild() {
    std::vector<QString> wanted, shown;
    if (m_open.hasJob())
        for (const Recipe& r : m_open.job().route) wanted.push_back(QString::fromStdString(r.id));
    for (Station* s : m_stations) shown.push_back(s->id());
    if (wanted != shown) {
        for (Station* s : m_stations) {
            m_stationsColumn->removeWidget(s);
            s->deleteLater();
        }
        m_stations.clear();
        for (const QString& id : wanted) {
            m_stations.push_back(new Station(m_open, m_route, m_holes, id, this));
            m_stationsColumn->addWidget(m_stations.back());
            connect(m_stations.back(), &Station::variantsAsked, this, [this, id] {
                m_open.select(id);
                emit variantsAsked();
            });
            connect(m_stations.back(), &Station::dragged, this, [this, id](const QPoint& at, bool done) { dragged(id, at, done); });
        }
        int height = 0;
        for (const Station* s : m_stations) height += s->height();
        m_scroll->setMaximumHeight(height);
    }
    refresh();
}

// Where the time goes is worked out when it is asked for.
bool RoutePanel::eventFilter(QObject* object, QEvent* e) {
    if (object == m_heading && e->type() == QEvent::ToolTip) m_heading->setToolTip(timeWords());
    return QWidget::eventFilter(object, e);
}

QString RoutePanel::timeWords() const {
    if (!m_open.hasJob() || !m_open.place() || !m_open.place()->machine) return {};
    std::vector<std::shared_ptr<const OperationResult>> done;
    for (const Recipe& r : m_open.job().worked())
        if (const auto known = m_open.result(QString::fromStdString(r.id))) done.push_back(known);
    const Machine& machine = *m_open.place()->machine;
    const TimeSpent spent = timeSpent(postInputOf(m_open.job(), m_open.place(), done));
    return spent.paths() > 0.0 ? tr("%1 in all: %2").arg(clockWords(spent.all()), QString::fromStdString(wordsOf(spent, machine))) : QString();
}

void RoutePanel::refresh() {
    double seconds = 0.0;
    std::string tool;
    const auto& place = m_open.place();
    const double change = m_open.hasJob() && place && place->machine ? place->machine->changeSeconds : 0.0;
    if (m_open.hasJob())
        for (const Recipe& r : m_open.job().worked())
            if (const auto known = m_open.result(QString::fromStdString(r.id)); known && known->complete())
                seconds += secondsOf(*known) + (std::exchange(tool, known->tool.id) != known->tool.id ? change : 0.0);
    m_heading->setText(seconds > 0.0 ? tr("ROUTE · %1").arg(clockWords(seconds)) : tr("ROUTE"));
    for (Station* s : m_stations) {
        s->update();
        if (s->id() == m_open.chosen() && std::exchange(m_shown, s->id()) != s->id()) QTimer::singleShot(0, s, [this, s] { m_scroll->ensureWidgetVisible(s, 0, 20); });
    }
}

} // namespace gyre
