// What a control does, block by block: the meaning of a program, whether it comes from the job or from a text.
#pragma once
#include "holes/Cycle.h"
#include "machine/Machine.h"
#include "motion/PointsSpec.h"
#include "post/ProgramWords.h"
#include "tool/Assembly.h"
#include <array>
#include <limits>

namespace gyre {

inline constexpr double kUnsaid = std::numeric_limits<double>::quiet_NaN(); ///< a coordinate that no word has given yet
inline constexpr std::size_t kMostJoints = 5;                               ///< three linear, two rotary: see validate()

enum class Turning : std::uint8_t { Off, Clockwise, Counter };
enum class FeedMode : std::uint8_t { Unsaid, PerMinute, InverseTime, PerTurn };
enum class LengthMode : std::uint8_t { Unsaid, None, Plain, TipControl };

/// What the control has been told and goes on obeying. A group that nobody has spoken of is "unsaid": whatever the machine was left in.
struct ControlState {
    int units = 0;       ///< 20 inch, 21 mm, 0 unsaid
    int distance = 0;    ///< 90, 91, 0 unsaid
    int plane = 0;       ///< 17 … 19, 0 unsaid
    int radius = 0;      ///< 40, 0 unsaid; no other is written or read
    int cycles = 0;      ///< 80 once cycles have been put off, 0 unsaid
    int cycleReturn = 0; ///< 98, 99, 0 unsaid
    int offset = 0;      ///< 54 … 59, 0: none named
    FeedMode feedMode = FeedMode::Unsaid;
    LengthMode length = LengthMode::Unsaid;
    int lengthRegister = 0;       ///< H
    int tool = 0;                 ///< in the spindle; 0 unknown
    bool tilted = false;          ///< positions count in a plane of their own, with Z along the tool
    bool aligned = false;         ///< the control has been told to stand square to it
    std::array<double, 6> tilt{}; ///< of that plane: its zero in mm, its three angles in degrees, as the words say them
    Turning turning = Turning::Off;
    double speed = 0.0; ///< S, turns a minute
    Coolant coolant = Coolant::None;
    bool rigidTap = false;
    std::uint32_t clamped = 0; ///< bit by joint
    std::uint32_t free = 0;    ///< bit by joint: opened by its code
    AtPoints points = AtPoints::AsItStands;
    double smoothing = 0.0; ///< mm, as it is said
    // Of cutter-location programs:
    bool multax = false;
    double diameter = 0.0, corner = 0.0;
    bool operator==(const ControlState&) const = default;
};

struct Act {
    enum class Kind : std::uint8_t {
        Move,
        Cycle, ///< in a hole; the tool stands at R before and after it
        Dwell,
        ToolChange,
        LengthCheck, ///< stops when another tool is loaded
        Own,         ///< a line of the shop's own, or of its script: text alone
        End
    };
    Kind kind = Kind::Move;
    bool rapid = false;
    bool machine = false; ///< counted from the machine's zero whatever the offset (G53)
    bool aside = false;   ///< far from the work, between operations
    std::int8_t arc = 0;  ///< of a move: 1 round against the clock about the plane's normal, −1 with it, 0 straight
    Cycle cycle = Cycle::Drill;
    int line = 0;                                                                        ///< of the text, from 1; 0 when there is no text
    std::uint32_t state = 0;                                                             ///< in Program::states
    std::uint32_t operation = 0;                                                         ///< of the job; meaningless in what was read
    std::uint32_t location = 0;                                                          ///< of that operation's toolpath
    std::uint32_t says = 0xffffffffu;                                                    ///< bit by joint: those that an act between operations names
    std::array<double, kMostJoints> joints{kUnsaid, kUnsaid, kUnsaid, kUnsaid, kUnsaid}; ///< mm, rad; by the machine's order
    Vec3 tip{kUnsaid, kUnsaid, kUnsaid};                                                 ///< X Y Z of tip and cutter-location programs, mm from their zero
    Vec3 axis = Vec3::Zero();                                                            ///< cutter-location programs only
    Vec3 centre = Vec3::Zero();                                                          ///< of an arc, mm: from where it begins, within its plane
    double feed = 0.0;                          ///< as the word says: mm or inch or ° a minute, moves a minute, mm or inch a turn; 0 for rapids
    double seconds = 0.0;                       ///< of a dwell, or that a cycle waits at the bottom
    double top = 0.0, bottom = 0.0, peck = 0.0; ///< of a cycle, mm: R, Z, Q
    double gauge = 0.0;                         ///< mm, of a length check
    std::uint32_t own = 0;                      ///< in Program::own
};

/// Dialects that can be written and read; one entry for each in Dialects.cpp.
enum class Dialect {
    TipControl, ///< RS-274 with tool-centre-point control: tip from the program's zero along the part's axes, rotary words, feed per minute
    Joints,     ///< RS-274 without it: joint coordinates
    CutterData  ///< ISO 4343 cutter-location text: tip and axis
};

struct Program {
    Dialect dialect = Dialect::TipControl;
    std::vector<ControlState> states; ///< each differs from the one before
    std::vector<Act> acts;
    int goesOn = 0;                 ///< a line with words behind the program's end, that are never run; 0: none
    std::vector<std::string> own;   ///< texts of lines of the shop's own
    std::vector<int> takenAsMade{}; ///< lines that a script rewrote beyond reading: taken for what they were made of
    double strays = 0.0;            ///< mm: how far its arcs are from the straight moves that they stand for, at most; of what is meant

    [[nodiscard]] const ControlState& stateOf(const Act& a) const { return states[a.state]; }
    /// Adds an act that is done in this state.
    Act& add(const Act& act, const ControlState& state) {
        if (states.empty() || !(states.back() == state)) states.push_back(state);
        acts.push_back(act);
        acts.back().state = static_cast<std::uint32_t>(states.size() - 1);
        return acts.back();
    }
};

/// Code of a canned cycle, e.g. 83. @param dwell does it wait at the bottom?
[[nodiscard]] int cycleCode(Cycle cycle, bool dwell);
/// The cycle that a code means; nothing when there is none. Ream and bore, spot, chamfer and drill are one to the control.
[[nodiscard]] std::optional<Cycle> cycleOfCode(int code);

} // namespace gyre
