#include "predict/rest/ratings.h"

namespace vinegar::predict {

std::vector<OverRating> overRatings(const TubeReading& tube, const tubes::Limits& limits) {
  std::vector<OverRating> over;
  const auto hold = [&](const char* electrode, units::Unit unit, std::optional<double> value,
                        std::optional<double> limit) {
    if (value && limit && *value > *limit) over.push_back({electrode, unit, *value, *limit});
  };
  hold("plate", units::Unit::watt, tube.plateWatts, limits.plateWatts);
  hold("plate", units::Unit::volt, tube.plateVolts, limits.plateVolts);
  hold("screen", units::Unit::watt, tube.screenWatts, limits.screenWatts);
  hold("screen", units::Unit::volt, tube.screenVolts, limits.screenVolts);
  return over;
}

} // namespace vinegar::predict
