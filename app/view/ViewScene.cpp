// What the 3D view uploads and draws.
#include "Theme.h"
#include "axis/AxisSpec.h"
#include "machine/Reach.h"
#include "model/Closer.h"
#include "model/FlankShow.h"
#include "model/Holes.h"
#include "model/Mending.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "model/Revision.h"
#include "model/SkyShow.h"
#include "operation/OperationResult.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "view/Matrix.h"
#include "view/View.h"
#include <algorithm>
#include <cmath>

namespace gyre {

namespace {

Frame poseFrame(const Vec3& tip, const Vec3& axis) {
    Frame f = Frame::Identity();
    f.linear().col(2) = axis;
    f.linear().col(0) = anyPerpendicular(axis);
    f.linear().col(1) = axis.cross(f.linear().col(0));
    f.translation() = tip;
    return f;
}

} // namespace

void View::uploadSolids() {
    m_solids.clear();
    m_machine.clear();
    m_partMesh.reset();
    m_construction.reset();
    m_solidsOld = false;
    const auto place = m_model.place();
    if (!place) return;
    if (place->part && place->part->bodyFaces() < static_cast<int>(place->part->faces().size())) {
        const TriangleMesh& all = place->part->drawing();
        TriangleMesh extra;
        extra.points = all.points;
        extra.normals = all.normals;
        // A freed face lies on the one it came from: drawn a little above it, so that the two do not flicker through each other.
        for (std::size_t i = 0; i < extra.points.size(); ++i) extra.points[i] += 3.0 * place->part->deflection() * extra.normals[i];
        for (std::size_t t = 0; t < all.triangles.size(); ++t)
            if (all.faces[t] >= place->part->bodyFaces()) {
                extra.triangles.push_back(all.triangles[t]);
                extra.faces.push_back(all.faces[t]);
            }
        m_construction = std::make_shared<Renderer::Mesh>(extra);
    }
    for (const PlacedBody& b : place->bodies) {
        Solid s;
        s.mesh = std::make_shared<Renderer::Mesh>(std::shared_ptr<const TriangleMesh>(b.shape, &b.shape->drawing()));
        std::vector<Polyline> lines;
        // Stock around a part is laid on a grid: its short bends are the grid's, not the body's.
        const double shortest = b.role == "stock" && b.shape->isMesh() ? 0.08 * b.shape->tree().bounds().diagonal() : 0.0;
        for (std::size_t e = 0; e < b.shape->edges().size(); ++e) {
            const EdgeInfo& info = b.shape->edges()[e];
            if (info.length < shortest) continue;
            if (!info.degenerate && std::abs(info.angle) > 0.05) lines.push_back(b.shape->edgeLine(static_cast<int>(e)));
        }
        s.edges = std::make_shared<Renderer::Lines>(Renderer::segmentsOf(lines, theme().clayEdge));
        s.role = QString::fromStdString(b.role);
        s.name = b.name;
        s.colour = b.role == "part" ? theme().clay : b.role == "stock" ? theme().oat : theme().fixture;
        // Bodies of an assembly lean towards the colours of their file, so that they can be told apart; roles still show.
        if (const auto& own = b.shape->colour()) {
            constexpr double kOwn = 0.45;
            const auto mixed = [&](int role, double of) { return static_cast<int>((1.0 - kOwn) * role + kOwn * 255.0 * std::clamp(of, 0.0, 1.0)); };
            s.colour = QColor(mixed(s.colour.red(), (*own)[0]), mixed(s.colour.green(), (*own)[1]), mixed(s.colour.blue(), (*own)[2]));
        }
        if (b.role == "part") m_partMesh = s.mesh;
        m_solids.push_back(std::move(s));
    }
    for (const MachineBody& b : place->machine->bodies) {
        TriangleMesh mesh;
        for (const auto& p : b.pieces) mesh.append(skinOf(p, 64));
        if (b.mesh) mesh.append(*b.mesh);
        if (mesh.triangles.empty()) continue;
        Solid s;
        s.mesh = std::make_shared<Renderer::Mesh>(mesh);
        s.role = QString::fromStdString(b.role);
        s.name = b.name;
        s.link = b.joint;
        s.tree = std::make_shared<const MeshTree>(mesh);
        m_machine.push_back(std::move(s));
    }
}

void View::uploadTool() {
    m_tool.clear();
    const auto result = m_model.result();
    if (!result || result->tool.id.empty()) return;
    for (const Piece& p : piecesOf(result->tool)) m_tool.push_back({std::make_shared<Renderer::Mesh>(skinOf(ConvexBody::turned(p.shape), 40)), p.zone});
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

void View::drawScene() {
    const Theme& t = theme();
    // Without a graphics card, edges are not smoothed while the picture moves.
    const bool smooth = !m_drafter.inSoftware() || !(m_rest.isActive() || m_model.computing());
    m_picture = Picture(m_camera.view(), m_camera.projection(), (QSizeF(size()) * devicePixelRatioF()).toSize(), t.viewTop, t.viewBottom, smooth);
    const QMatrix4x4 part = partMatrix();
    if (const Section cut = m_model.section(); cut.axis >= 0) {
        const float sign = cut.flipped ? 1.0f : -1.0f;
        QVector4D plane(0, 0, 0, -sign * static_cast<float>(cut.at));
        plane[cut.axis] = sign;
        m_picture.cutOpen(plane, part);
    }
    // Set up is about bodies and where they stand: no path, no tool.
    const bool working = m_model.bench() != Bench::SetUp;
    if (m_model.closer().from() && m_model.closer().picture() && !m_atMachine && working) {
        for (Band& b : m_closer) m_picture.draw(b.mesh, part, b.colour);
        drawPath(part);
        return;
    }
    const bool stock = stockDrawn();
    if (stock) drawStock(part);
    drawBodies(part, working, stock);
    drawMachine();
    if (working && !stock) drawPath(part); // it would veil what it has cut
    if (m_model.bench() == Bench::SetUp || (m_model.recipe() && m_model.recipe()->kind == OperationKind::Holes)) drawFeatures(part);
    drawPicks(part);
    drawLit(part, working);
    const auto result = m_model.result();
    const bool withTool = working && result && result->path() && !result->path()->empty() && (m_model.peel() >= Stage::Axis || m_atMachine);
    const bool faded = withTool && (m_toolFaded || toolHides());
    if (withTool) drawTool(toolMatrix(), false);
    drawSeenThrough(part, working);
    if (faded) drawTool(toolMatrix(), true);
    if (const auto& pointed = m_model.sky().pointed(); pointed && withTool && !m_atMachine)
        for (ToolPiece& p : m_tool) m_picture.draw(p.mesh, qt(poseFrame(pointed->stands.tip, pointed->stands.axis)), pointed->zone == p.zone ? t.unsafe : t.steel, 0.35f);
    drawConstruction(part, working);
}

// Parts, fixtures and the rest, with what is marked on them.
void View::drawBodies(const QMatrix4x4& part, bool working, bool stock) {
    const Theme& t = theme();
    const auto result = m_model.result();
    const auto& pointed = m_model.sky().pointed(); // on the map of directions
    for (Solid& s : m_solids) {
        if (m_model.shown(s.role) != Shown::Solid) continue;
        const bool isPart = s.role == "part";
        if (stock && (isPart || s.role == "stock")) continue;
        const bool near = working && !isPart && (pointed ? pointed->body.toStdString() == s.name : tooNear() && tooNear()->body == s.name);
        m_picture.draw(s.mesh, part, near ? t.unsafe : s.colour);
        m_picture.draw(s.edges, part, isPart ? 1.2f : 1.0f, isPart ? 0.9f : 0.55f);
    }
    if (m_construction && result && working) m_picture.drawFaces(m_construction, result->faces, part, t.accent, 0.35f);
    if (!m_partMesh || m_model.shown("part") != Shown::Solid || stock) return;
    const bool marked = m_model.peel() == Stage::Target || m_model.picks().mode() == PickMode::Faces;
    if (result && working && m_model.bench() != Bench::Prove) {
        m_picture.drawFaces(m_partMesh, result->faces, part, t.accent, marked && !m_region ? 0.45f : 0.10f);
        if (marked && m_region) m_picture.drawFaces(m_region, result->faces, part, t.accent, 0.45f);
    }
    if (m_litWord == "target.faces" && result) m_picture.drawFaces(m_partMesh, result->faces, part, t.accent, 0.45f);
    // Other lists of faces while they are picked, or spoken of.
    const PickWord *asked = pickWord(m_model.picks().mode()), *word = asked && asked->faces ? asked : pickWord(m_litWord);
    if (word && word->faces && word->mode != PickMode::Faces && m_model.recipe() && m_model.place())
        if (const auto faces = resolveFaces(*m_model.place()->part, word->of(*m_model.recipe()))) m_picture.drawFaces(m_partMesh, *faces, part, t.ochre, 0.45f);
    if (!m_guesses.empty()) m_picture.drawFaces(m_partMesh, m_guesses[m_guess].faces, part, t.ochre, 0.5f);
    if (!working) m_picture.drawFaces(m_partMesh, m_model.mending().litFaces(), part, t.accent, 0.4f);
    if (!working) m_picture.drawFaces(m_partMesh, m_model.revision().litFaces(), part, t.ochre, 0.5f);
}

// The edges a guess would take, and those a word speaks of.
void View::drawLit(const QMatrix4x4& part, bool working) {
    std::vector<int> edges;
    const auto place = m_model.place();
    const Recipe* recipe = m_model.recipe();
    if (place && place->part) {
        const auto add = [&](const std::vector<int>& more) { edges.insert(edges.end(), more.begin(), more.end()); };
        const auto resolved = [&](const std::vector<ShapeRef>& refs) { add(resolveEdges(*place->part, refs).value_or(std::vector<int>{})); };
        const PickMode mode = m_model.picks().mode();
        add(m_guesses.empty() ? m_model.milling().hovered() : m_guesses[m_guess].edges); // on the unrolled sheet, or here
        if (!working) add(m_model.mending().litEdges());
        if (recipe && (recipe->kind == OperationKind::Mill || follows(recipe->kind)) && working &&
            (mode == PickMode::Edges || m_model.peel() == Stage::Target || m_litWord == "target.edges"))
            resolved(recipe->target->edges);
        if (recipe && working && (m_litWord == "axis.edges" || mode == PickMode::AxisEdges)) resolved(recipe->axis->edges);
        for (const char* key : {"pattern.rail1", "pattern.rail2", "pattern.guides", "where.edges"})
            if (const PickWord* word = pickWord(QString(key));
                recipe && (m_litWord == key || (working && mode == word->mode && mode != PickMode::Rail1 && mode != PickMode::Rail2)))
                resolved(word->of(*recipe));
    }
    std::vector<Polyline> lit;
    for (const int e : edges)
        if (static_cast<std::size_t>(e) < place->part->edges().size()) lit.push_back(place->part->edgeLine(e));
    m_lit = lit.empty() ? nullptr : std::make_shared<Renderer::Lines>(Renderer::segmentsOf(lit, theme().ochre));
    if (m_lit) m_picture.draw(m_lit, part, 3.5f, 1.0f, 0, -1, 0.0002f);
}

// It comes last. The stock of a job is for setting up; beside a path it would only veil it.
void View::drawSeenThrough(const QMatrix4x4& part, bool working) {
    for (Solid& s : m_solids) {
        if (m_model.shown(s.role) != Shown::Faded || (working && s.role != "part" && s.role != "fixture")) continue;
        m_picture.draw(s.mesh, part, s.colour, 0.28f);
        m_picture.draw(s.edges, part, 1.0f, 0.5f);
    }
}

void View::drawConstruction(const QMatrix4x4& part, bool working) {
    const Theme& t = theme();
    const Shown mends = m_model.shown("mends");
    if (!m_construction || mends == Shown::Hidden || (working && m_model.picks().mode() == PickMode::None)) return;
    m_picture.draw(m_construction, part, t.accent, mends == Shown::Solid ? 0.22f : 0.1f);
    if (!m_guesses.empty()) m_picture.drawFaces(m_construction, m_guesses[m_guess].faces, part, t.ochre, 0.5f);
    if (!working) m_picture.drawFaces(m_construction, m_model.mending().litFaces(), part, t.accent, 0.3f);
}

// What hides the place where the tool touches is seen through; what is too near stands out.
void View::drawTool(const QMatrix4x4& tool, bool seenThrough) {
    const Theme& t = theme();
    const bool fades = m_toolFaded || toolHides();
    const auto& near = tooNear();
    for (ToolPiece& p : m_tool) {
        if ((fades && p.zone != Zone::Cutter) != seenThrough) continue;
        const QColor own = p.zone == Zone::Cutter ? t.ochre : p.zone == Zone::Shank ? t.steel : t.steelDark;
        m_picture.draw(p.mesh, tool, near && near->zone == p.zone ? t.unsafe : own, seenThrough ? 0.22f : 1.0f);
    }
}

// Curves of mends and drawings, points of sketches, and what a cutter's side would leave along a face's straight lines.
void View::drawPicks(const QMatrix4x4& part) {
    const auto place = m_model.place();
    if (!place) return;
    const Theme& t = theme();
    const bool settingUp = m_model.bench() == Bench::SetUp;
    if (m_featuresOld || !m_drawn) {
        std::vector<Renderer::Segment> segments;
        const auto add = [&](const std::vector<Polyline>& lines, const QColor& colour) {
            for (const auto& s : Renderer::segmentsOf(lines, colour)) segments.push_back(s);
        };
        for (const auto& d : place->drawings)
            for (const Curve& c : d.curves) add({c.polyline(0.02)}, t.slate);
        const double size = 0.012 * (place->part ? place->part->tree().bounds().diagonal() : 100.0);
        if (place->mends)
            for (const MendResult& r : *place->mends) {
                for (const Curve& c : r.curves) {
                    add({c.polyline(0.02)}, t.accent);
                    if (c.closed() || c.pieces() == 0) continue;
                    // An arrow in the middle: which way it runs.
                    const auto middle = c.atLength(0.5 * c.length());
                    const Vec3 p = c.at(middle), d = c.tangent(middle), side = anyPerpendicular(d);
                    add({{p - size * d + 0.5 * size * side, p, p - size * d - 0.5 * size * side}}, t.accent);
                }
                for (const Vec3& p : r.points)
                    for (int k = 0; k < 3; ++k) add({{p - 0.6 * size * Vec3::Unit(k), p + 0.6 * size * Vec3::Unit(k)}}, t.accent);
            }
        for (const Vec3& p : m_model.picks().points())
            for (int k = 0; k < 3; ++k) add({{p - size * Vec3::Unit(k), p + size * Vec3::Unit(k)}}, t.ochre);
        m_drawn = std::make_shared<Renderer::Lines>(segments);
        segments.clear();
        if (const auto& f = m_model.flank().answer()) {
            const double most = std::max(f->deviation, 1e-6);
            for (std::size_t i = 1; i < f->map.size(); ++i) {
                if (i % f->perLine == 0) continue;
                const double share = std::clamp(std::abs(f->map[i].deviation) / most, 0.0, 1.0) * (f->deviation > 1e-4 ? 1.0 : 0.0);
                // From what cuts well to what does not.
                const QColor &a = t.accent, &b = t.unsafe;
                const QColor c(static_cast<int>(a.red() + share * (b.red() - a.red())), static_cast<int>(a.green() + share * (b.green() - a.green())),
                               static_cast<int>(a.blue() + share * (b.blue() - a.blue())));
                for (const auto& s : Renderer::segmentsOf({{f->map[i - 1].point, f->map[i].point}}, c)) segments.push_back(s);
            }
        }
        m_flank = std::make_shared<Renderer::Lines>(segments);
    }
    if (m_model.shown("mends") != Shown::Hidden && (settingUp || m_model.picks().mode() != PickMode::None)) m_picture.draw(m_drawn, part, 2.2f, 1.0f, 0, -1, 0.0002f);
    if (settingUp) m_picture.draw(m_flank, part, 3.4f, 1.0f, 0, -1, 0.0003f);
    m_featuresOld = false; // drawFeatures() has had its turn, or is not due
}

// Holes as arrows the way the tool comes in, planes as squares with their normal and the start of X. Made anew when something has
// changed or the picture's scale has, since arrows are as large as they look.
void View::drawFeatures(const QMatrix4x4& part) {
    const auto place = m_model.place();
    if (!place || !m_model.hasJob()) return;
    const double pixel = m_camera.pixelSize();
    if (m_featuresOld || !m_features || std::abs(pixel - m_featurePixel) > 0.1 * m_featurePixel) {
        m_featurePixel = pixel;
        std::vector<Renderer::Segment> segments;
        const auto add = [&](const std::vector<Polyline>& lines, const QColor& colour) {
            for (const auto& s : Renderer::segmentsOf(lines, colour)) segments.push_back(s);
        };
        const auto holes = m_model.holes().all();
        const auto groups = m_model.holes().groups();
        // In Cut only the holes that the operation works on.
        const Recipe* only = m_model.bench() == Bench::SetUp ? nullptr : m_model.recipe();
        const auto meant = [&](std::size_t hole) {
            return !only || std::any_of(only->holes.begin(), only->holes.end(), [&](const HoleRef& r) { return (r.mouth - place->holes[hole].mouth).norm() < 0.05; });
        };
        for (std::size_t g = 0; g < groups.size(); ++g)
            for (const std::size_t i : groups[g].holes) {
                const Hole& h = holes[i];
                if (m_model.holes().leftOut(i) || !meant(i)) continue;
                const bool lit = only || m_model.holes().litGroup() == static_cast<int>(g);
                const double size = std::max(0.6 * h.diameter(), 14.0 * pixel);
                const Vec3 tip = h.mouth + 0.15 * size * h.direction, tail = tip + (lit ? 2.2 : 1.4) * size * h.direction, side = anyPerpendicular(h.direction);
                const QColor colour = lit ? theme().ochre : theme().slate;
                add({{tail, tip}, {tip + 0.45 * size * h.direction + 0.22 * size * side, tip, tip + 0.45 * size * h.direction - 0.22 * size * side}}, colour);
                if (!lit) continue;
                Polyline rim;
                const Vec3 y = h.direction.cross(side);
                for (int k = 0; k <= 24; ++k) rim.push_back(h.mouth + 0.5 * h.diameter() * (std::cos(k * kPi / 12) * side + std::sin(k * kPi / 12) * y));
                add({rim}, colour);
            }
        const double half = 0.12 * (place->part ? place->part->tree().bounds().diagonal() : 100.0);
        std::optional<Kinematics> machine; // it carries a copy of the machine
        if (!m_model.job().planes.empty()) machine.emplace(*place->machine, place->partFrame, 150.0);
        for (const WorkPlane& p : only ? std::vector<WorkPlane>{} : m_model.job().planes) {
            const bool reached = reachOf(*machine, p.normal).reached();
            const Vec3 y = p.normal.cross(p.x);
            const auto at = [&](double u, double v) { return Vec3(p.origin + half * (u * p.x + v * y)); };
            add({{at(-1, -1), at(1, -1), at(1, 1), at(-1, 1), at(-1, -1)}, {p.origin, p.origin + half * p.normal}, {p.origin, at(0.5, 0)}},
                reached ? theme().accent : theme().unsafe);
        }
        // Where programs count from.
        const Vec3 zero = m_model.job().zero;
        for (int k = 0; k < 3 && !only; ++k) add({{zero, zero + 0.5 * half * Vec3::Unit(k)}}, theme().ochre);
        m_features = std::make_shared<Renderer::Lines>(segments);
    }
    m_picture.draw(m_features, part, 2.0f, 1.0f, 0, -1, 0.0003f);
}

void View::drawPath(const QMatrix4x4& part) {
    // Rows under the pointer stand in place of those that are there.
    if (m_ahead && m_model.bench() == Bench::Cut) return m_picture.draw(m_ahead, part, 1.3f);
    const float alpha = m_model.stale() ? 0.35f : 1.0f;
    const Stage peel = m_model.bench() == Bench::Cut ? m_model.peel() : Stage::Links;
    // Sub-pixel lines vanish under multisampling, so nothing is thinner than a pixel.
    if (peel >= Stage::Pattern && m_rails && m_model.bench() == Bench::Cut) m_picture.draw(m_rails, part, 2.6f, alpha, 0, -1, 0.00008f);
    const CutLines *rows = atScale(m_rows), *cuts = peel >= Stage::Guard ? atScale(m_cuts) : nullptr;
    if (rows && !cuts && peel >= Stage::Pattern && !rows->lines) layRows(m_rows[static_cast<std::size_t>(rows - m_rows.data())]);
    if (cuts && !cuts->lines) layCuts(m_cuts[static_cast<std::size_t>(cuts - m_cuts.data())]);
    if ((peel == Stage::Pattern || peel == Stage::Axis) && rows) m_picture.draw(rows->lines, part, 1.1f, alpha);
    if ((peel == Stage::Pattern || peel == Stage::Axis) && m_off) m_picture.draw(m_off, part, 2.6f, alpha, 0, -1, 0.0002f);
    if (peel == Stage::Axis && m_axes) m_picture.draw(m_axes, part, 1.0f, 0.8f * alpha);
    if (cuts) {
        const auto done = static_cast<int>(std::upper_bound(cuts->last.begin(), cuts->last.end(), m_model.location()) - cuts->last.begin());
        m_picture.draw(cuts->lines, part, 1.2f, alpha, 0, done);
        m_picture.draw(cuts->lines, part, 1.1f, (done > 0 ? 0.55f : 1.0f) * alpha, done);
    } else if (peel >= Stage::Guard && rows) {
        m_picture.draw(rows->lines, part, 1.1f, alpha);
    }
}

} // namespace gyre
