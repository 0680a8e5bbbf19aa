#include "audit/case.h"

#include "predict/rest/ratings.h"
#include "predict/supply/rectifier.h"
#include "predict/supply/supply_events.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::audit {
namespace {

using amp::PartKind;
using units::Unit;

constexpr double touchableVolts = 50;
constexpr double bleedSeconds = 120;    ///< longer than this under 50 V and a builder will be tempted not to wait
constexpr double capacitorMargin = 0.9; ///< of an electrolytic's rating
constexpr double resistorMargin = 0.5;  ///< of a resistor's watts

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
    if (amps > rating)
      c.add(part.resolved.name,
            fmt::format("It is rated {} and {} flow at idle: it will open.", read(rating, Unit::ampere, 2),
                        read(amps, Unit::ampere, 2)),
            "Look for an overload first; then a fuse of about twice the running current.");
    else if (rating > 6 * amps && amps > 0)
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

void firstCapacitor(Case& c) {
  const auto first = predict::firstCapacitor(c.circuit());
  if (!first) return;
  for (const auto& rectifier : c.report.rectifiers) {
    const auto& limits = rectifier.limits;
    if (limits.mostFarads && first->farads > 1.001 * *limits.mostFarads)
      c.add(first->parts.front(),
            fmt::format(
                "{} is more than the {} that a {} may charge{}: its plates pass {} in {:.0f} degrees of each cycle.",
                read(first->farads, Unit::farad, 2), read(*limits.mostFarads, Unit::farad, 2), rectifier.type,
                limits.mostFaradsNote.empty() ? "" : " (" + limits.mostFaradsNote + ")",
                read(rectifier.peakAmps, Unit::ampere), rectifier.conductionDegrees),
            "A smaller first capacitor, a series resistor, or another rectifier; put the capacitance after the choke "
            "or dropper.");
    const auto* type = c.library.tubes.find(rectifier.type);
    const auto volts = predict::plateSupplyVolts(c.circuit());
    if (!type || !volts) continue;
    const double least = predict::leastSourceOhms(*type, *volts).value_or(0);
    const double ohms = predict::plateSourceOhms(c.circuit());
    if (ohms < 0.98 * least)
      c.add(rectifier.part,
            fmt::format("{:.0f} ohm stand in series with each plate where its published operation at {} wants {:.0f}.",
                        ohms, read(*volts, Unit::volt), least),
            fmt::format("Add {:.0f} ohm before the reservoir, or in each plate lead.", std::ceil(least - ohms)));
  }
}

void rectifierRatings(Case& c) {
  for (const auto& r : c.report.rectifiers) {
    const auto over = [&](double value, std::optional<double> limit, Unit unit, const char* what) {
      if (limit && value > *limit)
        c.add(r.part,
              fmt::format("{} is {}, over the {} of a {}.", what, read(value, unit), read(*limit, unit), r.type),
              "Another rectifier, a smaller first capacitor or a series resistor.");
    };
    over(r.peakAmps, r.limits.peakAmps, Unit::ampere, "Peak plate current");
    over(r.totalAmps, r.limits.directAmps, Unit::ampere, "Direct current");
    over(r.inverseVolts, r.limits.inverseVolts, Unit::volt, "Peak inverse voltage");
  }
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

void windings(Case& c) {
  for (const auto& w : c.report.windings)
    if (w.share() > 1.02)
      c.add(w.part,
            fmt::format("Its {} winding carries {} rms, {:.0f} % of its rating.", w.name, read(w.rmsAmps, Unit::ampere),
                        100 * w.share()),
            "A transformer with a larger rating, or less load; an overloaded winding overheats unseen.");
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
    else if (hk.limit && std::abs(hk.volts) > *hk.limit)
      c.add(hk.tube,
            fmt::format("{} stand between heater and cathode, its limit is {}.", read(std::abs(hk.volts), Unit::volt),
                        read(*hk.limit, Unit::volt)),
            hk.volts > 0 ? fmt::format("Lift the heaters by about {} with a divider.",
                                       read(hk.volts - 0.5 * *hk.limit, Unit::volt, 2))
                         : fmt::format("Lower what lifts the heaters by about {}.",
                                       read(-hk.volts - 0.5 * *hk.limit, Unit::volt, 2)));
}

void tubeRatings(Case& c) {
  for (const auto& tube : c.point().tubes) {
    const auto* type = c.library.tubes.find(tube.type);
    if (!type) continue;
    for (const auto& over : predict::overRatings(tube, type->limits)) {
      const auto value = read(over.value, over.unit), limit = read(over.limit, over.unit);
      const bool plate = std::string_view(over.electrode) == "plate";
      if (over.unit == Unit::watt)
        c.add(tube.name,
              fmt::format("{} dissipates {} at idle, over its rating of {}.", plate ? tube.type : "Its screen", value,
                          limit),
              plate ? "Bias it colder, or lower its plate and screen volts."
                    : "A larger resistor before the screen, a lower rail, or a colder bias.");
      else
        c.add(tube.name,
              fmt::format("{} stand between {} and cathode at idle, over its rating of {}.", value, over.electrode,
                          limit),
              plate ? "A lower rail, or a type that stands more."
                    : "A larger resistor before the screens, a lower rail, or a type that stands more.");
    }
  }
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
      if (now.watts > resistorMargin * rated)
        c.add(name,
              fmt::format("It is rated {} and dissipates {} at idle: over {:.0f} %.", read(rated, Unit::watt, 2),
                          read(now.watts, Unit::watt), 100 * resistorMargin),
              "At least twice the watts; leave room around it.");
      return;
    }
    double most = now.peakVolts;
    const char* when = "at idle";
    const auto later = without ? cycle(*without, part) : std::nullopt;
    const double coldVolts = later       ? later->peakVolts
                             : coldKnown ? std::abs(cold.volts(part.nodes[0]) - cold.volts(part.nodes[1]))
                                         : 0;
    if (coldVolts > most * 1.02) {
      most = coldVolts;
      when = "with the tubes cold or out";
    }
    if (most > capacitorMargin * rated)
      c.add(name,
            fmt::format("It is rated {} and sees {} {}: over {:.0f} %.", read(rated, Unit::volt),
                        read(most, Unit::volt), when, 100 * capacitorMargin),
            "The next rating up, or two in series with balancing resistors.", most > rated);
  });
}

} // namespace

std::string read(double value, Unit unit, int digits) { return units::reading(value, unit, digits); }

std::vector<Finding> auditIdle(const predict::Idle& idle, const amp::Library& library, const predict::GoOn& goOn) {
  Case c{idle, library, {}, {}, {}, goOn};
  if (idle.point.supply) {
    c.report = predict::readSupply(*idle.circuit, library, idle.point);
    if (auto unloaded = predict::unloadedSupply(*idle.circuit, *idle.point.supply)) c.unloaded = std::move(*unloaded);
    for (const auto rule :
         {missingFuse, slowDischarge, balancing, fuseSize, firstCapacitor, rectifierRatings, windings, heaters})
      if (!goOn || goOn(0)) rule(c);
  }
  tubeRatings(c);
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
