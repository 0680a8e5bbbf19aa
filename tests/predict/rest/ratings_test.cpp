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
                        {305, 12.2, 290, 9, {}}, // within the slack
                        {307, 11, 291, 9, {{"plate", 307}, {"screen", 291}}},
                        {250, 12.3, std::nullopt, std::nullopt, {{"plate", 12.3}}}}) {
    TubeReading tube;
    tube.plateVolts = c.plateVolts;
    tube.plateWatts = c.plateWatts;
    tube.screenVolts = c.screenVolts;
    tube.screenWatts = c.screenWatts;
    std::vector<std::pair<std::string, double>> told;
    for (const auto& rating : tubeRatings(tube, limits))
      if (rating.over()) told.emplace_back(words(rating.quantity), rating.value);
    EXPECT_EQ(told, c.over);
    for (const auto& rating : tubeRatings(tube, {}))
      EXPECT_FALSE(rating.over()) << words(rating);
  }
}

/// Half of a resistor's watts and nine tenths of a capacitor's volts are what is sensible; a least is broken from
/// below.
TEST(Ratings, AreOverWhereTheirOwnKindIs) {
  using enum Rating::Quantity;
  const auto over = [](Rating::Quantity quantity, double value) { return Rating{"X", quantity, value, 100}.over(); };
  EXPECT_FALSE(over(resistorWatts, 50));
  EXPECT_TRUE(over(resistorWatts, 52));
  EXPECT_FALSE(over(capacitorVolts, 90));
  EXPECT_TRUE(over(capacitorVolts, 93));
  EXPECT_FALSE(over(plateOhms, 99));
  EXPECT_TRUE(over(plateOhms, 97));
  EXPECT_FALSE(over(plateOhms, 1000));
  EXPECT_EQ(words(Rating{"T1", windingAmps, 1.2, 1, Rating::Condition::idle, "ht"}), "ht winding 120 %");
  EXPECT_EQ(words(Rating{"V1", plateOhms, 120, 150}), "source resistance 120 \u03a9 of at least 150 \u03a9");
  EXPECT_EQ(words(Rating{"V1", peakAmps, 0.3, {}}), "peak current 300 mA");
}

} // namespace
} // namespace vinegar::predict
