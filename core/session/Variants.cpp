#include "session/Variants.h"
#include "along/Along.h"
#include "base/Units.h"
#include "form/Form.h"
#include "link/Link.h"
#include "machine/Machine.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include "operation/RecipeForm.h"
#include "pattern/Pattern.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

/// Words by their keys; what says where it stands and how it is called is no difference.
std::map<std::string, std::string> wordsOf(const Recipe& recipe) {
    OrderedJson all = recipeForm().write(recipe);
    for (const char* key : {"id", "variant", "name", "active", "parent"}) all.erase(key);
    std::map<std::string, std::string> out;
    const OrderedJson flat = all.flatten();
    for (const auto& [path, value] : flat.items()) {
        std::string key = path.substr(1);
        std::replace(key.begin(), key.end(), '/', '.');
        out[key] = value.is_string() ? value.get<std::string>() : value.dump();
    }
    return out;
}

/// @param job  with the first of them in the route
std::vector<std::string> differences(const Job& job, const Recipe& first, const Recipe& other) {
    const auto a = wordsOf(first), b = wordsOf(other);
    std::vector<std::string> out;
    std::set<std::string> listed;
    for (const auto& word : b) {
        const std::string &key = word.first, &value = word.second;
        const auto known = a.find(key); // what is not written is as it is without being said
        if ((known != a.end() ? known->second : wordOf(job, first.id, key)) == value) continue;
        if (key == "tool") {
            const Assembly* tool = job.tool(value);
            out.push_back("Tool: " + (tool ? tool->name : value));
            continue;
        }
        const WordInfo* info = wordAt(recipeWords(other.kind), key);
        if (info) {
            const bool none = value.empty() || value == "null" || value == "[]" || value == "{}";
            const auto option = std::find_if(info->options.begin(), info->options.end(), [&](const WordOption& o) { return o.id == value; });
            const char* unit = none ? "" : info->kind == WordKind::Length || info->kind == WordKind::Place ? " mm" : info->kind == WordKind::Angle ? "°" : "";
            out.push_back(fmt::format("{}: {}{}", info->what, none ? "none" : option != info->options.end() ? option->label : value, unit));
            continue;
        }
        // Of a list it is said once that it is another.
        const std::string list = key.substr(0, key.find_first_of("0123456789") == std::string::npos ? key.size() : key.find_first_of("0123456789") - 1);
        if (listed.insert(list).second) out.push_back(fmt::format("{} is another", list));
    }
    for (const auto& [key, value] : a)
        if (!b.count(key) && out.empty()) out.push_back(fmt::format("without {}", key));
    return out;
}

struct Figure {
    const char* what;
    double (*value)(const OperationResult& r, const Machine& machine); ///< NaN: nothing to say
    std::string (*words)(double value);
    enum class Better { Less, More, Neither } better = Better::Less;
};

/// Of what was computed, not of how: these are told even where all are alike.
bool always(const char* what) {
    const std::string_view w = what;
    return w == "Time" || w == "Stops" || w == "To look at";
}

constexpr double kNothing = std::numeric_limits<double>::quiet_NaN();

double leastOver(const OperationResult& r, const std::vector<float>& clearance) {
    double least = kNothing;
    for (std::size_t i = 0; i < clearance.size(); ++i)
        if (r.links->path.motion[i] == Motion::Cut) least = std::isnan(least) ? static_cast<double>(clearance[i]) : std::min(least, static_cast<double>(clearance[i]));
    return least;
}

double ranked(const OperationResult& r, Rank rank) {
    return static_cast<double>(std::count_if(r.findings.begin(), r.findings.end(), [&](const Finding& f) { return f.rank == rank; }));
}

std::string mm(double v) { return fmt::format("{:.3f} mm", v); }
std::string metres(double v) { return fmt::format("{:.2f} m", v / 1000.0); }
std::string clear(double v) { return v >= 20.0 ? "over 20 mm" : fmt::format("{:.2f} mm", v); }
std::string number(double v) { return fmt::format("{:.0f}", v); }

const Figure kFigures[] = {
    {"Time", [](const OperationResult& r, const Machine&) { return r.motion ? secondsOf(r) : kNothing; }, clockText},
    {"Way in all", [](const OperationResult& r, const Machine&) { return r.path() ? pathLength(*r.path()).all : kNothing; }, metres},
    {"Of that cutting", [](const OperationResult& r, const Machine&) { return r.path() ? pathLength(*r.path()).cutting : kNothing; }, metres, Figure::Better::Neither},
    {"Retracts", [](const OperationResult& r, const Machine&) { return r.links ? static_cast<double>(r.links->retracts) : kNothing; }, number},
    {"Widest gap", [](const OperationResult& r, const Machine&) { return r.pattern && r.pattern->widestGap > 0.0 ? r.pattern->widestGap : kNothing; }, mm},
    {"Highest scallop", [](const OperationResult& r, const Machine&) { return r.scallop > 0.0 ? r.scallop : kNothing; },
     [](double v) { return fmt::format("{:.4f} mm", v); }},
    {"Taken too much", [](const OperationResult& r, const Machine&) { return r.along && !r.along->map.empty() ? r.along->over : kNothing; },
     [](double v) { return fmt::format("{:.4f} mm", v); }},
    {"Left standing", [](const OperationResult& r, const Machine&) { return r.along && !r.along->map.empty() ? r.along->under : kNothing; },
     [](double v) { return fmt::format("{:.4f} mm", v); }},
    {"Steepest turn", [](const OperationResult& r, const Machine&) { return r.axis    ? r.axis->steepest
                                                                            : r.along ? r.along->steepest
                                                                                      : kNothing; },
     [](double v) { return fmt::format("{:.2f}°/mm", v); }},
    {"Rotaries at most", [](const OperationResult& r, const Machine& m) { return r.motion ? rotaryFigures(*r.motion, m).fastest : kNothing; },
     [](double v) { return fmt::format("{:.0f}°/min", v); }},
    {"They turn in all", [](const OperationResult& r, const Machine& m) { return r.motion ? rotaryFigures(*r.motion, m).turned : kNothing; },
     [](double v) { return fmt::format("{:.0f}°", v); }},
    {"Shank, nearest", [](const OperationResult& r, const Machine&) { return r.links ? leastOver(r, r.shankClearance) : kNothing; }, clear, Figure::Better::More},
    {"Holder, nearest", [](const OperationResult& r, const Machine&) { return r.links ? leastOver(r, r.holderClearance) : kNothing; }, clear, Figure::Better::More},
    {"Stops", [](const OperationResult& r, const Machine&) { return ranked(r, Rank::Stop); }, number},
    {"To look at", [](const OperationResult& r, const Machine&) { return ranked(r, Rank::Look); }, number},
};

} // namespace

RotaryFigures rotaryFigures(const JointMotion& motion, const Machine& machine) {
    RotaryFigures out;
    for (const int joint : machine.rotaries()) {
        for (std::size_t i = 1; i < motion.size(); ++i) {
            const double turn = degrees(std::abs(motion.at(i)[joint] - motion.at(i - 1)[joint])), time = motion.time[i] - motion.time[i - 1];
            out.turned += turn;
            if (time > 1e-9) out.fastest = std::max(out.fastest, 60.0 * turn / time);
        }
    }
    return out;
}

Result<std::vector<VariantResult>> compareVariants(const std::shared_ptr<const Workplace>& place, const Job& job, const std::string& operation,
                                                   const std::vector<std::shared_ptr<const OperationResult>>& before, StageCache& kept, Progress& progress) {
    const std::vector<const Recipe*> all = variantsOf(job, operation);
    RouteStock route(place, kept);
    for (const auto& r : before) route.add(r);
    std::vector<VariantResult> out;
    Job withFirst = job;
    if (!all.empty()) (void)takeVariant(withFirst, operation, all[0]->variant);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const Progress::Span span(progress, static_cast<double>(i) / static_cast<double>(all.size()), static_cast<double>(i + 1) / static_cast<double>(all.size()));
        Job with = job;
        if (auto ok = takeVariant(with, operation, all[i]->variant); !ok) return tl::unexpected(ok.error());
        const Recipe recipe = with.resolved(*with.operation(operation));
        auto made = runOperation(*place, recipe, kept, progress, {}, route.before());
        if (!made) return tl::unexpected(made.error());
        out.push_back({recipe.variant, i == 0 ? std::vector<std::string>() : differences(withFirst, *all[0], *all[i]), std::move(*made)});
    }
    return out;
}

std::vector<VariantLine> tableOf(const std::vector<VariantResult>& variants, const Machine& machine) {
    std::vector<VariantLine> out;
    for (const Figure& figure : kFigures) {
        VariantLine said{figure.what, {}, std::vector<bool>(variants.size(), false)};
        std::vector<double> values;
        for (const VariantResult& v : variants) {
            values.push_back(figure.value(*v.result, machine));
            said.said.push_back(std::isnan(values.back()) ? std::string() : figure.words(values.back()));
        }
        if (std::all_of(said.said.begin(), said.said.end(), [](const std::string& s) { return s.empty(); })) continue;
        // What reads alike is alike.
        std::size_t best = variants.size();
        for (std::size_t i = 0; i < values.size(); ++i)
            if (!std::isnan(values[i]) && (best == variants.size() || (figure.better == Figure::Better::More ? values[i] > values[best] : values[i] < values[best])))
                best = i;
        const bool alike = std::all_of(said.said.begin(), said.said.end(), [&](const std::string& s) { return s.empty() || s == said.said[best]; });
        said.alike = alike && !always(figure.what);
        for (std::size_t i = 0; i < values.size() && !alike && figure.better != Figure::Better::Neither; ++i) said.best[i] = said.said[i] == said.said[best];
        out.push_back(std::move(said));
    }
    return out;
}

} // namespace gyre
