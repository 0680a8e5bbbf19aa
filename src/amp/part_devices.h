#pragma once

#include "amp/compile.h"

namespace vinegar::amp {

/// Names of the nodes that a part has of its own, e.g. between a speaker's coil and its motion.
std::vector<std::string> innerNodeNames(const ResolvedPart& part);

/// The devices that a part is made of on its `nodes` and `inner` nodes, in an order that its settings do not change.
/// `design` tells where its knob stands. The part must be fitted and pass `check`.
std::vector<circuit::Device> devicesOf(const CompiledPart& part, const Design& design, const Library& library);

/// One secondary of a power transformer as the netlist has it. With three taps volts and ohms are of each half.
struct TransformerWinding {
  std::string name; ///< "ht", "heater", "rectifier", "bias"
  std::size_t taps = 2;
  double unloadedVolts = 0, ratedAmps = 0, ohms = 0; ///< rms
};
std::vector<TransformerWinding> transformerWindings(const ResolvedPart& transformer);
double transformerPrimaryOhms(const ResolvedPart& transformer);

/// Whether a tube's heater runs from a winding of these volts.
bool takesHeaterVolts(const tubes::TubeType& type, double volts);
/// Watts of all heaters of the design that run from the `heaters` part's volts, at those volts; their resistance when
/// hot.
double heaterWatts(const ResolvedPart& heaters, const Design& design, const Library& library);
double heaterOhms(const ResolvedPart& heaters, const Design& design, const Library& library);

} // namespace vinegar::amp
