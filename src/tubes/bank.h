// The laws of many tubes asked together, a lane of the processor's vector unit to each.
#pragma once

#include "tubes/model.h"
#include "tubes/width.h"

namespace vinegar::tubes {

/// Triodes, then pentodes, as arrays by parameter. Answers are those of triodeCurrent, pentodeCurrent and gridCurrent
/// to 1e-11. Some 40 ns for eight tubes; no allocation once tubes are in.
class TubeBank {
public:
  /// Rows of an answer: plate, screen and grid current, and the slopes of the first two by plate, screen and grid volts
  /// and of the last by grid volts. Those of the screen are 0 for a triode.
  enum Row {
    plate,
    screen,
    grid,
    plateByPlate,
    plateByScreen,
    plateByGrid,
    screenByPlate,
    screenByScreen,
    screenByGrid,
    gridByGrid,
    rows
  };

  template <class Model> struct Tube {
    Model model;
    GridCurrentModel grid;
  };
  TubeBank(const std::vector<Tube<TriodeModel>>& triodes, const std::vector<Tube<PentodeModel>>& pentodes,
           Width width = usualWidth());
  /// Lanes that volts and answers have room for: triodes from the first on, pentodes from `pentodesFrom`.
  [[nodiscard]] int lanes() const { return lanes_; }
  [[nodiscard]] int pentodesFrom() const { return pentodesFrom_; }

  /// Volts to the cathode by lane; `answer` holds `rows` times lanes() numbers, ampere and siemens.
  void evaluate(const double* plateVolts, const double* screenVolts, const double* gridVolts, double* answer) const;

  enum Parameter { K, MU, X, VCT, KP, W0, LAM, N, VK0, VC0, MUP, S, M, GF, VG0, WG, parameters };

private:
  Width width_;
  int triodes_, pentodes_, pentodesFrom_, lanes_;
  std::vector<double> values_; ///< by parameter, then lane
};

} // namespace vinegar::tubes
