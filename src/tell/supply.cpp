#include "tell/supply.h"

#include "predict/supply/held.h"

#include <cmath>
#include <fmt/format.h>

namespace vinegar::tell {

using audit::Finding;
using predict::HeaterCathodeReading, predict::HeaterReading, predict::PrimaryReading, predict::RailReading,
    predict::RailTrace, predict::RectifierReading, predict::WindingReading;
using units::Unit;

Columns<RailReading> rails(double mainsHertz) {
  Columns<RailReading> columns{
      {{"rail", "rail"}, &RailReading::name},
      {{"volts", "volts", Unit::volt, Style::reading, "mean", "", true, "", 4}, &RailReading::volts},
      {{"ripple_volts_peak_to_peak", "ripple, pp", Unit::volt, Style::reading, "peak to peak", "", true},
       &RailReading::rippleVpp}};
  for (const std::size_t k : {1, 2, 4, 6})
    columns.push_back(
        {{fmt::format("harmonic_{}_peak_volts", k), fmt::format("{:.0f} Hz", static_cast<double>(k) * mainsHertz),
          Unit::volt, Style::reading, "of the ripple, peak", "", false, "", 2},
         [k](const RailReading& r) { return k < r.harmonics.size() ? Cell(r.harmonics[k]) : Cell(); }});
  return columns;
}

const Columns<RectifierReading>& rectifiers() {
  static const Columns<RectifierReading> columns{
      {{"part", "part"}, &RectifierReading::part},
      {{"type", "type"}, &RectifierReading::type},
      {{"peak_amps", "peak", Unit::ampere, Style::reading, "of the plate that works hardest"},
       &RectifierReading::peakAmps},
      {{"rms_amps", "rms", Unit::ampere}, &RectifierReading::rmsAmps},
      {{"mean_amps", "mean", Unit::ampere, Style::reading, "of one plate"}, &RectifierReading::meanAmps},
      {{"total_amps", "all plates", Unit::ampere, Style::reading, "mean, together"}, &RectifierReading::totalAmps},
      {{"conduction_degrees", "conducts, \u00b0", Unit::none, Style::reading, "of the mains' 360, one plate"},
       &RectifierReading::conductionDegrees},
      {{"inverse_volts", "in reverse", Unit::volt, Style::reading, "the most"}, &RectifierReading::inverseVolts},
      {{"drop_volts", "drop", Unit::volt, Style::reading, "mean over the conduction"},
       &RectifierReading::meanDropVolts}};
  return columns;
}

const Columns<WindingReading>& windings() {
  static const Columns<WindingReading> columns{
      {{"part", "part"}, &WindingReading::part},
      {{"winding", "winding"}, &WindingReading::name},
      {{"rms_volts", "volts rms", Unit::volt}, &WindingReading::rmsVolts},
      {{"rms_amps", "ampere rms", Unit::ampere, Style::reading, "of what it is rated for", "rated_amps"},
       [](const WindingReading& w) { return Cell::held(w.rmsAmps, w.ratedAmps, predict::ratingOf(w).over()); }},
      {{"load_share", "load", Unit::none, Style::share}, [](const WindingReading& w) {
         Cell cell(w.share());
         cell.over = predict::ratingOf(w).over();
         return cell;
       }}};
  return columns;
}

const Columns<PrimaryReading>& primaries() {
  static const Columns<PrimaryReading> columns{{{"part", "primary"}, &PrimaryReading::part},
                                               {{"rms_amps", "ampere rms", Unit::ampere}, &PrimaryReading::rmsAmps},
                                               {{"watts", "watts", Unit::watt}, &PrimaryReading::watts},
                                               {{"va", "VA"}, &PrimaryReading::va}};
  return columns;
}

const Columns<HeaterReading>& heaters() {
  static const Columns<HeaterReading> columns{
      {{"part", "heaters"}, &HeaterReading::part},
      {{"nominal_volts", "made for", Unit::volt, Style::reading, "", "", false, "", 2}, &HeaterReading::nominalVolts},
      {{"rms_volts", "get", Unit::volt},
       [](const HeaterReading& h) {
         constexpr double allowed = 0.1; // as every data sheet has it
         Cell cell(h.rmsVolts);
         cell.over = std::abs(h.rmsVolts / h.nominalVolts - 1) > allowed;
         return cell;
       }},
      {{"rms_amps", "draw", Unit::ampere}, &HeaterReading::rmsAmps},
      {{"mean_volts", "above ground", Unit::volt, Style::reading, "of the string's middle"},
       [](const HeaterReading& h) {
         constexpr double nothing = 0.05;
         return Cell(std::abs(h.meanVolts) < nothing ? 0 : h.meanVolts);
       }}};
  return columns;
}

const Columns<HeaterCathodeReading>& heaterCathodes() {
  static const Columns<HeaterCathodeReading> columns{
      {{"tube", "tube"}, &HeaterCathodeReading::tube},
      {{"volts", "cathode over heater", Unit::volt, Style::reading, "", "limit_volts"},
       [](const HeaterCathodeReading& h) {
         return Cell::held(h.volts, h.limit, std::abs(h.volts) > h.limit.value_or(predict::usualHeaterCathodeLimit));
       }}};
  return columns;
}

const Columns<RailTrace>& switchedOn() {
  static const Columns<RailTrace> columns{
      {{"rail", "rail"}, &RailTrace::name},
      {{"highest_volts", "highest", Unit::volt, Style::reading, "", "", true, "", 4}, &RailTrace::highest},
      {{"highest_seconds", "at", Unit::none, Style::time}, &RailTrace::highestAt},
      {{"end_volts", "at the end", Unit::volt, Style::reading, "", "", true, "", 4},
       [](const RailTrace& r) { return r.mean.empty() ? Cell() : Cell(r.mean.back()); }}};
  return columns;
}

const Columns<ToldDischarge>& discharges() {
  static const Columns<ToldDischarge> columns{
      {{"rail", "rail"}, [](const ToldDischarge& d) { return d.rail.name; }},
      {{"tubes", "tubes"}, [](const ToldDischarge& d) { return std::string(d.tubesIn ? "in" : "out"); }},
      {{"at_first_volts", "at first", Unit::volt, Style::reading, "", "", false, "", 4},
       [](const ToldDischarge& d) { return d.rail.volts.empty() ? Cell() : Cell(d.rail.volts.front()); }},
      {{"to_50_volts_seconds", "under 50 V in", Unit::none, Style::time, "", "", true}, [](const ToldDischarge& d) {
         return d.rail.secondsTo50 ? Cell(*d.rail.secondsTo50)
                                   : Cell(Said("over %1 s", {fmt::format("{:.0f}", d.asked)}));
       }}};
  return columns;
}

const Columns<Finding>& findings() {
  const auto held = [](auto read) {
    return [read](const Finding& f) { return f.rating ? Cell(read(*f.rating)) : Cell(); };
  };
  using predict::Rating;
  static const Columns<Finding> columns{
      {{"part", "part"}, &Finding::part},
      {{"danger", "danger"},
       [](const Finding& f) {
         Cell cell(std::string(f.danger ? "danger" : ""));
         cell.over = f.danger;
         return cell;
       }},
      {{"what", "what"}, &Finding::what},
      {{"cure", "cure"}, &Finding::cure},
      {{"quantity"}, held([](const Rating& r) { return std::string(predict::words(r.quantity)); })},
      {{"value"}, held([](const Rating& r) { return r.value; })},
      {{"limit"}, held([](const Rating& r) { return r.limit; })},
      {{"unit"}, held([](const Rating& r) { return std::string(units::symbol(predict::unitOf(r.quantity))); })}};
  return columns;
}

} // namespace vinegar::tell
