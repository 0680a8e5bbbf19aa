#include "files/results_json.h"

#include <fmt/format.h>

namespace vinegar::files {
namespace {

using units::Json;

void addModel(Json& element, const tubes::TriodeModel& m) {
  for (const auto& [name, value] : {std::pair{"K", m.K},
                                    {"MU", m.MU},
                                    {"X", m.X},
                                    {"VCT", m.VCT},
                                    {"KP", m.KP},
                                    {"W0", m.W0},
                                    {"LAM", m.LAM},
                                    {"N", m.N},
                                    {"VK0", m.VK0},
                                    {"VC0", m.VC0}})
    element[name] = value;
}

void addModel(Json& element, const tubes::PentodeModel& m) {
  addModel(element, tubes::TriodeModel{m.K, m.MU, m.X, m.VCT, m.KP, m.W0, m.LAM, m.N, m.VK0, m.VC0});
  for (const auto& [name, value] : {std::pair{"MUP", m.MUP}, {"S", m.S}, {"M", m.M}})
    element[name] = value;
}

void addGrid(Json& element, const tubes::GridCurrentModel& g) {
  element["GF"] = g.GF;
  element["VG0"] = g.VG0;
  element["WG"] = g.WG;
  // The electrode capacitances stand as capacitors of their own, ID.cgp, ID.cgk and ID.cpk.
  for (const char* name : {"cgp", "cgk", "cpk"})
    element[name] = 0.0;
}

struct LawWriter {
  Json& e;
  void kind(const char* name) const { e["kind"] = name; }
  void operator()(const circuit::Resistor& d) const {
    kind("resistor");
    e["value"] = d.ohms;
  }
  void operator()(const circuit::Capacitor& d) const {
    kind("capacitor");
    e["value"] = d.farads;
  }
  void operator()(const circuit::Inductor& d) const {
    kind("inductor");
    e["value"] = d.henries;
    e["rs"] = d.ohms;
  }
  void operator()(const circuit::Transformer& d) const {
    kind("transformer");
    for (Eigen::Index r = 0; r < d.henries.rows(); ++r) {
      Json row = Json::array();
      for (Eigen::Index c = 0; c < d.henries.cols(); ++c)
        row.push_back(d.henries(r, c));
      e["L"].push_back(row);
      e["R"].push_back(d.ohms[r]);
    }
  }
  void operator()(const circuit::VoltageSource& d) const {
    kind("vsource");
    source(d.dc, d.ac, d.acPhaseDegrees);
  }
  void operator()(const circuit::CurrentSource& d) const {
    kind("isource");
    source(d.dc, d.ac, d.acPhaseDegrees);
  }
  void source(double dc, double ac, double degrees) const {
    e["dc"] = dc;
    e["ac"] = ac;
    e["acphase"] = degrees;
  }
  void operator()(const circuit::Diode& d) const {
    kind("diode");
    e["is"] = d.saturationAmps;
    e["n"] = d.emission;
    e["rs"] = 0.0;
  }
  void operator()(const circuit::VacuumDiode& d) const {
    kind("vacuum_diode");
    e["perveance"] = d.perveance;
    e["rs"] = 0.0;
  }
  void operator()(const circuit::Triode& d) const {
    kind("triode");
    e["model"] = "space-charge-triode";
    addModel(e, d.model);
    addGrid(e, d.grid);
  }
  void operator()(const circuit::Pentode& d) const {
    kind("pentode");
    e["model"] = "space-charge-pentode";
    addModel(e, d.model);
    addGrid(e, d.grid);
  }
  void operator()(const circuit::Vcvs& d) const {
    kind("vcvs");
    e["gain"] = d.gain;
  }
  void operator()(const circuit::Zener& d) const {
    kind("zener");
    e["volts"] = d.volts;
    e["testamps"] = d.testAmps;
    e["rs"] = d.ohms;
  }
  void operator()(const circuit::SaturableInductor& d) const {
    kind("saturable_inductor");
    e["value"] = d.henries;
    e["bendflux"] = d.bendFlux;
    e["fluxfarads"] = circuit::fluxFarads;
  }
  void operator()(const circuit::Delay& d) const {
    kind("delay");
    e["gain"] = d.gain;
    e["seconds"] = d.seconds;
  }
  void operator()(const circuit::MeanDiode&) const {} // in no netlist that is written
  void operator()(const circuit::Norton&) const {}    // writeAveraged does
  void operator()(const circuit::Switch& d) const {
    kind("switch");
    e["state"] = d.closed ? "closed" : "open";
  }
};

} // namespace

Json netlistJson(const amp::Circuit& circuit, const circuit::Netlist& solved) {
  Json json{{"format", "vinegar-netlist"}, {"version", 1}, {"elements", Json::array()}};
  const auto& names = solved.nodeNames();
  const auto write = [&](const std::string& id, const std::vector<circuit::Node>& nodes, const circuit::Law& law) {
    Json element{{"id", id}, {"kind", ""}, {"nodes", Json::array()}};
    for (const auto node : nodes)
      element["nodes"].push_back(names[static_cast<std::size_t>(node)]);
    std::visit(LawWriter{element}, law);
    json["elements"].push_back(std::move(element));
  };
  for (const auto& device : solved.devices()) {
    const auto* averaged = std::get_if<circuit::Norton>(&device.law);
    if (!averaged) {
      write(device.id, device.nodes, device.law);
      continue;
    }
    write(device.id + ".slope", device.nodes, circuit::Resistor{1 / averaged->siemens(0, 0)});
    write(device.id + ".mean", device.nodes, circuit::CurrentSource{averaged->amps[0]});
  }
  json["probes"] = Json::object();
  for (const auto& probe : circuit.probes)
    json["probes"][probe.name] = names[static_cast<std::size_t>(probe.node)];
  json["knobs"] = Json::object();
  for (const auto& part : circuit.parts)
    if (amp::isControl(part.resolved.part->kind))
      json["knobs"][part.resolved.knob] = amp::knobOf(*circuit.design, part.resolved);
  return json;
}

Json operatingPointJson(const predict::OperatingPoint& point) {
  Json json{{"nodes", Json::object()}, {"parts", Json::object()}, {"tubes", Json::object()}};
  for (const auto& [name, volts] : point.nodes)
    json["nodes"][name] = volts;
  for (const auto& part : point.parts)
    json["parts"][part.name] = Json{{"volts", part.volts}, {"amps", part.amps}, {"watts", part.watts}};
  for (const auto& tube : point.tubes) {
    Json t{{"type", tube.type},
           {"plate_volts", tube.plateVolts},
           {"grid_volts", tube.gridVolts},
           {"cathode_volts_to_ground", tube.cathodeVoltsToGround},
           {"plate_amps", tube.plateAmps},
           {"plate_watts", tube.plateWatts},
           {"gm_siemens", tube.gm},
           {"rp_ohms", tube.rp},
           {"mu", tube.mu}};
    if (tube.screenVolts) {
      t["screen_volts"] = *tube.screenVolts;
      t["screen_amps"] = *tube.screenAmps;
      t["screen_watts"] = *tube.screenWatts;
    }
    json["tubes"][tube.name] = std::move(t);
  }
  return json;
}

Json responseJson(const predict::Response& response) {
  return Json{{"frequency_hz", response.hertz}, {"magnitude_db", response.decibels}, {"phase_deg", response.degrees}};
}

} // namespace vinegar::files
