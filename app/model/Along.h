// The window's model: work along walls, curves and edges, and what their axis goes by.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

enum class BreakEdges;
struct AxisKey;

class Along : public ModelPart {
    Q_OBJECT
public:
    explicit Along(AppModel& model) : ModelPart(model) {}

    void add(OperationKind kind);
    void add(OperationKind kind, BreakEdges edges);
    void setWord(const QString& key, const QString& value); ///< a word that changes what the work is: tool and steps follow

    void addKey(double at);
    void setKey(std::size_t key, const AxisKey& to); ///< changes while it is dragged are one step to undo
    void removeKey(std::size_t key);
    /// Where a cutting location lies on its row, as axis keys count it: in the pattern's direction.
    struct OnRow {
        double fraction = 0.0, level = 0.0;
        int row = -1;
    };
    [[nodiscard]] std::optional<OnRow> onRow(std::size_t location) const;
    /// The axis key that the present location stands on.
    [[nodiscard]] std::optional<std::size_t> keyHere() const;

    /// Lines that hold both rails of a wall together: drawn by two clicks each.
    void drawSyncLines();
    void addSyncLine(const Vec3& low, const Vec3& high);
    [[nodiscard]] std::vector<Polyline> syncLines() const;

    /// The lines that the axis goes by, each from its foot to its head, as they count.
    struct AxisLine {
        Vec3 foot, head;
    };
    [[nodiscard]] const std::vector<AxisLine>& axisLines() const;
    void turnAxisLine(std::size_t line); ///< it points the other way
    /// Straight lines that the axis goes along: drawn by two clicks each; they are a mend.
    void drawAxisLines();
    void addAxisMiddle(const QString& word);                     ///< a raised middle of both rails for the axis to go by; the word that names the curve
    [[nodiscard]] std::optional<std::size_t> axisMiddle() const; ///< the one that the axis goes by; its place among the mends

    /// The wall that a face belongs to; remembered for the face under the cursor.
    [[nodiscard]] const std::vector<int>& wallOf(int face) const;

private:
    mutable std::pair<int, std::pair<std::vector<int>, std::uint64_t>> m_wallOf{-1, {}};
    mutable std::pair<std::shared_ptr<const OperationResult>, std::vector<AxisLine>> m_axisLines; ///< of that result
};

} // namespace gyre
