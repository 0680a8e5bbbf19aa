// The numbers along the bottom of the window.
#include "predict/overview/vitals.h"

#include "predict/rest/places.h"
#include "support/samples.h"

#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::library;

struct Start {
  const char* skeleton;
  const char* end; ///< a probe, or what a section's id ends with
  double sourceVolts;
};

/// What has no loudspeaker has a gain all the same: to where its line ends.
TEST(Vitals, GainIsToldToTheEndOfWhateverItIs) {
  for (const auto& [skeleton, end, volts] : {Start{"1-small-single-ended", "speaker", 0.1},
                                             {"2-triode-for-records", "speaker", 0.3},
                                             {"7-reverb-unit", ".out", 0.1},
                                             {"8-preamplifier", ".out", 0.1},
                                             {"9-one-stage", ".out", 0.1}}) {
    SCOPED_TRACE(skeleton);
    const auto design = testing_support::skeleton(skeleton).ink;
    EXPECT_DOUBLE_EQ(amp::sourceVolts(design, library()), volts);
    const auto idle = predictIdle(design, library());
    ASSERT_TRUE(idle);
    const auto vitals = predictVitals(*idle, library());
    ASSERT_TRUE(vitals);
    EXPECT_TRUE(vitals->end.ends_with(end)) << vitals->end;
    ASSERT_TRUE(vitals->gain);
    // Against the volts that a sine at the jack has where the last section of the line gives its signal on.
    const auto solved = testing_support::solve(design);
    const auto response = responseOf(solved.circuit, solved.point, {"jack", vitals->end, {1000}});
    ASSERT_TRUE(response);
    EXPECT_NEAR(vitals->gain->at1kHz, response->decibels[0], 1e-6);
    const auto places = placesOf(solved.circuit, library());
    const auto last = std::find_if(places.rbegin(), places.rend(),
                                   [](const auto& place) { return place.chain == "line" && place.out > 0; });
    ASSERT_NE(last, places.rend());
    EXPECT_EQ(solved.circuit.probe(vitals->end), last->out);
  }
}

} // namespace
} // namespace vinegar::predict
