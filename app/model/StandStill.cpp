#include "model/StandStill.h"
#include "Units.h"
#include "base/Hash.h"
#include "base/Units.h"
#include "machine/Reach.h"
#include "model/Kept.h"
#include "operation/OperationResult.h"
#include "operation/Recipe.h"
#include <algorithm>

namespace gyre {

namespace {
constexpr std::size_t kMostDirections = 6;
} // namespace

StandStill::StandStill(AppModel& model) : CardPart(model) {}

void StandStill::setLean(double degrees) {
    if (!(degrees >= 5.0) || degrees > 120.0) return tell(tr("The axis may lean between 5° and 120° off the faces' normal."));
    m_lean = degrees;
    m_of = 0;
    ask();
}

void StandStill::start() {
    const auto done = m_model.result();
    const Recipe* r = recipe();
    const auto nothing = [&](const QString& why) {
        m_trouble = why;
        m_found.reset();
        m_told.reset();
        m_of = 0;
        emit changed();
    };
    if (!isOpen() || m_model.bench() != Bench::Cut || !r || !place() || !place()->part) return nothing({});
    if (m_model.computing() || m_model.stale()) return nothing(tr("The path is being computed."));
    if (!done || !done->passes) return nothing(tr("There is no path whose directions could be looked for."));
    const auto worked = job().worked(m_model.selected().toStdString());
    if (!worked) return nothing(tr("The operation is switched off."));
    std::vector<std::shared_ptr<const OperationResult>> before;
    Hash asked;
    asked.add(done->key).add(m_lean);
    for (const Recipe& o : job().worked()) {
        if (wholeId(o.id) == r->id) break;
        if (const auto result = m_model.result(QString::fromStdString(o.id))) {
            before.push_back(result);
            asked.add(result->key);
        }
    }
    if (asked.value() == m_of) return;
    m_found.reset();
    m_told.reset();
    m_of = 0;
    m_trouble.clear();
    m_secondsNow = done->complete() ? secondsOf(*done) : 0.0;
    m_cutNow = cutWay(*done);
    const auto made = std::make_shared<Result<Directions>>();
    m_apart.run(
        this,
        [made, place = place(), recipe = *worked, done, lean = radians(m_lean), shelf = m_model.shelf(), key = asked.value()](Progress& progress) {
            *made = keptOr<Directions>(*shelf, "directions", key, [&] { return fewestDirections(*place, recipe, *done, lean, kMostDirections, progress); });
        },
        [this, made, before, key = asked.value()] {
            if (m_again) return ask();
            if (*made) {
                m_found = std::move(**made);
                compute(before, key);
            } else if (!made->error().cancelled) {
                m_trouble = QString::fromStdString(made->error().text());
                m_of = key;
            }
            emit changed();
        });
    emit changed();
}

void StandStill::compute(const std::vector<std::shared_ptr<const OperationResult>>& before, std::uint64_t key) {
    const auto made = std::make_shared<Result<IndexedTold>>();
    m_apart.run(
        this,
        [made, place = place(), job = job(), id = recipe()->id, shelf = m_model.shelf(), directions = directions(), before](Progress& progress) {
            *made = indexedInstead(place, job, id, directions, before, shelf->results, progress);
        },
        [this, made, key] {
            if (m_again) return ask();
            if (*made) {
                m_told = std::move(**made);
                m_of = key;
            } else if (!made->error().cancelled) {
                m_trouble = QString::fromStdString(made->error().text());
                m_of = key;
            }
            emit changed();
        });
}

std::vector<Vec3> StandStill::directions() const {
    std::vector<Vec3> out;
    if (m_found)
        for (const FixedDirection& d : m_found->chosen) out.push_back(d.axis);
    return out;
}

QString StandStill::angleWords(std::size_t direction) const {
    if (!m_found || direction >= m_found->chosen.size() || !place() || !recipe()) return {};
    const Assembly* tool = job().tool(recipe()->tool);
    const Kinematics kinematics(*place()->machine, place()->partFrame, tool ? tool->gaugeLength() : 0.0);
    return QString::fromStdString(reachWords(*place()->machine, reachOf(kinematics, m_found->chosen[direction].axis))).section(", or", 0, 0);
}

QString StandStill::directionWords(std::size_t direction) const {
    if (!m_found || direction >= m_found->chosen.size()) return {};
    const FixedDirection& d = m_found->chosen[direction];
    const auto percent = [](double share) {
        return share >= 1.0 - 1e-9 ? tr("all") : tr("%1 %").arg(std::min(99.9, 100.0 * share), 0, 'f', share > 0.99 || share < 0.01 ? 1 : 0);
    };
    QStringList out;
    out << (m_found->chosen.size() == 1 ? tr("cuts %1").arg(percent(d.cuts)) : tr("cuts %1, reaches %2").arg(percent(d.cuts), percent(d.reaches)));
    if (d.room > 0.0) out << tr("room of %1°").arg(degrees(d.room), 0, 'f', 0);
    return out.join(QString::fromUtf8(" · "));
}

QString StandStill::summary() const {
    if (!m_found) return {};
    const auto n = static_cast<int>(m_found->chosen.size());
    QStringList out;
    if (m_found->reached >= 1.0 - 1e-9)
        out << (n == 1            ? tr("One direction reaches all of it.")
                : m_found->fewest ? tr("%1 directions reach all of it; fewer do not.").arg(n)
                                  : tr("%1 directions reach all of it.").arg(n));
    else {
        const QString share = QString::number(std::min(99.9, 100.0 * m_found->reached), 'f', 1);
        out << (m_found->blockedBy.empty() ? tr("They reach %1 % of it.").arg(share)
                                           : tr("They reach %1 % of it; in the way elsewhere: %2.").arg(share, QString::fromStdString(m_found->blockedBy)));
    }
    if (!m_told) {
        out << (m_trouble.isEmpty() ? tr("Computing what they come to …") : QString());
        return out.join(' ');
    }
    out << (m_secondsNow > 0.0 ? tr("Cut so it takes %1 instead of %2.").arg(clockWords(m_told->seconds), clockWords(m_secondsNow))
                               : tr("Cut so it takes %1.").arg(clockWords(m_told->seconds)));
    if (m_cutNow > 0.0 && m_told->cut < 0.995 * m_cutNow) out << tr("Of its rows %1 % are cut.").arg(100.0 * m_told->cut / m_cutNow, 0, 'f', 1);
    if (n > 1) out << tr("Rows go over from one direction to another at %1 places.").arg(m_found->changes);
    if (m_told->stops > 0) out << tr("There are %1 Stops.").arg(m_told->stops);
    return out.join(' ');
}

void StandStill::take() {
    if (!m_found || !m_told || !recipe()) return;
    const std::vector<Vec3> wanted = directions();
    QString first;
    change(tr("stand still in %1 directions").arg(wanted.size()), [&](Job& j) {
        if (const auto made = makeIndexed(j, recipe()->id, wanted)) first = QString::fromStdString(made->front());
    });
    open(false);
    if (!first.isEmpty()) m_model.select(first);
}

} // namespace gyre
