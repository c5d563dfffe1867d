// The window's model: NC programs with what stands against running them.
#pragma once
#include "model/ModelPart.h"
#include "session/Sending.h"

namespace gyre {

class Programs : public ModelPart {
    Q_OBJECT
public:
    explicit Programs(AppModel& model) : ModelPart(model) {}

    /// A program as it was when it was written.
    struct Posted {
        WrittenProgram program;
        ReplayReport report;
        std::vector<std::string> operations; ///< ids, as the acts count them
        std::vector<Finding> stops;
        DialectChoice dialect;
        bool proven = false;                      ///< every operation, exactly as it was posted
        std::vector<std::uint64_t> keys;          ///< of the operations' paths, in that order
        std::vector<std::size_t> lineStarts{};    ///< in the text
        std::shared_ptr<const Machine> machine{}; ///< as the dialect speaks to it
        ProgramWords words{};
        /// The act that brings the tool to a location; null where the program does not know the operation.
        [[nodiscard]] const Act* actAt(const std::string& operation, std::size_t location) const;
        [[nodiscard]] QString lineText(int line) const; ///< counted from 1
        /// Every word of a line with what it tells the control; nothing of cutter data, which says it itself.
        [[nodiscard]] std::vector<std::pair<QString, QString>> meanings(const QString& line) const;
    };
    /// Looks at the input files again, writes the program, reads it back, compares.
    /// @param despiteStops  the Stops stand at its head
    [[nodiscard]] Result<QString> post(const DialectChoice& dialect, bool despiteStops = false);
    [[nodiscard]] const Posted* posted() const { return m_posted.get(); } ///< the last one, of this job
    /// The line that brings the tool to where the selected operation's path is looked at; empty while no program was written, or its path is older.
    [[nodiscard]] QString lineHere() const;
    [[nodiscard]] const ReplayReport& replayReport() const { return m_posted ? m_posted->report : m_none; }
    void reset() { m_posted.reset(); }

private:
    std::unique_ptr<Posted> m_posted;
    ReplayReport m_none;
};

} // namespace gyre
