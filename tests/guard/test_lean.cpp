// Leaning away: known answers, never unsafe, as little and as evenly as it goes.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "guard/Lean.h"
#include "guard/Sky.h"
#include "guided/CurveSpec.h"
#include "operation/Definition.h"
#include "operation/Free.h"
#include "tool/Contact.h"

namespace test_lean {

using namespace gyre;
using test::Random;

namespace {

Obstacle block(const char* name, ObstacleKind kind, const Vec3& low, const Vec3& high) { return {name, kind, MeshTree(skinOf(ConvexBody::box(low, high))), {}, 0.0}; }

/// A ball of radius 3 in a thin shank, with one holder step.
Assembly tool(double stickOut, double holder) {
    Assembly a = test::ballTool(6, stickOut);
    a.cutter.shankDiameter = 4.0;
    a.holder = {{holder, holder, 80}};
    return a;
}

Freedom freeOn(const Cutter& cutter) {
    Freedom out;
    out.turned = [cutter](const Pass& pass, std::size_t i, const Vec3& axis) {
        return AxisPose{tipFromContact(cutter, pass.path.contact[i], pass.path.normal[i], axis).tip, axis};
    };
    return out;
}

/// A row along contacts on a floor or what is given, the axis along the normal.
Pass rowOf(const Cutter& cutter, const std::vector<Vec3>& contacts, const std::vector<Vec3>& normals, int number, bool closed = false) {
    Pass p;
    p.row = p.origin.row = number;
    p.closed = closed;
    const std::size_t n = contacts.size();
    for (std::size_t k = 0; k < n + (closed ? 1 : 0); ++k) {
        const std::size_t i = k % n, before = closed ? (i + n - 1) % n : i - (i > 0), after = closed ? (i + 1) % n : i + (i + 1 < n);
        p.path.push(tipFromContact(cutter, contacts[i], normals[i], normals[i]).tip, normals[i], contacts[i], normals[i], Motion::Cut, number, 0.0, 0);
        p.feedDirection.push_back(rejected(contacts[after] - contacts[before], normals[i]).normalized());
    }
    return p;
}
Pass straight(const Cutter& cutter, const Vec3& from, const Vec3& to, int number, int n = 80) {
    std::vector<Vec3> at;
    for (int i = 0; i <= n; ++i) at.push_back(from + (to - from) * i / n);
    return rowOf(cutter, at, std::vector<Vec3>(at.size(), Vec3::UnitZ()), number);
}

struct Answer {
    std::vector<Pass> passes;
    HitTable left;
    LeanResult told;
};
Answer lean(const Guard& guard, const Freedom& freedom, std::vector<Pass> passes) {
    Progress quiet;
    Answer a{std::move(passes), {}, {}};
    if (!findHits(guard, a.passes, a.left, &quiet) || !leanPasses(guard, freedom, a.passes, a.left, a.told, quiet)) qFatal("called off");
    return a;
}
GuardSpec leaning(double most = 45.0) {
    GuardSpec s;
    s.shankClearance = 0.5;
    s.holderClearance = 1.0;
    s.response = GuardResponse::Lean;
    s.leanLead = s.leanTilt = most;
    return s;
}

/// How far a holder (radius r from height l up, axis leaning by t away from a wall) stays from the wall: the half plane y ≥ d below h. The ball of 3 touches the
/// floor in the origin. In the plane square to the wall, by hand.
double wallToHolder(double t, double d, double h, double r, double l) {
    const double ball = 3.0, tipY = ball * std::sin(t), tipZ = ball * (1.0 - std::cos(t));
    // The rim that looks at the wall, and the wall's corner from the holder's own sight.
    const double rimY = tipY - l * std::sin(t) + r * std::cos(t), rimZ = tipZ + l * std::cos(t) + r * std::sin(t);
    const double up = -std::sin(t) * (d - tipY) + std::cos(t) * (h - tipZ), out = std::cos(t) * (d - tipY) + std::sin(t) * (h - tipZ);
    double corner = 1e9;
    if (up >= l)
        corner = out - r;
    else
        corner = std::hypot(std::max(0.0, out - r), l - up);
    const double rim = rimZ <= h ? d - rimY : std::hypot(std::max(0.0, d - rimY), rimZ - h);
    return std::min(corner, rim);
}

/// By plain trial: cells of leans at every location, each next to those that can be come from. A way to the row's end through what is free?
bool aWayThrough(const Guard& guard, const GuardSpec& spec, const Pass& p) {
    const double cell = 3.0;
    const bool both = spec.leanBy == LeanBy::LeadTilt;
    const int wide = both ? static_cast<int>(spec.leanLead / cell) : 0, high = static_cast<int>(spec.leanTilt / cell);
    const Freedom freedom = freeOn(guard.assembly().cutter);
    const auto index = [&](int u, int v) { return static_cast<std::size_t>((u + wide) * (2 * high + 1) + v + high); };
    std::vector<char> now, next;
    for (std::size_t i = 0; i < p.path.size(); ++i) {
        next.assign(static_cast<std::size_t>((2 * wide + 1) * (2 * high + 1)), 0);
        bool any = false;
        for (int u = -wide; u <= wide; ++u)
            for (int v = -high; v <= high; ++v) {
                bool come = i == 0;
                for (int a = std::max(-wide, u - 1); a <= std::min(wide, u + 1) && !come; ++a)
                    for (int b = std::max(-high, v - 1); b <= std::min(high, v + 1) && !come; ++b) come = now[index(a, b)] != 0;
                if (!come) continue;
                const Vec3 axis = both ? axisFromLeadTilt(Vec3::UnitZ(), p.feedDirection[i], radians(cell * u), radians(cell * v))
                                       : Vec3(rotation(Vec3::UnitX(), radians(cell * v)) * Vec3::UnitZ());
                if (guard.hit(freedom.turned(p, i, axis), Contact::Cutting, 0.05)) continue;
                next[index(u, v)] = 1;
                any = true;
            }
        if (!any) return false;
        now.swap(next);
    }
    return true;
}

} // namespace

class TestLean : public QObject {
    Q_OBJECT
private slots:
    // Beside a long wall the least tilt has a closed form; it is found to half a degree, and nothing is too near.
    void besideAWall() {
        Random random(701);
        int looked = 0;
        for (int round = 0; round < 40; ++round) {
            const double r = random.number(8, 16), l = random.number(20, 40), h = l + random.number(2, 20), d = random.number(4.5, r + 0.5);
            const double needed = [&] {
                double low = 0.0, high = radians(60);
                if (wallToHolder(high, d, h, r, l) < 1.0) return -1.0;
                for (int k = 0; k < 60; ++k) (wallToHolder(0.5 * (low + high), d, h, r, l) < 1.0 ? low : high) = 0.5 * (low + high);
                return high;
            }();
            if (needed < radians(2) || needed > radians(44)) continue;
            ++looked;
            const Assembly t = tool(l, 2 * r);
            const Scene scene{block("wall", ObstacleKind::Fixture, Vec3(-200, d, -20), Vec3(200, d + 60, h))};
            const Guard guard(t, scene, leaning(), 0.0);
            // The wall stands to the left of one row, to the right of the other.
            for (const bool back : {false, true}) {
                const Answer a = lean(guard, freeOn(t.cutter), {straight(t.cutter, Vec3(back ? 20 : -20, 0, 0), Vec3(back ? -20 : 20, 0, 0), 0)});
                QVERIFY(!anyHit(a.left));
                const Pass& p = a.passes.front();
                for (std::size_t i = 0; i < p.path.size(); ++i) {
                    const double by = angleBetween(p.path.axis[i], Vec3::UnitZ());
                    QVERIFY2(std::abs(by - needed) < radians(0.5), qPrintable(QString("%1 instead of %2").arg(degrees(by)).arg(degrees(needed))));
                    // The contact stays where it was.
                    QVERIFY((p.path.tip[i] + 3.0 * p.path.axis[i] - p.path.contact[i] - 3.0 * Vec3::UnitZ()).norm() < 1e-9);
                    QVERIFY(std::abs(p.path.contact[i].y()) < 1e-12);
                }
            }
        }
        QVERIFY(looked >= 10);
    }
    // Past a post: over and back, smoothly, both ends as wished; rows further off lean less, and rows that run back lean to the same side of the part.
    void pastAPost() {
        const Assembly t = tool(25, 24);
        const Scene scene{block("post", ObstacleKind::Fixture, Vec3(-4, 8, -20), Vec3(4, 16, 60))};
        const GuardSpec spec = leaning();
        const Guard guard(t, scene, spec, 0.0);
        std::vector<Pass> rows;
        for (int k = 0; k < 12; ++k) {
            const double y = 3.0 - 1.5 * k, x = k % 2 == 0 ? 90.0 : -90.0;
            rows.push_back(straight(t.cutter, Vec3(-x, y, 0), Vec3(x, y, 0), k, 60));
        }
        const Answer a = lean(guard, freeOn(t.cutter), rows);
        QVERIFY(!anyHit(a.left));
        QVERIFY(a.told.leaned > 50 && a.told.most > radians(3) && a.told.most < radians(40));
        double before = 1e300;
        std::vector<double> most;
        for (const Pass& p : a.passes) {
            const Toolpath& path = p.path;
            double here = 0.0, turned = 0.0, bent = 0.0;
            Vec3 at = Vec3::UnitZ();
            for (std::size_t i = 0; i < path.size(); ++i) {
                const double by = angleBetween(path.axis[i], Vec3::UnitZ());
                if (by > here) {
                    here = by;
                    at = path.axis[i];
                }
                if (i == 0) continue;
                const double d = (path.contact[i] - path.contact[i - 1]).norm(), rate = angleBetween(path.axis[i], path.axis[i - 1]) / d;
                turned += rate * d;
                QVERIFY2(degrees(rate) < 6.0, qPrintable(QString::number(degrees(rate))));
                if (i + 1 < path.size()) {
                    const Vec3 change = (path.axis[i + 1] - path.axis[i]) / (path.contact[i + 1] - path.contact[i]).norm() - (path.axis[i] - path.axis[i - 1]) / d;
                    bent = std::max(bent, change.norm());
                }
            }
            QVERIFY(angleBetween(path.axis.front(), Vec3::UnitZ()) < radians(1) && angleBetween(path.axis.back(), Vec3::UnitZ()) < radians(1));
            QVERIFY2(turned < 2.8 * here + radians(0.5), qPrintable(QString("%1 of %2").arg(degrees(turned)).arg(degrees(here)))); // over and back, and little more
            QVERIFY2(degrees(bent) < 1.5, qPrintable(QString::number(degrees(bent))));
            if (here > radians(2)) QVERIFY(at.y() < 0.0); // away from the post, whichever way the row runs
            QVERIFY2(here < before + radians(1), qPrintable(QString::number(degrees(here))));
            if (!most.empty()) QVERIFY2(std::abs(here - most.back()) < radians(9), qPrintable(QString("%1 after %2").arg(degrees(here)).arg(degrees(most.back()))));
            before = here;
            most.push_back(here);
        }
        QVERIFY(most.back() < 0.4 * most.front());
    }
    // Once around a post within a ring: the seam is no place of its own.
    void aroundAPost() {
        const Assembly t = tool(25, 24);
        const Scene scene{block("post", ObstacleKind::Fixture, Vec3(-4, -4, -20), Vec3(4, 4, 60))};
        const Guard guard(t, scene, leaning(), 0.0);
        std::vector<Vec3> at;
        for (int k = 0; k < 90; ++k) at.emplace_back(13 * std::cos(k * kPi / 45), 13 * std::sin(k * kPi / 45), 0.0);
        const Answer a = lean(guard, freeOn(t.cutter), {rowOf(t.cutter, at, std::vector<Vec3>(at.size(), Vec3::UnitZ()), 0, true)});
        QVERIFY(!anyHit(a.left));
        const Toolpath& path = a.passes.front().path;
        QCOMPARE((path.axis.front() - path.axis.back()).norm(), 0.0);
        QCOMPARE((path.tip.front() - path.tip.back()).norm(), 0.0);
        for (std::size_t i = 0; i + 1 < path.size(); ++i) {
            QVERIFY(path.axis[i].dot(path.contact[i]) > 0.0); // outward
            QVERIFY(angleBetween(path.axis[i], path.axis[i + 1]) < radians(9));
        }
    }
    // What cannot be is left and told, with what would be needed.
    void whereNothingServes() {
        const Assembly t = tool(20, 30);
        // Between two high walls, lower than the holder is wide: no lean across helps, and along there are walls as well.
        Scene shaft;
        for (const auto& [low, high] : {std::pair(Vec3(-60, 6, 0), Vec3(60, 20, 50)), std::pair(Vec3(-60, -20, 0), Vec3(60, -6, 50)),
                                        std::pair(Vec3(6, -20, 0), Vec3(20, 20, 50)), std::pair(Vec3(-20, -20, 0), Vec3(-6, 20, 50))})
            shaft.push_back(block("shaft", ObstacleKind::Fixture, low, high));
        const Guard guard(t, shaft, leaning(), 0.0);
        const Pass row = straight(t.cutter, Vec3(-1, 0, 0), Vec3(1, 0, 0), 0, 4);
        const Answer a = lean(guard, freeOn(t.cutter), {row});
        QVERIFY(anyHit(a.left));
        QVERIFY(!neededLean(guard, freeOn(t.cutter), row, 0));
        Progress quiet;
        const GuardResult r = guardPasses(guard, {row}, quiet, freeOn(t.cutter)).value();
        QVERIFY(!r.hazards.empty());
        QVERIFY(std::any_of(r.findings.begin(), r.findings.end(),
                            [](const Finding& f) { return f.rank == Rank::Stop && f.reason.find("no other direction is free") != std::string::npos; }));
    }
    // A wall that asks for more than is allowed: told with the angle, and with that much it serves.
    void theLimitThatIsTooNarrow() {
        const Assembly t = tool(30, 24);
        const Scene scene{block("wall", ObstacleKind::Fixture, Vec3(-200, 6, -20), Vec3(200, 60, 42))};
        GuardSpec spec = leaning(5.0);
        const Pass row = straight(t.cutter, Vec3(-20, 0, 0), Vec3(20, 0, 0), 0);
        Progress quiet;
        const auto told = [&] { return guardPasses(Guard(t, scene, spec, 0.0), {row}, quiet, freeOn(t.cutter)).value(); };
        const GuardResult first = told();
        const auto stop = std::find_if(first.findings.begin(), first.findings.end(), [](const Finding& f) { return f.code == "holder-near"; });
        QVERIFY(stop != first.findings.end());
        const auto wider = std::find_if(stop->remedies.begin(), stop->remedies.end(), [](const Remedy& m) { return m.key == "guard.leanTilt"; });
        QVERIFY2(wider != stop->remedies.end(), stop->reason.c_str());
        spec.leanTilt = QString::fromStdString(wider->value).toDouble();
        const GuardResult then = told();
        QVERIFY(then.hazards.empty());
        QVERIFY(then.leaned > 0);
        // Not asked to lean: offered.
        spec.response = GuardResponse::Report;
        const GuardResult only = told();
        QVERIFY(only.leaned == 0 && !only.hazards.empty());
        QVERIFY(std::any_of(only.findings.begin(), only.findings.end(), [](const Finding& f) {
            return std::any_of(f.remedies.begin(), f.remedies.end(), [](const Remedy& m) { return m.key == "guard.response" && m.value == "lean"; });
        }));
        // A kind whose axis is not free says so.
        const GuardResult stiff = guardPasses(Guard(t, scene, spec, 0.0), {row}, quiet).value();
        QVERIFY(std::any_of(stiff.findings.begin(), stiff.findings.end(), [](const Finding& f) { return f.reason.find("cannot lean") != std::string::npos; }));
    }
    // Lean, then lift, then leave out: each has what the one before has left.
    void oneAfterTheOther() {
        const Assembly t = tool(20, 30);
        Scene scene{block("low wall", ObstacleKind::Fixture, Vec3(-60, 12, -20), Vec3(0, 40, 30))};
        // At the other end the cutter has to pass under a roof: neither leaning nor a short lift helps.
        scene.push_back(block("roof", ObstacleKind::Fixture, Vec3(50, -30, 22), Vec3(90, 30, 40)));
        GuardSpec spec = leaning();
        spec.leanLead = 0.0;
        spec.otherwise = GuardResponse::Lift;
        spec.highestLift = 4.0;
        spec.atLast = GuardResponse::Drop;
        const Pass row = straight(t.cutter, Vec3(-50, 0, 0), Vec3(80, 0, 0), 0, 260);
        Progress quiet;
        const GuardResult r = guardPasses(Guard(t, scene, spec, 0.0), {row}, quiet, freeOn(t.cutter)).value();
        QVERIFY(r.hazards.empty());
        QVERIFY(r.leaned > 0 && r.dropped > 0);
        HitTable left;
        QVERIFY(findHits(Guard(t, scene, spec, 0.0), r.passes, left, &quiet) && !anyHit(left));
        double furthest = -1e9;
        for (const Pass& p : r.passes)
            for (const Vec3& at : p.path.contact) furthest = std::max(furthest, at.x());
        QVERIFY(furthest > 20.0 && furthest < 45.0); // up to where the holder would come under the roof
    }
    // Random pins around random rows: what is said to be free is free by plain distances, and contacts do not move.
    void randomScenes() {
        Random random(702);
        int hit = 0, freed = 0, could = 0, blocked = 0;
        for (int round = 0; round < 40; ++round) {
            const Assembly t = tool(random.number(18, 40), random.number(16, 36));
            Scene scene;
            const int pins = random.integer(1, 4);
            for (int k = 0; k < pins; ++k) {
                const Vec3 at(random.number(-30, 30), random.number(6, 25) * (random.integer(0, 1) == 0 ? 1 : -1), 0);
                const double w = random.number(1, 5);
                scene.push_back(block("pin", k % 2 == 0 ? ObstacleKind::Fixture : ObstacleKind::Part, at - Vec3(w, w, 10), at + Vec3(w, w, random.number(10, 70))));
            }
            GuardSpec spec = leaning(random.number(10, 60));
            if (round % 5 == 4) spec.leanBy = LeanBy::X;
            spec.leanOver = random.number(3, 20);
            const Guard guard(t, scene, spec, 0.0);
            std::vector<Pass> rows;
            for (int k = 0; k < 3; ++k) rows.push_back(straight(t.cutter, Vec3(k == 1 ? 40 : -40, 2.0 * k, 0), Vec3(k == 1 ? -40 : 40, 2.0 * k, 0), k, 50));
            HitTable before;
            Progress quiet;
            QVERIFY(findHits(guard, rows, before, &quiet));
            const Answer a = lean(guard, freeOn(t.cutter), rows);
            hit += anyHit(before);
            freed += anyHit(before) && !anyHit(a.left);
            const bool way = std::all_of(rows.begin(), rows.end(), [&](const Pass& p) { return aWayThrough(guard, spec, p); });
            could += way && anyHit(before);
            if (!way && spec.leanBy == LeanBy::LeadTilt) blocked += anyHit(a.left);
            if (!anyHit(before)) QCOMPARE(a.told.leaned, std::size_t(0)); // where nothing is in the way the wish holds
            for (std::size_t p = 0; p < rows.size(); ++p) {
                const Toolpath& path = a.passes[p].path;
                for (std::size_t i = 0; i < path.size(); ++i) {
                    QVERIFY(std::abs(path.contact[i].y() - 2.0 * static_cast<double>(p)) < 1e-12 && std::abs(path.contact[i].z()) < 1e-12);
                    QVERIFY((path.tip[i] + 3.0 * path.axis[i] - path.contact[i] - 3.0 * Vec3::UnitZ()).norm() < 1e-9);
                    const LeadTilt by = leadTiltOf(path.axis[i], Vec3::UnitZ(), a.passes[p].feedDirection[i]);
                    QVERIFY(std::abs(by.tilt) < radians(spec.leanTilt) + 1e-6 && std::abs(by.lead) < radians(spec.leanLead) + 1e-6);
                    if (spec.leanBy == LeanBy::X) QVERIFY(std::abs(path.axis[i].x()) < 1e-9);
                    if (!a.left[p][i].empty() || (i + 1 < path.size() && !a.left[p][i + 1].empty())) continue;
                    const AxisPose pose{path.tip[i], path.axis[i]};
                    for (std::size_t o = 0; o < scene.size(); ++o) {
                        QVERIFY(guard.clearanceOf(Zone::Shank, o, pose, 5.0) > 0.5 - 1e-6);
                        QVERIFY(guard.clearanceOf(Zone::Holder, o, pose, 5.0) > 1.0 - 1e-6);
                    }
                }
            }
        }
        QVERIFY(hit > 15);
        QVERIFY2(freed + could / 8 >= could && could > 3, qPrintable(QString("%1 of %2 that could be, of %3").arg(freed).arg(could).arg(hit)));
        QVERIFY(blocked > 3); // and where it is not, mostly none was
    }
    // The largest turn of the axis rule holds for leaning too.
    void noFasterThanAsked() {
        const Assembly t = tool(25, 24);
        const Scene scene{block("post", ObstacleKind::Fixture, Vec3(-4, 8, -20), Vec3(4, 16, 60))};
        GuardSpec spec = leaning();
        spec.leanOver = 1.0;
        const Guard guard(t, scene, spec, 0.0);
        for (const double most : {0.5, 1.0, 2.0}) {
            Freedom freedom = freeOn(t.cutter);
            freedom.steepest = radians(most);
            const Answer a = lean(guard, freedom, {straight(t.cutter, Vec3(-90, 0, 0), Vec3(90, 0, 0), 0, 180)});
            QVERIFY(!anyHit(a.left));
            QVERIFY2(degrees(a.told.steepest) < 1.05 * most, qPrintable(QString("%1 of %2").arg(degrees(a.told.steepest)).arg(most)));
        }
    }
    // The map of directions: a shaft of pins, reach and window; every direction that lies further than a cell from a border, asked on its own.
    void theMapAgrees() {
        Random random(703);
        std::size_t asked = 0, safe = 0;
        for (int round = 0; round < 12; ++round) {
            const Assembly t = tool(random.number(18, 40), random.number(16, 36));
            Scene scene;
            for (int k = 0; k < 5; ++k) {
                const double a = random.number(0, 2 * kPi), d = random.number(8, 25), w = random.number(1, 4);
                const Vec3 at(d * std::cos(a), d * std::sin(a), 0);
                scene.push_back(block("pin", ObstacleKind::Fixture, at - Vec3(w, w, 10), at + Vec3(w, w, random.number(5, 60))));
            }
            const GuardSpec spec = leaning();
            const Guard guard(t, scene, spec, 0.0);
            Freedom freedom = freeOn(t.cutter);
            freedom.high = radians(random.number(40, 120));
            freedom.reached = [](const Vec3& axis) { return axis.x() < 0.7; };
            const Vec3 normal = (Vec3(0.4, 0.2, 1.0)).normalized(), contact(0, 0, 0);
            const Pass row = rowOf(t.cutter, {contact, contact + Vec3(0, 1, -0.2)}, {normal, normal}, 0);
            const SkyMap map = skyMap(guard, freedom, row, 0, 4.0, round % 2 == 0);
            const double cell = 2.0 / map.across;
            for (int k = 0; k < 400; ++k) {
                const Vec3 axis = random.direction();
                if (axis.dot(normal) < 0.05) continue;
                const Vec2 at = map.placeOf(axis);
                QVERIFY((map.axisAt(at) - axis).norm() < 1e-9);
                const SkyMap::Cell& c = map.cellAt(at);
                bool border = false;
                for (const double x : {-1.0, 0.0, 1.0})
                    for (const double y : {-1.0, 0.0, 1.0}) border = border || map.cellAt(at + cell * Vec2(x, y)).kind != c.kind;
                if (border) continue;
                ++asked;
                const AxisPose pose = freedom.turned(row, 0, axis);
                const auto hit = guard.hit(pose, Contact::Cutting);
                const double high = angleBetween(axis, Vec3::UnitZ());
                const SkyMap::Kind kind = !freedom.reached(axis) ? SkyMap::Kind::Reach
                                          : hit                  ? SkyMap::Kind::Blocked
                                          : high > freedom.high  ? SkyMap::Kind::Outside
                                                                 : SkyMap::Kind::Safe;
                QCOMPARE(c.kind, kind);
                safe += kind == SkyMap::Kind::Safe;
                if (kind != SkyMap::Kind::Safe || round % 2 != 0) continue;
                // How much room there is: of the cell's middle, by plain distances.
                const auto index = [&](double v) { return static_cast<int>(std::floor(0.5 * (v + 1.0) * map.across)); };
                const AxisPose middle = freedom.turned(row, 0, *map.axisOf(index(at.x()), index(at.y())));
                double room = SkyMap::kMostRoom;
                for (std::size_t o = 0; o < scene.size(); ++o)
                    room = std::min({room, guard.clearanceOf(Zone::Shank, o, middle, 20.0) - spec.shankClearance,
                                     guard.clearanceOf(Zone::Holder, o, middle, 20.0) - spec.holderClearance});
                QVERIFY(std::abs(static_cast<double>(c.room) - std::max(0.0, room)) < 1e-4);
            }
        }
        QVERIFY2(asked > 800 && safe > 60, qPrintable(QString("%1 %2").arg(asked).arg(safe)));
    }
    // What stays when an axis turns, for every kind of curve; and who cannot turn.
    void whatStays() {
        Random random(704);
        const Assembly t = tool(25, 24);
        for (int k = 0; k < 200; ++k) {
            Recipe r;
            r.kind = OperationKind::Curve;
            r.curve->axial = random.number(-3, 3);
            Pass p;
            const Vec3 normal = random.direction(), contact = random.point(20), a = random.direction(), b = random.direction();
            if (b.dot(normal) < 0.05) continue; // the ball touches, not the shank
            const auto lay = [&](CurveBy by, const Vec3& tip) {
                r.curve->by = by;
                p.path = {};
                p.path.push(tip, a, by == CurveBy::Channel ? contact : tip, normal, Motion::Cut, 0, 0.0, 0);
                return definitionOf(r.kind).freedom(r, t).turned(p, 0, b);
            };
            const double up = r.curve->axial;
            // The curve's point: the tip without what it is moved along the axis; the ball's middle; the floor of the channel.
            const AxisPose byTip = lay(CurveBy::Tip, contact + up * a);
            QVERIFY((byTip.tip - up * b - contact).norm() < 1e-9 && byTip.axis == b);
            const AxisPose byBall = lay(CurveBy::BallCentre, contact + (up - 3.0) * a);
            QVERIFY((byBall.tip + (3.0 - up) * b - contact).norm() < 1e-9);
            const AxisPose byFloor = lay(CurveBy::Channel, contact);
            QVERIFY((byFloor.tip + (3.0 - up) * b - contact - 3.0 * normal).norm() < 1e-9);
            r.curve->by = CurveBy::Side;
            QVERIFY(!axisIsFree(r));
            r.curve->by = CurveBy::Tip;
            QVERIFY(axisIsFree(r));
            r.axis->locked = "A";
            QVERIFY(!axisIsFree(r));
        }
        for (const OperationKind kind : {OperationKind::Swarf, OperationKind::Edge, OperationKind::Mill, OperationKind::HoleStep}) {
            Recipe r;
            r.kind = kind;
            QVERIFY(!axisIsFree(r));
        }
    }
    // Outside of the axis' window, and where the machine does not reach, it does not lean.
    void withinReach() {
        const Assembly t = tool(25, 24);
        const Scene scene{block("wall", ObstacleKind::Fixture, Vec3(-200, 8, -20), Vec3(200, 60, 35))};
        const Guard guard(t, scene, leaning(), 0.0);
        const Pass row = straight(t.cutter, Vec3(-20, 0, 0), Vec3(20, 0, 0), 0);
        Freedom freedom = freeOn(t.cutter);
        const Answer free = lean(guard, freedom, {row});
        QVERIFY(!anyHit(free.left) && free.told.most > radians(5));
        freedom.high = 0.5 * free.told.most;
        const Answer tight = lean(guard, freedom, {row});
        QVERIFY(anyHit(tight.left) && tight.told.most < freedom.high + 1e-9);
        freedom.high = kPi;
        freedom.reached = [](const Vec3& axis) { return axis.y() > -0.01; };
        QVERIFY(anyHit(lean(guard, freedom, {row}).left));
    }
};

GYRE_TEST(TestLean)

} // namespace test_lean
#include "test_lean.moc"
