#pragma once

#include "circuit/sweep.h"

namespace vinegar::circuit {

constexpr double boltzmann = 1.380649e-23; ///< J/K
constexpr double electronCharge = 1.602176634e-19;
constexpr double roomKelvin = 300;

/// One place where noise arises: a current between two nodes, or a voltage in a branch.
struct NoiseSource {
  int device = 0;
  const char* kind = ""; ///< "thermal", "space-charge", "partition", "grid" or "shot"
  Node from = 0, to = 0; ///< of a current source
  int branch = -1;       ///< row of the branch that a voltage source stands in; then from and to are unused
  double density = 0;    ///< A^2/Hz or V^2/Hz, the same at all frequencies
};

/// Thermal noise 4kT/R of every resistance (J. B. Johnson and H. Nyquist, Physical Review, 1928), windings included;
/// space-charge reduced noise of a cathode as an equivalent grid resistance 2.5/gm, and partition noise of a pentode as
/// Ip/(Ip+Ig2) * 20 Ig2/gm^2 more (W. A. Harris, Fluctuations in vacuum tube amplifiers, RCA Review, 1941); shot noise
/// 2qI of grid current and silicon diodes (W. Schottky, 1918). Flicker noise has no agreed figures and is left out.
std::vector<NoiseSource> noiseSources(const System& system, const Eigen::VectorXd& operatingPoint);

struct NoiseSpectrum {
  std::vector<double> hertz;
  std::vector<double> output;        ///< V^2/Hz at the output node
  std::vector<double> inputReferred; ///< V^2/Hz at the input node; empty when none was asked for
  std::vector<NoiseSource> sources;
  Eigen::MatrixXd contributions; ///< V^2/Hz at the output, one row per source, one column per frequency
};

/// Noise at `output` with the netlist's own AC source at `input` as the reference; `input` 0: none. One transposed
/// solve per frequency serves all sources.
tl::expected<NoiseSpectrum, Problem> solveNoise(const System& system, const Eigen::VectorXd& operatingPoint,
                                                const std::vector<double>& hertz, Node output, Node input,
                                                AcPlan* plan = nullptr);

/// Root of the integral of a density over frequency by trapezoids, V rms; `weight` may be empty or hold a factor on
/// power for each frequency.
double noiseVolts(const std::vector<double>& hertz, const std::vector<double>& density,
                  const std::vector<double>& weight = {});

} // namespace vinegar::circuit
