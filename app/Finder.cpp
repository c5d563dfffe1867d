#include "Finder.h"
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QRegularExpression>
#include <QVBoxLayout>
#include <algorithm>
#include <numeric>
#include <vector>

namespace gyre {
namespace {

/// How many letters must be changed, added or left out to come from one word to the other.
int lettersApart(const QString& a, const QString& b) {
    std::vector<int> row(static_cast<std::size_t>(b.size()) + 1);
    std::iota(row.begin(), row.end(), 0);
    for (int i = 1; i <= a.size(); ++i) {
        int corner = row[0];
        row[0] = i;
        for (int k = 1; k <= b.size(); ++k) {
            const auto at = static_cast<std::size_t>(k);
            const int changed = corner + (a[i - 1].toLower() == b[k - 1].toLower() ? 0 : 1);
            corner = row[at];
            row[at] = std::min({row[at] + 1, row[at - 1] + 1, changed});
        }
    }
    return row.back();
}

} // namespace

Finder::Finder(std::vector<Entry> entries, QWidget* parent) : QDialog(parent, Qt::Popup), m_entries(std::move(entries)) {
    setObjectName("finder");
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    m_line = new QLineEdit(this);
    m_line->setObjectName("finderLine");
    m_line->setAccessibleName(tr("Find an action or a word"));
    m_line->setPlaceholderText(tr("Find an action or a word of the recipe"));
    m_line->installEventFilter(this);
    m_list = new QListWidget(this);
    m_list->setObjectName("finderList");
    m_list->setFocusPolicy(Qt::NoFocus);
    column->addWidget(m_line);
    column->addWidget(m_list);
    resize(520, 400);
    connect(m_line, &QLineEdit::textChanged, this, &Finder::filter);
    connect(m_line, &QLineEdit::returnPressed, this, &Finder::take);
    connect(m_list, &QListWidget::itemClicked, this, &Finder::take);
    filter({});
    m_line->setFocus();
}

void Finder::add(std::size_t entry) {
    const Entry& e = m_entries[entry];
    QString line = e.text;
    if (!e.where.isEmpty()) line += "  ·  " + e.where;
    if (!e.shortcut.isEmpty()) line += "  ·  " + e.shortcut;
    auto* item = new QListWidgetItem(line, m_list);
    item->setData(Qt::UserRole, static_cast<int>(entry));
}

// By its name first, then by other words, then what is spelled nearly so.
void Finder::filter(const QString& text) {
    m_list->clear();
    const QStringList typed = text.split(' ', Qt::SkipEmptyParts);
    const auto all = [&](const QString& in) { return std::all_of(typed.begin(), typed.end(), [&](const QString& w) { return in.contains(w, Qt::CaseInsensitive); }); };
    std::vector<char> taken(m_entries.size(), 0);
    for (const bool others : {false, true})
        for (std::size_t i = 0; i < m_entries.size(); ++i)
            if (!taken[i] && all(others ? m_entries[i].text + ' ' + m_entries[i].words : m_entries[i].text)) {
                taken[i] = 1;
                add(i);
            }
    if (m_list->count() == 0) {
        static const QRegularExpression between("[\\s:,·]+");
        for (std::size_t i = 0; i < m_entries.size(); ++i) {
            const QStringList known = (m_entries[i].text + ' ' + m_entries[i].words).split(between, Qt::SkipEmptyParts);
            const auto nearly = [&](const QString& w) {
                const int off = w.size() < 4 ? 0 : w.size() < 7 ? 1 : 2;
                return std::any_of(known.begin(), known.end(), [&](const QString& k) { return k.contains(w, Qt::CaseInsensitive) || lettersApart(k, w) <= off; });
            };
            if (std::all_of(typed.begin(), typed.end(), nearly)) add(i);
        }
    }
    if (m_list->count() == 0) {
        auto* none = new QListWidgetItem(tr("Nothing here is called that. Try another word for it."), m_list);
        none->setFlags(Qt::NoItemFlags);
        return;
    }
    m_list->setCurrentRow(0);
}

void Finder::take() {
    auto* item = m_list->currentItem();
    const QVariant which = item ? item->data(Qt::UserRole) : QVariant();
    const std::function<void()> run = which.isValid() ? m_entries[static_cast<std::size_t>(which.toInt())].run : std::function<void()>();
    if (item && !which.isValid()) return;
    close();
    if (run) run();
}

bool Finder::eventFilter(QObject* object, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            m_list->setCurrentRow(std::clamp(m_list->currentRow() + (key == Qt::Key_Down ? 1 : -1), 0, std::max(0, m_list->count() - 1)));
            return true;
        }
    }
    return QDialog::eventFilter(object, event);
}

} // namespace gyre
