// Writing files so that the old or the new content is there whole, whatever happens in between. Any thread.
#pragma once

#include "units/place.h"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace vinegar::files {

/// Writes `text` as the whole of `path`: beside the target, synced, renamed over it, the folder synced. Costs two disk
/// syncs. Links are followed, a dangling one too; permissions, owner and group stay as they were, a new file's follow
/// the umask. A file that has other names (hard links) or an owner that cannot be kept is written over in its place
/// instead, with its former content kept beside it until that is done. A file that may not be written, and anything
/// that is no ordinary file, is refused. The Problem says whether the old content still stands.
/// Files that a killed writer left beside the target are removed.
std::optional<Problem> saveAtomically(const std::filesystem::path& path, std::string_view text);

/// Removes what killed writers left in `folder`. A file that somebody is still writing is left alone.
void removeLeftovers(const std::filesystem::path& folder);

/// What `path` held before a save over it was cut short, where that had to be done in its place; else empty.
std::filesystem::path formerContent(const std::filesystem::path& path);

/// What a file holds, to tell later whether somebody else has changed it.
struct FileState {
  bool exists = false;
  std::uint64_t size = 0, hash = 0;
  bool operator==(const FileState&) const = default;
  static FileState of(std::string_view text);
  /// Reads the whole file. One that cannot be read counts as absent.
  static FileState at(const std::filesystem::path& path);
};

/// Held while the process lives: the kernel lets it go when the process ends, however that comes about, so that a
/// process number used again means nothing.
class LifeSign {
public:
  explicit LifeSign(const std::filesystem::path& path);
  ~LifeSign();
  LifeSign(const LifeSign&) = delete;
  LifeSign& operator=(const LifeSign&) = delete;
  /// Whether somebody holds the sign at `path`.
  static bool alive(const std::filesystem::path& path);

private:
  std::filesystem::path path_;
  int file_ = -1;
};

/// For tests: asked before every system call that a save makes, with its name; a number other than 0 is the errno that
/// the call then fails with. Nothing asks when it is empty.
using FaultHook = std::function<int(std::string_view call)>;
void setFaultHook(FaultHook hook);

} // namespace vinegar::files
