#pragma once

#include "circuit/transient.h"

namespace vinegar::circuit {

struct PeriodicQuestion {
  double period = 0;             ///< s
  int steps = 256;               ///< per period
  std::map<int, Waveform> drive; ///< by device index; must repeat with the period
  std::vector<Node> outputs;
  std::function<bool(double share)> progress; ///< false cancels
};

struct PeriodicAnswer {
  std::vector<double> seconds; ///< one period, its end left out
  Eigen::MatrixXd volts;       ///< one row per output
  double unrest = 0;           ///< the largest change of the memory over the accepted period, volts or ampere
  int periodsSolved = 0;
};

/// The state that repeats with the drive, found directly by shooting with Newton's method on the circuit's memory (T.
/// J. Aprille and T. N. Trick, Steady-state analysis of nonlinear circuits with periodic inputs, Proceedings of the
/// IEEE, 1972), so that slow states need no waiting. The drive is raised from nothing in steps when the full one does
/// not converge at once. Not finding one is a Problem, as is cancelling.
tl::expected<PeriodicAnswer, Problem> solvePeriodic(const System& system, const Eigen::VectorXd& operatingPoint,
                                                    const PeriodicQuestion& question);

/// Amplitude and phase of the harmonics 0...count of one period of evenly spaced samples, as peak phasors of cosines;
/// entry 0 is the mean.
std::vector<std::complex<double>> harmonics(const Eigen::Ref<const Eigen::RowVectorXd>& samples, int count);

/// Total harmonic distortion of such a list: root of the sum of squares of harmonics 2 and up over the fundamental.
double totalHarmonicDistortion(const std::vector<std::complex<double>>& harmonics);

} // namespace vinegar::circuit
