// The supply without its ripple: rectifiers as what they pass on average.
#pragma once

#include "predict/rest/idle.h"

namespace vinegar::predict {

/// Laws for the circuit's netlist that have the supply give what it gives on average over the mains' period: each
/// rectifier's mean current by the mean of the volts across it, found by working the supply through at loads from next
/// to nothing to several times the idle one, all rails drawing in proportion. Where that is no rising curve, as of what
/// does not feed the load, the straight line of the idle state. 10 to 40 ms; a design without mains has none.
///
/// It holds for what moves slower than the mains.
std::vector<std::pair<int, circuit::Law>> meanSupply(const Idle& idle, const GoOn& goOn = {});

} // namespace vinegar::predict
