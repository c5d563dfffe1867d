#include "stock/CutFeed.h"
#include "stock/AtFeed.h"
#include <algorithm>

namespace gyre {
namespace {

double factorAt(const Engaged& e, double wanted, const CutLimits& limits) {
    double factor = wanted / static_cast<double>(e.chip);
    const auto hold = [&](double limit, float amount) {
        if (limit > 0.0 && static_cast<double>(amount) > limit) factor = std::min(factor, limit / static_cast<double>(amount));
    };
    hold(limits.engaged, e.angle);
    hold(limits.deep, e.deep);
    return limits.chip > 0.0 ? std::min(factor, limits.chip / static_cast<double>(e.chip)) : factor;
}

// What is slower counts, in both directions: a place is at most so much faster than its neighbour as the way between them allows.
void smooth(const Toolpath& path, double way, std::vector<float>& share) {
    const auto pull = [&](std::size_t from, std::size_t to) {
        if (!atFeed(path, from) || !atFeed(path, to)) return;
        const double length = (path.tip[from] - path.tip[to]).norm();
        share[to] = std::min(share[to], static_cast<float>(static_cast<double>(share[from]) * std::exp2(length / way)));
    };
    for (std::size_t i = 1; i < share.size(); ++i) pull(i - 1, i);
    for (std::size_t i = share.size(); i-- > 1;) pull(i, i - 1);
}

} // namespace

CutFeed feedByCut(const Toolpath& path, const Engagement& engaged, const Assembly& tool, const FeedByCut& words) {
    CutFeed out;
    out.share.assign(path.size(), 1.0F);
    const double least = 0.01 * words.least, most = 0.01 * words.most;
    for (std::size_t i = 0; i < path.size(); ++i) {
        const Engaged& e = engaged.at[i];
        if (!atFeed(path, i) || !(e.chip > 0.0F)) continue;
        out.share[i] = static_cast<float>(std::clamp(factorAt(e, tool.feedPerTooth, tool.limits), least, path.motion[i] == Motion::Cut ? most : 1.0));
    }
    smooth(path, 0.5 * tool.cutter.diameter, out.share);
    bool any = false;
    for (std::size_t i = 0; i < path.size(); ++i) {
        if (!atFeed(path, i)) continue;
        const double s = static_cast<double>(out.share[i]);
        out.least = any ? std::min(out.least, s) : s;
        out.most = any ? std::max(out.most, s) : s;
        any = true;
    }
    return out;
}

std::vector<HeavyCut> heavyCuts(const Toolpath& path, const Engagement& engaged, const CutLimits& limits, const std::vector<float>& share) {
    struct Asked {
        HeavyCut::What what;
        double limit, sure;
        float Engaged::*amount;
    };
    const Asked all[] = {{HeavyCut::What::Engaged, limits.engaged, 3.0, &Engaged::angle},
                         {HeavyCut::What::Deep, limits.deep, 0.5 * engaged.cell, &Engaged::deep},
                         {HeavyCut::What::Chip, limits.chip, 0.02 * limits.chip, &Engaged::chip}};
    std::vector<HeavyCut> out;
    for (const Asked& one : all) {
        if (!(one.limit > 0.0)) continue;
        bool open = false;
        for (std::size_t i = 0; i < path.size(); ++i) {
            const double amount = static_cast<double>(engaged.at[i].*one.amount);
            const bool heavy = amount > one.limit + one.sure;
            if (heavy && !open) out.push_back({one.what, i, i, i, amount, one.limit, true});
            open = heavy;
            if (!heavy) continue;
            HeavyCut& cut = out.back();
            cut.last = i;
            if (amount > cut.amount) {
                cut.amount = amount;
                cut.worst = i;
            }
            const double now = share.empty() ? 1.0 : static_cast<double>(share[i]);
            cut.slowed = cut.slowed && one.what != HeavyCut::What::Chip && now <= 1.02 * one.limit / amount;
        }
    }
    return out;
}

} // namespace gyre
