#include "link/Link.h"
#include "base/Units.h"
#include "guard/Guard.h"
#include "link/LinkKinds.h"
#include "link/LinkSpec.h"
#include "link/Ramp.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {

/// The datum turned so that the skin's axis is its Z.
Vec3 upright(const Skin& skin, const Vec3& p) { return skin.axis == 2 ? p : skin.axis == 0 ? Vec3(p.y(), p.z(), p.x()) : Vec3(p.z(), p.x(), p.y()); }
Vec3 back(const Skin& skin, const Vec3& p) { return skin.axis == 2 ? p : skin.axis == 0 ? Vec3(p.z(), p.x(), p.y()) : Vec3(p.y(), p.z(), p.x()); }

std::vector<AxisPose> alongUpright(const SkinForm& skin, const AxisPose& a, const AxisPose& b) {
    const auto [axis, turn] = skin.between(a.tip, b.tip);
    const auto rolled = [&about = axis, &by = turn](double t) { return rotation(about, t * by); };
    const Vec3 endTip = rolled(1.0).transpose() * b.tip, endAxis = rolled(1.0).transpose() * b.axis;
    const double most = std::max(std::abs(turn), angleBetween(a.axis, endAxis));
    const int n = std::max({1, static_cast<int>(std::ceil(most / radians(4.0)))});
    std::vector<AxisPose> poses;
    for (int i = 0; i <= n; ++i) {
        const double t = static_cast<double>(i) / n;
        // In the turning frame both ends lie on the same side of the skin; a straight way between them is short.
        Vec3 tip = (1.0 - t) * a.tip + t * endTip;
        if (skin.keepsRadius) tip *= ((1.0 - t) * a.tip.norm() + t * endTip.norm()) / std::max(1e-9, tip.norm());
        poses.push_back({rolled(t) * tip, (rolled(t) * slerp(a.axis, endAxis, t)).normalized()});
    }
    poses.front() = a;
    poses.back() = b;
    return poses;
}

} // namespace

std::optional<double> wayOut(const Skin& skin, const Vec3& p, const Vec3& a) { return formOf(skin.kind).wayOut(skin.size, upright(skin, p), upright(skin, a)); }

std::vector<AxisPose> alongSkin(const Skin& skin, const AxisPose& a, const AxisPose& b) {
    std::vector<AxisPose> poses = alongUpright(formOf(skin.kind), {upright(skin, a.tip), upright(skin, a.axis)}, {upright(skin, b.tip), upright(skin, b.axis)});
    for (AxisPose& p : poses) p = {back(skin, p.tip), back(skin, p.axis)};
    return poses;
}

namespace {

AxisPose firstOf(const Pass& p) { return {p.path.tip.front(), p.path.axis.front()}; }
AxisPose lastOf(const Pass& p) { return {p.path.tip.back(), p.path.axis.back()}; }

Vec3 normalAt(const Pass& p, bool atEnd) {
    const Vec3& n = atEnd ? p.path.normal.back() : p.path.normal.front();
    return n.squaredNorm() > 0.5 ? n : atEnd ? p.path.axis.back() : p.path.axis.front();
}

class Linker {
public:
    Linker(const Guard& guard, const LinkSpec& spec, const std::optional<Vec3>& pole, double feed, LinkResult& out)
        : m_guard(guard), m_spec(spec), m_pole(pole), m_feed(feed), m_out(out) {}

    void begin(const Pass& pass) { enter(pass, std::nullopt, false); }
    void apart(const Pass& from, const Pass& to, bool split) {
        ++m_out.retracts;
        enter(to, leave(from), split);
    }
    void between(const Pass& from, const Pass& to) {
        if ((firstOf(to).tip - lastOf(from).tip).norm() <= m_spec.smallGap && joined(from, to)) {
            ++m_out.joins;
            return;
        }
        if (m_spec.low && across(from, to)) {
            ++m_out.joins;
            return;
        }
        apart(from, to, false);
    }
    void end(const Pass& pass) { leave(pass); }
    /// Where a closed pass is best entered and left: at its start if the whole arc has room there, else at the nearest place where it has.
    [[nodiscard]] std::size_t roomiest(const Pass& pass) {
        const std::size_t n = pass.path.size() < 2 ? 0 : pass.path.size() - 1;
        if (!pass.closed || n < 8 || !(m_spec.entryRadius > 0.0)) return 0;
        const auto roomy = [&](std::size_t at) {
            const Pass begun = at == 0 ? pass : begunAt(pass, at);
            const auto fits = [&](bool atEnd) {
                for (const Foot& foot : feet(isBeside(begun, atEnd), false)) {
                    if (foot.arc < m_spec.entryRadius) break;
                    std::string why;
                    (void)made(begun, atEnd, foot, why);
                    if (why.empty()) return true;
                }
                return false;
            };
            return fits(false) && fits(true);
        };
        if (roomy(0)) return 0;
        // First beside where the pass before was entered, then further and further round.
        if (m_entered) {
            std::size_t nearest = 0;
            for (std::size_t i = 0; i < n; ++i)
                if ((pass.path.tip[i] - *m_entered).squaredNorm() < (pass.path.tip[nearest] - *m_entered).squaredNorm()) nearest = i;
            if (roomy(nearest)) return nearest;
        }
        const std::vector<double> s = lengthsAlong(pass);
        constexpr int kTries = 40;
        for (int k = 1; k <= kTries; ++k) {
            const double part = 0.5 * static_cast<double>((k + 1) / 2) / (kTries / 2);
            const double at = k % 2 == 1 ? part * s[n] : (1.0 - part) * s[n];
            const auto i = static_cast<std::size_t>(std::lower_bound(s.begin(), s.end(), at) - s.begin()) % n;
            if (!roomy(i)) continue;
            m_entered = pass.path.tip[i];
            complain("entry-moved", passTitle(pass.origin, pass.row) + " begins elsewhere", "where it would begin there is no room for the arc", pass.row,
                     pass.path.tip[0], Rank::Note);
            return i;
        }
        return 0;
    }
    /// A closed pass, begun at another of its locations.
    [[nodiscard]] static Pass begunAt(const Pass& pass, std::size_t at) {
        Pass out = pass;
        std::vector<std::size_t> order;
        const std::size_t n = pass.path.size() - 1;
        for (std::size_t k = 0; k <= n; ++k) order.push_back((at + k) % n);
        out.path = pass.path.taken(order);
        for (std::size_t k = 0; k <= n; ++k) out.feedDirection[k] = pass.feedDirection[order[k]];
        return out;
    }

private:
    [[nodiscard]] bool clear(const std::vector<AxisPose>& way, Contact contact) const {
        for (std::size_t i = 1; i < way.size(); ++i)
            if (m_guard.sweep(way[i - 1], way[i], contact)) return false;
        return true;
    }
    [[nodiscard]] std::string nameOf(const std::vector<AxisPose>& way, Contact contact) const {
        for (std::size_t i = 1; i < way.size(); ++i)
            if (const auto h = m_guard.sweep(way[i - 1], way[i], contact)) return fmt::format("{} and {}", zoneName(h->zone), m_guard.scene()[h->obstacle].called());
        return "the skin";
    }
    void push(const std::vector<AxisPose>& way, Motion motion, int row, double feed) {
        for (std::size_t i = 1; i < way.size(); ++i) {
            const bool there = !m_out.path.empty() && (m_out.path.tip.back() - way[i].tip).norm() < 1e-9 && angleBetween(m_out.path.axis.back(), way[i].axis) < 1e-9;
            if (!there) m_out.path.push(way[i].tip, way[i].axis, motion, row, feed);
        }
    }
    void complain(const char* code, const std::string& text, const std::string& reason, int row, const Vec3& at, Rank rank = Rank::Stop) {
        // One finding for each kind of trouble, with the first place and the number of places.
        for (Finding& known : m_out.findings)
            if (known.code == code) {
                known.amount += 1.0;
                known.reason = fmt::format("{}; {:.0f} places like this", known.reason.substr(0, known.reason.find("; ")), known.amount);
                return;
            }
        Finding f;
        f.rank = rank;
        f.check = Check::Path;
        f.amount = 1.0;
        f.code = code;
        f.stage = "Links";
        f.text = text;
        f.reason = reason;
        f.row = row;
        f.place = {at.x(), at.y(), at.z()};
        m_out.findings.push_back(f);
    }

    // A quarter arc that ends (or begins) tangent to the cut, in the plane of feed and normal; `rise` is how much higher along the axis its
    // outer end lies.
    [[nodiscard]] static std::vector<AxisPose> arc(const Pass& pass, double radius, double rise, bool atEnd) {
        const AxisPose at = atEnd ? lastOf(pass) : firstOf(pass);
        const Vec3 n = normalAt(pass, atEnd);
        const Vec3 along = rejected(atEnd ? pass.feedDirection.back() : Vec3(-pass.feedDirection.front()), n).normalized();
        std::vector<AxisPose> way;
        const int steps = std::clamp(static_cast<int>(std::ceil(std::sqrt(radius / 0.005))), 4, 32);
        for (int i = 0; i <= steps; ++i) {
            const double angle = 0.5 * kPi * i / steps;
            way.push_back({at.tip + radius * (1.0 - std::cos(angle)) * n + radius * std::sin(angle) * along + rise * i / steps * at.axis, at.axis});
        }
        if (!atEnd) std::reverse(way.begin(), way.end());
        return way;
    }

    /// The way between the cut and the skin, from the outside in: rapid, then plunge, then arc.
    struct Approach {
        std::vector<AxisPose> rapid, plunge, arc;
    };
    /// Does the surface stand beside the tool, not under it?
    [[nodiscard]] static bool isBeside(const Pass& pass, bool atEnd) { return towardTool(pass, atEnd) < 0.7; }
    /// Does it run along the tool?
    [[nodiscard]] static bool isAlong(const Pass& pass, bool atEnd) { return std::abs(towardTool(pass, atEnd)) < 0.3; }
    [[nodiscard]] static double towardTool(const Pass& pass, bool atEnd) { return normalAt(pass, atEnd).dot(atEnd ? pass.path.axis.back() : pass.path.axis.front()); }
    /// How far before the cut one comes down, and how one gets to it from there.
    struct Foot {
        double arc = 0.0, straight = 0.0; ///< radius of an arc, or a straight way square to the surface, mm; neither: down on the cut itself
        double rise = 0.0;                ///< of its outer end along the axis, mm: over a floor in front of a wall that leans out
        bool ramp = false;                ///< down along the row itself, falling evenly
    };
    /// All that may be tried, the best first: an arc, a smaller one, and beside a wall from straight before it, or by a ramp along the row, so that
    /// nothing falls down along the finished surface.
    /// @param beside the surface stands beside the tool, not under it
    /// @param along  it runs along the tool: coming down the tool would rub all the way
    [[nodiscard]] std::vector<Foot> feet(bool beside, bool along) const {
        std::vector<Foot> out;
        const double r = m_spec.entryRadius;
        const auto add = [&](const Foot& foot) {
            out.push_back(foot);
            if (beside) out.push_back({foot.arc, foot.straight, 0.3 * std::max(foot.arc, foot.straight), false});
        };
        for (const double share : {1.0, 0.5, 0.25})
            if (share * r > 0.05 || (share == 1.0 && r > 0.0)) add({share * r, 0.0, 0.0, false});
        if (r > 0.0 && beside)
            for (const double off : {0.5, 0.2, 0.08})
                if (off <= r) add({0.0, off, 0.0, false});
        if (r > 0.0 && along) out.push_back({0.0, 0.0, 0.0, true});
        out.push_back({});
        return out;
    }
    [[nodiscard]] Approach made(const Pass& pass, bool atEnd, const Foot& foot, std::string& why) const {
        Approach a;
        const AxisPose cut = atEnd ? lastOf(pass) : firstOf(pass);
        const AxisPose before{cut.tip + foot.straight * normalAt(pass, atEnd) + foot.rise * cut.axis, cut.axis};
        if (foot.ramp) {
            const auto skin = wayOut(m_spec.skin, cut.tip, cut.axis);
            a.arc = skin ? rampAlong(pass, rampHeight(cut, *skin), radians(m_spec.rampDegrees), atEnd) : std::vector<AxisPose>{};
            if (a.arc.empty()) {
                why = "there is no room for a ramp either";
                return a;
            }
            if (!atEnd) std::reverse(a.arc.begin(), a.arc.end());
        } else
            a.arc = foot.arc > 0.0 ? arc(pass, foot.arc, foot.rise, atEnd) : atEnd ? std::vector<AxisPose>{cut, before} : std::vector<AxisPose>{before, cut};
        const AxisPose outer = atEnd ? a.arc.back() : a.arc.front();
        const auto out = wayOut(m_spec.skin, outer.tip, outer.axis);
        if (!out) {
            why = "along this tool axis the skin is never left";
            return a;
        }
        const auto outward = [&](double by) { return AxisPose{outer.tip + by * outer.axis, outer.axis}; };
        const AxisPose far = outward(*out), near = outward(rapidEnd(outward, *out));
        a.plunge = {near, outer};
        a.rapid = {far, near};
        if (atEnd) {
            std::reverse(a.plunge.begin(), a.plunge.end());
            std::reverse(a.rapid.begin(), a.rapid.end());
        }
        if (!clear(a.arc, Contact::Cutting))
            why = "in the arc: " + nameOf(a.arc, Contact::Cutting);
        else if (!clear(a.plunge, Contact::Cutting))
            why = "on the way to the skin: " + nameOf(a.plunge, Contact::Cutting);
        else if (!clear(a.rapid, Contact::Cutting))
            why = "on the way to the skin: " + nameOf(a.rapid, Contact::Cutting);
        else
            why.clear();
        return a;
    }
    Approach approach(const Pass& pass, bool atEnd) {
        std::string why, first;
        Approach a;
        const Vec3 at = (atEnd ? lastOf(pass) : firstOf(pass)).tip;
        const bool beside = isBeside(pass, atEnd);
        for (const Foot& foot : feet(beside, isAlong(pass, atEnd))) {
            a = made(pass, atEnd, foot, why);
            if (!why.empty()) {
                if (first.empty()) first = why;
                continue;
            }
            if (m_spec.entryRadius > 0.0 && !(foot.arc > 0.0))
                complain("arc-left-out", fmt::format("{} is {} without an arc", passTitle(pass.origin, pass.row), atEnd ? "left" : "entered"),
                         fmt::format("{}: {}", first,
                                     foot.straight > 0.0 ? fmt::format("the tool comes down {:.2f} mm before the surface and goes straight in", foot.straight)
                                     : foot.ramp ? fmt::format("the tool {} along the row by a ramp of {:g}°", atEnd ? "goes up" : "comes down", m_spec.rampDegrees)
                                     : beside    ? "the tool comes down along the finished surface"
                                                 : "the tool comes straight down on the surface"),
                         pass.row, at, Rank::Look);
            return a;
        }
        complain(atEnd ? "exit-blocked" : "entry-blocked", fmt::format("No safe {} {}", atEnd ? "way out of" : "way into", passName(pass.origin, pass.row)), why,
                 pass.row, at);
        return a;
    }

    /// How far above the cut nothing is near any more: there a ramp begins.
    [[nodiscard]] double rampHeight(const AxisPose& cut, double out) const {
        return rapidEnd([&](double by) { return AxisPose{cut.tip + by * cut.axis, cut.axis}; }, out);
    }
    /// How far above the entry the rapid to it ends, and above the exit that from it begins. A rapid may come near nothing: beside a leaning
    /// wall it ends higher up than asked for.
    template <class Outward> [[nodiscard]] double rapidEnd(const Outward& outward, double out) const {
        for (const double more : {1.0, 1.5, 2.0, 3.0, 5.0, 8.0, 13.0, 20.0, 35.0}) {
            const double gap = std::min(more * m_spec.approach, out);
            if (!m_guard.hit(outward(gap), Contact::Free)) return gap; // further out there is more room; the way itself is looked at later
            if (gap >= out) break;
        }
        return std::min(m_spec.approach, out);
    }

    std::optional<AxisPose> leave(const Pass& pass) {
        const Approach a = approach(pass, true);
        push(a.arc, Motion::LeadOut, pass.row, m_feed);
        push(a.plunge, Motion::Retract, pass.row, m_feed);
        push(a.rapid, Motion::Retract, pass.row, static_cast<double>(kRapidFeed));
        return a.rapid.empty() ? std::nullopt : std::optional(a.rapid.back());
    }

    void enter(const Pass& pass, const std::optional<AxisPose>& from, bool split) {
        const Approach a = approach(pass, false);
        if (!a.rapid.empty()) {
            const std::size_t before = m_out.path.size();
            if (from) travel(*from, a.rapid.front(), pass);
            // A location of its own where it is entered from, also where it was left right there: the rotaries may have to turn between.
            if (m_out.path.size() == before && (split || !from)) m_out.path.push(a.rapid.front().tip, a.rapid.front().axis, Motion::Rapid, pass.row, 0.0);
        }
        push(a.rapid, Motion::Rapid, pass.row, 0.0);
        push(a.plunge, Motion::Plunge, pass.row, 0.5 * m_feed);
        push(a.arc, Motion::LeadIn, pass.row, 0.6 * m_feed);
    }

    void travel(const AxisPose& from, const AxisPose& to, const Pass& pass) {
        const int row = pass.row;
        for (const double higher : {0.0, 10.0, 25.0, 50.0, 100.0}) {
            const AxisPose a{from.tip + higher * from.axis, from.axis}, b{to.tip + higher * to.axis, to.axis};
            std::vector<AxisPose> way = alongSkin(m_spec.skin, a, b);
            if (higher > 0.0) {
                way.insert(way.begin(), from);
                way.push_back(to);
            }
            if (!clear(way, Contact::Free)) continue;
            push(way, Motion::Rapid, row, 0.0);
            return;
        }
        const auto way = alongSkin(m_spec.skin, from, to);
        complain("travel-blocked", fmt::format("The rapid to {} comes too near to something", passName(pass.origin, pass.row)), nameOf(way, Contact::Free), row,
                 from.tip);
        push(way, Motion::Rapid, row, 0.0);
    }

    bool across(const Pass& from, const Pass& to) {
        const std::vector<AxisPose> way{lastOf(from), firstOf(to)};
        if (angleBetween(way[0].axis, way[1].axis) > 1e-9 || !clear(way, Contact::Free)) return false;
        push(way, Motion::Rapid, to.row, 0.0);
        return true;
    }

    /// Where the turn from a to b passes the pole by a few degrees at most, as a fraction of it.
    [[nodiscard]] std::optional<double> passesPole(const Vec3& a, const Vec3& b) const {
        constexpr double kNear = 0.1; // rad
        if (!m_pole || angleBetween(a, b) < 1e-6) return std::nullopt;
        double best = 0.0, least = kNear;
        for (int i = 1; i < 64; ++i)
            if (const double t = i / 64.0, d = angleBetween(slerp(a, b, t), *m_pole); d < least) {
                least = d;
                best = t;
            }
        // Ends beside the pole need no way over it.
        return least < kNear && best > 0.0 && std::min(angleBetween(a, *m_pole), angleBetween(b, *m_pole)) > least + 1e-6 ? std::optional(best) : std::nullopt;
    }

    bool joined(const Pass& from, const Pass& to) {
        const AxisPose a = lastOf(from), b = firstOf(to);
        const double gap = (b.tip - a.tip).norm();
        const Vec3 up = (normalAt(from, true) + normalAt(to, false)).normalized();
        const Vec3 ta = from.feedDirection.back(), tb = to.feedDirection.front();
        const SmallLinkForm& small = formOf(m_spec.small);
        for (const double rise : {0.0, 0.15, 0.4, 1.0}) {
            std::vector<AxisPose> way;
            if (small.straight && rise == 0.0) {
                way = {a, b};
            } else {
                // A cubic that leaves and arrives along the rows, with a little hill so that the cutter does not rub.
                const double reach = small.reach * gap;
                const int n = 12;
                const auto over = passesPole(a.axis, b.axis);
                int onPole = 0; // the step that stands on it
                for (int i = 1; over && i < n; ++i)
                    if (const auto turned = [&](int k) { return k * k * (3.0 * n - 2.0 * k) / (static_cast<double>(n) * n * n); };
                        std::abs(turned(i) - *over) < std::abs(turned(onPole) - *over))
                        onPole = i;
                const auto axisAt = [&](int i) {
                    const auto eased = [](double t) { return t * t * (3.0 - 2.0 * t); };
                    if (onPole == 0) return slerp(a.axis, b.axis, eased(static_cast<double>(i) / n));
                    if (i == onPole) return *m_pole;
                    return i < onPole ? slerp(a.axis, *m_pole, eased(static_cast<double>(i) / onPole))
                                      : slerp(*m_pole, b.axis, eased(static_cast<double>(i - onPole) / (n - onPole)));
                };
                for (int i = 0; i <= n; ++i) {
                    const double t = static_cast<double>(i) / n, t2 = t * t, t3 = t2 * t;
                    const Vec3 p = (2 * t3 - 3 * t2 + 1) * a.tip + (t3 - 2 * t2 + t) * reach * ta + (3 * t2 - 2 * t3) * b.tip + (t3 - t2) * reach * tb +
                                   16.0 * t2 * (1 - t) * (1 - t) * (rise + 0.02) * gap * up;
                    way.push_back({p, axisAt(i)});
                }
            }
            if (!clear(way, Contact::Cutting)) continue;
            push(way, Motion::Link, to.row, m_feed);
            m_out.path.tip.back() = b.tip;
            return true;
        }
        return false;
    }

    const Guard& m_guard;
    const LinkSpec& m_spec;
    const std::optional<Vec3>& m_pole;
    double m_feed;
    LinkResult& m_out;
    std::optional<Vec3> m_entered; ///< where a closed pass was begun because its own start had no room
};

} // namespace

namespace {

/// Passes as they are to be linked: whole ones, and parts of those that are split. A part begins where the one before it ended.
struct Parts {
    std::vector<Pass> made; ///< parts of split passes, and closed ones that begin elsewhere
    struct Part {
        const Pass* pass;
        std::size_t of, first;
        bool apart;
        std::size_t begun = 0; ///< of closed passes that begin elsewhere: the location they begin with
    };
    std::vector<Part> parts;
};

Parts partsOf(const std::vector<Pass>& passes, const std::vector<Split>& splits) {
    Parts out;
    out.made.reserve(passes.size() + splits.size()); // what is pointed to must stay
    auto next = splits.begin();
    for (std::size_t p = 0; p < passes.size(); ++p) {
        bool apart = false;
        std::size_t from = 0;
        const auto add = [&](std::size_t to) {
            const Pass& whole = passes[p];
            if (from == 0 && to == whole.path.size()) {
                out.parts.push_back({&whole, p, from, apart});
                return;
            }
            Pass part = whole;
            part.closed = false;
            std::vector<char> keep(whole.path.size(), 0);
            std::fill(keep.begin() + static_cast<std::ptrdiff_t>(from), keep.begin() + static_cast<std::ptrdiff_t>(to), char{1});
            part.path.filter(keep);
            part.feedDirection.assign(whole.feedDirection.begin() + static_cast<std::ptrdiff_t>(from), whole.feedDirection.begin() + static_cast<std::ptrdiff_t>(to));
            out.made.push_back(std::move(part));
            out.parts.push_back({&out.made.back(), p, from, apart});
        };
        for (; next != splits.end() && next->pass == p; ++next) {
            if (next->at == 0) {
                apart = true;
            } else if (next->at < passes[p].path.size()) {
                add(next->at);
                from = next->at - 1;
                apart = true;
            }
        }
        add(passes[p].path.size());
    }
    return out;
}

} // namespace

std::size_t LinkResult::locationOf(std::size_t pass, std::size_t at) const {
    std::size_t found = passStart[pass] + at;
    for (const Piece& p : pieces)
        if (p.pass == pass && p.first <= at && at < p.first + p.count) found = p.start + at - p.first;
    return found;
}

std::vector<Split> splitsAt(const LinkResult& links, const std::vector<std::uint32_t>& locations) {
    std::vector<Split> out;
    for (const std::size_t location : locations) {
        const auto next = std::lower_bound(links.pieces.begin(), links.pieces.end(), location, [](const LinkResult::Piece& p, std::size_t l) { return p.start < l; });
        if (next != links.pieces.begin()) {
            const LinkResult::Piece& p = *std::prev(next);
            if (location < p.start + p.count) {
                out.push_back({p.pass, p.first + location - p.start});
                continue;
            }
        }
        if (next != links.pieces.end() && next->first == 0) out.push_back({next->pass, 0}); // on the way to it
    }
    return out;
}

Result<LinkResult> linkPasses(const Guard& guard, const std::vector<Pass>& passes, const LinkSpec& spec, double feed, Progress& progress, const LinkAround& around) {
    LinkResult out;
    if (passes.empty()) return out;
    for (const Pass& p : passes)
        if (p.row >= 0) {
            if (out.origins.size() <= static_cast<std::size_t>(p.row)) out.origins.resize(static_cast<std::size_t>(p.row) + 1);
            out.origins[static_cast<std::size_t>(p.row)] = p.origin;
        }
    Linker linker(guard, spec, around.pole, feed, out);
    Parts all = partsOf(passes, around.splits);
    for (Parts::Part& part : all.parts) {
        if (progress.cancelled()) return cancelledError();
        part.begun = linker.roomiest(*part.pass);
        if (part.begun == 0) continue;
        all.made.push_back(Linker::begunAt(*part.pass, part.begun));
        part.pass = &all.made.back();
    }
    linker.begin(*all.parts.front().pass);
    for (std::size_t i = 0; i < all.parts.size(); ++i) {
        if (progress.cancelled()) return cancelledError();
        progress.report(static_cast<double>(i) / static_cast<double>(all.parts.size()), "Linking rows");
        const Parts::Part& part = all.parts[i];
        if (i > 0 && part.apart)
            linker.apart(*all.parts[i - 1].pass, *part.pass, true);
        else if (i > 0)
            linker.between(*all.parts[i - 1].pass, *part.pass);
        // The last location of a link or lead-in stands where the pass begins: the pass's own one replaces it.
        std::size_t start = out.path.size();
        Toolpath cut = part.pass->path;
        for (std::size_t k = 0; k < cut.size(); ++k)
            if (cut.feed[k] == 0.0f) cut.feed[k] = static_cast<float>(feed); // those that a pass brings are its own: a tap's, half feed into the stock
        if (!out.path.empty() && (out.path.tip.back() - cut.tip.front()).norm() < 1e-9) {
            --start;
            const Motion how = out.path.motion.back();
            const float rate = out.path.feed.back();
            out.path.pop();
            cut.motion.front() = how;
            cut.feed.front() = rate;
        }
        if (part.first == 0) out.passStart.push_back(start);
        if (part.begun > 0) {
            const std::size_t whole = cut.size() - 1;
            out.pieces.push_back({part.of, part.begun, start, whole - part.begun, false});
            out.pieces.push_back({part.of, 0, start + whole - part.begun, part.begun + 1, false});
        } else {
            out.pieces.push_back({part.of, part.first, start, cut.size(), part.first > 0});
        }
        out.path.append(cut);
    }
    linker.end(*all.parts.back().pass);
    out.away.resize(out.path.size());
    for (std::size_t i = 0; i < out.path.size(); ++i) {
        const auto left = wayOut(spec.skin, out.path.tip[i], out.path.axis[i]);
        out.away[i] = left && *left < 1e-6;
    }
    progress.report(1.0, "Linked");
    return out;
}

} // namespace gyre
