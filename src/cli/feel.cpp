#include "cli/command.h"

#include "cli/supply.h"
#include "cli/table.h"
#include "files/data_folder.h"
#include "files/phrases.h"
#include "predict/feel/feel_choices.h"
#include "tell/compression.h"
#include "tell/feel.h"

#include <cstdio>
#include <fmt/format.h>
#include <numbers>

namespace vinegar::cli {
namespace {

struct FeelAsked {
  std::string phrase = "chord", instrument = "guitar", recording, compare;
  std::optional<double> inputRms; ///< of a sine with the phrase's largest peak; none: what the design's source gives
  std::optional<std::string> rectifier;
};

using units::Json;
using units::Unit;

constexpr double fine = 48000, middling = 24000; // samples a second

tl::expected<std::shared_ptr<const predict::Sound>, Problem> soundOf(const FeelAsked& asked) {
  if (!asked.recording.empty()) return files::readRecording(asked.recording);
  return files::readSound(files::dataFolder(), asked.phrase, asked.instrument);
}

int printRows(const Subject& on, const predict::FeelRows& rows) {
  print(on, tell::sheetOf(tell::feelRows(rows.subject), rows.rows), "rows", {{"rail", rows.rail}});
  return 0;
}

int printLevels(const Subject& on, const predict::Compression& compression) {
  const auto sheet = tell::sheetOf(tell::compressionRows(compression.hasSupply), compression.rows);
  if (on.call.format == "json")
    fmt::print("{}\n", tell::jsonOf(sheet).dump(1));
  else
    print(sheet, on.call.format);
  return 0;
}

int printFeel(const FeelAsked& asked, const Subject& on) {
  const auto sound = soundOf(asked);
  if (!sound) return cli::complain(sound.error(), badUse, on.call.format);
  SupplyAsked other;
  other.rectifier = asked.rectifier;
  const auto design =
      asked.rectifier ? asAsked(other, on.design, on.library) : on.design; // a bench supply has none to change
  if (!design) return on.complain(design.error(), badUse);
  const auto idle = predict::predictIdle(*design, on.library);
  if (!idle) return on.complain(idle.error());
  const double inputRms = asked.inputRms.value_or(amp::sourceVolts(on.design, on.library));
  const double inputPeak = inputRms * std::numbers::sqrt2;
  if (asked.compare == "levels") {
    const auto levels = predict::predictCompression(*idle, on.library, {*sound, inputPeak, middling});
    return levels ? printLevels(on, *levels) : on.complain(levels.error());
  }
  if (!asked.compare.empty()) {
    using predict::FeelSubject;
    const auto subject = asked.compare == "rectifiers"   ? FeelSubject::rectifiers
                         : asked.compare == "conditions" ? FeelSubject::conditions
                         : asked.compare == "balance"    ? FeelSubject::balance
                                                         : FeelSubject::makers;
    const auto rows = predict::predictFeelRows(*idle, on.library, {subject, {*sound, inputPeak, middling}});
    return rows ? printRows(on, *rows) : on.complain(rows.error());
  }
  predict::BurstQuestion question{*sound, inputPeak, fine};
  question.mostStepError = 0.1;
  const auto feel = predict::predictFeel(*idle, on.library, question);
  if (!feel) return on.complain(feel.error());
  const auto blame = predict::predictBlame(*idle, on.library, {*sound, inputPeak, middling});
  if (!blame) return on.complain(blame.error());
  const auto rails = tell::sheetOf(tell::dips(), feel->rails), bias = tell::sheetOf(tell::biasMoves(), feel->bias),
             stresses = tell::sheetOf(tell::stresses(), feel->stresses);
  if (on.call.format == "csv") {
    print(rails, on.call.format);
    return 0;
  }
  if (on.call.format == "json") {
    Json json{{"played", (*sound)->title()}, {"input_volts_rms", inputRms}, {"rails", tell::jsonOf(rails)}};
    if (feel->fed >= 0) json["fed_rail"] = feel->rails[static_cast<std::size_t>(feel->fed)].rail;
    json["attack_loss_decibels"] = blame->attackLoss;
    json["attack_loss_seconds"] = blame->attackLossAt;
    json["bloom_decibels"] = blame->bloom;
    json["ripple_vpp"] = {{"rest", feel->rippleAtRest}, {"lowest", feel->rippleVolts}, {"hertz", feel->rippleHertz}};
    json["loudest"] = {{"volts", feel->outputVolts}, {"watts", feel->outputWatts}};
    json["bias"] = tell::jsonOf(bias);
    json["stresses"] = tell::jsonOf(stresses);
    fmt::print("{}\n", json.dump(1));
    return 0;
  }
  if (feel->rails.empty())
    fmt::print("its rails come from a bench supply, which holds them: nothing sags\n");
  else
    print(rails, on.call.format);
  fmt::print("\nattack loss {:.1f} dB at {:.0f} ms, bloom {:.1f} dB; loudest {}{}\n", blame->attackLoss,
             1000 * blame->attackLossAt, blame->bloom, units::reading(feel->outputVolts, Unit::volt),
             feel->outputWatts > 0 ? ", " + units::reading(feel->outputWatts, Unit::watt) : std::string());
  for (const auto* sheet : {&bias, &stresses})
    if (!sheet->rows.empty()) {
      fmt::print("\n");
      print(*sheet, on.call.format);
    }
  return 0;
}

const Registered feel{{"Feel", "feel", "a phrase played through amplifier and supply: droop, recovery, bias, stresses",
                       [](CLI::App& options) -> OfDesign {
                         auto asked = std::make_shared<FeelAsked>();
                         auto* phrase =
                             options.add_option("--phrase", asked->phrase, "chord, line, muted, swell or drone");
                         auto* instrument =
                             options.add_option("--instrument", asked->instrument, "guitar, bridge, bass or pure");
                         options.add_option("--recording", asked->recording, "a sound file instead, of up to 12 s")
                             ->excludes(phrase)
                             ->excludes(instrument);
                         addValue(options, "--level", Unit::volt, asked->inputRms,
                                  "at the jack, rms of a sine with the phrase's largest peak (what the design's source "
                                  "gives: 100mV or 300mV)");
                         options.add_option("--rectifier", asked->rectifier, "another rectifier type");
                         options.add_option("--compare", asked->compare, "other supplies, or levels, a row each")
                             ->check(CLI::IsMember({"rectifiers", "makers", "conditions", "balance", "levels"}));
                         return [asked](const Subject& on) { return printFeel(*asked, on); };
                       }}};

} // namespace
} // namespace vinegar::cli
