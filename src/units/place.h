#pragma once

#include <string>
#include <tl/expected.hpp>

namespace vinegar {

/// An error as a value: where it is (a file, a line, a part) and what is wrong and what to do, each one line.
struct Problem {
  std::string place;
  std::string message;
  bool cancelled = false; ///< nothing is wrong: whoever asked did not want to wait

  static Problem stopped() { return {{}, "cancelled", true}; }

  [[nodiscard]] std::string line() const { return place.empty() ? message : place + ": " + message; }
  bool operator==(const Problem&) const = default;
};

} // namespace vinegar
