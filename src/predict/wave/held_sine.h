// What a held sine does to the rails, and so to where the output stage clips.
#pragma once

#include "predict/wave/clipping.h"

namespace vinegar::predict {

/// The amplifier where a sine of this input, held for seconds, leaves it: rails, and cathodes and screens with large
/// capacitors, are kept there without impedance. The supply feeds every tube's mean current in the wave once cathodes
/// have followed theirs; grids that a hard drive makes shift are not waited for.
struct HeldState {
  Idle idle;
  std::vector<double> railVolts; ///< of the circuit's rails, in their order
};

/// The output stage's first clipping with the rails where a sine of just that input leaves them, `Limit::Kind::supply`;
/// nothing for a supply that gives way by less than a fiftieth. It may lie above the clipping at rest, where rails that
/// fall take gain from the stages before. Tenths of a second on a large amplifier.
tl::expected<std::optional<Limit>, Problem> supplyLimit(const Idle& idle, const amp::Library& library, double hertz,
                                                        const GoOn& goOn = {});
/// The rails under a held sine. The circuit must have rectified mains.
tl::expected<HeldState, Problem> holdSine(const Idle& idle, const amp::Library& library, double hertz, double inputPeak,
                                          const GoOn& goOn = {});

/// The same where the input follows from the rails: `inputOn` tells it for the amplifier on the rails in hand, 0 ends
/// the search there.
tl::expected<HeldState, Problem> holdWhere(const Idle& idle, const amp::Library& library, double hertz,
                                           const GoOn& goOn,
                                           const std::function<tl::expected<double, Problem>(const Idle& on)>& inputOn);

/// The rails at rest.
std::vector<std::pair<circuit::Node, double>> railsOf(const Idle& idle);
/// The output tubes' cathodes and screens that a large capacitor holds from one wave to the next. Not those of small
/// tubes: little is drawn there, and feedback comes in at some.
struct SlowNode {
  circuit::Node node;
  bool isCathode;
};
std::vector<SlowNode> slowNodes(const Idle& idle);
/// The design's own amplifier, its rectifiers as they are on average, with some nodes held without impedance.
circuit::Netlist holding(const Idle& idle, const std::vector<std::pair<circuit::Node, double>>& volts);

} // namespace vinegar::predict
