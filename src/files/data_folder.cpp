#include "files/data_folder.h"

#include <cstdlib>

namespace vinegar::files {

std::filesystem::path dataFolder() {
  if (const char* chosen = std::getenv("VINEGAR_DATA")) return chosen;
  std::error_code error;
  const auto program = std::filesystem::read_symlink("/proc/self/exe", error);
  if (!error) {
    const auto installed = program.parent_path().parent_path() / VINEGAR_INSTALL_DATA;
    if (std::filesystem::exists(installed / "sections", error)) return installed;
  }
  return VINEGAR_SOURCE_DATA;
}

std::filesystem::path ownDataFolder() {
  // As the base directory specification of freedesktop.org has it: what is not absolute does not count.
  if (const char* data = std::getenv("XDG_DATA_HOME"); data && *data == '/')
    return std::filesystem::path(data) / "vinegar";
  const char* home = std::getenv("HOME");
  return std::filesystem::path(home ? home : "/") / ".local/share/vinegar";
}

} // namespace vinegar::files
