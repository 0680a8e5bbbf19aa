// How much louder an amplifier gets where it is played harder.
#pragma once

#include "predict/feel/burst.h"

namespace vinegar::predict {

struct CompressionRow {
  double inputPeak = 0;   ///< volts that the jack would carry
  double outputVolts = 0; ///< rms of the loudest three periods of the mains
  /// dB that the output is under what it would be if it grew as the input does from the quietest row: the most in the
  /// first quarter second, and over the last sixth of what sounds.
  double attack = 0, late = 0;
  /// Of `late`, what comes of rails that give way; nothing without a supply.
  double bySupply = 0;
  std::optional<Problem> problem; ///< no answer at this level; the rest is then nothing
};
struct Compression {
  std::vector<CompressionRow> rows; ///< the quietest first
  std::size_t now = 0;              ///< the one at the level asked for
  bool hasSupply = false;
  /// Volts at the jack from where on `late` passes so many dB, between two rows; none where it never does.
  [[nodiscard]] std::optional<double> passes(double decibels) const;
};

/// The phrase played at levels from 36 dB under the question's to 12 dB over it, 6 dB apart, each with the supply as it
/// is on average and again with its rails held, on two threads. Each moment is told against the same moment of the
/// quietest, so a note's own fading counts for nothing; grids that load the jack count. A design without a jack or an
/// output is the Problem, and so is a phrase that is silent when it is struck or late.
tl::expected<Compression, Problem> predictCompression(const Idle& idle, const amp::Library& library,
                                                      const BurstQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
