#include "predict/feel/compression.h"

#include "predict/rest/parallel.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace vinegar::predict {
namespace {

constexpr int quietestStep = -6, loudestStep = 2; ///< steps of 6 dB from the level that is asked for
constexpr double stepDecibels = 6;
constexpr double tonePeriods = 3; ///< periods of the mains, over which a chord's own beating is told as one
constexpr double struckSeconds = 0.25;
constexpr double farUnder = 40; ///< dB under the loudest, what is quieter is not told

/// Squares of the output over time, while it sounds.
struct Heard {
  std::vector<double> squares, seconds;
  double sounds = 0, period = 0;
  [[nodiscard]] double most() const { return squares.empty() ? 0 : *std::max_element(squares.begin(), squares.end()); }
};
tl::expected<Heard, Problem> heardOf(const Burst& burst) {
  const auto* output = burst.track(Track::What::output);
  if (!output) return tl::unexpected(Problem{"the amplifier", "has no end to be heard at"});
  Heard heard;
  heard.sounds = burst.sounds;
  heard.period = 1 / burst.mainsHertz;
  const auto squares = overPeriods(output->squares, tonePeriods);
  for (std::size_t k = 0; k < squares.size(); ++k)
    if (const double t = burst.secondsOf(k); t >= 0 && t <= burst.sounds) {
      heard.squares.push_back(squares[k]);
      heard.seconds.push_back(t);
    }
  return heard;
}

double decibelsOf(double square, double against) { return 10 * std::log10(std::max(square, 1e-30) / against); }

/// What is missing of growth by so many dB from the quietest: the most when struck, and late.
struct Missing {
  double struck = 0, late = 0;
};
std::optional<Missing> missingOf(const Heard& quietest, const Heard& louder, double grown) {
  const double least = quietest.most() * std::pow(10, -farUnder / 10);
  if (!(least > 1e-30)) return std::nullopt;
  Missing missing{-std::numeric_limits<double>::infinity(), 0};
  double before = 0, after = 0;
  for (std::size_t k = 0; k < std::min(quietest.squares.size(), louder.squares.size()); ++k) {
    const double t = quietest.seconds[k];
    if (quietest.squares[k] < least) continue;
    // What the first moments hold is no whole tone yet.
    if (const double whole = tonePeriods * quietest.period; t > whole && t < std::max(struckSeconds, 2 * whole))
      missing.struck = std::max(missing.struck, grown - decibelsOf(louder.squares[k], quietest.squares[k]));
    if (t < quietest.sounds * 5 / 6) continue;
    before += quietest.squares[k];
    after += louder.squares[k];
  }
  if (!(before > 0) || !std::isfinite(missing.struck)) return std::nullopt;
  missing.late = grown - decibelsOf(after, before);
  return missing;
}

} // namespace

std::optional<double> Compression::passes(double decibels) const {
  for (std::size_t i = 1; i < rows.size(); ++i) {
    const auto &before = rows[i - 1], &after = rows[i];
    if (before.problem || after.problem || before.late >= decibels || after.late < decibels) continue;
    const double share = (decibels - before.late) / (after.late - before.late);
    return before.inputPeak * std::pow(after.inputPeak / before.inputPeak, share);
  }
  return std::nullopt;
}

tl::expected<Compression, Problem> predictCompression(const Idle& idle, const amp::Library& library,
                                                      const BurstQuestion& question, const GoOn& goOn) {
  Compression answer;
  answer.hasSupply = idle.point.supply != nullptr;
  for (int step = quietestStep; step <= loudestStep; ++step) {
    CompressionRow row;
    row.inputPeak = question.inputPeak * std::pow(10, step * stepDecibels / 20);
    if (step == 0) answer.now = answer.rows.size();
    answer.rows.push_back(std::move(row));
  }
  const auto count = answer.rows.size();
  const std::size_t ways = answer.hasSupply ? 2 : 1;
  std::vector<std::array<tl::expected<Heard, Problem>, 2>> heard(count);
  const bool all = inTwoThreads(ways * count, goOn, [&](std::size_t i, const GoOn& goes) {
    const auto row = i / ways;
    auto one = question;
    one.inputPeak = answer.rows[row].inputPeak;
    one.averaged = true; // hum is no sound
    one.held = i % ways == 0 ? Held::nothing : Held::supply;
    const auto burst = playBurst(idle, library, one, goes);
    heard[row][i % ways] = burst ? heardOf(*burst) : tl::unexpected(burst.error());
  });
  if (!all) return tl::unexpected(Problem::stopped());
  const auto& quietest = heard.front();
  for (std::size_t way = 0; way < ways; ++way)
    if (!quietest[way]) return tl::unexpected(quietest[way].error());
  for (std::size_t i = 0; i < count; ++i) {
    auto& row = answer.rows[i];
    for (std::size_t way = 0; way < ways && !row.problem; ++way)
      if (!heard[i][way]) row.problem = heard[i][way].error();
    if (row.problem) continue;
    std::array<Missing, 2> missing;
    for (std::size_t way = 0; way < ways; ++way) {
      const auto one =
          missingOf(*quietest[way], *heard[i][way], 20 * std::log10(row.inputPeak / answer.rows[0].inputPeak));
      if (!one) return tl::unexpected(Problem{"the phrase", "is silent at its beginning or its end; choose another"});
      missing[way] = *one;
    }
    row.outputVolts = std::sqrt(heard[i][0]->most());
    row.attack = missing[0].struck;
    row.late = missing[0].late;
    if (ways == 2) row.bySupply = missing[0].late - missing[1].late;
  }
  return answer;
}

} // namespace vinegar::predict
