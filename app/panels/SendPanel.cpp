#include "panels/SendPanel.h"
#include "base/File.h"
#include "panels/Sentence.h"
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTextBlock>
#include <QVBoxLayout>

namespace gyre {

SendPanel::SendPanel(AppModel& model, QWidget* parent) : QWidget(parent), m_model(model) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(14, 12, 12, 10);
    outer->setSpacing(8);
    auto* heading = new QLabel(tr("NC PROGRAM"), this);
    heading->setProperty("role", "heading");
    outer->addWidget(heading);
    auto* sentence = new Sentence(this);
    auto* dialect = new Word(Word::Kind::Choice, "send.dialect", tr("Kind of program"), this);
    dialect->setOptions({{"tip", tr("tip control (RS-274)")}, {"joints", tr("joint coordinates (RS-274)")}, {"cldata", tr("cutter data (ISO 4343)")}});
    dialect->show("tip", false);
    connect(dialect, &Word::changed, this, [this, dialect, sentence](const QString&, const QString& value) {
        dialect->show(value, false);
        sentence->reflow();
        m_dialect = dialectNamed(value.toStdString()).value_or(Dialect::TipControl);
        outdated();
    });
    sentence->set(tr("Write the route as {}."), {dialect});
    outer->addWidget(sentence);
    auto* row = new QHBoxLayout;
    m_write = new QPushButton(tr("Write and read back"), this);
    m_write->setProperty("role", "primary");
    m_write->setObjectName("postNow");
    m_write->setAccessibleName(tr("Write the program and read it back"));
    connect(m_write, &QPushButton::clicked, this, &SendPanel::write);
    m_store = new QPushButton(tr("Store as…"), this);
    m_store->setObjectName("storeProgram");
    m_store->setEnabled(false);
    connect(m_store, &QPushButton::clicked, this, &SendPanel::store);
    row->addWidget(m_write);
    row->addWidget(m_store);
    row->addStretch();
    outer->addLayout(row);
    m_checks = new QLabel(this);
    m_checks->setWordWrap(true);
    m_checks->setTextFormat(Qt::RichText);
    m_checks->setObjectName("postChecks");
    outer->addWidget(m_checks);
    m_view = new QPlainTextEdit(this);
    m_view->setReadOnly(true);
    m_view->setLineWrapMode(QPlainTextEdit::NoWrap);
    m_view->setObjectName("program");
    m_view->setAccessibleName(tr("Program text"));
    m_view->setPlaceholderText(tr("The program appears here, its line in step with the view."));
    outer->addWidget(m_view, 1);
    connect(m_view, &QPlainTextEdit::cursorPositionChanged, this, [this] {
        if (!m_view->hasFocus() || m_lineOf.empty()) return;
        const int line = m_view->textCursor().blockNumber() + 1;
        const auto it = std::lower_bound(m_lineOf.begin(), m_lineOf.end(), line);
        if (it != m_lineOf.end()) m_model.setLocation(static_cast<std::size_t>(it - m_lineOf.begin()));
    });
    connect(&m_model, &AppModel::locationChanged, this, &SendPanel::followLocation);
    connect(&m_model, &AppModel::jobChanged, this, &SendPanel::outdated);
}

void SendPanel::outdated() {
    if (m_text.isEmpty()) return;
    m_checks->setText(tr("The job has changed since this program was written."));
    m_store->setEnabled(false);
}

void SendPanel::write() {
    auto text = m_model.post(m_dialect);
    if (!text) {
        m_checks->setText(tr("<b>Cannot be written:</b> %1").arg(QString::fromStdString(text.error().text()).toHtmlEscaped()));
        m_store->setEnabled(false);
        return;
    }
    m_text = *text;
    m_view->setPlainText(m_text);
    const ReplayReport& r = m_model.replayReport();
    bool unsafe = false, proven = true;
    for (const Finding& f : m_model.findings()) unsafe = unsafe || f.rank == Rank::Stop;
    for (const Recipe& o : m_model.job().worked()) proven = proven && m_model.proof(QString::fromStdString(o.id));
    QStringList lines;
    lines << (r.agrees() ? tr("✓ %1 moves read back and replayed: same motion within the rounding").arg(r.moves)
                         : tr("<b>✗ The read-back differs:</b> %1").arg(QString::fromStdString(r.differences.front()).toHtmlEscaped()));
    // Programs with tip control carry rotary words instead of directions.
    const double turned = std::max(r.axis, r.rotary);
    lines << tr("· tip within %1 mm, %2 within %3°").arg(r.tip, 0, 'f', 6).arg(r.rotary > r.axis ? tr("rotary axes") : tr("axis")).arg(degrees(turned), 0, 'f', 6);
    lines << (unsafe   ? tr("<b>✗ There are findings of rank Stop: do not run this program</b>")
              : proven ? tr("✓ Proven at the machine, no Stop")
                       : tr("· Not yet proven at the machine"));
    m_checks->setText(lines.join("<br>"));
    m_store->setEnabled(r.agrees());
    m_lineOf.clear();
    // Moves of the shown operation: the n-th motion line that is not in machine coordinates.
    if (m_dialect != Dialect::Joints && m_model.result() && m_model.result()->path()) {
        const std::size_t n = m_model.result()->path()->size();
        const QStringList all = m_text.split('\n');
        bool inside = m_dialect == Dialect::CutterData;
        for (int i = 0; i < all.size() && m_lineOf.size() < n; ++i) {
            if (all[i].contains("G43.4")) {
                inside = true;
                continue;
            }
            if (inside && (m_dialect == Dialect::TipControl || all[i].startsWith("GOTO/"))) m_lineOf.push_back(i + 1);
        }
    }
    followLocation();
}

void SendPanel::followLocation() {
    if (m_lineOf.empty() || m_view->hasFocus()) return;
    const std::size_t i = std::min(m_model.location(), m_lineOf.size() - 1);
    QTextCursor c(m_view->document()->findBlockByNumber(m_lineOf[i] - 1));
    c.select(QTextCursor::LineUnderCursor);
    m_view->setTextCursor(c);
    m_view->centerCursor();
}

void SendPanel::store() {
    const QString name = QFileInfo(m_model.file()).absolutePath() + "/" + QString::fromStdString(m_model.job().name).toLower().replace(' ', '-') +
                         (m_dialect == Dialect::CutterData ? ".cl" : ".nc");
    const QString file = QFileDialog::getSaveFileName(this, tr("Store the program"), name);
    if (file.isEmpty()) return;
    if (auto ok = writeFileAtomic(file.toStdString(), m_text.toStdString()); !ok)
        emit m_model.toldUser(QString::fromStdString(ok.error().text()));
    else
        emit m_model.toldUser(tr("Stored %1").arg(file));
}

} // namespace gyre
