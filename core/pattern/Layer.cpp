#include "pattern/Layer.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "geom/MeshTree.h"
#include "pattern/Beside.h"
#include "pattern/Bridge.h"

namespace gyre {
namespace {

using Sample = RowSample;

void addOutside(const RawLine& line, const RowsBeside& beside, std::vector<RawLine>& to) {
    std::vector<char> keep;
    for (const RowSample& s : line.samples) keep.push_back(!beside.between(s.point));
    addStretches(line, keep, to);
}

} // namespace

Status Layer::prepare(const std::vector<int>& faces, double spacing, Progress& progress) {
    if (hasRails())
        if (auto ok = findRails(faces); !ok) return ok;
    double area = 0.0;
    for (int f : faces) area += m_part.faces()[index(f)].area;
    // Fine enough for smooth rows, coarse enough for a solution in a fraction of a second.
    m_side = m_kind.fine || curvesAreRails() ? std::max(std::clamp(0.7 * spacing, 0.6, 1.0), std::sqrt(area / 25000.0))
                                             : std::max(std::clamp(3.0 * spacing, 0.6, 2.0), std::sqrt(area / 15000.0));
    const bool corners = m_spec.kind == PatternBy::Corners; // found on the exact faces alone
    if (corners) m_side = std::max(2.0, std::sqrt(area / 4000.0));
    progress.report(0.0, "Laying a field over the faces");
    auto mesh = m_part.fieldMesh(faces, m_side, &progress);
    if (!mesh) return tl::unexpected(mesh.error());
    m_mesh = std::move(*mesh);
    if (m_spec.across && betweenRails())
        if (auto ok = endAcross(); !ok) return ok;
    if (m_help.railsGoOn)
        if (auto ok = prolongRails(); !ok) return ok;
    if (besideOthers())
        if (auto ok = beginBeside(spacing); !ok) return ok;
    if (auto ok = beginAtRails(); !ok) return ok;
    std::vector<std::uint32_t> rails;
    for (const auto& lines : m_railPoints)
        for (const auto& line : lines) rails.insert(rails.end(), line.begin(), line.end());
    const std::size_t across = m_held.size();
    if (betweenRails() && !m_spec.guides.empty())
        if (auto ok = holdGuides(); !ok) return ok;
    for (std::size_t i = across; i < m_held.size(); ++i) rails.push_back(m_held[i].first);
    if (!corners) bridgeHoles(m_mesh, rails, m_side);
    progress.report(0.2, "Solving the field of the rows");
    auto field = m_kind.field({m_part, m_mesh, m_spec, m_railPoints, m_held, m_help.curves, &progress});
    if (!field) return tl::unexpected(field.error());
    m_field = std::move(field->field);
    m_space = std::move(field->space);
    m_even = field->width;
    m_extent = field->extent;
    m_findings = std::move(field->findings);
    if (betweenRails() && curvesAreRails()) keepBetween();
    m_tracer.emplace(m_mesh, m_field);
    m_tree = std::make_shared<const MeshTree>(treeOf(m_mesh));
    m_border = borderOf(m_mesh);
    for (const auto& t : m_mesh.triangles)
        m_triangleNormal.push_back((m_mesh.points[t[1]] - m_mesh.points[t[0]]).cross(m_mesh.points[t[2]] - m_mesh.points[t[0]]).normalized());
    for (int w = 0; w < 2; ++w) {
        if (!m_rails[index(w)].edges.empty()) {
            m_railRow[index(w)].level = levelOfRail(w);
            m_railRow[index(w)].lines.push_back(railLine(w));
        }
        for (RawLine& line : m_railRow[index(w)].lines) {
            turnWithLevels(line, w);
            m_railLines.emplace_back();
            for (const auto& s : line.samples) m_railLines.back().push_back(s.point);
        }
    }
    return {};
}

// Local width of a step of the field: what 1/|∇f| hardly anywhere exceeds at every level, summed up along the levels. At corners of the border the
// field stands still; how wide the gaps really are there is measured on the rows.
void Layer::calibrate() {
    if (m_even > 0.0) {
        m_knots = {{0.0, 0.0}, {1.0, m_even}};
        return;
    }
    constexpr std::size_t kBins = 512;
    constexpr double kHardly = 0.05;                                   // of the area
    std::vector<std::vector<std::pair<double, double>>> widths(kBins); // with the area that has it
    for (const auto& t : m_mesh.triangles) {
        const auto [low, high] = std::minmax({m_field.value[t[0]], m_field.value[t[1]], m_field.value[t[2]]});
        const double g = (m_field.gradient[t[0]] + m_field.gradient[t[1]] + m_field.gradient[t[2]]).norm() / 3.0;
        if (g < 1e-9) continue;
        const double area = (m_mesh.points[t[1]] - m_mesh.points[t[0]]).cross(m_mesh.points[t[2]] - m_mesh.points[t[0]]).norm();
        const auto from = static_cast<std::size_t>(low * (kBins - 1e-9)), to = static_cast<std::size_t>(high * (kBins - 1e-9));
        for (std::size_t b = from; b <= std::min(to, kBins - 1); ++b) widths[b].emplace_back(1.0 / g, area);
    }
    Box box;
    for (const Vec3& p : m_mesh.points) box.add(p);
    const double most = 0.25 * box.diagonal();
    m_knots = {{0.0, 0.0}};
    for (std::size_t b = 0; b < kBins; ++b) {
        auto& all = widths[b];
        std::sort(all.begin(), all.end(), std::greater<>());
        double above = 0.0, whole = 0.0, width = 1e-6;
        for (const auto& w : all) whole += w.second;
        for (const auto& [w, area] : all) {
            above += area;
            width = w;
            if (above >= kHardly * whole) break;
        }
        // In a tab the field may stand still so well that a bin would be wider than the faces are: what is really there is measured on the rows.
        m_knots.push_back({static_cast<double>(b + 1) / kBins, m_knots.back().width + std::min(width / kBins, most)});
    }
}

double Layer::levelAtWidth(double w) const {
    std::size_t k = 1;
    while (k + 1 < m_knots.size() && m_knots[k].width < w) ++k;
    const Knot &a = m_knots[k - 1], &b = m_knots[k];
    return std::clamp(a.level + (b.level - a.level) * (w - a.width) / std::max(b.width - a.width, 1e-12), 0.0, 1.0);
}

double Layer::widthAtLevel(double level) const {
    std::size_t k = 1;
    while (k + 1 < m_knots.size() && m_knots[k].level < level) ++k;
    const Knot &a = m_knots[k - 1], &b = m_knots[k];
    return a.width + (b.width - a.width) * (level - a.level) / std::max(b.level - a.level, 1e-12);
}

std::vector<double> Layer::levels(std::size_t steps) const {
    const bool beside = besideOthers(), firstOn = m_spec.ends == RowEnds::OnRails && !m_help.corner[0], lastOn = m_spec.ends == RowEnds::OnRails && !m_help.corner[1];
    std::vector<double> out;
    if (!m_stops.empty()) { // corners lie between: half a step to both sides of each
        std::vector<double> ends{0.0};
        for (const double level : m_stops) ends.push_back(widthAtLevel(level));
        ends.push_back(width());
        for (std::size_t i = 1; i < ends.size(); ++i) {
            const double wide = ends[i] - ends[i - 1];
            const auto n = std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(static_cast<double>(steps) * wide / width() - 1e-6)));
            for (std::size_t k = 0; k < n && wide > 0.0; ++k) out.push_back(levelAtWidth(ends[i - 1] + wide * (static_cast<double>(k) + 0.5) / static_cast<double>(n)));
        }
        return out;
    }
    // Rows of others are the first ones; half a step in is the last alone then.
    const double before = firstOn || beside ? 0.0 : 0.5, whole = static_cast<double>(steps) + ((before == 0.0) != lastOn ? 0.5 : 0.0);
    const std::size_t rows = steps + (before == 0.0 || lastOn ? 1 : 0);
    for (std::size_t i = 0; i < rows; ++i) out.push_back(levelAtWidth(width() * (static_cast<double>(i) + before) / whole));
    constexpr double kHair = 1e-6; // without rails the border may be a row, or a single point: a hair within
    if (firstOn) out.front() = hasRails() || beside ? 0.0 : kHair;
    if (lastOn) out.back() = betweenRails() ? 1.0 : 1.0 - kHair;
    return out;
}

std::vector<Sample> Layer::samplesOf(const LevelLine& line, Grade grade) const {
    std::vector<Sample> out;
    const std::size_t n = line.crossings.size();
    for (std::size_t i = 0; i < n; ++i) {
        const Crossing& c = line.crossings[i];
        // A crossing is of the triangle that the line comes into: the first one over a hole lies on its rim, where the row ends.
        const Crossing* before = i > 0 ? &line.crossings[i - 1] : line.closed ? &line.crossings[n - 1] : nullptr;
        const bool rim = c.face < 0 && before && before->face >= 0;
        const int face = rim ? before->face : c.face;
        // Crossings that almost coincide would make the direction of the row tremble.
        if (!out.empty() && !rim && !out.back().gapAfter && out.back().face == face && (out.back().point - c.point).norm() < 0.3 * m_side && i + 1 < n) continue;
        Sample s = grade == Grade::Exact && face >= 0 ? exact(face, c.point, rim ? before->uv : c.uv) : Sample{c.point, m_triangleNormal[c.triangle], c.uv, face, false};
        s.gapAfter = rim;
        out.push_back(s);
    }
    return out;
}

bool Layer::trace(const std::vector<double>& levels, Grade grade, std::vector<RawRow>& rows, const Progress* progress) const {
    rows.assign(levels.size(), {});
    return parallelFor(
        levels.size(), 1,
        [&](std::size_t i) {
            RawRow& row = rows[i];
            row.level = levels[i];
            if (levels[i] <= 0.0 || levels[i] >= 1.0)
                for (int w = 0; w < 2; ++w)
                    if (hasRail(w) && levelOfRail(w) == levels[i])
                        for (const RawLine& line : m_railRow[index(w)].lines) row.lines.push_back(line);
            if (levels[i] <= 0.0 && besideOthers()) row.lines = m_besideRow.lines;
            if (!row.lines.empty()) return;
            for (const LevelLine& line : m_tracer->lines(levels[i])) {
                RawLine raw;
                raw.closed = line.closed;
                raw.samples = samplesOf(line, grade);
                if (raw.samples.size() >= 2 && (raw.samples.back().point - raw.samples[raw.samples.size() - 2].point).norm() < 1e-6) raw.samples.pop_back();
                if (raw.samples.size() < 2) continue;
                // On the way to the rows of others there is nothing to cut.
                if (besideOthers() && std::all_of(raw.samples.begin(), raw.samples.end(), [](const Sample& s) { return s.face < 0; })) continue;
                if (!m_space && !(m_even > 0.0)) smooth(raw); // true distances do not tremble
                if (grade == Grade::Exact) settle(raw, levels[i]);
                if (besideOthers()) // between rows of theirs on these faces nothing is cut twice
                    addOutside(raw, *m_help.beside, row.lines);
                else
                    row.lines.push_back(std::move(raw));
            }
        },
        progress);
}

// Does smooth() leave the sample alone? Ends, and places where the row changes to another face, stay where they are.
bool Layer::stays(const RawLine& line, std::size_t i) {
    const std::size_t n = line.samples.size();
    const Sample &before = line.samples[(i + n - 1) % n], &here = line.samples[i];
    return (!line.closed && (i == 0 || i + 1 == n)) || before.face != here.face || here.gapAfter || before.gapAfter;
}

// Takes the trembling of the triangles out of a row: each point along the surface towards the chord of its neighbours.
void Layer::smooth(RawLine& line) const {
    const std::size_t n = line.samples.size();
    if (n < 4) return;
    std::vector<Vec3> from(n), traced(n);
    for (std::size_t i = 0; i < n; ++i) traced[i] = line.samples[i].point;
    for (int pass = 0; pass < 4; ++pass) {
        for (std::size_t i = 0; i < n; ++i) from[i] = line.samples[i].point;
        for (std::size_t i = 0; i < n; ++i) {
            if (stays(line, i)) continue;
            Sample& here = line.samples[i];
            const std::size_t before = (i + n - 1) % n, after = (i + 1) % n;
            const double a = (from[i] - from[before]).norm(), b = (from[after] - from[i]).norm();
            if (a + b < 1e-9) continue;
            const Vec3 chord = (b * from[before] + a * from[after]) / (a + b);
            here.point += 0.5 * rejected(chord - from[i], here.normal);
        }
    }
    // Around a corner of the border the chord leads over what is beyond.
    for (std::size_t i = 0; i < n; ++i)
        if (line.samples[i].face >= 0 && offFaces(line.samples[i].point, traced[i])) line.samples[i].point = traced[i];
}

// Puts the points that smooth() has moved back onto the exact surfaces; where space has the field, all of them onto its level as well.
void Layer::settle(RawLine& line, double level) const {
    const std::size_t n = line.samples.size();
    for (std::size_t i = 0; i < n; ++i) {
        Sample& s = line.samples[i];
        const bool fixed = stays(line, i);
        if (s.face < 0 || (fixed && !m_space)) continue;
        const bool gap = s.gapAfter;
        const Sample& before = line.samples[(i + n - 1) % n];
        if (!m_space)
            s = exact(s.face, s.point, s.uv);
        else if ((i > 0 || line.closed) && before.face >= 0 && before.face != s.face)
            s = onEdge(s, before, level);
        else
            s = onLevel(s, level);
        s.gapAfter = gap;
    }
    if (!m_space || n < 4) return;
    // What moved onto an edge may have passed its neighbour: of two that are that near the one on the edge stays, and nothing turns back within
    // less than a side of the mesh.
    std::vector<Sample> kept;
    const auto near = [&](const Sample& x, const Sample& y) { return (x.point - y.point).norm() < 0.15 * m_side; };
    for (std::size_t i = 0; i < n; ++i) {
        const Sample& s = line.samples[i];
        const bool loose = !stays(line, i);
        if (loose && ((stays(line, (i + n - 1) % n) && near(s, line.samples[(i + n - 1) % n])) || (stays(line, (i + 1) % n) && near(s, line.samples[(i + 1) % n]))))
            continue;
        while (kept.size() > 1) {
            const Vec3 in = kept.back().point - kept[kept.size() - 2].point, out = s.point - kept.back().point;
            if (in.dot(out) >= 0.0 || std::min(in.norm(), out.norm()) > m_side || kept.back().gapAfter) break;
            kept.pop_back();
        }
        kept.push_back(s);
    }
    if (kept.size() > 1) line.samples = std::move(kept);
}

// Where two faces and the level meet: Newton's steps in space. Where the faces go over into each other smoothly the edge says nothing.
Sample Layer::onEdge(const Sample& s, const Sample& before, double level) const {
    const auto eitherSide = [&] { // a face ends at the edge: the level may lie on the other one
        Sample moved = s, other = s;
        other.face = before.face;
        other.uv = before.uv;
        moved = onLevel(moved, level);
        other = onLevel(other, level);
        return std::abs(m_space->off(moved, level)) <= std::abs(m_space->off(other, level)) ? moved : other;
    };
    Sample here = s;
    Vec3 p = s.point;
    Vec2 otherUv = before.uv;
    for (int i = 0; i < 8; ++i) {
        here = exact(s.face, p, here.uv);
        const Sample other = exact(before.face, p, otherUv);
        otherUv = other.uv;
        const Sample inSpace{p, here.normal, here.uv, s.face, false};
        const Vec3 g = m_space->gradient(inSpace);
        const double scale = g.norm();
        if (!(scale > 0.0)) break;
        Mat3 m;
        m << here.normal.transpose(), other.normal.transpose(), (g / scale).transpose();
        if (std::abs(m.determinant()) < 0.02) return eitherSide();
        const Vec3 off((here.point - p).dot(here.normal), (other.point - p).dot(other.normal), -m_space->off(inSpace, level) / scale);
        const Vec3 step = m.inverse() * off;
        if (step.norm() > m_side) return eitherSide();
        p += step;
        if (step.norm() < 1e-8) break;
    }
    here = exact(s.face, p, here.uv);
    return here;
}

// Along the surface to where the field has the level: steps of Newton, none longer than a side of the mesh. Where faces and levels are nearly alike the exact
// level may lie beyond the faces' border, on surfaces that go on there: then the place on the triangles is as good.
Sample Layer::onLevel(Sample s, double level) const {
    const Sample start = s;
    for (int i = 0; i < 6; ++i) {
        const double off = m_space->off(s, level);
        const Vec3 along = rejected(m_space->gradient(s), s.normal);
        const double slope = along.squaredNorm();
        if (!(slope > 0.0)) break;
        const Vec3 step = -off / slope * along;
        if (step.norm() < 1e-7) break;
        if (step.norm() > m_side) break; // the face turns away from the level here
        const Sample next = exact(s.face, s.point + step, s.uv);
        if ((next.point - s.point - step).norm() > 0.3 * step.norm()) { // the surface ends there: along its end once, not as far as that goes
            if (std::abs(m_space->off(next, level)) < std::abs(off)) s = next;
            break;
        }
        s = next;
    }
    return offFaces(s.point, start.point) ? exact(start.face, start.point, start.uv) : s;
}

bool Layer::offFaces(const Vec3& p, const Vec3& from) const {
    constexpr double kMoved = 0.05, kBeyond = 0.04; // mm: the border comes as chords
    if ((p - from).norm() <= kMoved) return false;
    const double over = kMoved + 0.02 * m_side * m_side; // as far as a surface may stand off a triangle
    const ClosestPoint at = m_tree->closest(p, 2.0 * over);
    if (!(at.distance < over)) return true;
    if (at.distance < kBeyond) return false;
    const auto& t = m_mesh.triangles[at.triangle];
    for (std::size_t c = 0; c < 3; ++c)
        if (distanceToSegment(at.point, m_mesh.points[t[c]], m_mesh.points[t[(c + 1) % 3]]) < 1e-9 &&
            std::binary_search(m_border.begin(), m_border.end(), pairKey(t[c], t[(c + 1) % 3])))
            return true;
    return false;
}

// Puts the measured gaps in place of the estimated widths.
void Layer::rescale(const std::vector<double>& levels, const std::vector<RowGap>& gaps) {
    const std::vector<Knot> old = m_knots;
    const auto widthAt = [&](double level) {
        const auto it = std::upper_bound(old.begin() + 1, old.end() - 1, level, [](double l, const Knot& k) { return l < k.level; });
        const Knot &a = *(it - 1), &b = *it;
        return a.width + (b.width - a.width) * (level - a.level) / std::max(b.level - a.level, 1e-12);
    };
    m_knots = {{0.0, 0.0}};
    // Half a step in, the stretches before the first and after the last row keep their estimate, scaled as their neighbours are.
    const auto scale = [&](std::size_t i) { return gaps[i].counts / std::max(widthAt(levels[i + 1]) - widthAt(levels[i]), 1e-9); };
    if (levels.front() > 0.0) m_knots.push_back({levels.front(), widthAt(levels.front()) * scale(0)});
    for (std::size_t i = 0; i < gaps.size(); ++i) m_knots.push_back({levels[i + 1], m_knots.back().width + std::max(gaps[i].counts, 1e-6)});
    if (levels.back() < 1.0) m_knots.push_back({1.0, m_knots.back().width + (old.back().width - widthAt(levels.back())) * scale(gaps.size() - 1)});
}

void Layer::apart(std::vector<Sample>& dense) const {
    const double least = std::max(0.02, 4.0 * m_spec.chordTolerance);
    std::vector<Sample> out;
    for (std::size_t i = 0; i < dense.size(); ++i) {
        const bool last = i + 1 == dense.size();
        if (last)
            while (out.size() > 1 && (out.back().point - dense[i].point).norm() < least) out.pop_back();
        if (out.empty() || last || (out.back().point - dense[i].point).norm() >= least) out.push_back(dense[i]);
    }
    dense = std::move(out);
}

// Points as few as the chord tolerance allows; the way of the tool's tip bends with the normal, so that counts too.
double Layer::deviation(const RowSample& a, const RowSample& m, const RowSample& b) const {
    const double turn = angleBetween(a.normal, b.normal);
    return distanceToSegment(m.point, a.point, b.point) + m_radius * turn * turn / 8.0;
}

// Samples so near that the row between them deviates by half the tolerance, on the exact faces.
std::vector<RowSample> Layer::dense(const RawLine& line, double level) const {
    const std::size_t n = line.samples.size();
    const auto at = [&](std::ptrdiff_t i) -> const Sample& {
        const auto m = static_cast<std::ptrdiff_t>(n);
        if (line.closed) return line.samples[static_cast<std::size_t>(((i % m) + m) % m)];
        return line.samples[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(i, 0, m - 1))];
    };
    std::vector<Sample> out;
    const std::size_t spans = line.closed ? n : n - 1;
    for (std::size_t s = 0; s < spans; ++s) {
        const auto i = static_cast<std::ptrdiff_t>(s);
        const Sample &a = at(i), &b = at(i + 1);
        out.push_back(a);
        // Tangents of the cubic through the neighbours, scaled to this span; at a corner that of the span itself.
        const double span = (b.point - a.point).norm();
        const auto tangent = [&](std::ptrdiff_t k) {
            const Vec3 back = at(k).point - at(k - 1).point, ahead = at(k + 1).point - at(k).point;
            const double lb = back.norm(), la = ahead.norm();
            if (lb < 1e-12) return Vec3(ahead / std::max(la, 1e-12) * span);
            if (la < 1e-12) return Vec3(back / lb * span);
            constexpr double kCorner = 0.6; // cosine
            if (back.dot(ahead) < kCorner * lb * la) return Vec3(b.point - a.point);
            return Vec3(span * (back / lb * la + ahead / la * lb) / (la + lb));
        };
        const Vec3 ta = tangent(i), tb = tangent(i + 1);
        const auto cubic = [&](double t) {
            const double t2 = t * t, t3 = t2 * t;
            return Vec3((2 * t3 - 3 * t2 + 1) * a.point + (t3 - 2 * t2 + t) * ta + (3 * t2 - 2 * t3) * b.point + (t3 - t2) * tb);
        };
        const auto divide = [&](const auto& self, const Sample& from, double tFrom, const Sample& to, double tTo, int depth) -> void {
            const double t = 0.5 * (tFrom + tTo);
            const Vec3 guess = cubic(t);
            // Across a seam the parameters jump by a period, and their mean lies on the far side.
            const Vec2 mean = (1 - t) * a.uv + t * b.uv;
            const bool near = a.face == b.face && (m_part.evaluate(a.face, mean.x(), mean.y()).point - guess).norm() < span;
            Sample middle = exact(a.face, guess, near ? mean : a.uv);
            if (m_space) middle = onLevel(middle, level);
            // Beside a border the curve may swing out over it, where the surface goes on.
            if (offFaces(middle.point, 0.5 * (from.point + to.point))) middle = exact(a.face, 0.5 * (from.point + to.point), near ? mean : a.uv);
            if (depth >= 8 || (deviation(from, middle, to) < 0.5 * m_spec.chordTolerance && (to.point - from.point).norm() <= m_spec.longestStep)) return;
            self(self, from, tFrom, middle, t, depth + 1);
            out.push_back(middle);
            self(self, middle, t, to, tTo, depth + 1);
        };
        if (span > 1e-6) divide(divide, a, 0.0, b, 1.0, 0);
    }
    if (!line.closed) out.push_back(line.samples.back());
    if (m_space) apart(out);
    return out;
}

RowSample Layer::between(const RowSample& a, const RowSample& b, double share) const {
    const Vec2 mean = (1.0 - share) * a.uv + share * b.uv;
    const Vec3 guess = (1.0 - share) * a.point + share * b.point;
    // Across a seam the parameters jump by a period, and their mean lies on the far side.
    const bool near = a.face == b.face && (m_part.evaluate(a.face, mean.x(), mean.y()).point - guess).norm() < (b.point - a.point).norm();
    const RowSample s = exact(a.face, guess, near ? mean : a.uv);
    if (!m_space) return s;
    const double level = m_space->value(a);
    return onLevel(s, level + share * m_space->off(b, level));
}

RowSample Layer::onto(const Vec3& point, double level, const RowSample& beside) const {
    const ClosestPoint at = m_tree->closest(point);
    int face = m_mesh.faces[at.triangle];
    Vec2 uv = beside.uv;
    if (face < 0) // over a hole the face beside it goes on
        face = beside.face;
    else if (face != beside.face)
        uv = m_mesh.uv[at.triangle][0];
    const RowSample s = exact(face, point, uv);
    return m_space ? onLevel(s, level) : s;
}

Row Layer::thinned(const RawLine& line, double level, int number) const {
    const std::vector<Sample>& dense = line.samples;
    Row row;
    row.closed = line.closed;
    row.level = level;
    row.index = number;
    const auto keep = [&](const Sample& s) {
        row.points.push_back(s.point);
        row.normals.push_back(s.normal);
        row.faces.push_back(s.face);
    };
    std::size_t from = 0;
    keep(dense[0]);
    while (from + 1 < dense.size()) {
        std::size_t to = from + 1;
        const auto reaches = [&](std::size_t end) {
            if ((dense[end].point - dense[from].point).norm() > m_spec.longestStep) return false;
            for (std::size_t k = from + 1; k < end; ++k)
                if (deviation(dense[from], dense[k], dense[end]) > 0.75 * m_spec.chordTolerance) return false; // the worst place may lie between two samples
            return true;
        };
        while (to + 1 < dense.size() && reaches(to + 1)) ++to;
        keep(dense[to]);
        from = to;
    }
    return row;
}

} // namespace gyre
