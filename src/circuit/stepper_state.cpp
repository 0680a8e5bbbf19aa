#include "circuit/stepper_state.h"

#include <Eigen/LU>
#include <Eigen/QR>
#include <Eigen/SVD>
#include <algorithm>
#include <cmath>

namespace vinegar::circuit {
namespace {

using tubes::padded;

constexpr double restAmpere = 1e-9; ///< an operating point's own misfit is under this

/// The system's storage as L R: memories w = R x, and L dw/dt in its equations. Each device by itself, so that a
/// capacitor has one memory and windings as many as they have independent fluxes.
struct Memories {
  Eigen::MatrixXd left, right;
};
Memories memoriesOf(const System& system) {
  std::vector<Eigen::VectorXd> lefts, rights;
  const auto& devices = system.netlist().devices();
  System::Stamps stamps;
  for (std::size_t d = 0; d < devices.size(); ++d) {
    stamps.clear();
    system.stampsOf(static_cast<int>(d), devices[d].law, stamps);
    std::vector<int> rows;
    for (const auto& entry : stamps.storage)
      for (const int row : {entry.row(), entry.col()})
        if (std::find(rows.begin(), rows.end(), row) == rows.end()) rows.push_back(row);
    if (rows.empty()) continue;
    const auto at = [&](int row) { return std::find(rows.begin(), rows.end(), row) - rows.begin(); };
    const auto count = static_cast<Eigen::Index>(rows.size());
    Eigen::MatrixXd own = Eigen::MatrixXd::Zero(count, count);
    for (const auto& entry : stamps.storage)
      own(at(entry.row()), at(entry.col())) += entry.value();
    if (own.isZero(0)) continue;                                           // both ends on one node
    if (std::holds_alternative<Capacitor>(devices[d].law) || count == 1) { // one memory, of which the first entry tells
      Eigen::VectorXd right = Eigen::VectorXd::Zero(system.size());
      for (Eigen::Index i = 0; i < count; ++i)
        right[rows[static_cast<std::size_t>(i)]] = own(0, i);
      lefts.emplace_back(right / own(0, 0));
      rights.push_back(std::move(right));
      continue;
    }
    const Eigen::JacobiSVD<Eigen::MatrixXd, Eigen::FullPivHouseholderQRPreconditioner> parts(
        own, Eigen::ComputeFullU | Eigen::ComputeFullV);
    for (Eigen::Index k = 0; k < count && parts.singularValues()[k] > 1e-13 * parts.singularValues()[0]; ++k) {
      Eigen::VectorXd left = Eigen::VectorXd::Zero(system.size()), right = left;
      for (Eigen::Index i = 0; i < count; ++i) {
        left[rows[static_cast<std::size_t>(i)]] = parts.matrixU()(i, k);
        right[rows[static_cast<std::size_t>(i)]] = parts.matrixV()(i, k) * parts.singularValues()[k];
      }
      lefts.push_back(left);
      rights.push_back(right);
    }
  }
  const auto count = static_cast<Eigen::Index>(lefts.size());
  Memories memories{Eigen::MatrixXd(system.size(), count), Eigen::MatrixXd(count, system.size())};
  for (Eigen::Index k = 0; k < count; ++k) {
    memories.left.col(k) = lefts[static_cast<std::size_t>(k)];
    memories.right.row(k) = rights[static_cast<std::size_t>(k)];
  }
  return memories;
}

} // namespace

Stepper::Plan::Plan(const System& s, const Eigen::VectorXd& x, const StepperSetup& asked, const Numbers& now)
    : system(s), ports(system), setup(asked), x0(x), pins(ports.count()), pinRows(padded(std::max(pins, 1))) {
  const double h = 1 / setup.samplesPerSecond;
  // What a jump leaves alternates and dies out by (1 - theta)/theta a step; the shorter the step, the less is needed.
  const double theta = setup.theta > 0 ? setup.theta : 0.5 + std::min(0.05, 1920 * h);
  perStep = 1 / (theta * h);
  old = (1 - theta) / theta;
  const auto [left, right] = memoriesOf(system);
  const Eigen::MatrixXd& r = right;
  const auto n = static_cast<Eigen::Index>(system.size());
  memories = static_cast<int>(left.cols());
  echoes = static_cast<int>(system.delayed().size());
  sources = static_cast<int>(setup.inputs.size()) + echoes;
  columns = memories + sources + 1;
  answerRows = padded(memories + static_cast<int>(setup.outputs.size()) + echoes);
  rows = pinRows + answerRows;

  Eigen::SparseMatrix<double> conductance(n, n);
  conductance.setFromTriplets(system.conductance().begin(), system.conductance().end());
  Eigen::MatrixXd matrix = Eigen::MatrixXd(conductance) + perStep * left * r;
  // A node that only a cut-off tube holds still needs a place to be.
  for (int i = 0; i + 1 < system.netlist().nodeCount(); ++i)
    matrix(i, i) += 1e-12;
  inverse = matrix.partialPivLu().inverse();

  rest.assign(static_cast<std::size_t>(pinRows), 0.0);
  restAmps = rest;
  const Eigen::VectorXd v = ports.volts(x);
  std::copy(v.begin(), v.end(), rest.begin());
  std::vector<std::array<double, 9>> slopes;
  ports.evaluate(rest.data(), restAmps.data(), slopes);
  const auto pinVolts = [&](const Eigen::MatrixXd& of) {
    Eigen::MatrixXd volts(pins, of.cols());
    for (Eigen::Index c = 0; c < of.cols(); ++c)
      volts.col(c) = ports.volts(of.col(c));
    return volts;
  };
  toPins.setZero(n, pins);
  for (int p = 0; p < pins; ++p) {
    const auto [a, b] = ports.rows()[static_cast<std::size_t>(p)];
    if (a >= 0) toPins(a, p) += 1;
    if (b >= 0) toPins(b, p) -= 1;
  }

  // What drives the equations: memories, inputs, echoes, and what is left over at the start.
  drive.setZero(n, columns);
  drive.leftCols(memories) = left;
  int column = memories;
  for (const int index : setup.inputs) {
    const auto& device = system.netlist().devices()[static_cast<std::size_t>(index)];
    if (std::holds_alternative<VoltageSource>(device.law))
      drive(system.branch(index), column) = 1;
    else
      for (const auto& [node, sign] : {std::pair{device.nodes[0], -1.0}, {device.nodes[1], 1.0}})
        if (node != 0) drive(System::row(node), column) += sign;
    ++column;
  }
  for (const auto& entry : system.delayed()) {
    drive(entry.row, column++) = 1;
    const double samples = entry.seconds / h;
    // The cubic through two samples on either side of the moment; none is younger than the last.
    Echo one{-entry.gain, std::max(1, static_cast<int>(std::floor(samples)) - 1), {}};
    for (int i = 0; i < 4; ++i) {
      double weight = 1;
      for (int j = 0; j < 4; ++j)
        if (j != i) weight *= (samples - one.back - j) / (i - j);
      one.weights[static_cast<std::size_t>(i)] = weight;
    }
    pastLength = std::max(pastLength, one.back + 4);
    echo.push_back(one);
  }
  for (int e = 0; e < echoes; ++e) {
    const double now = x0[system.delayed()[static_cast<std::size_t>(e)].column];
    for (int k = 0; k < pastLength; ++k) // the youngest at 0, the older before it, round the end
      firstPast.push_back(now);
    if (setup.past)
      for (int k = 1; k < pastLength; ++k)
        firstPast[static_cast<std::size_t>(e * pastLength + pastLength - k)] = setup.past(e, k * h);
  }
  setup.past = nullptr; // what it looks at need not outlive this
  Eigen::VectorXd over =
      system.dcExcitation() - conductance * x - toPins * Eigen::Map<Eigen::VectorXd>(restAmps.data(), pins);
  Eigen::VectorXd moving = over;
  for (std::size_t i = 0; i < now.size(); ++i)
    moving += now[i] * drive.col(memories + static_cast<Eigen::Index>(i));
  for (int e = 0; e < echoes; ++e)
    moving += echo[static_cast<std::size_t>(e)].gain * x[system.delayed()[static_cast<std::size_t>(e)].column] *
              drive.col(memories + static_cast<int>(setup.inputs.size()) + e);
  drive.col(columns - 1) = over;

  const Eigen::MatrixXd answers = inverse * drive, answersByPins = inverse * toPins;
  const auto told = [&](const Eigen::MatrixXd& of) { // memories, outputs, echoed unknowns
    Eigen::MatrixXd rowsTold = Eigen::MatrixXd::Zero(answerRows, of.cols());
    rowsTold.topRows(memories) = r * of;
    Eigen::Index row = memories;
    for (const Node node : setup.outputs) {
      if (node != 0) rowsTold.row(row) = of.row(System::row(node));
      ++row;
    }
    for (const auto& entry : system.delayed())
      rowsTold.row(row++) = of.row(entry.column);
    return rowsTold;
  };
  transition.assign(static_cast<std::size_t>(rows * columns), 0.0);
  Eigen::Map<Eigen::MatrixXd> all(transition.data(), rows, columns);
  all.topRows(pins) = pinVolts(answers);
  all.bottomRows(answerRows) = told(answers);
  byPins.assign(static_cast<std::size_t>(answerRows * pins), 0.0);
  Eigen::Map<Eigen::MatrixXd>(byPins.data(), answerRows, pins) = told(answersByPins);
  impedance.assign(static_cast<std::size_t>(pinRows * pins), 0.0);
  impedanceRows = impedance;
  Eigen::Map<Eigen::MatrixXd> z(impedance.data(), pinRows, pins), zRows(impedanceRows.data(), pinRows, pins);
  z.topRows(pins) = pinVolts(answersByPins);
  zRows.topRows(pins) = z.topRows(pins).transpose();
  ownImpedance.assign(static_cast<std::size_t>(pins + 2), 0.0);
  for (int p = 0; p < pins; ++p)
    ownImpedance[static_cast<std::size_t>(p)] = std::abs(z(p, p));

  constexpr double wide = 0.05;
  weights.assign(static_cast<std::size_t>(pinRows), 1.0);
  for (const auto& device : ports.devices()) {
    const bool isTube = std::holds_alternative<Triode>(*device.law) || std::holds_alternative<Pentode>(*device.law);
    for (int p = 0; p < device.count; ++p)
      if (std::holds_alternative<VacuumDiode>(*device.law) || (isTube && p + 1 < device.count))
        weights[static_cast<std::size_t>(device.first + p)] = wide;
    devices.push_back({device.first, device.count});
  }
  bank = PortBank(ports, setup.width);

  // At the start the memories stand as they are and move as the rest of the equations asks of them.
  firstMemory.assign(static_cast<std::size_t>(memories), 0.0);
  firstFlow = firstMemory;
  firstAnswer.assign(static_cast<std::size_t>(answerRows), 0.0);
  // Where capacitors in a loop or windings could share it in many ways, the least.
  if (memories > 0 && moving.lpNorm<Eigen::Infinity>() > restAmpere) {
    Eigen::CompleteOrthogonalDecomposition<Eigen::MatrixXd> shares;
    shares.setThreshold(1e-9);
    Eigen::Map<Eigen::VectorXd> flows(firstFlow.data(), memories);
    flows = shares.compute(left).solve(moving);
    Eigen::Map<Eigen::VectorXd>(firstMemory.data(), memories) = old * flows;
  }
}

Stepper::State::State(const Plan& plan)
    : memory(plan.firstMemory), flow(plan.firstFlow), column(static_cast<std::size_t>(plan.columns)), newColumn(column),
      answer(plan.firstAnswer), newAnswer(answer), base(plan.rest), newBase(plan.rest), volts(plan.rest),
      amps(plan.rest.size()), trial(amps), trialAmps(amps), misfit(amps), step(amps), right(amps), change(amps),
      from(amps), way(amps), slopes(9 * plan.devices.size()), kept(slopes), scratch(plan.bank.scratch()),
      factors(static_cast<std::size_t>(plan.pinRows * plan.pinRows)), inverses(amps),
      someImpedance(static_cast<std::size_t>(plan.pinRows * (plan.pins + 2))), past(plan.firstPast) {
  active.reserve(amps.size());
  order.resize(amps.size());
  misfit.resize(amps.size() + 2); // every pin is read with the two after it, whether its device has three or one
}

} // namespace vinegar::circuit
