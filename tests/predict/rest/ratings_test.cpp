#include "predict/rest/ratings.h"

#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

TEST(Ratings, OnlyWhatIsPublishedAndExceededIsTold) {
  tubes::Limits limits;
  limits.plateVolts = 300;
  limits.plateWatts = 12;
  limits.screenVolts = 285;
  struct Case {
    double plateVolts, plateWatts;
    std::optional<double> screenVolts, screenWatts;
    std::vector<std::pair<std::string, double>> over;
  };
  for (const auto& c : {Case{300, 12, 285, 9, {}},
                        {301, 11, 285.1, 9, {{"plate", 301}, {"screen", 285.1}}},
                        {250, 12.1, std::nullopt, std::nullopt, {{"plate", 12.1}}}}) {
    TubeReading tube;
    tube.plateVolts = c.plateVolts;
    tube.plateWatts = c.plateWatts;
    tube.screenVolts = c.screenVolts;
    tube.screenWatts = c.screenWatts;
    std::vector<std::pair<std::string, double>> told;
    for (const auto& over : overRatings(tube, limits))
      told.emplace_back(over.electrode, over.value);
    EXPECT_EQ(told, c.over);
    EXPECT_TRUE(overRatings(tube, {}).empty());
  }
}

} // namespace
} // namespace vinegar::predict
