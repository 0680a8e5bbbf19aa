#include "cli/table.h"

#include <cstdio>
#include <fmt/format.h>

namespace vinegar::cli {

void print(const tell::Sheet& sheet, const std::string& format) {
  fmt::print("{}", format == "csv" ? tell::csvOf(sheet) : tell::textOf(sheet));
}

void print(const Subject& on, const tell::Sheet& sheet, const char* name, units::Json around) {
  if (on.call.format != "json") return print(sheet, on.call.format);
  around[name] = tell::jsonOf(sheet);
  fmt::print("{}\n", around.dump(1));
}

} // namespace vinegar::cli
