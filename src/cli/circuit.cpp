// The circuit itself: volts at rest, response between two nodes, netlist, and what is wrong with the design.
#include "cli/command.h"

#include "files/csv.h"
#include "files/results_json.h"
#include "predict/rest/places.h"
#include "units/csv.h"
#include "units/printable.h"

#include <cstdio>
#include <fmt/format.h>

namespace vinegar::cli {
namespace {

using units::printable;

struct ResponseAsked {
  std::string from = "jack", to;
  double low = 10, high = 100000;
  int points = 200;
};

Problem inFile(const Subject& on, Problem problem) {
  problem.place = problem.place.empty() ? on.call.file : on.call.file + ": " + problem.place;
  return problem;
}

int printOperatingPoint(const Subject& on, const amp::Circuit& circuit) {
  const auto point = predict::predictOperatingPoint(circuit);
  if (!point) return on.complain(point.error());
  if (on.call.format == "json")
    fmt::print("{}\n", files::operatingPointJson(*point).dump(1));
  else if (on.call.format == "csv")
    fmt::print("{}", files::operatingPointCsv(*point));
  else {
    using units::Unit;
    for (const auto& [name, volts] : point->nodes)
      fmt::print("{:<16} {:>10}\n", printable(name), units::reading(volts, Unit::volt, 4));
    fmt::print("\n");
    for (const auto& part : point->parts)
      fmt::print("{:<10} {:>10} {:>10} {:>10}\n", printable(part.name), units::reading(part.volts, Unit::volt, 4),
                 units::reading(part.amps, Unit::ampere, 4), units::reading(part.watts, Unit::watt, 3));
    fmt::print("\n");
    for (const auto& tube : point->tubes)
      fmt::print("{:<5} {:<6} plate {} {} {}, bias {}, gm {}, rp {}, mu {}\n", printable(tube.name), tube.type,
                 units::reading(tube.plateVolts, Unit::volt), units::reading(tube.plateAmps, Unit::ampere),
                 units::reading(tube.plateWatts, Unit::watt), units::reading(tube.gridVolts, Unit::volt),
                 units::reading(tube.gm, Unit::siemens), units::reading(tube.rp, Unit::ohm),
                 units::reading(tube.mu, Unit::none));
  }
  return 0;
}

int printResponse(ResponseAsked asked, const Subject& on, const amp::Circuit& circuit) {
  if (asked.to.empty()) asked.to = predict::endOf(circuit);
  if (!(asked.low > 0 && asked.high > asked.low && std::isfinite(asked.high)))
    return cli::complain({"", "--fmin must be above 0 and --fmax above --fmin"}, badUse, on.call.format);
  for (const auto& probe : {asked.from, asked.to})
    if (circuit.probe(probe) < 0)
      return cli::complain({probe, "there is no probe or node of this name; `netlist` lists them"}, badUse,
                           on.call.format);
  const auto point = predict::predictOperatingPoint(circuit);
  if (!point) return on.complain(point.error());
  const auto response = predict::responseOf(
      circuit, *point, {asked.from, asked.to, circuit::logSpaced(asked.low, asked.high, asked.points)});
  if (!response) return on.complain(response.error());
  if (on.call.format == "json")
    fmt::print("{}\n", files::responseJson(*response).dump(1));
  else if (on.call.format == "csv")
    fmt::print("{}", files::responsesCsv({{"", *response}}));
  else
    for (std::size_t k = 0; k < response->hertz.size(); ++k)
      fmt::print("{:>12} {:>9.3f} dB {:>9.2f} deg\n", units::reading(response->hertz[k], units::Unit::hertz, 4),
                 response->decibels[k], response->degrees[k]);
  return 0;
}

int printCheck(const Subject& on) {
  const auto& [call, loaded, design, library, load] = on;
  const auto& document = loaded.document;
  std::vector<Problem> problems = amp::check(design, library);
  if (problems.empty()) {
    const auto circuit = amp::compile(design, library);
    const auto point = predict::predictOperatingPoint(*circuit);
    if (!point) problems.push_back(point.error());
  }
  // What a newer program wrote may well know more than this one.
  auto odd = loaded.readOnly ? std::vector<Problem>{} : amp::remarks(document, library);
  problems.insert(problems.end(), std::make_move_iterator(odd.begin()), std::make_move_iterator(odd.end()));
  if (on.call.format == "json") {
    units::Json list = units::Json::array();
    for (const auto& problem : problems)
      list.push_back({{"place", problem.place}, {"message", problem.message}});
    fmt::print("{}\n", units::Json{{"problems", list}}.dump(1));
  } else if (on.call.format == "csv") {
    fmt::print("place,message\n");
    for (const auto& problem : problems)
      fmt::print("{},{}\n", units::csvCell(problem.place), units::csvCell(problem.message));
  } else if (problems.empty()) {
    fmt::print("{}: nothing wrong found\n", printable(on.call.file));
    for (const auto& spare : amp::spareHalves(design, library))
      fmt::print("{}: {} is spare, the other half of {} ({})\n", printable(on.call.file), printable(spare.name),
                 printable(spare.besides), spare.type);
  }
  if (!loaded.note.empty()) cli::complain({on.call.file, loaded.note}, 0);
  constexpr std::size_t most = 100;
  for (std::size_t i = 0; i < std::min(problems.size(), most); ++i)
    cli::complain({inFile(on, problems[i])}, badDesign);
  if (problems.size() > most)
    cli::complain({on.call.file, fmt::format("and {} more; --format json has them all", problems.size() - most)},
                  badDesign);
  return problems.empty() ? 0 : badDesign;
}

int printNetlist(const Subject& on, const amp::Circuit& circuit) {
  const auto point = predict::predictOperatingPoint(circuit);
  if (!point && circuit.supply.isRectified()) return on.complain(point.error());
  const auto json = files::netlistJson(circuit, point ? point->system->netlist() : circuit.netlist);
  if (on.call.format != "csv") {
    fmt::print("{}\n", json.dump(1));
    return 0;
  }
  fmt::print("id,kind,nodes,value\n");
  for (const auto& element : json["elements"]) {
    std::string nodes;
    for (const auto& node : element["nodes"])
      nodes += (nodes.empty() ? "" : " ") + node.get<std::string>();
    fmt::print("{},{},{},{}\n", units::csvCell(element["id"].get<std::string>()), element["kind"].get<std::string>(),
               units::csvCell(nodes), element.contains("value") ? element["value"].dump() : "");
  }
  return 0;
}

template <class Print> OfDesign ofCircuit(Print print) {
  return [print](const Subject& on) {
    const auto circuit = amp::compile(on.design, on.library);
    return circuit ? print(on, *circuit) : on.complain(circuit.error());
  };
}

const Registered op{{"Circuit", "op", "DC volts, currents, watts and tube data",
                     [](CLI::App&) { return ofCircuit(printOperatingPoint); }}};
const Registered netlist{{"Circuit", "netlist", "the compiled circuit in the interchange form",
                          [](CLI::App&) { return ofCircuit(printNetlist); }}};
const Registered check{
    {"Design", "check", "what is wrong with the design", [](CLI::App&) -> OfDesign { return printCheck; }}};
const Registered response{
    {"Circuit", "response", "level and phase between two probes", [](CLI::App& options) {
       auto asked = std::make_shared<ResponseAsked>();
       options.add_option("--from", asked->from, "probe or node (default jack)");
       options.add_option("--to", asked->to, "probe or node (default: the speaker, or the line's end)");
       options.add_option("--fmin", asked->low, "Hz");
       options.add_option("--fmax", asked->high, "Hz");
       options.add_option("--points", asked->points, "number of frequencies")->check(CLI::Range(1, 100000));
       return ofCircuit(
           [asked](const Subject& on, const amp::Circuit& circuit) { return printResponse(*asked, on, circuit); });
     }}};

} // namespace
} // namespace vinegar::cli
