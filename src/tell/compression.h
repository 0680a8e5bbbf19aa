#pragma once

#include "predict/feel/compression.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// Output against input; without a supply nothing is told of it.
Columns<predict::CompressionRow> compressionRows(bool hasSupply);

} // namespace vinegar::tell
