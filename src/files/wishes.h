// What a builder wants to hear, as a design's file keeps it: targets, bands, the measured sound of the loudspeaker.
#pragma once

#include "amp/change/document.h"
#include "units/json.h"

namespace vinegar::files {

/// Throws units::JsonMistake with the place of what cannot be read.
void readWishes(const units::JsonReader& file, amp::Document& document);
/// The fields that the document has of them, into its file's object.
void writeWishes(const amp::Document& document, units::Json& json);

/// A target's fields, the same in a file of its own.
amp::Target targetFields(const units::JsonReader& reader);
units::Json targetJson(const amp::Target& target);

} // namespace vinegar::files
