#include "axis/AxisRules.h"
#include "base/Units.h"
#include "geom/Polyline.h"

namespace gyre {
namespace {

Error error(const char* what, const char* remedy) { return Error{what, "Axis", remedy, false}; }
std::optional<Error> none(const AimContext&) { return std::nullopt; }

/// What most rules need of their context.
class Source : public AxisSource {
public:
    explicit Source(const AimContext& context) : m_c(context) {}

protected:
    const AimContext m_c;
};

template <class T> std::unique_ptr<AxisSource> made(const AimContext& context) { return std::make_unique<T>(context); }

class FromSurface : public Source {
    using Source::Source;
    std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3& feed) const override {
        const bool back = o.row->returning;
        return axisFromLeadTilt(o.row->normals[i], feed, radians(back && m_c.leadByPattern ? -m_c.aim.leadDegrees : m_c.aim.leadDegrees),
                                radians(back ? -m_c.aim.tiltDegrees : m_c.aim.tiltDegrees));
    }
};

class Fixed : public Source {
    using Source::Source;
    std::optional<Vec3> at(const AimedRow&, std::size_t, const Vec3&) const override { return m_c.aim.direction.normalized(); }
};
std::optional<Error> fixedTrouble(const AimContext& c) {
    return c.aim.direction.norm() > 1e-9 ? std::nullopt : std::optional(error("the fixed direction has no length", "Give a direction such as 0 0 1"));
}

class TowardRotary : public Source {
    using Source::Source;
    std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3&) const override {
        return axisTowardLine(m_c.cutter, o.row->points[i], o.row->normals[i], *m_c.rotary);
    }
};
std::optional<Error> rotaryTrouble(const AimContext& c) {
    return c.rotary ? std::nullopt
                    : std::optional(error("the machine has no rotary axis that the tool could point at", "Choose a machine with a rotary axis, or another rule"));
}

class ByPoint : public Source {
    using Source::Source;
    std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3&) const override {
        return axisThrough(m_c.cutter, o.row->points[i], o.row->normals[i], m_c.aim.point, m_c.aim.away);
    }
};

class ByCurve : public Source {
public:
    explicit ByCurve(const AimContext& c) : Source(c) {
        if (!c.aim.inStep || c.at.curves.empty() || c.rows.empty() || c.rows.front().points.empty()) return;
        const Row& r = c.rows.front();
        const Curve& curve = c.at.curves.front();
        const Vec3 &a = r.returning ? r.points.back() : r.points.front(), &b = r.returning ? r.points.front() : r.points.back();
        m_backward = (a - curve.end()).norm() + (b - curve.start()).norm() < (a - curve.start()).norm() + (b - curve.end()).norm();
    }

private:
    std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3&) const override {
        const Vec3 &p = o.row->points[i], &n = o.row->normals[i];
        const Curve& c = m_c.at.curves.front();
        if (!m_c.aim.inStep) return axisThrough(m_c.cutter, p, n, c.closest(p).point, m_c.aim.away);
        double f = o.whole > 0.0 ? o.along[i] / o.whole : 0.0;
        if (o.row->returning != m_backward) f = 1.0 - f;
        return axisThrough(m_c.cutter, p, n, c.at(c.atLength(f * c.length())), m_c.aim.away);
    }
    bool m_backward = false; ///< the curve runs against the rows
};
std::optional<Error> curveTrouble(const AimContext& c) {
    return c.at.curves.empty() ? std::optional(error("there is no curve for the axis to go through", "Pick its edges, or choose a curve")) : std::nullopt;
}

class AlongLines : public Source {
public:
    explicit AlongLines(const AimContext& c) : Source(c), m_ways(lineWays(c.at.curves, c.rows, c.aim.turned)) {}

private:
    void prepare(AimedRow& o) const override {
        const Row& row = *o.row;
        for (std::size_t k = 0; k < m_ways.size(); ++k) {
            if (m_ways[k].isZero() || row.points.empty()) continue;
            const Vec3 a = m_c.at.curves[k].start(), b = m_c.at.curves[k].end();
            std::size_t best = 0;
            double least = 1e300;
            for (std::size_t i = 0; i < row.points.size(); ++i)
                if (const double d = distanceToSegment(row.points[i], a, b); d < least) {
                    least = d;
                    best = i;
                }
            o.lines.push_back({o.along[best], m_ways[k], k});
        }
        std::stable_sort(o.lines.begin(), o.lines.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    }
    // Turned from the line before to the one behind, gently at both.
    std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3&) const override {
        if (o.lines.empty()) return std::nullopt;
        const double s = o.along[i];
        const auto after = std::find_if(o.lines.begin(), o.lines.end(), [&](const auto& l) { return l.first > s; });
        const auto before = after == o.lines.begin() ? o.lines.end() : after - 1;
        AimedRow::Line a = before == o.lines.end() ? o.lines.back() : *before, b = after == o.lines.end() ? o.lines.front() : *after;
        if (before == o.lines.end()) {
            if (!o.row->closed) return b.second;
            a.first -= o.whole;
        }
        if (after == o.lines.end()) {
            if (!o.row->closed) return a.second;
            b.first += o.whole;
        }
        const double span = b.first - a.first, x = span > 1e-12 ? (s - a.first) / span : 0.0;
        return slerp(a.second, b.second, x * x * (3.0 - 2.0 * x));
    }
    std::vector<Vec3> m_ways;
};
std::optional<Error> linesTrouble(const AimContext& c) {
    return c.at.curves.empty() ? std::optional(error("there are no lines for the axis to go along", "Pick edges, or choose a drawing of lines")) : std::nullopt;
}

class SquareToFaces : public Source {
    using Source::Source;
    std::optional<Vec3> at(const AimedRow& o, std::size_t i, const Vec3&) const override {
        SurfacePoint best;
        double least = 1e300;
        for (const int f : m_c.at.faces) {
            const SurfacePoint s = m_c.at.part->project(f, o.row->points[i]);
            if (const double d = (s.point - o.row->points[i]).norm(); d < least) {
                least = d;
                best = s;
            }
        }
        return best.normal;
    }
};
std::optional<Error> facesTrouble(const AimContext& c) {
    return c.at.faces.empty() ? std::optional(error("there are no faces for the axis to be square to", "Pick them")) : std::nullopt;
}

constexpr AxisRuleKind kRules[] = {
    {AxisRule::Surface, "surface", "from the surface", none, made<FromSurface>},
    {AxisRule::Fixed, "fixed", "in one direction", fixedTrouble, made<Fixed>},
    {AxisRule::TowardRotary, "towardRotary", "toward the rotary axis", rotaryTrouble, made<TowardRotary>},
    {AxisRule::Point, "point", "by a point", none, made<ByPoint>},
    {AxisRule::Curve, "curve", "by a curve", curveTrouble, made<ByCurve>},
    {AxisRule::Lines, "lines", "along lines", linesTrouble, made<AlongLines>},
    {AxisRule::Normals, "normals", "square to faces", facesTrouble, made<SquareToFaces>},
};

} // namespace

std::span<const AxisRuleKind> axisRules() { return kRules; }

const AxisRuleKind& kindOf(AxisRule rule) {
    return *std::find_if(std::begin(kRules), std::end(kRules), [&](const AxisRuleKind& k) { return k.rule == rule; });
}

LineDisagreement disagreement(const AimedRow& row, bool closed) {
    LineDisagreement worst;
    for (std::size_t i = 0; i < row.lines.size(); ++i) {
        if (i + 1 == row.lines.size() && !closed) break;
        const auto &a = row.lines[i], &b = row.lines[(i + 1) % row.lines.size()];
        if (const double angle = angleBetween(a.second, b.second); angle > worst.angle) worst = {angle, a.which, b.which, a.first};
    }
    return worst;
}

} // namespace gyre
