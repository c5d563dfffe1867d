#include "operation/Slices.h"
#include "operation/SliceSpec.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace gyre {

std::vector<Slice> slicesOf(const SliceSpec& spec) {
    const double whole = std::abs(spec.from - spec.to), wanted = std::ceil(whole / std::max(spec.thickness, 1e-6) - 1e-9);
    if (wanted > static_cast<double>(kMostSlices)) return {};
    const int count = std::max(1, static_cast<int>(wanted));
    const bool down = spec.from >= spec.to;
    std::vector<Slice> out;
    for (int k = 0; k < count; ++k) {
        Slice s{k, count, spec.axis};
        // Towards the foot each goes on by the overlap.
        const double near = spec.from + (spec.to - spec.from) * k / count, far = spec.from + (spec.to - spec.from) * (k + 1) / count;
        if (k > 0) (down ? s.high : s.low) = near;
        if (k + 1 < count) (down ? s.low : s.high) = far + (down ? -spec.overlap : spec.overlap);
        out.push_back(s);
    }
    return out;
}

namespace {

double heightOf(const Toolpath& path, std::size_t i, int axis) { return path.contact[i][axis]; }

/// From location a on to b, by a share of the way.
void pushBetween(Pass& to, const Pass& pass, std::size_t a, std::size_t b, double share) {
    const Toolpath& p = pass.path;
    const auto mix = [&](const std::vector<Vec3>& v) { return Vec3((1.0 - share) * v[a] + share * v[b]); };
    to.path.push(mix(p.tip), slerp(p.axis[a], p.axis[b], share), mix(p.contact), slerp(p.normal[a], p.normal[b], share), p.motion[b], p.row[b],
                 static_cast<double>(p.feed[b]), p.face[a]);
    to.feedDirection.push_back(slerp(pass.feedDirection[a], pass.feedDirection[b], share));
}

void pushAt(Pass& to, const Pass& pass, std::size_t i) {
    const Toolpath& p = pass.path;
    to.path.push(p.tip[i], p.axis[i], p.contact[i], p.normal[i], p.motion[i], p.row[i], static_cast<double>(p.feed[i]), p.face[i]);
    to.feedDirection.push_back(pass.feedDirection[i]);
}

/// The pieces of a pass within two heights.
std::vector<Pass> cutAt(const Pass& pass, const Slice& slice) {
    const std::size_t n = pass.path.size();
    const auto height = [&](std::size_t i) { return heightOf(pass.path, i, slice.axis); };
    const auto in = [&](std::size_t i) { return height(i) >= slice.low && height(i) <= slice.high; };
    bool all = true, none = true;
    for (std::size_t i = 0; i < n; ++i) (in(i) ? none : all) = false;
    if (all) return {pass};
    std::vector<Pass> out;
    Pass piece;
    const auto begin = [&] {
        piece = {};
        piece.row = pass.row;
        piece.origin = pass.origin;
    };
    const auto flush = [&] {
        double length = 0.0;
        for (std::size_t i = 1; i < piece.path.size(); ++i) length += (piece.path.tip[i] - piece.path.tip[i - 1]).norm();
        constexpr double kShortest = 1e-3; // mm
        if (length > kShortest) out.push_back(std::move(piece));
        begin();
    };
    begin();
    // Where the way from one location to the next crosses a border of the slice, by shares of it.
    for (std::size_t i = 0; i < n; ++i) {
        if (in(i)) pushAt(piece, pass, i);
        if (i + 1 == n) break;
        const double a = height(i), b = height(i + 1);
        std::vector<double> shares;
        for (const double border : {slice.low, slice.high})
            if ((a < border) != (b < border) && std::abs(border) < 1e299) shares.push_back((border - a) / (b - a));
        std::sort(shares.begin(), shares.end());
        bool inside = in(i);
        for (const double share : shares) {
            // On the border itself a location is there already.
            if (share > 1e-9 && share < 1.0 - 1e-9) pushBetween(piece, pass, i, i + 1, share);
            if (inside) flush();
            inside = !inside;
        }
        if (inside != in(i + 1)) inside = in(i + 1); // a border met exactly
        if (!in(i + 1) && !piece.path.empty() && !inside) flush();
    }
    if (!piece.path.empty()) flush();
    // A round goes on from its end to its beginning.
    if (pass.closed && out.size() > 1 && in(0) && in(n - 1)) {
        Pass joined = std::move(out.back());
        out.pop_back();
        const Pass& rest = out.front();
        for (std::size_t i = 1; i < rest.path.size(); ++i) pushAt(joined, rest, i);
        out.front() = std::move(joined);
    }
    return out;
}

/// Does the whole of a pass belong to the slice? By its place furthest from the free end.
bool belongs(const Pass& pass, const Slice& slice, bool upward) {
    if (pass.path.empty()) return false;
    double far = pass.path.contact.front()[slice.axis];
    for (const Vec3& p : pass.path.contact) far = upward ? std::max(far, p[slice.axis]) : std::min(far, p[slice.axis]);
    // What lies on the border of two belongs to the one before.
    constexpr double kHair = 1e-6;
    return upward ? far > slice.low + kHair && far <= slice.high + kHair : far >= slice.low - kHair && far < slice.high - kHair;
}

} // namespace

std::vector<Pass> inSlice(const std::vector<Pass>& passes, const Slice& slice, bool upward) {
    std::vector<Pass> out;
    for (const Pass& pass : passes) {
        if (pass.path.empty()) continue;
        double low = 1e300, high = -1e300;
        for (const Vec3& p : pass.path.contact) {
            low = std::min(low, p[slice.axis]);
            high = std::max(high, p[slice.axis]);
        }
        const bool cutting = std::all_of(pass.path.motion.begin(), pass.path.motion.end(), [](Motion m) { return m == Motion::Cut; });
        constexpr double kLevel = 1e-6; // mm
        if (pass.whole || !cutting || high - low < kLevel) {
            if (belongs(pass, slice, upward)) out.push_back(pass);
            continue;
        }
        for (Pass& piece : cutAt(pass, slice)) out.push_back(std::move(piece));
    }
    // Links and findings know passes by their numbers.
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i].row = static_cast<int>(i);
        std::fill(out[i].path.row.begin(), out[i].path.row.end(), out[i].row);
    }
    return out;
}

std::string sliceId(const std::string& operation, int number) { return fmt::format("{}@{}", operation, number); }

std::string wholeId(const std::string& id) {
    const auto at = id.rfind('@');
    const bool number = at != std::string::npos && at + 1 < id.size() && id.find_first_not_of("0123456789", at + 1) == std::string::npos;
    return number ? id.substr(0, at) : id;
}

} // namespace gyre
