#include "operation/Operation.h"
#include "base/Hash.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "machine/Reach.h"
#include "operation/FollowWork.h"
#include "operation/MillInput.h"
#include "operation/ResultSize.h"
#include "operation/StockOnTheWay.h"
#include "tool/Library.h"
#include <fmt/format.h>

namespace gyre {

const Assembly* Workplace::tool(const std::string& id) const {
    for (const auto& t : tools)
        if (t.id == id) return &t;
    return nullptr;
}

std::uint64_t Workplace::keyFor(const Recipe& r) const {
    const bool withCurves = !r.target.drawings.empty() || !r.axis.curve.empty() || !r.axis.last.curve.empty();
    const bool withStock = r.kind == OperationKind::Mill || r.kind == OperationKind::HoleStep;
    if (!withCurves && !withStock) return key;
    Hash all;
    all.add(key);
    if (withCurves) all.add(curves);
    if (withStock) all.add(stock);
    return all.value();
}

std::uint64_t operationKey(std::uint64_t placeKey, const Recipe& recipe, const Assembly* tool) {
    return Hash().add(placeKey).add(recipe.before).add(recipeToJson(recipe).dump()).add(tool ? assemblyToJson(*tool).dump() : std::string()).value();
}

std::string OperationResult::facts(Stage stage) const {
    if (kind == OperationKind::HoleStep) {
        if (stage == Stage::Target) return drill ? fmt::format("{} of {} holes", drill->passes.size(), holesMeant) : "";
        if (stage == Stage::Pattern && drill && !drill->tips.empty()) {
            const auto [low, high] = std::minmax_element(drill->tips.begin(), drill->tips.end());
            const std::string deep = *high - *low < 0.005 ? fmt::format("{:.2f}", *high) : fmt::format("{:.2f} to {:.2f}", *low, *high);
            return fmt::format("tip {} mm below the mouth · {:.0f} mm from hole to hole", deep, drill->way);
        }
        if (stage == Stage::Pattern || stage == Stage::Axis) return "";
    }
    if (follows(kind) && stage <= Stage::Axis) {
        if (!follow) return "";
        if (stage == Stage::Axis) return fmt::format("steepest turn {:.2f}°/mm", follow->steepest);
        return stage == Stage::Target ? follow->what : follow->how;
    }
    if (kind == OperationKind::Mill) {
        if (!mill) return "";
        const std::string sheet = mill->sheet.wrapped ? fmt::format("unrolled at radius {:.3f}", mill->sheet.radius) : "";
        if (stage == Stage::Target) {
            const std::string what = !mill->target.empty()  ? fmt::format("{:.2f} cm²", mill->target.area() / 100.0)
                                     : mill->curves.empty() ? ""
                                                            : fmt::format("{} {}", mill->curves.size(), mill->curves.size() == 1 ? "curve" : "curves");
            return what + (what.empty() || sheet.empty() ? "" : " · ") + sheet;
        }
        if (stage == Stage::Pattern) {
            std::string text =
                fmt::format("{} {} · {:.2f} m · down to {:.2f}", mill->levels, mill->levels == 1 ? "level" : "levels", mill->length / 1000.0, mill->bottom);
            if (mill->pitch > 0.0) text += fmt::format(" · helix pitch {:.2f} mm", mill->pitch);
            if (mill->scallop > 0.0) text += fmt::format(" · scallop {:.3f} mm", mill->scallop);
            return text;
        }
        if (stage == Stage::Axis) return "";
    }
    switch (stage) {
    case Stage::Target:
        return faces.empty() ? "" : fmt::format("{} {} · {:.1f} cm²", faces.size(), faces.size() == 1 ? "face" : "faces", faceArea / 100.0);
    case Stage::Pattern:
        return pattern ? fmt::format("{} rows · {:.2f} m · widest gap {:.3f} mm", pattern->rows.size(), pattern->rowsLength / 1000.0, pattern->widestGap) : "";
    case Stage::Axis:
        return axis ? fmt::format("steepest turn {:.2f}°/mm at row {}", axis->steepest, axis->steepestRow + 1) : "";
    case Stage::Guard: {
        if (!guard || !links) return "";
        if (shankClearance.empty()) return "measuring clearances …";
        float shank = 1e9f, holder = 1e9f;
        for (std::size_t i = 0; i < shankClearance.size(); ++i) {
            if (links->path.motion[i] != Motion::Cut) continue;
            shank = std::min(shank, shankClearance[i]);
            holder = std::min(holder, holderClearance[i]);
        }
        const auto text = [](float v) { return v >= 20.0f ? std::string("over 20") : fmt::format("{:.2f}", v); };
        return fmt::format("nearest: shank {} · holder {} mm", text(shank), text(holder));
    }
    case Stage::Links:
        return links ? fmt::format("{} {} · {} {}", links->joins, links->joins == 1 ? "join" : "joins", links->retracts, links->retracts == 1 ? "retract" : "retracts")
                     : "";
    }
    return "";
}

namespace {

void stopAt(OperationResult& out, Stage stage, const Error& error) {
    Finding f;
    f.rank = Rank::Stop;
    f.code = "nothing-generated";
    f.stage = stageName(stage);
    f.operation = out.operation;
    f.text = error.place.empty() || error.place == f.stage ? error.what : error.place + ": " + error.what;
    f.reason = error.remedy;
    out.findings.push_back(f);
}

std::vector<Pass> passesOf(const PatternResult& pattern, const AxisResult& axis, const Cutter& cutter, double leave) {
    std::vector<Pass> passes(pattern.rows.size());
    parallelFor(passes.size(), 1, [&](std::size_t r) {
        const Row& row = pattern.rows[r];
        Pass& pass = passes[r];
        pass.row = row.index;
        pass.closed = row.closed;
        const std::size_t n = row.points.size(), count = n + (row.closed ? 1 : 0);
        pass.path.reserve(count);
        for (std::size_t k = 0; k < count; ++k) {
            const std::size_t i = k % n;
            const Vec3 contact = row.points[i] + leave * row.normals[i];
            const Vec3& a = axis.axes[r][i];
            pass.path.push(tipFromContact(cutter, contact, row.normals[i], a).tip, a, contact, row.normals[i], Motion::Cut, row.index, 0.0, row.faces[i]);
            pass.feedDirection.push_back(axis.feeds[r][i]);
        }
    });
    return passes;
}

struct Clearances {
    std::vector<float> shank, holder;
};
std::size_t bytesOf(const Clearances& c) { return sizeof c + 2 * c.shank.size() * sizeof(float); }
std::size_t bytesOf(const FollowWork& w) {
    std::size_t n = sizeof w + (w.result ? bytesOf(*w.result) : 0) + (w.axis ? bytesOf(*w.axis) : 0);
    if (w.scene)
        for (const Obstacle& o : *w.scene) n += 200 * o.tree.size();
    return n;
}

/// Looks a stage up, or runs it and keeps what it came to.
template <class T, class Run> Result<std::shared_ptr<const T>> cached(StageCache& cache, std::uint64_t key, const Run& run) {
    if (auto known = cache.find<T>(key)) return known;
    Result<T> made = run();
    if (!made) return tl::unexpected(made.error());
    const auto shared = std::make_shared<const T>(std::move(*made));
    cache.keep<T>(key, shared, bytesOf(*shared));
    return shared;
}

class Runner {
public:
    Runner(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress, const EarlyResult& early, const PresentStock& present,
           OperationResult& out)
        : m_place(place), m_recipe(recipe), m_under(place.keyFor(recipe)), m_cache(cache), m_progress(progress), m_early(early), m_present(present), m_out(out) {}

    /// @return false when cancelled
    bool run();

private:
    [[nodiscard]] std::uint64_t keyOf(Stage stage, std::uint64_t before, const std::string& extra = {}) const {
        return Hash().add(before).add(std::string_view(stageName(stage))).add(stageToJson(m_recipe, stage).dump()).add(extra).value();
    }
    template <class T> bool take(Stage stage, Result<std::shared_ptr<const T>> made, std::shared_ptr<const T>& into) {
        if (made) {
            into = *made;
            return true;
        }
        m_cancelled = made.error().cancelled;
        if (!m_cancelled) stopAt(m_out, stage, made.error());
        return false;
    }
    void addFindings(const std::vector<Finding>& findings) {
        for (Finding f : findings) {
            f.operation = m_out.operation;
            m_out.findings.push_back(std::move(f));
        }
    }
    bool pickTool();
    bool pickFaces();
    bool drillThem(const std::string& tool, std::uint64_t& key);
    bool rowsOnFaces(const std::string& tool, std::uint64_t& key);
    bool millIt(const std::string& tool, std::uint64_t& key);
    bool followIt(const std::string& tool, std::uint64_t& key);
    bool repeatIt(std::uint64_t& key);
    void showPasses();
    bool speedAndFeed();
    [[nodiscard]] double meantDepth() const;
    bool linkAndMove(const Guard& guard, double feed, std::uint64_t& key);
    void tellSwings();
    bool measure(const Guard& guard, std::uint64_t key);
    void mapHazards();

    const Workplace& m_place;
    const Recipe& m_recipe;
    const std::uint64_t m_under; ///< of what is read of the setup
    StageCache& m_cache;
    Progress& m_progress;
    const EarlyResult& m_early;
    const PresentStock& m_present;
    OperationResult& m_out;
    std::shared_ptr<const Scene> m_scene; ///< what the guard looks at
    bool m_cancelled = false;
};

bool Runner::pickTool() {
    const Assembly* tool = m_place.tool(m_recipe.tool);
    if (!tool) {
        stopAt(m_out, Stage::Target, Error{m_recipe.tool.empty() ? "no tool is chosen" : "the job has no tool '" + m_recipe.tool + "'", {}, "Choose a tool", false});
        if (m_recipe.kind == OperationKind::HoleStep) m_out.findings.back().remedies.push_back({"Leave the step out", "active", "false"});
        return false;
    }
    m_out.tool = *tool;
    if (auto ok = validate(*tool); !ok) {
        stopAt(m_out, Stage::Target, ok.error());
        return false;
    }
    if (!m_place.part) {
        stopAt(m_out, Stage::Target, Error{"the job has no part", {}, "Open a part in Set up", false});
        return false;
    }
    return true;
}

bool Runner::pickFaces() {
    auto faces = resolveFaces(*m_place.part, m_recipe.target.faces);
    if (!faces) {
        stopAt(m_out, Stage::Target, faces.error());
        return false;
    }
    if (faces->empty()) {
        stopAt(m_out, Stage::Target, Error{"no face is picked", {}, "Click faces in the view", false});
        return false;
    }
    m_out.faces = std::move(*faces);
    for (int f : m_out.faces) m_out.faceArea += m_place.part->faces()[static_cast<std::size_t>(f)].area;
    return true;
}

bool Runner::measure(const Guard& guard, std::uint64_t key) {
    const Toolpath& path = m_out.links->path;
    const auto made = cached<Clearances>(m_cache, key, [&]() -> Result<Clearances> {
        Clearances c;
        c.shank.resize(path.size());
        c.holder.resize(path.size());
        constexpr double kLimit = 20.0;
        constexpr std::size_t kStretch = 256; // each starts from what the location before found
        if (!parallelFor((path.size() + kStretch - 1) / kStretch, 1,
                         [&](std::size_t stretch) {
                             ClearanceHints hints;
                             for (std::size_t i = stretch * kStretch; i < std::min(path.size(), (stretch + 1) * kStretch); ++i) {
                                 const ZoneClearance z = guard.clearance({path.tip[i], path.axis[i]}, kLimit, &hints);
                                 c.shank[i] = static_cast<float>(z.shank);
                                 c.holder[i] = static_cast<float>(z.holder);
                             }
                         },
                         &m_progress))
            return cancelledError();
        return c;
    });
    if (!made) return false;
    m_out.shankClearance = (*made)->shank;
    m_out.holderClearance = (*made)->holder;
    return true;
}

void Runner::mapHazards() {
    for (const Hazard& h : m_out.guard->hazards) {
        const auto at = [&](std::size_t i) { return m_out.links->locationOf(h.pass, i); };
        if (at(h.first) <= at(h.last)) {
            m_out.hazards.push_back({at(h.first), at(h.last), at(h.worst), h.zone, h.obstacle, h.least});
            continue;
        }
        // Over the place where a closed row begins: one stretch becomes two.
        std::size_t seam = h.first;
        while (seam < h.last && at(seam + 1) > at(seam)) ++seam;
        const std::size_t worst = at(h.worst);
        m_out.hazards.push_back({at(h.first), at(seam), h.worst <= seam ? worst : at(seam), h.zone, h.obstacle, h.least});
        m_out.hazards.push_back({at(seam + 1), at(h.last), h.worst <= seam ? at(seam + 1) : worst, h.zone, h.obstacle, h.least});
    }
    // Findings of the guard name no location yet: give them the span of their hazards.
    for (Finding& f : m_out.findings)
        if (f.stage == "Guard" && !f.span)
            for (const PathHazard& h : m_out.hazards) {
                const bool same = f.check == (h.zone == Zone::Cutter ? Check::Gouge : h.zone == Zone::Shank ? Check::Shank : Check::Holder);
                if (!same || std::abs(f.amount - h.least) > 1e-12) continue;
                f.span = {h.first, h.last};
            }
}

// The holes that are meant, found again by their mouths; the cutter may enter their walls, and a cone the faces around the mouth.
bool Runner::drillThem(const std::string& tool, std::uint64_t& key) {
    std::size_t lost = 0;
    const std::vector<Hole> holes = m_recipe.holes.empty() ? std::vector<Hole>() : holesMeant(m_place, m_recipe, lost);
    m_out.holesMeant = m_recipe.holes.size();
    if (lost > 0) {
        stopAt(m_out, Stage::Target, Error{fmt::format("{} of the holes are not in the part any more", lost), {}, "Take the holes anew", false});
        return false;
    }
    if (holes.empty()) {
        stopAt(m_out, Stage::Target, Error{"no hole is meant", {}, "Take holes in Set up", false});
        return false;
    }
    const double feed = m_recipe.feed > 0.0 ? m_recipe.feed : m_out.tool.feed();
    const std::string recipe = recipeToJson(m_recipe)["drill"].dump();
    Hash which;
    for (const HoleRef& h : m_recipe.holes) which.add(h.mouth.x()).add(h.mouth.y()).add(h.mouth.z()).add(h.turned ? 1.0 : 0.0);
    key = Hash().add(m_under).add(which.value()).add(recipe).add(tool).add(feed).value();
    if (!take(Stage::Pattern, cached<DrillResult>(m_cache, key, [&]() -> Result<DrillResult> { return drillHoles(holes, m_recipe.drill, m_out.tool, feed); }),
              m_out.drill))
        return !m_cancelled;
    addFindings(m_out.drill->findings);
    std::vector<AxisPose> over;
    for (const std::size_t i : m_out.drill->holes) over.push_back({holes[i].mouth + m_recipe.drill.above * holes[i].direction, holes[i].direction});
    addFindings(rapidsEndingInStock(m_place, m_out.operation, over, m_present, m_progress));
    m_out.passes = std::shared_ptr<const std::vector<Pass>>(m_out.drill, &m_out.drill->passes);
    if (m_out.passes->empty()) return false;
    // What the view draws: one line down every hole.
    auto pattern = std::make_shared<PatternResult>();
    for (std::size_t p = 0; p < m_out.passes->size(); ++p) {
        const Hole& h = holes[m_out.drill->holes[p]];
        Row row;
        row.points = {h.mouth + m_recipe.drill.above * h.direction, h.mouth - m_out.drill->tips[p] * h.direction};
        row.normals.assign(2, h.direction);
        row.faces.assign(2, -1);
        row.index = static_cast<int>(p);
        pattern->rows.push_back(std::move(row));
    }
    m_out.pattern = pattern;
    std::vector<char> own(m_place.part->faces().size(), 0);
    const bool cone = m_recipe.drill.cycle == Cycle::Spot || m_recipe.drill.cycle == Cycle::Chamfer;
    for (const Hole& h : holes)
        for (const int f : h.faces) {
            own[static_cast<std::size_t>(f)] = 1;
            if (!cone) continue;
            for (const auto& loop : m_place.part->faces()[static_cast<std::size_t>(f)].loops)
                for (const int e : loop)
                    for (const int beside : m_place.part->edges()[static_cast<std::size_t>(e)].faces)
                        if (beside >= 0) own[static_cast<std::size_t>(beside)] = 1;
        }
    const auto body = m_place.part->body() ? m_place.part->body() : m_place.part;
    TriangleMesh rest = body->mesh();
    std::vector<std::array<std::uint32_t, 3>> kept;
    for (std::size_t t = 0; t < rest.triangles.size(); ++t)
        if (!own[static_cast<std::size_t>(rest.faces[t])]) kept.push_back(rest.triangles[t]);
    rest.triangles = std::move(kept);
    rest.faces.clear();
    auto scene = std::make_shared<Scene>(*m_place.scene);
    const auto tree = std::make_shared<const MeshTree>(rest);
    for (Obstacle& o : *scene)
        if (o.kind == ObstacleKind::Part) o.forCutter = tree;
    m_scene = scene;
    return true;
}

bool Runner::rowsOnFaces(const std::string& tool, std::uint64_t& key) {
    if (!pickFaces()) return false;
    const double radius = contactRadius(m_out.tool.cutter);
    // The stock to leave is a word of the target, but rows do not rest on it: it only shifts the contacts.
    key = Hash().add(m_under).add(stageToJson(m_recipe, Stage::Target)["faces"].dump()).value();
    key = keyOf(Stage::Pattern, key, fmt::format("{}", radius));
    {
        const Progress::Span span(m_progress, 0.0, 0.3);
        if (!take(Stage::Pattern, cached<PatternResult>(m_cache, key, [&] { return layRows(*m_place.part, m_out.faces, m_recipe.pattern, radius, m_progress); }),
                  m_out.pattern))
            return false;
    }
    addFindings(m_out.pattern->findings);
    key = keyOf(Stage::Axis, key, tool);
    const auto aimed = [&]() -> Result<AxisResult> {
        const auto help = axisHelp(m_place, m_recipe, m_out.tool);
        if (!help) return tl::unexpected(help.error());
        return setAxes(m_out.pattern->rows, m_recipe.axis, m_out.tool.cutter, *help);
    };
    key = Hash().add(key).add(m_recipe.rests).value();
    if (!take(Stage::Axis, cached<AxisResult>(m_cache, key, aimed), m_out.axis)) return false;
    addFindings(m_out.axis->findings);
    key = Hash().add(key).add(m_recipe.target.leave).value();
    return take(Stage::Axis,
                cached<std::vector<Pass>>(m_cache, key,
                                          [&]() -> Result<std::vector<Pass>> { return passesOf(*m_out.pattern, *m_out.axis, m_out.tool.cutter, m_recipe.target.leave); }),
                m_out.passes);
}

bool Runner::millIt(const std::string& tool, std::uint64_t& key) {
    const MillSpec& spec = m_recipe.mill;
    m_out.shape = spec.shape;
    auto gathered = gatherMill(m_place, m_recipe);
    if (!gathered) {
        stopAt(m_out, Stage::Target, gathered.error());
        return false;
    }
    MillInput& in = gathered->input;
    m_out.faces = in.faces;
    for (int f : m_out.faces) m_out.faceArea += m_place.part->faces()[static_cast<std::size_t>(f)].area;
    const double feed = m_recipe.feed > 0.0 ? m_recipe.feed : m_out.tool.feed();
    const OrderedJson whole = recipeToJson(m_recipe);
    key = Hash()
              .add(m_under)
              .add(stageToJson(m_recipe, Stage::Target).dump())
              .add(whole["mill"].dump())
              .add(whole.value("onPlanes", OrderedJson()).dump())
              .add(m_recipe.rests)
              .add(gathered->curves)
              .add(tool)
              .add(feed)
              .add(m_recipe.pattern.chordTolerance)
              .value();
    if (spec.topBy == MillTop::Stock) key = Hash().add(key).add(m_place.looks).value();
    std::shared_ptr<const Stock> present;
    const auto run = [&]() -> Result<MillResult> {
        if (restsOnStock(m_recipe)) {
            if (!m_present) return gyre::fail("there is no stock to rough", {}, "Add stock in Set up");
            m_progress.report(0.0, "Working out what is left of the stock");
            auto made = m_present(m_progress);
            if (!made) return tl::unexpected(made.error());
            present = *made;
            in.present = present.get();
        }
        return millOn(in, spec, m_out.tool, m_recipe.target.leave, m_recipe.pattern.chordTolerance, feed, m_progress);
    };
    {
        const Progress::Span span(m_progress, 0.0, 0.3);
        if (!take(Stage::Pattern, cached<MillResult>(m_cache, key, run), m_out.mill)) return false;
    }
    addFindings(m_out.mill->findings);
    m_out.passes = std::shared_ptr<const std::vector<Pass>>(m_out.mill, &m_out.mill->passes);
    return true;
}

bool Runner::followIt(const std::string& tool, std::uint64_t& key) {
    if (!m_recipe.target.faces.empty() && !pickFaces()) return false;
    const OrderedJson whole = recipeToJson(m_recipe);
    Hash all;
    all.add(m_under).add(tool).add(m_recipe.rests);
    for (const char* part : {"kind", "target", "pattern", "swarf", "curve", "edge", "axis", "holes", "guard"})
        if (whole.contains(part)) all.add(whole[part].dump());
    key = all.value();
    std::shared_ptr<const FollowWork> work;
    {
        const Progress::Span span(m_progress, 0.0, 0.3);
        if (!take(Stage::Pattern, cached<FollowWork>(m_cache, key, [&] { return followFor(m_place, m_recipe, m_out.tool, m_progress); }), work)) return false;
    }
    m_out.follow = work->result;
    m_out.axis = work->axis;
    addFindings(m_out.follow->findings);
    if (m_out.axis) addFindings(m_out.axis->findings);
    m_out.passes = std::shared_ptr<const std::vector<Pass>>(m_out.follow, &m_out.follow->passes);
    if (work->scene) m_scene = work->scene;
    return true;
}

// All passes once more, moved as the repeat says.
bool Runner::repeatIt(std::uint64_t& key) {
    const Repeat& repeat = m_recipe.repeat;
    if (!repeat.any()) return true;
    std::vector<Frame> moves{Frame::Identity()};
    if (!repeat.planes.empty()) {
        if (!m_out.mill || m_out.mill->sheet.wrapped) {
            stopAt(m_out, Stage::Pattern, Error{"only work on a plane can be repeated on other planes", {}, "Repeat around an axis instead", false});
            return false;
        }
        for (const std::string& name : repeat.planes) {
            const auto it = std::find_if(m_recipe.planes.begin(), m_recipe.planes.end(), [&](const WorkPlane& p) { return p.name == name; });
            if (it == m_recipe.planes.end()) {
                stopAt(m_out, Stage::Pattern, Error{"there is no work plane '" + name + "' any more", {}, "Choose another", false});
                return false;
            }
            // From the plane that the work is on: the one it names, or the one whose origin lies nearest to its sheet.
            const WorkPlane* from = nullptr;
            const Frame& sheet = m_out.mill->sheet.frame;
            for (const WorkPlane& p : m_recipe.planes)
                if (p.normal.dot(sheet.linear().col(2)) > 1.0 - 1e-9 && (p.name == m_recipe.mill.on || !from)) from = &p;
            moves.push_back(it->frame() * (from ? from->frame() : sheet).inverse());
        }
    }
    const std::vector<Frame> once = moves;
    const double turn = repeat.degrees != 0.0 ? radians(repeat.degrees) : 2.0 * kPi / repeat.count;
    for (int i = 1; i < repeat.count; ++i)
        for (const Frame& f : once) {
            Frame about = Frame::Identity();
            about.linear() = rotation(Vec3::Unit(repeat.axis), turn * i);
            moves.push_back(about * f);
        }
    auto all = std::make_shared<std::vector<Pass>>();
    for (const Frame& f : moves)
        for (Pass p : *m_out.passes) {
            for (std::size_t i = 0; i < p.path.size(); ++i) {
                p.path.tip[i] = f * p.path.tip[i];
                p.path.axis[i] = f.linear() * p.path.axis[i];
                p.path.contact[i] = f * p.path.contact[i];
                p.path.normal[i] = f.linear() * p.path.normal[i];
                p.feedDirection[i] = f.linear() * p.feedDirection[i];
            }
            p.row = static_cast<int>(all->size());
            for (auto& row : p.path.row) row = p.row;
            all->push_back(std::move(p));
        }
    m_out.passes = all;
    if (m_out.follow && !m_out.follow->strips.empty()) { // what may be entered is repeated, too
        auto more = std::make_shared<FollowResult>(*m_out.follow);
        more->strips = movedStrips(m_out.follow->strips, moves);
        m_out.follow = more;
        m_scene = openedAlong(m_place, more->strips);
    }
    if (m_out.follow && !m_out.follow->ownFaces.empty())
        m_scene = withOwnFaces(m_place, movedFaces(*m_place.part, m_out.follow->ownFaces, moves), m_out.follow->ownTolerance);
    key = Hash().add(key).add(recipeToJson(m_recipe)["repeat"].dump()).add(recipeToJson(m_recipe).value("onPlanes", OrderedJson()).dump()).value();
    return true;
}

// What the view draws of the stages before the links, and the tape counts.
void Runner::showPasses() {
    auto pattern = std::make_shared<PatternResult>();
    for (const Pass& p : *m_out.passes) {
        Row row;
        row.points = p.path.tip;
        row.normals = p.path.axis;
        row.faces.assign(p.path.size(), -1);
        row.index = p.row;
        pattern->rows.push_back(std::move(row));
    }
    pattern->spacing = m_recipe.kind == OperationKind::Swarf ? m_recipe.swarf.stepover : m_recipe.mill.stepover;
    m_out.pattern = pattern;
}

// What is engraved need not be in the model: grooves of a typed depth below a sheet, curves cut to a depth.
double Runner::meantDepth() const {
    constexpr double kHair = 0.01; // mm: nothing is cut exactly as deep as it is meant
    if (m_recipe.kind == OperationKind::Mill && m_recipe.mill.shape == MillShape::Follow && m_recipe.mill.depthBy == MillDepth::Typed)
        return std::max(0.0, m_recipe.mill.depth) + kHair;
    if (m_recipe.kind == OperationKind::Curve && m_recipe.curve.by != CurveBy::Channel && m_recipe.curve.depth > 0.0) return m_recipe.curve.depth + kHair;
    return 0.0;
}

// Nothing may run without them: no way is laid that could be taken for a rapid.
bool Runner::speedAndFeed() {
    const Assembly& tool = m_out.tool;
    const auto missing = [&](const char* code, const char* what, const char* reason, const Remedy& remedy) {
        stopAt(m_out, Stage::Links, Error{what, tool.name, reason, false});
        m_out.findings.back().code = code;
        m_out.findings.back().remedies.push_back(remedy);
        return false;
    };
    if (std::round(tool.spindleSpeed) < 1.0)
        return missing("no-speed", "the spindle has no speed", "set one for the tool", {"Turn 1000 a minute", "tool.spindleSpeed", "1000"});
    const bool tap = m_out.kind == OperationKind::HoleStep && m_out.cycle.cycle == Cycle::Tap;
    if (tap ? !(m_out.cycle.pitch > 0.0) : !(m_recipe.feed > 0.0) && !(tool.feed() > 0.0))
        return missing("no-feed", "there is no feed", "set one for the operation, or a feed per tooth for the tool",
                       {"Feed 0.01 mm a tooth", "tool.feedPerTooth", "0.01"});
    return true;
}

// Links and joint motion by turns: a row that the rotaries cannot run through is left where they must turn back, and entered anew.
bool Runner::linkAndMove(const Guard& guard, double feed, std::uint64_t& key) {
    const Kinematics kinematics(*m_place.machine, m_place.partFrame, m_out.tool.gaugeLength());
    MotionSpec spec;
    if (!m_recipe.axis.locked.empty() && (m_recipe.kind == OperationKind::Surface || m_recipe.kind == OperationKind::Curve)) {
        spec.locked = m_place.machine->find(m_recipe.axis.locked);
        spec.lockedAt = radians(m_recipe.axis.lockedDegrees);
        key = Hash().add(key).add(m_recipe.axis.locked).add(spec.lockedAt).value();
    }
    constexpr int kRounds = 4;
    LinkAround links;
    links.pole = poleOf(kinematics);
    std::vector<Split>& splits = links.splits;
    for (int round = 0;; ++round) {
        {
            const Progress::Span span(m_progress, 0.6, 0.75);
            const auto link = [&] { return linkPasses(guard, m_out.guard->passes, m_recipe.link, feed, m_progress, links); };
            if (!take(Stage::Links, cached<LinkResult>(m_cache, key, link), m_out.links)) return false;
        }
        if (m_out.links->path.empty()) return true;
        {
            const Progress::Span span(m_progress, 0.75, 0.9);
            const auto move = [&] { return solveMotion(m_out.links->path, kinematics, spec, m_progress, m_out.links->away); };
            if (!take(Stage::Links, cached<JointMotion>(m_cache, key + 2, move), m_out.motion)) return false;
        }
        const std::vector<Split> more = splitsAt(*m_out.links, m_out.motion->jumps);
        if (more.empty() || round == kRounds) return true;
        const std::size_t before = splits.size();
        splits.insert(splits.end(), more.begin(), more.end());
        std::sort(splits.begin(), splits.end());
        splits.erase(std::unique(splits.begin(), splits.end()), splits.end());
        if (splits.size() == before) return true;
        Hash with;
        with.add(key);
        for (const Split& s : splits) with.add(static_cast<double>(s.pass)).add(static_cast<double>(s.at));
        key = with.value();
    }
}

// What the rotaries make of the links is told: a row that is left in the middle shows on the part.
void Runner::tellSwings() {
    const auto& pieces = m_out.links->pieces;
    const auto place = [&](Finding& f, std::size_t location) {
        const Vec3& p = m_out.links->path.tip[location];
        f.stage = "Motion";
        f.row = m_out.links->path.row[location];
        f.span = {location, location};
        f.place = {p.x(), p.y(), p.z()};
        f.operation = m_out.operation;
    };
    const auto inside = static_cast<std::size_t>(std::count_if(pieces.begin(), pieces.end(), [](const LinkResult::Piece& p) { return p.anew; }));
    if (inside > 0) {
        const auto first = std::find_if(pieces.begin(), pieces.end(), [](const LinkResult::Piece& p) { return p.anew; });
        Finding f;
        f.rank = Rank::Look;
        f.check = Check::Travel;
        f.code = "row-left";
        f.amount = static_cast<double>(inside);
        place(f, first->start);
        f.text = inside == 1 ? fmt::format("Row {} is left and entered anew where a rotary axis has to turn back", f.row + 1)
                             : fmt::format("Rows are left and entered anew in {} places where a rotary axis has to turn back, first in row {}", inside, f.row + 1);
        f.reason = "its travel ends there; the entry may show on the part";
        m_out.findings.push_back(f);
    }
    if (const auto& swings = m_out.motion->swings; !swings.empty()) {
        Finding f;
        f.rank = Rank::Note;
        f.check = Check::Travel;
        f.code = "rotaries-swing";
        f.amount = static_cast<double>(swings.size());
        place(f, swings.front());
        f.text = fmt::format("The rotary axes turn back or over at the top of Z {}, first before row {}",
                             swings.size() == 1 ? std::string("once") : fmt::format("{} times", swings.size()), f.row + 1);
        f.reason = "rows on both sides of it ask for different turns";
        m_out.findings.push_back(f);
    }
}

bool Runner::run() {
    m_out.kind = m_recipe.kind;
    m_out.cycle = m_recipe.drill;
    if (!pickTool()) return true;
    const std::string tool = assemblyToJson(m_out.tool).dump();
    const bool holes = m_recipe.kind == OperationKind::HoleStep;
    std::uint64_t key = 0;
    m_scene = m_place.scene;
    const bool mill = m_recipe.kind == OperationKind::Mill;
    const bool follow = follows(m_recipe.kind);
    if (!(holes ? drillThem(tool, key) : mill ? millIt(tool, key) : follow ? followIt(tool, key) : rowsOnFaces(tool, key))) return !m_cancelled;
    if (!repeatIt(key)) return true;
    if (mill || follow) showPasses();
    const double meant = meantDepth();
    const Guard guard(m_out.tool, *m_scene, m_recipe.guard, m_recipe.pattern.chordTolerance, meant);
    key = keyOf(Stage::Guard, key, fmt::format("{}", meant));
    {
        const Progress::Span span(m_progress, 0.3, 0.6);
        if (!take(Stage::Guard, cached<GuardResult>(m_cache, key, [&] { return guardPasses(guard, *m_out.passes, m_progress); }), m_out.guard)) return !m_cancelled;
    }
    addFindings(m_out.guard->findings);
    if (m_recipe.kind == OperationKind::Swarf && !m_recipe.swarf.lift) // at the foot of a wall
        for (Finding& f : m_out.findings)
            if (f.stage == "Guard" && f.check == Check::Gouge) f.remedies.insert(f.remedies.begin(), {"Lift the tip off the floor", "swarf.floor", "lift"});
    key = keyOf(Stage::Links, key, fmt::format("{}", m_recipe.feed));
    if (!speedAndFeed()) return true;
    const double feed = m_recipe.feed > 0.0 ? m_recipe.feed : m_out.tool.feed();
    if (!linkAndMove(guard, feed, key)) return !m_cancelled;
    addFindings(m_out.links->findings);
    mapHazards();
    if (mill && !restsOnStock(m_recipe)) {
        auto met = rapidsThroughStock(m_place, m_out, m_present, m_progress);
        if (!met) return false;
        if (m_recipe.mill.topBy != MillTop::Stock)
            for (Finding& f : *met) f.remedies.push_back({"Begin at the stock", "mill.topBy", "stock"});
        addFindings(*met);
    }
    if (m_out.links->path.empty()) return true;
    addFindings(m_out.motion->findings);
    tellSwings();
    if (!m_cache.find<Clearances>(key + 1) && m_early) m_early(std::make_shared<const OperationResult>(m_out));
    m_progress.report(0.9, "Measuring clearances");
    return measure(guard, key + 1);
}

} // namespace

std::vector<CycleRun> cyclesOf(const OperationResult& result) {
    std::vector<CycleRun> out;
    if (!result.drill || !result.links || !result.guard) return out;
    for (std::size_t p = 0; p < result.guard->passes.size(); ++p) {
        const Toolpath& path = result.guard->passes[p].path;
        CycleRun run{result.links->passStart[p], path.size() - 1, 0.0};
        for (std::size_t i = 0; i < path.size(); ++i)
            if (const double deep = (path.tip.front() - path.tip[i]).norm(); deep > run.depth) {
                run.depth = deep;
                run.bottom = run.first + i;
            }
        if (waitsAtBottom(result.cycle.cycle)) run.dwell = result.cycle.dwell;
        out.push_back(run);
    }
    return out;
}

double secondsOf(const OperationResult& result) {
    double s = result.motion ? result.motion->duration : 0.0;
    for (const CycleRun& run : cyclesOf(result)) s += run.dwell;
    return s;
}

Result<std::shared_ptr<const OperationResult>> runOperation(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress, const EarlyResult& early,
                                                            const PresentStock& present) {
    auto out = std::make_shared<OperationResult>();
    out->operation = recipe.id;
    out->key = operationKey(place.keyFor(recipe), recipe, place.tool(recipe.tool));
    if (!Runner(place, recipe, cache, progress, early, present, *out).run()) return cancelledError();
    return std::shared_ptr<const OperationResult>(out);
}

} // namespace gyre
