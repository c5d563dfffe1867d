// DXF and SVG: lengths and places that are known, units, blocks, and thousands of damaged files.
#include "Program.h"
#include "Support.h"
#include "drawing/Drawing.h"
#include <fmt/format.h>
#include <fstream>

namespace test_drawing {

using namespace gyre;

namespace {

std::string dxf(const std::string& entities, const std::string& blocks = {}, int unit = 4) {
    return "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n" + std::to_string(unit) + "\n0\nENDSEC\n" +
           (blocks.empty() ? "" : "0\nSECTION\n2\nBLOCKS\n" + blocks + "0\nENDSEC\n") + "0\nSECTION\n2\nENTITIES\n" + entities + "0\nENDSEC\n0\nEOF\n";
}
std::string entity(const std::string& kind, const std::vector<std::pair<int, std::string>>& pairs) {
    std::string s = "0\n" + kind + "\n8\nlayer one\n";
    for (const auto& [code, value] : pairs) s += std::to_string(code) + "\n" + value + "\n";
    return s;
}
Drawing read(const std::string& text) {
    auto d = drawingFromDxf(text, "t.dxf");
    if (!d) qWarning("%s", d.error().text().c_str());
    return d ? *d : Drawing{};
}
std::string svg(const std::string& inside, const std::string& head = "width='100mm' height='50mm' viewBox='0 0 100 50'") {
    return "<?xml version='1.0'?><svg xmlns='http://www.w3.org/2000/svg' " + head + ">" + inside + "</svg>";
}
Drawing readSvg(const std::string& text) {
    auto d = drawingFromSvg(text, "t.svg");
    if (!d) qWarning("%s", d.error().text().c_str());
    return d ? *d : Drawing{};
}
double total(const Drawing& d) {
    double l = 0.0;
    for (const auto& c : d.curves) l += c.curve.length();
    return l;
}

} // namespace

class TestDrawing : public QObject {
    Q_OBJECT
private slots:
    void linesCirclesAndArcs() {
        const Drawing d = read(dxf(entity("LINE", {{10, "1"}, {20, "2"}, {30, "0"}, {11, "4"}, {21, "6"}, {31, "0"}}) +
                                   entity("CIRCLE", {{10, "0"}, {20, "0"}, {40, "30"}}) + entity("ARC", {{10, "100"}, {20, "0"}, {40, "10"}, {50, "350"}, {51, "80"}})));
        QCOMPARE(d.curves.size(), std::size_t(3));
        QVERIFY(d.unitKnown && d.unitWords == "millimetres" && d.curves[0].layer == "layer one");
        QVERIFY(std::abs(d.curves[0].curve.length() - 5) < 1e-12);
        QVERIFY(d.curves[1].curve.closed() && std::abs(d.curves[1].curve.length() - 60 * kPi) < 1e-5);
        QVERIFY(std::abs(d.curves[2].curve.length() - 10 * kPi / 2) < 1e-6);
        QVERIFY((d.curves[2].curve.start() - Vec3(100 + 10 * std::cos(radians(-10)), 10 * std::sin(radians(-10)), 0)).norm() < 1e-9);
        // Seen from below an arc runs the other way, mirrored in x.
        const Drawing below = read(dxf(entity("ARC", {{10, "100"}, {20, "0"}, {40, "10"}, {50, "0"}, {51, "90"}, {210, "0"}, {220, "0"}, {230, "-1"}})));
        QVERIFY((below.curves[0].curve.start() - Vec3(-110, 0, 0)).norm() < 1e-9 && (below.curves[0].curve.end() - Vec3(-100, 10, 0)).norm() < 1e-9);
    }
    void polylinesWithBulges() {
        // A slot: two lines, two half circles.
        const Drawing d = read(dxf(entity(
            "LWPOLYLINE", {{90, "4"}, {70, "1"}, {10, "0"}, {20, "0"}, {10, "30"}, {20, "0"}, {42, "1"}, {10, "30"}, {20, "10"}, {10, "0"}, {20, "10"}, {42, "1"}})));
        QCOMPARE(d.curves.size(), std::size_t(1));
        QVERIFY(d.curves[0].curve.closed() && std::abs(total(d) - (60 + 10 * kPi)) < 1e-5);
        QVERIFY(std::abs(d.bounds().low.x() + 5) < 0.5);
        std::string old = "0\nPOLYLINE\n8\nL\n66\n1\n70\n0\n";
        for (const char* v : {"10\n0\n20\n0\n42\n-1\n", "10\n10\n20\n0\n", "10\n10\n20\n5\n"}) old += std::string("0\nVERTEX\n8\nL\n") + v;
        const Drawing o = read(dxf(old + "0\nSEQEND\n" + entity("LINE", {{10, "10"}, {20, "5"}, {11, "0"}, {21, "5"}})));
        QCOMPARE(o.curves.size(), std::size_t(2)); // other layers do not join
        QVERIFY(std::abs(o.curves[0].curve.length() - (5 * kPi + 5)) < 1e-6);
        QVERIFY(o.curves[0].curve.at(o.curves[0].curve.atLength(2.5 * kPi)).y() > 4.99); // a negative bulge turns right: over the chord
    }
    void splinesAndEllipses() {
        // A quarter circle as a rational quadratic.
        const Drawing d = read(dxf(entity("SPLINE", {{71, "2"},
                                                     {40, "0"},
                                                     {40, "0"},
                                                     {40, "0"},
                                                     {40, "1"},
                                                     {40, "1"},
                                                     {40, "1"},
                                                     {41, "1"},
                                                     {41, "0.70710678118654752"},
                                                     {41, "1"},
                                                     {10, "20"},
                                                     {20, "0"},
                                                     {30, "0"},
                                                     {10, "20"},
                                                     {20, "20"},
                                                     {30, "0"},
                                                     {10, "0"},
                                                     {20, "20"},
                                                     {30, "0"}})));
        QCOMPARE(d.curves.size(), std::size_t(1));
        QVERIFY(std::abs(total(d) - 10 * kPi) < 1e-4);
        for (std::size_t i = 0; i < d.curves[0].curve.pieces(); ++i) QVERIFY(std::abs(d.curves[0].curve.at(i, 0.5).norm() - 20) < 2e-6);
        const Drawing e = read(dxf(entity("ELLIPSE", {{10, "5"}, {20, "0"}, {11, "0"}, {21, "20"}, {40, "0.5"}, {41, "0"}, {42, "6.283185307179586"}})));
        QVERIFY(e.curves.size() == 1 && e.curves[0].curve.closed());
        // Ramanujan's series for the half axes 20 and 10.
        const double h = 100.0 / 900.0, l = kPi * 30 * (1 + h / 4 + h * h / 64 + h * h * h / 256 + 25 * h * h * h * h / 16384);
        QVERIFY(std::abs(total(e) - l) < 1e-3);
        // A spline whose numbers do not fit is passed over and told.
        const Drawing damaged = read(dxf(entity("LINE", {{11, "1"}}) + entity("SPLINE", {{71, "3"}, {40, "0"}, {10, "1"}, {20, "1"}})));
        QCOMPARE(damaged.passedOver.at("damaged SPLINE"), 1);
    }
    void unitsAreTakenFromTheFile() {
        const std::string line = entity("LINE", {{10, "0"}, {20, "0"}, {11, "2"}, {21, "0"}});
        QVERIFY(std::abs(total(read(dxf(line, {}, 1))) - 50.8) < 1e-9);
        QVERIFY(std::abs(total(read(dxf(line, {}, 5))) - 20) < 1e-9);
        const auto none = drawingFromDxf(dxf(line, {}, 0), "t.dxf", 25.4);
        QVERIFY(none && !none->unitKnown && none->unitWords.find("inches") != std::string::npos && std::abs(total(*none) - 50.8) < 1e-9);
    }
    void blocksStandWhereTheyAreInserted() {
        const std::string block = "0\nBLOCK\n8\n0\n2\nstar\n10\n1\n20\n0\n" + entity("LINE", {{10, "1"}, {20, "0"}, {11, "3"}, {21, "0"}}) + "0\nENDBLK\n";
        const Drawing d =
            read(dxf(entity("INSERT", {{2, "star"}, {10, "10"}, {20, "20"}, {50, "90"}, {41, "2"}, {42, "2"}, {43, "2"}}) + entity("INSERT", {{2, "gone"}}), block));
        QCOMPARE(d.curves.size(), std::size_t(1));
        QVERIFY((d.curves[0].curve.start() - Vec3(10, 20, 0)).norm() < 1e-9 && (d.curves[0].curve.end() - Vec3(10, 24, 0)).norm() < 1e-9);
        QCOMPARE(d.passedOver.begin()->second, 1);
        // Stretched unevenly a circle becomes an ellipse.
        const std::string ring = "0\nBLOCK\n2\nring\n" + entity("CIRCLE", {{40, "5"}}) + "0\nENDBLK\n";
        const Drawing e = read(dxf(entity("INSERT", {{2, "ring"}, {41, "3"}, {42, "1"}}), ring));
        QVERIFY(std::abs(e.bounds().high.x() - 15) < 0.3);
        for (std::size_t i = 0; i < e.curves[0].curve.pieces(); ++i) {
            const Vec3 p = e.curves[0].curve.at(i, 0.4);
            QVERIFY(std::abs(std::hypot(p.x() / 3, p.y()) - 5) < 1e-5);
        }
        // A block inside itself is told, not followed for ever.
        const std::string self = "0\nBLOCK\n2\nself\n" + entity("INSERT", {{2, "self"}}) + "0\nENDBLK\n";
        const auto loop = drawingFromDxf(dxf(entity("INSERT", {{2, "self"}}), self), "t.dxf");
        QVERIFY(!loop && loop.error().what.find("eight deep") != std::string::npos);
    }
    void loosePiecesAreChained() {
        // A rectangle of four lines drawn in any order and direction, and a branch that must stay one.
        const Drawing d = read(dxf(entity("LINE", {{10, "0"}, {20, "0"}, {11, "10"}, {21, "0"}}) + entity("LINE", {{10, "10"}, {20, "5"}, {11, "0"}, {21, "5"}}) +
                                   entity("LINE", {{10, "10"}, {20, "5"}, {11, "10"}, {21, "0"}}) + entity("LINE", {{10, "0"}, {20, "5"}, {11, "0"}, {21, "0"}})));
        QCOMPARE(d.curves.size(), std::size_t(1));
        QVERIFY(d.curves[0].curve.closed() && std::abs(total(d) - 30) < 1e-9);
        std::string star;
        for (const char* x : {"10", "-10", "5"}) star += entity("LINE", {{10, "0"}, {20, "0"}, {11, x}, {21, "7"}});
        QCOMPARE(read(dxf(star)).curves.size(), std::size_t(3));
        // Ten thousand pieces of one ring.
        std::string ring;
        for (int i = 0; i < 10000; ++i) {
            const auto at = [](int k) { // with a point, whatever the locale
                const double angle = 2 * kPi * (k % 10000) / 10000;
                return std::pair{fmt::format("{:.6f}", 100 * std::cos(angle)), fmt::format("{:.6f}", 100 * std::sin(angle))};
            };
            const auto [a, b] = std::pair{at((i * 7919) % 10000), at((i * 7919) % 10000 + 1)};
            ring += entity("LINE", {{10, a.first}, {20, a.second}, {11, b.first}, {21, b.second}});
        }
        QCOMPARE(read(dxf(ring)).curves.size(), std::size_t(1));
    }
    void svgShapesAndTransforms() {
        const Drawing d = readSvg(svg("<g id='cut' transform='translate(10 0)'><rect x='0' y='0' width='20' height='10'/><circle cx='50' cy='25' r='10'/></g>"
                                      "<polygon points='0,0 3,0 3,4'/><line x1='0' y1='0' x2='0' y2='7'/><text>no curve</text>"));
        QCOMPARE(d.curves.size(), std::size_t(4));
        QVERIFY(d.unitKnown && d.curves[0].layer == "cut");
        QVERIFY(std::abs(d.curves[0].curve.length() - 60) < 1e-9 && std::abs(d.curves[0].curve.bounds().low.x() - 10) < 1e-9);
        QVERIFY(std::abs(d.curves[0].curve.bounds().low.y() + 10) < 1e-9); // down in the picture is −y here
        QVERIFY(std::abs(d.curves[1].curve.length() - 20 * kPi) < 1e-5);
        QVERIFY(std::abs(d.curves[2].curve.length() - 12) < 1e-9 && std::abs(d.curves[3].curve.length() - 7) < 1e-9);
        QCOMPARE(d.passedOver.at("text"), 1);
        const Drawing turned = readSvg(svg("<g transform='rotate(90 10 10) scale(2)'><line x1='5' y1='5' x2='10' y2='5'/></g>"));
        QVERIFY((turned.curves[0].curve.start() - Vec3(10, -10, 0)).norm() < 1e-9 && (turned.curves[0].curve.end() - Vec3(10, -20, 0)).norm() < 1e-9);
        const Drawing leaned = readSvg(svg("<circle r='10' transform='skewX(45)'/><ellipse rx='5' ry='2' transform='matrix(1 0 0 1 1 1)'/>"));
        QVERIFY(std::abs(leaned.curves[0].curve.bounds().high.x() - 10 * std::sqrt(2)) < 0.3);
        const Drawing rounded = readSvg(svg("<rect width='30' height='20' rx='5'/>"));
        QVERIFY(rounded.curves[0].curve.closed() && std::abs(total(rounded) - (40 + 20 + 10 * kPi)) < 1e-5);
    }
    void svgUnits() {
        QVERIFY(std::abs(total(readSvg(svg("<line x2='10'/>", "width='2in' height='2in' viewBox='0 0 20 20'"))) - 25.4) < 1e-9);
        QVERIFY(std::abs(total(readSvg(svg("<line x2='10'/>", "width='20cm'"))) - 100) < 1e-9);
        const auto none = drawingFromSvg(svg("<line x2='10'/>", ""), "t.svg", 25.4);
        QVERIFY(none && !none->unitKnown && std::abs(total(*none) - 254) < 1e-9);
    }
    void svgPaths() {
        const Drawing d = readSvg(svg("<path d='M0 0 h10 v5 l-10,0 Z m20 0 L30 0'/>"));
        QCOMPARE(d.curves.size(), std::size_t(2));
        QVERIFY(d.curves[0].curve.closed() && std::abs(d.curves[0].curve.length() - 30) < 1e-9);
        QVERIFY((d.curves[1].curve.start() - Vec3(20, 0, 0)).norm() < 1e-9);
        // Arcs with glued flags; a full ring of two.
        const Drawing ring = readSvg(svg("<path d='M10 25a15 15 0 1130 0a15,15,0,1,1-30,0z'/>"));
        QVERIFY(ring.curves.size() == 1 && std::abs(total(ring) - 30 * kPi) < 1e-5);
        for (std::size_t i = 0; i < ring.curves[0].curve.pieces(); ++i) QVERIFY(std::abs((ring.curves[0].curve.at(i, 0.5) - Vec3(25, -25, 0)).norm() - 15) < 1e-6);
        // Too small radii grow until the arc reaches.
        QVERIFY(std::abs(total(readSvg(svg("<path d='M0 0A1 1 0 0 1 20 0'/>"))) - 10 * kPi) < 1e-5);
        // A cubic that is a straight line, its smooth successor, and parabolas.
        QVERIFY(std::abs(total(readSvg(svg("<path d='M0 0C3 0 6 0 9 0S12 0 18 0'/>"))) - 18) < 1e-6);
        const Drawing q = readSvg(svg("<path d='M0 0Q10 10 20 0T40 0'/>"));
        QVERIFY((q.curves[0].curve.end() - Vec3(40, 0, 0)).norm() < 1e-9);
        const double parabola = 20 * (std::sqrt(2.0) + std::asinh(1.0)) / 2;
        QVERIFY(std::abs(total(q) - 2 * parabola) < 1e-4);
        for (const char* wrong : {"5 5", "M0 0 L5", "M0 0 C1 1 2 2", "M 0 0 X 5 5", "M0 0 A1 1 0 2 0 5 5", "M 1e400 0 L 0 0"})
            QVERIFY2(!drawingFromSvg(svg(std::string("<path d='") + wrong + "'/><line x2='1'/>"), "t.svg"), wrong);
    }
    void whatIsNoDrawingSaysSo() {
        for (const std::string& s : std::vector<std::string>{"", "hello\nworld\n", "0\nSECTION\n2\n", dxf(""), dxf(entity("TEXT", {{1, "only words"}})),
                                                             std::string("0\n\0x\n", 5), dxf(entity("CIRCLE", {{10, "1e9"}, {40, "5"}}))}) {
            const auto d = drawingFromDxf(s, "t.dxf");
            QVERIFY2(!d && !d.error().what.empty(), s.substr(0, 40).c_str());
        }
        for (const char* s : {"", "<svg", "<html/>", "<svg/>", "<svg><g transform='spin(3)'><line x2='4'/></g></svg>"}) {
            const auto d = drawingFromSvg(s, "t.svg");
            QVERIFY2(!d && !d.error().what.empty(), s);
        }
        std::string deep;
        for (int i = 0; i < 300; ++i) deep += "<g>";
        deep += "<line x2='4'/>";
        for (int i = 0; i < 300; ++i) deep += "</g>";
        QVERIFY(!drawingFromSvg(svg(deep), "t.svg"));
    }
    void writtenAndReadBack() {
        QTemporaryDir dir;
        std::vector<DrawnCurve> curves{{"a", circleArc(Vec3(1, 2, 3), Vec3::UnitZ(), Vec3(21, 2, 3), 2 * kPi)},
                                       {"b", straightLines({{0, 0, 0}, {3, 4, 0}})},
                                       {"c", helix(Vec3::Zero(), Vec3::UnitX(), Vec3(0, 9, 0), 20, 50)}};
        const std::filesystem::path file = dir.filePath("out.dxf").toStdString();
        std::ofstream(file) << dxfOf(curves, 1e-4);
        const auto d = readDrawing(file);
        QVERIFY2(d, d ? "" : d.error().text().c_str());
        QCOMPARE(d->curves.size(), std::size_t(3));
        for (std::size_t i = 0; i < 3; ++i) {
            QCOMPARE(d->curves[i].layer, curves[i].layer);
            QCOMPARE(d->curves[i].curve.closed(), curves[i].curve.closed());
            QVERIFY(std::abs(d->curves[i].curve.length() - curves[i].curve.length()) < 1e-4 * curves[i].curve.length());
        }
        QVERIFY(isDrawingFile("a.DXF") && isDrawingFile("b.svg") && !isDrawingFile("c.step"));
        QVERIFY(!readDrawing(dir.filePath("missing.dxf").toStdString()));
    }
    // Bytes changed, cut and doubled at random: an answer or a reason, never anything else.
    void damagedFilesNeverHurt() {
        test::Random random(61);
        const std::string block = "0\nBLOCK\n2\nstar\n" + entity("LINE", {{11, "3"}}) + "0\nENDBLK\n";
        const std::vector<std::string> good{dxf(entity("LINE", {{11, "4"}}) + entity("ARC", {{40, "10"}, {50, "1"}, {51, "80"}}) +
                                                    entity("LWPOLYLINE", {{70, "1"}, {10, "0"}, {20, "0"}, {42, "0.3"}, {10, "5"}, {20, "1"}}) +
                                                    entity("ELLIPSE", {{11, "9"}, {40, "0.5"}}) + entity("INSERT", {{2, "star"}, {41, "2"}}) +
                                                    entity("SPLINE", {{71, "1"}, {40, "0"}, {40, "0"}, {40, "1"}, {40, "1"}, {10, "0"}, {20, "0"}, {10, "5"}, {20, "5"}}),
                                                block),
                                            svg("<g transform='matrix(1 0 0 1 0 0)'><path d='M0 0C1 2 3 4 5 6S7 8 9 9Q1 2 3 4T5 5A4 4 0 0 1 9 9Z'/><rect width='5' "
                                                "height='5' rx='1'/><polygon points='0 0 1 1 2 0'/></g>")};
        int accepted = 0;
        for (int i = 0; i < 6000; ++i) {
            std::string s = good[static_cast<std::size_t>(i % 2)];
            for (int n = random.integer(1, 4); n > 0; --n) {
                const auto at = static_cast<std::size_t>(random.integer(0, static_cast<int>(s.size()) - 1));
                switch (random.integer(0, 4)) {
                case 0:
                    s[at] = static_cast<char>(random.integer(0, 255));
                    break;
                case 1:
                    s.erase(at, static_cast<std::size_t>(random.integer(1, 30)));
                    break;
                case 2:
                    s.insert(at, s.substr(at / 2, static_cast<std::size_t>(random.integer(1, 60))));
                    break;
                case 3:
                    s.insert(at, random.integer(0, 1) ? "99999999999999999999" : "-1e308");
                    break;
                default:
                    s.resize(at);
                }
                if (s.empty()) s = " ";
            }
            const auto d = i % 2 ? drawingFromSvg(s, "t.svg") : drawingFromDxf(s, "t.dxf");
            if (!d) {
                QVERIFY(!d.error().what.empty());
                continue;
            }
            ++accepted;
            for (const DrawnCurve& c : d->curves) QVERIFY(std::isfinite(c.curve.length()));
        }
        QVERIFY(accepted > 500);
    }
};

GYRE_TEST(TestDrawing)

} // namespace test_drawing
#include "test_drawing.moc"
