// Rows of a pattern that must come about.
#pragma once
#include "pattern/Pattern.h"
#include <QtDebug>

namespace gyre::test {

inline PatternResult lay(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, const RowHelp& help = {}, double radius = 3.0) {
    Progress p;
    auto r = layRows(part, faces, spec, radius, p, help);
    if (!r) qFatal("%s", r.error().text().c_str());
    return *r;
}

} // namespace gyre::test
