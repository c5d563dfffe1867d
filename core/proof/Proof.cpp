#include "proof/Proof.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "guard/Obstacle.h"
#include "link/Link.h"
#include "motion/SafeEnds.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "path/Pass.h"
#include "tool/Assembly.h"
#include <fmt/format.h>
#include <optional>
#include <set>

namespace gyre {
namespace {

/// A body that moves as one, in the coordinates of its link at joints 0.
struct Mover {
    std::string name;
    int link = -1;
    std::vector<ConvexBody> pieces;
    const MeshTree* tree = nullptr; ///< in `meshFrame`
    Frame meshFrame = Frame::Identity();
    double allowance = 0.0;
    Vec3 centre = Vec3::Zero();
    double radius = 0.0;
    bool tool = false, work = false, cutter = false;

    void enclose() {
        Box box;
        for (const auto& p : pieces) box.add(p.bounds());
        if (tree) {
            const Vec3 c = tree->bounds().centre(), h = tree->bounds().half();
            for (int k = 0; k < 8; ++k) box.add(meshFrame * Vec3(c + Vec3((k & 1) ? h.x() : -h.x(), (k & 2) ? h.y() : -h.y(), (k & 4) ? h.z() : -h.z())));
        }
        centre = box.centre();
        radius = box.half().norm();
    }
};

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

/// Is anything of `a` (at poseA) nearer than `reach` to `b` (at poseB)?
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
    if (!a.tree || !b.tree) return false;
    return a.tree->anyWithin(*b.tree, b.meshFrame.inverse() * aToB * a.meshFrame, reach + a.allowance + b.allowance);
}

/// Least and greatest joint values of stretches of the motion, halved down to single steps.
class JointBoxes {
public:
    JointBoxes(const JointMotion& m, const Toolpath& path) : m_joints(m.joints), m_steps(m.size()) {
        std::size_t leaves = 1;
        while (leaves < m_steps) leaves *= 2;
        m_leaves = leaves;
        m_low.assign(2 * leaves * m_joints, 1e300);
        m_high.assign(2 * leaves * m_joints, -1e300);
        m_rapid.assign(2 * leaves, 0);
        for (std::size_t i = 0; i + 1 < m_steps; ++i) m_rapid[leaves + i] = path.motion[m.location[i + 1]] == Motion::Rapid;
        for (std::size_t n = leaves; n-- > 1;) m_rapid[n] = m_rapid[2 * n] || m_rapid[2 * n + 1];
        // A leaf is the way from one step to the next.
        for (std::size_t i = 0; i + 1 < m_steps; ++i)
            for (std::size_t j = 0; j < m_joints; ++j) {
                low(leaves + i)[j] = std::min(m.at(i)[j], m.at(i + 1)[j]);
                high(leaves + i)[j] = std::max(m.at(i)[j], m.at(i + 1)[j]);
            }
        for (std::size_t n = leaves; n-- > 1;)
            for (std::size_t j = 0; j < m_joints; ++j) {
                low(n)[j] = std::min(low(2 * n)[j], low(2 * n + 1)[j]);
                high(n)[j] = std::max(high(2 * n)[j], high(2 * n + 1)[j]);
            }
    }
    double* low(std::size_t n) { return m_low.data() + n * m_joints; }
    double* high(std::size_t n) { return m_high.data() + n * m_joints; }
    [[nodiscard]] const double* low(std::size_t n) const { return m_low.data() + n * m_joints; }
    [[nodiscard]] const double* high(std::size_t n) const { return m_high.data() + n * m_joints; }
    [[nodiscard]] std::size_t leaves() const { return m_leaves; }
    [[nodiscard]] bool anyRapid(std::size_t n) const { return m_rapid[n] != 0; }

private:
    std::vector<char> m_rapid;
    std::size_t m_joints, m_steps, m_leaves = 1;
    std::vector<double> m_low, m_high;
};

double marginOf(const ProofSpec& spec, const Mover& a, const Mover& b) {
    if (!a.tool || a.cutter || !b.work) return spec.margin;
    return a.name == "holder" ? spec.holder : spec.shank;
}

class PairCheck {
public:
    PairCheck(const Machine& machine, const JointMotion& motion, const Toolpath& path, const JointBoxes& boxes, const ProofSpec& spec, const Mover& a, const Mover& b)
        : m_machine(machine), m_motion(motion), m_path(path), m_boxes(boxes), m_spec(spec), m_a(a), m_b(b), m_margin(marginOf(spec, a, b)) {
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

    [[nodiscard]] bool fixedTogether() const { return m_between.empty(); }
    void run(const Progress* progress) {
        m_progress = progress;
        if (m_motion.size() > 1) node(1);
    }
    [[nodiscard]] const std::vector<std::size_t>& steps() const { return m_hits; }
    [[nodiscard]] std::size_t questions() const { return m_questions; }

private:
    // May the bodies be near anywhere in the box of joint values around `middle`?
    bool suspicious(const JointValues& middle, const double* half, double& motion) {
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
        return near(m_a, fa, m_b, fb, m_margin + motion);
    }

    void node(std::size_t n) {
        if (m_hits.size() > 400 || (m_progress && m_progress->cancelled())) return;
        const double *low = m_boxes.low(n), *high = m_boxes.high(n);
        if (low[0] > high[0]) return;                               // beyond the end
        if (m_a.cutter && m_b.work && !m_boxes.anyRapid(n)) return; // cutting is its job
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

    bool stretch(std::size_t step, const JointValues& from, const JointValues& to, int depth) {
        JointValues middle(from.size()), half(from.size());
        for (std::size_t j = 0; j < middle.size(); ++j) {
            middle[j] = 0.5 * (from[j] + to[j]);
            half[j] = 0.5 * std::abs(to[j] - from[j]);
        }
        double motion = 0.0;
        if (!suspicious(middle, half.data(), motion)) return false;
        if (motion <= m_spec.resolution || depth > 40) {
            m_hits.push_back(step + 1);
            return true;
        }
        return stretch(step, from, middle, depth + 1) || stretch(step, middle, to, depth + 1);
    }

    const Machine& m_machine;
    const JointMotion& m_motion;
    const Toolpath& m_path;
    const JointBoxes& m_boxes;
    const ProofSpec& m_spec;
    const Mover &m_a, &m_b;
    const double m_margin;
    const Progress* m_progress = nullptr;
    std::vector<int> m_between;
    std::vector<std::size_t> m_hits;
    std::size_t m_questions = 0;
};

std::vector<Mover> moversOf(const Workplace& place, const Assembly& tool) {
    std::vector<Mover> movers;
    const Machine& m = *place.machine;
    for (const MachineBody& b : m.bodies) {
        Mover v;
        v.name = b.name;
        v.link = b.joint;
        v.pieces = b.pieces;
        v.tree = b.tree.get();
        movers.push_back(std::move(v));
    }
    for (const Obstacle& o : *place.scene) {
        if (o.kind == ObstacleKind::Machine) continue; // already there as the machine's own body
        Mover v;
        v.name = o.name;
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
        v.name = zoneName(zone);
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

} // namespace

ProofSpec ProofSpec::under(const GuardSpec& guard) {
    ProofSpec spec;
    spec.shank = std::min(spec.margin, guard.shankClearance);
    spec.holder = std::min(spec.margin, guard.holderClearance);
    return spec;
}

namespace {
std::optional<double> changesAt(const Machine& machine, std::size_t joint) { return joint < machine.changeAt.size() ? machine.changeAt[joint] : std::nullopt; }
} // namespace

double turnOf(const Joint& joint, double from, double to) { return joint.shortest || endless(joint) ? std::remainder(to - from, 2.0 * kPi) : to - from; }

Standing standingAfter(const Machine& machine, const OperationResult* before) {
    const bool known = before && before->motion && before->motion->size() > 0;
    Standing s{known ? safeEnds(machine, *before->motion).aboveExit : JointValues(machine.joints.size(), 0.0), true};
    for (std::size_t j = 0; j < machine.joints.size(); ++j) {
        if (machine.joints[j].kind != JointKind::Linear) continue;
        if (const auto at = changesAt(machine, j))
            s.joints[j] = *at;
        else if (!known && machine.joints[j].name != "Z")
            s.slides = false;
    }
    return s;
}

namespace {

/// Steps put before the first and after the last of a motion, all of the first or last location.
struct Around {
    std::vector<JointValues> before, after;
};

/// Where the tool comes from: the rotaries turn at the top of Z, then the slides go across; then down to the first location, at the end up again.
Around around(const Machine& machine, const SafeEnds& ends, const Standing& start) {
    Around a{{ends.above}, {ends.aboveExit}};
    // To where the tool is changed: across at the top of Z, then with Z.
    for (const bool withZ : {false, true}) {
        JointValues change = a.after.back();
        for (std::size_t j = 0; j < change.size(); ++j)
            if ((machine.joints[j].name == "Z") == withZ) change[j] = changesAt(machine, j).value_or(change[j]);
        if (change != a.after.back()) a.after.push_back(std::move(change));
    }
    if (start.joints.empty()) return a;
    JointValues from = ends.above;
    for (std::size_t j = 0; j < from.size(); ++j) {
        const Joint& joint = machine.joints[j];
        if (joint.kind == JointKind::Rotary)
            from[j] = ends.above[j] - turnOf(joint, start.joints[j], ends.above[j]);
        else if (start.slides && joint.name != "Z")
            from[j] = start.joints[j];
    }
    JointValues turned = ends.above;
    for (std::size_t j = 0; j < from.size(); ++j)
        if (machine.joints[j].kind != JointKind::Rotary) turned[j] = from[j];
    a.before = {from, turned, ends.above};
    return a;
}

} // namespace

namespace {

/// Steps of the motion where two bodies meet, and how many are the way to and from the operation's own.
struct MeetingSteps {
    std::size_t first, last, before, after;
};

Finding meeting(const OperationResult& operation, const ProofSpec& spec, const Mover& a, const Mover& b, const JointMotion& motion, const MeetingSteps& where) {
    const Toolpath& path = operation.links->path;
    const std::size_t first = motion.location[where.first], last = motion.location[where.last];
    Finding f;
    f.rank = Rank::Stop;
    f.check = a.tool && !a.cutter && b.work ? (a.name == "holder" ? Check::Holder : Check::Shank) : a.cutter && b.work ? Check::Gouge : Check::Machine;
    f.code = "bodies-meet";
    f.stage = "Proof";
    f.operation = operation.operation;
    f.row = path.row[first];
    f.span = {first, last};
    f.place = {path.tip[first].x(), path.tip[first].y(), path.tip[first].z()};
    f.amount = marginOf(spec, a, b);
    f.text = fmt::format("{} and {} meet, from {}", a.name, b.name, passName(operation.links->originOf(f.row), f.row));
    if (where.first < where.before)
        f.text = fmt::format("{} and {} meet while the rotary axes turn at the top of Z before it begins", a.name, b.name);
    else if (where.first + where.after > motion.size())
        f.text = fmt::format("{} and {} meet on the way to where the tool is changed", a.name, b.name);
    else if (where.first == where.before || where.first + where.after == motion.size())
        f.text = fmt::format("{} and {} meet on the way from or to the top of Z", a.name, b.name);
    f.reason = fmt::format("they come nearer than {:g} mm in the machine's own motion", f.amount);
    return f;
}

} // namespace

Result<ProofResult> prove(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, Progress& progress, const Standing& start) {
    ProofResult out;
    out.operation = operation.operation;
    out.key = operation.key;
    out.start = start;
    if (!operation.complete()) return out;
    const Machine& machine = *place.machine;
    const Toolpath& path = operation.links->path;
    // The program comes down from the top of Z and goes back there: more steps around the operation's own.
    JointMotion motion = *operation.motion;
    const Around more = around(machine, safeEnds(machine, motion), start);
    for (auto it = more.before.rbegin(); it != more.before.rend(); ++it) motion.values.insert(motion.values.begin(), it->begin(), it->end());
    for (const JointValues& q : more.after) motion.values.insert(motion.values.end(), q.begin(), q.end());
    motion.location.insert(motion.location.begin(), more.before.size(), 0u);
    motion.location.insert(motion.location.end(), more.after.size(), static_cast<std::uint32_t>(path.size() - 1));
    const JointBoxes boxes(motion, path);
    const std::vector<Mover> movers = moversOf(place, operation.tool);
    const auto touching = [&](const Mover& a, const Mover& b) {
        for (const auto& [x, y] : machine.touching)
            if ((a.name == x && b.name == y) || (a.name == y && b.name == x)) return true;
        return false;
    };
    std::vector<PairCheck> checks;
    std::vector<std::pair<const Mover*, const Mover*>> names;
    for (std::size_t i = 0; i < movers.size(); ++i)
        for (std::size_t j = i + 1; j < movers.size(); ++j) {
            // The tool comes last, so it is always the second; the check wants it first.
            const Mover &a = movers[j], &b = movers[i];
            if (touching(a, b)) continue;
            if (a.work && b.work) continue;
            if (a.work && b.link == machine.workJoint) continue;
            PairCheck check(machine, motion, path, boxes, spec, a, b);
            if (check.fixedTogether()) continue;
            checks.push_back(std::move(check));
            names.emplace_back(&a, &b);
        }
    out.pairs = checks.size();
    if (!parallelFor(
            checks.size(), 1, [&](std::size_t i) { checks[i].run(&progress); }, &progress) ||
        progress.cancelled())
        return cancelledError();
    progress.report(1.0, "Proved");
    for (std::size_t i = 0; i < checks.size(); ++i) {
        out.questions += checks[i].questions();
        const auto& steps = checks[i].steps();
        if (steps.empty()) continue;
        out.findings.push_back(meeting(operation, spec, *names[i].first, *names[i].second, motion, {steps.front(), steps.back(), more.before.size(), more.after.size()}));
    }
    return out;
}

Marks marksOf(const OperationResult* result, const ProofResult* proof) {
    Marks marks;
    marks.fill(Mark::Unknown);
    if (!result) return marks;
    if (result->complete()) {
        for (int i = 0; i < 4; ++i) marks[index(i)] = Mark::Clear;
        if (proof) marks[4] = Mark::Clear;
    }
    const auto lower = [&](const Finding& f) {
        if (f.check == Check::Path) {
            if (f.rank != Rank::Stop) return;
            marks[0] = Mark::Stop; // nothing generated, or a way that is not safe
            return;
        }
        Mark& m = marks[static_cast<std::size_t>(f.check)];
        if (f.rank == Rank::Stop)
            m = Mark::Stop;
        else if (f.rank == Rank::Look && m != Mark::Stop)
            m = Mark::Look;
    };
    for (const Finding& f : result->findings) lower(f);
    if (proof)
        for (const Finding& f : proof->findings) lower(f);
    return marks;
}

} // namespace gyre
