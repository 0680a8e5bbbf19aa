#include "circuit/transient.h"

#include "circuit/stepper.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <optional>

namespace vinegar::circuit {
namespace {

constexpr int deepestHalving = 24;
constexpr double stepVolts = 1e-2; ///< in preview a Newton step this small ends the iteration

class Integrator {
public:
  Integrator(const System& system, const Eigen::VectorXd& x, const TransientQuestion& question)
      : interval_(1 / question.samplesPerSecond), dynamics_(system, question.drive, 1e-6 * interval_),
        question_(question), stops_(dynamics_.corners()), now_(dynamics_.stateAt(x)) {
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
        answer_.volts(static_cast<Eigen::Index>(o), k) =
            stepper_ ? stepper_->output(o) : System::volts(now_.x, question_.outputs[o]);
      if (question_.progress && k % 256 == 0 &&
          !question_.progress(static_cast<double>(k) / static_cast<double>(samples)))
        return tl::unexpected(Problem::stopped());
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
      const bool whole = t == from && end == to;
      if (!(previewed_ && whole && stepped(t, end))) {
        leaveStepper();
        if (!pieces(t, end)) return false;
      }
      previewed_ = question_.mode == TransientQuestion::Mode::preview && end == to;
      t = end;
      if (holdsTime(stops_, t, near)) {
        leaveStepper();
        applyEvents(t + near);
        previewed_ = false;
      }
    }
    return true;
  }

  /// One step over a whole sample. After the start, a corner or an event a sample by pieces comes before the first.
  bool stepped(double from, double to) {
    if (!stepper_) {
      StepperSetup setup;
      setup.samplesPerSecond = question_.samplesPerSecond;
      for (const auto& [device, waveform] : question_.drive)
        setup.inputs.push_back(device);
      setup.outputs = question_.outputs;
      setup.past = [&](int entry, double ago) { return dynamics_.pastOf(entry, from - ago); };
      stepper_.emplace(dynamics_.system(), now_.x, setup, dynamics_.drivenAt(from, from - (to - from), from));
    }
    const long before = stepper_->work().evaluations;
    if (!stepper_->step(dynamics_.drivenAt(to, from, to).data())) return false;
    ++answer_.steps;
    answer_.iterations += stepper_->work().evaluations - before;
    if (std::isfinite(dynamics_.shortestDelay())) dynamics_.remember(to, stepper_->unknowns());
    return true;
  }
  void leaveStepper() {
    if (stepper_) now_ = dynamics_.stateAt(stepper_->unknowns());
    stepper_.reset();
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
            accept(stages_[2], t + h);
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

  void accept(ImplicitStep::State& next, double t) {
    ++answer_.steps;
    answer_.iterations += next.iterations;
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
  std::optional<Stepper> stepper_; ///< while it is stepping, what is now stands in it
  bool previewed_ = false;         ///< the last sample ended in preview without a corner
  TransientAnswer answer_;
};

} // namespace

tl::expected<TransientAnswer, Problem> solveTransient(const System& system, const Eigen::VectorXd& operatingPoint,
                                                      const TransientQuestion& question) {
  return Integrator(system, operatingPoint, question).run();
}

} // namespace vinegar::circuit
