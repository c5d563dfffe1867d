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
    const auto groups = m_holes.groups();
    const int lit = m_holes.litGroup();
    if (lit < 0 || lit >= static_cast<int>(groups.size())) return;
    std::vector<Vec3> done;
    const auto holes = m_holes.all();
    for (const auto i : groups[static_cast<std::size_t>(lit)].holes) {
        const Hole& h = holes[i];
        if (m_holes.leftOut(i) || std::any_of(done.begin(), done.end(), [&](const Vec3& d) { return angleBetween(d, h.direction) < 1e-4; })) continue;
        done.push_back(h.direction);
        m_planes.add(planeByHole(h));
    }
}

FeaturesPanel::FeaturesPanel(OpenJob& open, Holes& holes, Planes& planes, Picks& picks, QWidget* parent)
    : QWidget(parent), m_open(open), m_holes(holes), m_planes(planes), m_picks(picks) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 0, 12, 8);
    outer->setSpacing(8);
    QVBoxLayout* inside = nullptr;
    outer->addWidget(card(tr("Holes"), this, inside));
    m_holeList = new QVBoxLayout;
    m_holeList->setSpacing(2);
    inside->addLayout(m_holeList);
    outer->addWidget(card(tr("Planes"), this, inside));
    m_planeList = new QVBoxLayout;
    m_planeList->setSpacing(2);
    inside->addLayout(m_planeList);
    auto* add = new QHBoxLayout;
    m_onFace = new QPushButton(tr("+  On a face"), this);
    m_onFace->setObjectName("planeOnFace");
    m_onFace->setCheckable(true);
    connect(m_onFace, &QPushButton::clicked, this, [this](bool on) { m_picks.setMode(on ? PickMode::PlaneFace : PickMode::None); });
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
                        m_picks.ask({PickKind::Points, "plane.points", tr("Click its origin, a point along X, a point on the Y side · Esc when done")});
                    })
        ->setObjectName("planeBy.points");
    ways->addAction(tr("two edges"), this,
                    [this] {
                        m_picks.ask({PickKind::Edges, "plane.edges", tr("Click two straight edges, the first one is X · Esc when done")});
                    })
        ->setObjectName("planeBy.edges");
    ways->addAction(tr("angles from the datum"), this, [this] { (void)m_planes.addByAngles(0, 0, 0); })->setObjectName("planeBy.angles");
    more->setMenu(ways);
    add->addWidget(more);
    add->addStretch();
    inside->addLayout(add);
    connect(&m_open, &OpenJob::jobChanged, this, &FeaturesPanel::refresh);
    connect(&m_open, &OpenJob::placeChanged, this, &FeaturesPanel::refresh);
    connect(&m_open, &OpenJob::featuresChanged, this, &FeaturesPanel::refresh);
    connect(&m_picks, &Picks::modeChanged, this, [this] { m_onFace->setChecked(m_picks.mode() == PickMode::PlaneFace); });
    refresh();
}

void FeaturesPanel::refresh() {
    if (draggedIn(this)) return QTimer::singleShot(150, this, [this] { refresh(); });
    const KeepFocus keep(this);
    clear(m_holeList);
    clear(m_planeList);
    if (!m_open.hasJob()) return;
    fillHoles();
    fillPlanes();
}

void FeaturesPanel::fillHoles() {
    const auto groups = m_holes.groups();
    m_onHoles->setEnabled(m_holes.litGroup() >= 0 && m_holes.litGroup() < static_cast<int>(groups.size()));
    if (groups.empty()) {
        m_holeList->addWidget(
            softLabel(m_open.place() ? tr("No holes: no cylinder or cone closes around an empty axis.") : tr("Looked for as soon as the part is open."), this));
        return;
    }
    for (int g = 0; g < static_cast<int>(groups.size()); ++g) {
        const HoleGroup& group = groups[static_cast<std::size_t>(g)];
        const bool out = std::all_of(group.holes.begin(), group.holes.end(), [&](std::size_t i) { return m_holes.leftOut(i); });
        const QString words = QString::fromStdString(group.words);
        auto* name = flatButton(words, QString("holes.%1").arg(g), tr("Light these holes: %1").arg(words), this);
        name->setCheckable(true);
        name->setChecked(m_holes.litGroup() == g);
        name->setStyleSheet("text-align: left");
        name->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed); // a long name must not widen the card
        if (out) name->setText(tr("%1 · left out").arg(words));
        connect(
            name, &QPushButton::clicked, this, [this, g] { m_holes.lightGroup(g); }, Qt::QueuedConnection);
        m_holeList->addWidget(name);
        if (m_holes.litGroup() != g) continue;
        auto* row = new QWidget(this);
        auto* buttons = new QHBoxLayout(row);
        buttons->setContentsMargins(8, 0, 0, 4);
        auto* turn = flatButton(tr("turn round"), QString("turn.%1").arg(g), tr("Enter these holes from the other side"), row);
        auto* leave = flatButton(out ? tr("take back") : tr("leave out"), QString("leave.%1").arg(g),
                                 out ? tr("Work on these holes again") : tr("Do not work on these holes"), row);
        connect(
            turn, &QPushButton::clicked, this, [this, group] { m_holes.turn(group); }, Qt::QueuedConnection);
        connect(
            leave, &QPushButton::clicked, this, [this, group, out] { m_holes.leaveOut(group, !out); }, Qt::QueuedConnection);
        buttons->addWidget(turn);
        buttons->addWidget(leave);
        buttons->addStretch();
        m_holeList->addWidget(row);
    }
}

void FeaturesPanel::fillPlanes() {
    const auto& planes = m_open.job().planes;
    if (planes.empty()) m_planeList->addWidget(softLabel(tr("None yet. A plane is where indexed work stands square to the tool."), this));
    for (std::size_t i = 0; i < planes.size(); ++i) {
        auto* row = new QWidget(this);
        auto* line = new QHBoxLayout(row);
        line->setContentsMargins(0, 0, 0, 0);
        auto* name = new Word(Word::Kind::Text, QString("plane.%1.name").arg(i), tr("Name of the plane"), row);
        name->show(QString::fromStdString(planes[i].name), false);
        connect(
            name, &Word::changed, this, [this, i](const QString&, const QString& to) { m_planes.rename(i, to); }, Qt::QueuedConnection);
        line->addWidget(name);
        line->addStretch();
        auto* flip = flatButton(tr("flip"), QString("flipPlane.%1").arg(i), tr("Turn the plane's normal round"), row);
        auto* remove = flatButton(QString::fromUtf8("×"), QString("removePlane.%1").arg(i), tr("Remove the plane"), row);
        connect(
            flip, &QPushButton::clicked, this, [this, i] { m_planes.flip(i); }, Qt::QueuedConnection);
        connect(
            remove, &QPushButton::clicked, this, [this, i] { m_planes.remove(i); }, Qt::QueuedConnection);
        line->addWidget(flip);
        line->addWidget(remove);
        m_planeList->addWidget(row);
        auto* reach = softLabel(m_planes.reach(planes[i]), this);
        reach->setObjectName(QString("reach.%1").arg(i));
        m_planeList->addWidget(reach);
        m_planeList->addWidget(whereSentence(i, planes[i]));
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
        w->show(QString::number(place ? plane.origin[k] : angles[static_cast<std::size_t>(k - 3)], 'g', 12), place && m_open.inches());
        connect(w, &Word::wrongText, &m_open, &OpenJob::toldUser);
        connect(
            w, &Word::changed, this,
            [this, i, k](const QString&, const QString& value) {
                m_open.change(
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
                emit m_open.featuresChanged();
            },
            Qt::QueuedConnection);
        words.push_back(w);
    }
    out->set(tr("At {} {} {}, turned by {} about X, {} about Y, {} about Z."), words);
    return out;
}

} // namespace gyre
