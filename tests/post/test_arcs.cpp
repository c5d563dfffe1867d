// Rounds in programs: moves along circles and helices written as arcs, how far those stray, and what is no arc.
#include "Program.h"
#include "Programs.h"
#include "base/Units.h"
#include "operation/OperationResult.h"
#include "post/Arcs.h"
#include "post/Speller.h"
#include <fmt/format.h>

namespace test_arcs {

using namespace gyre;
using namespace gyre::test;

namespace {

constexpr double kWithin = 0.02;

/// Places along a round in the plane square to an axis, behind its beginning: `by` rad in so many moves, rising evenly.
void goRound(std::vector<Step>& steps, int normal, const Vec3& centre, double by, int moves, double rise = 0.0, double feed = 500.0) {
    const Vec3 from = steps.back().tip - centre;
    for (int i = 1; i <= moves; ++i) {
        const double t = static_cast<double>(i) / moves;
        steps.push_back({Motion::Cut, centre + rotation(Vec3::Unit(normal), by * t) * from + rise * t * Vec3::Unit(normal), feed});
    }
}

PostInput along(const std::vector<Step>& steps, double arcs, const char* machine = "heron-5t.machine.json", const Vec3& axis = Vec3::UnitZ()) {
    PostInput in;
    in.jobName = "Golden";
    in.machine = std::make_shared<const Machine>(withoutRamps(demoMachine(machine)));
    in.words.arcs = arcs;
    in.operations.push_back(steadyOperation(*in.machine, "Ring", 1, plainTool("Flat 6", CutterShape::Flat, 6, 8000), axis, steps));
    return in;
}

/// A ring, then a quarter upwards, then straight on.
std::vector<Step> ring() {
    std::vector<Step> steps{{Motion::Rapid, {4, 0, 50}}, {Motion::Plunge, {4, 0, 10}, 250}};
    goRound(steps, 2, {0, 0, 10}, 2.0 * kPi, 36);
    goRound(steps, 1, {4, 0, 14}, -0.5 * kPi, 9);
    steps.push_back({Motion::Cut, {12, 0, 14}, 500});
    steps.push_back({Motion::Retract, {12, 0, 50}});
    return steps;
}

const char* const kRing = R"(%
(GOLDEN)
(HERON 5T - TIP CONTROL)
(MILLIMETRES)
(ARCS KEEP WITHIN 0.0200 OF THE MOVES THAT WERE PROVEN)
(RING)
(T1 FLAT 6 - OUT 40.0000 - GAUGE LENGTH 100.0000)
N10 G21 G17 G90 G40 G49 G80 G94
N20 G54
N30 G53 G0 Z170.0000
N40 T1 M6
N50 G53 G0 Z170.0000
N60 M22
N70 M24
N80 G53 G0 A0.0000 C0.0000
N90 S8000 M3
N100 G53 G0 X4.0000 Y0.0000
N110 G43.4 H1
N120 G0 X4.0000 Y0.0000 Z50.0000 A0.0000 C0.0000
N130 M21
N140 M23
N150 G1 Z10.0000 F250
N160 G3 X-4.0000 Y0.0000 I-4.0000 J0.0000 F500
N170 X4.0000 Y0.0000 I4.0000 J0.0000
N180 G18
N190 G2 X8.0000 Z14.0000 I0.0000 K4.0000
N200 G1 X12.0000
N210 G0 Z50.0000
N220 G17
N230 G49
N240 G53 G0 Z170.0000
N250 M5
N260 M30
%
)";

std::string changed(std::string text, const std::string& what, const std::string& by) {
    const auto at = text.find(what);
    if (at == std::string::npos) return {};
    return text.replace(at, what.size(), by);
}
std::size_t arcsIn(const PostInput& in, Dialect dialect = Dialect::TipControl) {
    const auto program = intendedProgram(in, dialect).value();
    return static_cast<std::size_t>(std::count_if(program.acts.begin(), program.acts.end(), [](const Act& a) { return a.arc != 0; }));
}

Vec3 placeOf(const Act& a, const Machine& machine, Dialect dialect) { return dialect == Dialect::Joints ? straightPlace(machine, a).value() : a.tip; }

/// Where a program leads while it cuts, arcs in small steps.
std::vector<Vec3> wayOf(const Program& p, const Machine& machine) {
    std::vector<Vec3> out;
    for (std::size_t i = 1; i < p.acts.size(); ++i) {
        const Act& a = p.acts[i];
        if (a.kind != Act::Kind::Move || a.aside || a.rapid) continue;
        const Vec3 from = placeOf(p.acts[i - 1], machine, p.dialect), to = placeOf(a, machine, p.dialect);
        if (out.empty()) out.push_back(from);
        const Arc arc{from, to, a.centre, normalOf(p.stateOf(a).plane), a.arc};
        for (int k = 1; a.arc != 0 && k < 60; ++k) out.push_back(arc.at(k / 60.0));
        out.push_back(to);
    }
    return out;
}
double lengthOf(const std::vector<Vec3>& way) {
    double out = 0.0;
    for (std::size_t i = 1; i < way.size(); ++i) out += (way[i] - way[i - 1]).norm();
    return out;
}
/// The furthest that a place of one way is from the other.
double furthest(const std::vector<Vec3>& of, const std::vector<Vec3>& from) {
    double most = 0.0;
    for (const Vec3& p : of) {
        double least = 1e300;
        for (std::size_t i = 1; i < from.size(); ++i) {
            const Vec3 d = from[i] - from[i - 1];
            const double t = d.squaredNorm() > 0.0 ? std::clamp((p - from[i - 1]).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0.0;
            least = std::min(least, (from[i - 1] + t * d - p).norm());
        }
        most = std::max(most, least);
    }
    return most;
}

} // namespace

class TestArcs : public QObject {
    Q_OBJECT
private slots:
    void aRingByHand() { mustBe(along(ring(), kWithin), Dialect::TipControl, kRing); }
    void withoutTheWordAllIsStraight() {
        const std::string text = writeProgram(along(ring(), 0.0), Dialect::TipControl).value();
        QVERIFY(text.find("G2 ") == std::string::npos && text.find("G3 ") == std::string::npos && text.find("ARCS") == std::string::npos);
        // What the arcs are made of bulges by 4 (1 − cos 5°) = 0.0152 mm: less room makes none.
        QCOMPARE(arcsIn(along(ring(), 0.0155)), std::size_t{3});
        QCOMPARE(arcsIn(along(ring(), 0.0150)), std::size_t{0});
        const auto program = intendedProgram(along(ring(), kWithin), Dialect::TipControl).value();
        QVERIFY2(std::abs(program.strays - 4.0 * (1.0 - std::cos(radians(5.0)))) < 1e-9, qPrintable(QString::number(program.strays)));
    }
    void aHelix() {
        std::vector<Step> steps{{Motion::Rapid, {0, 5, 50}}, {Motion::Cut, {0, 5, 10}, 250}};
        goRound(steps, 2, {0, 0, 10}, -3.0 * kPi, 54, -6.0); // three half turns down by two each
        steps.push_back({Motion::Retract, {0, -5, 50}});
        const std::string text = writeProgram(along(steps, kWithin), Dialect::TipControl).value();
        QVERIFY2(text.find("G2 X0.0000 Y-5.0000 Z8.0000 I0.0000 J-5.0000 F500\n") != std::string::npos, text.c_str());
        QVERIFY2(text.find(" X0.0000 Y5.0000 Z6.0000 I0.0000 J5.0000\n") != std::string::npos, text.c_str());
        QVERIFY2(text.find(" X0.0000 Y-5.0000 Z4.0000 I0.0000 J-5.0000\n") != std::string::npos, text.c_str());
        steps[10].tip.z() += 0.1; // it does not sink evenly
        QVERIFY(writeProgram(along(steps, kWithin), Dialect::TipControl).value().find(" Z8.0000 I0.0000") == std::string::npos);
    }
    // Joint coordinates with F as moves a minute: that of an arc is its time's.
    void inverseTime() {
        const PostInput in = along(ring(), kWithin, "dunlin-5m.machine.json");
        const Program program = intendedProgram(in, Dialect::Joints).value();
        int arcs = 0;
        for (std::size_t i = 1; i < program.acts.size(); ++i) {
            const Act& a = program.acts[i];
            if (a.arc == 0) continue;
            ++arcs;
            QCOMPARE(program.stateOf(a).feedMode, FeedMode::InverseTime);
            const Arc arc{*straightPlace(*in.machine, program.acts[i - 1]), *straightPlace(*in.machine, a), a.centre, normalOf(program.stateOf(a).plane), a.arc};
            const double chords = 2.0 * 4.0 * std::sin(radians(5.0)) * arc.sweep() / radians(10.0);
            QVERIFY2(std::abs(500.0 / a.feed - chords) < 1e-3 * chords, qPrintable(QString::number(500.0 / a.feed)));
        }
        QCOMPARE(arcs, 3);
        const std::string text = writeProgram(in, Dialect::Joints).value();
        QVERIFY(compareProgram(readBack(text, in).value(), in).agrees());
        // Slower somewhere on the way round: it is left at its own time.
        auto slower = ring();
        slower[10].feed = 400;
        QCOMPARE(arcsIn(along(slower, kWithin, "dunlin-5m.machine.json"), Dialect::Joints), std::size_t{4});
    }
    void whatIsNoArc() {
        auto feeds = ring();
        feeds[10].feed = 499;
        QCOMPARE(arcsIn(along(feeds, kWithin)), std::size_t{4}); // to it, from it by half a turn, the rest, and the quarter
        std::vector<Step> square{{Motion::Rapid, {0, 0, 50}}, {Motion::Cut, {0, 0, 10}, 500}};
        for (const Vec3& corner : {Vec3(10, 0, 10), Vec3(10, 10, 10), Vec3(0, 10, 10), Vec3(0, 0, 10)}) square.push_back({Motion::Cut, corner, 500});
        QCOMPARE(arcsIn(along(square, kWithin)), std::size_t{0});
        std::vector<Step> row{{Motion::Rapid, {0, 0, 50}}, {Motion::Cut, {0, 0, 10}, 500}};
        for (int i = 1; i < 60; ++i) row.push_back({Motion::Cut, Vec3(i, 1e-4 * (i % 3), 10), 500});
        QCOMPARE(arcsIn(along(row, kWithin)), std::size_t{0});
        PostInput stops = along(ring(), kWithin);
        stops.operations[0] = atPoints(stops.operations[0], {AtPoints::ExactStop});
        QCOMPARE(arcsIn(stops), std::size_t{0});
        // Digits that cannot hold an arc so well.
        PostInput coarse = along(ring(), kWithin);
        coarse.words.placesMm = 2;
        QCOMPARE(arcsIn(coarse), std::size_t{0});
        // While the rotaries turn.
        PostInput turning = along(ring(), kWithin);
        auto turns = std::make_shared<OperationResult>(*turning.operations[0].result);
        auto motion = std::make_shared<JointMotion>(*turns->motion);
        const auto c = static_cast<std::size_t>(turning.machine->find("C"));
        for (std::size_t s = 0; s < motion->size(); ++s) motion->values[s * motion->joints + c] = 0.001 * static_cast<double>(s);
        turns->motion = motion;
        turning.operations[0].result = turns;
        QCOMPARE(arcsIn(turning), std::size_t{0});
    }
    // A control that lacks the words, or the way back to its usual plane, gets what it can read.
    void asFarAsTheDialectGoes() {
        const auto with = [](const std::function<void(Spelling&)>& change) {
            Spelling s;
            s.name = "Shop";
            s.words.arcs = kWithin;
            change(s);
            return inDialect(along(ring(), 0.0), std::make_shared<const Spelling>(s));
        };
        QCOMPARE(arcsIn(with([](Spelling&) {})), std::size_t{3});
        QCOMPARE(arcsIn(with([](Spelling& s) { s[Phrase::PlaneZX] = ""; })), std::size_t{2});
        QCOMPARE(arcsIn(with([](Spelling& s) { s[Phrase::Plane] = ""; })), std::size_t{2});
        QCOMPARE(arcsIn(with([](Spelling& s) { s[Phrase::ArcCounter] = ""; })), std::size_t{0});
        Spelling none;
        none.name = "Shop";
        none.words.arcs = kWithin;
        none[Phrase::ArcCounter] = "";
        const auto refused = spellingFromJson(spellingToJson(none), "x");
        QVERIFY(!refused && refused.error().text().find("arcCounter") != std::string::npos);
        const PostInput own = with([](Spelling& s) {
            s[Phrase::ArcCounter] = "CIRC1";
            s[Phrase::CentreX] = "CX={fromX}";
            s[Phrase::CentreY] = "CY={fromY}";
            s.pointAlways = true;
            s.script = "function before(act)\n if act.arc then return '(ROUND ' .. act.arc .. ' ' .. act.i .. ')' end\nend\n";
        });
        const std::string text = writeProgram(own, Dialect::TipControl).value();
        QVERIFY2(text.find("CIRC1 X-4.0000 Y0.0000 Z10.0000 A0.0000 C0.0000 CX=-4.0000 CY=0.0000 F500.\n") != std::string::npos, text.c_str());
        QVERIFY2(text.find("(ROUND counter -4") != std::string::npos, text.c_str());
        QVERIFY(compareProgram(readBack(text, own).value(), own).agrees());
        // Word by word, for whoever asks.
        std::string said;
        for (const auto& m : Speller(*own.spelling, *own.machine, own.words).meanings("CIRC1 X-4. Y0. CX=-4.")) said += m.text + "=" + m.what + ";";
        QVERIFY2(said.find("CIRC1=arc, counter-clockwise in its plane;") != std::string::npos &&
                     said.find("centre of the arc, from its beginning along X") != std::string::npos,
                 said.c_str());
    }
    void inTiltedPlanes() {
        const Vec3 lean(0, -0.5, std::sqrt(0.75));
        const Mat3 turn = Eigen::Quaterniond::FromTwoVectors(Vec3::UnitZ(), lean).toRotationMatrix();
        auto steps = ring();
        for (Step& s : steps) s.tip = turn * s.tip;
        Spelling s;
        s.name = "Planes";
        s.indexed = IndexedWork::InPlanes;
        s.words.arcs = kWithin;
        const PostInput in = inDialect(along(steps, 0.0, "heron-5t.machine.json", lean), std::make_shared<const Spelling>(s));
        QCOMPARE(arcsIn(in), std::size_t{3});
        const std::string text = writeProgram(in, Dialect::TipControl).value();
        QVERIFY2(text.find("G3 X-4.0000 Y0.0000 I-4.0000 J0.0000 F500\n") != std::string::npos, text.c_str());
        const auto read = readBack(text, in);
        QVERIFY2(read, read ? "" : read.error().text().c_str());
        QVERIFY(compareProgram(*read, in).agrees());
    }
    void whatIsRefused_data() {
        QTest::addColumn<QString>("what");
        QTest::addColumn<QString>("by");
        QTest::addColumn<QString>("why");
        QTest::newRow("half a centre") << "I-4.0000 J0.0000"
                                       << "I-4.0000"
                                       << "both words";
        QTest::newRow("no centre") << "I-4.0000 J0.0000"
                                   << ""
                                   << "both words";
        QTest::newRow("a centre off the plane") << "I-4.0000 J0.0000"
                                                << "I-4.0000 J0.0000 K1.0000"
                                                << "lies in its plane";
        QTest::newRow("a centre of a straight move") << "G1 Z10.0000"
                                                     << "G1 Z10.0000 I1.0000"
                                                     << "belongs to an arc";
        QTest::newRow("ends unlike far") << "X-4.0000 Y0.0000 I-4.0000"
                                         << "X-4.5000 Y0.0000 I-4.0000"
                                         << "not as far";
        QTest::newRow("a rotary") << "N140 M23\nN150 G1 Z10.0000 F250\nN160 G3 X-4.0000"
                                  << "N150 G1 Z10.0000 F250\nN160 G3 C10.0000 X-4.0000"
                                  << "C turns in an arc";
        QTest::newRow("a rotary that nobody has turned yet")
            << "N80 G53 G0 A0.0000 C0.0000\nN90 S8000 M3\nN100 G53 G0 X4.0000 Y0.0000\nN110 G43.4 H1\nN120 G0 X4.0000 Y0.0000 Z50.0000 A0.0000 C0.0000\nN130 M21\nN140 "
               "M23\nN150 G1 Z10.0000 F250\nN160 G3"
            << "N90 S8000 M3\nN110 G43.4 H1\nN120 G0 X4.0000 Y0.0000 Z50.0000\nN150 G1 Z10.0000 F250\nN160 G3 A0.0000 C0.0000"
            << "A turns in an arc";
        QTest::newRow("machine coordinates") << "G3 X-4.0000"
                                             << "G53 G3 X-4.0000"
                                             << "machine's zero";
        QTest::newRow("no plane") << " G17 "
                                  << " "
                                  << "before its plane";
        QTest::newRow("a cycle's word") << "I-4.0000 J0.0000"
                                        << "I-4.0000 J0.0000 R3.0000"
                                        << "belongs to nothing";
        QTest::newRow("two ways") << "G3 X-4.0000"
                                  << "G2 G3 X-4.0000"
                                  << "contradicts";
        QTest::newRow("nothing known") << "N120 G0 X4.0000 Y0.0000 Z50.0000 A0.0000 C0.0000\nN130 M21\nN140 M23\nN150 G1 Z10.0000 F250\n"
                                       << ""
                                       << "where this arc begins";
    }
    void whatIsRefused() {
        QFETCH(QString, what);
        QFETCH(QString, by);
        QFETCH(QString, why);
        const std::string text = changed(kRing, what.toStdString(), by.toStdString());
        QVERIFY(!text.empty());
        const auto read = readBack(text, along(ring(), kWithin));
        QVERIFY(!read);
        QVERIFY2(read.error().text().find(why.toStdString()) != std::string::npos, read.error().text().c_str());
    }
    // Another centre, way round or plane is read, and told.
    void whatIsTold() {
        const PostInput in = along(ring(), kWithin);
        for (const auto& [what, by] :
             {std::pair("I-4.0000 J0.0000", "I-4.0002 J0.0000"), std::pair("I-4.0000 J0.0000", "I-4.0000 J0.0003"), std::pair("G3 X-4", "G2 X-4"),
              std::pair("G2 X8", "G3 X8"), std::pair("N160 G3 X-4.0000 Y0.0000 I-4.0000 J0.0000 F500", "N160 G1 X-4.0000 F500")}) {
            const auto read = readBack(changed(kRing, what, by), in);
            QVERIFY(!read || !compareProgram(*read, in).agrees());
        }
        // Where the ends are one place the control goes all the way round.
        const auto whole = readBack(changed(kRing, "X-4.0000 Y0.0000 I-4.0000", "X4.0000 Y0.0000 I-4.0000"), in);
        QVERIFY(whole);
        const auto arc = std::find_if(whole->acts.begin(), whole->acts.end(), [](const Act& a) { return a.arc != 0; });
        QCOMPARE((Arc{arc->tip, arc->tip, arc->centre, 2, 1}).sweep(), 2.0 * kPi);
    }
    // Places at random along arcs, a little beside them: what is fitted is as far from the way as it says, judged by plain distances.
    void fitsStrayAsTheySay() {
        Random random(52);
        int fitted = 0;
        for (int i = 0; i < 400; ++i) {
            const int normal = random.integer(0, 2), moves = random.integer(3, 40);
            const double radius = std::exp(random.number(-1.0, 5.0)), within = std::exp(random.number(-7.0, -2.0));
            const double all = std::min(random.number(0.1, 3.1), moves * 2.0 * std::acos(1.0 - std::min(0.4, 0.5 * within / radius)));
            const double noise = random.integer(0, 1) ? 0.0 : within * random.number(0.0, 0.8), rise = random.number(-3.0, 3.0);
            std::vector<Vec3> way;
            std::vector<double> angle;
            for (int k = 0; k <= moves; ++k) angle.push_back(k == 0 ? 0.0 : k == moves ? all : all * (k + random.number(-0.2, 0.2)) / moves);
            const Vec3 centre = random.point(30.0);
            const double begin = random.number(0.0, 6.28), turn = random.integer(0, 1) ? 1.0 : -1.0;
            for (const double a : angle) {
                Vec3 p;
                p[(normal + 1) % 3] = radius * std::cos(begin + turn * a);
                p[(normal + 2) % 3] = radius * std::sin(begin + turn * a);
                p[normal] = rise * a / all;
                way.push_back(centre + p + noise * random.number(0.0, 1.0) * random.direction());
            }
            const ArcFit fit = fitArc(way, normal, within);
            if (fit.is != ArcFit::Is::Round) continue;
            ++fitted;
            QVERIFY(fit.strays <= within);
            std::vector<Vec3> round;
            for (int k = 0; k <= 2000; ++k) round.push_back(fit.arc.at(k / 2000.0));
            QVERIFY((round.front() - way.front()).norm() < 1e-9 && (round.back() - way.back()).norm() < 1e-9);
            const double is = std::max(furthest(way, round), furthest(round, way));
            QVERIFY2(is <= fit.strays + 1e-6, qPrintable(QString("%1: %2 mm, told %3").arg(i).arg(is).arg(fit.strays)));
            if (noise == 0.0) QVERIFY2(std::abs(fit.arc.radius(0.5) - radius) < 1e-6 * radius, qPrintable(QString::number(fit.arc.radius(0.5))));
        }
        QVERIFY2(fitted > 150, qPrintable(QString::number(fitted)));
    }
    // Whole programs at random, in every kind of coordinates: fewer lines, and nowhere further from the straight ones than asked.
    void randomProgramsKeepWithin() {
        Random random(53);
        std::size_t arcs = 0, straight = 0;
        for (int i = 0; i < 30; ++i) {
            std::vector<Step> steps{{Motion::Rapid, {0, 0, 50}}, {Motion::Cut, {0, 0, 10}, 500}};
            const double within = random.number(0.003, 0.05);
            for (int piece = random.integer(2, 8); piece > 0; --piece) {
                const Vec3 here = steps.back().tip;
                if (random.integer(0, 3) == 0) {
                    steps.push_back({Motion::Cut, here + random.point(8.0), 500});
                    continue;
                }
                const int normal = random.integer(0, 2);
                Vec3 out = random.direction();
                out[normal] = 0.0;
                const double radius = random.number(0.5, 25.0), by = random.number(0.2, 4.0) * (random.integer(0, 1) ? 1 : -1);
                const double each = 2.0 * std::acos(1.0 - random.number(0.2, 1.2) * within / radius);
                goRound(steps, normal, here + radius * out.normalized(), by, std::max(3, static_cast<int>(std::abs(by) / each)), random.number(-2.0, 2.0),
                        random.integer(0, 4) ? 500 : 300);
            }
            const char* machine = random.integer(0, 1) ? "heron-5t.machine.json" : "dunlin-5m.machine.json";
            const Dialect dialect = random.integer(0, 1) ? Dialect::TipControl : Dialect::Joints;
            const PostInput in = along(steps, within, machine), plain = along(steps, 0.0, machine);
            const auto read = readBack(writeProgram(in, dialect).value(), in);
            QVERIFY2(read, read ? "" : read.error().text().c_str());
            const ReplayReport report = compareProgram(*read, in);
            QVERIFY2(report.agrees(), report.agrees() ? "" : report.differences.front().c_str());
            const Program lines = intendedProgram(plain, dialect).value();
            const auto round = wayOf(*read, *in.machine), way = wayOf(lines, *in.machine);
            const double is = std::max(furthest(round, way), furthest(way, round));
            QVERIFY2(is <= within, qPrintable(QString("%1: %2 mm of %3").arg(i).arg(is).arg(within)));
            QVERIFY(std::abs(lengthOf(round) - lengthOf(way)) < 0.02 * lengthOf(way));
            QVERIFY(read->acts.size() <= lines.acts.size());
            arcs += report.arcs;
            straight += lines.acts.size() - read->acts.size();
        }
        QVERIFY2(arcs > 60 && straight > 1000, qPrintable(QString("%1 arcs for %2 moves").arg(arcs).arg(straight)));
    }
};

GYRE_TEST(TestArcs)

} // namespace test_arcs
#include "test_arcs.moc"
