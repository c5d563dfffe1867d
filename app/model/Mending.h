// The window's model: construction on the part.
#pragma once
#include "model/ModelPart.h"

namespace gyre {

class Mending : public ModelPart {
    Q_OBJECT
public:
    explicit Mending(AppModel& model) : ModelPart(model) {}

    void add(MendKind kind);
    /// The row under the playhead becomes a curve on the part, which stays whatever becomes of the operation.
    void keepRow();
    void remove(std::size_t mend);
    void setNumber(std::size_t mend, const QString& key, double value);
    void addPoint(std::size_t mend, const Vec3& point);
    void setCurve(std::size_t mend, const QString& which, const QString& curve);
    /// Picks by their numbers, as words: "3 5 7-9".
    Status setPicks(std::size_t mend, const QString& which, const QString& numbers);
    Status setPoints(std::size_t mend, const QString& text);
    /// What was picked in the view for one of its lists; what is there already goes.
    void give(std::size_t mend, const QString& which, const std::vector<int>& faces, const std::vector<int>& edges, const Vec3& point);
    [[nodiscard]] QString trouble(std::size_t mend) const;
    [[nodiscard]] QString facts(std::size_t mend) const;
    /// Curves a mend may start from: those above it, and drawings.
    [[nodiscard]] QStringList curvesFor(std::size_t mend) const;
    [[nodiscard]] int lit() const { return m_lit; }
    void light(int mend);
    [[nodiscard]] std::vector<int> litFaces() const; ///< picked for the lit mend
    [[nodiscard]] std::vector<int> litEdges() const; ///< … with those that are being collected

private:
    [[nodiscard]] QString curveOfLine(std::size_t mend, int line) const;
    int m_lit = -1;
};

} // namespace gyre
