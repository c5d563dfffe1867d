#ifndef OCC_CONVERT_SIGNALS // some builds of the kernel set it themselves
#define OCC_CONVERT_SIGNALS // OCC_CATCH_SIGNALS below jumps back from a fault
#endif
#include "part/ReadShape.h"
#include "base/File.h"
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <IGESControl_Reader.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <OSD.hxx>
#include <STEPControl_Reader.hxx>
#include <Standard_ErrorHandler.hxx>
#include <Standard_Failure.hxx>
#include <array>
#include <csignal>
#include <fmt/format.h>
#include <mutex>
#include <sstream>

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

/// IGES often holds loose faces: those that share their borders are sewn together, so that edges know both of their faces.
TopoDS_Shape sewn(const TopoDS_Shape& shape) {
    BRepBuilderAPI_Sewing sewing(1e-3);
    sewing.Add(shape);
    sewing.Perform();
    const TopoDS_Shape result = sewing.SewedShape();
    return result.IsNull() ? shape : result;
}

template <class Reader> Result<TopoDS_Shape> readWith(Reader& reader, const std::filesystem::path& file, const char* what) {
    const std::string place = file.filename().string();
    if (reader.ReadFile(file.c_str()) != IFSelect_RetDone) return fail(fmt::format("the {} file cannot be read: its entities are damaged", what), place, "Export the part again");
    if (reader.TransferRoots() < 1) return fail(fmt::format("the {} file holds no shape", what), place, "Export a solid or surface body");
    return reader.OneShape();
}

} // namespace

Result<TopoDS_Shape> readShape(const std::filesystem::path& file) {
    constexpr std::uintmax_t kLargest = 2ULL << 30;
    auto text = readFile(file, kLargest);
    if (!text) return tl::unexpected(text.error());
    const std::string place = file.filename().string();
    const auto format = formatOf(*text, place);
    if (!format) return tl::unexpected(format.error());
    if (*format != Format::Brep) text->clear();
    const std::lock_guard lock(readerMutex());
    Message::DefaultMessenger()->ChangePrinters().Clear();
    const SignalsAsExceptions guarded;
    try {
        OCC_CATCH_SIGNALS
        Result<TopoDS_Shape> shape = TopoDS_Shape();
        if (*format == Format::Step) {
            STEPControl_Reader reader;
            shape = readWith(reader, file, "STEP");
        } else if (*format == Format::Iges) {
            IGESControl_Reader reader;
            shape = readWith(reader, file, "IGES");
            if (shape && !shape->IsNull()) shape = sewn(*shape);
        } else {
            std::istringstream stream(std::move(*text));
            stream.exceptions(std::ios::badbit | std::ios::failbit); // the kernel would go on reading numbers that are not there
            BRepTools::Read(*shape, stream, BRep_Builder());
        }
        if (shape && shape->IsNull()) return fail("the file holds no shape, or is damaged inside", place, "Export a solid or surface body");
        return shape;
    } catch (const std::ios_base::failure&) {
        return fail("the BREP file is damaged inside: a number is missing or unreadable", place, "Export the part again");
    } catch (const Standard_Failure& failure) {
        return fail(fmt::format("the file is damaged inside ({})", failure.DynamicType()->Name()), place, "Export the part again");
    }
}

} // namespace gyre
