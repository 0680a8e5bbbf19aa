#include "predict/wave/power.h"

#include "circuit/periodic.h"
#include "predict/wave/held_sine.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr double ratedHertz = 1000;
constexpr int harmonicsCounted = 10;

/// An amplifier at rest, ready to be asked for its power again and again.
class PowerBench {
public:
  explicit PowerBench(const Idle& idle, double tone = ratedHertz)
      : signal_(idle, tone), speaker_(idle.circuit->probe("speaker")), resistors_(speakerResistors(*idle.circuit)) {
    std::vector<circuit::Node> nodes{speaker_};
    for (const auto& resistor : resistors_) {
      nodes.push_back(resistor.from);
      nodes.push_back(resistor.to);
    }
    if (signal_.stands() && speaker_ > 0) played_.emplace(signal_, nodes);
  }
  [[nodiscard]] bool plays() const { return played_ && !resistors_.empty(); }

  tl::expected<PowerAt, Problem> at(double inputPeak, const GoOn& goOn) {
    const auto wave = played_->wave(inputPeak, goOn);
    if (!wave) return tl::unexpected(wave.error());
    const auto volts = wave->volts.row(0);
    PowerAt power;
    power.inputPeak = inputPeak;
    power.watts = wattsOf(resistors_, *wave, 1);
    power.volts = std::sqrt((volts.array() - volts.mean()).square().mean());
    const auto partials = circuit::harmonics(volts, harmonicsCounted);
    double sum = 0;
    for (std::size_t n = 2; n < partials.size(); ++n)
      sum += std::norm(partials[n]);
    power.distortion = partials.size() > 1 && std::abs(partials[1]) > 0 ? std::sqrt(sum) / std::abs(partials[1]) : 0;
    return power;
  }

  /// The lowest input at which the distortion is just so much, looked for about a guess; nothing where it is met at
  /// none.
  tl::expected<std::optional<PowerAt>, Problem> where(double distortion, double guess, const GoOn& goOn) {
    constexpr double under = 0.1, pace = 1.3, near = 0.002;
    PowerAt low, high;
    // From well under the first bend up, so that what is found is the first time.
    for (double input = under * guess;; input *= pace) {
      if (input > mostInputPeak) return std::nullopt;
      const auto now = at(input, goOn);
      if (!now) {
        if (now.error().cancelled || high.inputPeak == 0) return tl::unexpected(now.error());
        return std::nullopt;
      }
      low = high;
      high = *now;
      if (high.distortion >= distortion) break;
    }
    if (low.inputPeak == 0) return std::optional(high); // it is never cleaner
    for (int round = 0; round < 12 && std::abs(high.distortion - distortion) > near * distortion; ++round) {
      const double rise = high.distortion - low.distortion;
      double part = rise > 0 ? (distortion - low.distortion) / rise : 0.5;
      if (round % 3 == 2) part = 0.5;
      const auto now = at(low.inputPeak * std::pow(high.inputPeak / low.inputPeak, std::clamp(part, 0.05, 0.95)), goOn);
      if (!now) return tl::unexpected(now.error());
      (now->distortion < distortion ? low : high) = *now;
      if (std::abs(now->distortion - distortion) <= near * distortion) return std::optional(*now);
      if (high.inputPeak / low.inputPeak < 1.0005) break;
    }
    return std::optional(high);
  }

private:
  SmallSignal signal_;
  circuit::Node speaker_;
  std::vector<SpeakerResistor> resistors_;
  std::optional<PlayedAmplifier> played_;
};

} // namespace

std::vector<SpeakerResistor> speakerResistors(const amp::Circuit& circuit) {
  std::vector<SpeakerResistor> resistors;
  for (const auto& part : circuit.parts) {
    if (part.resolved.part->kind != amp::PartKind::speaker) continue;
    for (const int index : part.devices) {
      const auto& device = circuit.netlist.devices()[static_cast<std::size_t>(index)];
      if (const auto* resistor = std::get_if<circuit::Resistor>(&device.law))
        resistors.push_back({device.nodes[0], device.nodes[1], resistor->ohms});
    }
  }
  return resistors;
}

double wattsOf(const std::vector<SpeakerResistor>& resistors, const Wave& wave, Eigen::Index row) {
  double watts = 0;
  for (const auto& resistor : resistors) {
    watts += (wave.volts.row(row) - wave.volts.row(row + 1)).array().square().mean() / resistor.ohms;
    row += 2;
  }
  return watts;
}

tl::expected<PowerAt, Problem> powerAt(const Idle& idle, double inputPeak, double tone, const GoOn& goOn) {
  PowerBench bench(idle, tone);
  if (!bench.plays()) return tl::unexpected(Problem{"the loudspeaker", "no signal comes to one"});
  return bench.at(inputPeak, goOn);
}

tl::expected<CleanPowerAnswer, Problem> predictCleanPower(const Idle& idle, const amp::Library& library,
                                                          const CleanPowerQuestion& question, const GoOn& goOn) {
  CleanPowerAnswer answer;
  PowerBench bench(idle);
  if (!bench.plays()) return answer;
  const auto clipping = findClipping(idle, {ratedHertz, ClippingQuestion::Which::output}, goOn);
  if (!clipping) return tl::unexpected(clipping.error());
  const auto* first = clipping->first();
  if (!first) return answer;
  const auto bend = bench.at(first->inputPeak, goOn);
  if (!bend) return tl::unexpected(bend.error());
  const auto clean = bench.where(cleanDistortion, first->inputPeak, goOn);
  if (!clean) return tl::unexpected(clean.error());
  if (!*clean) return answer;
  CleanPower power;
  power.atOnce = **clean;
  power.bend = *bend;
  power.tube = first->tubes.front();
  power.kind = first->kind;
  const auto rough = bench.where(roughDistortion, power.atOnce.inputPeak, goOn);
  if (!rough && rough.error().cancelled) return tl::unexpected(rough.error());
  if (rough) power.rough = *rough;
  if (question.sustained && idle.point.supply) {
    std::optional<PowerAt> there;
    const auto held = holdWhere(idle, library, ratedHertz, goOn, [&](const Idle& on) -> tl::expected<double, Problem> {
      PowerBench settled(on);
      const auto found = settled.where(cleanDistortion, power.atOnce.inputPeak, goOn);
      if (!found) return tl::unexpected(found.error());
      there = *found;
      return there ? there->inputPeak : 0.0;
    });
    if (!held && held.error().cancelled) return tl::unexpected(held.error());
    if (held) power.sustained = there;
  }
  answer.power = std::move(power);
  return answer;
}

} // namespace vinegar::predict
