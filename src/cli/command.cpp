#include "cli/command.h"

#include <algorithm>
#include <tuple>

namespace vinegar::cli {
namespace {
std::vector<Command>& all() {
  static std::vector<Command> commands;
  return commands;
}
} // namespace

int Subject::complain(const Problem& problem, int code) const {
  return cli::complain({problem.place.empty() ? call.file : call.file + ": " + problem.place, problem.message}, code,
                       call.format);
}

Registered::Registered(Command command) { all().push_back(std::move(command)); }

std::vector<Command> commands() {
  auto sorted = all();
  const auto order = [](const Command& c) { return std::tuple(std::string_view(c.group), std::string_view(c.name)); };
  std::sort(sorted.begin(), sorted.end(), [&](const Command& a, const Command& b) { return order(a) < order(b); });
  return sorted;
}

std::string isFinite(const std::string& text) {
  const auto number = units::parse(text);
  return number && std::isfinite(*number) ? std::string{} : "not a number: " + text;
}

} // namespace vinegar::cli
