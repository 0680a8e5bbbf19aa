#pragma once

#include "files/design_file.h"
#include "predict/prediction.h"

namespace vinegar::testing_support {

/// The shipped library, read once.
const amp::Library& library();
std::filesystem::path samplePath(const std::string& name);
/// A shipped sample's document; fails the test when it does not load.
amp::Document sample(const std::string& name);
/// Compiled and solved; fails the test when it cannot be.
struct Solved {
  amp::Circuit circuit;
  predict::OperatingPoint point;
};
Solved solve(const amp::Design& design);

// How much is tried: all where VINEGAR_FULL is set, as in CI; else what is done in a minute. The sanitizers slow it
// sixfold and look for other mistakes than wrong numbers: in CI, which sets VINEGAR_LONG for them, they see the long
// tests of the window and not those of numbers.

/// Every so many of a long list are tried: each, or some that stand for all.
int stride();
/// How often a random trial is made: all of it, a tenth, or of that a quarter under the sanitizers.
int trials(int all);
enum class Long { window, numbers };
bool runsLong(Long what);
/// At the head of a test that takes a second.
#define VINEGAR_LONG_TEST(what)                                                                                        \
  if (!testing_support::runsLong(testing_support::Long::what)) GTEST_SKIP() << "long: VINEGAR_FULL=1 runs it"

} // namespace vinegar::testing_support
