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
        bool proven = false;                   ///< every operation, exactly as it was posted
        std::vector<std::uint64_t> keys;       ///< of the operations' paths, in that order
        std::vector<std::size_t> lineStarts{}; ///< in the text
        /// The act that brings the tool to a location; null where the program does not know the operation.
        [[nodiscard]] const Act* actAt(const std::string& operation, std::size_t location) const;
        [[nodiscard]] QString lineText(int line) const; ///< counted from 1
    };
    /// Looks at the input files again, writes the program, reads it back, compares.
    /// @param despiteStops  the Stops stand at its head
    [[nodiscard]] Result<QString> post(Dialect dialect, bool despiteStops = false);
    [[nodiscard]] const Posted* posted() const { return m_posted.get(); } ///< the last one, of this job
    /// The line that brings the tool to where the selected operation's path is looked at; empty while no program was written, or its path is older.
    [[nodiscard]] QString lineHere() const;
    [[nodiscard]] const ReplayReport& replayReport() const { return m_posted ? m_posted->report : m_none; }
    /// May a program be written over this file?
    [[nodiscard]] Status mayStore(const QString& file) const;
    /// Every operation that makes a path is computed and proven as the job stands now.
    [[nodiscard]] bool allProven() const;
    void reset() { m_posted.reset(); }

private:
    std::unique_ptr<Posted> m_posted;
    ReplayReport m_none;
};

} // namespace gyre
