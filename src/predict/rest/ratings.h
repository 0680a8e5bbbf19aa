// What a tube does at idle against what its data sheet allows.
#pragma once

#include "predict/rest/prediction.h"
#include "tubes/catalogue.h"

namespace vinegar::predict {

struct OverRating {
  const char* electrode; ///< "plate" or "screen"
  units::Unit unit;      ///< watts of it, or its volts to the cathode
  double value, limit;
};
/// Those that are exceeded, plate first; nothing for what is not published.
std::vector<OverRating> overRatings(const TubeReading& tube, const tubes::Limits& limits);

} // namespace vinegar::predict
