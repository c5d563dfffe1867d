// What every kind of mend asks for, and how mends are written down.
#include "base/Text.h"
#include "form/Form.h"
#include "form/NewWord.h"
#include "mend/MendForm.h"
#include "part/ShapeRefForm.h"
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <sstream>

namespace gyre {

namespace {
using T = MendField::Type;
constexpr double kFarOff = 1e4;
const std::vector<std::pair<const char*, const char*>> kAxes{{"x", "X"}, {"y", "Y"}, {"z", "Z"}};

std::vector<MendForm> ofFacesAndCurves() {
    return {
        {"freedFace",
         "Face freed of its trim",
         "Free {faces} of the trim: {extent}, grown by {grow}.",
         {{"extent", "How much of the surface", T::Choice, 0, 1, 1, {{"trim", "as far as the trim spans"}, {"natural", "all of the surface"}}},
          {"grow", "Grown on every side", T::Length, 0, 1e3, 0}}},
        {"edges", "Curve from edges", "Take {first} as one curve.", {}},
        {"gridLine",
         "Line of a face's grid",
         "On {faces} take the line that runs along {along} at {at}.",
         {{"along", "Direction", T::Choice, 0, 1, 0, {{"u", "its first direction"}, {"v", "its second direction"}}},
          {"at", "Share of the face's width", T::Percent, 0, 100, 50}}},
        {"middle",
         "Middle of two curves",
         "Midway between {first} and {second}, raised by {raise} along {along}.",
         {{"raise", "Raised by", T::Length, -kFarOff, kFarOff, 0}, {"along", "Way", T::Choice, 0, 2, 2, kAxes}}},
        {"offsetOnFace",
         "Offset on a face",
         "Beside {first} on {faces}, {distance} to the left.",
         {{"distance", "Distance along the face", T::Length, -kFarOff, kFarOff, 1}}},
        {"offsetAway",
         "Offset off a face",
         "{first} shifted along {along} of {faces} by {distance}.",
         {{"along", "Way", T::Choice, 0, 3, 0, {{"normal", "the normal"}, {"x", "X"}, {"y", "Y"}, {"z", "Z"}}},
          {"distance", "Distance", T::Length, -kFarOff, kFarOff, 1}}},
        {"project",
         "Projected onto faces",
         "{first} projected onto {faces}, {along}.",
         {{"along", "Way", T::Choice, 0, 3, 0, {{"nearest", "to the nearest point"}, {"x", "from +X"}, {"y", "from +Y"}, {"z", "from +Z"}}}}},
        {"extend",
         "Extended",
         "{first} extended by {start} at its start and {end} at its end, {shape}.",
         {{"start", "At the start", T::Length, 0, kFarOff, 0},
          {"end", "At the end", T::Length, 0, kFarOff, 5},
          {"shape", "Shape", T::Choice, 0, 1, 0, {{"straight", "straight on"}, {"arc", "with its curvature"}}}}},
        {"trim",
         "Trimmed",
         "{first} without {start} at its start and {end} at its end; cut where it comes nearest to {second}, keeping {keep}.",
         {{"start", "Off the start", T::Length, 0, kFarOff, 0},
          {"end", "Off the end", T::Length, 0, kFarOff, 0},
          {"keep", "Which part stays", T::Choice, 0, 1, 0, {{"before", "what comes before"}, {"after", "what comes after"}}}}},
        {"join", "Joined", "{first} and {second} as one curve.", {}},
        {"simplify",
         "Simplified",
         "{first} with the fewest points within {tolerance}, leaving out points {drop}.",
         {{"tolerance", "Tolerance", T::Length, 1e-5, 10, 0.01}}},
        {"copy",
         "Moved copies",
         "{count} of {first}, each moved by {dx} {dy} {dz} and turned by {turn} about {axis}.",
         {{"count", "Copies", T::Number, 1, 500, 1},
          {"dx", "Along X", T::Length, -kFarOff, kFarOff, 0},
          {"dy", "Along Y", T::Length, -kFarOff, kFarOff, 0},
          {"dz", "Along Z", T::Length, -kFarOff, kFarOff, 0},
          {"turn", "Turn", T::Angle, -360, 360, 0},
          {"axis", "Axis through the datum", T::Choice, 0, 2, 2, kAxes}}},
    };
}

std::vector<MendForm> drawn() {
    return {
        {"sketch",
         "Sketch by numbers",
         "{as} through {points} on {on}[, number {plane}][, radius {radius}]; {ends}.",
         {{"as", "What", T::Choice, 0, 1, 0, {{"lines", "Lines and arcs"}, {"points", "Points"}}},
          {"on",
           "Where",
           T::Choice,
           0,
           6,
           0,
           {{"xy", "the XY plane"},
            {"yz", "the YZ plane"},
            {"zx", "the ZX plane"},
            {"roundX", "a cylinder about X"},
            {"roundY", "a cylinder about Y"},
            {"roundZ", "a cylinder about Z"},
            {"plane", "a work plane"}}},
          {"plane", "Work plane, counted from 1", T::Number, 1, 1000, 1},
          {"radius", "Radius of the cylinder", T::Length, 1e-3, kFarOff, 25},
          {"ends", "Ends", T::Choice, 0, 1, 0, {{"open", "open"}, {"closed", "closed"}}}}},
        {"drawn",
         "Drawn on the part",
         "A curve on the part through {spots}, {shape}[, {ends}].",
         {{"shape",
           "Shape",
           T::Choice,
           0,
           2,
           0,
           {{"smooth", "smooth"}, {"straight", "straight from one to the next"}, {"pairs", "as straight lines of two points each"}}},
          {"ends", "Ends", T::Choice, 0, 1, 0, {{"open", "open"}, {"closed", "closed"}}}}},
        {"helix",
         "Helix",
         "A helix about {axis} through {cx} {cy} {cz}: radius {radius}, from {start}, pitch {pitch}, {growth}[ to {endPitch}], {turns} turns, {hand}.",
         {{"axis", "Axis", T::Choice, 0, 2, 2, kAxes},
          {"cx", "Centre X", T::Length, -kFarOff, kFarOff, 0},
          {"cy", "Centre Y", T::Length, -kFarOff, kFarOff, 0},
          {"cz", "Centre Z", T::Length, -kFarOff, kFarOff, 0},
          {"radius", "Radius", T::Length, 1e-3, kFarOff, 20},
          {"start", "Starting angle", T::Angle, -360, 360, 0},
          {"pitch", "Pitch", T::Length, -kFarOff, kFarOff, 10},
          {"growth", "Does the pitch change", T::Choice, 0, 1, 0, {{"constant", "constant"}, {"changing", "changing evenly"}}},
          {"endPitch", "Pitch at the end", T::Length, -kFarOff, kFarOff, 20},
          {"turns", "Turns", T::Number, 1e-3, 500, 3},
          {"hand", "Hand", T::Choice, 0, 1, 0, {{"right", "right-handed"}, {"left", "left-handed"}}}}},
    };
}

// In the order of MendKind.
const std::vector<MendForm>& forms() {
    static const std::vector<MendForm> all = [] {
        std::vector<MendForm> out = ofFacesAndCurves();
        for (MendForm& f : drawn()) out.push_back(std::move(f));
        return out;
    }();
    return all;
}

} // namespace

const MendForm& formOf(MendKind kind) { return forms()[static_cast<std::size_t>(kind)]; }

bool MendForm::asks(const char* what) const { return std::strstr(sentence, fmt::format("{{{}}}", what).c_str()) != nullptr; }

const MendField* MendForm::field(const std::string& key) const {
    for (const MendField& f : fields)
        if (key == f.key) return &f;
    return nullptr;
}

bool Mend::matters(const std::string& key) const {
    if (kind == MendKind::Helix) return key != "endPitch" || choice("growth") == 1;
    if (kind == MendKind::Drawn) return key != "ends" || choice("shape") != 2;
    if (kind != MendKind::Sketch) return true;
    const int on = choice("on");
    return key == "radius" ? on >= 3 && on < 6 : key == "plane" ? on == 6 : true;
}

double Mend::number(const char* key) const {
    const auto it = numbers.find(key);
    if (it != numbers.end()) return it->second;
    const MendField* f = formOf(kind).field(key);
    return f ? f->initial : 0.0;
}

namespace {

const Form<MendSource>& sourceForm() {
    static const Form<MendSource> form = Form<MendSource>("a curve to start from")
                                             .text("curve", &MendSource::curve, 200, "What another mend made, by name; \"name/2\" for its second curve")
                                             .writtenWhenChanged()
                                             .list("edges", &MendSource::edges, kMostShapes, shapeRefForm(), "Edges in any order")
                                             .writtenWhenChanged();
    return form;
}

void readNumbers(const JsonView& v, Mend& m) {
    const JsonView n = v.object("numbers");
    for (const auto& [key, value] : n.raw().items()) {
        const MendField* f = formOf(m.kind).field(key);
        if (!f) return n.complain(fmt::format("'{}' is not known here", key));
        if (f->type != T::Choice) {
            m.numbers[key] = n.number(f->key, f->low, f->high);
            continue;
        }
        std::vector<std::string> ids;
        for (const auto& o : f->options) ids.emplace_back(o.first);
        if (const int i = n.choice(f->key, ids); i >= 0) m.numbers[key] = i;
    }
}

void writeNumbers(const Mend& m, OrderedJson& out) {
    OrderedJson numbers = OrderedJson::object();
    for (const MendField& f : formOf(m.kind).fields) {
        const double value = m.number(f.key);
        if (f.type == T::Choice)
            numbers[f.key] = f.options[static_cast<std::size_t>(std::clamp<long>(std::lround(value), 0, static_cast<long>(f.options.size()) - 1))].first;
        else
            numbers[f.key] = value;
    }
    if (!numbers.empty()) out["numbers"] = numbers;
}

void readPoints(const JsonView& v, Mend& m) {
    m.points.clear();
    for (const JsonView& p : v.list("points", 100000)) {
        const Json& a = p.raw();
        const auto good = [](const Json& x) { return x.is_number() && std::abs(x.get<double>()) < 1e6; };
        if (!a.is_array() || a.size() < 2 || a.size() > 3 || !std::all_of(a.begin(), a.end(), good))
            return p.complain("a point is two coordinates, and a bulge if an arc follows");
        m.points.push_back({a[0].get<double>(), a[1].get<double>(), a.size() == 3 ? a[2].get<double>() : 0.0});
    }
}

void writePoints(const Mend& m, OrderedJson& out) {
    for (const auto& p : m.points) out["points"].push_back(p[2] == 0.0 ? OrderedJson{p[0], p[1]} : OrderedJson{p[0], p[1], p[2]});
}

} // namespace

const Form<Mend>& mendForm() {
    static const Form<Mend> form = [] {
        std::vector<Form<Mend>::Option<MendKind>> kinds;
        for (int i = 0; i < kMendKinds; ++i)
            kinds.push_back({static_cast<MendKind>(i), forms()[static_cast<std::size_t>(i)].id, forms()[static_cast<std::size_t>(i)].title});
        return Form<Mend>("a mend")
            .text("name", &Mend::name, 200, "Name")
            .needed()
            .choice("kind", &Mend::kind, kinds, "Kind")
            .needed()
            .list("faces", &Mend::faces, kMostShapes, shapeRefForm(), "Faces")
            .writtenWhenChanged()
            .part("first", &Mend::first, sourceForm(), "First curve")
            .writtenWhen([](const Mend& m) { return !m.first.empty(); })
            .part("second", &Mend::second, sourceForm(), "Second curve")
            .writtenWhen([](const Mend& m) { return !m.second.empty(); })
            .special(newWord("numbers", WordKind::Any, "Numbers and choices of its kind"), readNumbers, writeNumbers,
                     [](Mend& m, Dice& dice) {
                         m.numbers.clear();
                         for (const MendField& f : formOf(m.kind).fields)
                             m.numbers[f.key] = f.type == T::Choice ? static_cast<double>(dice() % f.options.size())
                                                                    : std::min(f.high, std::max(f.low, static_cast<double>(dice() % 100)));
                     })
            .special(newWord("points", WordKind::Any, "Of a sketch or a drawn curve: coordinates, and a bulge where an arc follows"), readPoints, writePoints,
                     [](Mend& m, Dice& dice) {
                         m.points.assign(dice() % 4, {1.0, 2.0, 0.0});
                     })
            .numbers("drop", &Mend::drop, 100000, -1'000'000'000, 1'000'000'000, "Numbers of points to leave out")
            .writtenWhenChanged()
            .settled([](Mend& m) { m.numbers.clear(); });
    }();
    return form;
}

Result<std::vector<std::array<double, 3>>> sketchPoints(const std::string& text) {
    std::vector<std::array<double, 3>> out;
    std::istringstream parts(text);
    for (std::string part; std::getline(parts, part, ';');) {
        if (part.find_first_not_of(" \t\r\n") == std::string::npos) continue;
        std::istringstream words(part);
        std::array<double, 3> p{};
        std::size_t n = 0;
        for (std::string word; words >> word; ++n) {
            const double value = numberIn(word).value_or(std::nan(""));
            if (n >= 3 || !std::isfinite(value) || std::abs(value) >= 1e6)
                return fail(fmt::format("'{}' is not a point", part), {}, "Write two coordinates, and a bulge if an arc follows; points are separated by ;");
            p[n] = value;
        }
        if (n < 2) return fail(fmt::format("'{}' is not a point", part), {}, "Write two coordinates, e.g. 10 5");
        out.push_back(p);
    }
    return out;
}

std::string sketchText(const std::vector<std::array<double, 3>>& points) {
    std::string s;
    for (const auto& p : points) s += (s.empty() ? "" : "; ") + (p[2] == 0.0 ? fmt::format("{:g} {:g}", p[0], p[1]) : fmt::format("{:g} {:g} {:g}", p[0], p[1], p[2]));
    return s;
}

} // namespace gyre
