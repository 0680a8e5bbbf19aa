// Room: a netlist of devices and the analyses on it. Knows no tube amplifier.
#pragma once

#include "circuit/taper.h"
#include "tubes/model.h"

#include <Eigen/Core>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace vinegar::circuit {

/// Node number; 0 is ground.
using Node = int;

// Device laws. SI units. Node order in brackets; currents are positive into the first node.
struct Resistor {
  double ohms;
  bool operator==(const Resistor&) const = default;
}; ///< [a, b]
struct Capacitor {
  double farads;
  bool operator==(const Capacitor&) const = default;
}; ///< [a, b]
struct Inductor {
  double henries, ohms;
  bool operator==(const Inductor&) const = default;
}; ///< [a, b]
struct Transformer {
  Eigen::MatrixXd henries;
  Eigen::VectorXd ohms;
  bool operator==(const Transformer& other) const;
}; ///< [a1, b1, a2, b2, ...] dotted end first
struct VoltageSource {
  double dc, ac = 0, acPhaseDegrees = 0;
  bool operator==(const VoltageSource&) const = default;
}; ///< [+, -]
struct CurrentSource {
  double dc, ac = 0, acPhaseDegrees = 0;
  bool operator==(const CurrentSource&) const = default;
}; ///< [+, -]
struct Diode {
  double saturationAmps, emission;
  bool operator==(const Diode&) const = default;
}; ///< [anode, cathode]
struct VacuumDiode {
  double perveance;
  bool operator==(const VacuumDiode&) const = default;
}; ///< [anode, cathode]
struct Triode {
  tubes::TriodeModel model;
  tubes::GridCurrentModel grid;
  bool operator==(const Triode&) const = default;
}; ///< [plate, grid, cathode]
struct Pentode {
  tubes::PentodeModel model;
  tubes::GridCurrentModel grid;
  bool operator==(const Pentode&) const = default;
}; ///< [plate, screen, grid, cathode]
struct Vcvs {
  double gain;
  bool operator==(const Vcvs&) const = default;
}; ///< [out+, out-, control+, control-]
struct Switch {
  bool closed;
  bool operator==(const Switch&) const = default;
}; ///< [a, b]
/// Silicon forward; backward it holds `volts` at `testAmps`, above which it rises by `ohms`.
struct Zener {
  double volts, testAmps, ohms;
  bool operator==(const Zener&) const = default;
}; ///< [anode, cathode]
/// A winding whose inductance falls with its flux: i = flux/henries (1 + (flux/bendFlux)^4), flux in volt seconds.
/// The flux is the volts of a node that a Capacitor of `fluxFarads` keeps against the reference.
struct SaturableInductor {
  double henries, bendFlux;
  bool operator==(const SaturableInductor&) const = default;
}; ///< [a, b, flux, reference]
/// out(t) = gain control(t - seconds), drawing no current from the control.
struct Delay {
  double gain, seconds;
  bool operator==(const Delay&) const = default;
}; ///< [out+, out-, control+, control-]

/// What a rectifier passes on average over the mains' period by the mean of the volts across it: points of both,
/// rising, and slopes between which the curve is monotone (F. N. Fritsch and R. E. Carlson, SIAM Journal on Numerical
/// Analysis, 1980). Under the first it falls straight to nothing, over the last it goes on straight.
struct MeanDiode {
  std::vector<double> volts, amps, slopes;
  bool operator==(const MeanDiode&) const = default;
}; ///< [anode, cathode]
/// The same of points alone, two or more; nothing where they do not rise.
std::optional<MeanDiode> meanDiode(std::vector<double> volts, std::vector<double> amps);

/// What another part of a circuit draws, known by its currents at a point and their slopes: into pin i flows
/// amps[i] + sum over j of siemens(i, j) volts(j), volts to ground.
struct Norton {
  Eigen::VectorXd amps;
  Eigen::MatrixXd siemens;
  bool operator==(const Norton& other) const;
}; ///< [a, b, ...]

using Law = std::variant<Resistor, Capacitor, Inductor, Transformer, VoltageSource, CurrentSource, Diode, VacuumDiode,
                         Triode, Pentode, Vcvs, Switch, Zener, SaturableInductor, Delay, Norton, MeanDiode>;

/// The same law with its value, or a tube's emission, `factor` times what it was, and a tube's slopes `gm` times.
Law varied(const Law& law, double factor, double gm = 1);

constexpr double fluxFarads = 1e-3;

/// A closed switch is ten milliohms, as contacts are; an open one a teraohm.
constexpr double closedSwitchOhms = 1e-2;
constexpr double openSwitchOhms = 1e12;
/// kT/q at 300 K.
constexpr double thermalVolts = 0.025852;

struct Device {
  std::string id;
  std::vector<Node> nodes;
  Law law;
};

/// One winding of a transformer: its turns, relative to whatever counts as one, and its resistance.
struct Winding {
  double turns, ohms;
};
/// Windings on one core. `henries` is the inductance of the first `primaries` windings in series, whose turns together
/// count as one; `leakageShare` is what is left of it, as a share, with all the other windings in series and shorted.
/// Every two windings couple alike (F. Langford-Smith, Radiotron Designer's Handbook, 1953, ch. 5).
/// A `leakageShare` of 0 couples completely, as a mains transformer nearly does.
Transformer wind(const std::vector<Winding>& windings, std::size_t primaries, double henries, double leakageShare);

class Netlist {
public:
  Netlist() : names_{"0"}, numbers_{{"0", 0}} {}

  /// The node of that name, made on first use. "0" is ground.
  Node node(const std::string& name);
  /// Adds a device and returns its index. Throws std::invalid_argument for a wrong node count or a value that is not
  /// finite or not physical: that is a mistake of the program, since designs are checked before they are compiled.
  int add(std::string id, std::vector<Node> nodes, Law law);
  /// Another law of the same kind for a device. Throws as `add` does.
  void setLaw(int device, Law law);
  /// Another kind of law on the same nodes. Throws as `add` does.
  void replaceLaw(int device, Law law);

  [[nodiscard]] int nodeCount() const { return static_cast<int>(names_.size()); }
  [[nodiscard]] const std::vector<std::string>& nodeNames() const { return names_; }
  [[nodiscard]] const std::vector<Device>& devices() const { return devices_; }
  /// Node number or -1.
  [[nodiscard]] Node find(const std::string& name) const;
  /// Same devices on the same nodes; values may differ.
  [[nodiscard]] bool sameTopology(const Netlist& other) const;
  /// Of a netlist of the same topology: whether both rest at the same DC, everything alike but farads and henries.
  /// Devices in `wholly` must be alike in those too.
  [[nodiscard]] bool sameAtRest(const Netlist& other, const std::vector<int>& wholly) const;

private:
  std::vector<std::string> names_;
  std::map<std::string, Node> numbers_;
  std::vector<Device> devices_;
};

/// A pot's two resistors, upper and lower. Neither goes under a ten-thousandth of the whole plus one ohm, as the wiper
/// of a real one does not.
std::pair<Resistor, Resistor> potHalves(double ohms, double share);

} // namespace vinegar::circuit
