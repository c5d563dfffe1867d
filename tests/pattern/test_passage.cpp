// Rows through a passage: two walls, the floor between them, and what stands on it.
#include "Near.h"
#include "Program.h"
#include "Support.h"
#include "base/Units.h"
#include "pattern/Passage.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"
#include <map>
#include <random>
#include <set>

namespace test_passage {

using namespace gyre;
using namespace gyre::test;

namespace {

constexpr double kBorder = 0.06; // mm that rows may tremble at the border of the faces

/// A plate with two walls, and what the passage between them is made of.
struct Plate {
    std::shared_ptr<const Part> part;
    int floor = -1, low = -1, high = -1; ///< the walls at y = −10 and 10
    std::vector<int> between;
    [[nodiscard]] std::vector<int> all() const {
        std::vector<int> out{floor, low, high};
        out.insert(out.end(), between.begin(), between.end());
        return out;
    }
    [[nodiscard]] std::vector<ShapeRef> upper(int face) const {
        std::vector<ShapeRef> out;
        for (const int e : part->faces()[static_cast<std::size_t>(face)].loops.front())
            if (const EdgeInfo& edge = part->edges()[static_cast<std::size_t>(e)]; std::abs(edge.start.z() - edge.end.z()) < 1e-6 && edge.start.z() > 11.0)
                out.push_back(part->edgeRef(e));
        return out;
    }
    [[nodiscard]] PatternSpec spec(double spacing) const {
        PatternSpec s;
        s.kind = PatternBy::Passage;
        s.spacing = spacing;
        s.order = RowOrder::OneWay;
        s.rail1 = upper(low);
        s.rail2 = upper(high);
        for (const int f : between)
            for (const ShapeRef& e : upper(f)) s.guides.push_back(e);
        return s;
    }
};

Plate plate(const std::filesystem::path& dir, double lean, double from, bool withBetween = true) {
    Plate out;
    out.part = openPart(passageOnPlate(dir, lean, from));
    double floor = 1e300;
    for (int f = 0; f < static_cast<int>(out.part->faces().size()); ++f) {
        const FaceInfo& i = out.part->faces()[static_cast<std::size_t>(f)];
        // The floor between the walls is the least of the plate's upper faces where they run from end to end.
        if (i.normal.z() > 0.99 && std::abs(i.centre.z() - 10.0) < 0.01 && i.bounds.low.y() < 0.0 && i.bounds.high.y() > 0.0 && i.area < floor) {
            floor = i.area;
            out.floor = f;
        }
        if (i.centre.z() < 10.5) continue;
        if (i.normal.y() > 0.8 && i.centre.y() < -9.0 && i.centre.y() > -19.0) out.low = f;
        if (i.normal.y() < -0.8 && i.centre.y() > 9.0 && i.centre.y() < 19.0) out.high = f;
        if (withBetween && std::abs(i.normal.y()) > 0.99 && std::abs(i.centre.y()) < 1.5) out.between.push_back(f);
    }
    return out;
}

PatternResult lay(const Plate& p, const PatternSpec& spec, const std::vector<int>& faces) {
    Progress progress;
    auto r = layRows(*p.part, faces, spec, 2.0, progress);
    if (!r) qFatal("%s", r.error().text().c_str());
    return *r;
}

std::string refused(const Plate& p, const PatternSpec& spec, const std::vector<int>& faces) {
    Progress progress;
    const auto r = layRows(*p.part, faces, spec, 2.0, progress);
    return r ? std::string() : r.error().text();
}

/// The furthest that any of some places lies from the rows, and where.
std::pair<double, Vec3> furthest(const PatternResult& rows, const std::vector<Vec3>& places) {
    std::vector<PolylineDistance> lines;
    for (const Row& row : rows.rows) lines.emplace_back(row.points);
    std::pair<double, Vec3> out{0.0, Vec3::Zero()};
    for (const Vec3& p : places) {
        double d = 1e300;
        for (const auto& line : lines) d = std::min(d, line.distance(p, d));
        if (d > out.first) out = {d, p};
    }
    return out;
}

} // namespace

class TestPassage : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }

private slots:
    // Every place of walls, floor and what stands between lies within half a step of a row, and none lies beside the passage; whether the floor goes on beyond
    // the walls or ends with them. Places are random.
    void rowsCoverThePassageAndNothingElse() {
        const unsigned seed = std::random_device{}();
        qInfo("seed %u", seed);
        std::mt19937 random(seed);
        for (const double from : {0.0, 10.0})
            for (const double lean : {0.0, 12.0}) {
                const Plate p = plate(dir(), lean, from);
                QVERIFY(p.floor >= 0 && p.low >= 0 && p.high >= 0 && p.between.size() == 2);
                constexpr double kStep = 1.0;
                const PatternResult rows = lay(p, p.spec(kStep), p.all());
                const double back = std::tan(radians(lean));
                const auto somewhere = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
                std::vector<Vec3> places;
                for (int i = 0; i < 4000; ++i) {
                    const double x = somewhere(0.0, 80.0), y = somewhere(-10.0, 10.0), z = somewhere(10.0, 25.0), along = somewhere(from, 80.0 - from);
                    if (std::abs(y) > 1.0 || x < 35.0 || x > 60.0) places.emplace_back(x, y, 10.0);
                    places.emplace_back(along, (i % 2 == 0 ? 1.0 : -1.0) * (10.0 + back * (z - 10.0)), z);
                    if (z < 18.0) places.emplace_back(somewhere(35.0, 60.0), i % 2 == 0 ? 1.0 : -1.0, z);
                }
                const auto [far, at] = furthest(rows, places);
                QVERIFY2(far <= 0.505 * kStep + 0.01,
                         qPrintable(QString("from %1 lean %2: %3 at %4 %5 %6").arg(from).arg(lean).arg(far).arg(at.x()).arg(at.y()).arg(at.z())));
                QVERIFY2(rows.widestGap <= 1.01 * kStep, qPrintable(QString::number(rows.widestGap)));
                double cut = 0.0;
                for (const Row& row : rows.rows) {
                    cut += length(row.points);
                    for (std::size_t i = 0; i < row.points.size(); ++i) {
                        const Vec3& q = row.points[i];
                        QVERIFY2(std::abs(q.y()) <= 10.0 + back * (q.z() - 10.0) + 1e-6, qPrintable(QString("%1 %2 %3").arg(q.x()).arg(q.y()).arg(q.z())));
                        QVERIFY2(q.z() > 10.0 - 1e-6 && (q.z() > 10.0 + 1e-6 || !(std::abs(q.y()) < 1.0 - kBorder && q.x() > 35.0 + kBorder && q.x() < 60.0 - kBorder)),
                                 qPrintable(QString("row %1 level %2 at %3 %4 %5").arg(row.index).arg(row.level).arg(q.x()).arg(q.y()).arg(q.z())));
                    }
                }
                // Not much more than it takes.
                const double needed = (2.0 * 15.0 / std::cos(radians(lean)) * (80.0 - 2.0 * from) + 80.0 * 20.0 - 50.0 + 2.0 * 8.0 * 25.0) / kStep;
                QVERIFY2(cut < 1.15 * needed, qPrintable(QString("%1 for %2").arg(cut).arg(needed)));
            }
    }
    // From the upper edge of one wall down, over the floor, up and down what stands between, and up the other wall, all running the same way; rows begin half a step
    // from the corners at the foot, on the upper edges themselves. On plane walls the heights are known.
    void theyRunInOneSequence() {
        const Plate p = plate(dir(), 0.0, 0.0);
        const PatternResult rows = lay(p, p.spec(1.0), p.all());
        std::map<int, Vec3> middle; // of each number
        std::map<int, int> count;
        for (const Row& row : rows.rows) {
            QVERIFY2((row.points.back() - row.points.front()).x() * (rows.rows.front().points.back() - rows.rows.front().points.front()).x() > 0.0,
                     qPrintable(QString::number(row.index)));
            if (!middle.count(row.index)) middle[row.index] = Vec3::Zero();
            const std::vector<double> along = arcLengths(row.points);
            middle[row.index] += pointAtLength(row.points, along, 0.5 * along.back());
            ++count[row.index];
        }
        std::vector<double> down, up, over;
        for (auto& [number, m] : middle) {
            m /= count[number];
            if (m.y() < -9.99) down.push_back(m.z());
            if (m.y() > 9.99) up.push_back(m.z());
        }
        QVERIFY(near(down.front(), 25.0, 1e-6) && near(up.back(), 25.0, 1e-6));
        const double step = 15.0 / (static_cast<double>(down.size()) - 0.5);
        QVERIFY2(step <= 1.0 && step > 0.9, qPrintable(QString::number(step)));
        for (std::size_t i = 0; i < down.size(); ++i)
            QVERIFY2(near(down[i], 25.0 - step * static_cast<double>(i), 2e-3), qPrintable(QString("%1 %2").arg(i).arg(down[i])));
        QCOMPARE(up.size(), down.size());
        // The numbers go: wall, floor, up what stands there, those that end under it, down on its other side, floor, wall.
        std::string order;
        for (const auto& [number, m] : middle) {
            const char now = m.y() < -9.99 ? 'a' : m.y() > 9.99 ? 'e' : m.z() > 10.01 ? (m.y() < 0.0 ? 'c' : 'd') : 'b';
            if (order.empty() || order.back() != now) order += now;
        }
        QCOMPARE(order, std::string("abcbdbe"));
        // Keys count along the floor's rows: what stands between begins and ends at shares of these.
        int standing = 0;
        for (const Row& row : rows.rows) {
            const double z = row.points.front().z(), y = row.points.front().y();
            if (z > 10.01 && std::abs(y) < 1.1) {
                ++standing;
                const double first = std::min(row.begins, row.ends), last = std::max(row.begins, row.ends);
                QVERIFY2(near(first, 35.0 / 80.0, 0.03) || near(first, 20.0 / 80.0, 0.03), qPrintable(QString::number(first)));
                QVERIFY2(near(last - first, 25.0 / 80.0, 0.03), qPrintable(QString::number(last - first)));
            } else
                QVERIFY(near(std::min(row.begins, row.ends), 0.0, 0.02) && near(std::max(row.begins, row.ends), 1.0, 0.02));
        }
        QVERIFY(standing > 10);
    }
    // Started at the other wall, back and forth, turned round, climbing: as the words say.
    void theyGoByTheWords() {
        const Plate p = plate(dir(), 5.0, 10.0);
        PatternSpec spec = p.spec(2.0);
        const PatternResult plain = lay(p, spec, p.all());
        spec.start = RowStart::Last;
        const PatternResult last = lay(p, spec, p.all());
        QCOMPARE(last.rows.front().index, plain.rows.back().index);
        QVERIFY((last.rows.front().points.front() - plain.rows.back().points.front()).norm() < 1e-9);
        spec = p.spec(2.0);
        spec.order = RowOrder::BackAndForth;
        const PatternResult forth = lay(p, spec, p.all());
        for (std::size_t i = 0; i < forth.rows.size(); ++i) {
            QCOMPARE(forth.rows[i].returning, forth.rows[i].index % 2 != 0);
            QVERIFY(((forth.rows[i].points.front() - plain.rows[i].points.front()).norm() < 1e-9) != forth.rows[i].returning);
        }
        spec = p.spec(2.0);
        spec.reversed = true;
        const PatternResult turned = lay(p, spec, p.all());
        QVERIFY((turned.rows.front().points.front() - plain.rows.front().points.back()).norm() < 1e-9);
        // What keys count along runs the other way too: each end of a row keeps its place on the way. Back and forth changes nothing of that.
        for (std::size_t i = 0; i < plain.rows.size(); ++i) {
            QVERIFY(near(turned.rows[i].begins, 1.0 - plain.rows[i].ends, 1e-12) && near(turned.rows[i].ends, 1.0 - plain.rows[i].begins, 1e-12));
            QVERIFY(near(forth.rows[i].begins, plain.rows[i].begins, 1e-12) && near(forth.rows[i].ends, plain.rows[i].ends, 1e-12));
        }
        // What is cut later stands on the right of a climbing row: on the first wall that is below.
        spec = p.spec(2.0);
        for (const RowCut cut : {RowCut::Climb, RowCut::Conventional}) {
            spec.cut = cut;
            const Row row = lay(p, spec, p.all()).rows.front();
            const Vec3 right = (row.points.back() - row.points.front()).cross(row.normals.front());
            QVERIFY((right.z() < 0.0) == (cut == RowCut::Climb));
        }
        spec.cut = RowCut::AsLaid;
        spec.pieces = true;
        const PatternResult pieces = lay(p, spec, p.all());
        QCOMPARE(pieces.rows.size(), plain.rows.size());
        std::set<std::pair<int, std::size_t>> one, other;
        for (const Row& row : pieces.rows) one.insert({row.index, row.points.size()});
        for (const Row& row : plain.rows) other.insert({row.index, row.points.size()});
        QVERIFY(one == other);
    }
    // Without rails the walls are those that stand on the longest feet.
    void theWallsAreFound() {
        for (const auto& [from, lean] : {std::pair{0.0, 8.0}, {10.0, 8.0}, {0.0, 0.0}, {10.0, 0.0}}) {
            const Plate p = plate(dir(), lean, from);
            const auto found = proposePassage(*p.part, p.all());
            QVERIFY2(found.has_value(), found ? "" : found.error().text().c_str());
            const auto numbers = [&](const std::vector<ShapeRef>& refs) {
                std::set<int> out;
                for (const ShapeRef& r : refs) out.insert(r.index);
                return out;
            };
            const PatternSpec wanted = p.spec(1.0);
            const std::set<int> first(found->first.begin(), found->first.end()), second(found->second.begin(), found->second.end()),
                between(found->between.begin(), found->between.end());
            QVERIFY((first == numbers(wanted.rail1) && second == numbers(wanted.rail2)) || (second == numbers(wanted.rail1) && first == numbers(wanted.rail2)));
            QVERIFY(between == numbers(wanted.guides));
            PatternSpec none = wanted;
            none.rail1.clear();
            none.rail2.clear();
            none.guides.clear();
            QCOMPARE(lay(p, none, p.all()).rows.size(), lay(p, wanted, p.all()).rows.size());
        }
    }
    // Without what stands between the rows run straight through; its foot is a hole then.
    void withoutWhatStandsBetween() {
        const Plate p = plate(dir(), 0.0, 10.0, false);
        const PatternResult rows = lay(p, p.spec(1.0), p.all());
        QVERIFY(rows.widestGap <= 1.01);
        for (const Row& row : rows.rows)
            for (const Vec3& q : row.points) QVERIFY(!(q.z() < 10.0 + 1e-6 && std::abs(q.y()) < 1.0 - kBorder && q.x() > 35.0 + kBorder && q.x() < 60.0 - kBorder));
    }
    void whatIsNoPassageIsRefused() {
        const Plate p = plate(dir(), 0.0, 10.0);
        PatternSpec spec = p.spec(1.0);
        QVERIFY(refused(p, spec, {p.low, p.high}).find("what stands between") != std::string::npos);
        spec.guides.clear();
        QVERIFY(refused(p, spec, {p.low, p.high}).find("no floor") != std::string::npos);
        QVERIFY(refused(p, spec, {p.floor, p.low}).find("none of the picked faces") != std::string::npos);
        spec.rail2.clear();
        QVERIFY(refused(p, spec, p.all()).find("the upper edge of a wall is not picked") != std::string::npos);
        spec = p.spec(1.0);
        spec.rail2 = spec.rail1;
        QVERIFY(refused(p, spec, p.all()).find("both rails lie on") != std::string::npos);
        spec = p.spec(1.0);
        spec.order = RowOrder::Spiral;
        QVERIFY(refused(p, spec, p.all()).find("spiral") != std::string::npos);
        spec = p.spec(1.0);
        spec.by = RowsBy::Count;
        QVERIFY(refused(p, spec, p.all()).find("as many rows as they are wide") != std::string::npos);
        PatternSpec none;
        none.kind = PatternBy::Passage;
        QVERIFY(refused(p, none, {p.floor}).find("no two of the picked faces") != std::string::npos);
        QVERIFY(refused(p, none, {p.floor, p.low}).find("no two of the picked faces") != std::string::npos);
    }
};

GYRE_TEST(TestPassage)

} // namespace test_passage
#include "test_passage.moc"
