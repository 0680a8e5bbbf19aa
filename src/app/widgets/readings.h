// How a reading is written on screen: one place for digits, units and what a meter shows as zero.
#pragma once

#include "units/value.h"

#include <QString>
#include <vector>

namespace vinegar::app {

/// "319 V".
QString readingOf(double value, units::Unit unit, int digits = 3);
/// The same of DC volts, ampere and watts as a meter shows them: under a millivolt, a tenth of a microampere, a
/// microwatt it stands at 0, for grid leakage leaves nanovolts on every signal node.
QString meterReading(double value, units::Unit unit, int digits = 3);
/// As a value is written in a schematic: "4k7", "330n".
QString schematicValue(double value, units::Unit unit);
/// A difference of levels with its sign and one decimal; what rounds to nothing has none: "+1.4", "-0.3", "0.0".
QString signedDecibels(double db);
/// A difference of volts with its sign; a few millivolts are "0 V".
QString signedVolts(double volts);
/// "V3, V4"
QString joined(const std::vector<std::string>& names, const QString& between = QStringLiteral(", "));
/// "83 %"
QString percent(double share);
/// What stands where there is no reading.
QString noReading();
/// A sentence with the sign of danger before it.
QString warned(const QString& text);

} // namespace vinegar::app
