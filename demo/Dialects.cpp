// How the programs of the workshop's controls are spelled: the kinds that are built in, as files to begin from, and one for each machine.
#include "Dialects.h"

namespace gyre::demo {
namespace {

Spelling begun(const char* name, Dialect kind, const char* note) {
    Spelling s;
    s.name = name;
    s.kind = kind;
    s.note = note;
    return s;
}

Spelling heron() {
    Spelling s = begun("Heron 5T", Dialect::TipControl, "The trunnion of the metal shop: the next tool is fetched while one cuts");
    s.lines.afterTool = {"T{next} (NEXT)"};
    s.lines.beforeOperation = {"M201 (SMOOTHLY)"};
    s.words.numberStep = 0;
    return s;
}

Spelling plover() {
    Spelling s = begun("Plover 4", Dialect::Joints, "An older control: a point in every number, G0 not straight, taps by their pitch");
    s.jointFeed = JointFeedWord::PerMinute;
    s.pointAlways = true;
    s.repeatMotion = true;
    s.words.rapidsAsFeed = true;
    s.words.tapPerTurn = true;
    s.words.placesMm = 3;
    s.words.placesAngle = 3;
    s.words.numberStep = 1;
    s[Phrase::RadiusOff] = "";
    return s;
}

Spelling egret() {
    Spelling s = begun("Egret 5H", Dialect::TipControl, "The router's control has words for tip control; comments in braces");
    s.comments = CommentMarks::Braces;
    s.capitals = false;
    s.zerosKept = false;
    s[Phrase::TipOn] = "TIPON D{register}";
    s[Phrase::LengthOff] = "TIPOFF";
    s[Phrase::MachineWords] = "MACHINE";
    s[Phrase::Tool] = "T{tool}\nM6";
    s.axes = {{"B", "B1="}, {"C", "C1="}};
    s.order = "F X Y Z B C";
    s.lines.head.clear();
    s.lines.foot.clear();
    s.words.numberStep = 0;
    s.ending = ".mpr";
    return s;
}

Spelling dunlin() {
    Spelling s = begun("Dunlin 5M", Dialect::Joints, "Inverse time, and a stop to look before the spindle starts");
    s.jointFeed = JointFeedWord::InverseTime;
    s.comments = CommentMarks::Semicolon;
    s.plusWritten = true;
    s.lines.beforeTool = {"M1 ; LOOK AT TOOL {tool}"};
    s.lines.finish = {"M149"};
    s.words.flood = 51;
    s.words.mist = 52;
    s.words.through = 53;
    s.words.coolantOff = 59;
    return s;
}

// A script says what data cannot: the brake of the nutating axis opens before every block that turns it out of a standstill.
Spelling snipe() {
    Spelling s = begun("Snipe 5N", Dialect::TipControl, "The control wants a code before every turn that follows a standstill");
    s.words.numberStep = 5;
    s.script = R"(local still = true
function before(act)
  local turns = act.turns.B or act.turns.C
  if act.kind == "move" and turns and still then
    still = false
    return "M160"
  end
end
function after(act)
  if act.kind == "move" and not still and not (act.turns.B or act.turns.C) then
    still = true
    return "M161"
  end
end
)";
    return s;
}

} // namespace

std::vector<std::pair<std::string, Spelling>> dialects() {
    Spelling perMinute = begun("Joints, per minute", Dialect::Joints, "Joint coordinates for controls that know no inverse time");
    perMinute.jointFeed = JointFeedWord::PerMinute;
    Spelling inverse = begun("Joints, inverse time", Dialect::Joints, "Joint coordinates, F in moves a minute");
    inverse.jointFeed = JointFeedWord::InverseTime;
    Spelling planes = begun("Tilted planes", Dialect::TipControl,
                            "Work with standing rotaries in planes square to the tool, with the control's cycles and arcs; all else with tip control");
    planes.indexed = IndexedWork::InPlanes;
    planes[Phrase::PlaneAlign] = "G53.1";
    planes.words.arcs = 0.02;
    return {{"tilted-planes", planes},
            {"tip-control", begun("Tip control", Dialect::TipControl, "The control holds the tip on its line; to begin a dialect from")},
            {"joints-inverse-time", inverse},
            {"joints-per-minute", perMinute},
            {"cutter-data", begun("Cutter data", Dialect::CutterData, "ISO 4343 text for posts elsewhere")},
            {"heron-5t", heron()},
            {"plover-4", plover()},
            {"egret-5h", egret()},
            {"dunlin-5m", dunlin()},
            {"snipe-5n", snipe()}};
}

} // namespace gyre::demo
