#include "predict/rest/prediction.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace vinegar::predict {
namespace {

using amp::PartKind;

PartReading readPart(const amp::CompiledPart& part, const circuit::System& system, const Eigen::VectorXd& x) {
  PartReading reading{part.resolved.name};
  if (part.devices.empty()) return reading;
  const auto volts = [&](circuit::Node node) { return circuit::System::volts(x, node); };
  const circuit::Node last = part.nodes.size() > 1 ? part.nodes.back() : 0;
  reading.volts = volts(part.nodes.front()) - volts(last);
  for (const int index : part.devices) {
    const auto& device = system.netlist().devices()[static_cast<std::size_t>(index)];
    const auto currents = system.pinCurrents(index, x);
    for (std::size_t pin = 0; pin < device.nodes.size(); ++pin) {
      reading.watts += currents[pin] * volts(device.nodes[pin]);
      if (device.nodes[pin] == part.nodes.front()) reading.amps += currents[pin];
    }
  }
  // A pot as a rheostat has both ends on one node; its current is then that of its lower half.
  if (part.resolved.part->kind == PartKind::pot && part.nodes[0] == part.nodes[1])
    reading.amps = system.pinCurrents(part.devices[1], x)[0];
  return reading;
}

TubeReading readTube(const amp::CompiledPart& part, const circuit::System& system, const Eigen::VectorXd& x,
                     const std::optional<double>& limit) {
  const auto& n = part.nodes;
  const auto volts = [&](circuit::Node node) { return circuit::System::volts(x, node); };
  const circuit::Node cathode = n.back();
  const circuit::Node grid = n[n.size() - 2];
  TubeReading reading;
  reading.name = part.resolved.name;
  reading.type = part.resolved.text("tube");
  reading.plateVolts = volts(n[0]) - volts(cathode);
  reading.gridVolts = volts(grid) - volts(cathode);
  reading.cathodeVoltsToGround = volts(cathode);
  reading.plateWattsLimit = limit;
  const auto& law = system.netlist().devices()[static_cast<std::size_t>(part.devices.front())].law;
  double plateConductance = 0;
  if (const auto* triode = std::get_if<circuit::Triode>(&law)) {
    const auto current = tubes::triodeCurrent(triode->model, reading.plateVolts, reading.gridVolts);
    reading.plateAmps = current.plate;
    reading.gm = current.byGrid;
    plateConductance = current.byPlate;
  } else {
    const auto& pentode = std::get<circuit::Pentode>(law);
    reading.screenVolts = volts(n[1]) - volts(cathode);
    const auto current =
        tubes::pentodeCurrent(pentode.model, reading.plateVolts, reading.gridVolts, *reading.screenVolts);
    reading.plateAmps = current.plate;
    reading.gm = current.plateByGrid;
    plateConductance = current.plateByPlate;
    reading.screenAmps = current.screen;
    reading.screenWatts = current.screen * *reading.screenVolts;
  }
  reading.plateWatts = reading.plateAmps * reading.plateVolts;
  reading.rp = 1 / plateConductance;
  reading.mu = reading.gm / plateConductance;
  return reading;
}

/// The amplifier on the supply as it stood, itself unchanged, although something in the amplifier changed: where the
/// rails stay as well as predictSupplyIdle asks them to, or its rectifiers within the warmth's `driftVolts`.
struct Standing {
  std::shared_ptr<const circuit::System> system;
  circuit::DcSolution dc;
};
std::optional<Standing> drawsAlike(const amp::Circuit& circuit, const Warmth& warmth) {
  for (const int device : circuit.supply.devices) {
    const auto index = static_cast<std::size_t>(device);
    if (circuit.netlist.devices()[index].law != warmth.supplied->devices()[index].law) return std::nullopt;
  }
  auto system = std::make_shared<circuit::System>(averagedNetlist(circuit, *warmth.supply));
  if (!warmth.suppliedX || warmth.suppliedX->size() != system->size()) return std::nullopt;
  auto dc = circuit::solveDc(*system, &warmth.x);
  if (!dc) return std::nullopt;
  constexpr double agree = 1e-4;
  const auto moved = [&](circuit::Node node) {
    return circuit::System::volts(dc->x, node) - circuit::System::volts(*warmth.suppliedX, node);
  };
  if (!warmth.driftVolts)
    for (const auto& rail : circuit.rails)
      if (std::abs(moved(rail.node)) > agree) return std::nullopt;
  for (const int device : circuit.supply.devices) {
    const auto& [id, nodes, law] = circuit.netlist.devices()[static_cast<std::size_t>(device)];
    if (!warmth.driftVolts) {
      for (const auto node : nodes)
        if (std::abs(moved(node)) > agree) return std::nullopt;
    } else if (circuit::isNonlinear(law) && std::abs(moved(nodes.front()) - moved(nodes.back())) > *warmth.driftVolts) {
      return std::nullopt;
    }
  }
  return Standing{std::move(system), std::move(*dc)};
}

} // namespace

const PartReading* OperatingPoint::part(const std::string& name) const {
  const auto found = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.name == name; });
  return found == parts.end() ? nullptr : &*found;
}

tl::expected<OperatingPoint, Problem> predictOperatingPoint(const amp::Circuit& circuit, Warmth* warmth) {
  if (warmth && !(warmth->topology && warmth->topology->sameTopology(circuit.netlist))) {
    *warmth = {};
    warmth->topology = std::make_shared<circuit::Netlist>(circuit.netlist);
  }
  OperatingPoint point;
  bool solvedAnew = false;
  std::optional<Standing> standing;
  if (circuit.supply.isRectified()) {
    // A capacitor in the amplifier moves no DC, so the supply stands where it stood; so it does where a pot is turned
    // that draws nothing from it.
    const bool like = warmth && warmth->supply && circuit.supply == warmth->wiring;
    const bool same = like && circuit.netlist.sameAtRest(*warmth->supplied, circuit.supply.devices);
    if (like && !same) standing = drawsAlike(circuit, *warmth);
    if (same || standing) {
      point.supply = warmth->supply;
    } else {
      solvedAnew = true;
      auto supply = predictSupplyIdle(circuit, warmth ? warmth->supply.get() : nullptr);
      if (!supply) return tl::unexpected(supply.error());
      point.supply = std::make_shared<const SupplyIdle>(std::move(*supply));
      if (warmth) {
        warmth->supply = point.supply;
        warmth->supplied = std::make_shared<const circuit::Netlist>(circuit.netlist);
        warmth->wiring = circuit.supply;
      }
    }
  }
  if (standing) {
    point.system = std::move(standing->system);
    point.dc = std::move(standing->dc);
  } else {
    point.system =
        std::make_shared<circuit::System>(point.supply ? averagedNetlist(circuit, *point.supply) : circuit.netlist);
    const bool warm = warmth && warmth->x.size() == point.system->size();
    auto dc = circuit::solveDc(*point.system, warm ? &warmth->x : nullptr);
    if (!dc) return tl::unexpected(dc.error());
    point.dc = std::move(*dc);
  }
  if (warmth) warmth->x = point.dc.x;
  if (point.supply) {
    const bool isKept = warmth && warmth->suppliedX && warmth->supply == point.supply && !solvedAnew;
    point.suppliedX = isKept ? warmth->suppliedX : std::make_shared<const Eigen::VectorXd>(point.dc.x);
    if (warmth) warmth->suppliedX = point.suppliedX;
  }
  const auto& names = circuit.netlist.nodeNames();
  for (std::size_t i = 1; i < names.size(); ++i)
    point.nodes.emplace_back(names[i], point.volts(static_cast<circuit::Node>(i)));
  // Two rails that a wire joins are one node; each is found under its own name.
  for (const auto& rail : circuit.rails)
    if (rail.node > 0 && names[static_cast<std::size_t>(rail.node)] != rail.name)
      point.nodes.emplace_back(rail.name, point.volts(rail.node));
  for (const auto& part : circuit.parts) {
    point.parts.push_back(readPart(part, *point.system, point.dc.x));
    if (amp::isTube(part.resolved.part->kind) && !part.devices.empty())
      point.tubes.push_back(readTube(part, *point.system, point.dc.x, part.plateWattsLimit));
  }
  return point;
}

tl::expected<std::vector<Response>, Problem>
predictResponses(const amp::Circuit& circuit, const circuit::System& system, const Eigen::VectorXd& operatingPoint,
                 const std::vector<std::pair<std::string, std::string>>& spans, const std::vector<double>& hertz,
                 PlanKeeper* keeper) {
  const auto nodeOf = [&](const std::string& name) -> tl::expected<circuit::Node, Problem> {
    const auto node = circuit.probe(name);
    if (node < 0) return tl::unexpected(Problem{name, "there is no probe or node of this name; `op` lists the nodes"});
    return node;
  };
  circuit::AcPlan plan = keeper ? keeper->plan() : nullptr;
  const auto before = plan;
  const auto ac = circuit::solveAc(system, operatingPoint, hertz, &plan);
  if (!ac) return tl::unexpected(ac.error());
  if (keeper && plan != before) keeper->keep(std::move(plan));
  std::vector<Response> responses;
  for (const auto& [fromName, toName] : spans) {
    const auto from = nodeOf(fromName), to = nodeOf(toName);
    if (!from) return tl::unexpected(from.error());
    if (!to) return tl::unexpected(to.error());
    Response response;
    response.hertz = hertz;
    double turns = 0, before = 0;
    for (std::size_t k = 0; k < hertz.size(); ++k) {
      const auto input = ac->volts(*from, k);
      if (std::abs(input) < 1e-30)
        return tl::unexpected(Problem{fromName, "carries no signal, so nothing can be compared with it"});
      const auto ratio = ac->volts(*to, k) / input;
      const double degrees = std::arg(ratio) * 180 / std::numbers::pi;
      if (k > 0) turns -= 360 * std::round((degrees - before) / 360);
      before = degrees;
      response.decibels.push_back(units::decibels(std::abs(ratio)));
      response.degrees.push_back(degrees + turns);
    }
    responses.push_back(std::move(response));
  }
  return responses;
}

tl::expected<std::vector<Response>, Problem>
predictResponses(const amp::Circuit& circuit, const OperatingPoint& point,
                 const std::vector<std::pair<std::string, std::string>>& spans, const std::vector<double>& hertz,
                 Warmth* warmth) {
  return predictResponses(circuit, *point.system, point.dc.x, spans, hertz, warmth ? warmth->plan.get() : nullptr);
}

tl::expected<Response, Problem> responseOf(const amp::Circuit& circuit, const OperatingPoint& point,
                                           const ResponseQuestion& question, Warmth* warmth) {
  auto responses = predictResponses(circuit, point, {{question.from, question.to}}, question.hertz, warmth);
  if (!responses) return tl::unexpected(responses.error());
  return std::move(responses->front());
}

double decibelsAt(const Response& response, double hertz) {
  const auto& f = response.hertz;
  if (f.empty() || hertz < f.front() * (1 - 1e-9) || hertz > f.back() * (1 + 1e-9))
    return std::numeric_limits<double>::quiet_NaN();
  const auto above = std::lower_bound(f.begin(), f.end(), hertz);
  if (above == f.begin()) return response.decibels.front();
  if (above == f.end()) return response.decibels.back();
  const auto i = static_cast<std::size_t>(above - f.begin());
  const double share = std::log(hertz / f[i - 1]) / std::log(f[i] / f[i - 1]);
  return response.decibels[i - 1] + share * (response.decibels[i] - response.decibels[i - 1]);
}

Gain describeGain(const Response& response) {
  return {decibelsAt(response, 1000), decibelsAt(response, 82.4), decibelsAt(response, 5000)};
}

} // namespace vinegar::predict
