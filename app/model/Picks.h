// The window's model: what a click in the view is for, and what it gives to the operation, a mend, a plane …
#pragma once
#include "model/ModelPart.h"

namespace gyre {

enum class PickMode { None, Faces, Rail1, Rail2, Guides, Edges, Profile, AxisFaces, AxisEdges, WhereEdges, WhereFaces, Check1, Check2, Check3, PlaneFace, Feature };
/// What a PickMode::Feature asks for, and for what: "mend.3.faces", "plane.points" …
enum class PickKind { Faces, Edges, Points, Holes, Things };
struct FeaturePick {
    PickKind kind = PickKind::Faces;
    QString key, prompt;
};

/// A word of the recipe that holds picked faces or edges.
struct PickWord {
    PickMode mode;
    const char *key, *prompt; ///< of the word; what the view says while it is picked
    bool faces;
    std::vector<ShapeRef>& (*list)(Recipe&);
    [[nodiscard]] const std::vector<ShapeRef>& of(const Recipe& r) const { return list(const_cast<Recipe&>(r)); }
};
/// None for what holds nothing of the recipe.
[[nodiscard]] const PickWord* pickWord(PickMode mode);
[[nodiscard]] const PickWord* pickWord(const QString& key);

class Picks : public ModelPart {
    Q_OBJECT
public:
    explicit Picks(AppModel& model) : ModelPart(model) {}

    [[nodiscard]] PickMode mode() const { return m_mode; }
    void setMode(PickMode mode);

    // For the selected operation.
    /// Adds or removes faces; rails are proposed anew while the user has not picked them.
    void toggleFaces(const std::vector<int>& faces);
    void setRail(int which, const std::vector<int>& edges);
    /// Adds or removes edges of the list that a pick mode is about.
    void toggleEdges(const std::vector<int>& edges, PickMode list = PickMode::Edges);
    /// Faces or rails by their numbers.
    Status setNumbers(const QString& key, const QString& numbers);
    [[nodiscard]] QString numbers(const QString& key) const;

    // For features.
    [[nodiscard]] const FeaturePick& feature() const { return m_feature; }
    void ask(const FeaturePick& pick);
    void give(const std::vector<int>& faces, const std::vector<int>& edges, const Vec3& point);
    /// Two straight edges, or three points: collected while they are picked.
    [[nodiscard]] std::size_t collected() const { return m_points.size() + m_edges.size(); }
    [[nodiscard]] const std::vector<Vec3>& points() const { return m_points; }
    [[nodiscard]] const std::vector<int>& edges() const { return m_edges; }
    void forget(); ///< what was collected

signals:
    void modeChanged();

private:
    void giveToPlane(const std::vector<int>& edges, const Vec3& point);
    PickMode m_mode = PickMode::None;
    FeaturePick m_feature;
    std::vector<Vec3> m_points;
    std::vector<int> m_edges;
};

/// "3 5 7-9" → 3 5 7 8 9, all below `count`.
[[nodiscard]] Result<std::vector<int>> numbersOf(const QString& text, std::size_t count, const char* what);
[[nodiscard]] QString textOf(std::vector<int> numbers);

} // namespace gyre
