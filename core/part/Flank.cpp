#include "part/Flank.h"
#include "base/Units.h"
#include "part/Kernel.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr int kRulings = 33, kAlong = 13;

/// One straight line candidate: points and normals from one end to the other.
struct FlankLine {
    std::vector<Vec3> points, normals;
    [[nodiscard]] double bulge() const {
        double most = 0.0;
        for (const Vec3& p : points) most = std::max(most, distanceToSegment(p, points.front(), points.back()));
        return most;
    }
    [[nodiscard]] double length() const { return (points.back() - points.front()).norm(); }
    [[nodiscard]] double twist() const { return angleBetween(normals.front(), normals.back()); }
};

// A cylinder that touches at both ends has its axis R off along both normals. Between them it comes too near to a twisted face by
// R·(1 − |(1−t)n₀ + t·n₁|), most in the middle: R·(1 − cos ½θ).
void measure(const std::vector<FlankLine>& rulings, double radius, FlankAnswer& answer) {
    for (const FlankLine& r : rulings) {
        if (r.length() < 1e-6) continue;
        answer.twist = std::max(answer.twist, r.twist());
        answer.bulge = std::max(answer.bulge, r.bulge());
        const Vec3 a = r.points.front() + radius * r.normals.front(), b = r.points.back() + radius * r.normals.back();
        const Vec3 axis = (b - a).normalized();
        for (const Vec3& p : r.points) {
            const double off = radius - rejected(p - a, axis).norm();
            answer.map.push_back({p, off});
            answer.deviation = std::max(answer.deviation, std::abs(off));
        }
    }
}

void conclude(FlankAnswer& a, double length, double radius, bool ownLines) {
    a.perLine = kAlong;
    const double straight = std::max(0.002, 1e-4 * length);
    a.kind = a.bulge > straight ? FlankKind::NotRuled : a.twist > radians(0.05) ? FlankKind::Twisted : FlankKind::Developable;
    switch (a.kind) {
    case FlankKind::Developable:
        a.words = "the cutter's side can follow it exactly";
        break;
    case FlankKind::Twisted:
        a.words = fmt::format("twisted by up to {:.2f}°: a Ø{:g} cutter laid on both ends is {:.3f} mm off in between", degrees(a.twist), 2.0 * radius, a.deviation);
        break;
    case FlankKind::NotRuled:
        a.words = fmt::format("{} bend by up to {:.3f} mm, so no straight side follows the face; {}",
                              ownLines ? "both families of its own grid lines" : "the lines between the rails", a.bulge,
                              ownLines ? "pick a lower and an upper rail instead" : "it needs rows across it");
        break;
    }
}

} // namespace

const char* flankKindName(FlankKind k) {
    switch (k) {
    case FlankKind::Developable:
        return "developable";
    case FlankKind::Twisted:
        return "twisted";
    case FlankKind::NotRuled:
        return "not ruled";
    }
    return "";
}

Result<FlankAnswer> flankOf(const Part& part, int face, double radius) {
    if (face < 0 || static_cast<std::size_t>(face) >= part.faces().size()) return fail(fmt::format("face {} is not in the part", face));
    if (!(radius > 0.0)) return fail("the cutter has no radius to lay its side on");
    if (part.isMesh()) return fail("a mesh face has no grid of its own to follow", {}, "Pick a lower and an upper rail");
    const auto [low, high] = part.parameterBounds(face);
    std::array<FlankAnswer, 2> answers;
    std::array<double, 2> bend{};
    double length = 0.0;
    for (int family = 0; family < 2; ++family) { // 0: along v, for many u
        std::vector<FlankLine> rulings;
        for (int i = 0; i < kRulings; ++i) {
            FlankLine r;
            for (int k = 0; k < kAlong; ++k) {
                const double across = (i + 0.5) / kRulings, along = static_cast<double>(k) / (kAlong - 1);
                const double fu = family == 0 ? across : along, fv = family == 0 ? along : across;
                const SurfacePoint s = part.evaluate(face, (1 - fu) * low.x() + fu * high.x(), (1 - fv) * low.y() + fv * high.y());
                r.points.push_back(s.point);
                r.normals.push_back(s.normal);
            }
            length = std::max(length, r.length());
            rulings.push_back(std::move(r));
        }
        const auto f = static_cast<std::size_t>(family);
        measure(rulings, radius, answers[f]);
        // A closed ring has no chord to be straight along.
        bend[f] = answers[f].bulge + 1e-3 * answers[f].twist + (answers[f].map.empty() ? 1e9 : 0.0);
    }
    FlankAnswer answer = std::move(answers[bend[1] < bend[0] ? 1 : 0]);
    conclude(answer, length, radius, true);
    return answer;
}

Result<FlankAnswer> flankBetween(const Polyline& lower, const Polyline& upper, double radius) {
    if (lower.size() < 2 || upper.size() < 2) return fail("a rail needs at least two points");
    if (!(radius > 0.0)) return fail("the cutter has no radius to lay its side on");
    const auto la = arcLengths(lower), lb = arcLengths(upper);
    if (la.back() < 1e-9 || lb.back() < 1e-9) return fail("a rail has no length");
    constexpr double kStep = 1e-4;
    const auto at = [&](const Polyline& line, const std::vector<double>& lengths, double f) { return pointAtLength(line, lengths, f * lengths.back()); };
    std::vector<FlankLine> rulings;
    for (int i = 0; i < kRulings; ++i) {
        const double f = (i + 0.5) / kRulings, before = f - kStep, after = f + kStep;
        const Vec3 p = at(lower, la, f), q = at(upper, lb, f);
        const Vec3 tp = (at(lower, la, after) - at(lower, la, before)) / (2 * kStep), tq = (at(upper, lb, after) - at(upper, lb, before)) / (2 * kStep);
        FlankLine r;
        for (int k = 0; k < kAlong; ++k) {
            const double t = static_cast<double>(k) / (kAlong - 1);
            const Vec3 n = ((1 - t) * tp + t * tq).cross(q - p);
            if (n.norm() < 1e-12) return fail(fmt::format("the rails run into each other at {:.2f} {:.2f} {:.2f}", p.x(), p.y(), p.z()));
            r.points.push_back((1 - t) * p + t * q);
            r.normals.push_back(n.normalized());
        }
        rulings.push_back(std::move(r));
    }
    FlankAnswer answer;
    measure(rulings, radius, answer);
    conclude(answer, std::max(la.back(), lb.back()), radius, false);
    return answer;
}

} // namespace gyre
