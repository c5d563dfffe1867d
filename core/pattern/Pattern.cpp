#include "pattern/Pattern.h"
#include "base/Parallel.h"
#include "pattern/Beyond.h"
#include "pattern/Layer.h"
#include "pattern/Passage.h"
#include "pattern/Pieces.h"
#include "pattern/RowOrder.h"
#include "pattern/Spiral.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <numeric>

namespace gyre {

double scallopBetween(const PatternResult& rows, const Scallop& scallop) {
    double most = 0.0;
    for (const StepAcross& s : rows.steps) most = std::max(most, scallop.height(s.mm, s.curvature));
    return most;
}

void append(PatternResult& to, PatternResult&& more) {
    for (Row& row : more.rows) to.rows.push_back(std::move(row));
    to.rails.insert(to.rails.end(), more.rails.begin(), more.rails.end());
    to.spacing = std::max(to.spacing, more.spacing);
    to.widestGap = std::max(to.widestGap, more.widestGap);
    to.rowsLength += more.rowsLength;
    to.turns += more.turns;
    to.steps.insert(to.steps.end(), more.steps.begin(), more.steps.end());
    to.region.append(more.region);
    to.findings.insert(to.findings.end(), more.findings.begin(), more.findings.end());
}

namespace {
// Closed rows start where the row before started, as near as their points allow.
void alignStart(Row& r, const Vec3& start) {
    std::size_t best = 0;
    for (std::size_t i = 1; i < r.points.size(); ++i)
        if ((r.points[i] - start).norm() < (r.points[best] - start).norm()) best = i;
    const auto k = static_cast<std::ptrdiff_t>(best);
    std::rotate(r.points.begin(), r.points.begin() + k, r.points.end());
    std::rotate(r.normals.begin(), r.normals.begin() + k, r.normals.end());
    std::rotate(r.faces.begin(), r.faces.begin() + k, r.faces.end());
}

/// Rows as they are traced, and how far apart they are.
struct TracedRows {
    std::vector<RawRow> rows;
    double widest = 0.0;
    Vec3 at = Vec3::Zero();
    RowMeasure by;
    void measure(const std::vector<RowGap>& gaps) {
        widest = 0.0;
        for (const RowGap& g : gaps)
            if (g.widest > widest) {
                widest = g.widest;
                at = g.at;
            }
    }
};

// A level may touch the faces at their border in next to a point.
constexpr double kShortest = 0.1; // mm

double lengthOf(const RawLine& line) {
    double sum = 0.0;
    for (std::size_t i = 1; i < line.samples.size(); ++i) sum += (line.samples[i].point - line.samples[i - 1].point).norm();
    return sum;
}

// A given number of rows, as even as they get. @return false when cancelled
bool traceCount(Layer& layer, const PatternSpec& spec, TracedRows& out, Progress& progress) {
    const auto steps = static_cast<std::size_t>(std::max(1, spec.ends == RowEnds::OnRails && !layer.round() && !layer.besideOthers() ? spec.count - 1 : spec.count));
    for (int round = 0; round < 4; ++round) {
        progress.report(0.4 + 0.1 * round, "Tracing rows");
        const std::vector<double> levels = layer.levels(steps);
        if (!layer.trace(levels, round < 2 ? Layer::Grade::Rough : Layer::Grade::Exact, out.rows, &progress)) return false;
        const auto gaps = gapsBetween(out.rows, out.by, layer.source(), layer.width() / static_cast<double>(steps));
        out.measure(gaps);
        if (round < 3 && !gaps.empty()) layer.rescale(levels, gaps);
    }
    return true;
}

// Where the levels are even the width says how many rows it takes; a round more where they tremble. @return false when cancelled
bool traceEven(Layer& layer, double spacing, TracedRows& out, Progress& progress) {
    double more = 1.0;
    for (int round = 0; round < 3; ++round) {
        progress.report(0.4 + 0.1 * round, "Tracing rows");
        const auto steps = std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(more * layer.width() / spacing - 1e-6)));
        std::vector<double> levels = layer.levels(steps);
        if (!layer.trace(levels, Layer::Grade::Exact, out.rows, &progress)) return false;
        // Where all ways end in a point the last row is no row: one around the point takes its place, near enough to cover it.
        double last = 0.0;
        for (const RawLine& line : out.rows.back().lines) last += lengthOf(line);
        if (levels.size() > 1 && last < 2.0 * spacing) {
            levels.back() = 1.0 - 0.45 * (levels.back() - levels[levels.size() - 2]);
            std::vector<RawRow> around;
            if (!layer.trace({levels.back()}, Layer::Grade::Exact, around, &progress)) return false;
            out.rows.back() = std::move(around.front());
        }
        const auto gaps = gapsBetween(out.rows, out.by, layer.source(), spacing);
        out.measure(gaps);
        double counts = 0.0;
        for (const RowGap& g : gaps) counts = std::max(counts, g.counts);
        if (counts <= 1.01 * spacing) break;
        more = std::min(1.1, more * counts / spacing);
    }
    return true;
}

// Rough rows until the spacing is right, then exact ones until it is right for these too. @return false when cancelled
bool traceToSpacing(Layer& layer, const PatternSpec& spec, double spacing, TracedRows& out, Progress& progress) {
    using Grade = Layer::Grade;
    std::size_t extra = 0, most = layer.mostSteps(spacing);
    const int firstLook = out.by.byScallop() ? 2 : 0; // exact rounds until widths are those of scallops
    int standing = 0;                                 // rounds in which the field stood still at a corner
    // How faces bend between rows is told by exact normals alone.
    Grade grade = out.by.byScallop() ? Grade::Exact : Grade::Rough;
    for (int round = 0, exactRounds = 0; round < 12; ++round) {
        progress.report(0.4 + 0.03 * round, "Tracing rows");
        const auto steps = std::min(most, extra + std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(layer.width() / spacing - 1e-6))));
        const std::vector<double> levels = layer.levels(steps);
        if (!layer.trace(levels, grade, out.rows, &progress)) return false;
        const auto gaps = gapsBetween(out.rows, out.by, layer.source(), spacing);
        out.measure(gaps);
        double counts = 0.0, sum = 0.0, usual = 0.0;
        bool stands = false;
        for (const auto& g : gaps) {
            counts = std::max(counts, g.counts);
            sum += g.counts;
            usual += g.usual;
            stands = stands || g.counts < g.widest;
        }
        // More rows than the width needs do not help there.
        standing = stands ? standing + 1 : 0;
        if (standing > 2) most = std::min(most, static_cast<std::size_t>(std::ceil(1.03 * usual / spacing)) + 1);
        // Good: nowhere too wide, and no more rows than the measured widths need.
        const double whole = sum + (spec.ends == RowEnds::HalfStepIn && !gaps.empty() ? gaps.front().counts * 0.5 + gaps.back().counts * 0.5 : 0.0);
        const bool tooMany = (grade == Grade::Rough || out.by.byScallop()) && round < 3 && static_cast<double>(steps) > std::ceil(whole / spacing - 0.02);
        const bool good = gaps.empty() || (counts <= (grade == Grade::Rough ? 1.003 : 1.0075) * spacing && !tooMany);
        if (grade == Grade::Exact && (good || exactRounds++ == 4 + firstLook)) break;
        const bool settled = grade == Grade::Rough && (good || round == 4);
        if (settled) grade = Grade::Exact;
        if (good) continue;
        layer.rescale(levels, gaps);
        // Rows much closer together than the triangles are wide tremble by a percent or so: a few more rows make up for it.
        if (settled || exactRounds >= 1 + firstLook) extra += static_cast<std::size_t>(std::ceil(static_cast<double>(steps) * (counts / spacing - 1.0)));
    }
    if (out.widest <= 1.0075 * spacing) return true;
    auto gaps = gapsBetween(out.rows, out.by, layer.source(), spacing);
    if (!closeGaps(out.rows, gaps, spacing, out.by, layer.source(), &progress)) return false;
    out.measure(gaps);
    return true;
}

/// A line to be cut, and what it is of.
struct Laid {
    RawLine line; ///< dense
    double level = 0.0;
    int number = 0;
    bool joined = false;                               ///< of closed rows, which run the way round that is wanted
    bool turned = false;                               ///< to be run the other way
    std::vector<std::pair<double, double>> rings = {}; ///< of a spiral: the level and the length of what it was made of
};

double lengthOf(const Row& row) { return length(row.points) + (row.closed ? (row.points.front() - row.points.back()).norm() : 0.0); }

// How often a piece of a spiral goes round: by its length and that of the rings where it lies. The whole of it runs once more round the last.
double turnsOf(const Layer& layer, const Laid& spiral, const Row& piece) {
    const RowSource source = layer.source();
    const double begins = source.at(piece.points.front()).level, ends = source.at(piece.points.back()).level;
    const double low = std::min(begins, ends), high = std::max(begins, ends);
    double sum = 0.0, middle = 1e300, nearest = 0.0;
    int count = 0;
    for (const auto& [level, round] : spiral.rings) {
        if (const double off = std::abs(level - 0.5 * (low + high)); off < middle) {
            middle = off;
            nearest = round;
        }
        if (level < low || level > high) continue;
        sum += round;
        ++count;
    }
    return lengthOf(piece) / std::max(count > 0 ? sum / count : nearest, 1e-9);
}

/// Does the field rise to the right of a line? As most of some places along it say.
bool risesToTheRight(const Layer& layer, const RawLine& line, double reach) {
    const RowSource source = layer.source();
    const std::size_t n = line.samples.size();
    constexpr std::size_t kLooks = 15;
    int votes = 0;
    for (std::size_t k = 0; k < kLooks; ++k) {
        const std::size_t i = std::clamp<std::size_t>(n * (2 * k + 1) / (2 * kLooks), 1, n - 1);
        const RowSample &a = line.samples[i - 1], &b = line.samples[i];
        const Vec3 right = (b.point - a.point).cross(b.normal).normalized(), middle = 0.5 * (a.point + b.point);
        double rise = source.at(middle + reach * right).level - source.at(middle - reach * right).level;
        if (layer.round()) rise -= std::round(rise);
        votes += rise > 0.0 ? 1 : rise < 0.0 ? -1 : 0;
    }
    return votes > 0;
}

// Which of the lines are to be run the other way, all in all.
void turnLines(const Layer& layer, const PatternSpec& spec, double spacing, int last, std::vector<Laid>& laid) {
    const bool sided = spec.cut != RowCut::AsLaid && !layer.drawn();
    parallelFor(laid.size(), 1, [&](std::size_t i) {
        Laid& l = laid[i];
        constexpr double kBeside = 0.25; // of the spacing
        l.turned =
            !sided ? spec.reversed : (risesToTheRight(layer, l.line, kBeside * spacing) == higherStands(l.number, last, spec.start)) != (spec.cut == RowCut::Climb);
    });
}

// Closed rows that lie beside each other become one line each; what is open, or has an island beside it, stays.
std::vector<Laid> inSpirals(const Layer& layer, const PatternSpec& spec, double spacing, std::vector<Laid> laid) {
    std::map<int, int> linesOf;
    for (const Laid& l : laid) ++linesOf[l.number];
    const SpiralSource source{[&](const Vec3& p, double level, const RowSample& beside) { return layer.onto(p, level, beside); },
                              [&](const RowSample& a, const RowSample& m, const RowSample& b) {
                                  return layer.deviation(a, m, b) < 0.5 * spec.chordTolerance && (b.point - a.point).norm() <= spec.longestStep;
                              }};
    std::vector<Laid> out;
    std::vector<Ring> rings;
    int number = 0;
    const auto flush = [&] {
        if (rings.empty()) return;
        const bool joined = rings.size() > 1;
        const double level = rings.front().level;
        std::vector<std::pair<double, double>> rounds;
        for (const Ring& r : rings) rounds.emplace_back(r.level, lengthOf({r.samples, true}) + (r.samples.front().point - r.samples.back().point).norm());
        std::vector<RowSample> way = joined ? spiralThrough(std::move(rings), source) : std::move(rings.front().samples);
        if (joined) layer.apart(way);
        out.push_back({{std::move(way), !joined}, level, number, true, false, std::move(rounds)});
        rings.clear();
    };
    for (Laid& l : laid) {
        if (!l.line.closed || linesOf[l.number] > 1) {
            out.push_back(std::move(l));
            continue;
        }
        Ring ring{l.level, std::move(l.line.samples)};
        if (l.turned) std::reverse(ring.samples.begin(), ring.samples.end());
        // A row between them that is broken must not be passed over: the turns would be as far apart as two rows.
        constexpr double kNext = 1.2;
        if (!rings.empty() && !runsBeside(rings.back(), ring, kNext * spacing)) flush();
        if (rings.empty()) number = l.number;
        rings.push_back(std::move(ring));
    }
    flush();
    return out;
}

Finding tooShort(std::size_t lost, std::size_t left, double mm) {
    Finding f;
    f.rank = Rank::Look;
    f.code = "rows-too-short";
    f.stage = "Pattern";
    f.amount = static_cast<double>(lost);
    f.text = fmt::format("{} of {} rows are no longer than {:g} mm: nothing is left of them", lost, lost + left, 2.0 * mm);
    f.reason = fmt::format("rows end {:g} mm before both of their ends", mm);
    f.remedies.push_back({"Let rows end where they end", "pattern.beyond", "0"});
    return f;
}

/// What is kept of a line, with its ends where they are wanted.
/// @param vanished  counts parts of which nothing is left
std::vector<Row> rowsOf(const Layer& layer, const PatternSpec& spec, const Laid& laid, const WhereKept* where, std::size_t& vanished) {
    if (!where && !(spec.beyond < 0.0)) return {layer.thinned(laid.line, laid.level, laid.number)};
    const auto between = [&](const RowSample& a, const RowSample& b, double t) { return layer.between(a, b, t); };
    std::vector<Row> out;
    for (RawLine& part : where ? keptParts(laid.line, *where, between) : std::vector<RawLine>{laid.line}) {
        if (where && lengthOf(part) < kShortest) continue;
        if (spec.beyond < 0.0) part = shortened(part, -spec.beyond, between);
        if (part.samples.size() > 1 && (part.closed || lengthOf(part) >= kShortest))
            out.push_back(layer.thinned(part, laid.level, laid.number));
        else
            ++vanished;
    }
    return out;
}

// Points placed, rows in their order and direction. @return false when cancelled
bool placeRows(const Layer& layer, const PatternSpec& spec, const std::vector<RawRow>& rows, const WhereKept* where, PatternResult& out, Progress& progress) {
    std::vector<Laid> laid;
    for (std::size_t i = 0; i < rows.size(); ++i)
        for (const auto& line : rows[i].lines)
            for (RawLine& part : withoutHoles(line))
                if (layer.betweenRails() || lengthOf(part) >= kShortest) laid.push_back({std::move(part), rows[i].level, static_cast<int>(i)});
    progress.report(0.8, "Placing points");
    if (!parallelFor(
            laid.size(), 1, [&](std::size_t i) { laid[i].line.samples = layer.dense(laid[i].line, laid[i].level); }, &progress))
        return false;
    const int last = static_cast<int>(rows.size()) - 1;
    const auto inTurn = [&] {
        std::stable_sort(laid.begin(), laid.end(), [&](const Laid& a, const Laid& b) { return turnOf(a.number, last, spec.start) < turnOf(b.number, last, spec.start); });
    };
    inTurn();
    turnLines(layer, spec, out.spacing, last, laid);
    if (spec.order == RowOrder::Spiral && !layer.drawn()) {
        laid = inSpirals(layer, spec, out.spacing, std::move(laid));
        inTurn();
    }
    std::vector<std::vector<Row>> made(laid.size());
    std::vector<std::size_t> vanished(laid.size(), 0);
    if (!parallelFor(
            laid.size(), 1, [&](std::size_t i) { made[i] = rowsOf(layer, spec, laid[i], where, vanished[i]); }, &progress))
        return false;
    const int firstNumber = laid.empty() ? 0 : laid.front().number;
    double turns = 0.0;
    for (std::size_t i = 0; i < made.size(); ++i)
        for (Row& row : made[i]) {
            row.spiral = laid[i].joined && !laid[i].line.closed;
            if (row.spiral) turns += turnsOf(layer, laid[i], row);
            runTheWay(row, spec, firstNumber, last, laid[i].turned && !laid[i].joined);
            out.rows.push_back(std::move(row));
        }
    out.turns = static_cast<std::size_t>(std::ceil(turns - 0.1)); // what is begun counts as one
    if (const auto lost = std::accumulate(vanished.begin(), vanished.end(), std::size_t{0}); lost > 0)
        out.findings.push_back(tooShort(lost, out.rows.size(), -spec.beyond));
    if (spec.beyond > 0.0) goBeyond(out.rows, spec.beyond, spec.longestStep);
    if (spec.pieces) inPieces(out, spec, last);
    for (std::size_t i = 0; i < out.rows.size(); ++i) {
        Row& row = out.rows[i];
        if (row.closed && i > 0 && out.rows[i - 1].closed) alignStart(row, out.rows[i - 1].points.front());
        out.rowsLength += length(row.points);
    }
    return true;
}

// What rows tell of each other is checked by places: those that no row comes near get one, and gaps that none is are not told.
void checkPlaces(const Layer& layer, const PatternSpec& spec, double spacing, TracedRows& traced, PatternResult& out, const Progress& progress) {
    const double wide = 1.01 * (spec.by == RowsBy::Count ? traced.widest : spacing);
    // What will not be cut covers nothing.
    if (!layer.betweenRails())
        for (RawRow& row : traced.rows) std::erase_if(row.lines, [](const RawLine& line) { return lengthOf(line) < kShortest; });
    const bool byScallop = traced.by.byScallop();
    // Rows that run into each other between rails are what was asked for.
    constexpr double kTouching = 0.1; // of the spacing
    if (!layer.betweenRails() && spec.by != RowsBy::Count) thinOut(traced.rows, kTouching * spacing);
    Layer::Bare bare;
    // In hollows the scallop allows for more than on a plane.
    if (spec.by != RowsBy::Count) bare = layer.cover(traced.rows, byScallop ? 2.0 * spacing : spacing, &progress);
    auto steps = largestSteps(traced.rows, wide, layer.bareBetween(traced.rows));
    constexpr int kRounds = 6;
    for (int round = 0; round < kRounds && spec.by == RowsBy::Spacing && steps.widest > wide && !progress.cancelled(); ++round) {
        const std::size_t before = traced.rows.size();
        layer.coverBetween(traced.rows, steps.wide, spacing);
        if (traced.rows.size() == before) break;
        steps = largestSteps(traced.rows, wide, layer.bareBetween(traced.rows));
    }
    out.steps = steps.all;
    if (steps.widest > wide && !byScallop) std::tie(steps.widest, steps.at) = layer.widestCut(traced.rows, steps.wide);
    if (byScallop || traced.widest > wide) {
        traced.widest = steps.widest;
        traced.at = steps.at;
    }
    if (bare.widest > traced.widest) {
        traced.widest = bare.widest;
        traced.at = bare.at;
        out.steps.push_back({bare.widest, 0.0});
    }
    if (layer.besideOthers()) std::erase_if(traced.rows, [](const RawRow& row) { return row.level <= 0.0 || row.lines.empty(); });
    // Once round the last row is the first one again.
    if (layer.round() && traced.rows.size() > 1 && traced.rows.back().level > 1.0 - 1e-5) traced.rows.pop_back();
}

Finding notInSpiral(const PatternResult& out) {
    Finding f;
    f.rank = out.turns > 0 ? Rank::Note : Rank::Look;
    f.code = "not-in-spiral";
    f.stage = "Pattern";
    const auto rest = std::count_if(out.rows.begin(), out.rows.end(), [&](const Row& r) { return !r.spiral; });
    f.amount = static_cast<double>(rest);
    f.text = out.turns > 0 ? fmt::format("{} of {} ways are rows of their own beside the spiral", rest, out.rows.size()) : "No two rows can be joined in a spiral";
    const auto first = std::find_if(out.rows.begin(), out.rows.end(), [](const Row& r) { return !r.spiral; });
    f.place = {first->points.front().x(), first->points.front().y(), first->points.front().z()};
    f.reason = "only rows that close on themselves, one within the other, can be joined";
    if (out.turns == 0) f.remedies.push_back({"Cut them back and forth", "pattern.order", "backAndForth"});
    return f;
}

Finding scallopIsHigh(const TracedRows& traced, double most, double asked) {
    Finding f;
    f.rank = Rank::Look;
    f.code = "scallop-high";
    f.stage = "Pattern";
    f.amount = most;
    f.text = fmt::format("The highest scallop is {:.4f} mm, {:.4f} was asked for", most, asked);
    f.place = {traced.at.x(), traced.at.y(), traced.at.z()};
    f.reason = "at a corner of the faces' border, or where rows fan out, no further rows were found that lower it; a lower scallop does";
    return f;
}

Finding gapIsWide(const TracedRows& traced, double spacing) {
    Finding f;
    f.rank = Rank::Look;
    f.code = "gap-wide";
    f.stage = "Pattern";
    f.amount = traced.widest;
    f.text = fmt::format("The widest gap is {:.3f} mm, {:.3f} was asked for", traced.widest, spacing);
    f.place = {traced.at.x(), traced.at.y(), traced.at.z()};
    f.reason = "at a corner of the faces' border, or where rows fan out, no further rows were found that close it; a smaller spacing does";
    return f;
}

} // namespace

namespace {

// Every face has rows of its own, one face after the other.
Result<PatternResult> faceByFace(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowCutter& cutter, Progress& progress,
                                 const RowHelp& help) {
    PatternResult out;
    int next = 0;
    for (std::size_t i = 0; i < faces.size(); ++i) {
        const double share = 1.0 / static_cast<double>(faces.size());
        const Progress::Span span(progress, share * static_cast<double>(i), share * static_cast<double>(i + 1));
        auto one = layRows(part, {faces[i]}, spec, cutter, progress, help);
        // A region may leave nothing of one face.
        if (!one && help.where && one.error().what == kNothingKept) continue;
        if (!one) return one;
        int last = 0;
        for (Row& r : one->rows) {
            last = std::max(last, r.index);
            r.index += next;
        }
        next += last + 1;
        append(out, std::move(*one));
    }
    if (out.rows.empty()) return fail(kNothingKept, "Pattern", "Let it keep more");
    return out;
}

} // namespace

Result<PatternResult> layRows(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowCutter& cutter, Progress& progress,
                              const RowHelp& help) {
    if (faces.empty()) return fail("no face is picked", "Target", "Pick the faces to cut");
    if (spec.kind == PatternBy::Passage) return layPassage(part, faces, spec, cutter, progress, help);
    if (kindOf(spec.kind).faceByFace && faces.size() > 1) return faceByFace(part, faces, spec, cutter, progress, help);
    if (spec.order == RowOrder::Spiral && (spec.start == RowStart::Middle || spec.start == RowStart::Outside))
        return fail("a spiral runs from one end to the other", "Pattern", "Let it start at one end");
    if (spec.cut != RowCut::AsLaid && spec.order == RowOrder::BackAndForth && !kindOf(spec.kind).drawn)
        return fail("rows that run back and forth are cut climbing and conventional by turns", "Pattern", "Let them run one way");
    PatternResult out;
    const bool drawn = kindOf(spec.kind).drawn, corners = spec.kind == PatternBy::Corners;
    const bool byScallop = spec.by == RowsBy::Scallop && (!drawn || corners);
    if (byScallop && (!cutter.scallop || !cutter.scallop->round()))
        return fail("a flat cutter leaves no scallop that could set the spacing", "Pattern", "Give the spacing as a distance, or let the cutter lean in its feed");
    out.spacing = drawn && !corners ? 0.5 : byScallop ? cutter.scallop->step(spec.scallop, 0.0) : spec.by == RowsBy::Count ? 0.5 : spec.spacing;
    if (!(out.spacing >= 0.005)) return fail(fmt::format("rows {} mm apart cannot be laid", out.spacing), "Pattern", "Use at least 0.005 mm");
    Layer layer(part, spec, cutter.radius, help);
    {
        const Progress::Span span(progress, 0.0, 0.4);
        if (auto ok = layer.prepare(faces, out.spacing, progress); !ok) return tl::unexpected(ok.error());
    }
    if (!drawn) layer.calibrate();
    out.findings = layer.findings();
    constexpr double kMostRows = 20000.0;
    const bool counted = spec.by == RowsBy::Count;
    if (!counted && !drawn && std::min(layer.width() / out.spacing, static_cast<double>(layer.mostSteps(out.spacing))) > kMostRows)
        return fail(fmt::format("{:.0f} rows would be needed", layer.width() / out.spacing), "Pattern", "Use a larger spacing");
    TracedRows traced;
    if (byScallop && !drawn) traced.by = RowMeasure(*cutter.scallop, spec.scallop);
    if (corners) {
        auto found = layer.rowsInCorners(faces, out.spacing, progress);
        if (!found) return tl::unexpected(found.error());
        traced = {std::move(found->rows), found->widest, found->at, {}};
    } else if (drawn) {
        traced.rows = layer.drawnRows();
    }
    const bool there = drawn                        ? true
                       : counted                    ? traceCount(layer, spec, traced, progress)
                       : layer.even() && !byScallop ? traceEven(layer, out.spacing, traced, progress)
                                                    : traceToSpacing(layer, spec, out.spacing, traced, progress);
    if (!there) return cancelledError();
    if (!drawn) checkPlaces(layer, spec, out.spacing, traced, out, progress);
    out.widestGap = traced.widest;
    if (progress.cancelled()) return cancelledError();
    if (counted || (drawn && !corners)) out.spacing = traced.widest;
    if (!placeRows(layer, spec, traced.rows, help.where, out, progress)) return cancelledError();
    out.rails = layer.rails();
    if (help.where) out.region = keptRegion(layer.mesh(), *help.where);
    if (out.rows.empty() && !out.findings.empty() && out.findings.back().code == "rows-too-short")
        return fail(fmt::format("no row is longer than {:g} mm: nothing is left of them", -2.0 * spec.beyond), "Pattern", "Let less be taken off their ends");
    if (out.rows.empty() && help.where) return fail(kNothingKept, "Pattern", "Let it keep more");
    if (out.rows.empty()) return fail("no row lies on the picked faces", "Pattern", "Pick other faces or rails");
    if (traced.by.byScallop()) {
        const double most = scallopBetween(out, *cutter.scallop);
        if (most > 1.03 * spec.scallop) out.findings.push_back(scallopIsHigh(traced, most, spec.scallop));
    } else if (out.widestGap > 1.01 * out.spacing)
        out.findings.push_back(gapIsWide(traced, out.spacing));
    if (spec.order == RowOrder::Spiral && std::any_of(out.rows.begin(), out.rows.end(), [](const Row& r) { return !r.spiral; })) out.findings.push_back(notInSpiral(out));
    progress.report(1.0, "Rows are laid");
    return out;
}

} // namespace gyre
