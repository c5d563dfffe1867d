#include "operation/Operation.h"
#include "axis/AxisSpec.h"
#include "base/Hash.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "form/Form.h"
#include "guard/GuardForm.h"
#include "guard/GuardSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkForm.h"
#include "machine/Reach.h"
#include "motion/PointsSpec.h"
#include "operation/Definition.h"
#include "operation/Free.h"
#include "operation/MotionWords.h"
#include "operation/RecipeForm.h"
#include "operation/Scenes.h"
#include "operation/StageCache.h"
#include "operation/StockOnTheWay.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "tool/Library.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

std::uint64_t operationKey(std::uint64_t placeKey, const Recipe& recipe, const Assembly* tool) {
    return Hash().add(placeKey).add(recipe.before).add(keyTextOf(recipe)).add(tool ? assemblyForm().write(*tool).dump() : std::string()).value();
}

void Stages::stop(Stage stage, const Error& error) {
    Finding f;
    f.rank = Rank::Stop;
    f.code = "nothing-generated";
    f.stage = stageName(stage);
    f.operation = out.operation;
    f.text = error.place.empty() || error.place == f.stage ? error.what : error.place + ": " + error.what;
    f.reason = error.remedy;
    out.findings.push_back(f);
}

void Stages::add(const std::vector<Finding>& findings) {
    for (Finding f : findings) {
        f.operation = out.operation;
        out.findings.push_back(std::move(f));
    }
}

bool Stages::pickFaces() {
    auto found = resolveFaces(*place.part, recipe.target->faces);
    if (!found) {
        stop(Stage::Target, found.error());
        return false;
    }
    if (found->empty()) {
        stop(Stage::Target, Error{"no face is picked", {}, "Click faces in the view", false});
        return false;
    }
    out.faces = std::move(*found);
    for (int f : out.faces) out.faceArea += place.part->faces()[static_cast<std::size_t>(f)].area;
    return true;
}

namespace {

struct Clearances {
    std::vector<float> shank, holder;
};
std::size_t bytesOf(const Clearances& c) { return sizeof c + 2 * c.shank.size() * sizeof(float); }

class Runner {
public:
    Runner(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress, const EarlyResult& early, const Before& before, OperationResult& out)
        : m_s(place, recipe, cache, progress, before, out), m_definition(definitionOf(recipe.kind)), m_early(early) {}

    /// @return false when cancelled
    bool run();

private:
    bool stages();
    bool pickTool();
    void showPasses();
    bool takeSlice();
    bool addChecks();
    bool speedAndFeed();
    bool linkAndMove(const Guard& guard);
    bool followTheCut();
    [[nodiscard]] MotionSpec motionWords() const; ///< with the links as they are
    [[nodiscard]] Kinematics kinematics() const { return Kinematics(*m_s.place.machine, m_s.place.partFrame, m_s.out.tool.gaugeLength()); }
    void tellSwings();
    void tellSmoothing();
    bool measure(const Guard& guard, std::uint64_t at);
    void mapHazards();
    void cure();

    Stages m_s;
    const Definition& m_definition;
    const EarlyResult& m_early;
    bool m_cured = false;
};

bool Runner::pickTool() {
    const Assembly* tool = m_s.place.tool(m_s.recipe.tool);
    if (!tool && m_definition.dispensable && m_definition.dispensable(m_s.recipe)) {
        omit(m_s.out, "the job has no tool for it");
        return false;
    }
    if (!tool) {
        m_s.stop(Stage::Target, Error{m_s.recipe.tool.empty() ? "no tool is chosen" : "the job has no tool '" + m_s.recipe.tool + "'", {}, "Choose a tool", false});
        if (m_definition.dispensable) m_s.out.findings.back().remedies.push_back({"Leave the step out", "active", "false"});
        return false;
    }
    m_s.out.tool = *tool;
    if (auto ok = validate(*tool); !ok) {
        m_s.stop(Stage::Target, ok.error());
        return false;
    }
    if (!m_s.place.part) {
        m_s.stop(Stage::Target, Error{"the job has no part", {}, "Open a part in Set up", false});
        return false;
    }
    return true;
}

// What the view draws of the stages before the links, and the tape counts.
void Runner::showPasses() {
    auto pattern = std::make_shared<PatternResult>();
    for (const Pass& p : *m_s.out.passes) {
        Row row;
        row.points = p.path.tip;
        row.normals = p.path.axis;
        row.faces.assign(p.path.size(), -1);
        row.index = p.row;
        pattern->rows.push_back(std::move(row));
    }
    if (m_definition.spacing) pattern->spacing = m_definition.spacing(m_s.recipe);
    m_s.out.pattern = pattern;
}

// Of all passes those of the slice; one that has nothing to cut is no fault.
bool Runner::takeSlice() {
    auto cut = std::make_shared<const std::vector<Pass>>(inSlice(*m_s.out.passes, m_s.recipe.slice, m_s.recipe.upward));
    m_s.out.passes = cut;
    m_s.key = Hash().add(m_s.key).add(placesTextOf(m_s.recipe)).add(m_s.recipe.upward ? 1.0 : 0.0).value();
    if (!cut->empty()) return true;
    omit(m_s.out, "nothing of it lies in this slice");
    return false;
}

bool Runner::addChecks() {
    auto scene = withChecks(m_s.place, m_s.recipe, m_s.scene);
    if (!scene) {
        m_s.stop(Stage::Guard, Error{"check faces: " + scene.error().what, scene.error().place, scene.error().remedy, false});
        return false;
    }
    m_s.scene = m_s.out.scene = std::move(*scene);
    if (!m_s.recipe.checks.empty()) m_s.key = Hash().add(m_s.key).add(checksTextOf(m_s.recipe)).value();
    return true;
}

bool Runner::measure(const Guard& guard, std::uint64_t at) {
    const Toolpath& path = m_s.out.links->path;
    std::shared_ptr<const Clearances> made;
    if (!m_s.take(Stage::Guard, at, made, [&]() -> Result<Clearances> {
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
                             &m_s.progress))
                return cancelledError();
            return c;
        }))
        return false;
    m_s.out.shankClearance = made->shank;
    m_s.out.holderClearance = made->holder;
    return true;
}

void Runner::mapHazards() {
    for (const Hazard& h : m_s.out.guard->hazards) {
        const auto at = [&](std::size_t i) { return m_s.out.links->locationOf(h.pass, i); };
        if (at(h.first) <= at(h.last)) {
            m_s.out.hazards.push_back({at(h.first), at(h.last), at(h.worst), h.zone, h.obstacle, h.least});
            continue;
        }
        // Over the place where a closed row begins: one stretch becomes two.
        std::size_t seam = h.first;
        while (seam < h.last && at(seam + 1) > at(seam)) ++seam;
        const std::size_t worst = at(h.worst);
        m_s.out.hazards.push_back({at(h.first), at(seam), h.worst <= seam ? worst : at(seam), h.zone, h.obstacle, h.least});
        m_s.out.hazards.push_back({at(seam + 1), at(h.last), h.worst <= seam ? at(seam + 1) : worst, h.zone, h.obstacle, h.least});
    }
    // Findings of the guard name no location yet: give them the span of their hazards.
    for (Finding& f : m_s.out.findings)
        if (f.stage == "Guard" && !f.span)
            for (const PathHazard& h : m_s.out.hazards) {
                const bool same = f.check == (h.zone == Zone::Cutter ? Check::Gouge : h.zone == Zone::Shank ? Check::Shank : Check::Holder);
                if (!same || std::abs(f.amount - h.least) > 1e-12) continue;
                f.span = {h.first, h.last};
            }
}

// Nothing may run without them: no way is laid that could be taken for a rapid.
bool Runner::speedAndFeed() {
    const Assembly& tool = m_s.out.tool;
    const auto missing = [&](const char* code, const char* what, const char* reason, const Remedy& remedy) {
        m_s.stop(Stage::Links, Error{what, tool.name, reason, false});
        m_s.out.findings.back().code = code;
        m_s.out.findings.back().remedies.push_back(remedy);
        return false;
    };
    if (std::round(tool.spindleSpeed) < 1.0)
        return missing("no-speed", "the spindle has no speed", "set one for the tool", {"Turn 1000 a minute", "tool.spindleSpeed", "1000"});
    const bool own = m_definition.feedsItself && m_definition.feedsItself(m_s.recipe);
    if (!own && !(m_s.feed() > 0.0))
        return missing("no-feed", "there is no feed", "set one for the operation, or a feed per tooth for the tool",
                       {"Feed 0.01 mm a tooth", "tool.feedPerTooth", "0.01"});
    return true;
}

MotionSpec Runner::motionWords() const {
    MotionSpec spec = motionWordsOf(m_s.recipe, *m_s.place.machine);
    spec.passName = [linked = m_s.out.links](int pass) { return passName(linked->originOf(pass), pass); };
    return spec;
}

// Links and joint motion by turns: a row that the rotaries cannot run through is left where they must turn back, and entered anew.
bool Runner::linkAndMove(const Guard& guard) {
    std::uint64_t& key = m_s.key;
    const Kinematics machine = kinematics();
    if (m_definition.locks && !m_s.recipe.axis->locked.empty()) key = Hash().add(key).add(m_s.recipe.axis->locked).add(radians(m_s.recipe.axis->lockedDegrees)).value();
    if (m_s.recipe.points->how == AtPoints::ExactStop) key = Hash().add(key).add("exact stops").value();
    constexpr int kRounds = 4;
    LinkAround links;
    links.pole = poleOf(machine);
    std::vector<Split>& splits = links.splits;
    for (int round = 0;; ++round) {
        {
            const Progress::Span span(m_s.progress, 0.6, 0.75);
            const auto link = [&] { return linkPasses(guard, m_s.out.guard->passes, m_s.recipe.link, m_s.feed(), m_s.progress, links); };
            if (!m_s.take(Stage::Links, key, m_s.out.links, link)) return false;
        }
        if (m_s.out.links->path.empty()) return true;
        {
            const Progress::Span span(m_s.progress, 0.75, 0.9);
            const auto move = [&] { return solveMotion(m_s.out.links->path, machine, motionWords(), m_s.progress, m_s.out.links->away); };
            if (!m_s.take(Stage::Links, key + 2, m_s.out.motion, move)) return false;
        }
        const std::vector<Split> more = splitsAt(*m_s.out.links, m_s.out.motion->jumps);
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

// The same path with other feeds, and the motion that comes of them.
bool Runner::followTheCut() {
    if (!m_s.recipe.feedByCut->on || m_s.out.links->path.empty()) return true;
    const auto noStock = [&] {
        Finding f;
        f.rank = Rank::Look;
        f.code = "feed-as-asked";
        f.stage = stageName(Stage::Links);
        f.text = "the feed cannot follow the cut and stays as it is asked for";
        f.reason = "there is no stock";
        f.remedies.push_back({"Leave the feed as it is", "feedByCut.on", "false"});
        m_s.add({f});
        return true;
    };
    const auto& bodies = m_s.place.bodies;
    if (!m_s.present || std::none_of(bodies.begin(), bodies.end(), [](const PlacedBody& b) { return b.role == "stock"; })) return noStock();
    // What the cutter stands in is measured once for all words of the feed.
    m_s.key = Hash().add(m_s.key).add("Engagement").add(m_s.recipe.rests).add(m_s.place.stock).value();
    const Toolpath& path = m_s.out.links->path;
    std::shared_ptr<const Engagement> engaged;
    const Progress::Span span(m_s.progress, 0.9, 0.95);
    if (!m_s.take(Stage::Links, m_s.key, engaged, [&]() -> Result<Engagement> {
            const auto left = m_s.present(m_s.progress);
            if (!left) return tl::unexpected(left.error());
            return engagement(**left, path, m_s.out.tool.cutter, m_s.out.tool.spindleSpeed, m_s.progress, Places::All);
        }))
        return false;
    CutFeed fed = feedByCut(path, *engaged, m_s.out.tool, m_s.recipe.feedByCut);
    fed.secondsAsAsked = m_s.out.motion->duration;
    m_s.out.cutFeed = std::make_shared<const CutFeed>(std::move(fed));
    m_s.key = Hash().add(m_s.key).add("Feed").add(recipeForm().write(m_s.recipe)["feedByCut"].dump()).value();
    const auto refed = [&]() -> Result<LinkResult> {
        LinkResult links = *m_s.out.links;
        for (std::size_t i = 0; i < links.path.size(); ++i)
            if (!links.path.rapid(i)) links.path.feed[i] *= m_s.out.cutFeed->share[i];
        return links;
    };
    const auto move = [&] { return solveMotion(m_s.out.links->path, kinematics(), motionWords(), m_s.progress, m_s.out.links->away); };
    return m_s.take(Stage::Links, m_s.key, m_s.out.links, refed) && m_s.take(Stage::Links, m_s.key + 2, m_s.out.motion, move);
}

// A control that rounds points off leaves the path that is proven.
void Runner::tellSmoothing() {
    const double within = m_s.recipe.points->smoothing();
    if (within <= 0.0 || m_s.out.links->path.empty()) return;
    const double fine = m_s.recipe.pattern->chordTolerance, room = std::min(m_s.recipe.guard->shankClearance, m_s.recipe.guard->holderClearance);
    Finding f;
    f.rank = within > fine || within > room ? Rank::Look : Rank::Note;
    f.check = Check::Machine;
    f.code = "points-smoothed";
    f.stage = "Motion";
    f.amount = within;
    f.text = fmt::format("the control may leave the path by {:.3f} mm at its points; proven is the path", within);
    f.reason = within > room   ? fmt::format("shank or holder keep only {:.3f} mm off", room)
               : within > fine ? fmt::format("points lie within {:.3f} mm of the true way", fine)
                               : "no more than points lie off the true way";
    f.operation = m_s.out.operation;
    if (f.rank == Rank::Look) {
        f.remedies.push_back({"Stop exactly at points", "points.how", "exactStop"});
        if (std::min(fine, room) >= 0.001)
            f.remedies.push_back({fmt::format("Within {:.3f} mm", std::min(fine, room)), "points.within", fmt::format("{:.6g}", std::min(fine, room))});
    }
    m_s.add({f});
}

// What the rotaries make of the links is told: a row that is left in the middle shows on the part.
void Runner::tellSwings() {
    const auto& pieces = m_s.out.links->pieces;
    const auto place = [&](Finding& f, std::size_t location) {
        const Vec3& p = m_s.out.links->path.tip[location];
        f.stage = "Motion";
        f.row = m_s.out.links->path.row[location];
        f.span = {location, location};
        f.place = {p.x(), p.y(), p.z()};
        f.operation = m_s.out.operation;
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
        const PassOrigin from = m_s.out.links->originOf(f.row);
        f.text = inside == 1
                     ? passTitle(from, f.row) + " is left and entered anew where a rotary axis has to turn back"
                     : fmt::format("Rows are left and entered anew in {} places where a rotary axis has to turn back, first in {}", inside, passName(from, f.row));
        f.reason = "its travel ends there; the entry may show on the part";
        m_s.out.findings.push_back(f);
    }
    if (const auto& swings = m_s.out.motion->swings; !swings.empty()) {
        Finding f;
        f.rank = Rank::Note;
        f.check = Check::Travel;
        f.code = "rotaries-swing";
        f.amount = static_cast<double>(swings.size());
        place(f, swings.front());
        f.text = fmt::format("The rotary axes turn back or over at the top of Z {}, first before {}",
                             swings.size() == 1 ? std::string("once") : fmt::format("{} times", swings.size()), passName(m_s.out.links->originOf(f.row), f.row));
        f.reason = "rows on both sides of it ask for different turns";
        m_s.out.findings.push_back(f);
    }
}

bool Runner::run() {
    const bool done = stages();
    cure();
    return done;
}

void Runner::cure() {
    if (m_definition.cure && !m_cured) m_definition.cure(m_s.recipe, m_s.out.findings);
    m_cured = true;
}

bool Runner::stages() {
    if (!pickTool()) return true;
    m_s.tool = assemblyForm().write(m_s.out.tool).dump();
    if (!m_definition.lay(m_s)) return !m_s.cancelled;
    if (!repeatPasses(m_s)) return true;
    if (m_s.recipe.slice.any() && !takeSlice()) return true;
    if (m_definition.drawsPasses) showPasses();
    const double meant = m_definition.meantDepth ? m_definition.meantDepth(m_s.recipe) : 0.0;
    if (!addChecks()) return true;
    const Guard guard(m_s.out.tool, *m_s.scene, m_s.recipe.guard, m_s.recipe.pattern->chordTolerance, meant);
    const Freedom freedom = freedomOf(m_s.place, m_s.recipe, m_s.out.tool);
    m_s.key = Hash().add(m_s.key).add("Guard").add(guardForm().write(m_s.recipe.guard).dump()).add(meant).value();
    {
        const Progress::Span span(m_s.progress, 0.3, 0.6);
        if (!m_s.take(Stage::Guard, m_s.key, m_s.out.guard, [&] { return guardPasses(guard, *m_s.out.passes, m_s.progress, freedom); })) return !m_s.cancelled;
    }
    m_s.add(m_s.out.guard->findings);
    m_s.key = Hash().add(m_s.key).add("Links").add(linkForm().write(m_s.recipe.link).dump()).add(m_s.recipe.feed).value();
    if (!speedAndFeed()) return true;
    if (!linkAndMove(guard)) return !m_s.cancelled;
    const std::uint64_t way = m_s.key; // the same with any feed
    if (!followTheCut()) return !m_s.cancelled;
    m_s.add(m_s.out.links->findings);
    mapHazards();
    if (m_definition.readsStock && !laidByStock(m_s.recipe)) {
        auto met = rapidsThroughStock(m_s.place, m_s.out, m_s.present, m_s.progress);
        if (!met) return false;
        m_s.add(*met);
    }
    if (m_s.out.links->path.empty()) return true;
    m_s.add(m_s.out.motion->findings);
    tellSwings();
    tellSmoothing();
    cure();
    if (!m_s.knows<Clearances>(way + 1) && m_early) m_early(std::make_shared<const OperationResult>(m_s.out));
    m_s.progress.report(m_s.out.cutFeed ? 0.95 : 0.9, "Measuring clearances");
    return measure(guard, way + 1);
}

} // namespace

Result<std::shared_ptr<const OperationResult>> runOperation(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress, const EarlyResult& early,
                                                            const Before& before) {
    auto out = std::make_shared<OperationResult>();
    out->operation = recipe.id;
    out->name = recipe.name;
    out->slice = recipe.slice;
    out->kind = recipe.kind;
    out->cycle = recipe.drill;
    out->points = recipe.points;
    out->key = operationKey(place.keyFor(recipe), recipe, place.tool(recipe.tool));
    if (!Runner(place, recipe, cache, progress, early, before, *out).run()) return cancelledError();
    return std::shared_ptr<const OperationResult>(out);
}

} // namespace gyre
