// The short run: every reader on thousands of files changed at random, from small good ones. The long runs are libFuzzer's.
#include "Program.h"
#include "Readers.h"
#include "Support.h"

namespace test_fuzz {

using namespace gyre;

class TestFuzz : public QObject {
    Q_OBJECT
private slots:
    void seedsAreAccepted() {
        for (const auto& t : test::fuzzTargets())
            for (const std::string& s : t.seeds)
                if (std::string(t.name) != "machine") QVERIFY2(t.read(s), t.name); // a whole machine is too long for a seed
    }
    void changedFilesComeBack_data() {
        QTest::addColumn<int>("which");
        for (std::size_t i = 0; i < test::fuzzTargets().size(); ++i) QTest::newRow(test::fuzzTargets()[i].name) << static_cast<int>(i);
    }
    void changedFilesComeBack() {
        QFETCH(int, which);
        const auto& t = test::fuzzTargets()[static_cast<std::size_t>(which)];
        test::Random random(static_cast<unsigned>(900 + which));
        static const std::vector<std::string> kWords{"0", "-1", "1e308", "nan",    "99999999999", "\n",       " ",
                                                     "{", "}",  "[",     "]",      "\"",          "null",     "true",
                                                     "<", ">",  "/",     "vertex", "end",         "\xff\xfe", std::string(1, '\0')};
        int accepted = 0;
        for (int i = 0; i < 3000; ++i) {
            std::string s = t.seeds[static_cast<std::size_t>(random.integer(0, static_cast<int>(t.seeds.size()) - 1))];
            for (int n = random.integer(1, 6); n > 0 && !s.empty(); --n) {
                const auto at = static_cast<std::size_t>(random.integer(0, static_cast<int>(s.size()) - 1));
                switch (random.integer(0, 5)) {
                case 0:
                    s[at] = static_cast<char>(random.integer(0, 255));
                    break;
                case 1:
                    s[at] = static_cast<char>(s[at] ^ (1 << random.integer(0, 7)));
                    break;
                case 2:
                    s.erase(at, static_cast<std::size_t>(random.integer(1, 40)));
                    break;
                case 3:
                    s.insert(at, s.substr(at, static_cast<std::size_t>(random.integer(1, 80))));
                    break;
                case 4:
                    s.insert(at, kWords[static_cast<std::size_t>(random.integer(0, static_cast<int>(kWords.size()) - 1))]);
                    break;
                default:
                    s.resize(at);
                }
            }
            accepted += t.read(s);
        }
        QVERIFY(accepted < 3000);
    }
};

GYRE_TEST(TestFuzz)

} // namespace test_fuzz
#include "test_fuzz.moc"
