#include "motion/Timing.h"
#include <algorithm>
#include <cmath>
#include <limits>

namespace gyre {
namespace {

constexpr double kNone = std::numeric_limits<double>::infinity();

/// The rate along a step that is no faster than a cap: up, on, down.
struct Course {
    double up = 0.0, on = 0.0, down = 0.0; ///< s
    double left = 0.0;                     ///< of its least time: what is run at the cap
    double peak = 0.0;
    [[nodiscard]] double all() const { return up + on + down; }
};

class Timing {
public:
    Timing(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, JointMotion& m)
        : m_path(path), m_machine(k.machine()), m_spec(spec), m_m(m), m_n(m.size()), m_least(m_n, 0.0), m_gain(m_n, 1e9), m_jerk(m_n, kNone), m_rate(m_n, 1.0),
          m_speedBy(m_n, -1), m_gainBy(m_n, -1), m_cornerBy(m_n, -1) {}

    void run() {
        for (std::size_t i = 1; i < m_n; ++i) measure(i);
        corners();
        m_m.asked = m_least;
        m_rate.front() = m_rate.back() = 0.0;
        if (m_spec.stopsAtPoints)
            for (const std::uint32_t s : m_m.stepOf) m_rate[s] = 0.0;
        // What stands still has no joint that stops it.
        for (std::size_t i = 1; i < m_n; ++i) lower(i, std::sqrt(m_rate[i - 1] * m_rate[i - 1] + 2.0 * m_gain[i] * m_least[i]));
        for (std::size_t i = m_n - 1; i-- > 0;) lower(i, std::sqrt(m_rate[i + 1] * m_rate[i + 1] + 2.0 * m_gain[i + 1] * m_least[i + 1]));
        std::vector<double> takes(m_n, 0.0);
        for (std::size_t i = 1; i < m_n; ++i) takes[i] = course(i, 1.0).all();
        if (std::any_of(m_machine.joints.begin(), m_machine.joints.end(), [](const Joint& j) { return j.jerk > 0.0; }))
            for (std::size_t from = 0; from + 1 < m_n;) from = soften(from, takes);
        for (std::size_t i = 1; i < m_n; ++i) m_m.time[i] = m_m.time[i - 1] + takes[i];
        m_m.duration = m_m.time.back();
        for (std::size_t i = 1; i < m_n; ++i) m_m.limitedBy[i] = limit(i, takes[i]);
    }

private:
    [[nodiscard]] double moved(std::size_t i, std::size_t j) const { return m_m.at(i)[j] - m_m.at(i - 1)[j]; }
    [[nodiscard]] double speed(std::size_t i, std::size_t j) const { return moved(i, j) / m_least[i]; }

    // The least time of a step, and what its joints could do within it.
    void measure(std::size_t i) {
        const auto& joints = m_machine.joints;
        const std::uint32_t loc = m_m.location[i];
        double t = 1e-9;
        if (loc > 0) {
            const double from = m_m.location[i - 1] == loc ? static_cast<double>(m_m.fraction[i - 1]) : 0.0;
            const double way = (m_path.tip[loc] - m_path.tip[loc - 1]).norm() * (static_cast<double>(m_m.fraction[i]) - from);
            const double asked = m_path.rapid(loc) ? m_machine.rapid : std::max(1e-3, static_cast<double>(m_path.feed[loc])) / 60.0; // without a feed nothing is posted
            t = std::max(t, way / asked);
        }
        for (std::size_t j = 0; j < m_m.joints; ++j)
            if (const double own = std::abs(moved(i, j)) / joints[j].speed; own > t * (1.0 + 1e-9)) {
                t = own;
                m_speedBy[i] = static_cast<std::int8_t>(j);
            }
        m_least[i] = t;
        for (std::size_t j = 0; j < m_m.joints; ++j) {
            const double v = std::abs(moved(i, j)) / t;
            if (v <= 1e-12) continue;
            if (joints[j].acceleration / v < m_gain[i]) {
                m_gain[i] = joints[j].acceleration / v;
                m_gainBy[i] = static_cast<std::int8_t>(j);
            }
            if (joints[j].jerk > 0.0) m_jerk[i] = std::min(m_jerk[i], joints[j].jerk / v);
        }
    }

    // Between neighbours all of the change lies at one place and is spread over the corner time. Within that time many small changes come together: they are spread over
    // the time that they take, where that is longer.
    void corners() {
        const double spread = m_spec.cornerTime;
        constexpr std::size_t kMost = 256;
        for (std::size_t p = 1; p + 1 < m_n; ++p) {
            double between = 0.5 * m_least[p], slowest = 1.0;
            for (std::size_t q = p + 1; q < std::min(m_n, p + kMost); ++q) {
                between += 0.5 * (q > p + 1 ? m_least[q - 1] : 0.0) + 0.5 * m_least[q];
                if (q > p + 1 && between > spread * slowest) break; // at the rate that is found it takes longer than that already
                double cap = 1.0;
                std::int8_t by = -1;
                for (std::size_t j = 0; j < m_m.joints; ++j) {
                    const double jump = std::abs(speed(q, j) - speed(p, j)), a = m_machine.joints[j].acceleration;
                    if (jump <= 0.0) continue;
                    const double allowed = q == p + 1 ? a * spread / jump : std::max(a * spread / jump, std::sqrt(a * between / jump));
                    if (allowed < cap) {
                        cap = allowed;
                        by = static_cast<std::int8_t>(j);
                    }
                }
                slowest = std::min(slowest, cap);
                for (std::size_t i = p; by >= 0 && i < q; ++i)
                    if (cap < m_rate[i]) {
                        m_rate[i] = cap;
                        m_cornerBy[i] = by;
                    }
            }
        }
    }

    void lower(std::size_t i, double to) {
        if (to < m_rate[i]) m_rate[i] = to;
    }

    /// As far as its gain allows, between the rates at its ends.
    [[nodiscard]] Course course(std::size_t i, double cap) const {
        const double g = m_gain[i], e = std::min(m_rate[i - 1], cap), l = std::min(m_rate[i], cap);
        const double natural = std::sqrt(0.5 * (2.0 * g * m_least[i] + e * e + l * l));
        Course c;
        c.peak = std::max({e, l, std::min(cap, natural)});
        c.left = std::max(0.0, m_least[i] - ((c.peak * c.peak - e * e) + (c.peak * c.peak - l * l)) / (2.0 * g));
        c.up = (c.peak - e) / g;
        c.down = (c.peak - l) / g;
        c.on = c.peak > 0.0 ? c.left / c.peak : 0.0;
        return c;
    }

    /// Rising, or falling: from one rate to another in so much time at full acceleration.
    struct Ramp {
        double time = 0.0, change = 0.0, mean = 0.0, jerk = kNone;
        /// What rounding its ends takes besides: a trapezoid of acceleration, or a triangle where that is never reached.
        [[nodiscard]] double extra() const {
            if (!(time > 0.0) || jerk == kNone || change <= 0.0) return 0.0;
            const double gain = change / time;
            return std::max(0.0, change >= gain * gain / jerk ? gain / jerk : 2.0 * std::sqrt(change / jerk) - time);
        }
    };
    struct Bump {
        Ramp up, down;
        double left = 0.0; ///< run at the cap
    };
    [[nodiscard]] Bump bumpOf(std::size_t from, std::size_t to, double cap) const {
        Bump b;
        double peak = 0.0;
        for (std::size_t i = from + 1; i <= to; ++i) {
            const Course c = course(i, cap);
            if (c.up > 0.0) b.up.jerk = std::min(b.up.jerk, m_jerk[i]);
            if (c.down > 0.0) b.down.jerk = std::min(b.down.jerk, m_jerk[i]);
            b.up.time += c.up;
            b.down.time += c.down;
            peak = std::max(peak, c.peak);
            if (c.peak >= cap * (1.0 - 1e-12)) b.left += c.left;
        }
        b.up.change = peak - std::min(m_rate[from], cap);
        b.down.change = peak - std::min(m_rate[to], cap);
        b.up.mean = 0.5 * (peak + m_rate[from]);
        b.down.mean = 0.5 * (peak + m_rate[to]);
        return b;
    }

    // From one place where the rate is least to the next: what rounding takes is taken of what is run at the top, and where that is not enough the top is lowered.
    std::size_t soften(std::size_t from, std::vector<double>& takes) const {
        std::size_t to = from + 1;
        const auto moves = [this](std::size_t i) { return i + 1 < m_n && m_rate[i] > 0.0; }; // what stops ends there
        while (moves(to) && m_rate[to] >= m_rate[to - 1]) ++to;                              // up
        while (moves(to) && m_rate[to + 1] <= m_rate[to]) ++to;                              // and down again
        const double least = std::max(m_rate[from], m_rate[to]);
        const auto over = [&](double cap) {
            const Bump b = bumpOf(from, to, cap);
            return b.up.extra() * b.up.mean + b.down.extra() * b.down.mean - b.left;
        };
        double cap = 0.0;
        for (std::size_t i = from + 1; i <= to; ++i) cap = std::max(cap, course(i, 1.0).peak);
        if (over(cap) > 0.0) {
            double low = least, high = cap;
            constexpr int kHalvings = 50;
            for (int k = 0; k < kHalvings; ++k) (over(0.5 * (low + high)) > 0.0 ? high : low) = 0.5 * (low + high);
            cap = low;
        }
        const Bump b = bumpOf(from, to, cap);
        const double up = b.up.extra(), down = b.down.extra(), eaten = std::min(b.left, up * b.up.mean + down * b.down.mean);
        for (std::size_t i = from + 1; i <= to; ++i) {
            const Course c = course(i, cap);
            takes[i] = c.all();
            if (b.up.time > 0.0) takes[i] += up * c.up / b.up.time;
            if (b.down.time > 0.0) takes[i] += down * c.down / b.down.time;
            if (b.left > 0.0 && cap > 0.0 && c.peak >= cap * (1.0 - 1e-12)) takes[i] -= eaten * c.left / b.left / cap;
        }
        return to;
    }

    /// At full rate what its speed comes from; else the joint that takes up speed there, or the corner beside it.
    [[nodiscard]] std::int8_t limit(std::size_t i, double took) const {
        constexpr double kFull = 0.97;
        if (took * kFull <= m_least[i]) return m_speedBy[i];
        const std::size_t slower = m_rate[i - 1] < m_rate[i] ? i - 1 : i;
        if (m_cornerBy[slower] >= 0 && m_rate[slower] * m_rate[slower] + 2.0 * m_gain[i] * m_least[i] > 1.0) return m_cornerBy[slower];
        return m_gainBy[i] >= 0 ? m_gainBy[i] : m_speedBy[i];
    }

    const Toolpath& m_path;
    const Machine& m_machine;
    const MotionSpec& m_spec;
    JointMotion& m_m;
    std::size_t m_n;
    std::vector<double> m_least, m_gain, m_jerk, m_rate; ///< by step; rates at the end of it
    std::vector<std::int8_t> m_speedBy, m_gainBy, m_cornerBy;
};

} // namespace

void setTimes(const Toolpath& path, const Kinematics& k, const MotionSpec& spec, JointMotion& m) {
    m.time.assign(m.size(), 0.0);
    m.limitedBy.assign(m.size(), -1);
    if (m.size() >= 2) Timing(path, k, spec, m).run();
}

} // namespace gyre
