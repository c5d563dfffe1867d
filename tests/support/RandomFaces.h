// Random faces, with an exact judge of its own: smooth and ragged, with holes, slivers, closed ones and ones with a side that is a point.
#pragma once
#include "Support.h"
#include <memory>

namespace gyre::test {

/// A part of one face in a file, and the kernel's own copy of it to ask.
class RandomFace {
public:
    /// @param kind 0 … kKinds − 1
    RandomFace(const std::filesystem::path& folder, Random& random, int kind);
    ~RandomFace();
    RandomFace(const RandomFace&) = delete;
    RandomFace& operator=(const RandomFace&) = delete;
    static constexpr int kKinds = 10;
    [[nodiscard]] const std::filesystem::path& file() const { return m_file; }
    [[nodiscard]] const std::string& what() const { return m_what; }
    /// From the face within its trims, by the kernel.
    [[nodiscard]] double distance(const Vec3& p) const;
    /// From its surface, which may go on beyond them.
    [[nodiscard]] double surfaceDistance(const Vec3& p) const;

private:
    struct Shape;
    std::unique_ptr<Shape> m_shape;
    std::filesystem::path m_file;
    std::string m_what;
};

} // namespace gyre::test
