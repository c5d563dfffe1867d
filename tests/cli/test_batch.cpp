// Many jobs in one call: which are safe, what is kept, what is done again, what a kill leaves.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "base/Json.h"
#include <QProcess>
#include <QTemporaryDir>
#include <filesystem>
#include <fstream>

namespace test_batch {

using namespace gyre;
namespace fs = std::filesystem;

class TestBatch : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    fs::path m_jobs, m_out;

    struct Ran {
        int code = 0;
        OrderedJson report;
        std::string said;
        [[nodiscard]] OrderedJson job(const std::string& name) const {
            for (const auto& j : report["jobs"])
                if (j.value("job", "").find("/" + name + ".gyre.json") != std::string::npos) return j;
            return {};
        }
    };
    Ran run(const QStringList& words) const {
        QProcess p;
        p.start(QStringLiteral(GYRE_BIN_DIR "/gyre"), QStringList{"batch"} + words + QStringList{"--out", QString::fromStdString(m_out.string())});
        p.waitForFinished(-1);
        Ran r{p.exitCode(), OrderedJson::parse(readFile(m_out / "report.json", 1u << 24).value_or("{}"), nullptr, false), p.readAllStandardError().toStdString()};
        return r;
    }
    static QString q(const fs::path& p) { return QString::fromStdString(p.string()); }

private slots:
    void initTestCase() {
        QVERIFY(m_dir.isValid());
        m_jobs = fs::path(m_dir.path().toStdString()) / "jobs";
        m_out = fs::path(m_dir.path().toStdString()) / "out";
        fs::create_directory(m_jobs);
        for (const auto& e : fs::directory_iterator(test::demoFile("").parent_path())) {
            const std::string name = e.path().filename().string();
            if (name.ends_with(".step") || name.ends_with(".stl") || name.ends_with(".machine.json") || name.starts_with("yoke-edges.gyre") ||
                name.starts_with("lantern-collar.gyre"))
                fs::copy(e.path(), m_jobs / name);
        }
        std::ofstream(m_jobs / "broken.gyre.json") << "{\"format\": \"gyre-job\"";
    }
    void safeStoppedAndFailedAreToldApart() {
        const Ran r = run({q(m_jobs), "--work", "post"});
        QCOMPARE(r.code, 1);
        QCOMPARE(r.report.value("safe", -1), 1);
        QCOMPARE(r.report.value("stops", -1), 1);
        QCOMPARE(r.report.value("failed", -1), 1);
        QCOMPARE(r.job("yoke-edges").value("state", ""), std::string("safe"));
        QCOMPARE(r.job("lantern-collar").value("state", ""), std::string("stop"));
        QVERIFY(r.job("lantern-collar")["stops"][0].get<std::string>().find("holder") != std::string::npos);
        QVERIFY(!r.job("broken").value("error", "").empty());
        QVERIFY2(r.said.find("[3/3]") != std::string::npos, r.said.c_str());
        // Nothing in the report that its schema does not know, nothing missing.
        const auto schema = OrderedJson::parse(readFile(fs::path(GYRE_SOURCE_DIR) / "docs/formats/batch.schema.json", 1u << 20).value());
        const auto holds = [](const OrderedJson& value, const OrderedJson& form) {
            for (const auto& word : form["required"])
                if (!value.contains(word.get<std::string>())) return word.get<std::string>() + " is missing";
            for (const auto& [word, v] : value.items()) {
                if (word == "format" || word == "version" || word == "work" || word == "dialect" || word == "program") continue;
                if (!form["properties"].contains(word)) return word + " is not described";
            }
            return std::string();
        };
        QCOMPARE(holds(r.report, schema), std::string());
        for (const auto& j : r.report["jobs"]) QCOMPARE(holds(j, schema["properties"]["jobs"]["items"]), std::string());
        // The safe one has its program, the same as from `gyre post`; the other has none.
        QVERIFY(!fs::exists(m_out / "lantern-collar.nc"));
        QProcess post;
        post.start(QStringLiteral(GYRE_BIN_DIR "/gyre"), {"--quiet", "post", q(m_jobs / "yoke-edges.gyre.json"), "--out", q(m_out / "by-hand.nc")});
        post.waitForFinished(-1);
        QCOMPARE(readFile(m_out / "yoke-edges.nc", 1u << 24).value(), readFile(m_out / "by-hand.nc", 1u << 24).value());
        const std::string page = readFile(m_out / "report.html", 1u << 24).value();
        for (const char* word : {"1 of 3 jobs are safe", "✓ safe", "▲ Stop", "✕ failed", "yoke-edges.nc"}) QVERIFY2(page.find(word) != std::string::npos, word);
    }
    void whatIsUnchangedIsKept() {
        const auto before = readFile(m_out / "yoke-edges.result.json", 1u << 24).value();
        Ran r = run({q(m_jobs / "yoke-edges.gyre.json"), "--work", "post"});
        QCOMPARE(r.code, 0);
        QVERIFY(r.job("yoke-edges").value("kept", false));
        QVERIFY(r.said.find("as before") != std::string::npos);
        // Another work, its program gone or changed, or a changed input: done again.
        fs::remove(m_out / "yoke-edges.nc");
        r = run({q(m_jobs / "yoke-edges.gyre.json"), "--work", "post"});
        QVERIFY(!r.job("yoke-edges").value("kept", true) && fs::exists(m_out / "yoke-edges.nc"));
        QCOMPARE(readFile(m_out / "yoke-edges.result.json", 1u << 24).value(), before);
        std::string text = readFile(m_jobs / "yoke-edges.gyre.json", 1u << 24).value();
        text.replace(text.find("Lamp yoke, edges"), 16, "Lamp yoke, other");
        std::ofstream(m_jobs / "yoke-edges.gyre.json") << text;
        r = run({q(m_jobs / "yoke-edges.gyre.json"), "--work", "post"});
        QVERIFY(!r.job("yoke-edges").value("kept", true));
        QCOMPARE(r.job("yoke-edges").value("name", ""), std::string("Lamp yoke, other"));
        std::ofstream(m_jobs / "yoke-riser.step", std::ios::app) << "\n";
        QVERIFY(!run({q(m_jobs / "yoke-edges.gyre.json"), "--work", "post"}).job("yoke-edges").value("kept", true));
        QVERIFY(!run({q(m_jobs / "yoke-edges.gyre.json")}).job("yoke-edges").value("kept", true)); // to prove is another work
    }
    // A list with a comment, a path from where it lies, and one job twice.
    void aList() {
        std::ofstream(m_jobs / "tonight.txt") << "# tonight\nyoke-edges.gyre.json\n\n" << (m_jobs / "yoke-edges.gyre.json").string() << "\n";
        const Ran r = run({q(m_jobs / "tonight.txt")});
        QCOMPARE(r.code, 0);
        QCOMPARE(r.report["jobs"].size(), std::size_t(1));
        std::ofstream(m_jobs / "empty.txt") << "# nothing\n";
        QCOMPARE(run({q(m_jobs / "empty.txt")}).code, 1);
    }
    // Killed in the middle: what was done is kept, the rest is done then.
    void aKilledBatchGoesOn() {
        fs::remove_all(m_out);
        QProcess p;
        p.start(QStringLiteral(GYRE_BIN_DIR "/gyre"),
                {"batch", "--at-once", "1", q(m_jobs / "yoke-edges.gyre.json"), q(m_jobs / "lantern-collar.gyre.json"), "--out", q(m_out)});
        QTRY_VERIFY_WITH_TIMEOUT(fs::exists(m_out / "yoke-edges.result.json"), 120000);
        p.kill();
        p.waitForFinished(-1);
        QVERIFY(!fs::exists(m_out / "report.json"));
        const Ran r = run({q(m_jobs / "yoke-edges.gyre.json"), q(m_jobs / "lantern-collar.gyre.json")});
        QCOMPARE(r.code, 3);
        QVERIFY(r.job("yoke-edges").value("kept", false));
        QCOMPARE(r.job("lantern-collar").value("state", ""), std::string("stop"));
    }
    // Files of others in the folder stay what they are.
    void filesOfOthersAreNotWrittenOver() {
        fs::remove_all(m_out);
        fs::create_directory(m_out);
        std::ofstream(m_out / "yoke-edges.nc") << "mine\n";
        QCOMPARE(run({q(m_jobs / "yoke-edges.gyre.json"), "--work", "post"}).code, 1);
        QCOMPARE(readFile(m_out / "yoke-edges.nc", 100).value(), std::string("mine\n"));
        fs::rename(m_out / "yoke-edges.nc", m_out / "report.json");
        QCOMPARE(run({q(m_jobs / "yoke-edges.gyre.json")}).code, 1);
        QCOMPARE(readFile(m_out / "report.json", 100).value(), std::string("mine\n"));
    }
};

GYRE_TEST(TestBatch)

} // namespace test_batch
#include "test_batch.moc"
