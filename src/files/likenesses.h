// Sources and loads by class: values for parts by what they do.
#pragma once

#include "amp/change/change.h"

#include <filesystem>

namespace vinegar::files {

/// "Small single coil": what the parts of certain roles become.
struct Likeness {
  std::string title, group, about;                                 ///< group: "source" or "speaker"
  std::map<std::string, std::map<std::string, std::string>> roles; ///< settings as they are typed, by role and field
};

/// Reads likenesses/*.json under `data`. The first mistake is returned with its file and place; a folder that is not
/// there holds none.
tl::expected<std::vector<Likeness>, Problem> readLikenesses(const std::filesystem::path& data);

/// What a design's parts would have to become, each field that differs; nothing where no part has such a role. What a
/// part cannot have is left out.
std::vector<amp::SetField> changesTo(const Likeness& likeness, const amp::Design& design, const amp::Library& library);

} // namespace vinegar::files
