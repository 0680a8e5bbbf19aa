#include "predict/wave/stage_ports.h"

#include <Eigen/LU>
#include <algorithm>
#include <limits>
#include <numbers>

namespace vinegar::predict {
namespace {

using circuit::Node;
using circuit::System;

bool isTubeAtWork(const amp::CompiledPart& part) {
  return amp::isTube(part.resolved.part->kind) && !part.devices.empty();
}

/// Unknowns by row: one for a node's volts, minus one for the other's.
Eigen::VectorXcd pair(Eigen::Index size, Node plus, Node minus) {
  Eigen::VectorXcd column = Eigen::VectorXcd::Zero(size);
  if (plus > 0) column[System::row(plus)] += 1;
  if (minus > 0) column[System::row(minus)] -= 1;
  return column;
}

} // namespace

const amp::CompiledPart* outputTransformerOf(const amp::Circuit& circuit, const amp::CompiledPart& tube) {
  for (const auto& part : circuit.parts)
    if (part.resolved.part->kind == amp::PartKind::outputTransformer && !part.devices.empty() &&
        std::find(part.nodes.begin(), part.nodes.end(), tube.nodes.front()) != part.nodes.end())
      return &part;
  return nullptr;
}

SmallSignal::SmallSignal(const Idle& idle, double hertz)
    : idle_(idle), hertz_(hertz),
      equations_(idle.point.system->size(), circuit::smallSignalEntries(*idle.point.system, idle.point.dc.x),
                 2 * std::numbers::pi * hertz),
      answer_(solve(idle.point.system->acExcitation())) {
  if (const auto jack = idle.circuit->probe("jack"); jack > 0) {
    input_ = volts(jack);
  } else {
    for (const auto& part : idle.circuit->parts)
      if (part.resolved.part->kind == amp::PartKind::signalSource && !part.devices.empty()) {
        input_ = part.resolved.value();
        break;
      }
  }
}

Eigen::VectorXcd SmallSignal::drawn(Node from, Node to) const { return solve(-pair(answer_.size(), from, to)); }

Eigen::VectorXcd SmallSignal::solve(const Eigen::VectorXcd& right) const {
  const auto answer = equations_.solve({right.begin(), right.end()});
  if (answer.empty()) return Eigen::VectorXcd::Constant(right.size(), std::numeric_limits<double>::quiet_NaN());
  return Eigen::Map<const Eigen::VectorXcd>(answer.data(), right.size());
}

Eigen::VectorXcd SmallSignal::with(Eigen::VectorXcd answer, const std::vector<Extra>& extras) const {
  const auto count = static_cast<Eigen::Index>(extras.size());
  if (count == 0) return answer;
  const auto across = [&](const Eigen::VectorXcd& x, Eigen::Index e) {
    const auto& extra = extras[static_cast<std::size_t>(e)];
    return voltsOf(x, extra.from) - voltsOf(x, extra.to);
  };
  Eigen::MatrixXcd columns(answer.size(), count), small = Eigen::MatrixXcd::Identity(count, count);
  Eigen::VectorXcd volts(count);
  for (Eigen::Index e = 0; e < count; ++e) {
    const auto& extra = extras[static_cast<std::size_t>(e)];
    columns.col(e) = drawn(extra.from, extra.to) * -extra.siemens;
    for (Eigen::Index f = 0; f < count; ++f)
      small(f, e) += across(columns.col(e), f);
    volts[e] = across(answer, e);
  }
  return answer - columns * small.partialPivLu().solve(volts);
}

Eigen::VectorXcd SmallSignal::answerWith(const std::vector<Extra>& extras) const { return with(answer_, extras); }

std::complex<double> SmallSignal::impedanceWith(Node node, const std::vector<Extra>& extras) const {
  return -voltsOf(with(drawn(node, 0), extras), node);
}

StagePorts::StagePorts(const SmallSignal& signal, const std::vector<const amp::CompiledPart*>& tubes) {
  const auto& point = signal.idle().point;
  drivesTransformer_ = !tubes.empty() && outputTransformerOf(*signal.idle().circuit, *tubes.front());
  std::vector<std::pair<Node, Node>> pins; // pin and cathode
  for (const auto* part : tubes) {
    const auto count = static_cast<Eigen::Index>(part->nodes.size()) - 1;
    tubes_.push_back({part, part->devices.front(), static_cast<Eigen::Index>(pins.size()), count});
    laws_.push_back(point.system->netlist().devices()[static_cast<std::size_t>(part->devices.front())].law);
    for (Eigen::Index p = 0; p < count; ++p)
      pins.emplace_back(part->nodes[static_cast<std::size_t>(p)], part->nodes.back());
  }
  const auto ports = static_cast<Eigen::Index>(pins.size());
  rest_.resize(ports);
  volts_.resize(ports);
  Eigen::MatrixXcd together(ports, ports); // impedance with the tubes at work
  for (Eigen::Index p = 0; p < ports; ++p) {
    const auto [pin, cathode] = pins[static_cast<std::size_t>(p)];
    rest_[p] = point.volts(pin) - point.volts(cathode);
    volts_[p] = signal.volts(pin) - signal.volts(cathode);
    const Eigen::VectorXcd x = signal.drawn(pin, cathode);
    const auto at = [&](Node node) { return SmallSignal::voltsOf(x, node); };
    for (Eigen::Index q = 0; q < ports; ++q)
      together(q, p) = -(at(pins[static_cast<std::size_t>(q)].first) - at(pins[static_cast<std::size_t>(q)].second));
  }
  Eigen::VectorXd amps;
  evaluate(rest_, amps, restSlopes_);
  const Eigen::MatrixXcd identity = Eigen::MatrixXcd::Identity(ports, ports);
  impedance_ = together * (identity - restSlopes_ * together).partialPivLu().inverse();
  drive_ = volts_ + impedance_ * (restSlopes_ * volts_);
  // What each plate's current adds to the stage's own, by its phase: plus and minus where they push and pull.
  const Eigen::VectorXcd current = this->amps();
  weights_ = Eigen::VectorXcd::Zero(ports);
  for (const auto& tube : tubes_) {
    const double size = std::abs(current[tube.plate()]);
    weights_[tube.plate()] = size > 0 ? std::conj(current[tube.plate()]) / size : 1;
  }
  atRest_ = responseOf(weights_, restSlopes_);
}

std::vector<Node> StagePorts::nodes() const {
  std::vector<Node> nodes;
  for (const auto& tube : tubes_)
    nodes.insert(nodes.end(), tube.part->nodes.begin(), tube.part->nodes.end());
  return nodes;
}

Eigen::VectorXd StagePorts::portsOf(const Eigen::Ref<const Eigen::VectorXd>& nodeVolts) const {
  Eigen::VectorXd ports(rest_.size());
  Eigen::Index first = 0;
  for (const auto& tube : tubes_) {
    ports.segment(tube.first, tube.count) =
        nodeVolts.segment(first, tube.count).array() - nodeVolts[first + tube.count];
    first += tube.count + 1;
  }
  return ports;
}

void StagePorts::evaluate(const Eigen::VectorXd& volts, Eigen::VectorXd& amps, Eigen::MatrixXd& slopes) const {
  amps.resize(rest_.size());
  slopes.setZero(rest_.size(), rest_.size());
  for (std::size_t t = 0; t < tubes_.size(); ++t) {
    const auto& tube = tubes_[t];
    std::array<double, 4> pins{}; // the cathode's last one stays 0
    for (Eigen::Index p = 0; p < tube.count; ++p)
      pins[static_cast<std::size_t>(p)] = volts[tube.first + p];
    const auto at = circuit::pinsOf(laws_[t], pins);
    for (Eigen::Index p = 0; p < tube.count; ++p) {
      amps[tube.first + p] = at.current[static_cast<std::size_t>(p)];
      for (Eigen::Index q = 0; q < tube.count; ++q)
        slopes(tube.first + p, tube.first + q) = at.slopes[static_cast<std::size_t>(p)][static_cast<std::size_t>(q)];
    }
  }
}

double StagePorts::responseOf(const Eigen::VectorXcd& weights, const Eigen::MatrixXd& slopes) const {
  const Eigen::MatrixXcd loop = Eigen::MatrixXcd::Identity(rest_.size(), rest_.size()) + impedance_ * slopes;
  const Eigen::VectorXcd current = slopes * loop.partialPivLu().solve(drive_);
  return (weights.transpose() * current).value().real();
}

double StagePorts::slopeShare(const Eigen::MatrixXd& slopes) const {
  return atRest_ > 0 ? responseOf(weights_, slopes) / atRest_ : 0;
}

double StagePorts::quietVolts() const {
  double least = std::numeric_limits<double>::infinity();
  for (const auto& tube : tubes_)
    least = std::min(least, std::abs(rest_[tube.grid()]));
  return std::clamp(0.05 * least, 1e-3, 1.0);
}

Eigen::MatrixXd StagePorts::withoutGridCurrent(Eigen::MatrixXd slopes) const {
  for (const auto& tube : tubes_)
    slopes.row(tube.grid()).setZero();
  return slopes;
}

std::vector<std::vector<const amp::CompiledPart*>> stagesOf(const amp::Circuit& circuit) {
  std::vector<std::vector<const amp::CompiledPart*>> stages;
  std::map<const amp::CompiledPart*, std::size_t> byTransformer;
  for (const auto& part : circuit.parts) {
    if (!isTubeAtWork(part)) continue;
    if (const auto* transformer = outputTransformerOf(circuit, part)) {
      const auto [found, isNew] = byTransformer.try_emplace(transformer, stages.size());
      if (!isNew) {
        stages[found->second].push_back(&part);
        continue;
      }
    }
    stages.push_back({&part});
  }
  return stages;
}

} // namespace vinegar::predict
