// The window's model: the part's holes, their groups, and work in them.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

class Holes : public ModelPart {
    Q_OBJECT
public:
    explicit Holes(AppModel& model) : ModelPart(model) {}

    [[nodiscard]] std::vector<Hole> all() const; ///< as the user wants them: turned round where asked
    [[nodiscard]] std::vector<HoleGroup> groups() const;
    [[nodiscard]] bool leftOut(std::size_t hole) const;
    void leaveOut(const HoleGroup& group, bool out);
    void turn(const HoleGroup& group);
    void turnOne(std::size_t hole);
    /// Operations on holes: for the lit group, or one for each group when none is lit; each with the steps that suit it.
    void addWork();
    void addStep(const QString& parent, Cycle cycle);
    /// The holes that an operation works on: a group by its words, or all.
    void set(const QString& operation, const QString& groupWords);
    void pick();                                ///< of the selected operation, one by one
    void toggle(const std::vector<int>& faces); ///< those that the faces belong to
    /// The hole that a face belongs to.
    [[nodiscard]] std::optional<std::size_t> ofFace(int face) const;
    [[nodiscard]] bool works(std::size_t hole) const; ///< does the selected operation work on it?
    [[nodiscard]] int litGroup() const { return m_lit; }
    void lightGroup(int group);
    void reset() { m_lit = -1; }

private:
    int m_lit = -1;
};

} // namespace gyre
