#pragma once

#include "ask/answers.h"
#include "predict/overview/steps.h"
#include "predict/supply/supply.h"
#include "widgets/figure_table.h"

namespace vinegar::app {

/// Whether a part of the circuit is one of the supply's own kinds, whose means say little: its cycle is read.
bool isReadByCycle(const predict::Idle& idle, const std::string& part);
/// What a meter would show at a part at idle, ink and pencil. `reports` serve parts that isReadByCycle; empty until
/// they are there. Empty where nobody has the part.
FigureTable::Rows partReadings(const Answers<predict::Idle>& idle, const Answers<predict::SupplyReport>& reports,
                               const std::string& part);
/// Every tube of what stands: type, volts, current, share of its rating.
FigureTable::Rows tubeReadings(const predict::Idle& idle);
/// One step of the dial up and down.
FigureTable::Rows stepReadings(const predict::Steps& steps, units::Unit unit);

} // namespace vinegar::app
