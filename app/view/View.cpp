#include "view/View.h"
#include "Theme.h"
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace gyre {

namespace {

QMatrix4x4 qt(const Frame& f) {
    QMatrix4x4 m;
    for (int r = 0; r < 4; ++r)
        for (int c = 0; c < 4; ++c) m(r, c) = static_cast<float>(f.matrix()(r, c));
    return m;
}

Frame poseFrame(const Vec3& tip, const Vec3& axis) {
    Frame f = Frame::Identity();
    f.linear().col(2) = axis;
    f.linear().col(0) = anyPerpendicular(axis);
    f.linear().col(1) = axis.cross(f.linear().col(0));
    f.translation() = tip;
    return f;
}

} // namespace

/// Words and handles over the picture. A widget of its own: painting with QPainter into the core-profile surface shows nothing
/// under software rendering.
class Overlay : public QWidget {
public:
    explicit Overlay(View& view) : QWidget(&view), m_view(view) {
        setAttribute(Qt::WA_TransparentForMouseEvents);
        setObjectName("viewOverlay");
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        m_view.drawOverlay(painter);
    }

private:
    View& m_view;
};

View::View(AppModel& model, QWidget* parent) : QOpenGLWidget(parent), m_model(model) {
    m_overlay = new Overlay(*this);
    setObjectName("view");
    setAccessibleName(tr("3D view"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(320, 240);
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setSamples(4);
    setFormat(format);
    connect(&m_model, &AppModel::placeChanged, this, [this] {
        m_solidsOld = true;
        m_pathOld = true;
        m_framed = false;
        update();
    });
    const auto pathOld = [this] {
        m_pathOld = true;
        update();
    };
    connect(&m_model, &AppModel::resultChanged, this, pathOld);
    connect(&m_model, &AppModel::selectionChanged, this, pathOld);
    connect(&m_model, &AppModel::peelChanged, this, [this] { update(); });
    connect(&m_model, &AppModel::locationChanged, this, [this] { update(); });
    connect(&m_model, &AppModel::jobChanged, this, [this] { update(); });
    connect(&m_model, &AppModel::pickModeChanged, this, [this] {
        m_guesses.clear();
        setCursor(m_model.pickMode() == PickMode::None ? Qt::ArrowCursor : Qt::CrossCursor);
        update();
    });
}

View::~View() {
    makeCurrent();
    m_solids.clear();
    m_machine.clear();
    m_tool.clear();
    m_path.reset();
    m_rows.reset();
    m_rails.reset();
    m_axes.reset();
    m_lit.reset();
    doneCurrent();
}

void View::initializeGL() {
    m_ready = m_renderer.initialise(m_trouble);
    if (!m_ready) emit cannotDraw(m_trouble);
}

void View::resizeGL(int w, int h) {
    m_camera.resize({w, h});
    m_overlay->setGeometry(0, 0, w, h);
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
    for (const PlacedBody& b : place->bodies) box.add(b.shape->mesh().bounds());
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
        box.high.z() += 0.25 * (box.high.z() - box.low.z()); // room for the tool
        // From the side that is being cut.
        double azimuth = -62.0;
        if (const auto recipe = m_model.recipe(); recipe && place->part)
            if (const auto faces = resolveFaces(*place->part, recipe->target.faces)) {
                Vec3 sum = Vec3::Zero();
                for (int f : *faces) sum += place->part->faces()[static_cast<std::size_t>(f)].area * place->part->faces()[static_cast<std::size_t>(f)].normal;
                if (std::hypot(sum.x(), sum.y()) > 0.1 * sum.norm() && sum.norm() > 0.0) azimuth = degrees(std::atan2(sum.y(), sum.x())) - 42.0;
            }
        m_camera.look(azimuth, 24);
        m_camera.frame(box);
    }
    m_framed = true;
    update();
}

void View::uploadSolids() {
    m_solids.clear();
    m_machine.clear();
    m_partMesh = nullptr;
    m_solidsOld = false;
    const auto place = m_model.place();
    if (!place) return;
    for (const PlacedBody& b : place->bodies) {
        Solid s;
        s.mesh = m_renderer.upload(b.shape->mesh());
        std::vector<Polyline> lines;
        for (std::size_t e = 0; e < b.shape->edges().size(); ++e) {
            const EdgeInfo& info = b.shape->edges()[e];
            if (!info.degenerate && std::abs(info.angle) > 0.05) lines.push_back(b.shape->edgeLine(static_cast<int>(e)));
        }
        s.edges = m_renderer.upload(Renderer::segmentsOf(lines, theme().clayEdge));
        s.role = QString::fromStdString(b.role);
        if (b.role == "part") m_partMesh = s.mesh.get();
        m_solids.push_back(std::move(s));
    }
    for (const MachineBody& b : place->machine->bodies) {
        TriangleMesh mesh;
        for (const auto& p : b.pieces) mesh.append(skinOf(p, 64));
        if (mesh.triangles.empty()) continue;
        Solid s;
        s.mesh = m_renderer.upload(mesh);
        s.role = QString::fromStdString(b.role);
        s.link = b.joint;
        m_machine.push_back(std::move(s));
    }
}

void View::uploadTool() {
    m_tool.clear();
    const auto result = m_model.result();
    if (!result || result->tool.id.empty()) return;
    for (const Piece& p : piecesOf(result->tool)) m_tool.push_back({m_renderer.upload(skinOf(ConvexBody::turned(p.shape), 40)), p.zone});
}

void View::uploadPath() {
    m_pathOld = false;
    uploadTool();
    m_path.reset();
    m_rows.reset();
    m_rails.reset();
    m_axes.reset();
    const auto result = m_model.result();
    if (!result) return;
    const Theme& t = theme();
    if (result->pattern) {
        std::vector<Polyline> rows;
        for (const Row& r : result->pattern->rows) {
            rows.push_back(r.points);
            if (r.closed && !r.points.empty()) rows.back().push_back(r.points.front());
        }
        m_rows = m_renderer.upload(Renderer::segmentsOf(rows, t.accent));
        m_rails = m_renderer.upload(Renderer::segmentsOf({result->pattern->rails[0], result->pattern->rails[1]}, t.ochre));
    }
    if (result->passes) {
        // Whiskers along the axis, at most a few thousand.
        std::size_t total = 0;
        for (const Pass& p : *result->passes) total += p.path.size();
        const std::size_t every = std::max<std::size_t>(1, total / 2500);
        std::vector<Polyline> whiskers;
        std::size_t n = 0;
        for (const Pass& p : *result->passes)
            for (std::size_t i = 0; i < p.path.size(); ++i)
                if (n++ % every == 0) whiskers.push_back({p.path.contact[i], p.path.contact[i] + 6.0 * p.path.axis[i]});
        m_axes = m_renderer.upload(Renderer::segmentsOf(whiskers, t.slate));
    }
    if (const Toolpath* path = result->path(); path && path->size() > 1) {
        std::vector<char> unsafe(path->size(), 0);
        for (const PathHazard& h : result->hazards)
            for (std::size_t i = h.first; i <= std::min(h.last, path->size() - 1); ++i) unsafe[i] = 1;
        std::vector<Renderer::Segment> segments;
        segments.reserve(path->size());
        for (std::size_t i = 1; i < path->size(); ++i) {
            Renderer::Segment s{};
            const bool cut = path->motion[i] == Motion::Cut;
            // Cuts are drawn where they touch, everything else where the tip goes.
            const Vec3 &a = cut && path->motion[i - 1] == Motion::Cut ? path->contact[i - 1] : cut ? path->contact[i] : path->tip[i - 1], &b = cut ? path->contact[i] : path->tip[i];
            for (int k = 0; k < 3; ++k) {
                s.from[k] = static_cast<float>(a[k]);
                s.to[k] = static_cast<float>(b[k]);
            }
            const bool entry = path->motion[i] == Motion::LeadIn || path->motion[i] == Motion::LeadOut || path->motion[i] == Motion::Plunge;
            const QColor c = unsafe[i] ? t.unsafe : cut ? t.accent : entry ? t.ochre : t.slate;
            s.colour[0] = static_cast<unsigned char>(c.red());
            s.colour[1] = static_cast<unsigned char>(c.green());
            s.colour[2] = static_cast<unsigned char>(c.blue());
            s.colour[3] = path->motion[i] == Motion::Rapid ? 150 : 255;
            segments.push_back(s);
        }
        m_path = m_renderer.upload(segments);
    }
}

std::optional<JointValues> View::joints() const {
    const auto r = m_model.result();
    if (!r || !r->complete() || r->motion->size() == 0 || m_model.location() >= r->motion->stepOf.size()) return std::nullopt;
    return r->motion->jointsAt(r->motion->stepOf[m_model.location()]);
}

QMatrix4x4 View::partMatrix() const {
    const auto place = m_model.place();
    if (!m_atMachine || !place) return {};
    const JointValues q = joints().value_or(JointValues(place->machine->joints.size(), 0.0));
    return qt(linkMotion(*place->machine, place->machine->workJoint, q) * place->machine->workFrame * place->partFrame);
}

QMatrix4x4 View::toolMatrix() const {
    const auto r = m_model.result();
    const auto place = m_model.place();
    if (m_atMachine && place && r && r->complete())
        if (const auto q = joints()) return qt(Kinematics(*place->machine, place->partFrame, r->tool.gaugeLength()).toolInMachine(*q));
    const Toolpath* path = r ? r->path() : nullptr;
    if (!path || path->empty()) return {};
    const std::size_t i = std::min(m_model.location(), path->size() - 1);
    return qt(poseFrame(path->tip[i], path->axis[i]));
}

void View::paintGL() {
    QElapsedTimer timer;
    timer.start();
    if (!m_ready) return;
    if (m_solidsOld) uploadSolids();
    if (m_pathOld) uploadPath();
    if (!m_framed) frameAll();
    drawScene();
    m_overlay->update();
    m_frameMs = static_cast<double>(timer.nsecsElapsed()) * 1e-6;
}

void View::drawScene() {
    const Theme& t = theme();
    m_renderer.begin(m_camera.view(), m_camera.projection(), size() * devicePixelRatioF(), t.viewTop, t.viewBottom);
    const QMatrix4x4 part = partMatrix();
    const auto place = m_model.place();
    const auto result = m_model.result();
    for (Solid& s : m_solids) {
        const bool isPart = s.role == "part";
        m_renderer.draw(*s.mesh, part, isPart ? t.clay : s.role == "stock" ? t.oat : t.fixture);
        m_renderer.draw(*s.edges, part, isPart ? 1.2f : 1.0f, isPart ? 0.9f : 0.55f);
    }
    if (m_partMesh) {
        if (result && m_model.bench() != Bench::Prove)
            m_renderer.drawFaces(*m_partMesh, result->faces, part, t.accent, m_model.peel() == Stage::Target || m_model.pickMode() == PickMode::Faces ? 0.45f : 0.10f);
        if (m_litWord == "target.faces" && result) m_renderer.drawFaces(*m_partMesh, result->faces, part, t.accent, 0.45f);
        if (!m_guesses.empty()) m_renderer.drawFaces(*m_partMesh, m_guesses[m_guess].faces, part, t.ochre, 0.5f);
    }
    if (place) {
        const JointValues q = joints().value_or(JointValues(place->machine->joints.size(), 0.0));
        for (Solid& s : m_machine) {
            if (m_atMachine) m_renderer.draw(*s.mesh, qt(linkMotion(*place->machine, s.link, q)), t.machine, s.role == "bed" ? 0.25f : 1.0f);
            else if (s.link == place->machine->workJoint) m_renderer.draw(*s.mesh, qt((place->machine->workFrame * place->partFrame).inverse()), t.machine);
        }
    }
    drawPath(part);
    // Light the edges a guess would take, and those a word speaks of.
    std::vector<Polyline> lit;
    const auto recipe = m_model.recipe();
    if (place && place->part) {
        if (!m_guesses.empty())
            for (int e : m_guesses[m_guess].edges) lit.push_back(place->part->edgeLine(e));
        if (recipe && (m_litWord == "pattern.rail1" || m_litWord == "pattern.rail2"))
            if (const auto edges = resolveEdges(*place->part, m_litWord == "pattern.rail1" ? recipe->pattern.rail1 : recipe->pattern.rail2))
                for (int e : *edges) lit.push_back(place->part->edgeLine(e));
    }
    m_lit = lit.empty() ? nullptr : m_renderer.upload(Renderer::segmentsOf(lit, t.ochre));
    if (m_lit) m_renderer.draw(*m_lit, part, 3.5f, 1.0f, 0, -1, 0.0002f);
    if (result && result->path() && !result->path()->empty() && (m_model.peel() >= Stage::Axis || m_atMachine)) {
        const QMatrix4x4 tool = toolMatrix();
        for (ToolPiece& p : m_tool) m_renderer.draw(*p.mesh, tool, p.zone == Zone::Cutter ? t.ochre : p.zone == Zone::Shank ? t.steel : t.steelDark);
    }
    m_renderer.end();
}

void View::drawPath(const QMatrix4x4& part) {
    const float alpha = m_model.stale() ? 0.35f : 1.0f;
    const Stage peel = m_model.bench() == Bench::Cut ? m_model.peel() : Stage::Links;
    // Sub-pixel lines vanish under multisampling, so nothing is thinner than a pixel.
    if (peel >= Stage::Pattern && m_rails && m_model.bench() == Bench::Cut) m_renderer.draw(*m_rails, part, 2.6f, alpha, 0, -1, 0.00008f);
    if ((peel == Stage::Pattern || peel == Stage::Axis) && m_rows) m_renderer.draw(*m_rows, part, 1.1f, alpha);
    if (peel == Stage::Axis && m_axes) m_renderer.draw(*m_axes, part, 1.0f, 0.8f * alpha);
    if (peel >= Stage::Guard && m_path) {
        const auto at = static_cast<int>(m_model.location());
        m_renderer.draw(*m_path, part, 1.2f, alpha, 0, at);
        m_renderer.draw(*m_path, part, 1.1f, (at > 0 ? 0.55f : 1.0f) * alpha, at);
    } else if (peel >= Stage::Guard && m_rows) {
        m_renderer.draw(*m_rows, part, 1.1f, alpha);
    }
}

Vec3 View::feedAt(std::size_t i) const {
    const Toolpath& p = *m_model.result()->path();
    const std::size_t a = i > 0 && p.motion[i] == Motion::Cut ? i - 1 : i, b = i + 1 < p.size() && p.motion[i + 1] == Motion::Cut ? i + 1 : i;
    Vec3 f = rejected(p.contact[b] - p.contact[a], p.normal[i]);
    return f.norm() > 1e-9 ? Vec3(f.normalized()) : anyPerpendicular(p.normal[i]);
}

std::optional<View::Handles> View::handles() const {
    const auto r = m_model.result();
    const auto recipe = m_model.recipe();
    if (!r || !r->path() || !recipe || m_atMachine || m_model.bench() != Bench::Cut || recipe->axis.rule != AxisRule::Surface) return std::nullopt;
    const std::size_t i = m_model.location();
    const Toolpath& p = *r->path();
    if (i >= p.size() || p.motion[i] != Motion::Cut || p.normal[i].squaredNorm() < 0.5) return std::nullopt;
    const Vec3 f = feedAt(i), n = p.normal[i], side = n.cross(f);
    const LeadTilt lt = leadTiltOf(p.axis[i], n, f);
    const bool returning = r->pattern && std::any_of(r->pattern->rows.begin(), r->pattern->rows.end(), [&](const Row& row) { return row.index == p.row[i] && row.returning; });
    Handles h;
    const double reach = 0.62 * r->tool.stickOut;
    h.pivot = p.tip[i];
    h.tilt = p.tip[i] + reach * p.axis[i];
    h.lead = p.tip[i] + 0.62 * reach * p.axis[i];
    h.leadWay = 0.62 * reach * std::cos(lt.tilt) * (-std::sin(lt.lead) * n + std::cos(lt.lead) * f);
    h.tiltWay = reach * (-std::sin(lt.tilt) * (std::cos(lt.lead) * n + std::sin(lt.lead) * f) + std::cos(lt.tilt) * side) * (returning ? -1.0 : 1.0);
    return h;
}

std::optional<QPointF> View::leadHandle() const {
    const auto h = handles();
    return h ? m_camera.project(h->lead) : std::nullopt;
}

std::optional<QPointF> View::tiltHandle() const {
    const auto h = handles();
    return h ? m_camera.project(h->tilt) : std::nullopt;
}

QString View::hoverWords() const {
    if (m_guesses.empty()) return {};
    const QString more = m_guesses.size() > 1 ? tr(" · Space for next guess") : QString();
    return m_guesses[m_guess].words + more;
}

void View::drawOverlay(QPainter& painter) {
    const Theme& t = theme();
    painter.setRenderHint(QPainter::Antialiasing);
    if (const auto h = handles()) {
        const auto arc = [&](const Vec3& at, const Vec3& way, const QString& name) {
            QPainterPath path;
            const Vec3 spoke = at - h->pivot;
            bool first = true;
            for (int k = -10; k <= 10; ++k) {
                const double a = k * 0.035;
                const auto p = m_camera.project(h->pivot + std::cos(a) * spoke + std::sin(a) * way);
                if (!p) return;
                if (first) path.moveTo(*p);
                else path.lineTo(*p);
                first = false;
            }
            painter.setPen(QPen(t.card, 4.0));
            painter.drawPath(path);
            painter.setPen(QPen(t.ochre, 2.0));
            painter.drawPath(path);
            const auto knob = m_camera.project(at);
            painter.setBrush(t.ochre);
            painter.setPen(QPen(t.card, 1.5));
            painter.drawEllipse(*knob, 6.0, 6.0);
            // The name on a little card, so that it reads over any colour.
            const QRectF text = painter.fontMetrics().boundingRect(name);
            const QRectF card(path.pointAtPercent(1.0) + QPointF(6, -0.5 * text.height() - 2), QSizeF(text.width() + 10, text.height() + 4));
            painter.setPen(Qt::NoPen);
            painter.setBrush(t.card);
            painter.drawRoundedRect(card, 4, 4);
            painter.setPen(t.ink);
            painter.drawText(card, Qt::AlignCenter, name);
        };
        arc(h->tilt, h->tiltWay, tr("tilt"));
        arc(h->lead, h->leadWay, tr("lead"));
    }
    const auto chip = [&](const QPointF& at, const QString& text, const QColor& ink, bool below) {
        const QRectF r = painter.fontMetrics().boundingRect(text).adjusted(-10, -6, 10, 6);
        QRectF box(at.x(), at.y() + (below ? 0 : -r.height()), r.width(), r.height());
        box.moveRight(std::min(box.right(), width() - 8.0));
        painter.setPen(QPen(t.hairline, 1));
        painter.setBrush(t.card);
        painter.drawRoundedRect(box, 6, 6);
        painter.setPen(ink);
        painter.drawText(box, Qt::AlignCenter, text);
    };
    if (const QString words = hoverWords(); !words.isEmpty()) chip(m_cursor + QPointF(16, 12), words, t.ink, true);
    if (m_model.pickMode() != PickMode::None) {
        const QString what = m_model.pickMode() == PickMode::Faces ? tr("Click faces to add or take away · Esc when done")
                             : m_model.pickMode() == PickMode::Rail1 ? tr("Click the edges of rail 1 · Esc when done")
                                                                     : tr("Click the edges of rail 2 · Esc when done");
        chip({14, 14}, what, t.accent, true);
    }
    // What is true at this place, in one line.
    const auto r = m_model.result();
    if (r && r->path() && !r->path()->empty()) {
        const Toolpath& p = *r->path();
        const std::size_t i = std::min(m_model.location(), p.size() - 1);
        QStringList words;
        if (p.motion[i] == Motion::Cut) words << tr("row %1").arg(p.row[i] + 1);
        else words << tr(motionName(p.motion[i]));
        if (const auto q = joints()) {
            const auto place = m_model.place();
            for (int j : place->machine->rotaries())
                words << QString("%1 %2°").arg(QString::fromStdString(place->machine->joints[static_cast<std::size_t>(j)].name)).arg(degrees((*q)[static_cast<std::size_t>(j)]), 0, 'f', 2);
        }
        bool near = false;
        if (i < r->holderClearance.size()) {
            const auto text = [](float v) { return v >= 20.0f ? QObject::tr("over 20") : QString::number(v, 'f', 2); };
            words << tr("shank %1 mm").arg(text(r->shankClearance[i])) << tr("holder %1 mm").arg(text(r->holderClearance[i]));
        }
        for (const PathHazard& h : r->hazards) near = near || (i >= h.first && i <= h.last);
        if (near) words << tr("▲ too near");
        chip({14, height() - 14.0}, words.join("   ·   "), near ? t.unsafe : t.ink, false);
    } else if (m_model.hasJob() && !m_model.computing()) {
        const QString why = !m_model.setupTrouble().isEmpty() ? m_model.setupTrouble() : r && !r->findings.empty() ? QString::fromStdString(r->findings.front().text) : QString();
        if (!why.isEmpty()) chip({14, height() - 14.0}, tr("Nothing was generated: %1").arg(why), t.unsafe, false);
    }
}

void View::lightWord(const QString& key) {
    if (key == m_litWord) return;
    m_litWord = key;
    update();
}

void View::hover(const QPointF& pixel) {
    const auto place = m_model.place();
    const QString before = hoverWords();
    std::vector<Guess> guesses;
    if (place && place->part && m_model.pickMode() != PickMode::None && !m_atMachine) {
        if (m_model.pickMode() == PickMode::Faces) {
            if (const FaceHit hit = faceAt(*place->part, m_camera, pixel); hit.face >= 0) guesses = faceGuesses(*place->part, hit.face);
        } else if (const int e = edgeAt(*place->part, m_camera, pixel); e >= 0) {
            const auto recipe = m_model.recipe();
            const auto faces = recipe ? resolveFaces(*place->part, recipe->target.faces).value_or(std::vector<int>{}) : std::vector<int>{};
            guesses = edgeGuesses(*place->part, faces, e);
        }
    }
    const bool same = guesses.size() == m_guesses.size() && !guesses.empty() && guesses[0].faces == m_guesses[0].faces && guesses[0].edges == m_guesses[0].edges;
    if (!same) m_guess = 0;
    m_guesses = std::move(guesses);
    if (!same || !m_guesses.empty() || !before.isEmpty()) update();
}

void View::click(const QPointF& pixel, bool add) {
    hover(pixel);
    if (m_model.pickMode() == PickMode::Faces) {
        if (!m_guesses.empty()) m_model.toggleFaces(m_guesses[m_guess].faces);
    } else if (m_model.pickMode() != PickMode::None) {
        if (m_guesses.empty()) return;
        const int which = m_model.pickMode() == PickMode::Rail1 ? 0 : 1;
        std::vector<int> edges = m_guesses[m_guess].edges;
        if (add)
            if (const auto recipe = m_model.recipe())
                if (const auto now = resolveEdges(*m_model.place()->part, which == 0 ? recipe->pattern.rail1 : recipe->pattern.rail2)) edges.insert(edges.end(), now->begin(), now->end());
        m_model.setRail(which, edges);
    } else if (const auto r = m_model.result(); r && r->path() && m_model.place() && !m_atMachine) {
        if (const auto at = locationAt(*m_model.place()->part, *r->path(), m_camera, pixel)) m_model.setLocation(*at);
    }
}

void View::mousePressEvent(QMouseEvent* e) {
    m_pressed = m_last = e->position();
    m_moved = false;
    m_drag = e->button() == Qt::LeftButton ? Drag::Orbit : Drag::Pan;
    if (e->button() != Qt::LeftButton) return;
    const auto on = [&](const std::optional<QPointF>& p) { return p && std::hypot(p->x() - m_pressed.x(), p->y() - m_pressed.y()) < 11.0; };
    if (on(tiltHandle())) m_drag = Drag::Tilt;
    else if (on(leadHandle())) m_drag = Drag::Lead;
}

void View::mouseMoveEvent(QMouseEvent* e) {
    m_cursor = e->position();
    if (m_drag == Drag::None) return hover(m_cursor);
    const QPointF by = m_cursor - m_last;
    if (std::hypot(m_cursor.x() - m_pressed.x(), m_cursor.y() - m_pressed.y()) > 4.0) m_moved = true;
    if (!m_moved) return;
    m_last = m_cursor;
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
        const QString key = tilt ? "axis.tilt" : "axis.lead";
        const double now = m_model.word(key).toDouble();
        (void)m_model.setWord(key, QString::number(std::clamp(now + turn, -90.0, 90.0), 'f', 2));
    } else if (m_drag == Drag::Orbit) {
        m_camera.orbit(by);
    } else {
        m_camera.pan(by);
    }
    update();
}

void View::mouseReleaseEvent(QMouseEvent* e) {
    const Drag was = m_drag;
    m_drag = Drag::None;
    if (!m_moved && e->button() == Qt::LeftButton && was == Drag::Orbit) click(e->position(), e->modifiers() & Qt::ShiftModifier);
}

void View::wheelEvent(QWheelEvent* e) {
    m_camera.zoom(std::pow(1.0015, e->angleDelta().y()), e->position());
    update();
}

void View::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space && m_guesses.size() > 1) {
        m_guess = (m_guess + 1) % m_guesses.size();
        return update();
    }
    if (e->key() == Qt::Key_Escape && m_model.pickMode() != PickMode::None) return m_model.setPickMode(PickMode::None);
    if (e->key() == Qt::Key_Left && m_model.location() > 0) return m_model.setLocation(m_model.location() - 1);
    if (e->key() == Qt::Key_Right) return m_model.setLocation(m_model.location() + 1);
    QOpenGLWidget::keyPressEvent(e);
}

void View::leaveEvent(QEvent* e) {
    m_guesses.clear();
    update();
    QOpenGLWidget::leaveEvent(e);
}

} // namespace gyre
