#include "widgets/readings.h"

#include <cmath>

namespace vinegar::app {
namespace {

double leastShown(units::Unit unit) {
  switch (unit) {
  case units::Unit::volt:
    return 1e-3;
  case units::Unit::ampere:
    return 1e-7;
  case units::Unit::watt:
    return 1e-6;
  default:
    return 0;
  }
}

} // namespace

QString readingOf(double value, units::Unit unit, int digits) {
  return QString::fromStdString(units::reading(value, unit, digits));
}

QString meterReading(double value, units::Unit unit, int digits) {
  return readingOf(std::abs(value) < leastShown(unit) ? 0 : value, unit, digits);
}

QString schematicValue(double value, units::Unit unit) { return QString::fromStdString(units::schematic(value, unit)); }

QString signedDecibels(double db) {
  if (std::abs(db) < 0.05) return QStringLiteral("0.0");
  return (db > 0 ? QStringLiteral("+") : QString()) + QString::number(db, 'f', 1);
}

QString signedVolts(double volts) {
  if (std::abs(volts) < 5e-3) return QStringLiteral("0 V");
  return (volts > 0 ? QStringLiteral("+") : QString()) + readingOf(volts, units::Unit::volt, 2);
}

QString percent(double share) { return QStringLiteral("%1 %").arg(100 * share, 0, 'f', 0); }

QString noReading() { return QStringLiteral("\u2014"); }

QString warned(const QString& text) { return QStringLiteral("\u26a0 ") + text; }

QString joined(const std::vector<std::string>& names, const QString& between) {
  QStringList all;
  for (const auto& name : names)
    all << QString::fromStdString(name);
  return all.join(between);
}

} // namespace vinegar::app
