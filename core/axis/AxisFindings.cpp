#include "axis/AxisFindings.h"
#include "base/Units.h"
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace gyre {
namespace {

class Teller {
public:
    Teller(const std::vector<Row>& rows, const AxisSpec& spec, const std::vector<RowTold>& told, AxisResult& out)
        : m_rows(rows), m_spec(spec), m_told(told), m_out(out) {}

    void run() {
        if (!m_rows.empty()) {
            steep();
            evened();
            outside();
            poled();
            lines();
            limited();
        }
        lost();
    }

private:
    /// The row that has the most of it.
    [[nodiscard]] std::size_t worst(Most RowTold::*what) const {
        std::size_t w = 0;
        for (std::size_t r = 1; r < m_told.size(); ++r)
            if ((m_told[r].*what).by > (m_told[w].*what).by) w = r;
        return w;
    }
    void tell(Rank rank, const char* code, std::size_t r, std::size_t i, double amount, const std::string& text, const std::string& reason,
              std::vector<Remedy> remedies = {}) {
        Finding f;
        f.rank = rank;
        f.code = code;
        f.stage = "Axis";
        f.row = m_rows[r].index;
        const Vec3& p = m_rows[r].points[i];
        f.place = {p.x(), p.y(), p.z()};
        f.amount = amount;
        f.text = text;
        f.reason = reason;
        f.remedies = std::move(remedies);
        m_out.findings.push_back(std::move(f));
    }
    [[nodiscard]] int number(std::size_t r) const { return m_rows[r].index + 1; }

    void steep() {
        const std::size_t w = worst(&RowTold::steep);
        const Most& most = m_told[w].steep;
        m_out.steepest = most.by;
        m_out.steepestRow = m_rows[w].index;
        if (m_spec.steepest > 0.0 && most.by > m_spec.steepest)
            tell(Rank::Look, "axis-steep", w, most.at, most.by,
                 fmt::format("The axis turns by {:.2f}°/mm in row {}, more than {:.2f}", most.by, number(w), m_spec.steepest),
                 m_told[w].tooSteep ? "the row is too short to even it out" : "the angle window or the locked joint turns it faster");
    }
    void evened() {
        const std::size_t w = worst(&RowTold::evened);
        const Most& most = m_told[w].evened;
        m_out.mostEvened = most.by;
        if (most.by > 1e-6)
            tell(Rank::Note, "axis-evened", w, most.at, degrees(most.by),
                 fmt::format("The axis is up to {:.1f}° off (row {}) so that it turns by no more than {:g}°/mm", degrees(most.by), number(w), m_spec.steepest),
                 "it would turn faster");
    }
    void outside() {
        const std::size_t w = worst(&RowTold::outside);
        const Most& most = m_told[w].outside;
        if (most.by > 1e-6)
            tell(Rank::Look, "axis-window-left", w, most.at, degrees(most.by),
                 fmt::format("With {} locked the axis leaves the angle window by up to {:.1f}° (row {}); the lock is kept, the window gave way", m_spec.locked,
                             degrees(most.by), number(w)),
                 fmt::format("no angle of the other joint keeps it within {:g}° … {:g}°", m_spec.lowDegrees, m_spec.highDegrees));
    }
    void poled() {
        const std::size_t w = worst(&RowTold::poled);
        const Most& most = m_told[w].poled;
        if (!(most.by > 1e-6)) return;
        m_out.mostPoled = most.by;
        tell(Rank::Note, "axis-at-pole", w, most.at, degrees(most.by),
             fmt::format("Near the pole of a rotary axis the axis is up to {:.2f}° off (row {})", degrees(most.by), number(w)),
             "so that the rotary need not whirl around there");
    }
    void lines() {
        std::size_t w = 0;
        for (std::size_t r = 1; r < m_told.size(); ++r)
            if (m_told[r].lines.angle > m_told[w].lines.angle) w = r;
        const LineDisagreement& d = m_told[w].lines;
        if (!(d.angle > 0.5 * kPi)) return;
        std::vector<int> turned = m_spec.turned;
        if (const auto it = std::find(turned.begin(), turned.end(), static_cast<int>(d.other)); it != turned.end())
            turned.erase(it);
        else
            turned.push_back(static_cast<int>(d.other));
        std::sort(turned.begin(), turned.end());
        tell(Rank::Look, "axis-lines-disagree", w, m_told[w].linesAt, degrees(d.angle),
             fmt::format("Lines {} and {} point {:.0f}° apart (row {}); the axis turns over between them", d.one + 1, d.other + 1, degrees(d.angle), number(w)),
             "one of them may have to be turned over", {{fmt::format("Turn line {} over", d.other + 1), "axis.turned", fmt::format("[{}]", fmt::join(turned, ","))}});
    }
    void limited() {
        const std::size_t w = worst(&RowTold::moved);
        const Most& most = m_told[w].moved;
        m_out.mostLimited = most.by;
        if (!(most.by > 1e-6)) return;
        if (m_spec.locked.empty())
            tell(Rank::Note, "axis-limited", w, most.at, degrees(most.by),
                 fmt::format("The angle window moved the axis by up to {:.1f}° (row {})", degrees(most.by), number(w)),
                 fmt::format("lead and tilt would have left {:g}° … {:g}°", m_spec.lowDegrees, m_spec.highDegrees));
        else
            tell(Rank::Look, "axis-locked", w, most.at, degrees(most.by),
                 fmt::format("With {} locked the axis is up to {:.1f}° off (row {})", m_spec.locked, degrees(most.by), number(w)),
                 "no angle of the other joint brings it nearer");
    }
    void lost() {
        const auto first = std::find_if(m_told.begin(), m_told.end(), [](const RowTold& t) { return t.lost; });
        if (first == m_told.end()) return;
        const auto r = static_cast<std::size_t>(first - m_told.begin());
        if (m_spec.rule == AxisRule::TowardRotary)
            tell(Rank::Stop, "axis-on-rotary", r, 0, 0.0, fmt::format("No direction toward the rotary axis exists at row {}", number(r)),
                 "the row touches the rotary axis itself, or a flat bottom would have to touch inside its rim");
        else
            tell(Rank::Stop, "axis-none", r, 0, 0.0, fmt::format("The axis has no direction at row {}", number(r)),
                 "the row touches what the axis goes through, or a flat bottom would have to touch inside its rim");
    }

    const std::vector<Row>& m_rows;
    const AxisSpec& m_spec;
    const std::vector<RowTold>& m_told;
    AxisResult& m_out;
};

} // namespace

void tellOfAxes(const std::vector<Row>& rows, const AxisSpec& spec, const std::vector<RowTold>& told, AxisResult& out) { Teller(rows, spec, told, out).run(); }

} // namespace gyre
