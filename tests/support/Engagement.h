// What roughing engages, measured point by point on a fine grid: one level, seen from above.
#pragma once
#include "base/Units.h"
#include "milling/Mill.h"
#include <QtDebug>
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <deque>
#include <functional>
#include <vector>

namespace gyre::test {

struct Engaged {
    double cut = 0.0, air = 0.0;                ///< mm of cutting moves that meet material, and that meet none
    double steady = 0.0;                        ///< mm of cutting moves further than two radii from both ends of their stretch
    double off = 0.0, heavy = 0.0;              ///< of those: more than a fifth beside the wanted angle, and above it
    double most = 0.0;                          ///< rad
    double leading = 0.0;                       ///< rad, the most on the way into a cut at its height
    double heavyAtFull = 0.0, mostAtFull = 0.0; ///< mm, and the largest in rad, of cuts at full feed that meet over 1.2 times the wanted angle
    int plunged = 0;                            ///< passes that come straight down on what stands, more than two cells within the rim
    double rushed = 0.0;                        ///< mm of rapids just over that height that meet material more than two cells deep
    [[nodiscard]] double total() const { return cut + air; }
    void add(const Engaged& o) {
        cut += o.cut;
        air += o.air;
        steady += o.steady;
        off += o.off;
        heavy += o.heavy;
        most = std::max(most, o.most);
        leading = std::max(leading, o.leading);
        rushed += o.rushed;
        plunged += o.plunged;
    }
    void tell(const char* what, double wanted) const {
        qInfo("%s: cut %.0f mm, air %.1f %%, steady %.0f mm of which off %.1f %%, heavy %.1f %%, most %.1f°, leading in %.1f° (wanted %.1f°)", what, cut,
              100 * air / total(), steady, 100 * off / std::max(1.0, steady), 100 * heavy / std::max(1.0, steady), degrees(most), degrees(leading), degrees(wanted));
    }
};

class EngagementGrid {
public:
    EngagementGrid(const Vec2& low, const Vec2& high, double cell, const std::function<bool(const Vec2&)>& material)
        : m_origin(low), m_cell(cell), m_nx(static_cast<int>((high.x() - low.x()) / cell)), m_ny(static_cast<int>((high.y() - low.y()) / cell)),
          m_full(static_cast<std::size_t>(m_nx) * static_cast<std::size_t>(m_ny)) {
        for (int i = 0; i < m_nx; ++i)
            for (int k = 0; k < m_ny; ++k) m_full[index(i, k)] = material(middle(i, k));
    }
    [[nodiscard]] double left() const { return static_cast<double>(std::count(m_full.begin(), m_full.end(), 1)) * m_cell * m_cell; }

    /// Moves that run lower than `height` + 0.2 clear; of them those that cut at `height` are measured.
    Engaged run(const std::vector<FlatPass>& passes, double r, double wanted, double height = 0.0) {
        Engaged out;
        const auto cuts = [&](const FlatPoint& p) { return p.motion == Motion::Cut && std::abs(p.at.z() - height) < 1e-3; };
        for (const FlatPass& pass : passes) {
            if (!pass.points.empty() && std::abs(pass.points.front().at.z() - height) < 1e-3) {
                catchUp(r);
                out.plunged += hits(pass.points.front().at.head<2>(), r - 2.5 * m_cell) > 0 ? 1 : 0;
            }
            double run = 0.0; // length since the present stretch began
            // Lengths of the cutting stretches, so that their ends can be told.
            std::vector<double> ahead(pass.points.size(), 0.0);
            for (std::size_t i = pass.points.size() - 1; i-- > 0;)
                ahead[i] = cuts(pass.points[i + 1]) ? ahead[i + 1] + (pass.points[i + 1].at - pass.points[i].at).norm() : 0.0;
            for (std::size_t i = 1; i < pass.points.size(); ++i) {
                const FlatPoint &a = pass.points[i - 1], &b = pass.points[i];
                const Vec2 d = (b.at - a.at).head<2>();
                const int n = std::max(1, static_cast<int>(std::ceil(d.norm() / 0.25)));
                if (!cuts(b)) run = 0.0;
                const bool rush = b.motion == Motion::Rapid && std::max(a.at.z(), b.at.z()) < height + 1.0;
                if (rush) catchUp(r);
                for (int k = 1; k <= n; ++k) {
                    const Vec2 c = a.at.head<2>() + d * k / n;
                    if (cuts(b)) {
                        const int hit = hits(c, r);
                        // What lags behind shows half as far behind the middle as well.
                        const double engaged = std::max(0.0, 2 * kPi * hit / kRound - (run > 2.0 ? 0.5 / r : 0.0)), length = d.norm() / n;
                        run += length;
                        (hit == 0 ? out.air : out.cut) += length;
                        out.most = std::max(out.most, engaged);
                        if (b.share > 0.999) out.mostAtFull = std::max(out.mostAtFull, engaged);
                        if (b.share > 0.999 && engaged > 1.2 * wanted + radians(8.0)) out.heavyAtFull += length;
                        const double toEnd = ahead[i] + (1.0 - static_cast<double>(k) / n) * d.norm();
                        if (run > 2 * r && toEnd > 2 * r && engaged >= 0.05) {
                            out.steady += length;
                            if (std::abs(engaged - wanted) > 0.2 * wanted + radians(2.0)) out.off += length;
                            if (engaged > 1.2 * wanted + radians(2.0)) out.heavy += length;
                        }
                    }
                    if (rush && hits(c, r - 1.5 * m_cell) > 0) out.rushed += d.norm() / n;
                    if (b.motion == Motion::LeadIn && i > 1 && std::abs(a.at.z() - height) < 1e-3 && std::abs(b.at.z() - height) < 1e-3 && cuts(next(pass, i)))
                        out.leading = std::max(out.leading, 2 * kPi * hits(c, r) / kRound);
                    if (b.at.z() < height + 0.2) passed(c, r, cuts(b) && run > 2.0 ? static_cast<std::size_t>(std::ceil(1.0 / (d.norm() / n))) : 0);
                }
            }
        }
        return out;
    }

private:
    static const FlatPoint& next(const FlatPass& pass, std::size_t i) { return pass.points[std::min(i + 1, pass.points.size() - 1)]; }
    static constexpr int kRound = 360;
    [[nodiscard]] std::size_t index(int i, int k) const { return static_cast<std::size_t>(i) * static_cast<std::size_t>(m_ny) + static_cast<std::size_t>(k); }
    [[nodiscard]] Vec2 middle(int i, int k) const { return m_origin + m_cell * Vec2(i + 0.5, k + 0.5); }
    [[nodiscard]] int hits(const Vec2& c, double r) const {
        int hit = 0;
        for (int q = 0; q < kRound; ++q) {
            const double angle = 2 * kPi * q / kRound;
            const Vec2 p = (c + (r - 0.5 * m_cell) * Vec2(std::cos(angle), std::sin(angle)) - m_origin) / m_cell;
            const int i = static_cast<int>(std::floor(p.x())), k = static_cast<int>(std::floor(p.y()));
            hit += i >= 0 && k >= 0 && i < m_nx && k < m_ny && m_full[index(i, k)];
        }
        return hit;
    }
    void clear(const Vec2& c, double r) { // cells whose middle lies under the cutter
        const int i0 = static_cast<int>(std::floor((c.x() - r - m_origin.x()) / m_cell)), k0 = static_cast<int>(std::floor((c.y() - r - m_origin.y()) / m_cell)),
                  n = static_cast<int>(2 * r / m_cell) + 2;
        for (int i = std::max(0, i0); i < std::min(m_nx, i0 + n); ++i)
            for (int k = std::max(0, k0); k < std::min(m_ny, k0 + n); ++k)
                if ((middle(i, k) - c).squaredNorm() <= r * r) m_full[index(i, k)] = 0;
    }
    // The cutter clears a millimetre behind itself: nearer, the cells would hide the thin end of the chip.
    void passed(const Vec2& c, double r, std::size_t lag) {
        m_behind.push_back(c);
        while (m_behind.size() > lag) {
            clear(m_behind.front(), r);
            m_behind.pop_front();
        }
    }

    void catchUp(double r) {
        for (const Vec2& c : m_behind) clear(c, r);
        m_behind.clear();
    }

    Vec2 m_origin;
    double m_cell;
    int m_nx, m_ny;
    std::vector<char> m_full;
    std::deque<Vec2> m_behind;
};

} // namespace gyre::test
