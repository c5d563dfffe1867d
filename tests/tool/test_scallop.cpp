// Scallops of cutters in any posture, against outlines made of points of the cutter itself.
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "path/LeadTilt.h"
#include "tool/Scallop.h"

namespace test_scallop {

using namespace gyre;

namespace {

Cutter cutterOf(CutterShape shape, double diameter, double corner) {
    Cutter c;
    c.shape = shape;
    c.diameter = diameter;
    c.cornerRadius = corner;
    return c;
}

/// A cutter's outline seen along x, as points of its surface fall on the plane: the part of the hull that lies no more than `high` over its lowest point, as
/// (across, up) from the contact, from left to right.
std::vector<Vec2> outlineOf(double radius, double corner, const Vec3& axis, double high) {
    const Vec3 side = Vec3::UnitX().cross(axis).normalized(), other = axis.cross(side);
    std::vector<Vec2> all;
    double lowest = 1e300;
    for (int i = 0; i <= 500; ++i) {
        // Around the corner by even angles, then up the shank; a flat end is its edge.
        const double a = 0.5 * kPi * std::min(1.0, i / 400.0), up = corner * (1.0 - std::cos(a)) + (i > 400 ? 0.05 * (i - 400) : 0.0),
                     r = radius - corner + corner * std::sin(a);
        if (corner <= 0.0 && i > 0 && i <= 400) continue;
        for (int k = 0; k < 3600; ++k) {
            const double t = 2.0 * kPi * k / 3600.0;
            const Vec3 p = up * axis + r * (std::cos(t) * side + std::sin(t) * other);
            all.emplace_back(p.y(), p.z());
            lowest = std::min(lowest, p.z());
        }
    }
    std::erase_if(all, [&](const Vec2& p) { return p.y() > lowest + high; });
    std::sort(all.begin(), all.end(), [](const Vec2& a, const Vec2& b) { return a.x() < b.x() || (a.x() == b.x() && a.y() < b.y()); });
    std::vector<Vec2> hull;
    for (const Vec2& p : all) {
        const auto right = [&] {
            const Vec2 a = hull[hull.size() - 1] - hull[hull.size() - 2], b = p - hull[hull.size() - 2];
            return a.x() * b.y() - a.y() * b.x() <= 0.0;
        };
        while (hull.size() > 1 && right()) hull.pop_back();
        hull.push_back(p);
    }
    const auto foot = std::min_element(hull.begin(), hull.end(), [](const Vec2& a, const Vec2& b) { return a.y() < b.y(); });
    const Vec2 contact = *foot;
    for (Vec2& p : hull) p -= contact;
    return hull;
}

/// What stays over a surface of curvature κ between two of them whose contacts are `step` apart: by lines square to the surface.
double leftBetween(const std::vector<Vec2>& outline, double curvature, double step) {
    const bool flat = std::abs(curvature) < 1e-12;
    const double radius = flat ? 0.0 : 1.0 / curvature, half = flat ? 0.0 : std::asin(0.5 * step * curvature);
    // Over the surface at a place across: how high an outline stands whose contact is at `turn` (or `shift`).
    const auto over = [&](double at, double contact) {
        double least = 1e300;
        for (std::size_t i = 1; i < outline.size(); ++i) {
            const auto placed = [&](const Vec2& p) { // in coordinates along the line that is looked at
                if (flat) return Vec2(p.x() + contact - at, p.y());
                const double t = contact - at, x = p.x(), y = radius + p.y();
                return Vec2(x * std::cos(t) + y * std::sin(t), -x * std::sin(t) + y * std::cos(t) - radius);
            };
            const Vec2 a = placed(outline[i - 1]), b = placed(outline[i]);
            if ((a.x() < 0.0) == (b.x() < 0.0)) continue;
            least = std::min(least, a.y() + (b.y() - a.y()) * a.x() / (a.x() - b.x()));
        }
        return least;
    };
    double most = 0.0;
    for (int k = 1; k < 400; ++k) {
        const double share = k / 200.0 - 1.0, at = flat ? 0.5 * step * share : half * share, end = flat ? 0.5 * step : half;
        most = std::max(most, std::min(over(at, -end), over(at, end)));
    }
    return most;
}

} // namespace

class TestScallop : public QObject {
    Q_OBJECT
private slots:
    void aBallOnAPlaneInClosedForm() {
        const Scallop ball(3.0);
        const Scallop same(cutterOf(CutterShape::Ball, 6, 0), axisFromLeadTilt(Vec3::UnitZ(), Vec3::UnitX(), radians(12), radians(-7)));
        for (const double h : {1e-5, 0.001, 0.005, 0.05, 0.5}) {
            QVERIFY(std::abs(ball.step(h, 0.0) - stepFromScallop(3, h)) < 1e-12);
            QVERIFY2(std::abs(same.step(h, 0.0) / stepFromScallop(3, h) - 1.0) < 2e-3, qPrintable(QString::number(same.step(h, 0.0) / stepFromScallop(3, h), 'g', 9)));
            QVERIFY(std::abs(ball.height(ball.step(h, 0.0), 0.0) - h) < 1e-9 + 1e-6 * h);
        }
        QVERIFY(ball.round() && same.round());
    }
    // Convex: three circles that touch. At R and r with centres R + r from the middle the scallop's tip is R + h from it.
    void aBallOnRoundFacesInClosedForm() {
        const double r = 3.0, h = 0.01;
        const Scallop ball(r);
        for (const double R : {5.0, 20.0, 400.0}) {
            const double c = ((R + r) * (R + r) + (R + h) * (R + h) - r * r) / (2.0 * (R + r) * (R + h));
            QVERIFY(std::abs(ball.step(h, 1.0 / R) - 2.0 * R * std::sin(std::acos(c))) < 1e-6);
            const double in = ((R - r) * (R - r) + (R - h) * (R - h) - r * r) / (2.0 * (R - r) * (R - h)), hollow = 2.0 * R * std::sin(std::acos(in));
            QVERIFY2(std::abs(ball.step(h, -1.0 / R) - std::min(hollow, 2.0 * ball.step(h, 0.0))) < 1e-6, qPrintable(QString::number(R)));
        }
        QVERIFY(ball.step(h, 0.2) < 0.8 * ball.step(h, 0.0) && ball.step(h, -0.2) > 1.5 * ball.step(h, 0.0));
        // In a hollow as wide as the ball itself nothing stays; no more than twice the step on a plane is taken all the same.
        QVERIFY(std::abs(ball.step(h, -1.0 / r) - 2.0 * ball.step(h, 0.0)) < 1e-9);
    }
    // A flat cutter that leans in its feed is an ellipse: half as wide as the cutter, R sin λ high.
    void aLeaningFlatCutterIsAnEllipse() {
        for (const double lead : {3.0, 10.0, 30.0}) {
            const Scallop flat(cutterOf(CutterShape::Flat, 10, 0), axisFromLeadTilt(Vec3::UnitZ(), Vec3::UnitX(), radians(lead), 0));
            for (const double h : {0.002, 0.01}) {
                const double high = 5.0 * std::sin(radians(lead)), wide = 10.0 * std::sqrt(1.0 - (1.0 - h / high) * (1.0 - h / high));
                QVERIFY2(std::abs(flat.step(h, 0.0) / wide - 1.0) < 2e-3, qPrintable(QString("%1 %2: %3 %4").arg(lead).arg(h).arg(flat.step(h, 0.0)).arg(wide)));
            }
            QVERIFY(flat.round());
        }
        const Scallop upright(cutterOf(CutterShape::Flat, 10, 0), Vec3::UnitZ());
        QVERIFY(!upright.round() && std::abs(upright.step(0.01, 0.0) - 10.0) < 1e-6);
    }
    // Every cutter, leaning any way, on planes, rounds and hollows: what stays is what was asked for.
    void whatStaysBetweenOutlinesIsAsAsked() {
        test::Random random(417);
        int looked = 0;
        double worst = 0.0;
        for (int i = 0; i < 60; ++i) {
            const int kind = i % 3;
            const double diameter = random.number(4, 16), corner = kind == 0 ? 0.5 * diameter : kind == 1 ? random.number(0.1, 0.4) * diameter : 0.0;
            const double lead = radians(random.number(4, 25)) * (random.integer(0, 1) == 0 ? 1.0 : -1.0), tilt = radians(random.number(-12, 12));
            const Vec3 axis = axisFromLeadTilt(Vec3::UnitZ(), Vec3::UnitX(), lead, tilt);
            const Scallop scallop(cutterOf(kind == 0 ? CutterShape::Ball : kind == 1 ? CutterShape::CornerRadius : CutterShape::Flat, diameter, corner), axis);
            const double asked = std::exp(random.number(std::log(0.002), std::log(0.05)));
            const double width = scallop.step(asked, 0.0), radius = (0.25 * width * width + asked * asked) / (2.0 * asked);
            const double curvature = i % 4 == 0 ? 0.0 : i % 4 == 3 ? -random.number(0.05, 0.7) / radius : random.number(0.0, 4.0) / radius;
            const double step = scallop.step(asked, curvature), left = leftBetween(outlineOf(0.5 * diameter, corner, axis, 6.0 * asked), curvature, step);
            ++looked;
            worst = std::max(worst, std::abs(left / asked - 1.0));
            QVERIFY2(std::abs(left / asked - 1.0) < 0.05, qPrintable(QString("%1: Ø%2 corner %3, lead %4 tilt %5, κ %6, step %7: %8 of %9")
                                                                         .arg(i)
                                                                         .arg(diameter)
                                                                         .arg(corner)
                                                                         .arg(degrees(lead))
                                                                         .arg(degrees(tilt))
                                                                         .arg(curvature)
                                                                         .arg(step)
                                                                         .arg(left)
                                                                         .arg(asked)));
            QVERIFY(std::abs(scallop.height(step, curvature) / asked - 1.0) < 1e-6);
        }
        QCOMPARE(looked, 60);
        qInfo("within %.2f %%", 100.0 * worst);
    }
    // Wider steps and rounder faces leave more; nothing odd at the ends.
    void moreIsLeftByMore() {
        test::Random random(91);
        for (int i = 0; i < 200; ++i) {
            const Scallop s(cutterOf(i % 2 ? CutterShape::CornerRadius : CutterShape::Flat, 8, 1),
                            axisFromLeadTilt(Vec3::UnitZ(), Vec3::UnitX(), radians(random.number(1, 40)), radians(random.number(-30, 30))));
            const double h = random.number(1e-4, 0.5), k = random.number(-0.3, 1.0), a = s.step(h, k);
            QVERIFY(a > 0.0 && a <= s.step(1.2 * h, k) + 1e-12 && a >= s.step(h, k + 0.1) - 1e-12);
            const double d = random.number(0.01, 3.0);
            QVERIFY(s.height(d, k) <= s.height(1.1 * d, k) + 1e-12 && s.height(d, k) <= s.height(d, k + 0.2) * (1 + 1e-6) + 1e-12);
        }
        for (const double d : {0.0, -1.0, 1e-9, 1e9}) QVERIFY(std::isfinite(Scallop(3.0).height(d, 0.5)));
        QCOMPARE(Scallop(0.0).height(1.0, 0.0), 0.0);
        QVERIFY(!Scallop(0.0).round());
    }
};

GYRE_TEST(TestScallop)

} // namespace test_scallop
#include "test_scallop.moc"
