#include "drawing/Drawing.h"
#include "base/File.h"
#include "base/Units.h"
#include "drawing/DrawingParts.h"
#include <algorithm>
#include <fmt/format.h>
#include <unordered_map>

namespace gyre {

Box Drawing::bounds() const {
    Box b;
    for (const DrawnCurve& c : curves) b.add(c.curve.bounds());
    return b;
}

namespace {
std::string suffixOf(const std::filesystem::path& file) {
    std::string s = file.extension().string();
    for (char& c : s) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return s;
}
} // namespace

bool isDrawingFile(const std::filesystem::path& file) { return suffixOf(file) == ".dxf" || suffixOf(file) == ".svg"; }

Result<Drawing> readDrawing(const std::filesystem::path& file, double unit) {
    constexpr std::uintmax_t kLargest = 128u << 20;
    const auto text = readFile(file, kLargest);
    if (!text) return tl::unexpected(text.error());
    const std::string place = file.filename().string();
    return suffixOf(file) == ".svg" ? drawingFromSvg(*text, place, unit) : drawingFromDxf(*text, place, unit);
}

Curve ellipseArc(const Vec3& centre, const Vec3& a, const Vec3& b, double from, double to) {
    const double la = a.norm(), lb = b.norm();
    if (!(la > 0.0) || !(lb > 0.0) || !(std::abs(to - from) > 1e-12)) return {};
    if (std::abs(la - lb) < 1e-9 * la && std::abs(a.dot(b)) < 1e-9 * la * lb) // a circle
        return circleArc(centre, a.cross(b).normalized(), centre + std::cos(from) * a + std::sin(from) * b, to - from);
    // Quarter turns, so that no look at a piece misses a bend.
    CurveChain whole(1e-9 * (la + lb));
    const int n = std::max(1, static_cast<int>(std::ceil(std::abs(to - from) / (0.5 * kPi) - 1e-9)));
    for (int i = 0; i < n; ++i) {
        const auto piece = sampled([&](double t) -> Result<Vec3> {
            const double w = from + (to - from) * (i + t) / n;
            return Vec3(centre + std::cos(w) * a + std::sin(w) * b);
        });
        if (piece) whole.add(*piece);
    }
    return whole.take();
}

namespace {

/// One after the other; closed where the last ends at the first's start.
Curve endToEnd(const std::vector<Curve>& order, double same) {
    std::vector<CurveKnot> knots;
    for (const Curve& c : order) {
        auto first = c.knots().begin();
        if (!knots.empty()) {
            knots.back().after = first->after;
            ++first;
        }
        knots.insert(knots.end(), first, c.knots().end());
    }
    const bool closes = knots.size() > 2 && (knots.front().point - knots.back().point).norm() <= same;
    if (closes) {
        knots.front().before = knots.back().before;
        knots.pop_back();
    }
    return Curve(std::move(knots), closes);
}

} // namespace

std::vector<DrawnCurve> chained(std::vector<DrawnCurve> pieces) {
    constexpr double kSame = 1e-4;
    // Ends in a grid of cells; an end looks for others in its own cell and those beside it.
    struct End {
        std::size_t curve;
        bool last;
    };
    std::unordered_map<std::uint64_t, std::vector<End>> cells;
    const auto cellOf = [&](const Vec3& p, int i, int j) {
        const auto x = static_cast<std::int64_t>(std::floor(p.x() / (4 * kSame))) + i, y = static_cast<std::int64_t>(std::floor(p.y() / (4 * kSame))) + j;
        return (static_cast<std::uint64_t>(x) << 32) ^ (static_cast<std::uint64_t>(y) & 0xffffffffu);
    };
    const auto endOf = [&](const End& e) { return e.last ? pieces[e.curve].curve.end() : pieces[e.curve].curve.start(); };
    for (std::size_t i = 0; i < pieces.size(); ++i)
        if (!pieces[i].curve.closed())
            for (const bool last : {false, true}) cells[cellOf(endOf({i, last}), 0, 0)].push_back({i, last});
    std::vector<char> used(pieces.size(), 0);
    // The one other end at this place; none when there are several, for then it is a branch.
    const auto partner = [&](const End& e) -> std::optional<End> {
        std::optional<End> found;
        const Vec3 p = endOf(e);
        for (int i = -1; i <= 1; ++i)
            for (int j = -1; j <= 1; ++j) {
                const auto it = cells.find(cellOf(p, i, j));
                if (it == cells.end()) continue;
                for (const End& o : it->second) {
                    if (o.curve == e.curve && o.last == e.last) continue;
                    if (pieces[o.curve].layer != pieces[e.curve].layer || (endOf(o) - p).norm() > kSame) continue;
                    if (found) return std::nullopt;
                    found = o;
                }
            }
        return found;
    };
    std::vector<DrawnCurve> out;
    for (std::size_t i = 0; i < pieces.size(); ++i) {
        if (used[i]) continue;
        used[i] = 1;
        DrawnCurve whole = pieces[i];
        if (!whole.curve.closed()) {
            // Forward from the end, then backward from the start; pieces are put together once, in order.
            std::vector<std::pair<std::size_t, bool>> before, after;
            for (const bool forward : {true, false})
                for (End e{i, forward};;) {
                    const auto next = partner(e);
                    if (!next || used[next->curve]) break;
                    used[next->curve] = 1;
                    (forward ? after : before).emplace_back(next->curve, next->last == forward);
                    e = {next->curve, !next->last};
                }
            std::vector<Curve> order;
            for (auto it = before.rbegin(); it != before.rend(); ++it) order.push_back(it->second ? pieces[it->first].curve.reversed() : pieces[it->first].curve);
            order.push_back(whole.curve);
            for (const auto& [c, turned] : after) order.push_back(turned ? pieces[c].curve.reversed() : pieces[c].curve);
            if (order.size() > 1) whole.curve = endToEnd(order, kSame);
        }
        out.push_back(std::move(whole));
    }
    return out;
}

std::string dxfOf(const std::vector<DrawnCurve>& curves, double tolerance) {
    std::string s = "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n";
    for (const DrawnCurve& c : curves) {
        const Polyline line = c.curve.polyline(tolerance);
        const std::string layer = c.layer.empty() ? "0" : c.layer;
        if (line.size() == 2) {
            s += fmt::format("0\nLINE\n8\n{}\n10\n{:.9g}\n20\n{:.9g}\n30\n{:.9g}\n11\n{:.9g}\n21\n{:.9g}\n31\n{:.9g}\n", layer, line[0].x(), line[0].y(), line[0].z(),
                             line[1].x(), line[1].y(), line[1].z());
            continue;
        }
        s += fmt::format("0\nPOLYLINE\n8\n{}\n66\n1\n70\n{}\n", layer, c.curve.closed() ? 9 : 8);
        for (std::size_t i = 0; i + (c.curve.closed() ? 1 : 0) < line.size(); ++i)
            s += fmt::format("0\nVERTEX\n8\n{}\n70\n32\n10\n{:.9g}\n20\n{:.9g}\n30\n{:.9g}\n", layer, line[i].x(), line[i].y(), line[i].z());
        s += "0\nSEQEND\n";
    }
    return s + "0\nENDSEC\n0\nEOF\n";
}

} // namespace gyre
