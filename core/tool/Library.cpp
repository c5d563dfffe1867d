#include "tool/Library.h"
#include <fmt/format.h>

namespace gyre {

const Assembly* ToolLibrary::find(const std::string& id) const {
    for (const auto& a : assemblies)
        if (a.id == id) return &a;
    return nullptr;
}

Assembly assemblyFromJson(const JsonView& v) {
    v.allow({"id", "name", "cutter", "stickOut", "holder", "spindleSpeed", "feedPerTooth", "materials", "coolant"});
    Assembly a;
    a.id = v.text("id", 100);
    a.name = v.text("name", "", 200);
    const JsonView c = v.object("cutter");
    c.allow({"shape", "DC", "RE", "TA", "APMX", "LU", "DN", "DMM", "OAL", "NOF", "SIG", "tipDiameter", "PRFRAD"});
    constexpr double kLong = 1e4;
    a.cutter.shape =
        static_cast<CutterShape>(c.choice("shape", {"flat", "ball", "cornerRadius", "taperedBall", "tapered", "lollipop", "chamfer", "drill", "spot", "barrel"}, 1));
    a.cutter.diameter = c.number("DC", 0.0, kLong);
    a.cutter.cornerRadius = c.number("RE", 0.0, kLong, 0.0);
    a.cutter.taperDegrees = c.number("TA", 0.0, 89.0, 0.0);
    a.cutter.fluteLength = a.cutter.shape == CutterShape::Lollipop ? c.number("APMX", 0.0, kLong, a.cutter.diameter) : c.number("APMX", 0.0, kLong);
    a.cutter.shankDiameter = c.number("DMM", 0.0, kLong, a.cutter.diameter);
    a.cutter.shoulderLength = c.number("LU", 0.0, kLong, a.cutter.fluteLength);
    a.cutter.neckDiameter = c.number("DN", 0.0, kLong, a.cutter.shankDiameter);
    a.cutter.overallLength = c.number("OAL", 0.0, kLong);
    a.cutter.flutes = c.integer("NOF", 1, 64, 2);
    a.cutter.pointDegrees = c.number("SIG", 1.0, 180.0, a.cutter.shape == CutterShape::Drill ? 140.0 : 90.0);
    a.cutter.tipDiameter = c.number("tipDiameter", 0.0, kLong, 0.0);
    a.cutter.profileRadius = c.number("PRFRAD", 0.0, kLong, 60.0);
    for (const JsonView& m : v.list("materials", 200)) {
        m.allow({"material", "VC", "FZ"});
        a.materials.push_back({m.text("material", 100), m.number("VC", 0.0, 1e5), m.number("FZ", 0.0, 10.0)});
    }
    a.stickOut = v.number("stickOut", 0.0, kLong);
    a.spindleSpeed = v.number("spindleSpeed", 0.0, 1e6, 8000.0);
    a.feedPerTooth = v.number("feedPerTooth", 0.0, 10.0, 0.05);
    a.coolant = static_cast<Coolant>(v.choice("coolant", {"none", "flood", "mist", "through"}, 0));
    if (v.has("holder")) {
        const JsonView h = v.object("holder");
        h.allow({"name", "steps"});
        a.holderName = h.text("name", "", 200);
        for (const JsonView& s : h.list("steps", 64)) {
            s.allow({"lowerDiameter", "upperDiameter", "length"});
            HolderStep step{};
            step.lowerDiameter = s.number("lowerDiameter", 0.0, kLong);
            step.upperDiameter = s.number("upperDiameter", 0.0, kLong, step.lowerDiameter);
            step.length = s.number("length", 0.0, kLong);
            a.holder.push_back(step);
        }
    }
    if (!v.failed())
        if (auto ok = validate(a); !ok) v.complain(ok.error().text());
    return a;
}

OrderedJson assemblyToJson(const Assembly& a) {
    static constexpr const char* kShapes[] = {"flat", "ball", "cornerRadius", "taperedBall", "tapered", "lollipop", "chamfer", "drill", "spot", "barrel"};
    const Cutter& c = a.cutter;
    OrderedJson cutter = {{"shape", kShapes[static_cast<int>(c.shape)]}, {"DC", c.diameter}};
    const CutterUse use = usedBy(c.shape);
    if (use.cornerRadius) cutter["RE"] = c.cornerRadius;
    if (use.taper) cutter["TA"] = c.taperDegrees;
    if (use.point) cutter["SIG"] = c.pointDegrees;
    if (use.tip) cutter["tipDiameter"] = c.tipDiameter;
    if (use.profile) cutter["PRFRAD"] = c.profileRadius;
    cutter["APMX"] = c.fluteLength;
    cutter["LU"] = c.shoulderLength;
    cutter["DN"] = c.neckDiameter;
    cutter["DMM"] = c.shankDiameter;
    cutter["OAL"] = c.overallLength;
    cutter["NOF"] = c.flutes;
    OrderedJson steps = OrderedJson::array();
    for (const auto& s : a.holder) steps.push_back({{"lowerDiameter", s.lowerDiameter}, {"upperDiameter", s.upperDiameter}, {"length", s.length}});
    OrderedJson materials = OrderedJson::array();
    for (const CuttingData& d : a.materials) materials.push_back({{"material", d.material}, {"VC", d.surfaceSpeed}, {"FZ", d.chipLoad}});
    OrderedJson out = {{"id", a.id},
                       {"name", a.name},
                       {"cutter", cutter},
                       {"stickOut", a.stickOut},
                       {"holder", {{"name", a.holderName}, {"steps", steps}}},
                       {"spindleSpeed", a.spindleSpeed},
                       {"feedPerTooth", a.feedPerTooth}};
    if (!materials.empty()) out["materials"] = materials;
    if (a.coolant != Coolant::None) out["coolant"] = coolantName(a.coolant);
    return out;
}

Result<ToolLibrary> toolLibraryFromJson(const std::string& text, const std::string& place) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    if (!json->is_object() || v.text("format") != "gyre-tools") v.complain("this is not a tool library: 'format' is not 'gyre-tools'");
    v.allow({"format", "version", "name", "assemblies", "note"});
    if (!v.failed() && v.integer("version", 1, 1000000) != 1) v.complain("this version of the tool format is not known");
    ToolLibrary library;
    library.name = v.text("name", "", 200);
    for (const JsonView& a : v.list("assemblies", 5000)) {
        library.assemblies.push_back(assemblyFromJson(a));
        if (error) break;
        for (std::size_t i = 0; i + 1 < library.assemblies.size(); ++i)
            if (library.assemblies[i].id == library.assemblies.back().id) a.complain(fmt::format("the id '{}' is there twice", library.assemblies[i].id));
    }
    if (error) return tl::unexpected(*error);
    return library;
}

std::string toolLibraryToJson(const ToolLibrary& library) {
    OrderedJson out = {{"format", "gyre-tools"}, {"version", 1}, {"name", library.name}, {"assemblies", OrderedJson::array()}};
    for (const auto& a : library.assemblies) out["assemblies"].push_back(assemblyToJson(a));
    return textOf(out, 1) + "\n";
}

} // namespace gyre
