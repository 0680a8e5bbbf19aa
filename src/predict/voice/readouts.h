// What a curve says in numbers, where each stands on it, and which parts make it.
#pragma once

#include "amp/design/target.h"
#include "predict/rest/idle.h"

namespace vinegar::predict {

using ToneBand = amp::ToneBand;
/// Bass guitar's, warmth or mud, voice, bite, fizz: customary words, and no standard's.
const std::vector<ToneBand>& usualBands();
/// The band that the others' tilt is told against: the one called "voice", else the middle one; null of none.
const ToneBand* againstBand(const std::vector<ToneBand>& bands);

/// Frequencies of notes that curves are read at: open strings of a guitar, and two places of the treble.
struct ReadingPlace {
  const char* name;
  double hertz;
};
constexpr ReadingPlace readingPlaces[]{{"E2", 82.407}, {"A2", 110}, {"E4", 329.628}, {"1 kHz", 1000}, {"5 kHz", 5000}};

/// A part and what a tenth more of its value does to a reading: as a share of the reading's frequency, or in dB.
struct Maker {
  std::string part;
  double effect = 0;
};

struct Readout {
  enum class Kind {
    bassCorner,   ///< Hz, 3 dB under the midband, the mean from 200 Hz to 2 kHz
    hump,         ///< dB over the midband, of what stands out under it, as a loudspeaker's resonance does; at `hertz`
    dip,          ///< Hz, the deepest place between two humps
    dipDepth,     ///< dB under the lower of the humps beside it
    peak,         ///< Hz, the top of the highest hump; of the only one where there is no dip
    trebleCorner, ///< Hz, 3 dB under it
    level,        ///< dB at one of readingPlaces, its name in `name`
    tilt,         ///< dB, the mean over a band against that over `againstBand`; the band in `name`
    loss,         ///< dB, what a section without tubes takes where it takes least, which is at `hertz`, its controls as
                  ///< they stand; the section's id in `name`. Left out
                  ///< where its end gets a signal by another way too
  };
  Kind kind = Kind::level;
  std::string name;
  double value = 0;
  double hertz = 0, decibels = 0; ///< where it is on the curve; of a tilt, the band's middle and mean
  std::vector<Maker> makers;      ///< the strongest first, at most two
  [[nodiscard]] bool isFrequency() const {
    return kind == Kind::bassCorner || kind == Kind::dip || kind == Kind::peak || kind == Kind::trebleCorner;
  }
};

struct ReadoutsQuestion {
  std::string from = "jack", to = "speaker";
  std::vector<ToneBand> bands = usualBands();
  bool operator==(const ReadoutsQuestion&) const = default;
};
/// What the curve does not have is left out: a hump must stand half a dB over its surroundings, between 20 Hz and
/// 20 kHz; corners are looked for from 10 Hz to 100 kHz.
struct Readouts {
  std::vector<Readout> all; ///< in the order of Kind
  bool dry = false;         ///< of the direct sound, springs silent: their echoes make a comb of any curve
  [[nodiscard]] const Readout* of(Readout::Kind kind, const std::string& name = {}) const;
};

/// Some milliseconds. What makes a reading comes from the sensitivities, so it holds for small changes.
tl::expected<Readouts, Problem> predictReadouts(const Idle& idle, const amp::Library& library,
                                                const ReadoutsQuestion& question, const GoOn& goOn = {});

/// The humps and dips of a curve that stand out by at least `prominence` dB, by index, rising: humps where `up`.
std::vector<std::size_t> standingOut(const std::vector<double>& decibels, double prominence, bool up);

} // namespace vinegar::predict
