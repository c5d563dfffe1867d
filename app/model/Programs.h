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
        QString name; ///< of one of several; empty where the route is one program
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
    /// Looks at the input files again, writes the programs that the route is divided into, reads them back, compares.
    /// @param despiteStops  the Stops stand at their head
    /// @return the text of the one that is shown
    [[nodiscard]] Result<QString> post(const DialectChoice& dialect, bool despiteStops = false);
    /// The one that is shown of those that were written last, of this job; null when none were.
    [[nodiscard]] const Posted* posted() const { return m_all.empty() ? nullptr : &m_all[m_shown]; }
    [[nodiscard]] const std::vector<Posted>& all() const { return m_all; }
    [[nodiscard]] std::size_t shown() const { return m_shown; }
    void show(std::size_t part);
    /// The number of the one that an operation is in.
    [[nodiscard]] std::optional<std::size_t> partOf(const std::string& operation) const;
    /// All of them read back as the job means them.
    [[nodiscard]] bool agree() const;
    /// The line that brings the tool to where the selected operation's path is looked at; empty while no program was written, or its path is older.
    [[nodiscard]] QString lineHere() const;
    [[nodiscard]] const ReplayReport& replayReport() const { return m_all.empty() ? m_none : m_all[m_shown].report; }
    void reset() { m_all.clear(); }

private:
    std::vector<Posted> m_all;
    std::size_t m_shown = 0;
    ReplayReport m_none;
};

} // namespace gyre
