#pragma once

#include "circuit/ac.h"

#include <cstdint>
#include <functional>

namespace vinegar::circuit {

/// One part that comes out a little different in every build. A part of several devices moves as one.
struct Spread {
  std::vector<int> devices; ///< resistors, capacitors, inductors; tubes vary by their emission
  double tolerance = 0;     ///< 0.1: anything within 10 % either way, equally likely
  double gmTolerance = 0;   ///< tubes
};

struct MonteCarloQuestion {
  int builds = 1000;
  std::uint64_t seed = 1;
  int threads = 0; ///< 0: as many as the machine has
  std::vector<Spread> spreads;
  std::vector<double> hertz;
  Node from = 0, to = 0;
  std::vector<int> watched = {}; ///< devices whose current into their first pin is wanted
  std::function<bool()> goOn;    ///< asked before every build, from any thread; false cancels
};

struct MonteCarloAnswer {
  Eigen::MatrixXd decibels; ///< one row per frequency, one column per build; NaN where a build has no answer
  Eigen::MatrixXd amps;     ///< of the watched devices at rest, one row each
  Eigen::MatrixXd unknowns; ///< operating points, rows as in System
  int failures = 0;         ///< builds without an operating point or response
};

/// Many builds of one circuit. The answer depends on the question and the seed alone, not on threads. A nominal circuit
/// without an operating point, or cancelling, is a Problem.
tl::expected<MonteCarloAnswer, Problem> solveMonteCarlo(const System& system, const MonteCarloQuestion& question);

} // namespace vinegar::circuit
