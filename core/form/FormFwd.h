// For headers that only name forms.
#pragma once

namespace gyre {

template <class T> class Form;
struct FormInfo;

} // namespace gyre
