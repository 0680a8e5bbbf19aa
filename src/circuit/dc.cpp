#include "circuit/dc.h"

#include <Eigen/KLUSupport>
#include <Eigen/LU>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numeric>
#include <unordered_map>

namespace vinegar::circuit {
namespace {

constexpr double residualLimit = 2e-10;
constexpr double stepLimit = 1e-7, floorStep = 1e-5;
/// On the slopes only, so that a cut-off tube never makes the matrix singular; the answer does not contain it.
constexpr double jacobianFloor = 1e-12;

using Matrix = Eigen::SparseMatrix<double>;

class Newton {
public:
  explicit Newton(const System& system) : system_(system), current_(Eigen::VectorXd::Zero(system.size())) {
    system.nonlinear(Eigen::VectorXd::Zero(system.size()), current_, slopes_);
    makePattern();
    refresh();
  }

  /// Takes over the values that the system has now.
  void refresh() {
    double* values = linear_.valuePtr();
    std::fill(values, values + linear_.nonZeros(), 0.0);
    const auto& conductance = system_.conductance();
    for (std::size_t i = 0; i < conductance.size(); ++i)
      values[linearSlots_[i]] += conductance[i].value();
    for (std::size_t i = 0; i < system_.delayed().size(); ++i)
      values[delayedSlots_[i]] += system_.delayed()[i].gain;
  }

  /// Iterates `x` to a solution of the system with `leak` siemens from every node to ground.
  bool solve(Eigen::VectorXd& x, double leak, int limit, int& iterations) {
    double norm = evaluate(x, leak), before = std::numeric_limits<double>::infinity();
    int stillAtFloor = 0;
    for (int i = 0; i < limit; ++i) {
      ++iterations;
      if (!factor(leak)) return false;
      const Eigen::VectorXd step = klu_.solve(residual_);
      if (klu_.info() != Eigen::Success || !step.allFinite()) return false;
      // Accept a step that grows the residual moderately: tube curves make full steps overshoot and come back, and
      // refusing those costs more iterations than it saves.
      double scale = 1;
      const Eigen::VectorXd from = x;
      double next = 0;
      for (int halving = 0; halving < 12; ++halving, scale /= 2) {
        x = from - scale * step;
        next = evaluate(x, leak);
        if (std::isfinite(next) && next < 4 * norm + residualLimit) break;
      }
      if (!std::isfinite(next)) return false;
      norm = next;
      const double moved = (scale * step).lpNorm<Eigen::Infinity>();
      if (norm < residualLimit / 4 && moved < stepLimit) return true;
      // At the floor of rounding, further steps cannot improve: behind an open switch a picoampere is a volt.
      if (norm < residualLimit && moved < 1e-9) return true;
      if (norm < residualLimit / 10 && moved < floorStep && before < floorStep) return true;
      // A dozen iterations down there: what still moves is behind insulation, where rounding is millivolts.
      stillAtFloor = norm < residualLimit / 10 ? stillAtFloor + 1 : 0;
      if (stillAtFloor >= 12) return true;
      before = moved;
    }
    return false;
  }

  double residualOf(const Eigen::VectorXd& x) { return evaluate(x, 0); }
  /// All sources at this share of their DC from now on.
  void setSourceShare(double share) { sourceShare_ = share; }

  [[nodiscard]] double worst(int* where = nullptr) const {
    Eigen::Index row = 0;
    const double value = residual_.cwiseAbs().maxCoeff(&row);
    if (where) *where = static_cast<int>(row);
    return value;
  }

private:
  double evaluate(const Eigen::VectorXd& x, double leak) {
    current_.setZero();
    slopes_.clear();
    system_.nonlinear(x, current_, slopes_);
    residual_ = linear_ * x + current_ - sourceShare_ * system_.dcExcitation();
    const int nodes = system_.netlist().nodeCount() - 1;
    if (leak > 0) residual_.head(nodes) += leak * x.head(nodes);
    return residual_.lpNorm<Eigen::Infinity>();
  }

  bool factor(double leak) {
    double* values = jacobian_.valuePtr();
    std::copy(linear_.valuePtr(), linear_.valuePtr() + linear_.nonZeros(), values);
    for (std::size_t i = 0; i < slopes_.size(); ++i)
      values[slots_[i]] += slopes_[i].value();
    for (const int slot : diagonal_)
      values[slot] += leak + jacobianFloor;
    klu_.factorize(jacobian_);
    return klu_.info() == Eigen::Success;
  }

  /// The places of the matrix never change, so they are found once and the ordering is analysed once.
  void makePattern() {
    auto all = system_.conductance();
    for (const auto& delayed : system_.delayed())
      all.emplace_back(delayed.row, delayed.column, 0);
    for (const auto& slope : slopes_)
      all.emplace_back(slope.row(), slope.col(), 0);
    const int nodes = system_.netlist().nodeCount() - 1;
    for (int i = 0; i < nodes; ++i)
      all.emplace_back(i, i, 0);
    jacobian_.resize(system_.size(), system_.size());
    jacobian_.setFromTriplets(all.begin(), all.end());
    linear_ = jacobian_;
    const auto slotOf = [&](int row, int column) {
      return static_cast<int>(&jacobian_.coeffRef(row, column) - jacobian_.valuePtr());
    };
    for (const auto& t : system_.conductance())
      linearSlots_.push_back(slotOf(t.row(), t.col()));
    for (const auto& delayed : system_.delayed())
      delayedSlots_.push_back(slotOf(delayed.row, delayed.column));
    for (const auto& slope : slopes_)
      slots_.push_back(slotOf(slope.row(), slope.col()));
    for (int i = 0; i < nodes; ++i)
      diagonal_.push_back(slotOf(i, i));
    klu_.analyzePattern(jacobian_);
  }

  const System& system_;
  double sourceShare_ = 1;
  Matrix linear_, jacobian_;
  Eigen::VectorXd current_, residual_;
  std::vector<System::Triplet> slopes_;
  std::vector<int> linearSlots_, delayedSlots_, slots_, diagonal_;
  Eigen::KLU<Matrix> klu_;
};

/// Strong leaks make every circuit linear; they are taken away in steps that shrink when Newton fails.
bool continueInConductance(Newton& newton, Eigen::VectorXd& x, int& iterations) {
  x.setZero();
  double exponent = -1, pace = 1;
  if (!newton.solve(x, std::pow(10.0, exponent), 60, iterations)) return false;
  while (pace > 0.01 && iterations < 5000) {
    const double next = exponent - pace;
    Eigen::VectorXd trial = x;
    if (newton.solve(trial, std::pow(10.0, next), 30, iterations)) {
      x = trial;
      exponent = next;
      pace = std::min(pace * 1.5, 2.0);
      if (exponent < -12.5) {
        if (newton.solve(trial, 0, 60, iterations)) {
          x = trial;
          return true;
        }
        // Between two tubes that are both cut off, volts have nothing to hold them but what insulation leaks; that
        // answer meets Kirchhoff's law as well as any.
        return newton.residualOf(x) < residualLimit;
      }
    } else {
      pace /= 2;
    }
  }
  return false;
}

/// With all sources at nothing the answer is known; they are raised in steps that shrink when Newton fails.
bool continueInSources(Newton& newton, Eigen::VectorXd& x, int& iterations) {
  x.setZero();
  double reached = 0, pace = 0.1;
  while (reached < 1 && pace > 1e-4 && iterations < 10000) {
    const double next = std::min(1.0, reached + pace);
    Eigen::VectorXd trial = x;
    newton.setSourceShare(next);
    if (newton.solve(trial, 0, 40, iterations)) {
      x = trial;
      reached = next;
      pace *= 1.5;
    } else {
      pace /= 2;
    }
  }
  newton.setSourceShare(1);
  return newton.residualOf(x) < residualLimit;
}

} // namespace

std::vector<std::vector<Node>> floatingGroups(const Netlist& netlist) {
  std::vector<int> parent(static_cast<std::size_t>(netlist.nodeCount()));
  std::iota(parent.begin(), parent.end(), 0);
  const auto root = [&](int n) {
    while (parent[static_cast<std::size_t>(n)] != n)
      n = parent[static_cast<std::size_t>(n)];
    return n;
  };
  const auto join = [&](Node a, Node b) { parent[static_cast<std::size_t>(root(a))] = root(b); };
  for (const auto& device : netlist.devices()) {
    const auto& nodes = device.nodes;
    if (std::holds_alternative<Capacitor>(device.law) || std::holds_alternative<CurrentSource>(device.law)) continue;
    // An open contact leaks, which holds nothing that a grid could rely on.
    if (const auto* contact = std::get_if<Switch>(&device.law); contact && !contact->closed) continue;
    if (std::holds_alternative<Transformer>(device.law)) {
      for (std::size_t w = 0; w + 1 < nodes.size(); w += 2)
        join(nodes[w], nodes[w + 1]);
    } else if (std::holds_alternative<Triode>(device.law) || std::holds_alternative<Pentode>(device.law)) {
      join(nodes.front(), nodes.back());
      if (nodes.size() == 4) join(nodes[1], nodes.back());
    } else if (std::holds_alternative<Norton>(device.law)) {
      for (std::size_t i = 0; i + 1 < nodes.size(); ++i)
        join(nodes[i], nodes[i + 1]);
    } else if (std::holds_alternative<SaturableInductor>(device.law)) {
      join(nodes[0], nodes[1]);
      join(nodes[2], nodes[3]);
    } else {
      join(nodes[0], nodes[1]);
    }
  }
  std::vector<std::vector<Node>> groups;
  std::unordered_map<int, std::size_t> numbers;
  for (Node n = 1; n < netlist.nodeCount(); ++n) {
    if (root(n) == root(0)) continue;
    const auto [number, isNew] = numbers.try_emplace(root(n), groups.size());
    if (isNew) groups.emplace_back();
    groups[number->second].push_back(n);
  }
  return groups;
}

std::optional<Problem> findFloatingNode(const Netlist& netlist) {
  const auto groups = floatingGroups(netlist);
  if (groups.empty()) return std::nullopt;
  return Problem{"node " + netlist.nodeNames()[static_cast<std::size_t>(groups.front().front())],
                 "has no DC path to ground; give it a resistor or join it to something that has one"};
}

struct DcSolver::Work {
  explicit Work(const System& s) : system(s), newton(s) {}
  const System& system;
  Newton newton;
};

DcSolver::DcSolver(const System& system) : work_(std::make_unique<Work>(system)) {}
DcSolver::~DcSolver() = default;

tl::expected<DcSolution, Problem> DcSolver::solve(const Eigen::VectorXd* start) {
  const auto& system = work_->system;
  auto& newton = work_->newton;
  newton.refresh();
  DcSolution solution;
  const bool warm = start && start->size() == system.size();
  solution.x = warm ? *start : Eigen::VectorXd::Zero(system.size());
  bool solved = newton.solve(solution.x, 0, warm ? 20 : 60, solution.iterations);
  if (!solved && warm) {
    solution.x.setZero();
    solved = newton.solve(solution.x, 0, 60, solution.iterations);
  }
  if (!solved) {
    solution.usedContinuation = true;
    solved = continueInConductance(newton, solution.x, solution.iterations) ||
             continueInSources(newton, solution.x, solution.iterations);
  }
  int where = 0;
  solution.residual = newton.worst(&where);
  if (!solved) {
    const auto& names = system.netlist().nodeNames();
    const bool isNode = where + 1 < static_cast<int>(names.size());
    return tl::unexpected(
        Problem{isNode ? "node " + names[static_cast<std::size_t>(where + 1)] : "the circuit",
                "no DC operating point was found; look for a part value far from what its place wants"});
  }
  return solution;
}

tl::expected<DcSolution, Problem> solveDc(const System& system, const Eigen::VectorXd* start) {
  if (auto floating = findFloatingNode(system.netlist())) return tl::unexpected(*floating);
  return DcSolver(system).solve(start);
}

} // namespace vinegar::circuit
