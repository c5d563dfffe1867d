// Every code that a finding can have stands in its page, with what, why and remedy, and in a test.
#include "Program.h"
#include "base/File.h"
#include <QTest>
#include <filesystem>
#include <map>
#include <regex>
#include <set>

namespace test_findings {

using namespace gyre;
namespace fs = std::filesystem;

class TestFindings : public QObject {
    Q_OBJECT
    static std::string textOf(const fs::path& file) { return readFile(file, 1u << 24).value(); }
    static std::vector<fs::path> sourcesIn(const char* folder) {
        std::vector<fs::path> out;
        for (const auto& e : fs::recursive_directory_iterator(fs::path(GYRE_SOURCE_DIR) / folder))
            if (e.path().extension() == ".cpp" || e.path().extension() == ".h") out.push_back(e.path());
        return out;
    }
    /// Texts in quotes that look like a code, in the rooms that make findings.
    static std::map<std::string, std::string> codesInTheCore() {
        static const std::regex kCode("\"([a-z]+(?:-[a-z]+)+|travel)\"");
        static const std::set<std::string> kOther{"chip-break"}; // a cycle
        std::map<std::string, std::string> out;
        for (const fs::path& file : sourcesIn("core")) {
            const std::string room = file.parent_path().filename().string();
            if (room == "job" || room == "post" || room == "part" || room == "drawing" || room == "machine" || room == "base" || room == "geom" || room == "mend" ||
                room == "tool" || room == "path")
                continue;
            const std::string text = textOf(file);
            for (std::sregex_iterator it(text.begin(), text.end(), kCode), end; it != end; ++it)
                if (!kOther.count((*it)[1])) out[(*it)[1]] = file.filename().string();
        }
        return out;
    }

private slots:
    void everyCodeStandsInItsPage() {
        const std::string page = textOf(fs::path(GYRE_SOURCE_DIR) / "docs/formats/findings.md");
        std::set<std::string> rows;
        std::istringstream lines(page);
        for (std::string line; std::getline(lines, line);) {
            if (!line.starts_with("| `")) continue;
            rows.insert(line.substr(3, line.find('`', 3) - 3));
            std::vector<std::string> cells;
            std::istringstream row(line.substr(1));
            for (std::string cell; std::getline(row, cell, '|');) cells.push_back(cell);
            QVERIFY2(cells.size() == 5, line.c_str());
            for (const std::string& c : cells) QVERIFY2(c.find_first_not_of(' ') != std::string::npos, line.c_str());
            QVERIFY2(cells[1].find("Stop") != std::string::npos || cells[1].find("Look") != std::string::npos || cells[1].find("Note") != std::string::npos,
                     line.c_str());
        }
        const auto codes = codesInTheCore();
        QVERIFY(codes.size() > 40);
        for (const auto& [code, file] : codes) QVERIFY2(rows.count(code), (code + " of " + file).c_str());
        for (const std::string& row : rows) QVERIFY2(codes.count(row), row.c_str());
    }
    void everyCodeStandsInATest() {
        std::string all;
        for (const fs::path& file : sourcesIn("tests"))
            if (file.filename() != "test_findings.cpp") all += textOf(file);
        QStringList missing;
        for (const auto& [code, file] : codesInTheCore())
            if (all.find("\"" + code + "\"") == std::string::npos) missing << QString::fromStdString(code);
        QVERIFY2(missing.isEmpty(), qPrintable(missing.join(' ')));
    }
};

GYRE_TEST(TestFindings)

} // namespace test_findings
#include "test_findings.moc"
