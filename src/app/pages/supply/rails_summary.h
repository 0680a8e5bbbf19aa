#pragma once

#include "ask/answers.h"
#include "predict/supply/supply.h"
#include "widgets/figure_table.h"

namespace vinegar::app {

/// The rails at a glance, ink and pencil side by side: volts, ripple, the rectifier's current, the winding's load.
FigureTable::Rows railsSummary(const Answers<predict::SupplyReport>& answers);

} // namespace vinegar::app
