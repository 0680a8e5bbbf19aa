#include "circuit/transient.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::circuit {
namespace {

constexpr int deepestHalving = 24;
constexpr double stepVolts = 1e-2; ///< a Newton step this small ends the iteration; what is left is of second order

class Integrator {
public:
  Integrator(const System& system, const Eigen::VectorXd& x, const TransientQuestion& question)
      : interval_(1 / question.samplesPerSecond), dynamics_(system, question.drive, 1e-6 * interval_),
        question_(question), stops_(dynamics_.corners()), now_(dynamics_.stateAt(x)), before_(now_.portVolts) {
    for (const auto& event : question.events)
      stops_.push_back(event.seconds);
    std::sort(stops_.begin(), stops_.end());
  }

  tl::expected<TransientAnswer, Problem> run() {
    const auto samples = static_cast<Eigen::Index>(std::floor(question_.duration / interval_ + 1e-9)) + 1;
    answer_.volts.resize(static_cast<Eigen::Index>(question_.outputs.size()), samples);
    if (dynamics_.shortestDelay() < interval_)
      return tl::unexpected(
          Problem{"the circuit", "has a delay shorter than one sample; ask for more samples a second"});
    dynamics_.remember(0, now_.x);
    applyEvents(0);
    double before = 0;
    for (Eigen::Index k = 0; k < samples; ++k) {
      const double t = static_cast<double>(k) * interval_;
      if (k > 0 && !advance(before, t))
        return tl::unexpected(
            Problem{fmt::format("{:.6g} s", t), "no answer was found for this moment, however small the step"});
      before = t;
      answer_.seconds.push_back(t);
      for (std::size_t o = 0; o < question_.outputs.size(); ++o)
        answer_.volts(static_cast<Eigen::Index>(o), k) = System::volts(now_.x, question_.outputs[o]);
      if (question_.progress && k % 256 == 0 &&
          !question_.progress(static_cast<double>(k) / static_cast<double>(samples)))
        return tl::unexpected(Problem{"", "cancelled"});
    }
    return std::move(answer_);
  }

private:
  void applyEvents(double t) {
    for (; nextEvent_ < question_.events.size() && question_.events[nextEvent_].seconds <= t; ++nextEvent_)
      dynamics_.setLaws(question_.events[nextEvent_].laws);
  }

  /// From one sample to the next, stopping at every corner between.
  bool advance(double from, double to) {
    const double near = dynamics_.resolution();
    double t = from;
    while (t < to) {
      const auto stop = std::upper_bound(stops_.begin(), stops_.end(), t + near);
      const double end = stop != stops_.end() && *stop < to - near ? *stop : to;
      const bool preview = question_.mode == TransientQuestion::Mode::preview;
      const bool whole = t == from && end == to;
      if (!(preview && whole && gained_.size() && multistep(t, end)) && !pieces(t, end)) return false;
      t = end;
      if (holdsTime(stops_, t, near)) {
        applyEvents(t + near);
        gained_.resize(0);
      }
    }
    return true;
  }

  /// BDF2 over a whole sample.
  bool multistep(double from, double to) {
    const auto& step = dynamics_.stepFor(interval_ * 2 / 3);
    // 4/3 q_n - 1/3 q_n-1 is q_n and a third of what the last sample gained.
    const Eigen::VectorXd ahead = gained_ / 3;
    const auto input = dynamics_.inputAt(to, from, to);
    ImplicitStep::State next;
    next.portVolts = 2 * now_.portVolts - before_;
    if (!step.solve(now_.x, ahead, input, stepVolts, next)) {
      next.portVolts = now_.portVolts;
      if (!step.solve(now_.x, ahead, input, stepVolts, next)) return false;
    }
    accept(next, true, to);
    return true;
  }

  /// Runge-Kutta over [from, to], in as many pieces as the error asks for. Pieces are the whole divided by powers of
  /// two, each starting on a multiple of itself.
  bool pieces(double from, double to) {
    const bool controlled = question_.mode == TransientQuestion::Mode::accurate;
    if (!controlled) depth_ = 0;
    // A sample is a sample: steps that differ in the last digit would each be prepared anew.
    const double whole = std::abs((to - from) / interval_ - 1) < 1e-5 ? interval_ : to - from;
    constexpr long end = 1L << deepestHalving;
    long position = 0;
    while (position < end) {
      int depth = depth_;
      while (position % (1L << (deepestHalving - depth)) != 0)
        ++depth;
      double error = 0;
      for (;; ++depth) {
        if (depth > deepestHalving) return false;
        const double t = from + whole * (static_cast<double>(position) / static_cast<double>(end));
        const double h = whole * std::ldexp(1.0, -depth);
        if (dynamics_.advance(now_, t, h, controlled ? question_.absoluteVolts * 0.01 : stepVolts, stages_)) {
          error = controlled ? errorShare(h) : 0;
          if (error <= 1) {
            answer_.iterations += stages_[0].iterations + stages_[1].iterations;
            accept(stages_[2], std::abs(h / interval_ - 1) < 1e-5, t + h);
            break;
          }
        }
        ++answer_.refused;
      }
      position += 1L << (deepestHalving - depth);
      depth_ = controlled && error < 0.08 && depth > 0 ? depth - 1 : depth;
    }
    return true;
  }

  double errorShare(double h) {
    const Eigen::VectorXd error = dynamics_.errorOf(h, stages_);
    const auto& x = stages_[2].x;
    double share = 0;
    // Unknowns without memory follow from the others: volts between two inductors say nothing of the step's error.
    for (Eigen::Index i = 0; i < error.size(); ++i)
      if (dynamics_.remembers(i))
        share = std::max(share,
                         std::abs(error[i]) / (question_.absoluteVolts + question_.relativeTolerance * std::abs(x[i])));
    return share;
  }

  void accept(ImplicitStep::State& next, bool wholeSample, double t) {
    ++answer_.steps;
    answer_.iterations += next.iterations;
    before_ = now_.portVolts;
    if (wholeSample)
      gained_ = next.charge;
    else
      gained_.resize(0);
    std::swap(now_, next);
    dynamics_.remember(t, now_.x);
  }

  double interval_;
  Dynamics dynamics_;
  const TransientQuestion& question_;
  std::vector<double> stops_;
  std::size_t nextEvent_ = 0;
  int depth_ = 0;
  ImplicitStep::State now_;
  std::array<ImplicitStep::State, 3> stages_;
  Eigen::VectorXd before_; ///< port volts a step ago
  Eigen::VectorXd gained_; ///< charge of the last step; empty when that was not a whole sample or a corner has passed
  TransientAnswer answer_;
};

} // namespace

tl::expected<TransientAnswer, Problem> solveTransient(const System& system, const Eigen::VectorXd& operatingPoint,
                                                      const TransientQuestion& question) {
  return Integrator(system, operatingPoint, question).run();
}

} // namespace vinegar::circuit
