// A route on another part: what it names is found there as what it is for.
#include "Program.h"
#include "Support.h"
#include "axis/AxisSpec.h"
#include "base/File.h"
#include "base/Json.h"
#include "form/Form.h"
#include "operation/RecipeForm.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "proposal/NewJob.h"
#include "session/UseAgain.h"
#include "session/Workshop.h"
#include "target/TargetSpec.h"
#include <QProcess>
#include <fmt/format.h>

namespace test_use_again {

using namespace gyre;
using namespace gyre::test;

class TestUseAgain : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    std::filesystem::path dir() const { return m_dir.path().toStdString(); }
    /// The largest that looks there.
    static int faceAt(const Part& part, const Vec3& normal, double along) {
        int best = -1;
        for (std::size_t f = 0; f < part.faces().size(); ++f) {
            const FaceInfo& face = part.faces()[f];
            if (face.kind == SurfaceKind::Plane && face.normal.dot(normal) > 0.999 && std::abs(face.centre.dot(normal) - along) < 1e-6 &&
                (best < 0 || face.area > part.faces()[static_cast<std::size_t>(best)].area))
                best = static_cast<int>(f);
        }
        return best;
    }
    static int edgeBetween(const Part& part, int a, int b) {
        for (std::size_t e = 0; e < part.edges().size(); ++e) {
            const auto& faces = part.edges()[e].faces;
            if ((faces[0] == a && faces[1] == b) || (faces[0] == b && faces[1] == a)) return static_cast<int>(e);
        }
        return -1;
    }
    static std::vector<Hole> bores(const Part& part) { return findHoles(part); }

    /// Rows over the pocket's floor between two of its edges, all holes, a plane on top, one at a hole and one in the air.
    Job jobOn(const Part& part, const Family& f) {
        Job job;
        Recipe r;
        r.id = "op1";
        r.name = "Floor";
        const int floor = faceAt(part, Vec3::UnitZ(), f.height - f.pocketDepth), front = faceAt(part, Vec3::UnitY(), f.pocketY),
                  back = faceAt(part, -Vec3::UnitY(), -(f.pocketY + f.pocketWidth)), top = faceAt(part, Vec3::UnitZ(), f.height);
        r.target->faces = {part.faceRef(floor)};
        r.pattern->rail1 = {part.edgeRef(edgeBetween(part, floor, front))};
        r.pattern->rail2 = {part.edgeRef(edgeBetween(part, floor, back))};
        r.checks = {{{part.faceRef(front)}, 0.3}};
        Recipe h;
        h.id = "op2";
        h.name = "Bores";
        h.kind = OperationKind::Holes;
        for (const Hole& hole : bores(part)) h.holes.push_back({hole.mouth, hole.diameter(), false});
        job.route = {r, h};
        job.holes = {{bores(part).front().mouth, true, false}};
        const FaceInfo& t = part.faces()[static_cast<std::size_t>(top)];
        WorkPlane onTop, atHole, air;
        onTop.name = "top";
        onTop.origin = t.centre;
        atHole.name = "hole";
        atHole.origin = bores(part)[1].mouth;
        atHole.normal = bores(part)[1].direction;
        air.name = "air";
        air.origin = Vec3(1, 2, f.height + 31.5);
        job.planes = {onTop, atHole, air};
        return job;
    }
    std::shared_ptr<const Part> open(const char* name, const Family& f) { return openPart(familyPart(dir() / name, f)); }

private slots:
    // Every list of faces or edges that any recipe's words hold is looked at: as many as its text has.
    void nothingThatIsNamedIsForgotten() {
        Dice dice(92);
        const auto count = [](const auto& self, const OrderedJson& j) -> std::size_t {
            std::size_t n = 0;
            if (j.is_object() && j.contains("index")) ++n;
            if (j.is_object() || j.is_array())
                for (const auto& item : j) n += self(self, item);
            return n;
        };
        std::size_t all = 0;
        for (int round = 0; round < 60; ++round)
            for (const OperationKind kind : {OperationKind::Surface, OperationKind::Mill, OperationKind::Swarf, OperationKind::Curve, OperationKind::Edge}) {
                Recipe r = recipeForm(kind).random(dice);
                std::size_t seen = 0;
                eachNamed(r, [&](const std::string& word, std::vector<ShapeRef>& named, bool) {
                    for (const ShapeRef& ref : named) seen += ref.index >= 0;
                    QVERIFY2(named.empty() || recipeForm(kind).write(r).dump().find(word.substr(word.rfind('.') + 1)) != std::string::npos, word.c_str());
                });
                const std::size_t written = count(count, recipeForm(kind).write(r));
                QVERIFY2(seen >= written, recipeForm(kind).write(r).dump().c_str());
                all += written;
            }
        QVERIFY(all > 100);
    }
    // On the same part nothing changes, to the letter.
    void onItself() {
        const Family f;
        const auto part = open("self.step", f);
        const Job job = jobOn(*part, f);
        const UsedAgain again = useAgain(job, *part, bores(*part), *part, bores(*part));
        QVERIFY(!again.anything() && again.gone() == 0 && again.match.fresh.empty());
        QCOMPARE(jobToJson(again.job), jobToJson(job));
    }
    // On others of its family: the floor is the floor, its rails are its edges, holes are the holes, planes lie where they belong.
    void onOthers() {
        Random random(93);
        const Family f;
        const auto part = open("was.step", f);
        const Job job = jobOn(*part, f);
        for (int round = 0; round < 25; ++round) {
            Family g;
            g.length = random.number(85, 150);
            g.width = random.number(60, 95);
            g.height = random.number(20, 45);
            g.pocketX = random.number(8, 20);
            g.pocketLength = random.number(25, 45);
            g.pocketDepth = random.number(4, 14);
            g.hole = random.number(4, 8);
            const auto is = open("is.step", g);
            const UsedAgain again = useAgain(job, *part, bores(*part), *is, bores(*is));
            QVERIFY2(again.gone() == 0 && again.anything(), wordsOf(again.match).c_str());
            const Job wanted = jobOn(*is, g);
            const Recipe &r = again.job.route[0], &w = wanted.route[0];
            QCOMPARE(is->findFace(r.target->faces[0]).value(), is->findFace(w.target->faces[0]).value());
            QCOMPARE(is->findEdge(r.pattern->rail1[0]).value(), is->findEdge(w.pattern->rail1[0]).value());
            QCOMPARE(is->findEdge(r.pattern->rail2[0]).value(), is->findEdge(w.pattern->rail2[0]).value());
            QCOMPARE(is->findFace(r.checks[0].faces[0]).value(), is->findFace(w.checks[0].faces[0]).value());
            QCOMPARE(r.checks[0].keepOff, 0.3);
            QCOMPARE(again.job.route[1].holes.size(), std::size_t(4));
            for (std::size_t h = 0; h < 4; ++h) {
                const HoleRef &a = again.job.route[1].holes[h], &b = wanted.route[1].holes[h];
                QVERIFY2((a.mouth - b.mouth).norm() < 1e-6 && std::abs(a.diameter - g.hole) < 1e-6, "hole by hole");
            }
            QVERIFY((again.job.holes[0].mouth - wanted.holes[0].mouth).norm() < 1e-6 && again.job.holes[0].turned);
            QVERIFY((again.job.planes[0].origin - wanted.planes[0].origin).norm() < 1e-6);
            QVERIFY((again.job.planes[1].origin - wanted.planes[1].origin).norm() < 1e-6);
            QVERIFY((again.job.planes[2].origin - job.planes[2].origin).norm() < 1e-12); // numbers alone
        }
    }
    // Other holes than before: all of them were meant, so all of them are; one that was not meant keeps the new ones out.
    void moreAndFewerHoles() {
        Family f, g;
        const auto part = open("four.step", f);
        Job job = jobOn(*part, f);
        g.holes = 6;
        const auto six = open("six.step", g);
        UsedAgain again = useAgain(job, *part, bores(*part), *six, bores(*six));
        const auto& named = again.job.route[1].holes;
        std::set<std::size_t> distinct;
        for (const HoleRef& h : named)
            for (std::size_t k = 0; k < bores(*six).size(); ++k)
                if ((bores(*six)[k].mouth - h.mouth).norm() < 1e-6) distinct.insert(k);
        QCOMPARE(named.size(), std::size_t(6));
        QCOMPARE(distinct.size(), std::size_t(6));
        QCOMPARE(again.gone(), std::size_t(0));
        // Fewer than before are all of them as well.
        const Job onSix = jobOn(*six, g);
        again = useAgain(onSix, *six, bores(*six), *part, bores(*part));
        QCOMPARE(again.job.route[1].holes.size(), std::size_t(4));
        for (const HoleRef& h : again.job.route[1].holes)
            QVERIFY(std::any_of(job.route[1].holes.begin(), job.route[1].holes.end(), [&](const HoleRef& o) { return (o.mouth - h.mouth).norm() < 1e-6; }));
        // Some of them were meant, not all: none is put in their place.
        Job some = job;
        some.route[1].holes.pop_back();
        again = useAgain(some, *part, bores(*part), *six, bores(*six));
        QCOMPARE(again.job.route[1].holes.size(), std::size_t(3));
        for (const Followed& x : again.followed) QVERIFY(x.word != "holes" || x.added == 0);
        job.route[1].holes.pop_back();
        again = useAgain(job, *part, bores(*part), *part, bores(*part));
        QCOMPARE(again.job.route[1].holes.size(), std::size_t(3));
    }
    // A face that is gone stays named, and is told; the rest follows.
    void whatIsGone() {
        Family f;
        f.slot = true;
        const auto part = open("slot.step", f);
        Job job = jobOn(*part, f);
        const int slot = faceAt(*part, Vec3::UnitZ(), f.height - 6);
        QVERIFY(slot >= 0);
        job.route[0].checks.push_back({{part->faceRef(slot)}, 0.2});
        Family g = f;
        g.slot = false;
        g.height = 34;
        const auto is = open("plain.step", g);
        const UsedAgain again = useAgain(job, *part, bores(*part), *is, bores(*is));
        std::string told;
        for (const Followed& x : again.followed) told += x.name + " " + x.word + ": " + wordsOf(x) + "; ";
        QVERIFY2(again.gone() == 1, told.c_str());
        QVERIFY((again.job.route[0].checks[1].faces[0].centre - job.route[0].checks[1].faces[0].centre).norm() < 1e-12);
        QCOMPARE(is->findFace(again.job.route[0].target->faces[0]).value(), faceAt(*is, Vec3::UnitZ(), 34 - f.pocketDepth));
        QVERIFY(!is->findFace(again.job.route[0].checks[1].faces[0]));
        // And again on the job that has followed: nothing more to do but what is gone.
        const UsedAgain twice = useAgain(again.job, *part, bores(*part), *is, bores(*is));
        QCOMPARE(jobToJson(twice.job), jobToJson(again.job));
        QCOMPARE(twice.gone(), std::size_t(1));
    }
    // The command writes a job that opens on the other part; what is gone is its exit code.
    void fromTheCommandLine() {
        Family f, g;
        g.length = 120;
        g.height = 26;
        f.slot = true;
        const auto one = familyPart(dir() / "one.step", f), other = familyPart(dir() / "other.step", g);
        Job job = jobAround(one, GYRE_DEMO_DIR).value();
        const auto part = openPart(one);
        Job named = jobOn(*part, f);
        job.route = named.route;
        job.planes = named.planes;
        const auto saved = saveJob(job, dir() / "one.json");
        QVERIFY2(saved, saved ? "" : saved.error().text().c_str());
        const auto gyre = [&](const QStringList& words) {
            QProcess p;
            p.start(QStringLiteral(GYRE_BIN_DIR "/gyre"), QStringList{"--quiet"} + words);
            p.waitForFinished(-1);
            return std::pair(p.exitCode(), p.readAllStandardOutput() + p.readAllStandardError());
        };
        const auto at = [&](const char* name) { return QString::fromStdString((dir() / name).string()); };
        auto [code, said] = gyre({"use-again", at("one.json"), at("other.step"), "--out", at("other.json")});
        QVERIFY2(code == 0 && said.contains("as before") && said.contains("Floor, target.faces: 1 changed"), said.constData());
        const Job there = openJob(dir() / "other.json").value();
        const auto is = openPart(other);
        QCOMPARE(is->findFace(there.route[0].target->faces[0]).value(), faceAt(*is, Vec3::UnitZ(), g.height - g.pocketDepth));
        job.route[0].checks = {{{part->faceRef(faceAt(*part, Vec3::UnitZ(), f.height - 6))}, 0.2}};
        QVERIFY(saveJob(job, dir() / "one.json").has_value());
        std::tie(code, said) = gyre({"--json", "use-again", at("one.json"), at("other.step"), "--out", at("other.json")});
        QVERIFY2(code == 3 && Json::parse(said.toStdString())["gone"] == 1, said.constData());
        std::tie(code, said) = gyre({"use-again", at("one.json"), at("nowhere.step"), "--out", at("other.json")});
        QVERIFY(code == 2);
        std::tie(code, said) = gyre({"use-again", at("one.json"), at("other.step"), "--out", at("one.step")});
        QVERIFY2(code == 1, said.constData()); // a part is not written over
    }
};

GYRE_TEST(TestUseAgain)

} // namespace test_use_again
#include "test_use_again.moc"
