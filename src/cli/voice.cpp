#include "cli/command.h"

#include "amp/change/change.h"
#include "cli/output.h"
#include "cli/table.h"
#include "files/target_file.h"
#include "predict/rest/places.h"
#include "predict/voice/readouts.h"
#include "predict/voice/section_gains.h"
#include "predict/voice/tolerance.h"
#include "predict/voice/travel.h"
#include "tell/hiss.h"
#include "tell/ranking.h"
#include "tell/voice.h"
#include "units/printable.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fmt/format.h>

namespace vinegar::cli {
namespace {

struct VoiceAsked {
  std::string from = "jack", to; ///< `to` empty: as `endOf`
  std::string control, band, target, other;
  std::vector<std::string> parts;
  amp::Design otherDesign;                    ///< of the file `other`
  std::map<std::string, amp::Target> targets; ///< that the design keeps, by name
  std::vector<amp::ToneBand> bands;           ///< its own, or the usual
  predict::Tolerances tolerances;
  int builds = 500;
  bool cures = false;
};

using units::Json, units::Unit;

/// Asks an idle amplifier and prints what came of it, or why nothing did.
template <class Predict, class Print> int answer(VoiceAsked& asked, const Subject& on, Predict predict, Print print) {
  const auto idle = predict::predictIdle(on.design, on.library);
  if (!idle) return on.complain(idle.error());
  if (asked.to.empty()) asked.to = predict::endOf(*idle->circuit);
  for (const auto& probe : {asked.from, asked.to})
    if (idle->circuit->probe(probe) < 0)
      return on.complain({probe, "there is no probe or node of this name; `netlist` lists them"}, badUse);
  const auto answer = predict(*idle);
  if (!answer) {
    auto named = asked.parts; // what the call named itself
    named.insert(named.end(), {asked.control, asked.band, asked.target});
    const bool ofCall = std::find(named.begin(), named.end(), answer.error().place) != named.end();
    return on.complain(answer.error(), ofCall ? badUse : badDesign);
  }
  print(*answer, *idle);
  return 0;
}

std::string valueOf(const predict::Idle& idle, const std::string& part, double value) {
  const auto* compiled = idle.circuit->part(part);
  return units::schematic(value, compiled ? amp::valueUnit(compiled->resolved.part->kind) : Unit::none);
}

int printReadouts(VoiceAsked& asked, const Subject& on) {
  return answer(
      asked, on,
      [&](const auto& idle) {
        return predict::predictReadouts(idle, on.library, {asked.from, asked.to, asked.bands});
      },
      [&](const predict::Readouts& readouts, const auto&) {
        const auto columns = tell::readouts(on.design, on.library, predict::againstBand(asked.bands)->name);
        print(on, tell::sheetOf(columns, readouts.all), "readings", {{"from", asked.from}, {"to", asked.to}});
      });
}

int printRanking(VoiceAsked& asked, const Subject& on) {
  const auto comma = asked.band.find(',');
  const auto low = units::parse(asked.band.substr(0, comma), Unit::hertz);
  const auto high = comma == std::string::npos ? low : units::parse(asked.band.substr(comma + 1), Unit::hertz);
  if (!low || !high) return on.complain({"--band", "takes two frequencies, 300,600"}, badUse);
  return answer(
      asked, on,
      [&](const auto& idle) {
        return predict::predictRanking(idle, on.library, {asked.from, asked.to, *low, *high});
      },
      [&](const predict::Ranking& ranking, const auto& idle) {
        const auto table = tell::sheetOf(tell::rankedSteps(*idle.circuit), ranking.steps);
        print(on, table, "steps", {{"low_hertz", *low}, {"high_hertz", *high}});
      });
}

int printSweep(VoiceAsked& asked, const Subject& on) {
  return answer(
      asked, on,
      [&](const auto& idle) {
        return predict::predictTravel(idle, on.library, {asked.control, asked.from, asked.to});
      },
      [&](const predict::Travel& travel, const auto&) {
        tell::Columns<std::size_t> columns{
            {{"hertz", "frequency", Unit::hertz}, [&](std::size_t f) { return travel.hertz[f]; }}};
        for (const auto& curve : travel.curves) {
          const auto name = travel.isSwitch ? curve.title : fmt::format("{:.1f}", curve.setting);
          columns.push_back({{"at_" + name + "_decibels", name, Unit::decibel},
                             [&curve](std::size_t f) { return curve.decibels[f]; }});
        }
        const auto table = tell::sheetOf(columns, tell::places(travel.hertz.size()));
        Json tapers = Json::array(), values = Json::array();
        const auto thirds = [](const predict::Thirds& t) { return Json{t.share[0], t.share[1], t.share[2]}; };
        for (const auto& choice : travel.tapers)
          tapers.push_back({{"taper", choice.taper}, {"thirds", thirds(choice.thirds)}});
        for (const auto& choice : travel.values)
          values.push_back(
              {{"value", choice.value}, {"whole_decibels", choice.whole}, {"thirds", thirds(choice.thirds)}});
        if (on.call.format == "text") {
          fmt::print("{} moves the curve by {:.1f} dB from end to end\n", units::printable(travel.control),
                     travel.whole);
          if (!travel.isSwitch) {
            const auto say = [](const std::string& name, const predict::Thirds& t) {
              fmt::print("{:<14} {:>4.0f} % {:>4.0f} % {:>4.0f} %\n", name, 100 * t.share[0], 100 * t.share[1],
                         100 * t.share[2]);
            };
            fmt::print("of that in each third of its travel, now {}:\n", travel.taper);
            for (const auto& choice : travel.tapers)
              say(choice.taper, choice.thirds);
            for (const auto& choice : travel.values)
              say("as " + units::schematic(choice.value, Unit::ohm), choice.thirds);
          }
          fmt::print("\n");
        }
        print(on, table, "curves",
              {{"control", travel.control},
               {"whole_decibels", travel.whole},
               {"taper", travel.taper},
               {"thirds", thirds(travel.thirds)},
               {"tapers", tapers},
               {"values", values}});
      });
}

int printTolerance(VoiceAsked& asked, const Subject& on) {
  return answer(
      asked, on,
      [&](const auto& idle) {
        return predict::predictTolerance(idle, on.library, {asked.from, asked.to, asked.tolerances, asked.builds});
      },
      [&](const predict::Tolerance& tolerance, const auto&) {
        const auto table = tell::sheetOf(tell::spreads(), tell::spreadOf(tolerance));
        const auto culprits = tell::sheetOf(tell::culprits(), tolerance.culprits);
        if (on.call.format == "text") {
          fmt::print("{} builds of {}\n", tolerance.builds, predict::words(asked.tolerances));
          fmt::print("two builds differ by {:.1f} dB in level and {:.1f} dB rms in voice (half of all pairs by more)\n",
                     tolerance.level.middle, tolerance.voice.middle);
          fmt::print("\n");
          cli::print(culprits, "text");
          if (tolerance.failures > 0) fmt::print("{} builds had no answer\n", tolerance.failures);
          fmt::print("\n");
        }
        print(on, table, "band",
              {{"builds", tolerance.builds},
               {"tolerances", predict::words(asked.tolerances)},
               {"failures", tolerance.failures},
               {"level_decibels", tolerance.level.middle},
               {"voice_decibels", tolerance.voice.middle},
               {"culprits", tell::jsonOf(culprits)}});
      });
}

int printFit(VoiceAsked& asked, const Subject& on) {
  const auto kept = asked.targets.find(asked.target);
  auto question = kept != asked.targets.end() ? tl::expected<predict::FitQuestion, Problem>{kept->second}
                                              : files::readTarget(asked.target);
  if (!question && !asked.targets.empty() && !std::filesystem::exists(asked.target)) {
    std::string names;
    for (const auto& [name, target] : asked.targets)
      names += (names.empty() ? "\"" : ", \"") + name + '"';
    question.error().message += "; the design keeps " + names;
  }
  if (!question) return cli::complain(question.error(), badUse, on.call.format);
  if (!asked.parts.empty()) question->parts = asked.parts;
  return answer(
      asked, on,
      [&](const auto& idle) {
        auto spanned = *question; // the target says its span; a design without a loudspeaker has another end
        if (idle.circuit->probe(spanned.to) < 0) spanned.to = asked.to;
        return predict::predictFit(idle, on.library, spanned);
      },
      [&](const predict::Fit& fit, const auto& idle) {
        const auto table = tell::sheetOf(tell::fitSets(*idle.circuit), fit.sets);
        if (on.call.format == "text") {
          fmt::print("now {:.2f} dB rms from the target\n", fit.distance);
          for (const auto& dial : fit.searched)
            fmt::print("{} searched from {} to {}\n", units::printable(dial.part), valueOf(idle, dial.part, dial.from),
                       valueOf(idle, dial.part, dial.to));
          if (fit.sets.empty()) fmt::print("no stock values of these parts come nearer\n");
        }
        print(on, table, "sets", {{"distance_decibels", fit.distance}, {"tried", fit.tried}});
      });
}

int printComparison(VoiceAsked& asked, const Subject& on) {
  const auto& other = asked.otherDesign;
  const auto otherIdle = predict::predictIdle(other, on.library);
  if (!otherIdle)
    return cli::complain({asked.other + ": " + otherIdle.error().place, otherIdle.error().message}, badDesign,
                         on.call.format);
  const auto hertz = circuit::logSpaced(20, 20000, 31);
  if (asked.to.empty()) asked.to = predict::endOf(*otherIdle->circuit);
  const auto there = predict::predictResponse(*otherIdle, on.library, {asked.from, asked.to, hertz});
  if (!there)
    return cli::complain({asked.other + ": " + there.error().place, there.error().message}, badUse, on.call.format);
  return answer(
      asked, on,
      [&](const auto& idle) {
        return predict::predictResponse(idle, on.library, {asked.from, asked.to, hertz});
      },
      [&](const predict::Response& here, const auto& hereIdle) {
        const tell::Columns<std::size_t> columns{
            {{"hertz", "frequency", Unit::hertz}, [&](std::size_t f) { return hertz[f]; }},
            {{"first_decibels", "first", Unit::decibel}, [&](std::size_t f) { return here.decibels[f]; }},
            {{"second_decibels", "second", Unit::decibel}, [&](std::size_t f) { return there->decibels[f]; }},
            {{"over_decibels", "over it", Unit::decibel, tell::Style::change},
             [&](std::size_t f) { return here.decibels[f] - there->decibels[f]; }}};
        const auto levels = tell::sheetOf(columns, tell::places(hertz.size()));
        const predict::ReadoutsQuestion read{asked.from, asked.to, asked.bands};
        const auto hereReads = predict::predictReadouts(hereIdle, on.library, read),
                   thereReads = predict::predictReadouts(*otherIdle, on.library, read);
        const auto hereGains = predict::predictSectionGains(hereIdle, on.library, {}),
                   thereGains = predict::predictSectionGains(*otherIdle, on.library, {});
        const auto whole = [](const auto& one) { return one ? &*one : nullptr; };
        const auto differences =
            tell::sheetOf(tell::differences("first", "second"),
                          tell::differencesOf({on.design, whole(hereReads), whole(hereGains)},
                                              {other, whole(thereReads), whole(thereGains)}, on.library,
                                              predict::againstBand(asked.bands)->name));
        if (on.call.format == "text") {
          cli::print(levels, "text");
          fmt::print("\n");
          cli::print(differences, "text");
        } else {
          print(on, levels, "levels", {{"differences", tell::jsonOf(differences)}});
        }
      });
}

int printNoise(VoiceAsked& asked, const Subject& on) {
  return answer(
      asked, on, [&](const auto& idle) { return predict::predictHiss(idle, on.library, {asked.cures}); },
      [&](const predict::Hiss& hiss, const auto& idle) {
        auto worth = hiss.sources;
        if (on.call.format == "text") std::erase_if(worth, [](const auto& source) { return source.share < 0.001; });
        const auto sources = tell::sheetOf(tell::hissSources(), worth);
        const auto cures = tell::sheetOf(tell::hissCures(*idle.circuit), hiss.cures);
        if (on.call.format == "text") {
          fmt::print("{} at the speaker, {} as heard (curve A)", units::reading(hiss.volts, Unit::volt),
                     units::reading(hiss.weighted, Unit::volt));
          if (const auto under = hiss.underFull()) fmt::print(", {:.0f} dB under clean power", -*under);
          fmt::print("\n\n");
          cli::print(sources, "text");
          if (asked.cures) {
            fmt::print("\n");
            cli::print(cures, "text");
          }
          return;
        }
        const auto under = hiss.underFull();
        print(on, sources, "sources",
              {{"volts", hiss.volts},
               {"weighted_volts", hiss.weighted},
               {"under_clean_decibels", under ? Json(*under) : Json()},
               {"cures", tell::jsonOf(cures)}});
      });
}

using PrintVoice = int (*)(VoiceAsked&, const Subject&);
template <class Options>
Command ofVoice(const char* group, const char* name, const char* about, PrintVoice print, Options more) {
  return {group, name, about, [print, more](CLI::App& options) -> OfDesign {
            auto asked = std::make_shared<VoiceAsked>();
            more(options, *asked);
            return [print, asked](const Subject& on) {
              const auto& document = on.loaded.document;
              asked->targets = document.targets;
              asked->bands = document.bands.empty() ? predict::usualBands() : document.bands;
              if (!asked->other.empty()) {
                const auto other = on.load(asked->other);
                if (!other) return cli::complain(other.error(), badDesign, on.call.format);
                if (!other->note.empty()) cli::complain({asked->other, other->note}, 0);
                asked->otherDesign = *sheetOf(other->document, on.library, {}, asked->other);
              }
              return print(*asked, on);
            };
          }};
}
void addSpan(CLI::App& options, VoiceAsked& asked) {
  options.add_option("--from", asked.from, "probe or node (default jack)");
  options.add_option("--to", asked.to, "probe or node (default: the speaker, or the line's end)");
}

const Registered readouts{ofVoice("Voice", "readouts",
                                  "corners, dip, peak, levels and losses of a span, and what makes them", printReadouts,
                                  addSpan)};
const Registered ranking{
    ofVoice("Voice", "rank", "what one step of each part's dial does in a band, the strongest first", printRanking,
            [](CLI::App& options, VoiceAsked& asked) {
              addSpan(options, asked);
              options.add_option("--band", asked.band, "LOW,HIGH in Hz, or one frequency")->required();
            })};
const Registered sweeping{ofVoice("Voice", "sweep", "a control through its travel, and how evenly it works", printSweep,
                                  [](CLI::App& options, VoiceAsked& asked) {
                                    addSpan(options, asked);
                                    options.add_option("--control", asked.control, "a knob of the design")->required();
                                  })};
const Registered tolerating{ofVoice(
    "Voice", "tolerance", "the band that many builds of this design lie in", printTolerance,
    [](CLI::App& options, VoiceAsked& asked) {
      addSpan(options, asked);
      options.add_option("--builds", asked.builds, "how many (default 500)")->check(CLI::Range(2, 100000));
      auto& t = asked.tolerances;
      for (const auto& [option, into, what] : {std::tuple{"--resistors", &t.resistors, "resistors, a share (0.05)"},
                                               {"--film", &t.film, "capacitors under 1 uF (0.1)"},
                                               {"--electrolytic", &t.electrolytic, "capacitors from 1 uF on (0.2)"},
                                               {"--pots", &t.pots, "pots (0.2)"},
                                               {"--tubes", &t.tubes, "tubes' current and gm (0.2)"},
                                               {"--mu", &t.mu, "tubes' mu (0.05)"}})
        options.add_option(option, *into, what)->check(CLI::Range(0.0, 0.9));
    })};
const Registered fitting{ofVoice(
    "Voice", "fit", "stock values that come near a wanted curve", printFit, [](CLI::App& options, VoiceAsked& asked) {
      addSpan(options, asked);
      options.add_option("--target", asked.target, "one kept in the design, a target file, or CSV of Hz and dB")
          ->required();
      options.add_option("--part", asked.parts, "one that may move; the file's own if none is named");
    })};
const Registered comparing{ofVoice("Voice", "compare", "two designs side by side: levels, sections and parts",
                                   printComparison, [](CLI::App& options, VoiceAsked& asked) {
                                     addSpan(options, asked);
                                     options.add_option("OTHER", asked.other, "the other design's file")->required();
                                   })};
const Registered noise{ofVoice("Quiet", "noise", "hiss at the speaker, part by part", printNoise,
                               [](CLI::App& options, VoiceAsked& asked) {
                                 options.add_flag("--cures", asked.cures, "also what would quieten it");
                               })};

} // namespace
} // namespace vinegar::cli
