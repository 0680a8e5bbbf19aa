// Power into the loudspeaker: what it is at a distortion, at once and where the supply settles.
#pragma once

#include "predict/wave/clipping.h"

namespace vinegar::predict {

/// A sine's power: mean volts times amperes into the loudspeaker as it is.
struct PowerAt {
  double watts = 0, volts = 0; ///< rms
  double inputPeak = 0;        ///< volts at the jack
  double distortion = 0;       ///< of the loudspeaker's volts: harmonics 2 to 10 over the fundamental
};

/// The distortion that clean power is told at, and one beside it.
constexpr double cleanDistortion = 0.05, roughDistortion = 0.10;

/// At 1 kHz with the controls as they stand.
struct CleanPower {
  PowerAt atOnce;                   ///< at `cleanDistortion`, rails as at rest: the first moment of a note
  std::optional<PowerAt> sustained; ///< at the same distortion with the rails where such a tone takes them; of a bench
                                    ///< supply, none
  std::optional<PowerAt> rough;     ///< at `roughDistortion`, at once
  PowerAt bend;                     ///< where the output stage first clips, at once
  std::string tube;                 ///< what does
  Limit::Kind kind = Limit::Kind::gridCurrent;
};
struct CleanPowerQuestion {
  bool sustained = true; ///< tenths of a second more
  bool operator==(const CleanPowerQuestion&) const = default;
};
struct CleanPowerAnswer {
  std::optional<CleanPower> power; ///< nothing without a loudspeaker, or an output stage that the signal comes to
};
/// Some dozens of waves.
tl::expected<CleanPowerAnswer, Problem> predictCleanPower(const Idle& idle, const amp::Library& library,
                                                          const CleanPowerQuestion& question = {},
                                                          const GoOn& goOn = {});

/// Power and distortion at an input.
tl::expected<PowerAt, Problem> powerAt(const Idle& idle, double inputPeak, double hertz = 1000, const GoOn& goOn = {});

/// The loudspeaker's resistors, which take its power: coil, eddies, the moving part.
struct SpeakerResistor {
  circuit::Node from, to;
  double ohms;
};
/// Of all loudspeakers; none without one.
std::vector<SpeakerResistor> speakerResistors(const amp::Circuit& circuit);
/// The volts and power of one period of a wave that has the nodes of `speakerResistors`, two a resistor, from `row` on.
double wattsOf(const std::vector<SpeakerResistor>& resistors, const Wave& wave, Eigen::Index row);

} // namespace vinegar::predict
