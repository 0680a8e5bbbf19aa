#include "predict/voice/rank.h"

#include "amp/change/change.h"
#include "predict/rest/stock.h"
#include "predict/rest/variation.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr std::size_t mostRanked = 16;
constexpr int rankPoints = 121, rankedInBand = 9;
constexpr double leastTold = 0.005; ///< dB in the band: under it a step is not worth telling

/// Fitted parts with a dial, by what a step would do in the band as the sensitivities tell; the strongest first.
tl::expected<std::vector<const amp::CompiledPart*>, Problem> promising(const Idle& idle, const amp::Library& library,
                                                                       const RankQuestion& question,
                                                                       const std::vector<double>& band) {
  const auto variations = partVariations(*idle.circuit, library);
  auto plan = idle.plan ? idle.plan->plan() : nullptr;
  const auto effects =
      circuit::responseSensitivities(*idle.point.system, idle.point.dc.x, band, idle.circuit->probe(question.from),
                                     idle.circuit->probe(question.to), parametersOf(variations), &plan);
  if (!effects) return tl::unexpected(effects.error());
  std::vector<std::pair<double, const amp::CompiledPart*>> strengths;
  for (std::size_t p = 0; p < variations.size(); ++p) {
    const auto* part = idle.circuit->part(variations[p].name);
    // What one reaches for; a loudspeaker or a transformer is chosen for other reasons.
    const auto kind = part->resolved.part->kind;
    if (kind != amp::PartKind::resistor && kind != amp::PartKind::capacitor && kind != amp::PartKind::pot &&
        kind != amp::PartKind::inductor)
      continue;
    double most = 0; // the longer of its two steps, in the logarithm
    for (const bool up : {true, false})
      if (const auto value = steppedValue(part->resolved, library, up); value && *value > 0)
        most = std::max(most, std::abs(std::log(*value / variations[p].value)));
    const double perLog = std::abs(effects->row(static_cast<Eigen::Index>(p)).real().mean()) * variations[p].value;
    const double decibels = perLog * most * 20 / std::numbers::ln10;
    if (decibels > leastTold / 4) strengths.emplace_back(decibels, part);
  }
  std::stable_sort(strengths.begin(), strengths.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  if (strengths.size() > mostRanked) strengths.resize(mostRanked);
  std::vector<const amp::CompiledPart*> parts;
  parts.reserve(strengths.size());
  for (const auto& [decibels, part] : strengths)
    parts.push_back(part);
  return parts;
}

} // namespace

tl::expected<Ranking, Problem> predictRanking(const Idle& whole, const amp::Library& library,
                                              const RankQuestion& question, const GoOn& goOn) {
  if (!(question.low > 0) || !(question.high >= question.low) || !std::isfinite(question.high))
    return tl::unexpected(Problem{"the band", "goes from a lower to a higher frequency"});
  const auto band = question.high > question.low * 1.001 ? circuit::logSpaced(question.low, question.high, rankedInBand)
                                                         : std::vector<double>{question.low};
  const Idle idle = withoutEchoes(whole);
  Ranking ranking;
  ranking.hertz = circuit::logSpaced(10, 1e5, rankPoints);
  auto all = ranking.hertz;
  all.insert(all.end(), band.begin(), band.end());
  all.push_back(1000);
  const auto responseOf = [&](const Idle& one) {
    return predictResponse(withoutEchoes(one), library, {question.from, question.to, all});
  };
  const auto now = responseOf(idle);
  if (!now) return tl::unexpected(now.error());
  ranking.decibels.assign(now->decibels.begin(), now->decibels.begin() + rankPoints);
  const auto parts = promising(idle, library, question, band);
  if (!parts) return tl::unexpected(parts.error());
  auto warmth = warmthOf(idle);
  for (std::size_t p = 0; p < parts->size(); ++p) {
    const auto& resolved = (*parts)[p]->resolved;
    for (const bool up : {true, false}) {
      if (goOn && !goOn((static_cast<double>(p) + (up ? 0 : 0.5)) / static_cast<double>(parts->size())))
        return tl::unexpected(Problem::stopped());
      const auto value = steppedValue(resolved, library, up);
      if (!value) continue;
      const auto other = predictIdle(
          amp::withChanges(*idle.circuit->design, library, {{resolved.name, "value", resolved.value(), *value}}),
          library, &warmth);
      const auto response = other ? responseOf(*other) : tl::unexpected(other.error());
      if (!response) {
        ranking.unanswered.push_back({resolved.name, response.error().line()});
        continue;
      }
      RankedStep step{resolved.name, resolved.value(), *value, 0, 0, 0, {}, 0, {}};
      double squares = 0;
      int outside = 0;
      for (std::size_t i = 0; i < all.size(); ++i) {
        const double change = response->decibels[i] - now->decibels[i];
        if (i < rankPoints) {
          step.change.push_back(change);
          const double hertz = all[i];
          if (hertz < 20 || hertz > 2e4 || (hertz >= question.low && hertz <= question.high)) continue;
          squares += change * change;
          ++outside;
        } else if (i + 1 < all.size()) {
          step.there += change / static_cast<double>(band.size());
        } else {
          step.at1kHz = change;
        }
      }
      step.elsewhere = outside ? std::sqrt(squares / outside) : 0;
      std::tie(step.movedTube, step.movedShare) = mostMoved(idle.point, other->point);
      if (std::abs(step.there) >= leastTold) ranking.steps.push_back(std::move(step));
    }
  }
  std::stable_sort(ranking.steps.begin(), ranking.steps.end(),
                   [](const auto& a, const auto& b) { return std::abs(a.there) > std::abs(b.there); });
  return ranking;
}

} // namespace vinegar::predict
