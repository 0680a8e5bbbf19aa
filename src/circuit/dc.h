#pragma once

#include "circuit/system.h"
#include "units/place.h"

#include <memory>
#include <optional>

namespace vinegar::circuit {

/// A DC operating point that satisfies every equation of its System.
struct DcSolution {
  Eigen::VectorXd x;             ///< as in System: volts of nodes 1.., then branch currents
  int iterations = 0;            ///< Newton iterations, all continuation steps together
  double residual = 0;           ///< largest Kirchhoff residual, ampere
  bool usedContinuation = false; ///< plain Newton had failed
};

// Everything in this room may be called from any thread, each System, solver or netlist by one at a time.

/// Nodes that no DC path joins to ground, those that are joined to each other together; by their first node.
std::vector<std::vector<Node>> floatingGroups(const Netlist& netlist);
/// Names the first node that has no DC path to ground, if any.
std::optional<Problem> findFloatingNode(const Netlist& netlist);

/// Solves G x + i(x) = b by Newton's method with step control, from `start` if it fits, else from zero; when that
/// fails, by continuation in a conductance from every node to ground, then in the sources. A solution is returned only
/// with a Kirchhoff residual under 2e-10 A; otherwise the Problem says that no operating point was found and where it
/// was worst. A quarter of a millisecond for an amplifier, half that from a near start.
tl::expected<DcSolution, Problem> solveDc(const System& system, const Eigen::VectorXd* start = nullptr);

/// The same for many circuits of one topology: the system may be given other values between calls. The netlist must
/// have no floating node.
class DcSolver {
public:
  explicit DcSolver(const System& system);
  ~DcSolver();
  tl::expected<DcSolution, Problem> solve(const Eigen::VectorXd* start = nullptr);

private:
  struct Work;
  std::unique_ptr<Work> work_;
};

} // namespace vinegar::circuit
