#include "drawer/part_readings.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;
using Look = FigureTable::Look;
using Pairs = std::vector<std::pair<QString, QString>>;

/// Rows of ink and pencil side by side.
class Table {
public:
  void add(const QString& name, const QString& ink, const QString& pencil, bool danger = false) {
    // A value that the pencil leaves as it was is told once, and is no less dangerous for that.
    const bool inkStands = pencil.isEmpty() || pencil == ink;
    rows_.push_back({{name, Look::quiet}, {ink, danger && inkStands ? Look::danger : Look::figure}});
    if (!inkStands) rows_.back().push_back({pencil, danger ? Look::danger : Look::pencil});
  }
  FigureTable::Rows take() { return std::move(rows_); }

private:
  FigureTable::Rows rows_;
};

const predict::TubeReading* tubeOf(const predict::Idle* idle, const std::string& name) {
  if (!idle) return nullptr;
  const auto& tubes = idle->point.tubes;
  const auto found = std::find_if(tubes.begin(), tubes.end(), [&](const auto& tube) { return tube.name == name; });
  return found == tubes.end() ? nullptr : &*found;
}

FigureTable::Rows ofTube(const predict::TubeReading* ink, const predict::TubeReading* pencil) {
  using T = predict::TubeReading;
  Table table;
  const auto both = [&](const QString& name, auto pick, bool danger = false) {
    table.add(name, ink ? pick(*ink) : noReading(), pencil ? pick(*pencil) : QString(), danger);
  };
  const auto& now = pencil ? *pencil : *ink;
  both(tr("Plate to cathode"), [](const T& t) { return meterReading(t.plateVolts, Unit::volt); });
  both(tr("Grid to cathode"), [](const T& t) { return meterReading(t.gridVolts, Unit::volt); });
  both(tr("Cathode to ground"), [](const T& t) { return meterReading(t.cathodeVoltsToGround, Unit::volt); });
  both(tr("Plate current"), [](const T& t) { return meterReading(t.plateAmps, Unit::ampere); });
  both(
      tr("Plate power"), [](const T& t) { return meterReading(t.plateWatts, Unit::watt); },
      now.plateWattsLimit && now.plateWatts > *now.plateWattsLimit);
  if (now.plateWattsLimit) table.add(tr("Plate rating"), readingOf(*now.plateWattsLimit, Unit::watt), {});
  if (now.screenAmps) {
    both(tr("Screen"), [](const T& t) { return t.screenAmps ? meterReading(*t.screenAmps, Unit::ampere) : QString(); });
    both(tr("Screen power"),
         [](const T& t) { return t.screenWatts ? meterReading(*t.screenWatts, Unit::watt) : QString(); });
  }
  both(tr("gm here"), [](const T& t) { return t.gm > 1e-9 ? readingOf(t.gm, Unit::siemens) : noReading(); });
  both(tr("rp here"), [](const T& t) { return readingOf(t.rp, Unit::ohm); });
  both(tr("mu here"), [](const T& t) { return std::isfinite(t.mu) ? QString::number(t.mu, 'g', 3) : noReading(); });
  return table.take();
}

Pairs ofSupply(const predict::SupplyReport& report, amp::PartKind kind, const std::string& name) {
  Pairs pairs;
  const auto limit = [](const QString& text, std::optional<double> most, Unit unit) {
    return most ? text + tr(" of %1").arg(readingOf(*most, unit)) : text;
  };
  for (const auto& r : report.rectifiers)
    if (r.part == name) {
      pairs.push_back({tr("Peak"), limit(readingOf(r.peakAmps, Unit::ampere), r.limits.peakAmps, Unit::ampere)});
      pairs.push_back({tr("DC, both"), limit(readingOf(r.totalAmps, Unit::ampere), r.limits.directAmps, Unit::ampere)});
      pairs.push_back({tr("rms, one plate"), readingOf(r.rmsAmps, Unit::ampere)});
      pairs.push_back({tr("Conducts"), QStringLiteral("%1\u00b0").arg(r.conductionDegrees, 0, 'f', 0)});
      pairs.push_back({tr("Drop"), readingOf(r.meanDropVolts, Unit::volt)});
      pairs.push_back(
          {tr("In reverse"), limit(readingOf(r.inverseVolts, Unit::volt), r.limits.inverseVolts, Unit::volt)});
    }
  for (const auto& w : report.windings)
    if (w.part == name)
      pairs.push_back({QString::fromStdString(w.name),
                       tr("%1 of %2").arg(readingOf(w.rmsAmps, Unit::ampere), readingOf(w.ratedAmps, Unit::ampere))});
  for (const auto& h : report.heaters)
    if (h.part == name) {
      pairs.push_back({tr("Volts rms"), readingOf(h.rmsVolts, Unit::volt)});
      pairs.push_back({tr("Current rms"), readingOf(h.rmsAmps, Unit::ampere)});
    }
  const auto taken = [&](double amps, double watts, double va) {
    pairs.push_back({tr("From the mains"), readingOf(amps, Unit::ampere)});
    pairs.push_back({tr("Power"), tr("%1, %2 VA").arg(readingOf(watts, Unit::watt)).arg(va, 0, 'f', 0)});
  };
  for (const auto& p : report.primaries)
    if (p.part == name) taken(p.rmsAmps, p.watts, p.va);
  if (kind == amp::PartKind::mains || kind == amp::PartKind::fuse)
    taken(report.primaryAmps, report.primaryWatts, report.primaryVa);
  return pairs;
}

FigureTable::Rows ofSupply(const Answers<predict::SupplyReport>& reports, amp::PartKind kind, const std::string& name) {
  const auto* any = reports.pencilValue() ? reports.pencilValue() : reports.inkValue();
  if (!any) return {};
  const auto now = ofSupply(*any, kind, name);
  const auto before = reports.inkValue() ? ofSupply(*reports.inkValue(), kind, name) : now;
  FigureTable::Rows rows;
  for (std::size_t i = 0; i < now.size(); ++i) {
    const auto was = i < before.size() ? before[i].second : QString();
    rows.push_back({{now[i].first, Look::quiet}, {was}});
    if (now[i].second != was) rows.push_back({{{}, Look::quiet}, {now[i].second, Look::pencil}});
  }
  return rows;
}

} // namespace

bool isReadByCycle(const predict::Idle& idle, const std::string& part) {
  const auto* found = idle.point.supply ? idle.circuit->part(part) : nullptr;
  if (!found) return false;
  using Kind = amp::PartKind;
  const auto kind = found->resolved.part->kind;
  const auto& devices = idle.circuit->supply.devices;
  return (kind == Kind::rectifier || kind == Kind::diode || kind == Kind::powerTransformer || kind == Kind::heaters ||
          kind == Kind::mains || kind == Kind::fuse) &&
         !found->devices.empty() && std::find(devices.begin(), devices.end(), found->devices.front()) != devices.end();
}

FigureTable::Rows partReadings(const Answers<predict::Idle>& idle, const Answers<predict::SupplyReport>& reports,
                               const std::string& name) {
  const auto *ink = idle.inkValue(), *pencil = idle.pencilValue();
  if (tubeOf(ink, name) || tubeOf(pencil, name)) return ofTube(tubeOf(ink, name), tubeOf(pencil, name));
  const auto* any = pencil ? pencil : ink;
  if (any && isReadByCycle(*any, name)) return ofSupply(reports, any->circuit->part(name)->resolved.part->kind, name);
  Table table;
  const auto both = [&](const QString& title, auto pick) {
    const auto of = [&](const predict::Idle* one) {
      const auto* part = one ? one->point.part(name) : nullptr;
      return part ? pick(*part) : QString();
    };
    const auto was = of(ink);
    table.add(title, was.isEmpty() ? noReading() : was, of(pencil));
  };
  using P = predict::PartReading;
  both(tr("Volts across"), [](const P& p) { return meterReading(std::abs(p.volts), Unit::volt); });
  both(tr("Current"), [](const P& p) { return meterReading(std::abs(p.amps), Unit::ampere); });
  both(tr("Dissipation"), [](const P& p) { return meterReading(std::max(p.watts, 0.0), Unit::watt); });
  return table.take();
}

FigureTable::Rows tubeReadings(const predict::Idle& idle) {
  FigureTable::Rows rows;
  for (const auto& tube : idle.point.tubes) {
    const bool over = tube.plateWattsLimit && tube.plateWatts > *tube.plateWattsLimit;
    rows.push_back({{QString::fromStdString(tube.name), Look::quiet},
                    {QString::fromStdString(tube.type)},
                    {meterReading(tube.plateVolts, Unit::volt)},
                    {meterReading(tube.plateAmps, Unit::ampere)},
                    {tube.plateWattsLimit ? percent(tube.plateWatts / *tube.plateWattsLimit) : QString(),
                     over ? Look::danger : Look::figure}});
  }
  return rows;
}

FigureTable::Rows stepReadings(const predict::Steps& steps, Unit unit) {
  FigureTable::Rows rows{{{},
                          {},
                          {tr("E2"), Look::quiet},
                          {tr("1 kHz"), Look::quiet},
                          {tr("5 kHz"), Look::quiet},
                          {tr("DC"), Look::quiet}}};
  for (const auto& [word, effect] : {std::pair{tr("up"), steps.up}, {tr("down"), steps.down}}) {
    if (!effect) continue;
    std::vector<FigureTable::Cell> row{{word, Look::quiet}, {schematicValue(effect->value, unit)}};
    if (effect->problem) {
      row.push_back({warned(tr("no answer")), Look::danger});
    } else {
      for (const double db : {effect->atE2, effect->at1kHz, effect->at5kHz})
        row.push_back({signedDecibels(db)});
      row.push_back({signedVolts(effect->volts)});
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

} // namespace vinegar::app
