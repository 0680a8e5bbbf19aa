#include "predict/levels/clip_order.h"

#include "predict/wave/held_sine.h"

#include <algorithm>

namespace vinegar::predict {

tl::expected<Clipping, Problem> predictClipping(const Idle& idle, const amp::Library& library,
                                                const ClippingQuestion& question, const GoOn& goOn) {
  if (question.which != ClippingQuestion::Which::all) return findClipping(idle, question, goOn);
  const auto half = [&](double from) -> GoOn {
    return [&goOn, from](double share) { return !goOn || goOn(from + share / 2); };
  };
  auto clipping = findClipping(idle, question, half(0));
  if (!clipping || clipping->limits.empty()) return clipping;
  const auto supply = supplyLimit(idle, library, clipping->hertz, half(0.5));
  auto& limits = clipping->limits;
  if (supply && *supply)
    limits.insert(std::upper_bound(limits.begin(), limits.end(), **supply,
                                   [](const Limit& a, const Limit& b) { return a.inputPeak < b.inputPeak; }),
                  **supply);
  else if (!supply && supply.error().cancelled)
    return tl::unexpected(supply.error());
  else if (!supply)
    clipping->ofSupply = supply.error();
  return clipping;
}

} // namespace vinegar::predict
