#pragma once

#include "files/design_file.h"
#include "units/json.h"

namespace vinegar::files {

constexpr const char* copiesName = "own"; ///< the field of a design file

/// The copies that go along with the design: of what it uses and the library has as the builder's own, and those that
/// it came with and the library could not take.
units::Json ownOf(const units::Json& design, const std::string& extra, const amp::Library& library);
/// Gives the copies of a design's file of which the library has another content under their name a name of their own,
/// in the whole of the file, and says so: what a design was made with is never taken for something else.
void keepApart(units::Json& design, const amp::Library& library, std::string& note);
/// What of the copies the library lacks goes into `loaded`, to be asked for, and is kept with the document meanwhile.
void keepCopies(const units::JsonReader& copies, const amp::Library& library, LoadedDesign& loaded);

} // namespace vinegar::files
