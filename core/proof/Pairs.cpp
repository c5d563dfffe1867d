#include "proof/Pairs.h"
#include "base/Index.h"
#include "guard/Obstacle.h"
#include "operation/OperationResult.h"
#include "operation/StockOnTheWay.h"
#include "operation/Workplace.h"
#include "tool/Assembly.h"
#include <algorithm>
#include <set>

namespace gyre {

Box Mover::bounds(const Frame& pose) const {
    Box box;
    for (ConvexBody piece : pieces) {
        piece.frame = pose * piece.frame;
        box.add(piece.bounds());
    }
    if (tree) {
        const Vec3 c = tree->bounds().centre(), h = tree->bounds().half();
        for (int k = 0; k < 8; ++k) box.add(Vec3(pose * meshFrame * Vec3(c + Vec3((k & 1) ? h.x() : -h.x(), (k & 2) ? h.y() : -h.y(), (k & 4) ? h.z() : -h.z()))));
    }
    return box;
}

void Mover::enclose() {
    const Box box = bounds(Frame::Identity());
    centre = box.centre();
    radius = box.half().norm();
}

namespace {

ConvexBody moved(const ConvexBody& b, const Frame& f) {
    ConvexBody m = b;
    m.frame = f * b.frame;
    return m;
}

/// Boxes around a body: along the mesh's axes and along the body's own.
std::vector<AskewBox> boxesAround(const ConvexBody& body) {
    std::vector<AskewBox> boxes{{Eigen::Matrix3d::Identity(), Vec3::Zero(), Vec3::Zero()}, {body.frame.linear(), Vec3::Zero(), Vec3::Zero()}};
    for (AskewBox& box : boxes)
        for (int k = 0; k < 3; ++k) {
            const Vec3 d = box.axes.col(k);
            box.low[k] = d.dot(body.support(-d)) - body.round();
            box.high[k] = d.dot(body.support(d)) + body.round();
        }
    return boxes;
}

/// Is anything of the mesh nearer than `reach` to the body?
bool near(const MeshTree& mesh, const ConvexBody& body, double reach) {
    if (body.kind == ConvexBody::Kind::Frustum) return mesh.anyWithin({body.frame.translation(), body.frame.linear().col(2)}, &body.frustum, &reach, 1);
    bool hit = false;
    mesh.forEachNear(boxesAround(body), reach, [&](const auto& t, std::uint32_t) { return !(hit = convexWithin(body, t, reach)); });
    return hit;
}

/// Does a piece of the body lie within the solid one? What comes in has come near its skin before.
bool liesIn(const Mover& body, const Frame& bodyToSolid, const Mover& solid) {
    const Frame toMesh = solid.meshFrame.inverse() * bodyToSolid;
    const auto inside = [&](const Vec3& p) { return insideBody(*solid.solid, *solid.tree, toMesh * p, Vec3::UnitZ()); };
    if (std::any_of(body.pieces.begin(), body.pieces.end(), [&](const ConvexBody& piece) { return inside(piece.middle()); })) return true;
    return body.tree && inside(body.meshFrame * body.tree->closest(body.tree->bounds().centre()).point);
}

} // namespace

bool near(const Mover& a, const Frame& poseA, const Mover& b, const Frame& poseB, double reach) {
    const double apart = (poseA * a.centre - poseB * b.centre).norm() - a.radius - b.radius;
    if (apart > reach + a.allowance + b.allowance) return false;
    const Frame aToB = poseB.inverse() * poseA;
    for (const auto& pa : a.pieces) {
        const ConvexBody inB = moved(pa, aToB);
        for (const auto& pb : b.pieces)
            if (convexWithin(inB, pb, reach)) return true;
    }
    const auto meshAgainstPieces = [&](const Mover& mesh, const Mover& body, const Frame& bodyToMeshLink) {
        const Frame toMesh = mesh.meshFrame.inverse() * bodyToMeshLink;
        for (const auto& piece : body.pieces)
            if (near(*mesh.tree, moved(piece, toMesh), reach + mesh.allowance)) return true;
        return false;
    };
    if (a.tree && meshAgainstPieces(a, b, aToB.inverse())) return true;
    if (b.tree && meshAgainstPieces(b, a, aToB)) return true;
    if (b.solid && liesIn(a, aToB, b)) return true;
    if (!a.tree || !b.tree) return false;
    return a.tree->anyWithin(*b.tree, b.meshFrame.inverse() * aToB * a.meshFrame, reach + a.allowance + b.allowance);
}

bool near(const Mover& a, const Frame& pose, const ConvexBody& body, double reach) {
    const ConvexBody own = moved(body, pose.inverse());
    for (const auto& piece : a.pieces)
        if (convexWithin(piece, own, reach + a.allowance)) return true;
    return a.tree && near(*a.tree, moved(own, a.meshFrame.inverse()), reach + a.allowance);
}

std::vector<Mover> moversOf(const Workplace& place, const Assembly& tool) {
    std::vector<Mover> movers;
    const Machine& m = *place.machine;
    for (const MachineBody& b : m.bodies) {
        Mover v;
        v.name = v.called = b.name;
        v.link = b.joint;
        v.pieces = b.pieces;
        v.tree = b.tree.get();
        movers.push_back(std::move(v));
    }
    for (const Obstacle& o : *place.scene) {
        if (o.kind == ObstacleKind::Machine) continue; // already there as the machine's own body
        Mover v;
        v.name = o.name;
        v.called = o.called();
        v.link = m.workJoint;
        v.work = true;
        v.tree = &o.tree;
        v.meshFrame = m.workFrame * place.partFrame;
        v.allowance = o.allowance;
        movers.push_back(std::move(v));
    }
    const Frame tip = m.noseFrame * Eigen::Translation3d(0.0, 0.0, -tool.gaugeLength());
    for (const Zone zone : {Zone::Cutter, Zone::Shank, Zone::Holder}) {
        Mover v;
        v.name = v.called = zoneName(zone);
        v.link = m.toolJoint;
        v.tool = true;
        v.cutter = zone == Zone::Cutter;
        for (const Piece& p : piecesOf(tool))
            if (p.zone == zone) v.pieces.push_back(moved(ConvexBody::turned(p.shape), tip));
        if (!v.pieces.empty()) movers.push_back(std::move(v));
    }
    for (Mover& v : movers) v.enclose();
    return movers;
}

JointBoxes::JointBoxes(const JointMotion& m) : m_joints(m.joints), m_steps(m.size()) {
    while (m_leaves < m_steps) m_leaves *= 2;
    m_low.assign(2 * m_leaves * m_joints, 1e300);
    m_high.assign(2 * m_leaves * m_joints, -1e300);
    const auto low = [&](std::size_t n) { return m_low.data() + n * m_joints; };
    const auto high = [&](std::size_t n) { return m_high.data() + n * m_joints; };
    // A leaf is the way from one step to the next.
    for (std::size_t i = 0; i + 1 < m_steps; ++i)
        for (std::size_t j = 0; j < m_joints; ++j) {
            low(m_leaves + i)[j] = std::min(m.at(i)[j], m.at(i + 1)[j]);
            high(m_leaves + i)[j] = std::max(m.at(i)[j], m.at(i + 1)[j]);
        }
    for (std::size_t n = m_leaves; n-- > 1;)
        for (std::size_t j = 0; j < m_joints; ++j) {
            low(n)[j] = std::min(low(2 * n)[j], low(2 * n + 1)[j]);
            high(n)[j] = std::max(high(2 * n)[j], high(2 * n + 1)[j]);
        }
}

std::vector<char> JointBoxes::anyOf(const std::function<bool(std::size_t)>& is) const {
    std::vector<char> any(2 * m_leaves, 0);
    for (std::size_t i = 0; i + 1 < m_steps; ++i) any[m_leaves + i] = is(i) ? 1 : 0;
    for (std::size_t n = m_leaves; n-- > 1;) any[n] = any[2 * n] | any[2 * n + 1];
    return any;
}

PairCheck::PairCheck(const Machine& machine, const JointMotion& motion, const JointBoxes& boxes, const Mover& a, const Mover& b, const Wanted& wanted)
    : m_machine(machine), m_motion(motion), m_boxes(boxes), m_a(a), m_b(b), m_wanted(wanted) {
    // Only the joints between the two links change how the bodies stand to each other.
    const auto up = [&](int link) {
        std::vector<int> list;
        for (; link >= 0; link = machine.joints[index(link)].parent) list.push_back(link);
        return list;
    };
    const auto ua = up(a.link), ub = up(b.link);
    const std::set<int> sa(ua.begin(), ua.end()), sb(ub.begin(), ub.end());
    for (int j : ua)
        if (!sb.count(j)) m_between.push_back(j);
    for (int j : ub)
        if (!sa.count(j)) m_between.push_back(j);
}

void PairCheck::run(const Progress* progress) {
    m_progress = progress;
    if (m_motion.size() > 1) node(1);
}

// May the bodies be near anywhere in the box of joint values around `middle`?
bool PairCheck::suspicious(const JointValues& middle, const double* half, double& motion) {
    ++m_questions;
    const Frame fa = linkMotion(m_machine, m_a.link, middle), fb = linkMotion(m_machine, m_b.link, middle);
    double linear = 0.0, turn = 0.0, arcA = 0.0, arcB = 0.0;
    for (int j : m_between) {
        const Joint& joint = m_machine.joints[index(j)];
        const double h = half[index(j)];
        if (joint.kind == JointKind::Linear) {
            linear += h;
            continue;
        }
        const Frame carrier = linkMotion(m_machine, joint.parent, middle);
        const Vec3 p = carrier * joint.point, d = carrier.linear() * joint.direction;
        turn += h;
        arcA += h * (rejected(fa * m_a.centre - p, d).norm() + m_a.radius);
        arcB += h * (rejected(fb * m_b.centre - p, d).norm() + m_b.radius);
    }
    // Seen from either body the other moves; both bounds hold. The division takes care of arms that grow on the way.
    motion = turn < 0.9 ? (linear + std::min(arcA, arcB)) / (1.0 - turn) : 1e300;
    if (motion > 1e299) return true;
    return near(m_a, fa, m_b, fb, m_wanted.margin + motion);
}

void PairCheck::node(std::size_t n) {
    if (m_places.size() > m_wanted.most || (m_progress && m_progress->cancelled())) return;
    const double *low = m_boxes.low(n), *high = m_boxes.high(n);
    if (low[0] > high[0]) return; // beyond the end
    if (m_wanted.only && !(*m_wanted.only)[n]) return;
    JointValues middle(m_motion.joints), half(m_motion.joints);
    for (std::size_t j = 0; j < middle.size(); ++j) {
        middle[j] = 0.5 * (low[j] + high[j]);
        half[j] = 0.5 * (high[j] - low[j]);
    }
    double motion = 0.0;
    if (!suspicious(middle, half.data(), motion)) return;
    if (n < m_boxes.leaves()) {
        node(2 * n);
        node(2 * n + 1);
        return;
    }
    const std::size_t step = n - m_boxes.leaves();
    stretch(step, m_motion.jointsAt(step), m_motion.jointsAt(step + 1), 0);
}

bool PairCheck::stretch(std::size_t step, const JointValues& from, const JointValues& to, int depth) {
    JointValues middle(from.size()), half(from.size());
    for (std::size_t j = 0; j < middle.size(); ++j) {
        middle[j] = 0.5 * (from[j] + to[j]);
        half[j] = 0.5 * std::abs(to[j] - from[j]);
    }
    double motion = 0.0;
    if (!suspicious(middle, half.data(), motion)) return false;
    if (motion <= m_wanted.resolution || depth > 40) {
        m_places.push_back({step + 1, middle, motion});
        return true;
    }
    const bool before = stretch(step, from, middle, depth + 1);
    if (before && !m_wanted.everyPlace) return true;
    return stretch(step, middle, to, depth + 1) || before;
}

} // namespace gyre
