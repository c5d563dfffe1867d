#include "part/Kernel.h"

namespace gyre {

const char* surfaceKindName(SurfaceKind k) {
    switch (k) {
    case SurfaceKind::Plane:
        return "plane";
    case SurfaceKind::Cylinder:
        return "cylinder";
    case SurfaceKind::Cone:
        return "cone";
    case SurfaceKind::Sphere:
        return "sphere";
    case SurfaceKind::Torus:
        return "torus";
    case SurfaceKind::FreeForm:
        return "freeform";
    }
    return "";
}

const char* curveKindName(CurveKind k) {
    switch (k) {
    case CurveKind::Line:
        return "line";
    case CurveKind::Circle:
        return "circle";
    case CurveKind::Ellipse:
        return "ellipse";
    case CurveKind::FreeForm:
        return "freeform";
    }
    return "";
}

Part::Part() : m_kernel(std::make_unique<Kernel>()) {}

} // namespace gyre
