#include "predict/stages/explain.h"

#include "predict/rest/variation.h"

#include <algorithm>
#include <cmath>

namespace vinegar::predict {
namespace {

constexpr double agreement = 0.015; ///< a meter and a model that agree this well agree
constexpr std::size_t mostSuspects = 3;

std::optional<circuit::Node> nodeOf(const amp::CompiledPart& tube, const std::string& electrode) {
  const auto& nodes = tube.nodes;
  if (electrode == "plate") return nodes.front();
  if (electrode == "cathode") return nodes.back();
  if (electrode == "grid") return nodes[nodes.size() - 2];
  if (electrode == "screen" && nodes.size() > 3) return nodes[1];
  return std::nullopt;
}

/// A tube a little stronger and weaker, as a part whose value is one.
PartVariation emissionOf(const amp::CompiledPart& part, const circuit::System& system) {
  constexpr double step = 1e-3;
  const int device = part.devices.front();
  const auto& law = system.netlist().devices()[static_cast<std::size_t>(device)].law;
  const auto with = [&](double emission) { return amp::DeviceLaws{{device, circuit::varied(law, emission)}}; };
  return {part.resolved.name, 1, {with(1 + step), with(1 - step), step}};
}

} // namespace

tl::expected<Explanation, Problem> explainReadings(const Idle& idle, const amp::Library& library,
                                                   const ExplainQuestion& question, const GoOn&) {
  const auto* tube = idle.circuit->part(question.tube);
  if (!tube || !amp::isTube(tube->resolved.part->kind) || tube->devices.empty())
    return tl::unexpected(Problem{question.tube, "is no tube at work in this design"});
  Explanation explanation;
  std::vector<circuit::Node> nodes;
  Eigen::VectorXd wrong(static_cast<Eigen::Index>(question.volts.size()));
  Eigen::VectorXd weight(wrong.size());
  for (const auto& [electrode, volts] : question.volts) {
    const auto node = nodeOf(*tube, electrode);
    if (!node) return tl::unexpected(Problem{question.tube, "has no " + electrode});
    const double predicted = idle.point.volts(*node);
    const auto i = static_cast<Eigen::Index>(nodes.size());
    nodes.push_back(*node);
    explanation.predicted[electrode] = predicted;
    wrong[i] = volts - predicted;
    weight[i] = 1 / std::max(0.01 * std::abs(predicted), 0.01);
    if (std::abs(wrong[i]) > std::max(agreement * std::abs(predicted), 0.02)) explanation.agrees = false;
  }
  if (explanation.agrees) return explanation;
  auto variations = partVariations(*idle.circuit, library);
  for (const auto& part : idle.circuit->parts)
    if (amp::isTube(part.resolved.part->kind) && !part.devices.empty())
      variations.push_back(emissionOf(part, *idle.point.system));
  const auto sensitivities = circuit::dcSensitivities(*idle.point.system, idle.point.dc.x, parametersOf(variations));
  const Eigen::VectorXd target = wrong.cwiseProduct(weight);
  std::vector<std::pair<double, Suspect>> ranked;
  for (std::size_t v = 0; v < variations.size(); ++v) {
    Eigen::VectorXd effect(wrong.size()); // per whole value
    for (std::size_t n = 0; n < nodes.size(); ++n) {
      const int row = circuit::System::row(nodes[n]);
      effect[static_cast<Eigen::Index>(n)] =
          row < 0 ? 0 : sensitivities(row, static_cast<Eigen::Index>(v)) * variations[v].value;
    }
    const Eigen::VectorXd weighed = effect.cwiseProduct(weight);
    const double strength = weighed.squaredNorm();
    if (strength < 1e-6) continue;
    const double off = weighed.dot(target) / strength;
    const double rest = (target - off * weighed).norm() / target.norm();
    if (off < -0.7 || off > 2 || rest > 0.7) continue;
    // What explains more, and asks for less of a fault, is likelier.
    ranked.push_back({rest + 0.5 * std::abs(std::log1p(off)), {variations[v].name, off, rest}});
  }
  std::sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  for (const auto& [rank, suspect] : ranked)
    if (explanation.suspects.size() < mostSuspects) explanation.suspects.push_back(suspect);
  return explanation;
}

} // namespace vinegar::predict
