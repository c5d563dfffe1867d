// The tools of the job: the list on the left with a search, and one tool in sentences on the right.
#pragma once
#include "model/AppModel.h"
#include "panels/Sentence.h"

class QLineEdit;
class QVBoxLayout;
class QLabel;
class QPushButton;

namespace gyre {

class ToolList : public QWidget {
    Q_OBJECT
public:
    explicit ToolList(AppModel& model, QWidget* parent = nullptr);

private:
    void addButtons(QVBoxLayout* outer);
    void refresh();
    AppModel& m_model;
    QLineEdit* m_search = nullptr;
    QVBoxLayout* m_list = nullptr;
};

class ToolCards : public QWidget {
    Q_OBJECT
public:
    explicit ToolCards(AppModel& model, QWidget* parent = nullptr);

private:
    void refresh();
    void fillHolder(const Assembly& tool);
    QWidget* materialRow(std::size_t i, const CuttingData& data);
    QWidget* stepRow(std::size_t i, const HolderStep& of);
    void fillSpeeds(const Assembly& tool);
    Word* number(Word::Kind kind, const QString& key, const QString& name, double step);
    void edit(const std::function<void(Assembly&)>& change, const QString& key);
    AppModel& m_model;
    QVBoxLayout *m_cutter = nullptr, *m_holder = nullptr, *m_speeds = nullptr;
    QLabel* m_used = nullptr;
};

} // namespace gyre
