// Many builds of one design: how far their parts are off, and what nine of ten come to.
#pragma once

#include "circuit/monte_carlo.h"
#include "predict/rest/idle.h"

namespace vinegar::predict {

/// How far parts may be off, as shares.
struct Tolerances {
  double resistors = 0.05;
  double film = 0.1, electrolytic = 0.2; ///< capacitors, from 1 uF on electrolytic
  double tubes = 0.2, mu = 0.05;         ///< emission, current and gm together; amplification
  double pots = 0.2;
  bool operator==(const Tolerances&) const = default;
};

/// "5 % resistors, 10 % film, 20 % electrolytic capacitors, 20 % pots, tubes 20 % in current and 5 % in mu".
std::string words(const Tolerances& tolerances);
/// What of them a part has; 0: it does not vary.
double toleranceOf(const amp::CompiledPart& part, const Tolerances& tolerances);

/// Of many builds: nine of ten lie between `low` and `high`.
struct Band {
  double low = 0, middle = 0, high = 0;
};
/// Those of the values that are finite; zeros where none is.
Band bandOf(std::vector<double> values);
/// Every fitted part that these tolerances are of.
std::vector<circuit::Spread> spreadsWithin(const amp::Circuit& circuit, const Tolerances& tolerances);

} // namespace vinegar::predict
