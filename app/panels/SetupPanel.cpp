#include "panels/SetupPanel.h"
#include "Ask.h"
#include "model/Mending.h"
#include "model/Picks.h"
#include "model/SetUp.h"
#include "panels/Card.h"
#include <QDir>
#include <QFileInfo>
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QStyle>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace gyre {

namespace {

const std::vector<Word::Option>& stockKinds() {
    static const std::vector<Word::Option> kinds{{"block", QObject::tr("block")},
                                                 {"bar", QObject::tr("round bar")},
                                                 {"tube", QObject::tr("tube")},
                                                 {"around", QObject::tr("skin")},
                                                 {"outline", QObject::tr("raised outline")}};
    return kinds;
}

/// What the name of a stock word's last part means.
double* numberOf(StockShape& s, const QString& name) {
    if (name == "allowance") return &s.allowance;
    if (name == "radius") return &s.radius;
    if (name == "inner") return &s.innerRadius;
    if (name == "from") return &s.low[s.axis];
    if (name == "to") return &s.high[s.axis];
    const int k = name.right(1) == "x" ? 0 : name.right(1) == "y" ? 1 : 2;
    return name.startsWith("low") ? &s.low[k] : &s.high[k];
}

/// Another kind of stock that fills about the same room.
StockShape asKind(const StockShape& from, const QString& kind, const std::string& outline) {
    StockShape s = from;
    if (kind == "around") {
        s.kind = StockShape::Kind::Around;
        return s;
    }
    if (kind == "outline") {
        s.kind = StockShape::Kind::Outline;
        if (s.outline.empty()) s.outline = outline;
        return s;
    }
    const auto a = (s.axis + 1) % 3, b = (s.axis + 2) % 3;
    if (kind == "block") {
        if (from.kind != StockShape::Kind::Block)
            for (const int k : {a, b}) {
                s.low[k] = std::floor(s.centre[k] - s.radius);
                s.high[k] = std::ceil(s.centre[k] + s.radius);
            }
        s.kind = StockShape::Kind::Block;
        return s;
    }
    if (from.kind == StockShape::Kind::Block) {
        s.centre = 0.5 * (s.low + s.high);
        s.radius = std::ceil(0.5 * std::hypot(s.high[a] - s.low[a], s.high[b] - s.low[b]));
    }
    s.kind = kind == "tube" ? StockShape::Kind::Tube : StockShape::Kind::Cylinder;
    if (s.kind == StockShape::Kind::Tube && !(s.innerRadius > 0.0 && s.innerRadius < s.radius)) s.innerRadius = std::floor(0.5 * s.radius);
    return s;
}

} // namespace

BodiesPanel::BodiesPanel(OpenJob& open, SetUp& setUp, Mending& mending, QWidget* parent) : QWidget(parent), m_open(open), m_setUp(setUp), m_mending(mending) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(14, 12, 12, 10);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("BODIES"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    m_list = new QVBoxLayout;
    m_list->setSpacing(6);
    outer->addLayout(m_list);
    auto* add = new QPushButton(tr("+  Body from a file"), this);
    add->setObjectName("addBody");
    connect(add, &QPushButton::clicked, this, [this] {
        const QString file = askToOpen(this, tr("Body"), QFileInfo(m_open.file()).absolutePath(),
                                       tr("Parts and drawings (*.step *.stp *.iges *.igs *.brep *.stl *.obj *.ply *.dxf *.svg *.STEP *.STP *.STL);;All files (*)"));
        if (!file.isEmpty()) m_open.addBody(file);
    });
    outer->addWidget(add);
    auto* stock = new QPushButton(tr("+  Stock around the part"), this);
    stock->setObjectName("proposeStock");
    stock->setToolTip(tr("The least block or bar that holds the part, 2 mm larger (Ctrl+B)"));
    connect(stock, &QPushButton::clicked, this, [this] { m_setUp.propose(); });
    outer->addWidget(stock);
    outer->addStretch();
    connect(&m_open, &OpenJob::jobChanged, this, &BodiesPanel::refresh);
    connect(&m_open, &OpenJob::placeChanged, this, &BodiesPanel::refresh);
    connect(&m_setUp, &SetUp::heldChanged, this, &BodiesPanel::refresh);
    refresh();
}

QWidget* BodiesPanel::holdButton(std::size_t i, const JobBody& b, QWidget* frame) {
    auto* hold = new QPushButton(tr("move"), frame);
    hold->setProperty("role", "flat");
    hold->setObjectName(QString("holdBody.%1").arg(i));
    hold->setAccessibleName(tr("Take %1 in hand").arg(QString::fromStdString(b.name)));
    hold->setToolTip(b.role == "part" ? tr("Arrows and a ring in the view move the part over the table, with all that stands around it")
                                      : tr("Arrows and a ring in the view move it; a click on the body does the same"));
    hold->setCheckable(true);
    hold->setChecked(m_setUp.heldBody() == static_cast<int>(i));
    connect(
        hold, &QPushButton::clicked, this, [this, i] { m_setUp.holdBody(m_setUp.heldBody() == static_cast<int>(i) ? -1 : static_cast<int>(i)); }, Qt::QueuedConnection);
    return hold;
}

QWidget* BodiesPanel::otherFile(std::size_t body, QWidget* frame) {
    auto* button = flatButton(tr("another file …"), QString("exchange.%1").arg(body),
                              tr("The same job for another part, or a newer file of it: what operations name is looked for there"), frame);
    connect(
        button, &QPushButton::clicked, this,
        [this, body] {
            const QString file = askToOpen(this, tr("Part"), QFileInfo(m_open.file()).absolutePath(),
                                           tr("Parts (*.step *.stp *.iges *.igs *.brep *.stl *.obj *.ply *.STEP *.STP *.STL);;All files (*)"));
            if (!file.isEmpty()) m_open.exchangeFile(body, file);
        },
        Qt::QueuedConnection);
    return button;
}

QWidget* BodiesPanel::bodyCard(std::size_t i) {
    const JobBody& b = m_open.job().bodies[i];
    auto* frame = new QFrame(this);
    frame->setProperty("role", "card");
    auto* column = new QVBoxLayout(frame);
    column->setContentsMargins(10, 5, 8, 5);
    column->setSpacing(2);
    auto* row = new QHBoxLayout;
    auto* name = new QLabel(QString::fromStdString(b.name), frame);
    name->setToolTip(QString::fromStdString(b.file));
    // A name too long to stand beside role and buttons has a line of its own.
    constexpr int kBesides = 68;
    const bool alone = name->fontMetrics().horizontalAdvance(name->text()) > kBesides;
    if (alone) {
        column->addWidget(name);
        row->addStretch(1);
    }
    column->addLayout(row);
    if (!alone) row->addWidget(name, 1);
    auto* role = new Word(Word::Kind::Choice, QString("body.%1.role").arg(i), tr("Role of %1").arg(name->text()), frame);
    if (b.role == "drawing")
        role->setOptions({{"drawing", tr("drawing")}});
    else
        role->setOptions({{"part", tr("part")}, {"fixture", tr("fixture")}, {"stock", tr("stock")}, {"reference", tr("reference")}});
    role->show(QString::fromStdString(b.role), false);
    connect(
        role, &Word::changed, this, [this, i](const QString&, const QString& value) { m_setUp.setRole(i, value); }, Qt::QueuedConnection);
    row->addWidget(role);
    if (b.mayMove() || b.role == "part") row->addWidget(holdButton(i, b, frame));
    auto* remove = new QPushButton(QString::fromUtf8("×"), frame);
    remove->setProperty("role", "flat");
    remove->setAccessibleName(tr("Remove %1").arg(name->text()));
    remove->setFixedWidth(24);
    connect(
        remove, &QPushButton::clicked, this,
        [this, i] {
            m_setUp.holdBody(-1);
            m_open.change(tr("remove body"), [&](Job& j) { j.bodies.erase(j.bodies.begin() + static_cast<std::ptrdiff_t>(i)); });
        },
        Qt::QueuedConnection);
    row->addWidget(remove);
    if (b.shape)
        column->addWidget(stockSentence(i, *b.shape, frame));
    else if (b.role == "part")
        column->addWidget(otherFile(i, frame), 0, Qt::AlignLeft);
    if (const PlacedBody* placed = b.shape ? nullptr : m_setUp.placedBody(i); placed && placed->shape && placed->shape->isMesh())
        column->addWidget(meshSentence(i, b, frame));
    if (b.role == "drawing") column->addWidget(drawingSentence(i, b, frame));
    if (b.mayMove() && (m_setUp.heldBody() == static_cast<int>(i) || !b.moved.isZero() || !b.turned.isZero() || b.within > 0.0))
        column->addWidget(placeSentence(i, b, frame));
    return frame;
}

void BodiesPanel::refresh() {
    if (draggedIn(this)) return QTimer::singleShot(150, this, [this] { refresh(); });
    const KeepFocus keep(this);
    clear(m_list);
    if (!m_open.hasJob()) return;
    for (std::size_t i = 0; i < m_open.job().bodies.size(); ++i) m_list->addWidget(bodyCard(i));
}

// The shape in words that can be edited.
Sentence* BodiesPanel::stockSentence(std::size_t body, const StockShape& shape, QWidget* parent) {
    auto* sentence = new Sentence(parent);
    const auto word = [&](Word::Kind kind, const QString& name, const QString& accessible, const QString& value) {
        auto* w = new Word(kind, QString("stock.%1.%2").arg(body).arg(name), accessible, sentence);
        w->setStep(1.0);
        if (name == "kind") w->setOptions(stockKinds());
        if (name == "axis") w->setOptions({{"0", "X"}, {"1", "Y"}, {"2", "Z"}});
        w->show(value, kind == Word::Kind::Length && m_open.inches());
        connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
        connect(
            w, &Word::changed, this,
            [this, body, name, shape](const QString&, const QString& text) {
                const QStringList curves = m_mending.curvesFor(m_open.job().mends.size());
                StockShape next = name == "kind" ? asKind(shape, text, curves.isEmpty() ? std::string() : curves.front().toStdString()) : shape;
                if (name == "axis") {
                    next.axis = text.toInt();
                    next.centre = 0.5 * (shape.low + shape.high);
                } else if (name == "outline") {
                    next.outline = text.toStdString();
                } else if (name != "kind") {
                    *numberOf(next, name) = std::clamp(text.toDouble(), -1e4, 1e4);
                }
                (void)m_setUp.setStock(body, next);
            },
            Qt::QueuedConnection);
        return w;
    };
    const auto length = [&](const QString& name, const QString& accessible) {
        StockShape s = shape;
        return word(Word::Kind::Length, name, accessible, QString::number(*numberOf(s, name), 'g', 12));
    };
    const auto kind = static_cast<std::size_t>(shape.kind);
    Word* what = word(Word::Kind::Choice, "kind", tr("Kind of stock"), stockKinds()[kind].value);
    if (shape.kind == StockShape::Kind::Block) {
        sentence->set(tr("A {} from {} {} {} to {} {} {}."), {what, length("low.x", tr("Lower X")), length("low.y", tr("Lower Y")), length("low.z", tr("Lower Z")),
                                                              length("high.x", tr("Upper X")), length("high.y", tr("Upper Y")), length("high.z", tr("Upper Z"))});
        return sentence;
    }
    if (shape.kind == StockShape::Kind::Around) {
        sentence->set(tr("A {} {} thick around the part."), {what, length("allowance", tr("Thickness"))});
        return sentence;
    }
    if (shape.kind == StockShape::Kind::Outline) {
        auto* outline = word(Word::Kind::Choice, "outline", tr("Closed curve"), QString::fromStdString(shape.outline));
        std::vector<Word::Option> options;
        for (const QString& c : m_mending.curvesFor(m_open.job().mends.size())) options.push_back({c, c});
        outline->setOptions(options);
        outline->setWords(QString::fromUtf8("“%1”").arg(QString::fromStdString(shape.outline)));
        sentence->set(tr("A {} of {} along {} from {} to {}."), {what, outline, word(Word::Kind::Choice, "axis", tr("Axis"), QString::number(shape.axis)),
                                                                 length("from", tr("Lower end")), length("to", tr("Upper end"))});
        return sentence;
    }
    Word *axis = word(Word::Kind::Choice, "axis", tr("Axis of the bar"), QString::number(shape.axis)), *radius = length("radius", tr("Radius")),
         *from = length("from", tr("Lower end")), *to = length("to", tr("Upper end"));
    if (shape.kind == StockShape::Kind::Tube)
        sentence->set(tr("A {} of radius {}, inside {}, along {} from {} to {}."), {what, radius, length("inner", tr("Inner radius")), axis, from, to});
    else
        sentence->set(tr("A {} of radius {} along {} from {} to {}."), {what, radius, axis, from, to});
    return sentence;
}

// Where the body stands against where its file has it.
Sentence* BodiesPanel::placeSentence(std::size_t body, const JobBody& b, QWidget* parent) {
    auto* sentence = new Sentence(parent);
    std::vector<Word*> words;
    for (const bool turn : {false, true})
        for (int k = 0; k < 3; ++k) {
            const QString axis = QStringLiteral("XYZ").mid(k, 1);
            auto* w = new Word(turn ? Word::Kind::Angle : Word::Kind::Length, QString("body.%1.%2.%3").arg(body).arg(turn ? "turned" : "moved").arg(k),
                               (turn ? tr("Turned about %1: %2") : tr("Moved along %1: %2")).arg(axis, QString::fromStdString(b.name)), sentence);
            w->setStep(turn ? 5.0 : 1.0);
            w->show(QString::number(turn ? b.turned[k] : b.moved[k], 'g', 12), !turn && m_open.inches());
            connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
            connect(
                w, &Word::changed, this,
                [this, body, turn, k](const QString& key, const QString& value) {
                    if (body >= m_open.job().bodies.size()) return;
                    if (turn) return m_setUp.turnBody(body, k, value.toDouble());
                    const JobBody& now = m_open.job().bodies[body];
                    Vec3 moved = now.moved;
                    moved[k] = value.toDouble();
                    m_setUp.placeBody(body, moved, now.turned, key);
                },
                Qt::QueuedConnection);
            words.push_back(w);
        }
    if (b.role != "fixture") {
        sentence->set(tr("Moved by {} {} {}, turned about X {}, Y {}, Z {}."), words);
        return sentence;
    }
    auto* within = new Word(Word::Kind::Length, QString("body.%1.within").arg(body), tr("How far from there %1 may stand").arg(QString::fromStdString(b.name)), sentence);
    within->setStep(0.5);
    within->setToolTip(
        tr("Clamps that are set by hand stand a little off: all that keeps off this one keeps off so much further, and the proof holds wherever it stands within that"));
    within->show(QString::number(b.within, 'g', 12), m_open.inches());
    connect(within, &Word::wrongText, &m_open, &OpenJob::toldUser);
    connect(
        within, &Word::changed, this, [this, body](const QString&, const QString& value) { m_setUp.setWithin(body, value.toDouble()); }, Qt::QueuedConnection);
    words.push_back(within);
    sentence->set(tr("Moved by {} {} {}, turned about X {}, Y {}, Z {}. It may stand {} off."), words);
    return sentence;
}

// Where a drawing lies, or that it stays flat to be wrapped; and what its file said.
Sentence* BodiesPanel::drawingSentence(std::size_t body, const JobBody& b, QWidget* parent) {
    auto* sentence = new Sentence(parent);
    auto* where = new Word(Word::Kind::Choice, QString("body.%1.plane").arg(body), tr("Where the drawing lies"), sentence);
    std::vector<Word::Option> options{{"", tr("on XY of the datum")}, {"/flat", tr("flat, to be wrapped")}};
    for (const WorkPlane& p : m_open.job().planes) options.push_back({QString::fromStdString(p.name), tr("on %1").arg(QString::fromStdString(p.name))});
    where->setOptions(options);
    where->show(b.flat ? "/flat" : QString::fromStdString(b.plane), false);
    connect(
        where, &Word::changed, this,
        [this, body](const QString&, const QString& value) {
            m_open.change(tr("lay drawing"), [&](Job& j) {
                j.bodies[body].flat = value == "/flat";
                j.bodies[body].plane = value == "/flat" ? std::string() : value.toStdString();
            });
        },
        Qt::QueuedConnection);
    QString facts;
    bool asksUnit = false;
    if (const auto place = m_open.place())
        for (const auto& d : place->drawings)
            if (d.name == b.name) {
                facts = QString::fromStdString(d.facts);
                asksUnit = d.facts.find("no unit") != std::string::npos;
            }
    std::vector<Word*> words{where};
    if (asksUnit) words.push_back(unitWord(body, b.unit, sentence));
    sentence->set((asksUnit ? tr("Lies {}; its numbers are {}. ") : tr("Lies {}. ")) + facts, words);
    return sentence;
}

// A mesh file does not know its unit, and an open sheet not which of its sides is outside.
Sentence* BodiesPanel::meshSentence(std::size_t body, const JobBody& b, QWidget* parent) {
    auto* sentence = new Sentence(parent);
    const bool sheets = m_setUp.placedBody(body)->shape->hasSheets();
    Word* unit = unitWord(body, b.unit, sentence);
    if (!sheets) {
        sentence->set(tr("Its numbers are {}."), {unit});
        return sentence;
    }
    auto* side = new Word(Word::Kind::Choice, QString("body.%1.sheetsOver").arg(body), tr("Outside of an open sheet"), sentence);
    side->setOptions({{"false", tr("where its triangles look")}, {"true", tr("behind its triangles")}});
    side->setToolTip(tr("A closed mesh tells by itself what is inside; an open one does not. Rows and tools stand on the side that is outside"));
    side->show(b.sheetsOver ? "true" : "false", false);
    connect(
        side, &Word::changed, this,
        [this, body](const QString&, const QString& value) {
            m_open.change(tr("choose the sheet's outside"), [&](Job& j) { j.bodies[body].sheetsOver = value == "true"; });
        },
        Qt::QueuedConnection);
    sentence->set(tr("Its numbers are {}. It is an open sheet: outside is {}."), {unit, side});
    return sentence;
}

Word* BodiesPanel::unitWord(std::size_t body, LengthUnit unit, QWidget* parent) {
    auto* w = new Word(Word::Kind::Choice, QString("body.%1.unit").arg(body), tr("Unit of the file"), parent);
    w->setOptions({{"mm", tr("millimetres")}, {"in", tr("inches")}});
    w->show(unitSuffix(unit), false);
    connect(
        w, &Word::changed, this,
        [this, body](const QString&, const QString& value) {
            m_open.change(tr("change unit"), [&](Job& j) { j.bodies[body].unit = value == "in" ? LengthUnit::Inch : LengthUnit::Millimetre; });
        },
        Qt::QueuedConnection);
    return w;
}

Word* PlacingPanel::make(Word::Kind kind, const QString& key, const QString& name, double step) {
    auto* w = new Word(kind, key, name, this);
    w->setStep(step);
    w->hide();
    connect(w, &Word::changed, this, &PlacingPanel::changed);
    connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
    return w;
}

void PlacingPanel::addSection(QVBoxLayout* inside) {
    using K = Word::Kind;
    m_sectionWords = new Sentence(this);
    inside->addWidget(m_sectionWords);
    m_cut = new Word(K::Choice, "section.axis", tr("Where the view is cut open"), this);
    m_cut->setOptions({{"-1", tr("nowhere")}, {"0", tr("across X")}, {"1", tr("across Y")}, {"2", tr("across Z")}});
    m_cutAt = new Word(K::Length, "section.at", tr("Place of the cut"), this);
    m_cutAt->setStep(1.0);
    m_cutSide = new Word(K::Choice, "section.side", tr("What is taken away"), this);
    m_cutSide->setOptions({{"0", tr("above")}, {"1", tr("below")}});
    for (Word* w : {m_cut, m_cutAt, m_cutSide}) {
        w->hide();
        connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
        connect(w, &Word::changed, this, [this](const QString& key, const QString& value) {
            Section s = m_open.section();
            if (key == "section.axis") {
                s.axis = value.toInt();
                if (const auto place = m_open.place(); place && place->part && s.axis >= 0) s.at = std::round(place->part->tree().bounds().centre()[s.axis]);
            } else if (key == "section.at") {
                s.at = std::clamp(value.toDouble(), -1e4, 1e4);
            } else {
                s.flipped = value == "1";
            }
            m_open.setSection(s);
        });
    }
}

PlacingPanel::PlacingPanel(OpenJob& open, SetUp& setUp, Picks& picks, QWidget* parent) : QWidget(parent), m_open(open), m_setUp(setUp), m_picks(picks) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 12, 12, 8);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("SET UP"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    using K = Word::Kind;
    m_which = make(K::Choice, "setup.machine", tr("Machine"), 1);
    m_units = make(K::Choice, "setup.units", tr("Units of the screen"), 1);
    m_units->setOptions({{"mm", tr("millimetres")}, {"in", tr("inches")}});
    m_x = make(K::Length, "setup.x", tr("Datum over the table, X"), 1.0);
    m_y = make(K::Length, "setup.y", tr("Datum over the table, Y"), 1.0);
    m_z = make(K::Length, "setup.z", tr("Datum over the table, Z"), 1.0);
    m_turn = make(K::Angle, "setup.turn", tr("Datum turned about the table's Z"), 5.0);
    QVBoxLayout* inside = nullptr;
    outer->addWidget(card(tr("Machine"), this, inside));
    m_machine = new Sentence(this);
    inside->addWidget(m_machine);
    m_facts = new QLabel(this);
    m_facts->setProperty("role", "soft");
    m_facts->setWordWrap(true);
    inside->addWidget(m_facts);
    outer->addWidget(card(tr("Placing"), this, inside));
    m_place = new Sentence(this);
    inside->addWidget(m_place);
    m_machine->set(tr("Cut on the {}; show lengths in {}."), {m_which, m_units});
    m_material = make(K::Choice, "setup.material", tr("Material of the part"), 1);
    m_material->setToolTip(tr("Tools that know the material take its speed and feed"));
    m_made = new Sentence(this);
    inside->addWidget(m_made);
    m_made->set(tr("The part is of {}."), {m_material});
    m_place->set(tr("The part's datum stands at {} {} {} over the table seat, turned by {}."), {m_x, m_y, m_z, m_turn});
    const auto zero = [&](const QString& axis) { return make(K::Length, "zero." + axis.toLower(), tr("Zero of the programs, %1").arg(axis), 1.0); };
    m_zero = {zero("X"), zero("Y"), zero("Z")};
    m_pickZero = make(K::Action, "setup.zero", tr("Pick the zero"), 1.0);
    m_pickZero->setWords(tr("pick it"));
    connect(m_pickZero, &Word::triggered, this, [this] {
        m_picks.ask({PickKind::Points, "zero", tr("Click the place where programs count from: corners and middles of edges draw it to themselves · Esc")});
    });
    m_zeroWords = new Sentence(this);
    inside->addWidget(m_zeroWords);
    m_zeroWords->set(tr("Programs count from {} {} {} of the part's datum, or {}."), {m_zero[0], m_zero[1], m_zero[2], m_pickZero});
    m_travel = new QLabel(this);
    m_travel->setObjectName("travelWords");
    m_travel->setWordWrap(true);
    inside->addWidget(m_travel);
    outer->addWidget(card(tr("Looking in"), this, inside));
    addSection(inside);
    connect(&m_open, &OpenJob::jobChanged, this, &PlacingPanel::refresh);
    connect(&m_open, &OpenJob::placeChanged, this, &PlacingPanel::refresh);
    connect(&m_open, &OpenJob::shownChanged, this, &PlacingPanel::refreshSection);
    refresh();
    refreshSection();
}

void PlacingPanel::refresh() {
    if (!m_open.hasJob()) return;
    const Job& j = m_open.job();
    // Machines are the machine files beside the job.
    std::vector<Word::Option> options;
    for (const MachineFile& m : m_open.machines()) options.push_back({QString::fromStdString(m.file), QString::fromStdString(m.name)});
    m_which->setOptions(options);
    m_which->show(QString::fromStdString(j.machine), false);
    m_units->show(unitSuffix(j.units), false);
    std::vector<Word::Option> materials{{"", tr("any material")}};
    for (const std::string& m : materialsOf(j)) materials.push_back({QString::fromStdString(m), QString::fromStdString(m)});
    if (!j.material.empty() && std::none_of(materials.begin(), materials.end(), [&](const Word::Option& o) { return o.value == QString::fromStdString(j.material); }))
        materials.push_back({QString::fromStdString(j.material), QString::fromStdString(j.material)});
    m_material->setOptions(materials);
    m_material->show(QString::fromStdString(j.material), false);
    m_made->reflow();
    const bool in = m_open.inches();
    m_x->show(QString::number(j.seat.x(), 'g', 12), in);
    m_y->show(QString::number(j.seat.y(), 'g', 12), in);
    m_z->show(QString::number(j.seat.z(), 'g', 12), in);
    m_turn->show(QString::number(j.seatTurnDegrees, 'g', 12), in);
    for (int k = 0; k < 3; ++k) m_zero[static_cast<std::size_t>(k)]->show(QString::number(j.zero[k], 'g', 12), in);
    m_zeroWords->reflow();
    QStringList facts;
    if (const auto place = m_open.place())
        for (const Joint& joint : place->machine->joints) {
            const bool rotary = joint.kind == JointKind::Rotary;
            const double k = rotary ? degrees(1.0) : 1.0;
            facts << QString("%1  %2 … %3%4")
                         .arg(QString::fromStdString(joint.name))
                         .arg(joint.low * k, 0, 'f', 0)
                         .arg(joint.high * k, 0, 'f', 0)
                         .arg(rotary ? "°" : " mm");
        }
    m_facts->setText(facts.join("\n"));
    const QStringList beyond = m_setUp.bodiesInside() + m_setUp.beyondTravel();
    m_travel->setProperty("role", beyond.isEmpty() ? "soft" : "unsafe");
    m_travel->style()->unpolish(m_travel);
    m_travel->style()->polish(m_travel);
    m_travel->setText(!m_open.place()    ? QString()
                      : beyond.isEmpty() ? tr("All of it lies within the travel, square to the datum and on every plane.")
                                         : QString::fromUtf8("▲ ") + beyond.mid(0, 4).join(QString::fromUtf8("\n▲ ")) +
                                               (beyond.size() > 4 ? tr("\n… and %1 more").arg(beyond.size() - 4) : QString()));
    m_machine->reflow();
    m_place->reflow();
}

void PlacingPanel::refreshSection() {
    const Section s = m_open.section();
    m_cut->show(QString::number(s.axis), false);
    m_cutAt->show(QString::number(s.at, 'g', 12), m_open.inches());
    m_cutSide->show(s.flipped ? "1" : "0", false);
    if (s.axis < 0)
        m_sectionWords->set(tr("The view is cut open {}."), {m_cut});
    else
        m_sectionWords->set(tr("The view is cut open {} at {}; what lies {} is away."), {m_cut, m_cutAt, m_cutSide});
}

void PlacingPanel::changed(const QString& key, const QString& value) {
    const double v = value.toDouble();
    if (key == "setup.material") return m_setUp.setMaterial(value);
    m_open.change(
        tr("set %1").arg(key),
        [&](Job& j) {
            if (key == "setup.machine")
                j.machine = value.toStdString();
            else if (key == "setup.units")
                j.units = value == "in" ? LengthUnit::Inch : LengthUnit::Millimetre;
            else if (key == "setup.turn")
                j.seatTurnDegrees = std::clamp(v, -360.0, 360.0);
            else if (key.startsWith("zero."))
                j.zero[key == "zero.x" ? 0 : key == "zero.y" ? 1 : 2] = std::clamp(v, -1e4, 1e4);
            else
                j.seat[key == "setup.x" ? 0 : key == "setup.y" ? 1 : 2] = std::clamp(v, -1e4, 1e4);
        },
        key == "setup.machine" || key == "setup.units" ? QString() : key);
}

} // namespace gyre
