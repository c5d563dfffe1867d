#include "model/Fits.h"
#include "base/File.h"
#include "base/Hash.h"
#include "base/Units.h"
#include "form/Form.h"
#include "model/AppModel.h"
#include "model/Kept.h"
#include "operation/OperationResult.h"
#include "tool/Library.h"
#include <QDir>
#include <QFileInfo>
#include <algorithm>

namespace gyre {

Fits::Fits(AppModel& model) : CardPart(model) {}

void Fits::setStep(double mm) {
    if (!(mm >= 0.05) || mm > 100.0) return tell(m_model.inches() ? tr("The step lies between 0.002 and 4 in.") : tr("The step lies between 0.05 and 100 mm."));
    m_step = mm;
    m_of = 0;
    ask();
}

std::vector<Assembly> Fits::tools() const {
    std::vector<Assembly> out = job().tools;
    const QDir beside = QFileInfo(m_model.file()).absoluteDir();
    for (const QString& name : beside.entryList({"*.tools.json"}, QDir::Files, QDir::Name)) {
        const auto text = readFile(beside.filePath(name).toStdString(), 64u << 20);
        const auto library = text ? toolLibraryFromJson(*text, name.toStdString()) : tl::unexpected(text.error());
        if (!library) continue; // the bench of tools says what is wrong with it
        for (const Assembly& a : library->assemblies)
            if (std::none_of(out.begin(), out.end(), [&](const Assembly& o) { return o.id == a.id; })) out.push_back(a);
    }
    return out;
}

void Fits::forget() {
    m_all.clear();
    m_of = 0;
}

void Fits::start() {
    const auto done = m_model.result();
    const Recipe* r = recipe();
    const bool there = isOpen() && m_model.bench() == Bench::Cut && r && place() && done && done->passes && !m_model.stale();
    if (!there) {
        m_trouble = m_model.computing() ? tr("The path is being computed.") : tr("There is no path that a tool could reach.");
        m_all.clear();
        m_of = 0;
        return emit changed();
    }
    const std::vector<Assembly> all = tools();
    Hash asked;
    asked.add(done->key).add(m_step);
    for (const Assembly& a : all) asked.add(assemblyForm().write(a).dump());
    if (asked.value() == m_of) return;
    m_all.clear(); // of another operation, or of other tools: none of it may be taken
    m_of = 0;
    const auto worked = job().worked(m_model.selected().toStdString());
    if (!worked) return;
    m_trouble.clear();
    const auto made = std::make_shared<Result<std::vector<AssemblyFit>>>();
    m_apart.run(
        this,
        [made, place = place(), recipe = *worked, done, tools = all, step = m_step, shelf = m_model.shelf(), key = asked.value()](Progress& progress) {
            *made = keptOr<std::vector<AssemblyFit>>(*shelf, "assemblies", key, [&] { return assembliesFor(*place, recipe, *done, tools, step, progress); });
        },
        [this, made, key = asked.value()] {
            if (m_again) return ask();
            if (*made) {
                m_all = std::move(**made);
                m_of = key;
            } else if (!made->error().cancelled) {
                m_trouble = QString::fromStdString(made->error().text());
            }
            emit changed();
        });
    emit changed();
}

QString Fits::words(const AssemblyFit& fit) const {
    const bool inches = m_model.inches();
    QStringList out;
    out << (fit.reached >= 1.0 ? tr("reaches all of it") : tr("reaches %1 %").arg(std::min(99.9, 100.0 * fit.reached), 0, 'f', fit.reached > 0.99 ? 1 : 0));
    const double now = [&] {
        const Assembly* own = job().tool(fit.tool.id);
        return own ? own->stickOut : 0.0;
    }();
    const auto length = [&](double mm) { return QString::fromStdString(formatLength(mm, inches ? LengthUnit::Inch : LengthUnit::Millimetre, inches ? 2 : 1)); };
    out << (now > 0.0 && std::abs(now - fit.stickOut) > 0.01 ? tr("stick-out %1, now %2").arg(length(fit.stickOut), length(now))
                                                             : tr("stick-out %1").arg(length(fit.stickOut)));
    if (fit.stiffness > 0.0)
        out << (fit.stiffness >= 1.0 ? tr("%1 × as stiff").arg(fit.stiffness, 0, 'g', 2) : tr("%1 % as stiff").arg(100.0 * fit.stiffness, 0, 'f', 0));
    if (!fit.sameCut) out << tr("cuts otherwise");
    if (!fit.blockedBy.empty()) out << tr("in the way: %1").arg(QString::fromStdString(fit.blockedBy));
    if (fit.lean) out << tr("would have to lean %1°").arg(degrees(*fit.lean), 0, 'f', 0);
    return out.join(QString::fromUtf8(" · "));
}

void Fits::take(std::size_t fit) {
    if (fit >= m_all.size() || !recipe()) return;
    const Assembly wanted = m_all[fit].tool;
    const std::string own = m_model.chosen().toStdString();
    change(tr("take another assembly"), [&](Job& j) {
        Recipe* r = j.operation(own);
        Assembly* known = j.tool(wanted.id);
        const bool used = std::any_of(j.route.begin(), j.route.end(), [&](const Recipe& o) { return o.id != own && o.tool == wanted.id; });
        if (known && (!used || std::abs(known->stickOut - wanted.stickOut) < 1e-9)) {
            known->stickOut = wanted.stickOut;
            r->tool = known->id;
            return;
        }
        Assembly copy = wanted;
        for (int i = 2; j.tool(copy.id); ++i) copy.id = QString("%1-%2").arg(QString::fromStdString(wanted.id)).arg(i).toStdString();
        if (known) copy.name += tr(", %1 out").arg(wanted.stickOut, 0, 'f', 1).toStdString();
        j.tools.push_back(copy);
        r->tool = copy.id;
    });
}

} // namespace gyre
