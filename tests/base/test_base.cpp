#include "Program.h"
#include "Support.h"
#include "base/BoxedWhole.h"
#include "base/File.h"
#include "base/Json.h"
#include "base/Parallel.h"
#include <atomic>
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>

namespace test_base {

using namespace gyre;

struct Counted {
    inline static int alive = 0;
    int value = 7;
    Counted() { ++alive; }
    Counted(const Counted& other) : value(other.value) { ++alive; }
    Counted& operator=(const Counted&) = default;
    ~Counted() { --alive; }
};

class TestBase : public QObject {
    Q_OBJECT
private slots:
    void lengthsAreReadWithTheirUnits() {
        QCOMPARE(parseLength("12", LengthUnit::Millimetre).value(), 12.0);
        QCOMPARE(parseLength("0.02in", LengthUnit::Millimetre).value(), 0.508);
        QCOMPARE(parseLength(" 1/4 in ", LengthUnit::Millimetre).value(), 6.35);
        QCOMPARE(parseLength("2,5", LengthUnit::Millimetre).value(), 2.5);
        QCOMPARE(parseLength("1", LengthUnit::Inch).value(), 25.4);
        QCOMPARE(parseLength("3 mm", LengthUnit::Inch).value(), 3.0);
        for (const char* bad : {"", "x", "1/0", "1e999", "nan", "inf", "5 furlong", "--3"}) QVERIFY2(!parseLength(bad, LengthUnit::Millimetre), bad);
    }
    void anglesAreReadWithTheirUnits() {
        QCOMPARE(parseAngleDegrees("12°").value(), 12.0);
        QVERIFY(std::abs(parseAngleDegrees("0.5rad").value() - 28.64788975654116) < 1e-12);
        QVERIFY(!parseAngleDegrees("5mm"));
    }
    void lengthsAreWrittenWithoutMinusZero() {
        QCOMPARE(formatLength(-0.001, LengthUnit::Millimetre), std::string("0.00"));
        QCOMPARE(formatLength(25.4, LengthUnit::Inch), std::string("1.000"));
    }
    void boxedValuesAreCopiedMovedAndEndedAsTheyThemselvesWouldBe() {
        {
            Boxed<Counted> a;
            QCOMPARE(a->value, 7);
            Boxed<Counted> b = a;
            b->value = 8;
            QCOMPARE(a->value, 7);
            a = b;
            b->value = 9;
            QCOMPARE((*a).value, 8);
            const Boxed<Counted>& same = a;
            a = same;
            QCOMPARE(a->value, 8);
            Boxed<Counted> moved = std::move(b);
            QCOMPARE(moved->value, 9);
            QCOMPARE(Counted::alive, 2);
            b = a; // what was moved from may be assigned to
            QCOMPARE(b->value, 8);
            Counted& inside = b;
            inside.value = 10;
            QCOMPARE(b->value, 10);
            Counted plain;
            plain.value = 11;
            b = plain;
            QCOMPARE(b->value, 11);
            std::vector<Boxed<Counted>> many(5, a);
            for (int i = 0; i < 5; ++i) many[static_cast<std::size_t>(i)]->value = i;
            many.erase(many.begin() + 1);
            std::swap(many[0], many[3]);
            QCOMPARE(many[0]->value, 4);
            QCOMPARE(many[1]->value, 2);
            QCOMPARE(many[3]->value, 0);
            QCOMPARE(Counted::alive, 8); // a, b, moved, plain and four
        }
        QCOMPARE(Counted::alive, 0);
    }
    void parallelLoopsCoverEveryIndexOnceAndStopWhenCancelled() {
        std::vector<int> hits(10007, 0);
        QVERIFY(parallelFor(hits.size(), 13, [&](std::size_t i) { ++hits[i]; }));
        QVERIFY(std::all_of(hits.begin(), hits.end(), [](int h) { return h == 1; }));
        Progress progress;
        progress.cancel();
        std::atomic<int> done{0};
        QVERIFY(!parallelFor(
            1000000, 1, [&](std::size_t) { ++done; }, &progress));
        QCOMPARE(done.load(), 0);
    }
    void progressSpansNest() {
        std::vector<double> told;
        Progress p([&](double f, const std::string&) { told.push_back(f); });
        const Progress::Span outer(p, 0.5, 1.0);
        {
            const Progress::Span inner(p, 0.0, 0.5);
            p.report(1.0, "");
        }
        p.report(1.0, "");
        QCOMPARE(told, (std::vector<double>{0.75, 1.0}));
    }
    void jsonMistakesNameTheirPlace() {
        const auto cut = parseJson("{\"a\": [1, 2", "f.json");
        QVERIFY(!cut);
        QVERIFY(cut.error().text().find("cut short") != std::string::npos);
        const auto broken = parseJson("{\n  \"a\": ,\n}", "f.json");
        QVERIFY(!broken && broken.error().place.find("line 2") != std::string::npos);
        QVERIFY(!parseJson(std::string(100, '[') + std::string(100, ']'), "deep"));
        QVERIFY(!parseJson("{\"a\": 1e999}", "huge"));
        std::optional<Error> error;
        const Json j = Json::parse(R"({"a": {"b": "text"}})");
        const JsonView v(j, "", error);
        (void)v.object("a").number("b", 0, 1);
        QVERIFY(error && error->place == "/a/b");
    }
    void aKilledSaveLosesNothing() {
        QTemporaryDir dir;
        const std::filesystem::path file = dir.filePath("job.json").toStdString();
        const std::string small(2000, 'a'), large(3'000'000, 'b');
        QVERIFY(writeFileAtomic(file, small));
        for (int round = 0; round < 12; ++round) {
            const pid_t child = fork();
            if (child == 0) {
                for (;;) {
                    (void)writeFileAtomic(file, large);
                    (void)writeFileAtomic(file, small);
                }
            }
            usleep(static_cast<useconds_t>(1500 + 2700 * round)); // moments of the kill, not a wait for a result
            kill(child, SIGKILL);
            int status = 0;
            waitpid(child, &status, 0);
            const std::string now = readFile(file, 1 << 24).value();
            QVERIFY(now == small || now == large);
        }
    }
    void filesThatCannotBeWrittenLeaveTheOldOne() {
        QVERIFY(!writeFileAtomic("/proc/no/such/place", "x"));
        QVERIFY(!readFile("/proc/no/such/place", 10));
        QTemporaryDir dir;
        const std::filesystem::path file = dir.filePath("a").toStdString();
        QVERIFY(writeFileAtomic(file, "one", true));
        QVERIFY(writeFileAtomic(file, "two", true));
        QCOMPARE(readFile(file.string() + "~", 100).value(), std::string("one"));
        QVERIFY(!readFile(file, 2));
    }
};

GYRE_TEST(TestBase)

} // namespace test_base

template class gyre::Boxed<test_base::Counted>; // all of it compiles, not only what is asked here

#include "test_base.moc"
