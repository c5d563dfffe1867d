// What every part of the window's model knows of the open job.
#pragma once
#include "model/AppModel.h"
#include "operation/Workplace.h"

namespace gyre {

class ModelPart : public QObject {
protected:
    explicit ModelPart(AppModel& model) : m_model(model) {}

    [[nodiscard]] bool hasJob() const { return m_model.hasJob(); }
    [[nodiscard]] const Job& job() const { return m_model.job(); }
    [[nodiscard]] const Recipe* recipe() const { return m_model.recipe(); }
    [[nodiscard]] const std::shared_ptr<const Workplace>& place() const { return m_model.place(); }
    [[nodiscard]] bool hasPart() const { return hasJob() && place() && place()->part; }
    [[nodiscard]] std::string selected() const { return m_model.selected().toStdString(); }
    /// What is cut up to and with the operation in hand, in the order of the route, as far as it is known.
    [[nodiscard]] std::vector<std::shared_ptr<const OperationResult>> doneSoFar() const {
        std::vector<std::shared_ptr<const OperationResult>> done;
        for (const Recipe& r : job().worked()) {
            if (const auto known = m_model.result(QString::fromStdString(r.id))) done.push_back(known);
            if (r.id == selected()) break;
        }
        return done;
    }
    void change(const QString& label, const std::function<void(Job&)>& edit, const QString& mergeKey = {}) { m_model.change(label, edit, mergeKey); }
    void tell(const QString& message) const { emit m_model.toldUser(message); }
    void tell(const Error& error) const { tell(QString::fromStdString(error.text())); }

    AppModel& m_model;
};

} // namespace gyre
