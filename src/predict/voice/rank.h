// Which part to reach for: what one step of each part's dial does in a stretch of the spectrum, and elsewhere.
#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

struct RankQuestion {
  std::string from = "jack", to = "speaker";
  double low = 300, high = 600; ///< Hz; one frequency where they are alike
  bool operator==(const RankQuestion&) const = default;
};

/// One step of a dial, solved whole.
struct RankedStep {
  std::string part;
  double from = 0, to = 0; ///< the part's value
  double there = 0;        ///< mean change over the band, dB
  double elsewhere = 0;    ///< root mean square change between 20 Hz and 20 kHz outside it, dB
  double at1kHz = 0;
  std::string movedTube;      ///< whose plate current changes most, by share; empty where none moves by a thousandth
  double movedShare = 0;      ///< that share: 0.1 is a tenth more
  std::vector<double> change; ///< dB at Ranking::hertz
};

struct Ranking {
  std::vector<double> hertz;
  std::vector<double> decibels;    ///< of the span as it stands
  std::vector<RankedStep> steps;   ///< strongest in the band first; a part's two directions are two
  std::vector<Problem> unanswered; ///< steps that leave no answer, by part
};

/// Of the direct sound, springs silent. Resistors, capacitors, pots and coils. The parts that do most there by their
/// sensitivities, each stepped both ways and solved: some tenths of a second on a large amplifier, most of it for parts
/// of the supply. A band that is none is a Problem.
tl::expected<Ranking, Problem> predictRanking(const Idle& idle, const amp::Library& library,
                                              const RankQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
