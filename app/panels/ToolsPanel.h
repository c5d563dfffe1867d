// The tools of the job: the list on the left with a search, and one tool in sentences on the right.
#pragma once
#include "model/OpenJob.h"
#include "panels/Sentence.h"

class QLineEdit;
class QVBoxLayout;
class QLabel;
class QPushButton;

namespace gyre {

class ToolShelf;
class ToolList : public QWidget {
    Q_OBJECT
public:
    ToolList(OpenJob& open, ToolShelf& tools, QWidget* parent = nullptr);

private:
    void addButtons(QVBoxLayout* outer);
    void refresh();
    OpenJob& m_open;
    ToolShelf& m_tools;
    QLineEdit* m_search = nullptr;
    QVBoxLayout* m_list = nullptr;
};

class ToolCards : public QWidget {
    Q_OBJECT
public:
    ToolCards(OpenJob& open, ToolShelf& tools, QWidget* parent = nullptr);

private:
    void refresh();
    void fillHolder(const Assembly& tool);
    QWidget* materialRow(std::size_t i, const CuttingData& data);
    QWidget* stepRow(std::size_t i, const HolderStep& of);
    void fillSpeeds(const Assembly& tool);
    Word* number(Word::Kind kind, const QString& key, const QString& name, double step);
    void edit(const std::function<void(Assembly&)>& change, const QString& key);
    OpenJob& m_open;
    ToolShelf& m_tools;
    QVBoxLayout *m_cutter = nullptr, *m_holder = nullptr, *m_speeds = nullptr;
    QLabel* m_used = nullptr;
};

} // namespace gyre
