#include "operation/StageCache.h"
#include <algorithm>
#include <unistd.h>

namespace gyre {
namespace {

std::size_t quarterOfMemory() {
    constexpr std::size_t kLeast = std::size_t(512) << 20, kMost = std::size_t(4) << 30;
    const long pages = ::sysconf(_SC_PHYS_PAGES), size = ::sysconf(_SC_PAGE_SIZE);
    return pages > 0 && size > 0 ? std::clamp(static_cast<std::size_t>(pages) / 4 * static_cast<std::size_t>(size), kLeast, kMost) : kLeast;
}

} // namespace

StageCache::StageCache() : m_budget(quarterOfMemory()) {}

std::size_t StageCache::bytes() const {
    const std::lock_guard lock(m_mutex);
    return m_bytes;
}

std::shared_ptr<const void> StageCache::findAs(std::uint64_t key, std::type_index type) const {
    const std::lock_guard lock(m_mutex);
    const auto it = m_at.find(key);
    if (it == m_at.end() || it->second->type != type) return nullptr;
    m_entries.splice(m_entries.begin(), m_entries, it->second);
    return it->second->value;
}

void StageCache::keepAs(std::uint64_t key, std::type_index type, std::shared_ptr<const void> value, std::size_t bytes) {
    const std::lock_guard lock(m_mutex);
    if (bytes > m_budget || m_at.count(key)) return;
    m_entries.push_front({key, type, std::move(value), bytes});
    m_at.emplace(key, m_entries.begin());
    m_bytes += bytes;
    while (m_bytes > m_budget) {
        m_bytes -= m_entries.back().bytes;
        m_at.erase(m_entries.back().key);
        m_entries.pop_back();
    }
}

} // namespace gyre
