#include "predict/feel/feel_choices.h"

#include "predict/choices/consequences.h"
#include "predict/feel/feel_ways.h"
#include "predict/rest/parallel.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace vinegar::predict {
namespace {

constexpr double coarseRate = 6000;
constexpr std::size_t shown = 16; ///< of many, those nearest to what is wished

tl::expected<Idle, Problem> idleOf(const FeelWay& way, const amp::Design& design, const amp::Library& library,
                                   Warmth& warmth) {
  const auto changed = amp::withChanges(design, library, way.changes);
  if (!way.edit) return predictIdle(changed, library, &warmth);
  auto compiled = amp::compile(changed, library);
  if (!compiled) return tl::unexpected(compiled.error());
  way.edit(*compiled);
  Idle idle;
  idle.circuit = std::make_shared<const amp::Circuit>(std::move(*compiled));
  auto point = predictOperatingPoint(*idle.circuit);
  if (!point) return tl::unexpected(point.error());
  idle.point = std::move(*point);
  return idle;
}

FeelRow rowOf(const FeelWay& way, const Idle& idle, const Feel& feel) {
  FeelRow row;
  const auto& dip = feel.rails[static_cast<std::size_t>(feel.fed)];
  row.dip = dip;
  row.rippleVolts = feel.rippleVolts;
  row.rippleAtRest = feel.rippleAtRest;
  row.outputWatts = feel.outputWatts;
  row.recovers = dip.back63;
  row.group = way.group;
  row.farads = way.farads;
  for (const auto& tube : idle.point.tubes)
    if (const double share = tube.plateWattsLimit ? tube.plateWatts / *tube.plateWattsLimit : 0;
        share > row.hottestShare) {
      row.hottestShare = share;
      row.hottest = tube.name;
    }
  const auto* track = feel.burst.track(Track::What::rail, dip.rail);
  row.fed = overPeriods(track->mean);
  for (std::size_t k = 0; k < row.fed.size(); ++k)
    row.seconds.push_back(feel.burst.secondsOf(k));
  // What a burst asks of parts besides what idling does.
  for (const auto& stress : feel.stresses)
    if (stress.over() && unitOf(stress.quantity) == units::Unit::ampere)
      row.against.push_back(fmt::format("{} {} while played", stress.part, words(stress)));
  return row;
}

/// What the resistors that a way changes dissipate, at idle and with what the burst draws at its most held, and what to
/// buy; empty where it changes none that current goes through.
std::string wattsOf(const FeelWay& way, const Idle& idle, const Feel& feel) {
  std::string words;
  for (const auto& change : way.changes) {
    const auto* part = change.field == "value" ? idle.circuit->part(change.part) : nullptr;
    if (!part || part->resolved.part->kind != amp::PartKind::resistor || part->devices.empty() ||
        !isInTheWay(*part, idle))
      continue;
    const double resting = resistorWatts(*idle.point.supply, *part);
    double most = resting;
    for (const auto& stress : feel.stresses)
      if (stress.quantity == Rating::Quantity::directAmps && stress.value > stress.idle)
        if (const auto played = predictSupplyIdle(*idle.circuit, nullptr,
                                                  {0, stress.value - stress.idle, mainRails(*idle.circuit).fed}))
          most = std::max(most, resistorWatts(*played, *part));
    words += fmt::format("{}{} dissipates {} at idle, {} while played; buy {}", words.empty() ? "" : "; ", change.part,
                         units::reading(resting, units::Unit::watt, 2), units::reading(most, units::Unit::watt, 2),
                         units::reading(ratingFor(most), units::Unit::watt, 0));
  }
  return words;
}

/// Each two of those ways that change different parts, as one.
std::vector<FeelWay> pairsOf(const std::vector<FeelWay>& ways, const std::vector<std::size_t>& which) {
  std::vector<FeelWay> pairs;
  for (std::size_t a = 0; a < which.size(); ++a)
    for (std::size_t b = a + 1; b < which.size(); ++b) {
      const auto &one = ways[which[a]], &other = ways[which[b]];
      if (one.changes.front().part == other.changes.front().part) continue;
      auto both = one;
      both.title += ", " + other.title;
      both.changes.insert(both.changes.end(), other.changes.begin(), other.changes.end());
      pairs.push_back(std::move(both));
    }
  return pairs;
}

} // namespace

tl::expected<FeelRows, Problem> predictFeelRows(const Idle& idle, const amp::Library& library,
                                                const FeelRowsQuestion& question, const GoOn& goOn) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  const auto& design = *idle.circuit->design;
  FeelRows answer;
  answer.subject = question.subject;
  std::vector<FeelWay> ways{{"as it is", {}, {}, {}, {}, 0}};
  std::ranges::move(feelWays(question.subject, idle, library), std::back_inserter(ways));
  const bool many = question.subject == FeelSubject::sag;
  const auto play = [&](const std::vector<FeelWay>& all, std::vector<FeelRow>& rows, double from, double to,
                        double samplesPerSecond, bool last) {
    rows.resize(all.size());
    auto burst = question.burst;
    burst.samplesPerSecond = samplesPerSecond;
    std::array<Warmth, 2> warmths{warmthOf(idle), warmthOf(idle)};
    std::array<std::mutex, 2> used;
    const GoOn part = [&](double share) { return !goOn || goOn(from + (to - from) * share); };
    return inTwoThreads(all.size(), part, [&](std::size_t i, const GoOn& goes) {
      const auto& way = all[i];
      auto& row = rows[i];
      const auto fail = [&](const Problem& problem) {
        row = FeelRow{};
        row.problem = problem;
      };
      std::unique_lock lock(used[0], std::try_to_lock);
      const std::size_t mine = lock.owns_lock() ? 0 : 1;
      if (mine == 1) lock = std::unique_lock(used[1]);
      const auto own = way.changes.empty() && !way.edit ? tl::expected<Idle, Problem>(idle)
                                                        : idleOf(way, design, library, warmths[mine]);
      if (!own) return fail(own.error());
      if (!own->point.supply) return fail(noMains());
      const auto feel = predictFeel(*own, library, burst, goes);
      if (!feel) return fail(feel.error());
      if (feel->fed < 0) return fail(Problem{"the supply", "feeds no rail of the amplifier"});
      row = rowOf(way, *own, *feel);
      if (many && last) row.watts = wattsOf(way, *own, *feel);
    });
  };
  // Many are looked through coarsely, and those that are left played as asked.
  const double looking = many ? std::min(coarseRate, question.burst.samplesPerSecond) : question.burst.samplesPerSecond;
  if (!play(ways, answer.rows, 0, many ? 0.5 : 1, looking, looking == question.burst.samplesPerSecond))
    return tl::unexpected(Problem::stopped());
  if (answer.rows.front().problem) return tl::unexpected(*answer.rows.front().problem);
  answer.rail = answer.rows.front().dip.rail;
  const auto missOf = [&](const FeelRow& row) {
    if (row.problem) return std::numeric_limits<double>::infinity();
    double miss = std::abs(std::log(std::max(row.dip.share(), 1e-4) / std::max(question.wantedShare, 1e-4)));
    if (question.wantedBack > 0)
      miss += std::isfinite(row.recovers) ? std::abs(std::log(row.recovers / question.wantedBack)) : 3;
    return miss;
  };
  if (many) {
    // Pairs of the nearest, of different parts.
    constexpr std::size_t each = 5;
    std::vector<std::size_t> order(ways.size() - 1);
    for (std::size_t i = 0; i < order.size(); ++i)
      order[i] = i + 1;
    std::sort(order.begin(), order.end(),
              [&](std::size_t a, std::size_t b) { return missOf(answer.rows[a]) < missOf(answer.rows[b]); });
    order.resize(std::min(order.size(), each));
    auto pairs = pairsOf(ways, order);
    std::vector<FeelRow> rows;
    if (!play(pairs, rows, 0.5, 0.7, looking, looking == question.burst.samplesPerSecond))
      return tl::unexpected(Problem::stopped());
    std::move(pairs.begin(), pairs.end(), std::back_inserter(ways));
    std::move(rows.begin(), rows.end(), std::back_inserter(answer.rows));
    // The design's own first, then the nearest; what is far off is left out.
    order.resize(ways.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin() + 1, order.end(),
                     [&](std::size_t x, std::size_t y) { return missOf(answer.rows[x]) < missOf(answer.rows[y]); });
    order.resize(std::min(order.size(), shown));
    std::vector<FeelWay> nearest;
    nearest.reserve(order.size());
    for (const auto at : order)
      nearest.push_back(ways[at]);
    ways = std::move(nearest);
    if (looking < question.burst.samplesPerSecond) {
      if (!play(ways, answer.rows, 0.7, 1, question.burst.samplesPerSecond, true))
        return tl::unexpected(Problem::stopped());
    } else {
      std::vector<FeelRow> kept;
      kept.reserve(order.size());
      for (const auto at : order)
        kept.push_back(std::move(answer.rows[at]));
      answer.rows = std::move(kept);
    }
  }
  std::vector<SupplyChoice> choices;
  for (std::size_t i = 0; i < ways.size(); ++i) {
    auto& row = answer.rows[i];
    row.title = ways[i].title;
    row.about = ways[i].about;
    if (!row.watts.empty()) row.about += (row.about.empty() ? "" : "; ") + row.watts;
    row.part = ways[i].part;
    row.changes = ways[i].changes;
    row.now = i == 0;
    choices.push_back({row.title, row.changes});
  }
  // The same judgement of ratings and budgets as the Supply page's.
  if (question.subject != FeelSubject::makers && question.subject != FeelSubject::conditions) {
    auto consequences = consequencesOf(design, library, choices, goOn, warmthOf(idle));
    if (question.subject == FeelSubject::rectifiers && question.burst.samplesPerSecond > coarseRate &&
        !findRebias(consequences, idle, library, goOn))
      return tl::unexpected(Problem::stopped());
    if (consequences.size() == answer.rows.size())
      for (std::size_t i = 0; i < choices.size(); ++i) {
        answer.rows[i].rebias = consequences[i].rebias;
        answer.rows[i].rebiased = consequences[i].rebiased;
        auto& against = answer.rows[i].against;
        against.insert(against.begin(), consequences[i].warnings.begin(), consequences[i].warnings.end());
      }
  }
  if (many)
    std::stable_sort(answer.rows.begin() + 1, answer.rows.end(), [&](const FeelRow& a, const FeelRow& b) {
      if (a.against.empty() != b.against.empty()) return a.against.empty(); // what nothing speaks against first
      return missOf(a) < missOf(b);
    });
  return answer;
}

} // namespace vinegar::predict
