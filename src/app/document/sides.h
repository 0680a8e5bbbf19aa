#pragma once

#include "amp/design/design.h"

#include <QString>
#include <cstdint>
#include <memory>
#include <vector>

namespace vinegar::app {

/// Sheets that are shown at once; the active one is always among them.
constexpr std::size_t mostSheets = 4;

/// One of the designs that are compared: the ink, or it with a sheet's marks over it.
struct Side {
  enum class Look { ink, active, other };
  QString name; ///< of the sheet, as the builder wrote it
  Look look = Look::ink;
  int place = 0; ///< 0 the ink, 1 + index a sheet, `besides` none of the document's
  std::shared_ptr<const amp::Design> design;

  static constexpr int besides = -1;
};

/// The ink, the active sheet if it has marks, then the others that have. Made once per change of the document; a design
/// that is equal to before keeps its pointer, so that pointers serve as keys.
struct Sides {
  std::uint64_t edition = 0; ///< of the document's state; 0: none yet
  std::vector<Side> all;
};

} // namespace vinegar::app
