// The same predictions without a window.
#include "cli/arrange.h"
#include "cli/feel.h"
#include "cli/output.h"
#include "cli/stages.h"
#include "cli/supply.h"
#include "cli/tubes.h"
#include "cli/voice.h"
#include "files/csv.h"
#include "files/data_folder.h"
#include "files/design_file.h"
#include "files/results_json.h"
#include "units/csv.h"
#include "units/printable.h"

#include <CLI/CLI.hpp>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <fmt/format.h>
#include <system_error>

namespace {

using namespace vinegar;

using cli::badDesign, cli::badUse, units::printable;

struct Asked {
  std::string file, format = "text", from = "jack", to, sheet;
  std::vector<std::string> knobs;
  double low = 10, high = 100000;
  int points = 200;
};

Problem inFile(const std::string& file, Problem problem) {
  problem.place = problem.place.empty() ? file : file + ": " + problem.place;
  return problem;
}

int fail(const Asked& asked, const Problem& problem) {
  return cli::complain(inFile(asked.file, problem), badDesign, asked.format);
}

int printOperatingPoint(const Asked& asked, const amp::Circuit& circuit) {
  const auto point = predict::predictOperatingPoint(circuit);
  if (!point) return fail(asked, point.error());
  if (asked.format == "json")
    fmt::print("{}\n", files::operatingPointJson(*point).dump(1));
  else if (asked.format == "csv")
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

int printResponse(Asked asked, const amp::Circuit& circuit) {
  if (asked.to.empty()) asked.to = cli::endOf(circuit);
  if (!(asked.low > 0 && asked.high > asked.low && std::isfinite(asked.high)))
    return cli::complain({"", "--fmin must be above 0 and --fmax above --fmin"}, badUse, asked.format);
  for (const auto& probe : {asked.from, asked.to})
    if (circuit.probe(probe) < 0)
      return cli::complain({probe, "there is no probe or node of this name; `netlist` lists them"}, badUse,
                           asked.format);
  const auto point = predict::predictOperatingPoint(circuit);
  if (!point) return fail(asked, point.error());
  const auto response = predict::predictResponse(
      circuit, *point, {asked.from, asked.to, circuit::logSpaced(asked.low, asked.high, asked.points)});
  if (!response) return fail(asked, response.error());
  if (asked.format == "json")
    fmt::print("{}\n", files::responseJson(*response).dump(1));
  else if (asked.format == "csv")
    fmt::print("{}", files::responsesCsv({{"", *response}}));
  else
    for (std::size_t k = 0; k < response->hertz.size(); ++k)
      fmt::print("{:>12} {:>9.3f} dB {:>9.2f} deg\n", units::reading(response->hertz[k], units::Unit::hertz, 4),
                 response->decibels[k], response->degrees[k]);
  return 0;
}

int printCheck(const Asked& asked, const files::LoadedDesign& loaded, const amp::Design& design,
               const amp::Library& library) {
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
  if (asked.format == "json") {
    units::Json list = units::Json::array();
    for (const auto& problem : problems)
      list.push_back({{"place", problem.place}, {"message", problem.message}});
    fmt::print("{}\n", units::Json{{"problems", list}}.dump(1));
  } else if (asked.format == "csv") {
    fmt::print("place,message\n");
    for (const auto& problem : problems)
      fmt::print("{},{}\n", units::csvCell(problem.place), units::csvCell(problem.message));
  } else if (problems.empty()) {
    fmt::print("{}: nothing wrong found\n", printable(asked.file));
    for (const auto& spare : amp::spareHalves(design, library))
      fmt::print("{}: {} is spare, the other half of {} ({})\n", printable(asked.file), printable(spare.name),
                 printable(spare.besides), spare.type);
  }
  if (!loaded.note.empty()) cli::complain({asked.file, loaded.note}, 0);
  constexpr std::size_t most = 100;
  for (std::size_t i = 0; i < std::min(problems.size(), most); ++i)
    cli::complain(inFile(asked.file, problems[i]), badDesign);
  if (problems.size() > most)
    cli::complain({asked.file, fmt::format("and {} more; --format json has them all", problems.size() - most)},
                  badDesign);
  return problems.empty() ? 0 : badDesign;
}

int run(int argc, char** argv) {
  CLI::App app{"Vinegar without a window: predictions for a design file", "vinegar-cli"};
  app.set_version_flag("--version", VINEGAR_VERSION);
  app.require_subcommand(1);
  Asked asked;
  const auto command = [&](const char* name, const char* about) {
    auto* sub = app.add_subcommand(name, about);
    sub->add_option("FILE", asked.file, "design file")->required();
    sub->add_option("--format", asked.format, "json, csv or text")->check(CLI::IsMember({"json", "csv", "text"}));
    if (std::string_view(name) == "arrange") return sub;
    sub->add_option("--sheet", asked.sheet,
                    "\"ink\", \"active\" or a sheet's name: what is answered for (default: the active sheet)");
    sub->add_option("--knob", asked.knobs, "NAME=SETTING: a pot from 0 to 1, a switch by number or title");
    return sub;
  };
  command("op", "DC volts, currents, watts and tube data");
  auto* response = command("response", "level and phase between two probes");
  response->add_option("--from", asked.from, "probe or node (default jack)");
  response->add_option("--to", asked.to, "probe or node (default: the speaker, or the line's end)");
  response->add_option("--fmin", asked.low, "Hz");
  response->add_option("--fmax", asked.high, "Hz");
  response->add_option("--points", asked.points, "number of frequencies")->check(CLI::Range(1, 100000));
  const auto finite = [](const std::string& text) {
    const auto number = units::parse(text);
    return number && std::isfinite(*number) ? std::string{} : "not a number: " + text;
  };
  cli::SupplyAsked supplyAsked;
  for (auto* sub : {command("supply", "rails, ripple, rectifier, windings, heaters and findings at idle"),
                    command("switch-on", "volts of every rail after the switch closes"),
                    command("discharge", "volts after switch-off, tubes in and out")}) {
    sub->add_option("--rectifier", supplyAsked.rectifier, "another rectifier type");
    sub->add_option("--mains", supplyAsked.mains, "other mains volts")->check(finite);
    if (sub->get_name() != "switch-on") continue;
    sub->add_option("--from", supplyAsked.from, "cold, standby or hot")
        ->check(CLI::IsMember({"cold", "standby", "hot"}));
    sub->add_option("--seconds", supplyAsked.seconds, "how long")->check(finite)->check(CLI::Range(0.02, 600.0));
  }
  cli::StagesAsked stagesAsked;
  // A value as a builder writes it, "100mV".
  const auto value = [](CLI::App* sub, const char* name, units::Unit unit, auto& into, const char* about) {
    sub->add_option_function<std::string>(
        name,
        [unit, name, &into](const std::string& text) {
          const auto read = units::parse(text, unit);
          if (!read) throw CLI::ValidationError(name, read.error().message);
          if (!std::isfinite(*read) || *read <= 0) throw CLI::ValidationError(name, "must be above zero");
          constexpr double lowest = 0.1, highest = 1e6;
          if (unit == units::Unit::hertz && (*read < lowest || *read > highest))
            throw CLI::ValidationError(name, "no amplifier is played under 0.1 Hz or over 1 MHz");
          into = *read;
        },
        about);
  };
  for (auto* sub : {command("stages", "every tube in its circuit: volts, gain, impedances, what ends its swing"),
                    command("swap", "what every other type would do in a tube's place"),
                    command("levels", "the signal at every section, and what clips in which order"),
                    command("propose", "stock values that bring a tube to wanted plate volts, current or gain")}) {
    value(sub, "--frequency", units::Unit::hertz, stagesAsked.hertz, "of the signal (default 1 kHz)");
    const auto name = sub->get_name();
    if (name != "levels") {
      auto* tube = sub->add_option("--tube", stagesAsked.tube, "by its name, V1a");
      if (name != "stages") tube->required();
    } else {
      value(sub, "--input", units::Unit::volt, stagesAsked.inputRms, "volts rms at the jack (100mV)");
    }
    if (name != "propose") continue;
    value(sub, "--plate", units::Unit::volt, stagesAsked.plate, "wanted volts, plate to ground");
    value(sub, "--current", units::Unit::ampere, stagesAsked.amps, "wanted plate current");
    value(sub, "--gain", units::Unit::none, stagesAsked.gain, "wanted gain, times");
  }
  cli::FeelAsked feelAsked;
  auto* feel = command("feel", "a phrase played through amplifier and supply: droop, recovery, bias, stresses");
  auto* phrase = feel->add_option("--phrase", feelAsked.phrase, "chord, line, muted, swell or drone");
  auto* instrument = feel->add_option("--instrument", feelAsked.instrument, "guitar, bridge, bass or pure");
  feel->add_option("--recording", feelAsked.recording, "a sound file instead, of up to 12 s")
      ->excludes(phrase)
      ->excludes(instrument);
  value(feel, "--level", units::Unit::volt, feelAsked.inputRms,
        "at the jack, rms of a sine with the phrase's largest peak (100mV)");
  feel->add_option("--rectifier", feelAsked.rectifier, "another rectifier type");
  feel->add_option("--compare", feelAsked.compare, "other supplies, or levels, a row each")
      ->check(CLI::IsMember({"rectifiers", "makers", "conditions", "balance", "levels"}));
  cli::VoiceAsked voiceAsked;
  for (auto* sub : {command("readouts", "corners, dip, peak, levels and losses of a span, and what makes them"),
                    command("rank", "what one step of each part's dial does in a band, the strongest first"),
                    command("sweep", "a control through its travel, and how evenly it works"),
                    command("tolerance", "the band that many builds of this design lie in"),
                    command("fit", "stock values that come near a wanted curve"),
                    command("compare", "two designs side by side: levels, sections and parts"),
                    command("noise", "hiss at the speaker, part by part")}) {
    const auto name = sub->get_name();
    if (name == "noise") {
      sub->add_flag("--cures", voiceAsked.cures, "also what would quieten it");
      continue;
    }
    sub->add_option("--from", voiceAsked.from, "probe or node (default jack)");
    sub->add_option("--to", voiceAsked.to, "probe or node (default: the speaker, or the line's end)");
    if (name == "compare") sub->add_option("OTHER", voiceAsked.other, "the other design's file")->required();
    if (name == "rank") sub->add_option("--band", voiceAsked.band, "LOW,HIGH in Hz, or one frequency")->required();
    if (name == "sweep") sub->add_option("--control", voiceAsked.control, "a knob of the design")->required();
    if (name == "tolerance") {
      sub->add_option("--builds", voiceAsked.builds, "how many (default 500)")->check(CLI::Range(2, 100000));
      auto& t = voiceAsked.tolerances;
      for (const auto& [option, into, what] : {std::tuple{"--resistors", &t.resistors, "resistors, a share (0.05)"},
                                               {"--film", &t.film, "capacitors under 1 uF (0.1)"},
                                               {"--electrolytic", &t.electrolytic, "capacitors from 1 uF on (0.2)"},
                                               {"--pots", &t.pots, "pots (0.2)"},
                                               {"--tubes", &t.tubes, "tubes' current and gm (0.2)"},
                                               {"--mu", &t.mu, "tubes' mu (0.05)"}})
        sub->add_option(option, *into, what)->check(CLI::Range(0.0, 0.9));
    }
    if (name == "fit") {
      sub->add_option("--target", voiceAsked.target, "one kept in the design, a target file, or CSV of Hz and dB")
          ->required();
      sub->add_option("--part", voiceAsked.parts, "one that may move; the file's own if none is named");
    }
  }
  command("netlist", "the compiled circuit in the interchange form");
  command("check", "what is wrong with the design");
  cli::ArrangeAsked arrangeAsked;
  auto* arranging = command("arrange", "pencil sections in, out and elsewhere");
  arranging->add_option("ACT", arrangeAsked.acts, "what to do, in this order")->required();
  arranging->add_option("-o,--out", arrangeAsked.out, "the file to write (default: standard output)");
  arranging->add_option("--ink", arrangeAsked.reason, "ink it, for this reason");
  arranging->footer(cli::arrangeHelp);
  bool checkTubes = false;
  std::vector<std::string> tubeFiles;
  auto* tubes = app.add_subcommand("tubes", "the tube catalogue");
  tubes->add_flag("--check", checkTubes, "compare the models with the published points");
  auto* fit = tubes->add_option("--fit", tubeFiles, "fit the models of these files, or of the whole catalogue")
                  ->expected(0, 1000);
  tubes->add_option("--format", asked.format, "json or text")->check(CLI::IsMember({"json", "text"}));
  try {
    app.parse(argc, argv);
  } catch (const CLI::Success& success) {
    return app.exit(success);
  } catch (const CLI::ParseError& error) {
    return cli::complain({"", std::string(error.what()) + " (--help tells more)"}, badUse);
  }

  if (tubes->parsed()) {
    if (fit->count() == 0) return cli::printTubes(checkTubes, asked.format);
    std::erase(tubeFiles, std::string{});
    return cli::fitTubes(tubeFiles);
  }
  auto library = amp::Library::load(files::dataFolder());
  if (!library) return cli::complain(library.error(), badDesign, asked.format);
  for (const auto& problem : library->addOwn(files::ownDataFolder()))
    cli::complain({problem.place, problem.message + "; the file is left out"}, 0);
  // With the sections, roles and tubes of its builder's own that it brings.
  const auto load = [&](const std::string& file) {
    auto loaded = files::readDesign(file, *library);
    if (!loaded || loaded->copies.empty()) return loaded;
    for (const auto& problem : library->addCopies(loaded->copies, file))
      cli::complain({problem.place, problem.message + "; this copy is left out"}, 0);
    return files::readDesign(file, *library);
  };
  auto loaded = load(asked.file);
  if (!loaded) return cli::complain(loaded.error(), badDesign, asked.format);
  if (!loaded->note.empty() && !app.got_subcommand("check")) cli::complain({asked.file, loaded->note}, 0);
  if (arranging->parsed()) {
    arrangeAsked.file = asked.file;
    arrangeAsked.format = asked.format;
    return cli::arrange(arrangeAsked, *loaded, *library);
  }
  auto sheet = cli::sheetOf(loaded->document, *library, asked.sheet, asked.file);
  if (!sheet) return cli::complain(sheet.error(), badUse, asked.format);
  amp::Design design = std::move(*sheet);
  if (const auto problem = cli::turnKnobs(design, *library, asked.knobs))
    return cli::complain(*problem, badUse, asked.format);
  if (app.got_subcommand("check")) return printCheck(asked, *loaded, design, *library);
  supplyAsked.file = asked.file;
  supplyAsked.format = asked.format;
  if (app.got_subcommand("supply")) return cli::printSupply(supplyAsked, design, *library);
  if (app.got_subcommand("switch-on")) return cli::printSwitchOn(supplyAsked, design, *library);
  if (app.got_subcommand("discharge")) return cli::printDischarge(supplyAsked, design, *library);
  stagesAsked.file = asked.file;
  stagesAsked.format = asked.format;
  if (app.got_subcommand("stages")) return cli::printStages(stagesAsked, design, *library);
  if (app.got_subcommand("swap")) return cli::printSwaps(stagesAsked, design, *library);
  if (app.got_subcommand("levels")) return cli::printLevels(stagesAsked, design, *library);
  if (app.got_subcommand("propose")) return cli::printProposals(stagesAsked, design, *library);
  if (feel->parsed()) {
    feelAsked.file = asked.file;
    feelAsked.format = asked.format;
    return cli::printFeel(feelAsked, design, *library);
  }
  voiceAsked.file = asked.file;
  voiceAsked.format = asked.format;
  voiceAsked.targets = loaded->document.targets;
  if (!voiceAsked.other.empty()) {
    const auto other = load(voiceAsked.other);
    if (!other) return cli::complain(other.error(), badDesign, asked.format);
    if (!other->note.empty()) cli::complain({voiceAsked.other, other->note}, 0);
    voiceAsked.otherDesign = *cli::sheetOf(other->document, *library, {}, voiceAsked.other);
  }
  for (const auto& [name, print] : {std::pair{"readouts", &cli::printReadouts},
                                    {"rank", &cli::printRanking},
                                    {"sweep", &cli::printSweep},
                                    {"tolerance", &cli::printTolerance},
                                    {"fit", &cli::printFit},
                                    {"compare", &cli::printComparison},
                                    {"noise", &cli::printNoise}})
    if (app.got_subcommand(name)) return print(voiceAsked, design, *library);
  const auto circuit = amp::compile(design, *library);
  if (!circuit) return fail(asked, circuit.error());
  if (app.got_subcommand("op")) return printOperatingPoint(asked, *circuit);
  if (app.got_subcommand("response")) return printResponse(asked, *circuit);
  const auto point = predict::predictOperatingPoint(*circuit);
  if (!point && circuit->supply.isRectified()) return fail(asked, point.error());
  const auto json = files::netlistJson(*circuit, point ? point->system->netlist() : circuit->netlist);
  if (asked.format != "csv") {
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

} // namespace

int main(int argc, char** argv) {
  // A reader that has gone away is told of like a full disk, not by the end of the process.
  std::signal(SIGPIPE, SIG_IGN);
  int code = cli::notWritten;
  try {
    code = run(argc, argv);
    if (std::fflush(stdout) == 0 && std::ferror(stdout) == 0) return code;
  } catch (const std::system_error&) { // of a write
  }
  return cli::complain({"standard output", "could not be written to its end; is there room, and is somebody reading?"},
                       cli::notWritten);
}
