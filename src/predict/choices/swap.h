// Another tube in the same place: what comes of it.
#pragma once

#include "amp/change/change.h"
#include "predict/stages/stages.h"

namespace vinegar::predict {

struct SwapQuestion {
  std::string tube;
  double hertz = 1000;
  bool operator==(const SwapQuestion&) const = default;
};

/// The whole amplifier with another type in it.
struct SwapState {
  StageReadings stage;
  std::optional<double> couplingHertz; ///< where its coupling into what follows halves the power
  std::vector<std::string> against;    ///< ratings and budgets that are broken, in words
};

struct SwapRow {
  std::string type;
  std::vector<amp::SetField> changes; ///< of whole bottles, all of the stage's; empty for the type that is there
  int bottles = 1;                    ///< that are swapped together
  std::string rewiring;               ///< what its socket asks for; empty where it just plugs in
  std::optional<Problem> problem;     ///< this type has no answer here
  SwapState plugged;                  ///< as it is put in, its bias as it stands
  std::optional<double> heaterAmps, heaterLeftAmps; ///< of all its bottles; what their winding has left for them
  bool wantsBias = false;                           ///< it stands far from where the present type does
  std::vector<amp::SetField> rebias; ///< the stock value that brings it back; empty where none is needed, none suits,
                                     ///< or more would be broken with it than without
  std::optional<SwapState> rebiased;
  [[nodiscard]] const SwapState& offered() const { return rebiased ? *rebiased : plugged; }
};
struct Swaps {
  std::vector<SwapRow> rows; ///< the type that is there first, then those that plug in, then the others
};

/// Every type of the catalogue that can stand in the place, in all bottles of an output stage at once: each the whole
/// amplifier solved anew with it. Some ten milliseconds a row. A tube that is not there is a Problem.
tl::expected<Swaps, Problem> predictSwaps(const Idle& idle, const amp::Library& library, const SwapQuestion& question,
                                          const GoOn& goOn = {});

/// What a socket wired for one type needs for another: "another socket: octal", "rewire pins 4, 5, 9"; empty where they
/// are the same; of types whose pins are not on record, that.
std::string rewiringFor(const tubes::TubeType& from, const tubes::TubeType& to);

} // namespace vinegar::predict
