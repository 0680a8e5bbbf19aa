#include "predict/feel/feel.h"

#include "amp/compile/part_devices.h"
#include "predict/rest/parallel.h"
#include "predict/supply/supply.h"
#include "predict/wave/held_sine.h"
#include "predict/wave/power.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <limits>
#include <numbers>

namespace vinegar::predict {
namespace {

using What = Track::What;
using Quantity = Rating::Quantity;
constexpr double never = std::numeric_limits<double>::quiet_NaN();
constexpr double attackSeconds = 0.25;
constexpr double slowly = 3;    ///< periods of the mains, over which a chord's own beating is told as one
constexpr double warming = 25;  ///< likewise; what heats is told over half a second
constexpr double little = 1e-3; ///< V; a droop under this has no times

RailDip dipOf(const Burst& burst, const Track& track) {
  const auto volts = overPeriods(track.mean);
  RailDip dip{track.name, track.rest, track.rest, 0, 0, never, never, never, never, false};
  const auto begins = static_cast<std::size_t>(burst.lead / burst.hop);
  std::size_t at = begins;
  for (std::size_t k = begins; k < volts.size(); ++k)
    if (volts[k] < dip.lowest) {
      dip.lowest = volts[k];
      at = k;
    }
  dip.lowestAt = burst.secondsOf(at);
  const auto stops = std::min(volts.size(), begins + static_cast<std::size_t>(burst.sounds / burst.hop));
  const auto late = begins + (stops - begins) * 5 / 6;
  double sum = 0;
  for (std::size_t k = late; k < stops; ++k)
    sum += volts[k];
  dip.settled = stops > late ? sum / static_cast<double>(stops - late) : track.rest;
  const double droop = dip.droop();
  if (!(droop > little)) return dip;
  // Where a share of it is passed, between two hops.
  const auto passes = [&](std::size_t k, double level) {
    const double before = volts[k - 1], after = volts[k];
    const double share = before == after ? 1 : (level - before) / (after - before);
    return burst.secondsOf(k - 1) + std::clamp(share, 0.0, 1.0) * burst.hop;
  };
  const auto down = [&](double share) {
    const double level = dip.before - share * droop;
    for (std::size_t k = std::max<std::size_t>(begins, 1); k <= at; ++k)
      if (volts[k] <= level) return std::max(0.0, passes(k, level));
    return never;
  };
  dip.down63 = down(1 - 1 / std::numbers::e);
  dip.down90 = down(0.9);
  // Of what is left of it when the last note is stopped, where that is some of it; else, as of notes that have faded by
  // then, from the lowest point on.
  constexpr double some = 0.1;
  const auto stop = std::min(std::max<std::size_t>(stops, 1), volts.size() - 1);
  const double left = dip.before - volts[stop - 1];
  dip.backFromStop = left > some * droop;
  const std::size_t from = dip.backFromStop ? stop : std::max<std::size_t>(at, 1);
  const double since = dip.backFromStop ? burst.sounds : dip.lowestAt, down0 = dip.backFromStop ? left : droop;
  const auto back = [&](double share) {
    const double level = dip.before - (1 - share) * down0;
    for (std::size_t k = from; k < volts.size(); ++k)
      if (volts[k] >= level) return std::max(0.0, passes(k, level) - since);
    return never;
  };
  dip.back63 = back(1 - 1 / std::numbers::e);
  dip.back90 = back(0.9);
  return dip;
}

BiasMove moveOf(const Burst& burst, const Track& grid) {
  BiasMove move;
  move.tube = grid.name;
  move.before = grid.rest;
  const auto* cathode = burst.track(What::cathode, grid.name);
  const auto volts = overPeriods(grid.mean, slowly), cathodes = overPeriods(cathode->mean, slowly);
  const auto begins = static_cast<std::size_t>(burst.lead / burst.hop);
  const auto stops = std::min(volts.size(), begins + static_cast<std::size_t>(burst.sounds / burst.hop));
  for (std::size_t k = begins; k < stops; ++k) {
    const double moved = volts[k] - grid.rest;
    move.atEnd = moved;
    if (std::abs(moved) <= std::abs(move.most)) continue;
    move.most = moved;
    move.mostAt = burst.secondsOf(k);
    move.byCathode = -(cathodes[k] - cathode->rest);
    move.byGrid = moved - move.byCathode;
  }
  return move;
}

/// Of part of a wave, peak to peak, what turns with a frequency; over whole turns.
double rippleOf(const std::vector<float>& samples, std::size_t from, std::size_t count, double turnsPerSample) {
  std::complex<double> sum = 0;
  for (std::size_t k = 0; k < count; ++k)
    sum += static_cast<double>(samples[from + k]) *
           std::polar(1.0, -2 * std::numbers::pi * turnsPerSample * static_cast<double>(k));
  return 4 * std::abs(sum) / static_cast<double>(count);
}

void readRipple(Feel& feel) {
  const auto& burst = feel.burst;
  if (feel.fed < 0 || burst.fed.empty()) return;
  constexpr std::size_t periods = 4; // short against the droop, long enough to leave most of the notes out
  const auto period = static_cast<std::size_t>(std::lround(burst.samplesPerSecond / burst.mainsHertz));
  const auto count = periods * period;
  if (burst.fed.size() < count + period) return;
  const auto at = [&](double seconds, double times) {
    const double middle = (seconds + burst.lead) * burst.samplesPerSecond;
    const auto from = static_cast<std::size_t>(
        std::clamp(middle - static_cast<double>(count) / 2, 0.0, static_cast<double>(burst.fed.size() - count)));
    return rippleOf(burst.fed, from, count, times * burst.mainsHertz / burst.samplesPerSecond);
  };
  // At rest there are three periods before the sound: of one.
  const auto rest = static_cast<std::size_t>(burst.lead * burst.samplesPerSecond) - period;
  double times = 1;
  for (const double one : {1.0, 2.0})
    if (const double volts = rippleOf(burst.fed, rest, period, one / static_cast<double>(period));
        volts > feel.rippleAtRest) {
      feel.rippleAtRest = volts;
      times = one;
    }
  feel.rippleHertz = times * burst.mainsHertz;
  feel.rippleVolts = at(feel.rails[static_cast<std::size_t>(feel.fed)].lowestAt, times);
}

void readStresses(Feel& feel, const Idle& idle, const amp::Library& library) {
  const auto& burst = feel.burst;
  const auto most = [](const std::vector<double>& values) {
    return values.empty() ? 0 : *std::max_element(values.begin(), values.end());
  };
  const auto add = [&](const std::string& part, Quantity quantity, double played, double rest,
                       std::optional<double> limit, const std::string& of) {
    feel.stresses.push_back({{part, quantity, played, limit, Rating::Condition::played, of}, rest});
  };
  double busiest = 0;
  std::optional<WindingReading> fullest;
  if (idle.point.supply)
    for (const auto& winding : readSupply(*idle.circuit, library, *idle.point.supply).windings)
      if (winding.rmsVolts > 50 && winding.share() > (fullest ? fullest->share() : 0)) // what feeds the plates
        fullest = winding;
  std::vector<std::string> told;
  for (const auto& track : burst.tracks) {
    const auto* part = idle.circuit->part(track.name);
    if (!part) continue;
    const auto* type =
        part->resolved.settings.contains("tube") ? library.tubes.find(part->resolved.text("tube")) : nullptr;
    if (track.what == What::plateWatts || track.what == What::screenWatts) {
      const bool screen = track.what == What::screenWatts;
      const auto limit = screen ? (type ? type->limits.screenWatts : std::nullopt) : part->plateWattsLimit;
      add(track.name, screen ? Quantity::screenWatts : Quantity::plateWatts, most(overPeriods(track.mean, warming)),
          track.rest, limit, type ? type->name : std::string());
    }
    if (track.what != What::rectifierAmps) continue;
    // Squares of a period: what heats the winding, against the same at rest.
    const auto squares = overPeriods(track.squares, warming);
    double restSquare = 0;
    for (std::size_t k = hopsPerPeriod; k < 2 * std::size_t{hopsPerPeriod} && k < track.squares.size(); ++k)
      restSquare += static_cast<double>(track.squares[k]) / hopsPerPeriod;
    if (restSquare > 0) busiest = std::max(busiest, std::sqrt(most(squares) / restSquare));
    if (std::find(told.begin(), told.end(), track.name) != told.end()) continue;
    told.push_back(track.name);
    double peak = 0, restPeak = 0;
    std::vector<double> direct;
    double rest = 0;
    const auto begins = static_cast<std::size_t>(burst.lead / burst.hop);
    for (const auto& plate : burst.tracks) {
      if (plate.what != What::rectifierAmps || plate.name != track.name) continue;
      for (std::size_t k = 0; k < plate.high.size(); ++k)
        (k < begins ? restPeak : peak) = std::max(k < begins ? restPeak : peak, static_cast<double>(plate.high[k]));
      const auto mean = overPeriods(plate.mean, warming);
      direct.resize(mean.size());
      for (std::size_t k = 0; k < mean.size(); ++k)
        direct[k] += mean[k];
      rest += plate.rest;
    }
    const auto limits = type ? type->limits : tubes::Limits{};
    const auto of = type ? type->name : std::string();
    add(track.name, Quantity::peakAmps, peak, restPeak, limits.peakAmps, of);
    add(track.name, Quantity::directAmps, most(direct), rest, limits.directAmps, of);
  }
  if (busiest > 0 && fullest)
    add(fullest->part, Quantity::windingAmps, fullest->rmsAmps * busiest, fullest->rmsAmps, fullest->ratedAmps,
        fullest->name);
}

} // namespace

Feel readBurst(const Idle& idle, const amp::Library& library, Burst played, const Sound& sound) {
  Feel feel;
  feel.burst = std::move(played);
  const auto& burst = feel.burst;
  const auto fed = idle.point.supply ? mainRails(*idle.circuit).fed : circuit::Node{0};
  if (idle.point.supply)
    for (const auto& track : burst.tracks) {
      if (track.what != What::rail) continue;
      const auto& rails = idle.circuit->rails;
      const auto rail =
          std::find_if(rails.begin(), rails.end(), [&](const auto& one) { return one.name == track.name; });
      if (rail != rails.end() && rail->node == fed) feel.fed = static_cast<int>(feel.rails.size());
      feel.rails.push_back(dipOf(burst, track));
    }
  for (const auto& track : burst.tracks)
    if (track.what == What::grid) feel.bias.push_back(moveOf(burst, track));
  readRipple(feel);
  readStresses(feel, idle, library);
  if (feel.rippleHertz > 0)
    for (const double hertz : sound.hertz()) {
      if (feel.beats.size() >= 4) break;
      for (const double other : {std::abs(hertz - feel.rippleHertz), hertz + feel.rippleHertz})
        feel.beats.push_back({other, hertz});
    }
  if (const auto* output = burst.track(What::output)) {
    feel.envelope = overPeriods(output->squares);
    for (auto& one : feel.envelope)
      one = std::sqrt(std::max(one, 0.0));
    feel.outputVolts = *std::max_element(feel.envelope.begin(), feel.envelope.end());
    // What its resistors take, whatever its impedance is at these notes.
    std::vector<double> watts(feel.envelope.size());
    const auto resistors = speakerResistors(*idle.circuit);
    std::size_t number = 0;
    for (const auto& track : burst.tracks)
      if (track.what == What::speakerVolts && number < resistors.size()) {
        const auto squares = overPeriods(track.squares);
        for (std::size_t k = 0; k < std::min(squares.size(), watts.size()); ++k)
          watts[k] += squares[k] / resistors[number].ohms;
        ++number;
      }
    if (!watts.empty()) feel.outputWatts = *std::max_element(watts.begin(), watts.end());
  }
  return feel;
}

tl::expected<Feel, Problem> predictFeel(const Idle& idle, const amp::Library& library, const BurstQuestion& question,
                                        const GoOn& goOn) {
  auto burst = playBurst(idle, library, question, goOn);
  if (!burst) return tl::unexpected(burst.error());
  return readBurst(idle, library, std::move(*burst), *question.sound);
}

tl::expected<Blame, Problem> predictBlame(const Idle& idle, const amp::Library& library, const BurstQuestion& question,
                                          const GoOn& goOn) {
  Blame blame;
  for (const auto& slow : slowNodes(idle))
    blame.holdsBias |= slow.isCathode;
  const std::array<Held, 4> ways{Held::nothing, Held::supply, Held::bias, Held::coupling};
  std::array<std::vector<double>, 4> levels;
  std::array<std::optional<Problem>, 4> problems;
  double hop = 0, lead = 0, sounds = 0;
  const bool all = inTwoThreads(ways.size(), goOn, [&](std::size_t i, const GoOn& goes) {
    if (ways[i] == Held::bias && !blame.holdsBias) return; // as before
    auto one = question;
    one.held = ways[i];
    one.averaged =
        true; // held rails have no ripple: what is compared with them has none either, lest hum count as sound
    const auto burst = playBurst(idle, library, one, goes);
    if (!burst) {
      problems[i] = burst.error();
      return;
    }
    const auto* output = burst->track(What::output);
    if (!output) {
      problems[i] = Problem{"the amplifier", "has no end to be heard at"};
      return;
    }
    for (const double square : overPeriods(output->squares, slowly))
      levels[i].push_back(10 * std::log10(std::max(square, 1e-30)));
    if (i == 0) {
      hop = burst->hop;
      lead = burst->lead;
      sounds = burst->sounds;
    }
  });
  if (!all) return tl::unexpected(Problem::stopped());
  for (const auto& problem : problems)
    if (problem) return tl::unexpected(*problem);
  if (!blame.holdsBias) levels[2] = levels[1];
  const auto count = std::min({levels[0].size(), levels[1].size(), levels[2].size(), levels[3].size()});
  constexpr double heard = 40; // dB under the loudest
  const double loudest = *std::max_element(levels[1].begin(), levels[1].end());
  for (std::size_t k = 0; k < count; ++k) {
    blame.seconds.push_back((static_cast<double>(k) + 0.5) * hop - lead);
    const double t = blame.seconds.back();
    const bool quiet = t < 0 || t > sounds || levels[1][k] < loudest - heard;
    blame.supply.push_back(quiet ? never : levels[1][k] - levels[0][k]);
    blame.bias.push_back(quiet ? never : levels[2][k] - levels[1][k]);
    blame.blocking.push_back(quiet ? never : levels[3][k] - levels[2][k]);
    if (quiet) continue;
    const double loss = levels[3][k] - levels[0][k];
    if (t < attackSeconds && loss > blame.attackLoss) {
      blame.attackLoss = loss;
      blame.attackLossAt = t;
    }
    blame.bloom = loss;
  }
  blame.bloom = std::max(0.0, blame.attackLoss - blame.bloom);
  return blame;
}

} // namespace vinegar::predict
