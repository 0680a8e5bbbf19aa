#include "cli/command.h"

#include "amp/acts/acts.h"
#include "cli/output.h"
#include "units/printable.h"

#include <chrono>
#include <ctime>
#include <fmt/chrono.h>
#include <sstream>

namespace vinegar::cli {
namespace {

using namespace amp;
using Answer = tl::expected<Design, Problem>;

struct ArrangeAsked {
  std::string file, format = "text";
  std::vector<std::string> acts; ///< each as `arrangeHelp` tells
  std::string out;               ///< the file to write; empty: the design goes to standard output
  std::string reason;            ///< not empty: the pencil is inked with it
};

tl::unexpected<Problem> no(const std::string& place, std::string message) {
  return tl::unexpected(Problem{place, std::move(message)});
}

/// "after ID", or "first in CHAIN".
tl::expected<Spot, Problem> spotFrom(const Design& design, const std::vector<std::string>& words, std::size_t at) {
  const auto word = [&](std::size_t i) { return i < words.size() ? words[i] : std::string(); };
  if (word(at) == "first" && words.size() == at + 1) return Spot{"line", {}};
  if (word(at) == "first" && word(at + 1) == "in" && words.size() == at + 3) {
    if (!design.chain(word(at + 2))) return no(word(at + 2), "there is no such chain");
    return Spot{word(at + 2), {}};
  }
  if (word(at) != "after" || words.size() != at + 2) return no(word(at), "say where: after ID, or first in CHAIN");
  const auto& id = word(at + 1);
  const auto standing = standingOf(design, id);
  if (!standing) return no(id, "there is no such section");
  return Spot{standing->chain, id};
}

Answer setField(const Design& design, const Library& library, const std::string& name, const std::string& field,
                const std::string& text) {
  const auto part = findPart(design, library, name);
  if (!part) return no(name, "there is no such part");
  const auto to = typedSetting(*part, field, text, library);
  if (!to) return tl::unexpected(to.error());
  if (!part->fitted() && field != "fitted")
    fmt::print(stderr, "vinegar-cli: {} is not fitted: its {} shows in no answer until it is (fit {})\n",
               units::printable(name), fieldWords(field), units::printable(name));
  return withChanges(design, library, changesFor(design, library, name, field, *to));
}

Answer act(const Design& design, const Library& library, const NameBook& names, const std::string& text) {
  std::istringstream stream(text);
  std::vector<std::string> words;
  for (std::string word; stream >> word;)
    words.push_back(word);
  const auto word = [&](std::size_t i) { return i < words.size() ? words[i] : std::string(); };
  const auto& verb = word(0);
  const auto needs = [&](std::size_t least) { return words.size() >= least; };
  const auto just = [&](std::size_t count) { return words.size() == count; };
  if (verb == "insert" && needs(3)) {
    const auto spot = spotFrom(design, words, 2);
    return spot ? insertSection(design, library, names, *spot, word(1)) : tl::unexpected(spot.error());
  }
  if (verb == "move" && needs(3)) {
    const auto spot = spotFrom(design, words, 2);
    return spot ? moveSection(design, library, word(1), *spot) : tl::unexpected(spot.error());
  }
  if (verb == "remove" && just(2))
    return design.side(word(1)) && !design.section(word(1)) ? removeChain(design, library, word(1))
                                                            : removeSection(design, library, word(1));
  if (verb == "remove-chain" && just(2)) return removeChain(design, library, word(1));
  if (verb == "replace" && just(4) && word(2) == "by") return replaceSection(design, library, names, word(1), word(3));
  if (verb == "duplicate" && just(2)) return duplicateSection(design, library, names, word(1));
  if (verb == "join" && just(4) && word(2) == "to")
    return joinPort(design, library, word(1), word(3) == "default" ? std::string() : word(3));
  if (verb == "chain" && needs(3)) { // chain NAME SECTION,SECTION [from PORT] [to PORT]
    std::vector<std::string> sections;
    std::istringstream list(word(2));
    for (std::string one; std::getline(list, one, ',');)
      sections.push_back(one);
    std::string from, to;
    for (std::size_t i = 3; i < words.size(); i += 2) {
      if ((words[i] != "from" && words[i] != "to") || i + 1 >= words.size())
        return no(words[i], "a chain is joined from a port and to a port");
      (words[i] == "from" ? from : to) = words[i + 1];
    }
    return insertChain(design, library, names, word(1), sections, from, to);
  }
  if (verb == "set" && needs(3)) {
    const auto joined = [&](std::size_t first, std::size_t last) {
      std::string text;
      for (auto i = first; i < last; ++i)
        text += (text.empty() ? "" : " ") + word(i);
      return text;
    };
    // A name may be of several words, and so may a law that was measured.
    std::size_t end = words.size() - 1;
    while (end > 2 && !findPart(design, library, joined(1, end)))
      --end;
    const auto part = findPart(design, library, joined(1, end));
    const bool named = words.size() > end + 1;
    const std::string usual = part && hasType(part->part->kind) ? "tube" : "value";
    return setField(design, library, joined(1, end), named ? word(end) : usual,
                    joined(named ? end + 1 : end, words.size()));
  }
  if ((verb == "fit" || verb == "unfit") && needs(2)) { // a name may be of several words
    std::string name = word(1);
    for (std::size_t i = 2; i < words.size(); ++i)
      name += " " + words[i];
    return setField(design, library, name, "fitted", verb == "fit" ? "yes" : "no");
  }
  return no(text, "is no act; --help tells those that are");
}

std::string now() {
  const auto time = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
  return fmt::format("{:%Y-%m-%dT%H:%M:%S+00:00}", fmt::gmtime(time));
}

const char* const arrangeHelp = R"(Acts, each in quotes:
  insert SECTION after ID | insert SECTION first in CHAIN
  move ID after ID | move ID first in CHAIN
  replace ID by SECTION
  duplicate ID
  remove ID
  join ID.PORT to RAIL | ground | open | ID.PORT | default
  chain NAME SECTION,SECTION,... [from ID.PORT] [to ID.PORT]
  remove-chain NAME
  set PART [FIELD] VALUE
  fit PART | unfit PART
CHAIN is line, supply or a side chain's name.)";

/// Does the acts in pencil on the active sheet, one after another; the first that cannot be done ends it and nothing is
/// written, nor over a file of a newer version. Returns the exit code.
int arrange(const ArrangeAsked& asked, files::LoadedDesign loaded, const Library& library) {
  auto& document = loaded.document;
  const auto complain = [&](const Problem& problem, int code) {
    return cli::complain({problem.place.empty() ? asked.file : asked.file + ": " + problem.place, problem.message},
                         code, asked.format);
  };
  if (!asked.out.empty() && std::filesystem::exists(asked.out))
    if (const auto there = files::readDesign(asked.out, library); there && there->readOnly)
      return cli::complain({asked.out, "was written by a newer version and is not written over; give -o another name"},
                           badUse, asked.format);
  for (const auto& text : asked.acts) {
    const auto next = act(pencilled(document, library), library, NameBook(document), text);
    if (!next) return complain({text + ": " + next.error().place, next.error().message}, badUse);
    pencil(document, library, *next);
  }
  const auto after = pencilled(document, library);
  const auto problems = check(after, library);
  for (const auto& mark : document.sheet().marks)
    fmt::print(stderr, "{}\n", units::printable(describe(mark, document.ink, after, library)));
  for (const auto& problem : problems)
    complain(problem, badDesign);
  if (!asked.reason.empty()) ink(document, library, asked.reason, now());
  if (asked.out.empty()) {
    fmt::print("{}", files::writeDesignText(document, library));
  } else if (const auto problem = files::saveDesign(asked.out, document, library)) {
    return complain(*problem, notWritten);
  }
  return problems.empty() ? 0 : badDesign;
}

const Registered arranging{{"Design", "arrange", "pencil sections in, out and elsewhere",
                            [](CLI::App& options) -> OfDesign {
                              auto asked = std::make_shared<ArrangeAsked>();
                              options.add_option("ACT", asked->acts, "what to do, in this order")->required();
                              options.add_option("-o,--out", asked->out,
                                                 "the file to write (default: standard output)");
                              options.add_option("--ink", asked->reason, "ink it, for this reason");
                              options.footer(arrangeHelp);
                              return [asked](const Subject& on) {
                                asked->file = on.call.file;
                                asked->format = on.call.format;
                                return arrange(*asked, on.loaded, on.library);
                              };
                            },
                            false}};
} // namespace

} // namespace vinegar::cli
