#include "path/Toolpath.h"

namespace gyre {

const char* motionName(Motion m) {
    switch (m) {
    case Motion::Cut:
        return "cut";
    case Motion::LeadIn:
        return "lead-in";
    case Motion::LeadOut:
        return "lead-out";
    case Motion::Link:
        return "link";
    case Motion::Rapid:
        return "rapid";
    case Motion::Plunge:
        return "plunge";
    case Motion::Retract:
        return "retract";
    }
    return "";
}

void Toolpath::reserve(std::size_t n) {
    tip.reserve(n);
    axis.reserve(n);
    contact.reserve(n);
    normal.reserve(n);
    motion.reserve(n);
    row.reserve(n);
    feed.reserve(n);
    face.reserve(n);
}

void Toolpath::push(const Vec3& tipAt, const Vec3& axisAt, Motion kind, int rowIndex, double feedRate) {
    push(tipAt, axisAt, tipAt, Vec3::Zero(), kind, rowIndex, feedRate, -1);
}

void Toolpath::push(const Vec3& tipAt, const Vec3& axisAt, const Vec3& contactAt, const Vec3& normalAt, Motion kind, int rowIndex, double feedRate, int faceIndex) {
    tip.push_back(tipAt);
    axis.push_back(axisAt);
    contact.push_back(contactAt);
    normal.push_back(normalAt);
    motion.push_back(kind);
    row.push_back(rowIndex);
    feed.push_back(kind == Motion::Rapid ? kRapidFeed : static_cast<float>(feedRate));
    face.push_back(faceIndex);
}

namespace {
template <class Column> void appendColumn(Column& to, const Column& from) { to.insert(to.end(), from.begin(), from.end()); }
template <class Column> void filterColumn(Column& c, const std::vector<char>& keep) {
    std::size_t out = 0;
    for (std::size_t i = 0; i < c.size(); ++i)
        if (keep[i]) c[out++] = c[i];
    c.resize(out);
}
} // namespace

void Toolpath::pop() {
    tip.pop_back();
    axis.pop_back();
    contact.pop_back();
    normal.pop_back();
    motion.pop_back();
    row.pop_back();
    feed.pop_back();
    face.pop_back();
}

void Toolpath::append(const Toolpath& o) {
    appendColumn(tip, o.tip);
    appendColumn(axis, o.axis);
    appendColumn(contact, o.contact);
    appendColumn(normal, o.normal);
    appendColumn(motion, o.motion);
    appendColumn(row, o.row);
    appendColumn(feed, o.feed);
    appendColumn(face, o.face);
}

void Toolpath::filter(const std::vector<char>& keep) {
    filterColumn(tip, keep);
    filterColumn(axis, keep);
    filterColumn(contact, keep);
    filterColumn(normal, keep);
    filterColumn(motion, keep);
    filterColumn(row, keep);
    filterColumn(feed, keep);
    filterColumn(face, keep);
}

Toolpath Toolpath::taken(const std::vector<std::size_t>& order) const {
    Toolpath out;
    const auto take = [&](const auto& column, auto& into) {
        into.reserve(order.size());
        for (const std::size_t i : order) into.push_back(column[i]);
    };
    take(tip, out.tip);
    take(axis, out.axis);
    take(contact, out.contact);
    take(normal, out.normal);
    take(motion, out.motion);
    take(row, out.row);
    take(feed, out.feed);
    take(face, out.face);
    return out;
}

PathLength pathLength(const Toolpath& path) {
    PathLength sum;
    for (std::size_t i = 1; i < path.size(); ++i) {
        const double d = (path.tip[i] - path.tip[i - 1]).norm();
        sum.all += d;
        if (path.motion[i] == Motion::Cut) sum.cutting += d;
    }
    return sum;
}

} // namespace gyre
