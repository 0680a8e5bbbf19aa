// Words with places for values: a whole sentence is a key that the window translates, whatever stands in its places.
#pragma once

#include <string>
#include <vector>

namespace vinegar::tell {

struct Said {
  Said() = default;
  Said(std::string whole) : words(std::move(whole)) {} // NOLINT: words without a place are said as they are
  Said(const char* whole) : words(whole) {}            // NOLINT
  Said(std::string whole, std::vector<std::string> placed) : words(std::move(whole)), values(std::move(placed)) {}

  std::string words;               ///< in English, its places "%1" to "%9": "Level at %1"
  std::vector<std::string> values; ///< names and figures, which no language changes

  [[nodiscard]] bool empty() const { return words.empty(); }
  [[nodiscard]] std::string english() const { return filled(words); }
  /// The same in other words, which have the places where their language has them.
  [[nodiscard]] std::string filled(const std::string& translated) const;
  bool operator==(const Said&) const = default;
};

} // namespace vinegar::tell
