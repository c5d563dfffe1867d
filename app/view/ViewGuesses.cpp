// What a click in the view would take.
#include "model/Along.h"
#include "model/Holes.h"
#include "model/Picks.h"
#include "model/Planes.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "view/View.h"
#include <algorithm>

namespace gyre {

namespace {
QString placeWords(const Vec3& p) { return QString("%1 %2 %3").arg(p.x(), 0, 'f', 2).arg(p.y(), 0, 'f', 2).arg(p.z(), 0, 'f', 2); }
} // namespace

// What a click would take where faces are picked, the likeliest first.
std::vector<Guess> View::facesAt(const QPointF& pixel) const {
    const Part& part = *m_model.place()->part;
    const FaceHit hit = faceAt(pickedPart(), m_camera, pixel);
    if (hit.face < 0) return {};
    std::vector<Guess> guesses = faceGuesses(part, hit.face);
    if (const QString mend = mendOfFace(hit.face); !mend.isEmpty()) guesses.front().words = tr("face of the mend “%1”").arg(mend);
    // The cutter's side goes along a whole wall unless it is told otherwise.
    if (const auto recipe = m_model.recipe(); recipe && recipe->kind == OperationKind::Swarf && m_model.picks().mode() == PickMode::Faces)
        if (const auto& wall = m_model.along().wallOf(hit.face); wall.size() > 1) guesses.insert(guesses.begin(), {wall, {}, tr("%1 faces, one wall").arg(wall.size())});
    return guesses;
}

std::vector<Guess> View::holesAt(const QPointF& pixel) const {
    const FaceHit hit = faceAt(pickedPart(), m_camera, pixel);
    const auto hole = hit.face >= 0 ? m_model.holes().ofFace(hit.face) : std::nullopt;
    if (!hole) return {};
    const auto& holes = m_model.place()->holes;
    std::vector<Guess> guesses{
        {holes[*hole].faces, {}, tr(m_model.holes().works(*hole) ? "%1 · take it out" : "%1 · take it in").arg(QString::fromStdString(holes[*hole].words()))}};
    for (const HoleGroup& g : m_model.holes().groups())
        if (g.holes.size() > 1 && std::find(g.holes.begin(), g.holes.end(), *hole) != g.holes.end()) {
            Guess all{{}, {}, tr("all %1 of this kind").arg(g.holes.size())};
            for (const std::size_t h : g.holes) all.faces.insert(all.faces.end(), holes[h].faces.begin(), holes[h].faces.end());
            guesses.push_back(all);
        }
    return guesses;
}

// Corners and middles of edges draw the point to themselves.
std::vector<Guess> View::pointsAt(const QPointF& pixel) {
    const auto number = m_model.picks().collected() + 1;
    if (const auto corner = cornerAt(pickedPart(), m_camera, pixel)) {
        m_hoverPoint = *corner;
        return {{{}, {}, tr("point %1 on an edge: %2").arg(number).arg(placeWords(*corner))}};
    }
    const FaceHit hit = faceAt(pickedPart(), m_camera, pixel);
    if (hit.face < 0) return {};
    m_hoverPoint = hit.point;
    return {{{}, {}, tr("point %1 on the face: %2").arg(number).arg(placeWords(hit.point))}};
}

std::vector<Guess> View::edgesAt(const QPointF& pixel) const {
    const int e = edgeAt(pickedPart(), m_camera, pixel);
    if (e < 0) return {};
    const Part& part = *m_model.place()->part;
    const auto recipe = m_model.recipe();
    const bool rail = m_model.picks().mode() == PickMode::Rail1 || m_model.picks().mode() == PickMode::Rail2;
    const auto faces = recipe && rail ? resolveFaces(part, recipe->target->faces).value_or(std::vector<int>{}) : std::vector<int>{};
    std::vector<Guess> guesses = edgeGuesses(part, faces, e);
    if (const QString mend = mendOfLine(e); !mend.isEmpty())
        for (Guess& g : guesses)
            if (g.edges.size() == 1) g.words = tr("curve of the mend “%1”").arg(mend);
    return guesses;
}

// What is measured: an edge where the pointer is on one, else the face under it.
std::vector<Guess> View::thingsAt(const QPointF& pixel) {
    const FaceHit hit = faceAt(pickedPart(), m_camera, pixel);
    std::vector<Guess> guesses;
    constexpr double kOn = 4.0; // pixels
    if (const int edge = edgeAt(pickedPart(), m_camera, pixel, kOn); edge >= 0) guesses.push_back({{}, {edge}, tr("edge %1").arg(edge)});
    if (hit.face >= 0) {
        m_hoverPoint = hit.point;
        guesses.push_back({{hit.face}, {}, tr("face %1").arg(hit.face)});
    }
    return guesses;
}

std::vector<Guess> View::guessesAt(const QPointF& pixel) {
    const auto place = m_model.place();
    if (!place || !place->part) return {};
    const PickMode mode = m_model.picks().mode();
    const PickKind kind = m_model.picks().feature().kind;
    if (mode == PickMode::None) {
        const auto hole = holeAt(pixel);
        if (!hole) return {};
        const Hole h = m_model.holes().all()[*hole];
        const QString words = QString::fromStdString(h.words());
        return {{{}, {}, h.bottom == HoleBottom::Through ? tr("%1 · click to turn it round").arg(words) : words}};
    }
    if (m_atMachine) return {};
    if (mode == PickMode::PlaneFace) {
        const FaceHit hit = faceAt(pickedPart(), m_camera, pixel);
        if (hit.face < 0) return {};
        m_hoverPoint = hit.point;
        const auto plane = planeByFace(*place->part, hit.face, hit.point);
        return plane ? std::vector<Guess>{{{hit.face}, {}, tr("plane here: %1").arg(m_model.planes().reach(*plane))}} : std::vector<Guess>{};
    }
    if (mode == PickMode::Feature && kind == PickKind::Things) return thingsAt(pixel);
    if (picksFaces()) return facesAt(pixel);
    if (mode == PickMode::Feature && kind == PickKind::Holes) return holesAt(pixel);
    if (mode == PickMode::Feature && kind == PickKind::Points) return pointsAt(pixel);
    return edgesAt(pixel);
}

} // namespace gyre
