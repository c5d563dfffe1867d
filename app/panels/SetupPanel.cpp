#include "panels/SetupPanel.h"
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace gyre {

namespace {
QFrame* card(const QString& title, QWidget* parent, QVBoxLayout*& inside) {
    auto* frame = new QFrame(parent);
    frame->setProperty("role", "card");
    inside = new QVBoxLayout(frame);
    inside->setContentsMargins(12, 8, 12, 10);
    inside->setSpacing(4);
    auto* label = new QLabel(title, frame);
    label->setProperty("role", "title");
    inside->addWidget(label);
    return frame;
}
} // namespace

BodiesPanel::BodiesPanel(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(14, 12, 12, 10);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("BODIES"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    m_list = new QVBoxLayout;
    m_list->setSpacing(6);
    outer->addLayout(m_list);
    auto* add = new QPushButton(tr("+  Body from a STEP file"), this);
    add->setObjectName("addBody");
    connect(add, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Body"), QFileInfo(m_model.file()).absolutePath(), tr("STEP (*.step *.stp *.STEP *.STP)"));
        if (file.isEmpty()) return;
        m_model.change(tr("add body"), [&](Job& j) {
            const bool first = std::none_of(j.bodies.begin(), j.bodies.end(), [](const JobBody& b) { return b.role == "part"; });
            const QString relative = QFileInfo(m_model.file()).absoluteDir().relativeFilePath(file);
            j.bodies.push_back({QFileInfo(file).completeBaseName().toStdString(), first ? "part" : "fixture", relative.toStdString()});
        });
    });
    outer->addWidget(add);
    outer->addStretch();
    connect(&m_model, &AppModel::jobChanged, this, &BodiesPanel::refresh);
    refresh();
}

void BodiesPanel::refresh() {
    while (QLayoutItem* item = m_list->takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->deleteLater();
        }
        delete item;
    }
    if (!m_model.hasJob()) return;
    for (std::size_t i = 0; i < m_model.job().bodies.size(); ++i) {
        const JobBody& b = m_model.job().bodies[i];
        auto* frame = new QFrame(this);
        frame->setProperty("role", "card");
        auto* row = new QHBoxLayout(frame);
        row->setContentsMargins(10, 5, 8, 5);
        auto* name = new QLabel(QString::fromStdString(b.name), frame);
        name->setToolTip(QString::fromStdString(b.file));
        row->addWidget(name, 1);
        auto* role = new Word(Word::Kind::Choice, QString("body.%1.role").arg(i), tr("Role of %1").arg(name->text()), frame);
        role->setOptions({{"part", tr("part")}, {"fixture", tr("fixture")}, {"stock", tr("stock")}, {"reference", tr("reference")}});
        role->show(QString::fromStdString(b.role), false);
        connect(
            role, &Word::changed, this,
            [this, i](const QString&, const QString& value) {
                m_model.change(tr("change role"), [&](Job& j) {
                    // There is one part: the body that was it becomes a reference.
                    if (value == "part")
                        for (JobBody& other : j.bodies)
                            if (other.role == "part") other.role = "reference";
                    j.bodies[i].role = value.toStdString();
                });
            },
            Qt::QueuedConnection);
        row->addWidget(role);
        auto* remove = new QPushButton(QString::fromUtf8("×"), frame);
        remove->setProperty("role", "flat");
        remove->setAccessibleName(tr("Remove %1").arg(name->text()));
        remove->setFixedWidth(24);
        connect(
            remove, &QPushButton::clicked, this,
            [this, i] { m_model.change(tr("remove body"), [&](Job& j) { j.bodies.erase(j.bodies.begin() + static_cast<std::ptrdiff_t>(i)); }); }, Qt::QueuedConnection);
        row->addWidget(remove);
        m_list->addWidget(frame);
    }
}

PlacingPanel::PlacingPanel(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 12, 12, 8);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("SET UP"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    const auto make = [&](Word::Kind kind, const QString& key, const QString& name, double step) {
        auto* w = new Word(kind, key, name, this);
        w->setStep(step);
        w->hide();
        connect(w, &Word::changed, this, &PlacingPanel::changed);
        connect(w, &Word::wrongText, &m_model, &AppModel::toldUser);
        return w;
    };
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
    outer->addStretch();
    m_machine->set(tr("Cut on the {}; show lengths in {}."), {m_which, m_units});
    m_place->set(tr("The part's datum stands at {} {} {} over the table seat, turned by {}."), {m_x, m_y, m_z, m_turn});
    connect(&m_model, &AppModel::jobChanged, this, &PlacingPanel::refresh);
    connect(&m_model, &AppModel::placeChanged, this, &PlacingPanel::refresh);
    refresh();
}

void PlacingPanel::refresh() {
    if (!m_model.hasJob()) return;
    const Job& j = m_model.job();
    // Machines are the machine files beside the job.
    std::vector<Word::Option> options;
    for (const MachineFile& m : machinesIn(QFileInfo(m_model.file()).absolutePath().toStdString()))
        options.push_back({QString::fromStdString(m.file), QString::fromStdString(m.name)});
    m_which->setOptions(options);
    m_which->show(QString::fromStdString(j.machine), false);
    m_units->show(unitSuffix(j.units), false);
    const bool in = m_model.inches();
    m_x->show(QString::number(j.seat.x(), 'g', 12), in);
    m_y->show(QString::number(j.seat.y(), 'g', 12), in);
    m_z->show(QString::number(j.seat.z(), 'g', 12), in);
    m_turn->show(QString::number(j.seatTurnDegrees, 'g', 12), in);
    QStringList facts;
    if (const auto place = m_model.place())
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
    m_machine->reflow();
    m_place->reflow();
}

void PlacingPanel::changed(const QString& key, const QString& value) {
    const double v = value.toDouble();
    m_model.change(
        tr("set %1").arg(key),
        [&](Job& j) {
            if (key == "setup.machine")
                j.machine = value.toStdString();
            else if (key == "setup.units")
                j.units = value == "in" ? LengthUnit::Inch : LengthUnit::Millimetre;
            else if (key == "setup.turn")
                j.seatTurnDegrees = std::clamp(v, -360.0, 360.0);
            else
                j.seat[key == "setup.x" ? 0 : key == "setup.y" ? 1 : 2] = std::clamp(v, -1e4, 1e4);
        },
        key == "setup.machine" || key == "setup.units" ? QString() : key);
}

} // namespace gyre
