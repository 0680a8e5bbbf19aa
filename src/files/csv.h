#pragma once

#include "predict/rest/prediction.h"

#include <string_view>

namespace vinegar::files {

/// A cell of a CSV line, quoted where it must be (RFC 4180); what a spreadsheet would work out as a formula is marked
/// as text by an apostrophe.
std::string csvCell(std::string_view text);

/// Comma-separated, point decimals, one header line with units.
std::string operatingPointCsv(const predict::OperatingPoint& point);
/// Columns frequency_hz, then magnitude_db and phase_deg per named curve.
std::string responsesCsv(const std::vector<std::pair<std::string, predict::Response>>& curves);

} // namespace vinegar::files
