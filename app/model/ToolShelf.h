// The window's model: the tools of the job, the one that is shown, the tools' own bench.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

class ToolShelf : public ModelPart {
    Q_OBJECT
public:
    explicit ToolShelf(AppModel& model) : ModelPart(model) {}

    [[nodiscard]] bool isOpen() const { return m_open && m_model.bench() == Bench::SetUp; } ///< the Set up bench shows its tools
    void setOpen(bool open);
    [[nodiscard]] QString shownId() const { return m_shown; }
    void show(const QString& id);
    [[nodiscard]] const Assembly* shown() const { return hasJob() ? job().tool(m_shown.toStdString()) : nullptr; }
    /// Changes a tool; one that cannot exist is refused with its reason.
    Status changeTool(const QString& id, const std::function<void(Assembly&)>& edit, const QString& mergeKey = {});
    void add(CutterShape shape); ///< 6 mm across, in the holder of the tool that is shown
    void duplicate(const QString& id);
    Status remove(const QString& id);
    [[nodiscard]] QStringList operationsWith(const QString& tool) const;
    Status importFrom(const QString& file);
    Status exportTo(const QString& file) const;
    /// Another job is open: its first tool is shown.
    void reset();

signals:
    void shownChanged();

private:
    QString m_shown;
    bool m_open = false;
};

} // namespace gyre
