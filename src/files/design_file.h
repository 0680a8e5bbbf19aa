// Room: reading and writing files. docs/formats.md documents what is written here.
#pragma once

#include "amp/design.h"
#include "units/place.h"

#include <filesystem>
#include <string>

namespace vinegar::files {

constexpr int designVersion = 1;

struct LoadedDesign {
  amp::Document document;
  /// The file is from a newer version: it may be looked at, not saved over.
  bool readOnly = false;
  std::string note; ///< one line for the builder, empty if there is nothing to say
};

/// Reads a design document. Never half-loads: a Problem names file and place. Fields this version does not know are
/// kept for rewriting. The design's own mistakes (amp::check) are not judged here, so that a broken design can be
/// opened and mended.
tl::expected<LoadedDesign, Problem> readDesign(const std::filesystem::path& path, const amp::Library& library);
tl::expected<LoadedDesign, Problem> readDesignText(const std::string& text, const std::string& name,
                                                   const amp::Library& library);

std::string writeDesignText(const amp::Document& document, const amp::Library& library);

/// Writes beside the target, syncs, and renames over it, so that a full disk or a crash leaves the old file whole.
std::optional<Problem> saveAtomically(const std::filesystem::path& path, const std::string& text);
std::optional<Problem> saveDesign(const std::filesystem::path& path, const amp::Document& document,
                                  const amp::Library& library);

/// Where data/ is: $VINEGAR_DATA, the installed share folder beside the executable, or the source tree.
std::filesystem::path dataFolder();

} // namespace vinegar::files
