#pragma once

#include "circuit/netlist.h"

#include <Eigen/Sparse>
#include <array>
#include <complex>
#include <vector>

namespace vinegar::circuit {

/// Currents into the pins of a tube or diode and their slopes: slopes[i][j] is d(current into pin i)/d(volts of pin j).
struct Pins {
  std::size_t count = 0;
  std::array<double, 4> current{};
  std::array<std::array<double, 4>, 4> slopes{};
};
bool isNonlinear(const Law& law);
/// A Zener conducts forward as this.
constexpr Diode zenerForward{1e-12, 1};
/// Current through a diode of any kind and its slope, by the volts across it.
struct TwoPin {
  double current, slope;
};
bool isTwoPin(const Law& law);
TwoPin twoPin(const Law& law, double across);
/// `volts` of each pin to ground.
Pins pinsOf(const Law& law, const std::array<double, 4>& volts);

/// The equations of a netlist in descriptor form, shared by every analysis:
///   G x + C dx/dt + i(x) + sum of D x(t - delay) = b
/// x holds the volts of nodes 1..n-1, then the currents of voltage sources, inductors, windings and vcvs, in device
/// order. i(x) are the currents of tubes and diodes; their slopes land on a fixed set of places.
class System {
public:
  explicit System(const Netlist& netlist);

  /// Gives devices other values: laws of the same kind, by device index. Far cheaper than building anew.
  void setLaws(const std::vector<std::pair<int, Law>>& laws);

  [[nodiscard]] int size() const { return size_; }
  [[nodiscard]] const Netlist& netlist() const { return netlist_; }

  using Triplet = Eigen::Triplet<double>;
  [[nodiscard]] const std::vector<Triplet>& conductance() const { return linear_.conductance; }
  [[nodiscard]] const std::vector<Triplet>& storage() const { return linear_.storage; }
  /// An entry of G that answers to its unknown as it was `seconds` ago. At DC it is an entry like any other.
  struct Delayed {
    int row, column;
    double gain, seconds;
  };
  [[nodiscard]] const std::vector<Delayed>& delayed() const { return linear_.delayed; }
  [[nodiscard]] const Eigen::VectorXd& dcExcitation() const { return dc_; }
  [[nodiscard]] const Eigen::VectorXcd& acExcitation() const { return ac_; }

  /// Adds i(x) to `current` and its slopes to `slopes`, always the same places in the same order.
  void nonlinear(const Eigen::VectorXd& x, Eigen::VectorXd& current, std::vector<Triplet>& slopes) const;

  /// Row of a device's branch current (of its first winding), or -1 if it has none.
  [[nodiscard]] int branch(int device) const { return branches_[static_cast<std::size_t>(device)]; }
  /// Row of a node's volts; -1 for ground.
  static int row(Node node) { return node - 1; }
  static double volts(const Eigen::VectorXd& x, Node node) { return node == 0 ? 0.0 : x[node - 1]; }

  /// What one device adds to the linear equations: G, C, and the DC and AC sources as (row, value).
  struct Stamps {
    std::vector<Triplet> conductance, storage;
    std::vector<Delayed> delayed;
    std::vector<std::pair<int, double>> dc;
    std::vector<std::pair<int, std::complex<double>>> ac;
    void clear();
  };
  /// Appends the stamps that `device` would have with `law`, which must be of its kind.
  void stampsOf(int device, const Law& law, Stamps& stamps) const;
  [[nodiscard]] const std::vector<int>& nonlinearDevices() const { return nonlinearDevices_; }

  /// Currents into each pin of a device at DC, ampere.
  [[nodiscard]] std::vector<double> pinCurrents(int device, const Eigen::VectorXd& x) const;

private:
  void number();
  void stampAll();

  Netlist netlist_;
  int size_ = 0;
  std::vector<int> branches_;
  std::vector<int> nonlinearDevices_;
  Stamps linear_;
  Eigen::VectorXd dc_;
  Eigen::VectorXcd ac_;
};

} // namespace vinegar::circuit
