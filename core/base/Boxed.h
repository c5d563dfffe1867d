// A value in a box of its own: who holds it need not know what it is made of.
#pragma once
#include <utility>

namespace gyre {

/// Copied with its holder, and passed as the value itself. What makes, copies and ends it stands in one unit alone, which knows the value
/// (base/BoxedWhole.h): `template class Boxed<SwarfSpec>;`. The holder's header says so: `extern template class Boxed<SwarfSpec>;`. Whoever includes
/// that then need not be built anew when the value changes.
/// Moved from, it is empty, and may only be assigned to or ended.
template <class T> class Boxed {
public:
    Boxed();
    Boxed(const T& value);
    Boxed(const Boxed& other);
    Boxed(Boxed&& other) noexcept : m_value(other.m_value) { other.m_value = nullptr; }
    Boxed& operator=(const Boxed& other);
    Boxed& operator=(Boxed&& other) noexcept {
        std::swap(m_value, other.m_value);
        return *this;
    }
    ~Boxed();

    [[nodiscard]] T& operator*() { return *m_value; }
    [[nodiscard]] const T& operator*() const { return *m_value; }
    [[nodiscard]] T* operator->() { return m_value; }
    [[nodiscard]] const T* operator->() const { return m_value; }
    operator T&() { return *m_value; }
    operator const T&() const { return *m_value; }

private:
    T* m_value;
};

} // namespace gyre
