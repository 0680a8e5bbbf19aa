#include "cli/supply.h"

#include "amp/change/change.h"

#include "cli/command.h"
#include "files/data_folder.h"
#include "files/phrases.h"
#include "files/results_json.h"
#include "predict/supply/supply_events.h"
#include "units/csv.h"
#include "units/json.h"
#include "units/printable.h"

#include <cstdio>
#include <fmt/format.h>
#include <iterator>

namespace vinegar::cli {
namespace {

using units::Json;
using units::printable;
using units::Unit;

std::string read(double value, Unit unit, int digits = 4) { return units::reading(value, unit, digits); }

Json readingJson(const predict::SupplyReport& report) {
  Json json;
  for (const auto& rail : report.rails)
    json["rails"].push_back({{"name", rail.name},
                             {"volts", rail.volts},
                             {"ripple_vpp", rail.rippleVpp},
                             {"harmonic_volts_peak", rail.harmonics}});
  for (const auto& r : report.rectifiers)
    json["rectifiers"].push_back({{"part", r.part},
                                  {"type", r.type},
                                  {"peak_amps", r.peakAmps},
                                  {"rms_amps", r.rmsAmps},
                                  {"mean_amps", r.meanAmps},
                                  {"total_amps", r.totalAmps},
                                  {"conduction_degrees", r.conductionDegrees},
                                  {"inverse_volts", r.inverseVolts},
                                  {"drop_volts", r.meanDropVolts}});
  for (const auto& w : report.windings)
    json["windings"].push_back({{"part", w.part},
                                {"name", w.name},
                                {"rms_amps", w.rmsAmps},
                                {"rated_amps", w.ratedAmps},
                                {"rms_volts", w.rmsVolts}});
  for (const auto& h : report.heaters)
    json["heaters"].push_back(
        {{"part", h.part}, {"nominal_volts", h.nominalVolts}, {"rms_volts", h.rmsVolts}, {"rms_amps", h.rmsAmps}});
  for (const auto& hk : report.heaterCathodes)
    json["heater_cathode"].push_back(
        {{"tube", hk.tube}, {"volts", hk.volts}, {"limit", hk.limit ? Json(*hk.limit) : Json()}});
  json["primary"] = {{"rms_amps", report.primaryAmps}, {"watts", report.primaryWatts}, {"va", report.primaryVa}};
  json["load_amps"] = report.loadAmps;
  return json;
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
  if (on.call.format == "json") {
    auto json = readingJson(report);
    json["findings"] = Json::array();
    for (const auto& f : findings)
      json["findings"].push_back({{"part", f.part}, {"what", f.what}, {"cure", f.cure}, {"danger", f.danger}});
    json["unplayed"] = played ? Json() : Json(played.error().line());
    fmt::print("{}\n", json.dump(1));
    return 0;
  }
  if (on.call.format == "csv") {
    fmt::print("rail,volts,ripple_vpp\n");
    for (const auto& rail : report.rails)
      fmt::print("{},{:.9g},{:.9g}\n", units::csvCell(rail.name), rail.volts, rail.rippleVpp);
    return 0;
  }
  for (const auto& rail : report.rails)
    fmt::print("{:<12} {:>10}  ripple {:>10} pp\n", printable(rail.name), read(rail.volts, Unit::volt),
               read(rail.rippleVpp, Unit::volt, 3));
  for (const auto& r : report.rectifiers)
    fmt::print("{:<6} {:<8} peak {}, rms {}, mean {} a plate, {:.0f} degrees, {} in reverse\n", printable(r.part),
               r.type, read(r.peakAmps, Unit::ampere, 3), read(r.rmsAmps, Unit::ampere, 3),
               read(r.meanAmps, Unit::ampere, 3), r.conductionDegrees, read(r.inverseVolts, Unit::volt, 3));
  for (const auto& w : report.windings)
    fmt::print("{:<6} {:<10} {} rms of {} ({:.0f} %)\n", printable(w.part), printable(w.name),
               read(w.rmsAmps, Unit::ampere, 3), read(w.ratedAmps, Unit::ampere, 3), 100 * w.share());
  for (const auto& h : report.heaters)
    fmt::print("{:<6} {:<10} {} rms, {}\n", printable(h.part), "heaters", read(h.rmsVolts, Unit::volt, 3),
               read(h.rmsAmps, Unit::ampere, 3));
  fmt::print("primary {} rms, {} of {:.1f} VA\n", read(report.primaryAmps, Unit::ampere, 3),
             read(report.primaryWatts, Unit::watt, 3), report.primaryVa);
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
  if (on.call.format == "json") {
    Json json{{"seconds", answer->seconds},
              {"settled_at", answer->settledAt},
              {"primary_peak_amps", answer->primaryPeakAmps}};
    for (const auto& rail : answer->rails)
      json["rails"].push_back(
          {{"name", rail.name}, {"volts", rail.mean}, {"highest", rail.highest}, {"highest_at", rail.highestAt}});
    for (std::size_t i = 0; i < answer->rectifiers.size(); ++i)
      json["rectifiers"].push_back({{"part", answer->rectifiers[i]}, {"peak_amps", answer->peakAmps[i]}});
    fmt::print("{}\n", json.dump());
    return 0;
  }
  const char* separator = on.call.format == "csv" ? "," : "  ";
  fmt::print("seconds");
  for (const auto& rail : answer->rails)
    fmt::print("{}{:>8}", separator, on.call.format == "csv" ? units::csvCell(rail.name) : printable(rail.name));
  fmt::print("\n");
  const std::size_t step = on.call.format == "csv" ? 1 : std::max<std::size_t>(answer->seconds.size() / 30, 1);
  for (std::size_t k = step - 1; k < answer->seconds.size(); k += step) {
    fmt::print("{:7.2f}", answer->seconds[k]);
    for (const auto& rail : answer->rails)
      fmt::print("{}{:8.1f}", separator, rail.mean[k]);
    fmt::print("\n");
  }
  if (on.call.format == "csv") return 0;
  for (const auto& rail : answer->rails)
    fmt::print("{:<12} highest {} at {:.2f} s\n", printable(rail.name), read(rail.highest, Unit::volt), rail.highestAt);
  for (std::size_t i = 0; i < answer->rectifiers.size(); ++i)
    fmt::print("{:<12} peak {}\n", printable(answer->rectifiers[i]), read(answer->peakAmps[i], Unit::ampere, 3));
  return 0;
}

static int printDischarge(const SupplyAsked& asked, const Subject& on) {
  const auto design = asAsked(asked, on.design, on.library);
  if (!design) return on.complain(design.error(), badUse);
  const auto idle = predict::predictIdle(*design, on.library);
  if (!idle) return on.complain(idle.error());
  Json json;
  if (on.call.format == "csv") fmt::print("tubes,rail,seconds_to_50\n");
  for (const bool tubes : {true, false}) {
    const auto answer = predict::predictDischarge(*idle, on.library, {tubes}, {});
    if (!answer) return on.complain(answer.error());
    for (const auto& rail : answer->rails) {
      const auto time = rail.secondsTo50 ? fmt::format("{:.1f} s", *rail.secondsTo50)
                                         : fmt::format("over {:.0f} s", answer->seconds.back());
      if (on.call.format == "json")
        json[tubes ? "tubes_in" : "tubes_out"].push_back(
            {{"rail", rail.name},
             {"seconds", answer->seconds},
             {"volts", rail.volts},
             {"seconds_to_50", rail.secondsTo50 ? Json(*rail.secondsTo50) : Json()}});
      else if (on.call.format == "csv")
        fmt::print("{},{},{}\n", tubes ? "in" : "out", units::csvCell(rail.name),
                   rail.secondsTo50 ? fmt::format("{:.6g}", *rail.secondsTo50) : "");
      else
        fmt::print("{:<12} tubes {:<4} {:>9} -> 50 V in {}\n", printable(rail.name), tubes ? "in" : "out",
                   read(rail.volts.front(), Unit::volt), time);
    }
  }
  if (on.call.format == "json") fmt::print("{}\n", json.dump());
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
