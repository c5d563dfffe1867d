// STEP files as texts: what is whole passes, what is broken is told with its line.
#include "Program.h"
#include "Support.h"
#include "base/File.h"
#include "part/StepText.h"

namespace test_step_text {

using namespace gyre;

class TestStepText : public QObject {
    Q_OBJECT
    static std::string with(const std::string& data) {
        return "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('a','',(''),(''),'','','');\nFILE_SCHEMA(('S'));\nENDSEC;\nDATA;\n" + data +
               "\nENDSEC;\nEND-ISO-10303-21;\n";
    }
private slots:
    void whatTheFormatAllowsPasses_data() {
        QTest::addColumn<QString>("data");
        QTest::newRow("points") << "#1=CARTESIAN_POINT('',(0.,1.5E-3,-2.));\n#2 = DIRECTION ( '' , ( 1. , 0. , 0. ) ) ;";
        QTest::newRow("kinds together") << "#1=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.));";
        QTest::newRow("typed values") << "#1=A(LENGTH_MEASURE(1.),$,*,.T.,#2,(),((1,2),(3,4)),\"0FF\");";
        QTest::newRow("quotes and signs in texts") << "#1=P('it''s; (open','\\X2\\00E4\\X0\\ #1=');";
        QTest::newRow("remarks and lines") << "/* one; ' */ #1 /* two */ =A(1,/* three */2)\n;";
        QTest::newRow("forgiving numbers") << "#1=A(1e5,.5,-.25,+3,1.E+02,7);";
        QTest::newRow("a name of one's own") << "#1=!MY_THING(1);";
        QTest::newRow("large and small letters") << "#1=Cartesian_Point('',(0.,0.,0.));";
        QTest::newRow("a scope") << "#1=&SCOPE #2=A(); ENDSCOPE /#2/ B(#2);";
        QTest::newRow("what is referred to need not be there") << "#1=A(#99);";
        QTest::newRow("nothing") << "";
    }
    void whatTheFormatAllowsPasses() {
        QFETCH(QString, data);
        const auto fault = faultInStep(with(data.toStdString()));
        QVERIFY2(!fault, fault ? fault->what.c_str() : "");
    }
    void laterEditionsHaveMoreSections() {
        QVERIFY(!faultInStep("\xEF\xBB\xBFISO-10303-21;HEADER;ENDSEC;ANCHOR;<a>=#1;ENDSEC;REFERENCE;#5=<b>;ENDSEC;DATA('one',('S'));#1=A();ENDSEC;DATA('two',('S'));"
                             "#2=A();ENDSEC;SIGNATURE;AAAA==\nENDSEC;END-ISO-10303-21;\n whatever follows"));
    }
    void whatIsBrokenIsToldWithItsLine_data() {
        QTest::addColumn<QString>("data");
        QTest::addColumn<QString>("what");
        QTest::addColumn<int>("line");
        QTest::newRow("number") << "#1=A(1.);\n#2=A(1.2Q4);"
                                << "a number cannot be read: '1.2Q4);'" << 9;
        QTest::newRow("two points") << "#1=A(1.2.4);"
                                    << "a number cannot be read" << 8;
        QTest::newRow("power") << "#1=A(1.2E);"
                               << "a number cannot be read" << 8;
        QTest::newRow("sign alone") << "#1=A(-);"
                                    << "a number cannot be read" << 8;
        QTest::newRow("bracket") << "#1=A((1.,2.);\n#2=A(1.);"
                                 << "a comma or a bracket is missing" << 8;
        QTest::newRow("one bracket too many") << "#1=A(1.));"
                                              << "';' is missing" << 8;
        QTest::newRow("comma") << "#1=A(1. 2.);"
                               << "a comma or a bracket is missing" << 8;
        QTest::newRow("value") << "#1=A(1.,);"
                               << "a value is missing" << 8;
        QTest::newRow("two commas") << "#1=A(1.,,2.);"
                                    << "no value" << 8;
        QTest::newRow("open text") << "#1=A('one);\n#2=B();"
                                   << "a text is not closed" << 8;
        QTest::newRow("open remark") << "#1=A(1./* what);"
                                     << "a remark is not closed" << 8;
        QTest::newRow("choice") << "#1=A(.TRUE,1.);"
                                << "a choice cannot be read" << 8;
        QTest::newRow("reference") << "#1=A(#12X);"
                                   << "a name of an instance cannot be read: '#12X);'" << 8;
        QTest::newRow("equals") << "#1 A(1.);"
                                << "'=' is missing" << 8;
        QTest::newRow("kind") << "#1=(1.);"
                              << "the kind of an instance cannot be read" << 8;
        QTest::newRow("a word for a value") << "#1=A(HERE,1.);"
                                            << "no value: 'HERE,1.);'" << 8;
        QTest::newRow("semicolon") << "#1=A(1.)\n#2=A(1.);"
                                   << "';' is missing" << 9;
        QTest::newRow("twice") << "#1=A(1.);\n#2=A(1.);\n#1=A(2.);"
                               << "#1 stands there twice" << 10;
        QTest::newRow("foreign sign") << "#1=A(1.);\n~2=A(1.);"
                                      << "neither an instance nor the end" << 9;
    }
    void whatIsBrokenIsToldWithItsLine() {
        QFETCH(QString, data);
        QFETCH(QString, what);
        QFETCH(int, line);
        const auto fault = faultInStep(with(data.toStdString()));
        QVERIFY(fault);
        QVERIFY2(QString::fromStdString(fault->what).contains(what), fault->what.c_str());
        QCOMPARE(static_cast<int>(fault->line), line);
    }
    void cutShortAnywhereItIsBroken() {
        const std::string whole = with("#1=A((1.,'x'),$);\n#2=(A(1)B(.T.));");
        QVERIFY(!faultInStep(whole));
        for (std::size_t n = 0; n < whole.size() - 2; ++n) QVERIFY2(faultInStep(whole.substr(0, n)), whole.substr(0, n).c_str());
    }
    void everyDemoPartIsWhole() {
        int count = 0;
        for (const auto& entry : std::filesystem::directory_iterator(test::demoFile("lantern-collar.step").parent_path())) {
            if (entry.path().extension() != ".step") continue;
            const auto fault = faultInStep(readFile(entry.path(), 1U << 28).value());
            QVERIFY2(!fault, fault ? (entry.path().filename().string() + ": " + fault->what).c_str() : "");
            ++count;
        }
        QVERIFY(count > 10);
    }
    // Of forty signs in a large file at least one damages more than a digit or a letter: it never reaches the kernel.
    void randomDamageIsFound() {
        const std::string whole = readFile(test::demoFile("lantern-collar.step"), 1U << 26).value();
        test::Random r(37);
        int found = 0;
        for (int i = 0; i < 60; ++i) {
            std::string broken = whole;
            for (int k = 0; k < 40; ++k) broken[static_cast<std::size_t>(r.integer(200, static_cast<int>(whole.size()) - 40))] = static_cast<char>(r.integer(32, 126));
            found += faultInStep(broken).has_value();
        }
        QCOMPARE(found, 60);
    }
};

GYRE_TEST(TestStepText)

} // namespace test_step_text
#include "test_step_text.moc"
