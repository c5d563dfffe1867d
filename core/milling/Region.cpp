#include "milling/Region.h"
#include <algorithm>
#include <cmath>
#include <functional>
#include <polyclipping/clipper.hpp>

namespace gyre {
namespace {

namespace clip = ClipperLib;
constexpr double kScale = 1e5; // integers of 10 nm: ten metres fit the library's quick range

clip::IntPoint toGrid(const Vec2& p) { return {static_cast<clip::cInt>(std::llround(p.x() * kScale)), static_cast<clip::cInt>(std::llround(p.y() * kScale))}; }
Vec2 fromGrid(const clip::IntPoint& p) { return {static_cast<double>(p.X) / kScale, static_cast<double>(p.Y) / kScale}; }

clip::Path toGrid(const std::vector<Vec2>& line) {
    clip::Path out;
    out.reserve(line.size());
    for (const Vec2& p : line) out.push_back(toGrid(p));
    return out;
}
clip::Paths toGrid(const Region& r) {
    clip::Paths out;
    for (const Loop& l : r.loops) out.push_back(toGrid(l));
    return out;
}
Loop fromGrid(const clip::Path& path) {
    Loop out;
    out.reserve(path.size());
    for (const auto& p : path) out.push_back(fromGrid(p));
    return out;
}
Region fromGrid(const clip::Paths& paths) {
    Region r;
    for (const auto& p : paths)
        if (p.size() >= 3 && std::abs(clip::Area(p)) > 1e-6 * kScale * kScale) r.loops.push_back(fromGrid(p));
    return r;
}

Region combined(const Region& a, const Region& b, clip::ClipType how) {
    clip::Clipper c;
    c.StrictlySimple(true);
    c.AddPaths(toGrid(a), clip::ptSubject, true);
    c.AddPaths(toGrid(b), clip::ptClip, true);
    clip::Paths out;
    c.Execute(how, out, clip::pftNonZero, clip::pftNonZero);
    return fromGrid(out);
}

Vec2 nearestOnPiece(const Vec2& p, const Vec2& a, const Vec2& b) {
    const Vec2 d = b - a;
    const double t = d.squaredNorm() > 0.0 ? std::clamp((p - a).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
    return a + t * d;
}
double distanceToPiece(const Vec2& p, const Vec2& a, const Vec2& b) { return (nearestOnPiece(p, a, b) - p).norm(); }

/// Douglas–Peucker on the stretch (from, to) of a loop.
void keepFar(const Loop& loop, std::size_t from, std::size_t to, double tolerance, std::vector<char>& keep) {
    std::vector<std::pair<std::size_t, std::size_t>> open{{from, to}};
    while (!open.empty()) {
        const auto [a, b] = open.back();
        open.pop_back();
        double most = tolerance;
        std::size_t at = a;
        for (std::size_t i = a + 1; i < b; ++i)
            if (const double d = distanceToPiece(loop[i], loop[a], loop[b % loop.size()]); d > most) {
                most = d;
                at = i;
            }
        if (at == a) continue;
        keep[at] = 1;
        open.push_back({a, at});
        open.push_back({at, b});
    }
}

Region offsetOf(const clip::Paths& paths, double by, clip::EndType ends, double tolerance) {
    clip::ClipperOffset o(2.0, tolerance * kScale);
    o.AddPaths(paths, clip::jtRound, ends);
    clip::Paths out;
    o.Execute(out, by * kScale);
    // Offsets of offsets would double their corners every time.
    return fewerPoints(fromGrid(out), 0.2 * tolerance);
}

std::vector<Line> clipped(const std::vector<Line>& lines, const Region& region, clip::ClipType how) {
    clip::Clipper c;
    for (const Line& l : lines)
        if (l.size() >= 2) c.AddPath(toGrid(l), clip::ptSubject, false);
    c.AddPaths(toGrid(region), clip::ptClip, true);
    clip::PolyTree tree;
    c.Execute(how, tree, clip::pftNonZero, clip::pftNonZero);
    clip::Paths open;
    clip::OpenPathsFromPolyTree(tree, open);
    std::vector<Line> out;
    for (const auto& p : open) out.push_back(fromGrid(p));
    return out;
}

double cross(const Vec2& a, const Vec2& b) { return a.x() * b.y() - a.y() * b.x(); }

bool inside(const Loop& loop, const Vec2& p) {
    bool in = false;
    for (std::size_t i = 0, j = loop.size() - 1; i < loop.size(); j = i++)
        if ((loop[i].y() > p.y()) != (loop[j].y() > p.y()) && p.x() < loop[i].x() + (p.y() - loop[i].y()) * (loop[j].x() - loop[i].x()) / (loop[j].y() - loop[i].y()))
            in = !in;
    return in;
}

} // namespace

double signedArea(const Loop& loop) {
    double sum = 0.0;
    for (std::size_t i = 0, j = loop.size() - 1; i < loop.size(); j = i++) sum += cross(loop[j], loop[i]);
    return 0.5 * sum;
}

double Region::area() const {
    double sum = 0.0;
    for (const Loop& l : loops) sum += signedArea(l);
    return sum;
}

bool Region::contains(const Vec2& p) const {
    bool in = false;
    for (const Loop& l : loops) in = in != inside(l, p);
    return in;
}

Vec2 Region::nearestOnBorder(const Vec2& p) const {
    Vec2 best = Vec2::Constant(1e300);
    double away = 1e300;
    for (const Loop& l : loops)
        for (std::size_t i = 0, j = l.size() - 1; i < l.size(); j = i++) {
            const Vec2 q = nearestOnPiece(p, l[j], l[i]);
            if (const double d = (q - p).squaredNorm(); d < away) {
                away = d;
                best = q;
            }
        }
    return best;
}

double Region::distanceToBorder(const Vec2& p) const { return loops.empty() ? 1e300 : (nearestOnBorder(p) - p).norm(); }

double Region::distanceToBorder(const Vec2& a, const Vec2& b) const {
    double best = 1e300;
    for (const Loop& l : loops)
        for (std::size_t i = 0, j = l.size() - 1; i < l.size(); j = i++) {
            const Vec2 d = b - a, e = l[i] - l[j], f = l[j] - a;
            const double det = cross(d, e), t = cross(f, e), s = cross(f, d);
            if (det != 0.0 && t / det >= 0.0 && t / det <= 1.0 && s / det >= 0.0 && s / det <= 1.0) return 0.0;
            best = std::min({best, distanceToPiece(a, l[j], l[i]), distanceToPiece(b, l[j], l[i]), distanceToPiece(l[j], a, b)}); // l[i] is the next piece's
        }
    return best;
}

bool Region::containsWay(const Vec2& a, const Vec2& b) const {
    constexpr double kRim = 2e-3;
    const auto good = [&](const Vec2& p) { return contains(p) || distanceToBorder(p) < kRim; };
    if (!good(a) || !good(b)) return false;
    // Between two crossings with the border the way is all inside or all outside.
    const Vec2 d = b - a;
    std::vector<double> cuts{0.0, 1.0};
    for (const Loop& l : loops)
        for (std::size_t i = 0, j = l.size() - 1; i < l.size(); j = i++) {
            const Vec2 e = l[i] - l[j];
            const double det = cross(d, e);
            if (std::abs(det) < 1e-15) continue;
            const double t = cross(l[j] - a, e) / det, s = cross(l[j] - a, d) / det;
            if (t > 0.0 && t < 1.0 && s >= -1e-9 && s <= 1.0 + 1e-9) cuts.push_back(t);
        }
    std::sort(cuts.begin(), cuts.end());
    for (std::size_t i = 1; i < cuts.size(); ++i)
        if (!good(a + 0.5 * (cuts[i - 1] + cuts[i]) * d)) return false;
    return true;
}

std::pair<Vec2, Vec2> Region::bounds() const {
    Vec2 low = Vec2::Constant(1e300), high = Vec2::Constant(-1e300);
    for (const Loop& l : loops)
        for (const Vec2& p : l) {
            low = low.cwiseMin(p);
            high = high.cwiseMax(p);
        }
    return {low, high};
}

Region fewerPoints(const Region& region, double tolerance) {
    Region out;
    for (const Loop& loop : region.loops) {
        if (loop.size() < 5) {
            out.loops.push_back(loop);
            continue;
        }
        // Two far corners stay; between them only what is needed.
        std::size_t far = 0;
        for (std::size_t i = 1; i < loop.size(); ++i)
            if ((loop[i] - loop[0]).squaredNorm() > (loop[far] - loop[0]).squaredNorm()) far = i;
        std::vector<char> keep(loop.size(), 0);
        keep[0] = keep[far] = 1;
        keepFar(loop, 0, far, tolerance, keep);
        keepFar(loop, far, loop.size(), tolerance, keep);
        Loop less;
        for (std::size_t i = 0; i < loop.size(); ++i)
            if (keep[i]) less.push_back(loop[i]);
        if (less.size() >= 3) out.loops.push_back(std::move(less));
    }
    return out;
}

Line fewerPoints(const Line& line, double tolerance) {
    if (line.size() < 3) return line;
    std::vector<char> keep(line.size(), 0);
    keep.front() = keep.back() = 1;
    keepFar(line, 0, line.size() - 1, tolerance, keep);
    Line out;
    for (std::size_t i = 0; i < line.size(); ++i)
        if (keep[i]) out.push_back(line[i]);
    return out;
}

Line keptInside(const Line& line, const Region& region) {
    if (line.empty()) return line;
    Line out{line.front()};
    Vec2 seen = Vec2::Constant(1e300); // within `free` of there all is inside
    double free = 0.0;
    const std::function<void(const Vec2&, int)> to = [&](const Vec2& b, int deep) {
        const Vec2 a = out.back();
        bool good = (a - seen).norm() < free && (b - seen).norm() < free;
        if (!good && region.contains(b)) {
            seen = b;
            free = region.distanceToBorder(b);
            good = (a - b).norm() < free;
        }
        if (good || deep == 0 || region.containsWay(a, b)) {
            out.push_back(b);
            return;
        }
        const Vec2 middle = 0.5 * (a + b);
        to(region.contains(middle) ? middle : region.nearestOnBorder(middle), deep - 1);
        to(b, deep - 1);
    };
    for (std::size_t i = 1; i < line.size(); ++i) to(line[i], 8);
    return out;
}

Region regionOf(const std::vector<Loop>& loops) {
    clip::Clipper c;
    c.StrictlySimple(true);
    for (const Loop& l : loops) c.AddPath(toGrid(l), clip::ptSubject, true);
    clip::Paths out;
    c.Execute(clip::ctUnion, out, clip::pftEvenOdd, clip::pftEvenOdd);
    return fromGrid(out);
}

Region united(const Region& a, const Region& b) { return combined(a, b, clip::ctUnion); }
Region common(const Region& a, const Region& b) { return combined(a, b, clip::ctIntersection); }
Region unitedAll(const std::vector<Loop>& loops) {
    clip::Clipper c;
    for (const Loop& l : loops) {
        clip::Path path = toGrid(l);
        if (clip::Area(path) < 0.0) std::reverse(path.begin(), path.end());
        c.AddPath(path, clip::ptSubject, true);
    }
    clip::Paths out;
    c.Execute(clip::ctUnion, out, clip::pftNonZero, clip::pftNonZero);
    return fromGrid(out);
}
Region without(const Region& a, const Region& b) { return combined(a, b, clip::ctDifference); }
Region grown(const Region& a, double by, double tolerance) { return by == 0.0 ? a : offsetOf(toGrid(a), by, clip::etClosedPolygon, tolerance); }

Region aroundLines(const std::vector<Line>& lines, double by, double tolerance) {
    if (by <= 0.0) return {};
    Region all;
    clip::Paths open, closed;
    for (const Line& l : lines) {
        if (l.size() < 2) continue;
        clip::Path p = toGrid(l);
        const bool loop = p.size() > 3 && p.front() == p.back();
        if (loop) p.pop_back();
        (loop ? closed : open).push_back(std::move(p));
    }
    if (!open.empty()) all = offsetOf(open, by, clip::etOpenRound, tolerance);
    if (!closed.empty()) {
        const Region rings = offsetOf(closed, by, clip::etClosedLine, tolerance);
        all = all.empty() ? rings : united(all, rings);
    }
    return all;
}

std::vector<Line> linesInside(const std::vector<Line>& lines, const Region& region) { return clipped(lines, region, clip::ctIntersection); }
std::vector<Line> linesOutside(const std::vector<Line>& lines, const Region& region) { return clipped(lines, region, clip::ctDifference); }

std::vector<Region> pieces(const Region& region) {
    std::vector<Region> out;
    for (const Loop& l : region.loops)
        if (signedArea(l) > 0.0) out.push_back({{l}});
    for (const Loop& l : region.loops) {
        if (signedArea(l) > 0.0) continue;
        // The smallest outer loop around the hole.
        Region* owner = nullptr;
        for (Region& r : out)
            if (inside(r.loops.front(), l.front()) && (!owner || signedArea(r.loops.front()) < signedArea(owner->loops.front()))) owner = &r;
        if (owner) owner->loops.push_back(l);
    }
    return out;
}

Vec2 deepestPoint(const Region& region) {
    const auto [low, high] = region.bounds();
    Vec2 best = region.loops.front().front();
    double depth = -1.0;
    double size = (high - low).maxCoeff();
    const auto look = [&](const Vec2& p) {
        if (!region.contains(p)) return;
        const double d = region.distanceToBorder(p);
        if (d > depth) {
            depth = d;
            best = p;
        }
    };
    constexpr int n = 16;
    for (int i = 0; i <= n; ++i)
        for (int k = 0; k <= n; ++k) look(low + Vec2((high.x() - low.x()) * i / n, (high.y() - low.y()) * k / n));
    for (double step = size / n; depth >= 0.0 && step > 0.005 * size; step *= 0.5) {
        const Vec2 from = best;
        for (int i = -1; i <= 1; ++i)
            for (int k = -1; k <= 1; ++k) look(from + 0.5 * step * Vec2(i, k));
    }
    return best;
}

} // namespace gyre
