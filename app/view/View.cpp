#include "view/View.h"
#include "Theme.h"
#include "axis/AxisSpec.h"
#include "model/Along.h"
#include "model/Closer.h"
#include "model/Holes.h"
#include "model/Measures.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "model/Planes.h"
#include "model/RowsAhead.h"
#include "model/SetUp.h"
#include "model/SkyShow.h"
#include "model/StockShow.h"
#include "model/Variants.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <QBackingStore>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace gyre {

namespace {

// The same, or laid out anew: more or fewer triangles leave its extent as it was.
bool sameBody(const Part* a, const Part* b) {
    if (a == b) return true;
    if (!a || !b) return false;
    const Box one = a->tree().bounds(), two = b->tree().bounds();
    const double slack = 2.0 * std::max(a->deflection(), b->deflection()) + 1e-9;
    return !one.empty() && !two.empty() && (one.low - two.low).cwiseAbs().maxCoeff() < slack && (one.high - two.high).cwiseAbs().maxCoeff() < slack;
}

} // namespace

View::View(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    setObjectName("view");
    setAccessibleName(tr("3D view"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(320, 240);
    m_rest.setSingleShot(true);
    m_rest.setInterval(180);
    connect(&m_drafter, &Drafter::failed, this, &View::cannotDraw);
    connect(&m_drafter, &Drafter::drawn, this, [this] {
        m_shownImage = m_drafter.image();
        ++m_frames;
        update();
        if (m_pictureOld) redraw();
    });
    connect(&m_rest, &QTimer::timeout, this, [this] { redraw(); });
    hear();
}

void View::takePlace() {
    m_solidsOld = m_pathOld = m_featuresOld = true;
    // Another part is framed anew; a mend, a moved stock or finer triangles of the same part do not turn the view.
    const auto place = m_model.place();
    // The part is where the picture counts from; when a hand moves it over the table, the table stays where it was seen.
    const auto inHand = held();
    if (place && m_framed && inHand && m_model.job().bodies[*inHand].role == "part") m_camera.ride(m_seatShown.inverse() * place->partFrame);
    if (place) m_seatShown = place->partFrame;
    const auto body = !place || !place->part ? nullptr : place->part->body() ? place->part->body() : place->part;
    m_framed = m_framed && sameBody(body.get(), m_framedBody.get());
    m_framedBody = body;
    redraw();
}

// What the model tells.
void View::hear() {
    connect(&m_model, &AppModel::placeChanged, this, &View::takePlace);
    const auto pathOld = [this] {
        m_pathOld = true;
        redraw();
    };
    connect(&m_model, &AppModel::resultChanged, this, pathOld);
    connect(&m_model, &AppModel::selectionChanged, this, pathOld);
    connect(&m_model, &AppModel::selectionChanged, this, [this] { m_featuresOld = true; });
    connect(&m_model, &AppModel::peelChanged, this, [this] { redraw(); });
    connect(&m_model, &AppModel::locationChanged, this, &View::moving);
    connect(&m_model, &AppModel::findingShown, this, &View::frameFinding);
    connect(&m_model.sky(), &SkyShow::pointedChanged, this, &View::redraw);
    connect(&m_model.rowsAhead(), &RowsAhead::changed, this, &View::uploadAhead);
    connect(&m_model.variants(), &Variants::pointedChanged, this, &View::uploadAhead);
    connect(&m_model, &AppModel::jobChanged, this, [this] {
        m_featuresOld = true; // planes and marks of holes stand in the job
        moving();
    });
    connect(&m_model, &AppModel::benchChanged, this, [this] {
        m_featuresOld = true;
        redraw();
    });
    connect(&m_model, &AppModel::computingChanged, this, &View::moving);
    connect(&m_model.setUp(), &SetUp::heldChanged, this, [this] { update(); });
    connect(&m_model, &AppModel::shownChanged, this, [this] {
        if (!m_guesses.empty()) hover(m_cursor); // what lies under a still pointer may be something else now
        redraw();
    });
    connect(&m_model.measures(), &Measures::changed, this, [this] { update(); });
    connect(&m_model.milling(), &Milling::hoveredChanged, this, [this] { redraw(); });
    connect(&m_model.closer(), &Closer::changed, this, [this] {
        m_closerOld = true;
        if (!m_model.closer().from() && std::exchange(m_closerFramed, false)) m_camera = m_cameraBefore;
        redraw();
    });
    connect(&m_model.stock(), &StockShow::wentTo, this, [this](std::size_t place) { frameStockPlace(place); });
    connect(&m_model.stock(), &StockShow::changed, this, [this] {
        takeStock();
        redraw();
    });
    connect(&m_model, &AppModel::featuresChanged, this, [this] {
        m_featuresOld = true;
        redraw();
    });
    connect(&m_model.picks(), &Picks::modeChanged, this, [this] {
        m_guesses.clear();
        m_keyPick = -1;
        m_featuresOld = true;
        setCursor(m_model.picks().mode() == PickMode::None ? Qt::ArrowCursor : Qt::CrossCursor);
        redraw();
    });
}

View::~View() = default;

void View::redraw() {
    m_pictureOld = true;
    // Many reasons in one round of events are one picture.
    if (std::exchange(m_asking, true)) return;
    QMetaObject::invokeMethod(
        this,
        [this] {
            m_asking = false;
            if (m_pictureOld && isVisible() && !m_drafter.busy()) askForPicture();
        },
        Qt::QueuedConnection);
}

void View::askForPicture() {
    if (size().isEmpty()) return;
    if (!std::exchange(m_opened, true)) m_drafter.open();
    m_pictureOld = false;
    if (m_solidsOld) uploadSolids();
    if (m_pathOld) uploadPath();
    if (m_closerOld) uploadCloser();
    if (!m_framed) frameAll();
    drawScene();
    m_drafter.ask(std::exchange(m_picture, {}));
}

void View::paintEvent(QPaintEvent*) {
    // Painted elsewhere than on the screen, it is to be what is true now.
    QPoint offset;
    auto* screen = window()->backingStore();
    if (!screen || redirected(&offset) != screen->paintDevice()) {
        askForPicture(); // one that waits gives way
        m_drafter.finish();
        m_shownImage = m_drafter.image();
    }
    QPainter painter(this);
    if (m_shownImage.isNull()) {
        painter.fillRect(rect(), theme().viewBottom);
        return;
    }
    QImage picture = m_shownImage;
    picture.setDevicePixelRatio(devicePixelRatioF());
    if (picture.size() == size() * devicePixelRatioF())
        painter.drawImage(QPoint(0, 0), picture);
    else
        painter.drawImage(rect(), picture); // until the one of the new size is there
    drawOverlay(painter);
}

void View::showEvent(QShowEvent* e) {
    redraw();
    QWidget::showEvent(e);
}

void View::orbit(const QPointF& byPixels) {
    m_camera.orbit(byPixels);
    moving();
}

void View::moving() {
    m_rest.start();
    redraw();
}

void View::resizeEvent(QResizeEvent* e) {
    m_camera.resize(size());
    redraw();
    QWidget::resizeEvent(e);
}

void View::setAtMachine(bool on) {
    if (on == m_atMachine) return;
    m_atMachine = on;
    frameAll();
    emit atMachineChanged();
}

void View::frameAll() {
    const auto place = m_model.place();
    if (!place) return;
    Box box;
    for (const PlacedBody& b : place->bodies) box.add(b.shape->tree().bounds());
    if (m_atMachine) {
        // Table and spindle nose at this place: what may collide is near them.
        const JointValues q = joints().value_or(JointValues(place->machine->joints.size(), 0.0));
        Box world;
        for (const MachineBody& b : place->machine->bodies)
            if (b.joint == place->machine->workJoint || b.role == "cradle" || b.role == "chuck")
                for (const auto& p : b.pieces) {
                    ConvexBody moved = p;
                    moved.frame = linkMotion(*place->machine, b.joint, q) * p.frame;
                    world.add(moved.bounds());
                }
        const Frame tip = linkMotion(*place->machine, place->machine->toolJoint, q) * place->machine->noseFrame;
        world.add(Vec3(tip.translation() + Vec3(0, 0, 60)));
        m_camera.look(-58, 18);
        m_camera.frame(world);
    } else {
        box.high.z() += 0.1 * (box.high.z() - box.low.z()); // room for the tool
        // From the side that is being cut.
        double azimuth = -62.0;
        if (const auto recipe = m_model.recipe(); recipe && place->part)
            if (const auto faces = resolveFaces(*place->part, recipe->target->faces)) {
                Vec3 sum = Vec3::Zero();
                for (int f : *faces) sum += place->part->faces()[static_cast<std::size_t>(f)].area * place->part->faces()[static_cast<std::size_t>(f)].normal;
                if (std::hypot(sum.x(), sum.y()) > 0.1 * sum.norm() && sum.norm() > 0.0) azimuth = degrees(std::atan2(sum.y(), sum.x())) - 42.0;
            }
        m_camera.look(azimuth, 24);
        m_camera.frame(box);
    }
    m_framed = true;
    redraw();
}

std::optional<JointValues> View::joints() const {
    const auto r = m_model.result();
    if (!r || !r->complete() || r->motion->size() == 0 || m_model.location() >= r->motion->stepOf.size()) return std::nullopt;
    return r->motion->jointsAt(r->motion->stepOf[m_model.location()]);
}

void View::lightWord(const QString& key) {
    if (key == m_litWord) return;
    m_litWord = key;
    redraw();
}

const Part& View::pickedPart() const {
    const Part& all = *m_model.place()->part;
    return m_model.shown("mends") == Shown::Hidden && all.body() ? *all.body() : all;
}

// Faces of mends come behind the body's, lines behind all edges, both in the order of the mends.
QString View::mendOfFace(int face) const {
    const auto place = m_model.place();
    int first = place->part->bodyFaces();
    if (face < first || !place->mends) return {};
    for (const MendResult& m : *place->mends) {
        if (face < first + static_cast<int>(m.faces.size())) return QString::fromStdString(m.name);
        first += static_cast<int>(m.faces.size());
    }
    return {};
}

QString View::mendOfLine(int edge) const {
    const auto place = m_model.place();
    if (!place->mends || edge < place->part->bodyEdges()) return {};
    int lines = 0;
    for (const MendResult& m : *place->mends) lines += static_cast<int>(m.curves.size());
    int first = static_cast<int>(place->part->edges().size()) - lines;
    if (edge < first) return {};
    for (const MendResult& m : *place->mends) {
        if (edge < first + static_cast<int>(m.curves.size())) return QString::fromStdString(m.name);
        first += static_cast<int>(m.curves.size());
    }
    return {};
}

void View::hover(const QPointF& pixel) {
    const auto place = m_model.place();
    const QString before = hoverWords();
    std::vector<Guess> guesses = guessesAt(pixel);
    const QString probed = !guesses.empty() ? QString() : m_atMachine ? machineWords(pixel) : stockWords(pixel);
    if (!probed.isEmpty()) guesses = {{{}, {}, probed}};
    const bool same = guesses.size() == m_guesses.size() && !guesses.empty() && guesses[0].faces == m_guesses[0].faces && guesses[0].edges == m_guesses[0].edges;
    if (!same) m_guess = 0;
    m_guesses = std::move(guesses);
    // The unrolled sheet lights the same: edges, and the borders of faces.
    std::vector<int> edges;
    if (!m_guesses.empty() && place && place->part) {
        edges = m_guesses[m_guess].edges;
        for (const int f : m_guesses[m_guess].faces)
            for (const auto& loop : place->part->faces()[static_cast<std::size_t>(f)].loops) edges.insert(edges.end(), loop.begin(), loop.end());
    }
    m_model.milling().setHovered(edges);
    if (same && !probed.isEmpty()) return update(); // words alone
    if (!same || !m_guesses.empty() || !before.isEmpty()) redraw();
}

void View::click(const QPointF& pixel, bool add) {
    hover(pixel);
    if (m_model.picks().mode() == PickMode::PlaneFace) {
        if (m_guesses.empty()) return;
        if (const auto plane = planeByFace(*m_model.place()->part, m_guesses[0].faces[0], m_hoverPoint)) m_model.planes().add(*plane);
        m_model.picks().setMode(PickMode::None);
    } else if (m_model.picks().mode() != PickMode::None) {
        if (!m_guesses.empty()) take(m_guesses[m_guess], add);
    } else if (const auto arrow = rowArrow();
               arrow && std::hypot(0.5 * (arrow->first.x() + arrow->second.x()) - pixel.x(), 0.5 * (arrow->first.y() + arrow->second.y()) - pixel.y()) < 20.0) {
        const QString cut = m_model.word("pattern.cut");
        if (cut.isEmpty() || cut == "asLaid")
            (void)m_model.setWord("pattern.reversed", m_model.word("pattern.reversed") == "true" ? "false" : "true");
        else
            (void)m_model.setWord("pattern.cut", cut == "climb" ? "conventional" : "climb");
    } else if (const auto hole = holeAt(pixel)) {
        m_model.holes().turnOne(*hole);
    } else if (takeInHand(pixel)) {
        return;
    } else if (const auto r = m_model.result(); r && r->path() && m_model.place() && !m_atMachine && m_model.bench() != Bench::SetUp) {
        if (const auto at = locationAt(*m_model.place()->part, *r->path(), m_camera, pixel)) m_model.setLocation(*at);
    }
}

std::optional<std::size_t> View::holeAt(const QPointF& pixel) const {
    if (m_model.bench() != Bench::SetUp || m_model.picks().mode() != PickMode::None || m_atMachine || !m_model.place() || !m_model.place()->part) return std::nullopt;
    const auto holes = m_model.holes().all();
    std::optional<std::size_t> best;
    double reach = 12.0;
    for (std::size_t i = 0; i < holes.size(); ++i) {
        if (m_model.holes().leftOut(i)) continue;
        const double size = std::max(0.6 * holes[i].diameter(), 14.0 * m_camera.pixelSize());
        for (const double along : {0.15, 0.8, 1.5}) { // along the arrow
            const Vec3 p = holes[i].mouth + along * size * holes[i].direction;
            const auto q = m_camera.project(p);
            if (!q) continue;
            const double d = std::hypot(q->x() - pixel.x(), q->y() - pixel.y());
            const RayHit hit = m_model.place()->part->tree().ray(m_camera.eye(), (p - m_camera.eye()).normalized());
            if (d >= reach || (hit.hit && hit.distance < (p - m_camera.eye()).norm() - 0.5)) continue;
            reach = d;
            best = i;
        }
    }
    return best;
}

bool View::picksFaces() const {
    const PickWord* word = pickWord(m_model.picks().mode());
    return (word && word->faces) || (m_model.picks().mode() == PickMode::Feature && m_model.picks().feature().kind == PickKind::Faces);
}

bool View::picksEdges() const {
    const PickWord* word = pickWord(m_model.picks().mode());
    return (word && !word->faces) || (m_model.picks().mode() == PickMode::Feature && m_model.picks().feature().kind == PickKind::Edges);
}

void View::take(const Guess& guess, bool add) {
    if (m_model.picks().mode() == PickMode::Feature) return m_model.picks().give(guess.faces, guess.edges, m_hoverPoint);
    if (picksFaces()) return m_model.picks().toggleFaces(guess.faces);
    if (!picksEdges()) return;
    if (m_model.picks().mode() != PickMode::Rail1 && m_model.picks().mode() != PickMode::Rail2) return m_model.picks().toggleEdges(guess.edges, m_model.picks().mode());
    const int which = m_model.picks().mode() == PickMode::Rail1 ? 0 : 1;
    std::vector<int> edges = guess.edges;
    if (add)
        if (const auto recipe = m_model.recipe())
            if (const auto now = resolveEdges(*m_model.place()->part, which == 0 ? recipe->pattern->rail1 : recipe->pattern->rail2))
                edges.insert(edges.end(), now->begin(), now->end());
    m_model.picks().setRail(which, edges);
}

// What the window or lasso holds is added, like by a click on each.
void View::takeInside() {
    const auto place = m_model.place();
    const QPolygonF polygon = m_drag == Drag::Window ? QPolygonF(QRectF(m_pressed, m_cursor).normalized()) : m_lasso;
    if (!place || !place->part || polygon.size() < 3) return;
    Guess guess;
    if (picksFaces())
        guess.faces = facesInside(pickedPart(), m_camera, polygon);
    else
        guess.edges = edgesInside(pickedPart(), m_camera, polygon);
    if (guess.faces.empty() && guess.edges.empty()) return emit cannotDraw(tr("Nothing lies wholly inside."));
    take(guess, true);
}

void View::mousePressEvent(QMouseEvent* e) {
    m_pressed = m_last = e->position();
    m_moved = false;
    m_drag = e->button() == Qt::LeftButton ? Drag::Orbit : Drag::Pan;
    if (const auto key = keyAt(m_pressed)) {
        if (e->button() == Qt::RightButton) {
            m_drag = Drag::None;
            return m_model.along().removeKey(key->key);
        }
        m_keyDragged = *key;
        m_drag = Drag::Key;
        return;
    }
    if (e->button() != Qt::LeftButton) return;
    if (const auto line = axisLineAt(m_pressed)) {
        m_drag = Drag::None;
        return m_model.along().turnAxisLine(*line);
    }
    if (const auto handle = moveHandleAt(m_pressed)) return beginMove(*handle);
    if ((picksFaces() || picksEdges()) && !m_atMachine && (e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier))) {
        m_drag = e->modifiers() & Qt::ShiftModifier ? Drag::Window : Drag::Lasso;
        m_lasso = QPolygonF({m_pressed});
        return;
    }
    const auto on = [&](const std::optional<QPointF>& p) { return p && std::hypot(p->x() - m_pressed.x(), p->y() - m_pressed.y()) < 11.0; };
    if (on(tiltHandle()))
        m_drag = Drag::Tilt;
    else if (on(leadHandle()))
        m_drag = Drag::Lead;
}

void View::mouseMoveEvent(QMouseEvent* e) {
    m_cursor = e->position();
    if (m_drag == Drag::None) return hover(m_cursor);
    const QPointF by = m_cursor - m_last;
    if (std::hypot(m_cursor.x() - m_pressed.x(), m_cursor.y() - m_pressed.y()) > 4.0) m_moved = true;
    if (!m_moved) return;
    m_last = m_cursor;
    if (m_drag == Drag::Window || m_drag == Drag::Lasso) {
        m_lasso << m_cursor;
        return update();
    }
    if (m_drag == Drag::Key) return dragKey(m_cursor);
    if (m_drag == Drag::Body) return dragBody(m_cursor);
    if (m_drag == Drag::Lead || m_drag == Drag::Tilt) {
        const auto h = handles();
        if (!h) return;
        const bool tilt = m_drag == Drag::Tilt;
        const auto a = m_camera.project(tilt ? h->tilt : h->lead), b = m_camera.project((tilt ? h->tilt : h->lead) + 0.02 * (tilt ? h->tiltWay : h->leadWay));
        if (!a || !b) return;
        const QPointF way = (*b - *a) / 0.02; // pixels a radian
        const double l2 = QPointF::dotProduct(way, way);
        if (l2 < 1.0) return;
        const double turn = degrees(QPointF::dotProduct(by, way) / l2);
        if (const auto here = m_model.along().keyHere()) { // what is turned at a key is the key
            AxisKey key = m_model.recipe()->axis->keys[*here];
            double& angle = tilt ? key.tiltDegrees : key.leadDegrees;
            angle = std::clamp(angle + turn, -90.0, 90.0);
            m_model.along().setKey(*here, key);
        } else {
            const QString key = tilt ? "axis.tilt" : "axis.lead";
            const double now = m_model.word(key).toDouble();
            (void)m_model.setWord(key, QString::number(std::clamp(now + turn, -90.0, 90.0), 'f', 2));
        }
    } else if (m_drag == Drag::Orbit) {
        orbit(by);
    } else {
        m_camera.pan(by);
    }
    moving();
}

void View::mouseReleaseEvent(QMouseEvent* e) {
    const Drag was = m_drag;
    m_cursor = e->position();
    if (m_moved && (was == Drag::Window || was == Drag::Lasso)) takeInside();
    m_drag = Drag::None;
    m_lasso.clear();
    update();
    if (!m_moved && was == Drag::Key) return goToKey(m_keyDragged);
    if (!m_moved && e->button() == Qt::LeftButton && (was == Drag::Orbit || was == Drag::Window || was == Drag::Lasso))
        click(e->position(), e->modifiers() & Qt::ShiftModifier);
}

void View::wheelEvent(QWheelEvent* e) {
    m_camera.zoom(std::pow(1.0015, e->angleDelta().y()), e->position());
    moving();
}

void View::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space && m_guesses.size() > 1) {
        m_guess = (m_guess + 1) % m_guesses.size();
        return redraw();
    }
    // Picking without a mouse: full stop and comma step through faces or edges, Return takes.
    const auto place = m_model.place();
    if (place && place->part && (picksFaces() || picksEdges()) && (e->key() == Qt::Key_Period || e->key() == Qt::Key_Comma)) {
        const int count = static_cast<int>(picksFaces() ? place->part->faces().size() : place->part->edges().size()), step = e->key() == Qt::Key_Period ? 1 : -1;
        for (int tries = 0; tries < count; ++tries) {
            m_keyPick = m_keyPick < 0 ? (step > 0 ? 0 : count - 1) : (m_keyPick + step + count) % count;
            if (picksFaces() || !place->part->edges()[static_cast<std::size_t>(m_keyPick)].degenerate) break;
        }
        const auto recipe = m_model.recipe();
        const auto faces =
            recipe && m_model.picks().mode() != PickMode::Feature ? resolveFaces(*place->part, recipe->target->faces).value_or(std::vector<int>{}) : std::vector<int>{};
        m_guesses = picksFaces() ? faceGuesses(*place->part, m_keyPick) : edgeGuesses(*place->part, faces, m_keyPick);
        m_guess = 0;
        const Vec3 at =
            picksFaces() ? place->part->faces()[static_cast<std::size_t>(m_keyPick)].centre : place->part->edges()[static_cast<std::size_t>(m_keyPick)].middle;
        if (const auto q = m_camera.project(at)) m_cursor = *q; // the words stand beside it
        return redraw();
    }
    if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && m_model.picks().mode() != PickMode::None && !m_guesses.empty())
        return take(m_guesses[m_guess], e->modifiers() & Qt::ShiftModifier);
    if (e->key() == Qt::Key_Escape && m_model.picks().mode() != PickMode::None) return m_model.picks().setMode(PickMode::None);
    if (e->key() == Qt::Key_Escape && held()) return m_model.setUp().holdBody(-1);
    if (e->key() == Qt::Key_Left && m_model.location() > 0) return m_model.setLocation(m_model.location() - 1);
    if (e->key() == Qt::Key_Right) return m_model.setLocation(m_model.location() + 1);
    QWidget::keyPressEvent(e);
}

// Other colours: what is uploaded carries the old ones.
void View::changeEvent(QEvent* e) {
    if (e->type() == QEvent::PaletteChange || e->type() == QEvent::StyleChange) {
        m_coloursOld = true;
        m_solidsOld = m_pathOld = m_featuresOld = true;
        redraw();
    }
    QWidget::changeEvent(e);
}

void View::leaveEvent(QEvent* e) {
    m_guesses.clear();
    m_model.milling().setHovered({});
    redraw();
    QWidget::leaveEvent(e);
}

} // namespace gyre
