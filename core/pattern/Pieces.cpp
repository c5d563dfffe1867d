#include "pattern/Pieces.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace gyre {

std::vector<RawLine> withoutHoles(const RawLine& line) {
    const auto broken = [](const RowSample& s) { return s.face < 0 || s.gapAfter; };
    const std::size_t n = line.samples.size();
    const auto first = std::find_if(line.samples.begin(), line.samples.end(), broken);
    if (first == line.samples.end()) return {line};
    std::vector<RawLine> out;
    RawLine part;
    const auto flush = [&] {
        if (part.samples.size() > 1) out.push_back(std::move(part));
        part = {};
    };
    // A closed line begins behind a hole.
    const std::size_t from = line.closed ? static_cast<std::size_t>(first - line.samples.begin()) + 1 : 0;
    for (std::size_t i = 0; i < n; ++i) {
        const RowSample& s = line.samples[(from + i) % n];
        if (s.face >= 0) part.samples.push_back(s);
        if (broken(s)) flush();
    }
    flush();
    return out;
}

std::vector<RawLine> keptParts(const RawLine& line, const WhereKept& where, const BetweenSamples& between) {
    constexpr double kLook = 0.25; // mm from one look to the next
    const std::size_t n = line.samples.size(), spans = line.closed ? n : n - 1;
    const auto holds = [&](const RowSample& s) { return where.holds(s.point, s.normal); };
    std::vector<RawLine> out;
    RawLine part;
    const auto flush = [&] {
        if (part.samples.size() > 1) out.push_back(std::move(part));
        part = {};
    };
    bool whole = true;
    for (std::size_t i = 0; i < spans; ++i) {
        const RowSample &a = line.samples[i], &b = line.samples[(i + 1) % n];
        bool held = holds(a);
        if (held) part.samples.push_back(a);
        const auto looks = static_cast<int>(std::ceil((b.point - a.point).norm() / kLook));
        double before = 0.0;
        for (int k = 1; k <= std::max(1, looks); ++k) {
            const double t = k >= looks ? 1.0 : static_cast<double>(k) / looks;
            if (const bool now = t < 1.0 ? holds(between(a, b, t)) : holds(b); now != held) {
                // The last place on this side that is kept.
                double in = held ? before : t, off = held ? t : before;
                while (std::abs(in - off) * (b.point - a.point).norm() > 1e-5) {
                    const double middle = 0.5 * (in + off);
                    (holds(between(a, b, middle)) ? in : off) = middle;
                }
                const RowSample border = in <= 0.0 ? a : in >= 1.0 ? b : between(a, b, in);
                if (in > 0.0 && in < 1.0) part.samples.push_back(border);
                if (held) flush();
                held = now;
                whole = false;
            }
            before = t;
        }
        if (!held && !part.samples.empty()) flush();
    }
    if (!line.closed && n > 0 && holds(line.samples.back())) part.samples.push_back(line.samples.back());
    if (whole) return part.samples.size() == n ? std::vector<RawLine>{line} : std::vector<RawLine>{};
    // The round goes on from its end to its beginning.
    if (line.closed && !part.samples.empty() && !out.empty() && out.front().samples.front().point == line.samples.front().point) {
        part.samples.insert(part.samples.end(), out.front().samples.begin(), out.front().samples.end());
        out.front() = std::move(part);
        part = {};
    }
    flush();
    return out;
}

TriangleMesh keptRegion(const FieldMesh& mesh, const WhereKept& where) {
    // Normals of points are those of one face: at an edge between two a point has one for each.
    std::map<std::pair<int, std::uint32_t>, Vec3> normals;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& c = mesh.triangles[t];
        const Vec3 n = (mesh.points[c[1]] - mesh.points[c[0]]).cross(mesh.points[c[2]] - mesh.points[c[0]]);
        for (const auto i : c) normals.try_emplace({mesh.faces[t], i}, Vec3::Zero()).first->second += n;
    }
    struct Corner {
        Vec3 point, normal;
    };
    TriangleMesh out;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (mesh.faces[t] < 0) continue;
        std::array<Corner, 3> c;
        std::array<bool, 3> held{};
        for (std::size_t k = 0; k < 3; ++k) {
            const auto i = mesh.triangles[t][k];
            c[k] = {mesh.points[i], normals[{mesh.faces[t], i}].normalized()};
            held[k] = where.holds(c[k].point, c[k].normal);
        }
        // Round the triangle: the corners that are kept, and where a side leaves the region or comes back.
        std::vector<Corner> border;
        for (std::size_t k = 0; k < 3; ++k) {
            const std::size_t next = (k + 1) % 3;
            if (held[k]) border.push_back(c[k]);
            if (held[k] == held[next]) continue;
            Corner in = held[k] ? c[k] : c[next], off = held[k] ? c[next] : c[k];
            for (int i = 0; i < 12; ++i) {
                const Corner middle{0.5 * (in.point + off.point), (in.normal + off.normal).normalized()};
                (where.holds(middle.point, middle.normal) ? in : off) = middle;
            }
            border.push_back(in);
        }
        if (border.size() < 3) continue;
        const auto first = static_cast<std::uint32_t>(out.points.size());
        for (const Corner& at : border) {
            out.points.push_back(at.point);
            out.normals.push_back(at.normal);
        }
        for (std::uint32_t k = 2; k < border.size(); ++k) {
            out.triangles.push_back({first, first + k - 1, first + k});
            out.faces.push_back(mesh.faces[t]);
        }
    }
    return out;
}

} // namespace gyre
