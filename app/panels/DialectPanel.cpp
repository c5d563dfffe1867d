#include "panels/DialectPanel.h"
#include "panels/Sentence.h"
#include <QBoxLayout>
#include <QFileInfo>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <algorithm>

namespace gyre {
namespace {

/// What is empty is said in a word.
QString orNothing(const QString& text) { return text.isEmpty() ? QObject::tr("nothing") : text; }
QString withoutNothing(const QString& text) { return text.trimmed() == QObject::tr("nothing") ? QString() : text.trimmed(); }
/// Lines in one word, with a bar between them.
QString joinedLines(const std::vector<std::string>& lines) {
    QStringList out;
    for (const std::string& l : lines) out << QString::fromStdString(l);
    return orNothing(out.join(" | "));
}
std::vector<std::string> splitLines(const QString& text) {
    std::vector<std::string> out;
    if (withoutNothing(text).isEmpty()) return out;
    for (const QString& l : text.split('|'))
        if (!l.trimmed().isEmpty()) out.push_back(l.trimmed().toStdString());
    return out;
}

} // namespace

DialectPanel::DialectPanel(OpenJob& open, Dialects& dialects, QWidget* parent) : QScrollArea(parent), m_open(open), m_dialects(dialects) {
    setObjectName("dialectPanel");
    setAccessibleName(tr("The dialect"));
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_inside = new QWidget;
    m_inside->setObjectName("dialectInside");
    m_column = new QVBoxLayout(m_inside);
    m_column->setContentsMargins(22, 16, 22, 18);
    m_column->setSpacing(8);
    setWidget(m_inside);
    makeHead();
    makeNumbers();
    makeControl();
    makeSayings();
    makeOwnLines();
    makeScript();
    m_column->addStretch(1);
    connect(&m_dialects, &Dialects::changed, this, &DialectPanel::refresh);
    connect(&m_open, &OpenJob::placeChanged, this, &DialectPanel::refresh);
    refresh();
}

void DialectPanel::section(const QString& heading) {
    auto* label = new QLabel(heading, m_inside);
    label->setProperty("role", "heading");
    m_column->addSpacing(6);
    m_column->addWidget(label);
}

Sentence* DialectPanel::sentence(const QString& text, const std::vector<Word*>& words) {
    auto* s = new Sentence(m_inside);
    s->set(text, words);
    m_column->addWidget(s);
    m_sentences.push_back(s);
    return s;
}

Word* DialectPanel::choice(const char* key, const QString& name, const Options& options, std::function<QString(const Spelling&)> value,
                           std::function<void(Spelling&, const QString&)> set) {
    auto* w = new Word(Word::Kind::Choice, QString("dialect.") + key, name, m_inside);
    std::vector<Word::Option> all;
    for (const auto& [v, label] : options) all.push_back({v, label});
    w->setOptions(std::move(all));
    connect(w, &Word::changed, this, [this, set](const QString&, const QString& v) { m_dialects.change([&](Spelling& s) { set(s, v); }); });
    m_words.push_back({w, std::move(value)});
    return w;
}

Word* DialectPanel::flag(const char* key, const QString& name, const QString& yes, const QString& no, bool Spelling::*member) {
    return choice(
        key, name, {{"1", yes}, {"0", no}}, [member](const Spelling& s) { return QString(s.*member ? "1" : "0"); },
        [member](Spelling& s, const QString& v) { s.*member = v == "1"; });
}

Word* DialectPanel::text(const QString& key, const QString& name, std::function<std::string&(Spelling&)> of) {
    auto* w = new Word(Word::Kind::Text, "dialect." + key, name, m_inside);
    connect(w, &Word::changed, this, [this, of](const QString&, const QString& v) { m_dialects.change([&](Spelling& s) { of(s) = v.trimmed().toStdString(); }); });
    m_words.push_back({w, [of](const Spelling& s) {
                           Spelling copy = s;
                           return QString::fromStdString(of(copy));
                       }});
    return w;
}

Word* DialectPanel::count(const char* key, const QString& name, int ProgramWords::*member) {
    auto* w = new Word(Word::Kind::Number, QString("dialect.") + key, name, m_inside);
    w->setStep(1.0);
    connect(w, &Word::changed, this, [this, member](const QString&, const QString& v) {
        m_dialects.change([&](Spelling& s) { s.words.*member = static_cast<int>(std::lround(std::clamp(v.toDouble(), 0.0, 9'999'999.0))); });
    });
    m_words.push_back({w, [member](const Spelling& s) { return QString::number(s.words.*member); }});
    return w;
}

Word* DialectPanel::length(const char* key, const QString& name, double ProgramWords::*member) {
    auto* w = new Word(Word::Kind::Length, QString("dialect.") + key, name, m_inside);
    w->setStep(0.005);
    connect(w, &Word::changed, this,
            [this, member](const QString&, const QString& v) { m_dialects.change([&](Spelling& s) { s.words.*member = std::clamp(v.toDouble(), 0.0, 1.0); }); });
    m_words.push_back({w, [member](const Spelling& s) { return QString::number(s.words.*member, 'g', 12); }});
    return w;
}

// Line ends inside a phrase are written as a bar.
Word* DialectPanel::phrase(Phrase phrase) {
    auto* w = new Word(Word::Kind::Text, QString("dialect.say.") + phraseKind(phrase).word, tr(phraseKind(phrase).what), m_inside);
    connect(w, &Word::changed, this, [this, phrase](const QString&, const QString& v) {
        m_dialects.change([&](Spelling& s) {
            const auto parts = splitLines(v);
            std::string text;
            for (const std::string& p : parts) text += (text.empty() ? "" : "\n") + p;
            s[phrase] = text;
        });
    });
    m_words.push_back({w, [phrase](const Spelling& s) { return orNothing(QString::fromStdString(s[phrase]).replace("\n", " | ")); }});
    return w;
}

Word* DialectPanel::lines(const char* key, const QString& name, std::vector<std::string> OwnLines::*member) {
    auto* w = new Word(Word::Kind::Text, QString("dialect.lines.") + key, name, m_inside);
    connect(w, &Word::changed, this, [this, member](const QString&, const QString& v) { m_dialects.change([&](Spelling& s) { s.lines.*member = splitLines(v); }); });
    m_words.push_back({w, [member](const Spelling& s) { return joinedLines(s.lines.*member); }});
    return w;
}

/// The M code of a joint's clamp: the dialect's, or that of the machine while the dialect has none.
Word* DialectPanel::clamp(const std::string& joint, bool on) {
    auto* w = new Word(Word::Kind::Text, QString("dialect.clamp.%1.%2").arg(QString::fromStdString(joint), on ? "on" : "off"),
                       on ? tr("Code that clamps %1").arg(QString::fromStdString(joint)) : tr("Code that lets %1 go").arg(QString::fromStdString(joint)), m_inside);
    const auto ofMachine = [this, joint] {
        ClampCodes c{joint, 0, 0};
        if (const auto place = m_open.place())
            if (const int j = place->machine->find(joint); j >= 0) {
                c.on = place->machine->joints[static_cast<std::size_t>(j)].clampCode;
                c.off = place->machine->joints[static_cast<std::size_t>(j)].freeCode;
            }
        return c;
    };
    const auto find = [joint](const Spelling& s) { return std::find_if(s.clamps.begin(), s.clamps.end(), [&](const ClampCodes& c) { return c.joint == joint; }); };
    connect(w, &Word::changed, this, [this, joint, on, ofMachine, find](const QString&, const QString& v) {
        const int code = v.trimmed().remove(QRegularExpression("^[Mm]")).toInt();
        m_dialects.change([&](Spelling& s) {
            ClampCodes now = find(s) != s.clamps.end() ? *find(s) : ofMachine();
            (on ? now.on : now.off) = code;
            // One code alone is no clamp: the other one is the next number, to be changed.
            if ((on ? now.off : now.on) <= 0) (on ? now.off : now.on) = on ? code + 1 : code - 1;
            std::erase_if(s.clamps, [&](const ClampCodes& c) { return c.joint == joint; });
            if (code > 0) s.clamps.push_back(now);
        });
    });
    m_words.push_back({w, [ofMachine, find, on](const Spelling& s) {
                           const ClampCodes now = find(s) != s.clamps.end() ? *find(s) : ofMachine();
                           const int code = on ? now.on : now.off;
                           return orNothing(code > 0 ? QString("M%1").arg(code) : QString());
                       }});
    return w;
}

void DialectPanel::makeHead() {
    auto* row = new QHBoxLayout;
    auto* heading = new QLabel(tr("DIALECT"), m_inside);
    heading->setProperty("role", "heading");
    row->addWidget(heading);
    row->addStretch(1);
    m_takeBack = new QPushButton(tr("Take back"), m_inside);
    m_takeBack->setObjectName("dialect.takeBack");
    m_takeBack->setToolTip(tr("The last change of the dialect"));
    connect(m_takeBack, &QPushButton::clicked, this, [this] { m_dialects.takeBack(); });
    row->addWidget(m_takeBack);
    auto* done = new QPushButton(tr("Done"), m_inside);
    done->setObjectName("dialect.done");
    done->setAccessibleName(tr("Back to the view"));
    connect(done, &QPushButton::clicked, this, [this] { m_dialects.open(false); });
    row->addWidget(done);
    m_column->addLayout(row);
    auto* kind = choice(
        "positions", tr("What positions are said in"),
        {{"tip", tr("the tip, which the control holds")}, {"joints", tr("joint coordinates")}, {"cldata", tr("tip and axis (ISO 4343)")}},
        [](const Spelling& s) { return QString(kindOf(s.kind).word); }, [](Spelling& s, const QString& v) { s.kind = dialectNamed(v.toStdString()).value_or(s.kind); });
    sentence(tr("{} says positions as {}; its files end in {}."), {text("name", tr("Name"), [](Spelling& s) -> std::string& { return s.name; }), kind,
                                                                   text("ending", tr("Ending of files"), [](Spelling& s) -> std::string& { return s.ending; })});
    m_file = new QLabel(m_inside);
    m_file->setProperty("role", "soft");
    m_file->setWordWrap(true);
    m_column->addWidget(m_file);
}

void DialectPanel::makeNumbers() {
    section(tr("BLOCKS, NUMBERS, COMMENTS"));
    auto* numbers = choice(
        "numbers", tr("Block numbers"),
        {{"0", tr("have no numbers")}, {"1", tr("are numbered one by one")}, {"5", tr("are numbered by fives")}, {"10", tr("are numbered by tens")}},
        [](const Spelling& s) { return QString::number(s.words.numberStep); }, [](Spelling& s, const QString& v) { s.words.numberStep = v.toInt(); });
    auto* comments = choice(
        "comments", tr("Comments"), {{"0", tr("in ( )")}, {"1", tr("in { }")}, {"2", tr("behind ;")}, {"3", tr("nowhere")}},
        [](const Spelling& s) { return QString::number(static_cast<int>(s.comments)); },
        [](Spelling& s, const QString& v) { s.comments = static_cast<CommentMarks>(v.toInt()); });
    sentence(tr("Blocks {}, with {}; comments stand {}, in {}."),
             {numbers, text("numberWord", tr("Letter of block numbers"), [](Spelling& s) -> std::string& { return s.numberWord; }), comments,
              flag("capitals", tr("Letters of comments"), tr("capitals"), tr("their own letters"), &Spelling::capitals)});
    sentence(tr("Lengths have {} decimal places in mm and {} in inches, angles {}; zeros at the end are {}, a point stands {}, plus signs are {}."),
             {count("places", tr("Decimal places of millimetres"), &ProgramWords::placesMm),
              count("placesInch", tr("Decimal places of inches"), &ProgramWords::placesInch),
              count("placesAngle", tr("Decimal places of degrees"), &ProgramWords::placesAngle),
              flag("zeros", tr("Zeros at the end"), tr("kept"), tr("left out"), &Spelling::zerosKept),
              flag("point", tr("Decimal point"), tr("in every number"), tr("where it is needed"), &Spelling::pointAlways),
              flag("plus", tr("Plus signs"), tr("written"), tr("left out"), &Spelling::plusWritten)});
    auto* order = choice(
        "order", tr("Order of words"), {{"", tr("X Y Z, rotaries, F")}, {"F", tr("F first")}, {"A B C X Y Z", tr("rotaries first")}},
        [](const Spelling& s) { return QString::fromStdString(s.order); }, [](Spelling& s, const QString& v) { s.order = v.toStdString(); });
    sentence(tr("What has not changed since the last block is {}; the code of its motion {}. Words of a move stand in the order {}."),
             {flag("repeatWords", tr("Words that have not changed"), tr("written again"), tr("left out"), &Spelling::repeatWords),
              flag("repeatMotion", tr("The motion's code"), tr("is written again"), tr("is left out"), &Spelling::repeatMotion), order});
}

void DialectPanel::makeControl() {
    section(tr("THE CONTROL"));
    auto* rapids = choice(
        "rapids", tr("Rapids"), {{"0", tr("as rapids")}, {"1", tr("as straight feed moves at rapid rate")}},
        [](const Spelling& s) { return QString(s.words.rapidsAsFeed ? "1" : "0"); }, [](Spelling& s, const QString& v) { s.words.rapidsAsFeed = v == "1"; });
    auto* dwell = choice(
        "dwell", tr("Unit of waits"), {{"0", tr("seconds")}, {"1", tr("milliseconds")}}, [](const Spelling& s) { return QString(s.words.dwellMs ? "1" : "0"); },
        [](Spelling& s, const QString& v) { s.words.dwellMs = v == "1"; });
    auto* taps = choice(
        "taps", tr("Feed of taps"), {{"0", tr("per minute")}, {"1", tr("per turn")}}, [](const Spelling& s) { return QString(s.words.tapPerTurn ? "1" : "0"); },
        [](Spelling& s, const QString& v) { s.words.tapPerTurn = v == "1"; });
    auto* feed = choice(
        "jointFeed", tr("Feed of joint programs"), {{"0", tr("as the machine has it")}, {"1", tr("inverse time")}, {"2", tr("per minute")}},
        [](const Spelling& s) { return QString::number(static_cast<int>(s.jointFeed)); },
        [](Spelling& s, const QString& v) { s.jointFeed = static_cast<JointFeedWord>(v.toInt()); });
    sentence(tr("Rapids along the path are written {}; waits are in {}; taps are fed {}; the feed of joint programs is {}."), {rapids, dwell, taps, feed});
    sentence(tr("Coolant: from outside M{}, mist M{}, through the tool M{}, off M{}; a tap is coupled by M{} (0: by nothing)."),
             {count("flood", tr("Coolant from outside"), &ProgramWords::flood), count("mist", tr("Mist"), &ProgramWords::mist),
              count("through", tr("Coolant through the tool"), &ProgramWords::through), count("coolantOff", tr("Coolant off"), &ProgramWords::coolantOff),
              count("rigidTap", tr("Coupling of taps"), &ProgramWords::rigidTap)});
    m_clampSentence = sentence(QString(), {});
}

// Its joints are those of the machine at hand.
void DialectPanel::makeClamps() {
    std::vector<std::string> joints;
    if (const auto place = m_open.place())
        for (const Joint& j : place->machine->joints)
            if (j.kind == JointKind::Rotary) joints.push_back(j.name);
    if (joints == m_clampJoints) return;
    for (const std::string& joint : m_clampJoints)
        for (const char* end : {"on", "off"})
            if (auto* w = m_inside->findChild<Word*>(QString("word.dialect.clamp.%1.%2").arg(QString::fromStdString(joint), end))) {
                std::erase_if(m_words, [&](const Shown& s) { return s.word == w; });
                delete w;
            }
    m_clampJoints = joints;
    QString said;
    std::vector<Word*> words;
    for (const std::string& joint : joints) {
        said +=
            (said.isEmpty() ? QString() : QString(" ")) + tr("Before %1 turns, {} lets it go; where it stands still, {} clamps it.").arg(QString::fromStdString(joint));
        words.push_back(clamp(joint, false));
        words.push_back(clamp(joint, true));
    }
    m_clampSentence->set(said, words);
    for (Word* w : words) w->setVisible(true);
}

void DialectPanel::makeSayings() {
    section(tr("HOW THINGS ARE SAID"));
    using P = Phrase;
    sentence(tr("A rapid is {}, a feed move {} with {}; {} counts a block from the machine's zero."),
             {phrase(P::Rapid), phrase(P::Cut), phrase(P::Feed), phrase(P::MachineWords)});
    sentence(tr("Millimetres are {}, inches {}; the plane {}, absolute {}, radius off {}, length off {}, cycles off {}, feed per minute {}, inverse time {}, per turn "
                "{}; the work offset {}."),
             {phrase(P::Millimetres), phrase(P::Inches), phrase(P::Plane), phrase(P::Absolute), phrase(P::RadiusOff), phrase(P::LengthOff), phrase(P::CyclesOff),
              phrase(P::PerMinute), phrase(P::InverseTime), phrase(P::PerTurn), phrase(P::Offset)});
    sentence(tr("A program begins with {}."), {text("say.safe", tr("Safe line"), [](Spelling& s) -> std::string& { return s.safe; })});
    sentence(tr("Tip control is {}. The tool is changed by {}, the spindle turns by {} or {} and stops by {}; {} waits; {} ends the program."),
             {phrase(P::TipOn), phrase(P::Tool), phrase(P::Spindle), phrase(P::SpindleBack), phrase(P::SpindleStop), phrase(P::Wait), phrase(P::End)});
    auto* indexed = choice(
        "indexed", tr("Work with standing rotaries"), {{"0", tr("as all other work")}, {"1", tr("in tilted planes")}, {"2", tr("in tilted planes, and nothing else")}},
        [](const Spelling& s) { return QString::number(static_cast<int>(s.indexed)); },
        [](Spelling& s, const QString& v) { s.indexed = static_cast<IndexedWork>(v.toInt()); });
    auto* angles = choice(
        "planeAngles", tr("Angles of a tilted plane"), {{"0", tr("about Z, the new X, the new Z")}, {"1", tr("about X, the old Y, the old Z")}},
        [](const Spelling& s) { return QString::number(static_cast<int>(s.planeAngles)); },
        [](Spelling& s, const QString& v) { s.planeAngles = static_cast<PlaneAngles>(v.toInt()); });
    sentence(tr("Work with standing rotaries is written {}; a plane is tilted {}, by {}, then {}, and put off by {}; the tool's length counts along it by {}."),
             {indexed, angles, phrase(P::PlaneOn), phrase(P::PlaneAlign), phrase(P::PlaneOff), phrase(P::LengthOn)});
    sentence(
        tr("Moves that keep within {} of an arc are written as one (0: none are): clockwise {}, counter-clockwise {}, its centre {}, {}, {}; in plane ZX {}, in YZ {}."),
        {length("arcs", tr("How far arcs may be from the moves that were proven"), &ProgramWords::arcs), phrase(P::ArcClockwise), phrase(P::ArcCounter),
         phrase(P::CentreX), phrase(P::CentreY), phrase(P::CentreZ), phrase(P::PlaneZX), phrase(P::PlaneYZ)});
    sentence(tr("Cycles return by {}: drilling {}, with a wait {}, pecking {}, breaking chips {}, tapping {}, boring {}, with a wait {}; their heights are {}, pecks {}, "
                "waits {}."),
             {phrase(P::CycleReturn), phrase(P::Drill), phrase(P::DrillWait), phrase(P::Peck), phrase(P::ChipBreak), phrase(P::Tap), phrase(P::Bore), phrase(P::BoreWait),
              phrase(P::CycleTop), phrase(P::CyclePeck), phrase(P::CycleWait)});
}

void DialectPanel::makeOwnLines() {
    section(tr("LINES OF YOUR OWN"));
    sentence(tr("Before everything {}; behind the safe line {}; before a tool change {}, behind it {}; before an operation {}, behind it {}; before the end {}, behind "
                "everything {}."),
             {lines("head", tr("Lines before everything"), &OwnLines::head), lines("start", tr("Lines behind the safe line"), &OwnLines::start),
              lines("beforeTool", tr("Lines before a tool change"), &OwnLines::beforeTool), lines("afterTool", tr("Lines behind a tool change"), &OwnLines::afterTool),
              lines("beforeOperation", tr("Lines before an operation"), &OwnLines::beforeOperation),
              lines("afterOperation", tr("Lines behind an operation"), &OwnLines::afterOperation), lines("finish", tr("Lines before the end"), &OwnLines::finish),
              lines("foot", tr("Lines behind everything"), &OwnLines::foot)});
    auto* hint = new QLabel(
        tr("| ends a line. {tool}, {next}, {program} and {operation} stand for what they name, the names in comments alone. Such lines may not move anything."),
        m_inside);
    hint->setProperty("role", "soft");
    hint->setWordWrap(true);
    m_column->addWidget(hint);
}

void DialectPanel::makeScript() {
    section(tr("SCRIPT"));
    auto* hint = new QLabel(
        tr("Lua, where sentences do not suffice: before(act) and after(act) give lines of their own, line(text, act) another text. It reaches no file and no network."),
        m_inside);
    hint->setProperty("role", "soft");
    hint->setWordWrap(true);
    m_column->addWidget(hint);
    m_script = new QPlainTextEdit(m_inside);
    m_script->setObjectName("dialect.script");
    m_script->setAccessibleName(tr("Script"));
    m_script->setLineWrapMode(QPlainTextEdit::NoWrap);
    m_script->setMinimumHeight(120);
    m_column->addWidget(m_script);
    m_useScript = new QPushButton(tr("Use the script"), m_inside);
    m_useScript->setObjectName("dialect.useScript");
    connect(m_useScript, &QPushButton::clicked, this, [this] {
        m_dialects.change([&](Spelling& s) {
            s.script = m_script->toPlainText().toStdString();
            if (!s.script.empty() && s.script.back() != '\n') s.script += '\n';
        });
    });
    connect(m_script, &QPlainTextEdit::textChanged, this, [this] {
        const Spelling* s = m_dialects.spelling();
        m_useScript->setEnabled(s && m_script->toPlainText().trimmed() != QString::fromStdString(s->script).trimmed());
    });
    auto* row = new QHBoxLayout;
    row->addWidget(m_useScript);
    row->addStretch(1);
    m_column->addLayout(row);
}

void DialectPanel::refresh() {
    const Spelling* s = m_dialects.spelling();
    if (!m_dialects.isOpen() || !s) return;
    makeClamps();
    for (const Shown& w : m_words) w.word->show(w.value(*s), false);
    for (Sentence* each : m_sentences) each->reflow();
    m_file->setText(tr("Every change is written to %1 at once.").arg(QFileInfo(m_dialects.fileName()).fileName()));
    m_file->setToolTip(m_dialects.fileName());
    m_takeBack->setEnabled(m_dialects.canTakeBack());
    const QString script = QString::fromStdString(s->script);
    if (m_script->toPlainText().trimmed() != script.trimmed() && !m_script->hasFocus()) m_script->setPlainText(script);
    m_useScript->setEnabled(m_script->toPlainText().trimmed() != script.trimmed());
}

} // namespace gyre
