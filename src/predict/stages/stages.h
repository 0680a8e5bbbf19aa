// Is every tube sitting right? Each tube's readings in its own circuit, and the curves that show how it sits.
#pragma once

#include "predict/wave/clipping.h"

namespace vinegar::predict {

/// How a tube is used, as its circuit shows it: no section has to say so.
enum class StageKind {
  commonCathode,
  follower,      ///< the signal leaves by the cathode
  cathodyne,     ///< by both
  groundedGrid,  ///< it enters by the cathode
  power,         ///< alone, or in parallel, on an output transformer
  powerPair,     ///< pushing and pulling on one
  withoutSignal, ///< nothing of the design's sources comes to it
};

/// "common cathode", "follower"...
std::string_view words(StageKind kind);

/// A published figure set to hold the tube's own against.
struct PublishedFigures {
  double plateVolts = 0;
  std::optional<double> gm, mu, rp;
};

struct StageReadings {
  TubeReading tube; ///< volts, currents, watts, gm, rp and mu here
  StageKind kind = StageKind::withoutSignal;
  std::string shares;       ///< the tube whose current this one's is, as in a cascode; empty for none
  std::string coupled;      ///< the tube whose plate stands on this one's grid without a capacitor between
  std::string ratingSystem; ///< rating system of the limits
  std::optional<double> screenWattsLimit, plateVoltsLimit, screenVoltsLimit;
  std::optional<PublishedFigures> published; ///< of the point nearest to where it works
  std::optional<double> gain; ///< times, from its grid (or cathode) to where the signal leaves, as loaded
  std::optional<double> gainBypassed, gainUnbypassed; ///< the same with its cathode held still, and with nothing on it
  std::optional<double> outputOhms;                   ///< of the electrode where the signal leaves, without its load
  std::optional<double> sourceOhms;                   ///< what drives the grid, seen from there
  std::optional<double> inputFarads;                  ///< of its own capacitances, multiplied by its gain (Miller)
  std::optional<double> millerHertz;                  ///< where the two halve the power
  std::optional<CrestLimit> up, down;                 ///< with its grid's wave upward and downward
  double restBetween = 0.5; ///< where its grid rests between the two, 0 at cut-off, 1 at grid current; 0.5: centred
};

/// Of the two sides the one that ends its swing first; nothing where none does.
const std::optional<CrestLimit>& firstLimit(const StageReadings& stage);

/// Whether a tube rests where it can be played: some of its grid's way is left to either side.
bool hasRoom(const StageReadings& stage);

struct StagesQuestion {
  double hertz = 1000;
  std::string tube = {}; ///< that one alone, with those that share its transformer; empty: all
  bool operator==(const StagesQuestion&) const = default;
};
struct Stages {
  std::vector<StageReadings> tubes; ///< in the order of the operating point's
  [[nodiscard]] const StageReadings* tube(const std::string& name) const;
};

/// All tubes: some milliseconds on a large amplifier.
tl::expected<Stages, Problem> predictStages(const Idle& idle, const amp::Library& library,
                                            const StagesQuestion& question = {}, const GoOn& goOn = {});

/// One of them.
tl::expected<StageReadings, Problem> predictStage(const Idle& idle, const amp::Library& library,
                                                  const std::string& tube, double hertz = 1000);
/// Whether a tube draws no current worth the name.
constexpr bool isDead(double plateAmps) { return plateAmps < 1e-6; }
/// Times from a tube's grid, or cathode where it is driven there, to where its signal leaves, as it is loaded; nothing
/// for one that no signal comes to.
std::optional<double> gainOf(const SmallSignal& signal, const amp::CompiledPart& tube);

/// The nodes that gain is between.
std::optional<std::pair<circuit::Node, circuit::Node>> gainSpan(const SmallSignal& signal,
                                                                const amp::CompiledPart& tube);
/// The tube that pushes while this one pulls, on the same output transformer.
std::optional<std::string> partnerIn(const SmallSignal& signal, const std::string& tube);

/// Points of a curve in volts from plate to cathode and ampere of plate current.
struct StageLine {
  std::vector<double> volts, amps;
  [[nodiscard]] bool empty() const { return volts.empty(); }
};
struct PlateCurve {
  double gridVolts = 0; ///< to the cathode; of a pair, what the drive adds to the one and takes from the other
  StageLine line;
};

struct StageCurvesQuestion {
  std::string tube;
  double hertz = 1000;
  bool composite = false;             ///< of a pair: the difference of both currents
  double heldVolts = 0, heldAmps = 0; ///< ends of axes that stay while they serve; zero: as the circuit needs
  bool operator==(const StageCurvesQuestion&) const = default;
};

struct StageCurves {
  std::vector<PlateCurve> plates; ///< from the grid's highest volts down
  StageLine dcLine; ///< every place the rest of the circuit lets the tube stand on, whatever its grid does
  StageLine acLine; ///< where small signals move it, with all that loads it
  double restVolts = 0, restAmps = 0, restGridVolts = 0;
  StageLine limit;                    ///< of the plate's watts; empty where no rating is known
  std::optional<CrestLimit> up, down; ///< ends of its swing
  std::optional<double> classAVolts;  ///< of a pair: plate volts at which the other stops conducting
  double mostVolts = 0, mostAmps = 0; ///< of the axes
  double screenFollows = 0;           ///< of its plate's volts by its screen: 0 pentode, 1 triode, between a tap
  std::string partner;                ///< of a pair, the other
};

/// Under ten milliseconds. A name that is no tube at work is a Problem.
tl::expected<StageCurves, Problem> predictStageCurves(const Idle& idle, const amp::Library& library,
                                                      const StageCurvesQuestion& question, const GoOn& goOn = {});

/// The way the signal really takes over the curves at a drive.
struct StagePathQuestion {
  std::string tube;
  double hertz = 1000, inputPeak = 0.1;
  bool composite = false;
  bool operator==(const StagePathQuestion&) const = default;
};
/// One period of the whole amplifier's wave: as long as driveAmplifier takes.
tl::expected<StageLine, Problem> predictStagePath(const Idle& idle, const amp::Library& library,
                                                  const StagePathQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
