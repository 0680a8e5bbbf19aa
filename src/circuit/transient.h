#pragma once

#include "circuit/dc.h"
#include "circuit/implicit_step.h"

namespace vinegar::circuit {

/// Devices take other laws of their kind at a time: a switch thrown, a resistance turned. Node volts and winding
/// currents stay as they are at that moment, and with them all charges and fluxes unless a storing part itself changes.
struct Event {
  double seconds = 0;
  std::vector<std::pair<int, Law>> laws;
};

struct TransientQuestion {
  double duration = 0; ///< s
  double samplesPerSecond = 96000;
  std::map<int, Waveform> drive; ///< by device index
  std::vector<Event> events;     ///< in order of time
  std::vector<Node> outputs;
  enum class Mode {
    preview, ///< one step per sample, by Stepper; no error control
    accurate ///< steps halved until the estimated error is within tolerance
  };
  Mode mode = Mode::accurate;
  double relativeTolerance = 1e-3, absoluteVolts = 1e-3; ///< accurate mode, per step
  std::function<bool(double share)> progress;            ///< called now and then; false cancels
};

struct TransientAnswer {
  std::vector<double> seconds;
  Eigen::MatrixXd volts; ///< one row per output, one column per sample
  long steps = 0, refused = 0, iterations = 0;
};

/// The circuit's answer over time from its operating point `x`. Accurate mode: SDIRK of order 3, L-stable and stiffly
/// accurate (R. Alexander, Diagonally implicit Runge-Kutta methods for stiff ODEs, SIAM Journal on Numerical Analysis,
/// 1977), with an embedded error estimate; a step that fails Newton's method is halved. Neither mode rings at a jump.
/// A time at which no step succeeds, or cancelling, is the Problem.
tl::expected<TransientAnswer, Problem> solveTransient(const System& system, const Eigen::VectorXd& operatingPoint,
                                                      const TransientQuestion& question);

} // namespace vinegar::circuit
