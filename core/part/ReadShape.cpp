#ifndef OCC_CONVERT_SIGNALS // some builds of the kernel set it themselves
#define OCC_CONVERT_SIGNALS // OCC_CATCH_SIGNALS below jumps back from a fault
#endif
#include "part/ReadShape.h"
#include "base/File.h"
#include "base/Hash.h"
#include "base/Text.h"
#include "part/KernelProgress.h"
#include "part/Part.h"
#include "part/StepText.h"
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepGProp.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <IGESControl_Reader.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <OSD.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <STEPControl_Reader.hxx>
#include <Standard_ErrorHandler.hxx>
#include <Standard_Failure.hxx>
#include <TDF_Label.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Compound.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <algorithm>
#include <array>
#include <chrono>
#include <condition_variable>
#include <csignal>
#include <cstring>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <istream>
#include <map>
#include <mutex>
#include <optional>
#include <thread>

namespace gyre {
namespace {

// The reader keeps state of its own and prints what it finds: one file at a time, silently.
std::mutex& readerMutex() {
    static std::mutex m;
    return m;
}

// Damaged entities make the kernel's reader follow null pointers. While this lives, such a fault comes back as an exception;
// afterwards the program's own handlers are in force again.
class SignalsAsExceptions {
public:
    SignalsAsExceptions() {
        for (std::size_t i = 0; i < kSignals.size(); ++i) sigaction(kSignals[i], nullptr, &m_before[i]);
        OSD::SetSignal(OSD_SignalMode_Set, false);
    }
    ~SignalsAsExceptions() {
        for (std::size_t i = 0; i < kSignals.size(); ++i) sigaction(kSignals[i], &m_before[i], nullptr);
    }
    SignalsAsExceptions(const SignalsAsExceptions&) = delete;
    SignalsAsExceptions& operator=(const SignalsAsExceptions&) = delete;

private:
    static constexpr std::array<int, 8> kSignals{SIGSEGV, SIGFPE, SIGBUS, SIGILL, SIGHUP, SIGINT, SIGQUIT, SIGTERM};
    std::array<struct sigaction, 8> m_before{};
};

enum class Format { Step, Iges, Brep };

/// Which of the formats the text is, and whether it is whole.
Result<Format> formatOf(const std::string& text, const std::string& place) {
    const auto start = text.find_first_not_of(" \t\r\n\xEF\xBB\xBF");
    if (start == std::string::npos) return fail("the file is empty", place);
    if (text.compare(start, 13, "ISO-10303-21;") == 0) {
        if (text.find("END-ISO-10303-21", start + 13) == std::string::npos)
            return fail("the STEP file is cut short: its closing line is missing", place, "Copy or export the file again");
        if (const auto fault = faultInStep(text))
            return fail(fmt::format("the STEP file is damaged in line {}: {}", fault->line, fault->what), place, "Copy or export the file again");
        return Format::Step;
    }
    // IGES stands on lines of 80 columns; the 73rd tells the section, S first and T last.
    const auto line = text.find_first_of("\r\n");
    if (line != std::string::npos && line >= 73 && text[72] == 'S') {
        const auto last = text.find_last_not_of(" \t\r\n");
        const auto begin = text.find_last_of("\r\n", last);
        if (begin == std::string::npos || last - begin < 73 || text[begin + 73] != 'T')
            return fail("the IGES file is cut short: its closing section is missing", place, "Copy or export the file again");
        return Format::Iges;
    }
    const std::string head = text.substr(start, 4096);
    if (head.find("CASCADE Topology") != std::string::npos || head.rfind("DBRep_DrawableShape", 0) == 0) return Format::Brep;
    return fail("this is not a STEP file (it does not begin with ISO-10303-21), and neither IGES nor BREP", place, "Export the part as STEP AP203, AP214 or AP242");
}

constexpr double kParsed = 0.12, kRead = 0.3; // of opening a part: its text is taken in, its shape is made

/// The shapes of a file whose entities the reader has taken in.
template <class Reader> Result<TopoDS_Shape> shapeFrom(Reader& reader, IFSelect_ReturnStatus taken, const std::string& place, const char* what, Progress& progress) {
    if (progress.cancelled()) return cancelledError();
    if (taken != IFSelect_RetDone) return fail(fmt::format("the {} file cannot be read: its entities are damaged", what), place, "Export the part again");
    const opencascade::handle<KernelWatch> watch = new KernelWatch(progress, "Reading " + place, kParsed, kRead);
    const int roots = reader.TransferRoots(watch->Start());
    if (progress.cancelled()) return cancelledError();
    if (roots < 1) return fail(fmt::format("the {} file holds no shape", what), place, "Export a solid or surface body");
    return reader.OneShape();
}

/// Reads under the kernel's one lock; what goes wrong inside the kernel becomes an error.
template <class Read> Result<TopoDS_Shape> readGuarded(const std::string& place, const Progress& progress, const Read& read) {
    const std::lock_guard lock(readerMutex());
    if (progress.cancelled()) return cancelledError();
    Message::DefaultMessenger()->ChangePrinters().Clear();
    const SignalsAsExceptions guarded;
    try {
        OCC_CATCH_SIGNALS
        Result<TopoDS_Shape> shape = read();
        if (shape && shape->IsNull()) return fail("the file holds no shape, or is damaged inside", place, "Export a solid or surface body");
        return shape;
    } catch (const std::ios_base::failure&) {
        if (progress.cancelled()) return cancelledError();
        return fail("the BREP file is damaged inside: a number is missing or unreadable", place, "Export the part again");
    } catch (const Standard_Failure& failure) {
        return fail(fmt::format("the file is damaged inside ({})", failure.DynamicType()->Name()), place, "Export the part again");
    }
}

/// IGES often holds loose faces: those that share their borders are sewn together, so that edges know both of their faces.
Result<TopoDS_Shape> igesShape(const std::filesystem::path& file, const std::string& place, Progress& progress) {
    return readGuarded(place, progress, [&]() -> Result<TopoDS_Shape> {
        IGESControl_Reader reader;
        auto shape = shapeFrom(reader, reader.ReadFile(file.c_str()), place, "IGES", progress);
        if (!shape || shape->IsNull()) return shape;
        constexpr double kSewn = 0.35;
        BRepBuilderAPI_Sewing sewing(1e-3);
        sewing.Add(*shape);
        const opencascade::handle<KernelWatch> watch = new KernelWatch(progress, "Sewing " + place, kRead, kSewn);
        sewing.Perform(watch->Start());
        if (progress.cancelled()) return cancelledError();
        return sewing.SewedShape().IsNull() ? *shape : sewing.SewedShape();
    });
}

/// The kernel reads the lines of an IGES file to their end, whatever is asked of it meanwhile. So that is done in a thread that is left
/// behind when the work is called off; the next reading waits for it.
Result<TopoDS_Shape> igesShapeAside(const std::filesystem::path& file, const std::string& place, Progress& progress) {
    struct Reading {
        std::mutex lock;
        std::condition_variable changed;
        std::optional<Result<TopoDS_Shape>> result;
        double fraction = 0.0;
        Progress own{[this](double f, const std::string&) {
            const std::lock_guard guard(lock);
            fraction = f;
        }};
    };
    struct LeftBehind {
        std::mutex lock;
        std::vector<std::thread> threads;
        ~LeftBehind() {
            for (std::thread& t : threads) t.join();
        }
    };
    static LeftBehind left;
    const auto reading = std::make_shared<Reading>();
    std::thread thread([reading, file, place] {
        auto result = igesShape(file, place, reading->own);
        {
            const std::lock_guard guard(reading->lock);
            reading->result = std::move(result);
        }
        reading->changed.notify_all();
    });
    std::unique_lock guard(reading->lock);
    constexpr std::chrono::milliseconds kAsk{30};
    while (!reading->changed.wait_for(guard, kAsk, [&] { return reading->result.has_value(); })) {
        if (progress.cancelled()) {
            reading->own.cancel();
            const std::lock_guard more(left.lock);
            left.threads.push_back(std::move(thread));
            return cancelledError();
        }
        const double fraction = reading->fraction;
        guard.unlock(); // whoever listens may take his time
        progress.report(fraction, "Reading " + place);
        guard.lock();
    }
    thread.join();
    return progress.cancelled() ? cancelledError() : std::move(*reading->result);
}

/// The text of a file and its format, checked for its ends.
Result<std::pair<Format, std::string>> trustedText(const std::filesystem::path& file) {
    constexpr std::uintmax_t kLargest = 2ULL << 30;
    auto text = readFile(file, kLargest);
    if (!text) return tl::unexpected(text.error());
    const auto format = formatOf(*text, file.filename().string());
    if (!format) return tl::unexpected(format.error());
    return std::pair{*format, std::move(*text)};
}

struct NamedBody {
    BodyInFile info;
    TopoDS_Shape shape;
};

std::string nameOf(const TDF_Label& label) {
    opencascade::handle<TDataStd_Name> name;
    if (!label.FindAttribute(TDataStd_Name::GetID(), name)) return {};
    const TCollection_ExtendedString& s = name->Get();
    std::string utf8(static_cast<std::size_t>(s.LengthOfCString()), '\0');
    if (utf8.empty()) return {};
    std::string buffer(utf8.size() + 1, '\0');
    char* out = buffer.data();
    s.ToUTF8CString(out);
    buffer.resize(std::strlen(buffer.c_str()));
    return cutText(utf8Of(buffer), 200);
}

// Down the tree of components; the last shape is a product whose solids are the bodies.
void collectBodies(const opencascade::handle<XCAFDoc_ShapeTool>& shapes, const opencascade::handle<XCAFDoc_ColorTool>& colours, const TDF_Label& label,
                   const TopLoc_Location& place, const std::string& name, int depth, std::vector<NamedBody>& out) {
    if (depth > 64 || out.size() > 5000) return;
    if (XCAFDoc_ShapeTool::IsAssembly(label)) {
        TDF_LabelSequence parts;
        XCAFDoc_ShapeTool::GetComponents(label, parts);
        for (int i = 1; i <= parts.Length(); ++i) {
            TDF_Label target;
            if (!XCAFDoc_ShapeTool::GetReferredShape(parts.Value(i), target)) continue;
            std::string own = nameOf(parts.Value(i));
            const std::string product = nameOf(target);
            if (own.empty() || own.rfind("NAUO", 0) == 0 || own.find("=>") != std::string::npos) own = product;
            collectBodies(shapes, colours, target, place * XCAFDoc_ShapeTool::GetLocation(parts.Value(i)), own.empty() ? name : own, depth + 1, out);
        }
        return;
    }
    const TopoDS_Shape shape = XCAFDoc_ShapeTool::GetShape(label);
    if (shape.IsNull()) return;
    std::vector<TopoDS_Shape> solids;
    for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next()) solids.push_back(e.Current());
    if (solids.empty()) solids.push_back(shape);
    for (const TopoDS_Shape& solid : solids) {
        NamedBody b;
        b.shape = solid.Moved(place);
        b.info.name = name;
        Quantity_Color colour;
        const bool has = colours->GetColor(solid, XCAFDoc_ColorSurf, colour) || colours->GetColor(solid, XCAFDoc_ColorGen, colour) ||
                         colours->GetColor(label, XCAFDoc_ColorSurf, colour) || colours->GetColor(label, XCAFDoc_ColorGen, colour);
        if (has) b.info.colour = {colour.Red(), colour.Green(), colour.Blue()};
        GProp_GProps volume;
        BRepGProp::VolumeProperties(b.shape, volume);
        b.info.volume = std::max(0.0, volume.Mass());
        Bnd_Box box;
        BRepBndLib::Add(b.shape, box, false);
        if (!box.IsVoid()) {
            double x0 = 0, y0 = 0, z0 = 0, x1 = 0, y1 = 0, z1 = 0;
            box.Get(x0, y0, z0, x1, y1, z1);
            b.info.bounds.add(Vec3(x0, y0, z0));
            b.info.bounds.add(Vec3(x1, y1, z1));
        }
        out.push_back(std::move(b));
    }
}

/// Names in DOCUMENT_FILE('name', …): those of STEP files.
std::vector<std::string> documentsIn(const std::string& text) {
    static constexpr std::string_view kWord = "DOCUMENT_FILE";
    std::vector<std::string> names;
    for (auto at = text.find(kWord); at != std::string::npos; at = text.find(kWord, at + 1)) {
        auto p = text.find_first_not_of(" \t\r\n", at + kWord.size());
        if (p == std::string::npos || text[p] != '(') continue;
        p = text.find_first_not_of(" \t\r\n", p + 1);
        if (p == std::string::npos || text[p] != '\'') continue;
        const auto end = text.find('\'', p + 1);
        if (end == std::string::npos || end - p > 1000) continue;
        std::string name = text.substr(p + 1, end - p - 1);
        std::string low = name;
        for (char& c : low) c = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
        if ((low.ends_with(".stp") || low.ends_with(".step")) && std::find(names.begin(), names.end(), name) == names.end()) names.push_back(std::move(name));
    }
    return names;
}

Result<OtherFiles> elsewhere(const std::filesystem::path& file, const std::string& text) {
    constexpr std::size_t kMostFiles = 2000;
    OtherFiles out;
    std::vector<std::pair<std::filesystem::path, std::vector<std::string>>> open{{file, documentsIn(text)}};
    std::vector<std::filesystem::path> known{file};
    while (!open.empty()) {
        const auto [from, names] = std::move(open.back());
        open.pop_back();
        for (const std::string& name : names) {
            // Names may carry folders of the machine that wrote them: beside the file counts.
            const std::filesystem::path beside = from.parent_path() / std::filesystem::path(name.substr(name.find_last_of("/\\") + 1));
            if (std::find(known.begin(), known.end(), beside) != known.end()) continue;
            if (known.size() >= kMostFiles) return fail("the assembly refers to more files than are read", file.filename().string(), "Export it as one file");
            known.push_back(beside);
            std::error_code ec;
            if (!std::filesystem::is_regular_file(beside, ec)) {
                out.missing.push_back(beside);
                continue;
            }
            auto other = trustedText(beside); // nothing damaged reaches the kernel
            if (!other) return tl::unexpected(other.error());
            out.there.push_back(beside);
            open.emplace_back(beside, documentsIn(other->second));
        }
    }
    return out;
}

/// Reads all bodies with their names and colours; the last file is kept, for its bodies are opened one after the other.
Result<std::vector<NamedBody>> namedBodies(const std::filesystem::path& file, std::string& text, Progress& progress) {
    struct Kept {
        std::filesystem::path file;
        std::uint64_t content = 0;
        std::vector<NamedBody> bodies;
    };
    static Kept kept;
    const std::string place = file.filename().string();
    const std::lock_guard lock(readerMutex());
    const auto others = elsewhere(file, text);
    if (!others) return tl::unexpected(others.error());
    Hash all;
    all.add(text);
    for (const auto& f : others->there)
        if (const auto other = readFile(f, 1ull << 31)) all.add(*other);
    const std::uint64_t content = all.value();
    if (kept.file == file && kept.content == content && !kept.bodies.empty()) return kept.bodies;
    Message::DefaultMessenger()->ChangePrinters().Clear();
    const SignalsAsExceptions guarded;
    try {
        OCC_CATCH_SIGNALS
        opencascade::handle<TDocStd_Document> document = new TDocStd_Document("XmlXCAF");
        XCAFDoc_DocumentTool::Set(document->Main(), false);
        STEPCAFControl_Reader reader;
        reader.SetNameMode(true);
        reader.SetColorMode(true);
        WatchedText watched(text, progress, "Reading " + place, 0.0, kParsed);
        std::istream stream(&watched);
        // The kernel looks for other files beside the name that it is given.
        const bool taken =
            reader.ChangeReader().ReadStream((others->there.empty() ? place : std::filesystem::absolute(file).string()).c_str(), stream) == IFSelect_RetDone;
        if (progress.cancelled()) return cancelledError();
        const opencascade::handle<KernelWatch> watch = new KernelWatch(progress, "Reading " + place, kParsed, kRead);
        const bool done = taken && reader.Transfer(document, watch->Start());
        if (progress.cancelled()) return cancelledError();
        if (!done) return fail("the assembly in the STEP file cannot be read", place, "Export the part again");
        const auto shapes = XCAFDoc_DocumentTool::ShapeTool(document->Main());
        const auto colours = XCAFDoc_DocumentTool::ColorTool(document->Main());
        TDF_LabelSequence roots;
        shapes->GetFreeShapes(roots);
        std::vector<NamedBody> bodies;
        for (int i = 1; i <= roots.Length(); ++i) collectBodies(shapes, colours, roots.Value(i), TopLoc_Location(), nameOf(roots.Value(i)), 0, bodies);
        std::stable_sort(bodies.begin(), bodies.end(), [](const NamedBody& a, const NamedBody& b) { return a.info.volume > b.info.volume; });
        std::map<std::string, int> used;
        for (NamedBody& b : bodies) {
            if (b.info.name.empty()) b.info.name = "body";
            std::string name = b.info.name;
            while (used.count(name)) name = fmt::format("{} ({})", b.info.name, ++used[b.info.name]);
            used[name] = 1;
            b.info.name = name;
        }
        kept = {file, content, bodies};
        return bodies;
    } catch (const Standard_Failure& failure) {
        return fail(fmt::format("the file is damaged inside ({})", failure.DynamicType()->Name()), place, "Export the part again");
    }
}

} // namespace

Status sizeIsSane(const TopoDS_Shape& shape, const std::string& place) {
    constexpr double kFurthest = 1e6; // mm
    Bnd_Box box;
    BRepBndLib::Add(shape, box, false);
    if (box.IsVoid()) return {};
    double x0 = 0, y0 = 0, z0 = 0, x1 = 0, y1 = 0, z1 = 0;
    box.Get(x0, y0, z0, x1, y1, z1);
    const double furthest = std::max({std::abs(x0), std::abs(y0), std::abs(z0), std::abs(x1), std::abs(y1), std::abs(z1)});
    if (furthest <= kFurthest) return {};
    return fail(fmt::format("the part reaches {:.3g} m away from its origin", 1e-3 * furthest), place, "Check the unit of the file, and export the part near its origin");
}

Result<std::vector<BodyInFile>> bodiesIn(const std::filesystem::path& file, Progress& progress) {
    auto text = trustedText(file);
    if (!text) return tl::unexpected(text.error());
    std::vector<BodyInFile> out;
    if (text->first != Format::Step) return out;
    // One body and no assembly: nothing to choose, and no second reading.
    const auto count = [&](const char* word) {
        int n = 0;
        for (auto at = text->second.find(word); at != std::string::npos && n < 2; at = text->second.find(word, at + 1)) ++n;
        return n;
    };
    if (count("NEXT_ASSEMBLY_USAGE_OCCURRENCE") == 0 && count("DOCUMENT_FILE") == 0 && count("MANIFOLD_SOLID_BREP") + count("BREP_WITH_VOIDS") < 2) return out;
    const auto bodies = namedBodies(file, text->second, progress);
    if (!bodies) return tl::unexpected(bodies.error());
    for (const NamedBody& b : *bodies) out.push_back(b.info);
    return out;
}

Result<ReadBody> readBody(const std::filesystem::path& file, const std::string& name, Progress& progress) {
    auto text = trustedText(file);
    if (!text) return tl::unexpected(text.error());
    if (text->first != Format::Step) return fail("only STEP files hold bodies with names", file.filename().string());
    const auto bodies = namedBodies(file, text->second, progress);
    if (!bodies) return tl::unexpected(bodies.error());
    for (const NamedBody& b : *bodies)
        if (b.info.name == name) return ReadBody{b.shape, b.info.colour, {}};
    return fail(fmt::format("there is no body '{}' in the file any more", name), file.filename().string(), "Open the file again and choose");
}

namespace {

/// All bodies of an assembly whose parts lie in other files, as one shape.
Result<ReadBody> readTogether(const std::filesystem::path& file, std::string& text, const OtherFiles& others, Progress& progress) {
    const auto bodies = namedBodies(file, text, progress);
    if (!bodies) return tl::unexpected(bodies.error());
    ReadBody out;
    std::vector<std::string> missing;
    for (const auto& f : others.missing) missing.push_back(f.filename().string());
    TopoDS_Compound all;
    const BRep_Builder builder;
    builder.MakeCompound(all);
    for (const NamedBody& b : *bodies) builder.Add(all, b.shape);
    out.shape = all;
    if (missing.size() == 1) out.remarks.push_back("the assembly's file " + missing.front() + " is missing; the rest is open");
    if (missing.size() > 1) out.remarks.push_back(fmt::format("{} files of the assembly are missing ({}); the rest is open", missing.size(), fmt::join(missing, ", ")));
    if (TopExp_Explorer(all, TopAbs_FACE).More()) return out;
    return fail(missing.empty() ? "the assembly holds no body" : fmt::format("the assembly's files are missing: {}", fmt::join(missing, ", ")), file.filename().string(),
                "Put them beside it");
}

} // namespace

Result<OtherFiles> otherFilesOf(const std::filesystem::path& file) {
    std::string ending = file.extension().string();
    for (char& c : ending) c = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    if (ending != ".stp" && ending != ".step") return OtherFiles{};
    const auto trusted = trustedText(file);
    if (!trusted) return tl::unexpected(trusted.error());
    return trusted->first == Format::Step ? elsewhere(file, trusted->second) : OtherFiles{};
}

Result<ReadBody> readShape(const std::filesystem::path& file, Progress& progress) {
    auto trusted = trustedText(file);
    if (!trusted) return tl::unexpected(trusted.error());
    auto& [format, text] = *trusted;
    const std::string place = file.filename().string();
    const auto alone = [](const TopoDS_Shape& shape) { return ReadBody{shape}; };
    if (format == Format::Iges) return igesShapeAside(file, place, progress).map(alone);
    if (format == Format::Step && text.find("DOCUMENT_FILE") != std::string::npos) {
        const auto others = elsewhere(file, text);
        if (!others) return tl::unexpected(others.error());
        if (!others->there.empty() || !others->missing.empty()) return readTogether(file, text, *others, progress);
    }
    const auto whole = readGuarded(place, progress, [&, format = format, &text = text]() -> Result<TopoDS_Shape> {
        WatchedText watched(text, progress, "Reading " + place, 0.0, format == Format::Step ? kParsed : kRead);
        std::istream stream(&watched);
        if (format == Format::Step) {
            STEPControl_Reader reader;
            const IFSelect_ReturnStatus taken = reader.ReadStream(place.c_str(), stream);
            return shapeFrom(reader, taken, place, "STEP", progress);
        }
        TopoDS_Shape shape;
        stream.exceptions(std::ios::badbit | std::ios::failbit); // the kernel would go on reading numbers that are not there
        BRepTools::Read(shape, stream, BRep_Builder());
        return shape;
    });
    return whole.map(alone);
}

} // namespace gyre
