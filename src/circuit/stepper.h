// A circuit in motion at a fixed rate: what is played through, for waves, maps and listening.
#pragma once

#include "circuit/system.h"
#include "tubes/width.h"

#include <Eigen/Core>
#include <cmath>
#include <functional>
#include <memory>

namespace vinegar::circuit {

/// How a Stepper looks at its circuit.
struct StepperSetup {
  double samplesPerSecond = 96000;
  /// Weight of a step's end against its start: 0.5 is the most accurate and rings longest after a jump, 1 rings never.
  /// 0: 0.52 at 96 kHz and nearer to 0.5 the shorter the step.
  double theta = 0;
  std::vector<int> inputs;   ///< devices: voltage and current sources whose volts and ampere are given, above their DC
  std::vector<Node> outputs; ///< nodes whose volts are told
  /// Of the unknown that the system's n-th delayed entry answers to, so many seconds before the start; empty: as then.
  std::function<double(int entry, double secondsAgo)> past;
  tubes::Width width = tubes::usualWidth();
};

/// Steps a circuit by the theta method (J. Crank and P. Nicolson, Proceedings of the Cambridge Philosophical Society,
/// 1947, for one half). The circuit is brought down to its nonlinear devices' pins and its memories, the currents of
/// capacitors and the volts of inductors, once: a step is then one product with them and Newton's method on the pins
/// that conduct. No allocation in a step; 2 to 4 us for an amplifier of seven tubes. One thread at a time; a copy is a
/// circuit of its own that starts where this one is, and costs as much as its memories.
class Stepper {
public:
  /// At rest in the unknowns `x`, an operating point or the state of another run in which sources hold `now` above
  /// their DC (empty: nothing). No delay of the circuit may be shorter than a sample.
  Stepper(const System& system, const Eigen::VectorXd& x, const StepperSetup& setup,
          const std::vector<double>& now = {});
  ~Stepper();
  Stepper(const Stepper& other);
  Stepper(Stepper&&) noexcept;
  Stepper& operator=(const Stepper&) = delete;
  Stepper& operator=(Stepper&&) noexcept;

  /// Goes on by a sample, at whose end the inputs are `inputs`, in the order of the setup. False where no state is
  /// found: the stepper then stands where it stood.
  bool step(const double* inputs);
  /// Volts of the outputs, in the order of the setup.
  [[nodiscard]] double output(std::size_t index) const;
  /// Ampere into a pin of a nonlinear device, by its place in System::nonlinearDevices(); its last pin's is not told.
  [[nodiscard]] double amps(std::size_t device, int pin) const;
  /// All unknowns, as System has them: for what is asked now and then.
  [[nodiscard]] Eigen::VectorXd unknowns() const;
  /// The same sample in smaller steps, for where one step finds no state: eight, then many damped ones that get through
  /// a jump. `inputsAt` tells the inputs at a share of the sample, 0 to 1. False where none of them has a state; it
  /// then stands where it stood. Some milliseconds.
  bool stepFiner(const std::function<const std::vector<double>&(double share)>& inputsAt);
  /// Goes on from where `other` stands: one of the same system, start, inputs and outputs, whatever its step length. No
  /// allocation.
  void resume(const Stepper& other);
  /// Of the unknown that the system's n-th delayed entry answers to, so many seconds ago; beyond what is kept, the
  /// oldest.
  [[nodiscard]] double past(int entry, double secondsAgo) const;
  /// Back to where it was made.
  void restart();

  struct Work {
    long steps = 0, evaluations = 0, factorizations = 0, most = 0; ///< `most`: evaluations of the costliest step
  };
  [[nodiscard]] const Work& work() const;

private:
  struct Plan;
  struct State;
  std::shared_ptr<const Plan> plan_;
  std::unique_ptr<State> state_;
};

/// What a step of the trapezoidal rule errs by, told from four outputs in a row, the youngest first.
inline double stepError(double now, double one, double two, double three) {
  return std::abs(now - three + 3 * (two - one)) / 12;
}

} // namespace vinegar::circuit
