#include "predict/rest/amp_load.h"

#include <Eigen/KLUSupport>
#include <algorithm>
#include <set>

namespace vinegar::predict {
namespace {

/// Below this a tube counts as cold: its law cannot have no perveance at all.
constexpr double leastEmission = 1e-6;

} // namespace

AmpLoad::AmpLoad(const amp::Circuit& circuit) {
  const auto& devices = circuit.netlist.devices();
  std::vector<bool> ofSupply(devices.size());
  for (const int d : circuit.supply.devices)
    ofSupply[static_cast<std::size_t>(d)] = true;
  std::set<circuit::Node> supplied, loaded;
  for (std::size_t d = 0; d < devices.size(); ++d)
    for (const auto node : devices[d].nodes)
      if (node != 0) (ofSupply[d] ? supplied : loaded).insert(node);
  std::set_intersection(supplied.begin(), supplied.end(), loaded.begin(), loaded.end(), std::back_inserter(nodes_));

  circuit::Netlist netlist;
  own_.assign(static_cast<std::size_t>(circuit.netlist.nodeCount()), -1);
  own_[0] = 0;
  for (const auto node : loaded)
    own_[static_cast<std::size_t>(node)] = netlist.node(circuit.netlist.nodeNames()[static_cast<std::size_t>(node)]);
  for (std::size_t d = 0; d < devices.size(); ++d) {
    if (ofSupply[d]) continue;
    std::vector<circuit::Node> nodes;
    for (const auto node : devices[d].nodes)
      nodes.push_back(own_[static_cast<std::size_t>(node)]);
    const int added = netlist.add(devices[d].id, nodes, devices[d].law);
    if (std::holds_alternative<circuit::Triode>(devices[d].law) ||
        std::holds_alternative<circuit::Pentode>(devices[d].law))
      tubes_.push_back({added, devices[d].law});
  }
  for (const auto node : nodes_)
    sources_.push_back(netlist.add("rail", {own_[static_cast<std::size_t>(node)], 0}, circuit::VoltageSource{0}));
  emissions_.assign(tubes_.size(), 1);
  system_ = std::make_unique<circuit::System>(netlist);
}

tl::expected<circuit::Norton, Problem> AmpLoad::at(const Eigen::VectorXd& volts, double emission) {
  return at(volts, std::vector<double>(tubes_.size(), emission));
}

tl::expected<circuit::Norton, Problem> AmpLoad::at(const Eigen::VectorXd& volts, const std::vector<double>& emissions) {
  const auto count = static_cast<Eigen::Index>(nodes_.size());
  if (count == 0) return circuit::Norton{Eigen::VectorXd(0), Eigen::MatrixXd(0, 0)};
  std::vector<std::pair<int, circuit::Law>> laws;
  for (std::size_t t = 0; t < tubes_.size(); ++t)
    if (emissions[t] != emissions_[t])
      laws.emplace_back(tubes_[t].device, circuit::varied(tubes_[t].law, std::max(emissions[t], leastEmission)));
  emissions_ = emissions;
  for (Eigen::Index k = 0; k < count; ++k)
    laws.emplace_back(sources_[static_cast<std::size_t>(k)], circuit::VoltageSource{volts[k]});
  system_->setLaws(laws);
  if (!solver_) {
    if (const auto floating = circuit::findFloatingNode(system_->netlist())) return tl::unexpected(*floating);
    solver_ = std::make_unique<circuit::DcSolver>(*system_);
  }
  const auto dc = solver_->solve(x_.size() ? &x_ : nullptr);
  if (!dc) return tl::unexpected(dc.error());
  x_ = dc->x;
  const int n = system_->size();
  Eigen::VectorXd current = Eigen::VectorXd::Zero(n);
  std::vector<circuit::System::Triplet> slopes;
  system_->nonlinear(x_, current, slopes);
  // Sparse: a large amplifier has thousands of unknowns and few entries in each row.
  auto entries = system_->conductance();
  entries.insert(entries.end(), slopes.begin(), slopes.end());
  for (const auto& delayed : system_->delayed())
    entries.emplace_back(delayed.row, delayed.column, delayed.gain);
  for (int i = 0; i + 1 < system_->netlist().nodeCount(); ++i)
    entries.emplace_back(i, i, 1e-12);
  Eigen::SparseMatrix<double> jacobian(n, n);
  jacobian.setFromTriplets(entries.begin(), entries.end());
  Eigen::MatrixXd unit = Eigen::MatrixXd::Zero(n, count);
  for (Eigen::Index k = 0; k < count; ++k)
    unit(system_->branch(sources_[static_cast<std::size_t>(k)]), k) = 1;
  Eigen::KLU<Eigen::SparseMatrix<double>> factors(jacobian);
  const Eigen::MatrixXd byVolts = factors.solve(unit);
  if (factors.info() != Eigen::Success || !byVolts.allFinite())
    return tl::unexpected(Problem{"the amplifier", "draws no definite current from its rails"});
  circuit::Norton norton{Eigen::VectorXd(count), Eigen::MatrixXd(count, count)};
  for (Eigen::Index k = 0; k < count; ++k) {
    const int branch = system_->branch(sources_[static_cast<std::size_t>(k)]);
    norton.amps[k] = -x_[branch];
    norton.siemens.row(k) = -byVolts.row(branch);
  }
  norton.amps -= norton.siemens * volts;
  return norton;
}

bool AmpLoad::isLinear(const std::vector<double>& emissions) const {
  return system_->nonlinearDevices().size() == tubes_.size() &&
         std::all_of(emissions.begin(), emissions.end(), [](double share) { return share == 0; });
}

double AmpLoad::volts(circuit::Node node) const {
  const auto own = own_[static_cast<std::size_t>(node)];
  return own > 0 && x_.size() ? circuit::System::volts(x_, own) : 0;
}

} // namespace vinegar::predict
