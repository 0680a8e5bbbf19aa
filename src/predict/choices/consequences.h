// What another rectifier or another value would do: to the supply, to the tubes, and to what is over its rating.
#pragma once

#include "amp/change/change.h"
#include "predict/supply/rectifier.h"
#include "predict/supply/supply.h"

namespace vinegar::predict {

struct TubeConsequence {
  std::string name;
  double plateAmps = 0, gridVolts = 0, plateWatts = 0;
  bool over = false; ///< its plate is over a rating
};

struct Consequence {
  SupplyChoice choice;
  std::optional<Problem> problem; ///< no answer; the rest is then empty
  SupplyReport report;
  std::vector<TubeConsequence> tubes;
  std::vector<std::string> warnings; ///< each a short sentence; empty: nothing against it
  /// The stock value that has the output tubes dissipate as they do now; empty where none is needed or none does.
  std::vector<amp::SetField> rebias;
  std::string rebiased; ///< it in words: "R28 330"
};

/// Values around a part's own, from its stock list or series: `each` on both sides, its own among them.
std::vector<SupplyChoice> valueChoices(const amp::Design& design, const amp::Library& library, const std::string& part,
                                       int each = 3);

/// Each choice made in `design` and solved whole. Those that have no answer say so in their row.
std::vector<Consequence> consequencesOf(const amp::Design& design, const amp::Library& library,
                                        const std::vector<SupplyChoice>& choices, const GoOn& goOn = {},
                                        Warmth warmth = {});
/// Of a rectifier all types, of any other part the values around its own.
struct ConsequencesQuestion {
  std::string part;
  bool rebias = false; ///< find those values too, some 20 ms a row more on two threads
  bool operator==(const ConsequencesQuestion&) const = default;
};
struct Consequences {
  std::string part;
  std::vector<Consequence> rows;
};
/// Some 5 ms a row.
tl::expected<Consequences, Problem> predictConsequences(const Idle& idle, const amp::Library& library,
                                                        const ConsequencesQuestion& question, const GoOn& goOn);

/// Fills in `rebias` of rows that move the output tubes' dissipation by over a fourteenth; false when stopped.
bool findRebias(std::vector<Consequence>& rows, const Idle& idle, const amp::Library& library, const GoOn& goOn = {});

} // namespace vinegar::predict
