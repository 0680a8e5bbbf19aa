// Kernels written once for a vector of N doubles, compiled for each width of vector unit and chosen at run time.
#pragma once

#include <cstdint>
#include <vector>

// Vectors wider than the baseline's are passed between functions that are always inlined only.
#pragma GCC diagnostic ignored "-Wpsabi"

#define VINEGAR_INLINE inline __attribute__((always_inline))
#if defined(__x86_64__)
#define VINEGAR_FOUR __attribute__((target("avx2,fma")))
#define VINEGAR_EIGHT __attribute__((target("avx2,fma,avx512f,avx512dq,avx512vl")))
#else
#define VINEGAR_FOUR
#define VINEGAR_EIGHT
#endif

namespace vinegar::tubes {

/// Doubles that are worked on at once: two on any processor, four with AVX2, eight with AVX-512.
enum class Width { two = 2, four = 4, eight = 8 };
/// Arrays for kernels are filled up to a multiple of the widest.
constexpr int widest = 8;
constexpr int padded(int count) { return (count + widest - 1) / widest * widest; }
/// Those that this processor has, the narrowest first.
std::vector<Width> widthsHere();
/// Four where the processor has it: an amplifier's few tubes leave eight half empty.
Width usualWidth();

template <int N> struct Lanes {
  using V __attribute__((vector_size(8 * N))) = double;
  using I __attribute__((vector_size(8 * N))) = std::int64_t;

  static VINEGAR_INLINE V load(const double* from) {
    V v;
    __builtin_memcpy(&v, from, sizeof v);
    return v;
  }
  static VINEGAR_INLINE void put(double* to, V v) { __builtin_memcpy(to, &v, sizeof v); }
  static VINEGAR_INLINE V all(double x) { return V{} + x; }
};

} // namespace vinegar::tubes
