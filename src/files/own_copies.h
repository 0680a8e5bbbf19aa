#pragma once

#include "files/design_file.h"
#include "units/json.h"

namespace vinegar::files {

constexpr const char* copiesName = "own"; ///< the field of a design file

/// The copies that go along with the design: of what it uses and the library has as the builder's own, and those that
/// it came with and the library could not take.
units::Json ownOf(const units::Json& design, const std::string& extra, const amp::Library& library);
/// What of the copies the library lacks goes into `loaded`, to be asked for, and is kept with the document meanwhile.
void keepCopies(const units::JsonReader& copies, const amp::Library& library, LoadedDesign& loaded);

} // namespace vinegar::files
