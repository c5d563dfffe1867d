#include "model/SeatShow.h"
#include "Units.h"
#include "base/Hash.h"
#include "base/Units.h"
#include "model/Kept.h"
#include "model/SetUp.h"
#include "operation/OperationResult.h"
#include <cmath>

namespace gyre {

void SeatShow::forget() {
    m_map.reset();
    m_clicked.reset();
    m_of = 0;
}

void SeatShow::start() {
    const auto nothing = [&](const QString& why) {
        forget();
        m_trouble = why;
        emit changed();
    };
    if (!isOpen()) return;
    if (!hasJob() || !place() || !place()->machine) return nothing(tr("The job has no machine yet."));
    if (m_model.computing() || m_model.stale()) return nothing(tr("The paths are being computed."));
    std::vector<std::shared_ptr<const OperationResult>> done;
    Hash asked;
    asked.add(place()->key);
    for (const Recipe& r : job().worked())
        if (const auto known = m_model.result(QString::fromStdString(r.id)); known && known->complete()) {
            done.push_back(known);
            asked.add(known->key);
        }
    if (asked.value() == m_of) return;
    forget();
    m_trouble.clear();
    m_done = done;
    const auto made = std::make_shared<Result<SeatMap>>();
    m_apart.run(
        this,
        [made, done, place = place(), job = job(), shelf = m_model.shelf(), key = asked.value()](Progress& progress) {
            *made = keptOr<SeatMap>(*shelf, "seats", key, [&] { return seatMap(*place, job, done, progress); });
        },
        [this, made, key = asked.value()] {
            if (m_again) return ask();
            if (*made) {
                m_map = std::move(**made);
                m_of = key;
                m_sheet = 0;
                for (std::size_t k = 0; m_map->best && k < m_map->turns.size(); ++k)
                    if (std::abs(std::remainder(m_map->turns[k] - m_map->best->turnDegrees, 360.0)) < 1e-6) m_sheet = k;
            } else if (!made->error().cancelled) {
                m_trouble = QString::fromStdString(made->error().text());
                m_of = key;
            }
            emit changed();
        });
    emit changed();
}

void SeatShow::setSheet(std::size_t sheet) {
    m_sheet = sheet;
    emit changed();
}

void SeatShow::choose(std::size_t column, std::size_t row) {
    if (!m_map || column >= m_map->x.size() || row >= m_map->y.size() || m_apart.busy()) return;
    const SeatTry& at = m_map->at(m_sheet, column, row);
    if (!at.onTable) return;
    m_clicked = at;
    if (!at.measured) measure();
    emit changed();
}

// What some locations of the paths told of it is not promised: all of them are run there first.
void SeatShow::measure() {
    const auto made = std::make_shared<Result<SeatTry>>();
    m_apart.run(
        this,
        [made, done = m_done, place = place(), job = job(), at = *m_clicked](Progress& progress) {
            *made = seatAt(*place, job, done, at.seat, at.turnDegrees, progress);
        },
        [this, made] {
            if (m_again) return ask();
            if (*made && m_map && m_clicked) {
                m_clicked = **made;
                for (SeatTry& t : m_map->places)
                    if (t.onTable && t.turnDegrees == m_clicked->turnDegrees && t.seat == m_clicked->seat) t = *m_clicked;
            }
            emit changed();
        });
}

std::optional<SeatTry> SeatShow::chosen() const {
    if (m_clicked) return m_clicked;
    if (m_map && m_map->best && (m_map->best->seat != m_map->present.seat || m_map->best->turnDegrees != m_map->present.turnDegrees)) return m_map->best;
    return std::nullopt;
}

void SeatShow::take() {
    const auto at = chosen();
    if (!at || !at->measured) return;
    m_model.setUp().seatPart(at->seat, at->turnDegrees);
}

QString SeatShow::placeWords(const SeatTry& at) const {
    const bool inches = m_model.inches();
    const auto length = [&](double mm) { return QString::number(inches ? mm / 25.4 : mm, 'f', inches ? 2 : 0); };
    const QString there = tr("at %1, %2").arg(length(at.seat.x()), length(at.seat.y()));
    const double turned = std::remainder(at.turnDegrees - job().seatTurnDegrees, 360.0);
    return std::abs(turned) < 1e-6 ? there : tr("%1, turned by %2°").arg(there).arg(turned, 0, 'f', 0);
}

QString SeatShow::tryWords(const SeatTry& at) const {
    if (!at.onTable) return tr("it would stand over the table's edge");
    if (at.beyond > 0.0) return inUnits(tr("%1 beyond the travel").arg(QString::fromStdString(at.leaves)), m_model.inches());
    if (!at.leaves.empty()) return QString::fromStdString(at.leaves);
    const QString time = at.measured ? clockWords(at.seconds) : tr("about %1").arg(clockWords(at.seconds));
    return at.room < 1e6 ? inUnits(tr("%1 · %2 mm of room to the ends of the travel").arg(time).arg(at.room, 0, 'f', 0), m_model.inches()) : time;
}

QString SeatShow::summary() const {
    if (!m_map) return {};
    QStringList out{tr("As it stands: %1.").arg(tryWords(m_map->present))};
    if (m_clicked)
        out << tr("%1: %2.").arg(placeWords(*m_clicked), m_clicked->measured ? tryWords(*m_clicked) : tr("running the paths there …"));
    else if (!m_map->best)
        out << tr("At none of these places all of it stays within the travel.");
    else if (!chosen())
        out << tr("No place of these is better.");
    else
        out << tr("Best %1: %2.").arg(placeWords(*m_map->best), tryWords(*m_map->best));
    out << tr("Links and what is near may change with the place: once it stands there all is computed and proven anew.");
    return out.join(' ');
}

} // namespace gyre
