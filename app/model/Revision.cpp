#include "model/Revision.h"
#include "base/Hash.h"
#include "form/Form.h"
#include "operation/RecipeForm.h"
#include <algorithm>

namespace gyre {

Revision::Revision(AppModel& model) : ModelPart(model) {
    connect(&model, &OpenJob::placeChanged, this, &Revision::look);
    connect(&model, &OpenJob::exchanged, this, [this] {
        m_now = {};
        putAway();
    });
}

/// All files that the picture was made of, and how the part's is taken: finer triangles of the same file are the same part.
std::uint64_t Revision::source() const {
    Hash h;
    for (const JobBody& b : job().bodies)
        if (b.role == "part" && !b.shape) h.add(b.file).add(b.only).add(b.meshTaken().unit).add(b.sheetsOver ? 1.0 : 0.0);
    for (const InputFile& f : place()->inputs) h.add(f.content);
    return h.value();
}

void Revision::look() {
    if (!hasPart()) return;
    const auto part = place()->part->body() ? place()->part->body() : place()->part;
    if (part == m_now.part) return;
    Seen seen{part, place()->holes, source()};
    const bool other = m_now.part && seen.source != m_now.source;
    if (other) m_was = std::move(m_now);
    m_now = std::move(seen);
    if (!other) return;
    m_lit = Lit::Nothing;
    UsedAgain found = again();
    const QString faces = QString::fromStdString(wordsOf(found.match));
    if (found.anything()) {
        tell(tr("The part has changed: %1. See Set up for what the job names.").arg(faces));
        m_told = std::move(found);
    } else {
        if (found.match.count(FoundBy::Same) < found.match.faces.size() || !found.match.fresh.empty())
            tell(tr("The part has changed: %1; nothing that the job names.").arg(faces));
        m_told.reset();
    }
    emit changed();
}

UsedAgain Revision::again() const { return useAgain(job(), *m_was.part, m_was.holes, *m_now.part, m_now.holes); }

QString Revision::summary() const { return m_told ? QString::fromStdString(wordsOf(m_told->match)) : QString(); }

QString Revision::nameOf(const Followed& f) const {
    const QString name = QString::fromStdString(f.name);
    if (f.word == "holes") return tr("%1, its holes").arg(name);
    const Recipe* r = f.operation.empty() ? nullptr : job().operation(f.operation);
    const WordInfo* word = r ? wordAt(recipeWords(r->kind), f.word) : nullptr;
    if (!word) return name;
    const QString what = tr(word->what.c_str());
    return tr("%1, %2").arg(name, what.left(1).toLower() + what.mid(1));
}

QStringList Revision::lines() const {
    QStringList out;
    if (!m_told) return out;
    for (const Followed& f : m_told->followed)
        if (!f.asItWas()) out << tr("%1: %2").arg(nameOf(f), QString::fromStdString(wordsOf(f)));
    return out;
}

bool Revision::canFollow() const {
    return m_told && std::any_of(m_told->followed.begin(), m_told->followed.end(), [](const Followed& f) { return f.moved + f.alike + f.added > 0; });
}

void Revision::follow() {
    if (!canFollow()) return;
    const UsedAgain found = again(); // of the job as it is by now
    const std::size_t gone = found.gone();
    change(tr("follow the changed part"), [&](Job& j) { j = found.job; });
    putAway();
    if (gone > 0)
        tell(gone == 1 ? tr("One thing that the job names is gone: its operation asks for it.")
                       : tr("%1 things that the job names are gone: their operations ask for them.").arg(gone));
}

void Revision::putAway() {
    m_told.reset();
    m_was = {};
    m_lit = Lit::Nothing;
    emit changed();
    emit m_model.featuresChanged();
}

void Revision::light(Lit what) {
    m_lit = m_lit == what ? Lit::Nothing : what;
    emit changed();
    emit m_model.featuresChanged();
}

std::size_t Revision::count(Lit what) const {
    if (!m_told || what == Lit::Nothing) return 0;
    const PartMatch& match = m_told->match;
    return what == Lit::New ? match.fresh.size() : match.faces.size() - match.count(FoundBy::Same) - match.count(FoundBy::Nothing);
}

std::vector<int> Revision::litFaces() const {
    if (!m_told || m_lit == Lit::Nothing) return {};
    if (m_lit == Lit::New) return m_told->match.fresh;
    std::vector<int> out;
    for (const ShapeMatch& m : m_told->match.faces)
        if (m.found() && m.by != FoundBy::Same) out.push_back(m.now);
    return out;
}

} // namespace gyre
