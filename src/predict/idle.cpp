#include "predict/idle.h"

namespace vinegar::predict {

tl::expected<Idle, Problem> predictIdle(const amp::Design& design, const amp::Library& library, Warmth* warmth) {
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

tl::expected<Response, Problem> predictResponse(const Idle& idle, const amp::Library&, const ResponseQuestion& question,
                                                const GoOn&) {
  auto responses = predictResponses(*idle.circuit, *idle.point.system, idle.point.dc.x, {{question.from, question.to}},
                                    question.hertz, idle.plan.get());
  if (!responses) return tl::unexpected(responses.error());
  return std::move(responses->front());
}

} // namespace vinegar::predict
