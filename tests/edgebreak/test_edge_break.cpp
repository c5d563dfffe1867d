// Broken edges: legs on plane, round and crossing edges, which edges are taken, which cutters and axes reach them.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "edgebreak/BreakSpec.h"
#include "edgebreak/EdgeBreak.h"
#include "stock/Stock.h"

namespace test_edge_break {

using namespace gyre;
using test::near;

namespace {

/// The least distance of a point from the cutter along all passes; between two places the nearest of many.
double sweptOff(const AlongResult& r, const Cutter& cutter, const Vec3& p) {
    double least = 1e300;
    const CutterSide side(cutter);
    for (const Pass& pass : r.passes)
        for (std::size_t i = 1; i < pass.path.size(); ++i) {
            const Vec3 &a = pass.path.tip[i - 1], &b = pass.path.tip[i];
            if (distanceToSegment(p, a, b) > cutter.diameter + 2.0) continue;
            for (int k = 0; k <= 20; ++k) least = std::min(least, side.off({a + (b - a) * (k / 20.0), slerp(pass.path.axis[i - 1], pass.path.axis[i], k / 20.0)}, p));
        }
    return least;
}

Assembly chamferTool() {
    Assembly a = test::flatTool(8, 12);
    a.cutter = asShape(a.cutter, CutterShape::Chamfer);
    a.cutter.tipDiameter = 1.0;
    return a;
}

} // namespace

class TestEdgeBreak : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::shared_ptr<const Part> m_box, m_round, m_tube;

    static AlongResult made(const BreakInput& in, const BreakSpec& spec, const Assembly& tool) {
        Progress progress;
        auto r = breakEdges(in, spec, tool, {0.001, 1.0}, progress);
        if (!r) qFatal("%s", r.error().text().c_str());
        return std::move(*r);
    }
    static QString refusal(const BreakInput& in, const BreakSpec& spec, const Assembly& tool) {
        Progress progress;
        const auto r = breakEdges(in, spec, tool, {0.001, 1.0}, progress);
        return r ? QString() : QString::fromStdString(r.error().text());
    }
    static int edgeAt(const Part& part, const Vec3& middle) {
        for (std::size_t e = 0; e < part.edges().size(); ++e)
            if ((part.edges()[e].middle - middle).norm() < 1e-6) return static_cast<int>(e);
        return -1;
    }

private slots:
    void initTestCase() {
        const std::filesystem::path dir = m_dir.path().toStdString();
        m_box = test::openPart(test::boxStep(dir, 6, 8, 4));
        m_round = test::openPart(test::cylinderStep(dir, 3, 4));
        m_tube = test::openPart(test::drilledTube(dir));
    }

    void legsOnAPlaneEdge_data() {
        QTest::addColumn<double>("leg");
        QTest::addColumn<double>("diameter");
        QTest::newRow("small") << 0.1 << 2.0;
        QTest::newRow("usual") << 0.3 << 4.0;
        QTest::newRow("wide") << 0.8 << 6.0;
    }
    void legsOnAPlaneEdge() {
        QFETCH(double, leg);
        QFETCH(double, diameter);
        BreakInput in{m_box.get(), {edgeAt(*m_box, Vec3(6, 4, 4))}, {}, {}, {}, {}};
        BreakSpec spec;
        spec.size = leg;
        const Assembly ball = test::ballTool(diameter, 40);
        const AlongResult r = made(in, spec, ball);
        QCOMPARE(r.passes.size(), std::size_t(1));
        // The known answer: centre at E + b(√(r² − ℓ² sin²(φ/2)) − ℓ cos(φ/2)), φ = 90°.
        const double rad = 0.5 * diameter, s = std::sin(kPi / 4);
        const Vec3 b = Vec3(1, 0, 1).normalized();
        const double out = std::sqrt(rad * rad - leg * leg * s * s) - leg * s;
        const Toolpath& path = r.passes[0].path;
        for (std::size_t i = 0; i < path.size(); ++i) {
            const Vec3 centre = path.tip[i] + rad * path.axis[i];
            const Vec3 wanted = Vec3(6, centre.y(), 4) + out * b;
            QVERIFY((centre - wanted).norm() < 1e-9);
        }
        QVERIFY(near(std::min(path.tip.front().y(), path.tip.back().y()), 0.0, 1e-9) && near(std::max(path.tip.front().y(), path.tip.back().y()), 8.0, 1e-9));
        // On stock: where the top begins to fall, and where the side does.
        Progress progress;
        auto stock = Stock::of({&m_box->mesh()}, 0.02, progress);
        QVERIFY(stock && stock->remove(path, ball.cutter, progress));
        const auto first = [&](int ray, int across, double from, double full) {
            for (double x = from; x > from - 2.0; x -= 0.5 * stock->cell()) {
                Vec3 p(3, 4, 2), through;
                p[across] = x;
                const auto spans = stock->along(ray, p, through);
                if (!spans.empty() && spans.back().to > full - 1e-4) return from - through[across];
            }
            return 1e9;
        };
        QVERIFY2(std::abs(first(2, 0, 6, 4) - leg) < 0.01 + stock->cell(), qPrintable(QString::number(first(2, 0, 6, 4))));
        QVERIFY(std::abs(first(0, 2, 4, 6) - leg) < 0.01 + stock->cell());
        // Sharper than cells: the swept ball at a hair inside and outside of the leg.
        for (const double y : {1.0, 4.0, 7.0})
            for (const Vec3& at : {Vec3(6 - leg, y, 4), Vec3(6, y, 4 - leg)}) {
                const Vec3 in01 = at + 0.01 * (Vec3(6, y, 4) - at).normalized(), out01 = at - 0.01 * (Vec3(6, y, 4) - at).normalized();
                QVERIFY(sweptOff(r, ball.cutter, in01) < 0.0 && sweptOff(r, ball.cutter, out01) > 0.0);
            }
    }

    // Round and crossing edges: the legs are where they should be, on the exact faces.
    void legsOnRoundEdges() {
        struct Case {
            const Part* part;
            int edge;
            const char* name;
        };
        std::vector<Case> cases;
        for (std::size_t e = 0; e < m_round->edges().size(); ++e)
            if (m_round->edges()[e].closed && m_round->edges()[e].middle.z() > 3.9) cases.push_back({m_round.get(), static_cast<int>(e), "cylinder and plane"});
        for (std::size_t e = 0; e < m_tube->edges().size(); ++e) {
            const EdgeInfo& i = m_tube->edges()[e];
            if (i.faces[0] >= 0 && i.faces[1] >= 0 && i.faces[0] != i.faces[1] && m_tube->faces()[static_cast<std::size_t>(i.faces[0])].kind == SurfaceKind::Cylinder &&
                m_tube->faces()[static_cast<std::size_t>(i.faces[1])].kind == SurfaceKind::Cylinder && i.angle > 0.5 && cases.size() < 4)
                cases.push_back({m_tube.get(), static_cast<int>(e), "cylinder and cylinder"});
        }
        QVERIFY(cases.size() >= 3);
        for (const Case& c : cases)
            for (const bool round : {false, true}) {
                BreakInput in{c.part, {c.edge}, {}, {}, {}, {}};
                BreakSpec spec;
                spec.size = 0.25;
                spec.round = round;
                spec.rows = round ? 25 : 1;
                const Assembly ball = test::ballTool(2, 30);
                const AlongResult r = made(in, spec, ball);
                QCOMPARE(r.passes.size(), std::size_t(spec.rows));
                const Curve curve = c.part->edgeCurve(c.edge).value();
                for (int k = 1; k < 12; ++k) {
                    const auto place = curve.atLength(curve.length() * k / 12.0);
                    const Vec3 e = curve.at(place), along = curve.tangent(place);
                    for (int f = 0; f < 2; ++f) {
                        const int face = c.part->edges()[static_cast<std::size_t>(c.edge)].faces[static_cast<std::size_t>(f)],
                                  other = c.part->edges()[static_cast<std::size_t>(c.edge)].faces[static_cast<std::size_t>(1 - f)];
                        const SurfacePoint own = c.part->project(face, e), beside = c.part->project(other, e);
                        Vec3 into = rejected(own.normal.cross(along), along).normalized();
                        if (into.dot(beside.normal) > 0.0) into = -into;
                        const double leg = round ? legOfRound(0.25, angleBetween(own.normal, beside.normal)) : 0.25;
                        const auto at = [&](double d) { return c.part->project(face, e + d * into).point; };
                        if (round) { // it ends tangent to the face, somewhere near there, and never enters beyond
                            double least = 1e300;
                            for (double d = 0.95 * leg; d < 1.6 * leg; d += 0.005) least = std::min(least, sweptOff(r, ball.cutter, at(d)));
                            QVERIFY2(std::abs(least) < 0.003, qPrintable(QString("%1: %2").arg(c.name).arg(least)));
                            QVERIFY(sweptOff(r, ball.cutter, e) < -0.01);
                            continue;
                        }
                        const double inside = sweptOff(r, ball.cutter, at(leg - 0.01)), outside = sweptOff(r, ball.cutter, at(leg + 0.01));
                        QVERIFY2(inside < 0.0 && outside > 0.0, qPrintable(QString("%1: %2 %3").arg(c.name).arg(inside).arg(outside)));
                    }
                }
            }
    }

    void flanksLieOnTheChamfer() {
        BreakInput in{m_box.get(), {edgeAt(*m_box, Vec3(6, 4, 4))}, {}, {}, {}, {}};
        BreakSpec spec;
        spec.size = 0.5;
        for (const Assembly& tool : {chamferTool(), [] {
                                         Assembly a = test::flatTool(4, 14);
                                         a.cutter = asShape(a.cutter, CutterShape::Tapered);
                                         return a;
                                     }()}) {
            const AlongResult r = made(in, spec, tool);
            const Toolpath& path = r.passes.at(0).path;
            for (const double y : {0.5, 4.0, 7.5})
                for (const double t : {0.02, 0.5, 0.98}) { // the whole facet is touched, nothing below it
                    const Vec3 p = Vec3(5.5, y, 4) + t * Vec3(0.5, 0, -0.5);
                    QVERIFY2(std::abs(sweptOff(r, tool.cutter, p)) < 1e-6, qPrintable(QString::number(sweptOff(r, tool.cutter, p))));
                }
            QVERIFY(near(std::abs(path.axis[0].dot(Vec3(1, 0, 1).normalized())), std::sin(flankAngle(tool.cutter)), 1e-9));
        }
        // A 90° chamfer cutter needs no turning on a right angle; it stands upright.
        QVERIFY(made(in, spec, chamferTool()).passes[0].path.axis[0].z() > 1.0 - 1e-9);
        spec.size = 20;
        QVERIFY(refusal(in, spec, chamferTool()).contains("flank"));
    }

    void whichEdges() {
        std::vector<Finding> told;
        BreakSpec spec;
        BreakInput in{m_box.get(), {}, {}, {}, {}, {}};
        spec.edges = BreakEdges::Body;
        QCOMPARE(edgesToBreak(in, spec, told).size(), std::size_t(12));
        spec.sharper = 95;
        QVERIFY(edgesToBreak(in, spec, told).empty());
        spec.sharper = 20;
        spec.edges = BreakEdges::Faces;
        in.faces = {0};
        QCOMPARE(edgesToBreak(in, spec, told).size(), std::size_t(4));
        QVERIFY(told.empty());
        // Inner edges of a pocket are told, not broken.
        const auto block = test::openPart(test::milledBlock(m_dir.path().toStdString()));
        BreakInput inner{block.get(), {}, {}, {}, {}, {}};
        spec.edges = BreakEdges::Picked;
        for (std::size_t e = 0; e < block->edges().size(); ++e)
            if (block->edges()[e].angle < -1.0) {
                inner.edges = {static_cast<int>(e)};
                break;
            }
        QCOMPARE(inner.edges.size(), std::size_t(1));
        QVERIFY(edgesToBreak(inner, spec, told).empty());
        QCOMPARE(told.size(), std::size_t(1));
        QVERIFY(told[0].code == "edge-inner" && told[0].rank == Rank::Look && told[0].amount == 1.0);
        QVERIFY(refusal(inner, spec, test::ballTool(4, 40)).contains("not broken"));
        QVERIFY(refusal({block.get(), {}, {}, {}, {}, {}}, spec, test::ballTool(4, 40)).contains("no edge"));
    }

    // Near and far edges of all holes of the dome, with one small lollipop from outside.
    void holesOfTheDome() {
        const auto dome = test::openPart(test::demoFile("pierced-dome.step"));
        const auto holes = findHoles(*dome);
        QCOMPARE(holes.size(), std::size_t(48));
        BreakInput in{dome.get(), {}, {}, holes, {}, {}};
        BreakSpec spec;
        std::vector<Finding> told;
        spec.edges = BreakEdges::HolesNear;
        const auto nearOnes = edgesToBreak(in, spec, told);
        spec.edges = BreakEdges::HolesFar;
        const auto farOnes = edgesToBreak(in, spec, told);
        spec.edges = BreakEdges::HolesBoth;
        QCOMPARE(edgesToBreak(in, spec, told).size(), nearOnes.size() + farOnes.size());
        QVERIFY(nearOnes.size() >= 48 && farOnes.size() >= 48);
        spec.size = 0.15;
        Assembly pop = test::ballTool(2, 40);
        pop.cutter = asShape(pop.cutter, CutterShape::Lollipop);
        pop.cutter.neckDiameter = 0.8;
        const AlongResult r = made(in, spec, pop);
        QCOMPARE(r.passes.size(), std::size_t(96));
        for (const Finding& f : r.findings) QVERIFY2(f.rank != Rank::Stop, f.text.c_str());
        for (const Pass& p : r.passes) { // each along its hole, from its middle once round and back, the contact off the dead centre and off the neck
            QVERIFY(p.path.motion.front() == Motion::LeadIn && p.path.motion.back() == Motion::LeadOut && (p.path.tip.front() - p.path.tip.back()).norm() < 1e-9);
            QVERIFY((p.path.tip[1] - p.path.tip[p.path.size() - 2]).norm() < 1e-9);
            const double pole = angleBetween(p.path.axis[1], p.path.normal[1]);
            QVERIFY2(pole > radians(20) && pole < radians(153), qPrintable(QString::number(degrees(pole))));
        }
        // A plain ball reaches the near ones; far ones would need its neck.
        QVERIFY(refusal(in, spec, test::ballTool(2, 40)).isEmpty());
        const AlongResult plain = made(in, spec, test::ballTool(2, 40));
        QVERIFY(plain.passes.size() >= 48);
    }

    void climbingAndTurning() {
        const int edge = edgeAt(*m_box, Vec3(6, 4, 4));
        BreakInput in{m_box.get(), {edge}, {}, {}, {}, {}};
        BreakSpec spec;
        spec.axis = BreakAxis::Turn;
        spec.turnDegrees = 35;
        for (const bool climb : {true, false}) {
            spec.climb = climb;
            const Toolpath path = made(in, spec, test::ballTool(4, 40)).passes[0].path;
            QVERIFY(near(angleBetween(path.axis[1], path.normal[1]), radians(35), 1e-9));
            const Vec3 right = (path.tip[1] - path.tip[0]).cross(path.axis[0]);
            QCOMPARE(right.dot(-path.normal[0]) > 0.0, climb);
        }
        spec.axis = BreakAxis::Fixed;
        spec.direction = Vec3(-1, 0, 0); // from within the block: not with a ball
        QVERIFY(refusal(in, spec, test::ballTool(4, 40)).contains("pole"));
        // What blocks an axis makes the next one be tried; what blocks all is told.
        spec = BreakSpec();
        in.blocked = [](const AxisPose& p) { return p.axis.z() > 0.99 ? std::string("too upright") : std::string(); };
        const AlongResult leaned = made(in, spec, test::ballTool(4, 40));
        QVERIFY(leaned.passes[0].path.axis[0].z() < 0.99 && leaned.findings.empty());
        in.blocked = [](const AxisPose&) { return std::string("a wall"); };
        const AlongResult none = made(in, spec, test::ballTool(4, 40));
        QVERIFY(none.findings.size() == 2 && none.findings[1].reason == "a wall" && none.findings[1].code == "edge-near" && none.findings[1].rank == Rank::Look &&
                none.findings[0].code == "edge-corner");
    }

    // What of the picked edges is not cut as asked is told one by one, and the rest is cut.
    void edgesThatAreLeftAreTold() {
        const auto told = [](const std::vector<Finding>& all, const char* code) {
            return std::find_if(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
        };
        const std::filesystem::path dir = m_dir.path().toStdString();
        // The border of an open sheet has a face on one side only.
        const auto sheet = test::openPart(test::ruledWall(dir, 10, 0.0));
        std::vector<Finding> findings;
        BreakSpec spec;
        QVERIFY(edgesToBreak({sheet.get(), {0, 1}, {}, {}, {}, {}}, spec, findings).empty());
        const auto alone = told(findings, "edge-alone");
        QVERIFY(alone != findings.end() && alone->rank == Rank::Look && alone->amount == 2.0);
        // A plate thinner than the break.
        const auto thin = test::openPart(test::boxStep(dir, 20, 10, 0.3));
        spec.size = 0.5;
        const AlongResult narrow = made({thin.get(), {edgeAt(*thin, Vec3(20, 5, 0.3))}, {}, {}, {}, {}}, spec, test::ballTool(6, 40));
        const auto beyond = told(narrow.findings, "edge-narrow");
        QVERIFY(beyond != narrow.findings.end() && beyond->rank == Rank::Look && beyond->place);
        // One edge that the asked axis reaches, and one that it does not.
        spec = BreakSpec();
        spec.axis = BreakAxis::Fixed;
        spec.direction = Vec3(-1, 0, 0);
        const AlongResult half = made({m_box.get(), {edgeAt(*m_box, Vec3(0, 4, 4)), edgeAt(*m_box, Vec3(6, 4, 4))}, {}, {}, {}, {}}, spec, test::ballTool(4, 40));
        QCOMPARE(half.passes.size(), std::size_t(1));
        const auto lost = told(half.findings, "edge-not-reached");
        QVERIFY(lost != half.findings.end() && lost->rank == Rank::Stop && lost->place && std::abs((*lost->place)[0] - 6) < 1e-6);
    }

    // An edge that is sharp at one end and runs out flat at the other is left as it is, and told; the sharp edge beside it is broken.
    void edgesThatRunOutAreLeftAsTheyAre() {
        const std::vector<Vec2> lower{{0, 0}, {10, 0}, {20, 0}, {20, 20}, {0, 20}};
        std::vector<Vec2> upper = lower;
        upper[1].y() = -5;
        const auto part = test::openPart(test::ruledPrism(m_dir.path().toStdString(), lower, upper, 12));
        int out = -1, sharp = -1;
        for (std::size_t e = 0; e < part->edges().size(); ++e) {
            const Vec3& m = part->edges()[e].middle;
            if ((m - Vec3(10, -2.5, 6)).norm() < 1e-6) out = static_cast<int>(e);
            if ((m - Vec3(20, 20, 6)).norm() < 1e-6) sharp = static_cast<int>(e);
        }
        QVERIFY(out >= 0 && sharp >= 0);
        const AlongResult r = made({part.get(), {out, sharp}, {}, {}, {}, {}}, BreakSpec(), test::ballTool(4, 40));
        const auto flat = std::find_if(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "edge-flat"; });
        QVERIFY(flat != r.findings.end() && flat->rank == Rank::Look && flat->place);
        QVERIFY(std::abs((*flat->place)[0] - 10) < 1e-6);
        QCOMPARE(r.passes.size(), std::size_t(1));
        for (const Vec3& tip : r.passes[0].path.tip) QVERIFY(tip.x() > 15 && tip.y() > 15);
    }
    void whatCannotBe() {
        BreakInput in{m_box.get(), {0}, {}, {}, {}, {}};
        BreakSpec spec;
        QVERIFY(refusal(in, spec, test::flatTool(6, 16)).contains("flat"));
        spec.size = 1.9;
        QVERIFY(refusal(in, spec, test::ballTool(4, 40)).contains("row"));
        spec.size = 0.3;
        spec.round = true;
        QVERIFY(refusal(in, spec, chamferTool()).contains("ball"));
        spec.round = false;
        spec.size = 0.0;
        QVERIFY(refusal(in, spec, chamferTool()).contains("sharp"));
    }

    // Where the cutter may enter, nothing is left of the guarded triangles; all else is.
    void stripsOfTheGuard() {
        const Strip strip{{Vec3(6, 0, 4), Vec3(6, 8, 4)}, 0.4};
        const TriangleMesh cut = withoutStrips(m_box->mesh(), {strip});
        test::Random random(77);
        double area = 0.0;
        for (std::size_t t = 0; t < cut.triangles.size(); ++t) {
            area += 0.5 * (cut.corner(t, 1) - cut.corner(t, 0)).cross(cut.corner(t, 2) - cut.corner(t, 0)).norm();
            const double u = random.number(0, 1), v = random.number(0, 1 - u);
            const Vec3 p = cut.corner(t, 0) + u * (cut.corner(t, 1) - cut.corner(t, 0)) + v * (cut.corner(t, 2) - cut.corner(t, 0));
            QVERIFY(distanceToSegment(p, strip.line[0], strip.line[1]) > 0.4 - 1e-9);
        }
        const double whole = 2 * (6 * 8 + 8 * 4 + 6 * 4), gone = 2 * 8 * 0.4 + 2 * kPi * 0.4 * 0.4 / 4;
        QVERIFY2(area < whole - gone && area > whole - gone - 0.8, qPrintable(QString("%1 of %2").arg(area).arg(whole - gone)));
    }
    // Triangles of any shape beside bent lines: no point within stays, no point clear of the strip is lost.
    void stripsThroughTrianglesOfAnyShape() {
        test::Random random(781);
        for (int round = 0; round < 60; ++round) {
            std::vector<Strip> strips;
            for (int i = random.integer(1, 3); i > 0; --i) {
                Strip strip{{random.point(2)}, random.number(0.1, 0.5)};
                for (int k = random.integer(1, 12); k > 0; --k) strip.line.push_back(strip.line.back() + 0.6 * random.direction());
                strips.push_back(strip);
            }
            const auto outside = [&](const Vec3& p) {
                double least = 1e300;
                for (const Strip& s : strips)
                    for (std::size_t k = 1; k < s.line.size(); ++k) least = std::min(least, distanceToSegment(p, s.line[k - 1], s.line[k]) - s.width);
                return least;
            };
            TriangleMesh mesh;
            const Vec3 a = random.point(3), b = random.point(3);
            const double thin = round % 3 == 0 ? 0.02 : round % 3 == 1 ? 0.2 : 1.0; // slivers as well
            mesh.points = {a, b, a + random.number(-0.3, 1.3) * (b - a) + thin * random.point(3)};
            mesh.triangles = {{0, 1, 2}};
            const TriangleMesh cut = withoutStrips(mesh, strips);
            const auto inTriangle = [&](const TriangleMesh& m, std::size_t t) {
                const double u = random.number(0, 1), v = random.number(0, 1), x = u + v > 1 ? 1 - u : u, y = u + v > 1 ? 1 - v : v;
                return Vec3(m.corner(t, 0) + x * (m.corner(t, 1) - m.corner(t, 0)) + y * (m.corner(t, 2) - m.corner(t, 0)));
            };
            for (std::size_t t = 0; t < cut.triangles.size(); ++t)
                for (int k = 0; k < 4; ++k) QVERIFY(outside(inTriangle(cut, t)) > -1e-9);
            const MeshTree left(cut);
            for (int k = 0; k < 300; ++k) {
                const Vec3 p = inTriangle(mesh, 0);
                if (outside(p) < 0.1) continue; // beside a strip a little more goes: a fifth of its width at most
                QVERIFY2(!cut.triangles.empty() && (left.closest(p).point - p).norm() < 1e-6, qPrintable(QString("%1 at %2").arg(round).arg(outside(p))));
            }
        }
    }
};

GYRE_TEST(TestEdgeBreak)

} // namespace test_edge_break
#include "test_edge_break.moc"
