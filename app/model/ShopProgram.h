// The window's model: a program that came back from the shop, proven away from the window's thread.
#pragma once
#include "model/Apart.h"
#include "model/ModelPart.h"
#include "session/EditedProgram.h"

namespace gyre {

class ShopProgram : public ModelPart {
    Q_OBJECT
public:
    explicit ShopProgram(AppModel& model);

    /// Proven as soon as the job's paths are there.
    void open(const QString& file);
    void close();
    [[nodiscard]] bool isOpen() const { return !m_file.isEmpty(); }
    [[nodiscard]] const QString& file() const { return m_file; }
    [[nodiscard]] const QString& text() const { return m_text; }
    /// Nothing while it is worked out, and where it cannot be.
    [[nodiscard]] const std::optional<EditedProgram>& proven() const { return m_proven; }
    [[nodiscard]] const QString& trouble() const { return m_trouble; }
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_waits; }
    /// Shows where on the job's path something that was told lies.
    void show(const EditedProgram::Told& told);

signals:
    void changed();

private:
    void start();
    QString m_file, m_text, m_trouble;
    QString m_job; ///< the file of the job that was open then
    std::optional<EditedProgram> m_proven;
    bool m_waits = false; ///< for the paths, or for what runs to end
    Apart m_apart;
};

} // namespace gyre
