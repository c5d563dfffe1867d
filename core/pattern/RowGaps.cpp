#include "base/Parallel.h"
#include "pattern/RawRows.h"
#include <algorithm>
#include <cmath>
#include <memory>
#include <optional>

namespace gyre {
namespace {

Polyline pointsOf(const RawLine& line) {
    Polyline p;
    for (const auto& s : line.samples) p.push_back(s.point);
    if (line.closed && !p.empty()) p.push_back(p.front());
    return p;
}

/// A row that distances are asked from.
class Beside {
public:
    explicit Beside(const RawRow& row) : m_row(&row) {
        for (const RawLine& line : row.lines) m_lines.emplace_back(pointsOf(line));
    }
    struct Foot {
        double distance;
        std::size_t line = 0, segment = 0;
    };
    [[nodiscard]] double distance(const Vec3& p, double limit) const { return foot(p, limit).distance; }
    [[nodiscard]] Foot foot(const Vec3& p, double limit) const {
        Foot best{limit};
        for (std::size_t i = 0; i < m_lines.size(); ++i)
            if (const auto n = m_lines[i].nearest(p, best.distance); n.distance < best.distance) best = {n.distance, i, n.segment};
        return best;
    }
    [[nodiscard]] RowSample at(const Foot& foot, const Vec3& p) const {
        const auto& samples = m_row->lines[foot.line].samples;
        const RowSample &a = samples[foot.segment], &b = samples[(foot.segment + 1) % samples.size()];
        const Vec3 way = b.point - a.point;
        const double share = way.squaredNorm() > 0.0 ? std::clamp((p - a.point).dot(way) / way.squaredNorm(), 0.0, 1.0) : 0.0;
        RowSample out = share < 0.5 ? a : b;
        out.point = a.point + share * way;
        const Vec3 normal = (1.0 - share) * a.normal + share * b.normal;
        if (a.face == b.face && normal.norm() > 1e-9) out.normal = normal.normalized(); // over an edge either face has its own
        return out;
    }
    /// The step from p to a foot that is `mm` away. Across a sharp edge the faces do not bend: what stands there is the edge.
    [[nodiscard]] StepAcross step(const RowSample& p, const Foot& foot, double mm) const {
        constexpr double kEdge = 0.985; // cosine of the angle between the normals of two faces: within a gap they bend smoothly by less
        const RowSample q = at(foot, p.point);
        const Vec3 across = q.point - p.point;
        const double far = across.squaredNorm();
        if (!(far > 1e-12) || (p.face != q.face && q.normal.dot(p.normal) < kEdge)) return {mm, 0.0};
        return {mm, (q.normal - p.normal).dot(across) / far};
    }
    /// Across from p, whose nearest place is `d` away. Where that is an end of a line that p lies beyond, what lies along the line is no gap; nothing
    /// where most of it does: there the faces' border, not another row, comes next to p.
    [[nodiscard]] std::optional<double> across(const Vec3& p, double d) const {
        constexpr double kBeyond = 0.5; // of the distance, along the row
        for (const RawLine& line : m_row->lines) {
            const std::size_t n = line.samples.size();
            if (line.closed || n < 2) continue;
            for (const bool last : {false, true}) {
                const Vec3 &end = line.samples[last ? n - 1 : 0].point, &inner = line.samples[last ? n - 2 : 1].point;
                if ((p - end).norm() > d + 1e-9) continue;
                const double along = (p - end).dot((end - inner).normalized());
                if (along > kBeyond * d) return std::nullopt;
                if (along > 0.0) return std::sqrt(d * d - along * along);
            }
        }
        return d;
    }
    [[nodiscard]] Vec3 nearest(const Vec3& p) const {
        Vec3 best = p;
        double least = 1e300;
        for (const RawLine& line : m_row->lines)
            for (const RowSample& s : line.samples)
                if (const double d = (s.point - p).norm(); d < least) {
                    least = d;
                    best = s.point;
                }
        return best;
    }

private:
    const RawRow* m_row;
    std::vector<PolylineDistance> m_lines;
};

/// Two neighbouring rows and what is put between them.
class Between {
public:
    Between(const RawRow& low, const RawRow& high, double spacing, const RowMeasure& measure, const RowSource& source)
        : m_spacing(spacing), m_measure(measure), m_source(source) {
        add(low);
        add(high);
    }
    RowGap close(const Progress* progress) {
        constexpr int kMost = 64; // rows between two
        double before = 1e300, need = kNeed;
        for (int made = 0; made < kMost; ++made) {
            const Widest w = widest();
            const RowGap left{w.distance, w.distance, w.distance, w.at};
            if (w.distance <= kWide * m_spacing || need < kLeastNeed || (progress && progress->cancelled())) return left;
            // A place as wide as before may be another one, or the row was left out there: less is asked of it then.
            need = w.distance < before - 1e-6 ? kNeed : 0.85 * need;
            before = w.distance;
            const double low = std::min(m_made[w.from]->level, m_made[w.to]->level), high = std::max(m_made[w.from]->level, m_made[w.to]->level);
            const Vec3 across = 0.5 * (w.at + m_rows[w.to].nearest(w.at));
            const double level = std::clamp(m_source.at(across).level, low + 0.02 * (high - low), high - 0.02 * (high - low));
            if (!(level > low && level < high)) return left;
            if (RawRow row = needed(m_source.trace(level), need); !row.lines.empty()) add(std::move(row));
        }
        const Widest w = widest();
        return {w.distance, w.distance, w.distance, w.at};
    }
    /// What was put in, by rising levels.
    [[nodiscard]] std::vector<RawRow> added() const {
        std::vector<RawRow> out;
        for (std::size_t i = 2; i < m_made.size(); ++i) {
            out.push_back(*m_made[i]);
            out.back().between = true;
        }
        std::stable_sort(out.begin(), out.end(), [](const RawRow& a, const RawRow& b) { return a.level < b.level; });
        return out;
    }

private:
    static constexpr double kWide = 1.0075;
    static constexpr double kNeed = 0.95, kLeastNeed = 0.2; ///< of the spacing: rows that lie less far apart need none between
    struct Widest {
        double distance = 0.0;
        Vec3 at = Vec3::Zero();
        std::size_t from = 0, to = 0;
    };
    void add(RawRow row) {
        m_made.push_back(std::make_unique<RawRow>(std::move(row)));
        m_rows.emplace_back(*m_made.back());
    }
    /// The nearest row whose level is above (or below) a level; its number, or −1 where the border comes first.
    [[nodiscard]] std::pair<double, int> next(const RowSample& p, double level, bool above) const {
        Beside::Foot foot{1e300};
        int which = -1;
        for (std::size_t i = 0; i < m_rows.size(); ++i) {
            if (above ? m_made[i]->level <= level : m_made[i]->level >= level) continue;
            const auto to = m_rows[i].foot(p.point, foot.distance);
            if (to.distance >= foot.distance) continue;
            foot = to;
            which = static_cast<int>(i);
        }
        if (which < 0) return {foot.distance, which};
        const Beside& row = m_rows[static_cast<std::size_t>(which)];
        const auto across = row.across(p.point, foot.distance);
        return {m_measure.counts(row.step(p, foot, across.value_or(foot.distance))), across ? which : -1};
    }
    /// The widest place whose middle lies on the faces: across a notch of the border there is no gap.
    [[nodiscard]] Widest widest() const {
        std::vector<Widest> all;
        for (std::size_t i = 0; i < m_made.size(); ++i)
            for (const bool above : {false, true}) {
                if (i < 2 && above != (i == 0)) continue; // beyond the two lie others
                for (const RawLine& line : m_made[i]->lines)
                    for (const RowSample& s : line.samples) {
                        if (s.face < 0) continue; // nothing is cut there
                        const auto [d, which] = next(s, m_made[i]->level, above);
                        if (which >= 0) all.push_back({d, s.point, i, static_cast<std::size_t>(which)});
                    }
            }
        std::stable_sort(all.begin(), all.end(), [](const Widest& a, const Widest& b) { return a.distance > b.distance; });
        for (const Widest& w : all)
            if (w.distance <= kWide * m_spacing || m_source.at(0.5 * (w.at + m_rows[w.to].nearest(w.at))).off < 0.1 * w.distance) return w;
        return {};
    }
    [[nodiscard]] RawRow needed(const RawRow& row, double need) const {
        RawRow out;
        out.level = row.level;
        for (const RawLine& line : row.lines) {
            const std::size_t n = line.samples.size();
            std::vector<char> keep(n, 0);
            for (std::size_t i = 0; i < n; ++i) {
                const RowSample& p = line.samples[i];
                const auto low = next(p, row.level, false), high = next(p, row.level, true);
                if (low.first + high.first <= need * m_spacing) continue;
                // And a step to both sides.
                const auto widen = [&](int by) {
                    double way = 0.0;
                    std::size_t at = i;
                    while (true) {
                        keep[at] = 1;
                        if (!line.closed && (by < 0 ? at == 0 : at + 1 == n)) return;
                        const std::size_t further = (at + n + static_cast<std::size_t>(by + static_cast<int>(n))) % n;
                        way += (line.samples[further].point - line.samples[at].point).norm();
                        if (way > m_spacing || further == i) return;
                        at = further;
                    }
                };
                widen(-1);
                widen(1);
            }
            addStretches(line, keep, out.lines);
        }
        return out;
    }

    double m_spacing;
    const RowMeasure& m_measure;
    const RowSource& m_source;
    std::vector<std::unique_ptr<RawRow>> m_made; ///< the two, then what was put between
    std::vector<Beside> m_rows;
};

// Steps and curvatures are told apart by a hundredth, so that few are kept.
void keepLargest(std::vector<StepAcross>& all, const StepAcross& step) {
    const double mm = 1.005 * step.mm, curvature = step.curvature + 0.005 * std::abs(step.curvature) + 1e-6;
    for (const StepAcross& s : all)
        if (s.mm * 1.005 >= step.mm && s.curvature + 0.005 * std::abs(s.curvature) + 1e-6 >= step.curvature) return;
    std::erase_if(all, [&](const StepAcross& s) { return s.mm <= mm && s.curvature <= curvature; });
    all.push_back(step);
}

} // namespace

void addStretches(const RawLine& line, const std::vector<char>& keep, std::vector<RawLine>& to) {
    const std::size_t n = line.samples.size();
    const auto gone = std::find(keep.begin(), keep.end(), 0);
    if (gone == keep.end()) return to.push_back(line);
    // A closed line begins behind a place that is left out.
    const std::size_t from = line.closed ? static_cast<std::size_t>(gone - keep.begin()) : 0;
    RawLine part;
    for (std::size_t k = 0; k <= n; ++k) {
        const std::size_t i = (from + k) % n;
        if (k < n && keep[i])
            part.samples.push_back(line.samples[i]);
        else {
            if (part.samples.size() > 1) to.push_back(std::move(part));
            part = {};
        }
    }
}

bool RowSource::leadsAcross(const Vec3& a, const Vec3& b, double low, double high) const {
    constexpr double kBeside = 0.25, kAbout = 1e-4; // of the way: the middle of a step over a hollow or a round lies that near; of levels
    const Place middle = at(0.5 * (a + b));
    const double room = high - low + kAbout;
    return middle.off <= kBeside * (b - a).norm() && middle.level > low - room && middle.level < high + room;
}

// At corners of the border a field stands still, and no number of rows closes the gap there evenly: a few places that are far wider than nearly
// all others do not decide for the whole row; closeGaps() sees to them.
std::vector<RowGap> gapsBetween(const std::vector<RawRow>& rows, const RowMeasure& by, const RowSource& source, double limit) {
    constexpr double kNearlyAll = 0.9, kFar = 1.5;
    std::vector<RowGap> gap(rows.size() > 1 ? rows.size() - 1 : 0);
    std::vector<std::optional<Beside>> beside(rows.size());
    parallelFor(rows.size(), 1, [&](std::size_t i) { beside[i].emplace(rows[i]); });
    parallelFor(gap.size(), 1, [&](std::size_t i) {
        std::vector<double> all;
        const auto measure = [&](const RawRow& from, const Beside& other) {
            for (const auto& line : from.lines)
                for (const auto& s : line.samples) {
                    if (s.face < 0) continue; // nothing is cut there
                    const Beside::Foot foot = other.foot(s.point, 1e300);
                    const auto across = foot.distance < 1e299 ? other.across(s.point, foot.distance) : std::nullopt;
                    if (!across) continue;
                    if (*across > limit && !source.leadsAcross(s.point, other.at(foot, s.point).point, rows[i].level, rows[i + 1].level)) continue;
                    const double counts = by.byScallop() ? by.counts(other.step(s, foot, *across)) : *across;
                    all.push_back(counts);
                    if (counts > gap[i].widest) {
                        gap[i].widest = counts;
                        gap[i].at = s.point;
                    }
                }
        };
        measure(rows[i], *beside[i + 1]);
        measure(rows[i + 1], *beside[i]);
        if (all.empty()) return;
        const auto nearly = all.begin() + static_cast<std::ptrdiff_t>(kNearlyAll * static_cast<double>(all.size() - 1));
        std::nth_element(all.begin(), nearly, all.end());
        gap[i].usual = *nearly;
        gap[i].counts = gap[i].widest > kFar * *nearly ? *nearly : gap[i].widest;
    });
    return gap;
}

void thinOut(std::vector<RawRow>& rows, double least) {
    std::vector<std::optional<Beside>> beside(rows.size());
    parallelFor(rows.size(), 1, [&](std::size_t i) { beside[i].emplace(rows[i]); });
    for (std::size_t i = 1; i + 1 < rows.size(); ++i) {
        bool thinner = false;
        RawRow kept;
        kept.level = rows[i].level;
        kept.between = true; // it runs only in places
        for (const RawLine& line : rows[i].lines) {
            const std::size_t n = line.samples.size();
            std::vector<char> keep(n, 1);
            for (std::size_t s = 0; s < n; ++s) {
                const Vec3& p = line.samples[s].point;
                const double above = beside[i + 1]->distance(p, least);
                // Those before it are what is left of them; beyond one that is whole lies none that is nearer.
                double below = least;
                for (std::size_t k = i; k-- > 0;) {
                    below = beside[k]->distance(p, below);
                    if (!rows[k].between) break;
                }
                if (below + above < least || below < 0.2 * least) keep[s] = 0;
            }
            thinner = thinner || std::find(keep.begin(), keep.end(), 0) != keep.end();
            addStretches(line, keep, kept.lines);
        }
        if (!thinner) continue;
        rows[i] = std::move(kept);
        beside[i].emplace(rows[i]);
    }
}

LargestSteps largestSteps(const std::vector<RawRow>& rows, double limit, const std::function<double(const Vec3&, const Vec3&)>& truly) {
    // Beside a row that runs only in places the next whole one is its neighbour too.
    std::vector<std::optional<Beside>> beside(rows.size());
    parallelFor(rows.size(), 1, [&](std::size_t i) { beside[i].emplace(rows[i]); });
    std::vector<LargestSteps> of(rows.size());
    parallelFor(rows.size(), 1, [&](std::size_t i) {
        for (const bool above : {false, true}) {
            std::vector<const Beside*> next;
            for (std::size_t k = i; above ? ++k < rows.size() : k-- > 0;) {
                next.push_back(&*beside[k]);
                if (!rows[k].between) break;
            }
            for (const RawLine& line : rows[i].lines)
                for (const RowSample& s : line.samples) {
                    if (s.face < 0) continue; // nothing is cut there
                    Beside::Foot foot{1e299};
                    const Beside* which = nullptr;
                    for (const Beside* b : next)
                        if (const auto f = b->foot(s.point, foot.distance); f.distance < foot.distance) {
                            foot = f;
                            which = b;
                        }
                    auto across = which ? which->across(s.point, foot.distance) : std::nullopt;
                    if (!across) continue;
                    if (*across > limit) across = std::min(*across, truly(s.point, which->at(foot, s.point).point));
                    if (!(*across > 0.0)) continue;
                    keepLargest(of[i].all, which->step(s, foot, *across));
                    if (*across > of[i].widest) {
                        of[i].widest = *across;
                        of[i].at = 0.5 * (s.point + which->at(foot, s.point).point);
                        of[i].wide = {{s.point, which->at(foot, s.point).point}};
                    }
                }
        }
    });
    LargestSteps out;
    for (const LargestSteps& one : of) {
        for (const StepAcross& s : one.all) keepLargest(out.all, s);
        if (one.widest > limit) out.wide.push_back(one.wide.front());
        if (one.widest > out.widest) {
            out.widest = one.widest;
            out.at = one.at;
        }
    }
    return out;
}

bool closeGaps(std::vector<RawRow>& rows, std::vector<RowGap>& gaps, double spacing, const RowMeasure& measure, const RowSource& source, const Progress* progress) {
    std::vector<std::vector<RawRow>> between(gaps.size());
    if (!parallelFor(
            gaps.size(), 1,
            [&](std::size_t i) {
                if (gaps[i].widest <= 1.0075 * spacing) return;
                Between b(rows[i], rows[i + 1], spacing, measure, source);
                gaps[i] = b.close(progress);
                between[i] = b.added();
            },
            progress))
        return false;
    std::vector<RawRow> all;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        all.push_back(std::move(rows[i]));
        if (i < between.size()) std::move(between[i].begin(), between[i].end(), std::back_inserter(all));
    }
    rows = std::move(all);
    return true;
}

} // namespace gyre
