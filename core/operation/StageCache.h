// Results of stages, kept by the key of what they rest on.
#pragma once
#include <cstdint>
#include <list>
#include <memory>
#include <mutex>
#include <typeindex>
#include <unordered_map>

namespace gyre {

/// Typed, bounded by bytes: what was used longest ago goes first. Thread-safe.
class StageCache {
public:
    /// Of a quarter of the machine's memory, at least half a GiB and at most four.
    StageCache();
    explicit StageCache(std::size_t budgetInBytes) : m_budget(budgetInBytes) {}

    /// Null when it is not there, or there as another type.
    template <class T> [[nodiscard]] std::shared_ptr<const T> find(std::uint64_t key) const { return std::static_pointer_cast<const T>(findAs(key, typeid(T))); }
    /// @param bytes about what the value takes; one that is larger than all the budget is not kept
    template <class T> void keep(std::uint64_t key, std::shared_ptr<const T> value, std::size_t bytes) { keepAs(key, typeid(T), std::move(value), bytes); }

    [[nodiscard]] std::size_t bytes() const;
    [[nodiscard]] std::size_t budget() const { return m_budget; }

private:
    struct Entry {
        std::uint64_t key;
        std::type_index type;
        std::shared_ptr<const void> value;
        std::size_t bytes;
    };
    [[nodiscard]] std::shared_ptr<const void> findAs(std::uint64_t key, std::type_index type) const;
    void keepAs(std::uint64_t key, std::type_index type, std::shared_ptr<const void> value, std::size_t bytes);

    mutable std::mutex m_mutex;
    mutable std::list<Entry> m_entries; ///< used last in front
    std::unordered_map<std::uint64_t, std::list<Entry>::iterator> m_at;
    std::size_t m_budget, m_bytes = 0;
};

} // namespace gyre
