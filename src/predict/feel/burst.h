// A phrase played through the whole amplifier with its real supply: what the rails, the bias and the output do
// meanwhile.
#pragma once

#include "predict/feel/phrase.h"
#include "predict/rest/idle.h"
#include "tubes/width.h"

namespace vinegar::predict {

/// What is kept as it is at rest while all else moves: each with those before it.
enum class Held {
  nothing,
  supply,   ///< every rail, and screens that a large capacitor holds
  bias,     ///< the output tubes' cathodes that a large capacitor holds
  coupling, ///< the volts over coupling capacitors, which grids that conduct charge
};

struct BurstQuestion {
  std::shared_ptr<const Sound> sound;
  double inputPeak = 0.1;          ///< volts that the jack would carry at the sound's largest peak if nothing clipped
  double samplesPerSecond = 48000; ///< whole hops must come of it: a multiple of 6000
  /// The supply as it is on average over the mains' period, without ripple: cheaper, and right for what moves slower.
  bool averaged = false;
  Held held = Held::nothing;
  double mostSeconds = 0; ///< of the sound, its beginning; 0: all of it
  /// Error of a step at the output, of the loudest volts so far, over which a hop is gone through again in quarters of
  /// a step; 0: none is. A step's error is told from the output's third differences, as that of the trapezoidal rule.
  double mostStepError = 0;
  tubes::Width width = tubes::usualWidth(); ///< how many tubes at once; the answer is the same
  bool operator==(const BurstQuestion&) const = default;
};

/// A quantity over the burst, told for every hop.
struct Track {
  enum class What {
    input,         ///< volts at the jack
    output,        ///< volts at the speaker, or where a preamplifier ends
    rail,          ///< volts of a supply node
    grid,          ///< volts from an output tube's cathode to its grid
    cathode,       ///< volts of an output tube's cathode to ground
    plateWatts,    ///< of an output tube
    screenWatts,   ///< of an output tube
    rectifierAmps, ///< of one plate
    speakerVolts,  ///< across one of the loudspeaker's resistors, which take its power; `name` the number of it
  };
  What what = What::output;
  std::string name; ///< a rail's, or the part's
  double rest = 0;  ///< mean over the last period of the mains before the sound
  std::vector<float> mean, low, high;
  std::vector<float> squares = {}; ///< means of the squares; of input, output and rectifiers alone
};

struct Burst {
  double samplesPerSecond = 0, mainsHertz = 0;
  double hop = 0;              ///< s; a tenth of the mains' period, so that ten of them hold its ripple
  double lead = 0, sounds = 0; ///< s at rest before the sound, and from then until its last note is stopped
  std::vector<Track> tracks;
  /// Every sample of the speaker's volts, of the first rectified node and of the rail that feeds the output stage; the
  /// last two are empty without a supply.
  std::vector<float> output, reservoir, fed;
  long evaluations = 0; ///< what the work was
  long finer = 0;       ///< steps without a state, gone through in several
  long redone = 0;      ///< hops whose steps erred too much, gone through again in quarters

  [[nodiscard]] const Track* track(Track::What what, const std::string& name = {}) const;
  /// Seconds from the sound's beginning of a hop's middle.
  [[nodiscard]] double secondsOf(std::size_t hopIndex) const {
    return (static_cast<double>(hopIndex) + 0.5) * hop - lead;
  }
};
constexpr int hopsPerPeriod = 10;

/// Some periods' moving mean of what is told by hops, which takes the mains' ripple out; as long as what it is made of,
/// its middle where it stands.
std::vector<double> overPeriods(const std::vector<float>& hops, double periods = 1);

/// Plays it: every sample a step of the whole circuit, the rectifiers conducting cycle by cycle where there is a mains
/// supply. A quarter to a half of the sound's own length at 48 kHz, by the processor; averaged at 12 kHz some 100 ms. A
/// moment without a solution is the Problem.
tl::expected<Burst, Problem> playBurst(const Idle& idle, const amp::Library& library, const BurstQuestion& question,
                                       const GoOn& goOn = {});

} // namespace vinegar::predict
