#include "units/file.h"

#include <algorithm>
#include <cerrno>
#include <cstdint>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace vinegar::units {

tl::expected<std::string, Problem> readFile(const std::filesystem::path& path) {
  const auto problem = [&](const char* message) { return tl::unexpected(Problem{path.string(), message}); };
  // Not blocking: opening a pipe would wait for somebody to write into it.
  const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (file < 0)
    return problem(errno == ENOENT || errno == ENOTDIR ? "there is no such file"
                                                       : "cannot be read; check its permissions");
  struct Closer {
    int file;
    ~Closer() { ::close(file); }
  } const closer{file};
  struct stat status {};
  if (fstat(file, &status) != 0) return problem("cannot be read; check its permissions");
  if (S_ISDIR(status.st_mode)) return problem("is a folder, not a file");
  if (!S_ISREG(status.st_mode)) return problem("is no ordinary file");
  std::string text;
  // A file's size is only what it says: those of /proc say nothing, and another program may be writing.
  for (;;) {
    constexpr std::size_t chunk = std::size_t{1} << 16U;
    if (text.size() > largestFile || static_cast<std::uint64_t>(status.st_size) > largestFile)
      return problem("larger than 32 MB, which no file of this kind is");
    const auto before = text.size();
    text.resize(before + chunk);
    const auto count = ::read(file, text.data() + before, chunk);
    text.resize(before + static_cast<std::size_t>(std::max<ssize_t>(count, 0)));
    if (count < 0 && errno == EINTR) continue;
    if (count < 0) return problem("could not be read to its end");
    if (count == 0) return text;
  }
}

} // namespace vinegar::units
