// Every pattern on random faces: no row off them, none twice, no place left out, no gap that is not told, no more rows than the distance asks for.
#include "Program.h"
#include "RandomFaces.h"
#include "base/Units.h"
#include "geom/Polyline.h"
#include "pattern/PatternKinds.h"
#include <map>

namespace test_random_faces {

using namespace gyre;

namespace {

/// One pattern on one face, and what was found.
struct Trial {
    const test::RandomFace& face;
    const Part& part;
    PatternSpec spec;
    QString name;
    QStringList faults, mistold;
    void fault(const QString& words) { faults << name + ": " + words; }
};

std::vector<int> rimOf(const Part& part) {
    std::vector<int> rim;
    for (std::size_t e = 0; e < part.edges().size(); ++e)
        if (part.edges()[e].length > 0.5 && part.edgeLine(static_cast<int>(e)).size() > 1) rim.push_back(static_cast<int>(e));
    return rim;
}

// What a user may ask; nothing where the face has no edges for it.
std::optional<PatternSpec> asked(test::Random& random, const Part& part, PatternBy kind) {
    PatternSpec s;
    s.kind = kind;
    s.spacing = random.number(0.4, 1.6);
    s.order = random.integer(0, 3) == 0 ? RowOrder::OneWay : RowOrder::BackAndForth;
    const auto rim = rimOf(part);
    const auto edge = [&] { return part.edgeRef(rim[static_cast<std::size_t>(random.integer(0, static_cast<int>(rim.size()) - 1))]); };
    const Box& box = part.faces()[0].bounds;
    switch (kind) {
    case PatternBy::Rails: {
        if (rim.size() < 4) return std::nullopt;
        const int first = random.integer(0, static_cast<int>(rim.size()) - 1), n = static_cast<int>(rim.size());
        s.rail1 = {part.edgeRef(rim[static_cast<std::size_t>(first)])};
        s.rail2 = {part.edgeRef(rim[static_cast<std::size_t>((first + random.integer(2, n - 2)) % n)])};
        return s;
    }
    case PatternBy::Distance:
        if (rim.empty()) return std::nullopt;
        s.rail1 = {edge()};
        return s;
    case PatternBy::Planes:
        s.along = random.number(-180, 180);
        s.lean = random.integer(0, 2) == 0 ? random.number(-80, 80) : 0.0;
        return s;
    case PatternBy::Rings:
    case PatternBy::Lines:
    case PatternBy::Point:
        s.axis = kind == PatternBy::Lines ? 2 : random.integer(0, 2);
        s.centre = box.low + (box.high - box.low).cwiseProduct(Vec3(random.number(-0.3, 1.3), random.number(-0.3, 1.3), random.number(-0.3, 1.3)));
        return s;
    case PatternBy::Grid:
        s.acrossGrid = random.integer(0, 1) == 1;
        return s;
    default:
        return std::nullopt;
    }
}

// On the surface to a micron; beyond the border by no more than its chords are off.
void rowsLieOnTheFace(Trial& t, const PatternResult& r, test::Random& random) {
    double trimmed = 0.0, off = 0.0;
    for (int i = 0; i < 20; ++i) {
        const Row& row = r.rows[static_cast<std::size_t>(random.integer(0, static_cast<int>(r.rows.size()) - 1))];
        const Vec3& p = row.points[static_cast<std::size_t>(random.integer(0, static_cast<int>(row.points.size()) - 1))];
        const double d = t.face.distance(p);
        trimmed = std::max(trimmed, d);
        off = std::max(off, d < 1e-4 ? d : t.face.surfaceDistance(p));
    }
    if (off > 1e-4) t.fault(QString("%1 mm off the surface").arg(off));
    if (trimmed > 0.12) t.fault(QString("%1 mm beyond the face").arg(trimmed));
}

// Of every place, by brute force over the points of a fine mesh.
void allIsCovered(Trial& t, const PatternResult& r, test::Random& random) {
    std::vector<PolylineDistance> rows, rim;
    for (const Row& row : r.rows) {
        Polyline line = row.points;
        if (row.closed) line.push_back(line.front());
        if (line.size() > 1) rows.emplace_back(line);
    }
    for (const int e : rimOf(t.part)) rim.emplace_back(t.part.edgeLine(e));
    const TriangleMesh& m = t.part.faceMesh(0);
    std::vector<double> upTo;
    double area = 0.0;
    for (std::size_t i = 0; i < m.triangles.size(); ++i) upTo.push_back(area += 0.5 * (m.corner(i, 1) - m.corner(i, 0)).cross(m.corner(i, 2) - m.corner(i, 0)).norm());
    const bool told = std::any_of(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.code == "gap-wide"; });
    int wide = 0, bare = 0;
    double furthest = 0.0, inside = 0.0;
    Vec3 at = Vec3::Zero();
    constexpr int kPlaces = 1500;
    for (int i = 0; i < kPlaces; ++i) {
        const auto k = static_cast<std::size_t>(std::lower_bound(upTo.begin(), upTo.end(), random.number(0, area)) - upTo.begin());
        double a = random.number(0, 1), b = random.number(0, 1);
        if (a + b > 1) a = 1 - a, b = 1 - b;
        const Vec3 p = m.corner(k, 0) + a * (m.corner(k, 1) - m.corner(k, 0)) + b * (m.corner(k, 2) - m.corner(k, 0));
        double d = 1e9, out = 1e9;
        for (const auto& row : rows) d = std::min(d, row.distance(p, d));
        for (const auto& line : rim) out = std::min(out, line.distance(p, out));
        if (d > furthest) {
            furthest = d;
            at = p;
        }
        bare += d > 1.1 * t.spec.spacing + 0.05 ? 1 : 0;
        if (out > 1.1 * t.spec.spacing) {
            inside = std::max(inside, d);
            wide += d > 0.56 * t.spec.spacing + 0.03 ? 1 : 0;
        }
    }
    // Places are looked at in thousands when rows are laid: what is smaller than the room of one may be missed.
    constexpr int kMissed = 3;
    if (bare > kMissed && !told)
        t.fault(QString("%1 of %2 places further than a step from all rows, one by %3 steps at %4 %5 %6; told %7")
                    .arg(bare)
                    .arg(kPlaces)
                    .arg(furthest / t.spec.spacing)
                    .arg(at.x())
                    .arg(at.y())
                    .arg(at.z())
                    .arg(r.widestGap / t.spec.spacing));
    if (wide > kMissed && !told) t.fault(QString("%1 places inside further than half a step, up to %2").arg(wide).arg(inside / t.spec.spacing));
    // A gap that is told is there where it is said to be.
    for (const Finding& f : r.findings) {
        if (f.code != "gap-wide") continue;
        const Vec3 place((*f.place)[0], (*f.place)[1], (*f.place)[2]);
        double d = 1e9;
        for (const auto& row : rows) d = std::min(d, row.distance(place, d));
        if (f.amount > 2.5 * d + 0.1)
            t.mistold << t.name + QString(": told %1 steps, there the nearest row is %2 away").arg(f.amount / t.spec.spacing).arg(d / t.spec.spacing);
    }
}

void noneIsLaidTwice(Trial& t, const PatternResult& r) {
    std::map<std::tuple<long, long, long>, std::vector<std::pair<std::size_t, std::size_t>>> cells;
    const auto cell = [](const Vec3& p) { return std::tuple(std::lround(p.x() / 0.05), std::lround(p.y() / 0.05), std::lround(p.z() / 0.05)); };
    double twice = 0.0;
    for (std::size_t k = 0; k < r.rows.size(); ++k) {
        const Row& row = r.rows[k];
        for (std::size_t i = 1; i < row.points.size(); ++i) {
            const Vec3 mid = 0.5 * (row.points[i] + row.points[i - 1]);
            bool met = false;
            for (const auto& [other, j] : cells[cell(mid)]) {
                const Row& o = r.rows[other];
                if (other != k && distanceToSegment(mid, o.points[j - 1], o.points[j]) < 0.002) met = true;
            }
            if (met) twice += (row.points[i] - row.points[i - 1]).norm();
            cells[cell(mid)].emplace_back(k, i);
        }
    }
    if (twice > 0.002 * r.rowsLength + 0.5) t.fault(QString("%1 mm of rows lie twice, of %2").arg(twice).arg(r.rowsLength));
}

} // namespace

class TestRandomFaces : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;

private slots:
    // A step whose middle lies off the faces, or at a level that is not between the two rows, is no gap.
    void whatIsAStep() {
        RowSource source;
        source.at = [](const Vec3& p) { return RowSource::Place{p.x(), std::abs(p.z())}; };
        QVERIFY(source.leadsAcross({0.2, 0, 0}, {0.4, 0, 0}, 0.2, 0.4));
        QVERIFY(source.leadsAcross({0.2, 0, 0.02}, {0.4, 0, 0.02}, 0.2, 0.4));
        QVERIFY(!source.leadsAcross({0.2, 0, 1}, {0.4, 0, 1}, 0.2, 0.4));
        QVERIFY(!source.leadsAcross({0.2, 0, 0}, {1.4, 0, 0}, 0.2, 0.4));
        QVERIFY(!source.leadsAcross({0.9, 0, 0}, {0.7, 0, 0}, 0.2, 0.4));
    }
    void everyPatternOnEveryFace() {
        test::Random random(2101);
        const int faces = qEnvironmentVariableIsSet("GYRE_FACES") ? qEnvironmentVariableIntValue("GYRE_FACES") : 20;
        const PatternBy kinds[] = {PatternBy::Rails, PatternBy::Planes, PatternBy::Distance, PatternBy::Rings, PatternBy::Lines, PatternBy::Point, PatternBy::Grid};
        int looked = 0, refused = 0;
        QStringList faults, mistold;
        for (int f = 0; f < faces; ++f) {
            const test::RandomFace face(m_dir.path().toStdString(), random, f % test::RandomFace::kKinds);
            const auto part = test::openPart(face.file());
            if (part->faces().size() != 1) {
                faults << QString("face %1 (%2) came in as %3").arg(f).arg(face.what().c_str()).arg(part->faces().size());
                continue;
            }
            for (const PatternBy kind : kinds) {
                const auto spec = asked(random, *part, kind);
                if (!spec) continue;
                Trial t{face, *part, *spec, QString("%1 %2, %3 every %4").arg(f).arg(face.what().c_str()).arg(kindOf(kind).word).arg(spec->spacing), {}, {}};
                Progress progress;
                const auto r = layRows(*part, {0}, *spec, 3.0, progress);
                ++looked;
                if (!r) {
                    ++refused;
                    // Lines towards an axis that the faces meet have none beside each other.
                    if (kind != PatternBy::Lines || r.error().text().find("the axis") == std::string::npos)
                        t.fault("refused: " + QString::fromStdString(r.error().text()));
                } else {
                    rowsLieOnTheFace(t, *r, random);
                    allIsCovered(t, *r, random);
                    if (kind != PatternBy::Rails) noneIsLaidTwice(t, *r); // between rails that come together all rows do
                }
                faults += t.faults;
                mistold += t.mistold;
            }
        }
        for (const QString& s : faults) qInfo("%s", qPrintable(s));
        qInfo("%d patterns on %d faces, %d refused, %lld faults", looked, faces, refused, static_cast<long long>(faults.size()));
        for (const QString& s : mistold) qInfo("%s", qPrintable(s));
        QVERIFY(looked > 5 * faces);
        // Where rows bend by half a turn within less than their samples are apart, a gap may be told that is none.
        QVERIFY(100 * mistold.size() <= 2 * looked);
        QVERIFY(faults.isEmpty());
    }
};

GYRE_TEST(TestRandomFaces)

} // namespace test_random_faces
#include "test_random_faces.moc"
