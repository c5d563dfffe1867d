// Stations are laid along the passes and leans written back; how they are found: LeanSearch.cpp.
#include "base/Parallel.h"
#include "guard/LeanSearch.h"

namespace gyre {
namespace leaning {

double stationStep(const GuardSpec& spec) { return std::clamp(std::max(0.1, spec.leanOver) / 10.0, 0.25, 2.0); }

Vec2 mostLean(const GuardSpec& spec) { return {spec.leanBy == LeanBy::LeadTilt ? radians(spec.leanLead) : 0.0, radians(spec.leanTilt)}; }
double fastestTurn(const GuardSpec& spec, const Freedom& freedom) {
    return freedom.steepest > 0.0 ? freedom.steepest : 4.0 * std::max(mostLean(spec).maxCoeff(), 0.02) / std::max(0.1, spec.leanOver);
}
double leanReach(const GuardSpec& spec, const Freedom& freedom) {
    return std::max(3.5 * spec.leanOver, 1.2 * mostLean(spec).maxCoeff() / fastestTurn(spec, freedom) + 0.5 * spec.leanOver);
}

std::vector<Vec3> placesHit(const std::vector<Pass>& passes, const HitTable& hits, double apart) {
    std::vector<Vec3> places;
    for (std::size_t p = 0; p < passes.size(); ++p)
        for (std::size_t i = 0; i < hits[p].size(); ++i) {
            if (hits[p][i].empty()) continue;
            const Vec3& at = passes[p].path.contact[i];
            if (std::none_of(places.begin(), places.end(), [&](const Vec3& q) { return (q - at).squaredNorm() < apart * apart; })) places.push_back(at);
        }
    return places;
}
bool anyNear(const std::vector<Vec3>& places, const Vec3& at, double reach) {
    return std::any_of(places.begin(), places.end(), [&](const Vec3& q) { return (q - at).squaredNorm() < reach * reach; });
}

bool turns(const Pass& pass) {
    // Lifted places touch nothing, and a hole's cycle has one direction.
    return !pass.whole && pass.path.size() >= 2 && pass.feedDirection.size() == pass.path.size();
}

void Leaner::prepare(std::size_t p) {
    Line& line = m_lines[p];
    line.pass = &m_passes[p];
    const Toolpath& path = line.pass->path;
    line.closed = line.pass->closed;
    if (!turns(*line.pass)) return;
    line.wish.resize(path.size());
    for (std::size_t i = 0; i < path.size(); ++i)
        if (path.normal[i].squaredNorm() > 0.5) line.wish[i] = leadTiltOf(path.axis[i], path.normal[i], line.pass->feedDirection[i]);
    const std::size_t n = path.size() - (line.closed ? 1 : 0); // the last one of a closed pass is the first again
    double along = 0.0, last = -1e9;
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) along += (path.contact[i] - path.contact[i - 1]).norm();
        if (along - last < m_step - 1e-9 && i + 1 < n) continue;
        Station s;
        s.at = i;
        s.along = along;
        s.free = m_hits[p][i].empty() && (i + 1 >= path.size() || m_hits[p][i + 1].empty());
        line.stations.push_back(s);
        last = along;
    }
    line.whole = along + (line.closed ? (path.contact[0] - path.contact[n - 1]).norm() : 0.0);
    // What is hit between two stations counts for both.
    for (std::size_t i = 0; i < path.size(); ++i) {
        if (m_hits[p][i].empty()) continue;
        const auto after = std::lower_bound(line.stations.begin(), line.stations.end(), i, [](const Station& s, std::size_t at) { return s.at < at; });
        if (after != line.stations.end()) after->free = false;
        if (after != line.stations.begin()) std::prev(after)->free = false;
        if (line.closed && after == line.stations.end()) line.stations.front().free = false;
    }
}

// Near are those within a few lengths of what is hit, so that it can lean over and back.
void Leaner::findNear() {
    const double reach = leanReach(m_spec, m_freedom);
    const std::vector<Vec3> places = placesHit(m_passes, m_hits, 0.1 * reach);
    parallelFor(m_lines.size(), 1, [&](std::size_t p) {
        Line& line = m_lines[p];
        for (Station& s : line.stations) {
            const Vec3& at = line.pass->path.contact[s.at];
            s.near = !s.free || anyNear(places, at, reach);
            s.near = s.near && line.pass->path.normal[s.at].squaredNorm() > 0.5;
            line.any = line.any || s.near;
        }
        findRuns(line);
    });
}

void Leaner::findRuns(Line& line) const {
    const std::size_t n = line.stations.size();
    if (!line.any) return;
    std::size_t start = 0; // of closed ones: one that is far, so that no run is cut in two
    if (line.closed)
        while (start < n && line.stations[start].near) ++start;
    if (start == n) { // all around: twice, and the middle of it is taken
        std::vector<std::size_t> run(2 * n);
        for (std::size_t k = 0; k < 2 * n; ++k) run[k] = k % n;
        line.runs.push_back(std::move(run));
        return;
    }
    bool open = false;
    for (std::size_t k = 0; k < n; ++k) {
        const std::size_t s = (start + k) % n;
        if (!line.stations[s].near) {
            open = false;
            continue;
        }
        if (!open) line.runs.emplace_back();
        open = true;
        line.runs.back().push_back(s);
    }
    for (const auto& run : line.runs) {
        line.stations[run.front()].pinned = line.closed || run.front() > 0;
        line.stations[run.back()].pinned = line.closed || run.back() + 1 < n;
    }
}

// The nearest station of the pass before and of the one behind.
void Leaner::findBeside(std::size_t p) {
    Line& line = m_lines[p];
    for (Station& s : line.stations) {
        if (!s.near) continue;
        const Vec3& at = line.pass->path.contact[s.at];
        for (const int way : {0, 1}) {
            const auto q = static_cast<std::ptrdiff_t>(p) + 2 * way - 1;
            if (q < 0 || q >= static_cast<std::ptrdiff_t>(m_lines.size())) continue;
            const Line& other = m_lines[static_cast<std::size_t>(q)];
            double least = m_over * m_over;
            std::optional<std::size_t> nearest;
            for (std::size_t k = 0; k < other.stations.size(); ++k) {
                const double d = (other.pass->path.contact[other.stations[k].at] - at).squaredNorm();
                if (d < least) {
                    least = d;
                    nearest = k;
                }
            }
            if (!nearest) continue;
            const double between = std::max(std::sqrt(least), 0.5 * m_step);
            const double same = line.pass->feedDirection[s.at].dot(other.pass->feedDirection[other.stations[*nearest].at]);
            s.beside[static_cast<std::size_t>(way)] = {q, *nearest, 1.0 / (between * between), same < 0.0 ? -1.0 : 1.0};
        }
    }
}

void Leaner::write(LeanResult& out) {
    for (std::size_t p = 0; p < m_lines.size(); ++p) {
        Line& line = m_lines[p];
        if (!line.any) continue;
        Toolpath& path = line.pass->path;
        const std::size_t n = line.stations.size(), count = path.size() - (line.closed ? 1 : 0);
        const std::vector<Vec3> wished = path.axis;
        std::vector<AxisPose> turned(count);
        std::vector<double> along(count, 0.0);
        for (std::size_t i = 1; i < count; ++i) along[i] = along[i - 1] + (path.contact[i] - path.contact[i - 1]).norm();
        std::size_t k = 0;
        for (std::size_t i = 0; i < count; ++i) {
            while (k + 1 < n && line.stations[k + 1].at <= i) ++k;
            const Station &a = line.stations[k], &b = line.stations[k + 1 < n ? k + 1 : line.closed ? 0 : k];
            const double span = &a == &b ? 0.0 : gap(line, k, k + 1 < n ? k + 1 : 0);
            const double t = span > 0.0 ? std::clamp((along[i] - a.along) / span, 0.0, 1.0) : 0.0;
            const Vec2 lean = (1.0 - t) * a.lean + t * b.lean;
            turned[i] = {path.tip[i], path.axis[i]};
            if (lean.norm() < kStill || path.normal[i].squaredNorm() < 0.5) continue;
            const Vec3 axis = axisAt(line, i, lean);
            turned[i] = m_freedom.turned(*line.pass, i, axis);
            const double by = angleBetween(axis, wished[i]);
            if (by < 10.0 * kStill) continue;
            ++out.leaned;
            out.rows.insert(line.pass->row);
            if (by > out.most) {
                out.most = by;
                out.pass = p;
                out.at = i;
            }
        }
        for (std::size_t i = 0; i < path.size(); ++i) {
            const std::size_t from = i % count;
            if (m_freedom.tipTouches) path.contact[i] = turned[from].tip;
            path.tip[i] = turned[from].tip;
            path.axis[i] = turned[from].axis;
        }
        for (std::size_t i = 1; i < path.size(); ++i) {
            const double d = (path.contact[i] - path.contact[i - 1]).norm();
            const bool here = angleBetween(path.axis[i], wished[i]) > kStill || angleBetween(path.axis[i - 1], wished[i - 1]) > kStill;
            if (here && d > 1e-6) out.steepest = std::max(out.steepest, angleBetween(path.axis[i], path.axis[i - 1]) / d);
        }
    }
}

bool Leaner::surprised(const HitTable& left) const {
    for (std::size_t p = 0; p < m_lines.size(); ++p) {
        const auto& stations = m_lines[p].stations;
        for (std::size_t i = 0; i < left[p].size(); ++i) {
            if (left[p][i].empty()) continue;
            const auto after = std::lower_bound(stations.begin(), stations.end(), i, [](const Station& s, std::size_t at) { return s.at < at; });
            const bool ahead = after == stations.end() || after->sure, behind = after == stations.begin() || std::prev(after)->sure;
            if (ahead && behind) return true;
        }
    }
    return false;
}

} // namespace leaning

namespace {

using namespace leaning;

// Where locations lie further apart than `step`, more of them between: straight, as the chord's tolerance allows.
Pass divided(const Pass& from, double step) {
    Pass out = from;
    out.path = {};
    out.feedDirection.clear();
    const Toolpath& p = from.path;
    for (std::size_t i = 0; i < p.size(); ++i) {
        const bool touches = i > 0 && p.normal[i].squaredNorm() > 0.5 && p.normal[i - 1].squaredNorm() > 0.5;
        const int pieces = touches ? std::clamp(static_cast<int>(std::ceil((p.contact[i] - p.contact[i - 1]).norm() / step - 1e-6)), 1, 10000) : 1;
        for (int k = 1; k < pieces; ++k) {
            const double t = static_cast<double>(k) / pieces;
            const auto between = [&](const Vec3& a, const Vec3& b) { return Vec3((1.0 - t) * a + t * b); };
            const Vec3 normal = slerp(p.normal[i - 1], p.normal[i], t);
            const Vec3 feed = rejected(between(from.feedDirection[i - 1], from.feedDirection[i]), normal);
            out.path.push(between(p.tip[i - 1], p.tip[i]), slerp(p.axis[i - 1], p.axis[i], t), between(p.contact[i - 1], p.contact[i]), normal, p.motion[i], p.row[i],
                          static_cast<double>(p.feed[i]), p.face[i]);
            out.feedDirection.push_back(feed.norm() > 1e-9 ? Vec3(feed.normalized()) : from.feedDirection[i]);
        }
        out.path.push(p.tip[i], p.axis[i], p.contact[i], p.normal[i], p.motion[i], p.row[i], static_cast<double>(p.feed[i]), p.face[i]);
        out.feedDirection.push_back(from.feedDirection[i]);
    }
    return out;
}

/// Numbers of the passes that may have to lean.
std::vector<std::size_t> passesNear(const std::vector<Pass>& passes, const HitTable& hits, double reach) {
    const std::vector<Vec3> places = placesHit(passes, hits, 0.1 * reach);
    std::vector<std::size_t> out;
    for (std::size_t p = 0; p < passes.size(); ++p) {
        const auto& at = passes[p].path.contact;
        if (turns(passes[p]) && std::any_of(at.begin(), at.end(), [&](const Vec3& q) { return anyNear(places, q, 1.1 * reach); })) out.push_back(p);
    }
    return out;
}

std::size_t countOf(const HitTable& hits) {
    std::size_t n = 0;
    for (const auto& pass : hits) n += static_cast<std::size_t>(std::count_if(pass.begin(), pass.end(), [](const auto& h) { return !h.empty(); }));
    return n;
}

} // namespace

bool leanPasses(const Guard& guard, const Freedom& freedom, std::vector<Pass>& passes, HitTable& hits, LeanResult& out, Progress& progress) {
    if (!freedom.turned) return true;
    const double step = stationStep(guard.spec());
    const std::vector<std::size_t> near = passesNear(passes, hits, leanReach(guard.spec(), freedom));
    if (near.empty()) return true;
    std::vector<Pass> wished;
    for (const std::size_t p : near) wished.push_back(divided(passes[p], step));
    HitTable wishedHits;
    std::vector<char> anew(near.size());
    for (std::size_t k = 0; k < near.size(); ++k) {
        anew[k] = wished[k].path.size() != passes[near[k]].path.size();
        wishedHits.push_back(hits[near[k]]);
    }
    if (!findHits(guard, wished, anew, wishedHits, &progress)) return false;
    std::size_t least = countOf(wishedHits);
    // Between the stations, and on the way, a little more room is needed than at them: as much as it takes.
    for (const double margin : {0.06, 0.3}) {
        std::vector<Pass> tried = wished;
        LeanResult result;
        Leaner leaner(guard, freedom, tried, wishedHits, margin);
        if (!leaner.run(progress)) return false;
        leaner.write(result);
        HitTable left = wishedHits;
        for (std::size_t k = 0; k < near.size(); ++k) anew[k] = tried[k].path.axis != wished[k].path.axis;
        if (!findHits(guard, tried, anew, left, &progress)) return false;
        const std::size_t now = countOf(left);
        const bool again = leaner.surprised(left);
        if (now >= least) {
            if (!again) break;
            continue;
        }
        least = now;
        out = std::move(result);
        out.pass = near[out.pass];
        for (std::size_t k = 0; k < near.size(); ++k) {
            passes[near[k]] = std::move(tried[k]);
            hits[near[k]] = std::move(left[k]);
        }
        if (least == 0 || !again) break;
    }
    return true;
}

std::optional<NeededLean> neededLean(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at) {
    if (!freedom.turned || !turns(pass) || pass.path.normal[at].squaredNorm() < 0.5) return std::nullopt;
    const Vec3 wish = pass.path.axis[at], x = anyPerpendicular(wish), y = wish.cross(x);
    HitHints hints = guard.hints();
    const LeadTilt now = leadTiltOf(wish, pass.path.normal[at], pass.feedDirection[at]);
    // Rings around the wish, the nearest first.
    for (double turn = 1.0; turn < 120.0; turn += 1.0) {
        const int around = std::max(12, static_cast<int>(std::ceil(360.0 * std::sin(radians(turn)) / 2.0)));
        for (int k = 0; k < around; ++k) {
            const double angle = 2.0 * kPi * k / around;
            const Vec3 axis = std::cos(radians(turn)) * wish + std::sin(radians(turn)) * (std::cos(angle) * x + std::sin(angle) * y);
            if (const double high = angleBetween(axis, Vec3::UnitZ()); high < freedom.low - 1e-9 || high > freedom.high + 1e-9) continue;
            if (freedom.reached && !freedom.reached(axis)) continue;
            if (guard.blocked(freedom.turned(pass, at, axis), 0.0, hints)) continue;
            const LeadTilt then = leadTiltOf(axis, pass.path.normal[at], pass.feedDirection[at]);
            return NeededLean{std::remainder(then.lead - now.lead, 2.0 * kPi), then.tilt - now.tilt, radians(turn)};
        }
    }
    return std::nullopt;
}

} // namespace gyre
