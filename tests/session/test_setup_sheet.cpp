// The set-up sheet: every number on it against what it was told from, and a page that nothing in a job can break.
#include "Program.h"
#include "Support.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "session/SetupSheet.h"
#include <QRegularExpression>
#include <QXmlStreamReader>

namespace test_setup_sheet {

using namespace gyre;

namespace {

struct Made {
    Job job;
    Workshop workshop{std::filesystem::path(GYRE_DEMO_DIR)};
    StageCache cache;
    JobResults results;
    explicit Made(const std::string& name) : job(openJob(test::demoFile(name + ".gyre.json")).value()) {
        Progress progress;
        results = computeJob(job, workshop, cache, progress).value();
    }
};

} // namespace

class TestSetupSheet : public QObject {
    Q_OBJECT

    /// The cells of the row that begins with these.
    static QStringList rowOf(const QString& page, const QString& first) {
        static const QRegularExpression row("<tr>(.*?)</tr>", QRegularExpression::DotMatchesEverythingOption);
        static const QRegularExpression cell("<t[dh][^>]*>(.*?)</t[dh]>", QRegularExpression::DotMatchesEverythingOption);
        for (auto it = row.globalMatch(page); it.hasNext();) {
            QStringList cells;
            for (auto c = cell.globalMatch(it.next().captured(1)); c.hasNext();) cells << c.next().captured(1);
            if (!cells.isEmpty() && cells.front() == first) return cells;
        }
        return {};
    }
    static QString num(double mm, LengthUnit unit) { return QString::fromStdString(formatLength(mm, unit, 2)); }

private slots:
    void checksumsAreThoseOfTheCommand() {
        // printf 123456789 | cksum
        QCOMPARE(checksum("123456789"), std::string("930766865 9"));
        QCOMPARE(checksum(""), std::string("4294967295 0"));
    }

    void numbersAreThoseOfTheJob_data() {
        QTest::addColumn<QString>("job");
        for (const char* j : {"lantern-collar", "yoke-work", "dome-stars"}) QTest::newRow(j) << j;
    }
    void numbersAreThoseOfTheJob() {
        QFETCH(QString, job);
        Made o(job.toStdString());
        for (const LengthUnit unit : {LengthUnit::Millimetre, LengthUnit::Inch}) {
            o.job.units = unit;
            SetupSheetInput in{.job = o.job, .place = o.results.place, .operations = o.results.operations};
            const QString page = QString::fromStdString(setupSheet(in));
            // Tools: their numbers as the program calls them.
            const PostInput post = postInputOf(o.job, o.results.place, o.results.operations);
            for (const PostOperation& op : post.operations) {
                const QStringList row = rowOf(page, QString("T%1").arg(op.toolNumber));
                QVERIFY2(row.size() == 9, qPrintable(row.join('|')));
                const Assembly& tool = op.result->tool;
                QVERIFY(row[2].contains(QString::fromStdString(tool.name).toHtmlEscaped()));
                QCOMPARE(row[3], num(tool.stickOut, unit));
                double gauge = tool.stickOut;
                for (const HolderStep& s : tool.holder) gauge += s.length;
                QCOMPARE(row[4], num(gauge, unit));
                QVERIFY(row[8].contains(QString::fromStdString(op.name).toHtmlEscaped()));
            }
            // Joints, as the motion has them.
            for (std::size_t i = 0; i < post.operations.size(); ++i) {
                const QStringList row = rowOf(page, QString::number(i + 1));
                QVERIFY2(row.size() == 5, qPrintable(row.join('|')));
                const JointMotion& motion = *post.operations[i].result->motion;
                const auto told = row[4].split("; ");
                QCOMPARE(told.size(), static_cast<qsizetype>(motion.joints));
                for (std::size_t j = 0; j < motion.joints; ++j) {
                    const Joint& joint = o.results.place->machine->joints[j];
                    const bool turns = joint.kind == JointKind::Rotary;
                    const auto value = [&](const JointValues& q) { return turns ? degrees(q[j]) : q[j] / (unit == LengthUnit::Inch ? kMmPerInch : 1.0); };
                    double low = 1e300, high = -1e300;
                    for (std::size_t s = motion.size(); s-- > 0;) {
                        low = std::min(low, value(motion.jointsAt(s)));
                        high = std::max(high, value(motion.jointsAt(s)));
                    }
                    static const QRegularExpression numbers("(-?[\\d.]+)°?(?: … (-?[\\d.]+)°?)?$"); // one where it stands still
                    const auto m = numbers.match(told[static_cast<qsizetype>(j)]);
                    QVERIFY2(m.hasMatch(), qPrintable(told[static_cast<qsizetype>(j)]));
                    const double fine = turns || unit == LengthUnit::Millimetre ? 0.051 : 0.0051;
                    QVERIFY2(std::abs(m.captured(1).toDouble() - low) < fine &&
                                 std::abs((m.captured(2).isEmpty() ? m.captured(1) : m.captured(2)).toDouble() - high) < fine,
                             qPrintable(told[static_cast<qsizetype>(j)]));
                }
            }
        }
    }

    // The rotary words of a program in joints, read from its text, go as far as the sheet says and no further.
    void rotariesAreThoseOfTheProgram() {
        Made o("yoke-work");
        const QString page = QString::fromStdString(setupSheet({.job = o.job, .place = o.results.place, .operations = o.results.operations}));
        const PostInput post = postInputOf(o.job, o.results.place, o.results.operations);
        const auto written = composeProgram(post, Dialect::Joints).value();
        const QStringList lines = QString::fromStdString(written.text).split('\n');
        int compared = 0;
        for (std::size_t i = 0; i < post.operations.size(); ++i) {
            const auto told = rowOf(page, QString::number(i + 1)).value(4).split("; ");
            for (const int j : o.results.place->machine->rotaries()) {
                const QString name = QString::fromStdString(o.results.place->machine->joints[static_cast<std::size_t>(j)].name);
                const QRegularExpression word(name + "(-?[\\d.]+)"), numbers("(-?[\\d.]+)°?(?: … (-?[\\d.]+)°?)?$");
                double low = 1e300, high = -1e300;
                for (const Act& a : written.program.acts)
                    if (a.operation == i && a.kind == Act::Kind::Move && !a.aside && a.line > 0)
                        if (const auto m = word.match(lines.value(a.line - 1)); m.hasMatch()) {
                            low = std::min(low, m.captured(1).toDouble());
                            high = std::max(high, m.captured(1).toDouble());
                        }
                const auto m = numbers.match(told.value(j));
                QVERIFY2(m.hasMatch(), qPrintable(told.join('|')));
                if (low > high) continue; // it stands as it stood before
                const double from = m.captured(1).toDouble(), to = (m.captured(2).isEmpty() ? m.captured(1) : m.captured(2)).toDouble();
                QVERIFY2(low > from - 0.06 && high < to + 0.06,
                         qPrintable(QString("%1 %2: %3 … %4 in the program, %5 told").arg(i).arg(name).arg(low).arg(high).arg(told[j])));
                ++compared;
            }
        }
        QVERIFY(compared >= 10);
    }

    // What the user types can stand in a page, in XML and in a table.
    void nothingInAJobBreaksThePage() {
        Made o("dome-stars");
        const std::string nasty = "a <b>& \"c\", d\n'e'";
        o.job.name = nasty;
        o.job.material = nasty;
        for (Recipe& r : o.job.route) r.name = nasty;
        std::vector<std::shared_ptr<const OperationResult>> changed;
        for (const auto& r : o.results.operations) {
            auto copy = std::make_shared<OperationResult>(*r);
            copy->tool.name = nasty;
            copy->tool.holderName = nasty;
            changed.push_back(copy);
        }
        Finding f;
        f.rank = Rank::Stop;
        f.text = f.reason = nasty;
        f.operation = o.job.route.front().id;
        SetupSheetInput in{.job = o.job, .place = o.results.place, .operations = changed, .findings = {f}, .pictures = {{nasty, std::string("\x89PNG\0\xff\xfe", 7)}}};
        QString page = QString::fromStdString(setupSheet(in));
        QVERIFY(!page.contains("a <b>"));
        QVERIFY(page.contains("Do not run this"));
        // The picture comes back to the byte.
        const auto at = page.indexOf("base64,") + 7;
        QCOMPARE(QByteArray::fromBase64(page.mid(at, page.indexOf('"', at) - at).toLatin1()), QByteArray("\x89PNG\0\xff\xfe", 7));
        // Every tag is closed: read as XML, with those that HTML leaves open closed here.
        page.remove("<!DOCTYPE html>");
        for (const char* open : {"<meta charset=\"utf-8\">", "<br>"}) page.replace(open, QString());
        page.replace(QRegularExpression("(<img [^>]*)>"), "\\1/>");
        QXmlStreamReader xml(page);
        while (!xml.atEnd()) xml.readNext();
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        // The table: as many fields in every line, quotes doubled.
        const QString csv = QString::fromStdString(toolList(in));
        QList<QStringList> lines{{QString()}};
        bool quoted = false;
        for (qsizetype i = 0; i < csv.size(); ++i) {
            const QChar c = csv[i];
            if (quoted && c == '"' && i + 1 < csv.size() && csv[i + 1] == '"')
                lines.back().back() += csv[++i];
            else if (c == '"')
                quoted = !quoted;
            else if (!quoted && c == ',')
                lines.back() << QString();
            else if (!quoted && c == '\r' && csv[i + 1] == '\n') {
                ++i;
                lines << QStringList{QString()};
            } else
                lines.back().back() += c;
        }
        lines.removeLast();
        QVERIFY(lines.size() >= 2);
        for (const QStringList& l : lines) QCOMPARE(l.size(), qsizetype(16));
        QCOMPARE(lines[1][2], QString::fromStdString(nasty));
    }

    // What is not proven does not say that it is.
    void itSaysWhetherItIsProven() {
        Made o("dome-stars");
        SetupSheetInput in{.job = o.job, .place = o.results.place, .operations = o.results.operations};
        QVERIFY(setupSheet(in).find("Not proven") != std::string::npos);
        in.proven = true;
        QVERIFY(setupSheet(in).find("Proven at the machine: nothing") != std::string::npos);
        in.programs = {{"x.nc", "G0\nG1\n"}, {"x-2.nc", "G0\n"}};
        QVERIFY(setupSheet(in).find("x.nc, 2 lines, checksum " + checksum(in.programs[0].text)) != std::string::npos);
        QVERIFY(setupSheet(in).find("x-2.nc, 1 lines") != std::string::npos);
        QVERIFY(setupSheet(in).find("checksum " + checksum(jobToJson(o.job))) != std::string::npos);
    }
};

GYRE_TEST(TestSetupSheet)

} // namespace test_setup_sheet
#include "test_setup_sheet.moc"
