// What a control wants to read: units, work offset, numbering, dwell, rapids, tapping. Words of the job, not of one operation.
#pragma once
#include "form/FormFwd.h"
#include <string>

namespace gyre {

struct Machine;

/// Decimal places of the words; everything is rounded once, at writing.
struct PostDigits {
    int length = 4, angle = 4, axis = 9;
};

/// How many programs the route is written as.
enum class ProgramSplit {
    One,
    Tools,     ///< one for each stretch of operations with the same tool
    Operations ///< one for each operation
};

struct ProgramWords {
    bool inch = false; ///< G20 and lengths in inches
    ProgramSplit split = ProgramSplit::One;
    int offset = 54;                                       ///< G54 … G59; 0: none is named
    int numberStep = 10;                                   ///< of block numbers; 0: blocks have none
    int numberWrap = 99999;                                ///< the largest; then numbers begin anew
    bool dwellMs = false;                                  ///< G4 P and P of cycles in milliseconds
    bool rapidsAsFeed = false;                             ///< rapids along the path are written as feed moves at rapid rate: where G0 is no straight line
    double arcs = 0.0;                                     ///< mm: moves that keep within so much of a circle or helix are written as one; 0: all are straight
    bool tapPerTurn = false;                               ///< F of a tapping cycle is the pitch (G95); else pitch × speed (G94)
    int rigidTap = 0;                                      ///< M code that couples spindle and feed before a tapping cycle; 0: none
    int flood = 8, mist = 7, through = 88, coolantOff = 9; ///< M codes
    /// A block that stops the machine when a tool of another length is loaded, with {tool} and {length} in it; empty: the control has none.
    std::string lengthCheck;
    std::string dialect;                               ///< how the job's programs are spelled: a dialect's word, or a file; empty: tip control
    int placesMm = 4, placesInch = 5, placesAngle = 4; ///< decimal places; a word of dialects alone

    bool operator==(const ProgramWords&) const = default;
    [[nodiscard]] PostDigits digits() const { return {inch ? placesInch : placesMm, placesAngle, 9}; }
    /// mm in one unit of length of the program
    [[nodiscard]] double unit() const { return inch ? 25.4 : 1.0; }
};

/// As the machine's own control takes them: its length check, unless the job names another.
[[nodiscard]] ProgramWords saidOn(const Machine& machine, ProgramWords words);

/// The job's "program", docs/formats/nc.md. Only what differs from the defaults is written.
[[nodiscard]] const Form<ProgramWords>& programForm();
/// What a dialect says of itself: all but units and work offset, and decimal places.
[[nodiscard]] const Form<ProgramWords>& controlForm();

} // namespace gyre
