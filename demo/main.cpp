// Makes the files of the demo workshop.   gyre-demo FOLDER
#include "DemoJobs.h"
#include "Dialects.h"
#include "Workshop.h"
#include "base/File.h"
#include "geom/MeshFile.h"
#include <algorithm>
#include <cstdio>

#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <STEPControl_Writer.hxx>
#include <Standard_Failure.hxx>

namespace gyre::demo {

bool writeStep(const TopoDS_Shape& shape, const std::filesystem::path& file, const char* name) {
    Message::DefaultMessenger()->ChangePrinters().Clear();
    STEPControl_Writer writer;
    Interface_Static::SetCVal("write.step.product.name", name);
    Interface_Static::SetCVal("write.step.unit", "MM");
    if (writer.Transfer(shape, STEPControl_AsIs) != IFSelect_RetDone || writer.Write(file.c_str()) != IFSelect_RetDone) {
        std::fprintf(stderr, "%s cannot be written\n", file.c_str());
        return false;
    }
    return true;
}

} // namespace gyre::demo

int main(int argc, char** argv) {
    using namespace gyre;
    using namespace gyre::demo;
    if (argc != 2 || argv[1][0] == '-') {
        std::fprintf(stderr, "usage: gyre-demo FOLDER\n");
        return 2;
    }
    const std::filesystem::path folder = argv[1];
    try {
        std::filesystem::create_directories(folder);
        bool ok = writeStep(lanternCollar(), folder / "lantern-collar.step", "lantern collar") && writeStep(collarSeat(), folder / "collar-seat.step", "collar seat");
        for (int i = 1; i <= 3 && ok; ++i) ok = writeStep(collarClamp(i), folder / ("collar-clamp-" + std::to_string(i) + ".step"), "collar clamp");
        using Made = std::pair<const char*, TopoDS_Shape (*)()>;
        for (const auto& [name, make] :
             {Made{"pierced dome", piercedDome}, Made{"focus barrel", focusBarrel}, Made{"barrel mandrel", barrelMandrel}, Made{"lamp yoke", lampYoke},
              Made{"yoke riser", yokeRiser}, Made{"horn guide", hornGuide}, Made{"horn vice", hornVice}, Made{"whisper runner", whisperRunner},
              Made{"runner arbor", runnerArbor}, Made{"dome spigot", domeSpigot}, Made{"moth plate", mothPlate}}) {
            std::string file = name;
            std::replace(file.begin(), file.end(), ' ', '-');
            ok = ok && writeStep(make(), folder / (file + ".step"), name);
        }
        if (!ok) return 1;
        const auto put = [&](const char* name, std::string_view text) {
            const auto done = writeFileAtomic(folder / name, text);
            if (!done) std::fprintf(stderr, "%s\n", done.error().text().c_str());
            return done.has_value();
        };
        ok = put("coolant-ring.stl", meshToStl(coolantRing())) && put("moth-relief.stl", meshToStl(mothRelief()));
        for (const Machine& m : {heron5T(), plover4(), egret5H(), dunlin5M(), snipe5N()}) {
            if (auto valid = validate(m); !valid) {
                std::fprintf(stderr, "%s\n", valid.error().text().c_str());
                return 1;
            }
            std::string file = m.name;
            for (char& c : file) c = c == ' ' ? '-' : static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
            ok = ok && put((file + ".machine.json").c_str(), machineToJson(m));
        }
        for (const auto& [file, spelling] : dialects()) {
            const std::string text = spellingToJson(spelling);
            if (const auto again = spellingFromJson(text, file); !again || !(*again == spelling)) {
                std::fprintf(stderr, "%s\n", again ? "a dialect reads back as another" : again.error().text().c_str());
                return 1;
            }
            ok = ok && put((file + ".dialect.json").c_str(), text);
        }
        ok = ok && put("larkmoor.tools.json", toolLibraryToJson(tools())) && makeJobs(folder);
        return ok ? 0 : 1;
    } catch (const Standard_Failure& failure) {
        std::fprintf(stderr, "the CAD kernel refuses: %s\n", failure.GetMessageString());
    } catch (const std::exception& failure) {
        std::fprintf(stderr, "%s\n", failure.what());
    }
    return 1;
}
