#include "audit/case.h"

#include "predict/supply/held.h"
#include "predict/supply/rectifier.h"
#include "predict/supply/supply_events.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::audit {
namespace {

using amp::PartKind;
using predict::Rating;
using units::Unit;

constexpr double touchableVolts = 50;
constexpr double bleedSeconds = 120; ///< longer than this under 50 V and a builder will be tempted not to wait

/// A finding stands at a part that can be selected: of the whole design where there is none of the kind.
std::string nameOfKind(const amp::Circuit& circuit, PartKind kind) {
  const auto found = std::find_if(circuit.parts.begin(), circuit.parts.end(),
                                  [&](const auto& part) { return part.resolved.part->kind == kind; });
  return found == circuit.parts.end() ? std::string{} : found->resolved.name;
}

/// The first half of a bottle, for what concerns the whole of it.
std::string partOfBottle(const amp::Circuit& circuit, const std::string& bottle) {
  const auto found = std::find_if(circuit.parts.begin(), circuit.parts.end(),
                                  [&](const auto& part) { return amp::bottleOf(part.resolved.name) == bottle; });
  return found == circuit.parts.end() ? bottle : found->resolved.name;
}

/// A finding, where the rating is broken.
void tell(Case& c, const Rating& rating);

void missingFuse(Case& c) {
  bool fused = false;
  c.eachPart([&](const auto& part) {
    fused = fused || (part.resolved.part->kind == PartKind::fuse && !part.devices.empty());
  });
  if (!fused)
    c.add(nameOfKind(c.circuit(), PartKind::mains), "No fuse stands in the live side of the mains.",
          "Fit one before the switch; a slow type of about "
          "twice the running current is customary. Mains wiring follows local code.",
          true);
}

void fuseSize(Case& c) {
  c.eachPart([&](const auto& part) {
    if (part.resolved.part->kind != PartKind::fuse || part.devices.empty()) return;
    const double rating = part.resolved.value(), amps = c.report.primaryAmps;
    tell(c, {part.resolved.name, Rating::Quantity::fuseAmps, amps, rating});
    if (rating > 6 * amps && amps > 0)
      c.add(part.resolved.name,
            fmt::format("It is rated {} where {} flow at idle: it protects little.", read(rating, Unit::ampere, 2),
                        read(amps, Unit::ampere, 2)),
            "A slow fuse of about twice the running current is customary.");
  });
}

void slowDischarge(Case& c) {
  if (!c.unloaded) return;
  const auto discharge = predict::dischargeFrom(c.circuit(), *c.unloaded, false, 900, c.goOn);
  const auto* rail = discharge ? discharge->slowest() : nullptr;
  if (!rail || (rail->secondsTo50 && *rail->secondsTo50 <= bleedSeconds)) return;
  const std::string how = rail->secondsTo50 ? fmt::format("{:.0f} minutes", std::ceil(*rail->secondsTo50 / 60))
                                            : std::string("more than a quarter of an hour");
  c.add("",
        fmt::format("With the tubes out, rail {} stays above {:.0f} V for {} after switch-off.", rail->name,
                    touchableVolts, how),
        "Fit a bleeder, 220k of 2 W for instance, at the reservoir that feeds it. Discharge through a resistor and "
        "measure before touching, with a bleeder too.",
        true);
}

void balancing(Case& c) {
  // A node that only the two capacitors of a series pair hold: a doubler's is held by the transformer.
  c.eachPart([&](const auto& upper) {
    if (upper.resolved.part->kind != PartKind::capacitor || upper.resolved.part->role != "reservoir" ||
        upper.devices.empty() || upper.nodes[1] == 0)
      return;
    bool held = false;
    c.eachPart([&](const auto& other) {
      if (other.devices.empty() || other.resolved.part->kind == PartKind::capacitor) return;
      held = held || std::find(other.nodes.begin(), other.nodes.end(), upper.nodes[1]) != other.nodes.end();
    });
    if (!held)
      c.add(upper.resolved.name,
            "Two capacitors share the volts in series with nothing to keep the shares equal: the one that leaks less "
            "takes more than its half.",
            "Fit equal balancing resistors across both, 220k of 2 W for instance.", true);
  });
}

void heaters(Case& c) {
  for (const auto& h : c.report.heaters) {
    const double share = h.rmsVolts / h.nominalVolts;
    if (h.rmsAmps * h.nominalVolts < 0.05) continue; // nothing hangs on it
    if (share > 1.1 || share < 0.9)
      c.add(h.part,
            fmt::format("The {} heaters get {}, {:.0f} % {}.", read(h.nominalVolts, Unit::volt, 2),
                        read(h.rmsVolts, Unit::volt), 100 * std::abs(share - 1),
                        share > 1 ? "too much: cathodes wear out early" : "too little: cathodes are starved"),
            share > 1 ? "Another primary tap, or a small resistor in each heater lead."
                      : "Another primary tap, or a winding with a larger rating.");
  }
  for (const auto& bottle : c.report.withoutHeater)
    c.add(partOfBottle(c.circuit(), bottle), "No heater winding of the design has the volts that it needs.",
          "Another type, or a transformer with that winding. Check base and pins too.");
  constexpr double leastLimit = 90; ///< V; the least that any sheet of a receiving tube allows
  for (const auto& hk : c.report.heaterCathodes)
    if (!hk.limit && std::abs(hk.volts) > leastLimit)
      c.add(hk.tube,
            fmt::format("{} stand between heater and cathode. The limit of its type is not on record here; many types "
                        "stand no more than {}.",
                        read(std::abs(hk.volts), Unit::volt), read(leastLimit, Unit::volt, 2)),
            "Look it up in the data sheet, or lift the heaters with a divider.");
}

/// What is told of a rating that is broken at rest: the sentence and the cure.
std::pair<std::string, std::string> told(const Case& c, const Rating& rating) {
  using enum Rating::Quantity;
  const auto unit = predict::unitOf(rating.quantity);
  const auto value = read(rating.value, unit), limit = read(*rating.limit, unit);
  const auto& rectifiers = c.report.rectifiers;
  const auto rectifier = std::find_if(rectifiers.begin(), rectifiers.end(), [&](const auto& one) {
    return one.part == rating.part || one.type == rating.of;
  });
  const auto current = [&](const char* what) {
    return std::pair{fmt::format("{} is {}, over the {} of a {}.", what, value, limit, rating.of),
                     std::string("Another rectifier, a smaller first capacitor or a series resistor.")};
  };
  const auto volts = [&](const char* electrode, const char* cure) {
    return std::pair{
        fmt::format("{} stand between {} and cathode at idle, over its rating of {}.", value, electrode, limit),
        std::string(cure)};
  };
  switch (rating.quantity) {
  case plateWatts:
    return {fmt::format("{} dissipates {} at idle, over its rating of {}.", rating.of, value, limit),
            "Bias it colder, or lower its plate and screen volts."};
  case screenWatts:
    return {fmt::format("Its screen dissipates {} at idle, over its rating of {}.", value, limit),
            "A larger resistor before the screen, a lower rail, or a colder bias."};
  case plateVolts:
    return volts("plate", "A lower rail, or a type that stands more.");
  case screenVolts:
    return volts("screen", "A larger resistor before the screens, a lower rail, or a type that stands more.");
  case heaterCathodeVolts: {
    const auto& all = c.report.heaterCathodes;
    const auto own = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.tube == rating.part; });
    const auto by = read(rating.value - 0.5 * *rating.limit, unit, 2);
    return {fmt::format("{} stand between heater and cathode, its limit is {}.", value, limit),
            own != all.end() && own->volts < 0 ? fmt::format("Lower what lifts the heaters by about {}.", by)
                                               : fmt::format("Lift the heaters by about {} with a divider.", by)};
  }
  case firstFarads:
    return {fmt::format(
                "{} is more than the {} that a {} may charge{}: its plates pass {} in {:.0f} degrees of each cycle.",
                read(rating.value, unit, 2), read(*rating.limit, unit, 2), rating.of,
                rectifier->limits.mostFaradsNote.empty() ? "" : " (" + rectifier->limits.mostFaradsNote + ")",
                read(rectifier->peakAmps, Unit::ampere), rectifier->conductionDegrees),
            "A smaller first capacitor, a series resistor, or another rectifier; put the capacitance after the choke "
            "or dropper."};
  case plateOhms:
    return {fmt::format("{:.0f} ohm stand in series with each plate where its published operation at {} wants {:.0f}.",
                        rating.value, read(predict::plateSupplyVolts(c.circuit()).value_or(0), Unit::volt),
                        *rating.limit),
            fmt::format("Add {:.0f} ohm before the reservoir, or in each plate lead.",
                        std::ceil(*rating.limit - rating.value))};
  case peakAmps:
    return current("Peak plate current");
  case directAmps:
    return current("Direct current");
  case inverseVolts:
    return current("Peak inverse voltage");
  case windingAmps:
    return {
        fmt::format("Its {} winding carries {} rms, {:.0f} % of its rating.", rating.of, value, 100 * rating.share()),
        "A transformer with a larger rating, or less load; an overloaded winding overheats unseen."};
  case fuseAmps:
    return {fmt::format("It is rated {} and {} flow at idle: it will open.", read(*rating.limit, unit, 2),
                        read(rating.value, unit, 2)),
            "Look for an overload first; then a fuse of about twice the running current."};
  case resistorWatts:
    return {fmt::format("It is rated {} and dissipates {} at idle: over {:.0f} %.", read(*rating.limit, unit, 2), value,
                        100 * predict::sensibleShare(rating.quantity)),
            "At least twice the watts; leave room around it."};
  case capacitorVolts:
    return {fmt::format("It is rated {} and sees {} {}: over {:.0f} %.", limit, value,
                        rating.condition == Rating::Condition::unloaded ? "with the tubes cold or out" : "at idle",
                        100 * predict::sensibleShare(rating.quantity)),
            "The next rating up, or two in series with balancing resistors."};
  }
  return {};
}

void tell(Case& c, const Rating& rating) {
  if (!rating.over()) return;
  auto [what, cure] = told(c, rating);
  // A capacitor over its volts bursts; all else that is over its rating wears out or opens.
  const bool danger = rating.quantity == Rating::Quantity::capacitorVolts && rating.share() > 1;
  c.add(rating, std::move(what), std::move(cure), danger);
}

void ratings(Case& c) {
  for (const auto& rating : c.ratings)
    tell(c, rating);
}

/// What a part sees in one state of the amplifier: through the mains' cycle where it is of the supply, at DC elsewhere.
struct Stress {
  double peakVolts = 0, watts = 0;
};

void partRatings(Case& c) {
  const auto& circuit = c.circuit();
  const auto* idle = c.point().supply.get();
  // Tubes cold or out: the rails at their highest, and nothing pulls a plate down.
  const auto& without = c.unloaded;
  predict::AmpLoad cold(circuit);
  bool coldKnown = false;
  if (without) {
    Eigen::VectorXd rails(static_cast<Eigen::Index>(cold.nodes().size()));
    for (Eigen::Index k = 0; k < rails.size(); ++k)
      rails[k] = without->meanVolts(cold.nodes()[static_cast<std::size_t>(k)]);
    coldKnown = static_cast<bool>(cold.at(rails, 0));
  }
  const auto cycle = [](const predict::SupplyIdle& state, const amp::CompiledPart& part) -> std::optional<Stress> {
    const Eigen::VectorXd a = state.volts(part.nodes[0]), b = state.volts(part.nodes[1]);
    if (a.size() == 0 || b.size() == 0) return std::nullopt;
    return Stress{(a - b).cwiseAbs().maxCoeff(),
                  (a - b).squaredNorm() / static_cast<double>(a.size()) / part.resolved.value()};
  };
  c.eachPart([&](const auto& part) {
    if (part.devices.empty() || part.nodes.size() != 2) return;
    const auto kind = part.resolved.part->kind;
    if (kind != PartKind::capacitor && kind != PartKind::resistor) return;
    const double rated = part.resolved.number(kind == PartKind::capacitor ? "ratedVolts" : "ratedWatts");
    if (rated <= 0) return;
    const auto& name = part.resolved.name;
    const auto found = idle ? cycle(*idle, part) : std::nullopt;
    const auto* reading = c.point().part(name);
    if (!found && !reading) return;
    const Stress now = found ? *found : Stress{std::abs(reading->volts), reading->watts};
    if (kind == PartKind::resistor) {
      tell(c, {name, Rating::Quantity::resistorWatts, now.watts, rated});
      return;
    }
    const auto later = without ? cycle(*without, part) : std::nullopt;
    const double coldVolts = later       ? later->peakVolts
                             : coldKnown ? std::abs(cold.volts(part.nodes[0]) - cold.volts(part.nodes[1]))
                                         : 0;
    Rating rating{name, Rating::Quantity::capacitorVolts, now.peakVolts, rated};
    if (coldVolts > predict::ratingSlack * now.peakVolts) {
      rating.value = coldVolts;
      rating.condition = Rating::Condition::unloaded;
    }
    tell(c, rating);
  });
}

} // namespace

std::string read(double value, Unit unit, int digits) { return units::reading(value, unit, digits); }

std::vector<Finding> auditIdle(const predict::Idle& idle, const amp::Library& library, const predict::GoOn& goOn) {
  Case c{idle, library, {}, {}, {}, {}, goOn};
  if (idle.point.supply) {
    c.report = predict::readSupply(*idle.circuit, library, idle.point);
    if (auto unloaded = predict::unloadedSupply(*idle.circuit, *idle.point.supply)) c.unloaded = std::move(*unloaded);
    for (const auto rule : {missingFuse, slowDischarge, balancing, fuseSize, heaters})
      if (!goOn || goOn(0)) rule(c);
  }
  c.ratings = predict::ratingsAtRest(c.circuit(), library, c.report, c.point().tubes);
  ratings(c);
  if (!goOn || goOn(0.4)) amplifierRules(c);
  if (!goOn || goOn(0.5)) partRatings(c);
  std::stable_sort(c.findings.begin(), c.findings.end(),
                   [](const Finding& a, const Finding& b) { return a.danger > b.danger; });
  return c.findings;
}

tl::expected<std::vector<Finding>, Problem> auditIdle(const predict::Idle& idle, const amp::Library& library,
                                                      const AuditQuestion&, const predict::GoOn& goOn) {
  auto findings = auditIdle(idle, library, goOn);
  if (goOn && !goOn(1)) return tl::unexpected(Problem::stopped());
  return findings;
}

const SafetyText& safetyText() {
  // NOLINTBEGIN(bugprone-suspicious-missing-comma): long paragraphs, broken within a line's length
  static const SafetyText text{
      "Before your hands go in",
      {"Hundreds of volts DC stay on the capacitors after switch-off, sometimes for many minutes. They can kill.",
       "Unplug. Wait. Discharge every filter capacitor through a resistor, never with a screwdriver. Measure under 50 "
       "V "
       "on each before you touch. A bleeder can fail unseen: measure all the same.",
       "When it must be powered while open: clip leads on before the power, one hand behind your back, never alone.",
       "The protective earth goes to the chassis on a bolt of its own. A fuse stands in the live side. Never use an "
       "auto-transformer or a supply without a transformer: the chassis would be live.",
       "Primary wiring follows your local code. Where it demands a licensed person, or you are in doubt, leave it to "
       "one.",
       "Glass and resistors get hot enough to burn. Loudspeakers at full power hurt hearing."}};
  // NOLINTEND(bugprone-suspicious-missing-comma)
  return text;
}

} // namespace vinegar::audit
