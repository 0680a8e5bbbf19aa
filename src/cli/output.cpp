#include "cli/output.h"

#include "units/json.h"
#include "units/printable.h"

#include <cstdio>
#include <fmt/format.h>

namespace vinegar::cli {

int complain(const Problem& problem, int code, const std::string& format) {
  fmt::print(stderr, "vinegar-cli: {}\n", units::printable(problem.line()));
  if (format == "json")
    fmt::print("{}\n", units::Json{{"problem", {{"place", problem.place}, {"message", problem.message}}}}.dump(1));
  return code;
}

} // namespace vinegar::cli
