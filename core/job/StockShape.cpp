#include "job/StockShape.h"
#include "base/Units.h"
#include "form/Form.h"
#include "geom/Grown.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {
constexpr double kLargest = 1e4;
constexpr int kSides = 180;

Vec3 unit(int k) { return Vec3::Unit(k); }
} // namespace

Status StockShape::valid() const {
    if (kind == Kind::Block) {
        for (int k = 0; k < 3; ++k)
            if (!(high[k] - low[k] > 1e-3)) return fail(fmt::format("the block has no size along {}", "XYZ"[k]), "stock", "Its upper side must lie above its lower one");
        return {};
    }
    if (kind == Kind::Around) {
        if (!(allowance >= 0.05 && allowance <= 500.0)) return fail("stock around the part is 0.05 to 500 mm thick", "stock");
        return {};
    }
    if (kind == Kind::Outline) {
        if (outline.empty()) return fail("the outline is not named", "stock", "Name a closed curve of a mend or a drawing");
        if (!(high[axis] - low[axis] > 1e-3)) return fail("the outline is raised by nothing", "stock", "Its upper end must lie above its lower one");
        return {};
    }
    if (!(high[axis] - low[axis] > 1e-3)) return fail("the bar has no length", "stock", "Its upper end must lie above its lower one");
    if (!(radius > 1e-3)) return fail("the bar has no radius", "stock");
    if (kind == Kind::Tube && !(innerRadius > 0.0 && innerRadius < radius)) return fail("the tube's inner radius must lie between 0 and the outer one", "stock");
    return {};
}

Result<TriangleMesh> StockShape::mesh(const Part* part, const std::map<std::string, std::vector<Curve>>& curves, const Progress& progress) const {
    if (!restsOnOthers()) return mesh();
    if (kind == Kind::Around) {
        constexpr double kFewest = 72.0, kMost = 120.0;
        if (!part) return fail("there is no part to lay stock around", "stock");
        const auto body = part->body();
        const Part& own = body ? *body : *part;
        // Between the points of its grid the skin is flat: where it is thin, edges would stand out of it.
        const Box box = own.tree().bounds();
        const double wanted = (box.high - box.low).maxCoeff() / (1.5 * allowance);
        return grownMesh(own.mesh(), own.tree(), allowance, static_cast<int>(std::clamp(wanted, kFewest, kMost)), &progress);
    }
    const auto named = curves.find(outline);
    if (named == curves.end() || named->second.empty()) return fail("there is no curve '" + outline + "'", "stock", "Name a closed curve of a mend or a drawing");
    for (const Curve& c : named->second)
        if (c.closed()) return raisedOutline(c, axis, low[axis], high[axis], 0.01);
    return fail("'" + outline + "' is not closed", "stock", "Join its curves into a closed one");
}

TriangleMesh StockShape::mesh() const {
    TriangleMesh m;
    const auto quad = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
        m.triangles.push_back({a, b, c});
        m.triangles.push_back({a, c, d});
    };
    if (kind == Kind::Block) {
        for (int i = 0; i < 8; ++i) m.points.emplace_back(i & 1 ? high.x() : low.x(), i & 2 ? high.y() : low.y(), i & 4 ? high.z() : low.z());
        quad(0, 2, 3, 1);
        quad(4, 5, 7, 6);
        quad(0, 1, 5, 4);
        quad(2, 6, 7, 3);
        quad(0, 4, 6, 2);
        quad(1, 3, 7, 5);
        return m;
    }
    const Vec3 z = unit(axis), x = unit((axis + 1) % 3), y = unit((axis + 2) % 3);
    const auto ring = [&](double r, double at) {
        const auto first = static_cast<std::uint32_t>(m.points.size());
        for (int i = 0; i < kSides; ++i) {
            const double a = 2.0 * kPi * i / kSides;
            m.points.push_back(rejected(centre, z) + at * z + r * std::cos(a) * x + r * std::sin(a) * y);
        }
        return first;
    };
    const auto wall = [&](std::uint32_t from, std::uint32_t to) {
        for (std::uint32_t i = 0; i < kSides; ++i) quad(from + i, from + (i + 1) % kSides, to + (i + 1) % kSides, to + i);
    };
    const auto bottom = ring(radius, low[axis]), top = ring(radius, high[axis]);
    wall(bottom, top);
    if (kind == Kind::Tube) {
        const auto innerTop = ring(innerRadius, high[axis]), innerBottom = ring(innerRadius, low[axis]);
        wall(top, innerTop);
        wall(innerTop, innerBottom);
        wall(innerBottom, bottom);
        return m;
    }
    for (const auto& [from, at, up] : {std::tuple{bottom, low[axis], false}, std::tuple{top, high[axis], true}}) {
        const auto middle = static_cast<std::uint32_t>(m.points.size());
        m.points.push_back(rejected(centre, z) + at * z);
        for (std::uint32_t i = 0; i < kSides; ++i) {
            const auto a = from + i, b = from + (i + 1) % kSides;
            m.triangles.push_back(up ? std::array<std::uint32_t, 3>{a, b, middle} : std::array<std::uint32_t, 3>{b, a, middle});
        }
    }
    return m;
}

std::string StockShape::words(double per) const {
    const Vec3 size = (high - low) / per;
    if (kind == Kind::Block) return fmt::format("block {:.4g} × {:.4g} × {:.4g}", size.x(), size.y(), size.z());
    if (kind == Kind::Around) return fmt::format("{:.4g} around the part", allowance / per);
    if (kind == Kind::Outline) return fmt::format("outline '{}' raised by {:.4g} along {}", outline, size[axis], "XYZ"[axis]);
    if (kind == Kind::Cylinder) return fmt::format("bar Ø{:.4g} × {:.4g} along {}", 2.0 * radius / per, size[axis], "XYZ"[axis]);
    return fmt::format("tube Ø{:.4g} / Ø{:.4g} × {:.4g} along {}", 2.0 * radius / per, 2.0 * innerRadius / per, size[axis], "XYZ"[axis]);
}

StockShape proposeStock(const Part& part, double allowance) {
    const Box box = part.tree().bounds();
    StockShape s;
    s.centre = box.centre();
    s.low = (box.low - Vec3(allowance, allowance, 0.0)).array().floor();
    s.low.z() = box.low.z();
    s.high = (box.high + Vec3::Constant(allowance - 0.01)).array().ceil();
    // Round about an axis? Then nothing of the part lies far outside of the circle in its box.
    double least = 1e300;
    for (const int k : {2, 0, 1}) {
        const Vec3 half = box.half();
        const double a = half[(k + 1) % 3], b = half[(k + 2) % 3];
        if (std::abs(a - b) > 0.02 * std::max(a, b)) continue;
        // Squares, and no further than the first point that is too far out: scans have a million of them.
        const double most = std::min(1.05 * std::max(a, b), least);
        double square = 0.0;
        for (const Vec3& p : part.mesh().points) {
            const double u = p[(k + 1) % 3] - s.centre[(k + 1) % 3], v = p[(k + 2) % 3] - s.centre[(k + 2) % 3];
            square = std::max(square, u * u + v * v);
            if (square > most * most) break;
        }
        const double furthest = std::sqrt(square);
        if (furthest > 1.05 * std::max(a, b) || furthest >= least) continue;
        least = furthest;
        s.kind = StockShape::Kind::Cylinder;
        s.axis = k;
        s.radius = std::ceil(furthest + allowance - 0.01);
    }
    if (s.kind == StockShape::Kind::Cylinder && s.axis != 2) {
        s.low = (box.low - Vec3::Constant(allowance)).array().floor();
        s.centre = box.centre();
    }
    return s;
}

namespace {

/// An end along the axis: from `low` or to `high`.
void addEnd(Form<StockShape>& form, const char* key, Vec3 StockShape::*end, const char* what) {
    WordInfo info;
    info.key = key;
    info.kind = WordKind::Length;
    info.low = -kLargest;
    info.high = kLargest;
    info.what = what;
    const std::string k = key;
    form.special(
            info, [k, end](const JsonView& v, StockShape& s) { (s.*end)[s.axis] = v.number(k.c_str(), -kLargest, kLargest); },
            [k, end](const StockShape& s, OrderedJson& out) { out[k] = (s.*end)[s.axis]; },
            [end](StockShape& s, Dice& dice) { (s.*end)[s.axis] = static_cast<double>(dice() % 1000); })
        .needed();
}

Form<StockShape> made(StockShape::Kind kind) {
    using S = StockShape;
    using K = StockShape::Kind;
    Form<S> form("this kind of stock");
    form.choice("kind", &S::kind,
                {{K::Block, "block", "block"},
                 {K::Cylinder, "cylinder", "bar"},
                 {K::Tube, "tube", "tube"},
                 {K::Around, "around", "around the part"},
                 {K::Outline, "outline", "outline"}},
                "Kind of stock");
    if (kind == K::Block) {
        form.place("low", &S::low, kLargest, "Lowest corner").needed().place("high", &S::high, kLargest, "Highest corner").needed();
    } else if (kind == K::Around) {
        form.length("allowance", &S::allowance, 0.05, 500.0, "Thickness around the part").needed();
    } else {
        form.choice("axis", &S::axis, {{0, "x", "X"}, {1, "y", "Y"}, {2, "z", "Z"}}, "Axis");
        if (kind == K::Outline)
            form.text("outline", &S::outline, 200, "Closed curve of a mend or a drawing").needed();
        else
            form.place("centre", &S::centre, kLargest, "A point of its axis");
        addEnd(form, "from", &S::low, "Lower end along the axis");
        addEnd(form, "to", &S::high, "Upper end along the axis");
        if (kind != K::Outline) form.length("radius", &S::radius, 1e-3, kLargest, "Radius").needed();
        if (kind == K::Tube) form.length("inner", &S::innerRadius, 1e-3, kLargest, "Inner radius").needed();
    }
    return form
        .check([](const JsonView& v, const S& s) {
            if (const auto ok = s.valid(); !ok) v.complain(ok.error().what);
        })
        .settled([kind](S& s) {
            s.kind = kind;
            s.high = s.low.cwiseMax(s.high) + Vec3::Ones();
            s.radius = std::max(s.radius, 1.0);
            if (kind == K::Tube) s.innerRadius = 0.5 * s.radius;
        });
}

} // namespace

const Form<StockShape>& stockForm() {
    static const std::vector<Form<StockShape>> kinds = [] {
        std::vector<Form<StockShape>> forms;
        for (int i = 0; i < 5; ++i) forms.push_back(made(static_cast<StockShape::Kind>(i)));
        return forms;
    }();
    static const Form<StockShape> form = [] {
        std::vector<const Form<StockShape>*> all;
        for (const auto& kind : kinds) all.push_back(&kind);
        return Form<StockShape>::oneOf(
            "stock", "kind", all, [](const StockShape& s) { return static_cast<std::size_t>(s.kind); }, 0);
    }();
    return form;
}

} // namespace gyre
