// A demo job in the making.
#pragma once
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "operation/Workplace.h"
#include "proposal/AlongGuess.h"
#include "proposal/HoleWork.h"
#include "proposal/MillWork.h"
#include "session/Workshop.h"
#include "target/TargetSpec.h"
#include <cstdio>
#include <functional>

namespace gyre::demo {

/// The stock of a part that was roughed before this job: as much as that all around it.
inline void roughed(Job& job, double allowance) {
    for (JobBody& b : job.bodies)
        if (b.role == "stock") {
            b.name = "roughed part";
            b.shape = StockShape{};
            b.shape->kind = StockShape::Kind::Around;
            b.shape->allowance = allowance;
        }
}

/// Faces of the body that please.
template <class Like> std::vector<int> facesThat(const Part& part, const Like& like) {
    std::vector<int> out;
    for (int f = 0; f < part.bodyFaces(); ++f)
        if (like(part.faces()[static_cast<std::size_t>(f)])) out.push_back(f);
    return out;
}

/// A setup with its workplace, to which operations are added one by one.
class Route {
public:
    Route(const std::filesystem::path& folder, const char* setup) : m_folder(folder), m_workshop(folder) {
        auto opened = openJob(folder / (std::string(setup) + ".gyre.json"));
        if (opened) job = std::move(*opened);
        job.route.reserve(100); // recipes are changed where they stand
    }
    bool place() {
        Progress progress;
        auto made = m_workshop.placeFor(job, progress);
        if (!made) std::fprintf(stderr, "%s\n", made.error().text().c_str());
        if (made) m_place = *made;
        return made.has_value();
    }
    [[nodiscard]] const Workplace& now() const { return *m_place; }
    [[nodiscard]] const Part& part() const { return *m_place->part; }
    /// Faces of a kind whose surface runs through a place.
    [[nodiscard]] std::vector<int> facesAt(SurfaceKind kind, const Vec3& p, double within = 1e-3) const {
        std::vector<int> out;
        for (std::size_t f = 0; f < part().faces().size(); ++f) {
            const FaceInfo& i = part().faces()[f];
            if (i.kind == kind && (part().project(static_cast<int>(f), p).point - p).norm() < within && i.bounds.distance(p) < within) out.push_back(static_cast<int>(f));
        }
        return out;
    }
    /// The first guess for picked faces, ready for the route.
    Recipe& mill(MillShape shape, const char* name, const std::vector<int>& faces = {}, const char* on = "") {
        Recipe r = proposeMill(job, now(), shape);
        r.name = name;
        for (const int f : faces) r.target->faces.push_back(part().faceRef(f));
        if (*on) r.mill->on = on;
        fitMill(job, now(), r);
        job.route.push_back(r);
        return job.route.back();
    }
    /// Repeated on other planes: the way around must clear them all.
    void repeat(Recipe& r, const std::vector<std::string>& planes) const {
        r.repeat->planes = planes;
        Recipe refitted = r;
        fitMill(job, now(), refitted);
        r.link->skin = refitted.link->skin;
    }
    /// The first guess along a wall, a curve or edges.
    Recipe& follow(OperationKind kind, const char* name, const std::vector<int>& faces = {}, const std::vector<int>& edges = {}, BreakEdges which = BreakEdges::Picked) {
        Recipe r = proposeAlong(job, now(), kind, which);
        r.name = name;
        if (kind == OperationKind::Curve && edges.empty() && !faces.empty()) r.curve->by = CurveBy::Channel;
        for (const int f : faces) r.target->faces.push_back(part().faceRef(f));
        for (const int e : edges) r.target->edges.push_back(part().edgeRef(e));
        fitAlong(job, now(), r);
        job.route.push_back(r);
        return job.route.back();
    }
    void holes(const std::function<bool(const HoleGroup&)>& wanted) {
        for (const HoleGroup& g : groupHoles(wantedHoles(job, now()), rotaryLine(*now().machine, now().partFrame)))
            if (wanted(g))
                for (Recipe r : proposeHoleWork(job, now(), g).work) {
                    r.drill->breakthrough = 0.5;
                    job.route.push_back(r);
                }
    }
    /// Roughed somewhere else, so much all around.
    void roughed(double allowance) { demo::roughed(job, allowance); }
    bool save(const char* file) const {
        const auto ok = saveJob(job, m_folder / (std::string(file) + ".gyre.json"));
        if (!ok) std::fprintf(stderr, "%s\n", ok.error().text().c_str());
        return ok.has_value();
    }
    Job job;

private:
    std::filesystem::path m_folder;
    Workshop m_workshop;
    std::shared_ptr<const Workplace> m_place;
};

} // namespace gyre::demo
