// A wanted curve as a file of its own.
#pragma once

#include "predict/voice/fit.h"

namespace vinegar::files {

/// `{"format": "vinegar-target", "target": [[100, -3], [1000, "-10"]], "parts": ["C5"], "series": "E12",
/// "level": false, "from": "jack", "to": "speaker", "atHand": {"C5": ["470p", "1n"]}}`, all but the target optional; or
/// CSV of two columns, Hz and dB, with or without a head. `place`: the file's name, for what is wrong with it.
tl::expected<predict::FitQuestion, Problem> parseTarget(const std::string& text, const std::string& place);
/// The target as a file's text.
std::string writeTargetText(const amp::Target& target);
/// The same of a file.
tl::expected<predict::FitQuestion, Problem> readTarget(const std::filesystem::path& path);

} // namespace vinegar::files
