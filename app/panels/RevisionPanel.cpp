#include "panels/RevisionPanel.h"
#include "panels/Card.h"
#include <QHBoxLayout>
#include <QPushButton>

namespace gyre {

RevisionPanel::RevisionPanel(Revision& revision, QWidget* parent) : QWidget(parent), m_revision(revision) {
    setObjectName("revision");
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 8, 12, 0);
    QVBoxLayout* inside = nullptr;
    outer->addWidget(card(tr("The part has changed"), this, inside));
    m_inside = new QVBoxLayout;
    m_inside->setSpacing(4);
    inside->addLayout(m_inside);
    connect(&m_revision, &Revision::changed, this, &RevisionPanel::refresh);
    refresh();
}

void RevisionPanel::refresh() {
    clear(m_inside);
    setVisible(m_revision.told());
    if (!m_revision.told()) return;
    auto* faces = softLabel(m_revision.summary(), this);
    faces->setObjectName("revision.faces");
    m_inside->addWidget(faces);
    m_inside->addWidget(lights());
    for (const QString& line : m_revision.lines()) {
        auto* label = new QLabel(line, this);
        label->setObjectName("revision.line");
        label->setWordWrap(true);
        m_inside->addWidget(label);
    }
    auto* row = new QWidget(this);
    auto* buttons = new QHBoxLayout(row);
    buttons->setContentsMargins(0, 4, 0, 0);
    if (m_revision.canFollow()) {
        auto* follow = new QPushButton(tr("Let the job follow"), row);
        follow->setObjectName("revision.follow");
        follow->setToolTip(tr("The operations name what was found. Numbers stay as they are: depths, stock, the datum over the table"));
        connect(
            follow, &QPushButton::clicked, this, [this] { m_revision.follow(); }, Qt::QueuedConnection);
        buttons->addWidget(follow);
    }
    auto* away = flatButton(tr("put away"), "revision.away", tr("Leave what the job names as it is"), row);
    connect(
        away, &QPushButton::clicked, this, [this] { m_revision.putAway(); }, Qt::QueuedConnection);
    buttons->addWidget(away);
    buttons->addStretch();
    m_inside->addWidget(row);
}

QWidget* RevisionPanel::lights() {
    using L = Revision::Lit;
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    const auto add = [&](L what, const QString& words, const QString& name, const QString& tip) {
        if (m_revision.count(what) == 0) return;
        auto* b = flatButton(words, name, tip, row);
        b->setCheckable(true);
        b->setChecked(m_revision.lit() == what);
        connect(
            b, &QPushButton::clicked, this, [this, what] { m_revision.light(what); }, Qt::QueuedConnection);
        line->addWidget(b);
    };
    add(L::Changed, tr("light what changed"), "revision.lightChanged", tr("Light the faces that lie elsewhere, or are larger or smaller"));
    add(L::New, tr("light what is new"), "revision.lightNew", tr("Light the faces that were not there before"));
    line->addStretch();
    return row;
}

} // namespace gyre
