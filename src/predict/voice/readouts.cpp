#include "predict/voice/readouts.h"

#include "predict/rest/places.h"
#include "predict/rest/variation.h"
#include "predict/wave/stage_ports.h"
#include "units/value.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace vinegar::predict {
namespace {

using Kind = Readout::Kind;

constexpr double lowest = 10, highest = 1e5, heardFrom = 20, heardTo = 2e4;
constexpr double cornerDecibels = 3, prominence = 0.5;
constexpr double midbandFrom = 200, midbandTo = 2000, leastHump = 1; ///< Hz; dB of a hump over the midband
constexpr double nearby = 0.02;      ///< in the logarithm of frequency: for slopes and bends of the curve
constexpr int bandPoints = 16;       ///< a band's mean is of so many
constexpr double tenthMore = 0.0953; ///< ln 1.1

/// A place on the curve that is wanted exactly: frequencies about it, by index in the second sweep.
struct Spot {
  double hertz = 0;
  std::size_t at = 0; ///< of the first of three: below, here, above
};

/// The top of the parabola through three equally spaced values: its offset in steps, and its height.
std::pair<double, double> crest(double before, double here, double after) {
  const double bend = before - 2 * here + after;
  if (bend == 0) return {0, here};
  const double offset = std::clamp(0.5 * (before - after) / bend, -1.0, 1.0);
  return {offset, here - 0.25 * (before - after) * offset};
}

/// The first place going from `index` by `step` where the curve is `drop` under `top`; in Hz, or nothing.
std::optional<double> cornerFrom(const Response& curve, std::size_t index, int step, double level) {
  for (auto i = static_cast<std::ptrdiff_t>(index); i + step >= 0 && i + step < std::ssize(curve.decibels); i += step) {
    const auto here = static_cast<std::size_t>(i), next = static_cast<std::size_t>(i + step);
    if (curve.decibels[next] > level) continue;
    const double share = (curve.decibels[here] - level) / (curve.decibels[here] - curve.decibels[next]);
    return curve.hertz[here] * std::pow(curve.hertz[next] / curve.hertz[here], share);
  }
  return std::nullopt;
}

std::vector<Maker> strongest(const std::vector<PartVariation>& variations, const Eigen::VectorXd& effects) {
  std::vector<std::size_t> order;
  for (std::size_t p = 0; p < variations.size(); ++p)
    if (std::isfinite(effects[static_cast<Eigen::Index>(p)])) order.push_back(p);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return std::abs(effects[static_cast<Eigen::Index>(a)]) > std::abs(effects[static_cast<Eigen::Index>(b)]);
  });
  std::vector<Maker> makers;
  for (const auto p : order) {
    const double effect = effects[static_cast<Eigen::Index>(p)] * tenthMore;
    if (makers.size() == 2 || std::abs(effect) < 1e-4) break;
    makers.push_back({variations[p].name, effect});
  }
  return makers;
}

/// Everything that is read of one span.
class CurveReader {
public:
  CurveReader(const Idle& idle, const amp::Library& library, const ReadoutsQuestion& question)
      : idle_(idle), question_(question), variations_(partVariations(*idle.circuit, library)) {}

  std::optional<Problem> read(Readouts& readouts) {
    auto curve = predictResponses(*idle_.circuit, idle_.point, {{question_.from, question_.to}},
                                  circuit::logSpaced(lowest, highest, 401), &warmth());
    if (!curve) return curve.error();
    curve_ = std::move(curve->front());
    findLandmarks();
    for (const auto& place : readingPlaces)
      want({Kind::level, place.name, 0, place.hertz, 0, {}});
    std::vector<std::size_t> bands;
    const auto addBand = [&](double low, double high) {
      for (int i = 0; i < bandPoints; ++i) // in the middle of as many even stretches
        hertz_.push_back(low * std::pow(high / low, (i + 0.5) / bandPoints));
    };
    for (const auto& band : question_.bands) {
      bands.push_back(hertz_.size());
      addBand(band.low, band.high);
    }
    midband_ = hertz_.size();
    addBand(midbandFrom, midbandTo);
    if (const auto problem = solve()) return problem;
    for (const auto& wanted : wanted_)
      readouts.all.push_back(finish(wanted));
    addTilts(bands, readouts);
    return std::nullopt;
  }

  /// What a network takes where it takes least, and what makes that.
  std::optional<Readout> lossOf(const Place& place) {
    const auto& names = idle_.circuit->netlist.nodeNames();
    const auto from = names[static_cast<std::size_t>(place.in)], to = names[static_cast<std::size_t>(place.out)];
    const auto curve = predictResponses(*idle_.circuit, idle_.point, {{from, to}},
                                        circuit::logSpaced(heardFrom, heardTo, 121), &warmth());
    if (!curve) return std::nullopt; // no signal comes there
    const auto& decibels = curve->front().decibels;
    const auto best = std::max_element(decibels.begin(), decibels.end());
    Readout loss{Kind::loss, place.use->id,
                 -*best,     curve->front().hertz[static_cast<std::size_t>(best - decibels.begin())],
                 *best,      {}};
    // Where another way leads to its end too, as the dry signal to a reverb's level, the ratio is no loss of its own.
    const SmallSignal signal(idle_, loss.hertz);
    const auto driven = signal.drawn(0, place.in);
    const double own =
        units::decibels(std::abs(SmallSignal::voltsOf(driven, place.out) / SmallSignal::voltsOf(driven, place.in)));
    constexpr double alike = 0.1;
    if (!(std::abs(own - *best) < alike)) return std::nullopt;
    auto plan = idle_.plan ? idle_.plan->plan() : nullptr;
    const auto effects = circuit::responseSensitivities(*idle_.point.system, idle_.point.dc.x, {loss.hertz}, place.in,
                                                        place.out, parametersOf(variations_), &plan);
    if (effects) loss.makers = strongest(variations_, -perRelative(*effects).col(0));
    return loss;
  }

private:
  struct Wanted {
    Readout readout;
    Spot here;
    std::optional<Spot> against; ///< the hump that a corner or a depth is measured from
  };

  Warmth& warmth() {
    warmth_.plan = idle_.plan;
    return warmth_;
  }

  Spot spotAt(double hertz) {
    const Spot spot{hertz, hertz_.size()};
    for (const double offset : {-nearby, 0.0, nearby})
      hertz_.push_back(hertz * std::exp(offset));
    return spot;
  }
  void want(Readout readout, std::optional<double> against = std::nullopt) {
    const double hertz = readout.hertz;
    Wanted wanted{std::move(readout), spotAt(hertz), std::nullopt};
    if (against) wanted.against = spotAt(*against);
    wanted_.push_back(std::move(wanted));
  }

  /// Frequency and level of the extreme at a point of the sweep.
  [[nodiscard]] std::pair<double, double> extremeAt(std::size_t i) const {
    if (i == 0 || i + 1 >= curve_.hertz.size()) return {curve_.hertz[i], curve_.decibels[i]};
    const auto [offset, level] = crest(curve_.decibels[i - 1], curve_.decibels[i], curve_.decibels[i + 1]);
    return {curve_.hertz[i] * std::pow(curve_.hertz[i + 1] / curve_.hertz[i], offset), level};
  }

  /// Mean level of the midband on the sweep, and the lowest place that is heard and not 3 dB under that: below a tone
  /// stack's dip there is bass again.
  [[nodiscard]] std::pair<double, std::size_t> midband() const {
    double sum = 0;
    int count = 0;
    const auto within = [&](std::size_t i) { return curve_.hertz[i] >= midbandFrom && curve_.hertz[i] <= midbandTo; };
    for (std::size_t i = 0; i < curve_.hertz.size(); ++i)
      if (within(i)) {
        sum += curve_.decibels[i];
        ++count;
      }
    const double mean = sum / count;
    std::size_t place = 0;
    while (curve_.hertz[place] < heardFrom || curve_.decibels[place] < mean - cornerDecibels)
      ++place;
    return {mean, place};
  }

  void findLandmarks() {
    const auto heard = [&](std::size_t i) { return curve_.hertz[i] >= heardFrom && curve_.hertz[i] <= heardTo; };
    auto humps = standingOut(curve_.decibels, prominence, true);
    std::erase_if(humps, [&](std::size_t i) { return !heard(i); });
    if (humps.empty()) return;
    const auto [highHertz, highTop] = extremeAt(humps.back());
    const auto [level, middle] = midband();
    if (const auto corner = cornerFrom(curve_, middle, -1, level - cornerDecibels)) {
      want({Kind::bassCorner, {}, 0, *corner, 0, {}});
      const auto [lowHertz, lowTop] = extremeAt(humps.front());
      if (lowHertz > *corner && lowHertz < midbandFrom && lowTop - level > leastHump)
        want({Kind::hump, {}, 0, lowHertz, 0, {}});
    }
    std::optional<std::size_t> dip;
    double depth = 0, beside = 0;
    for (const auto i : standingOut(curve_.decibels, prominence, false)) {
      const auto right = std::upper_bound(humps.begin(), humps.end(), i);
      if (!heard(i) || right == humps.begin() || right == humps.end()) continue;
      const auto lower = curve_.decibels[*(right - 1)] < curve_.decibels[*right] ? *(right - 1) : *right;
      const auto [besideHertz, top] = extremeAt(lower);
      if (top - curve_.decibels[i] <= depth) continue;
      depth = top - curve_.decibels[i];
      beside = besideHertz;
      dip = i;
    }
    if (dip) {
      const double hertz = extremeAt(*dip).first;
      want({Kind::dip, {}, 0, hertz, 0, {}});
      want({Kind::dipDepth, {}, 0, hertz, 0, {}}, beside);
    }
    want({Kind::peak, {}, 0, highHertz, 0, {}});
    if (const auto corner = cornerFrom(curve_, humps.back(), 1, highTop - cornerDecibels))
      want({Kind::trebleCorner, {}, 0, *corner, 0, {}}, highHertz);
  }

  std::optional<Problem> solve() {
    auto exact = predictResponses(*idle_.circuit, idle_.point, {{question_.from, question_.to}}, hertz_, &warmth());
    if (!exact) return exact.error();
    exact_ = std::move(exact->front().decibels);
    auto plan = idle_.plan ? idle_.plan->plan() : nullptr;
    const auto effects = circuit::responseSensitivities(
        *idle_.point.system, idle_.point.dc.x, hertz_, idle_.circuit->probe(question_.from),
        idle_.circuit->probe(question_.to), parametersOf(variations_), &plan);
    if (!effects) return effects.error();
    effects_ = perRelative(*effects);
    return std::nullopt;
  }

  /// dB per unit of the logarithm of a part's value, a row a part.
  [[nodiscard]] Eigen::MatrixXd perRelative(const Eigen::MatrixXcd& effects) const {
    Eigen::MatrixXd decibels = effects.real() * (20 / std::numbers::ln10);
    for (std::size_t p = 0; p < variations_.size(); ++p)
      decibels.row(static_cast<Eigen::Index>(p)) *= variations_[p].value;
    return decibels;
  }

  [[nodiscard]] double level(const Spot& spot, int which) const {
    return exact_[spot.at + static_cast<std::size_t>(which)];
  }
  [[nodiscard]] double slope(const Spot& spot) const { return (level(spot, 2) - level(spot, 0)) / (2 * nearby); }
  [[nodiscard]] double bend(const Spot& spot) const {
    return (level(spot, 0) - 2 * level(spot, 1) + level(spot, 2)) / (nearby * nearby);
  }
  [[nodiscard]] auto effect(const Spot& spot, int which) const {
    return effects_.col(static_cast<Eigen::Index>(spot.at) + which);
  }

  [[nodiscard]] double midbandLevel() const {
    double sum = 0;
    for (std::size_t i = 0; i < bandPoints; ++i)
      sum += exact_[midband_ + i];
    return sum / bandPoints;
  }
  [[nodiscard]] Eigen::VectorXd midbandEffect() const {
    return effects_.middleCols(static_cast<Eigen::Index>(midband_), bandPoints).rowwise().mean();
  }

  [[nodiscard]] Readout finish(const Wanted& wanted) const {
    Readout readout = wanted.readout;
    const auto& here = wanted.here;
    Eigen::VectorXd effects;
    readout.decibels = level(here, 1);
    switch (readout.kind) {
    case Kind::bassCorner:
    case Kind::trebleCorner: {
      // One step of Newton's method from the sweep's place to where the curve really is 3 dB under its hump.
      const bool bass = readout.kind == Kind::bassCorner;
      const double top =
          bass ? midbandLevel()
               : crest(level(*wanted.against, 0), level(*wanted.against, 1), level(*wanted.against, 2)).second;
      const double off = top - cornerDecibels - readout.decibels;
      readout.hertz *= std::exp(std::clamp(off / slope(here), -nearby, nearby));
      readout.decibels += off;
      readout.value = readout.hertz;
      effects =
          -(effect(here, 1) - (bass ? midbandEffect() : Eigen::VectorXd(effect(*wanted.against, 1)))) / slope(here);
      break;
    }
    case Kind::dip:
    case Kind::peak: {
      const auto [offset, top] = crest(level(here, 0), level(here, 1), level(here, 2));
      readout.hertz *= std::exp(offset * nearby);
      readout.decibels = top;
      readout.value = readout.hertz;
      effects = -(effect(here, 2) - effect(here, 0)) / (2 * nearby) / bend(here);
      break;
    }
    case Kind::hump:
      readout.decibels = crest(level(here, 0), level(here, 1), level(here, 2)).second;
      readout.value = readout.decibels - midbandLevel();
      effects = effect(here, 1) - midbandEffect();
      break;
    case Kind::dipDepth:
      readout.decibels = crest(level(here, 0), level(here, 1), level(here, 2)).second;
      readout.value = crest(level(*wanted.against, 0), level(*wanted.against, 1), level(*wanted.against, 2)).second -
                      readout.decibels;
      effects = effect(*wanted.against, 1) - effect(here, 1);
      break;
    default:
      readout.value = readout.decibels;
      effects = effect(here, 1);
    }
    readout.makers = strongest(variations_, effects);
    return readout;
  }

  void addTilts(const std::vector<std::size_t>& bands, Readouts& readouts) const {
    if (question_.bands.empty()) return;
    const auto* const against = againstBand(question_.bands);
    const auto meanOf = [&](std::size_t b) {
      double sum = 0;
      for (std::size_t i = 0; i < bandPoints; ++i)
        sum += exact_[bands[b] + i];
      return sum / bandPoints;
    };
    const auto effectsOf = [&](std::size_t b) -> Eigen::VectorXd {
      return effects_.middleCols(static_cast<Eigen::Index>(bands[b]), bandPoints).rowwise().mean();
    };
    const auto v = static_cast<std::size_t>(against - question_.bands.data());
    for (std::size_t b = 0; b < bands.size(); ++b) {
      if (b == v) continue;
      const auto& band = question_.bands[b];
      readouts.all.push_back({Kind::tilt, band.name, meanOf(b) - meanOf(v), std::sqrt(band.low * band.high), meanOf(b),
                              strongest(variations_, effectsOf(b) - effectsOf(v))});
    }
  }

  const Idle& idle_;
  const ReadoutsQuestion& question_;
  std::vector<PartVariation> variations_;
  Warmth warmth_;
  Response curve_;
  std::vector<Wanted> wanted_;
  std::vector<double> hertz_, exact_;
  std::size_t midband_ = 0; ///< the first of its frequencies among them
  Eigen::MatrixXd effects_;
};

} // namespace

const std::vector<ToneBand>& usualBands() {
  static const std::vector<ToneBand> bands{{"bass guitar", 40, 120},
                                           {"warmth or mud", 120, 400},
                                           {"voice", 400, 1500},
                                           {"bite", 1500, 4000},
                                           {"fizz", 4000, 10000}};
  return bands;
}

const ToneBand* againstBand(const std::vector<ToneBand>& bands) {
  const auto voice =
      std::find_if(bands.begin(), bands.end(), [](const ToneBand& band) { return band.name == "voice"; });
  return bands.empty() ? nullptr : voice == bands.end() ? &bands[bands.size() / 2] : &*voice;
}

const Readout* Readouts::of(Readout::Kind kind, const std::string& name) const {
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Readout& r) { return r.kind == kind && r.name == name; });
  return found == all.end() ? nullptr : &*found;
}

std::vector<std::size_t> standingOut(const std::vector<double>& decibels, double prominence, bool up) {
  const auto height = [&](std::size_t i) { return up ? decibels[i] : -decibels[i]; };
  std::vector<std::size_t> found;
  for (std::size_t i = 1; i + 1 < decibels.size(); ++i) {
    if (!(height(i) > height(i - 1)) || height(i) < height(i + 1)) continue;
    // Down from here on either side until it is as high again, or to the end.
    const auto descent = [&](int step) {
      double least = height(i);
      for (auto j = static_cast<std::ptrdiff_t>(i) + step; j >= 0 && j < std::ssize(decibels); j += step) {
        const double there = height(static_cast<std::size_t>(j));
        if (there > height(i)) break;
        least = std::min(least, there);
      }
      return height(i) - least;
    };
    if (std::min(descent(-1), descent(1)) >= prominence) found.push_back(i);
  }
  return found;
}

tl::expected<Readouts, Problem> predictReadouts(const Idle& whole, const amp::Library& library,
                                                const ReadoutsQuestion& question, const GoOn& goOn) {
  for (const auto& band : question.bands)
    if (!(band.low > 0) || !(band.high > band.low))
      return tl::unexpected(Problem{band.name, "a band goes from a lower to a higher frequency"});
  const Idle idle = withoutEchoes(whole);
  Readouts readouts;
  readouts.dry = idle.point.system != whole.point.system;
  CurveReader reader(idle, library, question);
  if (const auto problem = reader.read(readouts)) return tl::unexpected(*problem);
  if (goOn && !goOn(0.5)) return tl::unexpected(Problem::stopped());
  for (const auto& place : placesOf(*idle.circuit, library)) {
    const auto& parts = place.section->parts;
    const bool hasTube =
        std::any_of(parts.begin(), parts.end(), [](const auto& part) { return amp::isTube(part.kind); });
    const bool isPlayed =
        std::any_of(parts.begin(), parts.end(), [](const auto& part) { return part.kind == amp::PartKind::pot; });
    if (hasTube || !isPlayed || place.in <= 0 || place.in == place.out) continue;
    if (auto loss = reader.lossOf(place)) readouts.all.push_back(std::move(*loss));
  }
  return readouts;
}

} // namespace vinegar::predict
