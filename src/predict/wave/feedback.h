// What feedback does to a small signal.
#pragma once

#include "predict/wave/stage_ports.h"

namespace vinegar::predict {

struct Feedback {
  /// The loudspeaker's volts without all feedback resistors over those with them, less one: what comes round against
  /// the signal. Negative in its real part, it comes back in phase.
  std::complex<double> returned = 0;
  [[nodiscard]] double decibels() const; ///< that it takes from the gain
};
/// Of all parts of the role `feedback` together, at the signal's frequency. Nothing without a loudspeaker or without
/// such a part.
std::optional<Feedback> feedbackOf(const SmallSignal& signal);

} // namespace vinegar::predict
