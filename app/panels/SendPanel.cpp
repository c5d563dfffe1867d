#include "panels/SendPanel.h"
#include "Ask.h"
#include "Paper.h"
#include "Theme.h"
#include "base/File.h"
#include "model/Dialects.h"
#include "model/Programs.h"
#include "model/ShopProgram.h"
#include "panels/Sentence.h"
#include "session/Sending.h"
#include <QFileInfo>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTextBlock>
#include <QVBoxLayout>
#include <algorithm>
#include <filesystem>

namespace gyre {
namespace {

constexpr double kArcsWithin = 0.02; // mm: moves of the usual fineness, 0.01, become arcs

} // namespace

SendPanel::SendPanel(OpenJob& open, Programs& programs, Dialects& dialects, ShopProgram& shop, QWidget* parent)
    : QWidget(parent), m_open(open), m_programs(programs), m_dialects(dialects), m_shop(shop) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(14, 12, 12, 10);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("NC PROGRAM"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    makeKind(outer);
    m_words = new Sentence(this);
    makeWords();
    outer->addWidget(m_words);
    auto* row = new QHBoxLayout;
    m_write = new QPushButton(tr("Write and read back"), this);
    m_write->setProperty("role", "primary");
    m_write->setObjectName("postNow");
    m_write->setAccessibleName(tr("Write the program and read it back"));
    connect(m_write, &QPushButton::clicked, this, &SendPanel::write);
    m_store = new QPushButton(tr("Store as…"), this);
    m_store->setObjectName("storeProgram");
    m_store->setEnabled(false);
    connect(m_store, &QPushButton::clicked, this, &SendPanel::store);
    row->addWidget(m_write);
    row->addWidget(m_store);
    row->addStretch();
    outer->addLayout(row);
    outer->addLayout(paperRow());
    makeProgram(outer);
    outer->insertWidget(outer->indexOf(m_checks), shopButton(), 0, Qt::AlignLeft);
    connect(&m_open, &OpenJob::locationChanged, this, &SendPanel::followLocation);
    connect(&m_open, &OpenJob::jobChanged, this, &SendPanel::outdated);
    connect(&m_dialects, &Dialects::changed, this, [this] {
        showKind();
        const Programs::Posted* posted = m_programs.posted();
        const Spelling* now = m_dialects.spelling();
        if (m_dialects.isOpen())
            preview();
        else if (!posted || !posted->dialect.spelling || !now || !(*posted->dialect.spelling == *now)) // closed as it is: the program stays
            outdated();
    });
    connect(&m_open, &OpenJob::computingChanged, this, [this] {
        if (m_waits && !m_open.computing()) write();
    });
}

// The text, over it what was found on reading it back, below it what the line in hand tells.
void SendPanel::makeProgram(QVBoxLayout* outer) {
    m_checks = new QLabel(this);
    m_checks->setWordWrap(true);
    m_checks->setTextFormat(Qt::RichText);
    m_checks->setObjectName("postChecks");
    outer->addWidget(m_checks);
    m_partSentence = new Sentence(this);
    m_part = new Word(Word::Kind::Choice, "send.part", tr("The program that is shown"), m_partSentence);
    connect(m_part, &Word::changed, this, [this](const QString&, const QString& value) { showPart(value.toULongLong()); });
    m_partSentence->hide();
    outer->addWidget(m_partSentence);
    m_view = new QPlainTextEdit(this);
    m_view->setReadOnly(true);
    m_view->setLineWrapMode(QPlainTextEdit::NoWrap);
    m_view->setObjectName("program");
    m_view->setAccessibleName(tr("Program text"));
    m_view->setPlaceholderText(tr("The program appears here, its line in step with the view."));
    outer->addWidget(m_view, 1);
    m_why = new QLabel(this);
    m_why->setWordWrap(true);
    m_why->setTextFormat(Qt::RichText);
    m_why->setProperty("role", "soft");
    m_why->setObjectName("lineWhy");
    m_why->setAccessibleName(tr("What the line tells the control"));
    outer->addWidget(m_why);
    connect(m_view, &QPlainTextEdit::cursorPositionChanged, this, &SendPanel::followCursor);
    connect(m_view, &QPlainTextEdit::cursorPositionChanged, this, &SendPanel::showWhy);
}

// How programs are spelled: a word of the job, and the way to a dialect of one's own.
void SendPanel::makeKind(QVBoxLayout* outer) {
    m_kindSentence = new Sentence(this);
    m_kind = new Word(Word::Kind::Choice, "send.dialect", tr("Kind of program"), this);
    connect(m_kind, &Word::changed, this, [this](const QString&, const QString& value) { m_dialects.choose(value); });
    m_change = new Word(Word::Kind::Action, "send.changeDialect", tr("Change how programs are spelled"), this);
    m_change->setWords(tr("change how"));
    connect(m_change, &Word::triggered, this, [this] { m_dialects.open(!m_dialects.isOpen()); });
    m_kindSentence->set(tr("Write the route as {}, {}."), {m_kind, m_change});
    outer->addWidget(m_kindSentence);
    connect(&m_open, &OpenJob::benchChanged, this, &SendPanel::showKind);
    showKind();
}

void SendPanel::showKind() {
    if (m_open.bench() != Bench::Send || !m_open.hasJob()) return;
    std::vector<Word::Option> kinds;
    for (const Dialects::Known& k : m_dialects.known()) kinds.push_back({k.word, k.name});
    m_kind->setOptions(std::move(kinds));
    m_kind->show(m_dialects.word(), false);
    m_change->setChecked(m_dialects.isOpen());
    m_kindSentence->reflow();
    showWords();
}

QString SendPanel::endingNow() const {
    const auto choice = m_dialects.choice();
    return choice ? QString(choice->ending()) : QString(".nc");
}

// What goes to the shop on paper.
QLayout* SendPanel::paperRow() {
    auto* paper = new QHBoxLayout;
    auto* sheet = new QPushButton(tr("Set-up sheet…"), this);
    sheet->setObjectName("storeSheet");
    sheet->setToolTip(tr("Clamping, tools, operations and what to look at, with the view as it is now: an HTML page or a PDF"));
    connect(sheet, &QPushButton::clicked, this, [this] {
        const QString file = askToSave(this, tr("Store the set-up sheet"), nameBeside("-sheet.pdf"), tr("Sheets (*.pdf *.html)"));
        if (!file.isEmpty()) storeSheetAs(file);
    });
    auto* list = new QPushButton(tr("Tool list…"), this);
    list->setObjectName("storeToolList");
    list->setToolTip(tr("Numbers, stick-outs and gauge lengths as CSV"));
    connect(list, &QPushButton::clicked, this, [this] {
        const QString file = askToSave(this, tr("Store the tool list"), nameBeside("-tools.csv"), tr("Tables (*.csv)"));
        if (!file.isEmpty()) tellStored(storeToolList(m_open, file), file);
    });
    paper->addWidget(sheet);
    paper->addWidget(list);
    paper->addStretch();
    return paper;
}

// What the control wants to read: words of the job, so that they are there again next time.
void SendPanel::makeWords() {
    const auto choice = [this](const char* key, const QString& name, std::vector<Word::Option> options, std::function<void(ProgramWords&, const QString&)> set) {
        auto* w = new Word(Word::Kind::Choice, QString("send.") + key, name, m_words);
        w->setOptions(std::move(options));
        connect(w, &Word::changed, this, [this, name, set](const QString&, const QString& value) {
            m_open.change(tr("change %1 of programs").arg(name.toLower()), [&](Job& j) { set(j.program, value); });
        });
        return w;
    };
    std::vector<Word::Option> offsets{{"0", tr("no work offset")}};
    for (int g = 54; g <= 59; ++g) offsets.push_back({QString::number(g), QString("G%1").arg(g)});
    auto* units = choice("units", tr("Unit"), {{"mm", tr("millimetres")}, {"in", tr("inches")}}, [](ProgramWords& p, const QString& v) { p.inch = v == "in"; });
    auto* offset = choice("offset", tr("Work offset"), std::move(offsets), [](ProgramWords& p, const QString& v) { p.offset = v.toInt(); });
    auto* programs = choice("programs", tr("Number of programs"),
                            {{"one", tr("one program")}, {"tools", tr("a program for each tool")}, {"operations", tr("a program for each operation")}},
                            [](ProgramWords& p, const QString& v) {
                                p.split = v == "tools" ? ProgramSplit::Tools : v == "operations" ? ProgramSplit::Operations : ProgramSplit::One;
                            });
    auto* numbers = choice("numbers", tr("Block numbers"),
                           {{"0", tr("no block numbers")}, {"1", tr("every block numbered")}, {"5", tr("numbers by fives")}, {"10", tr("numbers by tens")}},
                           [](ProgramWords& p, const QString& v) { p.numberStep = v.toInt(); });
    auto* rapids = choice("rapids", tr("Rapids"), {{"rapid", tr("as G0")}, {"feed", tr("as straight feed moves at rapid rate")}},
                          [](ProgramWords& p, const QString& v) { p.rapidsAsFeed = v == "feed"; });
    auto* dwell = choice("dwell", tr("Dwell"), {{"s", tr("seconds")}, {"ms", tr("milliseconds")}}, [](ProgramWords& p, const QString& v) { p.dwellMs = v == "ms"; });
    auto* taps = choice("taps", tr("Feed of taps"), {{"minute", tr("per minute")}, {"turn", tr("per turn")}},
                        [](ProgramWords& p, const QString& v) { p.tapPerTurn = v == "turn"; });
    auto* arcs = choice("arcs", tr("Rounds"), {{"straight", tr("as straight moves")}, {"arcs", tr("as arcs")}},
                        [](ProgramWords& p, const QString& v) { p.arcs = v == "arcs" ? kArcsWithin : 0.0; });
    auto* within = new Word(Word::Kind::Length, "send.arcsWithin", tr("How far arcs may be from the moves that were proven"), m_words);
    within->setStep(0.005);
    connect(within, &Word::changed, this, [this](const QString&, const QString& v) {
        m_open.change(tr("change the room of arcs"), [&](Job& j) { j.program.arcs = std::clamp(v.toDouble(), 0.0, 1.0); });
    });
    m_program = {programs, units, offset, numbers, rapids, dwell, taps, arcs, within};
    connect(&m_open, &OpenJob::jobChanged, this, &SendPanel::showWords);
    showWords();
}

void SendPanel::showWords() {
    if (!m_open.hasJob()) return;
    // All but how many there are, units and offset are a dialect file's.
    const bool file = m_dialects.spelling() != nullptr;
    const ProgramWords& p = m_open.job().program;
    if (const int shown = file ? 3 : p.arcs > 0.0 ? 9 : 8; shown != m_shownWords) {
        m_shownWords = shown;
        m_words->set(file         ? tr("As {}, in {}, with {}.")
                     : shown == 8 ? tr("As {}, in {}, with {}, {}; rapids {}; dwell in {}; taps fed {}; what is round {}.")
                                  : tr("As {}, in {}, with {}, {}; rapids {}; dwell in {}; taps fed {}; what is round {} that keep within {} of what was proven."),
                     std::vector<Word*>(m_program.begin(), m_program.begin() + shown));
        for (std::size_t k = 0; k < m_program.size(); ++k) m_program[k]->setVisible(static_cast<int>(k) < shown);
    }
    const QStringList values{p.split == ProgramSplit::Tools        ? "tools"
                             : p.split == ProgramSplit::Operations ? "operations"
                                                                   : "one",
                             p.inch ? "in" : "mm",
                             QString::number(p.offset),
                             QString::number(p.numberStep),
                             p.rapidsAsFeed ? "feed" : "rapid",
                             p.dwellMs ? "ms" : "s",
                             p.tapPerTurn ? "turn" : "minute",
                             p.arcs > 0.0 ? "arcs" : "straight",
                             QString::number(p.arcs, 'g', 12)};
    for (qsizetype i = 0; i < values.size(); ++i) m_program[static_cast<std::size_t>(i)]->show(values[i], m_open.inches());
    m_words->reflow();
}

void SendPanel::outdated() {
    m_waits = false;
    m_stored.clear();
    if (m_text.isEmpty() || m_shop.isOpen()) return;
    m_store->setEnabled(false);
    if (!m_programs.posted()) { // of a job that is not open any more
        m_text.clear();
        m_view->clear();
        m_checks->clear();
        m_partSentence->hide();
        return;
    }
    m_checks->setText(tr("The job has changed since this program was written."));
}

void SendPanel::cannot(const Error& error) {
    m_checks->setText(tr("<b>Cannot be written:</b> %1").arg(QString::fromStdString(error.text()).toHtmlEscaped()));
    m_store->setEnabled(false);
}

// Proven first, then written: what is not proven as it stands is not handed out.
void SendPanel::write() {
    m_shop.close();
    if (!m_open.allProven() && !m_waits) {
        m_waits = true;
        m_store->setEnabled(false);
        m_checks->setText(tr("Proving first …"));
        m_open.computeNow(true);
        return;
    }
    m_waits = false;
    const auto choice = m_dialects.choice();
    if (!choice) return cannot(choice.error());
    auto text = m_programs.post(*choice);
    if (!text) return cannot(text.error());
    m_text = *text;
    m_view->setPlainText(m_text);
    m_view->setExtraSelections({});
    showPosted();
    followLocation();
}

// While the dialect is changed the program follows, and lines that were not there before are marked.
void SendPanel::preview() {
    m_shop.close();
    const auto choice = m_dialects.choice();
    if (!choice) return cannot(choice.error());
    const QStringList before = m_text.split('\n');
    auto text = m_programs.post(*choice);
    if (!text) return cannot(text.error());
    if (m_text == *text) return showPosted();
    const bool first = m_text.isEmpty();
    m_text = *text;
    m_view->setPlainText(m_text);
    QList<QTextEdit::ExtraSelection> marks;
    int count = 0;
    if (!first) {
        const QSet<QString> known(before.begin(), before.end());
        constexpr int kMostMarks = 2000;
        for (QTextBlock b = m_view->document()->begin(); b.isValid(); b = b.next()) {
            if (b.text().isEmpty() || known.contains(b.text())) continue;
            if (++count > kMostMarks) continue;
            QTextEdit::ExtraSelection mark;
            mark.cursor = QTextCursor(b);
            mark.format.setBackground(theme().accentSoft);
            mark.format.setProperty(QTextFormat::FullWidthSelection, true);
            marks << mark;
        }
    }
    m_view->setExtraSelections(marks);
    showPosted();
    if (count > 0) m_checks->setText(tr("<b>%1 lines are other than before</b><br>").arg(count) + m_checks->text());
    if (!marks.isEmpty()) {
        m_view->setTextCursor(marks.front().cursor);
        m_view->centerCursor();
    }
}

void SendPanel::showPart(std::size_t part) {
    if (m_shop.isOpen() || part >= m_programs.all().size() || part == m_programs.shown()) return;
    m_programs.show(part);
    m_text = QString::fromStdString(m_programs.posted()->program.text);
    m_view->setPlainText(m_text);
    m_view->setExtraSelections({});
    if (m_store->isEnabled()) showPosted(); // else it is told that it is older than the job
}

void SendPanel::showPosted() {
    const auto& all = m_programs.all();
    const Programs::Posted& posted = *m_programs.posted();
    m_partSentence->setVisible(all.size() > 1);
    if (all.size() > 1) {
        std::vector<Word::Option> parts;
        for (std::size_t k = 0; k < all.size(); ++k) parts.push_back({QString::number(k), tr("%1 of %2, %3").arg(k + 1).arg(all.size()).arg(all[k].name)});
        m_part->setOptions(std::move(parts));
        m_part->show(QString::number(m_programs.shown()), false);
        m_partSentence->set(tr("Program {}."), {m_part});
    }
    // Of several the first that differs is told, whichever is shown.
    const auto differs = std::find_if(all.begin(), all.end(), [](const Programs::Posted& p) { return !p.report.agrees(); });
    const ReplayReport& r = differs == all.end() ? posted.report : differs->report;
    QStringList lines;
    lines << (r.agrees() && r.unread > 0 ? tr("· %1 steps read back as the job means them, <b>but for %2 lines that cannot be read</b>").arg(r.moves).arg(r.unread)
              : r.agrees()               ? tr("✓ %1 steps read back: the control would do exactly what the job means").arg(r.moves)
                                         : tr("<b>✗ The read-back differs:</b> %1").arg(QString::fromStdString(r.differences.front()).toHtmlEscaped()));
    if (r.arcs > 0) lines << tr("· %1 arcs, at most %2 mm from the straight moves that were proven").arg(r.arcs).arg(r.strays, 0, 'f', 4);
    if (all.size() > 1 && m_programs.agree()) lines << tr("✓ All %1 programs read back so").arg(all.size());
    // Programs with tip control carry rotary words instead of directions.
    const double turned = std::max(r.axis, r.rotary);
    lines << tr("· tip within %1 mm, %2 within %3°").arg(r.tip, 0, 'f', 6).arg(r.rotary > r.axis ? tr("rotary axes") : tr("axis")).arg(degrees(turned), 0, 'f', 6);
    lines << (!posted.stops.empty() ? tr("<b>✗ %1 findings of rank Stop: do not run this program.</b> The first: %2")
                                          .arg(posted.stops.size())
                                          .arg(QString::fromStdString(named(m_open.job(), posted.stops.front())).toHtmlEscaped())
              : posted.proven ? tr("✓ Proven at the machine, no Stop")
                              : tr("<b>✗ Not proven at the machine</b>"));
    m_store->setText(posted.stops.empty() && posted.proven ? tr("Store as…") : tr("Store despite that…"));
    if (r.own > 0) lines << tr("· %1 lines are of the dialect's own: they stand where they are meant to, what they do is not checked").arg(r.own);
    if (r.unread > 0) lines << tr("<b>· %1 lines were rewritten by the dialect's script beyond reading: not checked</b>").arg(r.unread);
    m_checks->setText(lines.join("<br>"));
    m_store->setEnabled(m_programs.agree());
}

// Word by word, and where the act that it belongs to comes from.
void SendPanel::showWhy() {
    const Programs::Posted* posted = m_programs.posted();
    m_why->clear();
    if (m_shop.isOpen()) return showShopWhy();
    if (!posted || m_text.isEmpty()) return;
    const QTextBlock block = m_view->textCursor().block();
    const int line = block.blockNumber() + 1;
    const auto& acts = posted->program.program.acts;
    // States are said before the act that needs them.
    const auto act = std::lower_bound(acts.begin(), acts.end(), line, [](const Act& a, int l) { return a.line < l; });
    QStringList said;
    const bool own = act != acts.end() && act->kind == Act::Kind::Own && act->line == line;
    if (own)
        said << tr("a line of the dialect's own");
    else
        for (const auto& [word, what] : posted->meanings(block.text()))
            said << tr("<b>%1</b> %2").arg(word.toHtmlEscaped(), what.isEmpty() ? QString("?") : what.toHtmlEscaped());
    if (act != acts.end() && !said.isEmpty() && act->operation < posted->operations.size()) {
        const QString name = QString::fromStdString(m_open.job().nameOf(posted->operations[act->operation])).toHtmlEscaped();
        said << (act->kind == Act::Kind::End ? tr("at the end")
                 : act->aside                ? tr("on the way to or from %1").arg(name)
                 : act->line == line         ? tr("location %1 of %2").arg(act->location).arg(name)
                                             : tr("before location %1 of %2").arg(act->location).arg(name));
    }
    m_why->setText(said.join(" · "));
}

// The act of a line, or the last one before it.
void SendPanel::followCursor() {
    const Programs::Posted* posted = m_programs.posted();
    if (!m_view->hasFocus() || !posted || m_text.isEmpty() || m_shop.isOpen()) return;
    const int line = m_view->textCursor().blockNumber() + 1;
    const auto& acts = posted->program.program.acts;
    auto it = std::upper_bound(acts.begin(), acts.end(), line, [](int l, const Act& a) { return l < a.line; });
    if (it == acts.begin()) return;
    --it;
    const QString operation = QString::fromStdString(posted->operations[it->operation]);
    const std::size_t location = it->location;
    if (m_open.selected() != operation) m_open.select(operation);
    m_open.setLocation(location);
}

// The line that brings the tool to the present location of the selected operation.
void SendPanel::followLocation() {
    const Programs::Posted* posted = m_programs.posted();
    if (!posted || m_text.isEmpty() || m_view->hasFocus() || m_shop.isOpen()) return;
    const std::string selected = m_open.selected().toStdString();
    if (const auto part = m_programs.partOf(selected)) showPart(*part);
    const Act* act = m_programs.posted()->actAt(selected, m_open.location());
    if (!act) return;
    QTextCursor c(m_view->document()->findBlockByNumber(act->line - 1));
    c.select(QTextCursor::LineUnderCursor);
    m_view->setTextCursor(c);
    m_view->centerCursor();
}

QString SendPanel::nameBeside(const QString& ending) const {
    return QFileInfo(m_open.file()).absolutePath() + "/" + QString::fromStdString(m_open.job().name).toLower().replace(' ', '-') + ending;
}

void SendPanel::tellStored(const Status& done, const QString& file) {
    emit m_open.toldUser(done ? tr("Stored %1").arg(file) : QString::fromStdString(done.error().text()));
}

// A program that is older than the job does not stand on it.
void SendPanel::storeSheetAs(const QString& file) {
    const bool written = m_store->isEnabled() && m_programs.posted();
    std::vector<SetupSheetInput::NamedProgram> programs;
    const auto& all = m_programs.all();
    const std::filesystem::path stored = (m_stored.isEmpty() ? nameBeside(endingNow()) : m_stored).toStdString();
    for (std::size_t k = 0; written && k < all.size(); ++k) programs.push_back({partFile(stored, k, all.size()).filename().string(), all[k].program.text});
    tellStored(storeSetupSheet(m_open, file, m_seen ? m_seen() : QImage(), programs), file);
}

void SendPanel::store() {
    const QString file = askToSave(this, tr("Store the program"), nameBeside(endingNow()), tr("All files (*)"));
    if (!file.isEmpty()) storeAs(file);
}

void SendPanel::storeAs(const QString& file) {
    const Programs::Posted* posted = m_programs.posted();
    if (!posted) return;
    const auto tell = [this](const Error& error) { emit m_open.toldUser(QString::fromStdString(error.text())); };
    const auto choice = m_dialects.choice();
    if (!choice) return tell(choice.error());
    const auto& was = posted->dialect.spelling;
    const bool asShown = posted->dialect.kind == choice->kind && !was == !choice->spelling && (!was || *was == *choice->spelling);
    // Files may have changed meanwhile; what is not clean gets the Stops at its head.
    const auto text = m_programs.post(*choice, !posted->stops.empty() || !posted->proven);
    if (!text) {
        tell(text.error());
        return cannot(text.error());
    }
    m_text = *text;
    m_view->setPlainText(m_text);
    if (!asShown || !m_programs.agree()) {
        showPosted();
        return tell({asShown ? "the program reads back as another" : "the dialect has changed since this program was written", {}, "Look at it, and store it again"});
    }
    const auto& all = m_programs.all();
    const auto fileOf = [&](std::size_t k) { return partFile(file.toStdString(), k, all.size()).string(); };
    for (std::size_t k = 0; k < all.size(); ++k)
        if (const auto ok = m_open.mayStore(QString::fromStdString(fileOf(k))); !ok) return tell(ok.error());
    for (std::size_t k = 0; k < all.size(); ++k)
        if (const auto ok = writeFileAtomic(fileOf(k), all[k].program.text, true); !ok) return tell(ok.error());
    m_stored = file;
    if (all.size() == 1) return tellStored({}, file);
    emit m_open.toldUser(tr("Stored %1 programs, %2 to %3").arg(all.size()).arg(QString::fromStdString(fileOf(0)), QString::fromStdString(fileOf(all.size() - 1))));
}

} // namespace gyre
