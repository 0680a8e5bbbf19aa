#include "circuit/stepper_state.h"

#include <algorithm>
#include <cmath>

namespace vinegar::circuit {
namespace {

using tubes::Lanes;
using tubes::TubeBank;

constexpr double lastStepVolts = 1e-2; ///< a Newton step this small is the last; what is left is of second order
constexpr double chordVolts = 1e-3;    ///< so small a misfit is put right with the slopes at hand
constexpr double idlePin = 1e-4;       ///< a pin whose current would change by less than this share: no unknown
constexpr int mostNewtonSteps = 40;

double* in(Numbers& numbers, int at = 0) { return numbers.data() + at; }
const double* in(const Numbers& numbers, int at = 0) { return numbers.data() + at; }

/// y = start + sum of f_j column_j, over `rows`, a multiple of N; columns are `stride` apart. `start` may be y or null.
template <int N> struct Kernel : Lanes<N> {
  using typename Lanes<N>::V;
  using Lanes<N>::load;
  using Lanes<N>::put;
  using Lanes<N>::all;

  template <int Block>
  static VINEGAR_INLINE void block(const double* columns, int stride, int count, const double* factors, double sign,
                                   const double* start, double* y) {
    V sums[Block];
    for (std::ptrdiff_t i = 0; i < Block; ++i)
      sums[i] = start ? load(start + i * N) : V{};
    for (int j = 0; j < count; ++j) {
      const V f = all(sign * factors[j]);
      const double* column = columns + static_cast<std::ptrdiff_t>(j) * stride;
      for (std::ptrdiff_t i = 0; i < Block; ++i)
        sums[i] += load(column + i * N) * f;
    }
    for (std::ptrdiff_t i = 0; i < Block; ++i)
      put(y + i * N, sums[i]);
  }
  static VINEGAR_INLINE void add(const double* columns, int stride, int count, const double* factors, double sign,
                                 const double* start, double* y, int rows) {
    int row = 0;
    for (; row + 8 * N <= rows; row += 8 * N)
      block<8>(columns + row, stride, count, factors, sign, start ? start + row : nullptr, y + row);
    for (; row + 2 * N <= rows; row += 2 * N)
      block<2>(columns + row, stride, count, factors, sign, start ? start + row : nullptr, y + row);
    for (; row < rows; row += N)
      block<1>(columns + row, stride, count, factors, sign, start ? start + row : nullptr, y + row);
  }
  static VINEGAR_INLINE double largest(const double* y, int rows) {
    V most{};
    for (int row = 0; row < rows; row += N) {
      const V a = load(y + row), b = -a;
      const V size = a > b ? a : b;
      most = size > most ? size : most;
    }
    double one = 0;
    for (int i = 0; i < N; ++i)
      one = most[i] > one ? most[i] : one;
    return one;
  }
  /// to = a x + b y
  static VINEGAR_INLINE void mix(double a, const double* x, double b, const double* y, double* to, int rows) {
    for (int row = 0; row < rows; row += N)
      put(to + row, all(a) * load(x + row) + all(b) * load(y + row));
  }
};

/// One step of a circuit, for one width.
template <int N, class Plan, class State> struct Stepping : Kernel<N> {
  using Kernel<N>::load;
  using Kernel<N>::put;
  using Kernel<N>::all;
  using Kernel<N>::add;
  using Kernel<N>::largest;
  using Kernel<N>::mix;
  using typename Lanes<N>::V;

  const Plan& plan;
  State& s;

  /// Pins' currents above rest and their slopes at `volts`.
  VINEGAR_INLINE void evaluate(const double* volts, double* amps) const {
    ++s.work.evaluations;
    const std::ptrdiff_t lanes = plan.bank.lanes();
    for (const int d : plan.banked) {
      const auto& device = plan.devices[static_cast<std::size_t>(d)];
      const double* own = volts + device.first;
      s.plate[static_cast<std::size_t>(device.lane)] = own[0];
      if (device.count == 3) s.screen[static_cast<std::size_t>(device.lane)] = own[1];
      s.grid[static_cast<std::size_t>(device.lane)] = own[device.count - 1];
    }
    if (lanes > 0) plan.bank.evaluate(in(s.plate), in(s.screen), in(s.grid), in(s.laws));
    for (const int d : plan.banked) {
      const auto& device = plan.devices[static_cast<std::size_t>(d)];
      const double* law = in(s.laws, device.lane);
      double* slopes = in(s.slopes, 9 * d);
      double* own = amps + device.first;
      const double* rest = in(plan.restAmps, device.first);
      const auto row = [&](TubeBank::Row which) { return law[which * lanes]; };
      own[0] = row(TubeBank::plate) - rest[0];
      slopes[0] = row(TubeBank::plateByPlate);
      if (device.count == 3) {
        own[1] = row(TubeBank::screen) - rest[1];
        own[2] = row(TubeBank::grid) - rest[2];
        slopes[1] = row(TubeBank::plateByScreen);
        slopes[2] = row(TubeBank::plateByGrid);
        slopes[3] = row(TubeBank::screenByPlate);
        slopes[4] = row(TubeBank::screenByScreen);
        slopes[5] = row(TubeBank::screenByGrid);
        slopes[8] = row(TubeBank::gridByGrid);
      } else {
        own[1] = row(TubeBank::grid) - rest[1];
        slopes[1] = row(TubeBank::plateByGrid);
        slopes[4] = row(TubeBank::gridByGrid);
      }
    }
    for (const int d : plan.single) {
      const auto& device = plan.devices[static_cast<std::size_t>(d)];
      std::array<double, 4> own{};
      std::copy_n(volts + device.first, device.count, own.begin());
      const auto pins = pinsOf(*plan.ports.devices()[static_cast<std::size_t>(d)].law, own);
      for (int i = 0; i < device.count; ++i) {
        amps[device.first + i] =
            pins.current[static_cast<std::size_t>(i)] - plan.restAmps[static_cast<std::size_t>(device.first + i)];
        for (int j = 0; j < device.count; ++j)
          s.slopes[static_cast<std::size_t>(9 * d + 3 * i + j)] =
              pins.slopes[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
      }
    }
  }

  /// How far volts + Z amps are from what the rest of the circuit asks; the largest.
  VINEGAR_INLINE double missed(const double* volts, const double* amps) const {
    mix(1, volts, -1, in(s.newBase), in(s.misfit), plan.pinRows);
    add(in(plan.impedance), plan.pinRows, plan.pins, amps, 1, in(s.misfit), in(s.misfit), plan.pinRows);
    return largest(in(s.misfit), plan.pinRows);
  }

  /// 1 + S Z, S the slopes and Z the impedance, on the pins whose currents move enough to matter; factored.
  VINEGAR_INLINE void factor() const {
    ++s.work.factorizations;
    s.isFactored = true;
    const int rows = plan.pinRows;
    s.active.clear();
    for (std::size_t d = 0; d < plan.devices.size(); ++d) {
      const auto& device = plan.devices[d];
      for (int i = 0; i < device.count; ++i) {
        const double* slopes = in(s.slopes, 9 * static_cast<int>(d) + 3 * i);
        double size = 0;
        for (int j = 0; j < device.count; ++j)
          size += std::abs(slopes[j] * plan.impedance[static_cast<std::size_t>((device.first + j) * (rows + 1))]);
        const int pin = device.first + i;
        if (!(size > idlePin)) continue;
        s.active.push_back(pin);
        double* row = in(s.factors, pin * rows);
        add(in(plan.impedanceRows, device.first * rows), rows, device.count, slopes, 1, nullptr, row, rows);
        row[pin] += 1;
      }
    }
    s.pivoted = false;
    for (std::size_t k = 0; k < s.active.size(); ++k) {
      const int pin = s.active[k];
      const double* own = in(s.factors, pin * rows);
      if (!(std::abs(own[pin]) > 1e-3)) return general();
      const double inverse = s.inverses[static_cast<std::size_t>(pin)] = 1 / own[pin];
      const int from = pin / N * N;
      for (std::size_t later = k + 1; later < s.active.size(); ++later) {
        double* row = in(s.factors, s.active[later] * rows);
        const double f = row[pin] * inverse;
        for (int column = from; column < rows; column += N)
          put(row + column, load(row + column) - all(f) * load(own + column));
        s.lower[later * static_cast<std::size_t>(rows) + k] = f;
      }
    }
  }
  /// The slow road.
  void general() const {
    s.pivoted = true;
    const auto count = static_cast<Eigen::Index>(s.active.size());
    Eigen::MatrixXd matrix(count, count);
    Eigen::Index a = 0;
    for (std::size_t d = 0; d < plan.devices.size(); ++d)
      for (int i = 0; i < plan.devices[d].count; ++i) {
        const int pin = plan.devices[d].first + i;
        if (a >= count || s.active[static_cast<std::size_t>(a)] != pin) continue;
        for (Eigen::Index b = 0; b < count; ++b) {
          double sum = a == b;
          for (int j = 0; j < plan.devices[d].count; ++j)
            sum += s.slopes[9 * d + static_cast<std::size_t>(3 * i + j)] *
                   plan.impedanceRows[static_cast<std::size_t>((plan.devices[d].first + j) * plan.pinRows +
                                                               s.active[static_cast<std::size_t>(b)])];
          matrix(a, b) = sum;
        }
        ++a;
      }
    s.general.compute(matrix);
  }

  /// `step`: what Newton's method takes off the volts for the misfit; its largest.
  VINEGAR_INLINE double newton() const {
    std::fill(s.right.begin(), s.right.end(), 0.0);
    std::fill(s.change.begin(), s.change.end(), 0.0);
    std::size_t k = 0;
    for (std::size_t d = 0; d < plan.devices.size() && k < s.active.size(); ++d) {
      const auto& device = plan.devices[d];
      for (int i = 0; i < device.count; ++i) {
        const int pin = device.first + i;
        if (k >= s.active.size() || s.active[k] != pin) continue;
        double sum = 0;
        for (int j = 0; j < device.count; ++j)
          sum += s.slopes[9 * d + static_cast<std::size_t>(3 * i + j)] *
                 s.misfit[static_cast<std::size_t>(device.first + j)];
        s.right[static_cast<std::size_t>(pin)] = sum;
        ++k;
      }
    }
    if (s.pivoted) {
      Eigen::VectorXd right(static_cast<Eigen::Index>(s.active.size()));
      for (Eigen::Index a = 0; a < right.size(); ++a)
        right[a] = s.right[static_cast<std::size_t>(s.active[static_cast<std::size_t>(a)])];
      const Eigen::VectorXd answer = s.general.solve(right);
      for (Eigen::Index a = 0; a < right.size(); ++a)
        s.change[static_cast<std::size_t>(s.active[static_cast<std::size_t>(a)])] = answer[a];
    } else {
      const int rows = plan.pinRows;
      const auto count = static_cast<int>(s.active.size());
      for (int a = 0; a < count; ++a) {
        const int pin = s.active[static_cast<std::size_t>(a)];
        const double* lower = in(s.lower, a * rows);
        double sum = s.right[static_cast<std::size_t>(pin)];
        for (int b = 0; b < a; ++b)
          sum -= lower[b] * s.right[static_cast<std::size_t>(s.active[static_cast<std::size_t>(b)])];
        s.right[static_cast<std::size_t>(pin)] = sum;
      }
      for (int a = count - 1; a >= 0; --a) {
        const int pin = s.active[static_cast<std::size_t>(a)];
        const double* row = in(s.factors, pin * rows);
        double sum = s.right[static_cast<std::size_t>(pin)];
        for (int b = a + 1; b < count; ++b)
          sum -= row[s.active[static_cast<std::size_t>(b)]] *
                 s.change[static_cast<std::size_t>(s.active[static_cast<std::size_t>(b)])];
        s.change[static_cast<std::size_t>(pin)] = sum * s.inverses[static_cast<std::size_t>(pin)];
      }
    }
    add(in(plan.impedance), plan.pinRows, plan.pins, in(s.change), -1, in(s.misfit), in(s.step), plan.pinRows);
    return largest(in(s.step), plan.pinRows);
  }

  /// Takes the step off volts and currents, these along their slopes.
  VINEGAR_INLINE void finish() const {
    mix(1, in(s.trial), -1, in(s.step), in(s.trial), plan.pinRows);
    for (std::size_t d = 0; d < plan.devices.size(); ++d) {
      const auto& device = plan.devices[d];
      for (int i = 0; i < device.count; ++i)
        for (int j = 0; j < device.count; ++j)
          s.trialAmps[static_cast<std::size_t>(device.first + i)] -=
              s.slopes[9 * d + static_cast<std::size_t>(3 * i + j)] *
              s.step[static_cast<std::size_t>(device.first + j)];
    }
  }

  /// The pins' volts and currents for the new base, from `trial` on.
  VINEGAR_INLINE bool solve() const {
    evaluate(in(s.trial), in(s.trialAmps));
    double miss = missed(in(s.trial), in(s.trialAmps));
    if (s.isFactored && miss < chordVolts && newton() < lastStepVolts) {
      finish();
      return true;
    }
    for (int i = 0; i < mostNewtonSteps; ++i) {
      factor();
      const double size = newton();
      if (!std::isfinite(size)) return false;
      if (size < lastStepVolts) {
        finish();
        return true;
      }
      // `right` and `change` are free again: the volts that the step starts from, and the step.
      std::copy(s.trial.begin(), s.trial.end(), s.right.begin());
      double scale = 1, next = 0;
      std::copy(s.step.begin(), s.step.end(), s.change.begin());
      for (int halving = 0; halving < 10; ++halving, scale /= 2) {
        mix(1, in(s.right), -scale, in(s.change), in(s.trial), plan.pinRows);
        plan.ports.limit(in(s.right), in(s.trial));
        evaluate(in(s.trial), in(s.trialAmps));
        next = missed(in(s.trial), in(s.trialAmps));
        if (next < miss || next < lastStepVolts) break;
      }
      miss = next;
    }
    return false;
  }

  VINEGAR_INLINE bool go(const double* inputs) const {
    std::copy(s.memory.begin(), s.memory.end(), s.newColumn.begin());
    double* column = in(s.newColumn, plan.memories);
    const int given = plan.sources - plan.echoes;
    std::copy_n(inputs, given, column);
    column += given;
    for (int e = 0; e < plan.echoes; ++e) {
      const auto& echo = plan.echo[static_cast<std::size_t>(e)];
      double sum = 0;
      for (int i = 0; i < 4; ++i) {
        // The last sample stands at `at`, one step back from the end of this one.
        const int index = (s.at - (echo.back - 1 + i) + 2 * s.length) % s.length;
        sum += echo.weights[static_cast<std::size_t>(i)] * s.past[static_cast<std::size_t>(e * s.length + index)];
      }
      *column++ = echo.gain * sum;
    }
    *column = 1;
    add(in(plan.transition), plan.rows, plan.columns, in(s.newColumn), 1, in(plan.rest), in(s.newBase), plan.pinRows);
    add(in(plan.transition, plan.pinRows), plan.rows, plan.columns, in(s.newColumn), 1, nullptr, in(s.newAnswer),
        plan.answerRows);
    const long before = s.work.evaluations;
    bool found = true;
    if (plan.pins > 0) {
      // The slopes of the last step say where the pins come to.
      if (s.isFactored) {
        mix(1, in(s.base), -1, in(s.newBase), in(s.misfit), plan.pinRows);
        newton();
        mix(1, in(s.volts), -1, in(s.step), in(s.trial), plan.pinRows);
        plan.ports.limit(in(s.volts), in(s.trial));
        found = std::isfinite(largest(in(s.trial), plan.pinRows)) && solve();
      }
      if (!s.isFactored || !found) {
        std::copy(s.volts.begin(), s.volts.end(), s.trial.begin());
        s.isFactored = false;
        found = solve();
      }
      if (!found) {
        s.isFactored = false;
        return false;
      }
      s.volts.swap(s.trial);
      s.amps.swap(s.trialAmps);
      s.base.swap(s.newBase);
      add(in(plan.byPins), plan.answerRows, plan.pins, in(s.amps), -1, in(s.newAnswer), in(s.newAnswer),
          plan.answerRows);
    }
    s.column.swap(s.newColumn);
    s.answer.swap(s.newAnswer);
    ++s.work.steps;
    s.work.most = std::max(s.work.most, s.work.evaluations - before);
    // What flows in a memory is (w - w before)/(theta h) less what the start weighs; both go on to the next step.
    for (int m = 0; m < plan.memories; ++m) {
      const auto k = static_cast<std::size_t>(m);
      const double gained = plan.perStep * s.answer[k];
      s.memory[k] = gained + plan.old * (gained - s.memory[k]);
    }
    if (s.length > 0) {
      s.at = (s.at + 1) % s.length;
      for (int e = 0; e < plan.echoes; ++e)
        s.past[static_cast<std::size_t>(e * s.length + s.at)] =
            plan.x0[plan.system.delayed()[static_cast<std::size_t>(e)].column] +
            s.answer[static_cast<std::size_t>(plan.memories) + plan.setup.outputs.size() + static_cast<std::size_t>(e)];
    }
    return true;
  }
};

template <class Plan, class State> bool goTwo(const Plan& plan, State& state, const double* inputs) {
  return Stepping<2, Plan, State>{{}, plan, state}.go(inputs);
}
template <class Plan, class State> VINEGAR_FOUR bool goFour(const Plan& plan, State& state, const double* inputs) {
  return Stepping<4, Plan, State>{{}, plan, state}.go(inputs);
}
template <class Plan, class State> VINEGAR_EIGHT bool goEight(const Plan& plan, State& state, const double* inputs) {
  return Stepping<8, Plan, State>{{}, plan, state}.go(inputs);
}

} // namespace

Stepper::Stepper(const System& system, const Eigen::VectorXd& x, const StepperSetup& setup, const Numbers& now)
    : plan_(std::make_shared<const Plan>(system, x, setup, now)), state_(std::make_unique<State>(*plan_)) {}
Stepper::~Stepper() = default;
Stepper::Stepper(const Stepper& other) : plan_(other.plan_), state_(std::make_unique<State>(*other.state_)) {}
Stepper::Stepper(Stepper&&) noexcept = default;
Stepper& Stepper::operator=(Stepper&&) noexcept = default;

bool Stepper::step(const double* inputs) {
  switch (plan_->setup.width) {
  case tubes::Width::eight:
    return goEight(*plan_, *state_, inputs);
  case tubes::Width::four:
    return goFour(*plan_, *state_, inputs);
  default:
    return goTwo(*plan_, *state_, inputs);
  }
}

double Stepper::output(std::size_t index) const {
  return System::volts(plan_->x0, plan_->setup.outputs[index]) +
         state_->answer[static_cast<std::size_t>(plan_->memories) + index];
}

Eigen::VectorXd Stepper::unknowns() const {
  if (state_->work.steps == 0) return plan_->x0;
  const Eigen::Map<const Eigen::VectorXd> column(state_->column.data(), plan_->columns);
  const Eigen::Map<const Eigen::VectorXd> amps(state_->amps.data(), plan_->pins);
  return plan_->x0 + plan_->inverse * (plan_->drive * column - plan_->toPins * amps);
}

void Stepper::restart() { *state_ = State(*plan_); }
const Stepper::Work& Stepper::work() const { return state_->work; }

} // namespace vinegar::circuit
