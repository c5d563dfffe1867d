#include "model/FlankShow.h"
#include "model/Picks.h"
#include "target/Target.h"

namespace gyre {

double FlankShow::radius() const {
    const Assembly* tool = recipe() ? job().tool(recipe()->tool) : !hasJob() || job().tools.empty() ? nullptr : &job().tools.front();
    return tool ? 0.5 * tool->cutter.diameter : 3.0;
}

void FlankShow::ask(int face) {
    m_answer.reset();
    m_face = -1;
    m_what.clear();
    if (face >= 0 && place() && place()->part) {
        auto answer = flankOf(*place()->part, face, radius());
        if (answer) {
            m_answer = std::move(*answer);
            m_face = face;
            m_what = tr("Face %1").arg(face);
        } else {
            tell(answer.error());
        }
    }
    emit m_model.featuresChanged();
}

void FlankShow::askBetween(const std::vector<int>& lower, const std::vector<int>& upper) {
    ask(-1);
    if (!place() || !place()->part) return;
    const Part& part = *place()->part;
    const auto line = [&](const std::vector<int>& edges) -> Result<Polyline> {
        const auto chain = chainOf(part, edges);
        if (!chain) return tl::unexpected(chain.error());
        return chainLine(part, *chain);
    };
    const auto a = line(lower), b = line(upper);
    const auto answer = !a ? tl::unexpected(a.error()) : !b ? tl::unexpected(b.error()) : flankBetween(*a, alignedWith(*a, *b), radius());
    if (!answer) return tell(answer.error());
    m_answer = *answer;
    const auto words = [](const std::vector<int>& edges) { return (edges.size() == 1 ? tr("edge %1") : tr("edges %1")).arg(textOf(edges)); };
    m_what = tr("The surface from %1 to %2").arg(words(lower), words(upper));
    emit m_model.featuresChanged();
}

void FlankShow::askAgain() {
    if (m_face < 0 && m_answer) return ask(-1); // between edges of what was before
    if (m_face >= 0) ask(place() && place()->part && m_face < static_cast<int>(place()->part->faces().size()) ? m_face : -1);
}

void FlankShow::reset() {
    m_answer.reset();
    m_what.clear();
    m_face = -1;
}

} // namespace gyre
