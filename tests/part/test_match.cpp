// Which face of one part is which of another: a family of blocks whose faces are known by what they are for.
#include "Program.h"
#include "Support.h"
#include "base/Index.h"
#include "part/Match.h"
#include <fmt/format.h>
#include <map>

namespace test_match {

using namespace gyre;
using namespace gyre::test;

class TestMatch : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    int m_made = 0;
    struct Made {
        std::shared_ptr<const Part> part;
        Family family;
    };
    Made made(const Family& f) { return {openPart(familyPart(m_dir.path().toStdString() + fmt::format("/family{}.step", m_made++), f)), f}; }

    /// What a face is for, from its own numbers.
    static std::string roleOf(const FaceInfo& face, const Family& f) {
        const auto at = [](double a, double b) { return std::abs(a - b) < 1e-6; };
        const Vec3 &c = face.centre, &n = face.normal;
        if (face.kind == SurfaceKind::Cylinder) {
            if (at(face.radius, 0.5 * f.hole) && std::abs(face.axisPoint.y() - (f.width - 8)) < 1e-6)
                return fmt::format("hole {:.0f}", face.axisPoint.x() * (f.holes + 1) / f.length);
            return fmt::format("corner {} {}", c.x() > f.pocketX + 0.5 * f.pocketLength, c.y() > f.pocketY + 0.5 * f.pocketWidth);
        }
        if (n.z() > 0.9) return at(c.z(), f.height) ? "top" : f.slot && at(c.z(), f.height - 6) && c.x() > f.length - 12 ? "slot floor" : "floor";
        if (n.z() < -0.9) return "bottom";
        if (at(c.x(), 0)) return "left";
        if (at(c.x(), f.length)) return "right";
        if (at(c.y(), 0)) return "front";
        if (at(c.y(), f.width)) return "back";
        if (f.slot && c.x() > f.length - 12 - 1e-6) return at(c.x(), f.length - 12) ? "slot end" : at(c.y(), f.pocketY) ? "slot front" : "slot back";
        return at(c.x(), f.pocketX) ? "wall left" : at(c.x(), f.pocketX + f.pocketLength) ? "wall right" : at(c.y(), f.pocketY) ? "wall front" : "wall back";
    }
    static bool hole(const std::string& role) { return role.starts_with("hole"); }

    struct Score {
        int right = 0, wrong = 0, missed = 0;
        std::string first, missing;
        void operator+=(const Score& o) {
            right += o.right;
            wrong += o.wrong;
            missed += o.missed;
            if (first.empty()) first = o.first;
            if (!o.missing.empty()) missing += o.missing + "; ";
        }
    };
    /// Faces found as what they are; where the number of holes is another, any hole is a hole.
    static Score score(const Made& was, const Made& is, const PartMatch& match) {
        Score s;
        std::map<std::string, int> there;
        for (const FaceInfo& f : is.part->faces()) ++there[roleOf(f, is.family)];
        const bool otherHoles = was.family.holes != is.family.holes;
        std::set<int> taken;
        for (std::size_t f = 0; f < match.faces.size(); ++f) {
            const std::string role = roleOf(was.part->faces()[f], was.family);
            const ShapeMatch& m = match.faces[f];
            if (!m.found()) {
                if (there.count(role) == 0 || (otherHoles && hole(role))) continue;
                ++s.missed;
                s.missing += role + ", ";
                continue;
            }
            const std::string now = roleOf(is.part->faces()[index(m.now)], is.family);
            const bool ok = taken.insert(m.now).second && (role == now || (otherHoles && hole(role) && hole(now)));
            ++(ok ? s.right : s.wrong);
            if (!ok && s.first.empty()) s.first = fmt::format("{} became {} ({})", role, now, static_cast<int>(m.by));
        }
        return s;
    }
    static Family anyOf(Random& random) {
        Family f;
        f.length = random.number(80, 160);
        f.width = random.number(55, 90);
        f.height = random.number(15, 50);
        f.pocketLength = random.number(20, 45);
        f.pocketWidth = random.number(16, 30);
        f.pocketX = random.number(5, f.length - f.pocketLength - 20);
        f.pocketY = random.number(4, f.width - f.pocketWidth - 16);
        f.pocketDepth = random.number(3, 0.8 * f.height);
        f.corner = random.number(2, 7);
        f.hole = random.number(3, 8);
        f.holes = random.integer(3, 6);
        f.slot = random.integer(0, 1) == 1;
        return f;
    }

private slots:
    // A part is itself: every face and edge the same, nothing new.
    void itself() {
        for (const auto& file : {filletedPocket(m_dir.path().toStdString()), familyPart(m_dir.path().toStdString() + "/itself.step", {}), demoFile("lamp-yoke.step")}) {
            const auto one = openPart(file), other = openPart(file);
            const PartMatch match = matchParts(*one, *other);
            QVERIFY(match.count(FoundBy::Same) == one->faces().size() && match.fresh.empty());
            for (std::size_t f = 0; f < match.faces.size(); ++f) QCOMPARE(match.faces[f].now, static_cast<int>(f));
            std::size_t edges = 0, same = 0;
            for (std::size_t e = 0; e < match.edges.size(); ++e) {
                const EdgeInfo& edge = one->edges()[e];
                if (edge.degenerate || edge.faces[0] == edge.faces[1]) continue;
                ++edges;
                same += match.edges[e].now == static_cast<int>(e) && match.edges[e].by == FoundBy::Same;
            }
            QVERIFY2(same == edges, qPrintable(QString("%1 of %2").arg(same).arg(edges)));
        }
    }
    // Some numbers of a part change: no face is taken for another, and hardly one is missed.
    void revisions() {
        Random random(90);
        Score all;
        for (int round = 0; round < 12; ++round) {
            const Family before = anyOf(random);
            Family after = before;
            for (int k = random.integer(1, 3); k > 0; --k) switch (random.integer(0, 8)) {
                case 0:
                    after.length += random.number(0, 6);
                    break;
                case 1:
                    after.height += random.number(0, 5);
                    break;
                case 2:
                    after.pocketX += random.number(-3, 3);
                    break;
                case 3:
                    after.pocketDepth *= random.number(0.7, 1.1);
                    break;
                case 4:
                    after.corner += random.number(-1, 1);
                    break;
                case 5:
                    after.hole += random.number(-0.8, 0.8);
                    break;
                case 6:
                    after.slot = !after.slot;
                    break;
                case 7:
                    after.pocketLength += random.number(-2, 4);
                    break;
                default:
                    after.width += random.number(0, 5);
                }
            const Made was = made(before), is = made(after);
            const PartMatch match = matchParts(*was.part, *is.part);
            const Score s = score(was, is, match);
            QVERIFY2(s.wrong == 0, s.first.c_str());
            all += s;
            if (after.slot && !before.slot)
                for (const int f : match.fresh) QVERIFY2(roleOf(is.part->faces()[index(f)], after).starts_with("slot") || s.missed > 0, "what is new is the slot");
            // Edges lie between the faces that theirs became.
            for (std::size_t e = 0; e < match.edges.size(); ++e) {
                if (!match.edges[e].found()) continue;
                const auto roles = [](const Made& m, std::size_t edge) {
                    const auto [a, b] = m.part->edges()[edge].faces;
                    return std::minmax({roleOf(m.part->faces()[index(a)], m.family), roleOf(m.part->faces()[index(b)], m.family)});
                };
                const auto mine = roles(was, e), theirs = roles(is, index(match.edges[e].now));
                QVERIFY(mine == theirs);
            }
        }
        qInfo("revisions: %d right, %d missed", all.right, all.missed);
        QVERIFY2(all.missed * 50 < all.right, qPrintable(QString("%1 missed, %2 right").arg(all.missed).arg(all.right)));
    }
    // Another part of the family, all its numbers other ones; and with other holes and another slot as well. Nothing is taken for another.
    void families_data() {
        QTest::addColumn<bool>("cousins");
        QTest::newRow("the same features") << false;
        QTest::newRow("others") << true;
    }
    void families() {
        QFETCH(bool, cousins);
        Random random(91);
        Score all;
        for (int round = 0; round < 12; ++round) {
            const Family before = anyOf(random);
            Family after = anyOf(random);
            if (!cousins) {
                after.holes = before.holes;
                after.slot = before.slot;
            }
            const Made was = made(before), is = made(after);
            const Score s = score(was, is, matchParts(*was.part, *is.part));
            QVERIFY2(s.wrong == 0, s.first.c_str());
            all += s;
        }
        qInfo("%d right, %d missed: %s", all.right, all.missed, all.missing.c_str());
        QVERIFY2(all.missed * 20 < all.right, qPrintable(QString("%1 missed, %2 right").arg(all.missed).arg(all.right)));
    }
    // A boss and a pocket that change sides hang together alike but for the way their edges bend: neither is taken for the other.
    void bendsCount() {
        const auto was = openPart(bossAndPocket(m_dir.path().toStdString() + "/bp1.step", 25, 70, 22)),
                   is = openPart(bossAndPocket(m_dir.path().toStdString() + "/bp2.step", 75, 30, 26));
        const PartMatch match = matchParts(*was, *is);
        int found = 0;
        for (std::size_t f = 0; f < match.faces.size(); ++f) {
            if (!match.faces[f].found()) continue;
            ++found;
            // Over the plate's top, in it, or neither.
            const auto level = [](const FaceInfo& face) { return face.centre.z() > 20.0 + 1e-6 ? 1 : face.bounds.low.z() > 10.0 ? -1 : 0; };
            QCOMPARE(level(was->faces()[f]), level(is->faces()[index(match.faces[f].now)]));
        }
        QVERIFY(found >= 8);
    }
    // What is alike in every way is not guessed: a block of equal sides turned on its head has no face that could not be another.
    void nothingIsGuessed() {
        const auto block = openPart(boxStep(m_dir.path().toStdString(), 20, 20, 20)), plate = openPart(drilledPlate(m_dir.path().toStdString()));
        // Of two holes either could be the one that stood midway between them.
        Family one, two;
        one.holes = 1;
        two.holes = 2;
        const Made was = made(one), is = made(two);
        const PartMatch middle = matchParts(*was.part, *is.part);
        for (std::size_t f = 0; f < middle.faces.size(); ++f) QVERIFY(!hole(roleOf(was.part->faces()[f], one)) || !middle.faces[f].found());
        QCOMPARE(middle.fresh.size(), std::size_t(2));
        const PartMatch match = matchParts(*plate, *block);
        for (std::size_t f = 0; f < match.faces.size(); ++f)
            if (match.faces[f].found()) {
                const FaceInfo &a = plate->faces()[f], &b = block->faces()[index(match.faces[f].now)];
                QVERIFY(a.kind == b.kind && a.normal.dot(b.normal) > 0.9);
            }
    }
};

GYRE_TEST(TestMatch)

} // namespace test_match
#include "test_match.moc"
