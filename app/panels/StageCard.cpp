#include "panels/StageCard.h"
#include "Theme.h"
#include "Units.h"
#include "panels/Card.h"
#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <QStyle>

namespace gyre {

QIcon eyeIcon(bool open) {
    QPixmap picture(QSize(18, 14) * 2);
    picture.setDevicePixelRatio(2.0);
    picture.fill(Qt::transparent);
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(open ? theme().accent : theme().softInk, 1.5, Qt::SolidLine, Qt::RoundCap));
    QPainterPath lid(QPointF(2, 7));
    if (open) {
        lid.quadTo(QPointF(9, -1), QPointF(16, 7));
        lid.quadTo(QPointF(9, 15), QPointF(2, 7));
        p.drawPath(lid);
        p.setBrush(theme().accent);
        p.drawEllipse(QPointF(9, 7), 2.0, 2.0);
    } else { // closed: the lid with its lashes
        lid.quadTo(QPointF(9, 13), QPointF(16, 7));
        p.drawPath(lid);
        for (const double x : {5.0, 9.0, 13.0}) p.drawLine(QPointF(x, x == 9.0 ? 10.5 : 9.7), QPointF(9.0 + 1.25 * (x - 9.0), x == 9.0 ? 13.0 : 11.8));
    }
    return QIcon(picture);
}

QString keyOf(const OpenJob& open, const Finding& f) {
    QString key = QString("%1/%2/%3/%4/%5/%6/%7/%8")
                      .arg(static_cast<int>(f.rank))
                      .arg(QString::fromStdString(f.code), QString::fromStdString(f.text), QString::fromStdString(f.reason), QString::fromStdString(f.operation))
                      .arg(f.row)
                      .arg(open.inches())
                      .arg(f.amount);
    if (f.place) key += QString("@%1,%2,%3").arg((*f.place)[0]).arg((*f.place)[1]).arg((*f.place)[2]);
    if (f.span) key += QString("#%1-%2").arg(f.span->first).arg(f.span->second);
    for (const Remedy& r : f.remedies) key += QString("+%1=%2:%3").arg(QString::fromStdString(r.key), QString::fromStdString(r.value), QString::fromStdString(r.label));
    return key + "\n";
}

QFrame* findingBlock(OpenJob& open, const Finding& f, QWidget* parent, bool pending) {
    const auto said = [&open](const std::string& words) { return inUnits(QString::fromStdString(words), open.inches()); };
    auto* block = new QFrame(parent);
    block->setProperty("role", pending ? "pending" : f.rank == Rank::Stop ? "stop" : "look");
    block->setObjectName("finding." + QString::fromStdString(f.code));
    auto* column = new QVBoxLayout(block);
    column->setContentsMargins(10, 6, 8, 6);
    column->setSpacing(3);
    auto* text = new QLabel(block);
    text->setTextFormat(Qt::RichText);
    text->setWordWrap(true);
    text->setText(QString("<b>%1</b> · %2").arg(rankName(f.rank), said(f.text).toHtmlEscaped()));
    text->setToolTip(said(f.reason));
    if (pending) text->setProperty("role", "pendingText");
    column->addWidget(text);
    if (!f.reason.empty()) {
        auto* reason = new QLabel(said(f.reason), block);
        reason->setProperty("role", "soft");
        reason->setWordWrap(true);
        column->addWidget(reason);
    }
    // One line for Show and the first cure, one more for every two: nothing is cut off in a narrow card.
    auto* links = new QHBoxLayout;
    links->setSpacing(12);
    const auto link = [&](const QString& label, const QString& name, auto&& action) {
        auto* b = new QPushButton(label, block);
        b->setProperty("role", "link");
        b->setObjectName(name);
        b->setAccessibleName(label);
        b->setCursor(Qt::PointingHandCursor);
        b->setEnabled(!pending);
        QObject::connect(b, &QPushButton::clicked, &open, action);
        links->addWidget(b);
        return b;
    };
    if (f.place || f.span) link(QObject::tr("Show"), "show." + QString::fromStdString(f.code), [&open, f] { open.showFinding(f); });
    for (std::size_t i = 0; i < std::min<std::size_t>(5, f.remedies.size()); ++i) {
        if (i % 2 == 1) {
            links->addStretch();
            column->addLayout(links);
            links = new QHBoxLayout;
            links->setSpacing(12);
        }
        // Two remedies may set the same word; the later one's name tells its value as well.
        QString name = "fix." + QString::fromStdString(f.remedies[i].key) + "." + QString::fromStdString(f.code);
        if (std::any_of(f.remedies.begin(), f.remedies.begin() + static_cast<std::ptrdiff_t>(i), [&](const Remedy& r) { return r.key == f.remedies[i].key; }))
            name += "." + QString::fromStdString(f.remedies[i].value);
        link(said(f.remedies[i].label), name, [&open, f, r = f.remedies[i]] { open.applyRemedy(f, r); });
    }
    links->addStretch();
    column->addLayout(links);
    return block;
}

StageCard::StageCard(OpenJob& open, Stage stage, QWidget* parent) : QFrame(parent), m_open(open) {
    const QString name = stageName(stage);
    const int number = static_cast<int>(stage) + 1;
    setProperty("role", "card");
    setObjectName("card." + name);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 5, 8, 7);
    column->setSpacing(1);
    auto* top = new QHBoxLayout;
    auto* title = new QLabel(QString("%1   %2").arg(number).arg(name), this);
    title->setProperty("role", "title");
    m_more = new QPushButton(this);
    m_more->setProperty("role", "fold");
    m_more->setObjectName("more." + name);
    m_more->setCheckable(true);
    m_more->setCursor(Qt::PointingHandCursor);
    connect(m_more, &QPushButton::toggled, this, &StageCard::refreshFold);
    m_eye = new QPushButton(this);
    m_eye->setProperty("role", "flat");
    m_eye->setCheckable(true);
    m_eye->setObjectName("peel." + name);
    m_eye->setAccessibleName(tr("Show the result up to %1").arg(name));
    m_eye->setToolTip(tr("Show the result up to %1 (%2)").arg(name).arg(number));
    m_eye->setIconSize(QSize(18, 14));
    connect(m_eye, &QPushButton::clicked, this, &StageCard::peeled);
    top->addWidget(title);
    top->addStretch();
    top->addWidget(m_more);
    top->addWidget(m_eye);
    column->addLayout(top);
    m_body = new QWidget(this);
    auto* body = new QVBoxLayout(m_body);
    body->setContentsMargins(0, 0, 0, 0);
    body->setSpacing(1);
    m_sentence = new Sentence(m_body);
    body->addWidget(m_sentence);
    m_rare = new Sentence(m_body);
    m_rare->hide();
    body->addWidget(m_rare);
    m_facts = softLabel({}, m_body);
    m_facts->setObjectName("facts." + name);
    body->addWidget(m_facts);
    m_findings = new QVBoxLayout;
    m_findings->setSpacing(4);
    body->addLayout(m_findings);
    column->addWidget(m_body);
    refreshFold();
}

void StageCard::say(const Said& usual, const Said& rare) {
    m_sentence->set(usual.text, usual.words);
    m_hasRare = !rare.words.empty();
    m_rare->set(rare.text, rare.words);
    m_facts->setMinimumHeight(m_facts->fontMetrics().height() + 2); // another sentence: other facts
    refreshFold();
}

void StageCard::setRareChanged(int words) {
    if (std::exchange(m_changed, words) != words) refreshFold();
}

void StageCard::unfold(bool on) { m_more->setChecked(on); }
bool StageCard::unfolded() const { return m_more->isChecked(); }

void StageCard::refreshFold() {
    m_more->setVisible(m_hasRare);
    const QString changed = m_changed > 0 ? tr(" · %1 changed").arg(m_changed) : QString();
    m_more->setText(unfolded() ? tr("fewer words") : tr("more words%1").arg(changed));
    m_more->setAccessibleName(tr("More words"));
    m_rare->setVisible(m_hasRare && unfolded());
}

void StageCard::reflow() {
    m_sentence->reflow();
    m_rare->reflow();
}

void StageCard::setFacts(const QString& facts, bool old) {
    if (old && facts.isEmpty()) return;
    m_facts->setText(inUnits(facts, m_open.inches()));
    // The room that they took is kept while new ones are on their way.
    const int wanted = m_facts->heightForWidth(std::max(200, m_facts->width()));
    if (!facts.isEmpty()) m_facts->setMinimumHeight(old ? std::max(m_facts->minimumHeight(), wanted) : std::max(m_facts->fontMetrics().height() + 2, wanted));
    if (std::exchange(m_old, old) != old) update();
}

void StageCard::setFindings(const std::vector<Finding>& findings, bool pending) {
    // Widgets are dear to make: what stands there already stays.
    QString key = pending ? "old" : "";
    for (const Finding& f : findings) key += keyOf(m_open, f);
    if (key == m_findingsKey) return;
    m_findingsKey = key;
    clear(m_findings);
    for (const Finding& f : findings) m_findings->addWidget(findingBlock(m_open, f, m_body, pending));
}

void StageCard::setShown(bool shown, bool last) {
    m_eye->setChecked(shown);
    m_eye->setIcon(eyeIcon(shown));
    setProperty("active", last);
    style()->unpolish(this);
    style()->polish(this);
}

void StageCard::setHeadOnly(bool on) { m_body->setVisible(!on); }

// A thin line along the lower edge while what it says is of before.
void StageCard::paintEvent(QPaintEvent* e) {
    QFrame::paintEvent(e);
    if (!m_old) return;
    QPainter p(this);
    p.fillRect(QRect(10, height() - 3, width() - 20, 2), theme().ochre);
}

} // namespace gyre
