#pragma once

#include "amp/compile.h"

namespace vinegar::amp {

/// Names of the nodes that a part has of its own, e.g. between a speaker's coil and its motion.
std::vector<std::string> innerNodeNames(const ResolvedPart& part);

/// The devices that a part is made of on its `nodes` and `inner` nodes, in an order that its settings do not change.
/// `design` tells where its knob stands. The part must be fitted and pass `check`.
std::vector<circuit::Device> devicesOf(const CompiledPart& part, const Design& design, const Library& library);

} // namespace vinegar::amp
