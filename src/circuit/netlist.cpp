#include "circuit/netlist.h"

#include <array>
#include <cmath>
#include <fmt/format.h>
#include <stdexcept>
#include <type_traits>

namespace vinegar::circuit {
namespace {

template <class... F> struct Overload : F... { using F::operator()...; };
template <class... F> Overload(F...) -> Overload<F...>;

bool positive(double value) { return std::isfinite(value) && value > 0; }

std::size_t pinCount(const Law& law) {
  constexpr std::array<std::size_t, std::variant_size_v<Law>> pins{2, 2, 2, 0, 2, 2, 2, 2, 3, 4, 4, 2, 2, 4, 4, 0, 2};
  if (const auto* transformer = std::get_if<Transformer>(&law))
    return 2 * static_cast<std::size_t>(transformer->ohms.size());
  if (const auto* norton = std::get_if<Norton>(&law)) return static_cast<std::size_t>(norton->amps.size());
  return pins.at(law.index());
}

bool physical(const Law& law) {
  return std::visit(
      Overload{[](const Resistor& d) { return positive(d.ohms); },
               [](const Capacitor& d) { return positive(d.farads); },
               [](const Inductor& d) { return positive(d.henries) && std::isfinite(d.ohms) && d.ohms >= 0; },
               [](const Transformer& d) {
                 return d.henries.rows() == d.ohms.size() && d.henries.cols() == d.ohms.size() &&
                        d.henries.allFinite() && (d.ohms.array() >= 0).all() &&
                        d.henries.isApprox(d.henries.transpose()) &&
                        d.henries.selfadjointView<Eigen::Lower>().eigenvalues().minCoeff() >
                            -1e-12 * d.henries.diagonal().maxCoeff();
               },
               [](const VoltageSource& d) { return std::isfinite(d.dc) && std::isfinite(d.ac); },
               [](const CurrentSource& d) { return std::isfinite(d.dc) && std::isfinite(d.ac); },
               [](const Diode& d) { return positive(d.saturationAmps) && positive(d.emission); },
               [](const VacuumDiode& d) { return positive(d.perveance); },
               [](const Triode& d) { return positive(d.model.K) && positive(d.model.MU); },
               [](const Pentode& d) { return positive(d.model.K) && positive(d.model.MU); },
               [](const Vcvs& d) { return std::isfinite(d.gain); }, [](const Switch&) { return true; },
               [](const Zener& d) { return positive(d.volts) && positive(d.testAmps) && positive(d.ohms); },
               [](const SaturableInductor& d) { return positive(d.henries) && positive(d.bendFlux); },
               [](const Delay& d) { return std::isfinite(d.gain) && positive(d.seconds); },
               [](const MeanDiode& d) { return d.volts.size() > 1 && d.slopes.size() == d.volts.size(); },
               [](const Norton& d) {
                 return d.amps.allFinite() && d.siemens.allFinite() && d.siemens.rows() == d.amps.size() &&
                        d.siemens.cols() == d.amps.size();
               }},
      law);
}

} // namespace

Transformer wind(const std::vector<Winding>& windings, std::size_t primaries, double henries, double leakageShare) {
  // With coupling k between every two windings, turns n_i and an inductance l per square turn, a group of windings in
  // series has l (q + k (s - q)), s = (sum n)^2 and q = sum n^2. Between primary (s = 1) and the rest:
  //   1 - leakageShare = k^2 s' / ((q + k (1 - q)) (q' + k (s' - q'))), which grows with k.
  double q = 0, total = 0, otherSum = 0, otherSquares = 0;
  for (std::size_t i = 0; i < windings.size(); ++i) {
    const double n = windings[i].turns;
    (i < primaries ? q : otherSquares) += n * n;
    (i < primaries ? total : otherSum) += n;
  }
  q /= total * total;
  const double others = otherSum * otherSum;
  const auto coupled = [&](double k) {
    return k * k * others / ((q + k * (1 - q)) * (otherSquares + k * (others - otherSquares)));
  };
  double low = 0, high = 1;
  for (int i = 0; i < 200 && others > 0 && leakageShare > 0; ++i) {
    const double middle = (low + high) / 2;
    (coupled(middle) < 1 - leakageShare ? low : high) = middle;
  }
  const double k = leakageShare > 0 ? low : 1;
  const double perSquareTurn = henries / (total * total * (q + k * (1 - q)));
  const auto count = static_cast<Eigen::Index>(windings.size());
  Transformer law{Eigen::MatrixXd(count, count), Eigen::VectorXd(count)};
  for (Eigen::Index i = 0; i < count; ++i) {
    const auto& a = windings[static_cast<std::size_t>(i)];
    law.ohms[i] = a.ohms;
    for (Eigen::Index j = 0; j < count; ++j)
      law.henries(i, j) = (i == j ? 1 : k) * a.turns * windings[static_cast<std::size_t>(j)].turns * perSquareTurn;
  }
  return law;
}

Node Netlist::node(const std::string& name) {
  const auto [entry, isNew] = numbers_.try_emplace(name, nodeCount());
  if (isNew) names_.push_back(name);
  return entry->second;
}

int Netlist::add(std::string id, std::vector<Node> nodes, Law law) {
  if (nodes.size() != pinCount(law)) throw std::invalid_argument(id + " has the wrong number of nodes");
  for (const Node n : nodes)
    if (n < 0 || n >= nodeCount()) throw std::invalid_argument(id + " is on a node that does not exist");
  if (!physical(law)) throw std::invalid_argument(id + " has a value that no part can have");
  devices_.push_back({std::move(id), std::move(nodes), std::move(law)});
  return static_cast<int>(devices_.size()) - 1;
}

void Netlist::setLaw(int index, Law law) {
  auto& device = devices_.at(static_cast<std::size_t>(index));
  if (law.index() != device.law.index())
    throw std::invalid_argument(device.id + " cannot become another kind of device");
  replaceLaw(index, std::move(law));
}

void Netlist::replaceLaw(int index, Law law) {
  auto& device = devices_.at(static_cast<std::size_t>(index));
  if (device.nodes.size() != pinCount(law)) throw std::invalid_argument(device.id + " has the wrong number of nodes");
  if (!physical(law)) throw std::invalid_argument(device.id + " has a value that no part can have");
  device.law = std::move(law);
}

Node Netlist::find(const std::string& name) const {
  const auto found = numbers_.find(name);
  return found == numbers_.end() ? -1 : found->second;
}

bool Netlist::sameTopology(const Netlist& other) const {
  if (names_.size() != other.names_.size() || devices_.size() != other.devices_.size()) return false;
  for (std::size_t i = 0; i < devices_.size(); ++i)
    if (devices_[i].nodes != other.devices_[i].nodes || devices_[i].law.index() != other.devices_[i].law.index())
      return false;
  return true;
}

bool Transformer::operator==(const Transformer& other) const {
  return ohms.size() == other.ohms.size() && ohms == other.ohms && henries == other.henries;
}

bool Norton::operator==(const Norton& other) const {
  return amps.size() == other.amps.size() && amps == other.amps && siemens == other.siemens;
}

bool Netlist::sameAtRest(const Netlist& other, const std::vector<int>& wholly) const {
  std::vector<bool> whole(devices_.size());
  for (const int device : wholly)
    whole[static_cast<std::size_t>(device)] = true;
  const auto alike = [](const auto& a, const auto& b) {
    using T = std::decay_t<decltype(a)>;
    if constexpr (std::is_same_v<T, Capacitor>)
      return true;
    else if constexpr (std::is_same_v<T, Inductor>)
      return a.ohms == b.ohms;
    else if constexpr (std::is_same_v<T, Transformer>)
      return a.ohms.size() == b.ohms.size() && a.ohms == b.ohms;
    else
      return a == b;
  };
  for (std::size_t i = 0; i < devices_.size(); ++i) {
    const Law &mine = devices_[i].law, &theirs = other.devices_[i].law;
    if (whole[i]
            ? !(mine == theirs)
            : !std::visit([&](const auto& a) { return alike(a, std::get<std::decay_t<decltype(a)>>(theirs)); }, mine))
      return false;
  }
  return true;
}

double taperShare(const Taper& taper, double rotation) {
  const double r = std::min(std::max(rotation, 0.0), 1.0);
  if (taper.kind == Taper::Kind::measured) {
    const auto& points = taper.points;
    const auto above =
        std::find_if(points.begin() + 1, points.end() - 1, [&](const auto& point) { return point.first >= r; });
    const auto& [x0, y0] = *(above - 1);
    const auto& [x1, y1] = *above;
    return y0 + (y1 - y0) * (r - x0) / (x1 - x0);
  }
  if (taper.kind == Taper::Kind::linear || std::abs(taper.atHalf - 0.5) < 1e-9) return r;
  const double root = 1 / taper.atHalf - 1;
  const double a = root * root;
  const auto exponential = [a](double x) { return (std::pow(a, x) - 1) / (a - 1); };
  return taper.kind == Taper::Kind::log ? exponential(r) : 1 - exponential(1 - r);
}

std::pair<Resistor, Resistor> potHalves(double ohms, double share) {
  const double end = ohms * 1e-4 + 1;
  return {{std::max(ohms * (1 - share), end)}, {std::max(ohms * share, end)}};
}

std::optional<MeanDiode> meanDiode(std::vector<double> volts, std::vector<double> amps) {
  const auto count = volts.size();
  if (count < 2) return std::nullopt;
  std::vector<double> chords(count - 1);
  for (std::size_t k = 0; k + 1 < count; ++k) {
    chords[k] = (amps[k + 1] - amps[k]) / (volts[k + 1] - volts[k]);
    if (!(volts[k + 1] > volts[k]) || !(amps[k + 1] > amps[k])) return std::nullopt;
  }
  MeanDiode diode{std::move(volts), std::move(amps), std::vector<double>(count)};
  diode.slopes.front() = chords.front();
  diode.slopes.back() = chords.back();
  for (std::size_t k = 1; k + 1 < count; ++k) { // the chords' harmonic mean, weighted by their lengths
    const double before = diode.volts[k] - diode.volts[k - 1], after = diode.volts[k + 1] - diode.volts[k];
    const double w1 = 2 * after + before, w2 = after + 2 * before;
    diode.slopes[k] = (w1 + w2) / (w1 / chords[k - 1] + w2 / chords[k]);
  }
  return diode;
}

Law varied(const Law& law, double factor, double gm) {
  Law other = law;
  if (auto* resistor = std::get_if<Resistor>(&other))
    resistor->ohms *= factor;
  else if (auto* capacitor = std::get_if<Capacitor>(&other))
    capacitor->farads *= factor;
  else if (auto* inductor = std::get_if<Inductor>(&other))
    inductor->henries *= factor;
  else if (auto* triode = std::get_if<Triode>(&other))
    triode->model = tubes::worn(triode->model, {factor, gm});
  else if (auto* pentode = std::get_if<Pentode>(&other))
    pentode->model = tubes::worn(pentode->model, {factor, gm});
  return other;
}

} // namespace vinegar::circuit
