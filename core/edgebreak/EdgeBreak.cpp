#include "base/Parallel.h"
#include "base/Units.h"
#include "edgebreak/BreakSpec.h"
#include "edgebreak/EdgeSections.h"
#include "geom/FindingAt.h"
#include <fmt/format.h>
#include <map>

namespace gyre {

const char* breakEdgesName(BreakEdges e) {
    static constexpr const char* kNames[] = {"picked", "faces", "body", "holesNear", "holesFar", "holesBoth"};
    return kNames[static_cast<int>(e)];
}

namespace {

class Breaker {
public:
    Breaker(const BreakInput& in, const BreakSpec& spec, const Assembly& tool, const Fineness& fineness, Progress& progress)
        : m_in(in), m_spec(spec), m_cutter(tool.cutter), m_fineness(fineness), m_progress(progress) {}
    Result<AlongResult> run();

private:
    [[nodiscard]] Status suits();
    [[nodiscard]] Error noEdges() const;
    [[nodiscard]] Status findFlank();
    void openStrips();
    bool cutRuns();
    void tellAll();
    void sayFacts(const std::vector<int>& edges);
    [[nodiscard]] bool ballLike() const {
        return m_cutter.shape == CutterShape::Ball || m_cutter.shape == CutterShape::Lollipop || (m_cutter.shape == CutterShape::TaperedBall && m_spec.rows > 1) ||
               m_ballOfTaper;
    }
    struct Touch {
        Vec3 contact, normal;
    };
    [[nodiscard]] Touch touchAt(const EdgeSection& s, int row) const;
    [[nodiscard]] std::optional<AxisPose> poseFor(const Touch& t, const Vec3& axis) const;
    struct Choice {
        std::string words;
        std::function<Vec3(const EdgeSection&, const Vec3& normal)> axis;
        bool fixed = false;
    };
    [[nodiscard]] std::vector<Choice> choicesFor(const EdgeRun& run, const std::vector<EdgeSection>& sections) const;
    [[nodiscard]] double mostFromPole() const;
    /// What came of a choice.
    struct Tried {
        std::size_t good = 0, off = 0;
        std::string trouble;
        Vec3 where = Vec3::Zero();
        std::vector<std::vector<AxisPose>> poses; ///< of each row
    };
    [[nodiscard]] int rows() const { return ballLike() ? m_spec.rows : 1; }
    [[nodiscard]] double reach() const { return 0.5 * m_cutter.diameter; }
    [[nodiscard]] bool nearEnd(const EdgeRun& run, const std::vector<EdgeSection>& sections, const EdgeSection& s) const;
    [[nodiscard]] bool tiny(const EdgeRun& run, const std::vector<EdgeSection>& sections) const;
    [[nodiscard]] Tried attempt(const EdgeRun& run, const std::vector<EdgeSection>& sections, const Choice& choice, std::size_t every, bool ask) const;
    [[nodiscard]] std::pair<Choice, Tried> best(const EdgeRun& run, const std::vector<EdgeSection>& sections) const;
    void cut(const EdgeRun& run, const std::vector<EdgeSection>& sections);
    void cutRow(const EdgeRun& run, const std::vector<EdgeSection>& sections, int row, std::vector<AxisPose> poses, bool alongHole);
    void trimEnds(const std::vector<EdgeSection>& sections, std::vector<AxisPose>& poses, std::vector<Vec3>& contacts, std::vector<Vec3>& normals, double reach);
    [[nodiscard]] Pass fromTheMiddle(const Pass& pass, const Hole& hole) const;
    void tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const Vec3& at, double amount = 0.0, std::vector<Remedy> remedies = {});

    const BreakInput& m_in;
    const BreakSpec& m_spec;
    const Cutter& m_cutter;
    Fineness m_fineness;
    Progress& m_progress;
    AlongResult m_out;
    std::vector<EdgeRun> m_runs;
    std::vector<std::vector<EdgeSection>> m_sections; ///< of each run
    bool m_ballOfTaper = false;
    double m_flankHeight = 0.0; ///< of the middle of the contact, above the tip
    std::map<std::string, int> m_used;
    struct Trouble {
        std::size_t runs = 0;
        Vec3 at = Vec3::Zero();
    };
    std::map<std::string, Trouble> m_near, m_lost; ///< by reason
    std::size_t m_corners = 0;                     ///< where a run was cut short
    double m_mostLeft = 0.0;
    Vec3 m_cornerAt = Vec3::Zero();
};

void Breaker::tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const Vec3& at, double amount, std::vector<Remedy> remedies) {
    m_out.findings.push_back(findingAt(rank, code, "Pattern", text, reason, at, amount, std::move(remedies)));
}

Breaker::Touch Breaker::touchAt(const EdgeSection& s, int row) const {
    const Vec3 facet = s.leg[1] - s.leg[0];
    const Vec3 middle = 0.5 * (s.leg[0] + s.leg[1]);
    const double r = 0.5 * m_cutter.diameter;
    if (m_spec.round) {
        const double t = m_spec.rows > 1 ? static_cast<double>(row) / (m_spec.rows - 1) : 0.5;
        const Vec3 a = rejected(s.normal[0], s.along).normalized(), b = rejected(s.normal[1], s.along).normalized(), n = slerp(a, b, t);
        const Vec3 centre = 0.5 * (s.leg[0] - m_spec.size * a + s.leg[1] - m_spec.size * b);
        return {centre + m_spec.size * n, n};
    }
    if (!ballLike()) return {middle, s.out};
    if (m_spec.rows > 1) return {s.leg[0] + static_cast<double>(row) / (m_spec.rows - 1) * facet, s.out};
    const double w = 0.5 * facet.norm();
    const Vec3 centre = middle + std::sqrt(std::max(0.0, r * r - w * w)) * s.out;
    return {centre - r * s.out, s.out};
}

double Breaker::mostFromPole() const {
    const double r = 0.5 * m_cutter.diameter;
    switch (m_cutter.shape) {
    case CutterShape::Lollipop: // up to where the neck leaves the ball, and a little off it
        return kPi - std::asin(std::clamp(0.5 * m_cutter.neckDiameter / r, 0.0, 1.0)) - radians(4.0);
    case CutterShape::TaperedBall:
        return radians(80.0) - flankAngle(m_cutter);
    default:
        return radians(80.0);
    }
}

std::optional<AxisPose> Breaker::poseFor(const Touch& t, const Vec3& axis) const {
    if (ballLike()) {
        const double pole = angleBetween(axis, t.normal);
        if (pole > mostFromPole() + radians(0.5)) return std::nullopt;
        const double r = 0.5 * m_cutter.diameter;
        return AxisPose{t.contact + r * (t.normal - axis), axis};
    }
    const double k = flankAngle(m_cutter);
    if (std::abs(axis.dot(t.normal) - std::sin(k)) > std::sin(radians(0.5))) return std::nullopt; // the flank would not lie on the facet
    const Vec3 side = rejected(t.normal, axis).normalized();
    return AxisPose{t.contact + flankRadius(m_cutter, m_flankHeight) * side - m_flankHeight * axis, axis};
}

std::vector<Breaker::Choice> Breaker::choicesFor(const EdgeRun& run, const std::vector<EdgeSection>& sections) const {
    std::vector<Choice> out;
    const auto fixed = [&](const Vec3& d, const std::string& words) { out.push_back({words, [d](const EdgeSection&, const Vec3&) { return d; }, true}); };
    const auto turned = [&](double degree) {
        out.push_back(
            {fmt::format("turned {:g}° about the edge", degree), [degree](const EdgeSection& s, const Vec3& n) { return Vec3(rotation(s.along, radians(degree)) * n); }});
    };
    const double flank = degrees(0.5 * kPi - flankAngle(m_cutter));
    switch (m_spec.axis) {
    case BreakAxis::Fixed:
        fixed(m_spec.direction.normalized(), "in one direction");
        return out;
    case BreakAxis::Turn:
        turned(ballLike() ? m_spec.turnDegrees : m_spec.turnDegrees < 0.0 ? -flank : flank);
        return out;
    case BreakAxis::Propose:
        break;
    }
    if (run.hole) {
        const Hole& h = m_in.holes[*run.hole];
        fixed(h.direction, run.far ? "through the holes" : "along the holes");
        if (run.far && h.bottom == HoleBottom::Through) fixed(-h.direction, "from beyond the holes");
    }
    fixed(Vec3::UnitZ(), "along Z");
    if (ballLike()) {
        // One direction for the whole run, then one that goes round with the edge.
        if (run.closed) {
            Vec3 mean = Vec3::Zero();
            for (const EdgeSection& s : sections) mean += s.out;
            if (mean.norm() > 0.3 * static_cast<double>(sections.size())) fixed(mean.normalized(), "in one direction");
        }
        for (const double d : {45.0, -45.0, 60.0, -60.0, 30.0, -30.0, 75.0, -75.0}) turned(d);
        if (m_cutter.shape == CutterShape::Lollipop)
            for (const double d : {100.0, -100.0, 125.0, -125.0}) turned(d);
    } else {
        turned(flank);
        turned(-flank);
    }
    return out;
}

// Beside the ends of an open run the cutter may stand in what comes beyond: that is looked at afterwards.
bool Breaker::nearEnd(const EdgeRun& run, const std::vector<EdgeSection>& sections, const EdgeSection& s) const {
    return !run.closed && std::min((s.at - sections.front().at).norm(), (s.at - sections.back().at).norm()) < reach();
}

bool Breaker::tiny(const EdgeRun& run, const std::vector<EdgeSection>& sections) const {
    return !run.closed && std::all_of(sections.begin(), sections.end(), [&](const EdgeSection& s) { return nearEnd(run, sections, s); });
}

// How a choice suits, at every so many places.
Breaker::Tried Breaker::attempt(const EdgeRun& run, const std::vector<EdgeSection>& sections, const Choice& choice, std::size_t every, bool ask) const {
    const double least = ballLike() && m_cutter.shape != CutterShape::Lollipop ? radians(15.0) : 0.0;
    const bool tiny = this->tiny(run, sections);
    Tried t;
    t.poses.resize(static_cast<std::size_t>(rows()));
    for (int row = 0; row < rows(); ++row)
        for (std::size_t i = 0; i < sections.size(); i += every) {
            const EdgeSection& s = sections[i];
            const Touch touch = touchAt(s, row);
            const Vec3 axis = choice.axis(s, touch.normal);
            auto pose = poseFor(touch, axis);
            std::string why;
            if (!pose) {
                why = ballLike() ? fmt::format("the contact would lie {:.0f}° from the ball's pole, it can be {:.0f}° at most", degrees(angleBetween(axis, touch.normal)),
                                               degrees(mostFromPole()))
                                 : std::string("the cutter's flank does not lie on the chamfer");
                pose = AxisPose{touch.contact, axis};
                ++t.off;
            } else if (m_spec.axis == BreakAxis::Propose && angleBetween(axis, touch.normal) < least)
                why = "the contact would lie at the ball's dead centre";
            else if (ask && m_in.blocked && (tiny || !nearEnd(run, sections, s)))
                why = m_in.blocked(*pose);
            if (why.empty())
                ++t.good;
            else if (t.trouble.empty()) {
                t.trouble = why;
                t.where = s.at;
            }
            t.poses[static_cast<std::size_t>(row)].push_back(*pose);
        }
    return t;
}

// The first choice that suits all along; else the one that suits longest. A look at every few places tells most of them apart.
std::pair<Breaker::Choice, Breaker::Tried> Breaker::best(const EdgeRun& run, const std::vector<EdgeSection>& sections) const {
    const auto choices = choicesFor(run, sections);
    const std::size_t every = std::max<std::size_t>(1, sections.size() / 8);
    std::size_t chosen = 0, mostGood = 0, leastOff = SIZE_MAX;
    for (std::size_t c = 0; c < choices.size(); ++c) {
        const Tried coarse = attempt(run, sections, choices[c], every, true);
        if (coarse.trouble.empty()) {
            Tried whole = attempt(run, sections, choices[c], 1, false); // between them the guard looks
            if (whole.off == 0) {
                whole.trouble.clear();
                return {choices[c], std::move(whole)};
            }
        }
        if (coarse.off < leastOff || (coarse.off == leastOff && coarse.good > mostGood)) {
            leastOff = coarse.off;
            mostGood = coarse.good;
            chosen = c;
        }
    }
    return {choices[chosen], attempt(run, sections, choices[chosen], 1, true)};
}

void Breaker::cut(const EdgeRun& run, const std::vector<EdgeSection>& sections) {
    auto [choice, tried] = best(run, sections);
    const auto noted = [&, &tried = tried](std::map<std::string, Trouble>& list) {
        Trouble& t = list[tried.trouble];
        if (t.runs++ == 0) t.at = tried.where;
    };
    if (tried.off > 0) return noted(m_lost);
    if (!tried.trouble.empty() && m_spec.axis == BreakAxis::Propose) noted(m_near);
    ++m_used[choice.words];
    for (int row = 0; row < rows(); ++row) cutRow(run, sections, row, std::move(tried.poses[static_cast<std::size_t>(row)]), run.hole && choice.fixed);
}

void Breaker::cutRow(const EdgeRun& run, const std::vector<EdgeSection>& sections, int row, std::vector<AxisPose> poses, bool alongHole) {
    std::vector<Vec3> contacts, normals;
    for (const EdgeSection& s : sections) {
        const Touch t = touchAt(s, row);
        contacts.push_back(t.contact);
        normals.push_back(t.normal);
    }
    if (!run.closed && m_in.blocked && m_spec.axis == BreakAxis::Propose && !tiny(run, sections)) trimEnds(sections, poses, contacts, normals, reach());
    if (poses.size() < 2) return;
    // Climbing: the material lies to the right of the feed, seen along the axis from the spindle.
    double right = 0.0;
    for (std::size_t i = 0; i + 1 < poses.size(); ++i) right += -normals[i].dot((contacts[i + 1] - contacts[i]).cross(poses[i].axis));
    if ((right > 0.0) != m_spec.climb) {
        std::reverse(poses.begin(), poses.end());
        std::reverse(contacts.begin(), contacts.end());
        std::reverse(normals.begin(), normals.end());
    }
    Pass pass = passAlong(poses, contacts, normals, run.closed, static_cast<int>(m_out.passes.size()), -1);
    if (alongHole) pass = fromTheMiddle(pass, m_in.holes[*run.hole]);
    pass.origin.row = pass.row;
    m_out.passes.push_back(std::move(pass));
}

// At corners the cutter stops before it enters the faces beyond.
void Breaker::trimEnds(const std::vector<EdgeSection>& sections, std::vector<AxisPose>& poses, std::vector<Vec3>& contacts, std::vector<Vec3>& normals, double reach) {
    const auto blockedAt = [&](std::size_t i) { return !m_in.blocked(poses[i]).empty(); };
    std::size_t first = 0, last = poses.size() - 1;
    while (first < last && (sections[first].at - sections.front().at).norm() < reach && blockedAt(first)) ++first;
    while (last > first && (sections[last].at - sections.back().at).norm() < reach && blockedAt(last)) --last;
    for (const auto& [at, corner] : {std::pair{first, std::size_t(0)}, std::pair{last, poses.size() - 1}})
        if (at != corner) {
            ++m_corners;
            const double left = (sections[at].at - sections[corner].at).norm();
            if (left > m_mostLeft) {
                m_mostLeft = left;
                m_cornerAt = sections[corner].at;
            }
        }
    const auto keep = [&](auto& list) { list = {list.begin() + static_cast<std::ptrdiff_t>(first), list.begin() + static_cast<std::ptrdiff_t>(last) + 1}; };
    keep(poses);
    keep(contacts);
    keep(normals);
}

// Into the cut from the hole's middle and back there: a ball that is wider than what is free beside the edge cannot be drawn out from it.
Pass Breaker::fromTheMiddle(const Pass& pass, const Hole& hole) const {
    Vec3 mean = Vec3::Zero();
    for (const Vec3& t : pass.path.tip) mean += t / static_cast<double>(pass.path.size());
    const Vec3 middle = hole.mouth + (mean - hole.mouth).dot(hole.direction) * hole.direction;
    const Vec3 axis = pass.path.axis.front();
    Pass out;
    out.row = pass.row;
    const auto add = [&](Motion kind) {
        out.path.push(middle, axis, kind, pass.row, 0.0);
        out.feedDirection.push_back(kind == Motion::LeadIn ? pass.feedDirection.front() : pass.feedDirection.back());
    };
    add(Motion::LeadIn);
    out.path.append(pass.path);
    out.feedDirection.insert(out.feedDirection.end(), pass.feedDirection.begin(), pass.feedDirection.end());
    add(Motion::LeadOut);
    return out;
}

// Can such an edge be broken by this cutter at all?
Status Breaker::suits() {
    switch (m_cutter.shape) {
    case CutterShape::Ball:
    case CutterShape::Lollipop:
    case CutterShape::TaperedBall:
    case CutterShape::Tapered:
    case CutterShape::Chamfer:
    case CutterShape::Spot:
        break;
    default:
        return fail(fmt::format("a {} cutter has no side that an edge could be broken with", cutterShapeName(m_cutter.shape)), {},
                    "Choose a ball, lollipop, tapered or chamfer cutter");
    }
    if (!(m_spec.size > 0.0)) return fail("an edge broken by 0 mm stays sharp", {}, "Give a width or a radius");
    // A tapered ball breaks wide edges with its flank, others with its ball.
    m_ballOfTaper = m_cutter.shape == CutterShape::TaperedBall && (m_spec.round || m_spec.size < 0.8 * m_cutter.diameter);
    if (m_spec.round && !ballLike()) return fail("a round is made with a ball, in several rows", {}, "Choose a ball or lollipop cutter, or a chamfer");
    if (ballLike() && !m_spec.round && m_spec.rows == 1 && m_spec.size > 0.45 * m_cutter.diameter)
        return fail(fmt::format("one row of a {} does not span a chamfer with legs of {:g} mm", shortName(m_cutter), m_spec.size), {}, "Use more rows, or a larger ball");
    return {};
}

Error Breaker::noEdges() const {
    if (!m_out.findings.empty()) return {m_out.findings.front().text, {}, m_out.findings.front().reason, false};
    static constexpr const char* kWhy[] = {
        "no edge is picked",       "the picked faces have no sharp edge", "the body has no sharp edge", "no hole has a sharp near edge", "no hole has a sharp far edge",
        "no hole has a sharp edge"};
    return {kWhy[static_cast<int>(m_spec.edges)], {}, m_spec.edges == BreakEdges::Picked ? "Click edges in the view" : "Pick edges, or ask for less sharp ones", false};
}

// The flank is laid high enough for the widest facet, and a little off its lower end.
Status Breaker::findFlank() {
    double widest = 0.0;
    for (const auto& run : m_sections)
        for (const EdgeSection& s : run) widest = std::max(widest, (s.leg[1] - s.leg[0]).norm());
    const double low = flankStart(m_cutter), rise = widest * std::cos(flankAngle(m_cutter)), room = cuttingLength(m_cutter) - low - rise;
    if (room < 0.0) return fail(fmt::format("the chamfer is {:.2f} mm wide, the cutter's flank is shorter", widest), {}, "Choose a larger cutter, or a smaller width");
    m_flankHeight = low + 0.5 * rise + std::min(0.5, 0.3 * room);
    return {};
}

// Where the cutter may enter the part.
void Breaker::openStrips() {
    for (std::size_t i = 0; i < m_runs.size(); ++i) {
        Strip strip;
        for (const EdgeSection& x : m_sections[i]) {
            strip.line.push_back(x.at);
            strip.width = std::max({strip.width, (x.leg[0] - x.at).norm(), (x.leg[1] - x.at).norm()});
        }
        if (strip.line.empty()) continue;
        if (m_runs[i].closed) strip.line.push_back(strip.line.front());
        strip.width += 0.02 + m_fineness.chord + 2.0 * m_in.part->deflection();
        m_out.strips.push_back(std::move(strip));
    }
    if (m_in.protect) m_in.protect(m_out.strips);
}

// From one to the next by the shortest way. @return false when cancelled
bool Breaker::cutRuns() {
    double narrow = 0.0;
    Vec3 narrowAt = Vec3::Zero();
    std::vector<char> done(m_runs.size(), 0);
    Vec3 here(0, 0, 1e4);
    for (std::size_t count = 0; count < m_runs.size(); ++count) {
        if (m_progress.cancelled()) return false;
        std::size_t next = 0;
        double least = 1e300;
        for (std::size_t i = 0; i < m_runs.size(); ++i) {
            if (done[i] || m_sections[i].empty()) continue;
            if (const double d = (m_sections[i].front().at - here).norm(); d < least) {
                least = d;
                next = i;
            }
        }
        if (least > 1e299) break;
        done[next] = 1;
        auto& s = m_sections[next];
        if (const auto x = std::find_if(s.begin(), s.end(), [](const EdgeSection& one) { return !one.onFaces; }); x != s.end()) {
            narrow += 1.0;
            narrowAt = x->at;
        }
        if (std::any_of(s.begin(), s.end(), [](const EdgeSection& x) { return !x.convex || x.bend < 0.5 * kLeastEdgeBend; })) {
            tell(Rank::Look, "edge-flat", "an edge is left as it is", "it is not sharp all along", s.front().at);
            continue;
        }
        here = s.front().at;
        cut(m_runs[next], s);
    }
    if (narrow > 0.0)
        tell(Rank::Look, "edge-narrow", fmt::format("at {:.0f} of the edges a face is narrower than the break", narrow), "the break would reach beyond the face",
             narrowAt, narrow, {});
    return true;
}

// What the cuts came to know.
void Breaker::tellAll() {
    if (m_corners > 0)
        tell(Rank::Look, "edge-corner", fmt::format("at {} {} up to {:.2f} mm of an edge stay sharp", m_corners, m_corners == 1 ? "corner" : "corners", m_mostLeft),
             "further on the cutter would enter the faces beyond the corner", m_cornerAt, m_mostLeft);
    for (const auto& [why, t] : m_lost)
        tell(Rank::Stop, "edge-not-reached", fmt::format("{} {} cannot be broken with this cutter", t.runs, t.runs == 1 ? "edge" : "edges"), why, t.at,
             static_cast<double>(t.runs), m_spec.axis == BreakAxis::Propose ? std::vector<Remedy>{} : std::vector<Remedy>{{"Propose the axis", "edge.axis", "propose"}});
    for (const auto& [why, t] : m_near)
        tell(Rank::Look, "edge-near", fmt::format("at {} {} no axis was found that keeps clear all along", t.runs, t.runs == 1 ? "edge" : "edges"), why, t.at,
             static_cast<double>(t.runs));
}

void Breaker::sayFacts(const std::vector<int>& edges) {
    double edgesLong = 0.0;
    for (const int e : edges) edgesLong += m_in.part->edges()[static_cast<std::size_t>(e)].length;
    m_out.what = fmt::format("{} {} in {} {} · {:.2f} m", edges.size(), edges.size() == 1 ? "edge" : "edges", m_runs.size(), m_runs.size() == 1 ? "run" : "runs",
                             edgesLong / 1000.0);
    std::string axes;
    for (const auto& [words, n] : m_used) axes += (axes.empty() ? "" : ", ") + words + (m_used.size() > 1 ? fmt::format(" ×{}", n) : "");
    m_out.how = fmt::format("{} {} · {:.2f} m · {}", m_out.passes.size(), m_out.passes.size() == 1 ? "row" : "rows", m_out.length / 1000.0, axes);
}

Result<AlongResult> Breaker::run() {
    if (const auto ok = suits(); !ok) return tl::unexpected(ok.error());
    const std::vector<int> edges = edgesToBreak(m_in, m_spec, m_out.findings);
    if (edges.empty()) return tl::unexpected(noEdges());
    m_runs = edgeRuns(m_in, edges);
    m_sections.resize(m_runs.size());
    std::vector<char> unread(m_runs.size(), 0);
    if (!parallelFor(
            m_runs.size(), 1,
            [&](std::size_t i) {
                bool lost = false;
                m_sections[i] = sectionsAlong(m_in, m_spec, m_runs[i], m_cutter, m_fineness, lost);
                unread[i] = lost ? 1 : 0;
            },
            &m_progress))
        return cancelledError();
    for (std::size_t i = 0; i < m_runs.size(); ++i)
        if (unread[i]) { // going on without it would cut straight across
            m_sections[i].clear();
            const Vec3 at = m_in.part->edges()[static_cast<std::size_t>(m_runs[i].edges.front())].middle;
            tell(Rank::Stop, "edge-not-reached", "an edge cannot be broken", "its curve cannot be read from the file", at, 1.0);
        }
    if (!ballLike())
        if (const auto ok = findFlank(); !ok) return tl::unexpected(ok.error());
    openStrips();
    if (!cutRuns()) return cancelledError();
    tellAll();
    if (m_out.passes.empty()) {
        for (const Finding& f : m_out.findings)
            if (f.rank == Rank::Stop) return fail(f.text + ": " + f.reason, {}, "Choose another cutter or axis");
        return fail("none of the edges can be broken", {}, "Pick others");
    }
    measurePasses(m_out);
    sayFacts(edges);
    return std::move(m_out);
}

} // namespace

Result<AlongResult> breakEdges(const BreakInput& input, const BreakSpec& spec, const Assembly& tool, const Fineness& fineness, Progress& progress) {
    return Breaker(input, spec, tool, fineness, progress).run();
}

} // namespace gyre
