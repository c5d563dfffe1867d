// SVG: paths and simple shapes, with the transforms of their groups. The picture's y runs down, ours up.
#include "base/Text.h"
#include "base/Units.h"
#include "drawing/DrawingParts.h"
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <pugixml.hpp>

namespace gyre {
namespace {

using Placement = Eigen::Affine2d;

/// Numbers and letters of a path or a list of points, one after the other.
class Scanner {
public:
    explicit Scanner(const char* text) : m_at(text) {}
    void skip() {
        while (*m_at && (std::isspace(static_cast<unsigned char>(*m_at)) || *m_at == ',')) ++m_at;
    }
    [[nodiscard]] bool atEnd() {
        skip();
        return !*m_at;
    }
    [[nodiscard]] bool atLetter() {
        skip();
        return std::isalpha(static_cast<unsigned char>(*m_at)) != 0;
    }
    char letter() { return *m_at++; }
    bool number(double& v) {
        skip();
        // No "inf", no hexadecimal: a number here is plain.
        const char* p = m_at;
        if (*p == '+' || *p == '-') ++p;
        const char* digits = p;
        while (std::isdigit(static_cast<unsigned char>(*p))) ++p;
        std::size_t count = static_cast<std::size_t>(p - digits);
        if (*p == '.') {
            const char* after = ++p;
            while (std::isdigit(static_cast<unsigned char>(*p))) ++p;
            count += static_cast<std::size_t>(p - after);
        }
        if (count == 0) return false;
        if (*p == 'e' || *p == 'E') {
            const char* q = p + 1;
            if (*q == '+' || *q == '-') ++q;
            if (std::isdigit(static_cast<unsigned char>(*q))) {
                while (std::isdigit(static_cast<unsigned char>(*q))) ++q;
                p = q;
            }
        }
        v = numberIn(std::string_view(m_at, p)).value_or(std::nan(""));
        m_at = p;
        return std::isfinite(v) && std::abs(v) < 1e9;
    }
    /// A flag of an arc: one digit, perhaps glued to the next number.
    bool flag(bool& v) {
        skip();
        if (*m_at != '0' && *m_at != '1') return false;
        v = *m_at++ == '1';
        return true;
    }

private:
    const char* m_at;
};

Vec3 lifted(const Vec2& p) { return {p.x(), p.y(), 0.0}; }

class Reader {
public:
    Reader(const std::string& place, double unit) : m_place(place), m_unit(unit) {}

    Result<Drawing> read(const std::string& text) {
        pugi::xml_document document;
        const auto parsed = document.load_buffer(text.data(), text.size(), pugi::parse_default | pugi::parse_ws_pcdata_single);
        if (!parsed) return fail(fmt::format("the SVG file is damaged at byte {} ({})", parsed.offset, parsed.description()), m_place, "Export the drawing again");
        const pugi::xml_node root = document.document_element();
        if (local(root.name()) != std::string("svg")) return fail("this is not an SVG drawing", m_place);
        Placement place = Placement::Identity();
        place.scale(Eigen::Vector2d(1.0, -1.0)); // y up
        place.scale(scaleOf(root));
        if (auto ok = walk(root, place, "", 0); !ok) return tl::unexpected(ok.error());
        if (m_drawing.curves.empty()) return fail("the drawing holds no path or shape", m_place, "Turn its texts and pictures into paths");
        m_drawing.curves = chained(std::move(m_drawing.curves));
        return std::move(m_drawing);
    }

private:
    static std::string local(const char* name) {
        const char* colon = std::strrchr(name, ':');
        return colon ? colon + 1 : name;
    }

    /// mm to one unit of the drawing: from its width in a real unit and its view box.
    double scaleOf(const pugi::xml_node& root) {
        Scanner box(root.attribute("viewBox").as_string());
        double b[4] = {0, 0, 0, 0};
        bool boxed = true;
        for (double& v : b) boxed = boxed && box.number(v);
        const std::string width = root.attribute("width").as_string();
        Scanner w(width.c_str());
        double value = 0.0;
        static const std::pair<const char*, double> units[] = {{"mm", 1.0}, {"cm", 10.0}, {"in", 25.4}, {"pt", 25.4 / 72}, {"pc", 25.4 / 6}};
        for (const auto& [name, mm] : units)
            if (width.size() > 2 && width.compare(width.size() - 2, 2, name) == 0 && w.number(value) && value > 0.0) {
                m_drawing.unitKnown = true;
                m_drawing.unitWords = fmt::format("{} wide", width.substr(0, 40));
                return boxed && b[2] > 0.0 ? value * mm / b[2] : mm;
            }
        m_drawing.unitWords = m_unit == 1.0 ? "no unit: read as millimetres" : "no unit: read as inches";
        return m_unit;
    }

    static Result<Placement> transformOf(const char* text) {
        Placement t = Placement::Identity();
        for (const char* p = text; *p;) {
            while (*p && !std::isalpha(static_cast<unsigned char>(*p))) ++p;
            if (!*p) break;
            const char* open = std::strchr(p, '(');
            const char* close = open ? std::strchr(open, ')') : nullptr;
            if (!close) return fail("a transform is not closed");
            const std::string name(p, open), inside(open + 1, close);
            Scanner s(inside.c_str());
            std::vector<double> v;
            for (double x = 0.0; v.size() < 8 && s.number(x);) v.push_back(x);
            const auto n = v.size();
            if (name.rfind("matrix", 0) == 0 && n == 6) {
                Placement m = Placement::Identity();
                m.linear() << v[0], v[2], v[1], v[3];
                m.translation() = Vec2(v[4], v[5]);
                t = t * m;
            } else if (name.rfind("translate", 0) == 0 && n >= 1) {
                t.translate(Vec2(v[0], n > 1 ? v[1] : 0.0));
            } else if (name.rfind("scale", 0) == 0 && n >= 1) {
                t.scale(Eigen::Vector2d(v[0], n > 1 ? v[1] : v[0]));
            } else if (name.rfind("rotate", 0) == 0 && n >= 1) {
                if (n >= 3) t.translate(Vec2(v[1], v[2]));
                t.rotate(radians(v[0]));
                if (n >= 3) t.translate(Vec2(-v[1], -v[2]));
            } else if ((name.rfind("skewX", 0) == 0 || name.rfind("skewY", 0) == 0) && n >= 1) {
                Placement m = Placement::Identity();
                (name[4] == 'X' ? m.linear()(0, 1) : m.linear()(1, 0)) = std::tan(radians(v[0]));
                t = t * m;
            } else {
                return fail(fmt::format("the transform '{}' is not known", name.substr(0, 40)));
            }
            p = close + 1;
        }
        return t;
    }

    Status walk(const pugi::xml_node& node, const Placement& outer, const std::string& layer, int depth) {
        if (depth > 100) return fail("groups stand inside of each other more than a hundred deep", m_place);
        const auto own = transformOf(node.attribute("transform").as_string());
        if (!own) return fail(own.error().what, m_place);
        const Placement place = outer * *own;
        const std::string kind = local(node.name());
        if (std::string(node.attribute("display").as_string()) == "none") return {};
        if (kind == "defs" || kind == "symbol" || kind == "clipPath" || kind == "mask" || kind == "pattern" || kind == "metadata" || kind == "title" || kind == "desc" ||
            kind == "style")
            return {};
        if (kind == "svg" || kind == "g" || kind == "a") {
            const std::string id = node.attribute("id").as_string();
            for (const pugi::xml_node& child : node.children())
                if (child.type() == pugi::node_element)
                    if (auto ok = walk(child, place, kind == "g" && !id.empty() ? cutText(utf8Of(id), 200) : layer, depth + 1); !ok) return ok;
            return {};
        }
        const auto n = [&](const char* name) {
            Scanner s(node.attribute(name).as_string());
            double v = 0.0;
            return s.number(v) ? v : 0.0;
        };
        if (kind == "path") return path(node.attribute("d").as_string(), place, layer);
        if (kind == "line") return keep(straightLines({lifted({n("x1"), n("y1")}), lifted({n("x2"), n("y2")})}), place, layer);
        if (kind == "polyline" || kind == "polygon") {
            Scanner s(node.attribute("points").as_string());
            Polyline points;
            for (double x = 0, y = 0; s.number(x) && s.number(y);) points.emplace_back(x, y, 0.0);
            return keep(straightLines(points, kind == "polygon"), place, layer);
        }
        if (kind == "circle" || kind == "ellipse") {
            const double rx = kind == "circle" ? n("r") : n("rx"), ry = kind == "circle" ? n("r") : n("ry");
            return keep(ellipseArc(lifted({n("cx"), n("cy")}), Vec3(rx, 0, 0), Vec3(0, ry, 0), 0.0, 2.0 * kPi), place, layer);
        }
        if (kind == "rect") {
            const double x = n("x"), y = n("y"), w = n("width"), h = n("height");
            double rx = n("rx"), ry = n("ry");
            if (rx <= 0.0) rx = ry;
            if (ry <= 0.0) ry = rx;
            rx = std::clamp(rx, 0.0, 0.5 * std::max(0.0, w));
            ry = std::clamp(ry, 0.0, 0.5 * std::max(0.0, h));
            if (!(w > 0.0 && h > 0.0)) return {};
            if (rx <= 0.0) return keep(straightLines({{x, y, 0}, {x + w, y, 0}, {x + w, y + h, 0}, {x, y + h, 0}}, true), place, layer);
            CurveChain whole(1e-9);
            const std::pair<Vec2, Vec2> corners[] = {
                {{x + w - rx, y + ry}, {0, -1}}, {{x + w - rx, y + h - ry}, {1, 0}}, {{x + rx, y + h - ry}, {0, 1}}, {{x + rx, y + ry}, {-1, 0}}};
            for (const auto& [centre, first] : corners) {
                const Vec3 a(first.x() * rx, first.y() * ry, 0), b(-first.y() * rx, first.x() * ry, 0);
                const Curve arc = ellipseArc(lifted(centre), a, b, 0.0, 0.5 * kPi);
                whole.add(arc);
            }
            Curve round = whole.take();
            if (!round.closed()) round = joined(round, straightLines({round.end(), round.start()}), 1e-9);
            return keep(round, place, layer);
        }
        ++m_drawing.passedOver[cutText(utf8Of(kind), 40)];
        return {};
    }

    Status keep(const Curve& c, const Placement& place, const std::string& layer) {
        if (c.pieces() == 0) return {};
        if (m_drawing.curves.size() >= kMostDrawn) return fail(fmt::format("the drawing holds over {} curves", kMostDrawn), m_place);
        const auto to = [&](const Vec3& p) { return lifted(place * Vec2(p.x(), p.y())); };
        const Eigen::Matrix2d l = place.linear();
        const double s2 = l.col(0).squaredNorm();
        Curve placed;
        if ((l.transpose() * l - s2 * Eigen::Matrix2d::Identity()).norm() < 1e-9 * s2) { // no stretching: tangents turn with it
            const auto way = [&](const Vec3& d) { return lifted(l * Vec2(d.x(), d.y())).normalized(); };
            std::vector<CurveKnot> k;
            for (const CurveKnot& x : c.knots()) k.push_back({to(x.point), way(x.before), way(x.after)});
            placed = Curve(std::move(k), c.closed());
        } else {
            const auto made = sampledAlong(c, [&](const Curve::Place& p) -> Result<Vec3> { return to(c.at(p)); });
            if (!made) return {};
            placed = *made;
        }
        const Box box = placed.bounds();
        if (!box.low.allFinite() || !box.high.allFinite() || box.low.cwiseAbs().maxCoeff() > kFarDrawn || box.high.cwiseAbs().maxCoeff() > kFarDrawn)
            return fail("something lies more than a kilometre away", m_place, "Move the drawing to its origin, or check its unit");
        m_drawing.curves.push_back({layer, std::move(placed)});
        return {};
    }

    /// Where a path's pen stands, and what it has drawn since it was set down.
    struct Pen {
        Vec2 at = Vec2::Zero(), start = at, control = at;
        CurveChain whole{1e-9}; // closing is for Z and for the last point alone; on the way a path may pass its own start
        char command = 0, last = 0;

        void lineTo(const Vec2& to) {
            if ((to - at).norm() > 1e-12) whole.add(straightLines({lifted(at), lifted(to)}));
            at = to;
        }
        void cubicTo(const Vec2& c1, const Vec2& c2, const Vec2& to) {
            const Vec2 from = at;
            const auto piece = sampled([&](double t) -> Result<Vec3> {
                const double u = 1 - t;
                return lifted(u * u * u * from + 3 * u * u * t * c1 + 3 * u * t * t * c2 + t * t * t * to);
            });
            if (piece) whole.add(*piece);
            control = c2;
            at = to;
        }
    };

    Status path(const char* d, const Placement& place, const std::string& layer) {
        Scanner s(d);
        Pen pen;
        std::size_t steps = 0;
        while (!s.atEnd()) {
            if (++steps > 500'000) return fail("a path has over half a million steps", m_place);
            if (s.atLetter())
                pen.command = s.letter();
            else if (pen.command == 0 || pen.command == 'Z' || pen.command == 'z')
                return fail("a path begins with a number", m_place, "Export the drawing again");
            const char what = static_cast<char>(std::toupper(static_cast<unsigned char>(pen.command)));
            if (what == 'Z') pen.lineTo(pen.start);
            if (what == 'Z' || what == 'M') {
                if (auto ok = keep(pen.whole.take(), place, layer); !ok) return ok;
            }
            if (what != 'Z' && !draw(s, pen, what)) return fail(fmt::format("a path is damaged at '{}'", pen.command), m_place, "Export the drawing again");
            pen.last = what;
        }
        return keep(pen.whole.take(), place, layer);
    }

    /// One step of a path; false when its numbers are not there.
    static bool draw(Scanner& s, Pen& pen, char what) {
        const bool relative = std::islower(static_cast<unsigned char>(pen.command)) != 0;
        const auto point = [&](Vec2& p) {
            double x = 0, y = 0;
            if (!s.number(x) || !s.number(y)) return false;
            p = relative ? Vec2(pen.at + Vec2(x, y)) : Vec2(x, y);
            return true;
        };
        const auto mirrored = [&](const char* of) { return std::strchr(of, pen.last) && pen.last ? Vec2(2 * pen.at - pen.control) : pen.at; };
        Vec2 a, b, c;
        double x = 0;
        switch (what) {
        case 'M':
            if (!point(a)) return false;
            pen.at = pen.start = a;
            pen.command = relative ? 'l' : 'L'; // more points are lines
            return true;
        case 'L':
            if (!point(a)) return false;
            pen.lineTo(a);
            return true;
        case 'H':
            if (!s.number(x)) return false;
            pen.lineTo({relative ? pen.at.x() + x : x, pen.at.y()});
            return true;
        case 'V':
            if (!s.number(x)) return false;
            pen.lineTo({pen.at.x(), relative ? pen.at.y() + x : x});
            return true;
        case 'C':
            if (!point(a) || !point(b) || !point(c)) return false;
            pen.cubicTo(a, b, c);
            return true;
        case 'S':
            if (!point(b) || !point(c)) return false;
            pen.cubicTo(mirrored("CS"), b, c);
            return true;
        case 'Q':
        case 'T': {
            if (what == 'Q' && !point(a)) return false;
            if (what == 'T') a = mirrored("QT");
            if (!point(c)) return false;
            const Vec2 from = pen.at;
            pen.cubicTo(from + 2.0 / 3.0 * (a - from), c + 2.0 / 3.0 * (a - c), c);
            pen.control = a;
            return true;
        }
        case 'A': {
            double rx = 0, ry = 0, turn = 0;
            bool large = false, sweep = false;
            if (!s.number(rx) || !s.number(ry) || !s.number(turn) || !s.flag(large) || !s.flag(sweep) || !point(c)) return false;
            arcTo(pen.whole, pen.at, std::abs(rx), std::abs(ry), radians(turn), large, sweep, c);
            return true;
        }
        default:
            return false;
        }
    }

    // From end points to centre, as the standard has it (SVG 1.1, F.6.5).
    static void arcTo(CurveChain& whole, Vec2& at, double rx, double ry, double turn, bool large, bool sweep, const Vec2& to) {
        if ((to - at).norm() < 1e-12) return;
        if (!(rx > 1e-12 && ry > 1e-12)) {
            whole.add(straightLines({lifted(at), lifted(to)}));
            at = to;
            return;
        }
        const Eigen::Rotation2Dd r(turn);
        const Vec2 half = r.inverse() * (0.5 * (at - to));
        const double grow = (half.x() / rx) * (half.x() / rx) + (half.y() / ry) * (half.y() / ry);
        if (grow > 1.0) {
            rx *= std::sqrt(grow);
            ry *= std::sqrt(grow);
        }
        const double num = rx * rx * ry * ry - rx * rx * half.y() * half.y() - ry * ry * half.x() * half.x(),
                     den = rx * rx * half.y() * half.y() + ry * ry * half.x() * half.x();
        const double k = (large == sweep ? -1.0 : 1.0) * std::sqrt(std::max(0.0, num / den));
        const Vec2 c(k * rx * half.y() / ry, -k * ry * half.x() / rx);
        const auto angle = [&](const Vec2& p) { return std::atan2((p.y() - c.y()) / ry, (p.x() - c.x()) / rx); };
        const double from = angle(half);
        double by = angle(-half) - from;
        if (sweep && by < 0.0) by += 2.0 * kPi;
        if (!sweep && by > 0.0) by -= 2.0 * kPi;
        const Vec2 centre = r * c + 0.5 * (at + to), a = r * Vec2(rx, 0), b = r * Vec2(0, ry);
        whole.add(ellipseArc(lifted(centre), lifted(a), lifted(b), from, from + by));
        at = to;
    }

    const std::string& m_place;
    double m_unit;
    Drawing m_drawing;
};

} // namespace

Result<Drawing> drawingFromSvg(const std::string& text, const std::string& place, double unit) {
    if (text.find_first_not_of(" \t\r\n") == std::string::npos) return fail("the file is empty", place);
    return Reader(place, unit).read(text);
}

} // namespace gyre
