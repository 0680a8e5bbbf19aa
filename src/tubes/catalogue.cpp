#include "tubes/catalogue.h"

#include "units/json.h"

#include <cmath>

namespace vinegar::tubes {
namespace {

using units::JsonReader;

std::optional<double> scaled(std::optional<double> value, double factor) {
  if (value) *value *= factor;
  return value;
}

template <class Model> void readShared(const JsonReader& p, Model& m) {
  m.K = p.number("K");
  m.MU = p.number("MU");
  m.X = p.number("X");
  m.VCT = p.number("VCT");
  m.KP = p.number("KP");
  m.W0 = p.number("W0");
  m.LAM = p.number("LAM");
  m.N = p.number("N");
  m.VK0 = p.number("VK0");
  m.VC0 = p.number("VC0");
  if (!(m.K > 0 && m.MU > 0 && m.KP > 0 && m.X >= 1 && m.VK0 > 0 && m.W0 > 0 && m.VC0 > 0 && m.N > 0))
    p.fail("K, MU, KP, W0, N, VK0 and VC0 must be above 0 and X at least 1");
}

/// The law passes through the published drop.
void readRectifier(const JsonReader& file, TubeType& type) {
  constexpr double micro = 1e-6, milli = 1e-3;
  const auto drop = file.object("drop");
  type.dropVolts = drop.number("volts");
  type.dropAmps = drop.number("ma_per_plate") * milli;
  if (!(type.dropVolts > 0 && type.dropAmps > 0)) drop.fail("volts and ma_per_plate must be above 0");
  RectifierModel model;
  model.silicon = file.text("material") == "silicon";
  if (model.silicon)
    model.saturationAmps = type.dropAmps / std::expm1(type.dropVolts / (model.emission * 0.025852));
  else
    model.perveance = type.dropAmps / std::pow(type.dropVolts, 1.5);
  type.model = model;
  const auto limits = file.object("limits");
  type.limits.inverseVolts = limits.optionalNumber("piv");
  type.limits.peakAmps = scaled(limits.optionalNumber("peak_ma_per_plate"), milli);
  type.limits.directAmps = scaled(limits.optionalNumber("dc_ma_max"), milli);
  type.limits.mostFarads = scaled(limits.optionalNumber("max_input_c_uf"), micro);
  type.limits.mostFaradsNote = limits.text("max_input_c_note", "");
  if (!file.has("operations")) return;
  for (const auto& o : file.list("operations"))
    type.rectifierOperations.push_back({o.number("vac_rms_per_plate"), o.number("c_uf") * micro,
                                        o.number("dc_ma") * milli, o.number("dc_v"), o.optionalNumber("rt_ohm")});
}

TubeType readType(const JsonReader& file, bool withModel) {
  TubeType type;
  type.name = file.text("type");
  type.family = file.text("class");
  type.unitsInBottle = static_cast<int>(file.number("units_in_bottle"));
  if (file.has("aliases"))
    for (const auto& alias : file.list("aliases"))
      type.aliases.push_back(alias.asText());
  type.base = file.text("base", "");
  if (file.has("pins"))
    for (const auto& [pin, electrode] : file.at("pins").members())
      type.pins[pin] = electrode.asText();
  if (file.has("heater")) {
    const auto heater = file.object("heater");
    type.heaterVolts = heater.number("volts");
    type.heaterAmps = heater.number("amps", 0);
    // A cathode in a sleeve warms in some ten seconds, a bare filament in two.
    type.heatedDirectly = heater.flag("direct", false);
    type.warmSeconds = file.number("warm_seconds", type.heatedDirectly ? 2 : 11);
  }
  if (type.family == "rectifier") {
    readRectifier(file, type);
    return type;
  }
  if (type.family != "triode" && type.family != "pentode" && type.family != "beam")
    file.fail("class must be triode, pentode, beam or rectifier, not \"" + type.family + "\"");
  if (!withModel) {
    if (type.family == "triode")
      type.model = TriodeModel{};
    else
      type.model = PentodeModel{};
  } else if (const auto parameters = file.object("model").object("parameters"); type.family == "triode") {
    TriodeModel m;
    readShared(parameters, m);
    type.model = m;
  } else {
    PentodeModel m;
    readShared(parameters, m);
    m.MUP = parameters.number("MUP");
    m.S = parameters.number("S");
    m.M = parameters.number("M");
    if (!(m.MUP > 0 && m.S >= 0 && m.S < 0.5)) parameters.fail("MUP must be above 0 and S between 0 and 0.5");
    type.model = m;
  }
  if (withModel) {
    const auto grid = file.object("model").object("grid_current");
    type.grid = {grid.number("GF"), grid.number("VG0"), grid.number("WG")};
  }
  constexpr double pico = 1e-12, milli = 1e-3;
  if (file.has("capacitance_pf")) {
    const auto capacitance = file.object("capacitance_pf");
    type.capacitance = {capacitance.number("grid_plate", 0) * pico, capacitance.number("grid_cathode", 0) * pico,
                        capacitance.number("plate_cathode", 0) * pico};
  }
  const auto limits = file.object("limits");
  type.limits.plateVolts = limits.optionalNumber("plate_volts");
  type.limits.plateWatts = limits.optionalNumber("plate_watts");
  type.limits.screenVolts = limits.optionalNumber("screen_volts");
  type.limits.screenWatts = limits.optionalNumber("screen_watts");
  type.limits.heaterCathodeVolts = limits.optionalNumber("heater_cathode_volts");
  type.limits.cathodeAmps = scaled(limits.optionalNumber("cathode_ma"), milli);
  type.limits.gridLeakFixedOhms = limits.optionalNumber("grid_leak_fixed_ohm");
  type.limits.gridLeakCathodeOhms = limits.optionalNumber("grid_leak_cathode_ohm");
  type.limits.system = limits.text("system", "");
  for (const auto& point : file.list("characteristics"))
    type.published.push_back({point.number("vp"), point.number("vg1"), point.number("ip_ma") * milli,
                              point.optionalNumber("vg2"), scaled(point.optionalNumber("ig2_ma"), milli),
                              scaled(point.optionalNumber("gm_ms"), milli), point.optionalNumber("mu"),
                              point.optionalNumber("rp_ohm"), point.optionalNumber("mu_g1g2"), point.has("connection"),
                              point.text("exception", "")});
  if (file.has("operations"))
    for (const auto& o : file.list("operations"))
      type.operations.push_back({static_cast<int>(o.number("tubes")), o.number("vp"), o.optionalNumber("vg2"),
                                 o.optionalNumber("vg1"), o.optionalNumber("rk_ohm"), o.optionalNumber("drive_peak_v"),
                                 o.number("load_ohm"), o.number("power_w"), scaled(o.optionalNumber("thd_pct"), 0.01),
                                 scaled(o.optionalNumber("ip0_ma"), milli), scaled(o.optionalNumber("ipmax_ma"), milli),
                                 scaled(o.optionalNumber("ig2_0_ma"), milli),
                                 scaled(o.optionalNumber("ig2_max_ma"), milli)});
  return type;
}

} // namespace

tl::expected<TubeType, Problem> readTubeFile(const std::filesystem::path& path, bool withModel) {
  const auto text = units::readFile(path);
  if (!text) return tl::unexpected(text.error());
  const auto json = units::parseJson(*text, path.string());
  if (!json) return tl::unexpected(json.error());
  try {
    return readType(JsonReader(*json, path.string()), withModel);
  } catch (const units::JsonMistake& mistake) {
    return tl::unexpected(mistake.problem);
  }
}

tl::expected<Catalogue, Problem> Catalogue::load(const std::filesystem::path& folder) {
  Catalogue catalogue;
  const auto problem =
      units::readJsonFolder(folder, [&](const JsonReader& file) { catalogue.take(readType(file, true)); });
  if (problem) return tl::unexpected(*problem);
  return catalogue;
}

void Catalogue::take(TubeType type) {
  for (const auto& alias : type.aliases)
    aliases_[alias] = type.name;
  types_[type.name] = std::move(type);
}

void Catalogue::addOwn(const JsonReader& file) {
  auto type = readType(file, true);
  type.ownText = file.raw().dump();
  std::vector<std::string> names{type.name};
  names.insert(names.end(), type.aliases.begin(), type.aliases.end());
  for (const auto& name : names)
    if (const auto* known = find(name); known && (known->ownText.empty() || known->name != type.name))
      file.fail("the catalogue has a \"" + name + "\" already; give yours another name");
  take(std::move(type));
}

void Catalogue::withdraw(const std::string& name) {
  if (const auto found = types_.find(name); found != types_.end()) found->second.offered = false;
}

const TubeType* Catalogue::find(const std::string& nameOrAlias) const {
  if (const auto type = types_.find(nameOrAlias); type != types_.end()) return &type->second;
  if (const auto alias = aliases_.find(nameOrAlias); alias != aliases_.end()) return find(alias->second);
  return nullptr;
}

const TubeType* Catalogue::otherHalf(const TubeType& type) const {
  if (type.unitsInBottle == 2) return &type;
  const auto bottle = type.name.substr(0, type.name.find(':') + 1);
  if (bottle.empty()) return nullptr;
  for (const auto& [name, other] : types_)
    if (name != type.name && name.starts_with(bottle)) return &other;
  return nullptr;
}

} // namespace vinegar::tubes
