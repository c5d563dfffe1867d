#include "Guide.h"
#include <QFile>
#include <QHBoxLayout>
#include <QListWidget>
#include <QTextBrowser>

// Resources of a static library are taken in by name.
static void takeInTheGuide() { Q_INIT_RESOURCE(guide); }

namespace gyre {

Guide::Guide(const QString& page, QWidget* parent) : QDialog(parent) {
    takeInTheGuide();
    setObjectName("guide");
    setWindowTitle(tr("Guide"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 12, 12, 12);
    m_pages = new QListWidget(this);
    m_pages->setObjectName("guidePages");
    m_pages->setAccessibleName(tr("Pages of the guide"));
    m_pages->setFixedWidth(210);
    const std::pair<const char*, QString> pages[] = {{"set-up.md", tr("Setting up")},
                                                     {"rows.md", tr("Rows over faces")},
                                                     {"along.md", tr("Walls, curves, edges, the axis")},
                                                     {"in-the-way.md", tr("When something is in the way")},
                                                     {"milling.md", tr("Planes, wrapped, roughing")},
                                                     {"holes.md", tr("Holes")},
                                                     {"proving.md", tr("Prove, and the stock as it is cut")},
                                                     {"sending.md", tr("Programs and the set-up sheet")},
                                                     {"slices.md", tr("Thin parts, slice by slice")},
                                                     {"variants.md", tr("Several ways, side by side")},
                                                     {"by-hand.md", tr("A job written by hand")}};
    for (const auto& [file, title] : pages) {
        auto* item = new QListWidgetItem(title, m_pages);
        item->setData(Qt::UserRole, QString(file));
    }
    m_text = new QTextBrowser(this);
    m_text->setObjectName("guideText");
    m_text->setAccessibleName(tr("The guide"));
    m_text->setOpenExternalLinks(false);
    m_text->setOpenLinks(false);
    row->addWidget(m_pages);
    row->addWidget(m_text, 1);
    resize(920, 640);
    connect(m_pages, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        QFile file(":/guide/" + item->data(Qt::UserRole).toString());
        if (file.open(QIODevice::ReadOnly)) m_text->setMarkdown(QString::fromUtf8(file.readAll()));
    });
    turnTo(page);
}

void Guide::turnTo(const QString& page) {
    for (int i = 0; i < m_pages->count(); ++i)
        if (m_pages->item(i)->data(Qt::UserRole) == page) m_pages->setCurrentRow(i);
    if (!m_pages->currentItem()) m_pages->setCurrentRow(0);
}

} // namespace gyre
