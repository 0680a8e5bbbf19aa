// The input at which each stage of an amplifier that is played with a sine stops following it.
#pragma once

#include "predict/wave/played.h"

#include <array>
#include <optional>

namespace vinegar::predict {

/// Where a wave leaves the small-signal line: held as it is at one moment of the wave, the stage makes half of what it
/// makes of a little more drive at rest, 6 dB less. Where nothing lags that is how steeply the wave's crest follows the
/// drive. What is in the way there.
struct Limit {
  enum class Kind {
    gridCurrent, ///< the grid draws as much of each further millivolt as what drives it can give
    cutOff,      ///< the current nears nothing
    saturation,  ///< the plate nears its knee
    core,        ///< a transformer's core gives half of its inductance; `tubes` then names the transformer
    classA, ///< one side of a pair stops conducting, under `leastConducting` of its idle current; the other carries
            ///< on, so this is no clipping
    supply, ///< held for seconds it makes the rails give way, and the output stage then clips here
  };
  Kind kind = Kind::gridCurrent;
  std::vector<std::string> tubes;
  double inputPeak = 0; ///< volts at the jack, as Wave has them
  /// Of a supply: the rail that feeds the output stage, at rest and then.
  struct Sag {
    std::string rail;
    double volts = 0, sagged = 0;
    bool operator==(const Sag&) const = default;
  };
  std::optional<Sag> sag;
  /// Whether a wave bends there at once.
  bool isClipping() const { return kind != Kind::classA && kind != Kind::supply; }
  bool operator==(const Limit&) const = default;
};

/// The first limit that a stage meets with the crest of one of its tubes' grid waves upward or downward, the rest of
/// the amplifier being linear, and how far that tube's grid and plate have then moved against its cathode. `inputPeak`
/// is the input of that linear amplifier: one to compare sides with. Where something else clips before, or feedback
/// has nothing left to give, the input is that of `Clipping`.
struct CrestLimit {
  Limit::Kind kind = Limit::Kind::gridCurrent;
  double inputPeak = 0, gridVolts = 0, plateVolts = 0, plateAmps = 0;
  /// It is the other tube of its pair that is there: no tube draws grid current as its own grid falls against its
  /// cathode, nor is cut off as that rises.
  [[nodiscard]] bool isPartners() const {
    return kind == Limit::Kind::gridCurrent ? gridVolts < 0 : kind == Limit::Kind::cutOff && gridVolts > 0;
  }
};
/// Microseconds. Nothing where none is met under `mostPeak` or no state is found on the way.
std::optional<CrestLimit> crestLimit(const StagePorts& stage, std::size_t tube, const SmallSignal& signal, bool gridUp,
                                     double mostPeak);
/// The most of an input, volts peak, that limits are looked for under: no instrument or player gives more.
constexpr double mostInputPeak = 10;

/// Of its idle current: a tube that carries less has stopped conducting, and class A has ended.
constexpr double leastConducting = 0.05;

/// "grid current", "cut-off", "saturation", "core saturation", "end of class A", "supply".
std::string_view words(Limit::Kind kind);
/// The same of one tube: "partner's grid current".
std::string words(const CrestLimit& limit);

/// By each stage's own tubes with the rest of the amplifier linear, at the frequency: well under a millisecond.
/// In the order of the parts; a kind that is not met under `mostPeak` is left out.
std::vector<Limit> localLimits(const SmallSignal& signal, double mostPeak);
/// Of one stage.
std::vector<Limit> localLimits(const StagePorts& stage, const SmallSignal& signal, double mostPeak);

/// From the low E string to where an instrument's pickup still gives its all.
constexpr std::array<double, 5> rangeHertz{82.4, 165, 330, 660, 1320};

struct ClippingQuestion {
  double hertz = 1000; ///< 0: that of `rangeHertz` at which the first thing clips with the least input
  enum class Which {
    all,
    first,  ///< what clips first alone, which takes a few waves instead of dozens
    output, ///< what clips first of the stages on an output transformer
    lowest, ///< those within a factor of twelve from the first
  };
  Which which = Which::all;
  bool operator==(const ClippingQuestion&) const = default;
};

/// What clips, in the order in which it does as the input rises.
struct Clipping {
  double hertz = 0;
  std::vector<Limit> limits;
  double mostPeak = 0;             ///< the highest input that was looked at
  std::optional<Problem> ofSupply; ///< why it is not known whether the supply gives way
  [[nodiscard]] const Limit* first() const;
};

/// The input at which every stage reaches its limits, the rails as at rest, found on waves of the whole amplifier, so
/// that what clips before is counted: to about 1 %. Half a second on a large amplifier; the first alone a tenth of it.
/// A design without a source has no limits.
tl::expected<Clipping, Problem> findClipping(const Idle& idle, const ClippingQuestion& question, const GoOn& goOn = {});
/// That of `rangeHertz` at which the first thing clips with the least input: a few waves at each.
tl::expected<double, Problem> worstHertz(const Idle& idle, const GoOn& goOn = {});
/// A question that asks for the worst tone, asked at that of the design as it stands.
template <class Predict, class Question>
auto atWorst(const Predict& predict, const Idle& idle, const amp::Library& library, Question question, const GoOn& goOn)
    -> decltype(predict(idle, library, question, goOn)) {
  const auto hertz = worstHertz(idle, goOn);
  if (!hertz) return tl::unexpected(hertz.error());
  question.hertz = *hertz;
  return predict(idle, library, question, goOn);
}

} // namespace vinegar::predict
