#include "panels/MendsPanel.h"
#include "model/FlankShow.h"
#include "model/Mending.h"
#include "model/Picks.h"
#include "panels/Card.h"
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QTimer>

namespace gyre {

MendsPanel::MendsPanel(OpenJob& open, Mending& mending, Picks& picks, FlankShow& flank, QWidget* parent)
    : QWidget(parent), m_open(open), m_mending(mending), m_picks(picks), m_flank(flank) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 0, 12, 8);
    outer->setSpacing(8);
    QVBoxLayout* inside = nullptr;
    outer->addWidget(card(tr("Mends"), this, inside));
    m_mends = new QVBoxLayout;
    m_mends->setSpacing(4);
    inside->addLayout(m_mends);
    auto* add = new QPushButton(tr("+  Mend"), this);
    add->setObjectName("addMend");
    auto* menu = new QMenu(add);
    menu->setObjectName("mendKinds");
    for (int i = 0; i < kMendKinds; ++i) {
        const MendForm& form = formOf(static_cast<MendKind>(i));
        QAction* a = menu->addAction(QString::fromUtf8(form.title), this, [this, i] { m_mending.add(static_cast<MendKind>(i)); });
        a->setObjectName(QString("mendKind.%1").arg(form.id));
    }
    add->setMenu(menu);
    auto* line = new QHBoxLayout;
    line->addWidget(add);
    line->addStretch();
    inside->addLayout(line);
    outer->addWidget(card(tr("Flank"), this, inside));
    m_flankLine = softLabel(QString(), this);
    m_flankLine->setObjectName("flankWords");
    inside->addWidget(m_flankLine);
    m_ask = new QPushButton(tr("Ask a face"), this);
    m_ask->setObjectName("askFlank");
    m_ask->setCheckable(true);
    connect(m_ask, &QPushButton::clicked, this, [this] { m_picks.ask({PickKind::Faces, "flank", tr("Click a face: can a cutter's side follow it? · Esc when done")}); });
    line = new QHBoxLayout;
    line->addWidget(m_ask);
    m_askEdges = new QPushButton(tr("Ask two edges"), this);
    m_askEdges->setObjectName("askFlankEdges");
    m_askEdges->setCheckable(true);
    m_askEdges->setToolTip(tr("A surface drawn straight from one edge to the other: can a cutter's side follow it?"));
    connect(m_askEdges, &QPushButton::clicked, this, [this] {
        m_picks.ask({PickKind::Edges, "flank.edges", tr("Click the lower edge, then the upper one · Esc when done")});
    });
    line->addWidget(m_askEdges);
    line->addStretch();
    inside->addLayout(line);
    connect(&m_open, &OpenJob::jobChanged, this, &MendsPanel::refresh);
    connect(&m_open, &OpenJob::placeChanged, this, &MendsPanel::refresh);
    connect(&m_open, &OpenJob::featuresChanged, this, &MendsPanel::refresh);
    connect(&m_picks, &Picks::modeChanged, this, &MendsPanel::refresh);
    refresh();
}

void MendsPanel::refresh() {
    if (draggedIn(this)) return QTimer::singleShot(150, this, [this] { refresh(); });
    const KeepFocus keep(this);
    clear(m_mends);
    fillFlank();
    if (!m_open.hasJob()) return;
    if (m_open.job().mends.empty()) m_mends->addWidget(softLabel(tr("None yet. Mends add faces and curves beside the part; its file is never changed."), this));
    for (std::size_t i = 0; i < m_open.job().mends.size(); ++i) m_mends->addWidget(row(i));
}

void MendsPanel::fillFlank() {
    const bool asking = m_picks.mode() == PickMode::Feature && m_picks.feature().key == "flank";
    m_ask->setChecked(asking);
    m_askEdges->setChecked(m_picks.mode() == PickMode::Feature && m_picks.feature().key == "flank.edges");
    const auto& answer = m_flank.answer();
    if (!answer)
        m_flankLine->setText(tr("Can the side of a Ø%1 cutter follow a face? Ask one; its deviation is drawn along its straight lines.").arg(2.0 * m_flank.radius()));
    else
        m_flankLine->setText(tr("%1 is %2: %3.").arg(m_flank.what()).arg(QString::fromUtf8(flankKindName(answer->kind)), QString::fromStdString(answer->words)));
}

QWidget* MendsPanel::row(std::size_t i) {
    const Mend& m = m_open.job().mends[i];
    const QString title = QString::fromStdString(m.name);
    auto* box = new QWidget(this);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 2);
    column->setSpacing(1);
    auto* top = new QHBoxLayout;
    auto* name = flatButton(title, QString("mend.%1").arg(i), tr("Light what %1 starts from").arg(title), box);
    name->setCheckable(true);
    name->setChecked(m_mending.lit() == static_cast<int>(i));
    name->setStyleSheet("text-align: left");
    connect(
        name, &QPushButton::clicked, this, [this, i] { m_mending.light(m_mending.lit() == static_cast<int>(i) ? -1 : static_cast<int>(i)); }, Qt::QueuedConnection);
    auto* remove = flatButton(QString::fromUtf8("×"), QString("removeMend.%1").arg(i), tr("Remove %1").arg(title), box);
    connect(
        remove, &QPushButton::clicked, this, [this, i] { m_mending.remove(i); }, Qt::QueuedConnection);
    top->addWidget(name, 1);
    top->addWidget(remove);
    column->addLayout(top);
    column->addWidget(sentence(i, box));
    const QString trouble = m_mending.trouble(i), facts = m_mending.facts(i);
    if (!trouble.isEmpty() || !facts.isEmpty()) {
        auto* words = softLabel(trouble.isEmpty() ? facts : QString::fromUtf8("▲ ") + trouble, box);
        words->setObjectName(QString("mendFacts.%1").arg(i));
        if (!trouble.isEmpty()) words->setProperty("role", "unsafe");
        column->addWidget(words);
    }
    return box;
}

namespace {

QString numbersOf(const std::vector<ShapeRef>& refs) {
    QStringList n;
    for (const ShapeRef& r : refs) n << QString::number(r.index);
    return n.join(' ');
}

/// A mend's sentence with the words that change it.
class MendSentence {
public:
    MendSentence(OpenJob& open, Mending& mending, Picks& picks, std::size_t mend, Sentence* out)
        : m_open(open), m_mending(mending), m_picks(picks), m_index(mend), m_mend(open.job().mends[mend]), m_form(formOf(m_mend.kind)), m_out(out),
          m_base(QString("mend.%1.").arg(mend)) {}

    void set() {
        // {key} in the form's sentence becomes one word, or two for a curve.
        const QString pattern = this->pattern();
        QString text;
        std::vector<Word*> words;
        for (qsizetype at = 0; at < pattern.size();) {
            const auto open = pattern.indexOf('{', at);
            if (open < 0) {
                text += pattern.mid(at);
                break;
            }
            const auto close = pattern.indexOf('}', open);
            const auto these = wordsFor(pattern.mid(open + 1, close - open - 1));
            text += pattern.mid(at, open - at) + (these.size() > 1 ? "{} {}" : "{}");
            words.insert(words.end(), these.begin(), these.end());
            at = close + 1;
        }
        m_out->set(text, words);
    }

private:
    /// What stands in brackets is said where it matters.
    [[nodiscard]] QString pattern() const {
        QString pattern = QString::fromUtf8(m_form.sentence);
        for (auto open = pattern.indexOf('['); open >= 0; open = pattern.indexOf('[', open)) {
            const auto close = pattern.indexOf(']', open);
            const QString inside = pattern.mid(open + 1, close - open - 1);
            const bool says = m_mend.matters(inside.section('{', 1).section('}', 0, 0).toStdString());
            pattern.replace(open, close - open + 1, says ? inside : QString());
        }
        return pattern;
    }

    std::vector<Word*> wordsFor(const QString& key) {
        if (key == "first") return curve(key, m_mend.first, tr("First curve"), tr("a curve to pick"));
        if (key == "second") return curve(key, m_mend.second, tr("Second curve"), tr("another to pick"));
        Word* w = key == "faces" ? faces() : key == "spots" ? spots() : key == "points" ? points() : key == "drop" ? drop() : number(key);
        QObject::connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
        return {w};
    }

    /// @param then  what a new value does, once the word that says it may go
    template <class Then> Word* typed(Word::Kind kind, const QString& key, const QString& label, Then then) {
        auto* w = new Word(kind, m_base + key, label, m_out);
        QObject::connect(
            w, &Word::changed, &m_open, [then](const QString&, const QString& value) { then(value); }, Qt::QueuedConnection);
        return w;
    }

    struct Pick {
        QString what, label, shown, numbers, prompt;
        PickKind kind;
    };
    Word* pick(const Pick& p) {
        auto* w = new Word(Word::Kind::Action, m_base + p.what, p.label, m_out);
        w->setWords(p.shown);
        w->setList(p.numbers);
        w->setToolTip(tr("%1: click to pick, F2 for their numbers").arg(p.label));
        w->setChecked(m_picks.mode() == PickMode::Feature && m_picks.feature().key == m_base + p.what);
        QObject::connect(
            w, &Word::triggered, &m_open,
            [&picks = m_picks, p](const QString& key) {
                picks.ask({p.kind, key, p.prompt});
            },
            Qt::QueuedConnection);
        QObject::connect(
            w, &Word::listed, &m_open,
            [&mends = m_mending, i = m_index, what = p.what](const QString&, const QString& list) {
                (void)(what == "spots" ? mends.setPoints(i, list) : mends.setPicks(i, what, list));
            },
            Qt::QueuedConnection);
        return w;
    }

    std::vector<Word*> curve(const QString& what, const MendSource& s, const QString& label, const QString& none) {
        const QString shown = !s.curve.empty()  ? QString::fromUtf8("“%1”").arg(QString::fromStdString(s.curve))
                              : s.edges.empty() ? none
                                                : tr("%n edge(s)", nullptr, static_cast<int>(s.edges.size())).replace("(s)", s.edges.size() == 1 ? "" : "s");
        std::vector<Word*> both{pick({what, label, shown, numbersOf(s.edges), tr("Click the edges of the %1 · Esc when done").arg(label.toLower()), PickKind::Edges})};
        const QStringList curves = m_mending.curvesFor(m_index);
        if (curves.isEmpty()) return both;
        auto* named = typed(Word::Kind::Choice, what + ".curve", tr("%1 from a mend above or a drawing").arg(label),
                            [&mends = m_mending, i = m_index, what](const QString& curve) { mends.setCurve(i, what, curve); });
        std::vector<Word::Option> options;
        for (const QString& c : curves) options.push_back({c, c});
        named->setOptions(options);
        named->setWords(QString::fromUtf8("▾"));
        both.push_back(named);
        return both;
    }

    Word* faces() {
        const auto& all = m_mend.faces;
        const QString shown = all.empty() ? tr("faces to pick") : all.size() == 1 ? tr("face %1").arg(all[0].index) : tr("%1 faces").arg(all.size());
        return pick({"faces", tr("Faces"), shown, numbersOf(all), tr("Click the faces · Esc when done"), PickKind::Faces});
    }

    Word* spots() {
        return pick({"spots", tr("Points on the part"), m_mend.points.empty() ? tr("points to click") : tr("%1 points").arg(m_mend.points.size()),
                     QString::fromStdString(sketchText(m_mend.points)), tr("Click along the part; the curve runs through the points · Esc when done"), PickKind::Points});
    }

    Word* points() {
        auto* w = typed(Word::Kind::Text, "points", tr("Points: two coordinates each, and a bulge before an arc"),
                        [&mends = m_mending, i = m_index](const QString& value) { (void)mends.setPoints(i, value); });
        w->show(QString::fromStdString(sketchText(m_mend.points)), false);
        if (m_mend.points.empty()) w->setWords(tr("points to write"));
        if (m_mend.points.size() > 3) w->setWords(tr("%1 points").arg(m_mend.points.size()));
        return w;
    }

    Word* drop() {
        QStringList n;
        for (const int d : m_mend.drop) n << QString::number(d);
        auto* w = typed(Word::Kind::Text, "drop", tr("Points to leave out, by number"),
                        [&mends = m_mending, i = m_index](const QString& value) { (void)mends.setPicks(i, "drop", value); });
        w->show(n.join(' '), false);
        if (n.isEmpty()) w->setWords(tr("none"));
        return w;
    }

    Word* number(const QString& key) {
        using T = MendField::Type;
        const MendField& f = *m_form.field(key.toStdString());
        const Word::Kind kind = f.type == T::Length   ? Word::Kind::Length
                                : f.type == T::Angle  ? Word::Kind::Angle
                                : f.type == T::Choice ? Word::Kind::Choice
                                                      : Word::Kind::Number;
        auto* w = typed(kind, key, QString::fromUtf8(f.label), [&mends = m_mending, i = m_index, key](const QString& v) { mends.setNumber(i, key, v.toDouble()); });
        std::vector<Word::Option> options;
        for (std::size_t k = 0; k < f.options.size(); ++k) options.push_back({QString::number(k), QString::fromUtf8(f.options[k].second)});
        w->setOptions(options);
        w->setStep(f.type == T::Length ? 0.5 : 1.0);
        const double value = m_mend.number(f.key);
        w->show(f.type == T::Choice ? QString::number(std::lround(value)) : QString::number(value, 'g', 12), kind == Word::Kind::Length && m_open.inches());
        if (f.type == T::Percent) w->setWords(QString("%1 %").arg(value, 0, 'g', 6));
        return w;
    }

    static QString tr(const char* text, const char* hint = nullptr, int n = -1) { return MendsPanel::tr(text, hint, n); }

    OpenJob& m_open;
    Mending& m_mending;
    Picks& m_picks;
    std::size_t m_index;
    const Mend& m_mend;
    const MendForm& m_form;
    Sentence* m_out;
    QString m_base;
};

} // namespace

Sentence* MendsPanel::sentence(std::size_t i, QWidget* parent) {
    auto* out = new Sentence(parent);
    MendSentence(m_open, m_mending, m_picks, i, out).set();
    return out;
}

} // namespace gyre
