#include "circuit/ported.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

namespace vinegar::circuit {
namespace {

/// Without the library's care for infinities, which costs more than the product.
std::complex<double> times(std::complex<double> a, std::complex<double> b) {
  return {a.real() * b.real() - a.imag() * b.imag(), a.real() * b.imag() + a.imag() * b.real()};
}

} // namespace

std::optional<Ported::Admittance> Ported::admittanceOf(const Law& law) {
  if (const auto* resistor = std::get_if<Resistor>(&law)) return Admittance{1 / resistor->ohms, 0};
  if (const auto* capacitor = std::get_if<Capacitor>(&law)) return Admittance{0, capacitor->farads};
  if (const auto* contact = std::get_if<Switch>(&law))
    return Admittance{1 / (contact->closed ? closedSwitchOhms : openSwitchOhms), 0};
  return std::nullopt;
}

tl::expected<Ported, Problem> Ported::of(const System& system, const Eigen::VectorXd& operatingPoint,
                                         const std::vector<double>& hertz, Node from, Node to,
                                         const std::vector<int>& devices, AcPlan* plan) {
  Ported ported;
  ported.hertz_ = hertz;
  std::vector<std::pair<int, int>> rows;
  for (const int index : devices) {
    const auto& device = system.netlist().devices()[static_cast<std::size_t>(index)];
    const auto admittance = admittanceOf(device.law);
    if (!admittance || rows.size() == mostParts)
      return tl::unexpected(Problem{device.id, "cannot be one of the parts whose values are tried together"});
    ported.given_.push_back(*admittance);
    rows.emplace_back(System::row(device.nodes[0]), System::row(device.nodes[1]));
  }
  const std::size_t count = rows.size(), stride = ported.stride();
  ported.at_.resize(stride * hertz.size());
  const auto size = static_cast<std::size_t>(system.size());
  const int fromRow = System::row(from), toRow = System::row(to);
  std::vector<Elimination::Number> excitation, answer;
  const auto problem = sweepSmallSignal(system, operatingPoint, hertz, plan, [&](const SweepBlock& block) {
    const auto keep = [&](const Elimination::Number* x, std::size_t offset, std::size_t step, std::size_t fromAt,
                          std::size_t toAt) {
      for (std::size_t lane = 0; lane < block.count; ++lane) {
        auto* at = &ported.at_[(block.first + lane) * stride];
        const auto volts = [&](int row) { return row < 0 ? Complex(0) : Complex(x[row].re[lane], x[row].im[lane]); };
        for (std::size_t i = 0; i < count; ++i)
          at[offset + i * step] = volts(rows[i].first) - volts(rows[i].second);
        at[fromAt] = volts(fromRow);
        at[toAt] = volts(toRow);
      }
    };
    const std::size_t ports = count * count;
    keep(block.x(), ports, 1, stride - 2, stride - 1);
    for (std::size_t p = 0; p < count; ++p) {
      excitation.assign(size, Elimination::Number{});
      if (rows[p].first >= 0) excitation[static_cast<std::size_t>(rows[p].first)].re.fill(1);
      if (rows[p].second >= 0) excitation[static_cast<std::size_t>(rows[p].second)].re.fill(-1);
      block.again(excitation, answer);
      keep(answer.data(), p, count, ports + count + p, ports + 2 * count + p);
    }
  });
  if (problem) return tl::unexpected(*problem);
  for (std::size_t f = 0; f < hertz.size(); ++f)
    if (std::abs(ported.at_[f * stride + stride - 2]) < 1e-30)
      return tl::unexpected(Problem{system.netlist().nodeNames()[static_cast<std::size_t>(from)],
                                    "carries no signal, so nothing can be compared with it"});
  return ported;
}

void Ported::decibels(const std::vector<Admittance>& values, std::vector<double>& out) const {
  const std::size_t count = given_.size(), size = stride();
  out.resize(hertz_.size());
  std::array<Complex, mostParts> change, u;
  std::array<Complex, mostParts * mostParts> matrix;
  for (std::size_t f = 0; f < hertz_.size(); ++f) {
    const auto* at = &at_[f * size];
    const double radians = 2 * std::numbers::pi * hertz_[f];
    for (std::size_t p = 0; p < count; ++p)
      change[p] = {values[p].siemens - given_[p].siemens, radians * (values[p].farads - given_[p].farads)};
    for (std::size_t i = 0; i < count; ++i) {
      for (std::size_t j = 0; j < count; ++j)
        matrix[i * count + j] = times(at[i * count + j], change[j]) + (i == j ? 1.0 : 0.0);
      u[i] = at[count * count + i];
    }
    for (std::size_t k = 0; k < count; ++k) {
      std::size_t pivot = k;
      for (std::size_t i = k + 1; i < count; ++i)
        if (std::norm(matrix[i * count + k]) > std::norm(matrix[pivot * count + k])) pivot = i;
      if (pivot != k) {
        for (std::size_t j = k; j < count; ++j)
          std::swap(matrix[k * count + j], matrix[pivot * count + j]);
        std::swap(u[k], u[pivot]);
      }
      const Complex whole = matrix[k * count + k];
      const Complex inverse = std::conj(whole) / std::norm(whole);
      for (std::size_t i = k + 1; i < count; ++i) {
        const Complex factor = times(matrix[i * count + k], inverse);
        for (std::size_t j = k + 1; j < count; ++j)
          matrix[i * count + j] -= times(factor, matrix[k * count + j]);
        u[i] -= times(factor, u[k]);
      }
    }
    for (std::size_t k = count; k-- > 0;) {
      for (std::size_t j = k + 1; j < count; ++j)
        u[k] -= times(matrix[k * count + j], u[j]);
      u[k] = times(u[k], std::conj(matrix[k * count + k]) / std::norm(matrix[k * count + k]));
    }
    Complex from = at[size - 2], to = at[size - 1];
    for (std::size_t p = 0; p < count; ++p) {
      const Complex drawn = times(change[p], u[p]);
      from -= times(at[count * count + count + p], drawn);
      to -= times(at[count * count + 2 * count + p], drawn);
    }
    const double power = std::norm(to) / std::norm(from);
    out[f] = power > 0 ? 10 * std::log10(power) : std::isnan(power) ? std::numeric_limits<double>::quiet_NaN() : -6000;
  }
}

} // namespace vinegar::circuit
