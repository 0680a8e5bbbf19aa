// Two outputs that should be alike: how well a phase splitter does, and what would balance it.
#pragma once

#include "amp/change/change.h"
#include "predict/wave/clipping.h"

namespace vinegar::predict {

struct SplitterQuestion {
  bool waves = false; ///< against drive too, which takes a wave a point
  bool operator==(const SplitterQuestion&) const = default;
};

struct Splitter {
  std::string section, title;
  std::vector<double> hertz, decibels, degrees; ///< first output over the second: 0 dB and 180 degrees are balance
  double at1kHz = 0;                            ///< dB
  /// Against the drive up to where the grids that follow conduct: input in volts peak, and the same by the outputs'
  /// peaks; empty without `waves`.
  std::vector<double> inputPeak, driven;
  /// The stock value of one plate load that balances it best at 1 kHz, where it has two; empty where it is in place.
  std::vector<amp::SetField> cure;
  double cured = 0; ///< dB then
};
struct Splitters {
  std::vector<Splitter> all; ///< in the order of the line; sections with a balanced output
};
/// A few milliseconds; with waves some ten more a point.
tl::expected<Splitters, Problem> predictSplitters(const Idle& idle, const amp::Library& library,
                                                  const SplitterQuestion& question = {}, const GoOn& goOn = {});

} // namespace vinegar::predict
