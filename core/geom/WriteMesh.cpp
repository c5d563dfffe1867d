#include "geom/WriteMesh.h"
#include "base/File.h"
#include <bit>
#include <fstream>
#include <string_view>

namespace gyre {

namespace {
constexpr std::string_view kHead = "Humble Gyre, millimetres";
}

bool wroteStl(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    std::string head(kHead.size(), '\0');
    return in.read(head.data(), static_cast<std::streamsize>(head.size())) && head == kHead;
}

Status writeStl(const TriangleMesh& mesh, const std::filesystem::path& file) {
    static_assert(std::endian::native == std::endian::little, "STL counts from the low byte up");
    std::string out(80, ' ');
    const auto put = [&](const auto& v) { out.append(reinterpret_cast<const char*>(&v), sizeof v); };
    out.replace(0, kHead.size(), kHead);
    put(static_cast<std::uint32_t>(mesh.triangles.size()));
    out.reserve(84 + 50 * mesh.triangles.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const Vec3 n = (mesh.corner(t, 1) - mesh.corner(t, 0)).cross(mesh.corner(t, 2) - mesh.corner(t, 0));
        const Vec3 unit = n.norm() > 0.0 ? Vec3(n.normalized()) : Vec3(Vec3::Zero());
        for (int k = 0; k < 3; ++k) put(static_cast<float>(unit[k]));
        for (int c = 0; c < 3; ++c)
            for (int k = 0; k < 3; ++k) put(static_cast<float>(mesh.corner(t, c)[k]));
        put(std::uint16_t{0});
    }
    return writeFileAtomic(file, out);
}

} // namespace gyre
