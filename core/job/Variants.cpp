#include "job/Variants.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

Status noOperation(const std::string& id) {
    return fail(fmt::format("there is no operation '{}' that could have variants", id), {}, "Choose one that lays a path of its own");
}

Recipe* varying(Job& job, const std::string& operation) {
    Recipe* own = job.operation(operation);
    return own && mayVary(*own) ? own : nullptr;
}

std::string freeLetter(const std::vector<const Recipe*>& taken) {
    for (char c = 'A';; ++c)
        if (std::none_of(taken.begin(), taken.end(), [&](const Recipe* r) { return r->variant == std::string(1, c); })) return std::string(1, c);
}

} // namespace

bool mayVary(const Recipe& recipe) { return !carries(recipe.kind) && recipe.kind != OperationKind::HoleStep; }

std::vector<const Recipe*> variantsOf(const Job& job, const std::string& operation) {
    const Recipe* own = job.operation(operation);
    std::vector<const Recipe*> out;
    if (!own) return out;
    for (const Recipe& r : job.variants)
        if (r.id == own->id) out.push_back(&r);
    if (out.empty()) return out;
    out.push_back(own);
    std::sort(out.begin(), out.end(), [](const Recipe* a, const Recipe* b) { return a->variant < b->variant; });
    return out;
}

Status addVariant(Job& job, const std::string& operation) {
    Recipe* own = varying(job, operation);
    if (!own) return noOperation(operation);
    const auto all = variantsOf(job, operation);
    if (all.size() >= kMostVariants) return fail(fmt::format("there are {} variants already", kMostVariants), own->name, "Drop one");
    if (all.empty()) own->variant = "A";
    const std::string letter = all.empty() ? "B" : freeLetter(all);
    job.variants.push_back(*own);
    own->variant = letter;
    return {};
}

Status takeVariant(Job& job, const std::string& operation, const std::string& variant) {
    Recipe* own = varying(job, operation);
    if (!own) return noOperation(operation);
    if (own->variant == variant) return {};
    const auto aside = std::find_if(job.variants.begin(), job.variants.end(), [&](const Recipe& r) { return r.id == own->id && r.variant == variant; });
    if (aside == job.variants.end()) return fail(fmt::format("the operation has no variant '{}'", variant), own->name, "See which there are");
    std::swap(*own, *aside);
    own->parent = aside->parent;
    own->active = aside->active;
    own->name = aside->name;
    return {};
}

Status dropVariant(Job& job, const std::string& operation, const std::string& variant) {
    Recipe* own = varying(job, operation);
    if (!own) return noOperation(operation);
    const auto gone = std::erase_if(job.variants, [&](const Recipe& r) { return r.id == own->id && r.variant == variant; });
    if (gone == 0) return fail(fmt::format("no variant '{}' is put aside", variant), own->name, "Take another one first; the one in the route stays");
    if (variantsOf(job, operation).empty()) own->variant.clear();
    return {};
}

void keepVariant(Job& job, const std::string& operation) {
    Recipe* own = job.operation(operation);
    if (!own) return;
    std::erase_if(job.variants, [&](const Recipe& r) { return r.id == own->id; });
    own->variant.clear();
}

} // namespace gyre
