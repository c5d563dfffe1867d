#include "panels/MendsPanel.h"
#include "panels/Card.h"
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QTimer>

namespace gyre {

MendsPanel::MendsPanel(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
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
        QAction* a = menu->addAction(QString::fromUtf8(form.title), this, [this, i] { m_model.addMend(static_cast<MendKind>(i)); });
        a->setObjectName(QString("mendKind.%1").arg(form.id));
    }
    add->setMenu(menu);
    auto* line = new QHBoxLayout;
    line->addWidget(add);
    line->addStretch();
    inside->addLayout(line);
    outer->addWidget(card(tr("Flank"), this, inside));
    m_flank = softLabel(QString(), this);
    m_flank->setObjectName("flankWords");
    inside->addWidget(m_flank);
    m_ask = new QPushButton(tr("Ask a face"), this);
    m_ask->setObjectName("askFlank");
    m_ask->setCheckable(true);
    connect(m_ask, &QPushButton::clicked, this, [this] {
        m_model.pickFeature({PickKind::Faces, "flank", tr("Click a face: can a cutter's side follow it? · Esc when done")});
    });
    line = new QHBoxLayout;
    line->addWidget(m_ask);
    m_askEdges = new QPushButton(tr("Ask two edges"), this);
    m_askEdges->setObjectName("askFlankEdges");
    m_askEdges->setCheckable(true);
    m_askEdges->setToolTip(tr("A surface drawn straight from one edge to the other: can a cutter's side follow it?"));
    connect(m_askEdges, &QPushButton::clicked, this, [this] {
        m_model.pickFeature({PickKind::Edges, "flank.edges", tr("Click the lower edge, then the upper one · Esc when done")});
    });
    line->addWidget(m_askEdges);
    line->addStretch();
    inside->addLayout(line);
    connect(&m_model, &AppModel::jobChanged, this, &MendsPanel::refresh);
    connect(&m_model, &AppModel::placeChanged, this, &MendsPanel::refresh);
    connect(&m_model, &AppModel::featuresChanged, this, &MendsPanel::refresh);
    connect(&m_model, &AppModel::pickModeChanged, this, &MendsPanel::refresh);
    refresh();
}

void MendsPanel::refresh() {
    if (draggedIn(this)) return QTimer::singleShot(150, this, [this] { refresh(); });
    const KeepFocus keep(this);
    clear(m_mends);
    fillFlank();
    if (!m_model.hasJob()) return;
    if (m_model.job().mends.empty()) m_mends->addWidget(softLabel(tr("None yet. Mends add faces and curves beside the part; its file is never changed."), this));
    for (std::size_t i = 0; i < m_model.job().mends.size(); ++i) m_mends->addWidget(row(i));
}

void MendsPanel::fillFlank() {
    const bool asking = m_model.pickMode() == PickMode::Feature && m_model.featurePick().key == "flank";
    m_ask->setChecked(asking);
    m_askEdges->setChecked(m_model.pickMode() == PickMode::Feature && m_model.featurePick().key == "flank.edges");
    const auto& answer = m_model.flank();
    if (!answer)
        m_flank->setText(tr("Can the side of a Ø%1 cutter follow a face? Ask one; its deviation is drawn along its straight lines.").arg(2.0 * m_model.flankRadius()));
    else
        m_flank->setText(tr("%1 is %2: %3.").arg(m_model.flankWhat()).arg(QString::fromUtf8(flankKindName(answer->kind)), QString::fromStdString(answer->words)));
}

QWidget* MendsPanel::row(std::size_t i) {
    const Mend& m = m_model.job().mends[i];
    const QString title = QString::fromStdString(m.name);
    auto* box = new QWidget(this);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 2);
    column->setSpacing(1);
    auto* top = new QHBoxLayout;
    auto* name = flatButton(title, QString("mend.%1").arg(i), tr("Light what %1 starts from").arg(title), box);
    name->setCheckable(true);
    name->setChecked(m_model.litMend() == static_cast<int>(i));
    name->setStyleSheet("text-align: left");
    connect(
        name, &QPushButton::clicked, this, [this, i] { m_model.lightMend(m_model.litMend() == static_cast<int>(i) ? -1 : static_cast<int>(i)); }, Qt::QueuedConnection);
    auto* remove = flatButton(QString::fromUtf8("×"), QString("removeMend.%1").arg(i), tr("Remove %1").arg(title), box);
    connect(
        remove, &QPushButton::clicked, this, [this, i] { m_model.removeMend(i); }, Qt::QueuedConnection);
    top->addWidget(name, 1);
    top->addWidget(remove);
    column->addLayout(top);
    column->addWidget(sentence(i, box));
    const QString trouble = m_model.mendTrouble(i), facts = m_model.mendFacts(i);
    if (!trouble.isEmpty() || !facts.isEmpty()) {
        auto* words = softLabel(trouble.isEmpty() ? facts : QString::fromUtf8("▲ ") + trouble, box);
        words->setObjectName(QString("mendFacts.%1").arg(i));
        if (!trouble.isEmpty()) words->setProperty("role", "unsafe");
        column->addWidget(words);
    }
    return box;
}

Sentence* MendsPanel::sentence(std::size_t i, QWidget* parent) {
    using T = MendField::Type;
    const Mend& m = m_model.job().mends[i];
    const MendForm& form = formOf(m.kind);
    auto* out = new Sentence(parent);
    QString text;
    std::vector<Word*> words;
    const QString base = QString("mend.%1.").arg(i);
    const auto pickWord = [&](const QString& what, const QString& label, const QString& shown, const QString& numbers, PickKind kind, const QString& prompt) {
        auto* w = new Word(Word::Kind::Action, base + what, label, out);
        w->setWords(shown);
        w->setList(numbers);
        w->setToolTip(tr("%1: click to pick, F2 for their numbers").arg(label));
        w->setChecked(m_model.pickMode() == PickMode::Feature && m_model.featurePick().key == base + what);
        connect(
            w, &Word::triggered, this,
            [this, kind, prompt](const QString& key) {
                m_model.pickFeature({kind, key, prompt});
            },
            Qt::QueuedConnection);
        connect(
            w, &Word::listed, this,
            [this, i, what](const QString&, const QString& list) { (void)(what == "spots" ? m_model.setMendPoints(i, list) : m_model.setMendPicks(i, what, list)); },
            Qt::QueuedConnection);
        return w;
    };
    const auto numbersOf = [](const std::vector<ShapeRef>& refs) {
        QStringList n;
        for (const ShapeRef& r : refs) n << QString::number(r.index);
        return n.join(' ');
    };
    const auto source = [&](const QString& what, const MendSource& s) -> std::vector<Word*> {
        const QString label = what == "first" ? tr("First curve") : tr("Second curve");
        const QString shown = !s.curve.empty()  ? QString::fromUtf8("“%1”").arg(QString::fromStdString(s.curve))
                              : s.edges.empty() ? (what == "first" ? tr("a curve to pick") : tr("another to pick"))
                                                : tr("%n edge(s)", nullptr, static_cast<int>(s.edges.size())).replace("(s)", s.edges.size() == 1 ? "" : "s");
        std::vector<Word*> both{pickWord(what, label, shown, numbersOf(s.edges), PickKind::Edges, tr("Click the edges of the %1 · Esc when done").arg(label.toLower()))};
        const QStringList curves = m_model.curvesFor(i);
        if (curves.isEmpty()) return both;
        auto* named = new Word(Word::Kind::Choice, base + what + ".curve", tr("%1 from a mend above or a drawing").arg(label), out);
        std::vector<Word::Option> options;
        for (const QString& c : curves) options.push_back({c, c});
        named->setOptions(options);
        named->setWords(QString::fromUtf8("▾"));
        connect(
            named, &Word::changed, this, [this, i, what](const QString&, const QString& curve) { m_model.setMendCurve(i, what, curve); }, Qt::QueuedConnection);
        both.push_back(named);
        return both;
    };
    // {key} in the form's sentence becomes one word, or two for a curve.
    QString pattern = QString::fromUtf8(form.sentence);
    for (auto open = pattern.indexOf('['); open >= 0; open = pattern.indexOf('[', open)) {
        const auto close = pattern.indexOf(']', open);
        const QString inside = pattern.mid(open + 1, close - open - 1);
        const bool says = m.matters(inside.section('{', 1).section('}', 0, 0).toStdString());
        pattern.replace(open, close - open + 1, says ? inside : QString());
    }
    for (qsizetype at = 0; at < pattern.size();) {
        const auto open = pattern.indexOf('{', at);
        if (open < 0) {
            text += pattern.mid(at);
            break;
        }
        const auto close = pattern.indexOf('}', open);
        const QString key = pattern.mid(open + 1, close - open - 1);
        text += pattern.mid(at, open - at);
        at = close + 1;
        if (key == "first" || key == "second") {
            const auto both = source(key, key == "first" ? m.first : m.second);
            text += both.size() > 1 ? "{} {}" : "{}";
            words.insert(words.end(), both.begin(), both.end());
            continue;
        }
        text += "{}";
        Word* w = nullptr;
        if (key == "faces") {
            const QString shown = m.faces.empty() ? tr("faces to pick") : m.faces.size() == 1 ? tr("face %1").arg(m.faces[0].index) : tr("%1 faces").arg(m.faces.size());
            w = pickWord("faces", tr("Faces"), shown, numbersOf(m.faces), PickKind::Faces, tr("Click the faces · Esc when done"));
        } else if (key == "spots") {
            w = pickWord("spots", tr("Points on the part"), m.points.empty() ? tr("points to click") : tr("%1 points").arg(m.points.size()),
                         QString::fromStdString(sketchText(m.points)), PickKind::Points, tr("Click along the part; the curve runs through the points · Esc when done"));
        } else if (key == "points") {
            w = new Word(Word::Kind::Text, base + "points", tr("Points: two coordinates each, and a bulge before an arc"), out);
            w->show(QString::fromStdString(sketchText(m.points)), false);
            if (m.points.empty()) w->setWords(tr("points to write"));
            if (m.points.size() > 3) w->setWords(tr("%1 points").arg(m.points.size()));
            connect(
                w, &Word::changed, this, [this, i](const QString&, const QString& value) { (void)m_model.setMendPoints(i, value); }, Qt::QueuedConnection);
        } else if (key == "drop") {
            QStringList n;
            for (const int d : m.drop) n << QString::number(d);
            w = new Word(Word::Kind::Text, base + "drop", tr("Points to leave out, by number"), out);
            w->show(n.join(' '), false);
            if (n.isEmpty()) w->setWords(tr("none"));
            connect(
                w, &Word::changed, this, [this, i](const QString&, const QString& value) { (void)m_model.setMendPicks(i, "drop", value); }, Qt::QueuedConnection);
        } else if (const MendField* f = form.field(key.toStdString())) {
            const Word::Kind kind = f->type == T::Length   ? Word::Kind::Length
                                    : f->type == T::Angle  ? Word::Kind::Angle
                                    : f->type == T::Choice ? Word::Kind::Choice
                                                           : Word::Kind::Number;
            w = new Word(kind, base + key, QString::fromUtf8(f->label), out);
            std::vector<Word::Option> options;
            for (std::size_t k = 0; k < f->options.size(); ++k) options.push_back({QString::number(k), QString::fromUtf8(f->options[k].second)});
            w->setOptions(options);
            w->setStep(f->type == T::Length ? 0.5 : 1.0);
            const double value = m.number(f->key);
            w->show(f->type == T::Choice ? QString::number(std::lround(value)) : QString::number(value, 'g', 12), kind == Word::Kind::Length && m_model.inches());
            if (f->type == T::Percent) w->setWords(QString("%1 %").arg(value, 0, 'g', 6));
            connect(
                w, &Word::changed, this, [this, i, key](const QString&, const QString& v) { m_model.setMendNumber(i, key, v.toDouble()); }, Qt::QueuedConnection);
        }
        connect(w, &Word::wrongText, &m_model, &AppModel::toldUser);
        words.push_back(w);
    }
    out->set(text, words);
    return out;
}

} // namespace gyre
