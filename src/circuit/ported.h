#pragma once

#include "circuit/sweep.h"

#include <complex>

namespace vinegar::circuit {

/// A circuit's small-signal response for any values of a few of its resistors and capacitors. All the rest is solved
/// once, with those parts' places as ports; a set of values then costs a small solve a frequency, some microseconds for
/// four parts at sixty frequencies (M. A. Woodbury, Inverting modified matrices, Princeton memorandum report, 1950).
/// The operating point stays: a part that carries direct current is not to be among them. Any thread, once made.
class Ported {
public:
  static constexpr std::size_t mostParts = 16;

  /// What a resistor or capacitor is between its nodes.
  struct Admittance {
    double siemens = 0, farads = 0;
  };
  /// Of a resistor, a capacitor or a switch; nothing of any other law.
  static std::optional<Admittance> admittanceOf(const Law& law);

  /// `devices`: netlist devices that admittanceOf knows, at most mostParts. A circuit without one answer, or a `from`
  /// without a signal, is a Problem.
  static tl::expected<Ported, Problem> of(const System& system, const Eigen::VectorXd& operatingPoint,
                                          const std::vector<double>& hertz, Node from, Node to,
                                          const std::vector<int>& devices, AcPlan* plan = nullptr);

  /// volts(to) / volts(from) in dB at each frequency, with `values` in the order of the devices. `out` is resized. Not
  /// a number where these values leave the circuit without one answer.
  void decibels(const std::vector<Admittance>& values, std::vector<double>& out) const;
  /// Those of the circuit as it was given.
  [[nodiscard]] const std::vector<Admittance>& given() const { return given_; }
  [[nodiscard]] const std::vector<double>& hertz() const { return hertz_; }

private:
  using Complex = std::complex<double>;
  /// At one frequency, in one piece of memory: ports by ports, then by ports: the source's volts at them and what they
  /// do to `from` and `to`; then the source's volts there.
  [[nodiscard]] std::size_t stride() const { return given_.size() * (given_.size() + 3) + 2; }

  std::vector<double> hertz_;
  std::vector<Admittance> given_;
  std::vector<Complex> at_;
};

} // namespace vinegar::circuit
