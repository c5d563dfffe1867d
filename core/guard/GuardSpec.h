// Words of what must not be touched, and what is done where it would be.
#pragma once

namespace gyre {

enum class GuardResponse {
    Report, ///< only tell
    Lean,   ///< turn the axis away, only where and as far as needed
    Lift,   ///< lift along the axis until clear
    Drop    ///< leave the stretch out
};

/// How the axis may lean away.
enum class LeanBy {
    LeadTilt, ///< in lead and tilt
    X,        ///< about an axis of the datum
    Y,
    Z
};

struct GuardSpec {
    double shankClearance = 1.0, holderClearance = 2.0;
    double gougeTolerance = 0.01; ///< how deep the cutter may enter neighbouring faces
    bool part = true, fixture = true, machine = true;
    GuardResponse response = GuardResponse::Report;
    GuardResponse otherwise = GuardResponse::Report, atLast = GuardResponse::Report; ///< for what the one before has left
    LeanBy leanBy = LeanBy::LeadTilt;
    double leanLead = 30.0, leanTilt = 30.0; ///< ° to either side of what is wished for, at most; about an axis the tilt counts
    double leanOver = 10.0;                  ///< mm over which it leans over and back
    double highestLift = 300.0;              ///< mm
};

/// Is it one of the responses?
[[nodiscard]] inline bool asks(const GuardSpec& spec, GuardResponse what) { return spec.response == what || spec.otherwise == what || spec.atLast == what; }

} // namespace gyre
