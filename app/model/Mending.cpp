#include "model/Mending.h"
#include "model/Picks.h"
#include "operation/OperationResult.h"
#include "target/TargetSpec.h"
#include <algorithm>

namespace gyre {

namespace {
template <class Refs> void toggle(Refs& refs, const std::vector<int>& picked, const auto& indexOf, const auto& refOf) {
    std::vector<int> now;
    for (const auto& r : refs)
        if (const auto i = indexOf(r)) now.push_back(*i);
    const bool all = std::all_of(picked.begin(), picked.end(), [&](int i) { return std::find(now.begin(), now.end(), i) != now.end(); });
    for (const int i : picked) {
        std::erase(now, i);
        if (!all) now.push_back(i);
    }
    refs.clear();
    for (const int i : now) refs.push_back(refOf(i));
}
} // namespace

void Mending::add(MendKind kind) {
    if (!hasJob()) return;
    const std::size_t at = job().mends.size();
    change(tr("add mend"), [&](Job& j) {
        Mend m;
        m.kind = kind;
        m.name = j.freshMendName(kind);
        j.mends.push_back(m);
    });
    m_lit = static_cast<int>(at);
    emit m_model.featuresChanged();
    // Straight on to what it needs first.
    const MendForm& form = formOf(kind);
    if (form.asks("first"))
        m_model.picks().ask({PickKind::Edges, QString("mend.%1.first").arg(at), tr("Click the edges of the first curve · Esc when done")});
    else if (form.asks("spots"))
        m_model.picks().ask({PickKind::Points, QString("mend.%1.spots").arg(at), tr("Click along the part; the curve runs through the points · Esc when done")});
    else if (form.asks("faces"))
        m_model.picks().ask({PickKind::Faces, QString("mend.%1.faces").arg(at), tr("Click the faces · Esc when done")});
}

void Mending::keepRow() {
    const auto result = m_model.result();
    const Recipe* recipe = m_model.recipe();
    if (!recipe || !result || !result->path() || result->path()->empty()) return tell(tr("There is no row to keep: choose an operation with a path."));
    const Toolpath& path = *result->path();
    const std::size_t at = std::min(m_model.location(), path.size() - 1);
    if (path.motion[at] != Motion::Cut || !(path.normal[at].norm() > 0.5)) return tell(tr("The tool cuts no row here: drag the playhead onto one."));
    std::size_t first = at, last = at;
    const auto same = [&](std::size_t i) { return path.motion[i] == Motion::Cut && path.row[i] == path.row[at]; };
    while (first > 0 && same(first - 1)) --first;
    while (last + 1 < path.size() && same(last + 1)) ++last;
    std::vector<std::array<double, 3>> points;
    for (std::size_t i = first; i <= last; ++i) {
        const Vec3 p = path.contact[i] - recipe->target->leave * path.normal[i];
        points.push_back({p.x(), p.y(), p.z()});
    }
    constexpr std::size_t kMostPoints = 2000; // of a mend
    if (points.size() < 2) return tell(tr("The row is a single point here."));
    if (points.size() > kMostPoints) return tell(tr("The row has %1 points; a curve may have %2. Let its points be coarser.").arg(points.size()).arg(kMostPoints));
    const auto distance = [](const std::array<double, 3>& a, const std::array<double, 3>& b) { return std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]); };
    const bool closed = points.size() > 3 && distance(points.front(), points.back()) < 1e-4;
    if (closed) points.pop_back();
    const std::size_t number = job().mends.size();
    change(tr("keep a row as a curve"), [&](Job& j) {
        Mend m;
        m.kind = MendKind::Drawn;
        m.name = j.freshMendName(MendKind::Drawn);
        m.points = points;
        m.numbers = {{"shape", 1}, {"ends", closed ? 1.0 : 0.0}};
        j.mends.push_back(m);
    });
    m_lit = static_cast<int>(number);
    emit m_model.featuresChanged();
    tell(tr("Kept as “%1”, in Set up among the mends.").arg(QString::fromStdString(job().mends.back().name)));
}

void Mending::remove(std::size_t mend) {
    if (!hasJob() || mend >= job().mends.size()) return;
    change(tr("remove mend"), [&](Job& j) { j.mends.erase(j.mends.begin() + static_cast<std::ptrdiff_t>(mend)); });
    m_lit = -1;
    m_model.picks().setMode(PickMode::None);
    emit m_model.featuresChanged();
}

void Mending::setNumber(std::size_t mend, const QString& key, double value) {
    if (!hasJob() || mend >= job().mends.size()) return;
    const MendField* f = formOf(job().mends[mend].kind).field(key.toStdString());
    if (!f || !std::isfinite(value)) return;
    const double low = f->type == MendField::Type::Choice ? 0.0 : f->low,
                 high = f->type == MendField::Type::Choice ? static_cast<double>(f->options.size() - 1) : f->high;
    if (value < low || value > high) {
        tell(tr("%1 must lie between %2 and %3.").arg(QString::fromUtf8(f->label)).arg(low).arg(high));
        return emit m_model.featuresChanged(); // the word shows what it was before
    }
    change(
        tr("change mend"), [&](Job& j) { j.mends[mend].numbers[key.toStdString()] = value; }, QString("mend.%1.%2").arg(mend).arg(key));
    emit m_model.featuresChanged();
}

void Mending::addPoint(std::size_t mend, const Vec3& point) {
    if (!hasJob() || mend >= job().mends.size()) return;
    change(tr("set point"), [&](Job& j) { j.mends[mend].points.push_back({point.x(), point.y(), point.z()}); });
    emit m_model.featuresChanged();
}

void Mending::setCurve(std::size_t mend, const QString& which, const QString& curve) {
    if (!hasJob() || mend >= job().mends.size()) return;
    change(tr("choose curve"), [&](Job& j) {
        MendSource& s = which == "first" ? j.mends[mend].first : j.mends[mend].second;
        s.curve = curve.toStdString();
        s.edges.clear();
    });
    emit m_model.featuresChanged();
}

Status Mending::setPicks(std::size_t mend, const QString& which, const QString& numbers) {
    if (!place() || !place()->part || mend >= job().mends.size()) return fail("the part is not open yet");
    const Part& part = *place()->part;
    const auto list = which == "drop"    ? numbersOf(numbers, 100000, "point")
                      : which == "faces" ? numbersOf(numbers, part.faces().size(), "face")
                                         : numbersOf(numbers, part.edges().size(), "edge");
    if (!list) {
        tell(list.error());
        emit m_model.featuresChanged();
        return tl::unexpected(list.error());
    }
    change(tr("choose by number"), [&](Job& j) {
        Mend& m = j.mends[mend];
        if (which == "drop") {
            m.drop = *list;
        } else if (which == "faces") {
            m.faces.clear();
            for (const int f : *list) m.faces.push_back(part.faceRef(f));
        } else {
            MendSource& s = which == "first" ? m.first : m.second;
            s = {};
            for (const int e : *list) s.edges.push_back(part.edgeRef(e));
        }
    });
    emit m_model.featuresChanged();
    return {};
}

Status Mending::setPoints(std::size_t mend, const QString& text) {
    if (!hasJob() || mend >= job().mends.size()) return fail("there is no such mend");
    const auto points = sketchPoints(text.toStdString());
    if (!points) {
        tell(points.error());
        emit m_model.featuresChanged();
        return tl::unexpected(points.error());
    }
    change(tr("change sketch"), [&](Job& j) { j.mends[mend].points = *points; });
    emit m_model.featuresChanged();
    return {};
}

// Results belong to the list they were made from; while a longer one is computed the new lines have none yet.
QString Mending::trouble(std::size_t mend) const {
    if (!place() || !place()->mends || mend >= place()->mends->size()) return {};
    return QString::fromStdString((*place()->mends)[mend].trouble);
}

QString Mending::facts(std::size_t mend) const {
    if (!place() || !place()->mends || mend >= place()->mends->size()) return {};
    return QString::fromStdString((*place()->mends)[mend].facts);
}

QStringList Mending::curvesFor(std::size_t mend) const {
    QStringList out;
    if (!hasJob()) return out;
    for (const JobBody& b : job().bodies)
        if (b.role == "drawing") out << QString::fromStdString(b.name);
    for (std::size_t i = 0; i < std::min(mend, job().mends.size()); ++i)
        if (job().mends[i].kind != MendKind::FreedFace) out << QString::fromStdString(job().mends[i].name);
    return out;
}

void Mending::light(int mend) {
    if (mend == m_lit) return;
    m_lit = mend;
    emit m_model.featuresChanged();
}

std::vector<int> Mending::litFaces() const {
    if (m_lit < 0 || !place() || !place()->part || static_cast<std::size_t>(m_lit) >= job().mends.size()) return {};
    std::vector<int> out;
    for (const ShapeRef& r : job().mends[static_cast<std::size_t>(m_lit)].faces)
        if (const auto f = place()->part->findFace(r)) out.push_back(*f);
    return out;
}

std::vector<int> Mending::litEdges() const {
    std::vector<int> out = m_model.picks().edges();
    if (m_lit < 0 || !place() || !place()->part || static_cast<std::size_t>(m_lit) >= job().mends.size()) return out;
    const Mend& m = job().mends[static_cast<std::size_t>(m_lit)];
    for (const auto* s : {&m.first, &m.second})
        for (const ShapeRef& r : s->edges)
            if (const auto e = place()->part->findEdge(r)) out.push_back(*e);
    return out;
}

// A line that a mend above made is taken by its name, which outlives its shape.
QString Mending::curveOfLine(std::size_t mend, int line) const {
    if (!place()->mends) return {};
    int at = static_cast<int>(place()->part->edges().size());
    for (std::size_t k = place()->mends->size(); k-- > 0;)
        for (std::size_t c = (*place()->mends)[k].curves.size(); c-- > 0;)
            if (--at == line && k < mend)
                return QString::fromStdString(job().mends[k].name) + ((*place()->mends)[k].curves.size() > 1 ? QString("/%1").arg(c + 1) : QString());
    return {};
}

void Mending::give(std::size_t mend, const QString& which, const std::vector<int>& faces, const std::vector<int>& edges, const Vec3& point) {
    const Part& part = *place()->part;
    if (which == "spots") {
        addPoint(mend, point);
    } else if (which == "faces" && !faces.empty()) {
        change(tr("pick faces"), [&](Job& j) {
            toggle(
                j.mends[mend].faces, faces, [&](const ShapeRef& r) { return part.findFace(r); }, [&](int f) { return part.faceRef(f); });
        });
    } else if (!edges.empty()) {
        if (const QString curve = curveOfLine(mend, edges[0]); !curve.isEmpty()) return setCurve(mend, which, curve);
        change(tr("pick edges"), [&](Job& j) {
            MendSource& s = which == "first" ? j.mends[mend].first : j.mends[mend].second;
            s.curve.clear();
            toggle(
                s.edges, edges, [&](const ShapeRef& r) { return part.findEdge(r); }, [&](int e) { return part.edgeRef(e); });
        });
    }
}

} // namespace gyre
