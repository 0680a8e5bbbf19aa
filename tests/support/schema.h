#pragma once

#include <filesystem>
#include <memory>
#include <string>

namespace vinegar::testing_support {

/// A JSON schema as somebody else's program would read it. Behind this header because the validator's templates take a
/// minute to compile.
class Schema {
public:
  explicit Schema(const std::filesystem::path& file);
  ~Schema();
  [[nodiscard]] bool accepts(const std::string& json) const;

private:
  struct Parsed;
  std::unique_ptr<Parsed> parsed_;
};

} // namespace vinegar::testing_support
