#pragma once

#include <filesystem>

namespace vinegar::files {

/// Where data/ is: $VINEGAR_DATA, the installed share folder beside the executable, or the source tree.
std::filesystem::path dataFolder();

/// Where a builder keeps sections, tubes, roles and skeletons of his own: vinegar/ in $XDG_DATA_HOME, or in
/// ~/.local/share. Need not be there.
std::filesystem::path ownDataFolder();

} // namespace vinegar::files
