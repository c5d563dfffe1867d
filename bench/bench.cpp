// Measures: collision questions beside FCL in the same run, the demo operation, an edit.   gyre-bench
#include "axis/AxisSpec.h"
#include "guard/GuardSpec.h"
#include "link/LinkSpec.h"
#include "motion/Motion.h"
#include "operation/Free.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"
#include "session/Comparison.h"
#include "session/RouteStock.h"
#include "session/Session.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <algorithm>
#include <chrono>
#include <fmt/format.h>
#include <random>
#ifdef GYRE_HAVE_FCL
#include <fcl/fcl.h>
#endif

using namespace gyre;

namespace {

double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

// A wavy bowl of about 100 000 triangles, as large as the demo part.
TriangleMesh scene() {
    TriangleMesh m;
    constexpr int n = 224;
    for (int i = 0; i <= n; ++i)
        for (int j = 0; j <= n; ++j) {
            const double x = 100.0 * i / n - 50, y = 100.0 * j / n - 50;
            m.points.emplace_back(x, y, 0.006 * (x * x + y * y) + 2.0 * std::sin(0.3 * x) * std::cos(0.3 * y));
        }
    const auto id = [](int i, int j) { return static_cast<std::uint32_t>(i * (n + 1) + j); };
    for (int i = 0; i < n; ++i)
        for (int j = 0; j < n; ++j) {
            m.triangles.push_back({id(i, j), id(i + 1, j), id(i + 1, j + 1)});
            m.triangles.push_back({id(i, j), id(i + 1, j + 1), id(i, j + 1)});
        }
    return m;
}

constexpr int kRows = 250, kPerRow = 400;
const std::vector<RoundedFrustum> pieces{{0, 3, 12, 3, 0}, {12, 3, 42, 3, 0}, {42, 10, 92, 10, 0}};
const std::vector<double> clearance{0.5, 1.0, 2.0};

#ifdef GYRE_HAVE_FCL
void againstFcl(const TriangleMesh& mesh, const MeshTree& tree, const std::vector<AxisPose>& poses, double yes, double exact) {
    double t = 0.0;
    auto model = std::make_shared<fcl::BVHModel<fcl::OBBRSSd>>();
    std::vector<fcl::Triangle> triangles;
    for (const auto& f : mesh.triangles) triangles.emplace_back(f[0], f[1], f[2]);
    model->beginModel();
    model->addSubModel(mesh.points, triangles);
    model->endModel();
    const fcl::CollisionObjectd part(model);
    const auto place = [](const AxisPose& p, double middle) {
        fcl::Transform3d f = fcl::Transform3d::Identity();
        f.linear() = Eigen::Quaterniond::FromTwoVectors(Vec3::UnitZ(), p.axis).toRotationMatrix();
        f.translation() = p.tip + middle * p.axis;
        return f;
    };
    // Every fifth row whole for the one, the first four locations of every tenth row for the other, which is slow.
    std::vector<AxisPose> some, few;
    for (std::size_t r = 0; r < kRows; r += 5)
        some.insert(some.end(), poses.begin() + static_cast<long>(r * kPerRow), poses.begin() + static_cast<long>((r + 1) * kPerRow));
    for (std::size_t r = 0; r < kRows; r += 10) few.insert(few.end(), poses.begin() + static_cast<long>(r * kPerRow), poses.begin() + static_cast<long>(r * kPerRow + 4));
    std::size_t theirs = 0, ours = 0;
    t = now();
    for (const auto& pose : some)
        for (std::size_t k = 0; k < 3; ++k) {
            const auto& f = pieces[k];
            fcl::CollisionObjectd tool(std::make_shared<fcl::Cylinderd>(f.r0 + clearance[k], f.z1 - f.z0 + 2 * clearance[k]), place(pose, 0.5 * (f.z0 + f.z1)));
            fcl::CollisionRequestd request;
            fcl::CollisionResultd result;
            if (fcl::collide(&tool, &part, request, result)) {
                ++theirs;
                break;
            }
        }
    const double fclYes = (now() - t) / static_cast<double>(some.size());
    for (const auto& pose : some) ours += tree.anyWithin(pose, pieces.data(), clearance.data(), 3);
    t = now();
    double fclSum = 0, ourSum = 0;
    for (const auto& pose : few) {
        double least = 1e300;
        for (const auto& f : pieces) {
            fcl::CollisionObjectd tool(std::make_shared<fcl::Cylinderd>(f.r0, f.z1 - f.z0), place(pose, 0.5 * (f.z0 + f.z1)));
            fcl::DistanceRequestd request;
            fcl::DistanceResultd result;
            least = std::min(least, static_cast<double>(fcl::distance(&tool, &part, request, result)));
        }
        fclSum += std::max(0.0, least);
        ourSum += std::max(0.0, tree.distance(pose, pieces.data(), 3, 1e9));
    }
    const double fclExact = (now() - t) / static_cast<double>(few.size());
    fmt::print("the same with FCL ({} and {} locations)\n  collide                    {:8.2f} µs  ({} hits, ours there {}): {:.0f} times ours\n  distance                "
               "   {:8.2f} µs  (mean {:.3f} mm, ours there {:.3f}): {:.0f} times ours\n",
               some.size(), few.size(), 1e6 * fclYes, theirs, ours, fclYes / yes, 1e6 * fclExact, fclSum / static_cast<double>(few.size()),
               ourSum / static_cast<double>(few.size()), fclExact / exact);
}
#endif

void collisions() {
    const TriangleMesh mesh = scene();
    const MeshTree tree(mesh);
    std::mt19937 random(7);
    const auto number = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    std::vector<AxisPose> poses;
    // Rows back and forth, as a path has them; height, lean and direction wander from row to row and along it.
    for (int r = 0; r < kRows; ++r) {
        const double up = number(1.5, 6), lean = number(0, 0.7), turn = number(0, 6.28), y = 90.0 * r / kRows - 45.0;
        for (int i = 0; i < kPerRow; ++i) {
            const double t = static_cast<double>(r % 2 ? kPerRow - 1 - i : i) / kPerRow, x = 90.0 * t - 45.0;
            const double l = lean * (0.8 + 0.2 * std::sin(9 * t)), d = turn + 0.6 * std::sin(5 * t);
            poses.push_back({Vec3(x, y, 0.006 * (x * x + y * y) + up + 0.5 * std::sin(20 * t)), Vec3(std::sin(l) * std::cos(d), std::sin(l) * std::sin(d), std::cos(l))});
        }
    }
    double t = now();
    std::size_t hits = 0;
    std::uint32_t near = UINT32_MAX;
    for (const auto& p : poses) hits += tree.anyWithin(p, pieces.data(), clearance.data(), 3, &near);
    const double yes = (now() - t) / static_cast<double>(poses.size());
    t = now();
    double sum = 0;
    std::uint32_t hint = UINT32_MAX;
    for (const auto& p : poses) sum += std::min(1e3, tree.distance(p, pieces.data(), 3, 1e9, &hint));
    const double exact = (now() - t) / static_cast<double>(poses.size());
    fmt::print("collision, {} triangles, 3 pieces, one thread, 100 000 locations\n  yes/no within a clearance  {:8.2f} µs  ({} hits)\n  exact clearance            "
               "{:8.2f} µs  (mean {:.3f} mm)\n",
               mesh.triangles.size(), 1e6 * yes, hits, 1e6 * exact, sum / static_cast<double>(poses.size()));
#ifdef GYRE_HAVE_FCL
    againstFcl(mesh, tree, poses, yes, exact);
#endif
}

// Rows alone, as close as anyone would lay them.
void pattern() {
    const Job job = openJob(std::string(GYRE_DEMO_DIR) + "/lantern-collar.gyre.json").value();
    Workshop workshop(GYRE_DEMO_DIR);
    Progress progress;
    const auto place = workshop.placeFor(job, progress).value();
    const Recipe& r = job.route[0];
    const auto faces = resolveFaces(*place->part, r.target->faces).value();
    for (const double spacing : {0.4, 0.2, 0.1}) {
        PatternSpec spec = r.pattern;
        spec.spacing = spacing;
        const double t = now();
        const auto rows = layRows(*place->part, faces, spec, contactRadius(place->tool(r.tool)->cutter), progress).value();
        std::size_t points = 0;
        for (const Row& row : rows.rows) points += row.points.size();
        fmt::print("pattern alone, {:.1f} mm apart       {:6.2f} s  ({} rows, {} contacts, widest gap {:.4f})\n", spacing, now() - t, rows.rows.size(), points,
                   rows.widestGap);
    }
}

void demo() {
    const Job job = openJob(std::string(GYRE_DEMO_DIR) + "/lantern-collar.gyre.json").value();
    Workshop workshop(GYRE_DEMO_DIR);
    StageCache cache;
    std::string stage;
    double last = now();
    std::vector<std::pair<std::string, double>> spent;
    Progress progress([&](double, const std::string& what) {
        const double t = now();
        if (!stage.empty() && what != stage) spent.emplace_back(stage, t - last);
        if (what != stage) last = t;
        stage = what;
    });
    double t = now();
    const auto place = workshop.placeFor(job, progress).value();
    fmt::print("demo job\n  opening part, fixture, machine {:6.2f} s\n", now() - t);
    spent.clear();
    t = now();
    const auto op = runOperation(*place, job.route[0], cache, progress).value();
    fmt::print("  whole operation                {:6.2f} s  ({} locations, {} steps)\n", now() - t, op->path()->size(), op->motion->size());
    const auto printStages = [&] {
        for (const auto& [what, s] : spent)
            if (s > 0.02) fmt::print("    {:30} {:6.2f} s\n", what, s);
    };
    printStages();
    const auto edit = [&](const char* what, auto&& change) {
        Recipe r = job.route[0];
        change(r);
        const double from = now();
        (void)runOperation(*place, r, cache, progress);
        fmt::print("  edit of {:22} {:6.2f} s\n", what, now() - from);
    };
    edit("the lead", [](Recipe& r) { r.axis->leadDegrees = 6; });
    edit("a clearance", [](Recipe& r) { r.guard->holderClearance = 2.5; });
    edit("the entry", [](Recipe& r) { r.link->entryRadius = 1.5; });
    t = now();
    const auto proof = prove(*place, *op, ProofSpec{}, progress).value();
    fmt::print("  proof at the machine           {:6.2f} s  ({} pairs, {} questions)\n", now() - t, proof.pairs, proof.questions);
    Recipe fine = job.route[0];
    fine.pattern->spacing = 0.1;
    spent.clear();
    stage.clear();
    t = now();
    const auto large = runOperation(*place, fine, cache, progress).value();
    fmt::print("  rows 0.1 mm apart              {:6.2f} s  ({} locations)\n", now() - t, large->path() ? large->path()->size() : 0);
    printStages();
}

// Every operation of some demo jobs from nothing.
void operations(const std::vector<const char*>& files) {
    for (const char* file : files) {
        const Job job = openJob(std::string(GYRE_DEMO_DIR) + "/" + file + ".gyre.json").value();
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        const auto place = workshop.placeFor(job, progress).value();
        StageCache stocks;
        RouteStock left(place, stocks);
        fmt::print("{}\n", file);
        for (const Recipe& r : job.worked()) {
            StageCache cache;
            const double t = now();
            const auto done = runOperation(*place, r, cache, progress, {}, [&](Progress& p) { return left.now(p); }).value();
            fmt::print("  {:28} {:6.2f} s  ({} locations)\n", r.name, now() - t, done->path() ? done->path()->size() : 0);
            left.add(done);
        }
    }
}

// The stock of a whole route at several sizes of cells: cut, its surface, its deviation; then places within the longest operation, to and fro.
void stock(const std::vector<const char*>& files) {
    for (const char* file : files) {
        const Job job = openJob(std::string(GYRE_DEMO_DIR) + "/" + file + ".gyre.json").value();
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        StageCache cache;
        const JobResults made = computeJob(job, workshop, cache, progress).value();
        std::vector<const TriangleMesh*> bodies;
        for (const PlacedBody& b : made.place->bodies)
            if (b.role == "stock") bodies.push_back(&b.shape->mesh());
        fmt::print("stock of {}\n", file);
        for (const double cell : {0.5, 0.25}) {
            Stock stock = Stock::of(bodies, cell, progress).value();
            std::size_t locations = 0;
            double t = now();
            for (const auto& done : made.operations) {
                if (!done->path()) continue;
                locations += done->path()->size();
                (void)stock.remove(*done->path(), done->tool.cutter, progress);
            }
            const double cutting = now() - t;
            t = now();
            const auto triangles = stock.skin().triangles.size();
            const double skin = now() - t;
            t = now();
            (void)stockOff(stock, *made.place->part, progress);
            fmt::print("  cells of {:4.2f} mm  cut {:6.2f} s ({} locations, {:.0f} a minute)  surface {:5.3f} s ({} triangles)  deviation {:5.2f} s  {:.0f} MB\n", cell,
                       cutting, locations, 60.0 * static_cast<double>(locations) / cutting, skin, triangles, now() - t - skin, static_cast<double>(stock.bytes()) / 1e6);
        }
        RouteStock route(made.place, cache);
        StageCache moments;
        for (const auto& done : made.operations) route.add(done);
        const auto longest =
            std::max_element(route.operations().begin(), route.operations().end(), [](const auto& a, const auto& b) { return a->path()->size() < b->path()->size(); });
        const auto which = static_cast<std::size_t>(longest - route.operations().begin());
        (void)route.after(which, progress);
        const double n = static_cast<double>((*longest)->path()->size());
        for (const double share : {0.5, 0.49, 0.25, 0.9, 0.1}) {
            const double t = now();
            const auto at = route.at(which, static_cast<std::size_t>(share * n), moments, progress).value();
            const double found = now() - t;
            (void)at->skin();
            fmt::print("  at {:3.0f} % of {} locations: state {:5.3f} s, surface {:5.3f} s\n", 100.0 * share, n, found, now() - t - found);
        }
    }
}

// Leaning away: the operation that leans and the same without, maps of directions along it.
void leaning() {
    const Job job = openJob(std::string(GYRE_DEMO_DIR) + "/collar-leans.gyre.json").value();
    Workshop workshop(GYRE_DEMO_DIR);
    Progress progress;
    const auto place = workshop.placeFor(job, progress).value();
    std::shared_ptr<const OperationResult> leaned;
    fmt::print("leaning away\n");
    for (const GuardResponse response : {GuardResponse::Lean, GuardResponse::Drop, GuardResponse::Report, GuardResponse::Lean}) {
        StageCache cache;
        Recipe r = job.route[0];
        r.guard->response = response;
        const double t = now();
        const auto done = runOperation(*place, r, cache, progress).value();
        fmt::print("  {:28} {:6.2f} s  ({} locations, {} leaned)\n",
                   response == GuardResponse::Lean   ? "leans"
                   : response == GuardResponse::Drop ? "leaves out"
                                                     : "tells, and tries to lean",
                   now() - t, done->path()->size(), done->guard->leaned);
        if (response == GuardResponse::Lean) leaned = done;
    }
    for (const auto& [cell, rooms] : {std::pair(4.0, false), std::pair(2.0, false), std::pair(2.5, true)}) {
        constexpr int kMaps = 40;
        const double t = now();
        std::size_t directions = 0;
        for (int k = 0; k < kMaps; ++k) {
            const auto here = skyAt(*place, job.route[0], *leaned, leaned->path()->size() * static_cast<std::size_t>(k) / kMaps, cell, rooms);
            if (here) directions += here->map.cells.size() - here->map.count(SkyMap::Kind::Below);
        }
        fmt::print("  a map at {:.1f}°{} {:6.1f} ms  ({} directions)\n", cell, rooms ? ", with room" : "           ", 1e3 * (now() - t) / kMaps, directions / kMaps);
    }
}

} // namespace

// gyre-bench [collisions|pattern|demo|milling|following|leaning|stock]
int main(int argc, char** argv) {
    const std::string only = argc > 1 ? argv[1] : "";
    if (only.empty() || only == "collisions") collisions();
    if (only.empty() || only == "pattern") pattern();
    if (only.empty() || only == "demo") demo();
    if (only.empty() || only == "milling") operations({"barrel-work", "yoke-work"});
    if (only.empty() || only == "leaning") leaning();
    if (only.empty() || only == "stock") stock({"barrel-work", "yoke-work", "horn-guide"});
    if (only.empty() || only == "following") operations({"collar-walls", "horn-guide", "dome-edges", "yoke-edges", "runner-vanes"});
}
