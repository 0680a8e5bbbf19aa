// Room: one pure function per question. Each takes a compiled circuit and gives plain results.
#pragma once

#include "amp/compile/compile.h"
#include "circuit/ac.h"
#include "predict/rest/supply_idle.h"

#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

namespace vinegar::predict {

/// Told how far a slow question is, 0 to 1; false stops it, and its answer is Problem::stopped(). Empty: nobody
/// listens. The one shape of progress.
using GoOn = std::function<bool(double share)>;

/// The elimination order of the small-signal equations: found by the first who needs it, kept for all who ask of a like
/// circuit. Any thread.
class PlanKeeper {
public:
  [[nodiscard]] circuit::AcPlan plan() const {
    const std::lock_guard lock(mutex_);
    return plan_;
  }
  void keep(circuit::AcPlan plan) {
    const std::lock_guard lock(mutex_);
    plan_ = std::move(plan);
  }

private:
  mutable std::mutex mutex_;
  circuit::AcPlan plan_;
};

/// What one evaluation can leave for the next on a nearly equal circuit. Changes how fast, never what. One caller at a
/// time; a copy shares its plan.
struct Warmth {
  Eigen::VectorXd x;
  std::shared_ptr<PlanKeeper> plan = std::make_shared<PlanKeeper>();
  std::shared_ptr<const circuit::Netlist> topology;
  std::shared_ptr<const SupplyIdle> supply;
  std::shared_ptr<const circuit::Netlist> supplied; ///< the circuit that `supply` is of
  std::shared_ptr<const Eigen::VectorXd> suppliedX; ///< and its unknowns
  amp::SupplyWiring wiring;
  /// For questions that compare many designs by their DC alone: how far the mean volts across a rectifier may move with
  /// the supply's cycle left as it stood. Rails then follow along the rectifier's slope, which is off by some moved^2
  /// over the supply's sag; the supply's own readings stay those of before.
  std::optional<double> driftVolts;
};

struct PartReading {
  std::string name;
  double volts = 0; ///< across the part, first node minus last; tubes: plate to cathode
  double amps = 0;  ///< into the first node
  double watts = 0; ///< dissipated in the part
};

/// Volts to the cathode unless said otherwise; ampere, watt, siemens, ohm.
struct TubeReading {
  std::string name, type;
  double plateVolts = 0, gridVolts = 0, cathodeVoltsToGround = 0, plateAmps = 0, plateWatts = 0;
  std::optional<double> screenVolts, screenAmps, screenWatts;
  double gm = 0, rp = 0, mu = 0; ///< at this very point; rp and mu are infinite when cut off
  std::optional<double> plateWattsLimit;
};

struct OperatingPoint {
  circuit::DcSolution dc;
  std::shared_ptr<const circuit::System> system;     ///< rectifiers as they are on average
  std::shared_ptr<const SupplyIdle> supply;          ///< of a design with mains, else null
  std::shared_ptr<const Eigen::VectorXd> suppliedX;  ///< the unknowns it was found with
  std::vector<std::pair<std::string, double>> nodes; ///< netlist order, ground left out
  std::vector<PartReading> parts;
  std::vector<TubeReading> tubes;

  [[nodiscard]] const PartReading* part(const std::string& name) const;
  [[nodiscard]] double volts(circuit::Node node) const { return circuit::System::volts(dc.x, node); }
};

/// DC volts, currents and watts everywhere with no signal; with mains, their means over a period. `warmth` is used and
/// left for the next call.
tl::expected<OperatingPoint, Problem> predictOperatingPoint(const amp::Circuit& circuit, Warmth* warmth = nullptr);

struct ResponseQuestion {
  std::string from, to; ///< probe or node names
  std::vector<double> hertz;
  bool operator==(const ResponseQuestion&) const = default;
};

/// volts(to) / volts(from) in the complete circuit driven by its source, so every stage loads the one before it.
struct Response {
  std::vector<double> hertz;
  std::vector<double> decibels;
  std::vector<double> degrees; ///< continuous over frequency, starting within (-180, 180]
};

/// A `from` that carries no signal is a Problem, not an infinite gain.
tl::expected<Response, Problem> responseOf(const amp::Circuit& circuit, const OperatingPoint& point,
                                           const ResponseQuestion& question, Warmth* warmth = nullptr);

/// Several spans from one solve of a circuit, or of one like it whose System was given other values.
tl::expected<std::vector<Response>, Problem>
predictResponses(const amp::Circuit& circuit, const circuit::System& system, const Eigen::VectorXd& operatingPoint,
                 const std::vector<std::pair<std::string, std::string>>& spans, const std::vector<double>& hertz,
                 PlanKeeper* plan = nullptr);
tl::expected<std::vector<Response>, Problem>
predictResponses(const amp::Circuit& circuit, const OperatingPoint& point,
                 const std::vector<std::pair<std::string, std::string>>& spans, const std::vector<double>& hertz,
                 Warmth* warmth = nullptr);

/// Level at one frequency by interpolation in log frequency; NaN outside the sweep.
double decibelsAt(const Response& response, double hertz);

/// Three points that say how a curve leans.
struct Gain {
  double at1kHz = 0; ///< dB
  double atE2 = 0;   ///< dB at 82.4 Hz
  double at5kHz = 0; ///< dB
};
Gain describeGain(const Response& response);

} // namespace vinegar::predict
