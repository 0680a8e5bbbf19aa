// Room: tube equations and the catalogue. Nothing here knows about circuits or amplifiers.
//
// One space-charge law for triodes, pentodes and beam tubes. docs/tube-models.md writes it out in full with worked
// values. The form follows the space-charge control idea of C. D. Child (Phys. Rev., 1911) and I. Langmuir (1913) with
// a smooth cut-off; the smooth knee is our own choice, so that Newton iterations do not cycle across Vp = 0.
#pragma once

#include <variant>

namespace vinegar::tubes {

/// Parameters of the triode law. Volts, K in mA/V^X.
struct TriodeModel {
  double K = 0, MU = 0, X = 1.5, VCT = 0, KP = 1;
  double W0 = 0.15, LAM = 0.25, N = 2.5, VK0 = 1, VC0 = 15;
  bool operator==(const TriodeModel&) const = default;
};

/// Parameters of the pentode and beam-tube law. Volts, K in mA/V^X.
struct PentodeModel {
  double K = 0, MU = 0, X = 1.5, VCT = 0, KP = 1, MUP = 0, S = 0, M = 1;
  double W0 = 0.15, LAM = 0.125, N = 2.3, VK0 = 1, VC0 = 15;
  bool operator==(const PentodeModel&) const = default;
};

/// Grid current: GF * K * (WG * ln(1 + exp((Vgk + VG0)/WG)))^1.5, in mA.
struct GridCurrentModel {
  double GF = 0.06, VG0 = 0.5, WG = 0.12;
  bool operator==(const GridCurrentModel&) const = default;
};

/// A rectifier: two diodes in one bottle, or silicon. A vacuum diode follows K V^1.5 (C. D. Child, Physical Review,
/// 1911; I. Langmuir, 1913), silicon the exponential law (W. Shockley, Bell System Technical Journal, 1949).
struct RectifierModel {
  bool silicon = false;
  double perveance = 0;                    ///< vacuum: ampere/V^1.5, one plate
  double saturationAmps = 0, emission = 2; ///< silicon
  bool operator==(const RectifierModel&) const = default;
};

using Model = std::variant<TriodeModel, PentodeModel, RectifierModel>;

/// How a tube differs from a new, average one. 1 is no difference.
struct Wear {
  double emission = 1; ///< all currents
  double gm = 1;       ///< what a volt at the grid does
  bool operator==(const Wear&) const = default;
};
/// The model of a worn, weak or unequal tube: the currents times `emission`, the grid's volts times `gm`.
TriodeModel worn(TriodeModel model, const Wear& wear);
PentodeModel worn(PentodeModel model, const Wear& wear);

/// Current in ampere and its slopes in siemens.
struct TriodeCurrent {
  double plate = 0, byPlate = 0, byGrid = 0;
};

/// Plate and screen current in ampere; slopes in siemens by plate, grid 1 and screen volts to the cathode.
struct PentodeCurrent {
  double plate = 0, plateByPlate = 0, plateByGrid = 0, plateByScreen = 0;
  double screen = 0, screenByPlate = 0, screenByGrid = 0, screenByScreen = 0;
};

struct GridCurrent {
  double grid = 0, byGrid = 0;
};

/// Volts to the cathode. Finite for any finite volts, zero for plateVolts <= 0.
TriodeCurrent triodeCurrent(const TriodeModel& model, double plateVolts, double gridVolts);

/// Volts to the cathode. The sum of plate and screen current is the space current whatever the plate does.
PentodeCurrent pentodeCurrent(const PentodeModel& model, double plateVolts, double gridVolts, double screenVolts);

/// `K` is the K of the tube that owns the grid.
GridCurrent gridCurrent(const GridCurrentModel& model, double K, double gridVolts);

} // namespace vinegar::tubes
