// How a boxed value is made, copied and ended; for the one unit that says `template class Boxed<…>;`.
#pragma once
#include "base/Boxed.h"

namespace gyre {

template <class T> Boxed<T>::Boxed() : m_value(new T()) {}
template <class T> Boxed<T>::Boxed(const T& value) : m_value(new T(value)) {}
template <class T> Boxed<T>::Boxed(const Boxed& other) : m_value(other.m_value ? new T(*other.m_value) : nullptr) {}
template <class T> Boxed<T>& Boxed<T>::operator=(const Boxed& other) {
    if (this != &other) *this = Boxed(other);
    return *this;
}
template <class T> Boxed<T>::~Boxed() { delete m_value; }

} // namespace gyre
