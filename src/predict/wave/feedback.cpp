#include "predict/wave/feedback.h"

#include "units/value.h"

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

} // namespace vinegar::predict
