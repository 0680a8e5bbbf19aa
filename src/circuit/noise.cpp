#include "circuit/noise.h"

#include "circuit/lanes.h"

#include <cmath>

namespace vinegar::circuit {
namespace {

using Number = Elimination::Number;
constexpr double fourKT = 4 * boltzmann * roomKelvin;

VINEGAR_WIDE void addPower(const Number* y, int a, int b, double density, Elimination::Lane& power) {
  for (int i = 0; i < Elimination::lanes; ++i) {
    const double re = (a >= 0 ? y[a].re[i] : 0) - (b >= 0 ? y[b].re[i] : 0);
    const double im = (a >= 0 ? y[a].im[i] : 0) - (b >= 0 ? y[b].im[i] : 0);
    power[i] = (re * re + im * im) * density;
  }
}

} // namespace

std::vector<NoiseSource> noiseSources(const System& system, const Eigen::VectorXd& x) {
  std::vector<NoiseSource> sources;
  const auto& devices = system.netlist().devices();
  for (std::size_t i = 0; i < devices.size(); ++i) {
    const auto& device = devices[i];
    const auto& n = device.nodes;
    const int index = static_cast<int>(i);
    const auto current = [&](const char* kind, Node from, Node to, double density) {
      if (density > 0) sources.push_back({index, kind, from, to, -1, density});
    };
    const auto branch = [&](int row, double ohms) {
      if (ohms > 0) sources.push_back({index, "thermal", 0, 0, row, fourKT * ohms});
    };
    if (const auto* resistor = std::get_if<Resistor>(&device.law)) {
      current("thermal", n[0], n[1], fourKT / resistor->ohms);
    } else if (const auto* inductor = std::get_if<Inductor>(&device.law)) {
      branch(system.branch(index), inductor->ohms);
    } else if (const auto* transformer = std::get_if<Transformer>(&device.law)) {
      for (int w = 0; w < transformer->ohms.size(); ++w)
        branch(system.branch(index) + w, transformer->ohms[w]);
    } else if (isNonlinear(device.law)) {
      std::array<double, 4> volts{};
      for (std::size_t p = 0; p < n.size(); ++p)
        volts[p] = System::volts(x, n[p]);
      const auto pins = pinsOf(device.law, volts);
      if (std::holds_alternative<Triode>(device.law)) {
        current("space-charge", n[0], n[2], fourKT * 2.5 * pins.slopes[0][1]);
        current("grid", n[1], n[2], 2 * electronCharge * pins.current[1]);
      } else if (std::holds_alternative<Pentode>(device.law)) {
        const double space = pins.current[0] + pins.current[1];
        const double share = space > 0 ? pins.current[0] / space : 0;
        current("space-charge", n[0], n[3], fourKT * 2.5 * share * pins.slopes[0][2]);
        current("partition", n[0], n[3], fourKT * 20 * share * pins.current[1]);
        current("grid", n[2], n[3], 2 * electronCharge * pins.current[2]);
      } else {
        current("shot", n[0], n[1], 2 * electronCharge * std::abs(pins.current[0]));
      }
    }
  }
  return sources;
}

tl::expected<NoiseSpectrum, Problem> solveNoise(const System& system, const Eigen::VectorXd& operatingPoint,
                                                const std::vector<double>& hertz, Node output, Node input,
                                                AcPlan* plan) {
  NoiseSpectrum noise;
  noise.hertz = hertz;
  noise.sources = noiseSources(system, operatingPoint);
  noise.output.resize(hertz.size());
  noise.contributions.resize(static_cast<Eigen::Index>(noise.sources.size()), static_cast<Eigen::Index>(hertz.size()));
  if (input != 0) noise.inputReferred.resize(hertz.size());
  std::vector<Number> y;
  auto problem = sweepSmallSignal(system, operatingPoint, hertz, plan, [&](const SweepBlock& block) {
    block.transposed(System::row(output), y);
    Elimination::Lane power;
    for (std::size_t s = 0; s < noise.sources.size(); ++s) {
      const auto& source = noise.sources[s];
      const bool inBranch = source.branch >= 0;
      addPower(y.data(), inBranch ? source.branch : System::row(source.from), inBranch ? -1 : System::row(source.to),
               source.density, power);
      for (std::size_t lane = 0; lane < block.count; ++lane) {
        noise.contributions(static_cast<Eigen::Index>(s), static_cast<Eigen::Index>(block.first + lane)) = power[lane];
        noise.output[block.first + lane] += power[lane];
      }
    }
    for (std::size_t lane = 0; input != 0 && lane < block.count; ++lane) {
      const auto power2 = [&](Node node) {
        const auto& v = block.x()[System::row(node)];
        return v.re[lane] * v.re[lane] + v.im[lane] * v.im[lane];
      };
      noise.inputReferred[block.first + lane] = noise.output[block.first + lane] * power2(input) / power2(output);
    }
  });
  if (problem) return tl::unexpected(*problem);
  return noise;
}

double noiseVolts(const std::vector<double>& hertz, const std::vector<double>& density,
                  const std::vector<double>& weight) {
  double sum = 0;
  for (std::size_t k = 1; k < hertz.size(); ++k) {
    const double a = density[k - 1] * (weight.empty() ? 1 : weight[k - 1]);
    const double b = density[k] * (weight.empty() ? 1 : weight[k]);
    sum += (a + b) / 2 * (hertz[k] - hertz[k - 1]);
  }
  return std::sqrt(sum);
}

} // namespace vinegar::circuit
