#include "cli/command.h"

#include "cli/table.h"
#include "predict/stages/stages.h"
#include "tell/clipping.h"
#include "tell/levels.h"
#include "tell/proposals.h"
#include "tell/swaps.h"
#include "tell/tubes.h"
#include "units/printable.h"

#include <cstdio>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::cli {
namespace {

struct StagesAsked {
  std::string tube;
  double hertz = 1000;
  std::optional<double> inputRms;          ///< volts at the jack; none: what the design's source gives
  std::optional<double> plate, amps, gain; ///< wanted of `propose`
};

using units::Json;
using units::Unit;

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

int printStages(const StagesAsked& asked, const Subject& on) {
  const auto idle = predict::predictIdle(on.design, on.library);
  if (!idle) return on.complain(idle.error());
  auto stages = predict::predictStages(*idle, on.library, {asked.hertz});
  if (!stages) return on.complain(stages.error());
  if (!asked.tube.empty()) {
    if (!stages->tube(asked.tube)) return on.complain({asked.tube, "is no tube at work in this design"}, badUse);
    std::erase_if(stages->tubes, [&](const auto& stage) { return stage.tube.name != asked.tube; });
  }
  const auto sheet = tell::sheetOf(tell::stages(), tell::toldStages(*stages, on.loaded.document.measured));
  print(on, sheet, "tubes", {{"hertz", asked.hertz}});
  return 0;
}

int printSwaps(const StagesAsked& asked, const Subject& on) {
  const auto idle = predict::predictIdle(on.design, on.library);
  if (!idle) return on.complain(idle.error());
  const auto swaps = predict::predictSwaps(*idle, on.library, {asked.tube, asked.hertz});
  if (!swaps) return on.complain(swaps.error(), codeOf(asked, swaps.error()));
  std::vector<tell::ToldSwap> rows;
  for (const auto& row : swaps->rows)
    rows.push_back({row, row.offered()});
  const auto sheet = tell::sheetOf(tell::swaps(), rows);
  print(on, sheet, "types", {{"tube", asked.tube}});
  return 0;
}

int printLevels(const StagesAsked& asked, const Subject& on) {
  const auto idle = predict::predictIdle(on.design, on.library);
  if (!idle) return on.complain(idle.error());
  const double inputRms = asked.inputRms.value_or(amp::sourceVolts(on.design, on.library));
  auto levels = predict::predictLevels(*idle, on.library, {asked.hertz, inputRms * std::numbers::sqrt2, true});
  if (!levels) return on.complain(levels.error());
  const auto clipping = predict::predictClipping(*idle, on.library, {asked.hertz});
  if (!clipping) return on.complain(clipping.error());
  predict::putWaves(*levels, *clipping);
  // Where its waves have no answer the rest has still.
  const auto found = predict::predictCleanPower(*idle, on.library);
  const auto clean = found ? found->power : std::nullopt;
  const auto sections = tell::sheetOf(tell::sections(), levels->sections);
  const auto order = tell::sheetOf(tell::limits(), clipping->limits);
  if (on.call.format == "json") {
    fmt::print("{}\n", Json{{"hertz", asked.hertz},
                            {"input_volts_rms", inputRms},
                            {"sections", tell::jsonOf(sections)},
                            {"limits", tell::jsonOf(order)},
                            {"speaker_watts", levels->speakerWatts ? Json(*levels->speakerWatts) : Json()},
                            {"feedback_decibels", levels->feedbackDecibels ? Json(*levels->feedbackDecibels) : Json()},
                            {"clean_power", clean ? powerJson(*clean) : Json()}}
                           .dump(1));
    return 0;
  }
  if (on.call.format == "text") {
    if (const auto* first = clipping->first())
      fmt::print("{} clips first, by {}, at {} rms in\n\n", first->tubes.front(), predict::words(first->kind),
                 units::reading(rms(first->inputPeak), Unit::volt, 3));
    else
      fmt::print("nothing clips under {} rms in\n\n", units::reading(rms(clipping->mostPeak), Unit::volt, 3));
  }
  print(sections, on.call.format);
  if (on.call.format == "text") {
    fmt::print("\n");
    print(order, on.call.format);
    if (!found) fmt::print("\nclean power is not known: {}\n", found.error().line());
    if (clean) {
      const auto watts = [](const predict::PowerAt& at) { return units::reading(at.watts, Unit::watt, 3); };
      fmt::print("\nclean power (5 % distortion, 1 kHz): {} at once with {} rms in{}{}; first bend at {}, {:.2g} %\n",
                 watts(clean->atOnce), units::reading(rms(clean->atOnce.inputPeak), Unit::volt, 3),
                 clean->sustained ? ", " + watts(*clean->sustained) + " sustained" : "",
                 clean->rough ? "; " + watts(*clean->rough) + " at 10 %" : "", watts(clean->bend),
                 100 * clean->bend.distortion);
      fmt::print("the input is {:+.0f} dB against that\n", units::decibels(inputRms / rms(clean->atOnce.inputPeak)));
    }
    if (clipping->ofSupply) fmt::print("\nwhether the supply sags is not known: {}\n", clipping->ofSupply->line());
  }
  return 0;
}

int printProposals(const StagesAsked& asked, const Subject& on) {
  using Wanted = predict::ProposeQuestion::Wanted;
  if ((asked.plate ? 1 : 0) + (asked.amps ? 1 : 0) + (asked.gain ? 1 : 0) != 1)
    return on.complain({"propose", "needs one of --plate, --current and --gain"}, badUse);
  const auto idle = predict::predictIdle(on.design, on.library);
  if (!idle) return on.complain(idle.error());
  const auto wanted = asked.plate ? Wanted::plateVolts : asked.amps ? Wanted::plateAmps : Wanted::gain;
  const double value = asked.plate ? *asked.plate : asked.amps ? *asked.amps : *asked.gain;
  const auto proposals = predict::predictProposals(*idle, on.library, {asked.tube, wanted, value, asked.hertz});
  if (!proposals) return on.complain(proposals.error(), codeOf(asked, proposals.error()));
  const auto unit = asked.plate ? Unit::volt : asked.amps ? Unit::ampere : Unit::none;
  const auto sheet = tell::sheetOf(tell::proposals(unit, *idle->circuit), proposals->sets);
  if (on.call.format == "text" && proposals->sets.empty())
    fmt::print("now {}; no stock values of the parts round {} come nearer\n", units::reading(proposals->now, unit, 4),
               units::printable(asked.tube));
  else
    print(on, sheet, "sets", {{"tube", asked.tube}, {"wanted", value}, {"now", proposals->now}});
  return 0;
}

using Print = int (*)(const StagesAsked&, const Subject&);
/// With the options that all of these have.
template <class Options>
Command ofStages(const char* group, const char* name, const char* about, Print print, Options more) {
  return {group, name, about, [print, more](CLI::App& options) -> OfDesign {
            auto asked = std::make_shared<StagesAsked>();
            addValue(options, "--frequency", Unit::hertz, asked->hertz, "of the signal (default 1 kHz)");
            more(options, *asked);
            return [print, asked](const Subject& on) { return print(*asked, on); };
          }};
}
CLI::Option* addTube(CLI::App& options, StagesAsked& asked) {
  return options.add_option("--tube", asked.tube, "by its name, V1a");
}

const Registered stages{ofStages("Stages", "stages",
                                 "every tube in its circuit: volts, gain, impedances, what ends its swing", printStages,
                                 addTube)};
const Registered swap{ofStages("Stages", "swap", "what every other type would do in a tube's place", printSwaps,
                               [](CLI::App& options, StagesAsked& asked) { addTube(options, asked)->required(); })};
const Registered levels{ofStages("Levels", "levels", "the signal at every section, and what clips in which order",
                                 printLevels, [](CLI::App& options, StagesAsked& asked) {
                                   addValue(options, "--input", Unit::volt, asked.inputRms,
                                            "volts rms at the jack (what the design's source gives: 100mV or 300mV)");
                                 })};
const Registered propose{
    ofStages("Stages", "propose", "stock values that bring a tube to wanted plate volts, current or gain",
             printProposals, [](CLI::App& options, StagesAsked& asked) {
               addTube(options, asked)->required();
               addValue(options, "--plate", Unit::volt, asked.plate, "wanted volts, plate to ground");
               addValue(options, "--current", Unit::ampere, asked.amps, "wanted plate current");
               addValue(options, "--gain", Unit::none, asked.gain, "wanted gain, times");
             })};

} // namespace
} // namespace vinegar::cli
