#include "files/safe_file.h"

#include "units/file.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <random>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>
#include <vector>

namespace vinegar::files {
namespace {

constexpr std::string_view unfinished = ".vinegar-unfinished-", former = ".vinegar-before-";

FaultHook& hook() {
  static FaultHook one;
  return one;
}

/// Makes a system call, or fails as the tests want. -1 with errno on failure.
template <class Call> auto attempt(std::string_view name, Call call) -> decltype(call()) {
  if (hook())
    if (const int code = hook()(name); code != 0) {
      errno = code;
      return -1;
    }
  auto result = call();
  while (result == -1 && errno == EINTR)
    result = call();
  return result;
}

std::string systemMessage(int code) {
  if (code == ENOSPC || code == EDQUOT) return "the disk is full; free some space or save elsewhere";
  if (code == EFBIG) return "the file would be larger than is allowed here; save elsewhere";
  if (code == EACCES || code == EPERM || code == EROFS) return "it may not be written here; save elsewhere";
  if (code == ENOENT) return "the folder does not exist; choose another";
  if (code == ENAMETOOLONG) return "the name is too long; choose a shorter one";
  return std::strerror(code);
}

/// Closes what it holds, removes the file if that is still wanted.
struct Open {
  int file = -1;
  std::string remove;
  ~Open() {
    const int code = errno;
    if (!remove.empty()) unlink(remove.c_str());
    if (file >= 0) close(file);
    errno = code;
  }
};

/// Where a chain of links leads to; the last one may lead to a file that is not there yet.
tl::expected<std::filesystem::path, int> followLinks(std::filesystem::path path) {
  for (int i = 0; i < 40; ++i) {
    std::error_code error;
    const auto next = std::filesystem::read_symlink(path, error);
    if (error) return path;
    path = next.is_absolute() ? next : path.parent_path() / next;
  }
  return tl::unexpected(ELOOP);
}

std::string folderOf(const std::filesystem::path& path) {
  const auto folder = path.parent_path().string();
  return folder.empty() ? "." : folder;
}

bool writeAll(int file, std::string_view text) {
  constexpr std::size_t most = std::size_t{1} << 16U;
  while (!text.empty()) {
    const auto count = attempt("write", [&] { return ::write(file, text.data(), std::min(text.size(), most)); });
    if (count < 0) return false;
    text.remove_prefix(static_cast<std::size_t>(count));
  }
  return true;
}

/// A new file beside `target`, locked as long as it is being written so that nobody takes it for a leftover.
bool openBeside(const std::string& target, std::string_view mark, Open& beside) {
  std::random_device random;
  for (int i = 0; i < 100; ++i) {
    // The umask decides on the permissions, as for any new file.
    const auto name = fmt::format("{}{}{:08x}", target, mark, random());
    beside.file = attempt("open", [&] { return ::open(name.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666); });
    if (beside.file < 0 && errno == EEXIST) continue;
    if (beside.file < 0) return false;
    struct stat status {};
    if (flock(beside.file, LOCK_EX) == 0 && fstat(beside.file, &status) == 0 && status.st_nlink == 0) {
      close(beside.file); // taken for a leftover before it was locked
      continue;
    }
    beside.remove = name;
    return true;
  }
  errno = EEXIST;
  return false;
}

bool syncFolder(const std::string& folder) {
  const Open open{attempt("open folder", [&] { return ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC); }),
                  {}};
  if (open.file < 0) return false;
  // Some file systems know no sync of a folder; theirs is done with the file's.
  return attempt("sync folder", [&] { return fsync(open.file); }) == 0 || errno == EINVAL || errno == ENOTSUP;
}

Problem asItWas(const std::filesystem::path& path, int code) {
  return {path.string(), "was not saved and is as it was: " + systemMessage(code)};
}

/// Over the file itself, for one that has other names or another owner. Its former content stands beside it until done.
std::optional<Problem> writeInPlace(const std::filesystem::path& path, const std::string& target,
                                    std::string_view text) {
  const auto old = units::readFile(target);
  if (!old) return Problem{path.string(), "was not saved and is as it was: " + old.error().message};
  Open copy;
  if (!openBeside(target, former, copy) || !writeAll(copy.file, *old) ||
      attempt("sync", [&] { return fsync(copy.file); }) != 0)
    return asItWas(path, errno);
  const Open open{attempt("open", [&] { return ::open(target.c_str(), O_WRONLY | O_CLOEXEC); }), {}};
  if (open.file < 0) return asItWas(path, errno);
  const auto size = static_cast<off_t>(text.size()), oldSize = static_cast<off_t>(old->size());
  // Room first, so that a full disk shows before anything is written over.
  const auto reserve = [&] {
    errno = posix_fallocate(open.file, 0, size);
    return errno == 0 ? 0 : -1;
  };
  if (size > oldSize && attempt("reserve", reserve) != 0) {
    const int code = errno;
    if (ftruncate(open.file, oldSize) == 0) return asItWas(path, code);
  } else if (writeAll(open.file, text) && attempt("truncate", [&] { return ftruncate(open.file, size); }) == 0 &&
             attempt("sync", [&] { return fsync(open.file); }) == 0) {
    return std::nullopt;
  }
  const int code = errno;
  const auto kept = std::exchange(copy.remove, {});
  return Problem{path.string(),
                 fmt::format("was not saved: {}. Its former content is whole in {}", systemMessage(code), kept)};
}

} // namespace

std::optional<Problem> saveAtomically(const std::filesystem::path& path, std::string_view text) {
  const auto followed = followLinks(path);
  if (!followed) return asItWas(path, followed.error());
  const auto& target = *followed;
  struct stat status {};
  const bool exists = lstat(target.c_str(), &status) == 0;
  if (exists && !S_ISREG(status.st_mode))
    return Problem{path.string(), "was not saved: there is something of this name that is no ordinary file"};
  if (exists && ((status.st_mode & (S_IWUSR | S_IWGRP | S_IWOTH)) == 0 || access(target.c_str(), W_OK) != 0))
    return Problem{path.string(), "was not saved: the file is write-protected; save under another name, or allow "
                                  "writing in its properties"};
  Open beside;
  if (!openBeside(target.string(), unfinished, beside)) return asItWas(path, errno);
  if (exists) {
    struct stat own {};
    fstat(beside.file, &own);
    const bool sameOwner = (own.st_uid == status.st_uid && own.st_gid == status.st_gid) ||
                           attempt("chown", [&] { return fchown(beside.file, status.st_uid, status.st_gid); }) == 0;
    if (status.st_nlink > 1 || !sameOwner) {
      auto problem = writeInPlace(path, target.string(), text);
      if (!problem) removeLeftovers(folderOf(target));
      return problem;
    }
    if (attempt("chmod", [&] { return fchmod(beside.file, status.st_mode & 07777); }) != 0) return asItWas(path, errno);
  }
  if (!writeAll(beside.file, text) || attempt("sync", [&] { return fsync(beside.file); }) != 0 ||
      attempt("rename", [&] { return ::rename(beside.remove.c_str(), target.c_str()); }) != 0)
    return asItWas(path, errno);
  beside.remove.clear();
  if (!syncFolder(folderOf(target)))
    return Problem{path.string(), "is written, but the disk did not confirm it; save again before switching off"};
  removeLeftovers(folderOf(target));
  return std::nullopt;
}

std::filesystem::path formerContent(const std::filesystem::path& path) {
  const auto followed = followLinks(path);
  if (!followed) return {};
  const auto start = followed->filename().string() + std::string(former);
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(folderOf(*followed), error)) {
    if (!entry.path().filename().string().starts_with(start)) continue;
    const Open open{::open(entry.path().c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK), {}};
    if (open.file >= 0 && flock(open.file, LOCK_EX | LOCK_NB) == 0) return entry.path();
  }
  return {};
}

void removeLeftovers(const std::filesystem::path& folder) {
  std::error_code error;
  std::vector<std::filesystem::path> found; // first, since removing while listing may skip some
  for (const auto& entry : std::filesystem::directory_iterator(folder, error))
    if (entry.path().filename().string().find(unfinished) != std::string::npos) found.push_back(entry.path());
  for (const auto& path : found) {
    const Open open{::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK), {}};
    struct stat status {};
    if (open.file < 0 || fstat(open.file, &status) != 0 || !S_ISREG(status.st_mode)) continue;
    if (flock(open.file, LOCK_EX | LOCK_NB) == 0) unlink(path.c_str());
  }
}

FileState FileState::of(std::string_view text) {
  // FNV-1a: tells a changed file from an unchanged one; nobody gains by deceiving it.
  std::uint64_t hash = 14695981039346656037ULL;
  for (const char c : text)
    hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
  return {true, text.size(), hash};
}

FileState FileState::at(const std::filesystem::path& path) {
  const auto text = units::readFile(path);
  return text ? of(*text) : FileState{};
}

LifeSign::LifeSign(const std::filesystem::path& path)
    : path_(path), file_(::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600)) {
  if (file_ >= 0) flock(file_, LOCK_EX | LOCK_NB);
}

LifeSign::~LifeSign() {
  if (file_ < 0) return;
  unlink(path_.c_str());
  close(file_);
}

bool LifeSign::alive(const std::filesystem::path& path) {
  const Open open{::open(path.c_str(), O_RDONLY | O_CLOEXEC), {}};
  return open.file >= 0 && flock(open.file, LOCK_SH | LOCK_NB) != 0 && errno == EWOULDBLOCK;
}

void setFaultHook(FaultHook newHook) { hook() = std::move(newHook); }

} // namespace vinegar::files
