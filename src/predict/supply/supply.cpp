#include "predict/supply/supply.h"

#include "amp/compile/part_devices.h"
#include "circuit/periodic.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace vinegar::predict {
namespace {

using amp::PartKind;

constexpr int harmonicsShown = 8;

double rootMeanSquare(const Eigen::VectorXd& v) { return std::sqrt(v.squaredNorm() / static_cast<double>(v.size())); }

RectifierReading readRectifier(const amp::CompiledPart& part, const amp::Library& library, const amp::Circuit& circuit,
                               const SupplyIdle& idle) {
  RectifierReading reading;
  reading.part = part.resolved.name;
  reading.type = part.resolved.text("tube");
  if (const auto* type = library.tubes.find(reading.type)) reading.limits = type->limits;
  for (const int device : part.devices) {
    const auto amps = idle.amps(device);
    const auto& nodes = circuit.netlist.devices()[static_cast<std::size_t>(device)].nodes;
    const Eigen::VectorXd across = idle.volts(nodes[0]) - idle.volts(nodes[1]);
    reading.totalAmps += amps.mean();
    reading.inverseVolts = std::max(reading.inverseVolts, -across.minCoeff());
    if (amps.maxCoeff() <= reading.peakAmps) continue;
    reading.peakAmps = amps.maxCoeff();
    reading.rmsAmps = rootMeanSquare(amps);
    reading.meanAmps = amps.mean();
    reading.conductionDegrees =
        360 * static_cast<double>((amps.array() > 0.01 * reading.peakAmps).count()) / static_cast<double>(amps.size());
    reading.meanDropVolts = amps.dot(across) / std::max(amps.sum(), 1e-30);
  }
  return reading;
}

/// `all`: the amperes that all transformers together take from the mains.
void readTransformer(SupplyReport& report, const amp::CompiledPart& part, const SupplyIdle& idle, double mainsVolts,
                     Eigen::VectorXd& all) {
  const int device = part.devices.front();
  const auto primary = idle.amps(device, 0);
  const Eigen::VectorXd volts = idle.volts(part.nodes[0]) - idle.volts(part.nodes[1]);
  all = all.size() == 0 ? primary : Eigen::VectorXd(all + primary);
  const double rms = rootMeanSquare(primary);
  report.primaries.push_back(
      {part.resolved.name, rms, primary.dot(volts) / static_cast<double>(volts.size()), rms * mainsVolts});
  report.primaryWatts += report.primaries.back().watts;
  int branch = 1;
  std::size_t pin = 2;
  for (const auto& winding : amp::transformerWindings(part.resolved)) {
    WindingReading reading{part.resolved.name, winding.name, 0, winding.ratedAmps, 0};
    for (std::size_t tap = 1; tap < winding.taps; ++tap, ++branch)
      reading.rmsAmps = std::max(reading.rmsAmps, rootMeanSquare(idle.amps(device, branch)));
    reading.rmsVolts = rootMeanSquare(idle.volts(part.nodes[pin]) - idle.volts(part.nodes[pin + 1]));
    pin += winding.taps;
    report.windings.push_back(reading);
  }
}

} // namespace

SupplyReport readSupply(const amp::Circuit& circuit, const amp::Library& library, const SupplyIdle& idle) {
  SupplyReport report;
  report.loadAmps = idle.loadAmps;
  for (const auto& rail : circuit.rails) {
    const auto volts = idle.volts(rail.node);
    if (volts.size() == 0) continue;
    RailReading reading{rail.name, rail.node, idle.meanVolts(rail.node), volts.maxCoeff() - volts.minCoeff(), {}};
    for (const auto& phasor : circuit::harmonics(volts.transpose(), harmonicsShown))
      reading.harmonics.push_back(std::abs(phasor));
    report.rails.push_back(std::move(reading));
  }
  Eigen::VectorXd all;
  for (const auto& part : circuit.parts) {
    if (part.devices.empty()) continue;
    const auto kind = part.resolved.part->kind;
    if (kind == PartKind::rectifier || kind == PartKind::diode)
      report.rectifiers.push_back(readRectifier(part, library, circuit, idle));
    if (kind == PartKind::powerTransformer) readTransformer(report, part, idle, circuit.supply.volts, all);
    if (kind == PartKind::heaters) {
      const Eigen::VectorXd a = idle.volts(part.nodes[0]), b = idle.volts(part.nodes[1]);
      report.heaters.push_back({part.resolved.name, part.resolved.value(), rootMeanSquare(a - b),
                                rootMeanSquare(idle.amps(part.devices.front())), (a + b).mean() / 2});
    }
  }
  if (all.size() > 0) report.primaryAmps = rootMeanSquare(all);
  report.primaryVa = report.primaryAmps * circuit.supply.volts;
  std::set<std::string> without;
  const amp::Heating heating(*circuit.design, library);
  for (const auto& part : circuit.parts) {
    if (!amp::hasType(part.resolved.part->kind) || part.devices.empty()) continue;
    const auto* type = library.tubes.find(part.resolved.text("tube"));
    if (!type || type->heaterVolts <= 0) continue;
    if (heating.of(part.resolved, *type).empty()) without.insert(amp::bottleOf(part.resolved.name));
    if (heating.sharesFilament(part.resolved, *type)) report.sharedFilaments.push_back(part.resolved.name);
  }
  report.withoutHeater.assign(without.begin(), without.end());
  return report;
}

SupplyReport readSupply(const amp::Circuit& circuit, const amp::Library& library, const OperatingPoint& point) {
  auto report = readSupply(circuit, library, *point.supply);
  const amp::Heating heating(*circuit.design, library);
  for (const auto& tube : point.tubes) {
    const auto* type = library.tubes.find(tube.type);
    if (!type || type->heaterVolts <= 0 || type->heatedDirectly) continue; // a filament is its own cathode
    const auto by = heating.of(circuit.part(tube.name)->resolved, *type);
    for (const auto& heaters : report.heaters)
      if (!by.empty() && heaters.part == by.front()) {
        report.heaterCathodes.push_back(
            {tube.name, tube.cathodeVoltsToGround - heaters.meanVolts, type->limits.heaterCathodeVolts});
        break;
      }
  }
  return report;
}

Problem noMains() { return {"the supply", "has no mains and rectifier; start it with a transformer section"}; }

tl::expected<SupplyReport, Problem> predictSupplyReport(const Idle& idle, const amp::Library& library,
                                                        const SupplyReportQuestion&, const GoOn&) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  return readSupply(*idle.circuit, library, idle.point);
}

MainRails mainRails(const amp::Circuit& circuit) {
  MainRails rails;
  if (!circuit.rails.empty()) rails.rectified = circuit.rails.front().node;
  const auto firstJoined = [&](std::string_view port) {
    for (const auto& rail : circuit.rails)
      for (const auto& use : circuit.design->line)
        for (const auto& [own, target] : use.joins)
          if (target == rail.name && (port.empty() || own == port)) return rail.node;
    return circuit::Node{0};
  };
  rails.fed = firstJoined("plates");
  if (rails.fed == 0) rails.fed = firstJoined({});
  if (rails.fed == 0) rails.fed = rails.rectified;
  return rails;
}

} // namespace vinegar::predict
