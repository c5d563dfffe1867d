// True distances judged by the exact shortest paths of a general geometry library on the same meshes: how far the two differ, and how long each takes.
// By hand; built where the library is there.
#include "part/Part.h"
#include "pattern/Distance.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>
#include <CGAL/Surface_mesh_shortest_path.h>
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <numeric>

using namespace gyre;

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Mesh = CGAL::Surface_mesh<Kernel::Point_3>;
using Judge = CGAL::Surface_mesh_shortest_path<CGAL::Surface_mesh_shortest_path_traits<Kernel, Mesh>>;

double seconds(std::chrono::steady_clock::time_point from) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count(); }

/// @return false where they differ by more than a thousandth
bool judge(const char* name, const FieldMesh& field, std::size_t sources) {
    Mesh mesh;
    std::vector<Mesh::Vertex_index> vertices;
    for (const Vec3& p : field.points) vertices.push_back(mesh.add_vertex({p.x(), p.y(), p.z()}));
    for (const auto& t : field.triangles) mesh.add_face(vertices[t[0]], vertices[t[1]], vertices[t[2]]);
    std::vector<std::vector<std::uint32_t>> lines; // points, spread over the mesh
    for (std::size_t k = 0; k < sources; ++k) lines.push_back({field.triangles[(2 * k + 1) * field.triangles.size() / (2 * sources)][0]});
    auto from = std::chrono::steady_clock::now();
    const auto ours = distancesFrom(field.points, field.triangles, lines);
    const double our = seconds(from);
    if (!ours) return false;
    from = std::chrono::steady_clock::now();
    Judge paths(mesh);
    for (const auto& line : lines) paths.add_source_point(vertices[line[0]]);
    paths.build_sequence_tree();
    double worst = 0.0;
    for (std::size_t i = 0; i < vertices.size(); ++i) {
        if (mesh.is_isolated(vertices[i]) || !std::isfinite((*ours)[i])) continue;
        const double theirs = paths.shortest_distance_to_source_points(vertices[i]).first;
        if (theirs > 0.1) worst = std::max(worst, std::abs((*ours)[i] / theirs - 1.0));
    }
    const double their = seconds(from);
    std::printf("%-28s %7zu triangles, %zu sources: differ by %.2g at most; %.3f s against %.2f s, %.0f times as quick\n", name, field.triangles.size(), sources, worst,
                our, their, their / our);
    return worst < 1e-3;
}

} // namespace

int main() {
    bool good = true;
    for (const char* file : {"lantern-collar.step", "pierced-dome.step", "horn-guide.step", "moth-relief.stl"}) {
        Progress progress;
        const auto part = Part::open(std::filesystem::path(GYRE_DEMO_DIR) / file, 0.02, progress);
        if (!part) {
            std::printf("%s: %s\n", file, part.error().text().c_str());
            return 1;
        }
        std::vector<int> faces(static_cast<std::size_t>((*part)->bodyFaces()));
        std::iota(faces.begin(), faces.end(), 0);
        std::sort(faces.begin(), faces.end(),
                  [&](int a, int b) { return (*part)->faces()[static_cast<std::size_t>(a)].area > (*part)->faces()[static_cast<std::size_t>(b)].area; });
        const auto mesh = (*part)->fieldMesh({faces.front()}, 2.0, &progress);
        if (!mesh) return 1;
        for (const std::size_t sources : {1U, 5U}) good = judge(file, *mesh, sources) && good;
    }
    return good ? 0 : 1;
}
