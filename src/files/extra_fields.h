// Fields that this version does not know, kept through reading and writing.
#pragma once

#include "units/json.h"

#include <initializer_list>
#include <string>

namespace vinegar::files {

/// Fields not in `known`, as JSON text; empty when there are none.
std::string unknownFields(const units::JsonReader& reader, std::initializer_list<const char*> known);
/// What unknownFields kept, into the object: a field that it has stays as it is.
void restoreUnknown(units::Json& object, const std::string& extra);

} // namespace vinegar::files
