#include "model/Route.h"
#include "model/Picks.h"
#include "operation/OperationResult.h"
#include "operation/SliceSpec.h"
#include "proposal/NewJob.h"
#include <algorithm>

namespace gyre {

QString Route::numberOf(const Recipe& recipe) const {
    int number = 0, step = 0;
    for (const Recipe& r : job().route) {
        number += r.parent.empty();
        step = r.parent.empty() ? 0 : step + 1;
        if (r.id == wholeId(recipe.id)) break;
    }
    return QString::number(number) + (step > 0 ? QString(QChar('a' + (step - 1) % 26)) : QString());
}

void Route::addRows() {
    if (!hasJob()) return;
    const Recipe rows = proposeRows(job(), place() ? *place() : Workplace{}, recipe());
    change(tr("new operation"), [&](Job& j) { j.route.push_back(rows); });
    m_model.select(QString::fromStdString(rows.id));
    m_model.picks().setMode(PickMode::Faces);
}

namespace {

// Slices that nothing stands in any more go with the last of it.
void dropEmptySlices(Job& job, const std::string& slices) {
    if (slices.empty() || std::any_of(job.route.begin(), job.route.end(), [&](const Recipe& r) { return r.parent == slices; })) return;
    std::erase_if(job.route, [&](const Recipe& r) { return r.id == slices && r.kind == OperationKind::Slices; });
}

} // namespace

void Route::remove(const QString& id) {
    change(tr("remove operation"), [&](Job& j) {
        const Recipe* own = j.operation(id.toStdString());
        const std::string parent = own ? own->parent : std::string();
        std::erase_if(j.route, [&](const Recipe& r) { return r.id == id.toStdString() || r.parent == id.toStdString(); });
        std::erase_if(j.variants, [&](const Recipe& r) { return !j.operation(r.id); });
        dropEmptySlices(j, parent);
    });
    emit m_model.selectionChanged();
}

void Route::rename(const QString& id, const QString& name) {
    if (name.trimmed().isEmpty()) return;
    change(tr("rename operation"), [&](Job& j) {
        if (Recipe* r = j.operation(id.toStdString())) r->name = name.trimmed().left(100).toStdString();
    });
}

void Route::duplicate(const QString& id) {
    std::string made;
    change(tr("duplicate operation"), [&](Job& j) {
        std::vector<Recipe> copies;
        for (const Recipe& r : j.route)
            if (r.id == id.toStdString() || r.parent == id.toStdString()) copies.push_back(r);
        if (copies.empty()) return;
        auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == id.toStdString(); });
        ++at;
        while (at != j.route.end() && at->parent == id.toStdString()) ++at;
        auto where = at - j.route.begin();
        for (Recipe& r : copies) {
            const bool head = r.id == id.toStdString();
            r.id = j.freshId();
            r.variant.clear(); // the others stay with the one that is copied
            if (head) {
                made = r.id;
                r.name += tr(", copy").toStdString();
            } else if (!made.empty()) {
                r.parent = made;
            }
            j.route.insert(j.route.begin() + where++, r);
        }
    });
    if (!made.empty()) m_model.select(QString::fromStdString(made));
}

// Steps move among their siblings; what has steps moves with them.
void Route::move(const QString& id, int by) {
    change(tr("move operation"), [&](Job& j) {
        const auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == id.toStdString(); });
        if (at == j.route.end()) return;
        const std::string parent = at->parent;
        const auto head = [&](const Recipe& r) { return r.parent == parent; };
        const auto past = [&](auto from) {
            return std::find_if(from + 1, j.route.end(), [&](const Recipe& r) { return head(r) || (!parent.empty() && r.parent.empty()); });
        };
        const auto end = past(at);
        if (by > 0 && end != j.route.end() && head(*end)) std::rotate(at, end, past(end));
        if (by < 0) {
            auto before = at;
            while (before != j.route.begin() && !head(*std::prev(before)) && !(!parent.empty() && std::prev(before)->id == parent)) --before;
            if (before != j.route.begin() && head(*std::prev(before))) std::rotate(std::prev(before), at, end);
        }
    });
}

void Route::placeBefore(const QString& id, const QString& before) {
    const Recipe *moved = hasJob() ? job().operation(id.toStdString()) : nullptr, *next = hasJob() ? job().operation(before.toStdString()) : nullptr;
    if (!moved || id == before || (next && next->parent != moved->parent)) return;
    change(tr("move operation"), [&](Job& j) {
        const auto find = [&](const QString& of) { return std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& r) { return r.id == of.toStdString(); }); };
        const auto behind = [&](auto at) { // it and its steps
            return std::find_if(at + 1, j.route.end(), [&](const Recipe& r) { return r.parent != at->id; });
        };
        const auto at = find(id);
        std::vector<Recipe> block(at, behind(at));
        j.route.erase(at, behind(at));
        auto to = before.isEmpty() ? j.route.end() : find(before);
        if (before.isEmpty() && !block.front().parent.empty()) to = behind(find(QString::fromStdString(block.front().parent)));
        j.route.insert(to, block.begin(), block.end());
    });
}

void Route::toggleActive(const QString& id) {
    change(tr("switch operation"), [&](Job& j) {
        if (Recipe* r = j.operation(id.toStdString())) r->active = !r->active;
    });
}

namespace {

// From the top of what the operation cuts to its foot, in slices of about a sixth of that.
SliceSpec slicesFor(const OperationResult* result, const Part* part) {
    SliceSpec out;
    double low = 1e300, high = -1e300;
    if (result && result->path())
        for (std::size_t i = 0; i < result->path()->size(); ++i) {
            if (result->path()->motion[i] != Motion::Cut) continue;
            low = std::min(low, result->path()->contact[i][out.axis]);
            high = std::max(high, result->path()->contact[i][out.axis]);
        }
    if (high < low && part) {
        Box box;
        for (const FaceInfo& f : part->faces()) box.add(f.bounds);
        low = box.low[out.axis];
        high = box.high[out.axis];
    }
    if (high - low < 0.1) return out;
    constexpr double kStep = 0.5; // mm
    out.from = std::ceil(high / kStep) * kStep;
    out.to = std::floor(low / kStep) * kStep;
    out.thickness = std::max(kStep, std::round((out.from - out.to) / 6.0 / kStep) * kStep);
    return out;
}

} // namespace

void Route::toggleSlices(const QString& id) {
    const Recipe* r = hasJob() ? job().operation(id.toStdString()) : nullptr;
    if (!r) return;
    if (r->kind == OperationKind::Slices) return tell(tr("These are slices; choose an operation that stands in them, or remove them."));
    if (carries(r->kind) || r->kind == OperationKind::HoleStep) return tell(tr("Holes are drilled as a whole."));
    const std::string own = r->id;
    const SliceSpec proposed = slicesFor(m_model.result(id).get(), place() ? place()->part.get() : nullptr);
    change(tr("cut in slices"), [&](Job& j) {
        auto at = std::find_if(j.route.begin(), j.route.end(), [&](const Recipe& o) { return o.id == own; });
        const auto end = [&](auto from, const std::string& parent) { return std::find_if(from, j.route.end(), [&](const Recipe& o) { return o.parent != parent; }); };
        if (!at->parent.empty()) { // out of them, behind the last
            const std::string parent = at->parent;
            at->parent.clear();
            std::rotate(at, at + 1, end(at + 1, parent));
            dropEmptySlices(j, parent);
            return;
        }
        if (at != j.route.begin()) {
            const Recipe& above = *std::prev(at);
            const Recipe* carrier = above.kind == OperationKind::Slices ? &above : above.parent.empty() ? nullptr : j.operation(above.parent);
            if (carrier && carrier->kind == OperationKind::Slices) {
                at->parent = carrier->id;
                return;
            }
        }
        Recipe slices;
        slices.id = j.freshId();
        slices.kind = OperationKind::Slices;
        slices.name = tr("Slices").toStdString();
        slices.slices = proposed;
        at->parent = slices.id;
        j.route.insert(at, slices);
    });
    m_model.select(id);
    emit m_model.selectionChanged();
}

} // namespace gyre
