#include "audit/supply_rules.h"
#include "predict/feel/feel.h"

#include <fmt/format.h>

namespace vinegar::audit {
namespace {
using units::Unit;
} // namespace

tl::expected<std::vector<Finding>, Problem> auditPlayed(const predict::Idle& idle, const amp::Library& library,
                                                        const PlayedAuditQuestion& question,
                                                        const predict::GoOn& goOn) {
  constexpr double rate = 24000;
  std::vector<Finding> findings;
  const auto jack = idle.circuit->probe("jack");
  if (jack <= 0) return findings;
  if (!question.chord) return tl::unexpected(Problem{"the hard chord", "is not among the phrases that were found"});
  const auto feel = predict::predictFeel(idle, library, {question.chord, loudestPeak, rate}, goOn);
  if (!feel) return tl::unexpected(feel.error());
  using Quantity = predict::Rating::Quantity;
  for (const auto& stress : feel->stresses) {
    // What stands over it at rest already is told there; a winding bears a chord.
    auto resting = stress;
    resting.value = stress.idle;
    if (!stress.over() || resting.over() || stress.quantity == Quantity::windingAmps) continue;
    const auto unit = predict::unitOf(stress.quantity);
    const auto most = units::reading(stress.value, unit, 3), limit = units::reading(*stress.limit, unit, 3);
    const auto played = fmt::format("A hard chord, {} peak at the jack with the controls as they stand",
                                    units::reading(loudestPeak, Unit::volt, 2));
    switch (stress.quantity) {
    case Quantity::screenWatts:
      findings.push_back({stress.part,
                          fmt::format("{}, has its screen dissipate {}, over its rating of {}.", played, most, limit),
                          "A larger resistor before each screen, or a lower rail for them.", false, stress});
      break;
    case Quantity::plateWatts:
      findings.push_back({stress.part,
                          fmt::format("{}, has its plate dissipate {}, over its rating of {}.", played, most, limit),
                          "Bias it colder, or lower its plate volts.", false, stress});
      break;
    default:
      findings.push_back({stress.part,
                          fmt::format("{}, takes {} of {} through it, over the {} of its type.", played, most,
                                      predict::words(stress.quantity), limit),
                          "Another rectifier, a smaller first capacitor or a series resistor.", false, stress});
    }
  }
  return findings;
}

} // namespace vinegar::audit
