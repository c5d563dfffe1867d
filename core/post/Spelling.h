// How the programs of one control are spelled: data, from a dialect file of a shop (docs/formats/dialect.md), or the plain spelling that is built in.
#pragma once
#include "base/Result.h"
#include "form/FormFwd.h"
#include "post/Act.h"
#include <filesystem>
#include <memory>

namespace gyre {

/// What a control is told, one thing each. A phrase is spelled as codes and values: "G43.4 H{register}".
enum class Phrase : std::uint8_t {
    Rapid,
    Cut,
    MachineWords, ///< G53
    Millimetres,
    Inches,
    Plane,
    Absolute,
    RadiusOff,
    LengthOff,
    CyclesOff,
    PerMinute,
    InverseTime,
    PerTurn,
    TipOn,
    LengthOn, ///< plain, along the tool
    PlaneOn,
    PlaneAlign,
    PlaneOff,
    Offset,
    Wait,
    Tool,
    Spindle,
    SpindleBack,
    SpindleStop,
    End,
    CycleReturn,
    Drill,
    DrillWait,
    Peck,
    ChipBreak,
    Tap,
    Bore,
    BoreWait,
    Feed,      ///< F{feed}
    CycleTop,  ///< R{top}
    CyclePeck, ///< Q{peck}
    CycleWait, ///< P{seconds}
    ExactStop,
    Smooth, ///< with a value within so much of the path; without one as the control usually does
    PlaneZX,
    PlaneYZ,
    ArcClockwise,
    ArcCounter,
    CentreX, ///< I{fromX}: of an arc, from its beginning
    CentreY,
    CentreZ
};
inline constexpr std::size_t kPhrases = 46;

struct PhraseKind {
    Phrase phrase;
    const char *word, *usual, *what; ///< in files, how it is spelled where nothing else is said, what it tells the control
    const char* fields;              ///< that it must hold, with blanks between them
    const char* others;              ///< that it may hold
    int code;                        ///< G in tenths, M from 10000 on; −1: values alone
    bool mayBeEmpty;                 ///< a control that has no word for it is always so
};
[[nodiscard]] const PhraseKind& phraseKind(Phrase phrase);

struct AxisWord {
    std::string joint, word; ///< of the machine, in programs: "C" is "C1="
    bool operator==(const AxisWord&) const = default;
};
struct ClampCodes {
    std::string joint;
    int on = 0, off = 0;
    bool operator==(const ClampCodes&) const = default;
};

/// Lines of the shop's own. They tell the control nothing that the program is about.
struct OwnLines {
    std::vector<std::string> head{"%"}, foot{"%"}; ///< before and after everything, without block numbers
    std::vector<std::string> start, beforeTool, afterTool, beforeOperation, afterOperation, finish;
    bool operator==(const OwnLines&) const = default;
};

enum class CommentMarks : std::uint8_t { Round, Braces, Semicolon, None };
/// How work is written while the rotaries stand still.
enum class IndexedWork : std::uint8_t {
    AsOther,
    InPlanes,   ///< in a plane square to the tool
    PlanesAlone ///< and nothing else can be written: the control does not hold the tip
};
/// What the three angles of such a plane are.
enum class PlaneAngles : std::uint8_t {
    Turning, ///< about Z, then about the new X, then about the new Z
    Fixed    ///< about X, then about the old Y, then about the old Z
};
enum class JointFeedWord : std::uint8_t { AsMachine, InverseTime, PerMinute };

struct Spelling {
    std::string name, note;
    Dialect kind = Dialect::TipControl;
    std::string ending = ".nc";
    /// All but units and work offset, which are the job's.
    ProgramWords words;
    JointFeedWord jointFeed = JointFeedWord::AsMachine;
    IndexedWork indexed = IndexedWork::AsOther;
    PlaneAngles planeAngles = PlaneAngles::Turning;
    // Numbers
    bool zerosKept = true;    ///< those at the end of positions
    bool pointAlways = false; ///< a number of a position or feed without one means something else to the control
    bool plusWritten = false;
    // Comments
    CommentMarks comments = CommentMarks::Round;
    bool capitals = true;
    // Blocks
    std::array<std::string, kPhrases> phrases; ///< made usual by the constructor
    std::string safe = "{units} {plane} {absolute} {radiusOff} {lengthOff} {cyclesOff} {perMinute}";
    std::string order;         ///< of the words of a move, by the letters of axes and F; empty: X Y Z, then rotaries, then the feed
    bool repeatWords = false;  ///< words of a move are written although they have not changed
    bool repeatMotion = false; ///< so is its code
    std::string numberWord = "N";
    std::vector<AxisWord> axes;
    std::vector<ClampCodes> clamps; ///< instead of the machine's
    OwnLines lines;
    std::string script; ///< Lua, docs/formats/dialect.md

    Spelling();
    bool operator==(const Spelling&) const = default;
    [[nodiscard]] const std::string& operator[](Phrase p) const { return phrases[static_cast<std::size_t>(p)]; }
    std::string& operator[](Phrase p) { return phrases[static_cast<std::size_t>(p)]; }
};

/// A plane square to an axis: its angles in degrees, rounded to so many places, and what turns its coordinates into those of the program.
struct TiltedPlane {
    std::array<double, 3> angles{};
    Mat3 turn = Mat3::Identity();
};
/// How a plane with these angles, in degrees, is turned from the program's axes.
[[nodiscard]] Mat3 planeTurn(PlaneAngles angles, const std::array<double, 3>& degree);
[[nodiscard]] TiltedPlane planeSquareTo(const Vec3& axis, PlaneAngles angles, int places);

/// As programs are spelled where no file says otherwise.
[[nodiscard]] const std::shared_ptr<const Spelling>& plainSpelling(Dialect kind);

[[nodiscard]] const Form<Spelling>& spellingForm();
/// From a dialect file; refused where a phrase cannot be read back, or two of them are the same.
[[nodiscard]] Result<Spelling> spellingFromJson(const std::string& text, const std::string& place);
[[nodiscard]] Result<Spelling> loadSpelling(const std::filesystem::path& file);
[[nodiscard]] std::string spellingToJson(const Spelling& spelling);

} // namespace gyre
