#include "predict/feedback.h"

#include "units/value.h"

#include <algorithm>

namespace vinegar::predict {

double Feedback::decibels() const { return units::decibels(std::abs(1.0 + returned)); }

std::optional<Feedback> feedbackOf(const SmallSignal& signal) {
  const auto& circuit = *signal.idle().circuit;
  const auto speaker = circuit.probe("speaker");
  if (speaker <= 0) return std::nullopt;
  std::vector<SmallSignal::Extra> without;
  for (const auto& part : circuit.parts)
    if (part.resolved.part->role == "feedback" && !part.devices.empty())
      without.push_back({part.nodes.front(), part.nodes.back(), -1 / part.resolved.value()});
  if (without.empty()) return std::nullopt;
  const auto open = SmallSignal::voltsOf(signal.answerWith(without), speaker), closed = signal.volts(speaker);
  if (!(std::abs(closed) > 0)) return std::nullopt;
  return Feedback{open / closed - 1.0};
}

bool standsAsTriode(const Idle& idle, const amp::CompiledPart& tube) {
  constexpr double strapOhms = 10e3;
  if (tube.nodes.size() < 4 || tube.nodes[0] == tube.nodes[1]) return true;
  const auto& devices = idle.circuit->netlist.devices();
  return std::any_of(devices.begin(), devices.end(), [&](const circuit::Device& device) {
    const auto* resistor = std::get_if<circuit::Resistor>(&device.law);
    const auto joins = [&](std::size_t a, std::size_t b) {
      return device.nodes[0] == tube.nodes[a] && device.nodes[1] == tube.nodes[b];
    };
    return resistor && resistor->ohms < strapOhms && (joins(0, 1) || joins(1, 0));
  });
}

} // namespace vinegar::predict
