#pragma once

#include "predict/choices/swap.h"
#include "tell/columns.h"

namespace vinegar::tell {

/// A type and the state of it that is told: with its new bias, or as it is plugged in.
struct ToldSwap {
  const predict::SwapRow& row;
  const predict::SwapState& state;
};
const Columns<ToldSwap>& swaps();

} // namespace vinegar::tell
