#include "predict/rest/idle.h"

#include <fmt/format.h>

namespace vinegar::predict {

tl::expected<Idle, Problem> predictIdle(const amp::Design& design, const amp::Library& library, Warmth* warmth) {
  // The largest amplifier has forty. An answer about thousands would be waited for and is of use to nobody.
  constexpr std::size_t mostSections = 300;
  if (const auto count = design.sections().size(); count > mostSections)
    return tl::unexpected(Problem{"the design", fmt::format("has {} sections; predictions are made for {} at most: "
                                                            "take some out",
                                                            count, mostSections)});
  Warmth cold;
  Warmth& kept = warmth ? *warmth : cold;
  auto compiled = amp::compile(design, library);
  if (!compiled) return tl::unexpected(compiled.error());
  Idle idle;
  idle.circuit = std::make_shared<const amp::Circuit>(std::move(*compiled));
  auto point = predictOperatingPoint(*idle.circuit, &kept);
  if (!point) return tl::unexpected(point.error());
  idle.point = std::move(*point);
  idle.plan = kept.plan;
  return idle;
}

Warmth warmthOf(const Idle& idle) {
  Warmth warmth;
  warmth.x = idle.point.dc.x;
  warmth.plan = idle.plan;
  warmth.topology = std::shared_ptr<const circuit::Netlist>(idle.circuit, &idle.circuit->netlist);
  if (idle.point.supply) {
    warmth.supply = idle.point.supply;
    warmth.supplied = warmth.topology;
    warmth.suppliedX = idle.point.suppliedX;
    warmth.wiring = idle.circuit->supply;
  }
  return warmth;
}

Idle withoutEchoes(const Idle& idle) {
  std::vector<std::pair<int, circuit::Law>> silent;
  const auto& devices = idle.point.system->netlist().devices();
  for (std::size_t i = 0; i < devices.size(); ++i)
    if (const auto* delay = std::get_if<circuit::Delay>(&devices[i].law); delay && delay->gain != 0)
      silent.emplace_back(static_cast<int>(i), circuit::Delay{0, delay->seconds});
  if (silent.empty()) return idle;
  Idle dry = idle;
  auto system = std::make_shared<circuit::System>(*idle.point.system);
  system->setLaws(silent);
  dry.point.system = std::move(system);
  dry.plan = std::make_shared<PlanKeeper>(); // its pivots are others
  return dry;
}

tl::expected<Response, Problem> predictResponse(const Idle& idle, const amp::Library&, const ResponseQuestion& question,
                                                const GoOn&) {
  auto responses = predictResponses(*idle.circuit, *idle.point.system, idle.point.dc.x, {{question.from, question.to}},
                                    question.hertz, idle.plan.get());
  if (!responses) return tl::unexpected(responses.error());
  return std::move(responses->front());
}

Eigen::VectorXd startOfCycle(const Idle& idle) {
  const auto& supply = *idle.point.supply;
  const circuit::System system(idle.circuit->netlist);
  Eigen::VectorXd x = idle.point.dc.x;
  const auto now = supply.cycle.x.col(supply.cycle.x.cols() - 1);
  for (std::size_t node = 1; node < supply.part.nodeOf.size(); ++node)
    if (const auto own = supply.part.nodeOf[node]; own > 0)
      x[circuit::System::row(static_cast<circuit::Node>(node))] = now[circuit::System::row(own)];
  const auto& devices = idle.circuit->netlist.devices();
  for (std::size_t d = 0; d < devices.size(); ++d) {
    const int own = supply.part.deviceOf[d];
    if (own < 0) continue;
    const int from = supply.system->branch(own), to = system.branch(static_cast<int>(d));
    if (from < 0 || to < 0) continue;
    const auto* transformer = std::get_if<circuit::Transformer>(&devices[d].law);
    const Eigen::Index windings = transformer ? transformer->ohms.size() : 1;
    x.segment(to, windings) = now.segment(from, windings);
  }
  return x;
}

} // namespace vinegar::predict
