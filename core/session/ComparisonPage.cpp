#include "session/ComparisonPage.h"
#include "base/Html.h"
#include "base/Units.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {

class ComparisonText {
public:
    explicit ComparisonText(const ComparisonPageInput& in) : m_in(in), m_told(in.compared) {}

    std::string text() {
        m_out = fmt::format(R"(<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>Stock against part: {0}</title><style>
body {{ font-family: sans-serif; font-size: 10pt; color: #222; margin: 12mm; }}
h1 {{ font-size: 16pt; margin: 0 0 2mm; }} h2 {{ font-size: 12pt; margin: 6mm 0 2mm; border-bottom: 1px solid #777; }}
table {{ border-collapse: collapse; }} th, td {{ text-align: left; padding: 4px 14px 4px 0; border-bottom: 1px solid #ccc; }}
td.number, th.number {{ text-align: right; }} .gone {{ color: #a02020; fill: #a02020; }} .within {{ fill: #156a61; }} .stands {{ fill: #b07a18; }} text {{ font-size: 11px; fill: #444; }}
img {{ max-width: 100%; }} tr, figure, svg {{ break-inside: avoid; }}
</style></head><body>
<h1>Stock against part: {0}</h1>
)",
                            htmlText(m_in.job.name));
        verdict();
        if (!m_in.picture.empty()) m_out += fmt::format("<figure><img src=\"{}\" alt=\"The stock as the window showed it\"></figure>\n", pictureInPage(m_in.picture));
        figures();
        histogram();
        bands();
        areas();
        places();
        return m_out + "</body></html>\n";
    }

private:
    [[nodiscard]] std::string length(double mm, int decimals = 3) const { return formatLength(mm, m_in.job.units, decimals); }
    [[nodiscard]] const char* unit() const { return m_in.job.units == LengthUnit::Inch ? "inches" : "millimetres"; }
    [[nodiscard]] std::string madeBy(int by) const {
        return by > 0 && static_cast<std::size_t>(by) <= m_in.cutBy.size() ? m_in.cutBy[static_cast<std::size_t>(by - 1)] : "the stock as it was set up";
    }
    [[nodiscard]] const char* classOf(double from, double to) const { return to <= -m_told.fine ? "gone" : from >= m_told.fine ? "stands" : "within"; }

    void verdict() {
        if (!m_told.gone.empty())
            m_out +=
                fmt::format("<p class=\"gone\"><b>▲ Up to {} are gone of the part</b>, by {}.</p>\n", length(m_told.gone[0].mm), htmlText(madeBy(m_told.gone[0].by)));
        else
            m_out += fmt::format("<p>Nothing of the part is gone by more than {}, which is as well as that is known{}.</p>\n", length(m_told.fine),
                                 m_told.meantArea > 0.0 ? ", but for what is meant to go" : "");
    }
    void figures() {
        const bool inch = m_in.job.units == LengthUnit::Inch;
        const double volume = inch ? 25.4 * 25.4 * 25.4 : 1000.0;
        const char* name = inch ? "in³" : "cm³";
        m_out += fmt::format("<table><tr><th>Lengths in</th><td>{}</td></tr><tr><th>Stock left</th><td>{:.2f} {}</td></tr><tr><th>Part</th><td>{:.2f} {}</td></tr>"
                             "<tr><th>Cells of the stock</th><td>{}: what is thinner may be missed</td></tr></table>\n",
                             unit(), m_told.left / volume, name, m_told.part / volume, name, length(m_told.cell));
    }
    // Bars by share of the surface; what lies beyond the ends counts with the last bar.
    void histogram() {
        const double whole = std::max(1e-300, m_told.wholeArea()), most = std::max(1e-300, *std::max_element(m_told.histogram.begin(), m_told.histogram.end()));
        constexpr double kWide = 720.0, kHigh = 180.0, kFoot = 22.0;
        const auto n = static_cast<double>(m_told.histogram.size());
        m_out += fmt::format("<h2>Surface by how far it is off</h2><svg width=\"{0:.0f}\" height=\"{1:.0f}\" viewBox=\"0 0 {0:.0f} {1:.0f}\" role=\"img\">\n", kWide,
                             kHigh + kFoot);
        for (std::size_t i = 0; i < m_told.histogram.size(); ++i) {
            const double from = m_told.reach * (2.0 * static_cast<double>(i) / n - 1.0), to = from + 2.0 * m_told.reach / n, high = kHigh * m_told.histogram[i] / most;
            m_out += fmt::format("<rect class=\"{}\" x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\"><title>{} to {}: {:.2f} %</title></rect>\n",
                                 classOf(from, to), kWide * static_cast<double>(i) / n + 1.0, kHigh - high, kWide / n - 2.0, high, length(from), length(to),
                                 100.0 * m_told.histogram[i] / whole);
        }
        for (const double at : {-1.0, -0.5, 0.0, 0.5, 1.0})
            m_out += fmt::format("<text x=\"{:.0f}\" y=\"{:.0f}\" text-anchor=\"{}\">{}</text>\n", 0.5 * kWide * (at + 1.0), kHigh + 16.0,
                                 at < -0.9  ? "start"
                                 : at > 0.9 ? "end"
                                            : "middle",
                                 length(at * m_told.reach));
        m_out += "</svg>\n";
    }
    void bands() {
        const double whole = std::max(1e-300, m_told.wholeArea());
        m_out += "<h2>Bands</h2><table><tr><th></th><th class=\"number\">of the surface</th></tr>\n";
        for (std::size_t i = 0; i < m_told.area.size(); ++i) {
            const std::string band = m_told.limits.empty()       ? "all"
                                     : i == 0                    ? "below " + length(m_told.limits[0])
                                     : i == m_told.limits.size() ? "above " + length(m_told.limits.back())
                                                                 : length(m_told.limits[i - 1]) + " to " + length(m_told.limits[i]);
            m_out += fmt::format("<tr><td>{}</td><td class=\"number\">{:.2f} %</td></tr>\n", band, 100.0 * m_told.area[i] / whole);
        }
        if (m_told.meantArea > 0.0)
            m_out += fmt::format("<tr><td>meant to go: edges broken, engraved, up to {}</td><td class=\"number\">{:.2f} %</td></tr>\n", length(m_told.meantDeepest),
                                 100.0 * m_told.meantArea / whole);
        m_out += "</table>\n";
    }
    void areas() {
        if (m_told.areas.empty()) return;
        const bool inch = m_in.job.units == LengthUnit::Inch;
        m_out += fmt::format("<h2>What stands over the part</h2><table><tr><th class=\"number\">area, {}</th><th class=\"number\">up to</th><th class=\"number\">X</th>"
                             "<th class=\"number\">Y</th><th class=\"number\">Z</th><th></th></tr>\n",
                             inch ? "in²" : "cm²");
        for (const StandingArea& a : m_told.areas)
            m_out += fmt::format("<tr><td class=\"number\">{:.2f}</td><td class=\"number\">{}</td><td class=\"number\">{}</td><td class=\"number\">{}</td><td "
                                 "class=\"number\">{}</td><td>{}</td></tr>\n",
                                 a.area / (inch ? 25.4 * 25.4 : 100.0), length(a.worst.mm), length(a.worst.at.x(), 2), length(a.worst.at.y(), 2),
                                 length(a.worst.at.z(), 2), a.worst.by > 0 ? "left by " + htmlText(madeBy(a.worst.by)) : std::string("no operation has cut there"));
        m_out += "</table>\n<p>Stretches of the part's surface; what stands is measured along its normal, up to the other wall where a slot is full.</p>\n";
    }
    void places() {
        if (m_told.gone.empty() && m_told.stands.empty()) return;
        m_out += "<h2>Worst places</h2><table><tr><th></th><th class=\"number\">by</th><th class=\"number\">X</th><th class=\"number\">Y</th><th "
                 "class=\"number\">Z</th><th>surface made by</th></tr>\n";
        for (const bool gone : {true, false})
            for (const StockPlace& p : gone ? m_told.gone : m_told.stands)
                m_out += fmt::format(
                    "<tr><td{}>{}</td><td class=\"number\">{}</td><td class=\"number\">{}</td><td class=\"number\">{}</td><td class=\"number\">{}</td><td>{}</td></tr>\n",
                    gone ? " class=\"gone\"" : "", gone ? "▲ gone" : "stands", length(p.mm), length(p.at.x(), 2), length(p.at.y(), 2), length(p.at.z(), 2),
                    htmlText(madeBy(p.by)));
        m_out += "</table>\n<p>Places count from the part's datum; each is the worst of its surroundings.</p>\n";
    }

    const ComparisonPageInput& m_in;
    const StockComparison& m_told;
    std::string m_out;
};

} // namespace

std::string comparisonPage(const ComparisonPageInput& input) { return ComparisonText(input).text(); }

} // namespace gyre
