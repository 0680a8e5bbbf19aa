// Tubes as the rest of their amplifier sees them at rest and one frequency: what every question about a single stage,
// its gain, its impedances and its limits, starts from.
#pragma once

#include "circuit/pivoted.h"
#include "predict/rest/idle.h"

#include <complex>

namespace vinegar::predict {

/// The small-signal equations of an idle amplifier at one frequency, factored once; phasors are for the design's own
/// sources. Half a millisecond to make for a large amplifier, then microseconds a question. One thread at a time.
class SmallSignal {
public:
  SmallSignal(const Idle& idle, double hertz);

  [[nodiscard]] double hertz() const { return hertz_; }
  [[nodiscard]] std::complex<double> volts(circuit::Node node) const {
    return node <= 0 ? 0 : answer_[circuit::System::row(node)];
  }
  /// Every unknown for one ampere drawn from the first node and given to the second.
  [[nodiscard]] Eigen::VectorXcd drawn(circuit::Node from, circuit::Node to) const;
  /// An admittance that is added between two nodes for one question; a negative one takes a part out.
  struct Extra {
    circuit::Node from, to;
    std::complex<double> siemens;
  };
  /// Every unknown, and a node's impedance to ground, with these in the circuit (M. A. Woodbury, Inverting modified
  /// matrices, Princeton memorandum report, 1950).
  [[nodiscard]] Eigen::VectorXcd answerWith(const std::vector<Extra>& extras) const;
  [[nodiscard]] std::complex<double> impedanceWith(circuit::Node node, const std::vector<Extra>& extras) const;
  [[nodiscard]] static std::complex<double> voltsOf(const Eigen::VectorXcd& unknowns, circuit::Node node) {
    return node <= 0 ? 0 : unknowns[circuit::System::row(node)];
  }
  /// Volts of the jack, or of the first source where there is no jack, which levels are compared with.
  [[nodiscard]] std::complex<double> input() const { return input_; }
  /// Whether the equations have one answer; all others mean nothing where not.
  [[nodiscard]] bool stands() const { return answer_.allFinite() && std::abs(input_) > 1e-12; }
  [[nodiscard]] const Idle& idle() const { return idle_; }

private:
  [[nodiscard]] Eigen::VectorXcd with(Eigen::VectorXcd answer, const std::vector<Extra>& extras) const;
  /// Not a number where the equations have no one answer.
  [[nodiscard]] Eigen::VectorXcd solve(const Eigen::VectorXcd& right) const;

  const Idle& idle_;
  double hertz_;
  circuit::Pivoted equations_;
  Eigen::VectorXcd answer_;
  std::complex<double> input_ = 0;
};

/// One tube, or those that drive one output transformer, taken out of the amplifier: the volts of each pin to its
/// cathode are those at rest and, about them, v = drive - impedance * i, with i the changes of the pins' currents.
/// Everything else is taken as linear.
class StagePorts {
public:
  struct Tube {
    const amp::CompiledPart* part;
    int device;
    Eigen::Index first, count; ///< its ports: plate, (screen,) grid
    [[nodiscard]] Eigen::Index plate() const { return first; }
    [[nodiscard]] Eigen::Index grid() const { return first + count - 1; }
  };

  StagePorts(const SmallSignal& signal, const std::vector<const amp::CompiledPart*>& tubes);

  [[nodiscard]] const std::vector<Tube>& tubes() const { return tubes_; }
  /// Of the circuit, every pin of every tube, and the ports' volts from theirs, in that order.
  [[nodiscard]] std::vector<circuit::Node> nodes() const;
  [[nodiscard]] Eigen::VectorXd portsOf(const Eigen::Ref<const Eigen::VectorXd>& nodeVolts) const;
  [[nodiscard]] const Eigen::VectorXd& rest() const { return rest_; }
  [[nodiscard]] const Eigen::MatrixXcd& impedance() const { return impedance_; }
  [[nodiscard]] const Eigen::VectorXcd& drive() const { return drive_; }
  /// Phasors of the ports' volts and of the tubes' currents in the working amplifier.
  [[nodiscard]] const Eigen::VectorXcd& volts() const { return volts_; }
  [[nodiscard]] Eigen::VectorXcd amps() const { return restSlopes_ * volts_; }
  [[nodiscard]] const Eigen::MatrixXd& restSlopes() const { return restSlopes_; }

  /// The tubes' currents and slopes at these volts of the ports.
  void evaluate(const Eigen::VectorXd& volts, Eigen::VectorXd& amps, Eigen::MatrixXd& slopes) const;
  /// What a little more drive does to the stage's plate current with the tubes at these slopes, as a share of what it
  /// does at rest: 1 where the wave still follows the small-signal line.
  [[nodiscard]] double slopeShare(const Eigen::MatrixXd& slopes) const;
  /// The slopes as they would be if grids drew no current.
  [[nodiscard]] Eigen::MatrixXd withoutGridCurrent(Eigen::MatrixXd slopes) const;

  /// A drive at the grid, volts, that no limit is met under: a small share of its bias.
  [[nodiscard]] double quietVolts() const;
  [[nodiscard]] bool drivesTransformer() const { return drivesTransformer_; }

private:
  [[nodiscard]] double responseOf(const Eigen::VectorXcd& weights, const Eigen::MatrixXd& slopes) const;

  std::vector<Tube> tubes_;
  std::vector<circuit::Law> laws_;
  Eigen::VectorXd rest_;
  Eigen::MatrixXd restSlopes_;
  Eigen::MatrixXcd impedance_;
  Eigen::VectorXcd drive_, volts_, weights_;
  double atRest_ = 0;
  bool drivesTransformer_ = false;
};

/// The output transformer that a tube's plate stands on, or null.
const amp::CompiledPart* outputTransformerOf(const amp::Circuit& circuit, const amp::CompiledPart& tube);
/// The design's tubes, those on one output transformer together, in the order of the parts.
std::vector<std::vector<const amp::CompiledPart*>> stagesOf(const amp::Circuit& circuit);

} // namespace vinegar::predict
