#include "audit/supply_rules.h"
#include "predict/feel.h"

#include <fmt/format.h>

namespace vinegar::audit {
namespace {

using units::Unit;

/// All six strings of a guitar at once, let ring: what a player can do to it at most.
std::shared_ptr<const predict::Sound> hardChord() {
  static const auto sound = [] {
    const predict::Phrase chord{"loudest",
                                "a hard chord",
                                {},
                                1.2,
                                0,
                                false,
                                {{0, 1, 82.41, 1},
                                 {0.004, 1, 123.47, 1},
                                 {0.008, 1, 164.81, 1},
                                 {0.012, 1, 207.65, 0.9},
                                 {0.016, 1, 246.94, 0.8},
                                 {0.02, 1, 329.63, 0.8}}};
    return std::make_shared<const predict::Sound>(chord,
                                                  predict::Instrument{"guitar", "guitar", 0.16, 0.17, 2.2, 40, 1});
  }();
  return sound;
}

} // namespace

tl::expected<std::vector<Finding>, Problem> auditPlayed(const predict::Idle& idle, const amp::Library& library,
                                                        const PlayedAuditQuestion&, const predict::GoOn& goOn) {
  constexpr double rate = 24000, slack = 1.02;
  std::vector<Finding> findings;
  const auto jack = idle.circuit->probe("jack");
  if (jack <= 0) return findings;
  const auto feel = predict::predictFeel(idle, library, {hardChord(), loudestPeak, rate}, goOn);
  if (!feel) return tl::unexpected(feel.error());
  using What = predict::BurstStress::What;
  for (const auto& stress : feel->stresses) {
    // What stands over it at rest already is told there; a winding bears a chord.
    if (stress.share() <= slack || !stress.limit || stress.idle > slack * *stress.limit || stress.what == What::winding)
      continue;
    const auto unit = stress.inWatts() ? Unit::watt : Unit::ampere;
    const auto most = units::reading(stress.most, unit, 3), limit = units::reading(*stress.limit, unit, 3);
    const auto played = fmt::format("A hard chord, {} peak at the jack with the controls as they stand",
                                    units::reading(loudestPeak, Unit::volt, 2));
    switch (stress.what) {
    case What::screen:
      findings.push_back({stress.part,
                          fmt::format("{}, has its screen dissipate {}, over its rating of {}.", played, most, limit),
                          "A larger resistor before each screen, or a lower rail for them.", false});
      break;
    case What::plate:
      findings.push_back({stress.part,
                          fmt::format("{}, has its plate dissipate {}, over its rating of {}.", played, most, limit),
                          "Bias it colder, or lower its plate volts.", false});
      break;
    default:
      findings.push_back({stress.part,
                          fmt::format("{}, takes {} of {} through it, over the {} of its type.", played, most,
                                      predict::words(stress.what), limit),
                          "Another rectifier, a smaller first capacitor or a series resistor.", false});
    }
  }
  return findings;
}

} // namespace vinegar::audit
