#include "session/Shelf.h"
#include <algorithm>

namespace gyre {

Shelf::Opened Shelf::find(const Key& key) {
    const std::lock_guard lock(m_mutex);
    const auto it = m_parts.find(key);
    if (it == m_parts.end()) return {};
    it->second.used = ++m_turn;
    return it->second.opened;
}

void Shelf::keep(const Key& key, Opened opened) {
    constexpr std::size_t kMost = 12;
    const std::lock_guard lock(m_mutex);
    m_parts.insert_or_assign(key, Known{std::move(opened), ++m_turn});
    if (m_parts.size() <= kMost) return;
    m_parts.erase(std::min_element(m_parts.begin(), m_parts.end(), [](const auto& a, const auto& b) { return a.second.used < b.second.used; }));
}

} // namespace gyre
