#include "cli/supply.h"

#include "amp/change/change.h"

#include "cli/command.h"
#include "cli/table.h"
#include "files/data_folder.h"
#include "files/phrases.h"
#include "predict/supply/supply_events.h"
#include "tell/supply.h"
#include "units/json.h"
#include "units/printable.h"

#include <cstdio>
#include <fmt/format.h>
#include <iterator>

namespace vinegar::cli {
namespace {

using units::Json;
using units::printable;

struct Told {
  const char* name;
  tell::Sheet sheet;
};
/// Everything that is read of a supply, and what of it is wrong.
std::vector<Told> toldOf(const predict::SupplyReport& report, double mainsHertz,
                         const std::vector<audit::Finding>& findings) {
  using tell::sheetOf;
  return {{"rails", sheetOf(tell::rails(mainsHertz), tell::rowsOf(report.rails))},
          {"rectifiers", sheetOf(tell::rectifiers(), report.rectifiers)},
          {"windings", sheetOf(tell::windings(), report.windings)},
          {"primaries", sheetOf(tell::primaries(), report.primaries)},
          {"heaters", sheetOf(tell::heaters(), report.heaters)},
          {"heater_cathode", sheetOf(tell::heaterCathodes(), report.heaterCathodes)},
          {"findings", sheetOf(tell::findings(), findings)}};
}

} // namespace

tl::expected<amp::Design, Problem> asAsked(const SupplyAsked& asked, amp::Design design, const amp::Library& library) {
  std::vector<amp::SetField> changes;
  bool placed = !asked.rectifier, fed = !asked.mains;
  for (const auto& part : amp::resolveParts(design, library)) {
    const auto set = [&](const char* field, const amp::Setting& to) -> std::optional<Problem> {
      if (auto problem = amp::checkSetting(part, field, to, library)) return problem;
      changes.push_back({part.name, field, part.settings.at(field), to});
      return std::nullopt;
    };
    std::optional<Problem> problem;
    if (part.part->kind == amp::PartKind::mains && asked.mains) {
      problem = set("value", *asked.mains);
      fed = true;
    }
    if (part.part->kind == amp::PartKind::rectifier && asked.rectifier) {
      problem = set("tube", *asked.rectifier);
      placed = true;
    }
    if (problem) return tl::unexpected(*problem);
  }
  if (!fed) return tl::unexpected(Problem{"--mains", "the design has no mains"});
  if (!placed) return tl::unexpected(Problem{"--rectifier", "the design has no rectifier that can be another type"});
  return amp::withChanges(std::move(design), library, changes);
}

static int printSupply(const SupplyAsked& asked, const Subject& on) {
  const auto design = asAsked(asked, on.design, on.library);
  if (!design) return on.complain(design.error(), badUse);
  const auto idle = predict::predictIdle(*design, on.library);
  if (!idle) return on.complain(idle.error());
  if (!idle->point.supply)
    return on.complain({"the supply", "has no mains and rectifier; start it with a transformer section"});
  const auto report = predict::readSupply(*idle->circuit, on.library, idle->point);
  auto findings = audit::auditIdle(*idle, on.library);
  const auto chord = files::readSound(files::dataFolder(), "chord", "guitar");
  auto played = audit::auditPlayed(*idle, on.library, {chord ? *chord : nullptr}, {});
  if (played) std::move(played->begin(), played->end(), std::back_inserter(findings));
  const auto told = toldOf(report, idle->circuit->supply.hertz, findings);
  if (on.call.format == "json") {
    Json json;
    for (const auto& [name, sheet] : told)
      json[name] = tell::jsonOf(sheet);
    json["primary"] = {{"rms_amps", report.primaryAmps}, {"watts", report.primaryWatts}, {"va", report.primaryVa}};
    json["load_amps"] = report.loadAmps;
    json["unplayed"] = played ? Json() : Json(played.error().line());
    fmt::print("{}\n", json.dump(1));
    return 0;
  }
  if (on.call.format == "csv") {
    print(told.front().sheet, "csv");
    return 0;
  }
  for (const auto& [name, sheet] : told) {
    if (sheet.rows.empty() || name == std::string_view("findings")) continue;
    print(sheet, "text");
    fmt::print("\n");
  }
  // Sentences, not cells: a line each.
  for (const auto& f : findings)
    fmt::print("{}{}{}{} {}\n", f.danger ? "DANGER " : "finding ", printable(f.part), f.part.empty() ? "" : ": ",
               printable(f.what), printable(f.cure));
  if (!played) fmt::print("what a hard chord does is not known: {}\n", printable(played.error().line()));
  return 0;
}

static int printSwitchOn(const SupplyAsked& asked, const Subject& on) {
  const auto design = asAsked(asked, on.design, on.library);
  if (!design) return on.complain(design.error(), badUse);
  const auto circuit = amp::compile(*design, on.library);
  if (!circuit) return on.complain(circuit.error());
  predict::SwitchOnQuestion question;
  using From = predict::SwitchOnQuestion::From;
  question.from = asked.from == "standby" ? From::standby : asked.from == "hot" ? From::hot : From::cold;
  question.seconds = asked.seconds;
  const auto answer = predict::switchOnOf(*circuit, on.library, question);
  if (!answer) return on.complain(answer.error());
  const auto highest = tell::sheetOf(tell::switchedOn(), tell::rowsOf(answer->rails));
  if (on.call.format == "json") {
    Json json{{"seconds", answer->seconds},
              {"settled_seconds", answer->settledAt},
              {"primary_peak_amps", answer->primaryPeakAmps},
              {"highest", tell::jsonOf(highest)}};
    for (const auto& rail : answer->rails)
      json["rails"].push_back({{"rail", rail.name}, {"volts", rail.mean}});
    for (std::size_t i = 0; i < answer->rectifiers.size(); ++i)
      json["rectifiers"].push_back({{"part", answer->rectifiers[i]}, {"peak_amps", answer->peakAmps[i]}});
    fmt::print("{}\n", json.dump());
    return 0;
  }
  const bool csv = on.call.format == "csv";
  tell::Columns<std::size_t> columns{{{"seconds", "seconds"}, [&](std::size_t k) { return answer->seconds[k]; }}};
  const auto rails = tell::rowsOf(answer->rails);
  for (const auto& rail : rails)
    // Before the tubes conduct next to nothing stands there: read to a tenth of a volt.
    columns.push_back({{rail.name, rail.name + ", V"}, [&rail, csv](std::size_t k) {
                         return csv ? tell::Cell(rail.mean[k]) : tell::Cell(fmt::format("{:.1f}", rail.mean[k]));
                       }});
  const std::size_t every = csv ? 1 : std::max<std::size_t>(answer->seconds.size() / 30, 1);
  print(tell::sheetOf(columns, tell::places(answer->seconds.size(), every)), on.call.format);
  if (csv) return 0;
  fmt::print("\n");
  print(highest, "text");
  for (std::size_t i = 0; i < answer->rectifiers.size(); ++i)
    fmt::print("{:<12} peak {}\n", printable(answer->rectifiers[i]),
               units::reading(answer->peakAmps[i], units::Unit::ampere));
  return 0;
}

static int printDischarge(const SupplyAsked& asked, const Subject& on) {
  const auto design = asAsked(asked, on.design, on.library);
  if (!design) return on.complain(design.error(), badUse);
  const auto idle = predict::predictIdle(*design, on.library);
  if (!idle) return on.complain(idle.error());
  std::vector<tell::ToldDischarge> rows;
  Json json;
  for (const bool tubes : {true, false}) {
    const auto answer = predict::predictDischarge(*idle, on.library, {tubes}, {});
    if (!answer) return on.complain(answer.error());
    json["seconds"][tubes ? "in" : "out"] = answer->seconds;
    for (const auto& rail : tell::rowsOf(answer->rails)) {
      rows.push_back({rail, tubes, answer->seconds.back()});
      json["volts"][tubes ? "in" : "out"][rail.name] = rail.volts;
    }
  }
  print(on, tell::sheetOf(tell::discharges(), rows), "rails", json);
  if (on.call.format == "text") fmt::print("Measure under 50 V before touching, whatever this says.\n");
  return 0;
}

namespace {

using PrintSupply = int (*)(const SupplyAsked&, const Subject&);
template <class Options> Command ofSupply(const char* name, const char* about, PrintSupply print, Options more) {
  return {"Supply", name, about, [print, more](CLI::App& options) -> OfDesign {
            auto asked = std::make_shared<SupplyAsked>();
            options.add_option("--rectifier", asked->rectifier, "another rectifier type");
            options.add_option("--mains", asked->mains, "other mains volts")->check(isFinite);
            more(options, *asked);
            return [print, asked](const Subject& on) { return print(*asked, on); };
          }};
}
const auto nothingMore = [](CLI::App&, SupplyAsked&) {};

const Registered supply{
    ofSupply("supply", "rails, ripple, rectifier, windings, heaters and findings at idle", printSupply, nothingMore)};
const Registered switchOn{ofSupply(
    "switch-on", "volts of every rail after the switch closes", printSwitchOn,
    [](CLI::App& options, SupplyAsked& asked) {
      options.add_option("--from", asked.from, "cold, standby or hot")
          ->check(CLI::IsMember({"cold", "standby", "hot"}));
      options.add_option("--seconds", asked.seconds, "how long")->check(isFinite)->check(CLI::Range(0.02, 600.0));
    })};
const Registered discharge{
    ofSupply("discharge", "volts after switch-off, tubes in and out", printDischarge, nothingMore)};

} // namespace
} // namespace vinegar::cli
