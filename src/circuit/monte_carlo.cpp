#include "circuit/monte_carlo.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>
#include <thread>

namespace vinegar::circuit {
namespace {

/// Numbers of one build, from its seed and number alone (G. L. Steele, D. Lea and C. H. Flood, Fast splittable
/// pseudorandom number generators, 2014).
class Dice {
public:
  Dice(std::uint64_t seed, std::uint64_t build) : state_(mix(seed) ^ mix(build * 0x9e3779b97f4a7c15U + 1)) {}
  /// Evenly within [-1, 1).
  double throwOne() {
    state_ += 0x9e3779b97f4a7c15U;
    return static_cast<double>(mix(state_) >> 11) * 0x1p-52 - 1;
  }

private:
  static std::uint64_t mix(std::uint64_t z) {
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9U;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebU;
    return z ^ (z >> 31);
  }
  std::uint64_t state_;
};

/// What one thread works with.
class Builder {
public:
  Builder(const System& nominal, const MonteCarloQuestion& question, const Eigen::VectorXd& start, AcPlan plan)
      : nominal_(nominal), system_(nominal), question_(question), start_(start), plan_(std::move(plan)), dc_(system_) {}

  bool build(int index, MonteCarloAnswer& answer) {
    Dice dice(question_.seed, static_cast<std::uint64_t>(index));
    laws_.clear();
    for (const auto& spread : question_.spreads) {
      const double factor = 1 + spread.tolerance * dice.throwOne(), gm = 1 + spread.gmTolerance * dice.throwOne();
      for (const int device : spread.devices)
        laws_.emplace_back(device,
                           varied(nominal_.netlist().devices()[static_cast<std::size_t>(device)].law, factor, gm));
    }
    system_.setLaws(laws_);
    answer.decibels.col(index).setConstant(std::numeric_limits<double>::quiet_NaN());
    answer.unknowns.col(index).setConstant(std::numeric_limits<double>::quiet_NaN());
    const auto dc = dc_.solve(&start_);
    if (!dc) return false;
    answer.unknowns.col(index) = dc->x;
    for (std::size_t w = 0; w < question_.watched.size(); ++w)
      answer.amps(static_cast<Eigen::Index>(w), index) = system_.pinCurrents(question_.watched[w], dc->x).front();
    AcPlan plan = plan_; // never replaced for others: an answer must not depend on what was solved before
    const int from = System::row(question_.from), to = System::row(question_.to);
    const auto problem = sweepSmallSignal(system_, dc->x, question_.hertz, &plan, [&](const SweepBlock& block) {
      for (std::size_t lane = 0; lane < block.count; ++lane) {
        const auto power = [&](int row) {
          const auto& v = block.x()[row];
          return v.re[lane] * v.re[lane] + v.im[lane] * v.im[lane];
        };
        answer.decibels(static_cast<Eigen::Index>(block.first + lane), index) =
            10 * std::log10(power(to) / power(from));
      }
    });
    return !problem;
  }

private:
  const System& nominal_;
  System system_;
  const MonteCarloQuestion& question_;
  const Eigen::VectorXd& start_;
  AcPlan plan_;
  DcSolver dc_;
  std::vector<std::pair<int, Law>> laws_;
};

} // namespace

tl::expected<MonteCarloAnswer, Problem> solveMonteCarlo(const System& system, const MonteCarloQuestion& question) {
  const auto nominal = solveDc(system);
  if (!nominal) return tl::unexpected(nominal.error());
  AcPlan plan;
  if (const auto problem = sweepSmallSignal(system, nominal->x, question.hertz, &plan, [](const SweepBlock&) {}))
    return tl::unexpected(*problem);
  MonteCarloAnswer answer;
  answer.decibels.resize(static_cast<Eigen::Index>(question.hertz.size()), question.builds);
  answer.unknowns.resize(system.size(), question.builds);
  answer.amps.setConstant(static_cast<Eigen::Index>(question.watched.size()), question.builds,
                          std::numeric_limits<double>::quiet_NaN());
  const int hardware = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  const int threads = std::clamp(question.threads > 0 ? question.threads : hardware, 1, std::max(1, question.builds));
  std::atomic<int> next = 0, failures = 0;
  std::atomic<bool> cancelled = false;
  const auto work = [&] {
    Builder builder(system, question, nominal->x, plan);
    for (int index = next++; index < question.builds && !cancelled; index = next++) {
      if (question.goOn && !question.goOn())
        cancelled = true;
      else if (!builder.build(index, answer))
        ++failures;
    }
  };
  {
    std::vector<std::jthread> others;
    for (int t = 1; t < threads; ++t)
      others.emplace_back(work);
    work();
  }
  if (cancelled) return tl::unexpected(Problem::stopped());
  answer.failures = failures;
  return answer;
}

} // namespace vinegar::circuit
