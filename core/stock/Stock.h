// What is left of the stock: three fields of parallel rays, each with the stretches of it that lie in material.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "geom/Box.h"
#include "geom/MeshTree.h"
#include "geom/RoundedFrustum.h"
#include "geom/TriangleMesh.h"
#include "path/Toolpath.h"
#include "tool/Assembly.h"
#include <array>
#include <cstdint>
#include <memory>

namespace gyre {

struct StockSpan {
    float from, to;                     ///< along the ray, mm in the part's datum
    std::uint16_t fromBy = 0, toBy = 0; ///< who made that end: the number that came with the cut; 0: the stock as it was
};

/// A point of the surface.
struct SurfaceMet {
    Vec3 at = Vec3::Zero();
    bool exact = true; ///< false: known to half a cell only, where rays pass by a sharp edge
};

/// A piece that hangs together.
struct StockPiece {
    double volume = 0.0; ///< mm³
    Vec3 middle = Vec3::Zero();
};

/// Something that goes with the cutter and must not meet material, asked about at one place of the way.
struct StockProbe {
    std::size_t location = 0; ///< on the way to it
    double share = 1.0;       ///< of that way, above 0
    AxisPose pose;
    std::size_t body = 0; ///< number in StockWatch::bodies
    /// How deep material lies within it by then, mm, and how much further up along the axis it would be free; 0: it touches nothing.
    double deep = 0.0, up = 0.0;
};
/// What is looked at while a path is cut: each question is asked when the cut has come to its place, before it goes on.
struct StockWatch {
    std::vector<std::vector<RoundedFrustum>> bodies; ///< stacks of pieces from the tip's side up; open at the top
    std::vector<StockProbe> probes;                  ///< in the order of their places
};

/// What is to be taken away.
struct StockCut {
    const Toolpath& path;
    const Cutter& cutter;
    std::uint16_t by = 0;                 ///< kept with the surface that is made
    std::size_t from = 0;                 ///< so many locations of the path are cut already
    std::size_t to = SIZE_MAX;            ///< so many are to be cut then
    bool everything = false;              ///< also what rapids sweep
    std::vector<double>* taken = nullptr; ///< mm³ that went on the way to each location of the path; as long as that
    StockWatch* watch = nullptr;          ///< is told what it asks
};

/// Material as rays along X, Y and Z through the middles of square cells. Ends of spans are exact along their ray; across the rays a
/// surface is known to a cell. Values do not depend on the number of threads.
class Stock {
public:
    /// @param bodies closed meshes; what lies in several of them is material once
    /// @param cell   mm; made larger when there would be more than `kMostRays` rays
    /// @param only   what lies in this box alone; empty: all
    [[nodiscard]] static Result<Stock> of(const std::vector<const TriangleMesh*>& bodies, double cell, Progress& progress, const Box& only = {});

    [[nodiscard]] double cell() const { return m_cell; }
    [[nodiscard]] const Box& bounds() const { return m_bounds; }
    [[nodiscard]] std::size_t bytes() const; ///< about what it takes in memory
    /// mm³, the mean of the three fields.
    [[nodiscard]] double volume() const;
    /// The pieces that it lies in, the largest first; crumbs of less than 27 cells are not counted.
    [[nodiscard]] std::vector<StockPiece> pieces() const;
    [[nodiscard]] bool inside(const Vec3& p) const;
    /// How far `p` lies within material (negative) or outside of it, along the nearest rays; never more than `kReach` cells either way.
    [[nodiscard]] double depth(const Vec3& p) const;

    /// The ray along X, Y or Z (0 … 2) nearest to `p`: what of it is material, and a point it runs through.
    [[nodiscard]] std::vector<StockSpan> along(int axis, const Vec3& p, Vec3& through) const;

    /// Its surface, with normals that look out of the material. Rays cross at the points of a lattice; every cube of it that lies partly in
    /// material gets one point, in the middle of where its sides meet the surface: what is bent sharply is rounded by half a cell.
    /// The face of a triangle is the number of the cut that made it.
    /// @param met  for every two triangles, in their order: where a side of the lattice meets the surface
    [[nodiscard]] TriangleMesh skin(std::vector<SurfaceMet>* met = nullptr) const;

    /// Takes away what the cutter sweeps from pose to pose of a path; rapids and retracts take nothing.
    /// The way is divided until what a single place of the cutter leaves between two is below a quarter of a cell.
    /// A path that is cut piece by piece leaves the same, to the last bit, as one that is cut at once.
    [[nodiscard]] Status remove(const StockCut& cut, Progress& progress);
    [[nodiscard]] Status remove(const Toolpath& path, const Cutter& cutter, Progress& progress, bool everything = false) {
        return remove({.path = path, .cutter = cutter, .everything = everything}, progress);
    }
    /// The cutter at one place.
    void remove(const AxisPose& pose, const Cutter& cutter);

    /// How much of the stock lies within the cutter at this place, mm³: 0 in air. Without taking anything away.
    [[nodiscard]] double within(const AxisPose& pose, const Cutter& cutter) const;

    static constexpr std::size_t kMostRays = 12'000'000;
    static constexpr double kReach = 4.0;

private:
    void fill(int axis, const std::vector<const TriangleMesh*>& bodies, const Box& only);
    struct Ray {
        StockSpan one{0.0F, -1.0F};                   ///< empty while to < from
        std::unique_ptr<std::vector<StockSpan>> more; ///< all spans, when there are several
        Ray() = default;
        Ray(const Ray& o) : one(o.one), more(o.more ? std::make_unique<std::vector<StockSpan>>(*o.more) : nullptr) {}
        Ray& operator=(const Ray& o) {
            one = o.one;
            more = o.more ? std::make_unique<std::vector<StockSpan>>(*o.more) : nullptr;
            return *this;
        }
        Ray(Ray&&) = default;
        Ray& operator=(Ray&&) = default;
        ~Ray() = default;
        double cut(float from, float to, std::uint16_t by); ///< @return how much of it went, mm
        [[nodiscard]] double length() const;
        [[nodiscard]] double overlap(float from, float to) const;
        /// From the first span's begin to the last one's end; to < from: there is nothing.
        [[nodiscard]] StockSpan hull() const { return more ? StockSpan{more->front().from, more->back().to} : one; }
        template <class Each> void each(const Each& f) const {
            if (more)
                for (const StockSpan& s : *more) f(s);
            else if (one.to >= one.from)
                f(one);
        }
    };
    struct Profile; ///< a cutter as a stack of frustums
    struct Remover;
    struct Skinner;
    struct Field {
        int axis = 0; ///< rays run along it
        std::array<int, 2> count{0, 0};
        std::vector<Ray> rays;
    };
    [[nodiscard]] std::vector<StockPiece> piecesAlong(const Field& f) const;
    [[nodiscard]] Vec3 middle(const Field& f, int u, int v) const;
    template <class Each> void visit(const Field& f, const AxisPose& pose, const Profile& profile, int uFrom, int uTo, const Each& each) const;
    [[nodiscard]] std::array<int, 4> reach(const Field& f, const AxisPose& pose, const Profile& profile) const;
    [[nodiscard]] static Profile profileOf(const std::vector<RoundedFrustum>& pieces, double error);

    double m_cell = 1.0;
    Box m_bounds;
    Vec3 m_origin = Vec3::Zero();
    std::array<Field, 3> m_fields;
};

} // namespace gyre
