// The amplifier played with a sine: waves at any node.
#pragma once

#include "circuit/stepper.h"
#include "predict/wave/stage_ports.h"

namespace vinegar::predict {

constexpr int samplesPerPeriod = 64; ///< of a wave

/// The design's own sources as a stepper drives them.
struct Drive {
  std::vector<int> devices;
  std::vector<double> volts; ///< of each, for one at the jack; empty where nothing reaches it
};
Drive driveOf(const circuit::System& system, const SmallSignal& signal);

/// One period of a steady sine, after the drive has risen smoothly over some periods from rest.
struct Wave {
  double hertz = 0, inputPeak = 0; ///< volts that the jack would carry if nothing clipped
  Eigen::MatrixXd volts;           ///< one row per asked node, one column per sample, from the sine's rise through 0
};

/// An amplifier made ready to be played at one frequency, its waves looked at from some nodes. Milliseconds to make for
/// a large one; a wave is six periods of 64 samples, 1 ms or two. `signal` must outlive it. One thread at a time.
class PlayedAmplifier {
public:
  PlayedAmplifier(const SmallSignal& signal, std::vector<circuit::Node> nodes);
  /// Bias that shifts over seconds, as that of a grid which is driven hard, has not settled. A moment without a
  /// solution is the Problem.
  tl::expected<Wave, Problem> wave(double inputPeak, const GoOn& goOn = {});

private:
  const SmallSignal& signal_;
  std::size_t nodes_;
  Drive drive_;
  circuit::Stepper stepper_;
};
/// One wave.
tl::expected<Wave, Problem> driveAmplifier(const SmallSignal& signal, double inputPeak,
                                           const std::vector<circuit::Node>& nodes, const GoOn& goOn = {});

} // namespace vinegar::predict
