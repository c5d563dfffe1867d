#include "geom/Inside.h"

namespace gyre {

bool insideClosed(const MeshTree& tree, const Vec3& p) {
    static const std::array<Vec3, 3> kWays{Vec3(0.5773, 0.2113, 0.7887).normalized(), Vec3(-0.3141, 0.8090, -0.4970).normalized(),
                                           Vec3(0.7071, -0.6293, 0.3226).normalized()};
    int odd = 0;
    for (const Vec3& way : kWays) {
        int crossed = 0;
        double from = 0.0;
        for (RayHit hit = tree.ray(p, way); hit.hit && crossed < 1000; hit = tree.ray(p + from * way, way)) {
            ++crossed;
            from += hit.distance + 1e-7;
        }
        odd += crossed % 2;
        if (&way == &kWays[1] && odd != 1) break; // two of one mind
    }
    return odd >= 2;
}

} // namespace gyre
