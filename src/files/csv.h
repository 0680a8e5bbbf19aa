#pragma once

#include "predict/rest/prediction.h"

namespace vinegar::files {

/// Comma-separated, point decimals, one header line with units.
std::string operatingPointCsv(const predict::OperatingPoint& point);
/// Columns frequency_hz, then magnitude_db and phase_deg per named curve.
std::string responsesCsv(const std::vector<std::pair<std::string, predict::Response>>& curves);

} // namespace vinegar::files
