#include "files/results_json.h"
#include "support/samples.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

namespace vinegar {
namespace {

struct Ran {
  int code;
  std::string out, error;
};

Ran cli(const std::string& arguments) {
  const auto run = [&](const std::string& redirect) {
    FILE* pipe = popen((std::string(VINEGAR_CLI) + " " + arguments + redirect).c_str(), "r");
    std::string text;
    std::array<char, 4096> buffer{};
    while (const auto n = fread(buffer.data(), 1, buffer.size(), pipe))
      text.append(buffer.data(), n);
    return std::pair{text, WEXITSTATUS(pclose(pipe))};
  };
  const auto [out, code] = run(" 2>/dev/null");
  return {code, out, run(" 2>&1 >/dev/null").first};
}

std::string slipway() { return testing_support::samplePath("slipway-18").string(); }

TEST(Cli, OpPrintsTheDocumentedJson) {
  const auto ran = cli("op " + slipway() + " --format json");
  ASSERT_EQ(ran.code, 0) << ran.error;
  const auto json = units::Json::parse(ran.out);
  const auto solved = testing_support::solve(testing_support::sample("slipway-18").ink);
  EXPECT_NEAR(json["parts"]["R3"]["volts"].get<double>(), solved.point.part("R3")->volts, 1e-6);
  EXPECT_NEAR(json["nodes"]["A"].get<double>(), 318, 3);
  EXPECT_EQ(json["tubes"]["V3"]["type"], "6V6GT");
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
  for (const char* name : {"slipway-18", "net-loft-5", "harbour-office-8"})
    EXPECT_EQ(cli("check " + testing_support::samplePath(name).string()).code, 0) << name;
}

TEST(Cli, SupplySwitchOnAndDischargeAnswerInEveryForm) {
  const auto file = testing_support::samplePath("slipway-18").string();
  const auto supply = cli("supply " + file + " --format json");
  ASSERT_EQ(supply.code, 0) << supply.error;
  const auto json = units::Json::parse(supply.out);
  const auto solved = testing_support::solve(testing_support::sample("slipway-18").ink);
  for (const auto& rail : json["rails"])
    EXPECT_NEAR(rail["volts"].get<double>(), solved.point.volts(solved.circuit.probe(rail["name"])), 5e-3);
  EXPECT_TRUE(json["findings"].empty());
  const auto other = units::Json::parse(cli("supply " + file + " --rectifier 5AR4 --mains 240 --format json").out);
  EXPECT_GT(other["rails"][0]["volts"].get<double>(), json["rails"][0]["volts"].get<double>() + 40);
  EXPECT_FALSE(other["findings"].empty());
  EXPECT_EQ(other["rectifiers"][0]["type"], "5AR4");

  const auto on = units::Json::parse(cli("switch-on " + file + " --format json --seconds 5").out);
  EXPECT_EQ(on["seconds"].size(), 250U);
  EXPECT_GT(on["rails"][1]["highest"].get<double>(), 400);
  const auto off = units::Json::parse(cli("discharge " + file + " --format json").out);
  EXPECT_LT(off["tubes_in"][0]["seconds_to_50"].get<double>(), off["tubes_out"][0]["seconds_to_50"].get<double>());
  for (const char* command : {"supply", "switch-on --seconds 1", "discharge"})
    for (const char* format : {"text", "csv"}) {
      const auto printed = cli(std::string(command) + " " + file + " --format " + format);
      EXPECT_EQ(printed.code, 0) << command;
      EXPECT_NE(printed.out.find("A"), std::string::npos) << command;
    }
  const auto wrong = cli("supply " + file + " --rectifier 12AX7");
  EXPECT_EQ(wrong.code, 1);
  EXPECT_NE(wrong.error.find("12AX7"), std::string::npos) << wrong.error;
  EXPECT_EQ(cli("supply " + file + " --mains -5").code, 1);
}

} // namespace
} // namespace vinegar
