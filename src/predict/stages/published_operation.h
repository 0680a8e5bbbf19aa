#pragma once

#include "tubes/catalogue.h"

namespace vinegar::predict {

/// What the engine makes of a published operation. Currents of all tubes together, mean over the signal.
struct ReproducedOperation {
  double drivePeakVolts = 0; ///< used: the published one, else up to zero bias
  double watts = 0, distortion = 0;
  double idleAmps = 0, fullAmps = 0, idleScreenAmps = 0, fullScreenAmps = 0;
};

/// The tube at the published electrode volts with an ideal transformer into the published load, driven at 1 kHz by the
/// published peak but never past zero bias; cathode bias shifts with the signal. A row that names neither bias, or
/// whose steady state is not found, is a Problem.
tl::expected<ReproducedOperation, Problem> reproduceOperation(const tubes::TubeType& type,
                                                              const tubes::PublishedOperation& operation);

} // namespace vinegar::predict
