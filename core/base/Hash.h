// A stable 64-bit hash (FNV-1a) for cache keys. The same input gives the same key on every run and machine.
#pragma once
#include <bit>
#include <cstdint>
#include <string_view>

namespace gyre {

class Hash {
public:
    Hash& bytes(const void* data, std::size_t size) {
        const auto* p = static_cast<const unsigned char*>(data);
        for (std::size_t i = 0; i < size; ++i) m_value = (m_value ^ p[i]) * 0x100000001b3ULL;
        return *this;
    }
    Hash& add(std::string_view text) {
        add(static_cast<std::uint64_t>(text.size()));
        return bytes(text.data(), text.size());
    }
    Hash& add(std::uint64_t v) { return bytes(&v, sizeof v); }
    Hash& add(double v) { return add(std::bit_cast<std::uint64_t>(v == 0.0 ? 0.0 : v)); }
    [[nodiscard]] std::uint64_t value() const { return m_value; }

private:
    std::uint64_t m_value = 0xcbf29ce484222325ULL;
};

} // namespace gyre
