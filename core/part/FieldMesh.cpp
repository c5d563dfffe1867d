// Conforming triangles of several faces, refined with all new points on the exact surfaces.
#include "base/Groups.h"
#include "base/Index.h"
#include "part/Kernel.h"
#include <algorithm>
#include <fmt/format.h>
#include <limits>
#include <unordered_map>

namespace gyre {
namespace {

constexpr double kAny = std::numeric_limits<double>::quiet_NaN();

/// Half way between two corners. Where a side of the parameters is a point, like a pole, one parameter of a corner there may be any: then that of the other
/// corner counts.
Vec2 middleOf(const Vec2& a, const Vec2& b) {
    Vec2 out;
    for (int k = 0; k < 2; ++k) out[k] = std::isnan(a[k]) ? b[k] : std::isnan(b[k]) ? a[k] : 0.5 * (a[k] + b[k]);
    return out;
}

/// A mesh side that lies on a part edge: edge index and the edge's parameter at the lower and the higher point index.
struct OnEdge {
    int edge;
    double tLow, tHigh;
};

struct Work {
    const Part::Kernel& k;
    const Part& part;
    FieldMesh mesh;
    std::unordered_map<std::uint64_t, OnEdge> onEdge;

    [[nodiscard]] const Part::Kernel::Few::FaceTriangles& trianglesOf(int f) const {
        const auto& s = k.surfaces[index(f)];
        s.few->make();
        return s.few->faces[s.inFew];
    }
    /// Of a face whose triangles have been asked for.
    [[nodiscard]] const opencascade::handle<Poly_PolygonOnTriangulation>& nodesOf(const Part::Kernel::EdgeOnFace& side) const {
        return k.surfaces[index(side.face)].few->sides[side.edgeInFew][side.sideInFew];
    }

    /// How far the parameters of a face go, if one of its sides is a point.
    std::optional<std::pair<Vec2, Vec2>> polesOf(int f) const {
        for (const EdgeInfo& e : k.edges)
            if (e.degenerate && (e.faces[0] == f || e.faces[1] == f)) return part.parameterBounds(f);
        return std::nullopt;
    }
    /// A corner's parameters; one that changes nothing there is any.
    Vec2 withoutPole(int f, const Vec2& uv, const std::optional<std::pair<Vec2, Vec2>>& poles) const {
        if (!poles) return uv;
        constexpr double kPoint = 1e-6; // mm
        Vec2 out = uv;
        const Vec3 here = part.evaluate(f, uv.x(), uv.y()).point;
        for (int way = 0; way < 2; ++way) {
            const auto same = [&](double share) {
                Vec2 other = uv;
                other[way] = poles->first[way] + share * (poles->second[way] - poles->first[way]);
                return (part.evaluate(f, other.x(), other.y()).point - here).norm() < kPoint;
            };
            if (same(0.13) && same(0.37) && same(0.71)) out[way] = kAny;
        }
        return out;
    }

    // A side that is a point may have several nodes, one for each edge that ends there.
    void joinPoles(int f, const std::function<void(int, int)>& join) const {
        const auto poles = polesOf(f);
        if (!poles) return;
        constexpr double kSame = 1e-6; // mm
        std::vector<std::pair<int, Vec3>> at;
        const auto& few = trianglesOf(f).triangles;
        for (int i = 0; i < few->NbNodes(); ++i) {
            const gp_Pnt2d q = few->UVNode(i + 1);
            if (withoutPole(f, Vec2(q.X(), q.Y()), poles).allFinite()) continue;
            const Vec3 p = part.evaluate(f, q.X(), q.Y()).point;
            const auto known = std::find_if(at.begin(), at.end(), [&](const auto& o) { return (o.second - p).norm() < kSame; });
            if (known != at.end())
                join(known->first, i);
            else
                at.emplace_back(i, p);
        }
    }

    /// The triangles of a face. @param pointOf  a node's number among the shared points
    void addTriangles(int f, const std::function<std::uint32_t(int)>& pointOf) {
        const auto& few = trianglesOf(f).triangles;
        const auto poles = polesOf(f);
        for (int i = 1; i <= few->NbTriangles(); ++i) {
            std::array<int, 3> t{};
            few->Triangle(i).Get(t[0], t[1], t[2]);
            if (k.surfaces[index(f)].reversed) std::swap(t[1], t[2]);
            std::array<std::uint32_t, 3> ids{};
            std::array<Vec2, 3> uv;
            for (std::size_t c = 0; c < 3; ++c) {
                ids[c] = pointOf(t[c] - 1);
                const gp_Pnt2d q = few->UVNode(t[c]);
                uv[c] = Vec2(q.X(), q.Y());
            }
            if (ids[0] == ids[1] || ids[1] == ids[2] || ids[2] == ids[0]) continue; // shrunk at an apex
            for (Vec2& at : uv) at = withoutPole(f, at, poles);
            mesh.triangles.push_back(ids);
            mesh.uv.push_back(uv);
            mesh.faces.push_back(f);
        }
    }

    /// Which sides of triangles lie on which edge, and where on it.
    void noteEdges(const std::vector<char>& wanted, const std::function<std::uint32_t(const Part::Kernel::EdgeOnFace&, int)>& pointOf) {
        for (std::size_t e = 0; e < k.curves.size(); ++e) {
            const auto& c = k.curves[e];
            if (k.edges[e].degenerate) continue;
            for (const auto& side : c.sides) {
                if (!wanted[index(side.face)] || nodesOf(side).IsNull()) continue;
                const auto parameters = nodesOf(side)->Parameters();
                if (parameters.IsNull()) continue;
                for (int i = 1; i < nodesOf(side)->NbNodes(); ++i) {
                    const auto a = pointOf(side, i), b = pointOf(side, i + 1);
                    const double ta = parameters->Value(i), tb = parameters->Value(i + 1);
                    onEdge[pairKey(a, b)] = a < b ? OnEdge{static_cast<int>(e), ta, tb} : OnEdge{static_cast<int>(e), tb, ta};
                }
                break;
            }
        }
    }

    void weld(const std::vector<int>& faces) {
        std::vector<std::uint32_t> offset(k.faces.size(), 0);
        std::vector<char> wanted(k.faces.size(), 0);
        std::uint32_t total = 0;
        for (int f : faces) {
            wanted[index(f)] = 1;
            offset[index(f)] = total;
            total += static_cast<std::uint32_t>(trianglesOf(f).triangles->NbNodes());
        }
        Groups sets(total);
        const auto node = [&](const Part::Kernel::EdgeOnFace& side, int i) { return offset[index(side.face)] + static_cast<std::uint32_t>(nodesOf(side)->Node(i) - 1); };
        // All sides of one edge carry the same number of points at the same parameters.
        for (const auto& c : k.curves) {
            const Part::Kernel::EdgeOnFace* first = nullptr;
            for (const auto& side : c.sides) {
                if (!wanted[index(side.face)] || nodesOf(side).IsNull()) continue;
                if (first && nodesOf(*first)->NbNodes() == nodesOf(side)->NbNodes())
                    for (int i = 1; i <= nodesOf(side)->NbNodes(); ++i) sets.join(node(*first, i), node(side, i));
                if (!first) first = &side;
            }
        }
        for (int f : faces)
            joinPoles(f, [&](int i, int k) { sets.join(offset[index(f)] + static_cast<std::uint32_t>(i), offset[index(f)] + static_cast<std::uint32_t>(k)); });
        std::vector<std::uint32_t> number(total, UINT32_MAX);
        for (int f : faces) {
            const auto& [few, at] = trianglesOf(f);
            const gp_Trsf& place = at.Transformation();
            for (int i = 0; i < few->NbNodes(); ++i) {
                auto& n = number[sets.find(offset[index(f)] + static_cast<std::uint32_t>(i))];
                if (n == UINT32_MAX) {
                    n = static_cast<std::uint32_t>(mesh.points.size());
                    const gp_Pnt p = few->Node(i + 1).Transformed(place);
                    mesh.points.emplace_back(p.X(), p.Y(), p.Z());
                }
            }
            addTriangles(f, [&](int i) { return number[sets.find(offset[index(f)] + static_cast<std::uint32_t>(i))]; });
        }
        noteEdges(wanted, [&](const Part::Kernel::EdgeOnFace& side, int i) { return number[sets.find(node(side, i))]; });
    }

    // The same from a mesh part, whose points are shared already.
    void weldScan(const std::vector<int>& faces) {
        std::vector<char> wanted(k.faces.size(), 0);
        for (int f : faces) wanted[index(f)] = 1;
        std::vector<std::uint32_t> number(k.source.points.size(), UINT32_MAX);
        for (std::size_t t = 0; t < k.source.triangles.size(); ++t) {
            if (!wanted[index(k.source.faces[t])]) continue;
            auto ids = k.source.triangles[t];
            for (auto& i : ids) {
                if (number[i] == UINT32_MAX) {
                    number[i] = static_cast<std::uint32_t>(mesh.points.size());
                    mesh.points.push_back(k.source.points[i]);
                }
                i = number[i];
            }
            mesh.triangles.push_back(ids);
            mesh.uv.push_back({Vec2::Zero(), Vec2::Zero(), Vec2::Zero()});
            mesh.faces.push_back(k.source.faces[t]);
        }
        for (std::size_t e = 0; e < k.edges.size(); ++e) {
            const auto [f, g] = k.edges[e].faces;
            if ((f < 0 || !wanted[index(f)]) && (g < 0 || !wanted[index(g)])) continue;
            const auto& points = k.edgePoints[e];
            const auto& lengths = k.edgeLengths[e];
            for (std::size_t i = 1; i < points.size(); ++i) {
                const auto a = number[points[i - 1]], b = number[points[i]];
                const double ta = lengths[i - 1] / lengths.back(), tb = lengths[i] / lengths.back();
                onEdge[pairKey(a, b)] = a < b ? OnEdge{static_cast<int>(e), ta, tb} : OnEdge{static_cast<int>(e), tb, ta};
            }
        }
    }

    // Parameters of a point on a part edge, on one face; at a seam the side nearer to `like` is meant.
    Vec2 edgeUv(int edge, double t, int face, const Vec2& like) const {
        Vec2 best = like;
        double least = 1e300;
        for (const auto& side : k.curves[index(edge)].sides) {
            if (side.face != face || side.curve.IsNull()) continue;
            const gp_Pnt2d q = side.curve->Value(t);
            const Vec2 uv(q.X(), q.Y());
            if ((uv - like).norm() < least) {
                least = (uv - like).norm();
                best = uv;
            }
        }
        return best;
    }

    struct Middle {
        std::uint32_t point;
        int edge = -1;
        double t = 0.0;
    };

    // Sides on part edges that look into blunt angles. They cannot be flipped, and a field over them would be bent: they are halved.
    std::unordered_map<std::uint64_t, double> bluntSides() const {
        std::unordered_map<std::uint64_t, double> sum;
        for (const auto& ids : mesh.triangles)
            for (std::size_t c = 0; c < 3; ++c) {
                const auto key = pairKey(ids[c], ids[(c + 1) % 3]);
                if (!onEdge.count(key)) continue;
                const Vec3 a = mesh.points[ids[c]] - mesh.points[ids[(c + 2) % 3]], b = mesh.points[ids[(c + 1) % 3]] - mesh.points[ids[(c + 2) % 3]];
                sum[key] += a.dot(b) / std::max(a.cross(b).norm(), 1e-12);
            }
        std::erase_if(sum, [](const auto& entry) { return entry.second >= -1e-9; });
        return sum;
    }

    // One pass: every side longer than `longest` is halved, or every blunt one; triangles are cut accordingly. False when none was.
    bool refineOnce(double longest, bool blunt) {
        std::unordered_map<std::uint64_t, Middle> middles;
        const auto bluntOnes = blunt ? bluntSides() : std::unordered_map<std::uint64_t, double>{};
        const std::size_t count = mesh.triangles.size();
        for (std::size_t t = 0; t < count; ++t)
            for (std::size_t c = 0; c < 3; ++c) {
                const auto a = mesh.triangles[t][c], b = mesh.triangles[t][(c + 1) % 3];
                const auto key = pairKey(a, b);
                const double side = (mesh.points[a] - mesh.points[b]).norm();
                if (side <= longest && (side < 0.05 * longest || !bluntOnes.count(key))) continue;
                if (middles.count(key)) continue;
                Middle m{static_cast<std::uint32_t>(mesh.points.size()), -1, 0.0};
                if (const auto it = onEdge.find(key); it != onEdge.end()) {
                    const OnEdge side = it->second;
                    m.edge = side.edge;
                    m.t = 0.5 * (side.tLow + side.tHigh);
                    if (k.scan) {
                        mesh.points.push_back(k.edgePoint(side.edge, m.t));
                    } else {
                        const gp_Pnt p = k.curves[index(side.edge)].curve->Value(m.t);
                        mesh.points.emplace_back(p.X(), p.Y(), p.Z());
                    }
                    // The middle has the highest index so far, so it is the high end of both halves.
                    onEdge[pairKey(std::min(a, b), m.point)] = {side.edge, side.tLow, m.t};
                    onEdge[pairKey(std::max(a, b), m.point)] = {side.edge, side.tHigh, m.t};
                    onEdge.erase(key);
                } else if (k.scan) {
                    mesh.points.push_back(part.project(mesh.faces[t], 0.5 * (mesh.points[a] + mesh.points[b])).point);
                } else {
                    const Vec2 uv = middleOf(mesh.uv[t][c], mesh.uv[t][(c + 1) % 3]);
                    mesh.points.push_back(part.evaluate(mesh.faces[t], uv.x(), uv.y()).point);
                }
                middles.emplace(key, m);
            }
        if (middles.empty()) return false;
        for (std::size_t t = 0; t < count; ++t) cut(t, middles);
        return true;
    }

    void cut(std::size_t t, const std::unordered_map<std::uint64_t, Middle>& middles) {
        const auto ids = mesh.triangles[t];
        const auto uv = mesh.uv[t];
        const int face = mesh.faces[t];
        std::array<const Middle*, 3> mid{};
        std::array<Vec2, 3> midUv;
        int halved = 0;
        for (std::size_t c = 0; c < 3; ++c) {
            const auto it = middles.find(pairKey(ids[c], ids[(c + 1) % 3]));
            if (it == middles.end()) continue;
            mid[c] = &it->second;
            ++halved;
            midUv[c] = middleOf(uv[c], uv[(c + 1) % 3]);
            if (mid[c]->edge >= 0 && !k.scan) midUv[c] = edgeUv(mid[c]->edge, mid[c]->t, face, midUv[c]);
        }
        if (halved == 0) return;
        struct Corner {
            std::uint32_t id;
            Vec2 uv;
        };
        const auto vertex = [&](std::size_t c) { return Corner{ids[c % 3], uv[c % 3]}; };
        const auto middle = [&](std::size_t c) { return Corner{mid[c % 3]->point, midUv[c % 3]}; };
        bool first = true;
        const auto emit = [&](const Corner& a, const Corner& b, const Corner& c) {
            if (first) {
                mesh.triangles[t] = {a.id, b.id, c.id};
                mesh.uv[t] = {a.uv, b.uv, c.uv};
                first = false;
                return;
            }
            mesh.triangles.push_back({a.id, b.id, c.id});
            mesh.uv.push_back({a.uv, b.uv, c.uv});
            mesh.faces.push_back(face);
        };
        if (halved == 3) {
            emit(vertex(0), middle(0), middle(2));
            emit(middle(0), vertex(1), middle(1));
            emit(middle(2), middle(1), vertex(2));
            emit(middle(0), middle(1), middle(2));
            return;
        }
        if (halved == 1) {
            const std::size_t c = mid[0] ? 0u : mid[1] ? 1u : 2u;
            emit(vertex(c), middle(c), vertex(c + 2));
            emit(middle(c), vertex(c + 1), vertex(c + 2));
            return;
        }
        // Two sides halved: cut off the corner between them, split the rest along its shorter diagonal.
        const std::size_t whole = !mid[0] ? 0u : !mid[1] ? 1u : 2u;
        const std::size_t p = (whole + 1) % 3, q = (whole + 2) % 3; // the halved sides; they meet at vertex q
        emit(middle(p), vertex(q), middle(q));
        const Vec3 &a = mesh.points[vertex(whole).id], &b = mesh.points[vertex(p).id];
        if ((a - mesh.points[middle(p).id]).norm() < (b - mesh.points[middle(q).id]).norm()) {
            emit(vertex(whole), vertex(p), middle(p));
            emit(vertex(whole), middle(p), middle(q));
        } else {
            emit(vertex(whole), vertex(p), middle(q));
            emit(vertex(p), middle(p), middle(q));
        }
    }

    // Sides that may be flipped: inside a face, not on a part edge, not on a seam, between just two triangles. For every
    // triangle side the triangle beyond it, or kNone.
    using Across = std::vector<std::array<std::uint32_t, 3>>;
    static constexpr std::uint32_t kNone = 0xffffffffu;
    Across inner() const {
        struct Half {
            std::uint64_t key;
            std::uint32_t triangle;
            std::uint8_t corner;
        };
        std::vector<Half> halves;
        halves.reserve(3 * mesh.triangles.size());
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
            for (std::size_t c = 0; c < 3; ++c)
                halves.push_back({pairKey(mesh.triangles[t][c], mesh.triangles[t][(c + 1) % 3]), static_cast<std::uint32_t>(t), static_cast<std::uint8_t>(c)});
        std::sort(halves.begin(), halves.end(), [](const Half& a, const Half& b) { return a.key != b.key ? a.key < b.key : a.triangle < b.triangle; });
        Across across(mesh.triangles.size(), {kNone, kNone, kNone});
        for (std::size_t i = 0; i < halves.size();) {
            std::size_t end = i + 1;
            while (end < halves.size() && halves[end].key == halves[i].key) ++end;
            const Half &s = halves[i], &o = halves[end - 1];
            const bool two = end - i == 2;
            i = end;
            if (!two || mesh.faces[s.triangle] != mesh.faces[o.triangle] || onEdge.count(s.key)) continue;
            const std::size_t a = s.corner, b = (a + 1u) % 3;
            if (mesh.triangles[o.triangle][o.corner] != mesh.triangles[s.triangle][b]) continue;
            if ((mesh.uv[o.triangle][o.corner] - mesh.uv[s.triangle][b]).norm() > 1e-9) continue; // a seam runs between
            across[s.triangle][s.corner] = o.triangle;
            across[o.triangle][o.corner] = s.triangle;
        }
        return across;
    }

    // Flips sides towards the Delaunay condition, one after the other until none is left: fields on better triangles are smoother.
    void flip() {
        Across across = inner();
        std::vector<std::pair<std::uint32_t, std::uint8_t>> open;
        for (std::uint32_t t = static_cast<std::uint32_t>(across.size()); t-- > 0;)
            for (std::uint8_t c = 3; c-- > 0;)
                if (across[t][c] != kNone && across[t][c] > t) open.emplace_back(t, c);
        const auto cornerFacing = [&](std::uint32_t t, std::uint32_t neighbour) {
            return across[t][0] == neighbour ? std::size_t{0} : across[t][1] == neighbour ? std::size_t{1} : std::size_t{2};
        };
        std::size_t left = 10 * across.size(); // on curved faces flipping could go round in a circle
        while (!open.empty() && left > 0) {
            const auto [s, side] = open.back();
            open.pop_back();
            const std::uint32_t o = across[s][side];
            if (o == kNone) continue;
            const std::size_t a = side, b = (a + 1u) % 3, c = (a + 2u) % 3, back = cornerFacing(o, s), d = (back + 2u) % 3;
            auto &ts = mesh.triangles[s], &to = mesh.triangles[o];
            auto &us = mesh.uv[s], &uo = mesh.uv[o];
            if (to[back] != ts[b] || to[d] == ts[c]) continue;
            if (!us[a].allFinite() || !us[b].allFinite() || !us[c].allFinite() || !uo[d].allFinite()) continue; // at a pole
            const Vec3 &pa = mesh.points[ts[a]], &pb = mesh.points[ts[b]], &pc = mesh.points[ts[c]], &pd = mesh.points[to[d]];
            if (angleBetween(pa - pc, pb - pc) + angleBetween(pa - pd, pb - pd) <= M_PI + 1e-6) continue;
            // Only where the four points form a convex quadrilateral in the parameters, so that nothing folds.
            const auto turn = [](const Vec2& x, const Vec2& y, const Vec2& z) { return (y.x() - x.x()) * (z.y() - x.y()) - (y.y() - x.y()) * (z.x() - x.x()); };
            std::array<Vec2, 4> q{us[a], us[b], us[c], uo[d]};
            if (k.scan) { // no parameters: seen from above
                const Vec3 n = ((pb - pa).cross(pc - pa).normalized() + (pd - pa).cross(pb - pa).normalized()).normalized(), x = anyPerpendicular(n), y = n.cross(x);
                const std::array<const Vec3*, 4> p{&pa, &pb, &pc, &pd};
                for (std::size_t i = 0; i < 4; ++i) q[i] = Vec2(x.dot(*p[i]), y.dot(*p[i]));
            }
            const double s1 = turn(q[2], q[0], q[3]), s2 = turn(q[2], q[3], q[1]), whole = turn(q[0], q[1], q[2]);
            if (s1 * whole <= 0.0 || s2 * whole <= 0.0) continue;
            --left;
            const std::uint32_t bc = across[s][b], ca = across[s][c], ad = across[o][(back + 1u) % 3], db = across[o][d];
            const auto idA = ts[a], idB = ts[b], idC = ts[c], idD = to[d];
            const Vec2 uvA = us[a], uvB = us[b], uvC = us[c], uvD = uo[d];
            ts = {idC, idA, idD};
            us = {uvC, uvA, uvD};
            to = {idC, idD, idB};
            uo = {uvC, uvD, uvB};
            if (ad != kNone) across[ad][cornerFacing(ad, o)] = s;
            if (bc != kNone) across[bc][cornerFacing(bc, s)] = o;
            across[s] = {ca, ad, o};
            across[o] = {s, db, bc};
            for (const auto& [t, corner] : {std::pair{s, 0}, std::pair{s, 1}, std::pair{o, 1}, std::pair{o, 2}})
                if (across[t][static_cast<std::size_t>(corner)] != kNone) open.emplace_back(t, static_cast<std::uint8_t>(corner));
        }
    }

    // Moves points inside of faces towards the middle of their neighbours, along the surface. Nothing turns over.
    void relax(int passes) {
        const std::size_t n = mesh.points.size();
        std::vector<int> face(n, -1);
        std::vector<char> fixed(n, 0);
        for (const auto& [key, side] : onEdge) fixed[key >> 32] = fixed[key & 0xffffffffu] = 1;
        std::vector<std::uint32_t> first(n + 1, 0), around;
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
            for (std::size_t c = 0; c < 3; ++c)
                if (!mesh.uv[t][c].allFinite()) fixed[mesh.triangles[t][c]] = 1; // a pole
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
            for (auto i : mesh.triangles[t]) {
                if (face[i] >= 0 && face[i] != mesh.faces[t]) fixed[i] = 1;
                face[i] = mesh.faces[t];
                ++first[i + 1];
            }
        for (std::size_t i = 0; i < n; ++i) first[i + 1] += first[i];
        around.resize(first[n]);
        std::vector<std::uint32_t> fill(first.begin(), first.end() - 1);
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
            for (auto i : mesh.triangles[t]) around[fill[i]++] = static_cast<std::uint32_t>(t);
        const auto doubleArea = [&](std::size_t t) {
            const auto& ids = mesh.triangles[t];
            return Vec3((mesh.points[ids[1]] - mesh.points[ids[0]]).cross(mesh.points[ids[2]] - mesh.points[ids[0]]));
        };
        for (int pass = 0; pass < passes; ++pass)
            for (std::size_t i = 0; i < n; ++i) {
                if (fixed[i] || face[i] < 0) continue;
                Vec3 sum = Vec3::Zero();
                double weight = 0.0;
                Vec2 uv(0.0, 0.0);
                for (auto k = first[i]; k < first[i + 1]; ++k) {
                    const auto& ids = mesh.triangles[around[k]];
                    for (std::size_t c = 0; c < 3; ++c) {
                        if (ids[c] == i)
                            uv = mesh.uv[around[k]][c];
                        else {
                            sum += mesh.points[ids[c]];
                            weight += 1.0;
                        }
                    }
                }
                const SurfacePoint moved = part.project(face[i], sum / weight, uv.x(), uv.y());
                const Vec3 old = mesh.points[i];
                std::vector<Vec3> before;
                for (auto k = first[i]; k < first[i + 1]; ++k) before.push_back(doubleArea(around[k]));
                mesh.points[i] = moved.point;
                bool good = true;
                for (auto k = first[i]; k < first[i + 1] && good; ++k) {
                    const Vec3 &was = before[k - first[i]], now = doubleArea(around[k]);
                    good = now.dot(moved.normal) > 0.0 && now.norm() > 0.1 * was.norm();
                }
                if (!good) {
                    mesh.points[i] = old;
                    continue;
                }
                for (auto k = first[i]; k < first[i + 1]; ++k)
                    for (std::size_t c = 0; c < 3; ++c)
                        if (mesh.triangles[around[k]][c] == i) mesh.uv[around[k]][c] = Vec2(moved.u, moved.v);
            }
    }

    // At a pole every triangle has the parameter in the middle of its own.
    void settlePoles() {
        for (auto& uv : mesh.uv)
            for (std::size_t c = 0; c < 3; ++c) {
                const Vec2 beside = middleOf(uv[(c + 1) % 3], uv[(c + 2) % 3]);
                for (int way = 0; way < 2; ++way)
                    if (std::isnan(uv[c][way])) uv[c][way] = beside[way];
            }
    }

    void collectEdgeLines() {
        mesh.edgeLine.assign(k.edges.size(), {});
        std::vector<std::vector<std::pair<double, std::uint32_t>>> along(k.edges.size());
        for (const auto& [key, side] : onEdge) {
            along[index(side.edge)].emplace_back(side.tLow, static_cast<std::uint32_t>(key >> 32));
            along[index(side.edge)].emplace_back(side.tHigh, static_cast<std::uint32_t>(key & 0xffffffffu));
        }
        for (std::size_t e = 0; e < along.size(); ++e) {
            std::sort(along[e].begin(), along[e].end());
            for (const auto& [t, id] : along[e])
                if (mesh.edgeLine[e].empty() || mesh.edgeLine[e].back() != id) mesh.edgeLine[e].push_back(id);
        }
    }
};

} // namespace

std::shared_ptr<const FieldMesh> Part::Kernel::LaidMeshes::find(const std::vector<int>& faces, double longest) {
    const std::lock_guard lock(m_guard);
    const auto it = std::find_if(m_laid.begin(), m_laid.end(), [&](const Laid& l) { return l.longest == longest && l.faces == faces; });
    if (it == m_laid.end()) return nullptr;
    std::rotate(m_laid.begin(), it, it + 1);
    return m_laid.front().mesh;
}

void Part::Kernel::LaidMeshes::keep(const std::vector<int>& faces, double longest, std::shared_ptr<const FieldMesh> mesh) {
    const std::lock_guard lock(m_guard);
    m_laid.insert(m_laid.begin(), {faces, longest, std::move(mesh)});
    constexpr std::size_t kMost = 600'000; // triangles, about 100 bytes each
    std::size_t sum = 0, kept = 0;
    while (kept < m_laid.size() && (kept == 0 || sum + m_laid[kept].mesh->triangles.size() <= kMost)) sum += m_laid[kept++].mesh->triangles.size();
    m_laid.resize(kept);
}

Result<FieldMesh> Part::fieldMesh(const std::vector<int>& faces, double longest, const Progress* progress) const {
    if (faces.empty()) return fail("no face is picked");
    if (const auto known = m_kernel->laid.find(faces, longest)) return *known;
    Work work{*m_kernel, *this, {}, {}};
    if (m_kernel->scan) {
        work.weldScan(faces);
    } else {
        for (const int f : faces)
            if (work.trianglesOf(f).triangles.IsNull())
                return fail(fmt::format("face {} cannot be laid out in triangles: its trimming is damaged", f), {}, "Heal or export the part again");
        work.weld(faces);
    }
    constexpr std::size_t kMost = 4'000'000;
    for (int pass = 0; pass < 24; ++pass) {
        if (progress && progress->cancelled()) return cancelledError();
        if (!work.refineOnce(longest, false)) break;
        work.flip();
        if (work.mesh.triangles.size() > kMost)
            return fail("the rows are so close together that the faces would need over 4 million triangles", {}, "Choose a larger spacing or fewer faces");
    }
    for (int round = 0; round < 2; ++round) {
        work.flip();
        if (progress && progress->cancelled()) return cancelledError();
        work.relax(2);
    }
    for (int round = 0; round < 6; ++round) {
        work.flip();
        if (!work.refineOnce(longest, true)) break;
    }
    work.flip();
    work.settlePoles();
    work.collectEdgeLines();
    m_kernel->laid.keep(faces, longest, std::make_shared<const FieldMesh>(work.mesh));
    return std::move(work.mesh);
}

} // namespace gyre
