// What could be other in an amplifier's supply: what the same burst is played through.
#pragma once

#include "amp/change/change.h"
#include "predict/rest/idle.h"

#include <functional>

namespace vinegar::predict {

/// What is varied.
enum class FeelSubject {
  rectifiers, ///< every type that fits, the design's own first
  conditions, ///< mains low, high and of the other frequency, tired and weak parts: what a player will notice
  makers,     ///< each part that the droop is made of, as if it were perfect
  sag,        ///< stock values and types, singly and in pairs, those that come nearest to what is wished first
  balance,    ///< reservoir values with the design's rectifier and others
};

/// A way the amplifier could be: other settings, or a circuit that is edited after it is compiled.
struct FeelWay {
  std::string title, about;
  std::vector<amp::SetField> changes;
  std::function<void(amp::Circuit&)> edit;
  std::string group;
  double farads = 0;
  std::string part = {};
};

/// Those of a subject, without the design as it stands. `idle` must have a supply; milliseconds, and for the resistor
/// that imitates a tube some ten solutions.
std::vector<FeelWay> feelWays(FeelSubject subject, const Idle& idle, const amp::Library& library);
/// What current on its way to a rail goes through: neither end at ground, and volts stand over it.
bool isInTheWay(const amp::CompiledPart& part, const Idle& idle);

} // namespace vinegar::predict
