#include "circuit/periodic.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace vinegar::circuit {
namespace {

using State = ImplicitStep::State;

constexpr double shootingVolts = 1e-8;
constexpr double restVolts = 1e-6; ///< a period that ends this near its start repeats
constexpr int mostShots = 20;

class Shooter {
public:
  Shooter(const System& system, const PeriodicQuestion& question) : question_(question) {
    for (const auto& [device, waveform] : question.drive)
      scaled_[device] = {[this, value = waveform.value](double t) { return share_ * value(t); }, waveform.corners};
    h_ = question.period / question.steps;
    dynamics_ = std::make_unique<Dynamics>(system, scaled_, 1e-6 * h_);
  }

  tl::expected<PeriodicAnswer, Problem> run(const Eigen::VectorXd& x) {
    State start = dynamics_->stateAt(x);
    double reached = 0, pace = 1;
    while (reached < 1) {
      share_ = std::min(1.0, reached + pace);
      State trial = start;
      const auto settled = settle(trial);
      if (cancelled_) return tl::unexpected(Problem::stopped());
      if (settled) {
        start = trial;
        reached = share_;
        pace = std::min(1.0, 2 * pace);
      } else if ((pace /= 2) < 1e-3) {
        return tl::unexpected(Problem{"the steady state", "no state was found that repeats with the drive; the circuit "
                                                          "may oscillate or block by itself"});
      }
    }
    return std::move(answer_);
  }

private:
  /// Newton's method on the memory at the start of the period.
  bool settle(State& start) {
    double last = INFINITY;
    for (int shot = 0; shot < mostShots; ++shot) {
      State end;
      Eigen::MatrixXd transfer;
      if (!shoot(start, end, transfer)) return false;
      // Only what is remembered must repeat; the rest follows.
      Eigen::VectorXd gap = end.x - start.x;
      for (Eigen::Index i = 0; i < gap.size(); ++i)
        if (!dynamics_->remembers(i)) gap[i] = 0;
      answer_.unrest = gap.lpNorm<Eigen::Infinity>();
      if (answer_.unrest < restVolts) return true;
      if (shot > 6 && answer_.unrest > 0.7 * last) return false;
      last = answer_.unrest;
      start.x = end.x + (Eigen::MatrixXd::Identity(gap.size(), gap.size()) - transfer)
                            .partialPivLu()
                            .solve(transfer * (end.x - start.x));
      start.portVolts = end.portVolts;
      if (!start.x.allFinite()) return false;
    }
    return false;
  }

  bool shoot(const State& start, State& end, Eigen::MatrixXd& transfer) {
    ++answer_.periodsSolved;
    answer_.seconds.clear();
    answer_.volts.resize(static_cast<Eigen::Index>(question_.outputs.size()), question_.steps);
    transfer = Eigen::MatrixXd::Identity(start.x.size(), start.x.size());
    State now = start;
    std::array<State, 3> stages;
    for (int k = 0; k < question_.steps; ++k) {
      if (question_.progress && k % 64 == 0 && !question_.progress(share_)) {
        cancelled_ = true;
        return false;
      }
      if (!step(now, k * h_, h_, stages, transfer, 0)) return false;
      answer_.seconds.push_back((k + 1) % question_.steps * h_);
      for (std::size_t o = 0; o < question_.outputs.size(); ++o)
        answer_.volts(static_cast<Eigen::Index>(o), (k + 1) % question_.steps) =
            System::volts(now.x, question_.outputs[o]);
    }
    std::sort(answer_.seconds.begin(), answer_.seconds.end());
    end = now;
    return true;
  }

  bool step(State& now, double t, double h, std::array<State, 3>& stages, Eigen::MatrixXd& transfer, int depth) {
    // A step that holds a corner of the drive is cut there.
    const double near = dynamics_->resolution();
    const auto& corners = dynamics_->corners();
    const auto corner = std::upper_bound(corners.begin(), corners.end(), t + near);
    if (corner != corners.end() && *corner < t + h - near && depth < 8)
      return step(now, t, *corner - t, stages, transfer, depth + 1) &&
             step(now, *corner, t + h - *corner, stages, transfer, depth + 1);
    if (!dynamics_->advance(now, t, h, shootingVolts, stages))
      return depth < 12 && step(now, t, h / 2, stages, transfer, depth + 1) &&
             step(now, t + h / 2, h / 2, stages, transfer, depth + 1);
    transfer = dynamics_->xByX(h, stages) * transfer;
    now = stages[2];
    return true;
  }

  const PeriodicQuestion& question_;
  std::map<int, Waveform> scaled_;
  std::unique_ptr<Dynamics> dynamics_;
  double h_ = 0, share_ = 0;
  bool cancelled_ = false;
  PeriodicAnswer answer_;
};

} // namespace

tl::expected<PeriodicAnswer, Problem> solvePeriodic(const System& system, const Eigen::VectorXd& operatingPoint,
                                                    const PeriodicQuestion& question) {
  if (!system.delayed().empty())
    return tl::unexpected(Problem{"the circuit", "holds a delay, whose memory this search does not cover; ask for a "
                                                 "transient instead"});
  return Shooter(system, question).run(operatingPoint);
}

std::vector<std::complex<double>> harmonics(const Eigen::Ref<const Eigen::RowVectorXd>& samples, int count) {
  const auto n = static_cast<double>(samples.size());
  std::vector<std::complex<double>> result;
  for (int k = 0; k <= count; ++k) {
    std::complex<double> sum = 0;
    for (Eigen::Index i = 0; i < samples.size(); ++i)
      sum += samples[i] * std::polar(1.0, -2 * std::numbers::pi * k * static_cast<double>(i) / n);
    result.push_back((k == 0 ? 1.0 : 2.0) * sum / n);
  }
  return result;
}

double totalHarmonicDistortion(const std::vector<std::complex<double>>& harmonics) {
  double power = 0;
  for (std::size_t k = 2; k < harmonics.size(); ++k)
    power += std::norm(harmonics[k]);
  return std::sqrt(power / std::norm(harmonics.at(1)));
}

} // namespace vinegar::circuit
