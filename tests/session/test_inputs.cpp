// What is known by what is in it: files, stages, proofs.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "base/Inputs.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "session/Sending.h"
#include <QFile>
#include <fcntl.h>
#include <set>
#include <sys/stat.h>

namespace test_inputs {

using namespace gyre;
namespace fs = std::filesystem;

class TestInputs : public QObject {
    Q_OBJECT
    QTemporaryDir m_dir;
    fs::path at(const char* name) const { return fs::path(m_dir.path().toStdString()) / name; }

private slots:
    // What a long session has tried is not kept for ever; what the last few workplaces used is.
    void aWorkshopForgets() {
        Job job = openJob(test::demoFile("dome-setup.gyre.json")).value();
        const auto stock = std::find_if(job.bodies.begin(), job.bodies.end(), [](const JobBody& b) { return b.shape.has_value(); });
        QVERIFY(stock != job.bodies.end());
        Workshop workshop{fs::path(GYRE_DEMO_DIR)};
        Progress progress;
        const auto first = workshop.placeFor(job, progress).value();
        const std::size_t few = workshop.kept();
        for (int i = 1; i <= 60; ++i) {
            stock->shape->high.z() += 0.25;
            stock->shape->radius += 0.25;
            stock->shape->allowance += 0.25;
            QVERIFY(workshop.placeFor(job, progress));
        }
        QVERIFY2(workshop.kept() > few && workshop.kept() <= few + 20, qPrintable(QString::number(workshop.kept())));
        QVERIFY(workshop.placeFor(job, progress).value()->part == first->part); // used every time
    }
    // Files that an assembly refers to count as its content: another one, one that goes and one that comes back change what rests on them.
    void filesOfAnAssemblyAreItsContent() {
        const QTemporaryDir folder;
        const fs::path at = folder.path().toStdString(), file = test::pinnedPlate(at, true);
        for (const auto& e : fs::directory_iterator(GYRE_DEMO_DIR))
            if (e.path().filename().string().ends_with(".machine.json") || e.path().extension() == ".stl") fs::copy(e.path(), at / e.path().filename());
        const auto others = otherFilesOf(file).value().there;
        QCOMPARE(others.size(), std::size_t(2));
        const fs::path other = others.front();
        Job job;
        job.machine = "heron-5t.machine.json";
        job.bodies = {{"plate", "part", file.filename().string()}};
        const auto shelf = std::make_shared<Shelf>();
        Workshop workshop(at, {}, shelf);
        Progress progress;
        const auto opened = workshop.placeFor(job, progress);
        QVERIFY2(opened, opened ? "" : opened.error().text().c_str());
        const auto whole = *opened;
        QVERIFY(std::any_of(whole->inputs.begin(), whole->inputs.end(), [&](const InputFile& f) { return f.file == other; }));
        QCOMPARE(workshop.placeFor(job, progress).value()->key, whole->key);
        const fs::path hidden = other.string() + ".away";
        fs::rename(other, hidden);
        const auto fewer = workshop.placeFor(job, progress).value();
        QVERIFY(fewer->key != whole->key && fewer->part->volume() < whole->part->volume() - 1.0);
        fs::rename(hidden, other);
        const auto again = workshop.placeFor(job, progress).value();
        QCOMPARE(again->key, whole->key);
        QVERIFY(std::abs(again->part->volume() - whole->part->volume()) < 1e-9);
        {
            QFile f(QString::fromStdString(other.string()));
            QVERIFY(f.open(QIODevice::Append) && f.write("\n") == 1);
        }
        QVERIFY(workshop.placeFor(job, progress).value()->key != whole->key);
        // Another workshop at the same shelf has the same part in its hands, not read again; one without reads its own.
        const auto last = workshop.placeFor(job, progress).value();
        Workshop second(at, {}, shelf), alone(at);
        QVERIFY(second.placeFor(job, progress).value()->part == last->part);
        QVERIFY(alone.placeFor(job, progress).value()->part != last->part);
    }
    // One of the files becomes an assembly itself: what it refers to then counts as well.
    void whatAReferredFileRefersToIsContentToo() {
        const QTemporaryDir folder, deeper;
        const fs::path at = folder.path().toStdString(), file = test::pinnedPlate(at, true);
        for (const auto& e : fs::directory_iterator(GYRE_DEMO_DIR))
            if (e.path().filename().string().ends_with(".machine.json") || e.path().extension() == ".stl") fs::copy(e.path(), at / e.path().filename());
        const fs::path other = otherFilesOf(file).value().there.front();
        Job job;
        job.machine = "heron-5t.machine.json";
        job.bodies = {{"plate", "part", file.filename().string()}};
        Workshop workshop(at);
        Progress progress;
        const auto whole = workshop.placeFor(job, progress).value();
        // The same plate once more, its own parts under other names, takes the place of one part.
        const fs::path below = deeper.path().toStdString(), second = test::pinnedPlate(below, true);
        std::string text = readFile(second, 1u << 20).value();
        fs::path last;
        const auto parts = otherFilesOf(second).value().there;
        for (const fs::path& part : parts) {
            const std::string name = part.filename().string();
            last = at / ("deeper-" + name);
            fs::copy(part, last);
            for (auto p = text.find(name); p != std::string::npos; p = text.find(name, p + name.size() + 7)) text.replace(p, name.size(), "deeper-" + name);
        }
        QVERIFY(writeFileAtomic(other, text));
        const auto nested = workshop.placeFor(job, progress).value();
        QVERIFY(nested->key != whole->key);
        QVERIFY(std::any_of(nested->inputs.begin(), nested->inputs.end(), [&](const InputFile& f) { return f.file.filename() == last.filename(); }));
        {
            QFile f(QString::fromStdString(last.string()));
            QVERIFY(f.open(QIODevice::Append) && f.write("\n") == 1);
        }
        QVERIFY(workshop.placeFor(job, progress).value()->key != nested->key);
    }
    void aFileIsItsContent() {
        FileContents contents;
        QVERIFY(writeFileAtomic(at("a"), "one") && writeFileAtomic(at("b"), "one") && writeFileAtomic(at("c"), "two") && writeFileAtomic(at("d"), ""));
        const auto a = contents.of(at("a"));
        QVERIFY(a && *a == *contents.of(at("b")) && *a != *contents.of(at("c")) && *contents.of(at("d")) != 0);
        QVERIFY(!contents.of(at("none")) && !contents.of(m_dir.path().toStdString()));
        // Same size, same time: still another file.
        struct stat before {};
        QCOMPARE(::stat(at("a").c_str(), &before), 0);
        {
            QFile f(QString::fromStdString(at("a").string()));
            QVERIFY(f.open(QIODevice::WriteOnly) && f.write("eno") == 3);
        }
        const timespec times[2] = {before.st_atim, before.st_mtim};
        QCOMPARE(::utimensat(AT_FDCWD, at("a").c_str(), times, 0), 0);
        QVERIFY(*contents.of(at("a")) != *a);
        QCOMPARE(changedFiles({{at("a"), *a}, {at("b"), *a}}, contents), std::vector<fs::path>{at("a")});
    }
    void theCacheKeepsWhatWasUsedLast() {
        StageCache cache(100);
        for (std::uint64_t k = 1; k <= 4; ++k) cache.keep<int>(k, std::make_shared<const int>(static_cast<int>(k)), 25);
        QCOMPARE(cache.bytes(), std::size_t(100));
        QVERIFY(cache.find<int>(1)); // used again: the next to go is 2
        cache.keep<int>(5, std::make_shared<const int>(5), 25);
        QVERIFY(cache.find<int>(1) && !cache.find<int>(2) && cache.find<int>(3) && cache.find<int>(5));
        QVERIFY(!cache.find<double>(1));                         // another type is another thing
        cache.keep<int>(6, std::make_shared<const int>(6), 101); // larger than all there is
        QVERIFY(!cache.find<int>(6) && cache.find<int>(5));
        cache.keep<int>(7, std::make_shared<const int>(7), 100);
        QVERIFY(cache.find<int>(7) && !cache.find<int>(5) && cache.bytes() == 100);
    }
    // Twenty operations and one edit: what was not touched comes from the cache.
    void manyOperationsAreNotComputedAgain() {
        Job job = test::demoResults().job;
        const Recipe first = job.route.front();
        for (int i = 1; i < 20; ++i) {
            Recipe r = first;
            r.id = "copy" + std::to_string(i);
            r.pattern->spacing = 3.0 + 0.1 * i;
            r.pattern->by = RowsBy::Spacing;
            job.route.push_back(r);
        }
        Workshop workshop(GYRE_DEMO_DIR);
        StageCache cache;
        Progress quiet;
        const auto before = computeJob(job, workshop, cache, quiet).value();
        job.route.back().pattern->spacing = 7.0;
        const auto after = computeJob(job, workshop, cache, quiet).value();
        QVERIFY(before.operations.size() >= 20);
        for (std::size_t i = 0; i + 1 < before.operations.size(); ++i) QCOMPARE(after.operations[i]->motion.get(), before.operations[i]->motion.get());
        QVERIFY(after.operations.back()->motion != before.operations.back()->motion);
    }
    // Every kind of input file is changed on disk: the key of what rests on it changes, and it is told before a program is stored. Nothing changed: nothing does.
    void everyInputFileCounts() {
        const fs::path folder = at("job");
        fs::create_directory(folder);
        for (const auto& e : fs::directory_iterator(GYRE_DEMO_DIR))
            if (e.is_regular_file()) fs::copy(e.path(), folder / e.path().filename());
        Job job = openJob(folder / "barrel-work.gyre.json").value();
        job.machine = "heron-5t.machine.json"; // whose coolant ring is a mesh
        JobBody stock;
        stock.name = "left by another";
        stock.role = "stock";
        stock.file = "moth-relief.stl";
        job.bodies.push_back(stock);
        JobBody clamp;
        clamp.name = "clamp";
        clamp.role = "fixture";
        clamp.file = "lamp-yoke.step";
        job.bodies.push_back(clamp);
        Workshop workshop(folder);
        Progress quiet;
        const auto keys = [&](const Workplace& place) {
            std::vector<std::uint64_t> out;
            for (const Recipe& r : job.worked()) out.push_back(operationKey(place.keyFor(r), r, job.tool(r.tool)));
            return out;
        };
        auto place = workshop.placeFor(job, quiet).value();
        const auto plain = keys(*place);
        QCOMPARE(keys(*workshop.placeFor(job, quiet).value()), plain);
        std::set<std::string> changed;
        for (const JobBody& b : job.bodies)
            if (!b.file.empty()) changed.insert(b.file);
        changed.insert({job.machine, "coolant-ring.stl"});
        QVERIFY(changed.size() >= 5);
        int drawings = 0;
        for (const std::string& name : changed) {
            const std::string whole = readFile(folder / name, 1u << 30).value();
            std::string other = whole;
            if (name.ends_with(".stl"))
                other[90] = static_cast<char>(other[90] ^ 1); // a number of the first triangle
            else if (name.ends_with(".step"))
                other.insert(other.find("DATA;") + 5, "\n/* another */");
            else if (name.ends_with(".svg"))
                other += "<!-- another -->";
            else if (name.ends_with(".dxf"))
                other = "999\nanother\n" + other;
            else
                other.replace(other.find("\"low\": -"), 8, "\"low\": -1"); // of a joint
            const struct timespec times[2] = {{0, UTIME_OMIT}, {1'700'000'000, 0}};
            QVERIFY(writeFileAtomic(folder / name, other));
            QCOMPARE(::utimensat(AT_FDCWD, (folder / name).c_str(), times, 0), 0);
            FileContents contents;
            const auto told = changedFiles(place->inputs, contents);
            QVERIFY2(told.size() == 1 && told.front().filename() == name, name.c_str());
            const auto now = workshop.placeFor(job, quiet);
            QVERIFY2(now, now ? "" : now.error().text().c_str());
            const auto fresh = keys(**now);
            for (std::size_t i = 0; i < fresh.size(); ++i) QVERIFY2(fresh[i] != plain[i], (name + " " + std::to_string(i)).c_str());
            if (name.ends_with(".svg") || name.ends_with(".dxf")) {
                // Rows bounded by a drawing, or along it, rest on it; others do not.
                Recipe bounded, followed;
                bounded.where->by = WhereCurves::Inside;
                bounded.where->curve = followed.pattern->curve = "a drawing";
                for (const Recipe& r : {bounded, followed}) QVERIFY2((*now)->keyFor(r) != place->keyFor(r), name.c_str());
                QCOMPARE((*now)->keyFor(Recipe()), place->keyFor(Recipe()));
                ++drawings;
            }
            QVERIFY(writeFileAtomic(folder / name, whole));
            place = workshop.placeFor(job, quiet).value();
            QCOMPARE(keys(*place), plain);
        }
        QVERIFY(drawings > 0);
    }
    void namesOfFilesAreMadeHarmless() {
        QCOMPARE(harmlessName("op1"), std::string("op1"));
        QCOMPARE(harmlessName("Flare-2_b.x"), std::string("Flare-2_b.x"));
        std::set<std::string> names;
        const std::vector<std::string> wild{
            "../x", "/etc/passwd", "..", ".", "", ".hidden", "a/b", "a\\b", "a\nb", std::string("a\0b", 3), "ä", "a b", std::string(5000, 'x'), std::string(5000, 'y'),
            "CON",  "x.",          "-",  "~"};
        for (const std::string& w : wild) {
            const std::string n = harmlessName(w);
            QVERIFY2(!n.empty() && n.size() < 120 && n[0] != '.' && n.find('/') == std::string::npos && n.find('\n') == std::string::npos &&
                         n.find('\0') == std::string::npos,
                     n.c_str());
            QVERIFY2(names.insert(n).second, n.c_str());
        }
    }
    void savedFilesKeepLinksAndModes() {
        QVERIFY(writeFileAtomic(at("saved"), "old"));
        QCOMPARE(::chmod(at("saved").c_str(), 0640), 0);
        fs::create_symlink(at("saved"), at("link"));
        QVERIFY(writeFileAtomic(at("link"), "new", true));
        QVERIFY(fs::is_symlink(at("link")));
        QCOMPARE(readFile(at("saved"), 100).value(), std::string("new"));
        QCOMPARE(readFile(at("saved~"), 100).value(), std::string("old"));
        struct stat s {};
        QCOMPARE(::stat(at("saved").c_str(), &s), 0);
        QCOMPARE(s.st_mode & 0777u, mode_t(0640));
        fs::create_hard_link(at("saved"), at("other"));
        QVERIFY(writeFileAtomic(at("saved"), "newer", true));
        QCOMPARE(readFile(at("other"), 100).value(), std::string("newer"));
        QCOMPARE(readFile(at("saved~"), 100).value(), std::string("new"));
        QVERIFY(!writeFileAtomic(at("none") / "x", "y"));
    }
    void litterOfKilledSavesIsCleared() {
        std::set<std::string> stay{"a.txt.part", "a.txt.x1.part", "b.txt.999999.part"};
        for (const std::string& n : stay) QVERIFY(writeFileAtomic(at(n.c_str()), "kept"));
        const fs::path litter = at("a.txt.4194400.part"), mine = at(("a.txt." + std::to_string(::getppid()) + ".part").c_str());
        QVERIFY(writeFileAtomic(litter, "half") && writeFileAtomic(mine, "being written"));
        QVERIFY(writeFileAtomic(at("a.txt"), "whole"));
        QVERIFY(!fs::exists(litter) && fs::exists(mine));
        for (const std::string& n : stay) QVERIFY2(fs::exists(at(n.c_str())), n.c_str());
    }
    void programsAreNotWrittenOverWhatMustStay() {
        const fs::path job = at("x.gyre.json");
        QVERIFY(writeFileAtomic(job, "{\"format\": \"gyre-job\"}") && writeFileAtomic(at("p.nc"), "%") && writeFileAtomic(at("tools"), "{\"format\": \"gyre-tools\"}") &&
                writeFileAtomic(at("m.STEP"), "ISO") && writeFileAtomic(at("input"), "0"));
        fs::create_symlink(job, at("alias"));
        QVERIFY(mayBeReplaced(at("p.nc"), job, {}) && mayBeReplaced(at("new.nc"), job, {}));
        for (const char* no : {"x.gyre.json", "alias", "tools", "m.STEP", "input"}) QVERIFY2(!mayBeReplaced(at(no), job, {{at("input"), 1}}), no);
    }
    void jobsInOtherFoldersOpen() {
        Job job;
        job.machine = "m.machine.json";
        job.bodies = {{"a", "part", "a.step"}, {"b", "fixture", "sub/b.step"}, {"c", "stock", "/abs/c.stl"}};
        const Job moved = movedTo(job, "/x/y", "/x/z/w");
        QCOMPARE(moved.machine, std::string("../../y/m.machine.json"));
        QCOMPARE(moved.bodies[0].file, std::string("../../y/a.step"));
        QCOMPARE(moved.bodies[1].file, std::string("../../y/sub/b.step"));
        QCOMPARE(moved.bodies[2].file, std::string("/abs/c.stl"));
        QCOMPARE(movedTo(moved, "/x/z/w", "/x/y").bodies[1].file, std::string("sub/b.step"));
        QCOMPARE(movedTo(job, "/x/y", "/x/y/").machine, job.machine);
    }
    // Words that an operation's kind does not have are refused; those it has change its key and are there again after saving.
    void noWordIsSwallowed() {
        const Job whole = openJob(test::demoFile("yoke-work.gyre.json")).value();
        std::string pocket;
        for (const Recipe& r : whole.route)
            if (r.kind == OperationKind::Mill && pocket.empty()) pocket = r.id;
        Job job = whole;
        for (const char* word : {"swarf.past", "axis.lead", "drill.peck", "pattern.spacing", "edge.legs", "curve.depth", "nonsense"})
            QVERIFY2(!setWord(job, pocket, word, "1"), word);
        const auto key = [&](const Job& j) { return operationKey(7, j.resolved(*j.operation(pocket)), j.tool(j.operation(pocket)->tool)); };
        const auto before = key(job);
        QVERIFY(setWord(job, pocket, "pattern.chordTolerance", "0.02"));
        QVERIFY(key(job) != before);
        QCOMPARE(jobFromJson(jobToJson(job), "again").value().operation(pocket)->pattern->chordTolerance, 0.02);
        QCOMPARE(jobToJson(whole), jobToJson(jobFromJson(jobToJson(whole), "again").value()));
    }
};

GYRE_TEST(TestInputs)

} // namespace test_inputs
#include "test_inputs.moc"
