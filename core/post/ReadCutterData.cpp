// Cutter-location text (ISO 4343) to acts, and what both readers share.
#include "post/ReadLines.h"
#include <charconv>
#include <fmt/format.h>

namespace gyre {

tl::unexpected<Error> badLine(int line, const std::string& what) { return fail(what, fmt::format("line {}", line)); }

std::string printable(std::string_view text) {
    std::string out;
    for (const char c : text) out += c >= 32 && c < 127 ? c : '?';
    return out;
}

Result<double> numberOf(std::string_view text, int line) {
    double v = 0.0;
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (ec != std::errc{} || end != text.data() + text.size() || !(std::abs(v) < 1e9))
        return badLine(line, fmt::format("'{}' is not a number", printable(text.substr(0, 40))));
    return v;
}

namespace {

class CutterDataReader {
public:
    CutterDataReader() {
        m_out.dialect = Dialect::CutterData;
        m_state.feedMode = FeedMode::PerMinute;
    }

    Status line(std::string_view text, int number) {
        m_number = number;
        while (!text.empty() && (text.back() == '\r' || text.back() == ' ')) text.remove_suffix(1);
        if (text.empty()) return {};
        const auto slash = text.find('/');
        const std::string_view word = text.substr(0, slash);
        m_fields.clear();
        if (slash != std::string_view::npos) {
            auto rest = text.substr(slash + 1);
            while (true) {
                const auto comma = rest.find(',');
                m_fields.push_back(rest.substr(0, comma));
                if (comma == std::string_view::npos || m_fields.size() > 32) break;
                rest = rest.substr(comma + 1);
            }
        }
        if (word == "PARTNO" || word == "PPRINT") return {}; // texts for people
        if (m_ended) {
            if (m_out.goesOn == 0) m_out.goesOn = number;
            return {};
        }
        return statement(word);
    }
    Result<Program> take() {
        if (!m_ended) return fail("the program is cut short: FINI is missing");
        return std::move(m_out);
    }

private:
    [[nodiscard]] tl::unexpected<Error> bad(const std::string& what) const { return badLine(m_number, what); }
    [[nodiscard]] Result<double> at(std::size_t i) const {
        if (i >= m_fields.size()) return bad("values are missing");
        return numberOf(m_fields[i], m_number);
    }
    [[nodiscard]] bool is(std::size_t i, std::string_view what) const { return i < m_fields.size() && m_fields[i] == what; }
    [[nodiscard]] Status holds(std::size_t count) const {
        if (m_fields.size() == count) return {};
        return bad(fmt::format("{} values stand here, {} are meant", m_fields.size(), count));
    }
    void add(Act a) {
        a.line = m_number;
        m_out.add(a, m_state);
    }

    Status statement(std::string_view word) {
        if (word == "UNITS") {
            if (!holds(1) || (!is(0, "MM") && !is(0, "INCHES"))) return bad("UNITS/ is followed by MM or INCHES");
            if (m_state.units != 0) return bad("UNITS/ stands twice");
            m_state.units = is(0, "INCHES") ? 20 : 21;
            m_unit = m_state.units == 20 ? 25.4 : 1.0;
            return {};
        }
        if (word == "MULTAX") {
            if (!holds(1) || (!is(0, "ON") && !is(0, "OFF"))) return bad("MULTAX/ is followed by ON or OFF");
            m_state.multax = is(0, "ON");
            return {};
        }
        if (word == "RAPID") {
            if (auto ok = holds(0); !ok) return ok;
            m_rapid = true;
            return {};
        }
        if (word == "FEDRAT") return feed();
        if (word == "LOADTL") return loadTool();
        if (word == "CUTTER") return cutter();
        if (word == "SPINDL") return spindle();
        if (word == "COOLNT") {
            static constexpr std::string_view kWords[] = {"OFF", "FLOOD", "MIST", "THRU"};
            for (int c = 0; c < kCoolants; ++c)
                if (m_fields.size() == 1 && is(0, kWords[c])) {
                    m_state.coolant = static_cast<Coolant>(c);
                    return {};
                }
            return bad("COOLNT/ is followed by FLOOD, MIST, THRU or OFF");
        }
        if (word == "CYCLE") return cycle();
        if (word == "GOTO") return go();
        if (word == "DELAY") {
            const auto s = at(0);
            if (!s) return tl::unexpected(s.error());
            if (!holds(1) || !(*s >= 0.0 && *s <= 3600.0)) return bad("DELAY must be between 0 and 3600 s");
            Act a = m_now;
            a.kind = Act::Kind::Dwell;
            a.seconds = *s;
            add(a);
            return {};
        }
        if (word == "FINI") {
            Act a = m_now;
            a.kind = Act::Kind::End;
            add(a);
            m_ended = true;
            return holds(0);
        }
        return bad(fmt::format("'{}' is not understood", printable(word.substr(0, 40))));
    }

    Status feed() {
        const auto f = at(0);
        if (!f) return tl::unexpected(f.error());
        if (auto ok = holds(2); !ok) return ok;
        if (!(*f > 0.0)) return bad("a feed must be above 0");
        if (!is(1, m_state.units == 20 ? "IPM" : "MMPM")) return bad("the feed's unit is not the program's: MMPM with MM, IPM with INCHES");
        m_feed = *f;
        m_state.feedMode = FeedMode::PerMinute;
        return {};
    }
    Status loadTool() {
        const auto t = at(0);
        if (!t) return tl::unexpected(t.error());
        if (!holds(1) || !(*t >= 0.0 && *t <= 1e6 && *t == std::round(*t))) return bad("LOADTL/ is followed by a whole number");
        m_state.tool = static_cast<int>(*t);
        Act a = m_now;
        a.kind = Act::Kind::ToolChange;
        add(a);
        return {};
    }
    Status cutter() {
        const auto d = at(0), r = at(1);
        if (!d || !r) return tl::unexpected((d ? r : d).error());
        m_state.diameter = *d * m_unit;
        m_state.corner = *r * m_unit;
        return holds(2);
    }
    Status spindle() {
        if (is(0, "OFF")) {
            m_state.turning = Turning::Off;
            return holds(1);
        }
        const auto s = at(0);
        if (!s) return tl::unexpected(s.error());
        if (!holds(3) || !is(1, "RPM") || (!is(2, "CLW") && !is(2, "CCLW"))) return bad("SPINDL/ is followed by a speed, RPM, and CLW or CCLW");
        if (!(*s > 0.0 && *s <= 1e6)) return bad("the speed must be above 0");
        m_state.speed = *s;
        m_state.turning = is(2, "CLW") ? Turning::Clockwise : Turning::Counter;
        return {};
    }
    Status cycle() {
        if (is(0, "OFF")) {
            if (!m_tap) return bad("CYCLE/OFF without a cycle");
            m_tap.reset();
            return holds(1);
        }
        if (!is(0, "TAP") || !is(2, m_state.units == 20 ? "IPR" : "MMPR"))
            return bad("CYCLE/ is followed by TAP, a depth, MMPR (IPR with inches) and a pitch, or by OFF");
        const auto depth = at(1), pitch = at(3);
        if (!depth || !pitch) return tl::unexpected((depth ? pitch : depth).error());
        if (auto ok = holds(4); !ok) return ok;
        if (!(*depth > 0.0) || !(*pitch > 0.0)) return bad("depth and pitch must be above 0");
        m_tap = Tap{*depth * m_unit, *pitch};
        return {};
    }
    Status go() {
        if (auto ok = holds(6); !ok) return ok;
        for (std::size_t k = 0; k < 6; ++k) {
            const auto v = at(k);
            if (!v) return tl::unexpected(v.error());
            if (k < 3)
                m_now.tip[static_cast<Eigen::Index>(k)] = *v * m_unit;
            else
                m_now.axis[static_cast<Eigen::Index>(k - 3)] = *v;
        }
        if (!(std::abs(m_now.axis.norm() - 1.0) < 1e-6)) return bad("the tool axis is not a unit vector");
        Act a = m_now;
        ControlState state = m_state;
        if (m_tap) {
            if (m_rapid) return bad("RAPID before a cycle");
            a.kind = Act::Kind::Cycle;
            a.cycle = Cycle::Tap;
            a.bottom = -m_tap->depth;
            a.feed = m_tap->pitch;
            state.feedMode = FeedMode::PerTurn;
        } else {
            a.rapid = m_rapid;
            if (!m_rapid && !(m_feed > 0.0)) return bad("this move has neither a feed nor RAPID");
            a.feed = m_rapid ? 0.0 : m_feed;
        }
        a.line = m_number;
        m_out.add(a, state);
        m_rapid = false; // RAPID holds for one motion
        return {};
    }

    struct Tap {
        double depth, pitch;
    };
    Program m_out;
    ControlState m_state;
    Act m_now;
    std::vector<std::string_view> m_fields;
    std::optional<Tap> m_tap;
    int m_number = 0;
    double m_unit = 1.0, m_feed = 0.0;
    bool m_rapid = false, m_ended = false;
};

} // namespace

Result<Program> readCutterData(const std::string& text, const PostInput&, const ScriptLines&) { return readLines(text, CutterDataReader()); }

} // namespace gyre
