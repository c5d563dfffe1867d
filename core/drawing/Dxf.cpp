// DXF as text: pairs of a group code and a value, read strictly and with bounds.
#include "base/Text.h"
#include "base/Units.h"
#include "drawing/DrawingParts.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <string_view>

namespace gyre {
namespace {

struct Pair {
    int code = 0;
    std::string_view value;
    std::size_t line = 0;
};

Result<std::vector<Pair>> pairsOf(const std::string& text, const std::string& place) {
    std::vector<Pair> pairs;
    std::size_t at = 0, line = 0;
    const auto next = [&](std::string_view& out) {
        if (at >= text.size()) return false;
        auto end = text.find('\n', at);
        if (end == std::string::npos) end = text.size();
        out = trimmed(std::string_view(text).substr(at, end - at));
        at = end + 1;
        ++line;
        return true;
    };
    std::string_view code, value;
    while (next(code)) {
        if (code.empty() && at >= text.size()) break;
        Pair p;
        const auto [rest, ec] = std::from_chars(code.data(), code.data() + code.size(), p.code);
        if (ec != std::errc() || rest != code.data() + code.size())
            return fail(fmt::format("line {}: a group code is expected, not '{}'", line, std::string(code.substr(0, 40))), place,
                        "Export the drawing again, as text DXF");
        p.line = line;
        if (!next(value)) return fail(fmt::format("the file ends in the middle of a pair, after line {}", line), place, "Copy or export the drawing again");
        p.value = value;
        pairs.push_back(p);
        if (p.code == 0 && p.value == "EOF") break;
    }
    return pairs;
}

/// The pairs of one entity, with its kind.
struct Entity {
    std::string_view kind;
    std::size_t line = 0;
    std::vector<Pair> pairs;
    std::vector<Entity> vertices; ///< of a POLYLINE

    [[nodiscard]] double number(int code, double otherwise = 0.0) const {
        for (const Pair& p : pairs)
            if (p.code == code) return toNumber(p.value, otherwise);
        return otherwise;
    }
    [[nodiscard]] static double toNumber(std::string_view s, double otherwise) {
        double v = otherwise;
        if (!s.empty() && s.front() == '+') s.remove_prefix(1);
        std::from_chars(s.data(), s.data() + s.size(), v);
        return std::isfinite(v) && std::abs(v) < 1e12 ? v : otherwise;
    }
    [[nodiscard]] std::string text(int code, const char* otherwise) const {
        for (const Pair& p : pairs)
            if (p.code == code) return cutText(utf8Of(p.value), 200);
        return otherwise;
    }
    [[nodiscard]] Vec3 point(int code) const { return {number(code), number(code + 10), number(code + 20)}; }
    [[nodiscard]] std::vector<double> all(int code) const {
        std::vector<double> v;
        for (const Pair& p : pairs)
            if (p.code == code) v.push_back(toNumber(p.value, 0.0));
        return v;
    }
};

/// A B-spline by de Boor's rule.
struct Spline {
    int degree = 3;
    std::vector<double> knots, weights;
    std::vector<Vec3> poles;

    [[nodiscard]] Vec3 at(double u) const {
        const auto p = static_cast<std::size_t>(degree);
        std::size_t k = p;
        while (k + 1 < poles.size() && u >= knots[k + 1]) ++k;
        std::vector<Eigen::Vector4d> d;
        for (std::size_t j = 0; j <= p; ++j) {
            const std::size_t i = j + k - p;
            d.push_back(weights[i] * Eigen::Vector4d(poles[i].x(), poles[i].y(), poles[i].z(), 1.0));
        }
        for (std::size_t r = 1; r <= p; ++r)
            for (std::size_t j = p; j >= r; --j) {
                const double a = knots[j + k - p], b = knots[j + 1 + k - r];
                const double t = b > a ? (u - a) / (b - a) : 0.0;
                d[j] = (1.0 - t) * d[j - 1] + t * d[j];
            }
        return d[p].head<3>() / d[p].w();
    }
    [[nodiscard]] bool sound() const {
        if (degree < 1 || degree > 12 || poles.size() < static_cast<std::size_t>(degree) + 1 || knots.size() != poles.size() + static_cast<std::size_t>(degree) + 1)
            return false;
        return std::is_sorted(knots.begin(), knots.end()) && std::all_of(weights.begin(), weights.end(), [](double w) { return w > 1e-9; });
    }
};

using Placement = Eigen::Affine3d;

class Reader {
public:
    Reader(const std::vector<Pair>& pairs, const std::string& place) : m_pairs(pairs), m_place(place) {}

    Result<Drawing> read(double unit) {
        for (std::size_t i = 0; i + 1 < m_pairs.size(); ++i) {
            if (m_pairs[i].code == 9 && m_pairs[i].value == "$INSUNITS") setUnit(static_cast<int>(Entity::toNumber(m_pairs[i + 1].value, 0)));
            if (m_pairs[i].code == 0 && m_pairs[i].value == "SECTION" && m_pairs[i + 1].code == 2) {
                if (m_pairs[i + 1].value == "BLOCKS") readBlocks(i + 2);
                if (m_pairs[i + 1].value == "ENTITIES") m_entities = readEntities(i + 2, {"ENDSEC", "EOF"});
            }
        }
        if (m_unit > 0.0) {
            m_drawing.unitKnown = true;
        } else {
            m_unit = unit;
            m_drawing.unitWords = unit == 1.0 ? "no unit: read as millimetres" : "no unit: read as inches";
        }
        Placement place = Placement::Identity();
        place.scale(m_unit);
        for (const Entity& e : m_entities)
            if (auto ok = add(e, place, 0); !ok) return tl::unexpected(ok.error());
        if (m_drawing.curves.empty())
            return fail(m_drawing.passedOver.empty() ? "the drawing holds nothing"
                                                     : fmt::format("the drawing holds no curve, only {}", m_drawing.passedOver.begin()->first),
                        m_place, "Export lines, arcs, circles, polylines or splines");
        m_drawing.curves = chained(std::move(m_drawing.curves));
        return std::move(m_drawing);
    }

private:
    void setUnit(int code) {
        const std::pair<int, std::pair<double, const char*>> known[] = {{1, {25.4, "inches"}},      {2, {304.8, "feet"}},    {4, {1.0, "millimetres"}},
                                                                        {5, {10.0, "centimetres"}}, {6, {1000.0, "metres"}}, {13, {1e-3, "micrometres"}},
                                                                        {14, {100.0, "decimetres"}}};
        for (const auto& [c, what] : known)
            if (c == code) {
                m_unit = what.first;
                m_drawing.unitWords = what.second;
            }
    }

    std::vector<Entity> readEntities(std::size_t from, const std::vector<std::string_view>& until, std::size_t* end = nullptr) {
        std::vector<Entity> out;
        Entity* open = nullptr;
        bool inPolyline = false;
        std::size_t i = from;
        for (; i < m_pairs.size(); ++i) {
            const Pair& p = m_pairs[i];
            if (p.code != 0) {
                if (open) open->pairs.push_back(p);
                continue;
            }
            if (std::find(until.begin(), until.end(), p.value) != until.end()) break;
            Entity e{p.value, p.line, {}, {}};
            if (p.value == "SEQEND") {
                inPolyline = false;
                open = nullptr;
            } else if (p.value == "VERTEX" && inPolyline) {
                out.back().vertices.push_back(std::move(e));
                open = &out.back().vertices.back();
            } else {
                inPolyline = p.value == "POLYLINE";
                out.push_back(std::move(e));
                open = &out.back();
            }
        }
        if (end) *end = i;
        return out;
    }

    void readBlocks(std::size_t from) {
        for (std::size_t i = from; i < m_pairs.size() && m_pairs[i].value != "ENDSEC"; ++i) {
            if (m_pairs[i].code != 0 || m_pairs[i].value != "BLOCK") continue;
            Entity head{m_pairs[i].value, m_pairs[i].line, {}, {}};
            std::size_t k = i + 1;
            for (; k < m_pairs.size() && m_pairs[k].code != 0; ++k) head.pairs.push_back(m_pairs[k]);
            std::size_t end = k;
            Block block{head.point(10), readEntities(k, {"ENDBLK", "ENDSEC", "EOF"}, &end)};
            m_blocks.emplace(head.text(2, ""), std::move(block));
            i = end > 0 ? end - 1 : end;
        }
    }

    Status keep(const Entity& e, const Curve& c, const Placement& place) {
        if (c.pieces() == 0) return {};
        if (m_drawing.curves.size() >= kMostDrawn) return fail(fmt::format("the drawing holds over {} curves", kMostDrawn), m_place, "Export fewer layers");
        // A placement that stretches is applied to what the curve really is.
        const double s = place.linear().col(0).norm();
        const bool even = (place.linear().transpose() * place.linear() - s * s * Mat3::Identity()).norm() < 1e-9 * s * s;
        Curve placed;
        if (even) {
            std::vector<CurveKnot> k;
            for (const CurveKnot& x : c.knots()) k.push_back({place * x.point, (place.linear() * x.before).normalized(), (place.linear() * x.after).normalized()});
            placed = Curve(std::move(k), c.closed());
        } else {
            const auto made = sampledAlong(c, [&](const Curve::Place& p) -> Result<Vec3> { return Vec3(place * c.at(p)); });
            if (!made) return {};
            placed = *made;
        }
        const Box box = placed.bounds();
        if (!box.low.allFinite() || !box.high.allFinite() || box.low.cwiseAbs().maxCoeff() > kFarDrawn || box.high.cwiseAbs().maxCoeff() > kFarDrawn)
            return fail(fmt::format("line {}: something lies more than a kilometre away", e.line), m_place, "Move the drawing to its origin, or check its unit");
        m_drawing.curves.push_back({e.text(8, "0"), std::move(placed)});
        return {};
    }

    /// Flat entities stand in a system of their own, given by the direction they are seen from.
    static Placement seen(const Entity& e) {
        Vec3 n(e.number(210, 0.0), e.number(220, 0.0), e.number(230, 1.0));
        if (!(n.norm() > 1e-9)) n = Vec3::UnitZ();
        n.normalize();
        const Vec3 x = (std::abs(n.x()) < 1.0 / 64 && std::abs(n.y()) < 1.0 / 64 ? Vec3::UnitY() : Vec3::UnitZ()).cross(n).normalized();
        Placement p = Placement::Identity();
        p.linear().col(0) = x;
        p.linear().col(1) = n.cross(x);
        p.linear().col(2) = n;
        return p;
    }

    static Curve bulged(const std::vector<std::array<double, 4>>& v, bool closed) {
        CurveChain whole(1e-9);
        for (std::size_t i = 0; i + (closed ? 0 : 1) < v.size(); ++i) {
            const auto &a = v[i], &b = v[(i + 1) % v.size()];
            const Vec3 p(a[0], a[1], a[2]), q(b[0], b[1], b[2]);
            if ((p - q).norm() < 1e-9) continue;
            whole.add(bulgedLine(p, q, Vec3::UnitZ(), std::clamp(a[3], -1e3, 1e3)));
        }
        return whole.take();
    }

    Status add(const Entity& e, const Placement& place, int depth) {
        if (e.kind == "LINE") return keep(e, straightLines({e.point(10), e.point(11)}), place);
        if (e.kind == "CIRCLE" || e.kind == "ARC") {
            const double r = e.number(40), from = e.kind == "ARC" ? radians(e.number(50)) : 0.0;
            double sweep = e.kind == "ARC" ? radians(e.number(51)) - from : 2.0 * kPi;
            sweep -= std::floor((sweep - 1e-12) / (2.0 * kPi)) * 2.0 * kPi;
            if (!(r > 0.0)) return {};
            const Vec3 c = e.point(10);
            return keep(e, circleArc(c, Vec3::UnitZ(), c + r * Vec3(std::cos(from), std::sin(from), 0.0), sweep), place * seen(e));
        }
        if (e.kind == "ELLIPSE") {
            const Vec3 a = e.point(11), n = seen(e).linear().col(2);
            double from = e.number(41, 0.0), to = e.number(42, 2.0 * kPi);
            if (!(to > from)) to += 2.0 * kPi;
            if (to - from > 2.0 * kPi + 1e-9) return {};
            return keep(e, ellipseArc(e.point(10), a, e.number(40, 1.0) * n.cross(a), from, to), place);
        }
        if (e.kind == "LWPOLYLINE") {
            std::vector<std::array<double, 4>> v;
            for (const Pair& p : e.pairs) {
                const double x = Entity::toNumber(p.value, 0.0);
                if (p.code == 10) v.push_back({x, 0.0, e.number(38), 0.0});
                if (p.code == 20 && !v.empty()) v.back()[1] = x;
                if (p.code == 42 && !v.empty()) v.back()[3] = x;
            }
            return keep(e, bulged(v, static_cast<int>(e.number(70)) & 1), place * seen(e));
        }
        if (e.kind == "POLYLINE") {
            const int flags = static_cast<int>(e.number(70));
            if (flags & (16 | 64)) return pass("polygon mesh");
            std::vector<std::array<double, 4>> v;
            for (const Entity& x : e.vertices)
                if (!(static_cast<int>(x.number(70)) & 16)) v.push_back({x.number(10), x.number(20), x.number(30), flags & 8 ? 0.0 : x.number(42)});
            return keep(e, bulged(v, flags & 1), flags & 8 ? place : place * seen(e));
        }
        if (e.kind == "SPLINE") return addSpline(e, place);
        if (e.kind == "INSERT") {
            const auto block = m_blocks.find(e.text(2, ""));
            if (block == m_blocks.end()) return pass("INSERT of a missing block");
            if (depth >= 8) return fail(fmt::format("line {}: blocks stand inside of each other more than eight deep", e.line), m_place);
            Placement own = place * seen(e);
            own.translate(e.point(10));
            own.rotate(Eigen::AngleAxisd(radians(e.number(50)), Vec3::UnitZ()));
            own.scale(Vec3(e.number(41, 1.0), e.number(42, 1.0), e.number(43, 1.0)));
            own.translate(-block->second.base);
            if (!(std::abs(own.linear().determinant()) > 1e-18)) return {};
            // Eight levels of a thousand references each would never be through, even where nothing is drawn.
            m_referred += block->second.entities.size() + 1;
            if (m_referred > kMostReferred) return fail(fmt::format("line {}: blocks are put into each other over {} times", e.line, kMostReferred), m_place);
            for (const Entity& inner : block->second.entities)
                if (auto ok = add(inner, own, depth + 1); !ok) return ok;
            return {};
        }
        return pass(std::string(e.kind.substr(0, 40)));
    }

    Status addSpline(const Entity& e, const Placement& place) {
        Spline s;
        s.degree = static_cast<int>(e.number(71, 3));
        s.knots = e.all(40);
        const auto x = e.all(10), y = e.all(20), z = e.all(30);
        for (std::size_t i = 0; i < std::min(x.size(), y.size()); ++i) s.poles.emplace_back(x[i], y[i], i < z.size() ? z[i] : 0.0);
        s.weights = e.all(41);
        if (s.weights.size() != s.poles.size()) s.weights.assign(s.poles.size(), 1.0);
        if (s.poles.empty()) return pass("SPLINE without poles");
        if (!s.sound()) return pass("damaged SPLINE");
        if (s.poles.size() > 20000) return fail(fmt::format("line {}: a spline has {} poles", e.line, s.poles.size()), m_place);
        CurveChain whole(1e-6);
        const auto p = static_cast<std::size_t>(s.degree);
        for (std::size_t k = p; k < s.poles.size(); ++k) { // from knot to knot it is one polynomial
            const double a = s.knots[k], b = s.knots[k + 1];
            if (!(b - a > 1e-12)) continue;
            const auto piece = sampled([&](double t) -> Result<Vec3> { return s.at(std::min(a + t * (b - a), b - 1e-13 * (b - a))); }, 1e-6);
            if (piece) whole.add(*piece);
        }
        return keep(e, whole.take(), place);
    }

    static constexpr std::size_t kMostReferred = 2'000'000;
    std::size_t m_referred = 0;

    Status pass(const std::string& kind) {
        ++m_drawing.passedOver[cutText(utf8Of(kind), 40)];
        return {};
    }

    struct Block {
        Vec3 base;
        std::vector<Entity> entities;
    };
    const std::vector<Pair>& m_pairs;
    const std::string& m_place;
    std::map<std::string, Block> m_blocks;
    std::vector<Entity> m_entities;
    Drawing m_drawing;
    double m_unit = 0.0;
};

} // namespace

Result<Drawing> drawingFromDxf(const std::string& text, const std::string& place, double unit) {
    if (text.find('\0') != std::string::npos) return fail("the file is not text: binary DXF is not read", place, "Export the drawing as text DXF");
    const auto pairs = pairsOf(text, place);
    if (!pairs) return tl::unexpected(pairs.error());
    if (pairs->empty()) return fail("the file is empty", place);
    return Reader(*pairs, place).read(unit);
}

} // namespace gyre
