// How milling on a sheet is laid, shape by shape; inside of the room.
#pragma once
#include "milling/Floors.h"
#include "milling/Lines.h"
#include "milling/MillSpec.h"
#include "milling/Rings.h"
#include <optional>

namespace gyre {

class Miller {
public:
    Miller(const MillInput& input, const MillSpec& spec, const Assembly& tool, double leave, double chord, double feed, Progress& progress, MillResult& out)
        : m_in(input), m_spec(spec), m_tool(tool), m_radius(0.5 * tool.cutter.diameter), m_leave(leave), m_chord(chord), m_feed(feed), m_progress(progress), m_out(out) {}

    Status run();

private:
    static constexpr double kOver = 1.0; ///< mm: feed begins, and cutters leave open sides, this far from what they cut

    // Heights
    void tell(Rank rank, const char* code, const std::string& text, const std::string& reason, const std::optional<Vec3>& at = {}, double amount = 0.0);
    /// Where the cut begins: at the walls' top, the stock's, or as typed.
    double topOver(const Region& area, double wallTop) const;
    /// The lowest height of the tip at a place of the sheet.
    double floorAt(const Vec2& at, const Vec2& shift) const;
    [[nodiscard]] bool levelFloor() const { return m_spec.depthBy == MillDepth::Geometry || m_spec.depthBy == MillDepth::Typed; }
    double profileAt(double x) const;
    Status setDepth(double top, double geometry);

    // Ways
    void add(FlatPass& pass, const Vec2& at, double height, Motion motion, const Vec2& shift = Vec2::Zero(), const Vec2& wall = Vec2::Zero());
    /// Down to `height` along a line and back, as often as needed, until its start is reached at full depth.
    void rampAlong(FlatPass& pass, const Line& line, double from, double height);
    void helixDown(FlatPass& pass, const Vec2& middle, double radius, double from, double height);
    FlatPass passOf(const ClearingWay& way, double from, double height, int level);
    /// Round and round a closed ring, down all the while; the turn at full depth is the way's own.
    void ringDown(FlatPass& pass, const Line& ring, double from, double height);
    /// With points close enough that straight moves between them stay within the tolerance of the round, and of a model below.
    [[nodiscard]] double longestStep() const;
    [[nodiscard]] Line dense(const Line& line) const;

    // Areas: MillAreas.cpp
    Status area();
    Region beyondOpen(const Floor& floor, double by) const;
    void wallPasses(const Floor& floor, const Region& centre, double keep, double height, int level);

    // Outlines: MillOutlines.cpp
    struct LineBeside { ///< the middle of the cutter; the material on the right where it climbs
        Line line;
        double off; ///< from what it goes along
    };
    Status besideWalls(std::vector<LineBeside>& out);
    Status besideCurves(std::vector<LineBeside>& out);
    Status outline();
    static Line joinedLines(Line a, const Line& b);
    /// Lines beside a curve at a distance, on the side that is asked for, with the curve on the right where climb.
    [[nodiscard]] std::vector<Line> beside(const Line& curve, bool closed, double d) const;

    // Curves, bores: MillCurves.cpp
    Status bores();
    FlatPass helixRing(int ring, double radius);
    Status bore(const FaceInfo& info, int face, double low, double high);
    FlatPass grooveAt(const Line& line, const std::vector<Vec2>& tangent, const std::vector<double>& half, double from, double level);
    Status follow();
    [[nodiscard]] double widestTurn(double half) const;
    [[nodiscard]] int floorPasses(double half, double round, double height) const; ///< round: 1 where all of the way aside goes around the axis
    [[nodiscard]] double dropBeside(double half, double round, double height) const;
    void hop(FlatPass& pass, const Vec2& at, const Vec2& tangent, double from, double to, double height);
    void tellCorners(double half);
    void aside(FlatPass& pass, const Vec2& at, const Vec2& tangent, double by, double height, bool shifted);
    /// Where a parallel at the half width would turn back on itself.
    static std::optional<Vec2> tooTight(const Line& line, const std::vector<Vec2>& t, const std::vector<double>& half);

    // Whole rounds, roughing: MillRounds.cpp
    Status roundDepth();
    [[nodiscard]] Line wayRound(double from, double to) const;
    Status roundPart();
    [[nodiscard]] TriangleMesh capsOverHoles() const;
    Status rough();

    // Whole bodies from one direction: MillBody.cpp
    Status wholeBody();

    // From the flat into space
    void finish(std::size_t first = 0);
    /// Every point to the lowest height it may have; what a level before has cut already is left out.
    void letDown(std::size_t first);
    Pass toSpace(const FlatPass& flat, int number) const;

    const MillInput& m_in;
    MillSpec m_spec;
    const Assembly& m_tool;
    double m_radius, m_leave, m_chord, m_feed;
    Progress& m_progress;
    MillResult& m_out;
    Sheet m_sheet;
    double m_top = 0.0, m_bottom = 0.0;
    double m_widest = 0.0; ///< way of a groove's middle to either side, where walls are parallel and the floor is round
    std::vector<Vec2> m_profile;
    MeshTree m_bosses; ///< faces that the cutter stays further off, of a whole round
    MeshTree m_caps;   ///< over the mouths of holes and ports, of a whole round
};

/// Heights of levels from above down, evenly, the last is the bottom.
[[nodiscard]] std::vector<double> levelsOf(double top, double bottom, double stepdown);

} // namespace gyre
