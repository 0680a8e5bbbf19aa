// A supply stepped through time the plain way, written for the tests alone: explicit small steps, no matrices, nothing
// of the engine. It waits the steady state out.
#pragma once

#include <functional>
#include <vector>

namespace vinegar::testing_support {

struct ReferenceSupply {
  enum class Kind { fullWave, bridge, doubler } kind = Kind::fullWave;
  double voltsRms = 300, hertz = 50;         ///< unloaded, of a half in a full-wave supply
  double sourceOhms = 100;                   ///< winding and reflected primary, in series with each plate
  std::function<double(double volts)> diode; ///< ampere of one
  double seriesOhms = 0;                     ///< before the reservoir
  double farads = 32e-6;                     ///< of the reservoir; each of two in a doubler; 0: choke input
  struct Section {
    double henries = 0, ohms = 0, farads = 0; ///< a choke, or a resistor where henries are 0
  };
  std::vector<Section> sections;
  double loadAmps = 0.08; ///< steady, from the last node
};

struct ReferenceAnswer {
  std::vector<double> volts,
      rippleVpp; ///< reservoir first (of a choke-input supply the rectifier's output), then sections
  double peakAmps = 0, meanAmps = 0; ///< of one diode
};

/// Steps of 2 us; ends when a period's means repeat within 1e-5.
ReferenceAnswer stepThrough(const ReferenceSupply& supply);

} // namespace vinegar::testing_support
