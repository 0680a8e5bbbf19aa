#pragma once

#include "amp/acts/acts.h"

#include <random>

namespace vinegar::testing_support {

/// The design, or an expectation that fails.
amp::Design must(tl::expected<amp::Design, Problem> design);
/// Every problem on a line of its own; empty when it holds together.
std::string problemsOf(const amp::Design& design);

/// Does what a builder might do next, the same for the same seed.
class RandomBuilder {
public:
  explicit RandomBuilder(unsigned seed) : random_(seed) {}

  /// Nothing when the act cannot be done or what it makes has a problem.
  std::optional<amp::Design> act(const amp::Document& document);
  std::size_t pick(std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random_); }

private:
  amp::Spot anySpot(const amp::Design& design);
  std::mt19937 random_;
};

} // namespace vinegar::testing_support
