// Inside a Stepper: what is made once of a circuit and a step length, and what moves.
#pragma once

#include "circuit/port_bank.h"
#include "circuit/stepper.h"

#include <array>

namespace vinegar::circuit {

using Numbers = std::vector<double>;

struct Stepper::Plan {
  /// A nonlinear device by its ports.
  struct Pins {
    int first, count;
  };
  /// A delayed unknown, `back` samples ago and its neighbours weighted.
  struct Echo {
    double gain;
    int back;
    std::array<double, 4> weights;
  };

  Plan(const System& s, const Eigen::VectorXd& x, const StepperSetup& setup, const Numbers& now);

  System system;
  Ports ports;
  StepperSetup setup;
  Eigen::VectorXd x0;
  int pins, pinRows;             ///< ports, and with what fills the last vector up
  int memories, echoes, sources; ///< `sources`: inputs and echoes
  int columns, rows, answerRows; ///< of what a step is made from and of what it gives
  double perStep, old;           ///< 1/(theta h), (1 - theta)/theta
  Eigen::MatrixXd inverse;       ///< of the step's equations
  Eigen::MatrixXd drive, toPins; ///< columns and pins' currents in them
  std::vector<Echo> echo;
  Numbers transition; ///< [pins; memories, outputs, echoed unknowns] by [memories, sources, 1]
  Numbers byPins;     ///< [memories, ...] by pins' currents
  Numbers impedance, impedanceRows;
  Numbers ownImpedance; ///< a pin's own, without sign; two of nought after the last
  Numbers rest, restAmps; ///< of the pins
  Numbers weights;        ///< of a pin's volts when they are compared: plates and screens bend slowest
  Numbers firstMemory, firstFlow, firstAnswer, firstPast;
  int pastLength = 0; ///< samples kept of every echoed unknown
  std::vector<Pins> devices;
  PortBank bank;
};

struct Stepper::State {
  Numbers memory, flow, column, newColumn, answer, newAnswer, base, newBase, volts, amps, trial, trialAmps, misfit,
      step, right, change, from, way, slopes, kept;
  PortScratch scratch;
  /// A pin that conducts: where its slopes stand, three to a pin, and the first pin of its device.
  struct Active {
    int pin, slopes, first;
  };
  Numbers factors, inverses;
  Numbers someImpedance; ///< rows of all pins and two of nought, columns of the active ones
  std::vector<Active> active;
  std::vector<int> order; ///< rows of the factors as they were exchanged
  bool isFactored = false;
  Numbers past; ///< of every echoed unknown, the oldest overwritten
  int at = 0;
  bool moved = false; ///< taken from another that had
  Work work;

  explicit State(const Plan& plan);
};

} // namespace vinegar::circuit
