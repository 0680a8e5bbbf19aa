// How much hiss, whose is it, and what would quieten it?
#pragma once

#include "amp/change/change.h"
#include "predict/rest/idle.h"

namespace vinegar::predict {

struct HissQuestion {
  bool cures = true;
  bool operator==(const HissQuestion&) const = default;
};

struct HissSource {
  std::string part;               ///< a part's name; of what is no part's, the device's
  std::string kind;               ///< "thermal", "space-charge"...: its strongest, as circuit::noiseSources says
  double volts = 0, weighted = 0; ///< rms at the speaker, 20 Hz to 20 kHz; weighted: by A
  double share = 0;               ///< of the weighted power
};
/// One step of a resistor's dial, solved whole.
struct HissCure {
  amp::SetField change;
  double quieter = 0;    ///< change of the weighted hiss less that of the gain at 1 kHz, dB: as heard at one loudness
  double hiss = 0;       ///< change of the weighted hiss, dB
  double gain = 0;       ///< change of the gain at 1 kHz, dB
  double radio = 0;      ///< change of what comes to the first grid at 1 MHz, dB: more is worse
  std::string movedTube; ///< as RankedStep
  double movedShare = 0;
};
struct Hiss {
  double volts = 0, weighted = 0;  ///< rms at the speaker
  std::optional<double> fullVolts; ///< rms at the speaker at clean power, at once
  std::vector<HissSource> sources; ///< the loudest first, by weight
  std::vector<HissCure> cures;     ///< the most telling first, at most eight; none where `cures` was not asked
  std::optional<double> radio;     ///< dB at 1 MHz from the jack to the first grid
  /// Weighted hiss under the volts of clean power, dB.
  [[nodiscard]] std::optional<double> underFull() const;
};

/// At the knobs as they stand, the input as the design's own source leaves it. Flicker noise and hum are not in it:
/// they are the tube's own, and no data sheet tells them. Some milliseconds; with cures some tenths of a second. A
/// design without a speaker, or with none that noise comes to, is a Problem.
tl::expected<Hiss, Problem> predictHiss(const Idle& idle, const amp::Library& library, const HissQuestion& question,
                                        const GoOn& goOn = {});

} // namespace vinegar::predict
