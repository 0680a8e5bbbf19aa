#pragma once

#include "circuit/elimination.h"

/// Functions that work on eight lanes are compiled for several widths of vector unit and picked at start.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(VINEGAR_SANITIZED)
#define VINEGAR_WIDE __attribute__((target_clones("default", "arch=x86-64-v3", "arch=x86-64-v4")))
#else
#define VINEGAR_WIDE
#endif

namespace vinegar::circuit {

/// Eight lanes as the compiler's own vector: loops over arrays that may overlap are not made into vector code.
using Vec __attribute__((vector_size(sizeof(double) * Elimination::lanes), may_alias)) = double;

inline Vec& re(Elimination::Number& n) { return *reinterpret_cast<Vec*>(n.re.data()); }
inline Vec& im(Elimination::Number& n) { return *reinterpret_cast<Vec*>(n.im.data()); }
inline const Vec& re(const Elimination::Number& n) { return *reinterpret_cast<const Vec*>(n.re.data()); }
inline const Vec& im(const Elimination::Number& n) { return *reinterpret_cast<const Vec*>(n.im.data()); }

} // namespace vinegar::circuit
