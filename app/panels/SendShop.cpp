// The Send bench: a program that a hand has changed, shown with what is changed and what is not safe.
#include "Ask.h"
#include "Theme.h"
#include "model/ShopProgram.h"
#include "panels/SendPanel.h"
#include "session/Sending.h"
#include <QFileInfo>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTextBlock>

namespace gyre {

QPushButton* SendPanel::shopButton() {
    auto* prove = new QPushButton(tr("Prove a changed program…"), this);
    prove->setObjectName("proveEdited");
    prove->setToolTip(tr("A program that came back from the shop: what a hand has changed in it, and whether it is still safe"));
    connect(prove, &QPushButton::clicked, this, [this] {
        const QString file = askToOpen(this, tr("A program of this job"), QFileInfo(m_open.file()).absolutePath(), tr("All files (*)"));
        if (!file.isEmpty()) m_shop.open(file);
    });
    connect(&m_shop, &ShopProgram::changed, this, &SendPanel::showShop);
    connect(m_checks, &QLabel::linkActivated, this, [this](const QString& link) {
        const auto& proven = m_shop.proven();
        const auto at = link.toULongLong();
        if (!proven || at >= proven->told.size()) return;
        const EditedProgram::Told& told = proven->told[at];
        m_view->setTextCursor(QTextCursor(m_view->document()->findBlockByNumber(std::max(0, told.line - 1))));
        m_view->centerCursor();
        m_shop.show(told);
    });
    return prove;
}

void SendPanel::showShop() {
    if (!m_shop.isOpen()) {
        m_view->setExtraSelections({});
        m_view->clear();
        m_checks->clear();
        m_text.clear();
        return;
    }
    m_waits = false;
    m_store->setEnabled(false);
    if (m_text != m_shop.text()) {
        m_text = m_shop.text();
        m_view->setPlainText(m_text);
    }
    const QString name = QFileInfo(m_shop.file()).fileName().toHtmlEscaped();
    const auto& proven = m_shop.proven();
    if (!proven) {
        m_view->setExtraSelections({});
        m_checks->setText(QString("<b>%1</b><br>%2").arg(name, m_shop.trouble().toHtmlEscaped()));
        return;
    }
    QStringList lines;
    lines << QString("<b>%1</b>: %2")
                 .arg(name, proven->tooMany               ? tr("another program than the job's")
                            : proven->changes.empty()     ? tr("as the job has it")
                            : proven->changes.size() == 1 ? tr("one line is changed")
                                                          : tr("%1 lines are changed").arg(proven->changes.size()));
    lines << (proven->safe() ? tr("✓ %1 moves proven at the machine and against the stock, no Stop").arg(proven->moves)
                             : tr("<b>✗ Not safe: do not run this program</b>"));
    constexpr std::size_t kMost = 5;
    for (std::size_t i = 0; i < std::min(kMost, proven->told.size()); ++i) {
        const EditedProgram::Told& t = proven->told[i];
        const QString text = QString::fromStdString(named(m_open.job(), t.finding)).toHtmlEscaped();
        lines << QString("· %1 · <a href=\"%2\" style=\"color:%3\">%4</a>: %5")
                     .arg(rankName(t.finding.rank))
                     .arg(i)
                     .arg(theme().accent.name(), t.line > 0 ? tr("line %1").arg(t.line) : tr("all of it"), text);
    }
    if (proven->told.size() > kMost) lines << tr("· and %1 more").arg(proven->told.size() - kMost);
    if (proven->notChecked > 0) lines << tr("<b>· %1 lines are the shop's own: what they do is not checked</b>").arg(proven->notChecked);
    m_checks->setText(lines.join("<br>"));
    markShop();
}

// Lines that were changed, and over them lines where something is not safe.
void SendPanel::markShop() {
    QList<QTextEdit::ExtraSelection> marks;
    const auto mark = [&](int line, const QColor& colour) {
        QTextEdit::ExtraSelection m;
        m.cursor = QTextCursor(m_view->document()->findBlockByNumber(std::max(0, line - 1)));
        m.format.setBackground(colour);
        m.format.setProperty(QTextFormat::FullWidthSelection, true);
        marks << m;
    };
    for (const LineChange& c : m_shop.proven()->changes) mark(c.line, theme().accentSoft);
    for (const EditedProgram::Told& t : m_shop.proven()->told)
        if (t.finding.rank == Rank::Stop && t.line > 0) mark(t.line, theme().unsafeSoft);
    m_view->setExtraSelections(marks);
    if (marks.isEmpty()) return;
    m_view->setTextCursor(marks.back().cursor);
    m_view->centerCursor();
}

// What the job has in place of the line in hand, and what was found there.
void SendPanel::showShopWhy() {
    QStringList said;
    const auto& proven = m_shop.proven();
    const int line = m_view->textCursor().blockNumber() + 1;
    if (proven) {
        for (const LineChange& c : proven->changes) {
            if (c.line != line) continue;
            said << (c.was.empty()  ? tr("put in by hand")
                     : c.is.empty() ? tr("taken out before it: <b>%1</b>").arg(QString::fromStdString(c.was).toHtmlEscaped())
                                    : tr("the job has <b>%1</b> here").arg(QString::fromStdString(c.was).toHtmlEscaped()));
        }
        for (const EditedProgram::Told& t : proven->told)
            if (t.line == line) said << QString("%1: %2").arg(rankName(t.finding.rank), QString::fromStdString(t.finding.text).toHtmlEscaped());
    }
    m_why->setText(said.join(" · "));
}

} // namespace gyre
