// The same predictions without a window: reads the design, and hands it to the command that was called.
#include "cli/command.h"
#include "files/data_folder.h"

#include <csignal>
#include <cstdio>
#include <map>
#include <system_error>

namespace {

using namespace vinegar;
using namespace vinegar::cli;

void addCommon(CLI::App& options, Call& call, const Command& command, bool ofDesign) {
  const std::vector<std::string> formats =
      ofDesign ? std::vector<std::string>{"json", "csv", "text"} : std::vector<std::string>{"json", "text"};
  options.add_option("--format", call.format, ofDesign ? "json, csv or text" : "json or text")
      ->check(CLI::IsMember(formats));
  if (!ofDesign || !command.ofSheet) return;
  options.add_option("--sheet", call.sheet,
                     "\"ink\", \"active\" or a sheet's name: what is answered for (default: the active sheet)");
  options.add_option("--knob", call.knobs, "NAME=SETTING: a pot from 0 to 1, a switch by number or title");
}

int answer(const Call& call, const Command& command, const OfDesign& run) {
  auto library = amp::Library::load(files::dataFolder());
  if (!library) return complain(library.error(), badDesign, call.format);
  for (const auto& problem : library->addOwn(files::ownDataFolder()))
    complain({problem.place, problem.message + "; the file is left out"}, 0);
  // With the sections, roles and tubes of its builder's own that it brings.
  const std::function load = [&](const std::string& file) {
    auto loaded = files::readDesign(file, *library);
    if (!loaded || loaded->copies.empty()) return loaded;
    for (const auto& problem : library->addCopies(loaded->copies, file))
      complain({problem.place, problem.message + "; this copy is left out"}, 0);
    return files::readDesign(file, *library);
  };
  const auto loaded = load(call.file);
  if (!loaded) return complain(loaded.error(), badDesign, call.format);
  if (!loaded->note.empty() && std::string_view(command.name) != "check") complain({call.file, loaded->note}, 0);
  auto design = loaded->document.ink;
  if (command.ofSheet) {
    auto sheet = sheetOf(loaded->document, *library, call.sheet, call.file);
    if (!sheet) return complain(sheet.error(), badUse, call.format);
    design = std::move(*sheet);
    if (const auto problem = turnKnobs(design, *library, call.knobs)) return complain(*problem, badUse, call.format);
  }
  return run({call, *loaded, design, *library, load});
}

int run(int argc, char** argv) {
  CLI::App app{"Vinegar without a window: predictions for a design file", "vinegar-cli"};
  app.set_version_flag("--version", VINEGAR_VERSION);
  app.require_subcommand(1);
  Call call;
  const auto all = commands();
  std::vector<std::pair<CLI::App*, std::variant<OfDesign, Alone>>> set;
  for (const auto& command : all) {
    auto* options = app.add_subcommand(command.name, command.about)->group(command.group);
    // The file first, so that what a command takes by place comes behind it.
    auto* file = options->add_option("FILE", call.file, "design file");
    set.emplace_back(options, command.setUp(*options));
    const bool ofDesign = std::holds_alternative<OfDesign>(set.back().second);
    if (ofDesign)
      file->required();
    else
      options->remove_option(file);
    addCommon(*options, call, command, ofDesign);
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::Success& success) {
    return app.exit(success);
  } catch (const CLI::ParseError& error) {
    return complain({"", std::string(error.what()) + " (--help tells more)"}, badUse);
  }
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (!set[i].first->parsed()) continue;
    if (const auto* alone = std::get_if<Alone>(&set[i].second)) return (*alone)(call);
    return answer(call, all[i], std::get<OfDesign>(set[i].second));
  }
  return badUse;
}

} // namespace

int main(int argc, char** argv) {
  // A reader that has gone away is told of like a full disk, not by the end of the process.
  std::signal(SIGPIPE, SIG_IGN);
  int code = cli::notWritten;
  try {
    code = run(argc, argv);
    if (std::fflush(stdout) == 0 && std::ferror(stdout) == 0) return code;
  } catch (const std::system_error&) { // of a write
  }
  return cli::complain({"standard output", "could not be written to its end; is there room, and is somebody reading?"},
                       cli::notWritten);
}
