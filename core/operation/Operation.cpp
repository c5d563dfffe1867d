#include "operation/Operation.h"
#include "machine/Reach.h"
#include "base/Hash.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "tool/Library.h"
#include <fmt/format.h>

namespace gyre {

const Assembly* Workplace::tool(const std::string& id) const {
    for (const auto& t : tools)
        if (t.id == id) return &t;
    return nullptr;
}

std::shared_ptr<const void> StageCache::find(std::uint64_t key) const {
    const std::lock_guard lock(m_mutex);
    const auto it = m_values.find(key);
    return it == m_values.end() ? nullptr : it->second;
}

void StageCache::keep(std::uint64_t key, std::shared_ptr<const void> value) {
    const std::lock_guard lock(m_mutex);
    if (!m_values.emplace(key, std::move(value)).second) return;
    m_order.push_back(key);
    if (m_order.size() > kMost) {
        m_values.erase(m_order.front());
        m_order.erase(m_order.begin());
    }
}

std::uint64_t operationKey(std::uint64_t placeKey, const Recipe& recipe, const Assembly* tool) {
    return Hash().add(placeKey).add(recipeToJson(recipe).dump()).add(tool ? assemblyToJson(*tool).dump() : std::string()).value();
}

std::string OperationResult::facts(Stage stage) const {
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

/// Looks a stage up, or runs it and keeps what it came to.
template <class T, class Run> Result<std::shared_ptr<const T>> cached(StageCache& cache, std::uint64_t key, const Run& run) {
    if (auto known = cache.find(key)) return std::static_pointer_cast<const T>(known);
    Result<T> made = run();
    if (!made) return tl::unexpected(made.error());
    auto shared = std::make_shared<const T>(std::move(*made));
    cache.keep(key, shared);
    return std::shared_ptr<const T>(shared);
}

struct Clearances {
    std::vector<float> shank, holder;
};

class Runner {
public:
    Runner(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress, const EarlyResult& early, OperationResult& out)
        : m_place(place), m_recipe(recipe), m_cache(cache), m_progress(progress), m_early(early), m_out(out) {}

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
    bool pickFaces();
    bool measure(const Guard& guard, std::uint64_t key);
    void mapHazards();

    const Workplace& m_place;
    const Recipe& m_recipe;
    StageCache& m_cache;
    Progress& m_progress;
    const EarlyResult& m_early;
    OperationResult& m_out;
    bool m_cancelled = false;
};

bool Runner::pickFaces() {
    const Assembly* tool = m_place.tool(m_recipe.tool);
    if (!tool) {
        stopAt(m_out, Stage::Target, Error{m_recipe.tool.empty() ? "no tool is chosen" : "the job has no tool '" + m_recipe.tool + "'", {}, "Choose a tool", false});
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
        const std::size_t start = m_out.links->passStart[h.pass];
        m_out.hazards.push_back({start + h.first, start + h.last, start + h.worst, h.zone, h.obstacle, h.least});
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

bool Runner::run() {
    if (!pickFaces()) return true;
    const double radius = contactRadius(m_out.tool.cutter);
    const std::string tool = assemblyToJson(m_out.tool).dump();
    // The stock to leave is a word of the target, but rows do not rest on it: it only shifts the contacts.
    std::uint64_t key = Hash().add(m_place.key).add(stageToJson(m_recipe, Stage::Target)["faces"].dump()).value();
    key = keyOf(Stage::Pattern, key, fmt::format("{}", radius));
    {
        const Progress::Span span(m_progress, 0.0, 0.3);
        if (!take(Stage::Pattern, cached<PatternResult>(m_cache, key, [&] { return layRows(*m_place.part, m_out.faces, m_recipe.pattern, radius, m_progress); }),
                  m_out.pattern))
            return !m_cancelled;
    }
    addFindings(m_out.pattern->findings);
    key = keyOf(Stage::Axis, key, tool);
    if (!take(Stage::Axis, cached<AxisResult>(m_cache, key, [&] { return setAxes(m_out.pattern->rows, m_recipe.axis, m_out.tool.cutter, rotaryLine(*m_place.machine, m_place.partFrame)); }),
              m_out.axis))
        return !m_cancelled;
    addFindings(m_out.axis->findings);
    key = Hash().add(key).add(m_recipe.target.leave).value();
    if (!take(Stage::Axis,
              cached<std::vector<Pass>>(m_cache, key,
                                        [&]() -> Result<std::vector<Pass>> { return passesOf(*m_out.pattern, *m_out.axis, m_out.tool.cutter, m_recipe.target.leave); }),
              m_out.passes))
        return !m_cancelled;
    const Guard guard(m_out.tool, *m_place.scene, m_recipe.guard, m_recipe.pattern.chordTolerance);
    key = keyOf(Stage::Guard, key);
    {
        const Progress::Span span(m_progress, 0.3, 0.6);
        if (!take(Stage::Guard, cached<GuardResult>(m_cache, key, [&] { return guardPasses(guard, *m_out.passes, m_progress); }), m_out.guard)) return !m_cancelled;
    }
    addFindings(m_out.guard->findings);
    key = keyOf(Stage::Links, key, fmt::format("{}", m_recipe.feed));
    const double feed = m_recipe.feed > 0.0 ? m_recipe.feed : m_out.tool.feed();
    {
        const Progress::Span span(m_progress, 0.6, 0.75);
        if (!take(Stage::Links, cached<LinkResult>(m_cache, key, [&] { return linkPasses(guard, m_out.guard->passes, m_recipe.link, feed, m_progress); }), m_out.links))
            return !m_cancelled;
    }
    addFindings(m_out.links->findings);
    mapHazards();
    if (m_out.links->path.empty()) return true;
    {
        const Progress::Span span(m_progress, 0.75, 0.9);
        const Kinematics kinematics(*m_place.machine, m_place.partFrame, m_out.tool.gaugeLength());
        if (!take(Stage::Links, cached<JointMotion>(m_cache, key + 2, [&] { return solveMotion(m_out.links->path, kinematics, MotionSpec{}, m_progress); }),
                  m_out.motion))
            return !m_cancelled;
    }
    addFindings(m_out.motion->findings);
    if (!m_cache.find(key + 1) && m_early) m_early(std::make_shared<const OperationResult>(m_out));
    m_progress.report(0.9, "Measuring clearances");
    return measure(guard, key + 1);
}

} // namespace

Result<std::shared_ptr<const OperationResult>> runOperation(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress,
                                                            const EarlyResult& early) {
    auto out = std::make_shared<OperationResult>();
    out->operation = recipe.id;
    out->key = operationKey(place.key, recipe, place.tool(recipe.tool));
    if (!Runner(place, recipe, cache, progress, early, *out).run()) return cancelledError();
    return std::shared_ptr<const OperationResult>(out);
}

} // namespace gyre
