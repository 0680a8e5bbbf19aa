#pragma once

#include "tubes/model.h"
#include "units/place.h"

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace vinegar::units {
class JsonReader;
}

namespace vinegar::tubes {

/// Farads between electrodes of one unit. For pentodes gridCathode is grid 1 to everything but the plate.
struct Capacitances {
  double gridPlate = 0, gridCathode = 0, plateCathode = 0;
};

/// Maximum ratings; absent where no two sources agree. Volts, watts, ampere, ohm.
struct Limits {
  std::optional<double> plateVolts, plateWatts, screenVolts, screenWatts, heaterCathodeVolts, cathodeAmps;
  std::optional<double> gridLeakFixedOhms, gridLeakCathodeOhms;
  // Rectifiers, one plate where that matters. `mostFarads`: the largest first capacitor.
  std::optional<double> inverseVolts, peakAmps, directAmps, mostFarads;
  std::string mostFaradsNote;
  std::string system; ///< rating system the figures belong to: "design-centre" or "design-max"
};

/// One published operating point. Volts, ampere, siemens, ohm.
struct PublishedPoint {
  double plateVolts = 0, gridVolts = 0, plateAmps = 0;
  std::optional<double> screenVolts, screenAmps, gm, mu, rp;
  std::optional<double> screenMu; ///< mu of grid 1 to grid 2
  bool triodeConnected = false;
  std::string exception; ///< why no smooth law can meet this point; empty for a point that is believed
};

/// One published typical operation of a power stage. Volts, ampere, ohm, watts; currents of all its tubes together.
struct PublishedOperation {
  int tubes = 1; ///< one: single-ended; two: push-pull
  double plateVolts = 0;
  std::optional<double> screenVolts;            ///< of pentodes; absent when connected as a triode
  std::optional<double> gridVolts, cathodeOhms; ///< fixed bias, or cathode bias (shared by both tubes)
  std::optional<double> drivePeakVolts;         ///< at each grid
  double loadOhms = 0, watts = 0;               ///< plate to plate for two tubes
  std::optional<double> distortion;             ///< total, as a share
  std::optional<double> idleAmps, fullAmps;     ///< plate current without signal and at full output
  std::optional<double> idleScreenAmps, fullScreenAmps;
};

/// One published operation of a full-wave rectifier into a first capacitor. Volts rms for each plate.
struct RectifierOperation {
  double plateVoltsRms = 0, farads = 0, amps = 0, volts = 0;
  std::optional<double> sourceOhms; ///< in series with each plate, the transformer's included
};

struct TubeType {
  std::string name;
  std::string family; ///< "triode", "pentode", "beam" or "rectifier"
  int unitsInBottle = 1;
  std::vector<std::string> aliases;
  Model model;
  GridCurrentModel grid;
  Capacitances capacitance;
  Limits limits;
  std::string base;
  std::map<std::string, std::string> pins; ///< of the whole bottle, in the words of its file: "6" -> "plate 1"
  double heaterVolts = 0, heaterAmps = 0;
  bool heatedDirectly = false;        ///< its filament is its cathode
  double warmSeconds = 0;             ///< from cold until it conducts fully; customary, not from a data sheet
  double dropVolts = 0, dropAmps = 0; ///< rectifiers: the published drop of one plate
  std::vector<PublishedPoint> published;
  std::vector<PublishedOperation> operations;
  std::vector<RectifierOperation> rectifierOperations;
  std::string ownText; ///< a builder's own type: its file, to go along with a design; empty of a shipped one
  bool offered = true; ///< false: its file was taken away; whoever uses it goes on

  [[nodiscard]] bool isTriode() const { return std::holds_alternative<TriodeModel>(model); }
  [[nodiscard]] bool isRectifier() const { return std::holds_alternative<RectifierModel>(model); }
  [[nodiscard]] bool isSilicon() const { return isRectifier() && std::get<RectifierModel>(model).silicon; }
};

/// One catalogue file. Without `withModel` the file may still lack its fitted parameters.
tl::expected<TubeType, Problem> readTubeFile(const std::filesystem::path& path, bool withModel = true);

/// Tube types by name; `find` also knows aliases.
class Catalogue {
public:
  /// Reads every *.json in `folder`. A bad file is an error naming the file and the place in it.
  static tl::expected<Catalogue, Problem> load(const std::filesystem::path& folder);

  /// A builder's own type, in the place of his former one of that name. Throws JsonMistake for what is faulty or has
  /// the name of a shipped type. Nobody may be reading.
  void addOwn(const units::JsonReader& file);
  /// It is offered to nobody any more. Nobody may be reading.
  void withdraw(const std::string& name);

  [[nodiscard]] const TubeType* find(const std::string& nameOrAlias) const;
  [[nodiscard]] const std::map<std::string, TubeType>& types() const { return types_; }
  /// The unit that shares a bottle with this one: its own type in a twin, the other half ("ECL82:pentode") of a mixed
  /// bottle, nothing where a unit has its bottle to itself.
  [[nodiscard]] const TubeType* otherHalf(const TubeType& type) const;

private:
  void take(TubeType type);
  std::map<std::string, TubeType> types_;
  std::map<std::string, std::string> aliases_;
};

} // namespace vinegar::tubes
