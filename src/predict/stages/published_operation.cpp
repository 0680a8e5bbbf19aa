#include "predict/stages/published_operation.h"

#include "circuit/periodic.h"

#include <cmath>
#include <numbers>

namespace vinegar::predict {
namespace {

constexpr double publishedHertz = 1000;
constexpr double senseOhms = 0.1; ///< in the supply leads, to read currents by
constexpr double idealHenries = 500, idealLeakage = 1e-7, idealBypass = 1;

/// The data sheet's test bench: supplies referred to the cathode, so that the stated volts are the electrodes'.
class PublishedBench {
public:
  PublishedBench(const tubes::TubeType& type, const tubes::PublishedOperation& operation)
      : type_(type), operation_(operation) {
    using namespace circuit;
    netlist_.add("bias", {netlist_.node("bias"), 0}, VoltageSource{operation.cathodeOhms ? 0 : *operation.gridVolts});
    const Node cathode = operation.cathodeOhms ? netlist_.node("k") : 0;
    if (operation.cathodeOhms) {
      netlist_.add("rk", {cathode, 0}, Resistor{*operation.cathodeOhms});
      netlist_.add("ck", {cathode, 0}, Capacitor{idealBypass});
    }
    supply("plates", operation.plateVolts, cathode);
    if (operation.screenVolts) supply("screens", *operation.screenVolts, cathode);
    const bool pair = operation.tubes > 1;
    const Node ct = netlist_.node("plates"), load = netlist_.node("load");
    std::vector<Winding> windings{{1, 0}, {1, 0}};
    std::vector<Node> ends{ct, netlist_.node("a1"), load, 0};
    if (pair) {
      windings = {{0.5, 0}, {0.5, 0}, {1, 0}};
      ends = {netlist_.node("a1"), ct, ct, netlist_.node("a2"), load, 0};
    }
    netlist_.add("t", ends, wind(windings, pair ? 2 : 1, idealHenries, idealLeakage));
    netlist_.add("load", {load, 0}, Resistor{operation.loadOhms});
    drives_.push_back(tube("1", cathode));
    if (pair) drives_.push_back(tube("2", cathode));
  }

  tl::expected<ReproducedOperation, Problem> run() {
    const circuit::System system(netlist_);
    const auto idle = circuit::solveDc(system);
    if (!idle) return tl::unexpected(idle.error());
    ReproducedOperation result;
    const auto amps = [&](const char* lead, const auto& volts) {
      return (volts(std::string(lead) + ".source") - volts(lead)) / senseOhms;
    };
    const auto atIdle = [&](const std::string& node) { return circuit::System::volts(idle->x, netlist_.find(node)); };
    result.idleAmps = amps("plates", atIdle);
    if (operation_.screenVolts) result.idleScreenAmps = amps("screens", atIdle);
    const double bias = operation_.cathodeOhms ? atIdle("k") : -*operation_.gridVolts;
    result.drivePeakVolts = std::min(operation_.drivePeakVolts.value_or(bias), bias);

    circuit::PeriodicQuestion question;
    question.period = 1 / publishedHertz;
    question.steps = 256;
    for (std::size_t i = 0; i < drives_.size(); ++i) {
      const double peak = i == 0 ? result.drivePeakVolts : -result.drivePeakVolts;
      question.drive[drives_[i]] = {
          [peak](double t) { return peak * std::sin(2 * std::numbers::pi * publishedHertz * t); }, {}};
    }
    const std::vector<std::string> nodes =
        operation_.screenVolts
            ? std::vector<std::string>{"load", "plates.source", "plates", "screens.source", "screens"}
            : std::vector<std::string>{"load", "plates.source", "plates"};
    for (const auto& node : nodes)
      question.outputs.push_back(netlist_.find(node));
    const auto answer = circuit::solvePeriodic(system, idle->x, question);
    if (!answer) return tl::unexpected(answer.error());
    const auto mean = [&](const std::string& node) {
      const auto at = std::find(nodes.begin(), nodes.end(), node) - nodes.begin();
      return answer->volts.row(at).mean();
    };
    result.fullAmps = amps("plates", mean);
    if (operation_.screenVolts) result.fullScreenAmps = amps("screens", mean);
    result.watts = answer->volts.row(0).squaredNorm() / static_cast<double>(answer->volts.cols()) / operation_.loadOhms;
    result.distortion = circuit::totalHarmonicDistortion(circuit::harmonics(answer->volts.row(0), 20));
    return result;
  }

private:
  void supply(const std::string& name, double volts, circuit::Node cathode) {
    const auto floor = netlist_.node(name + ".floor"), source = netlist_.node(name + ".source");
    netlist_.add(name + ".at", {floor, 0, cathode, 0}, circuit::Vcvs{1});
    netlist_.add(name + ".volts", {source, floor}, circuit::VoltageSource{volts});
    netlist_.add(name + ".sense", {source, netlist_.node(name)}, circuit::Resistor{senseOhms});
  }

  /// Returns the device that drives its grid.
  int tube(const std::string& number, circuit::Node cathode) {
    const auto grid = netlist_.node("g" + number), plate = netlist_.node("a" + number);
    const int drive = netlist_.add("drive" + number, {grid, netlist_.node("bias")}, circuit::VoltageSource{0});
    if (type_.isTriode()) {
      netlist_.add("v" + number, {plate, grid, cathode},
                   circuit::Triode{std::get<tubes::TriodeModel>(type_.model), type_.grid});
    } else {
      const auto screen = operation_.screenVolts ? netlist_.node("screens") : plate;
      netlist_.add("v" + number, {plate, screen, grid, cathode},
                   circuit::Pentode{std::get<tubes::PentodeModel>(type_.model), type_.grid});
    }
    return drive;
  }

  const tubes::TubeType& type_;
  const tubes::PublishedOperation& operation_;
  circuit::Netlist netlist_;
  std::vector<int> drives_;
};

} // namespace

tl::expected<ReproducedOperation, Problem> reproduceOperation(const tubes::TubeType& type,
                                                              const tubes::PublishedOperation& operation) {
  if (!operation.cathodeOhms && !operation.gridVolts)
    return tl::unexpected(Problem{type.name, "the published operation names no bias"});
  return PublishedBench(type, operation).run();
}

} // namespace vinegar::predict
