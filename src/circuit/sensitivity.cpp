#include "circuit/sensitivity.h"

#include "circuit/lanes.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>

namespace vinegar::circuit {
namespace {

using Number = Elimination::Number;

/// What one parameter changes in the equations.
struct Change {
  std::vector<Entry> matrix; ///< dG and dC, per unit of the parameter
  Eigen::VectorXd residual;  ///< d(G x + i(x) - b)/dp at the operating point
  bool movesPins = false;
  std::vector<double> pinShift; ///< d(volts)/dp of each watched pin, by way of the operating point
};

/// A pin pair of a tube whose slopes move with the operating point: entry (row, column) changes by `bend` per volt of
/// the watched pin.
struct Bend {
  int row, column, pin;
  double bend;
};

/// All that the operating point's shift can do, and each parameter's part in it.
class Derivatives {
public:
  Derivatives(const System& system, const Eigen::VectorXd& x, const std::vector<Parameter>& parameters)
      : system_(system), x_(x) {
    watchPins();
    for (const auto& parameter : parameters)
      changes_.push_back(changeOf(parameter));
    shift_ = shifts();
    for (std::size_t p = 0; p < changes_.size(); ++p)
      for (const int row : pinRows_)
        changes_[p].pinShift.push_back(shift_(row, static_cast<Eigen::Index>(p)));
    for (auto& change : changes_)
      change.movesPins = std::any_of(change.pinShift.begin(), change.pinShift.end(), [](double s) { return s != 0; });
  }

  [[nodiscard]] const Eigen::MatrixXd& shift() const { return shift_; }
  [[nodiscard]] std::size_t count() const { return changes_.size(); }

  /// out[p] = y^T (dA/dp) w, everything included, at one block's frequencies.
  void bilinear(const Number* y, const Number* w, const Elimination::Lane& radians, std::vector<Number>& out) const {
    std::vector<Number> byPin(pinRows_.size(), Number{});
    contractPins(bends_, y, w, byPin);
    out.resize(changes_.size());
    for (std::size_t p = 0; p < changes_.size(); ++p)
      contractChange(changes_[p], byPin, y, w, radians, out[p]);
  }

private:
  static VINEGAR_WIDE void contractPins(const std::vector<Bend>& bends, const Number* y, const Number* w,
                                        std::vector<Number>& byPin) {
    for (const auto& bend : bends) {
      const Number &a = y[bend.row], &b = w[bend.column];
      Number& sum = byPin[static_cast<std::size_t>(bend.pin)];
      re(sum) += bend.bend * (re(a) * re(b) - im(a) * im(b));
      im(sum) += bend.bend * (re(a) * im(b) + im(a) * re(b));
    }
  }
  static VINEGAR_WIDE void contractChange(const Change& change, const std::vector<Number>& byPin, const Number* y,
                                          const Number* w, const Elimination::Lane& radians, Number& out) {
    Number sum{}, omega{};
    omega.re = radians;
    for (const auto& entry : change.matrix) {
      const Number &a = y[entry.row], &b = w[entry.column];
      const Vec real = re(a) * re(b) - im(a) * im(b), imaginary = re(a) * im(b) + im(a) * re(b);
      const Vec c = re(omega) * entry.c;
      re(sum) += entry.g * real - c * imaginary;
      im(sum) += entry.g * imaginary + c * real;
    }
    // A part that leaves the operating point alone, such as a capacitor, moves no pin.
    for (std::size_t k = 0; change.movesPins && k < byPin.size(); ++k) {
      re(sum) += change.pinShift[k] * re(byPin[k]);
      im(sum) += change.pinShift[k] * im(byPin[k]);
    }
    out = sum;
  }

  [[nodiscard]] std::array<double, 4> voltsAt(const Device& device) const {
    std::array<double, 4> volts{};
    for (std::size_t p = 0; p < device.nodes.size(); ++p)
      volts[p] = System::volts(x_, device.nodes[p]);
    return volts;
  }

  void watchPins() {
    for (const int index : system_.nonlinearDevices()) {
      const auto& device = system_.netlist().devices()[static_cast<std::size_t>(index)];
      const auto volts = voltsAt(device);
      for (std::size_t k = 0; k < device.nodes.size(); ++k) {
        const int watched = System::row(device.nodes[k]);
        if (watched < 0) continue;
        const double h = 1e-4 * (1 + std::abs(volts[k]) * 1e-2);
        auto high = volts, low = volts;
        high[k] += h;
        low[k] -= h;
        const auto up = pinsOf(device.law, high), down = pinsOf(device.law, low);
        const int pin = static_cast<int>(pinRows_.size());
        pinRows_.push_back(watched);
        for (std::size_t i = 0; i < up.count; ++i)
          for (std::size_t j = 0; j < up.count; ++j) {
            const int r = System::row(device.nodes[i]), c = System::row(device.nodes[j]);
            const double bend = (up.slopes[i][j] - down.slopes[i][j]) / (2 * h);
            if (r >= 0 && c >= 0 && bend != 0) bends_.push_back({r, c, pin, bend});
          }
      }
    }
  }

  [[nodiscard]] Change changeOf(const Parameter& parameter) const {
    Change change;
    change.residual = Eigen::VectorXd::Zero(system_.size());
    const double scale = 1 / (2 * parameter.step);
    System::Stamps stamps;
    for (const auto& [laws, sign] : {std::pair{&parameter.up, scale}, {&parameter.down, -scale}})
      for (const auto& [index, law] : *laws) {
        stamps.clear();
        system_.stampsOf(index, law, stamps);
        for (const auto& t : stamps.conductance) {
          change.matrix.push_back({t.row(), t.col(), sign * t.value(), 0});
          change.residual[t.row()] += sign * t.value() * x_[t.col()];
        }
        for (const auto& t : stamps.storage)
          change.matrix.push_back({t.row(), t.col(), 0, sign * t.value()});
        for (const auto& [row, value] : stamps.dc)
          change.residual[row] -= sign * value;
        if (!isNonlinear(law)) continue;
        const auto& device = system_.netlist().devices()[static_cast<std::size_t>(index)];
        const auto pins = pinsOf(law, voltsAt(device));
        for (std::size_t i = 0; i < pins.count; ++i) {
          const int r = System::row(device.nodes[i]);
          if (r < 0) continue;
          change.residual[r] += sign * pins.current[i];
          for (std::size_t j = 0; j < pins.count; ++j)
            if (const int c = System::row(device.nodes[j]); c >= 0)
              change.matrix.push_back({r, c, sign * pins.slopes[i][j], 0});
        }
      }
    merge(change.matrix);
    return change;
  }

  /// Up and down meet at the same places: added and what cancels left out.
  static void merge(std::vector<Entry>& entries) {
    std::sort(entries.begin(), entries.end(),
              [](const Entry& a, const Entry& b) { return a.row != b.row ? a.row < b.row : a.column < b.column; });
    std::size_t kept = 0;
    for (std::size_t e = 0; e < entries.size(); ++e) {
      if (kept > 0 && entries[kept - 1].row == entries[e].row && entries[kept - 1].column == entries[e].column) {
        entries[kept - 1].g += entries[e].g;
        entries[kept - 1].c += entries[e].c;
      } else {
        entries[kept++] = entries[e];
      }
    }
    entries.resize(kept);
    std::erase_if(entries, [](const Entry& e) { return e.g == 0 && e.c == 0; });
  }

  [[nodiscard]] Eigen::MatrixXd shifts() const {
    Eigen::MatrixXd jacobian = Eigen::MatrixXd::Zero(system_.size(), system_.size());
    for (const auto& entry : smallSignalEntries(system_, x_))
      jacobian(entry.row, entry.column) += entry.g;
    Eigen::MatrixXd right(system_.size(), static_cast<Eigen::Index>(changes_.size()));
    for (std::size_t p = 0; p < changes_.size(); ++p)
      right.col(static_cast<Eigen::Index>(p)) = -changes_[p].residual;
    return jacobian.partialPivLu().solve(right);
  }

  const System& system_;
  const Eigen::VectorXd& x_;
  std::vector<Change> changes_;
  std::vector<int> pinRows_;
  std::vector<Bend> bends_;
  Eigen::MatrixXd shift_;
};

/// 1 / number, or -1 / number.
Number inverse(const Number& number, double sign) {
  Number result;
  const Vec scale = sign / (re(number) * re(number) + im(number) * im(number));
  re(result) = re(number) * scale;
  im(result) = -im(number) * scale;
  return result;
}

std::complex<double> at(const Number& number, std::size_t lane) { return {number.re[lane], number.im[lane]}; }

} // namespace

Eigen::MatrixXd dcSensitivities(const System& system, const Eigen::VectorXd& operatingPoint,
                                const std::vector<Parameter>& parameters) {
  return Derivatives(system, operatingPoint, parameters).shift();
}

tl::expected<Eigen::MatrixXcd, Problem> responseSensitivities(const System& system,
                                                              const Eigen::VectorXd& operatingPoint,
                                                              const std::vector<double>& hertz, Node from, Node to,
                                                              const std::vector<Parameter>& parameters, AcPlan* plan) {
  const Derivatives derivatives(system, operatingPoint, parameters);
  Eigen::MatrixXcd result(static_cast<Eigen::Index>(parameters.size()), static_cast<Eigen::Index>(hertz.size()));
  std::vector<Number> y, change;
  auto problem = sweepSmallSignal(system, operatingPoint, hertz, plan, [&](const SweepBlock& block) {
    // d ln(to/from) = d(to)/to - d(from)/from: one combined transposed answer serves.
    const int rowTo = System::row(to), rowFrom = System::row(from);
    block.transposed({{rowTo, inverse(block.x()[rowTo], 1)}, {rowFrom, inverse(block.x()[rowFrom], -1)}}, y);
    derivatives.bilinear(y.data(), block.x(), block.radians, change);
    for (std::size_t p = 0; p < parameters.size(); ++p)
      for (std::size_t lane = 0; lane < block.count; ++lane)
        result(static_cast<Eigen::Index>(p), static_cast<Eigen::Index>(block.first + lane)) = -at(change[p], lane);
  });
  if (problem) return tl::unexpected(*problem);
  return result;
}

tl::expected<Eigen::MatrixXd, Problem> noiseSensitivities(const System& system, const Eigen::VectorXd& operatingPoint,
                                                          const std::vector<double>& hertz, Node output,
                                                          const std::vector<Parameter>& parameters, AcPlan* plan) {
  const Derivatives derivatives(system, operatingPoint, parameters);
  const auto sources = noiseSources(system, operatingPoint);
  // How each source's own strength moves with each parameter, the operating point's shift included.
  const auto densities = [&](const std::vector<std::pair<int, Law>>& laws, const Eigen::VectorXd& x) {
    System moved = system;
    moved.setLaws(laws);
    return noiseSources(moved, x);
  };
  Eigen::MatrixXd strength =
      Eigen::MatrixXd::Zero(static_cast<Eigen::Index>(sources.size()), static_cast<Eigen::Index>(parameters.size()));
  for (std::size_t p = 0; p < parameters.size(); ++p) {
    const auto column = static_cast<Eigen::Index>(p);
    const double h = parameters[p].step;
    const Eigen::VectorXd move = h * derivatives.shift().col(column);
    const auto up = densities(parameters[p].up, operatingPoint + move);
    const auto down = densities(parameters[p].down, operatingPoint - move);
    // A source that appears or goes, such as a winding of zero ohms, has no derivative here.
    if (up.size() != sources.size() || down.size() != sources.size()) continue;
    for (std::size_t s = 0; s < sources.size(); ++s)
      strength(static_cast<Eigen::Index>(s), column) = (up[s].density - down[s].density) / (2 * h);
  }

  Eigen::MatrixXd result(static_cast<Eigen::Index>(parameters.size()), static_cast<Eigen::Index>(hertz.size()));
  std::vector<Number> y, excitation, w, change;
  auto problem = sweepSmallSignal(system, operatingPoint, hertz, plan, [&](const SweepBlock& block) {
    block.transposed(System::row(output), y);
    // d(sum |T|^2 S) = 2 Re(conj(T) dT) S + |T|^2 dS, with T = y at the source; dy again by an adjoint solve.
    excitation.assign(y.size(), Number{});
    Eigen::MatrixXd power(static_cast<Eigen::Index>(sources.size()), static_cast<Eigen::Index>(Elimination::lanes));
    for (std::size_t s = 0; s < sources.size(); ++s) {
      const auto& source = sources[s];
      const int a = source.branch >= 0 ? source.branch : System::row(source.from);
      const int b = source.branch >= 0 ? -1 : System::row(source.to);
      for (std::size_t lane = 0; lane < Elimination::lanes; ++lane) {
        const std::complex<double> t = (a >= 0 ? at(y[static_cast<std::size_t>(a)], lane) : 0.0) -
                                       (b >= 0 ? at(y[static_cast<std::size_t>(b)], lane) : 0.0);
        power(static_cast<Eigen::Index>(s), static_cast<Eigen::Index>(lane)) = std::norm(t);
        const auto drive = 2 * source.density * std::conj(t);
        for (const auto& [row, sign] : {std::pair{a, 1.0}, {b, -1.0}})
          if (row >= 0) {
            excitation[static_cast<std::size_t>(row)].re[lane] += sign * drive.real();
            excitation[static_cast<std::size_t>(row)].im[lane] += sign * drive.imag();
          }
      }
    }
    block.again(excitation, w);
    derivatives.bilinear(y.data(), w.data(), block.radians, change);
    for (std::size_t lane = 0; lane < block.count; ++lane) {
      double total = 0;
      for (std::size_t s = 0; s < sources.size(); ++s)
        total += power(static_cast<Eigen::Index>(s), static_cast<Eigen::Index>(lane)) * sources[s].density;
      for (std::size_t p = 0; p < parameters.size(); ++p) {
        const double own = strength.col(static_cast<Eigen::Index>(p)).dot(power.col(static_cast<Eigen::Index>(lane)));
        result(static_cast<Eigen::Index>(p), static_cast<Eigen::Index>(block.first + lane)) =
            (own - change[p].re[lane]) / total;
      }
    }
  });
  if (problem) return tl::unexpected(*problem);
  return result;
}

} // namespace vinegar::circuit
