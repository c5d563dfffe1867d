#include "model/SkyShow.h"
#include "Units.h"
#include "axis/AxisSpec.h"
#include "base/Units.h"
#include "model/Along.h"
#include "model/AppModel.h"
#include "model/PatternRow.h"
#include "operation/Free.h"
#include "operation/Leans.h"
#include "operation/OperationResult.h"
#include "pattern/Pattern.h"

namespace gyre {
namespace {

constexpr double kSmallCell = 4.0, kLargeCell = 2.5; // degrees

// The axes of the row that the location lies on, as they would stand here: lead and tilt against the own surface, drawn on this one's.
std::vector<Vec3> rowFromHere(const OperationResult& result, const Leans& leans, const SkyMap& map, std::size_t location) {
    const Toolpath& path = *result.path();
    const auto own = [&](std::size_t i) { return path.motion[i] == Motion::Cut && path.row[i] == path.row[location]; };
    std::size_t first = location, last = location;
    while (first > 0 && own(first - 1)) --first;
    while (last + 1 < path.size() && own(last + 1)) ++last;
    std::vector<Vec3> out;
    const std::size_t step = std::max<std::size_t>(1, (last - first) / 200);
    for (std::size_t i = first; i <= last; i += step)
        if (const auto feed = leans.feed(i)) {
            const LeadTilt lean = leadTiltOf(path.axis[i], path.normal[i], *feed);
            out.push_back(axisFromLeadTilt(map.normal, map.feed, lean.lead, lean.tilt));
        }
    return out;
}

// What the axis' rule said, at the point of the row that lies nearest.
std::optional<Vec3> wishAt(const OperationResult& result, std::size_t location) {
    if (!result.axis || !result.pattern || !result.guard || result.guard->leaned == 0) return std::nullopt;
    const Toolpath& path = *result.path();
    double least = 4.0; // mm²: a copy elsewhere has rows of the same number
    std::optional<Vec3> wish;
    for (std::size_t r = 0; r < std::min(result.pattern->rows.size(), result.axis->axes.size()); ++r) {
        const Row& row = result.pattern->rows[r];
        if (row.index != patternRow(*result.links, location) || result.axis->axes[r].size() != row.points.size()) continue;
        for (std::size_t i = 0; i < row.points.size(); ++i)
            if (const double d = (row.points[i] - path.contact[location]).squaredNorm(); d < least) {
                least = d;
                wish = result.axis->axes[r][i];
            }
    }
    return wish;
}

} // namespace

SkyShow::SkyShow(AppModel& model) : m_model(model) {
    for (const auto signal :
         {&AppModel::locationChanged, &AppModel::benchChanged, &AppModel::selectionChanged, &AppModel::resultChanged, &AppModel::placeChanged, &AppModel::jobChanged})
        connect(&model, signal, this, &SkyShow::ask);
}

bool SkyShow::possible() const {
    const Recipe* r = m_model.recipe();
    return m_model.bench() == Bench::Cut && r && axisIsFree(*r);
}

void SkyShow::cycle() { show(m_size == SkySize::Off ? SkySize::Small : m_size == SkySize::Small ? SkySize::Large : SkySize::Off); }

void SkyShow::show(SkySize size) {
    if (size == m_size) return;
    m_size = size;
    emit changed();
    ask();
}

void SkyShow::ask() {
    if (m_apart.busy()) {
        m_again = true;
        return;
    }
    start();
}

void SkyShow::start() {
    m_again = false;
    const auto result = m_model.result();
    if (m_size == SkySize::Off || !possible() || !result || !result->path() || !m_model.place()) {
        if (m_picture) {
            m_picture.reset();
            point({});
            emit changed();
        }
        return;
    }
    auto made = std::make_shared<std::shared_ptr<Picture>>();
    m_apart.run(
        this,
        [made, place = m_model.place(), recipe = *m_model.recipe(), result, at = m_model.location(), large = m_size == SkySize::Large](Progress&) {
            auto here = skyAt(*place, recipe, *result, at, large ? kLargeCell : kSmallCell, large);
            if (!here || here->map.cells.empty()) return;
            auto out = std::make_shared<Picture>();
            out->map = std::move(here->map);
            out->ask = std::move(here->ask);
            out->stands = std::move(here->stands);
            out->location = at;
            out->axis = result->path()->axis[at];
            out->wish = wishAt(*result, at);
            const Leans leans(*result, recipe.axis);
            out->row = rowFromHere(*result, leans, out->map, at);
            out->leadSign = leans.leadSign(at);
            out->tiltSign = leans.tiltSign(at);
            for (const Obstacle& o : *place->scene) out->obstacles.push_back(QString::fromStdString(o.name));
            *made = std::move(out);
        },
        [this, made] {
            m_picture = *made;
            point({});
            emit changed();
            if (m_again) start();
        });
}

void SkyShow::point(const std::optional<Vec3>& axis) {
    const bool any = m_pointed.has_value();
    m_pointed.reset();
    if (axis && m_picture) {
        m_pointed = Pointed{*axis, m_picture->stands(*axis), {}, {}};
        if (const SkyMap::Cell c = m_picture->ask(*axis); c.kind == SkyMap::Kind::Blocked) {
            m_pointed->zone = c.zone;
            m_pointed->body = m_picture->obstacles.at(static_cast<std::size_t>(c.obstacle));
        }
    }
    if (any || m_pointed) emit pointedChanged();
}

QString SkyShow::words(const Vec3& axis) const {
    if (!m_picture) return {};
    const SkyMap& map = m_picture->map;
    const SkyMap::Cell c = m_picture->ask(axis); // the cells only draw
    LeadTilt lean = leadTiltOf(axis, map.normal, map.feed);
    lean.lead *= m_picture->leadSign;
    lean.tilt *= m_picture->tiltSign;
    const QString where = tr("lead %1°, tilt %2°").arg(degrees(lean.lead), 0, 'f', 0).arg(degrees(lean.tilt), 0, 'f', 0);
    switch (c.kind) {
    case SkyMap::Kind::Blocked:
        return tr("%1: %2 · %3").arg(where, QString(zoneName(c.zone)), m_picture->obstacles.at(static_cast<std::size_t>(c.obstacle)));
    case SkyMap::Kind::Reach:
        return tr("%1: out of the machine's reach").arg(where);
    case SkyMap::Kind::Outside:
        return tr("%1: outside of the window of angles").arg(where);
    case SkyMap::Kind::Safe:
        return c.room >= SkyMap::kMostRoom ? inUnits(tr("%1: free, over %2 mm to spare").arg(where).arg(double{SkyMap::kMostRoom}, 0, 'f', 0), m_model.inches())
                                           : inUnits(tr("%1: free, %2 mm to spare").arg(where).arg(static_cast<double>(c.room), 0, 'f', 1), m_model.inches());
    case SkyMap::Kind::Below:
        break;
    }
    return {};
}

void SkyShow::turnTo(const Vec3& axis) {
    const auto result = m_model.result();
    if (!m_picture || !result || !result->path() || !m_model.recipe() || m_picture->location != m_model.location()) return;
    const auto here = m_model.along().onRow(m_model.location());
    if (!here) return;
    const LeadTilt now = leadTiltOf(m_picture->wish.value_or(m_picture->axis), m_picture->map.normal, m_picture->map.feed),
                   then = leadTiltOf(axis, m_picture->map.normal, m_picture->map.feed);
    const double lead = degrees(then.lead - now.lead) * m_picture->leadSign, tilt = degrees(then.tilt - now.tilt) * m_picture->tiltSign;
    const auto key = m_model.along().keyHere();
    m_model.change(tr("turn the axis on the map"), [&](Job& j) {
        auto& keys = j.operation(m_model.selected().toStdString())->axis->keys;
        if (key) {
            keys[*key].leadDegrees = std::clamp(keys[*key].leadDegrees + lead, -90.0, 90.0);
            keys[*key].tiltDegrees = std::clamp(keys[*key].tiltDegrees + tilt, -90.0, 90.0);
            return;
        }
        const LeadTilt more = keyed(keys, here->fraction, here->level, here->row);
        keys.push_back({here->fraction, here->fraction, -1, std::clamp(degrees(more.lead) + lead, -90.0, 90.0), std::clamp(degrees(more.tilt) + tilt, -90.0, 90.0)});
        std::stable_sort(keys.begin(), keys.end(), [](const AxisKey& a, const AxisKey& b) { return a.at < b.at; });
    });
}

} // namespace gyre
