#pragma once

#include "amp/design/section.h"

namespace vinegar::amp {

/// What is common to all parts of a kind.
struct KindFacts {
  PartKind kind;
  std::string_view name, prefix;
  units::Unit unit;
  std::size_t fewestNodes, mostNodes;
  struct Parameter {
    std::string name;
    units::Unit unit;
    std::optional<double> usual; ///< what a section file may leave out
  };
  std::vector<Parameter> parameters; ///< beside "value"
};

/// In the order of PartKind.
const std::vector<KindFacts>& kinds();
inline const KindFacts& facts(PartKind kind) { return kinds()[static_cast<std::size_t>(kind)]; }

} // namespace vinegar::amp
