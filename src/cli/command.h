// A command: its name, what it may be asked, what it does. Its own file registers it; nobody lists them.
#pragma once

#include "cli/output.h"
#include "files/design_file.h"

#include <CLI/CLI.hpp>
#include <cmath>
#include <functional>
#include <variant>

namespace vinegar::cli {

/// What every command is called with.
struct Call {
  std::string file, format = "text", sheet;
  std::vector<std::string> knobs;
};

/// The design that is answered for: its file is read, the sheet chosen, the knobs turned.
struct Subject {
  const Call& call;
  const files::LoadedDesign& loaded;
  const amp::Design& design;
  const amp::Library& library;
  /// Another file's, with what it brings of its own.
  const std::function<tl::expected<files::LoadedDesign, Problem>(const std::string& file)>& load;

  /// Tells what is wrong, in this file. Returns `code`.
  [[nodiscard]] int complain(const Problem& problem, int code = badDesign) const;
};

/// What a command does with a design, or without any. The exit code.
using OfDesign = std::function<int(const Subject&)>;
using Alone = std::function<int(const Call&)>;

struct Command {
  const char *group, *name, *about;
  /// Adds the command's own options; what runs when it was called keeps what they were set to.
  std::function<std::variant<OfDesign, Alone>(CLI::App& options)> setUp;
  bool ofSheet = true; ///< it answers for a sheet with the knobs turned, not for the whole file
};

/// Before `main`, in each command's file.
struct Registered {
  explicit Registered(Command command);
};
/// By group and name.
std::vector<Command> commands();

/// An option that takes a value as a builder writes it, "100mV", above zero.
template <class Value>
void addValue(CLI::App& options, const char* name, units::Unit unit, Value& into, const char* about) {
  options.add_option_function<std::string>(
      name,
      [unit, name, &into](const std::string& text) {
        const auto read = units::parse(text, unit);
        if (!read) throw CLI::ValidationError(name, read.error().message);
        if (!std::isfinite(*read) || *read <= 0) throw CLI::ValidationError(name, "must be above zero");
        constexpr double lowest = 0.1, highest = 1e6;
        if (unit == units::Unit::hertz && (*read < lowest || *read > highest))
          throw CLI::ValidationError(name, "no amplifier is played under 0.1 Hz or over 1 MHz");
        into = *read;
      },
      about);
}
/// A check for options: a finite number.
std::string isFinite(const std::string& text);

} // namespace vinegar::cli
