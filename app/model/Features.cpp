// The model's part in setting up: mends, flankability, picks by number, tools.
#include "base/File.h"
#include "form/Form.h"
#include "model/AppModel.h"
#include "tool/Library.h"
#include <QDir>
#include <QFileInfo>
#include <QSaveFile>
#include <QStandardPaths>
#include <QTextStream>
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

namespace {

/// "3 5 7-9" → 3 5 7 8 9, all below `count`.
Result<std::vector<int>> numbersOf(const QString& text, std::size_t count, const char* what) {
    std::vector<int> out;
    QString clean = text;
    clean.replace(QChar(0x2013), '-').replace(',', ' ').replace(';', ' ');
    for (const QString& word : clean.split(' ', Qt::SkipEmptyParts)) {
        const QStringList ends = word.split('-');
        bool good = ends.size() <= 2, goodEnd = true;
        const int from = ends[0].toInt(&good), to = ends.size() == 2 ? ends[1].toInt(&goodEnd) : from;
        if (!good || !goodEnd || ends.size() > 2 || from > to)
            return fail(fmt::format("'{}' is no number of {}", word.toStdString(), what), {}, "Write numbers like 3 5 7-9");
        if (from < 0 || static_cast<std::size_t>(to) >= count) return fail(fmt::format("there is no {} {}; the part has {}", what, to, count));
        for (int i = from; i <= to; ++i)
            if (std::find(out.begin(), out.end(), i) == out.end()) out.push_back(i);
    }
    return out;
}

QString textOf(std::vector<int> numbers) {
    QStringList words;
    std::sort(numbers.begin(), numbers.end());
    for (std::size_t i = 0; i < numbers.size();) {
        std::size_t k = i;
        while (k + 1 < numbers.size() && numbers[k + 1] == numbers[k] + 1) ++k;
        words << (k > i + 1 ? QString("%1-%2").arg(numbers[i]).arg(numbers[k]) : QString::number(numbers[i]));
        i = k > i + 1 ? k + 1 : i + 1;
    }
    return words.join(' ');
}

std::size_t mendOf(const QString& key) { return key.section('.', 1, 1).toULongLong(); }

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

// ---- mends

void AppModel::addMend(MendKind kind) {
    if (!hasJob()) return;
    const std::size_t at = job().mends.size();
    change(tr("add mend"), [&](Job& j) {
        Mend m;
        m.kind = kind;
        m.name = j.freshMendName(kind);
        j.mends.push_back(m);
    });
    m_litMend = static_cast<int>(at);
    emit featuresChanged();
    // Straight on to what it needs first.
    const MendForm& form = formOf(kind);
    if (form.asks("first"))
        pickFeature({PickKind::Edges, QString("mend.%1.first").arg(at), tr("Click the edges of the first curve · Esc when done")});
    else if (form.asks("spots"))
        pickFeature({PickKind::Points, QString("mend.%1.spots").arg(at), tr("Click along the part; the curve runs through the points · Esc when done")});
    else if (form.asks("faces"))
        pickFeature({PickKind::Faces, QString("mend.%1.faces").arg(at), tr("Click the faces · Esc when done")});
}

void AppModel::removeMend(std::size_t mend) {
    if (!hasJob() || mend >= job().mends.size()) return;
    change(tr("remove mend"), [&](Job& j) { j.mends.erase(j.mends.begin() + static_cast<std::ptrdiff_t>(mend)); });
    m_litMend = -1;
    setPickMode(PickMode::None);
    emit featuresChanged();
}

void AppModel::setMendNumber(std::size_t mend, const QString& key, double value) {
    if (!hasJob() || mend >= job().mends.size()) return;
    const MendField* f = formOf(job().mends[mend].kind).field(key.toStdString());
    if (!f || !std::isfinite(value)) return;
    const double low = f->type == MendField::Type::Choice ? 0.0 : f->low,
                 high = f->type == MendField::Type::Choice ? static_cast<double>(f->options.size() - 1) : f->high;
    if (value < low || value > high) {
        emit toldUser(tr("%1 must lie between %2 and %3.").arg(QString::fromUtf8(f->label)).arg(low).arg(high));
        return emit featuresChanged(); // the word shows what it was before
    }
    change(
        tr("change mend"), [&](Job& j) { j.mends[mend].numbers[key.toStdString()] = value; }, QString("mend.%1.%2").arg(mend).arg(key));
    emit featuresChanged();
}

void AppModel::addMendPoint(std::size_t mend, const Vec3& point) {
    if (!hasJob() || mend >= job().mends.size()) return;
    change(tr("set point"), [&](Job& j) { j.mends[mend].points.push_back({point.x(), point.y(), point.z()}); });
    emit featuresChanged();
}

void AppModel::setMendCurve(std::size_t mend, const QString& which, const QString& curve) {
    if (!hasJob() || mend >= job().mends.size()) return;
    change(tr("choose curve"), [&](Job& j) {
        MendSource& s = which == "first" ? j.mends[mend].first : j.mends[mend].second;
        s.curve = curve.toStdString();
        s.edges.clear();
    });
    emit featuresChanged();
}

Status AppModel::setMendPicks(std::size_t mend, const QString& which, const QString& numbers) {
    if (!m_place || !m_place->part || mend >= job().mends.size()) return fail("the part is not open yet");
    const Part& part = *m_place->part;
    const auto list = which == "drop"    ? numbersOf(numbers, 100000, "point")
                      : which == "faces" ? numbersOf(numbers, part.faces().size(), "face")
                                         : numbersOf(numbers, part.edges().size(), "edge");
    if (!list) {
        emit toldUser(QString::fromStdString(list.error().text()));
        emit featuresChanged();
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
    emit featuresChanged();
    return {};
}

Status AppModel::setMendPoints(std::size_t mend, const QString& text) {
    if (!hasJob() || mend >= job().mends.size()) return fail("there is no such mend");
    const auto points = sketchPoints(text.toStdString());
    if (!points) {
        emit toldUser(QString::fromStdString(points.error().text()));
        emit featuresChanged();
        return tl::unexpected(points.error());
    }
    change(tr("change sketch"), [&](Job& j) { j.mends[mend].points = *points; });
    emit featuresChanged();
    return {};
}

// Results belong to the list they were made from; while a longer one is computed the new lines have none yet.
QString AppModel::mendTrouble(std::size_t mend) const {
    if (!m_place || !m_place->mends || mend >= m_place->mends->size()) return {};
    return QString::fromStdString((*m_place->mends)[mend].trouble);
}

QString AppModel::mendFacts(std::size_t mend) const {
    if (!m_place || !m_place->mends || mend >= m_place->mends->size()) return {};
    return QString::fromStdString((*m_place->mends)[mend].facts);
}

QStringList AppModel::curvesFor(std::size_t mend) const {
    QStringList out;
    if (!hasJob()) return out;
    for (const JobBody& b : job().bodies)
        if (b.role == "drawing") out << QString::fromStdString(b.name);
    for (std::size_t i = 0; i < std::min(mend, job().mends.size()); ++i)
        if (job().mends[i].kind != MendKind::FreedFace) out << QString::fromStdString(job().mends[i].name);
    return out;
}

void AppModel::lightMend(int mend) {
    if (mend == m_litMend) return;
    m_litMend = mend;
    emit featuresChanged();
}

std::vector<int> AppModel::litFaces() const {
    if (m_litMend < 0 || !m_place || !m_place->part || static_cast<std::size_t>(m_litMend) >= job().mends.size()) return {};
    std::vector<int> out;
    for (const ShapeRef& r : job().mends[static_cast<std::size_t>(m_litMend)].faces)
        if (const auto f = m_place->part->findFace(r)) out.push_back(*f);
    return out;
}

std::vector<int> AppModel::litEdges() const {
    std::vector<int> out = m_edges;
    if (m_litMend < 0 || !m_place || !m_place->part || static_cast<std::size_t>(m_litMend) >= job().mends.size()) return out;
    const Mend& m = job().mends[static_cast<std::size_t>(m_litMend)];
    for (const auto* s : {&m.first, &m.second})
        for (const ShapeRef& r : s->edges)
            if (const auto e = m_place->part->findEdge(r)) out.push_back(*e);
    return out;
}

// ---- flankability

double AppModel::flankRadius() const {
    const Assembly* tool = recipe() ? job().tool(recipe()->tool) : !hasJob() || job().tools.empty() ? nullptr : &job().tools.front();
    return tool ? 0.5 * tool->cutter.diameter : 3.0;
}

void AppModel::askFlank(int face) {
    m_flank.reset();
    m_flankFace = -1;
    m_flankWhat.clear();
    if (face >= 0 && m_place && m_place->part) {
        auto answer = flankOf(*m_place->part, face, flankRadius());
        if (answer) {
            m_flank = std::move(*answer);
            m_flankFace = face;
            m_flankWhat = tr("Face %1").arg(face);
        } else {
            emit toldUser(QString::fromStdString(answer.error().text()));
        }
    }
    emit featuresChanged();
}

void AppModel::askFlankBetween(const std::vector<int>& lower, const std::vector<int>& upper) {
    askFlank(-1);
    if (!m_place || !m_place->part) return;
    const Part& part = *m_place->part;
    const auto line = [&](const std::vector<int>& edges) -> Result<Polyline> {
        const auto chain = chainOf(part, edges);
        if (!chain) return tl::unexpected(chain.error());
        return chainLine(part, *chain);
    };
    const auto a = line(lower), b = line(upper);
    const auto answer = !a ? tl::unexpected(a.error()) : !b ? tl::unexpected(b.error()) : flankBetween(*a, alignedWith(*a, *b), flankRadius());
    if (!answer) return emit toldUser(QString::fromStdString(answer.error().text()));
    m_flank = *answer;
    const auto words = [](const std::vector<int>& edges) { return (edges.size() == 1 ? tr("edge %1") : tr("edges %1")).arg(textOf(edges)); };
    m_flankWhat = tr("The surface from %1 to %2").arg(words(lower), words(upper));
    emit featuresChanged();
}

// ---- picking for features

void AppModel::pickFeature(const FeaturePick& pick) {
    const bool same = m_pickMode == PickMode::Feature && m_feature.key == pick.key;
    m_points.clear();
    m_edges.clear();
    if (same) return setPickMode(PickMode::None);
    m_feature = pick;
    if (pick.key.startsWith("mend.")) m_litMend = static_cast<int>(mendOf(pick.key));
    if (m_pickMode == PickMode::Feature)
        emit pickModeChanged();
    else
        setPickMode(PickMode::Feature);
    emit featuresChanged();
}

void AppModel::give(const std::vector<int>& faces, const std::vector<int>& edges, const Vec3& point) {
    if (!m_place || !m_place->part || m_pickMode != PickMode::Feature) return;
    const Part& part = *m_place->part;
    const QString key = m_feature.key;
    const auto made = [&](const Result<WorkPlane>& plane) {
        m_points.clear();
        m_edges.clear();
        if (plane)
            addPlane(*plane);
        else
            emit toldUser(QString::fromStdString(plane.error().text()));
        setPickMode(PickMode::None);
        emit featuresChanged();
    };
    if (key == "plane.points") {
        m_points.push_back(point);
        if (m_points.size() == 3) return made(planeByPoints(m_points[0], m_points[1], m_points[2]));
    } else if (key == "plane.edges") {
        for (const int e : edges)
            if (std::find(m_edges.begin(), m_edges.end(), e) == m_edges.end()) m_edges.push_back(e);
        if (m_edges.size() >= 2) return made(planeByEdges(part, m_edges[0], m_edges[1]));
    } else if (key == "zero") {
        change(tr("place the zero"), [&](Job& j) { j.zero = point; });
        setPickMode(PickMode::None);
    } else if (key == "groove.around") {
        if (!faces.empty()) moveGroove(faces[0]);
    } else if (key == "flank.edges") {
        if (m_edges.empty()) {
            m_edges = edges;
        } else {
            askFlankBetween(std::exchange(m_edges, {}), edges);
        }
    } else if (key == "swarf.sync") {
        m_points.push_back(point);
        if (m_points.size() < 2) return emit featuresChanged();
        const auto line = std::exchange(m_points, {});
        if (recipe()) addSyncLine(line[0], line[1]);
    } else if (key == "holes") {
        toggleHoles(faces);
    } else if (key == "flank") {
        if (!faces.empty()) askFlank(faces[0]);
    } else if (key.startsWith("mend.") && mendOf(key) < job().mends.size()) {
        const std::size_t i = mendOf(key);
        const QString which = key.section('.', 2, 2);
        if (which == "spots") {
            addMendPoint(i, point);
        } else if (which == "faces" && !faces.empty()) {
            change(tr("pick faces"), [&](Job& j) {
                toggle(
                    j.mends[i].faces, faces, [&](const ShapeRef& r) { return part.findFace(r); }, [&](int f) { return part.faceRef(f); });
            });
        } else if (!edges.empty()) {
            // A line that a mend above made is taken by its name, which outlives its shape.
            QString curve;
            int line = static_cast<int>(part.edges().size());
            if (m_place->mends)
                for (std::size_t k = m_place->mends->size(); k-- > 0 && curve.isEmpty();)
                    for (std::size_t c = (*m_place->mends)[k].curves.size(); c-- > 0;)
                        if (--line == edges[0] && k < i)
                            curve = QString::fromStdString(job().mends[k].name) + ((*m_place->mends)[k].curves.size() > 1 ? QString("/%1").arg(c + 1) : QString());
            if (!curve.isEmpty()) {
                setMendCurve(i, which, curve);
            } else {
                change(tr("pick edges"), [&](Job& j) {
                    MendSource& s = which == "first" ? j.mends[i].first : j.mends[i].second;
                    s.curve.clear();
                    toggle(
                        s.edges, edges, [&](const ShapeRef& r) { return part.findEdge(r); }, [&](int e) { return part.edgeRef(e); });
                });
            }
        }
    }
    emit featuresChanged();
}

// ---- picks of the operation by number

Status AppModel::setPicks(const QString& key, const QString& numbers) {
    if (!recipe() || !m_place || !m_place->part) return fail("there is no operation to pick for");
    const Part& part = *m_place->part;
    if (key == "holes") {
        const auto list = numbersOf(numbers, m_place->holes.size(), "hole");
        if (!list) {
            emit toldUser(QString::fromStdString(list.error().text()));
            return tl::unexpected(list.error());
        }
        change(tr("choose holes"), [&](Job& j) {
            auto& refs = j.operation(m_selected.toStdString())->holes;
            refs.clear();
            for (const int i : *list) refs.push_back({m_place->holes[static_cast<std::size_t>(i)].mouth, m_place->holes[static_cast<std::size_t>(i)].diameter()});
        });
        emit featuresChanged();
        return {};
    }
    const bool ofFaces = key == "target.faces" || key == "axis.faces";
    const auto list = ofFaces ? numbersOf(numbers, part.faces().size(), "face") : numbersOf(numbers, part.edges().size(), "edge");
    if (!list) {
        emit toldUser(QString::fromStdString(list.error().text()));
        return tl::unexpected(list.error());
    }
    if (key == "target.edges" || key == "target.profile" || key == "axis.edges" || key == "axis.faces") {
        change(ofFaces ? tr("pick faces") : tr("pick edges"), [&](Job& j) {
            Recipe& r = *j.operation(m_selected.toStdString());
            auto& refs = key == "target.edges" ? r.target.edges : key == "axis.edges" ? r.axis.edges : key == "axis.faces" ? r.axis.faces : r.target.profile;
            refs.clear();
            for (const int i : *list) refs.push_back(ofFaces ? part.faceRef(i) : part.edgeRef(i));
        });
        return {};
    }
    if (key != "target.faces") {
        setRail(key == "pattern.rail1" ? 0 : 1, *list);
        return {};
    }
    const auto now = resolveFaces(part, recipe()->target.faces).value_or(std::vector<int>{});
    std::vector<int> turned; // toggling these makes the list what is wanted
    for (const int f : *list)
        if (std::find(now.begin(), now.end(), f) == now.end()) turned.push_back(f);
    std::vector<int> away;
    for (const int f : now)
        if (std::find(list->begin(), list->end(), f) == list->end()) away.push_back(f);
    if (!turned.empty()) toggleFaces(turned);
    if (!away.empty()) toggleFaces(away);
    return {};
}

QString AppModel::picks(const QString& key) const {
    if (!recipe() || !m_place || !m_place->part) return {};
    const Recipe& r = *recipe();
    if (key == "holes") {
        std::vector<int> list;
        for (std::size_t i = 0; i < m_place->holes.size(); ++i)
            if (works(i)) list.push_back(static_cast<int>(i));
        return textOf(list);
    }
    const bool ofFaces = key == "target.faces" || key == "axis.faces";
    const auto& refs = key == "target.faces"     ? r.target.faces
                       : key == "axis.faces"     ? r.axis.faces
                       : key == "axis.edges"     ? r.axis.edges
                       : key == "pattern.rail1"  ? r.pattern.rail1
                       : key == "target.edges"   ? r.target.edges
                       : key == "target.profile" ? r.target.profile
                                                 : r.pattern.rail2;
    const auto list = ofFaces ? resolveFaces(*m_place->part, refs) : resolveEdges(*m_place->part, refs);
    return list ? textOf(*list) : QString();
}

void AppModel::setSection(const Section& section) {
    m_section = section;
    emit shownChanged();
}

void AppModel::setBodyRole(std::size_t body, const QString& role) {
    change(tr("change role"), [&](Job& j) {
        // There is one part: the body that was it becomes a reference.
        if (role == "part")
            for (JobBody& other : j.bodies)
                if (other.role == "part") other.role = "reference";
        j.bodies[body].role = role.toStdString();
        if (!j.bodies[body].mayMove()) j.bodies[body].moved = j.bodies[body].turned = Vec3::Zero(); // the part is where its file has it
    });
    holdBody(-1);
}

// ---- tools

void AppModel::setAtTools(bool on) {
    if (on == atTools()) return;
    m_atTools = on;
    setPickMode(PickMode::None);
    if (on && m_bench != Bench::SetUp) m_bench = Bench::SetUp;
    emit benchChanged();
    emit toolShownChanged();
}

void AppModel::showTool(const QString& id) {
    if (id == m_shownTool) return;
    m_shownTool = id;
    emit toolShownChanged();
}

Status AppModel::changeTool(const QString& id, const std::function<void(Assembly&)>& edit, const QString& mergeKey) {
    const Assembly* now = hasJob() ? job().tool(id.toStdString()) : nullptr;
    if (!now) return fail("there is no such tool");
    Assembly next = *now;
    edit(next);
    if (const auto ok = validate(next); !ok) {
        emit toldUser(QString::fromStdString(ok.error().text()));
        emit toolShownChanged(); // the words show what they were before
        return ok;
    }
    change(
        tr("change tool"), [&](Job& j) { *j.tool(id.toStdString()) = next; }, mergeKey.isEmpty() ? QString() : id + "/" + mergeKey);
    emit toolShownChanged();
    return {};
}

void AppModel::duplicateTool(const QString& id) {
    const Assembly* from = hasJob() ? job().tool(id.toStdString()) : nullptr;
    if (!from) return;
    Assembly copy = *from;
    for (int i = 2;; ++i) {
        copy.id = fmt::format("{}-{}", from->id, i);
        copy.name = fmt::format("{} ({})", from->name, i);
        if (!job().tool(copy.id)) break;
    }
    change(tr("duplicate tool"), [&](Job& j) { j.tools.push_back(copy); });
    showTool(QString::fromStdString(copy.id));
}

QStringList AppModel::operationsWith(const QString& tool) const {
    QStringList out;
    if (hasJob())
        for (const Recipe& r : job().route)
            if (r.tool == tool.toStdString() || r.mill.after == tool.toStdString()) out << QString::fromStdString(r.name);
    return out;
}

Status AppModel::removeTool(const QString& id) {
    if (const QStringList used = operationsWith(id); !used.isEmpty()) {
        const auto refused = fail(fmt::format("the tool is used by {}", used.join(", ").toStdString()), {}, "Give those operations another tool first");
        emit toldUser(QString::fromStdString(refused.value().text()));
        return refused;
    }
    change(tr("remove tool"), [&](Job& j) { std::erase_if(j.tools, [&](const Assembly& a) { return a.id == id.toStdString(); }); });
    if (m_shownTool == id) showTool(hasJob() && !job().tools.empty() ? QString::fromStdString(job().tools.front().id) : QString());
    return {};
}

Status AppModel::importTools(const QString& file) {
    if (!hasJob()) return fail("there is no job to add tools to");
    const auto text = readFile(file.toStdString(), 64u << 20);
    const auto library = text ? toolLibraryFromJson(*text, QFileInfo(file).fileName().toStdString()) : tl::unexpected(text.error());
    if (!library) {
        emit toldUser(QString::fromStdString(library.error().text()));
        return tl::unexpected(library.error());
    }
    int fresh = 0, known = 0;
    change(tr("import tools"), [&](Job& j) {
        for (const Assembly& a : library->assemblies) {
            const Assembly* old = j.tool(a.id);
            if (old && assemblyForm().same(*old, a)) {
                ++known;
                continue;
            }
            Assembly copy = a;
            for (int i = 2; j.tool(copy.id); ++i) copy.id = fmt::format("{}-{}", a.id, i); // another tool of that name stays as it is
            if (!j.material.empty()) (void)useMaterial(copy, j.material);
            j.tools.push_back(copy);
            ++fresh;
        }
    });
    emit toldUser(tr("%1 tools added, %2 were there already.").arg(fresh).arg(known));
    emit toolShownChanged();
    return {};
}

Status AppModel::exportTools(const QString& file) const {
    if (!hasJob()) return fail("there is no job");
    return writeFileAtomic(file.toStdString(), toolLibraryToJson({job().name + " tools", job().tools}));
}

// ---- files opened lately

namespace {
QString recentFile() { return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/recent.txt"; }
constexpr int kMostRecent = 12;
} // namespace

QStringList AppModel::recentFiles() const {
    QFile f(recentFile());
    QStringList out;
    if (!f.open(QIODevice::ReadOnly | QIODevice::Text)) return out;
    for (const QString& line : QString::fromUtf8(f.read(1 << 20)).split('\n', Qt::SkipEmptyParts))
        if (QFileInfo::exists(line) && !out.contains(line) && out.size() < kMostRecent) out << line;
    return out;
}

void AppModel::remember(const QString& file) {
    QStringList all = recentFiles();
    all.removeAll(file);
    all.prepend(file);
    QDir().mkpath(QFileInfo(recentFile()).absolutePath());
    QSaveFile f(recentFile());
    if (!f.open(QIODevice::WriteOnly)) return; // a convenience only
    f.write(all.mid(0, kMostRecent).join('\n').toUtf8());
    f.commit();
}

} // namespace gyre
