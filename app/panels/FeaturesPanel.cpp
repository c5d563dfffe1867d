#include "panels/FeaturesPanel.h"
#include "panels/Card.h"
#include <QHBoxLayout>
#include <QPushButton>

namespace gyre {

namespace {

QPushButton* flatButton(const QString& text, const QString& name, const QString& accessible, QWidget* parent) {
    auto* b = new QPushButton(text, parent);
    b->setProperty("role", "flat");
    b->setObjectName(name);
    b->setAccessibleName(accessible);
    b->setToolTip(accessible);
    return b;
}

QLabel* softLabel(const QString& text, QWidget* parent) {
    auto* l = new QLabel(text, parent);
    l->setProperty("role", "soft");
    l->setWordWrap(true);
    return l;
}

} // namespace

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
    connect(m_onFace, &QPushButton::clicked, this, [this](bool on) { m_model.setPickMode(on ? PickMode::PlaneFace : PickMode::None); });
    m_onHoles = new QPushButton(tr("+  On the lit holes"), this);
    m_onHoles->setObjectName("planeOnHoles");
    connect(m_onHoles, &QPushButton::clicked, this, [this] {
        const auto groups = m_model.holeGroups();
        const int lit = m_model.litGroup();
        if (lit < 0 || lit >= static_cast<int>(groups.size())) return;
        // One plane a direction: holes side by side share theirs.
        std::vector<Vec3> done;
        const auto holes = m_model.holes();
        for (const auto i : groups[static_cast<std::size_t>(lit)].holes) {
            const Hole& h = holes[i];
            if (m_model.leftOut(i) || std::any_of(done.begin(), done.end(), [&](const Vec3& d) { return angleBetween(d, h.direction) < 1e-4; })) continue;
            done.push_back(h.direction);
            m_model.addPlane(planeByHole(h));
        }
    });
    add->addWidget(m_onFace);
    add->addWidget(m_onHoles);
    add->addStretch();
    inside->addLayout(add);
    connect(&m_model, &AppModel::jobChanged, this, &FeaturesPanel::refresh);
    connect(&m_model, &AppModel::placeChanged, this, &FeaturesPanel::refresh);
    connect(&m_model, &AppModel::featuresChanged, this, &FeaturesPanel::refresh);
    connect(&m_model, &AppModel::pickModeChanged, this, [this] { m_onFace->setChecked(m_model.pickMode() == PickMode::PlaneFace); });
    refresh();
}

void FeaturesPanel::refresh() {
    clear(m_holes);
    clear(m_planes);
    if (!m_model.hasJob()) return;
    fillHoles();
    fillPlanes();
}

void FeaturesPanel::fillHoles() {
    const auto groups = m_model.holeGroups();
    m_onHoles->setEnabled(m_model.litGroup() >= 0 && m_model.litGroup() < static_cast<int>(groups.size()));
    if (groups.empty()) {
        m_holes->addWidget(softLabel(m_model.place() ? tr("No holes: no cylinder or cone closes around an empty axis.") : tr("Looked for as soon as the part is open."), this));
        return;
    }
    for (int g = 0; g < static_cast<int>(groups.size()); ++g) {
        const HoleGroup& group = groups[static_cast<std::size_t>(g)];
        const bool out = std::all_of(group.holes.begin(), group.holes.end(), [&](std::size_t i) { return m_model.leftOut(i); });
        const QString words = QString::fromStdString(group.words);
        auto* name = flatButton(words, QString("holes.%1").arg(g), tr("Light these holes: %1").arg(words), this);
        name->setCheckable(true);
        name->setChecked(m_model.litGroup() == g);
        name->setStyleSheet("text-align: left");
        name->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed); // a long name must not widen the card
        if (out) name->setText(tr("%1 · left out").arg(words));
        connect(name, &QPushButton::clicked, this, [this, g] { m_model.lightGroup(g); }, Qt::QueuedConnection);
        m_holes->addWidget(name);
        if (m_model.litGroup() != g) continue;
        auto* row = new QWidget(this);
        auto* buttons = new QHBoxLayout(row);
        buttons->setContentsMargins(8, 0, 0, 4);
        auto* turn = flatButton(tr("turn round"), QString("turn.%1").arg(g), tr("Enter these holes from the other side"), row);
        auto* leave = flatButton(out ? tr("take back") : tr("leave out"), QString("leave.%1").arg(g), out ? tr("Work on these holes again") : tr("Do not work on these holes"), row);
        connect(turn, &QPushButton::clicked, this, [this, group] { m_model.turnHoles(group); }, Qt::QueuedConnection);
        connect(leave, &QPushButton::clicked, this, [this, group, out] { m_model.leaveOutHoles(group, !out); }, Qt::QueuedConnection);
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
        line->addWidget(new QLabel(QString::fromStdString(planes[i].name), row), 1);
        auto* flip = flatButton(tr("flip"), QString("flipPlane.%1").arg(i), tr("Turn the plane's normal round"), row);
        auto* remove = flatButton(QString::fromUtf8("×"), QString("removePlane.%1").arg(i), tr("Remove the plane"), row);
        connect(flip, &QPushButton::clicked, this, [this, i] { m_model.flipPlane(i); }, Qt::QueuedConnection);
        connect(remove, &QPushButton::clicked, this, [this, i] { m_model.removePlane(i); }, Qt::QueuedConnection);
        line->addWidget(flip);
        line->addWidget(remove);
        m_planes->addWidget(row);
        auto* reach = softLabel(m_model.reachOfPlane(planes[i]), this);
        reach->setObjectName(QString("reach.%1").arg(i));
        m_planes->addWidget(reach);
    }
}

} // namespace gyre
