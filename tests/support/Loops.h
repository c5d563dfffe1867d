// Simple flat loops.
#pragma once
#include "base/Units.h"
#include "milling/Region.h"
#include <cmath>

namespace gyre::test {

inline Loop rectangle(double x0, double y0, double x1, double y1) { return {{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}}; }
inline Loop disc(const Vec2& at, double r, int n = 720) {
    Loop l;
    for (int i = 0; i < n; ++i) l.push_back(at + r * Vec2(std::cos(2 * kPi * i / n), std::sin(2 * kPi * i / n)));
    return l;
}

} // namespace gyre::test
