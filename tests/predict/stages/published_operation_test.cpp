// The power stages of the data sheets, against what their makers measured.
#include "predict/stages/published_operation.h"
#include "support/samples.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::library;

TEST(PublishedOperations, AreReproducedOverTheCatalogue) {
  VINEGAR_LONG_TEST(numbers);
  std::vector<double> power, idle;
  int refused = 0;
  for (const auto& [name, type] : library().tubes.types())
    for (const auto& operation : type.operations) {
      const auto engine = reproduceOperation(type, operation);
      if (!engine) {
        ++refused;
        EXPECT_FALSE(operation.gridVolts || operation.cathodeOhms) << name << ": " << engine.error().line();
        continue;
      }
      power.push_back(std::abs(engine->watts / operation.watts - 1));
      if (operation.idleAmps) idle.push_back(std::abs(engine->idleAmps / *operation.idleAmps - 1));
    }
  ASSERT_GT(power.size(), 30U);
  EXPECT_EQ(refused, 1);
  const auto median = [](std::vector<double> v) {
    std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
    return v[v.size() / 2];
  };
  EXPECT_LT(median(power), 0.06);
  EXPECT_LT(median(idle), 0.03);
}

/// A triode into an ideal load at small drive is a linear generator: (mu v)^2 R / (rp + R)^2 / 2 watts.
TEST(PublishedOperations, SmallDriveIsTheLinearGenerator) {
  const auto& type = *library().tubes.find("2A3");
  tubes::PublishedOperation operation;
  operation.plateVolts = 250;
  operation.gridVolts = -45;
  operation.drivePeakVolts = 0.5;
  operation.loadOhms = 2500;
  const auto engine = reproduceOperation(type, operation);
  ASSERT_TRUE(engine) << engine.error().line();
  const auto at = tubes::triodeCurrent(std::get<tubes::TriodeModel>(type.model), 250, -45);
  const double rp = 1 / at.byPlate, mu = at.byGrid / at.byPlate;
  EXPECT_NEAR(engine->watts / (std::pow(mu * 0.5 / (rp + 2500), 2) * 2500 / 2), 1, 2e-3);
  EXPECT_LT(engine->distortion, 2e-3);
}

} // namespace
} // namespace vinegar::predict
