#include "tell/tubes.h"

#include "predict/rest/ratings.h"
#include "tell/words.h"

#include <cmath>

namespace vinegar::tell {
namespace {

using predict::StageReadings, units::Unit;

template <class Read> std::function<Cell(const ToldStage&)> of(Read read) {
  return [read](const ToldStage& told) { return Cell(std::invoke(read, told.stage)); };
}
/// Of the tube itself, as an operating point reads it.
template <class Value> std::function<Cell(const ToldStage&)> tube(Value predict::TubeReading::*value) {
  return [value](const ToldStage& told) { return Cell(told.stage.tube.*value); };
}

std::function<Cell(const ToldStage&)> readAt(const char* electrode) {
  return [electrode](const ToldStage& told) {
    const auto at = told.read.find(electrode);
    return at == told.read.end() ? Cell() : Cell(at->second);
  };
}

Cell plateWatts(const ToldStage& told) {
  const auto& tube = told.stage.tube;
  return Cell::held(tube.plateWatts, tube.plateWattsLimit, predict::plateRating(tube).over());
}

Cell ofRating(const ToldStage& told) {
  const auto watts = plateWatts(told);
  Cell cell = watts.limit ? Cell(*watts.figure / *watts.limit) : Cell();
  cell.over = watts.over;
  return cell;
}

std::optional<double> gridVolts(const std::optional<predict::CrestLimit>& limit) {
  return limit ? std::optional(limit->gridVolts) : std::nullopt;
}

} // namespace

std::optional<double> predictedAt(const predict::TubeReading& tube, const std::string& electrode) {
  if (electrode == "cathode") return tube.cathodeVoltsToGround;
  if (electrode == "plate") return tube.plateVolts + tube.cathodeVoltsToGround;
  if (electrode == "screen" && tube.screenVolts) return *tube.screenVolts + tube.cathodeVoltsToGround;
  return std::nullopt;
}

std::optional<double> offAt(const ToldStage& told, const std::string& electrode) {
  constexpr double ground = 0.01;
  const auto read = told.read.find(electrode);
  const auto predicted = predictedAt(told.stage.tube, electrode);
  if (read == told.read.end() || !predicted || std::abs(*predicted) <= ground) return std::nullopt;
  return read->second / *predicted - 1;
}

std::vector<ToldStage> toldStages(const predict::Stages& stages,
                                  const std::map<std::string, std::map<std::string, double>>& measured) {
  std::vector<ToldStage> told;
  for (const auto& stage : stages.tubes) {
    const auto read = measured.find(stage.tube.name);
    told.push_back({stage, read == measured.end() ? std::map<std::string, double>() : read->second});
  }
  return told;
}

const Columns<ToldStage>& stages() {
  using predict::TubeReading;
  static const Columns<ToldStage> columns{
      {{"tube", "tube"}, tube(&TubeReading::name)},
      {{"type", "type"}, tube(&TubeReading::type)},
      {{"use", "use"}, of([](const StageReadings& s) { return std::string(predict::words(s.kind)); })},
      {{"plate_to_ground_volts", "plate", Unit::volt, Style::reading, "to ground", "", true},
       of([](const StageReadings& s) { return predictedAt(s.tube, "plate"); })},
      {{"plate_read_volts", "read", Unit::volt, Style::reading, "what a meter reads, to ground", "", false, "", 4},
       readAt("plate")},
      {{"plate_off", "off", Unit::none, Style::shareChange, "what was read against what is predicted"},
       [](const ToldStage& t) { return offAt(t, "plate"); }},
      {{"cathode_to_ground_volts", "cathode", Unit::volt, Style::reading, "to ground", "", true},
       tube(&TubeReading::cathodeVoltsToGround)},
      {{"cathode_read_volts", "read", Unit::volt, Style::reading, "what a meter reads, to ground", "", false, "", 4},
       readAt("cathode")},
      {{"cathode_off", "off", Unit::none, Style::shareChange, "what was read against what is predicted"},
       [](const ToldStage& t) { return offAt(t, "cathode"); }},
      {{"plate_volts", "", Unit::volt}, tube(&TubeReading::plateVolts)},
      {{"grid_volts", "bias", Unit::volt, Style::reading, "grid to cathode", "", true}, tube(&TubeReading::gridVolts)},
      {{"screen_volts", "", Unit::volt}, tube(&TubeReading::screenVolts)},
      {{"screen_read_volts", "", Unit::volt}, readAt("screen")},
      {{"plate_amps", "current", Unit::ampere, Style::reading, "of the plate", "", true},
       tube(&TubeReading::plateAmps)},
      {{"screen_amps", "", Unit::ampere}, tube(&TubeReading::screenAmps)},
      {{"plate_watts", "watts", Unit::watt, Style::reading, "of the plate, at rest, of its rating", "plate_watts_limit",
        true},
       plateWatts},
      {{"plate_rating_share", "of rating", Unit::none, Style::share, "what the plate dissipates at rest, of its rating",
        "", true},
       ofRating},
      {{"gm_siemens", "gm", Unit::siemens}, tube(&TubeReading::gm)},
      {{"rp_ohms", "rp", Unit::ohm}, tube(&TubeReading::rp)},
      {{"mu", "mu"}, tube(&TubeReading::mu)},
      {{"published_mu"},
       of([](const StageReadings& s) { return s.published ? s.published->mu : std::optional<double>(); })},
      {{"gain", "gain", Unit::none, Style::reading, "from grid to plate, times", "", true}, of(&StageReadings::gain)},
      {{"gain_bypassed"}, of(&StageReadings::gainBypassed)},
      {{"gain_unbypassed"}, of(&StageReadings::gainUnbypassed)},
      {{"output_ohms", "output", Unit::ohm}, of(&StageReadings::outputOhms)},
      {{"input_farads", "", Unit::farad}, of(&StageReadings::inputFarads)},
      {{"miller_hertz", "Miller", Unit::hertz, Style::reading, "where its input capacitance takes half of the power"},
       of(&StageReadings::millerHertz)},
      {{"first_limit", "first limit", Unit::none, Style::reading, "how far its grid may be driven from its bias"},
       [](const ToldStage& t) { return limitCell(firstLimit(t.stage)); }},
      {{"grid_up"}, [](const ToldStage& t) { return limitCell(t.stage.up); }},
      {{"grid_up_volts", "", Unit::volt}, [](const ToldStage& t) { return gridVolts(t.stage.up); }},
      {{"grid_down"}, [](const ToldStage& t) { return limitCell(t.stage.down); }},
      {{"grid_down_volts", "", Unit::volt}, [](const ToldStage& t) { return gridVolts(t.stage.down); }}};
  return columns;
}

} // namespace vinegar::tell
