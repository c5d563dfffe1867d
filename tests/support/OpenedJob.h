// A demo job with its workplace.
#pragma once
#include "Support.h"

namespace gyre::test {

struct OpenedJob {
    Job job;
    std::shared_ptr<const Workplace> place;
};
inline OpenedJob openDemoJob(const char* name) {
    OpenedJob o;
    o.job = openJob(demoFile(name)).value();
    Workshop workshop(std::filesystem::path(GYRE_DEMO_DIR));
    Progress progress;
    o.place = workshop.placeFor(o.job, progress).value();
    return o;
}

} // namespace gyre::test
