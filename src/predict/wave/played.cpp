#include "predict/wave/played.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::predict {

using circuit::Node;

namespace {

constexpr int rise = 4, settled = 2; ///< periods of a wave

circuit::StepperSetup setupFor(const SmallSignal& signal, std::vector<int> sources, std::vector<Node> nodes) {
  circuit::StepperSetup setup;
  setup.samplesPerSecond = signal.hertz() * samplesPerPeriod;
  setup.inputs = std::move(sources);
  setup.outputs = std::move(nodes);
  return setup;
}

} // namespace

Drive driveOf(const circuit::System& system, const SmallSignal& signal) {
  Drive drive;
  const auto& devices = system.netlist().devices();
  for (std::size_t d = 0; d < devices.size(); ++d)
    if (const auto* source = std::get_if<circuit::VoltageSource>(&devices[d].law); source && source->ac != 0) {
      drive.devices.push_back(static_cast<int>(d));
      if (signal.stands()) drive.volts.push_back(source->ac / std::abs(signal.input()));
    }
  return drive;
}

PlayedAmplifier::PlayedAmplifier(const SmallSignal& signal, std::vector<Node> nodes)
    : signal_(signal), nodes_(nodes.size()), drive_(driveOf(*signal.idle().point.system, signal)),
      stepper_(*signal.idle().point.system, signal.idle().point.dc.x,
               setupFor(signal, drive_.devices, std::move(nodes))) {}

tl::expected<Wave, Problem> PlayedAmplifier::wave(double inputPeak, const GoOn& goOn) {
  stepper_.restart();
  Wave wave{signal_.hertz(), inputPeak, Eigen::MatrixXd(static_cast<Eigen::Index>(nodes_), samplesPerPeriod)};
  std::vector<double> inputs(drive_.devices.size());
  constexpr int periods = rise + settled, all = periods * samplesPerPeriod;
  for (int k = 1; k <= all; ++k) {
    // Where a step finds no state, as at an edge that a hard driven grid makes, smaller ones go through it.
    const auto at = [&](double share) -> const std::vector<double>& {
      const double moment = (k - 1 + share) / samplesPerPeriod;
      const double grown = std::sin(std::min(1.0, moment / rise) * std::numbers::pi / 2);
      const double now = inputPeak * grown * grown * std::sin(2 * std::numbers::pi * moment);
      for (std::size_t i = 0; i < inputs.size(); ++i)
        inputs[i] = drive_.volts[i] * now;
      return inputs;
    };
    if (!stepper_.step(at(1).data()) && !stepper_.stepFiner(at))
      return tl::unexpected(Problem{
          fmt::format("{:.3g} V at the input", inputPeak),
          fmt::format("no state was found {:.3g} s after the sine began", k / (samplesPerPeriod * wave.hertz))});
    if (const int column = k - (all - samplesPerPeriod + 1); column >= 0)
      for (std::size_t n = 0; n < nodes_; ++n)
        wave.volts(static_cast<Eigen::Index>(n), column) = stepper_.output(n);
    if (goOn && k % 128 == 0 && !goOn(static_cast<double>(k) / all)) return tl::unexpected(Problem::stopped());
  }
  return wave;
}

tl::expected<Wave, Problem> driveAmplifier(const SmallSignal& signal, double inputPeak, const std::vector<Node>& nodes,
                                           const GoOn& goOn) {
  return PlayedAmplifier(signal, nodes).wave(inputPeak, goOn);
}

} // namespace vinegar::predict
