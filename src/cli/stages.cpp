#include "cli/stages.h"

#include "cli/output.h"
#include "cli/table.h"
#include "predict/choices/swap.h"
#include "predict/levels/clip_order.h"
#include "predict/levels/levels.h"
#include "predict/stages/propose.h"
#include "predict/stages/stages.h"
#include "units/printable.h"

#include <cstdio>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::cli {
namespace {

using units::Json;
using units::Unit;

int complain(const StagesAsked& asked, const Problem& problem, int code = badDesign) {
  return cli::complain({problem.place.empty() ? asked.file : asked.file + ": " + problem.place, problem.message}, code,
                       asked.format);
}

std::string changesText(const std::vector<amp::SetField>& changes) {
  std::string text;
  for (const auto& change : changes) {
    const auto* value = std::get_if<double>(&change.to);
    const auto* word = std::get_if<std::string>(&change.to);
    text += fmt::format("{}{} {}", text.empty() ? "" : ", ", change.part,
                        value  ? units::schematic(*value, Unit::none)
                        : word ? *word
                               : "");
  }
  return text;
}

/// The input's volts rms, as every page tells levels.
double rms(double peak) { return peak / std::numbers::sqrt2; }

/// Whether it is the call that is wrong: what it names is not there.
int codeOf(const StagesAsked& asked, const Problem& problem) {
  return !asked.tube.empty() && problem.place == asked.tube ? badUse : badDesign;
}

Json powerJson(const predict::CleanPower& power) {
  const auto one = [](const predict::PowerAt& at) {
    return Json{{"watts", at.watts}, {"input_volts_rms", rms(at.inputPeak)}, {"distortion", at.distortion}};
  };
  return {{"at_once", one(power.atOnce)},
          {"sustained", power.sustained ? one(*power.sustained) : Json()},
          {"at_10_percent", power.rough ? one(*power.rough) : Json()},
          {"first_bend", one(power.bend)},
          {"first_bend_tube", power.tube},
          {"first_bend_kind", std::string(predict::words(power.kind))}};
}

std::string knobsText(const std::map<std::string, double>& knobs, bool goesOn) {
  std::string text;
  for (const auto& [knob, stands] : knobs)
    text += fmt::format("{}{} to {:.2f}", goesOn || !text.empty() ? ", " : "", knob, stands);
  return text;
}

/// What ends the swing on one side, by the way of the grid from its rest against the cathode: "cut-off at -1.8 V".
std::string sideText(const std::optional<predict::CrestLimit>& limit) {
  if (!limit) return "none";
  return fmt::format("{} at {}{}", predict::words(limit->kind), limit->gridVolts > 0 ? "+" : "",
                     units::reading(limit->gridVolts, Unit::volt, 3));
}

std::optional<double> gridVolts(const std::optional<predict::CrestLimit>& limit) {
  return limit ? std::optional(limit->gridVolts) : std::nullopt;
}

} // namespace

int printStages(const StagesAsked& asked, const amp::Design& design, const amp::Library& library) {
  const auto idle = predict::predictIdle(design, library);
  if (!idle) return complain(asked, idle.error());
  auto stages = predict::predictStages(*idle, library, {asked.hertz});
  if (!stages) return complain(asked, stages.error());
  if (!asked.tube.empty()) {
    if (!stages->tube(asked.tube)) return complain(asked, {asked.tube, "is no tube at work in this design"}, badUse);
    std::erase_if(stages->tubes, [&](const auto& stage) { return stage.tube.name != asked.tube; });
  }
  Table table({{"tube", "tube"},
               {"type", "type"},
               {"use", "use"},
               {"plate_volts", "plate", Unit::volt},
               {"grid_volts", "grid", Unit::volt},
               {"cathode_volts_to_ground", "cathode", Unit::volt},
               {"screen_volts", "", Unit::volt},
               {"plate_amps", "current", Unit::ampere},
               {"screen_amps", "", Unit::ampere},
               {"plate_watts", "watts", Unit::watt},
               {"plate_watts_limit", "of", Unit::watt},
               {"gm_siemens", "gm", Unit::siemens},
               {"rp_ohms", "rp", Unit::ohm},
               {"mu", "mu"},
               {"published_mu", ""},
               {"gain", "gain"},
               {"gain_bypassed", ""},
               {"gain_unbypassed", ""},
               {"output_ohms", "output", Unit::ohm},
               {"input_farads", "", Unit::farad},
               {"miller_hertz", "Miller", Unit::hertz},
               {"grid_up", "grid up"},
               {"grid_up_volts", "", Unit::volt},
               {"grid_down", "grid down"},
               {"grid_down_volts", "", Unit::volt}});
  for (const auto& stage : stages->tubes) {
    const auto& tube = stage.tube;
    table.row()
        .put(tube.name)
        .put(tube.type)
        .put(std::string(predict::words(stage.kind)))
        .put(tube.plateVolts)
        .put(tube.gridVolts)
        .put(tube.cathodeVoltsToGround)
        .put(tube.screenVolts)
        .put(tube.plateAmps)
        .put(tube.screenAmps)
        .put(tube.plateWatts)
        .put(tube.plateWattsLimit)
        .put(tube.gm)
        .put(tube.rp)
        .put(tube.mu)
        .put(stage.published ? stage.published->mu : std::nullopt)
        .put(stage.gain)
        .put(stage.gainBypassed)
        .put(stage.gainUnbypassed)
        .put(stage.outputOhms)
        .put(stage.inputFarads)
        .put(stage.millerHertz)
        .put(sideText(stage.up))
        .put(gridVolts(stage.up))
        .put(sideText(stage.down))
        .put(gridVolts(stage.down));
  }
  if (asked.format == "json")
    fmt::print("{}\n", Json{{"hertz", asked.hertz}, {"tubes", table.json()}}.dump(1));
  else
    table.print(asked.format);
  return 0;
}

int printSwaps(const StagesAsked& asked, const amp::Design& design, const amp::Library& library) {
  const auto idle = predict::predictIdle(design, library);
  if (!idle) return complain(asked, idle.error());
  const auto swaps = predict::predictSwaps(*idle, library, {asked.tube, asked.hertz});
  if (!swaps) return complain(asked, swaps.error(), codeOf(asked, swaps.error()));
  Table table({{"type", "type"},
               {"socket", "socket"},
               {"plate_amps", "current", Unit::ampere},
               {"plate_watts", "watts", Unit::watt},
               {"plate_watts_limit", "of", Unit::watt},
               {"gain", "gain"},
               {"published_mu", "sheet mu"},
               {"first_limit", "first limit"},
               {"first_limit_grid_volts", "", Unit::volt},
               {"coupling_hertz", "coupling", Unit::hertz},
               {"miller_hertz", "Miller", Unit::hertz},
               {"heater_amps", "heater", Unit::ampere},
               {"heater_left_amps", "of", Unit::ampere},
               {"rebias", "with bias"},
               {"plugged_plate_amps", "without", Unit::ampere},
               {"against", "against it"}});
  for (const auto& row : swaps->rows) {
    std::string against = row.problem ? row.problem->line() : "";
    const auto& [stage, couplingHertz, broken] = row.offered();
    for (const auto& word : broken)
      against += (against.empty() ? "" : "; ") + word;
    table.row().put(row.type).put(row.rewiring);
    if (row.problem) {
      for (int i = 0; i < 11; ++i)
        table.put(std::optional<double>());
      table.put(std::string()).put(std::optional<double>());
    } else {
      table.put(stage.tube.plateAmps)
          .put(stage.tube.plateWatts)
          .put(stage.tube.plateWattsLimit)
          .put(stage.gain)
          .put(stage.published ? stage.published->mu : std::nullopt)
          .put(sideText(firstLimit(stage)))
          .put(gridVolts(firstLimit(stage)))
          .put(couplingHertz)
          .put(stage.millerHertz)
          .put(row.heaterAmps)
          .put(row.heaterLeftAmps)
          .put(changesText(row.rebias))
          .put(row.rebiased ? std::optional(row.plugged.stage.tube.plateAmps) : std::nullopt);
    }
    table.put(against);
  }
  if (asked.format == "json")
    fmt::print("{}\n", Json{{"tube", asked.tube}, {"types", table.json()}}.dump(1));
  else
    table.print(asked.format);
  return 0;
}

int printLevels(const StagesAsked& asked, const amp::Design& design, const amp::Library& library) {
  const auto idle = predict::predictIdle(design, library);
  if (!idle) return complain(asked, idle.error());
  auto levels = predict::predictLevels(*idle, library, {asked.hertz, asked.inputRms * std::numbers::sqrt2, true});
  if (!levels) return complain(asked, levels.error());
  const auto clipping = predict::predictClipping(*idle, library, {asked.hertz});
  if (!clipping) return complain(asked, clipping.error());
  predict::putWaves(*levels, *clipping);
  // Where its waves have no answer the rest has still.
  const auto found = predict::predictCleanPower(*idle, library);
  const auto clean = found ? found->power : std::nullopt;
  Table table({{"chain", "chain"},
               {"section", ""},
               {"title", "section"},
               {"peak_up_volts", "crest", Unit::volt},
               {"peak_down_volts", "trough", Unit::volt},
               {"rms_volts", "rms", Unit::volt},
               {"second_rms_volts", "other half", Unit::volt},
               {"gain_decibels", "gain", Unit::decibel},
               {"up_headroom_decibels", "left, grid up", Unit::decibel},
               {"down_headroom_decibels", "left, grid down", Unit::decibel}});
  for (const auto& level : levels->sections)
    table.row()
        .put(level.chain)
        .put(level.section)
        .put(level.title)
        .put(level.peakUp)
        .put(level.peakDown)
        .put(level.rms)
        .put(level.secondRms)
        .put(level.gainDecibels)
        .put(level.upDecibels)
        .put(level.downDecibels);
  Table order({{"tubes", "tubes"},
               {"limit", "limit"},
               {"input_volts_rms", "input, rms", Unit::volt},
               {"rail_volts", "rail", Unit::volt},
               {"sagged_volts", "gives way to", Unit::volt}});
  for (const auto& limit : clipping->limits) {
    std::string tubes;
    for (const auto& tube : limit.tubes)
      tubes += (tubes.empty() ? "" : " ") + tube;
    order.row()
        .put(tubes)
        .put(std::string(predict::words(limit.kind)))
        .put(rms(limit.inputPeak))
        .put(limit.sag ? std::optional(limit.sag->volts) : std::nullopt)
        .put(limit.sag ? std::optional(limit.sag->sagged) : std::nullopt);
  }
  if (asked.format == "json") {
    fmt::print("{}\n", Json{{"hertz", asked.hertz},
                            {"input_volts_rms", asked.inputRms},
                            {"sections", table.json()},
                            {"limits", order.json()},
                            {"speaker_watts", levels->speakerWatts ? Json(*levels->speakerWatts) : Json()},
                            {"feedback_decibels", levels->feedbackDecibels ? Json(*levels->feedbackDecibels) : Json()},
                            {"clean_power", clean ? powerJson(*clean) : Json()}}
                           .dump(1));
    return 0;
  }
  if (asked.format == "text") {
    if (const auto* first = clipping->first())
      fmt::print("{} clips first, by {}, at {} rms in\n\n", first->tubes.front(), predict::words(first->kind),
                 units::reading(rms(first->inputPeak), Unit::volt, 3));
    else
      fmt::print("nothing clips under {} rms in\n\n", units::reading(rms(clipping->mostPeak), Unit::volt, 3));
  }
  table.print(asked.format);
  if (asked.format == "text") {
    fmt::print("\n");
    order.print(asked.format);
    if (!found) fmt::print("\nclean power is not known: {}\n", found.error().line());
    if (clean) {
      const auto watts = [](const predict::PowerAt& at) { return units::reading(at.watts, Unit::watt, 3); };
      fmt::print("\nclean power (5 % distortion, 1 kHz): {} at once with {} rms in{}{}; first bend at {}, {:.2g} %\n",
                 watts(clean->atOnce), units::reading(rms(clean->atOnce.inputPeak), Unit::volt, 3),
                 clean->sustained ? ", " + watts(*clean->sustained) + " sustained" : "",
                 clean->rough ? "; " + watts(*clean->rough) + " at 10 %" : "", watts(clean->bend),
                 100 * clean->bend.distortion);
      fmt::print("the input is {:+.0f} dB against that\n",
                 units::decibels(asked.inputRms / rms(clean->atOnce.inputPeak)));
    }
    if (clipping->ofSupply) fmt::print("\nwhether the supply gives way is not known: {}\n", clipping->ofSupply->line());
  }
  return 0;
}

int printProposals(const StagesAsked& asked, const amp::Design& design, const amp::Library& library) {
  using Wanted = predict::ProposeQuestion::Wanted;
  if ((asked.plate ? 1 : 0) + (asked.amps ? 1 : 0) + (asked.gain ? 1 : 0) != 1)
    return complain(asked, {"propose", "needs one of --plate, --current and --gain"}, badUse);
  const auto idle = predict::predictIdle(design, library);
  if (!idle) return complain(asked, idle.error());
  const auto wanted = asked.plate ? Wanted::plateVolts : asked.amps ? Wanted::plateAmps : Wanted::gain;
  const double value = asked.plate ? *asked.plate : asked.amps ? *asked.amps : *asked.gain;
  const auto proposals = predict::predictProposals(*idle, library, {asked.tube, wanted, value, asked.hertz});
  if (!proposals) return complain(asked, proposals.error(), codeOf(asked, proposals.error()));
  const auto unit = asked.plate ? Unit::volt : asked.amps ? Unit::ampere : Unit::none;
  Table table({{"changes", "change"},
               {"reached", "reached", unit},
               {"plate_amps", "current", Unit::ampere},
               {"plate_watts", "watts", Unit::watt},
               {"gain", "gain"},
               {"output_ohms", "output", Unit::ohm},
               {"grid_up", "grid up"},
               {"grid_down", "grid down"}});
  for (const auto& set : proposals->sets)
    table.row()
        .put(changesText(set.changes) + knobsText(set.knobs, !set.changes.empty()))
        .put(set.reached)
        .put(set.stage.tube.plateAmps)
        .put(set.stage.tube.plateWatts)
        .put(set.stage.gain)
        .put(set.stage.outputOhms)
        .put(sideText(set.stage.up))
        .put(sideText(set.stage.down));
  if (asked.format == "json") {
    fmt::print("{}\n",
               Json{{"tube", asked.tube}, {"wanted", value}, {"now", proposals->now}, {"sets", table.json()}}.dump(1));
    return 0;
  }
  if (asked.format == "text" && proposals->sets.empty())
    fmt::print("now {}; no stock values of the parts round {} come nearer\n", units::reading(proposals->now, unit, 4),
               units::printable(asked.tube));
  else
    table.print(asked.format);
  return 0;
}

} // namespace vinegar::cli
