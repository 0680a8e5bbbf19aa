#pragma once

#include <cstdlib>
#include <filesystem>
#include <string>

namespace vinegar::testing_support {

/// A folder of the test's own, removed with it.
struct TemporaryFolder {
  std::filesystem::path path;
  TemporaryFolder() {
    std::string pattern = (std::filesystem::temp_directory_path() / "vinegar-test-XXXXXX").string();
    path = mkdtemp(pattern.data());
  }
  ~TemporaryFolder() {
    std::error_code ignored;
    std::filesystem::remove_all(path, ignored);
  }
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
};

} // namespace vinegar::testing_support
