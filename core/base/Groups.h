// Things that hang together, told pair by pair.
#pragma once
#include <algorithm>
#include <cstdint>
#include <numeric>
#include <vector>

namespace gyre {

/// The smallest number of a group stands for all of it.
class Groups {
public:
    explicit Groups(std::size_t n) : m_up(n) { std::iota(m_up.begin(), m_up.end(), 0u); }
    std::uint32_t find(std::uint32_t i) {
        while (m_up[i] != i) i = m_up[i] = m_up[m_up[i]];
        return i;
    }
    void join(std::uint32_t a, std::uint32_t b) {
        a = find(a);
        b = find(b);
        m_up[std::max(a, b)] = std::min(a, b);
    }

private:
    std::vector<std::uint32_t> m_up;
};

} // namespace gyre
