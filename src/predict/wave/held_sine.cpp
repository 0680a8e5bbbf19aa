#include "predict/wave/held_sine.h"

#include "predict/supply/supply.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::predict {
namespace {

constexpr double worthTelling = 0.98; ///< of the rail's volts at rest
constexpr int mostRounds = 16;
constexpr double meansAgree = 2e-3; ///< of all currents

/// At rest with some nodes held.
tl::expected<Idle, Problem> restHolding(const Idle& idle, const std::vector<std::pair<circuit::Node, double>>& volts) {
  Idle other;
  other.circuit = idle.circuit;
  other.point.system = std::make_shared<const circuit::System>(holding(idle, volts));
  auto dc = circuit::solveDc(*other.point.system);
  if (!dc) return tl::unexpected(dc.error());
  other.point.dc = std::move(*dc);
  return other;
}

std::vector<std::pair<circuit::Node, double>> railsAt(const Idle& idle, const std::vector<double>& volts) {
  std::vector<std::pair<circuit::Node, double>> held;
  for (std::size_t r = 0; r < volts.size(); ++r)
    held.emplace_back(idle.circuit->rails[r].node, volts[r]);
  return held;
}

/// Mean currents of every tube's plate and screen in a wave.
struct MeanAmps {
  circuit::Node from, cathode;
  double amps;
  int device;
  std::size_t pin;
};
tl::expected<std::vector<MeanAmps>, Problem> meanAmps(const SmallSignal& signal, double inputPeak, const GoOn& goOn) {
  const auto& circuit = *signal.idle().circuit;
  const auto& devices = signal.idle().point.system->netlist().devices();
  std::vector<const amp::CompiledPart*> tubes;
  std::vector<circuit::Node> nodes;
  for (const auto& part : circuit.parts)
    if (amp::isTube(part.resolved.part->kind) && !part.devices.empty()) {
      tubes.push_back(&part);
      nodes.insert(nodes.end(), part.nodes.begin(), part.nodes.end());
    }
  const auto wave = driveAmplifier(signal, inputPeak, nodes, goOn);
  if (!wave) return tl::unexpected(wave.error());
  std::vector<MeanAmps> means;
  Eigen::Index row = 0;
  for (const auto* tube : tubes) {
    const auto& law = devices[static_cast<std::size_t>(tube->devices.front())].law;
    const auto pins = tube->nodes.size();
    std::vector<double> sums(pins - 2); // plate and screen; the grid has no rail
    for (Eigen::Index k = 0; k < wave->volts.cols(); ++k) {
      std::array<double, 4> volts{};
      for (std::size_t p = 0; p < pins; ++p)
        volts[p] = wave->volts(row + static_cast<Eigen::Index>(p), k);
      const auto at = circuit::pinsOf(law, volts);
      for (std::size_t p = 0; p < sums.size(); ++p)
        sums[p] += at.current[p];
    }
    for (std::size_t p = 0; p < sums.size(); ++p)
      means.push_back({tube->nodes[p], tube->nodes.back(), sums[p] / static_cast<double>(wave->volts.cols()),
                       tube->devices.front(), p});
    row += static_cast<Eigen::Index>(pins);
  }
  return means;
}

/// Every tube draws that much from now on, whatever its volts.
void drawMeans(circuit::Netlist& netlist, const Idle& idle, const std::vector<MeanAmps>& means) {
  constexpr double almostNothing = 1e-9;
  for (std::size_t i = 0; i < means.size(); ++i) {
    const auto& mean = means[i];
    netlist.add(fmt::format("mean {}", i), {mean.from, mean.cathode}, circuit::CurrentSource{mean.amps});
    const auto& law = idle.circuit->netlist.devices()[static_cast<std::size_t>(mean.device)].law;
    netlist.setLaw(mean.device, circuit::varied(law, almostNothing));
  }
}

tl::expected<std::vector<double>, Problem> railsUnder(const Idle& idle, const amp::Library& library,
                                                      const std::vector<MeanAmps>& means) {
  auto circuit = amp::compile(*idle.circuit->design, library);
  if (!circuit) return tl::unexpected(circuit.error());
  drawMeans(circuit->netlist, idle, means);
  const auto supply = predictSupplyIdle(*circuit, idle.point.supply.get());
  if (!supply) return tl::unexpected(supply.error());
  std::vector<double> volts;
  for (const auto& rail : circuit->rails) {
    const bool fed = supply->part.nodeOf[static_cast<std::size_t>(rail.node)] > 0;
    volts.push_back(fed ? supply->meanVolts(rail.node) : idle.point.volts(rail.node));
  }
  return volts;
}

std::vector<double> railsAtRest(const Idle& idle) {
  std::vector<double> volts;
  for (const auto& rail : idle.circuit->rails)
    volts.push_back(idle.point.volts(rail.node));
  return volts;
}

/// Goes round until the tubes' mean currents and the wave that they make agree; `inputOn` tells the input that the
/// rails in hand ask for.
template <class InputOn>
tl::expected<HeldState, Problem> settle(const Idle& idle, const amp::Library& library, double hertz, const GoOn& goOn,
                                        const InputOn& inputOn) {
  auto volts = railsAtRest(idle);
  std::vector<MeanAmps> means;
  // Volts and currents chase each other with the sign changing; parts of the moves, by A. C. Aitken's rule for vectors
  // (B. M. Irons and R. C. Tuck, International Journal for Numerical Methods in Engineering, 1969), end that.
  double share = 0.4;
  Eigen::VectorXd before;
  for (int round = 0; round < mostRounds; ++round) {
    if (goOn && !goOn(static_cast<double>(round) / mostRounds)) return tl::unexpected(Problem::stopped());
    const auto rails = railsAt(idle, volts);
    auto on = restHolding(idle, rails);
    if (!on) return tl::unexpected(on.error());
    const auto input = inputOn(*on);
    if (!input) return tl::unexpected(input.error());
    if (*input <= 0) return HeldState{std::move(*on), volts};
    // What the tubes draw on average moves their cathodes too: where to, the equations tell with the tubes taken as
    // that much current.
    if (!means.empty()) {
      auto netlist = on->point.system->netlist();
      drawMeans(netlist, idle, means);
      const auto drawn = circuit::solveDc(circuit::System(netlist));
      if (!drawn) return tl::unexpected(drawn.error());
      auto held = rails;
      for (const auto& slow : slowNodes(idle))
        held.emplace_back(slow.node, circuit::System::volts(drawn->x, slow.node));
      on = restHolding(idle, held);
      if (!on) return tl::unexpected(on.error());
    }
    const auto now = meanAmps(SmallSignal(*on, hertz), *input, goOn);
    if (!now) return tl::unexpected(now.error());
    if (means.empty()) {
      means = *now;
      for (auto& mean : means) // at rest
        mean.amps = idle.point.system->pinCurrents(mean.device, idle.point.dc.x)[mean.pin];
    }
    Eigen::VectorXd miss(static_cast<Eigen::Index>(means.size()));
    for (std::size_t i = 0; i < means.size(); ++i)
      miss[static_cast<Eigen::Index>(i)] = (*now)[i].amps - means[i].amps;
    if (before.size() == miss.size()) {
      const Eigen::VectorXd change = miss - before;
      if (change.squaredNorm() > 0) share = std::clamp(-share * before.dot(change) / change.squaredNorm(), 0.1, 1.0);
    }
    before = miss;
    double total = 0;
    for (std::size_t i = 0; i < means.size(); ++i) {
      means[i].amps += share * miss[static_cast<Eigen::Index>(i)];
      total += std::abs(means[i].amps);
    }
    const auto next = railsUnder(idle, library, means);
    if (!next) return tl::unexpected(next.error());
    volts = *next;
    if (miss.lpNorm<1>() < meansAgree * total) return HeldState{std::move(*on), volts};
  }
  return tl::unexpected(Problem{"the supply", "rails and wave did not come to agree under a held sine"});
}

} // namespace

std::vector<std::pair<circuit::Node, double>> railsOf(const Idle& idle) { return railsAt(idle, railsAtRest(idle)); }

circuit::Netlist holding(const Idle& idle, const std::vector<std::pair<circuit::Node, double>>& volts) {
  auto netlist = idle.point.supply ? averagedNetlist(*idle.circuit, *idle.point.supply) : idle.circuit->netlist;
  std::vector<circuit::Node> held{0};
  for (const auto& device : netlist.devices()) // a bench supply holds its rail itself
    if (std::holds_alternative<circuit::VoltageSource>(device.law) && device.nodes[1] == 0)
      held.push_back(device.nodes[0]);
  for (const auto& [node, value] : volts) {
    if (std::find(held.begin(), held.end(), node) != held.end()) continue;
    held.push_back(node);
    netlist.add(fmt::format("held {}", held.size()), {node, 0}, circuit::VoltageSource{value});
  }
  return netlist;
}

std::vector<SlowNode> slowNodes(const Idle& idle) {
  constexpr double large = 0.47e-6; ///< farads
  std::vector<SlowNode> slow;
  for (const auto& part : idle.circuit->parts) {
    if (!amp::isTube(part.resolved.part->kind) || part.devices.empty()) continue;
    if (!outputTransformerOf(*idle.circuit, part)) continue;
    for (std::size_t p = 1; p < part.nodes.size(); ++p) {
      if (p + 2 == part.nodes.size()) continue; // the grid
      const auto node = part.nodes[p];
      const auto& devices = idle.circuit->netlist.devices();
      if (std::any_of(devices.begin(), devices.end(), [&](const circuit::Device& device) {
            const auto* capacitor = std::get_if<circuit::Capacitor>(&device.law);
            return capacitor && capacitor->farads >= large &&
                   std::find(device.nodes.begin(), device.nodes.end(), node) != device.nodes.end();
          }))
        slow.push_back({node, p + 1 == part.nodes.size()});
    }
  }
  return slow;
}

tl::expected<HeldState, Problem> holdSine(const Idle& idle, const amp::Library& library, double hertz, double inputPeak,
                                          const GoOn& goOn) {
  return settle(idle, library, hertz, goOn, [&](const Idle&) -> tl::expected<double, Problem> { return inputPeak; });
}

tl::expected<HeldState, Problem> holdWhere(const Idle& idle, const amp::Library& library, double hertz,
                                           const GoOn& goOn,
                                           const std::function<tl::expected<double, Problem>(const Idle&)>& inputOn) {
  return settle(idle, library, hertz, goOn, inputOn);
}

tl::expected<std::optional<Limit>, Problem> supplyLimit(const Idle& idle, const amp::Library& library, double hertz,
                                                        const GoOn& goOn) {
  if (!idle.point.supply) return std::nullopt;
  std::optional<Limit> now;
  const auto held = settle(idle, library, hertz, goOn, [&](const Idle& on) -> tl::expected<double, Problem> {
    const auto clipping = findClipping(on, {hertz, ClippingQuestion::Which::output}, goOn);
    if (!clipping) return tl::unexpected(clipping.error());
    const auto* first = clipping->first();
    now = first ? std::optional(*first) : std::nullopt;
    return now ? now->inputPeak : 0.0;
  });
  if (!held) return tl::unexpected(held.error());
  if (!now) return std::nullopt;
  const auto fed = mainRails(*idle.circuit).fed;
  for (std::size_t r = 0; r < held->railVolts.size(); ++r) {
    const auto& rail = idle.circuit->rails[r];
    const double rest = idle.point.volts(rail.node);
    if (rail.node != fed || held->railVolts[r] > worthTelling * rest) continue;
    now->kind = Limit::Kind::supply;
    now->sag = Limit::Sag{rail.name, rest, held->railVolts[r]};
    return now;
  }
  return std::nullopt;
}

} // namespace vinegar::predict
