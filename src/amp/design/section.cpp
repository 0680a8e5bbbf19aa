#include "amp/design/part_kinds.h"

#include <algorithm>
#include <map>

namespace vinegar::amp {

using units::Unit;

const std::vector<KindFacts>& kinds() {
  static const std::vector<KindFacts> all{
      {PartKind::resistor, "resistor", "R", Unit::ohm, 2, 2, {{"ratedWatts", Unit::watt, 0}}},
      {PartKind::capacitor, "capacitor", "C", Unit::farad, 2, 2, {{"ratedVolts", Unit::volt, 0}}},
      {PartKind::inductor, "inductor", "L", Unit::henry, 2, 2, {{"ohms", Unit::ohm, {}}}},
      {PartKind::pot, "pot", "P", Unit::ohm, 3, 3, {}},
      {PartKind::selector, "switch", "S", Unit::none, 2, 7, {}},
      {PartKind::triode, "triode", "V", Unit::none, 3, 3, {}},
      {PartKind::pentode, "pentode", "V", Unit::none, 4, 4, {}},
      {PartKind::zener, "zener", "D", Unit::volt, 2, 2, {{"testAmps", Unit::ampere, {}}, {"ohms", Unit::ohm, {}}}},
      {PartKind::outputTransformer,
       "output-transformer",
       "T",
       Unit::ohm,
       4,
       7,
       {{"secondaryLoad", Unit::ohm, {}},
        {"primaryInductance", Unit::henry, {}},
        {"leakageInductance", Unit::henry, {}},
        {"primaryOhms", Unit::ohm, {}},
        {"secondaryOhms", Unit::ohm, {}},
        {"shuntFarads", Unit::farad, {}},
        {"coreLossOhms", Unit::ohm, {}},
        {"bendFlux", Unit::none, 0}}},
      {PartKind::transformer,
       "transformer",
       "T",
       Unit::none,
       4,
       4,
       {{"primaryInductance", Unit::henry, {}},
        {"leakageInductance", Unit::henry, {}},
        {"primaryOhms", Unit::ohm, {}},
        {"secondaryOhms", Unit::ohm, {}},
        {"shuntFarads", Unit::farad, {}},
        {"coreLossOhms", Unit::ohm, {}},
        {"bendFlux", Unit::none, 0}}},
      {PartKind::speaker,
       "speaker",
       "LS",
       Unit::ohm,
       2,
       2,
       {{"voiceCoilShare", Unit::none, {}},
        {"voiceCoilInductance", Unit::henry, {}},
        {"eddyOhms", Unit::ohm, {}},
        {"resonanceHertz", Unit::hertz, {}},
        {"mechanicalQ", Unit::none, {}},
        {"electricalQ", Unit::none, {}}}},
      {PartKind::springTank,
       "spring-tank",
       "TK",
       Unit::ohm,
       4,
       4,
       {{"outputOhms", Unit::ohm, {}},
        {"transferOhms", Unit::ohm, {}},
        {"delayMilliseconds", Unit::none, {}},
        {"decaySeconds", Unit::none, {}},
        {"trebleHertz", Unit::hertz, {}}}},
      {PartKind::signalSource, "signal-source", "G", Unit::volt, 1, 1, {}},
      {PartKind::voltageSource, "voltage-source", "B", Unit::volt, 1, 1, {}},
      {PartKind::biasSource, "bias-source", "B", Unit::volt, 1, 1, {}},
      {PartKind::mains, "mains", "M", Unit::volt, 2, 2, {{"nominalVolts", Unit::volt, {}}, {"hertz", Unit::hertz, {}}}},
      {PartKind::fuse, "fuse", "F", Unit::ampere, 2, 2, {{"ohms", Unit::ohm, 0.1}}},
      {PartKind::powerTransformer,
       "power-transformer",
       "T",
       Unit::volt,
       4,
       14,
       {{"primaryOhms", Unit::ohm, {}}, {"primaryInductance", Unit::henry, {}}, {"regulation", Unit::none, 0.1}}},
      {PartKind::rectifier, "rectifier", "V", Unit::none, 3, 3, {}},
      {PartKind::diode, "diode", "D", Unit::none, 2, 2, {}},
      {PartKind::heaters, "heaters", "H", Unit::volt, 2, 2, {}}};
  return all;
}

const PartTemplate* SectionTemplate::part(const std::string& ref) const {
  const auto found = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.ref == ref; });
  return found == parts.end() ? nullptr : &*found;
}

const Port* SectionTemplate::port(const std::string& name) const {
  const auto found = std::find_if(ports.begin(), ports.end(), [&](const auto& p) { return p.name == name; });
  return found == ports.end() ? nullptr : &*found;
}

bool fits(PartKind kind, const tubes::TubeType& type) {
  switch (kind) {
  case PartKind::triode:
    return type.isTriode();
  case PartKind::pentode:
    return !type.isTriode() && !type.isRectifier();
  case PartKind::rectifier:
    return type.isRectifier();
  case PartKind::diode:
    return type.isSilicon();
  default:
    return false;
  }
}

units::Unit settingUnit(PartKind kind, const std::string& field) {
  if (field == "value") return facts(kind).unit;
  for (const auto& parameter : facts(kind).parameters)
    if (parameter.name == field) return parameter.unit;
  if (kind == PartKind::powerTransformer)
    for (const auto& [suffix, unit] : {std::pair{"Volts", Unit::volt}, {"Amps", Unit::ampere}, {"Ohms", Unit::ohm}})
      if (field.ends_with(suffix)) return unit;
  return Unit::none;
}

std::string fieldWords(const std::string& field) {
  static const std::map<std::string, std::string> words{{"value", "Value"},
                                                        {"tube", "Type"},
                                                        {"taper", "Taper"},
                                                        {"fitted", "Fitted"},
                                                        {"ohms", "Winding resistance"},
                                                        {"secondaryLoad", "Rated load"},
                                                        {"primaryInductance", "Primary inductance"},
                                                        {"leakageInductance", "Leakage inductance"},
                                                        {"primaryOhms", "Primary resistance"},
                                                        {"secondaryOhms", "Secondary resistance"},
                                                        {"shuntFarads", "Shunt capacitance"},
                                                        {"coreLossOhms", "Core loss"},
                                                        {"voiceCoilShare", "Coil resistance / rating"},
                                                        {"voiceCoilInductance", "Coil inductance"},
                                                        {"eddyOhms", "Eddy-current loss"},
                                                        {"resonanceHertz", "Resonance"},
                                                        {"mechanicalQ", "Mechanical Q"},
                                                        {"electricalQ", "Electrical Q"},
                                                        {"testAmps", "Test current"},
                                                        {"bendFlux", "Core bends at (V s, 0: never)"},
                                                        {"tapShare", "Screen tap"},
                                                        {"outputOhms", "Output impedance"},
                                                        {"transferOhms", "Volts out per ampere in"},
                                                        {"delayMilliseconds", "Delay, ms"},
                                                        {"decaySeconds", "Decay to -60 dB, s"},
                                                        {"trebleHertz", "Treble limit"},
                                                        {"given", "Its volts are"},
                                                        {"regulation", "Regulation, share"},
                                                        {"ratedVolts", "Rated volts"},
                                                        {"ratedWatts", "Rated watts"},
                                                        {"nominalVolts", "Nominal volts"},
                                                        {"hertz", "Frequency"},
                                                        {"htVolts", "HT volts rms, a half"},
                                                        {"htAmps", "HT rated rms"},
                                                        {"htOhms", "HT resistance, a half"},
                                                        {"rectifierVolts", "Rectifier heater volts"},
                                                        {"rectifierAmps", "Rectifier heater rated"},
                                                        {"rectifierOhms", "Rectifier heater ohms"},
                                                        {"heaterVolts", "Heater volts"},
                                                        {"heaterAmps", "Heater rated"},
                                                        {"heaterOhms", "Heater resistance"},
                                                        {"biasVolts", "Bias volts"},
                                                        {"biasAmps", "Bias rated"},
                                                        {"biasOhms", "Bias resistance"},
                                                        {"reversed", "Secondary leads swapped"}};
  if (const auto found = words.find(field); found != words.end()) return found->second;
  for (const auto& [suffix, word] : {std::pair{"Volts", " volts"}, {"Amps", " rated"}, {"Ohms", " resistance"}})
    if (field.ends_with(suffix)) return field.substr(0, field.size() - std::string_view(suffix).size()) + word;
  return field;
}

std::string portWords(const std::string& port) {
  static const std::map<std::string, std::string> words{{"in", "input"},
                                                        {"inB", "second input"},
                                                        {"out", "output"},
                                                        {"outB", "second output"},
                                                        {"second", "second signal"},
                                                        {"from", "input"},
                                                        {"to", "output"},
                                                        {"rail", "rail"},
                                                        {"cathodeFoot", "cathode foot"},
                                                        {"tailFoot", "foot of the tail"},
                                                        {"heaterFoot", "foot of the heaters"},
                                                        {"filament", "filament, at its cathode"},
                                                        {"mainsLive", "mains behind switch and fuse"},
                                                        {"mainsNeutral", "neutral of the mains"},
                                                        {"otherRail", "other supply"},
                                                        {"negative", "negative supply"}};
  const auto found = words.find(port);
  return found == words.end() ? port : found->second;
}

units::Unit valueUnit(PartKind kind) { return facts(kind).unit; }
std::string_view kindName(PartKind kind) { return facts(kind).name; }
std::string_view namePrefix(PartKind kind) { return facts(kind).prefix; }

namespace {

/// Between the throws of a switch.
constexpr double throwSpacing = 4;

/// A point of a symbol that points right from the origin, put into its place.
Point turned(Point p, const Place& place) {
  const auto [x, y] = place.at;
  switch (place.direction) {
  case Direction::right:
    return {x + p.x, y + p.y};
  case Direction::down:
    return {x - p.y, y + p.x};
  case Direction::left:
    return {x - p.x, y - p.y};
  case Direction::up:
    break;
  }
  return {x + p.y, y - p.x};
}

} // namespace

std::vector<Point> pinPlaces(PartKind kind, const Place& place, std::size_t nodeCount) {
  const auto [x, y] = place.at;
  constexpr double length = 6;
  switch (kind) {
  case PartKind::triode:
    return {{x, y - 4}, {x - 4, y}, {x, y + 4}};
  case PartKind::pentode: {
    const double up = place.direction == Direction::up ? -4 : 4; // "up": cathode at the top, for the lower of a pair
    return {{x, y - up}, {x + 4, y}, {x - 4, y}, {x, y + up}};
  }
  case PartKind::pot: {
    const double side = place.mirrored ? -3 : 3;
    return {{x, y - 3}, {x + side, y}, {x, y + 3}};
  }
  case PartKind::selector: {
    std::vector<Point> pins{{0, 0}};
    const auto throws = static_cast<int>(nodeCount) - 1;
    for (int t = 0; t < throws; ++t)
      pins.push_back({length, throwSpacing * (t - (throws - 1) / 2.0)});
    for (auto& pin : pins)
      pin = turned(pin, place);
    return pins;
  }
  case PartKind::springTank:
    return {{x, y - 2}, {x, y + 2}, {x + 12, y - 2}, {x + 12, y + 2}};
  case PartKind::outputTransformer:
  case PartKind::transformer:
    if (nodeCount == 7)
      return {{x, y - 8}, {x - 2, y - 4}, {x - 2, y}, {x - 2, y + 4}, {x, y + 8}, {x + 6, y - 4}, {x + 6, y + 4}};
    if (nodeCount == 5) return {{x, y - 8}, {x - 2, y}, {x, y + 8}, {x + 6, y - 4}, {x + 6, y + 4}};
    return {{x, y - 4}, {x, y + 4}, {x + 6, y - 4}, {x + 6, y + 4}};
  case PartKind::powerTransformer: {
    std::vector<Point> pins;
    for (std::size_t i = 0; i < place.taps.size(); ++i)
      pins.push_back({i < 2 ? x + 6 : x, y + place.taps[i]});
    return pins;
  }
  case PartKind::rectifier: // its cathode towards the rail at the left
    return {{x + 4, y - 2}, {x + 4, y + 2}, {x - 4, y}};
  case PartKind::signalSource:
  case PartKind::voltageSource:
  case PartKind::biasSource:
    return {{x, y}};
  default:
    return {place.at, turned({length, 0}, place)};
  }
}

} // namespace vinegar::amp
