// The guard's answer for whole passes: hazards, leaning away, lifting, leaving out, the stick-out that would do.
#include "base/Parallel.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "guard/Lean.h"
#include "guard/Responses.h"
#include <fmt/format.h>
#include <map>

namespace gyre {

bool findHits(const Guard& guard, const std::vector<Pass>& passes, HitTable& hits, const Progress* progress) {
    hits.assign(passes.size(), {});
    return findHits(guard, passes, std::vector<char>(passes.size(), 1), hits, progress);
}

bool findHits(const Guard& guard, const std::vector<Pass>& passes, const std::vector<char>& anew, HitTable& hits, const Progress* progress) {
    return parallelFor(
               passes.size(), 1,
               [&](std::size_t p) {
                   if (!anew[p]) return;
                   const Pass& pass = passes[p];
                   auto& mine = hits[p];
                   mine.assign(pass.path.size(), {});
                   HitHints hints = guard.hints();
                   for (std::size_t i = 0; i < pass.path.size(); ++i) {
                       if (progress && progress->cancelled()) return;
                       mine[i] = guard.sweepAll(poseOf(pass, i > 0 ? i - 1 : 0), poseOf(pass, i), Contact::Cutting, &hints);
                   }
               },
               progress) &&
           !(progress && progress->cancelled());
}

bool anyHit(const HitTable& hits) {
    return std::any_of(hits.begin(), hits.end(), [](const auto& pass) { return std::any_of(pass.begin(), pass.end(), [](const auto& h) { return !h.empty(); }); });
}

std::string rowsText(const std::vector<Pass>& passes, const std::set<int>& rows) {
    const auto named = std::find_if(passes.begin(), passes.end(), [&](const Pass& p) { return rows.count(p.row) > 0; });
    const std::string word = passWord(named == passes.end() ? PassOrigin{} : named->origin);
    std::string text = word + (rows.size() == 1 ? " " : word == "pass" ? "es " : "s ");
    int shown = 0;
    for (auto it = rows.begin(); it != rows.end();) {
        int last = *it;
        const int first = last;
        for (++it; it != rows.end() && *it == last + 1; ++it) last = *it;
        if (shown++ == 4) return text + " …";
        text += fmt::format("{}{}", shown > 1 ? ", " : "", first + 1);
        if (last > first) text += fmt::format("–{}", last + 1);
    }
    return text;
}

namespace {

std::vector<Hazard> hazardsOf(const Guard& guard, const std::vector<Pass>& passes, const HitTable& hits) {
    std::vector<Hazard> hazards;
    for (std::size_t p = 0; p < passes.size(); ++p) {
        std::map<std::pair<int, std::size_t>, std::size_t> open; // by zone and body: the stretch that reaches up to the location before
        for (std::size_t i = 0; i < hits[p].size(); ++i)
            for (const Hit& h : hits[p][i]) {
                const auto [it, fresh] = open.try_emplace({static_cast<int>(h.zone), h.obstacle}, hazards.size());
                if (!fresh && hazards[it->second].last + 1 == i) {
                    hazards[it->second].last = i;
                } else {
                    it->second = hazards.size();
                    hazards.push_back({p, i, i, h.zone, h.obstacle, 1e9, i});
                }
            }
    }
    parallelFor(hazards.size(), 1, [&](std::size_t k) {
        Hazard& h = hazards[k];
        const double wanted = 1.0 + std::max({guard.spec().shankClearance, guard.spec().holderClearance, guard.scene()[h.obstacle].keepOff});
        for (std::size_t i = h.first; i <= h.last; ++i) {
            const AxisPose pose = poseOf(passes[h.pass], i);
            const double deep = h.zone == Zone::Cutter ? guard.gouge(pose, h.obstacle) : 0.0;
            const bool touching = h.zone == Zone::Cutter && guard.scene()[h.obstacle].kind != ObstacleKind::Check;
            const double c = deep > 0.0 ? -deep : touching ? 0.0 : guard.clearanceOf(h.zone, h.obstacle, pose, wanted);
            if (c < h.least) {
                h.least = c;
                h.worst = i;
            }
        }
    });
    return hazards;
}

std::optional<double> neededStickOut(const Guard& guard, const std::vector<Pass>& passes, const std::vector<Hazard>& hazards) {
    const Assembly& a = guard.assembly();
    const double most = a.cutter.overallLength - a.stickOut;
    std::vector<std::optional<double>> needed(hazards.size(), 0.0);
    parallelFor(hazards.size(), 1, [&](std::size_t k) {
        const Hazard& h = hazards[k];
        if (h.zone != Zone::Holder) return;
        for (std::size_t i = h.first; i <= h.last && needed[k]; ++i) {
            const auto u = guard.extraStickOut(poseOf(passes[h.pass], i), most);
            needed[k] = u ? std::optional(std::max(*needed[k], *u)) : std::nullopt;
        }
    });
    double extra = 0.0;
    for (const auto& n : needed) {
        if (!n) return std::nullopt;
        extra = std::max(extra, *n);
    }
    if (extra <= 0.0) return std::nullopt;
    // Whole tenths read better, and the way between the locations needs a hair more than the locations.
    const double wanted = std::ceil((a.stickOut + extra + 0.05) * 10.0) / 10.0;
    if (wanted > a.cutter.overallLength) return std::nullopt;
    Assembly longer = a;
    longer.stickOut = wanted;
    const Guard again(longer, guard.scene(), guard.spec(), 0.0);
    for (const Hazard& h : hazards)
        for (std::size_t i = h.first; i <= h.last; ++i)
            if (const auto hit = again.hit(poseOf(passes[h.pass], i), Contact::Cutting); hit && hit->zone != Zone::Cutter) return std::nullopt;
    return wanted;
}

/// Lifts what is too near. @param more mm for places that are free themselves, while the way between them is not
void liftOnce(const Guard& guard, std::vector<Pass>& passes, const HitTable& hits, double more, std::vector<std::vector<double>>& lifts) {
    parallelFor(passes.size(), 1, [&](std::size_t p) {
        Pass& pass = passes[p];
        if (pass.whole) return; // lifted, it would be another hole
        const std::size_t n = pass.path.size();
        std::vector<double> up(n, 0.0);
        for (std::size_t i = 0; i < n; ++i) {
            if (hits[p][i].empty() && (i + 1 >= n || hits[p][i + 1].empty())) continue;
            const auto lift = guard.lift(poseOf(pass, i), guard.spec().highestLift);
            if (lift) up[i] = *lift > 0.0 ? *lift + 0.02 + more : more;
        }
        // Neighbours rise with it at no more than 45°, so that the way stays smooth.
        for (std::size_t i = 1; i < n; ++i) up[i] = std::max(up[i], up[i - 1] - (pass.path.tip[i] - pass.path.tip[i - 1]).norm());
        for (std::size_t i = n - 1; i-- > 0;) up[i] = std::max(up[i], up[i + 1] - (pass.path.tip[i] - pass.path.tip[i + 1]).norm());
        lifts[p].resize(n, 0.0);
        for (std::size_t i = 0; i < n; ++i) {
            if (up[i] <= 0.0) continue;
            pass.path.tip[i] += up[i] * pass.path.axis[i];
            pass.path.contact[i] = pass.path.tip[i];
            pass.path.normal[i] = Vec3::Zero();
            pass.path.face[i] = -1;
            pass.path.motion[i] = Motion::Link;
            lifts[p][i] += up[i];
        }
    });
}

/// Lifts until also the ways between the places are free, and tells. @return false: called off
bool liftPasses(const Guard& guard, std::vector<Pass>& passes, HitTable& hits, GuardResult& out, Progress& progress) {
    std::vector<std::vector<double>> lifts(passes.size());
    for (const double more : {0.0, 0.05, 0.2, 0.8}) {
        liftOnce(guard, passes, hits, more, lifts);
        if (!findHits(guard, passes, hits, &progress)) return false; // what was changed is checked anew, from nothing
        if (!anyHit(hits)) break;
    }
    std::set<int> rows;
    double highest = 0.0;
    for (std::size_t p = 0; p < passes.size(); ++p)
        for (const double up : lifts[p]) {
            if (up <= 0.0) continue;
            ++out.lifted;
            highest = std::max(highest, up);
            rows.insert(passes[p].row);
        }
    if (out.lifted == 0) return true;
    Finding f;
    f.rank = Rank::Look;
    f.check = Check::Path;
    f.code = "guard-lifted";
    f.stage = "Guard";
    f.amount = highest;
    f.row = *rows.begin();
    f.text = fmt::format("{} locations were lifted by up to {:.2f} mm, {}: the surface is not cut there", out.lifted, highest, rowsText(passes, rows));
    f.reason = "the cutter would have entered what lies beside, or shank or holder come too near";
    out.findings.push_back(f);
    return true;
}

/// Leans away and tells. @return false: called off
bool leanAway(const Guard& guard, const Freedom& freedom, std::vector<Pass>& passes, HitTable& hits, GuardResult& out, Progress& progress) {
    LeanResult leaned;
    if (!leanPasses(guard, freedom, passes, hits, leaned, progress)) return false;
    out.leaned = leaned.leaned;
    if (leaned.leaned == 0) return true;
    const Pass& pass = passes[leaned.pass];
    const Vec3& at = pass.path.contact[leaned.at];
    Finding f;
    f.rank = Rank::Note;
    f.check = Check::Path;
    f.code = "guard-leaned";
    f.stage = "Guard";
    f.amount = degrees(leaned.most);
    f.row = pass.row;
    f.place = {at.x(), at.y(), at.z()};
    f.text = fmt::format("The axis leans away by up to {:.1f}°, {}", degrees(leaned.most), rowsText(passes, leaned.rows));
    f.reason = fmt::format("shank, holder or cutter would have come too near; it turns by {:.1f}° a millimetre at most", degrees(leaned.steepest));
    out.findings.push_back(f);
    return true;
}

namespace {

/// What is good of a pass, in pieces. @return how many places are left out
std::size_t keepGood(const Pass& pass, const std::vector<char>& bad, std::vector<Pass>& kept) {
    const std::size_t n = bad.size();
    std::size_t dropped = 0;
    for (std::size_t i = 0; i < n;) {
        if (bad[i]) {
            ++dropped;
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < n && !bad[end]) ++end;
        if (end - i >= 2) {
            Pass piece;
            piece.row = pass.row;
            piece.origin = pass.origin;
            std::vector<char> keep(n, 0);
            std::fill(keep.begin() + static_cast<std::ptrdiff_t>(i), keep.begin() + static_cast<std::ptrdiff_t>(end), char{1});
            piece.path = pass.path;
            piece.path.filter(keep);
            piece.feedDirection.assign(pass.feedDirection.begin() + static_cast<std::ptrdiff_t>(i), pass.feedDirection.begin() + static_cast<std::ptrdiff_t>(end));
            kept.push_back(std::move(piece));
        }
        i = end;
    }
    return dropped;
}

} // namespace

void dropStretches(std::vector<Pass>& passes, const HitTable& hits, GuardResult& out) {
    std::vector<Pass> kept;
    std::set<int> rows;
    bool cutter = false, body = false; // what was in the way
    for (std::size_t p = 0; p < passes.size(); ++p) {
        const Pass& pass = passes[p];
        const std::size_t n = pass.path.size();
        std::vector<char> bad(n, 0);
        bool any = false;
        for (std::size_t i = 0; i < n; ++i)
            if (!hits[p][i].empty()) {
                for (const Hit& h : hits[p][i]) (h.zone == Zone::Cutter ? cutter : body) = true;
                bad[i] = 1;
                if (i > 0) bad[i - 1] = 1;
                any = true;
            }
        if (!any) {
            kept.push_back(pass);
            continue;
        }
        rows.insert(pass.row);
        if (pass.whole) {
            out.dropped += n;
            continue;
        }
        out.dropped += keepGood(pass, bad, kept);
    }
    passes = std::move(kept);
    if (rows.empty()) return;
    Finding f;
    f.rank = Rank::Look;
    f.check = Check::Path;
    f.code = "guard-dropped";
    f.stage = "Guard";
    f.amount = static_cast<double>(out.dropped);
    f.row = *rows.begin();
    f.text = passes.empty() ? "Nothing is left to cut: every row comes too near to something"
                            : fmt::format("{} locations were left out, {}", out.dropped, rowsText(passes, rows));
    f.reason = !body    ? "the cutter would have entered what lies beside"
               : cutter ? "the cutter, shank or holder would have come too near"
                        : "shank or holder would have come too near";
    if (passes.empty()) f.rank = Rank::Stop;
    out.findings.push_back(f);
}

/// What it would take to lean clear at a place, in words, and the limits that would have to be wider.
std::string leanWords(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at, std::vector<Remedy>& remedies) {
    if (!freedom.turned) return "; the axis of this work cannot lean";
    const auto needed = neededLean(guard, freedom, pass, at);
    if (!needed) return "; no other direction is free there";
    const GuardSpec& spec = guard.spec();
    const double lead = std::abs(degrees(needed->lead)), tilt = std::abs(degrees(needed->tilt));
    if (spec.leanBy == LeanBy::LeadTilt && asks(spec, GuardResponse::Lean)) {
        const auto wider = [&](const char* key, const char* what, double by, double most) {
            const double to = std::ceil(by + 1.0);
            if (by > most && to <= 90.0) remedies.push_back({fmt::format("Let the {} lean by {:.0f}°", what, to), key, fmt::format("{:.0f}", to)});
        };
        if (lead <= spec.leanLead) wider("guard.leanTilt", "tilt", tilt, spec.leanTilt);
        if (tilt <= spec.leanTilt) wider("guard.leanLead", "lead", lead, spec.leanLead);
    }
    return fmt::format("; the nearest free direction there leans about {:.0f}° further, lead {:+.0f}°, tilt {:+.0f}°", degrees(needed->turn), degrees(needed->lead),
                       degrees(needed->tilt));
}

/// What leaning away would come to, where it is not asked for.
struct LeanTrial {
    bool serves = false; ///< nothing would be too near
    double most = 0.0;   ///< rad
};
/// @return false: called off
bool tryLeaning(const Guard& guard, const Freedom& freedom, std::vector<Pass> passes, HitTable hits, LeanTrial& out, Progress& progress) {
    LeanResult leaned;
    if (!leanPasses(guard, freedom, passes, hits, leaned, progress)) return false;
    out = {!anyHit(hits) && leaned.leaned > 0, leaned.most};
    return true;
}

void report(const Guard& guard, const Freedom& freedom, const LeanTrial& trial, const std::vector<Pass>& passes, GuardResult& out) {
    std::map<std::pair<std::size_t, int>, std::vector<const Hazard*>> groups;
    for (const Hazard& h : out.hazards) groups[{h.obstacle, static_cast<int>(h.zone)}].push_back(&h);
    out.stickOut = neededStickOut(guard, passes, out.hazards);
    for (const auto& [key, group] : groups) {
        const Hazard* worst = group.front();
        std::set<int> rows;
        for (const Hazard* h : group) {
            if (h->least < worst->least) worst = h;
            rows.insert(passes[h->pass].row);
        }
        const std::string body = guard.scene()[key.first].called();
        const Pass& pass = passes[worst->pass];
        Finding f;
        f.rank = Rank::Stop;
        f.stage = "Guard";
        f.row = pass.row;
        f.amount = worst->least;
        const Vec3& at = pass.path.contact[worst->worst];
        f.place = {at.x(), at.y(), at.z()};
        if (trial.serves) f.remedies.push_back({fmt::format("Lean away, by up to {:.1f}°", degrees(trial.most)), "guard.response", "lean"});
        if (guard.scene()[key.first].kind == ObstacleKind::Check) {
            const double off = guard.scene()[key.first].keepOff;
            f.check = Check::Gouge;
            f.code = "check-near";
            f.text = worst->least < 0.0 ? fmt::format("cutter enters {} by {:.3f} mm, {}", body, -worst->least, rowsText(passes, rows))
                                        : fmt::format("cutter comes within {:.3f} mm of {}, {}", worst->least, body, rowsText(passes, rows));
            f.reason = off < 0.0 ? fmt::format("it may enter them by {:g} mm", -off) : fmt::format("it is to keep off them by {:g} mm", off);
            f.reason += leanWords(guard, freedom, pass, worst->worst, f.remedies);
            f.remedies.push_back({"Leave the stretch out", "guard.response", "drop"});
            f.remedies.push_back({"Lift along the axis", "guard.response", "lift"});
        } else if (worst->zone == Zone::Cutter) {
            f.check = Check::Gouge;
            f.code = "cutter-gouges";
            f.text = worst->least < 0.0 ? fmt::format("cutter enters {} by {:.3f} mm, {}", body, -worst->least, rowsText(passes, rows))
                                        : fmt::format("cutter comes too near to {}, {}", body, rowsText(passes, rows));
            f.reason = guard.scene()[key.first].kind == ObstacleKind::Part
                           ? "the cutter is too large for the corner, or the neighbouring face stands in its way"
                           : fmt::format("{} stands where the rows run; {:g} mm are asked for", guard.scene()[key.first].name, guard.spec().shankClearance);
        } else {
            const bool holder = worst->zone == Zone::Holder;
            const double asked = holder ? guard.spec().holderClearance : guard.spec().shankClearance;
            f.check = holder ? Check::Holder : Check::Shank;
            f.code = holder ? "holder-near" : "shank-near";
            f.text = worst->least <= 0.0 ? fmt::format("{} runs into {}, {}", zoneName(worst->zone), body, rowsText(passes, rows))
                                         : fmt::format("{} comes within {:.2f} mm of {}, {}", zoneName(worst->zone), worst->least, body, rowsText(passes, rows));
            f.reason = fmt::format("{:g} mm are asked for", asked) + leanWords(guard, freedom, pass, worst->worst, f.remedies);
            if (holder && out.stickOut) f.remedies.push_back({fmt::format("Stick out {:.1f} mm", *out.stickOut), "tool.stickOut", fmt::format("{:.1f}", *out.stickOut)});
            f.remedies.push_back({"Leave the stretch out", "guard.response", "drop"});
            f.remedies.push_back({"Lift along the axis", "guard.response", "lift"});
        }
        out.findings.push_back(f);
    }
}

bool onlyTell(Answering&) { return true; }

bool lean(Answering& a) { return leanAway(a.guard, a.freedom, a.passes, a.hits, a.out, a.progress); }

bool lift(Answering& a) {
    a.progress.report(0.4, "Lifting");
    return liftPasses(a.guard, a.passes, a.hits, a.out, a.progress);
}

bool leaveOut(Answering& a) {
    a.progress.report(0.4, "Leaving stretches out");
    dropStretches(a.passes, a.hits, a.out);
    return findHits(a.guard, a.passes, a.hits, &a.progress); // what was changed is checked anew, from nothing
}

const ResponseKind kResponses[] = {
    {GuardResponse::Report, "report", "only tell", onlyTell},
    {GuardResponse::Lean, "lean", "lean away", lean},
    {GuardResponse::Lift, "lift", "lift along the axis", lift},
    {GuardResponse::Drop, "drop", "leave the stretch out", leaveOut},
};

} // namespace

std::span<const ResponseKind> responseKinds() { return kResponses; }

Result<GuardResult> guardPasses(const Guard& guard, std::vector<Pass> passes, Progress& progress, const Freedom& freedom) {
    GuardResult out;
    progress.report(0.0, "Guarding shank and holder");
    HitTable hits;
    if (!findHits(guard, passes, hits, &progress)) return cancelledError();
    Answering answering{guard, freedom, passes, hits, out, progress};
    for (const GuardResponse response : {guard.spec().response, guard.spec().otherwise, guard.spec().atLast}) {
        if (!anyHit(hits)) break;
        const auto* kind = std::find_if(std::begin(kResponses), std::end(kResponses), [&](const ResponseKind& k) { return k.response == response; });
        if (!kind->answer(answering)) return cancelledError();
    }
    LeanTrial trial;
    if (anyHit(hits) && freedom.turned && guard.spec().response == GuardResponse::Report && !tryLeaning(guard, freedom, passes, hits, trial, progress))
        return cancelledError();
    progress.report(0.8, "Measuring what is too near");
    out.hazards = hazardsOf(guard, passes, hits);
    report(guard, freedom, trial, passes, out);
    out.passes = std::move(passes);
    progress.report(1.0, "Guarded");
    return out;
}

} // namespace gyre
