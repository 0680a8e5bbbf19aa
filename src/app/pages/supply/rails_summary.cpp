#include "pages/supply/rails_summary.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <algorithm>

namespace vinegar::app {
namespace {

using predict::RailReading;
using predict::SupplyReport;
using units::Unit;

const RailReading* railOf(const SupplyReport& report, const std::string& name) {
  for (std::size_t i = 0; i < report.rails.size(); ++i)
    if (report.rails[i].name == name && predict::isItself(report.rails, i)) return &report.rails[i];
  return nullptr;
}

/// Those of the pencil from the mains on, then those that only the ink has.
std::vector<std::string> railsOf(const SupplyReport* ink, const SupplyReport* pencil) {
  std::vector<std::string> names;
  for (const auto* report : {pencil, ink})
    for (const auto& rail : report ? report->rails : std::vector<RailReading>{})
      if (railOf(*report, rail.name) && std::find(names.begin(), names.end(), rail.name) == names.end())
        names.push_back(rail.name);
  return names;
}

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
  for (const auto& name : railsOf(ink, pencil)) {
    const auto rail = [&name](auto read) {
      return [&name, read](const SupplyReport& r) {
        const auto* one = railOf(r, name);
        return one ? read(*one) : QStringLiteral("\u2013");
      };
    };
    add(QString::fromStdString(name), rail([](const auto& r) { return meterReading(r.volts, Unit::volt); }), true);
    add(tr("  ripple"),
        rail([](const auto& r) { return readingOf(r.rippleVpp, Unit::volt, 2) + QStringLiteral("pp"); }));
  }
  if (!base->rectifiers.empty()) {
    const auto rectifier = [](auto read) {
      return [read](const SupplyReport& r) { return r.rectifiers.empty() ? QString() : read(r.rectifiers.front()); };
    };
    add(tr("Rectifier"), rectifier([](const auto& r) { return QString::fromStdString(r.type); }));
    add(tr("  peak"), rectifier([](const auto& r) { return readingOf(r.peakAmps, Unit::ampere); }));
    add(tr("  conducts"),
        rectifier([](const auto& r) { return QStringLiteral("%1\u00b0").arg(r.conductionDegrees, 0, 'f', 0); }));
  }
  if (!base->windings.empty()) {
    // Where there are several transformers, the one that works hardest.
    add(tr("HT winding"), [](const SupplyReport& r) {
      double share = 0;
      for (std::size_t w = 0; w < r.windings.size(); ++w)
        if (w == 0 || r.windings[w].part != r.windings[w - 1].part) share = std::max(share, r.windings[w].share());
      return r.windings.empty() ? QString() : percent(share);
    });
    add(tr("Mains draw"),
        [](const SupplyReport& r) { return r.windings.empty() ? QString() : readingOf(r.primaryAmps, Unit::ampere); });
  }
  return rows;
}

} // namespace vinegar::app
