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

/// Under the sanitizers, which slow it sixfold and look for other mistakes than wrong numbers, every so many of a long
/// list stand for all.
#if defined(VINEGAR_SANITIZED)
constexpr int stride = 9;
#else
constexpr int stride = 1;
#endif

/// How often a random trial is made: all of it where VINEGAR_FULL is set, as in CI, else a tenth, and of that a quarter
/// under the sanitizers.
int trials(int all);

} // namespace vinegar::testing_support
