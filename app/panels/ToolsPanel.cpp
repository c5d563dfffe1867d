#include "panels/ToolsPanel.h"
#include "Ask.h"
#include "Theme.h"
#include "model/ToolShelf.h"
#include "panels/Card.h"
#include "panels/Silhouette.h"
#include "panels/ToolDrawing.h"
#include <QFileInfo>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QScrollArea>
#include <QTimer>

namespace gyre {

namespace {

/// One line of the list: the tool's outline, its name, who uses it.
class ToolLine : public QPushButton {
public:
    ToolLine(const Assembly& tool, const QString& used, QWidget* parent) : QPushButton(parent), m_tool(tool), m_used(used) {
        setObjectName("tool." + QString::fromStdString(tool.id));
        setAccessibleName(QString::fromStdString(tool.name));
        setAccessibleDescription(used.isEmpty() ? tr("not used") : tr("used by %1").arg(used));
        setToolTip(accessibleDescription());
        setCheckable(true);
        setFixedHeight(54);
        setCursor(Qt::PointingHandCursor);
    }

protected:
    void paintEvent(QPaintEvent*) override {
        const Theme& t = theme();
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(isChecked() || hasFocus() ? t.accent : t.hairline, isChecked() ? 1.6 : 1.0));
        p.setBrush(t.card);
        p.drawRoundedRect(QRectF(rect()).adjusted(0.8, 0.8, -0.8, -0.8), 6, 6);
        const auto pieces = piecesOf(m_tool);
        double widest = 1.0;
        for (const Piece& x : pieces) widest = std::max(widest, 2.0 * x.shape.radius());
        p.save();
        const double s = std::min((height() - 10.0) / m_tool.gaugeLength(), 34.0 / widest);
        p.translate(26, height() - 5);
        p.scale(s, -s);
        drawPieces(p, pieces);
        p.restore();
        p.setPen(t.ink);
        const int room = width() - 58;
        p.drawText(QRectF(50, 8, room, 18), Qt::AlignLeft | Qt::AlignVCenter, p.fontMetrics().elidedText(QString::fromStdString(m_tool.name), Qt::ElideRight, room));
        p.setPen(t.softInk);
        QFont small = font();
        small.setPixelSize(12);
        p.setFont(small);
        p.drawText(QRectF(50, 27, room, 18), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(QString::fromStdString(shortName(m_tool.cutter)) + (m_used.isEmpty() ? QString() : QString::fromUtf8(" · ") + m_used),
                                              Qt::ElideRight, room));
    }

private:
    Assembly m_tool;
    QString m_used;
};

} // namespace

namespace {
/// The end of a cutter of that shape.
QIcon shapeIcon(CutterShape shape) {
    Assembly a;
    a.cutter = asShape(a.cutter, shape);
    a = possible(a);
    QPixmap picture(QSize(20, 28) * 2);
    picture.setDevicePixelRatio(2.0);
    picture.fill(Qt::transparent);
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(10, 27);
    p.scale(1.5, -1.5);
    drawPieces(p, piecesOf(a));
    return QIcon(picture);
}
} // namespace

// New ones by their shape; the one that is shown again or no more; libraries.
void ToolList::addButtons(QVBoxLayout* outer) {
    auto* fresh = new QPushButton(tr("+  New tool"), this);
    fresh->setObjectName("newTool");
    auto* shapes = new QMenu(fresh);
    shapes->setObjectName("newToolShapes");
    for (int i = 0; i < kCutterShapes; ++i) {
        const auto shape = static_cast<CutterShape>(i);
        auto* a = shapes->addAction(QIcon(), tr(cutterShapeName(shape)));
        a->setObjectName(QString("newTool.%1").arg(i));
        connect(a, &QAction::triggered, this, [this, shape] { m_tools.add(shape); });
    }
    // Silhouettes have the theme's colours.
    connect(shapes, &QMenu::aboutToShow, this, [shapes] {
        for (int i = 0; i < kCutterShapes; ++i) shapes->actions()[i]->setIcon(shapeIcon(static_cast<CutterShape>(i)));
    });
    fresh->setMenu(shapes);
    outer->addWidget(fresh);
    auto* row = new QHBoxLayout;
    auto* copy = new QPushButton(tr("Duplicate"), this);
    copy->setObjectName("duplicateTool");
    connect(copy, &QPushButton::clicked, this, [this] { m_tools.duplicate(m_tools.shownId()); });
    auto* remove = new QPushButton(tr("Remove"), this);
    remove->setObjectName("removeTool");
    connect(remove, &QPushButton::clicked, this, [this] { (void)m_tools.remove(m_tools.shownId()); });
    row->addWidget(copy);
    row->addWidget(remove);
    outer->addLayout(row);
    row = new QHBoxLayout;
    const auto libraries = tr("Tool libraries (*.tools.json)");
    auto* in = new QPushButton(tr("Import"), this);
    in->setObjectName("importTools");
    connect(in, &QPushButton::clicked, this, [this, libraries] {
        const QString f = askToOpen(this, tr("Tool library"), m_open.shop(), libraries);
        if (!f.isEmpty()) (void)m_tools.importFrom(f);
    });
    auto* out = new QPushButton(tr("Export"), this);
    out->setObjectName("exportTools");
    connect(out, &QPushButton::clicked, this, [this, libraries] {
        const QString f = askToSave(this, tr("Write the tools to"), QFileInfo(m_open.file()).absolutePath() + "/tools.tools.json", libraries);
        if (f.isEmpty()) return;
        if (const auto ok = m_tools.exportTo(f); !ok) emit m_open.toldUser(QString::fromStdString(ok.error().text()));
    });
    row->addWidget(in);
    row->addWidget(out);
    outer->addLayout(row);
}

ToolList::ToolList(OpenJob& open, ToolShelf& tools, QWidget* parent) : QWidget(parent), m_open(open), m_tools(tools) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(14, 12, 12, 10);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("TOOLS"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    m_search = new QLineEdit(this);
    m_search->setObjectName("toolSearch");
    m_search->setAccessibleName(tr("Search the tools"));
    m_search->setPlaceholderText(tr("Search: ball 6, slim …"));
    m_search->setClearButtonEnabled(true);
    connect(m_search, &QLineEdit::textChanged, this, &ToolList::refresh);
    outer->addWidget(m_search);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* inside = new QWidget;
    auto* column = new QVBoxLayout(inside);
    column->setContentsMargins(0, 0, 4, 0);
    column->setSpacing(5);
    m_list = new QVBoxLayout;
    m_list->setSpacing(5);
    column->addLayout(m_list);
    column->addStretch();
    scroll->setWidget(inside);
    outer->addWidget(scroll, 1);
    addButtons(outer);
    connect(&m_open, &OpenJob::jobChanged, this, &ToolList::refresh);
    connect(&m_tools, &ToolShelf::shownChanged, this, &ToolList::refresh);
    refresh();
}

void ToolList::refresh() {
    const KeepFocus keep(this);
    clear(m_list);
    if (!m_open.hasJob()) return;
    const QStringList words = m_search->text().toLower().split(' ', Qt::SkipEmptyParts);
    int shown = 0;
    for (const Assembly& a : m_open.job().tools) {
        const QString all =
            QString::fromStdString(a.name + " " + a.id + " " + shortName(a.cutter) + " " + cutterShapeName(a.cutter.shape) + " " + a.holderName).toLower();
        if (!std::all_of(words.begin(), words.end(), [&](const QString& w) { return all.contains(w); })) continue;
        const auto users = m_tools.operationsWith(QString::fromStdString(a.id)).size();
        const QString used = users == 0 ? QString() : users == 1 ? tr("1 operation") : tr("%1 operations").arg(users);
        auto* line = new ToolLine(a, used, this);
        line->setChecked(m_tools.shownId() == QString::fromStdString(a.id));
        connect(line, &QPushButton::clicked, this, [this, id = QString::fromStdString(a.id)] { m_tools.show(id); });
        m_list->addWidget(line);
        ++shown;
    }
    if (shown == 0) m_list->addWidget(softLabel(words.isEmpty() ? tr("No tools yet. Import a library.") : tr("No tool fits these words."), this));
}

ToolCards::ToolCards(OpenJob& open, ToolShelf& tools, QWidget* parent) : QWidget(parent), m_open(open), m_tools(tools) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 12, 12, 8);
    outer->setSpacing(8);
    for (const auto& [title, place] : {std::pair{tr("Cutter"), &m_cutter}, std::pair{tr("Holder"), &m_holder}, std::pair{tr("Speeds and feeds"), &m_speeds}}) {
        QVBoxLayout* inside = nullptr;
        outer->addWidget(card(title, this, inside));
        *place = new QVBoxLayout;
        (*place)->setSpacing(4);
        inside->addLayout(*place);
    }
    m_used = softLabel(QString(), this);
    m_used->setObjectName("toolUsed");
    outer->addWidget(m_used);
    outer->addStretch();
    connect(&m_open, &OpenJob::jobChanged, this, &ToolCards::refresh);
    connect(&m_tools, &ToolShelf::shownChanged, this, &ToolCards::refresh);
    refresh();
}

void ToolCards::edit(const std::function<void(Assembly&)>& change, const QString& key) { (void)m_tools.changeTool(m_tools.shownId(), change, key); }

Word* ToolCards::number(Word::Kind kind, const QString& key, const QString& name, double step) {
    auto* w = new Word(kind, "tool." + key, name, this);
    w->setStep(step);
    w->show(QString::number(ToolDrawing::valueOf(*m_tools.shown(), key), 'g', 12), kind == Word::Kind::Length && m_open.inches());
    connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
    connect(
        w, &Word::changed, this, [this, key](const QString&, const QString& value) { edit([&](Assembly& a) { ToolDrawing::set(a, key, value.toDouble()); }, key); },
        Qt::QueuedConnection);
    return w;
}

void ToolCards::refresh() {
    if (draggedIn(this)) return QTimer::singleShot(150, this, [this] { refresh(); });
    const KeepFocus keep(this);
    for (QVBoxLayout* l : {m_cutter, m_holder, m_speeds}) clear(l);
    m_used->clear();
    const Assembly* a = m_tools.shown();
    if (!a) return;
    using K = Word::Kind;
    auto* name = new Word(K::Text, "tool.name", tr("Name of the tool"), this);
    name->show(QString::fromStdString(a->name), false);
    connect(
        name, &Word::changed, this,
        [this](const QString&, const QString& value) { edit([&](Assembly& t) { t.name = value.trimmed().left(100).toStdString(); }, "name"); }, Qt::QueuedConnection);
    auto* shape = new Word(K::Choice, "tool.shape", tr("Shape of the cutter"), this);
    std::vector<Word::Option> shapes;
    for (int i = 0; i < kCutterShapes; ++i) shapes.push_back({QString::number(i), tr(cutterShapeName(static_cast<CutterShape>(i)))});
    shape->setOptions(shapes);
    shape->show(QString::number(static_cast<int>(a->cutter.shape)), false);
    connect(
        shape, &Word::changed, this,
        [this](const QString&, const QString& value) { edit([&](Assembly& t) { t.cutter = asShape(t.cutter, static_cast<CutterShape>(value.toInt())); }, {}); },
        Qt::QueuedConnection);
    const CutterUse use = usedBy(a->cutter.shape);
    QString text = tr("{}: a {} cutter of diameter {} with {} flutes");
    std::vector<Word*> words{name, shape, number(K::Length, "DC", tr("Cutting diameter"), 0.5), number(K::Number, "NOF", tr("Number of flutes"), 1)};
    const auto also = [&](bool has, const QString& more, Word* w) {
        if (!has) return delete w;
        text += more;
        words.push_back(w);
    };
    also(use.cornerRadius, a->cutter.shape == CutterShape::Barrel ? tr(", nose radius {}") : tr(", corner radius {}"), number(K::Length, "RE", tr("Corner radius"), 0.1));
    also(use.taper, tr(", flank leaning by {}"), number(K::Angle, "TA", tr("Half angle of the flank"), 0.5));
    also(use.point, tr(", point {}"), number(K::Angle, "SIG", tr("Whole angle of the point"), 5));
    also(use.tip, tr(", flat tip {}"), number(K::Length, "tip", tr("Diameter of the tip's flat"), 0.1));
    also(use.profile, tr(", flank arc of radius {}"), number(K::Length, "PRFRAD", tr("Radius of the flank's arc"), 5));
    auto* first = new Sentence(this);
    first->set(text + ".", words);
    m_cutter->addWidget(first);
    auto* second = new Sentence(this);
    if (use.fluteLength)
        second->set(tr("It cuts over {}, is {} long and {} thick below its shank of {}, {} overall; {} out of the holder."),
                    {number(K::Length, "APMX", tr("Cutting length"), 0.5), number(K::Length, "LU", tr("Length below the shank"), 0.5),
                     number(K::Length, "DN", tr("Neck diameter"), 0.1), number(K::Length, "DMM", tr("Shank diameter"), 0.5),
                     number(K::Length, "OAL", tr("Overall length"), 1), number(K::Length, "out", tr("Stick-out"), 0.5)});
    else
        second->set(tr("It is {} long and {} thick below its shank of {}, {} overall; {} out of the holder."),
                    {number(K::Length, "LU", tr("Length below the shank"), 0.5), number(K::Length, "DN", tr("Neck diameter"), 0.1),
                     number(K::Length, "DMM", tr("Shank diameter"), 0.5), number(K::Length, "OAL", tr("Overall length"), 1),
                     number(K::Length, "out", tr("Stick-out"), 0.5)});
    m_cutter->addWidget(second);
    fillHolder(*a);
    fillSpeeds(*a);
    const QStringList users = m_tools.operationsWith(m_tools.shownId());
    m_used->setText(users.isEmpty() ? tr("No operation uses this tool.") : tr("Used by %1.").arg(users.join(", ")));
}

// Steps from the cutter up to the spindle.
QWidget* ToolCards::stepRow(std::size_t i, const HolderStep& of) {
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* step = new Sentence(row);
    std::vector<Word*> words;
    const std::tuple<const char*, QString, double> numbers[] = {{"lower", tr("Lower diameter of step %1").arg(i + 1), of.lowerDiameter},
                                                                {"upper", tr("Upper diameter of step %1").arg(i + 1), of.upperDiameter},
                                                                {"long", tr("Length of step %1").arg(i + 1), of.length}};
    for (const auto& [key, label, value] : numbers) {
        const QString k = key;
        auto* w = new Word(Word::Kind::Length, QString("step.%1.%2").arg(i).arg(k), label, step);
        w->setStep(1.0);
        w->show(QString::number(value, 'g', 12), m_open.inches());
        connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
        connect(
            w, &Word::changed, this,
            [this, i, k](const QString&, const QString& v) {
                edit(
                    [&](Assembly& t) {
                        if (i < t.holder.size())
                            (k == "lower" ? t.holder[i].lowerDiameter : k == "upper" ? t.holder[i].upperDiameter : t.holder[i].length) = v.toDouble();
                    },
                    QString("step.%1.%2").arg(i).arg(k));
            },
            Qt::QueuedConnection);
        words.push_back(w);
    }
    step->set(tr("Ø{} to Ø{} over {}"), words);
    line->addWidget(step, 1);
    auto* away = flatButton(QString::fromUtf8("×"), QString("removeStep.%1").arg(i), tr("Remove step %1").arg(i + 1), row);
    connect(
        away, &QPushButton::clicked, this, [this, i] { edit([&](Assembly& t) { t.holder.erase(t.holder.begin() + static_cast<std::ptrdiff_t>(i)); }, {}); },
        Qt::QueuedConnection);
    line->addWidget(away);
    return row;
}

void ToolCards::fillHolder(const Assembly& a) {
    using K = Word::Kind;
    auto* name = new Word(K::Text, "tool.holderName", tr("Name of the holder"), this);
    name->show(QString::fromStdString(a.holderName), false);
    connect(
        name, &Word::changed, this,
        [this](const QString&, const QString& v) { edit([&](Assembly& t) { t.holderName = v.trimmed().left(100).toStdString(); }, "holderName"); }, Qt::QueuedConnection);
    auto* other = new Word(K::Choice, "tool.holderOf", tr("Take the holder of another tool"), this);
    std::vector<Word::Option> options;
    QStringList seen{QString::fromStdString(a.holderName)};
    for (const Assembly& t : m_open.job().tools)
        if (const QString n = QString::fromStdString(t.holderName); !seen.contains(n)) {
            seen << n;
            options.push_back({QString::fromStdString(t.id), n});
        }
    other->setOptions(options);
    other->setWords(options.empty() ? tr("no other") : tr("another"));
    connect(
        other, &Word::changed, this,
        [this](const QString&, const QString& id) {
            if (const Assembly* from = m_open.job().tool(id.toStdString()))
                edit(
                    [&](Assembly& t) {
                        t.holder = from->holder;
                        t.holderName = from->holderName;
                    },
                    {});
        },
        Qt::QueuedConnection);
    auto* head = new Sentence(this);
    head->set(tr("Held in {}, or {}."), {name, other});
    m_holder->addWidget(head);
    for (std::size_t i = 0; i < a.holder.size(); ++i) m_holder->addWidget(stepRow(i, a.holder[i]));
    auto* add = flatButton(tr("+  Step"), "addStep", tr("Another step towards the spindle"), this);
    connect(
        add, &QPushButton::clicked, this,
        [this] {
            edit(
                [](Assembly& t) {
                    const double d = t.holder.empty() ? 2.0 * t.cutter.shankDiameter + 6.0 : t.holder.back().upperDiameter;
                    t.holder.push_back({d, d, 20.0});
                },
                {});
        },
        Qt::QueuedConnection);
    m_holder->addWidget(add, 0, Qt::AlignLeft);
}

QWidget* ToolCards::materialRow(std::size_t i, const CuttingData& data) {
    using K = Word::Kind;
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    auto* step = new Sentence(row);
    const auto changed = [this, i](const QString& key, Word* w) {
        connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
        connect(
            w, &Word::changed, this,
            [this, i, key](const QString&, const QString& v) {
                edit(
                    [&](Assembly& t) {
                        if (i >= t.materials.size()) return;
                        CuttingData& d = t.materials[i];
                        if (key == "name") d.material = v.trimmed().left(80).toStdString();
                        if (key == "speed") d.surfaceSpeed = v.toDouble();
                        if (key == "bite") d.chipLoad = v.toDouble();
                    },
                    QString("material.%1.%2").arg(i).arg(key));
            },
            Qt::QueuedConnection);
        return w;
    };
    auto* name = new Word(K::Text, QString("material.%1.name").arg(i), tr("Material"), step);
    name->show(QString::fromStdString(data.material), false);
    auto* speed = new Word(K::Number, QString("material.%1.speed").arg(i), tr("Surface speed, m/min"), step);
    speed->setStep(5);
    speed->show(QString::number(data.surfaceSpeed, 'g', 12), false);
    auto* bite = new Word(K::Length, QString("material.%1.bite").arg(i), tr("Chip load, a tooth"), step);
    bite->setStep(0.005);
    bite->show(QString::number(data.chipLoad, 'g', 12), m_open.inches());
    step->set(tr("{}: {} m/min, {} a tooth"), {changed("name", name), changed("speed", speed), changed("bite", bite)});
    line->addWidget(step, 1);
    auto* useIt = flatButton(tr("use"), QString("useMaterial.%1").arg(i), tr("Take speed and feed for this material"), row);
    connect(
        useIt, &QPushButton::clicked, this, [this, material = data.material] { edit([&](Assembly& t) { (void)useMaterial(t, material); }, {}); }, Qt::QueuedConnection);
    auto* away = flatButton(QString::fromUtf8("×"), QString("removeMaterial.%1").arg(i), tr("Remove the material"), row);
    connect(
        away, &QPushButton::clicked, this, [this, i] { edit([&](Assembly& t) { t.materials.erase(t.materials.begin() + static_cast<std::ptrdiff_t>(i)); }, {}); },
        Qt::QueuedConnection);
    line->addWidget(useIt);
    line->addWidget(away);
    return row;
}

void ToolCards::fillSpeeds(const Assembly& a) {
    using K = Word::Kind;
    auto* now = new Sentence(this);
    now->set(tr("Turns %1 at {} a minute and takes {} a tooth: feed %2 mm/min, %3 m/min at the diameter.")
                 .arg(QString())
                 .arg(a.feed(), 0, 'f', 0)
                 .arg(kPi * a.cutter.diameter * a.spindleSpeed / 1000.0, 0, 'f', 0)
                 .replace("  ", " "),
             {number(K::Number, "speed", tr("Spindle speed"), 100), number(K::Length, "bite", tr("Feed a tooth"), 0.005)});
    m_speeds->addWidget(now);
    auto* cooled = new Sentence(this);
    auto* coolant = new Word(K::Choice, "tool.coolant", tr("Coolant"), cooled);
    coolant->setOptions({{"none", tr("nothing")}, {"flood", tr("flood coolant")}, {"mist", tr("mist")}, {"through", tr("coolant through the tool")}});
    coolant->show(coolantName(a.coolant), false);
    connect(
        coolant, &Word::changed, this,
        [this](const QString&, const QString& value) {
            edit(
                [&](Assembly& t) {
                    for (int c = 0; c < kCoolants; ++c)
                        if (value == coolantName(static_cast<Coolant>(c))) t.coolant = static_cast<Coolant>(c);
                },
                {});
        },
        Qt::QueuedConnection);
    cooled->set(tr("Cooled by {}."), {coolant});
    m_speeds->addWidget(cooled);
    auto* limits = new Sentence(this);
    limits->set(tr("It may cut with {} of its round at most, {} deep along its axis, chips {} thick (0: not said)."),
                {number(K::Angle, "engaged", tr("Most of its round that may stand in material"), 5), number(K::Length, "deep", tr("Deepest cut along its axis"), 0.5),
                 number(K::Length, "chip", tr("Thickest chip"), 0.01)});
    m_speeds->addWidget(limits);
    for (std::size_t i = 0; i < a.materials.size(); ++i) m_speeds->addWidget(materialRow(i, a.materials[i]));
    auto* add = flatButton(tr("+  Material"), "addMaterial", tr("Another material"), this);
    connect(
        add, &QPushButton::clicked, this,
        [this] {
            edit(
                [](Assembly& t) {
                    t.materials.push_back({"material " + std::to_string(t.materials.size() + 1),
                                           std::max(1.0, std::round(kPi * t.cutter.diameter * t.spindleSpeed / 1000.0)), std::max(0.001, t.feedPerTooth)});
                },
                {});
        },
        Qt::QueuedConnection);
    m_speeds->addWidget(add, 0, Qt::AlignLeft);
}

} // namespace gyre
