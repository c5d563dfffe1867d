// How faces and edges are known again: by number, kind, size and place.
#include "base/Index.h"
#include "part/Kernel.h"
#include "part/Part.h"
#include <fmt/format.h>

namespace gyre {
namespace {} // namespace

ShapeRef Part::faceRef(int face) const {
    const FaceInfo& f = faces()[index(face)];
    return {face, surfaceKindName(f.kind), f.area, f.centre};
}

ShapeRef Part::edgeRef(int edge) const {
    const EdgeInfo& e = edges()[index(edge)];
    return {edge, curveKindName(e.kind), e.length, e.middle};
}

namespace {

// How unlike two shapes are; 0 is the same. Kinds must agree, unless the reference does not tell.
template <class RefOf> Result<int> findShape(const ShapeRef& ref, int count, const RefOf& refOf, const char* what) {
    const auto unlike = [&](int i) {
        const ShapeRef r = refOf(i);
        if (!ref.kind.empty() && r.kind != ref.kind) return 1e300;
        const double scale = std::max(1e-3, std::max(ref.size, r.size));
        return std::abs(r.size - ref.size) / scale + (r.centre - ref.centre).norm() / std::sqrt(scale);
    };
    const bool bare = ref.kind.empty() && ref.size == 0.0; // a hand-written reference: the index alone
    if (ref.index >= 0 && ref.index < count && (bare || unlike(ref.index) < 1e-4)) return ref.index;
    if (bare) return fail(fmt::format("{} {} is not in the part, which has {}", what, ref.index, count));
    int best = -1;
    double least = 1e300, second = 1e300;
    for (int i = 0; i < count; ++i) {
        const double u = unlike(i);
        if (u < least) {
            second = least;
            least = u;
            best = i;
        } else
            second = std::min(second, u);
    }
    if (best < 0 || least > 0.05)
        return fail(fmt::format("{} {} ({}, {:.3g} at {:.2f} {:.2f} {:.2f}) is no longer in the part", what, ref.index, ref.kind, ref.size, ref.centre.x(),
                                ref.centre.y(), ref.centre.z()),
                    {}, "Pick it again");
    if (second < 2.0 * least + 1e-6) return fail(fmt::format("{} {} could now be one of several", what, ref.index), {}, "Pick it again");
    return best;
}

} // namespace

Result<int> Part::findFace(const ShapeRef& ref) const {
    // The middle of a ring or of a full round may be any of many places; which one hangs on how finely it was tessellated. The face
    // of that number is the one when its size is the same and the place lies on it.
    if (ref.index >= 0 && index(ref.index) < faces().size() && ref.kind == surfaceKindName(faces()[index(ref.index)].kind)) {
        const FaceInfo& f = faces()[index(ref.index)];
        if (std::abs(f.area - ref.size) < 1e-4 * std::max(1e-3, f.area) && !m_kernel->surfaces[index(ref.index)].tree.empty()) {
            const double off = (m_kernel->surfaces[index(ref.index)].tree.closest(ref.centre).point - ref.centre).norm();
            if (off < 2.0 * deflection() + 1e-3) return ref.index;
        }
    }
    return findShape(
        ref, static_cast<int>(faces().size()), [&](int i) { return faceRef(i); }, "face");
}

Result<int> Part::findEdge(const ShapeRef& ref) const {
    return findShape(
        ref, static_cast<int>(edges().size()), [&](int i) { return edgeRef(i); }, "edge");
}

} // namespace gyre
