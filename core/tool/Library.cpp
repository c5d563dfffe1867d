#include "tool/Library.h"
#include "form/Form.h"
#include "tool/CutterKind.h"
#include <fmt/format.h>
#include <set>

namespace gyre {

const Assembly* ToolLibrary::find(const std::string& id) const {
    for (const auto& a : assemblies)
        if (a.id == id) return &a;
    return nullptr;
}

namespace {

constexpr double kLong = 1e4;

const Form<Cutter>& cutterForm() {
    using C = Cutter;
    const auto when = [](bool CutterUse::*use) { return [use](const C& c) { return usedBy(c.shape).*use; }; };
    std::vector<Form<C>::Option<CutterShape>> shapes;
    for (int i = 0; i < kCutterShapes; ++i) {
        const CutterKind& kind = kindOf(static_cast<CutterShape>(i));
        shapes.push_back({kind.shape, kind.word, kind.name});
    }
    static const Form<C> form = Form<C>("a cutter")
                                    .choice("shape", &C::shape, shapes, "Shape")
                                    .length("DC", &C::diameter, 0.0, kLong, "Cutting diameter; of tapered cutters at the tip")
                                    .needed()
                                    .length("RE", &C::cornerRadius, 0.0, kLong, "Corner radius, or radius of a barrel's nose")
                                    .writtenWhen(when(&CutterUse::cornerRadius))
                                    .angle("TA", &C::taperDegrees, 0.0, 89.0, "Half angle of the flank")
                                    .writtenWhen(when(&CutterUse::taper))
                                    .angle("SIG", &C::pointDegrees, 1.0, 180.0, "Whole angle of the point; when left out 140° of drills, else 90°")
                                    .writtenWhen(when(&CutterUse::point))
                                    .length("tipDiameter", &C::tipDiameter, 0.0, kLong, "Flat at a chamfer cutter's tip")
                                    .writtenWhen(when(&CutterUse::tip))
                                    .length("PRFRAD", &C::profileRadius, 0.0, kLong, "Radius of a barrel's flank")
                                    .writtenWhen(when(&CutterUse::profile))
                                    .length("APMX", &C::fluteLength, 0.0, kLong, "Cutting length; may be left out of lollipops")
                                    .length("LU", &C::shoulderLength, 0.0, kLong, "Free length below the shank; the cutting length when left out")
                                    .length("DN", &C::neckDiameter, 0.0, kLong, "Diameter of the neck; the shank's when left out")
                                    .length("DMM", &C::shankDiameter, 0.0, kLong, "Diameter of the shank; the cutting diameter when left out")
                                    .length("OAL", &C::overallLength, 0.0, kLong, "Overall length")
                                    .needed()
                                    .count("NOF", &C::flutes, 1, 64, "Flutes")
                                    .before([](const JsonView& v, C& c) {
                                        c.shape = CutterShape::Ball;
                                        cutterForm().readOne("shape", v, c);
                                        c.diameter = v.number("DC", 0.0, kLong);
                                        c.cornerRadius = c.taperDegrees = 0.0;
                                        if (c.shape != CutterShape::Lollipop && !v.has("APMX")) v.complain("'APMX' is missing");
                                        c.fluteLength = v.number("APMX", 0.0, kLong, c.diameter);
                                        c.shankDiameter = v.number("DMM", 0.0, kLong, c.diameter);
                                        c.shoulderLength = c.fluteLength;
                                        c.neckDiameter = c.shankDiameter;
                                        c.pointDegrees = c.shape == CutterShape::Drill ? 140.0 : 90.0;
                                    });
    return form;
}

const Form<HolderStep>& stepForm() {
    using H = HolderStep;
    static const Form<H> form = Form<H>("a step of a holder")
                                    .length("lowerDiameter", &H::lowerDiameter, 0.0, kLong, "Diameter at its lower end")
                                    .needed()
                                    .length("upperDiameter", &H::upperDiameter, 0.0, kLong, "Diameter at its upper end; as below when left out")
                                    .length("length", &H::length, 0.0, kLong, "Length")
                                    .needed()
                                    .before([](const JsonView& v, H& h) { h.upperDiameter = v.number("lowerDiameter", 0.0, kLong); });
    return form;
}

const Form<CuttingData>& cuttingDataForm() {
    using C = CuttingData;
    static const Form<C> form = Form<C>("cutting data")
                                    .text("material", &C::material, 100, "Material")
                                    .needed()
                                    .number("VC", &C::surfaceSpeed, 0.0, 1e5, "Surface speed, m/min")
                                    .needed()
                                    .number("FZ", &C::chipLoad, 0.0, 10.0, "Feed per tooth, mm")
                                    .needed();
    return form;
}

const Form<CutLimits>& limitsForm() {
    using C = CutLimits;
    static const Form<C> form = Form<C>("what a cut may ask of a tool")
                                    .angle("engaged", &C::engaged, 0.0, 360.0, "How much of its round may stand in material; 0: not said")
                                    .step(5.0)
                                    .length("deep", &C::deep, 0.0, kLong, "How deep along its axis it may cut; 0: not said")
                                    .step(0.5)
                                    .number("chip", &C::chip, 0.0, 10.0, "Thickest chip it may take, mm; 0: not said")
                                    .step(0.01);
    return form;
}

const Form<Assembly>& holderForm() {
    using A = Assembly;
    static const Form<A> form =
        Form<A>("a holder").text("name", &A::holderName, 200, "Name").list("steps", &A::holder, 64, stepForm(), "Steps from the cutter up to the spindle nose");
    return form;
}

} // namespace

const Form<Assembly>& assemblyForm() {
    using A = Assembly;
    static const Form<A> form =
        Form<A>("a tool")
            .text("id", &A::id, 100, "What it is known by")
            .needed()
            .text("name", &A::name, 200, "Name")
            .part("cutter", &A::cutter, cutterForm(), "Cutter, by the names of ISO 13399")
            .needed()
            .length("stickOut", &A::stickOut, 0.0, kLong, "Stick-out: tip to holder face")
            .needed()
            .group("holder", holderForm(), "Holder")
            .number("spindleSpeed", &A::spindleSpeed, 0.0, 1e6, "Spindle speed, 1/min")
            .step(100.0)
            .number("feedPerTooth", &A::feedPerTooth, 0.0, 10.0, "Feed per tooth, mm")
            .step(0.01)
            .list("materials", &A::materials, 200, cuttingDataForm(), "What it may do in materials")
            .writtenWhenChanged()
            .choice(
                "coolant", &A::coolant,
                {{Coolant::None, "none", "none"}, {Coolant::Flood, "flood", "flood"}, {Coolant::Mist, "mist", "mist"}, {Coolant::Through, "through", "through the tool"}},
                "Coolant")
            .writtenWhenChanged()
            .part("limits", &A::limits, limitsForm(), "What a cut may ask of it")
            .writtenWhenChanged()
            .check([](const JsonView& v, const A& a) {
                if (auto ok = validate(a); !ok) v.complain(ok.error().text());
            })
            .settled([](A& a) { a = possible(a); });
    return form;
}

const FormInfo& toolWords() {
    static const FormInfo words = assemblyForm().info();
    return words;
}

const Form<ToolLibrary>& toolLibraryForm() {
    static const Form<ToolLibrary> form = Form<ToolLibrary>("a tool library")
                                              .constant("format", "gyre-tools", "What the file is")
                                              .constant("version", 1, "Version of the format")
                                              .text("name", &ToolLibrary::name, 200, "Name")
                                              .list("assemblies", &ToolLibrary::assemblies, 5000, assemblyForm(), "Tools with their holders")
                                              .remark("note", "For whoever writes the file by hand; not kept")
                                              .check([](const JsonView& v, const ToolLibrary& library) {
                                                  std::set<std::string> seen;
                                                  for (const Assembly& a : library.assemblies)
                                                      if (!seen.insert(a.id).second) v.complain(fmt::format("the id '{}' is there twice", a.id));
                                              });
    return form;
}

Result<ToolLibrary> toolLibraryFromJson(const std::string& text, const std::string& place) {
    auto json = parseJson(text, place);
    if (!json) return tl::unexpected(json.error());
    std::optional<Error> error;
    const JsonView v(*json, place + " ", error);
    if (!json->is_object() || v.text("format") != "gyre-tools") v.complain("this is not a tool library: 'format' is not 'gyre-tools'");
    if (!v.failed() && v.integer("version", 1, 1000000) != 1) v.complain("this version of the tool format is not known");
    ToolLibrary library;
    if (!error) library = toolLibraryForm().read(v);
    if (error) return tl::unexpected(*error);
    return library;
}

std::string toolLibraryToJson(const ToolLibrary& library) { return textOf(toolLibraryForm().write(library), 1) + "\n"; }

} // namespace gyre
