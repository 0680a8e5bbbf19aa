#include "predict/played.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::predict {

using circuit::Node;

namespace {

constexpr int rise = 4, settled = 2; ///< periods of a wave

circuit::StepperSetup setupFor(const SmallSignal& signal, std::vector<Node> nodes) {
  circuit::StepperSetup setup;
  setup.samplesPerSecond = signal.hertz() * samplesPerPeriod;
  setup.outputs = std::move(nodes);
  const auto& devices = signal.idle().point.system->netlist().devices();
  for (std::size_t d = 0; d < devices.size(); ++d)
    if (const auto* source = std::get_if<circuit::VoltageSource>(&devices[d].law); source && source->ac != 0)
      setup.inputs.push_back(static_cast<int>(d));
  return setup;
}

} // namespace

PlayedAmplifier::PlayedAmplifier(const SmallSignal& signal, std::vector<Node> nodes)
    : signal_(signal), nodes_(nodes.size()),
      stepper_(*signal.idle().point.system, signal.idle().point.dc.x, setupFor(signal, std::move(nodes))) {
  const auto& devices = signal.idle().point.system->netlist().devices();
  for (const int input : setupFor(signal, {}).inputs)
    sources_.push_back(std::get<circuit::VoltageSource>(devices[static_cast<std::size_t>(input)].law).ac);
}

tl::expected<Wave, Problem> PlayedAmplifier::wave(double inputPeak, const GoOn& goOn) {
  stepper_.restart();
  const double scale = inputPeak / std::abs(signal_.input());
  Wave wave{signal_.hertz(), inputPeak, Eigen::MatrixXd(static_cast<Eigen::Index>(nodes_), samplesPerPeriod)};
  std::vector<double> inputs(sources_.size());
  constexpr int periods = rise + settled, all = periods * samplesPerPeriod;
  for (int k = 1; k <= all; ++k) {
    const double period = static_cast<double>(k) / samplesPerPeriod;
    const double risen = std::sin(std::min(1.0, period / rise) * std::numbers::pi / 2);
    const double sine = scale * risen * risen * std::sin(2 * std::numbers::pi * period);
    for (std::size_t i = 0; i < inputs.size(); ++i)
      inputs[i] = sources_[i] * sine;
    if (!stepper_.step(inputs.data()))
      return tl::unexpected(
          Problem{fmt::format("{:.3g} V at the input", inputPeak),
                  fmt::format("no state was found {:.3g} s after the sine began", period / wave.hertz)});
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
