#include "circuit/system.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace vinegar::circuit {
namespace {

std::complex<double> phasor(double magnitude, double degrees) {
  return std::polar(magnitude, degrees * std::numbers::pi / 180);
}

/// Exponential law continued along its tangent above 80 thermal volts, so that no iteration overflows.
TwoPin diodeCurrent(const Diode& diode, double volts) {
  const double scale = diode.emission * thermalVolts;
  const double u = volts / scale;
  constexpr double top = 80;
  const double e = std::exp(std::min(u, top));
  const double beyond = std::max(u - top, 0.0);
  return {diode.saturationAmps * (e * (1 + beyond) - 1), diode.saturationAmps * e / scale};
}

/// Three-halves power law with a soft start 0.1 V wide.
TwoPin vacuumDiodeCurrent(const VacuumDiode& diode, double volts) {
  constexpr double width = 0.1;
  const double u = volts / width;
  if (u < -40) return {0, 0}; // less than the last digit of anything
  const double drive = u > 30 ? volts : width * std::log1p(std::exp(u));
  const double slope = u > 30 ? 1 : 1 / (1 + std::exp(-u));
  const double root = std::sqrt(drive);
  return {diode.perveance * drive * root, 1.5 * diode.perveance * root * slope};
}

/// A softplus knee two thermal volts wide, placed so that the law passes through (volts, testAmps).
TwoPin zenerCurrent(const Zener& zener, double volts) {
  constexpr double knee = 2 * thermalVolts;
  const double at = zener.ohms * zener.testAmps / knee;
  const double overdrive = at > 30 ? at : std::log(std::expm1(at));
  const double u = (-volts - zener.volts) / knee + overdrive;
  const double amount = u > 30 ? u : std::log1p(std::exp(u));
  const auto forward = diodeCurrent(zenerForward, volts);
  return {forward.current - knee / zener.ohms * amount, forward.slope + 1 / (zener.ohms * (1 + std::exp(-u)))};
}

TwoPin meanCurrent(const MeanDiode& diode, double volts) {
  const auto& at = diode.volts;
  const auto last = at.size() - 1;
  if (volts >= at[last]) return {diode.amps[last] + diode.slopes[last] * (volts - at[last]), diode.slopes[last]};
  if (volts <= at[0]) {
    const double amps = diode.amps[0] + diode.slopes[0] * (volts - at[0]);
    return amps > 0 ? TwoPin{amps, diode.slopes[0]} : TwoPin{0, 0};
  }
  const auto k = static_cast<std::size_t>(std::upper_bound(at.begin(), at.end(), volts) - at.begin()) - 1;
  const double h = at[k + 1] - at[k], t = (volts - at[k]) / h, chord = (diode.amps[k + 1] - diode.amps[k]) / h;
  const double a = diode.slopes[k], b = diode.slopes[k + 1];
  const double c2 = 3 * chord - 2 * a - b, c3 = a + b - 2 * chord;
  return {diode.amps[k] + h * t * (a + t * (c2 + t * c3)), a + t * (2 * c2 + 3 * t * c3)};
}

int branchCount(const Law& law) {
  if (const auto* transformer = std::get_if<Transformer>(&law)) return static_cast<int>(transformer->ohms.size());
  return std::holds_alternative<VoltageSource>(law) || std::holds_alternative<Inductor>(law) ||
                 std::holds_alternative<Vcvs>(law) || std::holds_alternative<Delay>(law)
             ? 1
             : 0;
}

double linearOhms(const Law& law) {
  if (const auto* resistor = std::get_if<Resistor>(&law)) return resistor->ohms;
  if (const auto* contact = std::get_if<Switch>(&law)) return contact->closed ? closedSwitchOhms : openSwitchOhms;
  return 0;
}

Pins evaluate(const Device& device, const Eigen::VectorXd& x) {
  std::array<double, 4> volts{};
  for (std::size_t pin = 0; pin < device.nodes.size(); ++pin)
    volts[pin] = System::volts(x, device.nodes[pin]);
  return pinsOf(device.law, volts);
}

void stamp(std::vector<System::Triplet>& matrix, int row, int column, double value) {
  if (row >= 0 && column >= 0) matrix.emplace_back(row, column, value);
}

void stampPair(std::vector<System::Triplet>& matrix, Node a, Node b, double value) {
  const int i = System::row(a), j = System::row(b);
  stamp(matrix, i, i, value);
  stamp(matrix, j, j, value);
  stamp(matrix, i, j, -value);
  stamp(matrix, j, i, -value);
}

void stampBranch(std::vector<System::Triplet>& matrix, Node plus, Node minus, int branch) {
  stamp(matrix, System::row(plus), branch, 1);
  stamp(matrix, System::row(minus), branch, -1);
  stamp(matrix, branch, System::row(plus), 1);
  stamp(matrix, branch, System::row(minus), -1);
}

} // namespace

bool isNonlinear(const Law& law) {
  return std::holds_alternative<Diode>(law) || std::holds_alternative<VacuumDiode>(law) ||
         std::holds_alternative<Triode>(law) || std::holds_alternative<Pentode>(law) ||
         std::holds_alternative<Zener>(law) || std::holds_alternative<SaturableInductor>(law) ||
         std::holds_alternative<MeanDiode>(law);
}

bool isTwoPin(const Law& law) {
  return std::holds_alternative<Diode>(law) || std::holds_alternative<VacuumDiode>(law) ||
         std::holds_alternative<Zener>(law) || std::holds_alternative<MeanDiode>(law);
}

TwoPin twoPin(const Law& law, double across) {
  if (const auto* vacuum = std::get_if<VacuumDiode>(&law)) return vacuumDiodeCurrent(*vacuum, across);
  if (const auto* silicon = std::get_if<Diode>(&law)) return diodeCurrent(*silicon, across);
  if (const auto* mean = std::get_if<MeanDiode>(&law)) return meanCurrent(*mean, across);
  return zenerCurrent(std::get<Zener>(law), across);
}

Pins pinsOf(const Law& law, const std::array<double, 4>& volts) {
  const auto v = [&](std::size_t pin) { return volts[pin]; };
  Pins pins;
  if (const auto* triode = std::get_if<Triode>(&law)) {
    const double grid = v(1) - v(2);
    const auto p = tubes::triodeCurrent(triode->model, v(0) - v(2), grid);
    const auto g = tubes::gridCurrent(triode->grid, triode->model.K, grid);
    pins.count = 3;
    pins.current = {p.plate, g.grid, -p.plate - g.grid};
    pins.slopes[0] = {p.byPlate, p.byGrid, -p.byPlate - p.byGrid};
    pins.slopes[1] = {0, g.byGrid, -g.byGrid};
  } else if (const auto* pentode = std::get_if<Pentode>(&law)) {
    const double grid = v(2) - v(3);
    const auto p = tubes::pentodeCurrent(pentode->model, v(0) - v(3), grid, v(1) - v(3));
    const auto g = tubes::gridCurrent(pentode->grid, pentode->model.K, grid);
    pins.count = 4;
    pins.current = {p.plate, p.screen, g.grid, -p.plate - p.screen - g.grid};
    pins.slopes[0] = {p.plateByPlate, p.plateByScreen, p.plateByGrid,
                      -p.plateByPlate - p.plateByScreen - p.plateByGrid};
    pins.slopes[1] = {p.screenByPlate, p.screenByScreen, p.screenByGrid,
                      -p.screenByPlate - p.screenByScreen - p.screenByGrid};
    pins.slopes[2] = {0, 0, g.byGrid, -g.byGrid};
  } else if (const auto* core = std::get_if<SaturableInductor>(&law)) {
    const double flux = v(2) - v(3), bend = std::pow(flux / core->bendFlux, 4);
    const double amps = flux / core->henries * (1 + bend), slope = (1 + 5 * bend) / core->henries;
    pins.count = 4;
    pins.current = {amps, -amps, -fluxFarads * (v(0) - v(1)), 0};
    pins.slopes[0] = {0, 0, slope, -slope};
    pins.slopes[1] = {0, 0, -slope, slope};
    pins.slopes[2] = {-fluxFarads, fluxFarads, 0, 0};
    pins.current[3] = -pins.current[2];
  } else {
    const double across = v(0) - v(1);
    const auto two = twoPin(law, across);
    pins.count = 2;
    pins.current = {two.current, -two.current};
    pins.slopes[0] = {two.slope, -two.slope};
  }
  // What flows into the other pins leaves by the last one.
  for (std::size_t j = 0; j < pins.count; ++j) {
    double sum = 0;
    for (std::size_t i = 0; i + 1 < pins.count; ++i)
      sum += pins.slopes[i][j];
    pins.slopes[pins.count - 1][j] = -sum;
  }
  return pins;
}

System::System(const Netlist& netlist) : netlist_(netlist) {
  number();
  stampAll();
}

void System::setLaws(const std::vector<std::pair<int, Law>>& laws) {
  for (const auto& [device, law] : laws)
    netlist_.setLaw(device, law);
  stampAll();
}

void System::number() {
  size_ = netlist_.nodeCount() - 1;
  for (const auto& device : netlist_.devices()) {
    const int count = branchCount(device.law);
    branches_.push_back(count > 0 ? size_ : -1);
    size_ += count;
  }
  for (std::size_t i = 0; i < netlist_.devices().size(); ++i)
    if (isNonlinear(netlist_.devices()[i].law)) nonlinearDevices_.push_back(static_cast<int>(i));
}

void System::Stamps::clear() {
  conductance.clear();
  delayed.clear();
  storage.clear();
  dc.clear();
  ac.clear();
}

void System::stampAll() {
  linear_.clear();
  for (std::size_t i = 0; i < netlist_.devices().size(); ++i)
    stampsOf(static_cast<int>(i), netlist_.devices()[i].law, linear_);
  dc_ = Eigen::VectorXd::Zero(size_);
  ac_ = Eigen::VectorXcd::Zero(size_);
  for (const auto& [row, value] : linear_.dc)
    dc_[row] += value;
  for (const auto& [row, value] : linear_.ac)
    ac_[row] += value;
}

void System::stampsOf(int device, const Law& law, Stamps& out) const {
  const auto& nodes = netlist_.devices()[static_cast<std::size_t>(device)].nodes;
  const int branch = branches_[static_cast<std::size_t>(device)];
  auto& G = out.conductance;
  auto& C = out.storage;
  if (const double ohms = linearOhms(law); ohms > 0) {
    stampPair(G, nodes[0], nodes[1], 1 / ohms);
  } else if (const auto* capacitor = std::get_if<Capacitor>(&law)) {
    stampPair(C, nodes[0], nodes[1], capacitor->farads);
  } else if (const auto* inductor = std::get_if<Inductor>(&law)) {
    stampBranch(G, nodes[0], nodes[1], branch);
    stamp(G, branch, branch, -inductor->ohms);
    stamp(C, branch, branch, -inductor->henries);
  } else if (const auto* transformer = std::get_if<Transformer>(&law)) {
    const auto windings = static_cast<int>(transformer->ohms.size());
    for (int w = 0; w < windings; ++w) {
      stampBranch(G, nodes[static_cast<std::size_t>(2 * w)], nodes[static_cast<std::size_t>(2 * w + 1)], branch + w);
      stamp(G, branch + w, branch + w, -transformer->ohms[w]);
      for (int u = 0; u < windings; ++u)
        stamp(C, branch + w, branch + u, -transformer->henries(w, u));
    }
  } else if (const auto* source = std::get_if<VoltageSource>(&law)) {
    stampBranch(G, nodes[0], nodes[1], branch);
    out.dc.emplace_back(branch, source->dc);
    out.ac.emplace_back(branch, phasor(source->ac, source->acPhaseDegrees));
  } else if (const auto* current = std::get_if<CurrentSource>(&law)) {
    for (const auto& [node, sign] : {std::pair{nodes[0], -1.0}, std::pair{nodes[1], 1.0}})
      if (node != 0) {
        out.dc.emplace_back(row(node), sign * current->dc);
        out.ac.emplace_back(row(node), sign * phasor(current->ac, current->acPhaseDegrees));
      }
  } else if (const auto* vcvs = std::get_if<Vcvs>(&law)) {
    stampBranch(G, nodes[0], nodes[1], branch);
    stamp(G, branch, row(nodes[2]), -vcvs->gain);
    stamp(G, branch, row(nodes[3]), vcvs->gain);
  } else if (const auto* norton = std::get_if<Norton>(&law)) {
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      if (nodes[i] == 0) continue;
      out.dc.emplace_back(row(nodes[i]), -norton->amps[static_cast<Eigen::Index>(i)]);
      for (std::size_t j = 0; j < nodes.size(); ++j)
        stamp(G, row(nodes[i]), row(nodes[j]),
              norton->siemens(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(j)));
    }
  } else if (const auto* delay = std::get_if<Delay>(&law)) {
    stampBranch(G, nodes[0], nodes[1], branch);
    for (const auto& [node, sign] : {std::pair{nodes[2], -1.0}, {nodes[3], 1.0}})
      if (node != 0) out.delayed.push_back({branch, row(node), sign * delay->gain, delay->seconds});
  }
}

void System::nonlinear(const Eigen::VectorXd& x, Eigen::VectorXd& current, std::vector<Triplet>& slopes) const {
  for (const int index : nonlinearDevices_) {
    const auto& device = netlist_.devices()[static_cast<std::size_t>(index)];
    const Pins pins = evaluate(device, x);
    for (std::size_t i = 0; i < pins.count; ++i) {
      const int r = row(device.nodes[i]);
      if (r < 0) continue;
      current[r] += pins.current[i];
      for (std::size_t j = 0; j < pins.count; ++j)
        if (const int c = row(device.nodes[j]); c >= 0) slopes.emplace_back(r, c, pins.slopes[i][j]);
    }
  }
}

std::vector<double> System::pinCurrents(int index, const Eigen::VectorXd& x) const {
  const auto& device = netlist_.devices()[static_cast<std::size_t>(index)];
  if (isNonlinear(device.law)) {
    const Pins pins = evaluate(device, x);
    return {pins.current.begin(), pins.current.begin() + static_cast<std::ptrdiff_t>(pins.count)};
  }
  std::vector<double> currents(device.nodes.size(), 0.0);
  if (const int b = branch(index); b >= 0) {
    const auto windings = static_cast<std::size_t>(branchCount(device.law));
    for (std::size_t w = 0; w < windings; ++w) {
      currents[2 * w] = x[b + static_cast<int>(w)];
      currents[2 * w + 1] = -currents[2 * w];
    }
  } else if (const auto* source = std::get_if<CurrentSource>(&device.law)) {
    currents = {source->dc, -source->dc};
  } else if (const auto* norton = std::get_if<Norton>(&device.law)) {
    Eigen::VectorXd at(norton->amps.size());
    for (Eigen::Index i = 0; i < at.size(); ++i)
      at[i] = volts(x, device.nodes[static_cast<std::size_t>(i)]);
    const Eigen::VectorXd into = norton->amps + norton->siemens * at;
    currents.assign(into.begin(), into.end());
  } else if (const double ohms = linearOhms(device.law); ohms > 0) {
    const double amps = (volts(x, device.nodes[0]) - volts(x, device.nodes[1])) / ohms;
    currents = {amps, -amps};
  }
  return currents;
}

} // namespace vinegar::circuit
