// Parts read in a process of their own: the same part, and whatever happens there is told.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "base/Text.h"
#include "part/Aside.h"
#include <QFile>
#include <sys/stat.h>

namespace test_aside {

using namespace gyre;
namespace fs = std::filesystem;

class TestAside : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    AsideReader m_reader;
    /// A program that does what it is told, in place of the reader.
    AsideReader standIn(const char* script) const {
        const fs::path file = fs::path(m_dir.path().toStdString()) / "reader";
        (void)writeFileAtomic(file, std::string("#!/bin/sh\n") + script + "\n");
        ::chmod(file.c_str(), 0755);
        return {file};
    }
    std::string opened(const AsideReader& reader) const {
        Progress quiet;
        const auto part = openAside(reader, test::demoFile("lamp-yoke.step"), 0.02, quiet);
        return part ? std::string() : part.error().text();
    }

private slots:
    void initTestCase() {
        m_reader.program = fs::path(GYRE_BIN_DIR) / "gyre";
        QVERIFY(fs::exists(m_reader.program));
    }
    void theSamePartComesOver_data() {
        QTest::addColumn<QString>("file");
        for (const char* f : {"lantern-collar.step", "lamp-yoke.step", "pierced-dome.step", "whisper-runner.step"}) QTest::newRow(f) << f;
    }
    void theSamePartComesOver() {
        QFETCH(QString, file);
        Progress quiet;
        const fs::path path = test::demoFile(file.toStdString());
        const auto here = Part::open(path, 0.02, quiet);
        std::vector<double> told;
        Progress listening([&](double f, const std::string&) { told.push_back(f); });
        const auto aside = openAside(m_reader, path, 0.02, listening);
        QVERIFY2(here && aside, aside ? "" : aside.error().text().c_str());
        QCOMPARE((*aside)->name(), (*here)->name());
        QVERIFY(std::abs((*aside)->volume() - (*here)->volume()) < 1e-9 * (*here)->volume());
        QVERIFY((*aside)->mesh().points == (*here)->mesh().points && (*aside)->mesh().triangles == (*here)->mesh().triangles &&
                (*aside)->mesh().faces == (*here)->mesh().faces);
        QCOMPARE((*aside)->edges().size(), (*here)->edges().size());
        for (std::size_t f = 0; f < (*here)->faces().size(); ++f) { // directions are made unit again when they are read: the last digit may turn
            QVERIFY(((*aside)->faces()[f].centre - (*here)->faces()[f].centre).norm() < 1e-9);
            QVERIFY(std::abs((*aside)->faces()[f].area - (*here)->faces()[f].area) < 1e-9 * (1.0 + (*here)->faces()[f].area));
        }
        QVERIFY(told.size() > 5 && std::is_sorted(told.begin(), told.end()));
    }
    void bodiesOfAssembliesComeOver() {
        const fs::path file = test::pinnedPlate(m_dir.path().toStdString());
        Progress quiet;
        const auto here = bodiesIn(file, quiet).value(), aside = bodiesAside(m_reader, file, quiet).value();
        QCOMPARE(aside.size(), here.size());
        for (std::size_t i = 0; i < here.size(); ++i) {
            QCOMPARE(aside[i].name, here[i].name);
            QVERIFY(aside[i].colour == here[i].colour && aside[i].volume == here[i].volume && aside[i].bounds.high == here[i].bounds.high);
            const auto part = openAside(m_reader, file, 0.02, quiet, {}, here[i].name);
            QVERIFY(part && (*part)->name() == here[i].name && (*part)->colour() == here[i].colour);
        }
        QVERIFY(bodiesAside(m_reader, test::demoFile("lamp-yoke.step"), quiet)->empty());
    }
    void damagedFilesAreToldWithTheirLine() {
        const fs::path file = fs::path(m_dir.path().toStdString()) / "bad.step";
        std::string text = readFile(test::demoFile("lamp-yoke.step"), 1 << 28).value();
        text.replace(text.find("CARTESIAN_POINT(") + 16, 2, "((");
        QVERIFY(writeFileAtomic(file, text));
        Progress quiet;
        const auto here = Part::open(file, 0.02, quiet), aside = openAside(m_reader, file, 0.02, quiet);
        QVERIFY(!here && !aside);
        QCOMPARE(aside.error().text(), here.error().text());
    }
    // Falling over, asking for all memory, never ending, saying nonsense, not being there.
    void whateverHappensThereIsTold() {
        QVERIFY2(opened(standIn("kill -SEGV $$")).find("fell over") != std::string::npos, opened(standIn("kill -SEGV $$")).c_str());
        QVERIFY(opened(standIn("exit 1")).find("memory") != std::string::npos);
        QVERIFY(opened(standIn("exit 0")).find("lamp-yoke.step") != std::string::npos);
        QVERIFY(opened(standIn("while [ \"$1\" != --out ]; do shift; done; head -c 5000 /dev/urandom > \"$2\"; exit 0")).find("lamp-yoke.step") != std::string::npos);
        QVERIFY(opened(standIn("head -c 3000000 /dev/zero; exit 1")).find("lamp-yoke.step") != std::string::npos);
        AsideReader slow = standIn("exec sleep 100");
        slow.seconds = 0.3;
        QVERIFY(opened(slow).find("still being read") != std::string::npos);
        QVERIFY(opened({fs::path(m_dir.path().toStdString()) / "none"}).find("cannot be started") != std::string::npos);
        AsideReader poor = m_reader;
        poor.bytes = 60u << 20;
        QVERIFY(!opened(poor).empty());
        // Nothing of it stays in the folder for temporary files.
        std::size_t left = 0;
        for (const auto& e : fs::directory_iterator(fs::temp_directory_path())) left += e.path().filename().string().starts_with("gyre-aside-");
        QCOMPARE(left, std::size_t(0));
    }
    void callingOffEndsTheReader() {
        Progress progress;
        progress.cancel();
        const auto part = openAside(standIn("exec sleep 100"), test::demoFile("lamp-yoke.step"), 0.02, progress);
        QVERIFY(!part && part.error().cancelled);
    }
    // What would make the kernel call itself for ever, or ask for all memory there is.
    void hostileStepFilesAreRefused() {
        std::string deep = readFile(test::demoFile("lamp-yoke.step"), 1 << 28).value();
        deep.insert(deep.find("DATA;") + 5, "\n#999999=X(" + std::string(100000, '(') + std::string(100000, ')') + ");");
        const fs::path file = fs::path(m_dir.path().toStdString()) / "deep.step";
        QVERIFY(writeFileAtomic(file, deep));
        Progress quiet;
        const auto part = Part::open(file, 0.02, quiet);
        QVERIFY(!part && part.error().text().find("deep") != std::string::npos);
        // A unit of kilometres for millimetres.
        std::string wide = readFile(test::demoFile("lamp-yoke.step"), 1 << 28).value();
        const auto unit = wide.find(".MILLI.");
        QVERIFY(unit != std::string::npos);
        for (auto at = wide.find(".MILLI."); at != std::string::npos; at = wide.find(".MILLI.", at)) wide.replace(at, 7, ".MEGA.");
        QVERIFY(writeFileAtomic(file, wide));
        const auto large = openAside(m_reader, file, 0.02, quiet);
        QVERIFY2(!large && large.error().text().find("unit") != std::string::npos, large ? "" : large.error().text().c_str());
    }
    void textsOfOthersAreDecoded() {
        QCOMPARE(utf8Of("Straße"), std::string("Straße"));
        QCOMPARE(utf8Of("Stra\xdf"
                        "e \x80"),
                 std::string("Straße €"));
        QVERIFY(isUtf8(utf8Of("\xff\xfe\x81\xc0\xaf")) && !isUtf8("\xc0\xaf") && !isUtf8("\xed\xa0\x80") && !isUtf8("\xf4\x90\x80\x80") && isUtf8("\xf0\x9f\x94\xa7"));
        QCOMPARE(cutText("äöü", 3), std::string("ä"));
        QCOMPARE(cutText("äöü", 4), std::string("äö"));
        QVERIFY(numberIn("1.5") && *numberIn("+1.5") == 1.5 && !numberIn("1,5") && !numberIn("1.5x") && !numberIn(""));
        test::Random random(81);
        for (int i = 0; i < 20000; ++i) {
            std::string bytes;
            for (int k = random.integer(0, 12); k > 0; --k) bytes += static_cast<char>(random.integer(0, 255));
            QVERIFY(isUtf8(utf8Of(bytes)) && isUtf8(cutText(utf8Of(bytes), 5)));
        }
    }
};

GYRE_TEST(TestAside)

} // namespace test_aside
#include "test_aside.moc"
