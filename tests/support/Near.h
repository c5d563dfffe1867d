// Numbers that should agree; what does not is told with both.
#pragma once
#include <QtDebug>
#include <cmath>

namespace gyre::test {

inline bool near(double a, double b, double by) {
    if (std::abs(a - b) <= by) return true;
    qWarning("%.9f is not %.9f to %g", a, b, by);
    return false;
}

} // namespace gyre::test
