// Every tube at work: how it stands, what was read at it, what ends its swing.
#pragma once

#include "predict/stages/stages.h"
#include "tell/columns.h"

#include <map>

namespace vinegar::tell {

/// A tube and the volts to ground that a meter reads at its electrodes, by their names: "plate".
struct ToldStage {
  predict::StageReadings stage;
  std::map<std::string, double> read = {};
};
/// `measured`: by tube, as a document keeps them.
std::vector<ToldStage> toldStages(const predict::Stages& stages,
                                  const std::map<std::string, std::map<std::string, double>>& measured);
const Columns<ToldStage>& stages();

/// Volts to ground that an electrode has by the prediction; nothing where the tube has no such.
std::optional<double> predictedAt(const predict::TubeReading& tube, const std::string& electrode);
/// How far what was read is off what is predicted, a share of that; nothing where nothing was read, or ground is
/// predicted.
std::optional<double> offAt(const ToldStage& told, const std::string& electrode);

} // namespace vinegar::tell
