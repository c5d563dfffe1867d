// The window's model: what another file of the part, or a change of its own, makes of what the job names.
#pragma once
#include "model/ModelPart.h"
#include "session/UseAgain.h"

namespace gyre {

class Revision : public ModelPart {
    Q_OBJECT
public:
    explicit Revision(AppModel& model);

    /// Is there anything to tell: something that the job names lies elsewhere, is new, or gone?
    [[nodiscard]] bool told() const { return m_told.has_value(); }
    [[nodiscard]] QString summary() const;
    /// Each with its operation, mend or plane.
    [[nodiscard]] QStringList lines() const;
    /// Is there anything that the job can follow?
    [[nodiscard]] bool canFollow() const;
    /// The job names what was found.
    void follow();
    void putAway();
    enum class Lit { Nothing, Changed, New };
    void light(Lit what);
    [[nodiscard]] Lit lit() const { return m_lit; }
    [[nodiscard]] std::vector<int> litFaces() const;
    [[nodiscard]] std::size_t count(Lit what) const;

signals:
    void changed();

private:
    void look();
    [[nodiscard]] std::uint64_t source() const;
    [[nodiscard]] UsedAgain again() const;
    [[nodiscard]] QString nameOf(const Followed& f) const;
    /// As the picture had it.
    struct Seen {
        std::shared_ptr<const Part> part;
        std::vector<Hole> holes;
        std::uint64_t source = 0;
    };
    Seen m_now, m_was;
    std::optional<UsedAgain> m_told;
    Lit m_lit = Lit::Nothing;
};

} // namespace gyre
