// What the finished wall is off, as it will be made: measured on the passes that are told, all of them.
#include "base/Parallel.h"
#include "base/Units.h"
#include "swarf/SwarfSpec.h"
#include "swarf/Swarfer.h"
#include <fmt/format.h>

namespace gyre {

// Passes that were moved tell their tracks.
void Swarfer::settled() {
    for (std::size_t p = 0; p < m_out.passes.size(); ++p) {
        const Emitted& e = m_emitted[p];
        Track& t = m_tracks[e.track];
        for (std::size_t i = 0; i < e.rulings.size(); ++i) {
            if (e.rulings[i] == kFree) continue;
            const Vec3& tip = m_out.passes[p].path.tip[i];
            t.lifted[e.rulings[i]] += (tip - t.poses[e.rulings[i]].tip).norm(); // a closed pass comes to its first place twice
            t.poses[e.rulings[i]].tip = tip;
        }
    }
}

// Rulings whose places can touch the wall at this one.
std::vector<std::size_t> Swarfer::placesNear(std::size_t ruling) const {
    std::vector<std::size_t> back, out;
    const auto i = static_cast<std::ptrdiff_t>(ruling), n = static_cast<std::ptrdiff_t>(count());
    // Beside an inner corner the cutter on the other wall makes this one too.
    const bool corner = std::any_of(m_tracks.begin(), m_tracks.end(), [&](const Track& t) { return t.cut[ruling] != Cut::Whole; });
    const double reach = std::max({m_reach, 0.5 * m_cutter.diameter, corner || m_hollow[ruling] < m_cutter.diameter ? 1.2 * m_cutter.diameter : 0.0});
    for (const int way : {-1, 1}) {
        double gone = 0.0;
        for (std::ptrdiff_t k = 1; k < (m_wall.closed ? (n + 1) / 2 : n); ++k) {
            const std::ptrdiff_t j = i + way * k;
            if (!m_wall.closed && (j < 0 || j >= n)) break;
            const Ruling &a = m_wall.rulings[wrapped(j - way)], &b = m_wall.rulings[wrapped(j)];
            gone += std::min((b.low - a.low).norm(), (b.high - a.high).norm());
            (way < 0 ? back : out).push_back(wrapped(j));
            if (gone > reach && k >= 2) break;
        }
        if (way < 0) {
            out.assign(back.rbegin(), back.rend());
            out.push_back(ruling);
        }
    }
    return out;
}

// The least over all places of the cutter, and between them.
double Swarfer::offAt(const Vec3& p, const std::vector<std::size_t>& places) const {
    double best = 1e300;
    const double flutes = cuttingLength(m_cutter) + 1e-6;
    const auto off = [&](const AxisPose& pose) { return (p - pose.tip).dot(pose.axis) > flutes ? 1e300 : m_side.off(pose, p); };
    std::vector<double> at(places.size());
    for (const Track& t : m_tracks) {
        double least = 1e300;
        for (std::size_t j = 0; j < places.size(); ++j) {
            at[j] = t.cut[places[j]] == Cut::Not ? 1e300 : off(t.poses[places[j]]);
            least = std::min(least, at[j]);
        }
        if (least > 1e299) continue;
        best = std::min(best, least);
        constexpr double kWorth = 0.1; // mm: between two places it is hardly ever nearer than at both by more
        for (std::size_t j = 1; j < places.size(); ++j) {
            if (std::min(at[j - 1], at[j]) > best + kWorth || std::max(at[j - 1], at[j]) > 1e299) continue;
            const AxisPose &a = t.poses[places[j - 1]], &b = t.poses[places[j]];
            double low = 0.0, high = 1.0;
            for (int round = 0; round < 10; ++round) {
                const auto between = [&](double f) { return off({a.tip + f * (b.tip - a.tip), ((1.0 - f) * a.axis + f * b.axis).normalized()}); };
                const double f = low + 0.382 * (high - low), g = low + 0.618 * (high - low), there = between(f), behind = between(g);
                best = std::min({best, there, behind});
                (there < behind ? high : low) = there < behind ? g : f;
            }
        }
    }
    return best > 1e299 ? 1e3 : best - m_leave;
}

// A point of the wall between two lines, as it bends there: the cutter goes straight on.
Vec3 Swarfer::between(std::size_t i, double part, double fraction) const {
    const Line a = line(static_cast<std::ptrdiff_t>(i)), b = line(static_cast<std::ptrdiff_t>(i) + 1);
    const auto normal = [&](const Ruling& r) { return Vec3(((1.0 - fraction) * r.lowNormal + fraction * r.highNormal).normalized()); };
    const Vec3 p = a.at(fraction), q = b.at(fraction), n = normal(a.ruling), m = normal(b.ruling);
    const Vec3 out = n + m, chord = (1.0 - part) * p + part * q;
    return out.norm() < 1.0 ? chord : Vec3(chord + 0.5 * part * (1.0 - part) * (q - p).dot(m - n) * out.normalized());
}

void Swarfer::mapDeviation() {
    settled();
    // Depths leave marks between them: samples stand close enough to see those.
    const std::size_t per = 1 + (kWallSamples - 1) * std::min<std::size_t>(10, 2 * m_depths);
    const auto fraction = [&](std::size_t k) { return static_cast<double>(k) / static_cast<double>(per - 1); };
    // Every line, and what lies between it and the next; closer together beside corners, where the cutter begins to turn.
    struct Between {
        std::size_t ruling;
        double part;
    };
    std::vector<Between> lines;
    const auto n = static_cast<std::ptrdiff_t>(count());
    for (std::ptrdiff_t i = 0; i < n; ++i) {
        bool corner = false;
        for (std::ptrdiff_t k = -2; k <= 3; ++k) corner |= m_wall.rulings[wrapped(i + k)].corner;
        const int parts = m_wall.rulings[wrapped(i)].corner || wrapped(i + 1) == wrapped(i) ? 1 : corner ? 6 : 2;
        for (int k = 0; k < parts; ++k) lines.push_back({static_cast<std::size_t>(i), static_cast<double>(k) / parts});
    }
    std::vector<std::vector<WallSample>> found(lines.size(), std::vector<WallSample>(per));
    parallelFor(lines.size(), 8, [&](std::size_t l) {
        const auto places = placesNear(lines[l].ruling);
        for (std::size_t k = 0; k < per; ++k) {
            const Vec3 p = between(lines[l].ruling, lines[l].part, fraction(k));
            found[l][k] = {p, offAt(p, places)};
        }
    });
    const auto shortened = [&](std::size_t i) { return std::all_of(m_tracks.begin(), m_tracks.end(), [&](const Track& t) { return t.cut[i] != Cut::Whole; }); };
    m_out.perLine = per;
    WallSample most{Vec3::Zero(), 0.0}, least{Vec3::Zero(), 0.0};
    std::size_t overRuling = 0;
    double underHeight = 0.0;
    for (std::size_t l = 0; l < lines.size(); ++l) {
        const std::size_t i = lines[l].ruling;
        const bool edge = m_wall.rulings[i].corner; // of the lines round an outer corner, all the same one
        const bool corner = shortened(i) || (lines[l].part > 0.0 && shortened(wrapped(static_cast<std::ptrdiff_t>(i) + 1)));
        for (const WallSample& s : found[l]) {
            if (!edge) m_out.map.push_back(s);
            if (s.off < least.off) {
                least = s;
                overRuling = i;
            }
            if (s.off > 1e2 || edge) continue;    // above the flutes, told by itself
            double height = -1e300, lifted = 0.0; // over the tip of the lowest pass
            for (const Track& t : m_tracks)
                if (const double h = (s.point - t.poses[i].tip).dot(t.poses[i].axis); h > height) {
                    height = h;
                    lifted = lines[l].part > 0.0 ? std::max(t.lifted[i], t.lifted[wrapped(static_cast<std::ptrdiff_t>(i) + 1)]) : t.lifted[i];
                }
            if (corner || (lifted > 0.0 && height < flankStart(m_cutter) + 0.01)) {
                m_left = std::max(m_left, s.off);
            } else if (s.off > most.off) {
                most = s;
                underHeight = height;
            }
        }
    }
    m_out.over = std::max(0.0, -least.off);
    m_out.under = most.off;
    tellDeviation(least.point, overRuling, most.point, underHeight);
}

void Swarfer::tellDeviation(const Vec3& overAt, std::size_t overRuling, const Vec3& underAt, double underHeight) {
    if (m_out.over > m_spec.tolerance) {
        const std::string pass = fmt::format("{:.3f}", std::ceil(1000.0 * m_out.over) / 1000.0);
        const double round = m_hollow[overRuling];
        const bool large = round < 0.5 * m_cutter.diameter;
        std::vector<Remedy> cures;
        if (!m_spec.twist && !large)
            cures.push_back({"Make the deviation as small as it goes", "swarf.twist", "true"});
        else
            cures.push_back({"Let " + pass + " mm pass", "swarf.tolerance", pass});
        tell(Rank::Stop, "wall-over", fmt::format("the cutter takes up to {:.3f} mm too much off the wall", m_out.over),
             large          ? fmt::format("the wall is hollow there with a radius of {:.2f} mm, the cutter has {:.2f}: take one of less than {:.2f} mm across", round,
                                          0.5 * m_cutter.diameter, 2.0 * round)
             : m_spec.twist ? "the wall is twisted or bent more than this cutter's side can follow"
                            : "the wall is twisted",
             overAt, m_out.over, std::move(cures));
    }
    if (m_out.under > m_spec.tolerance) {
        const double begin = flankStart(m_cutter);
        const bool foot = underHeight < begin;
        std::vector<Remedy> cures;
        const double past = std::ceil(1000.0 * (m_spec.past + begin - underHeight)) / 1000.0;
        if (foot && (m_depths > 1 || m_tallest + past <= cuttingLength(m_cutter))) { // else what is gained below is lost above the flutes
            const std::string deeper = fmt::format("{:.3f}", past);
            cures.push_back({"Go " + deeper + " mm past the lower edge", "swarf.past", deeper});
        }
        tell(Rank::Look, "wall-under", fmt::format("up to {:.3f} mm stay on the wall", m_out.under),
             foot && underHeight < 1e-6              ? fmt::format("the tip stays {:.2f} mm over it there", -underHeight)
             : foot                                  ? fmt::format("its foot lies beside the cutter's round end, which begins {:.2f} mm over the tip", begin)
             : m_out.under > 0.2 * m_cutter.diameter ? "the cutter does not reach all of it"
                                                     : "the cutter's side is straight, the wall is twisted or bent",
             underAt, m_out.under, std::move(cures));
    }
}

} // namespace gyre
