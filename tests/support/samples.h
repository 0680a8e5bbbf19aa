#pragma once

#include "files/design_file.h"
#include "predict/feel/phrase.h"
#include "predict/rest/prediction.h"

namespace vinegar::testing_support {

/// The shipped library, read once.
const amp::Library& library();
std::filesystem::path samplePath(const std::string& name);
/// A shipped sample's document; fails the test when it does not load.
amp::Document sample(const std::string& name);
/// A shipped start of a new amplifier, likewise: "2-triode-for-records".
amp::Document skeleton(const std::string& name);
/// The shipped hard chord on the guitar.
std::shared_ptr<const predict::Sound> hardChord();
/// Compiled and solved; fails the test when it cannot be.
struct Solved {
  amp::Circuit circuit;
  predict::OperatingPoint point;
};
Solved solve(const amp::Design& design);

// How much is tried. VINEGAR_FULL=1: all; unset: what is done in a minute. CI tries all once, but in two halves: its
// plain build with VINEGAR_FULL=numbers, that of the sanitizers, which looks for other mistakes than wrong numbers and
// is six times as slow, with VINEGAR_FULL=window.

/// Every so many of a long list are tried: each, or some that stand for all.
int stride();
/// How often a random trial is made: all of it, a tenth, or of that a quarter under the sanitizers.
int trials(int all);
/// What a long test is about, hence where CI runs it: `both` where its trials are more in the plain build.
enum class Long { window, numbers, both };
bool runsLong(Long what);
/// At the head of a test that takes a second.
#define VINEGAR_LONG_TEST(what)                                                                                        \
  if (!testing_support::runsLong(testing_support::Long::what)) GTEST_SKIP() << "long: VINEGAR_FULL=1 runs it"

} // namespace vinegar::testing_support
