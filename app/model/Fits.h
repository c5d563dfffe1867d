// The window's model: which assemblies do the work of the operation in hand; worked out away from the window's thread.
#pragma once
#include "model/CardPart.h"
#include "operation/Assemblies.h"

namespace gyre {

class Fits : public CardPart {
    Q_OBJECT
public:
    explicit Fits(AppModel& model);

    /// Of the operation in hand; empty while they are worked out, and where there are none.
    [[nodiscard]] const std::vector<AssemblyFit>& all() const { return m_all; }
    /// Stick-outs are rounded up to this. mm
    [[nodiscard]] double step() const { return m_step; }
    void setStep(double mm);
    /// "reaches all of it · stick-out 44.5 mm · 1.3 × as stiff"
    [[nodiscard]] QString words(const AssemblyFit& fit) const;
    /// The operation takes it, sticking out as told. Where other operations use it with another stick-out, they keep theirs.
    void take(std::size_t fit);

private:
    void start() override;
    void forget() override;
    [[nodiscard]] std::vector<Assembly> tools() const; ///< of the job, and of libraries beside it
    double m_step = 0.5;
    std::vector<AssemblyFit> m_all;
    std::uint64_t m_of = 0; ///< of the result, the tools and the step that they are of
};

} // namespace gyre
