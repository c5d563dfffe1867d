#include "geom/MeshFile.h"
#include "base/File.h"
#include <algorithm>
#include <array>
#include <bit>
#include <charconv>
#include <cstring>
#include <fmt/format.h>
#include <optional>
#include <unordered_map>

namespace gyre {
namespace {

constexpr std::uintmax_t kLargestFile = 1ull << 30; // about twenty million triangles: read in bounded memory, or refused at once
constexpr std::size_t kMostTriangles = 20'000'000;
constexpr double kFurthest = 1e7; // mm

Error damaged(const std::string& name, const std::string& what) { return Error{what, name, "Export the mesh again", false}; }

/// Gathers triangles; equal points become one.
class Gatherer {
public:
    Gatherer(std::string name, Progress& progress) : m_name(std::move(name)), m_progress(progress) {}

    /// Index of the point, the same for equal ones.
    std::uint32_t weld(const Vec3& p) {
        if (2 * (m_out.mesh.points.size() + 1) > m_slots.size()) grow();
        for (std::size_t i = slotOf(p);; i = (i + 1) & (m_slots.size() - 1)) {
            if (m_slots[i] == kEmpty) {
                m_slots[i] = static_cast<std::uint32_t>(m_out.mesh.points.size());
                m_out.mesh.points.push_back(p);
                return m_slots[i];
            }
            if (m_out.mesh.points[m_slots[i]] == p) return m_slots[i];
        }
    }
    void triangle(std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        const auto& p = m_out.mesh.points;
        if (a == b || b == c || c == a || (p[b] - p[a]).cross(p[c] - p[a]).squaredNorm() <= 0.0)
            ++m_out.dropped;
        else
            m_out.mesh.triangles.push_back({a, b, c});
    }
    /// Is the point one that a part could have?
    std::optional<Error> check(const Vec3& p, const std::string& where) const {
        if (!p.allFinite()) return damaged(m_name, where + ": a coordinate is not a number");
        if (p.cwiseAbs().maxCoeff() > kFurthest) return damaged(m_name, where + ": a coordinate is beyond 10 km");
        return std::nullopt;
    }
    bool tell(std::size_t done, std::size_t all) {
        if ((done & 0xffff) == 0) m_progress.report(static_cast<double>(done) / static_cast<double>(std::max<std::size_t>(1, all)), "Reading " + m_name);
        return !m_progress.cancelled();
    }
    Result<MeshRead> take() {
        weldRounded();
        if (m_out.mesh.triangles.empty()) return tl::unexpected(damaged(m_name, m_out.dropped ? "all its triangles are without area" : "it holds no triangle"));
        return std::move(m_out);
    }
    [[nodiscard]] const std::string& name() const { return m_name; }

private:
    // Writers round corners to so many digits, each triangle its own: what differs by a few millionths of the size is one corner. Only where
    // the mesh has open borders, so that fine detail of a whole mesh is never touched.
    void weldRounded() {
        constexpr double kRounding = 2e-6;
        Box box;
        for (const Vec3& p : m_out.mesh.points) box.add(p);
        const double within = kRounding * box.diagonal();
        if (m_out.mesh.points.empty() || !(within > 0.0) || !open()) return;
        const std::size_t before = m_out.mesh.triangles.size();
        m_out.welded = weldNear(m_out.mesh, within);
        m_out.weldedWithin = within;
        m_out.dropped += before - m_out.mesh.triangles.size();
    }
    [[nodiscard]] bool open() const {
        std::vector<std::pair<std::uint32_t, std::uint32_t>> sides;
        sides.reserve(3 * m_out.mesh.triangles.size());
        for (const auto& t : m_out.mesh.triangles)
            for (std::size_t k = 0; k < 3; ++k) sides.emplace_back(std::min(t[k], t[(k + 1) % 3]), std::max(t[k], t[(k + 1) % 3]));
        std::sort(sides.begin(), sides.end());
        for (std::size_t i = 0; i < sides.size();) {
            std::size_t end = i + 1;
            while (end < sides.size() && sides[end] == sides[i]) ++end;
            if (end - i == 1) return true;
            i = end;
        }
        return false;
    }
    static constexpr std::uint32_t kEmpty = 0xffffffffu;
    [[nodiscard]] std::size_t slotOf(const Vec3& p) const {
        std::uint64_t h = 0x9e3779b97f4a7c15ull;
        for (int k = 0; k < 3; ++k) {
            h ^= std::bit_cast<std::uint64_t>(p[k] == 0.0 ? 0.0 : p[k]);
            h *= 0xff51afd7ed558ccdull;
            h ^= h >> 32;
        }
        return static_cast<std::size_t>(h) & (m_slots.size() - 1);
    }
    void grow() {
        m_slots.assign(std::max<std::size_t>(1024, 4 * m_slots.size()), kEmpty);
        for (std::uint32_t n = 0; n < m_out.mesh.points.size(); ++n) {
            std::size_t i = slotOf(m_out.mesh.points[n]);
            while (m_slots[i] != kEmpty) i = (i + 1) & (m_slots.size() - 1);
            m_slots[i] = n;
        }
    }
    std::string m_name;
    Progress& m_progress;
    MeshRead m_out;
    std::vector<std::uint32_t> m_slots;
};

template <class T> T numberAt(const char* at, bool swap) {
    std::array<char, sizeof(T)> raw;
    std::memcpy(raw.data(), at, sizeof(T));
    if (swap) std::reverse(raw.begin(), raw.end());
    return std::bit_cast<T>(raw);
}

/// Words of a text, with the line they stand on.
class Words {
public:
    explicit Words(std::string_view text) : m_text(text) {}
    /// The next word of this line; empty at its end.
    std::string_view inLine() {
        while (m_at < m_text.size() && (m_text[m_at] == ' ' || m_text[m_at] == '\t' || m_text[m_at] == '\r')) ++m_at;
        return word();
    }
    bool nextLine() {
        while (m_at < m_text.size() && m_text[m_at] != '\n') ++m_at;
        if (m_at >= m_text.size()) return false;
        ++m_at;
        ++m_line;
        return true;
    }
    /// The next word wherever it stands; empty at the end of the text.
    std::string_view any() {
        while (true) {
            const auto w = inLine();
            if (!w.empty() || !nextLine()) return w;
        }
    }
    [[nodiscard]] std::size_t at() const { return m_at; }
    [[nodiscard]] std::string where() const { return fmt::format("line {}", m_line); }

private:
    std::string_view word() {
        const std::size_t from = m_at;
        while (m_at < m_text.size() && m_text[m_at] != ' ' && m_text[m_at] != '\t' && m_text[m_at] != '\r' && m_text[m_at] != '\n') ++m_at;
        return m_text.substr(from, m_at - from);
    }
    std::string_view m_text;
    std::size_t m_at = 0, m_line = 1;
};

std::optional<double> toNumber(std::string_view w) {
    if (!w.empty() && w.front() == '+') w.remove_prefix(1);
    double v = 0.0;
    const auto [end, error] = std::from_chars(w.data(), w.data() + w.size(), v);
    if (error != std::errc() || end != w.data() + w.size()) return std::nullopt;
    return v;
}

std::string lowered(std::string_view w) {
    std::string s(w.substr(0, 64));
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return s;
}

Result<MeshRead> binaryStl(std::string_view bytes, Gatherer& out) {
    const std::size_t count = numberAt<std::uint32_t>(bytes.data() + 80, std::endian::native == std::endian::big);
    const std::size_t holds = (bytes.size() - 84) / 50;
    if (count > holds) return tl::unexpected(damaged(out.name(), fmt::format("it says {} triangles and ends after {}", count, holds)));
    if (count > kMostTriangles) return tl::unexpected(damaged(out.name(), fmt::format("it has {} triangles, more than {}", count, kMostTriangles)));
    for (std::size_t t = 0; t < count; ++t) {
        if (!out.tell(t, count)) return cancelledError();
        std::array<std::uint32_t, 3> ids{};
        for (std::size_t c = 0; c < 3; ++c) {
            const char* at = bytes.data() + 84 + 50 * t + 12 + 12 * c;
            const bool swap = std::endian::native == std::endian::big;
            const Vec3 p(static_cast<double>(numberAt<float>(at, swap)), static_cast<double>(numberAt<float>(at + 4, swap)),
                         static_cast<double>(numberAt<float>(at + 8, swap)));
            if (auto e = out.check(p, fmt::format("triangle {}", t + 1))) return tl::unexpected(*e);
            ids[c] = out.weld(p);
        }
        out.triangle(ids[0], ids[1], ids[2]);
    }
    return out.take();
}

/// The three coordinates that follow a keyword on its line.
Result<Vec3> pointAfter(std::string_view key, Words& words, const Gatherer& out) {
    Vec3 p;
    for (int k = 0; k < 3; ++k) {
        const auto v = toNumber(words.inLine());
        if (!v) return tl::unexpected(damaged(out.name(), fmt::format("{}: three numbers are expected after '{}'", words.where(), key)));
        p[k] = *v;
    }
    if (auto e = out.check(p, words.where())) return tl::unexpected(*e);
    return p;
}

Result<MeshRead> textStl(std::string_view bytes, Gatherer& out) {
    Words words(bytes);
    std::array<std::uint32_t, 3> ids{};
    std::size_t corner = 0, triangles = 0;
    bool ended = false;
    for (auto w = words.any(); !w.empty(); w = words.any()) {
        const std::string key = lowered(w);
        if (key == "vertex") {
            const auto p = pointAfter(key, words, out);
            if (!p) return tl::unexpected(p.error());
            if (corner > 2) return tl::unexpected(damaged(out.name(), words.where() + ": a facet has more than three corners"));
            ids[corner++] = out.weld(*p);
        } else if (key == "endfacet") {
            if (corner != 3) return tl::unexpected(damaged(out.name(), fmt::format("{}: a facet has {} corners", words.where(), corner)));
            out.triangle(ids[0], ids[1], ids[2]);
            corner = 0;
            if (++triangles > kMostTriangles) return tl::unexpected(damaged(out.name(), "it has too many triangles"));
            if (!out.tell(words.at(), bytes.size())) return cancelledError();
        } else if (key == "endsolid") {
            ended = true;
            (void)words.nextLine();
        } else if (key == "solid") {
            ended = false;
            (void)words.nextLine();
        }
    }
    if (!ended) return tl::unexpected(damaged(out.name(), "it ends in the middle of a solid"));
    return out.take();
}

Result<MeshRead> readObj(std::string_view bytes, Gatherer& out) {
    Words words(bytes);
    std::vector<std::uint32_t> vertices, face;
    std::size_t lines = 0, triangles = 0;
    do {
        if ((++lines & 0xffff) == 0 && !out.tell(words.at() & ~std::size_t{0xffff}, bytes.size())) return cancelledError();
        const auto key = words.inLine();
        if (key == "v") {
            const auto p = pointAfter(key, words, out);
            if (!p) return tl::unexpected(p.error());
            vertices.push_back(out.weld(*p));
        } else if (key == "f") {
            face.clear();
            for (auto w = words.inLine(); !w.empty(); w = words.inLine()) {
                long long i = 0;
                const auto [end, error] = std::from_chars(w.data(), w.data() + w.size(), i);
                const auto n = static_cast<long long>(vertices.size());
                if (error != std::errc() || (end != w.data() + w.size() && *end != '/'))
                    return tl::unexpected(damaged(out.name(), words.where() + ": a face names something that is no vertex"));
                if (i < 0) i = n + 1 + i;
                if (i < 1 || i > n) return tl::unexpected(damaged(out.name(), fmt::format("{}: a face names vertex {}, there are {} so far", words.where(), i, n)));
                face.push_back(vertices[static_cast<std::size_t>(i - 1)]);
            }
            if (face.size() < 3) return tl::unexpected(damaged(out.name(), words.where() + ": a face has fewer than three corners"));
            triangles += face.size() - 2;
            if (triangles > kMostTriangles) return tl::unexpected(damaged(out.name(), "it has too many triangles"));
            for (std::size_t k = 2; k < face.size(); ++k) out.triangle(face[0], face[k - 1], face[k]);
        }
    } while (words.nextLine());
    return out.take();
}

// ---- PLY ----

struct Property {
    std::string name;
    int bytes = 0;      ///< of the value, or of a list's items
    char kind = 'i';    ///< i signed, u unsigned, f floating
    int countBytes = 0; ///< lists: of the count before the items; 0 for single values
};
struct Element {
    std::string name;
    std::size_t count = 0;
    std::vector<Property> properties;
};

std::optional<std::pair<int, char>> typeNamed(std::string_view w) {
    if (w == "char" || w == "int8") return std::pair(1, 'i');
    if (w == "uchar" || w == "uint8") return std::pair(1, 'u');
    if (w == "short" || w == "int16") return std::pair(2, 'i');
    if (w == "ushort" || w == "uint16") return std::pair(2, 'u');
    if (w == "int" || w == "int32") return std::pair(4, 'i');
    if (w == "uint" || w == "uint32") return std::pair(4, 'u');
    if (w == "float" || w == "float32") return std::pair(4, 'f');
    if (w == "double" || w == "float64") return std::pair(8, 'f');
    return std::nullopt;
}

/// Reads the numbers of a PLY body one after the other, in whatever form they stand.
class PlyNumbers {
public:
    PlyNumbers(std::string_view body, bool text, bool swap) : m_words(body), m_body(body), m_text(text), m_swap(swap) {}
    std::optional<double> next(int bytes, char kind) {
        if (m_text) return toNumber(m_words.any());
        if (m_at + static_cast<std::size_t>(bytes) > m_body.size()) return std::nullopt;
        const char* p = m_body.data() + m_at;
        m_at += static_cast<std::size_t>(bytes);
        if (kind == 'f') return bytes == 4 ? static_cast<double>(numberAt<float>(p, m_swap)) : numberAt<double>(p, m_swap);
        if (bytes == 1) return kind == 'i' ? static_cast<double>(numberAt<std::int8_t>(p, false)) : static_cast<double>(numberAt<std::uint8_t>(p, false));
        if (bytes == 2) return kind == 'i' ? static_cast<double>(numberAt<std::int16_t>(p, m_swap)) : static_cast<double>(numberAt<std::uint16_t>(p, m_swap));
        return kind == 'i' ? static_cast<double>(numberAt<std::int32_t>(p, m_swap)) : static_cast<double>(numberAt<std::uint32_t>(p, m_swap));
    }
    [[nodiscard]] std::size_t left() const { return m_body.size() - (m_text ? m_words.at() : m_at); }

private:
    Words m_words;
    std::string_view m_body;
    std::size_t m_at = 0;
    bool m_text, m_swap;
};

struct PlyHead {
    std::vector<Element> elements;
    std::string format;
    std::size_t end = 0; ///< where the numbers begin
};

/// `property list uchar int vertex_indices`, behind its first word.
tl::expected<Property, std::string> plyProperty(Words& head) {
    Property p;
    auto type = head.inLine();
    if (type == "list") {
        const auto count = typeNamed(head.inLine());
        if (!count || count->second == 'f') return tl::unexpected(head.where() + ": a list whose count is no whole number");
        p.countBytes = count->first;
        type = head.inLine();
    }
    const auto t = typeNamed(type);
    if (!t) return tl::unexpected(head.where() + ": a property of an unknown type");
    p.bytes = t->first;
    p.kind = t->second;
    p.name = std::string(head.inLine());
    return p;
}

tl::expected<PlyHead, std::string> plyHead(std::string_view bytes) {
    Words head(bytes);
    PlyHead out;
    bool ended = false;
    for (int line = 0; !ended; ++line) {
        if (line > 1000) return tl::unexpected(std::string("its head has no end"));
        const auto key = head.inLine();
        if (key == "format")
            out.format = std::string(head.inLine());
        else if (key == "element") {
            Element e;
            e.name = std::string(head.inLine());
            const auto n = toNumber(head.inLine());
            if (!n || *n < 0.0 || *n > 4e9) return tl::unexpected(head.where() + ": an element without a sensible count");
            e.count = static_cast<std::size_t>(*n);
            out.elements.push_back(std::move(e));
        } else if (key == "property") {
            if (out.elements.empty()) return tl::unexpected(head.where() + ": a property without an element");
            auto p = plyProperty(head);
            if (!p) return tl::unexpected(p.error());
            out.elements.back().properties.push_back(std::move(*p));
        } else if (key == "end_header")
            ended = true;
        if (!head.nextLine()) return tl::unexpected(std::string("its head has no end"));
    }
    out.end = head.at();
    return out;
}

/// One vertex or face, as its properties have it; what is wrong with it, or nothing.
struct PlyItem {
    Vec3 point = Vec3::Zero();
    std::vector<std::uint32_t> face;

    std::string read(const Element& e, std::size_t number, PlyNumbers& numbers, const std::vector<std::uint32_t>& vertices) {
        point = Vec3::Zero();
        face.clear();
        for (const Property& q : e.properties) {
            std::size_t items = 1;
            if (q.countBytes > 0) {
                const auto c = numbers.next(q.countBytes, 'u');
                if (!c || *c < 0.0 || *c > static_cast<double>(numbers.left()) + 1.0) return fmt::format("{} {}: a list longer than the file", e.name, number);
                items = static_cast<std::size_t>(*c);
            }
            for (std::size_t k = 0; k < items; ++k) {
                const auto v = numbers.next(q.bytes, q.kind);
                if (!v) return fmt::format("it ends, or holds no number, at {} {}", e.name, number);
                if (e.name == "vertex" && q.countBytes == 0 && q.name.size() == 1 && q.name[0] >= 'x' && q.name[0] <= 'z') point[q.name[0] - 'x'] = *v;
                if (e.name != "face" || (q.name != "vertex_indices" && q.name != "vertex_index")) continue;
                if (!(*v >= 0.0 && *v < static_cast<double>(vertices.size()))) return fmt::format("face {} names vertex {:g} of {}", number, *v, vertices.size());
                face.push_back(vertices[static_cast<std::size_t>(*v)]);
            }
        }
        return {};
    }
};

Result<MeshRead> readPly(std::string_view bytes, Gatherer& out) {
    const auto bad = [&](const std::string& what) { return tl::unexpected(damaged(out.name(), what)); };
    const auto head = plyHead(bytes);
    if (!head) return bad(head.error());
    const bool text = head->format == "ascii", big = head->format == "binary_big_endian";
    if (!text && !big && head->format != "binary_little_endian") return bad("its format is not ascii, binary_little_endian or binary_big_endian");
    PlyNumbers numbers(bytes.substr(head->end), text, big != (std::endian::native == std::endian::big));
    std::vector<std::uint32_t> vertices;
    PlyItem item;
    std::size_t triangles = 0;
    for (const Element& e : head->elements) {
        // Each item takes a byte or more: no count can be larger than what is left of the file.
        if (!e.properties.empty() && e.count > numbers.left()) return bad(fmt::format("it says {} × {} and is too short for that", e.count, e.name));
        if (e.properties.empty()) continue;
        for (std::size_t n = 0; n < e.count; ++n) {
            if (!out.tell(n, e.count)) return cancelledError();
            if (const std::string wrong = item.read(e, n + 1, numbers, vertices); !wrong.empty()) return bad(wrong);
            if (e.name == "vertex") {
                if (auto error = out.check(item.point, fmt::format("vertex {}", n + 1))) return tl::unexpected(*error);
                vertices.push_back(out.weld(item.point));
            } else if (e.name == "face") {
                const auto& face = item.face;
                if (face.size() < 3) return bad(fmt::format("face {} has fewer than three corners", n + 1));
                triangles += face.size() - 2;
                if (triangles > kMostTriangles) return bad("it has too many triangles");
                for (std::size_t k = 2; k < face.size(); ++k) out.triangle(face[0], face[k - 1], face[k]);
            }
        }
    }
    return out.take();
}

std::string endingOf(const std::string& name) { return lowered(std::filesystem::path(name).extension().string()); }

} // namespace

bool isMeshFile(const std::filesystem::path& file) {
    const std::string e = endingOf(file.string());
    return e == ".stl" || e == ".obj" || e == ".ply";
}

Result<MeshRead> meshFromBytes(std::string_view bytes, const std::string& name, Progress& progress) {
    Gatherer out(name, progress);
    if (bytes.empty()) return tl::unexpected(damaged(name, "it is empty"));
    const std::string ending = endingOf(name);
    if (bytes.substr(0, 4) == "ply\n" || bytes.substr(0, 4) == "ply\r") return readPly(bytes, out);
    if (ending == ".ply") return tl::unexpected(damaged(name, "it does not begin with 'ply'"));
    if (ending == ".obj") return readObj(bytes, out);
    // Text or binary STL? Many binary ones begin with "solid" too, so the size decides first.
    if (bytes.size() >= 84 && bytes.size() == 84 + 50 * static_cast<std::size_t>(numberAt<std::uint32_t>(bytes.data() + 80, std::endian::native == std::endian::big)))
        return binaryStl(bytes, out);
    if (lowered(bytes.substr(0, 5)) == "solid" && bytes.substr(0, 1024).find("facet") != std::string_view::npos) return textStl(bytes, out);
    if (bytes.size() < 84) return tl::unexpected(damaged(name, "it is too short for a mesh"));
    return binaryStl(bytes, out);
}

Result<MeshRead> readMesh(const std::filesystem::path& file, Progress& progress) {
    auto bytes = readFile(file, kLargestFile);
    if (!bytes) return tl::unexpected(bytes.error());
    return meshFromBytes(*bytes, file.filename().string(), progress);
}

std::size_t weldNear(TriangleMesh& mesh, double within) {
    // Cells twice as wide as the distance: what is near lies in the cells that the point's surroundings touch, at most eight.
    const double cell = 2.0 * within;
    const auto key = [](std::int64_t x, std::int64_t y, std::int64_t z) {
        std::uint64_t h = 0x9e3779b97f4a7c15ull;
        for (const std::int64_t v : {x, y, z}) h = (h ^ static_cast<std::uint64_t>(v)) * 0xff51afd7ed558ccdull + (h >> 29);
        return h;
    };
    std::unordered_multimap<std::uint64_t, std::uint32_t> cells;
    cells.reserve(mesh.points.size());
    std::vector<std::uint32_t> now(mesh.points.size());
    std::vector<Vec3> kept;
    std::size_t gone = 0;
    for (std::size_t i = 0; i < mesh.points.size(); ++i) {
        const Vec3& p = mesh.points[i];
        std::optional<std::uint32_t> same;
        std::array<std::array<std::int64_t, 2>, 3> range{};
        for (int k = 0; k < 3; ++k) {
            range[static_cast<std::size_t>(k)][0] = static_cast<std::int64_t>(std::floor((p[k] - within) / cell));
            range[static_cast<std::size_t>(k)][1] = static_cast<std::int64_t>(std::floor((p[k] + within) / cell));
        }
        for (std::int64_t x = range[0][0]; x <= range[0][1]; ++x)
            for (std::int64_t y = range[1][0]; y <= range[1][1]; ++y)
                for (std::int64_t z = range[2][0]; z <= range[2][1]; ++z) {
                    const auto [from, to] = cells.equal_range(key(x, y, z));
                    for (auto it = from; it != to; ++it)
                        if ((kept[it->second] - p).norm() <= within && (!same || it->second < *same)) same = it->second;
                }
        if (same) {
            now[i] = *same;
            ++gone;
            continue;
        }
        now[i] = static_cast<std::uint32_t>(kept.size());
        cells.emplace(key(static_cast<std::int64_t>(std::floor(p.x() / cell)), static_cast<std::int64_t>(std::floor(p.y() / cell)),
                          static_cast<std::int64_t>(std::floor(p.z() / cell))),
                      now[i]);
        kept.push_back(p);
    }
    if (gone == 0) return 0;
    mesh.points = std::move(kept);
    std::vector<std::array<std::uint32_t, 3>> triangles;
    triangles.reserve(mesh.triangles.size());
    for (const auto& t : mesh.triangles) {
        const std::array<std::uint32_t, 3> n{now[t[0]], now[t[1]], now[t[2]]};
        const auto& q = mesh.points;
        if (n[0] != n[1] && n[1] != n[2] && n[2] != n[0] && (q[n[1]] - q[n[0]]).cross(q[n[2]] - q[n[0]]).squaredNorm() > 0.0) triangles.push_back(n);
    }
    mesh.triangles = std::move(triangles);
    return gone;
}

std::string meshToStl(const TriangleMesh& mesh) {
    std::string out(84, '\0');
    out.replace(0, 11, "Humble Gyre");
    const auto put = [&](const auto& v) { out.append(reinterpret_cast<const char*>(&v), sizeof v); };
    const auto count = static_cast<std::uint32_t>(mesh.triangles.size());
    std::memcpy(out.data() + 80, &count, 4);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const Vec3 n = (mesh.corner(t, 1) - mesh.corner(t, 0)).cross(mesh.corner(t, 2) - mesh.corner(t, 0)).normalized();
        for (int k = 0; k < 3; ++k) put(static_cast<float>(n[k]));
        for (int c = 0; c < 3; ++c)
            for (int k = 0; k < 3; ++k) put(static_cast<float>(mesh.corner(t, c)[k]));
        put(std::uint16_t{0});
    }
    return out;
}

} // namespace gyre
