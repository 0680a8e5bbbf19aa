#include "files/results_json.h"
#include "support/paths.h"
#include "support/samples.h"
#include "support/temporary_folder.h"
#include "units/file.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

namespace vinegar {
namespace {

struct Ran {
  int code;
  std::string out, error;
};

Ran cli(const std::string& arguments) {
  const testing_support::TemporaryFolder folder;
  const auto errors = folder.path / "errors";
  FILE* pipe = popen((std::string(VINEGAR_CLI) + " " + arguments + " 2>" + errors.string()).c_str(), "r");
  std::string text;
  std::array<char, 4096> buffer{};
  while (const auto n = fread(buffer.data(), 1, buffer.size(), pipe))
    text.append(buffer.data(), n);
  const int code = WEXITSTATUS(pclose(pipe));
  return {code, text, units::readFile(errors).value_or("")};
}

std::string slipway() { return testing_support::samplePath("slipway").string(); }

TEST(Cli, OpPrintsTheDocumentedJson) {
  const auto ran = cli("op " + slipway() + " --format json");
  ASSERT_EQ(ran.code, 0) << ran.error;
  const auto json = units::Json::parse(ran.out);
  const auto solved = testing_support::solve(testing_support::sample("slipway").ink);
  EXPECT_NEAR(json["parts"]["R3"]["volts"].get<double>(), solved.point.part("R3")->volts, 1e-6);
  EXPECT_NEAR(json["nodes"]["A"].get<double>(), 299, 3);
  EXPECT_EQ(json["tubes"]["V3"]["type"], "6V6GT");
}

/// The acts of the window, for scripts: a reverb and a stage, inked, and the other commands take what comes of it.
TEST(Cli, ArrangesChainsAndSections) {
  const testing_support::TemporaryFolder folder;
  const auto out = (folder.path / "reverb.vinegar").string();
  const auto ran =
      cli("arrange " + slipway() +
          " 'insert mix-two after first' 'chain reverb reverb-driver,spring-tank,triode-common-cathode,volume "
          "from first.out to mix-two.second' 'set R3 150k' --ink 'a room' -o " +
          out);
  ASSERT_EQ(ran.code, 0) << ran.error;
  EXPECT_NE(ran.error.find("reverb put in beside the line: reverb driver"), std::string::npos) << ran.error;
  EXPECT_NE(ran.error.find("R3 120k"), std::string::npos) << ran.error;
  for (const char* command : {"check ", "op ", "response ", "netlist ", "supply "})
    EXPECT_EQ(cli(command + out).code, 0) << command << cli(command + out).error;
  EXPECT_NE(cli("op " + out).out.find("spring-tank"), std::string::npos);
  const auto dry = cli("arrange " + out + " 'remove reverb' 'remove mix-two' -o " + out);
  EXPECT_EQ(dry.code, 0) << dry.error;
  for (const auto& [act, said] : {std::pair{"insert flux after first", "not in the section library"},
                                  {"insert volume after nowhere", "no such section"},
                                  {"join first.in to ground", "meets its neighbour"},
                                  {"set R3 much", "much"},
                                  {"paint it", "is no act"}}) {
    const auto wrong = cli("arrange " + slipway() + " '" + act + "' -o " + (folder.path / "no.vinegar").string());
    EXPECT_EQ(wrong.code, 2) << act;
    EXPECT_NE(wrong.error.find(said), std::string::npos) << act << ": " << wrong.error;
    EXPECT_FALSE(std::filesystem::exists(folder.path / "no.vinegar")) << act;
  }
}

TEST(Cli, ResponseHasTheAskedPointsAndNodeNamesAreThoseOfNetlist) {
  const auto netlist = units::Json::parse(cli("netlist " + slipway()).out);
  EXPECT_EQ(netlist["format"], "vinegar-netlist");
  const auto plate = netlist["elements"];
  const auto ran =
      cli("response " + slipway() + " --from jack --to second.a --fmin 20 --fmax 2000 --points 7 --format json");
  ASSERT_EQ(ran.code, 0) << ran.error;
  const auto json = units::Json::parse(ran.out);
  ASSERT_EQ(json["frequency_hz"].size(), 7U);
  EXPECT_DOUBLE_EQ(json["frequency_hz"][0].get<double>(), 20);
  EXPECT_DOUBLE_EQ(json["frequency_hz"][6].get<double>(), 2000);
  EXPECT_EQ(json["magnitude_db"].size(), 7U);
  EXPECT_EQ(json["phase_deg"].size(), 7U);
  EXPECT_NE(cli("response " + slipway() + " --points 3 --format csv").out.find("frequency_hz,magnitude_db,phase_deg"),
            std::string::npos);
}

struct Call {
  std::string arguments;
  int code;
  std::string says;
};

TEST(Cli, BadCallsAndBadDesignsAreTold) {
  const auto broken =
      std::filesystem::temp_directory_path() / ("vinegar-broken-" + std::to_string(getpid()) + ".vinegar");
  auto text = *units::readFile(slipway());
  text.replace(text.find("\"120k\""), 6, "\"12zz\"");
  ASSERT_FALSE(files::saveAtomically(broken, text));
  const Call calls[] = {{"", 2, "subcommand"},
                        {"op", 2, "FILE"},
                        {"dance " + slipway(), 2, ""},
                        {"op " + slipway() + " --format yaml", 2, "format"},
                        {"response " + slipway() + " --from kitchen", 2, "kitchen"},
                        {"response " + slipway() + " --fmin 0", 2, "--fmin"},
                        {"response " + slipway() + " --points 0", 2, "points"},
                        {"op /no/such/file.vinegar", 1, "no such file"},
                        {"check " + broken.string(), 1, "/line/1/parts/Ra/value"},
                        {"op " + broken.string(), 1, "/line/1/parts/Ra/value"}};
  for (const auto& [arguments, code, says] : calls) {
    const auto ran = cli(arguments);
    EXPECT_EQ(ran.code, code) << arguments;
    EXPECT_NE(ran.error.find(says), std::string::npos) << arguments << ": " << ran.error;
    EXPECT_EQ(std::count(ran.error.begin(), ran.error.end(), '\n'), 1) << arguments << ": " << ran.error;
    EXPECT_TRUE(ran.out.empty()) << arguments;
  }
  std::filesystem::remove(broken);
}

TEST(Cli, EveryFormPrintsTheSameNumbers) {
  const auto json = units::Json::parse(cli("op " + slipway() + " --format json").out);
  const auto csv = cli("op " + slipway() + " --format csv").out;
  EXPECT_EQ(csv.substr(0, csv.find('\n')), "what,name,volts,amps,watts");
  const auto row = csv.find("part,R28,");
  ASSERT_NE(row, std::string::npos);
  EXPECT_NEAR(std::stod(csv.substr(row + 9)), json["parts"]["R28"]["volts"].get<double>(), 1e-6);
  const auto text = cli("op " + slipway()).out;
  EXPECT_NE(text.find("6V6GT"), std::string::npos);
  EXPECT_NE(cli("netlist " + slipway() + " --format csv").out.find("R28,resistor,output.k 0,270.0"), std::string::npos);
  EXPECT_EQ(std::count(csv.begin(), csv.end(), '\n'),
            1 + static_cast<long>(json["nodes"].size() + json["parts"].size()));
}

TEST(Cli, HelpAndVersionAreNoErrors) {
  for (const char* ask : {"--help", "--version", "op --help"}) {
    const auto ran = cli(ask);
    EXPECT_EQ(ran.code, 0) << ask;
    EXPECT_FALSE(ran.out.empty()) << ask;
    EXPECT_TRUE(ran.error.empty()) << ask;
  }
}

TEST(Cli, CheckFindsNothingWrongWithTheSamples) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"})
    EXPECT_EQ(cli("check " + testing_support::samplePath(name).string()).code, 0) << name;
}

TEST(Cli, SupplySwitchOnAndDischargeAnswerInEveryForm) {
  const auto file = testing_support::samplePath("slipway").string();
  const auto supply = cli("supply " + file + " --format json");
  ASSERT_EQ(supply.code, 0) << supply.error;
  const auto json = units::Json::parse(supply.out);
  const auto solved = testing_support::solve(testing_support::sample("slipway").ink);
  for (const auto& rail : json["rails"])
    EXPECT_NEAR(rail["volts"].get<double>(), solved.point.volts(solved.circuit.probe(rail["rail"])), 5e-3);
  EXPECT_TRUE(json["findings"].empty());
  const auto other = units::Json::parse(cli("supply " + file + " --rectifier 5AR4 --mains 240 --format json").out);
  EXPECT_GT(other["rails"][0]["volts"].get<double>(), json["rails"][0]["volts"].get<double>() + 40);
  EXPECT_FALSE(other["findings"].empty());
  EXPECT_EQ(other["rectifiers"][0]["type"], "5AR4");

  const auto on = units::Json::parse(cli("switch-on " + file + " --format json --seconds 5").out);
  EXPECT_EQ(on["seconds"].size(), 250U);
  EXPECT_GT(on["highest"][1]["highest_volts"].get<double>(), 400);
  const auto off = units::Json::parse(cli("discharge " + file + " --format json").out);
  const auto& in = off["rails"].front();
  const auto& out = off["rails"].back();
  EXPECT_EQ(in["tubes"], "in");
  EXPECT_EQ(out["tubes"], "out");
  EXPECT_LT(in["to_50_volts_seconds"].get<double>(), out["to_50_volts_seconds"].get<double>());
  for (const char* command : {"supply", "switch-on --seconds 1", "discharge"})
    for (const char* format : {"text", "csv"}) {
      const auto printed = cli(std::string(command) + " " + file + " --format " + format);
      EXPECT_EQ(printed.code, 0) << command;
      EXPECT_NE(printed.out.find("A"), std::string::npos) << command;
    }
  const auto wrong = cli("supply " + file + " --rectifier 12AX7");
  EXPECT_EQ(wrong.code, 2); // the call is bad, not the design
  EXPECT_NE(wrong.error.find("12AX7"), std::string::npos) << wrong.error;
  EXPECT_EQ(cli("supply " + file + " --mains -5").code, 2);
}

TEST(Cli, WhatCannotBeMeantIsTheCallsMistake) {
  const auto file = slipway();
  for (const char* arguments : {"--mains 0", "--mains nan", "--mains -5", "--mains 50000", "--rectifier ''",
                                "--rectifier 12AX7", "--rectifier none"}) {
    const auto ran = cli("supply " + file + " " + arguments);
    EXPECT_EQ(ran.code, 2) << arguments;
    EXPECT_FALSE(ran.error.empty()) << arguments;
    EXPECT_TRUE(ran.out.empty()) << arguments;
  }
  for (const char* arguments : {"--seconds nan", "--seconds inf", "--seconds 0", "--from warm"})
    EXPECT_EQ(cli("switch-on " + file + " " + arguments).code, 2) << arguments;
  for (const char* arguments :
       {"--fmin nan", "--fmax inf", "--fmin 0", "--fmin 100 --fmax 10", "--points 0", "--from nowhere"})
    EXPECT_EQ(cli("response " + file + " " + arguments).code, 2) << arguments;
  EXPECT_EQ(cli("op " + file + " " + file).code, 2); // a second file
  EXPECT_EQ(cli("discharge " + testing_support::samplePath("net-loft").string() + " --mains 220").code, 0);
}

TEST(Cli, WhoAsksForJsonGetsJson) {
  EXPECT_TRUE(units::Json::parse(cli("tubes --format json").out).is_array());
  for (const char* command : {"op", "response", "supply", "switch-on", "discharge", "netlist"}) {
    const auto ran = cli(std::string(command) + " /no/such/file --format json");
    EXPECT_EQ(ran.code, 1) << command;
    EXPECT_EQ(units::Json::parse(ran.out)["problem"]["place"], "/no/such/file") << command;
  }
}

/// A design whose names are what a spreadsheet, a terminal and a JSON reader each take for something else.
struct HostileNames {
  testing_support::TemporaryFolder folder;
  std::string path = (folder.path / "hostile.vinegar").string();
  std::string name = "a,\"b\"\n\x1b[31m";
  HostileNames() {
    auto json = units::Json::parse(*units::readFile(testing_support::samplePath("slipway")));
    json["line"][1]["parts"]["Ra"]["name"] = name;
    json["supply"][1]["node"] = name;
    for (auto& use : json["line"])
      if (use.contains("joins"))
        for (auto& [port, target] : use["joins"].items())
          if (target == "A") target = name;
    std::ofstream(path) << json.dump();
  }
};

TEST(Cli, NamesAreQuotedInTablesAndTameInATerminal) {
  const HostileNames hostile;
  for (const char* command : {"op", "supply", "check", "switch-on --seconds 1", "discharge"})
    for (const char* format : {"text", "csv", "json"}) {
      const auto ran = cli(std::string(command) + " " + hostile.path + " --format " + format);
      EXPECT_EQ(ran.error.find('\x1b'), std::string::npos) << command;
      if (std::string(format) == "csv") continue; // quoted, but as it is
      EXPECT_EQ(ran.out.find('\x1b'), std::string::npos) << command << " " << format;
    }
  const auto csv = cli("op " + hostile.path + " --format csv").out;
  EXPECT_NE(csv.find("part,\"a,\"\"b\"\"\n"), std::string::npos);
  EXPECT_NE(cli("op " + hostile.path).out.find("a,\"b\"\\n\\x1b[31m"), std::string::npos);
}

TEST(Cli, AFullDiskAndAReaderThatLeavesAreTold) {
  const auto to = [&](const std::string& where) {
    return WEXITSTATUS(std::system((std::string(VINEGAR_CLI) + " op " + slipway() + where).c_str()));
  };
  EXPECT_EQ(to(" 2>/dev/null >/dev/full"), 3);
  EXPECT_EQ(to(" 2>/dev/null >/dev/null"), 0);
  FILE* pipe = popen(
      (std::string("exec ") + VINEGAR_CLI + " response " + slipway() + " --points 100000 2>/dev/null").c_str(), "r");
  fgetc(pipe); // and no more
  EXPECT_EQ(WEXITSTATUS(pclose(pipe)), 3);
}

TEST(Cli, FilesThatAreNoneComeBackAtOnce) {
  const testing_support::TemporaryFolder folder;
  const auto pipe = (folder.path / "pipe").string();
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  for (const auto& path : {pipe, std::string("/dev/zero"), folder.path.string()}) {
    const auto ran = cli("check " + path);
    EXPECT_EQ(ran.code, 1) << path;
    EXPECT_NE(ran.error.find(path), std::string::npos) << ran.error;
  }
}

TEST(Cli, CheckTellsOfOddThings) {
  const testing_support::TemporaryFolder folder;
  const auto path = (folder.path / "odd.vinegar").string();
  auto json = units::Json::parse(*units::readFile(testing_support::samplePath("slipway")));
  json["line"][1]["parts"]["Ra"]["vaule"] = "100k";
  std::ofstream(path) << json.dump();
  const auto ran = cli("check " + path);
  EXPECT_EQ(ran.code, 1);
  EXPECT_NE(ran.error.find("vaule"), std::string::npos) << ran.error;
  EXPECT_EQ(cli("op " + path).code, 0); // and stands in nobody's way
}

/// The questions of Stages and Levels, the same numbers in every format.
TEST(Cli, StagesSwapsLevelsAndProposalsInEveryFormat) {
  const auto json = [](const std::string& arguments) {
    const auto ran = cli(arguments + " --format json");
    EXPECT_EQ(ran.code, 0) << ran.error;
    return units::Json::parse(ran.out);
  };
  const auto solved = testing_support::solve(testing_support::sample("slipway").ink);
  const auto stages = json("stages " + slipway());
  ASSERT_EQ(stages["tubes"].size(), solved.point.tubes.size());
  EXPECT_NEAR(stages["tubes"][0]["plate_amps"].get<double>(), solved.point.tubes[0].plateAmps, 1e-9);
  EXPECT_EQ(json("stages " + slipway() + " --tube V2a")["tubes"].size(), 1U);
  const auto csv = cli("stages " + slipway() + " --format csv");
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 1 + static_cast<long>(solved.point.tubes.size()));

  const auto swaps = json("swap " + slipway() + " --tube V1a");
  EXPECT_EQ(swaps["types"][0]["type"], "12AX7");
  EXPECT_GT(swaps["types"].size(), 10U);
  EXPECT_TRUE(swaps["types"][0].contains("plate_watts_limit"));

  const auto levels = json("levels " + slipway() + " --input 5mV");
  EXPECT_NEAR(levels["input_volts_rms"].get<double>(), 5e-3, 1e-9);
  EXPECT_GT(levels["limits"].size(), 5U);
  const auto& clean = levels["clean_power"];
  EXPECT_NEAR(clean["at_once"]["watts"].get<double>(), 7, 2);
  EXPECT_NEAR(clean["at_once"]["distortion"].get<double>(), 0.05, 1e-3);
  EXPECT_LE(clean["sustained"]["watts"].get<double>(), clean["at_once"]["watts"].get<double>());
  // The same limit of the same stage is told once: what is left at a section is what the list of limits says.
  const auto& sections = levels["sections"];
  const auto v2 = std::find_if(sections.begin(), sections.end(), [](const auto& s) {
    return s["title"].template get<std::string>().starts_with("cathodyne");
  });
  ASSERT_NE(v2, sections.end());
  double least = 1e9;
  for (const auto& limit : levels["limits"])
    if (limit["tubes"].get<std::string>().starts_with("V2b"))
      least = std::min(least, 20 * std::log10(limit["input_volts_rms"].get<double>() / 5e-3));
  EXPECT_NEAR(std::min((*v2)["up_headroom_decibels"].get<double>(), (*v2)["down_headroom_decibels"].get<double>()),
              least, 0.01);
  // A stage tells its room at its own grid: up to grid current as far as it is biased, nearly.
  for (const auto& tube : stages["tubes"])
    if (tube["tube"] == "V1a") {
      EXPECT_NEAR(tube["grid_up_volts"].get<double>(), -tube["grid_volts"].get<double>(), 0.5);
      EXPECT_LT(tube["grid_down_volts"].get<double>(), 0);
    }
  EXPECT_NE(cli("levels " + slipway() + " --format text").out.find("clips first"), std::string::npos);
  // Every figure of text has its unit.
  const auto feel = cli("feel " + slipway() + " --format text").out;
  EXPECT_NE(feel.find(" ms "), std::string::npos) << feel;
  EXPECT_NE(feel.find(" % "), std::string::npos) << feel;

  const auto proposals = json("propose " + slipway() + " --tube V1a --plate 170V");
  ASSERT_GT(proposals["sets"].size(), 0U);
  EXPECT_NEAR(proposals["sets"][0]["reached"].get<double>(), 170, 6);

  for (const char* bad : {"stages FILE --tube R3", "swap FILE --tube V99", "propose FILE --tube V1a",
                          "propose FILE --tube V1a --plate lots", "propose FILE --tube V1a --plate 1V --gain 3",
                          "levels FILE --input -3"}) {
    std::string call = bad;
    call.replace(call.find("FILE"), 4, slipway());
    const auto ran = cli(call);
    EXPECT_EQ(ran.code, 2) << bad;
    EXPECT_FALSE(ran.error.empty()) << bad;
  }
}

/// What is pencilled is what is answered for, and it is said; the ink and any sheet on request.
TEST(Cli, AnswersForTheSheetThatIsAskedFor) {
  const testing_support::TemporaryFolder folder;
  const auto file = (folder.path / "pencilled.vinegar").string();
  ASSERT_EQ(cli("arrange " + slipway() + " 'set R28 470' -o " + file).code, 0);
  const auto watts = [&](const std::string& sheet) {
    const auto ran = cli("op " + file + " --format json " + sheet);
    EXPECT_EQ(ran.code, 0) << ran.error;
    EXPECT_NE(ran.error.find("answers for"), std::string::npos) << ran.error;
    return units::Json::parse(ran.out)["parts"]["R28"]["volts"].get<double>();
  };
  EXPECT_EQ(watts(""), watts("--sheet active"));
  EXPECT_EQ(watts(""), watts("--sheet 'Sheet 1'"));
  EXPECT_GT(watts(""), watts("--sheet ink") + 1);
  EXPECT_EQ(cli("op " + file + " --sheet nonesuch").code, 2);
  EXPECT_EQ(cli("op " + slipway()).error, ""); // nothing pencilled, nothing to say
}

TEST(Cli, RefusesWhatIsNoCallAndKeepsWhatIsNewer) {
  const testing_support::TemporaryFolder folder;
  for (const char* act : {"chain x volume fro first.out", "duplicate volume 3 times", "insert volume first at reverb",
                          "remove volume now", "join first.out to open please"})
    EXPECT_EQ(cli("arrange " + slipway() + " '" + act + "'").code, 2) << act;
  EXPECT_NE(cli("arrange " + slipway() + " 'set R33 150'").error.find("R33 is not fitted"), std::string::npos);
  EXPECT_EQ(cli("levels " + slipway() + " --frequency 1e12").code, 2);
  EXPECT_EQ(cli("feel " + slipway() + " --phrase chord --recording x.wav").code, 2);
  const auto newer = (folder.path / "newer.vinegar").string();
  auto json = units::Json::parse(*units::readFile(testing_support::samplePath("slipway")));
  json["version"] = 3;
  std::ofstream(newer) << json.dump();
  const auto before = *units::readFile(newer);
  EXPECT_NE(cli("arrange " + newer + " 'set R3 1M' -o " + newer).code, 0);
  EXPECT_EQ(*units::readFile(newer), before);
  json["version"] = 1e308;
  std::ofstream(newer) << json.dump();
  EXPECT_EQ(cli("check " + newer).code, 1);
}

/// Where nothing hangs on a loudspeaker the questions are of the line's end, and a bench supply feeds what is played.
TEST(Cli, AnswersWithoutALoudspeakerAndWithoutMains) {
  const auto skeletons = testing_support::folder("data") + "/skeletons/";
  for (const char* name : {"8-preamplifier", "9-one-stage"}) {
    const auto file = skeletons + name + ".vinegar";
    for (const char* command : {"readouts ", "tolerance --builds 20 ", "levels ", "response "}) {
      const auto ran = cli(command + file);
      EXPECT_EQ(ran.code, 0) << command << ran.error;
    }
  }
  const auto feel = cli("feel " + skeletons + "9-one-stage.vinegar --phrase muted");
  EXPECT_EQ(feel.code, 0) << feel.error;
  EXPECT_NE(feel.out.find("nothing sags"), std::string::npos) << feel.out;
  const auto noise = cli("noise " + skeletons + "9-one-stage.vinegar");
  EXPECT_EQ(noise.code, 1); // the design has no loudspeaker: the call is a good one
}

TEST(Cli, VoiceQuestionsInEveryFormatWithKnobs) {
  VINEGAR_LONG_TEST(numbers);
  const testing_support::TemporaryFolder folder;
  const auto target = (folder.path / "target.json").string();
  std::ofstream(target)
      << R"({"format": "vinegar-target", "target": [[100, 0], ["1k", -8], [5000, 4]], "parts": ["C4", "C6"]})";
  const auto netLoft = testing_support::samplePath("net-loft").string();
  for (const auto& [command, key] :
       std::vector<std::pair<std::string, std::string>>{{"readouts " + slipway(), "readings"},
                                                        {"rank " + slipway() + " --band 300,600", "steps"},
                                                        {"sweep " + slipway() + " --control Treble", "curves"},
                                                        {"tolerance " + slipway() + " --builds 40", "band"},
                                                        {"fit " + slipway() + " --target " + target, "sets"},
                                                        {"compare " + slipway() + " " + netLoft, "levels"},
                                                        {"noise " + slipway() + " --cures", "sources"}}) {
    const auto json = cli(command + " --format json");
    ASSERT_EQ(json.code, 0) << command << json.error;
    EXPECT_GT(units::Json::parse(json.out)[key].size(), 1U) << command;
    const auto csv = cli(command + " --format csv");
    EXPECT_EQ(csv.code, 0) << command;
    EXPECT_EQ(static_cast<std::size_t>(std::count(csv.out.begin(), csv.out.end(), '\n')),
              units::Json::parse(json.out)[key].size() + 1)
        << command;
    EXPECT_EQ(cli(command).code, 0) << command;
  }
  // A target that the design keeps is named; what it does not keep is told with what it keeps.
  const auto kept = (folder.path / "kept.vinegar").string();
  auto design = units::Json::parse(*units::readFile(testing_support::samplePath("slipway")));
  design["targets"]["less mud"] = units::Json::parse(*units::readFile(target));
  std::ofstream(kept) << design;
  const auto byName = cli("fit " + kept + " --target 'less mud' --format json");
  ASSERT_EQ(byName.code, 0) << byName.error;
  EXPECT_EQ(byName.out, cli("fit " + slipway() + " --target " + target + " --format json").out);
  const auto unnamed = cli("fit " + kept + " --target 'more mud'");
  EXPECT_EQ(unnamed.code, 2);
  EXPECT_NE(unnamed.error.find("\"less mud\""), std::string::npos) << unnamed.error;
  // Knobs as the window has them: more treble is more at 5 kHz.
  const auto at5k = [](const std::string& knob) {
    const auto ran = cli("response " + slipway() + " --fmin 5000 --fmax 5001 --points 2 --format json " + knob);
    EXPECT_EQ(ran.code, 0) << ran.error;
    return units::Json::parse(ran.out)["magnitude_db"][0].get<double>();
  };
  EXPECT_GT(at5k("--knob Treble=1"), at5k("--knob Treble=0") + 6);
  for (const char* wrong :
       {"readouts --knob Treble=2", "readouts --knob Nonesuch=1", "readouts --knob Treble", "rank --band 600,300",
        "rank --band high", "sweep --control Nonesuch", "fit --target /nowhere", "readouts --to nowhere"}) {
    const std::string text = wrong;
    const auto ran = cli(text.substr(0, text.find(' ')) + " " + slipway() + text.substr(text.find(' ')));
    EXPECT_NE(ran.code, 0) << wrong;
    EXPECT_FALSE(ran.error.empty()) << wrong;
  }
}

TEST(Cli, APhraseIsPlayedAndItsReadingsToldInEveryFormat) {
  VINEGAR_LONG_TEST(numbers);
  const auto json = cli("feel " + slipway() + " --phrase drone --level 300mV --format json");
  ASSERT_EQ(json.code, 0) << json.error;
  const auto told = units::Json::parse(json.out);
  EXPECT_EQ(told["rails"].size(), 4U);
  EXPECT_EQ(told["fed_rail"], "A");
  const auto share = [](const units::Json& of) { return of["rails"][0]["droop_share"].get<double>(); };
  EXPECT_GT(share(told), 0.03);
  // Silicon is stiffer, as the comparison has it too.
  const auto silicon = cli("feel " + slipway() + " --phrase drone --level 300mV --rectifier 1N4007 --format json");
  ASSERT_EQ(silicon.code, 0) << silicon.error;
  EXPECT_LT(share(units::Json::parse(silicon.out)), share(told));
  const auto rows = cli("feel " + slipway() + " --phrase drone --level 300mV --compare rectifiers --format json");
  ASSERT_EQ(rows.code, 0) << rows.error;
  int found = 0;
  const auto compared = units::Json::parse(rows.out);
  for (const auto& row : compared["rows"])
    if (row["with"] == "1N4007") {
      EXPECT_NEAR(row["droop_share"].get<double>(), share(units::Json::parse(silicon.out)), 2e-3);
      ++found;
    }
  EXPECT_EQ(found, 1);
  const auto levels = cli("feel " + slipway() + " --phrase muted --compare levels --format json");
  ASSERT_EQ(levels.code, 0) << levels.error;
  const auto compression = units::Json::parse(levels.out);
  ASSERT_EQ(compression.size(), 9U);
  EXPECT_GT(compression.back()["late_decibels"].get<double>(), compression.front()["late_decibels"].get<double>() + 3);
}

TEST(Cli, FeelIsToldInWordsAndColumnsAndWhatIsWrongIsRefused) {
  const auto asked = "feel " + slipway() + " --phrase muted";
  const auto csv = cli(asked + " --format csv");
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 5);
  EXPECT_NE(cli("feel " + testing_support::samplePath("net-loft").string() + " --phrase muted").out.find("attack loss"),
            std::string::npos);
  for (const char* wrong : {"--phrase none", "--instrument none", "--level -1", "--rectifier 6L6GC", "--compare all",
                            "--recording /nowhere.wav", "--knob None=1"}) {
    const auto ran = cli("feel " + slipway() + " " + wrong);
    EXPECT_NE(ran.code, 0) << wrong;
    EXPECT_FALSE(ran.error.empty()) << wrong;
  }
}

} // namespace
} // namespace vinegar
