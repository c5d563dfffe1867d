#include "panels/FeaturesPanel.h"
#include "model/Holes.h"
#include "model/Picks.h"
#include "model/Planes.h"
#include "panels/Card.h"
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QTimer>

namespace gyre {

// One plane a direction: holes side by side share theirs.
void FeaturesPanel::planesOnHoles() {
    const auto groups = m_model.holes().groups();
    const int lit = m_model.holes().litGroup();
    if (lit < 0 || lit >= static_cast<int>(groups.size())) return;
    std::vector<Vec3> done;
    const auto holes = m_model.holes().all();
    for (const auto i : groups[static_cast<std::size_t>(lit)].holes) {
        const Hole& h = holes[i];
        if (m_model.holes().leftOut(i) || std::any_of(done.begin(), done.end(), [&](const Vec3& d) { return angleBetween(d, h.direction) < 1e-4; })) continue;
        done.push_back(h.direction);
        m_model.planes().add(planeByHole(h));
    }
}

FeaturesPanel::FeaturesPanel(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 0, 12, 8);
    outer->setSpacing(8);
    QVBoxLayout* inside = nullptr;
    outer->addWidget(card(tr("Holes"), this, inside));
    m_holes = new QVBoxLayout;
    m_holes->setSpacing(2);
    inside->addLayout(m_holes);
    outer->addWidget(card(tr("Planes"), this, inside));
    m_planes = new QVBoxLayout;
    m_planes->setSpacing(2);
    inside->addLayout(m_planes);
    auto* add = new QHBoxLayout;
    m_onFace = new QPushButton(tr("+  On a face"), this);
    m_onFace->setObjectName("planeOnFace");
    m_onFace->setCheckable(true);
    connect(m_onFace, &QPushButton::clicked, this, [this](bool on) { m_model.picks().setMode(on ? PickMode::PlaneFace : PickMode::None); });
    m_onHoles = new QPushButton(tr("+  On holes"), this);
    m_onHoles->setObjectName("planeOnHoles");
    connect(m_onHoles, &QPushButton::clicked, this, &FeaturesPanel::planesOnHoles);
    add->addWidget(m_onFace);
    add->addWidget(m_onHoles);
    auto* more = new QPushButton(tr("+  By …"), this);
    more->setObjectName("planeBy");
    auto* ways = new QMenu(more);
    ways->setObjectName("planeWays");
    ways->addAction(tr("three points"), this,
                    [this] {
                        m_model.picks().ask({PickKind::Points, "plane.points", tr("Click its origin, a point along X, a point on the Y side · Esc when done")});
                    })
        ->setObjectName("planeBy.points");
    ways->addAction(tr("two edges"), this,
                    [this] {
                        m_model.picks().ask({PickKind::Edges, "plane.edges", tr("Click two straight edges, the first one is X · Esc when done")});
                    })
        ->setObjectName("planeBy.edges");
    ways->addAction(tr("angles from the datum"), this, [this] { (void)m_model.planes().addByAngles(0, 0, 0); })->setObjectName("planeBy.angles");
    more->setMenu(ways);
    add->addWidget(more);
    add->addStretch();
    inside->addLayout(add);
    connect(&m_model, &AppModel::jobChanged, this, &FeaturesPanel::refresh);
    connect(&m_model, &AppModel::placeChanged, this, &FeaturesPanel::refresh);
    connect(&m_model, &AppModel::featuresChanged, this, &FeaturesPanel::refresh);
    connect(&m_model.picks(), &Picks::modeChanged, this, [this] { m_onFace->setChecked(m_model.picks().mode() == PickMode::PlaneFace); });
    refresh();
}

void FeaturesPanel::refresh() {
    if (draggedIn(this)) return QTimer::singleShot(150, this, [this] { refresh(); });
    const KeepFocus keep(this);
    clear(m_holes);
    clear(m_planes);
    if (!m_model.hasJob()) return;
    fillHoles();
    fillPlanes();
}

void FeaturesPanel::fillHoles() {
    const auto groups = m_model.holes().groups();
    m_onHoles->setEnabled(m_model.holes().litGroup() >= 0 && m_model.holes().litGroup() < static_cast<int>(groups.size()));
    if (groups.empty()) {
        m_holes->addWidget(
            softLabel(m_model.place() ? tr("No holes: no cylinder or cone closes around an empty axis.") : tr("Looked for as soon as the part is open."), this));
        return;
    }
    for (int g = 0; g < static_cast<int>(groups.size()); ++g) {
        const HoleGroup& group = groups[static_cast<std::size_t>(g)];
        const bool out = std::all_of(group.holes.begin(), group.holes.end(), [&](std::size_t i) { return m_model.holes().leftOut(i); });
        const QString words = QString::fromStdString(group.words);
        auto* name = flatButton(words, QString("holes.%1").arg(g), tr("Light these holes: %1").arg(words), this);
        name->setCheckable(true);
        name->setChecked(m_model.holes().litGroup() == g);
        name->setStyleSheet("text-align: left");
        name->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed); // a long name must not widen the card
        if (out) name->setText(tr("%1 · left out").arg(words));
        connect(
            name, &QPushButton::clicked, this, [this, g] { m_model.holes().lightGroup(g); }, Qt::QueuedConnection);
        m_holes->addWidget(name);
        if (m_model.holes().litGroup() != g) continue;
        auto* row = new QWidget(this);
        auto* buttons = new QHBoxLayout(row);
        buttons->setContentsMargins(8, 0, 0, 4);
        auto* turn = flatButton(tr("turn round"), QString("turn.%1").arg(g), tr("Enter these holes from the other side"), row);
        auto* leave = flatButton(out ? tr("take back") : tr("leave out"), QString("leave.%1").arg(g),
                                 out ? tr("Work on these holes again") : tr("Do not work on these holes"), row);
        connect(
            turn, &QPushButton::clicked, this, [this, group] { m_model.holes().turn(group); }, Qt::QueuedConnection);
        connect(
            leave, &QPushButton::clicked, this, [this, group, out] { m_model.holes().leaveOut(group, !out); }, Qt::QueuedConnection);
        buttons->addWidget(turn);
        buttons->addWidget(leave);
        buttons->addStretch();
        m_holes->addWidget(row);
    }
}

void FeaturesPanel::fillPlanes() {
    const auto& planes = m_model.job().planes;
    if (planes.empty()) m_planes->addWidget(softLabel(tr("None yet. A plane is where indexed work stands square to the tool."), this));
    for (std::size_t i = 0; i < planes.size(); ++i) {
        auto* row = new QWidget(this);
        auto* line = new QHBoxLayout(row);
        line->setContentsMargins(0, 0, 0, 0);
        auto* name = new Word(Word::Kind::Text, QString("plane.%1.name").arg(i), tr("Name of the plane"), row);
        name->show(QString::fromStdString(planes[i].name), false);
        connect(
            name, &Word::changed, this, [this, i](const QString&, const QString& to) { m_model.planes().rename(i, to); }, Qt::QueuedConnection);
        line->addWidget(name);
        line->addStretch();
        auto* flip = flatButton(tr("flip"), QString("flipPlane.%1").arg(i), tr("Turn the plane's normal round"), row);
        auto* remove = flatButton(QString::fromUtf8("×"), QString("removePlane.%1").arg(i), tr("Remove the plane"), row);
        connect(
            flip, &QPushButton::clicked, this, [this, i] { m_model.planes().flip(i); }, Qt::QueuedConnection);
        connect(
            remove, &QPushButton::clicked, this, [this, i] { m_model.planes().remove(i); }, Qt::QueuedConnection);
        line->addWidget(flip);
        line->addWidget(remove);
        m_planes->addWidget(row);
        auto* reach = softLabel(m_model.planes().reach(planes[i]), this);
        reach->setObjectName(QString("reach.%1").arg(i));
        m_planes->addWidget(reach);
        m_planes->addWidget(whereSentence(i, planes[i]));
    }
}

namespace {
/// Degrees about X, then the new Y, then the new Z.
std::array<double, 3> anglesOf(const WorkPlane& plane) {
    const Mat3 r = plane.frame().linear();
    const double y = std::asin(std::clamp(r(0, 2), -1.0, 1.0));
    const bool pole = std::abs(r(0, 2)) > 1.0 - 1e-12;
    return {degrees(pole ? std::atan2(r(1, 0), r(1, 1)) : std::atan2(-r(1, 2), r(2, 2))), degrees(y), degrees(pole ? 0.0 : std::atan2(-r(0, 1), r(0, 0)))};
}
} // namespace

Sentence* FeaturesPanel::whereSentence(std::size_t i, const WorkPlane& plane) {
    auto* out = new Sentence(this);
    const auto angles = anglesOf(plane);
    std::vector<Word*> words;
    const char* kAxes[] = {"X", "Y", "Z"};
    for (int k = 0; k < 6; ++k) {
        const bool place = k < 3;
        auto* w = new Word(place ? Word::Kind::Length : Word::Kind::Angle, QString("plane.%1.%2%3").arg(i).arg(place ? "at" : "turn").arg(kAxes[k % 3]),
                           place ? tr("Origin %1").arg(kAxes[k % 3]) : tr("Turned about %1").arg(kAxes[k % 3]), out);
        w->setStep(place ? 1.0 : 5.0);
        w->show(QString::number(place ? plane.origin[k] : angles[static_cast<std::size_t>(k - 3)], 'g', 12), place && m_model.inches());
        connect(w, &Word::wrongText, &m_model, &AppModel::toldUser);
        connect(
            w, &Word::changed, this,
            [this, i, k](const QString&, const QString& value) {
                m_model.change(
                    tr("move plane"),
                    [&](Job& j) {
                        WorkPlane& p = j.planes[i];
                        auto turned = anglesOf(p);
                        if (k < 3)
                            p.origin[k] = std::clamp(value.toDouble(), -1e4, 1e4);
                        else
                            turned[static_cast<std::size_t>(k - 3)] = std::clamp(value.toDouble(), -360.0, 360.0);
                        if (k < 3) return;
                        if (const auto made = planeByAngles(p.origin, turned[0], turned[1], turned[2])) {
                            p.normal = made->normal;
                            p.x = made->x;
                        }
                    },
                    QString("plane.%1.%2").arg(i).arg(k));
                emit m_model.featuresChanged();
            },
            Qt::QueuedConnection);
        words.push_back(w);
    }
    out->set(tr("At {} {} {}, turned by {} about X, {} about Y, {} about Z."), words);
    return out;
}

} // namespace gyre
