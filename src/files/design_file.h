// Room: reading and writing files. docs/formats.md documents what is written here.
#pragma once

#include "amp/change/document.h"
#include "files/safe_file.h"
#include "units/place.h"

#include <filesystem>
#include <functional>
#include <mutex>
#include <string>

namespace vinegar::files {

constexpr int designVersion = 2;

struct LoadedDesign {
  amp::Document document;
  /// The file is from a newer version: it may be looked at, not saved over.
  bool readOnly = false;
  std::string note; ///< one line for the builder, empty if there is nothing to say
  FileState state;  ///< of the text that was read
  /// Copies of its builder's own sections, roles and tubes that the library lacks, for Library::addCopies; the design
  /// is whole once they are there and it is read again. Empty: none is missing.
  std::string copies = {};
};

/// Reads a design document. Never half-loads: a Problem names file and place. Fields this version does not know are
/// kept for rewriting. The design's own mistakes (amp::check) are not judged here, so that a broken design can be
/// opened and mended. Any thread; some milliseconds for an amplifier. `hold` is asked once the text is there: what it
/// returns is held while the library is read, and where it holds nothing the answer is Problem::stopped().
tl::expected<LoadedDesign, Problem> readDesign(const std::filesystem::path& path, const amp::Library& library,
                                               const std::function<std::unique_lock<std::mutex>()>& hold = nullptr);
tl::expected<LoadedDesign, Problem> readDesignText(const std::string& text, const std::string& name,
                                                   const amp::Library& library);

std::string writeDesignText(const amp::Document& document, const amp::Library& library);

/// As saveAtomically; `state` becomes what the file then holds.
std::optional<Problem> saveDesign(const std::filesystem::path& path, const amp::Document& document,
                                  const amp::Library& library, FileState* state = nullptr);

} // namespace vinegar::files
