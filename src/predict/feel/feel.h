// How an amplifier gives way and comes back while a phrase is played.
#pragma once

#include "predict/feel/burst.h"
#include "predict/rest/ratings.h"

namespace vinegar::predict {

/// A rail through the burst, the mains' ripple taken out. Seconds from the sound's beginning; not a number where it
/// does not come to that.
struct RailDip {
  std::string rail;
  double before = 0, lowest = 0, lowestAt = 0;
  double settled = 0;            ///< over the last sixth of what sounds
  double down63 = 0, down90 = 0; ///< s until so much of the droop has come
  /// s until so much of the droop is regained: counted from the end of the last note, of what is left then, or where
  /// less than a tenth is left then, from the lowest point. Not a number where it is not regained.
  double back63 = 0, back90 = 0;
  bool backFromStop = false;
  [[nodiscard]] double droop() const { return before - lowest; }
  /// Of its volts; nothing of a rail that is switched off.
  [[nodiscard]] double share() const { return before > 1 ? droop() / before : 0; }
};

/// How far an output tube's bias is moved; volts, negative is colder.
struct BiasMove {
  std::string tube;
  double before = 0;                ///< grid to cathode
  double most = 0, mostAt = 0;      ///< the largest move
  double byCathode = 0, byGrid = 0; ///< of which the cathode's rise and the grid's fall
  double atEnd = 0;                 ///< the move when the last note is stopped
};

/// The most that something bears in the burst, and what it does at idle, in the same unit.
struct PlayedRating : Rating {
  double idle = 0;
};

/// What ripple makes of a note: its sum and difference with the ripple's frequency.
struct Beat {
  double hertz = 0, ofHertz = 0;
};

struct Feel {
  Burst burst;
  std::vector<RailDip> rails; ///< in the design's order; none without a supply
  int fed = -1;               ///< of those, the one that feeds the output stage
  std::vector<BiasMove> bias;
  std::vector<PlayedRating> stresses;
  double rippleVolts =
      0; ///< peak to peak, of the fed rail at its lowest: what repeats with twice the mains, or with it
  double rippleHertz = 0, rippleAtRest = 0;
  std::vector<Beat> beats;
  double outputVolts = 0; ///< rms, of the loudest period of the mains
  double outputWatts = 0; ///< that the loudspeaker takes in its loudest period: mean volts times amperes
  /// Volts rms of the output over a period of the mains, hop by hop.
  std::vector<double> envelope;
};

/// All that is read of a burst.
Feel readBurst(const Idle& idle, const amp::Library& library, Burst burst, const Sound& sound);
/// Played and read.
tl::expected<Feel, Problem> predictFeel(const Idle& idle, const amp::Library& library, const BurstQuestion& question,
                                        const GoOn& goOn = {});

/// What of a burst's change is whose doing, by playing it again with first the supply, then the bias and then the
/// coupling capacitors' volts kept as they are at rest. What is left is plain clipping, the same however long it lasts.
struct Blame {
  std::vector<double> seconds;
  /// dB that each takes from the output, hop by hop; not a number where next to nothing is heard.
  std::vector<double> supply, bias, blocking;
  double attackLoss = 0, attackLossAt = 0; ///< dB by all three, the most of the first quarter second, and when
  double bloom = 0;                        ///< dB of it that have come back when the last note is stopped
  bool holdsBias = false;                  ///< there is a cathode capacitor that could move
};
tl::expected<Blame, Problem> predictBlame(const Idle& idle, const amp::Library& library, const BurstQuestion& question,
                                          const GoOn& goOn = {});

} // namespace vinegar::predict
