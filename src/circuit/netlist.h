// Room: a netlist of devices and the analyses on it. Knows no tube amplifier.
#pragma once

#include "tubes/model.h"

#include <Eigen/Dense>
#include <map>
#include <string>
#include <variant>
#include <vector>

namespace vinegar::circuit {

/// Node number; 0 is ground.
using Node = int;

// Device laws. SI units. Node order in brackets; currents are positive into the first node.
struct Resistor {
  double ohms;
}; ///< [a, b]
struct Capacitor {
  double farads;
}; ///< [a, b]
struct Inductor {
  double henries, ohms;
}; ///< [a, b]
struct Transformer {
  Eigen::MatrixXd henries;
  Eigen::VectorXd ohms;
}; ///< [a1, b1, a2, b2, ...] dotted end first
struct VoltageSource {
  double dc, ac = 0, acPhaseDegrees = 0;
}; ///< [+, -]
struct CurrentSource {
  double dc, ac = 0, acPhaseDegrees = 0;
}; ///< [+, -]
struct Diode {
  double saturationAmps, emission;
}; ///< [anode, cathode]
struct VacuumDiode {
  double perveance;
}; ///< [anode, cathode]
struct Triode {
  tubes::TriodeModel model;
  tubes::GridCurrentModel grid;
}; ///< [plate, grid, cathode]
struct Pentode {
  tubes::PentodeModel model;
  tubes::GridCurrentModel grid;
}; ///< [plate, screen, grid, cathode]
struct Vcvs {
  double gain;
}; ///< [out+, out-, control+, control-]
struct Switch {
  bool closed;
}; ///< [a, b]
/// Silicon forward; backward it holds `volts` at `testAmps`, above which it rises by `ohms`.
struct Zener {
  double volts, testAmps, ohms;
}; ///< [anode, cathode]
/// A winding whose inductance falls with its flux: i = flux/henries (1 + (flux/bendFlux)^4), flux in volt seconds.
/// The flux is the volts of a node that a Capacitor of `fluxFarads` keeps against the reference.
struct SaturableInductor {
  double henries, bendFlux;
}; ///< [a, b, flux, reference]
/// out(t) = gain control(t - seconds), drawing no current from the control.
struct Delay {
  double gain, seconds;
}; ///< [out+, out-, control+, control-]

/// What another part of a circuit draws, known by its currents at a point and their slopes: into pin i flows
/// amps[i] + sum over j of siemens(i, j) volts(j), volts to ground.
struct Norton {
  Eigen::VectorXd amps;
  Eigen::MatrixXd siemens;
}; ///< [a, b, ...]

using Law = std::variant<Resistor, Capacitor, Inductor, Transformer, VoltageSource, CurrentSource, Diode, VacuumDiode,
                         Triode, Pentode, Vcvs, Switch, Zener, SaturableInductor, Delay, Norton>;

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

private:
  std::vector<std::string> names_;
  std::map<std::string, Node> numbers_;
  std::vector<Device> devices_;
};

/// How a control's resistance follows its rotation.
struct Taper {
  enum class Kind { linear, log, reverseLog };
  Kind kind = Kind::linear;
  double atHalf = 0.1; ///< share of the resistance at half travel, for log and reverse log
  bool operator==(const Taper&) const = default;
};

/// Share of a pot's resistance between its lower end and the wiper, at `rotation` in [0, 1]. Log is the exponential
/// (a^r - 1)/(a - 1) through `atHalf` at half travel; reverse log is its mirror.
double taperShare(const Taper& taper, double rotation);

/// A pot's two resistors, upper and lower. Neither goes under a ten-thousandth of the whole plus one ohm, as the wiper
/// of a real one does not.
std::pair<Resistor, Resistor> potHalves(double ohms, double share);

} // namespace vinegar::circuit
