#include "pattern/Cut.h"
#include "base/Index.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace gyre {

void keepTriangles(FieldMesh& mesh, const std::function<bool(std::size_t)>& kept) {
    std::size_t n = 0;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (!kept(t)) continue;
        mesh.triangles[n] = mesh.triangles[t];
        mesh.faces[n] = mesh.faces[t];
        mesh.uv[n++] = mesh.uv[t];
    }
    mesh.triangles.resize(n);
    mesh.faces.resize(n);
    mesh.uv.resize(n);
}

std::vector<char> cutByHalfPlane(FieldMesh& mesh, const Vec3& from, const Vec3& direction, const Vec3& across) {
    const Vec3 turn = direction.cross(across); // a turn about the line leaves the half plane this way
    std::vector<double> over, out;             // the plane; from the line, along the half plane
    for (const Vec3& p : mesh.points) {
        over.push_back((p - from).dot(turn));
        out.push_back((p - from).dot(across));
    }
    std::vector<char> first;
    std::map<std::uint64_t, std::uint32_t> made; // by side: the point of the first side; that of the other one follows
    const auto pointOn = [&](std::uint32_t a, std::uint32_t b, double t) {
        const auto [it, isNew] = made.try_emplace(pairKey(a, b), static_cast<std::uint32_t>(mesh.points.size()));
        if (isNew) {
            const Vec3 p = mesh.points[a] + t * (mesh.points[b] - mesh.points[a]);
            for (const char side : {char(1), char(0)}) {
                mesh.points.push_back(p);
                first.push_back(side);
            }
        }
        return it->second;
    };
    const std::size_t count = mesh.triangles.size();
    for (std::size_t t = 0; t < count; ++t) {
        const auto ids = mesh.triangles[t];
        const auto uv = mesh.uv[t];
        std::array<bool, 3> after{};
        for (std::size_t k = 0; k < 3; ++k) after[k] = over[ids[k]] >= 0.0;
        if (after[0] == after[1] && after[1] == after[2]) continue;
        // The corner that is alone on its side, and where both sides from it meet the plane.
        const std::size_t k = after[0] == after[1] ? 2 : after[0] == after[2] ? 1 : 0, l = (k + 1) % 3, m = (k + 2) % 3;
        const auto share = [&](std::size_t a, std::size_t b) { return over[ids[a]] / (over[ids[a]] - over[ids[b]]); };
        const double tl = share(k, l), tm = share(k, m);
        const auto along = [&](std::size_t a, std::size_t b, double s) { return (1.0 - s) * out[ids[a]] + s * out[ids[b]]; };
        if (along(k, l, tl) < 0.0 && along(k, m, tm) < 0.0) continue; // the other half of the plane
        const std::uint32_t pl = pointOn(ids[k], ids[l], tl), pm = pointOn(ids[k], ids[m], tm), one = after[k] ? 0 : 1, rest = 1 - one;
        const Vec2 ul = (1.0 - tl) * uv[k] + tl * uv[l], um = (1.0 - tm) * uv[k] + tm * uv[m];
        mesh.triangles[t] = {ids[k], pl + one, pm + one};
        mesh.uv[t] = {uv[k], ul, um};
        const auto add = [&](const std::array<std::uint32_t, 3>& corners, const std::array<Vec2, 3>& at) {
            mesh.triangles.push_back(corners);
            mesh.uv.push_back(at);
            mesh.faces.push_back(mesh.faces[t]);
        };
        add({pl + rest, ids[l], ids[m]}, {ul, uv[l], uv[m]});
        add({pl + rest, ids[m], pm + rest}, {ul, uv[m], um});
    }
    return first;
}

bool partByValue(FieldMesh& mesh, const std::vector<std::array<double, 3>>& corners, std::vector<double>& value) {
    constexpr double kAlike = 0.01;
    struct Copy {
        double value;
        std::uint32_t point;
    };
    std::vector<std::vector<Copy>> copies(mesh.points.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const double v = corners[t][k];
            if (!std::isfinite(v)) continue;
            std::uint32_t& id = mesh.triangles[t][k];
            auto& of = copies[id];
            const auto known = std::find_if(of.begin(), of.end(), [&](const Copy& c) { return std::abs(c.value - v) <= kAlike; });
            if (known != of.end()) {
                id = known->point;
                continue;
            }
            std::uint32_t point = id;
            if (!of.empty()) {
                point = static_cast<std::uint32_t>(mesh.points.size());
                mesh.points.push_back(Vec3(mesh.points[id]));
                value.push_back(0.0);
            }
            of.push_back({v, point});
            value[point] = v;
            id = point;
        }
    bool closes = false;
    for (const auto& of : copies) closes = closes || (of.size() == 2 && std::abs(of[0].value - of[1].value) > 0.99);
    return closes;
}

} // namespace gyre
