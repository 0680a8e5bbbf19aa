#pragma once

#include <utility>
#include <vector>

namespace vinegar::circuit {

/// How a control's resistance follows its rotation.
struct Taper {
  enum class Kind { linear, log, reverseLog, measured };
  Kind kind = Kind::linear;
  double atHalf = 0.1; ///< share of the resistance at half travel, for log and reverse log
  /// Of a measured law: rotation and share, both rising from 0 to 1; straight between them.
  std::vector<std::pair<double, double>> points = {};
  bool operator==(const Taper&) const = default;
};

/// Share of a pot's resistance between its lower end and the wiper, at `rotation` in [0, 1]. Log is the exponential
/// (a^r - 1)/(a - 1) through `atHalf` at half travel; reverse log is its mirror; one that was measured goes
/// straight from point to point.
double taperShare(const Taper& taper, double rotation);

} // namespace vinegar::circuit
