#pragma once

namespace vinegar::circuit {

/// How a control's resistance follows its rotation.
struct Taper {
  enum class Kind { linear, log, reverseLog };
  Kind kind = Kind::linear;
  double atHalf = 0.1; ///< share of the resistance at half travel, for log and reverse log
  bool operator==(const Taper&) const = default;
};

/// Share of a pot's resistance between its lower end and the wiper, at `rotation` in [0, 1]. Log is the exponential
/// (a^r - 1)/(a - 1) through `atHalf` at half travel; reverse log is its mirror.
double taperShare(const Taper& taper, double rotation);

} // namespace vinegar::circuit
