#include "predict/voice/weight.h"

#include <cmath>

namespace vinegar::predict {

double weightA(double hertz) {
  const double f = hertz * hertz;
  const auto raw = [](double s) {
    const double a = 20.598997 * 20.598997, b = 107.65265 * 107.65265, c = 737.86223 * 737.86223,
                 d = 12194.217 * 12194.217;
    return d * s * s / ((s + a) * std::sqrt((s + b) * (s + c)) * (s + d));
  };
  return raw(f) / raw(1e6);
}

} // namespace vinegar::predict
