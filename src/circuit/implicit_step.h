#pragma once

#include "circuit/system.h"

#include <functional>
#include <map>
#include <memory>

namespace vinegar::circuit {

/// The nonlinear devices of a System as ports: each pin of a tube against its cathode.
class Ports {
public:
  explicit Ports(const System& system);

  [[nodiscard]] int count() const { return count_; }
  /// Node pairs (pin row, cathode row), -1 for ground.
  [[nodiscard]] const std::vector<std::pair<int, int>>& rows() const { return rows_; }
  [[nodiscard]] Eigen::VectorXd volts(const Eigen::VectorXd& x) const;

  struct Device {
    const Law* law;
    int first, count;
  };
  [[nodiscard]] const std::vector<Device>& devices() const { return devices_; }
  /// Port currents, and the slopes of each device: block d holds d(current i)/d(volts j), row by row.
  void evaluate(const double* volts, double* currents, std::vector<std::array<double, 9>>& slopes) const;

private:
  int count_ = 0;
  std::vector<std::pair<int, int>> rows_;
  std::vector<Device> devices_;
};

/// One implicit time step, C x'/(gamma h) folded in: solves
///   G x + alpha C x + i(x) = b + u + alpha history,   alpha = 1/(gamma h)
/// with everything linear eliminated once, so that only the ports' volts are iterated on.
class ImplicitStep {
public:
  /// `inputs`: rows of b that are driven; `outputs`: nodes wanted.
  ImplicitStep(const System& system, const Ports& ports, const std::vector<int>& storageRows,
               const std::vector<int>& inputs, const std::vector<Node>& outputs, double alpha);

  struct State {
    Eigen::VectorXd portVolts, portAmps;
    Eigen::VectorXd charge;  ///< C x at the storage rows: the circuit's memory
    Eigen::VectorXd outputs; ///< volts
    int iterations = 0;
  };
  /// Solves for `state`, whose portVolts are the first guess. `history` is a charge. False when Newton's method does
  /// not converge.
  bool solve(const Eigen::VectorXd& history, const Eigen::VectorXd& input, double tolerance, State& state) const;

  /// d(charge)/d(history) at a solved state.
  [[nodiscard]] Eigen::MatrixXd chargeByHistory(const State& state) const;
  /// What an error in charge means in volts at ports and outputs.
  [[nodiscard]] Eigen::VectorXd voltsOf(const Eigen::VectorXd& charge) const;
  [[nodiscard]] double alpha() const { return alpha_; }

private:
  void newtonMatrix(const std::vector<std::array<double, 9>>& slopes, Eigen::MatrixXd& matrix) const;

  const Ports& ports_;
  double alpha_;
  int portCount_, chargeCount_, outputCount_;
  // Rows: ports, charges, outputs.
  Eigen::MatrixXd byHistory_, byInput_, byPorts_;
  Eigen::VectorXd constant_;
};

/// Drives a voltage or current source: volts or ampere over seconds, added to the source's DC. `corners` are the times
/// at which it jumps or bends; steps end there exactly, and the value at a corner counts as the value after it.
struct Waveform {
  std::function<double(double seconds)> value;
  std::vector<double> corners;
};

/// A circuit in motion: its memory (charges and fluxes), its driven sources, and steps of any length.
class Dynamics {
public:
  /// `drive` by device index; must outlive this.
  Dynamics(const System& system, const std::map<int, Waveform>& drive, const std::vector<Node>& outputs);
  Dynamics(const Dynamics&) = delete;
  Dynamics& operator=(const Dynamics&) = delete;

  [[nodiscard]] ImplicitStep::State stateAt(const Eigen::VectorXd& x) const;
  [[nodiscard]] const std::vector<double>& corners() const { return corners_; }
  [[nodiscard]] int memory() const { return static_cast<int>(storageRows_.size()); }
  /// Charge per volt, flux per ampere of each row of the memory: its measure.
  [[nodiscard]] const Eigen::VectorXd& chargePerUnit() const { return chargePerUnit_; }
  /// Other laws from now on; the memory stays.
  void setLaws(const std::vector<std::pair<int, Law>>& laws);

  /// Source values at `t`, seen from within [from, to]: at an end that is a corner, the value on this side of it.
  [[nodiscard]] Eigen::VectorXd inputAt(double t, double from, double to) const;
  const ImplicitStep& stepFor(double gammaH);

  /// One step of Alexander's third-order method from `now` over [t, t + h]; stages[2] is the new state. False when
  /// Newton's method fails.
  bool advance(const ImplicitStep::State& now, double t, double h, double tolerance,
               std::array<ImplicitStep::State, 3>& stages);
  /// Estimated error of that step at ports and outputs, volts.
  [[nodiscard]] Eigen::VectorXd errorOf(const ImplicitStep::State& now, double h,
                                        const std::array<ImplicitStep::State, 3>& stages);
  /// d(new charge)/d(old charge) of that step.
  [[nodiscard]] Eigen::MatrixXd chargeByCharge(double h, const std::array<ImplicitStep::State, 3>& stages);

private:
  struct Input {
    int row;
    double sign;
    const Waveform* waveform;
  };
  System system_;
  Ports ports_;
  std::vector<int> storageRows_;
  std::vector<Input> inputs_;
  std::vector<Node> outputs_;
  Eigen::VectorXd chargePerUnit_;
  std::vector<double> corners_;
  std::vector<std::pair<double, std::unique_ptr<ImplicitStep>>> cache_;
};

} // namespace vinegar::circuit
