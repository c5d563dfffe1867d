#include "model/Variants.h"
#include "base/Hash.h"
#include "operation/OperationResult.h"
#include "operation/RecipeForm.h"
#include <algorithm>

namespace gyre {

Variants::Variants(AppModel& model) : CardPart(model) {}

bool Variants::possible() const { return recipe() && mayVary(*recipe()); }

std::vector<VariantLine> Variants::table() const { return place() && place()->machine ? tableOf(m_all, *place()->machine) : std::vector<VariantLine>(); }

void Variants::start() {
    const auto nothing = [&](const QString& why) {
        m_trouble = why;
        m_all.clear();
        m_of = 0;
        emit changed();
    };
    const Recipe* own = recipe();
    if (!isOpen() || m_model.bench() != Bench::Cut || !own || !place() || !place()->part) return nothing({});
    if (!mayVary(*own)) return nothing(tr("What stands in holes, and what carries other operations, has one way only."));
    const auto all = variantsOf(job(), own->id);
    if (all.empty()) return nothing(tr("There is one way of doing it so far."));
    if (m_model.computing() || m_model.stale()) { // asked again when that is done
        m_trouble = tr("Working them out …");
        return emit changed();
    }
    std::vector<std::shared_ptr<const OperationResult>> before;
    Hash asked;
    asked.add(place()->key);
    for (const Recipe& r : job().worked()) {
        if (wholeId(r.id) == own->id) break;
        const auto done = m_model.result(QString::fromStdString(r.id));
        if (!done) continue;
        before.push_back(done);
        asked.add(done->key);
    }
    for (const Recipe* r : all) {
        const Assembly* tool = job().tool(r->tool);
        asked.add(operationKey(place()->keyFor(*r), job().resolved(*r), tool));
    }
    if (asked.value() == m_of) { // only another one is in hand
        m_trouble.clear();
        return emit changed();
    }
    if (std::none_of(m_all.begin(), m_all.end(), [&](const VariantResult& v) { return v.result->operation == own->id; })) m_all.clear();
    m_of = 0;
    m_trouble = tr("Working them out …");
    const auto made = std::make_shared<Result<std::vector<VariantResult>>>();
    m_apart.run(
        this,
        [made, place = place(), job = job(), id = own->id, before, shelf = m_model.shelf()](Progress& progress) {
            *made = compareVariants(place, job, id, before, shelf->results, progress);
        },
        [this, made, key = asked.value()] {
            if (m_again) return ask();
            if (*made) {
                m_all = std::move(**made);
                m_of = key;
                m_trouble.clear();
            } else if (!made->error().cancelled) {
                m_trouble = QString::fromStdString(made->error().text());
                m_all.clear();
            }
            emit changed();
            emit pointedChanged();
        });
    emit changed();
}

void Variants::edit(const QString& label, const std::function<Status(Job&, const std::string&)>& how) {
    if (!recipe()) return;
    Job next = job();
    if (auto ok = how(next, recipe()->id); !ok) return tell(ok.error());
    change(label, [&](Job& j) { j = std::move(next); });
}

void Variants::add() { edit(tr("another variant"), addVariant); }
void Variants::take(const QString& variant) {
    edit(tr("take variant %1").arg(variant), [&](Job& j, const std::string& id) { return takeVariant(j, id, variant.toStdString()); });
}
void Variants::drop(const QString& variant) {
    edit(tr("drop variant %1").arg(variant), [&](Job& j, const std::string& id) { return dropVariant(j, id, variant.toStdString()); });
}
void Variants::keep() {
    edit(tr("keep this variant"), [](Job& j, const std::string& id) {
        keepVariant(j, id);
        return Status();
    });
}

void Variants::point(const QString& variant) {
    if (variant == m_pointed) return;
    m_pointed = variant;
    emit pointedChanged();
}

std::shared_ptr<const PatternResult> Variants::pointed() const {
    const auto it = std::find_if(m_all.begin(), m_all.end(), [&](const VariantResult& v) { return QString::fromStdString(v.variant) == m_pointed; });
    return it == m_all.end() ? nullptr : it->result->pattern;
}

} // namespace gyre
