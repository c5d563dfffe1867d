// The window's model: milling on planes and unrolled cylinders, and the sheet beside the view.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

enum class MillShape;
struct Sheet;

/// What stands beside the view: nothing, the unrolled sheet as well, or the sheet alone.
enum class SheetShown { Wrapped, Both, Flat };

class Milling : public ModelPart {
    Q_OBJECT
public:
    explicit Milling(AppModel& model) : ModelPart(model) {}

    /// A new operation; without a shape it is guessed from what is picked first.
    void add(std::optional<MillShape> shape);
    void addHelicalGroove();
    void moveGroove(int face);           ///< the helix of the selected operation goes around that cylinder
    void turnGroove(int axis);           ///< … or around the largest one along X, Y or Z (0 … 2)
    void setShape(const QString& shape); ///< as in files; tool and steps follow
    /// The first pick decides what kind of work this is, unless that was said; then everything follows from it.
    void fitFirstPick(Recipe& recipe, const std::vector<int>& faces, const std::vector<int>& edges, const Job& job);
    void setStanding(const QString& key, const QString& value); ///< a word that decides from where the tool comes: the skin follows
    /// The helix or sketch that the selected operation follows; its place among the mends.
    [[nodiscard]] std::optional<std::size_t> followedMend() const;
    /// A curve drawn on the sheet: becomes a sketch, and is followed by the selected operation. Along x and y in mm, or degrees around.
    void addCurve(const Sheet& sheet, const std::vector<Vec2>& points, bool closed);

    [[nodiscard]] std::shared_ptr<const Sheet> sheet() const; ///< of the selected operation; null when it has none
    [[nodiscard]] SheetShown sheetShown() const;
    void setSheetShown(SheetShown shown);
    /// Edges under the cursor in one of the views, lit in the other.
    [[nodiscard]] const std::vector<int>& hovered() const { return m_hovered; }
    void setHovered(const std::vector<int>& edges);

signals:
    void sheetChanged();
    void hoveredChanged();

private:
    void standClear(Job& job) const;
    std::optional<SheetShown> m_shown; ///< until chosen: as the operation suggests
    bool m_shapeOpen = false;          ///< the shape of the selected operation is still to be guessed
    std::vector<int> m_hovered;
    mutable std::pair<std::string, std::shared_ptr<const Sheet>> m_sheet; ///< by what it was made of
};

} // namespace gyre
