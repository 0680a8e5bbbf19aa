#pragma once

#include "predict/rest/prediction.h"
#include "units/json.h"

namespace vinegar::files {

/// The compiled circuit in the interchange form of docs/formats.md. `solved` is the netlist as DC and small signals see
/// it, with rectifiers as the resistor and current source that they are on average; a design without mains has none
/// and its own netlist serves.
units::Json netlistJson(const amp::Circuit& circuit, const circuit::Netlist& solved);
/// {"nodes":{name:volts},"parts":{name:{volts,amps,watts}},"tubes":{name:{...}}}
units::Json operatingPointJson(const predict::OperatingPoint& point);
/// {"frequency_hz":[],"magnitude_db":[],"phase_deg":[]}
units::Json responseJson(const predict::Response& response);

} // namespace vinegar::files
