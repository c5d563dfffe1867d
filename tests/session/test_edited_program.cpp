// Programs that a hand has changed: what is told of them, and what is not safe any more.
#include "OpenedJob.h"
#include "Program.h"
#include "base/Text.h"
#include "link/Link.h"
#include "operation/OperationResult.h"
#include "session/EditedProgram.h"
#include "session/Sending.h"
#include <regex>

namespace test_edited_program {

using namespace gyre;

namespace {

using Lines = std::vector<std::string>;

Lines split(const std::string& text) {
    Lines out;
    std::string line;
    for (const char c : text) {
        if (c == '\n') {
            out.push_back(line);
            line.clear();
        } else
            line += c;
    }
    if (!line.empty()) out.push_back(line);
    return out;
}
std::string joined(const Lines& lines) {
    std::string out;
    for (const std::string& l : lines) out += l + "\n";
    return out;
}

/// Lines that both have, at most: the plain table.
std::size_t inCommon(const Lines& a, const Lines& b) {
    std::vector<std::vector<std::size_t>> best(a.size() + 1, std::vector<std::size_t>(b.size() + 1, 0));
    for (std::size_t i = 1; i <= a.size(); ++i)
        for (std::size_t k = 1; k <= b.size(); ++k) best[i][k] = a[i - 1] == b[k - 1] ? best[i - 1][k - 1] + 1 : std::max(best[i - 1][k], best[i][k - 1]);
    return best[a.size()][b.size()];
}

} // namespace

class TestEditedProgram : public QObject {
    Q_OBJECT
    StageCache m_cache;
    Progress m_progress;

    int m_followed = 0;
    struct Opened {
        Job job;
        JobResults results;
        PostInput input;
        std::string text;
    };
    std::map<std::string, std::shared_ptr<const Opened>> m_opened;
    /// A demo job and its program; null where the dialect cannot say it.
    std::shared_ptr<const Opened> posted(const std::string& name, const std::string& dialect) {
        auto& known = m_opened[name + dialect];
        if (known) return known;
        auto o = std::make_shared<Opened>();
        o->job = openJob(test::demoFile((name + ".gyre.json").c_str())).value();
        Workshop workshop(test::demoFile("").parent_path());
        o->results = computeJob(o->job, workshop, m_cache, m_progress).value();
        const DialectChoice choice = chooseDialect(dialect, test::demoFile("").parent_path()).value();
        o->input = inDialect(postInputOf(o->job, o->results.place, o->results.operations), choice.spelling);
        const auto text = writeProgram(o->input, choice.kind);
        if (!text) return nullptr;
        o->text = *text;
        return known = o;
    }
    EditedProgram proven(const Opened& o, const std::string& text) { return proveEdited(text, o.input, o.job, o.results, m_cache, m_progress).value(); }
    static std::string told(const EditedProgram& p) {
        std::string out;
        for (const EditedProgram::Told& t : p.told)
            out += std::string(rankName(t.finding.rank)) + " " + std::to_string(t.line) + " " + t.finding.code + ": " + t.finding.text + "\n";
        return out;
    }
    static const EditedProgram::Told* found(const EditedProgram& p, const std::string& code) {
        for (const EditedProgram::Told& t : p.told)
            if (t.finding.code == code) return &t;
        return nullptr;
    }
    /// The line that holds this, from a line on; a number beyond them all where none does.
    static std::size_t lineWith(const Lines& lines, const std::string& what, std::size_t from = 0) {
        const std::regex form(what);
        while (from < lines.size() && !std::regex_search(lines[from], form)) ++from;
        return from;
    }

private slots:
    void changedLinesAreFewestAndMakeTheOneTextOfTheOther() {
        test::Random random(20261129);
        std::size_t changed = 0;
        for (int round = 0; round < 400; ++round) {
            Lines was, is;
            const int n = random.integer(0, 30);
            for (int i = 0; i < n; ++i) was.push_back("G1 X" + std::to_string(random.integer(0, 6)));
            is = was;
            for (int e = random.integer(0, 8); e > 0; --e) {
                const auto at = static_cast<std::ptrdiff_t>(random.integer(0, static_cast<int>(is.size())));
                if (random.integer(0, 1) == 0 || is.empty())
                    is.insert(is.begin() + at, "G1 X" + std::to_string(random.integer(0, 8)));
                else
                    is.erase(is.begin() + std::min(at, static_cast<std::ptrdiff_t>(is.size()) - 1));
            }
            const auto changes = changedLines(joined(was), joined(is)).value();
            std::size_t in = 0, out = 0;
            for (const LineChange& c : changes) {
                in += !c.is.empty();
                out += !c.was.empty();
                QVERIFY(c.line >= 1 || is.empty());
                if (!c.is.empty()) QCOMPARE(is[static_cast<std::size_t>(c.line - 1)], c.is);
            }
            const std::size_t common = inCommon(was, is);
            QCOMPARE(out, was.size() - common);
            QCOMPARE(in, is.size() - common);
            // Without what was put in, and with what was taken out, the old text is there again: as many of each line.
            std::map<std::string, int> count;
            for (const std::string& l : is) ++count[l];
            for (const LineChange& c : changes) {
                if (!c.is.empty()) --count[c.is];
                if (!c.was.empty()) ++count[c.was];
            }
            for (const std::string& l : was) --count[l];
            for (const auto& [line, left] : count) QCOMPARE(left, 0);
            changed += !changes.empty();
        }
        QVERIFY(changed > 200);
        QVERIFY(changedLines("N10 G0 X1\nN20 M30\n", "N1 G0 X1 \r\nN2  M30\n").value().empty()); // numbers and blanks do not count
        QVERIFY(!changedLines("a\nb\nc\n", "d\ne\nf\n", 3));
    }

    // The program as it was written: nothing is changed, everything is followed, and it is as safe as the job.
    void whatTheJobWritesIsAsSafeAsTheJob_data() {
        QTest::addColumn<QString>("job");
        QTest::addColumn<QString>("dialect");
        for (const char* job : {"horn-guide", "dome-stars"})
            for (const char* dialect : {"tip", "joints", "cldata"}) QTest::newRow(qPrintable(QString("%1 %2").arg(job, dialect))) << job << dialect;
        QTest::newRow("with Stops of its own") << "lantern-collar"
                                               << "tip";
        QTest::newRow("edges") << "yoke-edges"
                               << "joints";
        QTest::newRow("dome in planes") << "dome-stars"
                                        << "tilted-planes.dialect.json";
        QTest::newRow("barrel joints") << "barrel-work"
                                       << "joints";
    }
    void whatTheJobWritesIsAsSafeAsTheJob() {
        QFETCH(QString, job);
        QFETCH(QString, dialect);
        const auto o = posted(job.toStdString(), dialect.toStdString());
        if (!o) return; // taps that this dialect cannot say
        ++m_followed;
        const EditedProgram p = proven(*o, o->text);
        QVERIFY(p.changes.empty() && !p.tooMany);
        QVERIFY(p.moves > 50);
        const bool clean = judge(o->job, o->results, m_cache, m_progress).value().stops.empty();
        QVERIFY2(p.safe() == clean, told(p).c_str());
    }
    void mostOfThemWereFollowed() { QVERIFY(m_followed >= 8); }

    // Arcs are followed as arcs: in a job's own program they are as safe as its moves, the largest one turned the other way round is not.
    void arcsAreFollowed() {
        const auto o = posted("yoke-work", "tilted-planes.dialect.json");
        const EditedProgram own = proven(*o, o->text);
        QVERIFY2(own.safe() && own.changes.empty(), told(own).c_str());
        Lines lines = split(o->text);
        const std::regex arc(" G2 .*I(-?)([0-9]+)[.0-9]* J(-?)([0-9]+)");
        std::size_t arcs = 0, largest = 0;
        int most = 0;
        for (std::size_t i = 0; i < lines.size(); ++i)
            if (std::smatch m; std::regex_search(lines[i], m, arc)) {
                ++arcs;
                if (const int size = std::stoi(m[2]) + std::stoi(m[4]); size > most) {
                    most = size;
                    largest = i;
                }
            }
        QVERIFY2(arcs > 100 && own.moves > 3 * lines.size(), qPrintable(QString::number(arcs)));
        lines[largest] = std::regex_replace(lines[largest], std::regex(" G2 "), " G3 ");
        const EditedProgram turned = proven(*o, joined(lines));
        QVERIFY(!turned.safe());
        QVERIFY2(std::any_of(turned.told.begin(), turned.told.end(), [&](const EditedProgram::Told& t) { return t.line == static_cast<int>(largest) + 1; }),
                 told(turned).c_str());
    }

    // What a hand may do: slower, with notes, renumbered.
    void harmlessChangesStaySafe() {
        const auto o = posted("horn-guide", "tip");
        Lines lines = split(o->text);
        const std::size_t feed = lineWith(lines, " F[0-9]");
        QVERIFY(feed < lines.size());
        lines[feed] = std::regex_replace(lines[feed], std::regex("F[0-9.]+"), "F100");
        const std::size_t speed = lineWith(lines, "S[0-9]+ M3");
        lines[speed] = std::regex_replace(lines[speed], std::regex("S[0-9]+"), "S1000");
        lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(feed), "(SLOWER HERE)");
        const EditedProgram p = proven(*o, joined(lines));
        QVERIFY2(p.safe(), told(p).c_str());
        QCOMPARE(p.changes.size(), std::size_t(3));
        QVERIFY(std::any_of(p.changes.begin(), p.changes.end(), [](const LineChange& c) { return c.is == "(SLOWER HERE)" && c.was.empty(); }));
        QVERIFY(std::any_of(p.changes.begin(), p.changes.end(), [&](const LineChange& c) {
            return c.line == static_cast<int>(feed) + 2 && c.is.find("F100") != std::string::npos && c.was.find("F100") == std::string::npos;
        }));
    }

    // In the middle of a cut, in words that every control takes: not that it differs from the job, but that it cuts with what stands still.
    void aSpindleThatStopsInTheCutIsTold() {
        for (const char* dialect : {"tip", "joints"}) {
            const auto o = posted("horn-guide", dialect);
            Lines lines = split(o->text);
            const std::size_t at = lineWith(lines, "^N[0-9]+ M8");
            QVERIFY(at < lines.size());
            lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(at) + 1, "M5");
            const EditedProgram p = proven(*o, joined(lines));
            QVERIFY(!p.safe());
            QVERIFY2(told(p).find("it cuts while the spindle stands still") != std::string::npos, told(p).c_str());
        }
    }

    void whatIsNotSafeAnyMoreIsToldWithItsLine_data() {
        QTest::addColumn<QString>("dialect");
        QTest::addColumn<QString>("line"); // the first that holds this …
        QTest::addColumn<QString>("what"); // … has this in it replaced
        QTest::addColumn<QString>("by");
        QTest::addColumn<QString>("code"); // one of these; "refused" where the text cannot be read at all
        const auto row = [](const char* name, const char* dialect, const char* line, const char* what, const char* by, const char* code) {
            QTest::newRow(name) << dialect << line << what << by << code;
        };
        row("spindle stays off", "tip", "S[0-9]+ M3", " M3", "", "program-state|refused");
        row("spindle backwards", "tip", "S[0-9]+ M3", "M3", "M4", "program-state");
        row("no speed", "tip", "S[0-9]+ M3", "S[0-9]+", "S0", "program-state|refused");
        row("no tip control", "tip", "G43.4", ".*", "", "program-lost");
        row("another length", "tip", "G43.4", "H3", "H2", "program-state");
        row("no absolute", "tip", "G90", "G90 ", "", "program-state|refused");
        row("compensation left on", "tip", "G40", "G40 ", "", "program-state");
        row("cycles left on", "joints", "G80", "G80 ", "", "program-state");
        row("feeds of any kind", "tip", "G94", " G94", "", "program-state");
        row("another offset in joints", "joints", "G54$", "G54", "G55", "program-state|refused");
        row("length in joints", "joints", "M8", "M8", "G43 H3", "program-state|refused");
        row("down before a tool is loaded", "tip", "^N30 ", "Z[0-9.]+", "Z-100.", "program-state");
        row("an end in the middle", "tip", "^N[0-9]+ M8", "M8", "M30", "program-changed");
        row("length kept on", "tip", "G49$", "G49", "", "program-state");
        row("another tool", "tip", "T3 M6", "T3", "T9", "program-state|refused");
        row("no unit", "tip", "G21", "G21", "", "program-state");
        row("another offset", "tip", "G54$", "G54", "G55", "program-state|refused");
        row("speed ten times", "tip", "S[0-9]+ M3", "S([0-9]+)", "S$010", "program-changed");
        row("points rounded off", "tip", "^N[0-9]+ M8", "M8", "M8\nG64 P0.5", "program-changed");
        row("no unit in joints", "joints", "G21", "G21", "", "program-state");
        row("spindle off in joints", "joints", "S[0-9]+ M3", " M3", "", "program-state|refused");
    }
    void whatIsNotSafeAnyMoreIsToldWithItsLine() {
        QFETCH(QString, dialect);
        QFETCH(QString, line);
        QFETCH(QString, what);
        QFETCH(QString, by);
        QFETCH(QString, code);
        const auto o = posted("horn-guide", dialect.toStdString());
        Lines lines = split(o->text);
        const std::size_t at = lineWith(lines, line.toStdString());
        QVERIFY2(at < lines.size(), o->text.substr(0, 1500).c_str());
        lines[at] = std::regex_replace(lines[at], std::regex(what.toStdString()), by.toStdString(), std::regex_constants::format_first_only);
        const auto p = proveEdited(joined(lines), o->input, o->job, o->results, m_cache, m_progress);
        if (!p) {
            QVERIFY2(code.contains("refused"), p.error().text().c_str());
            return;
        }
        bool any = false;
        for (const QString& c : code.split('|'))
            if (const auto* f = found(*p, c.toStdString())) any = f->line > 0;
        QVERIFY2(any, (lines[at] + "\n" + told(*p)).c_str());
        QVERIFY(code == "program-changed" || !p->safe());
    }

    // A place moved into the surface by a known depth, at random places: the depth and the line are told; by less than the tolerance: nothing.
    void aPlaceMovedIntoThePartIsToldAsDeepAsItIs() {
        const auto o = posted("horn-guide", "tip");
        const Lines lines = split(o->text);
        const WrittenProgram written = composeProgram(o->input, Dialect::TipControl).value();
        QCOMPARE(written.text, o->text);
        test::Random random(7);
        int tried = 0;
        for (int round = 0; round < 400 && tried < 6; ++round) {
            const Act& act = written.program.acts[static_cast<std::size_t>(random.integer(0, static_cast<int>(written.program.acts.size()) - 1))];
            const Toolpath& path = o->input.operations[act.operation].result->links->path;
            if (act.kind != Act::Kind::Move || act.rapid || act.aside || path.motion[act.location] != Motion::Cut || path.normal[act.location].norm() < 0.5) continue;
            if (act.operation == 0) continue; // the channel's upper depths stand off the part
            const auto with = [&](double deeper) {
                const Vec3 to = path.tip[act.location] - deeper * path.normal[act.location] - o->input.zero;
                Lines changed = lines;
                std::string& line = changed[static_cast<std::size_t>(act.line - 1)];
                const std::string rest = std::regex_replace(std::regex_replace(line, std::regex("[XYZ]-?[0-9.]+ ?"), ""), std::regex("^N[0-9]+ ?(G1 ?)?"), "");
                line = "G1 X" + fmt::format("{:.4f}", to.x()) + " Y" + fmt::format("{:.4f}", to.y()) + " Z" + fmt::format("{:.4f}", to.z()) + " " + rest;
                return proven(*o, joined(changed));
            };
            ++tried;
            const EditedProgram deep = with(0.5);
            QCOMPARE(deep.changes.size(), std::size_t(1));
            QCOMPARE(deep.changes[0].line, act.line);
            const auto* gouge = found(deep, "cutter-gouges");
            QVERIFY2(gouge && gouge->finding.rank == Rank::Stop, (told(deep) + deep.changes[0].is).c_str());
            QVERIFY2(std::abs(gouge->line - act.line) <= 1, told(deep).c_str());
            QVERIFY2(std::abs(gouge->finding.amount + 0.5) < 0.08, told(deep).c_str());
            QCOMPARE(QString::fromStdString(gouge->finding.operation), QString::fromStdString(o->input.operations[act.operation].result->operation));
            const EditedProgram hair = with(0.002);
            QVERIFY2(hair.safe(), told(hair).c_str());
        }
        QCOMPARE(tried, 6);
    }

    void whatLeavesTheTravelIsTold() {
        for (const char* dialect : {"tip", "joints"}) {
            const auto o = posted("horn-guide", dialect);
            Lines lines = split(o->text);
            const std::size_t at = lineWith(lines, "^N[0-9]+ X[^G]* Z-?[0-9.]+", lines.size() / 2);
            QVERIFY(at < lines.size());
            lines[at] = std::regex_replace(lines[at], std::regex("Z-?[0-9.]+"), "Z-2000.");
            const EditedProgram p = proven(*o, joined(lines));
            const auto* f = found(p, "program-travel");
            QVERIFY2(f && f->line == static_cast<int>(at) + 1, told(p).c_str());
            QVERIFY(found(p, "bodies-meet")); // on the way there
        }
    }

    // The retract to the top is taken out, so that the rotaries turn beside the part.
    void aRetractThatIsGoneIsToldByTheMachine() {
        const auto o = posted("dome-stars", "joints");
        Lines lines = split(o->text);
        // All rapids that only lift Z.
        std::size_t gone = 0;
        for (std::size_t i = lines.size(); i-- > 0;)
            if (std::regex_match(lines[i], std::regex("(N[0-9]+ )?G0 Z-?[0-9.]+"))) {
                lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(i));
                ++gone;
            }
        QVERIFY(gone > 0);
        const auto p = proveEdited(joined(lines), o->input, o->job, o->results, m_cache, m_progress);
        if (p) QVERIFY2(!p->safe(), told(*p).c_str());
    }

    // Any line taken out, said twice, or with a digit changed: refused, or proven; never a crash, and never silently another program.
    void randomChangesAreTold() {
        const auto o = posted("horn-guide", "tip");
        const Lines lines = split(o->text);
        test::Random random(2911);
        int followed = 0;
        for (int round = 0; round < 12; ++round) {
            Lines changed = lines;
            const auto at = static_cast<std::size_t>(random.integer(0, static_cast<int>(lines.size()) - 1));
            switch (random.integer(0, 2)) {
            case 0:
                changed.erase(changed.begin() + static_cast<std::ptrdiff_t>(at));
                break;
            case 1:
                changed.insert(changed.begin() + static_cast<std::ptrdiff_t>(at), lines[at]);
                break;
            default: {
                std::string& l = changed[at];
                const std::size_t digit = l.find_first_of("0123456789");
                if (digit != std::string::npos) l[digit] = l[digit] == '9' ? '1' : static_cast<char>(l[digit] + 1);
            }
            }
            const auto p = proveEdited(joined(changed), o->input, o->job, o->results, m_cache, m_progress);
            if (!p) continue;
            ++followed;
            const auto bareOf = [](std::string l) { return std::regex_replace(l, std::regex("^N[0-9]+ *"), ""); };
            Lines a, b;
            for (const std::string& l : lines) a.push_back(bareOf(l));
            for (const std::string& l : changed) b.push_back(bareOf(l));
            QCOMPARE(p->changes.empty(), a == b);
        }
        QVERIFY(followed > 0);
    }

    void cancellingIsAnError() {
        const auto o = posted("horn-guide", "tip");
        Progress progress;
        progress.cancel();
        const auto p = proveEdited(o->text, o->input, o->job, o->results, m_cache, progress);
        QVERIFY(!p && p.error().cancelled);
        QVERIFY(!proveEdited("", o->input, o->job, o->results, m_cache, m_progress));
        QVERIFY(!proveEdited("G1 X$", o->input, o->job, o->results, m_cache, m_progress));
    }
};

GYRE_TEST(TestEditedProgram)

} // namespace test_edited_program
#include "test_edited_program.moc"
