// How a wall is swarfed, step by step; the room's own. What it is for stands in Swarf.h.
#pragma once
#include "swarf/Swarf.h"

namespace gyre {

/// How far the parabola through 0 at 0, d0 at s0 < 0 and d1 at s1 > 0 goes below 0.
[[nodiscard]] double dip(double s0, double s1, double d0, double d1);

class Swarfer {
public:
    Swarfer(const SwarfInput& in, const SwarfSpec& spec, const Assembly& tool, double leave, const Fineness& fineness, Progress& progress)
        : m_in(in), m_spec(spec), m_tool(tool), m_cutter(tool.cutter), m_side(tool.cutter), m_leave(leave), m_fineness(fineness), m_progress(progress) {}
    Result<AlongResult> run();

private:
    struct Level {
        double past;  ///< of the tip below the lower rail
        double reach; ///< height above the tip that this level is to make
    };
    /// A ruling, and how the part lies off it.
    struct Line {
        Ruling ruling;
        std::array<double, kWallSamples> bow{};
        [[nodiscard]] Vec3 at(int k) const; ///< one of its samples
        [[nodiscard]] Vec3 at(double fraction) const;
    };
    enum class Cut : char { Not, Whole, Short }; ///< Short: moved to where the cutter touches both walls of an inner corner
    struct Track {
        std::vector<AxisPose> poses; ///< by ruling
        std::vector<Cut> cut;        ///< Not: beyond an inner corner
        std::vector<double> lifted;  ///< mm
    };
    struct Emitted { ///< which places of a track a pass goes through; the last of a closed one repeats its first
        std::size_t track;
        std::vector<std::size_t> rulings;
    };
    static constexpr std::size_t kFree = ~std::size_t{0}; ///< a place of a pass that belongs to no ruling

    [[nodiscard]] std::size_t count() const { return m_wall.rulings.size(); }
    [[nodiscard]] std::size_t wrapped(std::ptrdiff_t i) const;
    [[nodiscard]] Line line(std::ptrdiff_t i) const;
    Status takeWall();
    void stretches();
    void hollows();
    Status layPasses();
    /// The line some steps from another one on the same stretch; beyond its ends as the wall would go on.
    [[nodiscard]] Line beside(std::ptrdiff_t i, std::ptrdiff_t steps) const;
    [[nodiscard]] std::pair<std::ptrdiff_t, std::ptrdiff_t> window(std::ptrdiff_t i) const; ///< steps back and ahead
    using Samples = std::array<Vec3, kWallSamples>;                                         ///< of one line
    [[nodiscard]] std::vector<Samples> samplesBeside(std::ptrdiff_t i, std::ptrdiff_t from, std::ptrdiff_t to) const;
    [[nodiscard]] double leastOff(const AxisPose& pose, const std::vector<Samples>& near, int k, bool straight = false) const;
    struct Fit;
    [[nodiscard]] AxisPose fitted(std::ptrdiff_t i, const Level& level, double leave) const;
    void rollCorners(std::vector<AxisPose>& poses, const Level& level, double leave) const;
    [[nodiscard]] AxisPose rolled(const Line& edge, const AxisPose& before, const AxisPose& behind, double fraction, const Level& level, double leave) const;
    [[nodiscard]] Result<Track> trackAt(const Level& level, double leave) const;
    void trimInnerCorners(Track& track, double leave) const;
    struct Place { ///< of a way along the wall
        AxisPose pose;
        Vec3 contact, normal;
        std::size_t ruling;
    };
    [[nodiscard]] Place placeOf(const Track& track, const Level& level, double leave, std::size_t i) const;
    [[nodiscard]] bool outerCornerAfter(std::size_t i) const;
    void loopAround(std::vector<Place>& run, const Place& then, const Place& after) const;
    [[nodiscard]] std::vector<std::vector<Place>> runsOf(const Track& track, const Level& level, double leave, bool& whole) const;
    void emit(std::size_t track, const Level& level, double leave, int row, const PassOrigin& from);
    void settled();
    [[nodiscard]] std::vector<std::size_t> placesNear(std::size_t ruling) const;
    [[nodiscard]] double offAt(const Vec3& p, const std::vector<std::size_t>& places) const;
    void mapDeviation();
    [[nodiscard]] Vec3 between(std::size_t ruling, double part, double fraction) const;
    void tellDeviation(const Vec3& overAt, std::size_t overRuling, const Vec3& underAt, double underHeight);
    void tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const Vec3& where, double amount, std::vector<Remedy> remedies = {},
              const char* stage = "Pattern");
    [[nodiscard]] bool inMaterial(const Vec3& p) const;
    [[nodiscard]] const Part& body() const { return m_in.part->body() ? *m_in.part->body() : *m_in.part; }

    const SwarfInput& m_in;
    const SwarfSpec& m_spec;
    const Assembly& m_tool;
    const Cutter& m_cutter;
    CutterSide m_side;
    double m_leave;
    Fineness m_fineness;
    Progress& m_progress;
    Wall m_wall;
    struct Room {
        std::ptrdiff_t back, ahead;
    };
    std::vector<Room> m_room;     ///< per ruling: how many there are on either side before the wall ends or turns in at a corner
    std::vector<double> m_hollow; ///< per ruling: radius of the round that it lies in, seen from outside; huge where there is none
    double m_tightest = 1e300;    ///< the least of them
    double m_reach = 0.0;         ///< along the wall, mm, that a place of the cutter can touch beside its own ruling
    double m_tallest = 0.0, m_around = 0.0;
    std::size_t m_depths = 1;
    std::vector<Track> m_tracks;
    std::vector<Emitted> m_emitted; ///< by pass
    double m_left = 0.0;            ///< most that stays in inner corners and below a lifted tip
    AlongResult m_out;
};

} // namespace gyre
