#include "predict/wave/clipping.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <iterator>
#include <limits>
#include <tuple>

namespace vinegar::predict {
namespace {

using circuit::Node;

constexpr double half = 0.5; ///< of the slope at rest: the limit
constexpr double conducts = leastConducting;
constexpr double mostInput = mostInputPeak;
/// What is looked for in a stage: the kinds of clipping in their order, then the end of class A of either side.
constexpr std::size_t kinds = 6, clippingKinds = 4;
constexpr Limit::Kind kindAt(std::size_t k) {
  return k < clippingKinds ? static_cast<Limit::Kind>(k) : Limit::Kind::classA;
}

/// The least slope share of each kind that a stage comes to.
struct Worst {
  std::array<double, kinds> share{1, 1, 1, 1, 1, 1};
  void take(std::size_t k, double s) { share[k] = std::min(share[k], s); }
  void take(Limit::Kind kind, double s) { take(static_cast<std::size_t>(kind), s); }
  /// Of whatever clips.
  [[nodiscard]] double least() const { return *std::min_element(share.begin(), share.begin() + clippingKinds); }
};

/// The tubes of a stage that push together, and those that pull; none where all go the same way.
std::vector<std::vector<std::size_t>> sidesOf(const StagePorts& stage) {
  const auto amps = stage.amps();
  const auto& tubes = stage.tubes();
  std::vector<std::vector<std::size_t>> sides(2);
  for (std::size_t t = 0; t < tubes.size(); ++t)
    sides[(amps[tubes[t].plate()] * std::conj(amps[tubes.front().plate()])).real() < 0].push_back(t);
  if (sides[1].empty()) sides.clear();
  return sides;
}

/// Takes note of a stage's state at the port volts.
class Watch {
public:
  explicit Watch(const StagePorts& stage) : stage_(stage), sides_(sidesOf(stage)) {
    stage.evaluate(stage.rest(), restAmps_, slopes_);
  }

  void look(const Eigen::VectorXd& volts, Worst& worst) {
    stage_.evaluate(volts, amps_, slopes_);
    const double share = stage_.slopeShare(slopes_);
    if (share < 0.95) {
      const double withoutGrid = stage_.slopeShare(stage_.withoutGridCurrent(slopes_));
      if (withoutGrid - share > (1 - share) / 2)
        worst.take(Limit::Kind::gridCurrent, share);
      else
        worst.take(total(amps_) < total(restAmps_) ? Limit::Kind::cutOff : Limit::Kind::saturation, share);
    }
    for (std::size_t side = 0; side < sides_.size(); ++side)
      for (const auto t : sides_[side]) {
        const auto plate = stage_.tubes()[t].plate();
        // Half where just the share of its idle current is left that counts as nothing.
        if (const double left = amps_[plate] / restAmps_[plate]; left < 1)
          worst.take(clippingKinds + side, half + (left - conducts) * half / (1 - conducts));
      }
  }

private:
  [[nodiscard]] double total(const Eigen::VectorXd& amps) const {
    double sum = 0;
    for (const auto& tube : stage_.tubes())
      sum += amps[tube.plate()];
    return sum;
  }

  const StagePorts& stage_;
  std::vector<std::vector<std::size_t>> sides_;
  Eigen::VectorXd restAmps_, amps_;
  Eigen::MatrixXd slopes_;
};

/// The stage alone, its surroundings linear and without memory, at the crest of ever more drive.
class Crest {
public:
  /// `up`: of that tube's own grid.
  Crest(const StagePorts& stage, std::size_t tube, bool up) : stage_(stage) {
    // The phase of what controls the stage counts as none: the tube's own drive, or the strongest where it has none.
    std::complex<double> control = 0;
    for (const auto& other : stage.tubes())
      if (std::abs(stage.drive()[other.grid()]) > std::abs(control)) control = stage.drive()[other.grid()];
    if (const auto own = stage.drive()[stage.tubes()[tube].grid()]; std::abs(own) > 0.05 * std::abs(control))
      control = own;
    const auto turn = std::abs(control) > 0 ? std::conj(control) / std::abs(control) : 1.0;
    drive_ = (stage.drive() * turn).real() * (up ? 1 : -1);
    size_ = std::abs(control);
    impedance_ = stage.impedance().real();
    stage.evaluate(stage.rest(), restAmps_, slopes_);
    volts_ = stage.rest();
  }

  [[nodiscard]] double size() const { return size_; } ///< volts at the grid for one of the source
  [[nodiscard]] const Eigen::VectorXd& volts() const { return volts_; }

  /// Goes on from the last drive; false where no state is found.
  bool at(double source) {
    const Eigen::VectorXd base = stage_.rest() + source * drive_ + impedance_ * restAmps_;
    const auto misfit = [&](const Eigen::VectorXd& volts) {
      stage_.evaluate(volts, amps_, slopes_);
      return Eigen::VectorXd(volts - base + impedance_ * amps_);
    };
    Eigen::VectorXd volts = volts_, wrong = misfit(volts);
    for (int i = 0; i < 60; ++i) {
      if (wrong.lpNorm<Eigen::Infinity>() < 1e-6) {
        volts_ = volts;
        return true;
      }
      const Eigen::MatrixXd matrix = Eigen::MatrixXd::Identity(volts.size(), volts.size()) + impedance_ * slopes_;
      const Eigen::VectorXd step = matrix.partialPivLu().solve(wrong);
      const double before = wrong.norm();
      double scale = 1;
      Eigen::VectorXd next;
      for (int halving = 0; halving < 12; ++halving, scale /= 2) {
        next = volts - scale * step;
        wrong = misfit(next);
        if (wrong.norm() < before) break;
      }
      if (!next.allFinite()) return false;
      volts = next;
    }
    return false;
  }

private:
  const StagePorts& stage_;
  Eigen::VectorXd drive_, restAmps_, amps_, volts_;
  Eigen::MatrixXd impedance_, slopes_;
  double size_ = 0;
};

std::vector<StagePorts> stagePorts(const SmallSignal& signal) {
  std::vector<StagePorts> stages;
  for (const auto& tubes : stagesOf(*signal.idle().circuit)) {
    StagePorts stage(signal, tubes);
    // A stage that the signal does not come to has no limit to be met, nor one whose tubes are cut off at rest.
    if (stage.drive().allFinite() && stage.amps().allFinite() && stage.amps().norm() > 1e-12 * std::abs(signal.input()))
      stages.push_back(std::move(stage));
  }
  return stages;
}

/// A transformer whose core saturates: its flux at rest and for a volt of the source, volt seconds.
struct Core {
  std::string part;
  Node flux;
  double bend, rest, linear;

  /// Inductance at this flux as a share of that at rest: the slope of i = flux/L (1 + (flux/bend)^4).
  [[nodiscard]] double share(double at) const {
    const auto slope = [&](double f) { return 1 + 5 * std::pow(f / bend, 4); };
    return slope(rest) / slope(at);
  }
  /// The least drive of the source at which it is half.
  [[nodiscard]] double drive() const {
    if (!(linear > 0)) return std::numeric_limits<double>::infinity();
    const double half = bend * std::pow((2 * (1 + 5 * std::pow(rest / bend, 4)) - 1) / 5, 0.25);
    return (half - std::abs(rest)) / linear;
  }
};

std::vector<Core> coresOf(const SmallSignal& signal) {
  std::vector<Core> cores;
  const auto& idle = signal.idle();
  for (const auto& part : idle.circuit->parts)
    for (const int index : part.devices) {
      const auto& device = idle.point.system->netlist().devices()[static_cast<std::size_t>(index)];
      if (const auto* core = std::get_if<circuit::SaturableInductor>(&device.law))
        cores.push_back({part.resolved.name, device.nodes[2], core->bendFlux, idle.point.volts(device.nodes[2]),
                         std::abs(signal.volts(device.nodes[2]))});
    }
  return cores;
}

Limit limitOf(const Core& core, double inputPeak) { return {Limit::Kind::core, {core.part}, inputPeak, {}}; }

Limit limitOf(const StagePorts& stage, std::size_t kind, double inputPeak) {
  Limit limit{kindAt(kind), {}, inputPeak, {}};
  const auto sides = kind >= clippingKinds ? sidesOf(stage) : std::vector<std::vector<std::size_t>>{};
  for (std::size_t t = 0; t < stage.tubes().size(); ++t)
    if (sides.empty() || std::find(sides[kind - clippingKinds].begin(), sides[kind - clippingKinds].end(), t) !=
                             sides[kind - clippingKinds].end())
      limit.tubes.push_back(stage.tubes()[t].part->resolved.name);
  return limit;
}

/// Raises the drive of the stage alone until `seen` says enough or nothing is found: its arguments are the drive of the
/// source, peak, the one before (0: none), what the stage came to at both, and the port volts now.
void raise(const StagePorts& stage, std::size_t tube, bool up, double most,
           const std::function<bool(double, double, const Worst&, const Worst&, const Eigen::VectorXd&)>& seen) {
  constexpr double pace = 1.25, longPace = 1.7, nothingBends = 0.97;
  Watch watch(stage);
  Crest crest(stage, tube, up);
  if (crest.size() <= 0) return;
  double before = 0;
  Worst last;
  double drive = std::min(stage.quietVolts() / crest.size(), most / 2);
  // Long steps while nothing bends; the first that meets a bend is gone over again in short ones.
  bool strides = true;
  while (drive <= most) {
    if (!crest.at(drive)) {
      if (!strides || before <= 0) return;
      strides = false;
      drive = before * pace;
      continue;
    }
    Worst worst;
    watch.look(crest.volts(), worst);
    const bool bends = *std::min_element(worst.share.begin(), worst.share.end()) < nothingBends;
    if (strides && bends && before > 0) {
      strides = false;
      drive = before * pace;
      continue;
    }
    strides = strides && !bends;
    if (!seen(drive, before, worst, last, crest.volts())) return;
    last = worst;
    before = drive;
    drive *= strides ? longPace : pace;
  }
}

/// Straight between the two in the logarithm is within a thousandth at the pace above.
double crossing(double before, double now, double shareBefore, double share) {
  if (before <= 0 || shareBefore <= share) return now;
  return before * std::pow(now / before, std::clamp((shareBefore - half) / (shareBefore - share), 0.0, 1.0));
}

/// The least drive of the source, peak, at which the stage alone meets each of its limits; none under `most`.
std::array<double, kinds> localDrives(const StagePorts& stage, double most) {
  std::array<double, kinds> drives;
  drives.fill(std::numeric_limits<double>::infinity());
  for (const bool up : {true, false})
    raise(stage, 0, up, most, [&](double drive, double before, const Worst& now, const Worst& last, const auto&) {
      for (std::size_t k = 0; k < kinds; ++k)
        if (now.share[k] < half) drives[k] = std::min(drives[k], crossing(before, drive, last.share[k], now.share[k]));
      return now.least() > 0.2;
    });
  return drives;
}

/// Waves of rising input, and what each stage comes to in them.
class Search {
public:
  /// Cores are numbered after the stages.
  Search(const SmallSignal& signal, const std::vector<StagePorts>& stages, const std::vector<Core>& cores)
      : stages_(stages), cores_(cores) {
    for (const auto& stage : stages) {
      const auto own = stage.nodes();
      nodes_.insert(nodes_.end(), own.begin(), own.end());
    }
    for (const auto& core : cores)
      nodes_.push_back(core.flux);
    played_.emplace(signal, nodes_);
  }

  /// Shares of every stage at this input; kept. A Problem where the wave has no answer.
  const tl::expected<std::vector<Worst>, Problem>& at(double input) {
    const auto [found, isNew] = runs_.try_emplace(input, tl::unexpected(Problem{}));
    if (!isNew) return found->second;
    const auto wave = played_->wave(input, goOn);
    if (!wave) {
      found->second = tl::unexpected(wave.error());
      return found->second;
    }
    std::vector<Worst> worst(stages_.size() + cores_.size());
    Eigen::Index row = 0;
    for (std::size_t s = 0; s < stages_.size(); ++s) {
      Watch watch(stages_[s]);
      const auto count = static_cast<Eigen::Index>(stages_[s].nodes().size());
      for (Eigen::Index k = 0; k < wave->volts.cols(); ++k)
        watch.look(stages_[s].portsOf(wave->volts.col(k).segment(row, count)), worst[s]);
      row += count;
    }
    for (std::size_t c = 0; c < cores_.size(); ++c, ++row)
      for (Eigen::Index k = 0; k < wave->volts.cols(); ++k)
        worst[stages_.size() + c].take(Limit::Kind::core, cores_[c].share(wave->volts(row, k)));
    found->second = std::move(worst);
    return found->second;
  }

  /// The inputs nearest to the limit on either side: 0 and infinity where there is none.
  [[nodiscard]] std::pair<double, double> bracket(std::size_t stage, std::size_t kind) const {
    std::pair<double, double> between{0, std::numeric_limits<double>::infinity()};
    for (const auto& [input, worst] : runs_) {
      if (!worst) continue;
      if ((*worst)[stage].share[kind] < half) {
        between.second = input;
        break;
      }
      between.first = input;
    }
    return between;
  }
  [[nodiscard]] double shareAt(double input, std::size_t stage, std::size_t kind) const {
    return (*runs_.at(input))[stage].share[kind];
  }
  /// The input at which the share is just half, in waves at ever better guesses: to a hundredth of the share, or
  /// between two inputs 1 % apart, where it is as good as straight. Infinite where it is not met.
  double refine(std::size_t stage, std::size_t kind) {
    double low = 0, high = 0, upper = 1, lower = 0;
    for (int i = 0; i < 14; ++i) {
      std::tie(low, high) = bracket(stage, kind);
      if (!std::isfinite(high)) return high;
      if (low <= 0) {
        if (!at(high / 2)) break;
        continue;
      }
      upper = shareAt(low, stage, kind);
      lower = shareAt(high, stage, kind);
      if (high / low < 1.01 || upper - half < 0.01 || half - lower < 0.01) break;
      double part = upper < 0.999 ? (upper - half) / (upper - lower) : 0.5;
      if (high / low > 1.3) part = std::clamp(part, 0.3, 0.7);
      if (!at(low * std::pow(high / low, part))) break;
    }
    return low > 0 ? crossing(low, high, upper, lower) : high;
  }

  GoOn goOn;

private:
  const std::vector<StagePorts>& stages_;
  const std::vector<Core>& cores_;
  std::vector<Node> nodes_;
  std::optional<PlayedAmplifier> played_;
  std::map<double, tl::expected<std::vector<Worst>, Problem>> runs_;
};

} // namespace

std::optional<CrestLimit> crestLimit(const StagePorts& stage, std::size_t tube, const SmallSignal& signal, bool gridUp,
                                     double mostPeak) {
  std::optional<CrestLimit> limit;
  const double input = std::abs(signal.input());
  Eigen::VectorXd volts = stage.rest();
  raise(stage, tube, gridUp, mostPeak / input,
        [&](double drive, double before, const Worst& now, const Worst& last, const Eigen::VectorXd& ports) {
          for (std::size_t k = 0; k < clippingKinds; ++k)
            if (now.share[k] < half) {
              const double at = crossing(before, drive, last.share[k], now.share[k]);
              if (limit && limit->inputPeak <= at * input) continue;
              const double part = before > 0 ? (at - before) / (drive - before) : 1;
              const Eigen::VectorXd there = volts + part * (ports - volts);
              Eigen::VectorXd amps;
              Eigen::MatrixXd slopes;
              stage.evaluate(there, amps, slopes);
              const auto plate = stage.tubes()[tube].plate(), grid = stage.tubes()[tube].grid();
              limit = CrestLimit{static_cast<Limit::Kind>(k), at * input, there[grid] - stage.rest()[grid],
                                 there[plate] - stage.rest()[plate], amps[plate]};
            }
          volts = ports;
          return !limit;
        });
  return limit;
}

std::vector<Limit> localLimits(const StagePorts& stage, const SmallSignal& signal, double mostPeak) {
  std::vector<Limit> limits;
  const double input = std::abs(signal.input());
  const auto drives = localDrives(stage, mostPeak / input);
  for (std::size_t k = 0; k < kinds; ++k)
    if (std::isfinite(drives[k])) limits.push_back(limitOf(stage, k, drives[k] * input));
  return limits;
}

std::vector<Limit> localLimits(const SmallSignal& signal, double mostPeak) {
  std::vector<Limit> limits;
  if (!signal.stands()) return limits;
  for (const auto& stage : stagePorts(signal)) {
    auto own = localLimits(stage, signal, mostPeak);
    std::move(own.begin(), own.end(), std::back_inserter(limits));
  }
  for (const auto& core : coresOf(signal))
    if (const double peak = core.drive() * std::abs(signal.input()); peak <= mostPeak)
      limits.push_back(limitOf(core, peak));
  return limits;
}

std::string words(const CrestLimit& limit) {
  return (limit.isPartners() ? "partner's " : "") + std::string(words(limit.kind));
}

std::string_view words(Limit::Kind kind) {
  constexpr std::array<std::string_view, 6> names{"grid current",    "cut-off",        "saturation",
                                                  "core saturation", "end of class A", "supply sags"};
  return names[static_cast<std::size_t>(kind)];
}

const Limit* Clipping::first() const {
  for (const auto& limit : limits)
    if (limit.isClipping()) return &limit;
  return nullptr;
}

tl::expected<double, Problem> worstHertz(const Idle& idle, const GoOn& goOn) {
  const auto first = findClipping(idle, {0, ClippingQuestion::Which::first}, goOn);
  if (!first) return tl::unexpected(first.error());
  return first->hertz;
}

namespace {
/// At each of `rangeHertz`, and then where that which clips first does so with the least input.
tl::expected<Clipping, Problem> clippingAtWorst(const Idle& idle, const ClippingQuestion& question, const GoOn& goOn) {
  using Which = ClippingQuestion::Which;
  if (question.which != Which::first && question.which != Which::output) {
    const auto hertz = worstHertz(idle, goOn);
    if (!hertz) return tl::unexpected(hertz.error());
    return findClipping(idle, {*hertz, question.which}, goOn);
  }
  std::optional<Clipping> worst;
  for (std::size_t i = 0; i < rangeHertz.size(); ++i) {
    auto one = question;
    one.hertz = rangeHertz[i];
    auto clipping = findClipping(idle, one, [&](double share) {
      return !goOn || goOn((static_cast<double>(i) + share) / static_cast<double>(rangeHertz.size()));
    });
    if (!clipping) return clipping;
    const auto* first = clipping->first();
    if (!worst || (first && (!worst->first() || first->inputPeak < worst->first()->inputPeak))) worst = *clipping;
  }
  return *worst;
}
} // namespace

tl::expected<Clipping, Problem> findClipping(const Idle& idle, const ClippingQuestion& question, const GoOn& goOn) {
  using Which = ClippingQuestion::Which;
  if (question.hertz <= 0) return clippingAtWorst(idle, question, goOn);
  Clipping clipping{question.hertz, {}, mostInput, {}};
  const SmallSignal signal(idle, question.hertz);
  if (!signal.stands()) return clipping;
  const auto stages = stagePorts(signal);
  if (stages.empty()) return clipping;
  const double input = std::abs(signal.input());
  std::vector<std::array<double, kinds>> guesses;
  double least = mostInput;
  for (const auto& stage : stages) {
    auto& drives = guesses.emplace_back(localDrives(stage, mostInput / input));
    for (std::size_t k = 0; k < kinds; ++k) {
      drives[k] *= input;
      if (k < clippingKinds) least = std::min(least, drives[k]);
    }
  }
  const auto cores = coresOf(signal);
  for (const auto& core : cores) {
    auto& drives = guesses.emplace_back();
    drives.fill(std::numeric_limits<double>::infinity());
    drives[static_cast<std::size_t>(Limit::Kind::core)] = core.drive() * input;
    least = std::min(least, core.drive() * input);
  }
  const auto all = guesses.size();
  Search search(signal, stages, cores);
  int done = 0;
  const auto tell = [&] { return !goOn || goOn(1 - 1 / (1 + 0.03 * ++done)); };
  bool stopped = false;
  search.goOn = [&](double) { return !(stopped = stopped || !tell()); };

  const auto asked = [&](std::size_t s) {
    return question.which != Which::output || s >= stages.size() || stages[s].drivesTransformer();
  };
  if (question.which == Which::output) {
    least = std::numeric_limits<double>::infinity();
    for (std::size_t s = 0; s < all; ++s)
      if (asked(s)) least = std::min(least, *std::min_element(guesses[s].begin(), guesses[s].begin() + clippingKinds));
  }
  const bool one = question.which == Which::first || question.which == Which::output;
  const double top = question.which == Which::lowest ? std::min(mostInput, 12 * least) : mostInput;
  // From where nothing is met, up to where something is; one asked limit alone needs no more.
  bool met = false;
  double at = std::min(least, mostInput) / (one ? 1.0 : 1.5);
  while (at <= top * 1.7 && !(one && met)) {
    const auto& worst = search.at(std::min(at, mostInput));
    if (stopped) return tl::unexpected(Problem::stopped());
    if (!worst) {
      if (at <= least) return tl::unexpected(worst.error());
      clipping.mostPeak = at;
      break;
    }
    for (std::size_t s = 0; s < all; ++s)
      met = met || (asked(s) && (*worst)[s].least() < half);
    if (at >= mostInput) break;
    at *= one && at < 1.1 * least ? 1.06 : 1.7;
  }
  for (std::size_t s = 0; s < all; ++s)
    for (std::size_t k = 0; k < kinds; ++k) {
      if (!asked(s) || (question.which != Which::all && k >= clippingKinds)) continue;
      const auto [low, high] = search.bracket(s, k);
      if (!std::isfinite(high)) continue;
      // Where the stage alone would meet it is near where it does, unless something clips before.
      const double guess = guesses[s][k];
      if (guess > low && guess < high) search.at(guess);
      const double peak = search.refine(s, k);
      if (stopped) return tl::unexpected(Problem::stopped());
      if (peak <= clipping.mostPeak)
        clipping.limits.push_back(s < stages.size() ? limitOf(stages[s], k, peak)
                                                    : limitOf(cores[s - stages.size()], peak));
    }
  std::stable_sort(clipping.limits.begin(), clipping.limits.end(),
                   [](const Limit& a, const Limit& b) { return a.inputPeak < b.inputPeak; });
  if (one && clipping.limits.size() > 1) {
    // Of what a stage meets within the waves' own hundredth, the first kind: which it is must not hang on the last
    // digit.
    const auto& first = clipping.limits.front();
    const auto chosen =
        std::min_element(clipping.limits.begin(), clipping.limits.end(), [&](const auto& a, const auto& b) {
          const auto rank = [&](const Limit& l) {
            const bool tied = l.tubes == first.tubes && l.inputPeak < 1.01 * first.inputPeak;
            return std::pair(!tied, l.kind);
          };
          return rank(a) < rank(b);
        });
    clipping.limits = {*chosen};
  }
  return clipping;
}

} // namespace vinegar::predict
