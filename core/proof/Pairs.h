// Pairs of bodies over a joint motion: where they come near, nothing missed between its steps.
#pragma once
#include "base/Progress.h"
#include "machine/Kinematics.h"
#include "motion/Motion.h"

namespace gyre {

struct Assembly;
struct OperationResult;
struct Workplace;

/// A body that moves as one, in the coordinates of its link at joints 0.
struct Mover {
    std::string name, called; ///< called: in findings
    int link = -1;
    std::vector<ConvexBody> pieces;
    const MeshTree* tree = nullptr;      ///< in `meshFrame`
    const TriangleMesh* solid = nullptr; ///< the mesh of its tree, where what lies within it, away from its skin, counts as near
    Frame meshFrame = Frame::Identity();
    double allowance = 0.0; ///< what its mesh is off
    Vec3 centre = Vec3::Zero();
    double radius = 0.0;
    bool tool = false, work = false, cutter = false;

    [[nodiscard]] Box bounds(const Frame& pose) const; ///< where it lies when its link stands so
    void enclose();                                    ///< sets centre and radius
};
/// Bodies of the machine, what stands on its table beside them, and the zones of the tool, which come last.
[[nodiscard]] std::vector<Mover> moversOf(const Workplace& place, const Assembly& tool);

/// Is anything of `a` (at poseA) nearer than `reach` to `b` (at poseB), or within it where that is solid?
[[nodiscard]] bool near(const Mover& a, const Frame& poseA, const Mover& b, const Frame& poseB, double reach);
/// Is anything of it (at `pose`) nearer than `reach` to this body?
[[nodiscard]] bool near(const Mover& a, const Frame& pose, const ConvexBody& body, double reach);

/// Least and greatest joint values of stretches of a motion, halved down to single steps. A stretch has the number of its node: 1 is all of it,
/// 2n and 2n + 1 are the halves of n, and from `leaves()` on each is the way from one step to the next.
class JointBoxes {
public:
    explicit JointBoxes(const JointMotion& motion);
    [[nodiscard]] const double* low(std::size_t n) const { return m_low.data() + n * m_joints; }
    [[nodiscard]] const double* high(std::size_t n) const { return m_high.data() + n * m_joints; }
    [[nodiscard]] std::size_t leaves() const { return m_leaves; }
    /// For every stretch: is one of these ways from a step to the next in it?
    [[nodiscard]] std::vector<char> anyOf(const std::function<bool(std::size_t step)>& is) const;

private:
    std::size_t m_joints, m_steps, m_leaves = 1;
    std::vector<double> m_low, m_high;
};

/// A place of a motion between two steps.
struct NearPlace {
    std::size_t step = 0; ///< that it leads to
    JointValues joints;
    double motion = 0.0; ///< no point of either body is further than this from there while they are near; mm
};

class PairCheck {
public:
    struct Wanted {
        double margin = 0.0, resolution = 0.0;   ///< mm
        const std::vector<char>* only = nullptr; ///< as from JointBoxes::anyOf(): these stretches alone
        std::size_t most = SIZE_MAX;             ///< steps that are told
        bool everyPlace = false;                 ///< all places of a step, not the first alone
    };
    PairCheck(const Machine& machine, const JointMotion& motion, const JointBoxes& boxes, const Mover& a, const Mover& b, const Wanted& wanted);
    [[nodiscard]] bool fixedTogether() const { return m_between.empty(); }
    void run(const Progress* progress);
    [[nodiscard]] const std::vector<NearPlace>& places() const { return m_places; } ///< where they come near, in order
    [[nodiscard]] std::size_t questions() const { return m_questions; }
    [[nodiscard]] const Mover& first() const { return m_a; }
    [[nodiscard]] const Mover& second() const { return m_b; }

private:
    bool suspicious(const JointValues& middle, const double* half, double& motion);
    void node(std::size_t n);
    bool stretch(std::size_t step, const JointValues& from, const JointValues& to, int depth);

    const Machine& m_machine;
    const JointMotion& m_motion;
    const JointBoxes& m_boxes;
    const Mover &m_a, &m_b;
    Wanted m_wanted;
    const Progress* m_progress = nullptr;
    std::vector<int> m_between; ///< joints that change how the bodies stand to each other
    std::vector<NearPlace> m_places;
    std::size_t m_questions = 0;
};

} // namespace gyre
