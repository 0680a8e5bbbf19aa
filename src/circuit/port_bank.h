// The laws of a circuit's nonlinear devices, its tubes evaluated together.
#pragma once

#include "circuit/implicit_step.h"
#include "tubes/bank.h"

namespace vinegar::circuit {

/// Currents and slopes of a system's ports: tubes in the lanes of the processor's vector unit, diodes one at a time.
/// Never changed after it is made, of the laws as they are then; any thread.
class PortBank {
public:
  PortBank() = default;
  PortBank(const Ports& ports, tubes::Width width);

  [[nodiscard]] PortScratch scratch() const;
  /// Port currents, and the slopes of each device: nine from 9 d on, d(current i)/d(volts j) at 3 i + j. No allocation.
  void evaluate(const double* volts, double* currents, double* slopes, PortScratch& scratch) const;

private:
  struct Pins {
    int device, first, count, lane;
  };
  std::vector<Pins> banked_;
  std::vector<Ports::Device> single_;
  std::vector<int> singleAt_;
  tubes::TubeBank bank_{{}, {}};
};

} // namespace vinegar::circuit
