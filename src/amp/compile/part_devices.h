#pragma once

#include "amp/compile/compile.h"

#include <set>
#include <utility>

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
/// Which `heaters` parts of a design warm which of its tubes. Looks the design through once.
class Heating {
public:
  Heating(const Design& design, const Library& library);
  /// By name: the filament supply that a directly heated tube's cathode is joined to where it has one, else all that
  /// have its volts. None where nothing warms it.
  [[nodiscard]] std::vector<std::string> of(const ResolvedPart& tube, const tubes::TubeType& type) const;
  /// Whether a directly heated tube, no rectifier, has no filament supply of its own: its filament is its cathode, so
  /// that on a shared winding its bias, or more, is shorted.
  [[nodiscard]] bool sharesFilament(const ResolvedPart& tube, const tubes::TubeType& type) const;

private:
  struct Heaters {
    std::string name, section;
    double volts;
    bool isFilament;
  };
  std::vector<Heaters> heaters_;
  std::set<std::pair<std::string, std::string>> filaments_; ///< sections that a filament's join brings together
};
/// Watts of all heaters of the design that the `heaters` part feeds, at its volts; their resistance when hot.
double heaterWatts(const ResolvedPart& heaters, const Design& design, const Library& library);
double heaterOhms(const ResolvedPart& heaters, const Design& design, const Library& library);

} // namespace vinegar::amp
