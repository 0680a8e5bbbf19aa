#pragma once

#include "circuit/system.h"

#include <deque>
#include <functional>
#include <map>
#include <memory>

namespace vinegar::circuit {

class PortBank;

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
  /// Shortens an iteration's move `from` -> `to` where a silicon diode's exponential would make it overshoot: above
  /// its bend the logarithm of the move is taken (L. W. Nagel, doctoral thesis, Berkeley, 1975).
  void limit(const double* from, double* to) const;

private:
  int count_ = 0;
  std::vector<std::pair<int, int>> rows_;
  std::vector<Device> devices_;
};

/// Where one evaluation of a PortBank puts what it works with; each thread has its own.
struct PortScratch {
  std::vector<double> plate, screen, grid, laws;
};

/// One implicit time step, C x'/(gamma h) folded in: from a state `start` finds x with
///   G x + alpha C (x - start) + i(x) = b + u + alpha ahead,   alpha = 1/(gamma h)
/// with everything linear eliminated once, so that only the ports' volts are iterated on. It works on the increment
/// x - start: whole fluxes over a short step would be volts by the thousand million that must cancel.
class ImplicitStep {
public:
  ImplicitStep(const System& system, const Ports& ports, double alpha);

  struct State {
    Eigen::VectorXd x;      ///< unknowns as in System
    Eigen::VectorXd charge; ///< C (x - start): charges and fluxes gained in the step
    Eigen::VectorXd portVolts, portAmps;
    int iterations = 0;
  };
  /// Factors of Newton's method from one solve to the next.
  struct Kept {
    const ImplicitStep* of = nullptr;
    Eigen::MatrixXd factors;
    PortScratch scratch;
    bool holds = false, isOfBefore = false; ///< of a step before this one
  };
  /// Solves for `state`, whose portVolts are the first guess and portAmps, where there are any, their currents. `ahead`
  /// is a charge, empty for none; `input` adds to b. False when Newton's method does not converge.
  bool solve(const Eigen::VectorXd& start, const Eigen::VectorXd& ahead,
             const std::vector<std::pair<int, double>>& input, double tolerance, State& state, Kept& kept) const;

  /// d(x)/d(charge ahead) at a solved state.
  [[nodiscard]] Eigen::MatrixXd byCharge(const State& state) const;
  /// What an error in charge comes to in x after the step has damped it.
  [[nodiscard]] Eigen::VectorXd filtered(const Eigen::VectorXd& charge) const { return alpha_ * (inverse_ * charge); }

private:
  void newtonMatrix(const std::vector<std::array<double, 9>>& slopes, Eigen::MatrixXd& matrix) const;

  const System& system_;
  const Ports& ports_;
  std::shared_ptr<const PortBank> bank_;
  double alpha_;
  Eigen::SparseMatrix<double, Eigen::RowMajor> conductance_, storage_;
  Eigen::MatrixXd inverse_;                                   ///< of G + alpha C
  Eigen::MatrixXd byPorts_;                                   ///< x per ampere at a port
  Eigen::MatrixXd impedance_;                                 ///< port volts per port ampere
  Eigen::MatrixXd highInverse_, highByPorts_, highImpedance_; ///< the same with rows for whole vectors
};

/// Drives a voltage or current source: volts or ampere over seconds, added to the source's DC. `corners` are the times
/// at which it jumps or bends; steps end there exactly, and the value at a corner counts as the value after it.
struct Waveform {
  std::function<double(double seconds)> value;
  std::vector<double> corners;
};

/// Whether one of the sorted `times` is within `resolution` of `t`.
bool holdsTime(const std::vector<double>& times, double t, double resolution);

/// A circuit in motion: its memory (charges and fluxes), its driven sources, and steps of any length.
class Dynamics {
public:
  /// `drive` by device index; must outlive this. Times nearer than `resolution` seconds are one time.
  Dynamics(const System& system, const std::map<int, Waveform>& drive, double resolution);
  Dynamics(const Dynamics&) = delete;
  Dynamics& operator=(const Dynamics&) = delete;

  [[nodiscard]] ImplicitStep::State stateAt(const Eigen::VectorXd& x) const;
  [[nodiscard]] const std::vector<double>& corners() const { return corners_; }
  [[nodiscard]] double resolution() const { return resolution_; }
  /// Whether an unknown takes part in the circuit's memory, and its error in a step's control.
  [[nodiscard]] bool remembers(Eigen::Index unknown) const { return remembers_[static_cast<std::size_t>(unknown)]; }
  /// Other laws from now on; node volts and winding currents stay.
  void setLaws(const std::vector<std::pair<int, Law>>& laws);

  /// Takes note of `x` at `t`, for delays to come back to; times must rise. Before the first, the first holds.
  void remember(double t, const Eigen::VectorXd& x);
  /// The shortest delay, infinite without one: no step may be longer.
  [[nodiscard]] double shortestDelay() const;

  /// Source values at `t`, seen from within [from, to]: at an end that is a corner, the value on this side of it.
  [[nodiscard]] std::vector<std::pair<int, double>> inputAt(double t, double from, double to) const;
  /// The driven devices' values then, in the order of `drive`.
  [[nodiscard]] std::vector<double> drivenAt(double t, double from, double to) const;
  /// Volts or ampere of the unknown that the system's n-th delayed entry answers to.
  [[nodiscard]] double pastOf(int entry, double t) const { return pasts_[static_cast<std::size_t>(entry)].at(t); }
  [[nodiscard]] const System& system() const { return system_; }
  const ImplicitStep& stepFor(double gammaH);

  /// One step of Alexander's third-order method from `now` over [t, t + h]; stages[2] is the new state. False when
  /// Newton's method fails.
  bool advance(const ImplicitStep::State& now, double t, double h, double tolerance,
               std::array<ImplicitStep::State, 3>& stages);
  /// Estimated error of that step in every unknown.
  [[nodiscard]] Eigen::VectorXd errorOf(double h, const std::array<ImplicitStep::State, 3>& stages);
  /// d(new x)/d(old x) of that step.
  [[nodiscard]] Eigen::MatrixXd xByX(double h, const std::array<ImplicitStep::State, 3>& stages);

private:
  struct Input {
    int row;
    double sign;
    std::size_t driven;
  };
  [[nodiscard]] double seenFrom(double t, double from, double to) const;
  /// An unknown's past, for a delay: volts over time, the oldest needed first.
  struct Past {
    std::deque<std::pair<double, double>> points;
    [[nodiscard]] double at(double t) const;
  };
  System system_;
  Ports ports_;
  std::vector<Past> pasts_; ///< one per delayed entry of the system
  Eigen::SparseMatrix<double> storage_;
  std::vector<bool> remembers_;
  std::vector<const Waveform*> driven_;
  std::vector<Input> inputs_;
  std::vector<double> corners_;
  double resolution_;
  std::vector<std::pair<double, std::unique_ptr<ImplicitStep>>> cache_;
  ImplicitStep::Kept kept_;
};

} // namespace vinegar::circuit
