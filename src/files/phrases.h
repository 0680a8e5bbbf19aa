// What can be played: shipped phrases and instruments, and recordings.
#pragma once

#include "predict/feel/phrase.h"
#include "units/place.h"

#include <filesystem>
#include <limits>
#include <tl/expected.hpp>

namespace vinegar::files {

struct Phrases {
  std::vector<predict::Instrument> instruments; ///< one or more
  std::vector<predict::Phrase> phrases;         ///< one or more
};
/// phrases/*.json under `data`. The first mistake is returned with its file and place; none there is one.
tl::expected<Phrases, Problem> readPhrases(const std::filesystem::path& data);

/// A shipped phrase on a shipped instrument, by their ids, or its first seconds. A name that is not known is a Problem
/// that says which are.
tl::expected<std::shared_ptr<const predict::Sound>, Problem>
readSound(const std::filesystem::path& data, const std::string& phrase, const std::string& instrument,
          double mostSeconds = std::numeric_limits<double>::infinity());

/// A recording of up to twelve seconds as a sound: WAV, FLAC, AIFF or Ogg, its channels mixed to one.
tl::expected<std::shared_ptr<const predict::Sound>, Problem> readRecording(const std::filesystem::path& path);

} // namespace vinegar::files
