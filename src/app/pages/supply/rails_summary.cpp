#include "pages/supply/rails_summary.h"

#include "theme/text.h"
#include "widgets/readings.h"

namespace vinegar::app {
namespace {

using units::Unit;

} // namespace

FigureTable::Rows railsSummary(const Answers<predict::SupplyReport>& answers) {
  using Look = FigureTable::Look;
  const auto *ink = answers.inkValue(), *pencil = answers.pencilValue();
  const auto* base = answers.any();
  if (!base) return {{{tr("no answer"), Look::quiet}}};
  FigureTable::Rows rows;
  constexpr double large = 12;
  /// One row: `pick` gives its text, or nothing where a report has no such thing.
  const auto add = [&](const QString& name, auto pick, bool main = false) {
    const QString was = ink ? pick(*ink) : QString(), now = pencil ? pick(*pencil) : was;
    const double points = main ? large : 0;
    rows.push_back({{name, main ? Look::figure : Look::quiet, points}, {was, Look::figure, points}});
    rows.back().push_back({now != was ? now : QString(), Look::pencil, points});
  };
  for (std::size_t i = 0; i < base->rails.size(); ++i) {
    if (!predict::isItself(base->rails, i)) continue;
    const auto rail = [i](auto read) {
      return [i, read](const predict::SupplyReport& r) { return i < r.rails.size() ? read(r.rails[i]) : QString(); };
    };
    add(QString::fromStdString(base->rails[i].name),
        rail([](const auto& r) { return meterReading(r.volts, Unit::volt); }), true);
    add(tr("  ripple"),
        rail([](const auto& r) { return readingOf(r.rippleVpp, Unit::volt, 2) + QStringLiteral("pp"); }));
  }
  if (!base->rectifiers.empty()) {
    const auto rectifier = [](auto read) {
      return [read](const predict::SupplyReport& r) {
        return r.rectifiers.empty() ? QString() : read(r.rectifiers.front());
      };
    };
    add(tr("Rectifier"), rectifier([](const auto& r) { return QString::fromStdString(r.type); }));
    add(tr("  peak"), rectifier([](const auto& r) { return readingOf(r.peakAmps, Unit::ampere); }));
    add(tr("  conducts"),
        rectifier([](const auto& r) { return QStringLiteral("%1\u00b0").arg(r.conductionDegrees, 0, 'f', 0); }));
  }
  if (!base->windings.empty()) {
    add(tr("HT winding"), [](const predict::SupplyReport& r) {
      return r.windings.empty() ? QString() : percent(r.windings.front().share());
    });
    add(tr("Mains draw"), [](const predict::SupplyReport& r) {
      return r.windings.empty() ? QString() : readingOf(r.primaryAmps, Unit::ampere);
    });
  }
  return rows;
}

} // namespace vinegar::app
