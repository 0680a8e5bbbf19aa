#pragma once

#include "circuit/implicit_step.h"
#include "units/place.h"

#include <Eigen/LU>

namespace vinegar::circuit {

/// A circuit of few nonlinear ports and few memories, such as a supply, in quick motion: for one step length everything
/// linear is eliminated down to its charges and fluxes and the volts of the ports, so that a step costs a few hundred
/// multiplications. All driven sources follow one waveform.
///
/// Each step is the two-stage L-stable SDIRK method of order 2 (R. Alexander, SIAM Journal on Numerical Analysis,
/// 1977): what is faster than a step is damped, so that a rectifier's edges do not ring.
class Reduced {
public:
  /// `driven`: sources that carry the waveform, their volts or ampere times `share`.
  struct Driven {
    int device;
    double share = 1;
  };
  Reduced(const System& system, const std::vector<Driven>& driven, double stepSeconds);

  /// Other laws of the same kind from now on. Charges and fluxes stay.
  void setLaws(const std::vector<std::pair<int, Law>>& laws);
  /// A nonlinear device's current times this, by its place in System::nonlinearDevices(): a cathode that warms up.
  void setEmission(std::size_t place, double share) { emission_[place] = share; }

  struct State {
    Eigen::VectorXd z;     ///< memories: volts of capacitors, ampere of inductors
    Eigen::VectorXd volts; ///< of the ports, the next step's first guess
  };
  /// Without charge and flux.
  [[nodiscard]] State rest() const;
  /// With the charges and fluxes of `x`.
  [[nodiscard]] State at(const Eigen::VectorXd& x) const;

  /// What changes of `x`, a column each, are in charges and fluxes.
  [[nodiscard]] Eigen::MatrixXd memoriesOf(const Eigen::MatrixXd& x) const { return memory_.transpose() * x; }

  /// What a step saw, weighted so that sums over whole periods obey Kirchhoff's laws to the last digit.
  struct Mean {
    Eigen::VectorXd memory, amps;
    double drive = 0, weight = 0;
  };
  /// One step of the given length, from `t`. `byStart`: d(memory)/d(memory at some earlier time), carried along.
  /// False when Newton's method fails.
  bool step(State& state, double t, const std::function<double(double)>& drive, Eigen::MatrixXd* byStart = nullptr,
            Mean* mean = nullptr);
  /// What `x` of many steps can be told from at once, one column per step: cheaper than `x` after each.
  struct Trace {
    Eigen::MatrixXd memory, amps;
    Eigen::VectorXd drive;
    void resize(Eigen::Index memories, Eigen::Index ports, Eigen::Index steps);
  };
  /// Keeps the last step in column `step`.
  void note(Trace& trace, Eigen::Index step) const;
  [[nodiscard]] Eigen::MatrixXd x(const Trace& trace) const;
  /// All unknowns, as in System, after the last step; and the currents of the ports.
  [[nodiscard]] Eigen::VectorXd x() const;
  [[nodiscard]] double x(int row) const;
  [[nodiscard]] const Eigen::VectorXd& amps() const { return amps_; }
  [[nodiscard]] Eigen::VectorXd x(const Mean& mean) const;
  [[nodiscard]] Eigen::VectorXd ampsOf(const Mean& mean) const { return mean.amps / mean.weight; }

  [[nodiscard]] double stepSeconds() const { return h_; }
  [[nodiscard]] const System& system() const { return system_; }
  [[nodiscard]] const Ports& ports() const { return ports_; }
  [[nodiscard]] Eigen::Index memories() const { return byMemory_.cols(); }

private:
  void prepare();
  bool stage(const Eigen::VectorXd& before, double drive, Eigen::VectorXd& volts, Eigen::VectorXd& z);
  bool solveDiodes(Eigen::VectorXd& volts);
  void evaluate(const Eigen::VectorXd& volts);
  bool fillNewton();
  [[nodiscard]] double roundingVolts() const;
  void carry(Eigen::MatrixXd& byBefore);

  System system_;
  Ports ports_;
  std::vector<Driven> driven_;
  double h_;
  std::vector<double> emission_;
  static constexpr int mostDiodes = 4; ///< up to so many, plain loops are faster
  bool fewDiodes_ = false;
  Eigen::MatrixXd charge_, memory_; ///< C = charge * memory^T
  // x = constant + byDrive u + byMemory z - byAmps i, and what the memories and the ports see of it.
  Eigen::VectorXd constant_, byDrive_;
  Eigen::MatrixXd byMemory_, byAmps_;
  Eigen::VectorXd memoryConstant_, memoryByDrive_, portConstant_, portByDrive_;
  Eigen::MatrixXd memoryByMemory_, memoryByAmps_, portByMemory_, portByAmps_;
  // The last stage.
  Eigen::VectorXd before_, amps_;
  double drive_ = 0;
  std::vector<std::array<double, 9>> slopes_;
  // Work.
  Eigen::VectorXd base_, misfit_, trial_, z1_, z2_, w2_;
  Eigen::MatrixXd newton_, carriedVolts_, carriedAmps_, byFirst_;
  Eigen::PartialPivLU<Eigen::MatrixXd> lu_;
};

/// One period of a steady state.
struct Cycle {
  double period = 0;
  Eigen::MatrixXd x; ///< unknowns as in System, one column per step, the first one step after time 0
  Eigen::VectorXd meanX, meanAmps;
  Reduced::State start;    ///< at time 0: where a like question may start
  Eigen::MatrixXd byStart; ///< d(memory after a period)/d(memory at its start), perhaps of a like question
  int periods = 0;         ///< worked through to find it
};

/// The state that repeats with the drive, found by shooting on the memories (T. J. Aprille and T. N. Trick,
/// Proceedings of the IEEE, 1972), every memory within 1e-5 volts or ampere. `like`: the answer to a like question, or
/// null. Not finding one is a Problem.
tl::expected<Cycle, Problem> steadyCycle(Reduced& circuit, const std::function<double(double)>& drive, double period,
                                         int steps, const Cycle* like = nullptr);

} // namespace vinegar::circuit
