// Rows as they would be laid with another choice: drawn while its option lies under the pointer, before it is taken.
#pragma once
#include "model/Apart.h"
#include "pattern/Pattern.h"
#include <QString>
#include <optional>

namespace gyre {

class AppModel;

class RowsAhead : public QObject {
    Q_OBJECT
public:
    explicit RowsAhead(AppModel& model) : m_model(model) {}
    /// With one word of the pattern as it would be. Only rows over faces are laid ahead.
    void ask(const QString& key, const QString& value);
    void drop();
    /// Null until it is there, and where there would be none.
    [[nodiscard]] const std::shared_ptr<const PatternResult>& rows() const { return m_rows; }
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_next; }

signals:
    void changed();

private:
    void start();
    AppModel& m_model;
    std::shared_ptr<const PatternResult> m_rows;
    std::optional<std::pair<QString, QString>> m_next; ///< asked while another one is made
    bool m_wanted = false;
    Apart m_apart;
};

} // namespace gyre
