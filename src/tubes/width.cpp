#include "tubes/width.h"

namespace vinegar::tubes {

std::vector<Width> widthsHere() {
  std::vector<Width> widths{Width::two};
#if defined(__x86_64__)
  if (__builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma")) {
    widths.push_back(Width::four);
    if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512dq") && __builtin_cpu_supports("avx512vl"))
      widths.push_back(Width::eight);
  }
#endif
  return widths;
}

Width usualWidth() { return widthsHere().size() > 1 ? Width::four : Width::two; }

} // namespace vinegar::tubes
