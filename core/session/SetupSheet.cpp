#include "session/SetupSheet.h"
#include "base/Html.h"
#include "geom/FrustumOutline.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/TimeSpent.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {

/// Tip down, cutter, shank and holder in three tones.
std::string silhouette(const Assembly& tool) {
    const auto pieces = piecesOf(tool);
    double wide = 1.0, high = 1.0;
    for (const Piece& p : pieces) {
        wide = std::max(wide, p.shape.radius());
        high = std::max(high, p.shape.high());
    }
    std::string out = fmt::format(R"(<svg width="{:.0f}" height="170" viewBox="{:.2f} {:.2f} {:.2f} {:.2f}" role="img">)", 170.0 * (2.0 * wide + 4.0) / (high + 4.0),
                                  -wide - 2.0, -high - 2.0, 2.0 * wide + 4.0, high + 4.0);
    for (const Piece& p : pieces) {
        const auto outline = outlineOf(p.shape, 8);
        std::string points;
        for (const Vec2& q : outline) points += fmt::format("{:.3f},{:.3f} ", q.x(), -q.y());
        for (auto q = outline.rbegin(); q != outline.rend(); ++q) points += fmt::format("{:.3f},{:.3f} ", -q->x(), -q->y());
        out += fmt::format(R"(<polygon points="{}" class="{}"/>)", points, p.zone == Zone::Cutter ? "cutter" : p.zone == Zone::Shank ? "shank" : "holder");
    }
    return out + "</svg>";
}

class Page {
public:
    explicit Page(const SetupSheetInput& in) : m_in(in), m_post(postInputOf(in.job, in.place, in.operations)) {}

    std::string text() {
        m_out = fmt::format(R"(<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>Set-up sheet: {0}</title><style>
body {{ font-family: sans-serif; font-size: 10pt; color: #222; margin: 12mm; }}
h1 {{ font-size: 16pt; margin: 0 0 2mm; }} h2 {{ font-size: 12pt; margin: 6mm 0 2mm; border-bottom: 1px solid #777; }}
table {{ border-collapse: collapse; width: 100%; }} th, td {{ text-align: left; vertical-align: top; padding: 4px; border-bottom: 1px solid #ccc; }}
td.number, th.number {{ text-align: right; }} .stop {{ color: #a02020; font-weight: bold; }} .cutter {{ fill: #b07a18; }} .shank {{ fill: #8a8f98; }} .holder {{ fill: #4f5560; }}
img {{ max-width: 100%; }} figure {{ margin: 2mm 0; }} tr, figure {{ break-inside: avoid; }}
</style></head><body>
<h1>Set-up sheet: {0}</h1>
)",
                            htmlText(m_in.job.name));
        stops();
        setUp();
        pictures();
        tools();
        operations();
        looks();
        origin();
        return m_out + "</body></html>\n";
    }

private:
    /// As finely as it is known, or needed: sizes are those of triangles.
    [[nodiscard]] std::string length(double mm, int decimals = 3) const { return formatLength(mm, m_in.job.units, decimals); }
    [[nodiscard]] std::string point(const Vec3& p, int decimals = 3) const {
        return fmt::format("X {}, Y {}, Z {}", length(p.x(), decimals), length(p.y(), decimals), length(p.z(), decimals));
    }
    [[nodiscard]] const char* unit() const { return m_in.job.units == LengthUnit::Inch ? "inches" : "millimetres"; }
    [[nodiscard]] std::string nameOf(const std::string& operation) const { return m_in.job.nameOf(operation); }
    void fact(const std::string& what, const std::string& value) { m_out += fmt::format("<tr><th>{}</th><td>{}</td></tr>\n", htmlText(what), htmlText(value)); }

    void stops() {
        const auto count = std::count_if(m_in.findings.begin(), m_in.findings.end(), [](const Finding& f) { return f.rank == Rank::Stop; });
        if (count > 0)
            m_out +=
                fmt::format("<p class=\"stop\">Do not run this: {} {} against it, see “What to look at”.</p>\n", count, count == 1 ? "thing stands" : "things stand");
        else if (!m_in.proven)
            m_out += "<p class=\"stop\">Not proven at the machine.</p>\n";
        else
            m_out += "<p>Proven at the machine: nothing comes nearer than asked.</p>\n";
    }

    void setUp() {
        const Job& job = m_in.job;
        m_out += "<h2>Clamping</h2><table cellpadding=\"5\">\n";
        fact("Machine", m_in.place->machine->name);
        fact("Lengths in", unit());
        if (!job.material.empty()) fact("Material", job.material);
        for (const PlacedBody& b : m_in.place->bodies) {
            if (b.role == "drawing" || b.role == "reference") continue;
            const auto own = std::find_if(job.bodies.begin(), job.bodies.end(), [&](const JobBody& o) { return o.name == b.name; });
            Box box;
            for (const Vec3& p : b.shape->mesh().points) box.add(b.placed * p);
            const Vec3 size = box.high - box.low;
            std::string words = fmt::format("{} × {} × {}, from {} to {} of the part's datum", length(size.x(), 1), length(size.y(), 1), length(size.z(), 1),
                                            point(box.low, 1), point(box.high, 1));
            if (own != job.bodies.end() && !own->file.empty()) words += ", " + own->file;
            if (b.within > 0.0) words += fmt::format("; it may stand {} from there and no further", length(b.within, 2));
            fact(fmt::format("{}: {}", b.role == "part" ? "Part" : b.role == "stock" ? "Stock" : "Fixture", b.name), words);
        }
        fact("Part's datum over the table",
             point(job.seat) + (std::abs(job.seatTurnDegrees) > 1e-9 ? fmt::format(", turned by {:g}° about Z", job.seatTurnDegrees) : ""));
        fact("Programs count from", fmt::format("{} of the part's datum, {} over the table{}", point(job.zero), point(job.partFrame() * job.zero),
                                                job.program.offset > 0 ? fmt::format(": G{}", job.program.offset) : ""));
        m_out += "</table>\n";
    }

    void pictures() {
        for (std::size_t i = 0; i < m_in.pictures.size(); ++i) {
            const SetupPicture& p = m_in.pictures[i];
            m_out += fmt::format("<figure><img src=\"{}\" alt=\"{}\"><figcaption>{}</figcaption></figure>\n",
                                 m_in.linked ? fmt::format("gyre:view/{}", i + 1) : pictureInPage(p.png), htmlText(p.caption), htmlText(p.caption));
        }
    }

    void tools() {
        m_out +=
            "<h2>Tools</h2><table cellpadding=\"5\"><tr><th>T</th><th></th><th>Tool</th><th class=\"number\">Stick-out</th><th class=\"number\">Gauge length</th><th "
            "class=\"number\">Turns 1/min</th>"
            "<th class=\"number\">Feed /min</th><th>Coolant</th><th>For</th></tr>\n";
        for (const SetupTool& t : setupTools(m_in)) {
            std::string uses;
            for (const std::string& o : t.operations) uses += (uses.empty() ? "" : ", ") + o;
            m_out +=
                fmt::format("<tr><td>T{}</td><td>{}</td><td>{}<br>{}<br>{}</td><td class=\"number\">{}</td><td class=\"number\">{}</td><td class=\"number\">{:.0f}</td>"
                            "<td class=\"number\">{}</td><td>{}</td><td>{}</td></tr>\n",
                            t.number, m_in.linked ? fmt::format("<img src=\"gyre:tool/{}\">", t.number) : silhouette(t.tool), htmlText(t.tool.name),
                            htmlText(shortName(t.tool.cutter)), htmlText(t.tool.holderName), length(t.tool.stickOut, 2), length(t.tool.gaugeLength(), 2),
                            t.tool.spindleSpeed, length(t.tool.feed(), 0), coolantName(t.tool.coolant), htmlText(uses));
        }
        m_out += "</table>\n";
    }

    /// How far each joint goes, in words: "B −12.0 … 35.5°".
    [[nodiscard]] std::string travel(const JointMotion& motion) const {
        std::string out;
        for (std::size_t j = 0; j < motion.joints; ++j) {
            double low = 1e300, high = -1e300;
            for (std::size_t s = 0; s < motion.size(); ++s) {
                low = std::min(low, motion.at(s)[j]);
                high = std::max(high, motion.at(s)[j]);
            }
            if (low > high) continue;
            const Joint& joint = m_in.place->machine->joints[j];
            const bool turns = joint.kind == JointKind::Rotary;
            const auto value = [&](double v) { return turns ? fmt::format("{:.1f}°", degrees(v) + 0.0) : length(v, 1); };
            const std::string from = value(low), to = value(high);
            out += fmt::format("{}{} {}", out.empty() ? "" : "; ", joint.name, from == to ? from : fmt::format("{} … {}", from, to));
        }
        return out;
    }

    [[nodiscard]] std::string atPoints(const PointsSpec& points) const {
        return points.how == AtPoints::ExactStop  ? "<br>exact stop at points"
               : points.how == AtPoints::Smoothed ? "<br>points rounded off within " + length(points.within, 3)
                                                  : std::string();
    }
    void operations() {
        m_out += "<h2>Operations</h2><table cellpadding=\"5\"><tr><th></th><th>Operation</th><th>Tool</th><th class=\"number\">Time</th><th>The machine's joints "
                 "go</th></tr>\n";
        double seconds = 0.0;
        for (std::size_t i = 0; i < m_post.operations.size(); ++i) {
            const PostOperation& o = m_post.operations[i];
            const bool whole = o.result->complete();
            if (whole) seconds += secondsOf(*o.result);
            m_out +=
                fmt::format("<tr><td>{}</td><td>{}</td><td>T{}</td><td class=\"number\">{}</td><td>{}</td></tr>\n", i + 1, htmlText(o.name) + atPoints(o.result->points),
                            o.toolNumber, whole ? clockText(secondsOf(*o.result)) : "no path", whole ? htmlText(travel(*o.result->motion)) : "");
        }
        const TimeSpent spent = timeSpent(m_post);
        const auto more = [&](const std::string& what, double time) {
            m_out += fmt::format("<tr><td></td><td>{}</td><td></td><td class=\"number\">{}</td><td></td></tr>\n", what, clockText(time));
        };
        if (spent.changing > 0.0) more(fmt::format("{} tool changes", spent.changes), spent.changing);
        if (spent.clamping > 0.0) more(fmt::format("{} times a joint is clamped or let go", spent.clampings), spent.clamping);
        more(spent.changing > 0.0 ? "All" : "All, without tool changes", seconds + spent.changing + spent.clamping);
        m_out += fmt::format("</table><p>Of it {}.</p>\n", htmlText(wordsOf(spent, *m_post.machine)));
    }

    void looks() {
        std::string rows;
        for (const Finding& f : m_in.findings)
            if (f.rank != Rank::Note)
                rows += fmt::format("<tr><td{}>{}</td><td>{}</td><td>{}<br>{}</td></tr>\n", f.rank == Rank::Stop ? " class=\"stop\"" : "", rankName(f.rank),
                                    htmlText(nameOf(f.operation)), htmlText(f.text), htmlText(f.reason));
        if (!rows.empty()) m_out += "<h2>What to look at</h2><table cellpadding=\"5\">\n" + rows + "</table>\n";
    }

    void origin() {
        m_out += "<h2>Made from</h2><table cellpadding=\"5\">\n";
        for (const auto& [name, text] : m_in.programs)
            fact("Program", fmt::format("{}, {} lines, checksum {}", name, std::count(text.begin(), text.end(), '\n'), checksum(text)));
        if (m_in.programs.empty()) fact("Program", "none is written yet");
        fact("Job", fmt::format("checksum {}", checksum(jobToJson(m_in.job))));
        m_out += "</table><p>Checksums are those of the command cksum.</p>\n";
    }

    const SetupSheetInput& m_in;
    PostInput m_post;
    std::string m_out;
};

std::string field(const std::string& text) {
    if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + '"';
}

} // namespace

std::vector<SetupTool> setupTools(const SetupSheetInput& input) {
    std::vector<SetupTool> out;
    for (const PostOperation& o : postInputOf(input.job, input.place, input.operations).operations) {
        auto at = std::find_if(out.begin(), out.end(), [&](const SetupTool& t) { return t.number == o.toolNumber; });
        if (at == out.end()) at = out.insert(at, {o.toolNumber, o.result->tool, {}});
        at->operations.push_back(o.name);
    }
    std::sort(out.begin(), out.end(), [](const SetupTool& a, const SetupTool& b) { return a.number < b.number; });
    return out;
}

std::string setupSheet(const SetupSheetInput& input) { return Page(input).text(); }

std::string toolList(const SetupSheetInput& input) {
    std::string out =
        "number,id,name,shape,diameter,corner radius,flutes,flute length,stick-out,gauge length,holder,spindle speed,feed per tooth,feed,coolant,operations\r\n";
    for (const SetupTool& t : setupTools(input)) {
        const Assembly& a = t.tool;
        std::string uses;
        for (const std::string& o : t.operations) uses += (uses.empty() ? "" : "; ") + o;
        out += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\r\n", t.number, field(a.id), field(a.name), cutterShapeName(a.cutter.shape),
                           a.cutter.diameter, a.cutter.cornerRadius, a.cutter.flutes, a.cutter.fluteLength, a.stickOut, a.gaugeLength(), field(a.holderName),
                           a.spindleSpeed, a.feedPerTooth, a.feed(), coolantName(a.coolant), field(uses));
    }
    return out;
}

// The cyclic redundancy check of ISO 8802-3, over the bytes and then over their number.
std::string checksum(std::string_view bytes) {
    std::uint32_t sum = 0;
    const auto add = [&](std::uint32_t byte) {
        sum ^= byte << 24;
        for (int k = 0; k < 8; ++k) sum = (sum << 1) ^ (sum & 0x80000000u ? 0x04C11DB7u : 0u);
    };
    for (const char c : bytes) add(static_cast<unsigned char>(c));
    for (std::size_t n = bytes.size(); n > 0; n >>= 8) add(static_cast<std::uint32_t>(n & 0xffu));
    return fmt::format("{} {}", ~sum, bytes.size());
}

} // namespace gyre
