#include "model/MarksShow.h"
#include "base/Hash.h"
#include "base/Units.h"
#include "model/Route.h"
#include <cmath>

namespace gyre {

MarksShow::MarksShow(AppModel& model) : CardPart(model) {
    connect(&model, &AppModel::locationChanged, this, [this] {
        if (isOpen()) askSoon();
    });
    connect(&model, &AppModel::selectionChanged, this, [this] { m_size = 0.0; });
}

double MarksShow::size() const {
    if (m_size > 0.0) return m_size;
    const auto now = m_model.result();
    return now ? usualPatch(*now) : 4.0;
}

void MarksShow::setSize(double mm) {
    if (!(mm >= kSmallestPatch) || mm > kLargestPatch)
        return tell(m_model.inches() ? tr("A patch is 0.004 to 2 in wide.") : tr("A patch is %1 to %2 mm wide.").arg(kSmallestPatch).arg(kLargestPatch));
    m_size = mm;
    ask();
    emit changed();
}

void MarksShow::scaleSize(double by) { setSize(std::clamp(by * size(), kSmallestPatch, kLargestPatch)); }

void MarksShow::start() {
    const auto nothing = [&](const QString& why) {
        m_trouble = why;
        m_picture.reset();
        m_of = 0;
        emit changed();
    };
    if (!isOpen() || (m_model.bench() != Bench::Cut && m_model.bench() != Bench::Prove)) return nothing({});
    if (!hasPart()) return nothing(tr("There is no part whose surface could be looked at."));
    const auto now = m_model.result();
    if (!now || !now->path()) return nothing(m_model.computing() ? tr("The path is being computed.") : tr("There is no path here that could leave marks."));
    // What is missing would be told as not cut, and what is old as it is now.
    m_old = false;
    for (const Recipe& r : job().worked()) {
        const QString id = QString::fromStdString(r.id);
        if (!m_model.result(id) && !carries(r.kind)) return nothing(tr("The operations before are not computed yet."));
        m_old = m_old || !m_model.upToDate(id);
        if (r.id == selected()) break;
    }
    if (m_last != m_model.selected()) m_picture.reset();
    const auto at = markPlaceOf(*place(), *now, m_model.location());
    if (!at) return nothing(QString::fromStdString(at.error().text()));
    const auto done = doneSoFar();
    Hash asked;
    asked.add(place()->key).add(m_model.location()).add(size());
    for (const auto& d : done) asked.add(d->key);
    if (asked.value() == m_of) return emit changed();
    m_of = 0;
    m_trouble.clear();
    QStringList names;
    for (const Recipe& r : job().worked())
        if (const auto d = m_model.result(QString::fromStdString(r.id)); d && d->path()) names << m_model.route().numberOf(r) + " " + QString::fromStdString(r.name);
    const auto made = std::make_shared<Result<SurfaceMarks>>();
    m_apart.run(
        this, [made, done, place = place(), at = *at, size = size()](Progress& progress) { *made = surfaceMarks(*place, done, at, size, progress); },
        [this, made, names, key = asked.value(), last = m_model.selected()] {
            if (m_again) return ask();
            if (*made) {
                m_picture = std::make_shared<const SurfaceMarks>(std::move(**made));
                m_names = names;
                m_last = last;
                m_of = key;
            } else if (!made->error().cancelled) {
                m_picture.reset();
                m_trouble = QString::fromStdString(made->error().text());
            }
            emit changed();
        });
    emit changed();
}

QString MarksShow::heightWords(double mm) const {
    const bool inches = m_model.inches();
    const double small = inches ? 1e6 * mm / 25.4 : 1e3 * mm, size = std::abs(small);
    return (inches ? tr("%1 µin") : tr("%1 µm")).arg(small, 0, 'f', size >= 99.5 ? 0 : size >= 9.95 ? 1 : 2);
}

QStringList MarksShow::told() const {
    if (!m_picture) return {};
    const SurfaceMarks& m = *m_picture;
    const MarkSum& sum = m.sum;
    QStringList out;
    if (m_old) out << tr("▲ With paths from before a change.");
    if (sum.by.empty()) return {tr("No operation up to here comes near the surface at this place.")};
    if (m.across.places > 1) out << tr("Across the feed Rt %1, Ra %2.").arg(heightWords(m.across.rt), heightWords(m.across.ra));
    if (m.along.places > 1) out << tr("Along it Rt %1, Ra %2.").arg(heightWords(m.along.rt), heightWords(m.along.ra));
    out << (sum.low >= -5e-6 ? tr("Between %1 and %2 stand over the part as modelled.").arg(heightWords(std::max(0.0, sum.low)), heightWords(sum.high))
            : sum.high < 0.0 ? tr("▲ Between %1 and %2 are gone of the part.").arg(heightWords(-sum.high), heightWords(-sum.low))
                             : tr("Up to %1 stand over the part as modelled, up to %2 are gone of it.").arg(heightWords(sum.high), heightWords(-sum.low)));
    if (sum.uncut > 0.0)
        out << tr("▲ %1 of it no operation up to here has cut.").arg(sum.uncut < 5e-4 ? tr("Less than 0.1 %") : tr("%1 %").arg(100.0 * sum.uncut, 0, 'f', 1));
    if (sum.by.size() > 1)
        for (const MarkShare& s : sum.by)
            out << tr("%1: %2 % of it, %3 over the part on average.")
                       .arg(m_names.value(static_cast<int>(s.cut)))
                       .arg(100.0 * s.share, 0, 'f', 1)
                       .arg(heightWords(s.mean));
    return out;
}

} // namespace gyre
