// The closer look in the 3D view: what stands after the cuts, coloured by how far it is off the part.
#include "Theme.h"
#include "model/Closer.h"
#include "operation/OperationResult.h"
#include "view/View.h"
#include <algorithm>
#include <cmath>

namespace gyre {

// Colours: the part's own where it stands as modelled, the stock's where something is left, that of keys beside an edge that is broken on
// purpose, and the unsafe one where anything else is gone.
void View::uploadCloser() {
    m_closerOld = false;
    m_closer.clear();
    const auto look = m_model.closer().picture();
    if (!look) return;
    const Theme& t = theme();
    const double fine = std::max(0.01, 0.5 * look->cell);
    const auto bandOf = [&](std::uint32_t p) {
        const double off = look->off[p];
        return std::abs(off) <= fine ? 0 : off > 0.0 ? (off > 0.1 ? 2 : 1) : look->meant[p] ? 3 : 4;
    };
    const std::array<QColor, 5> colours{t.clay, mixed(t.clay, t.oat, 0.6), t.oat, mixed(t.clay, t.ochre, 0.75), t.unsafe};
    std::array<TriangleMesh, 5> bands;
    for (TriangleMesh& b : bands) {
        b.points = look->skin.points;
        b.normals = look->skin.normals;
    }
    for (const auto& tr : look->skin.triangles) {
        const auto worst = *std::max_element(tr.begin(), tr.end(), [&](auto a, auto b) { return std::abs(look->off[a]) < std::abs(look->off[b]); });
        TriangleMesh& b = bands[static_cast<std::size_t>(bandOf(worst))];
        b.triangles.push_back(tr);
        b.faces.push_back(0);
    }
    for (std::size_t i = 0; i < bands.size(); ++i)
        if (!bands[i].triangles.empty()) m_closer.push_back({std::make_shared<Renderer::Mesh>(bands[i]), colours[i]});
    if (!m_closerFramed) frameCloser();
}

// From the side that the tool touches, a little aside.
void View::frameCloser() {
    const auto r = m_model.result();
    if (!r || !r->path() || r->path()->empty()) return;
    m_cameraBefore = m_camera;
    m_closerFramed = true;
    const std::size_t i = std::min(m_model.location(), r->path()->size() - 1);
    const Vec3 from = (r->path()->normal[i].squaredNorm() > 0.5 ? r->path()->normal[i] : r->path()->axis[i]).normalized();
    m_camera.look(degrees(std::atan2(from.y(), from.x())) - 25.0, std::clamp(degrees(std::asin(std::clamp(from.z(), -1.0, 1.0))) + 10.0, -80.0, 80.0));
    m_camera.frame(m_model.closer().picture()->box);
}

QString View::closerWords() const {
    if (!m_model.closer().from()) return {};
    const auto look = m_model.closer().picture();
    if (!look) return m_model.closer().trouble().isEmpty() ? tr("Looking closely …") : m_model.closer().trouble();
    QStringList words{tr("%1 mm across, to %2 mm").arg(look->box.high.x() - look->box.low.x(), 0, 'f', 0).arg(look->cell, 0, 'f', 3)};
    const double gone = -look->least;
    if (look->broken > 0.5 * look->cell) words << tr("edges broken, up to %1 mm gone").arg(look->broken, 0, 'f', 2);
    if (gone > 0.5 * look->cell)
        words << tr("▲ up to %1 mm gone").arg(gone, 0, 'f', 2);
    else
        words << (words.size() > 1 ? tr("nothing else gone") : tr("nothing gone"));
    if (m_model.closer().from() == LookFrom::Stock) words << (look->most > 0.5 * look->cell ? tr("up to %1 mm left").arg(look->most, 0, 'f', 2) : tr("nothing left"));
    return words.join("   ·   ");
}

} // namespace gyre
