// The section library as a builder extends it: every shipped file is sound, and a mistake in a new one is named.
#include "amp/acts/acts.h"
#include "amp/change/change.h"
#include "predict/overview/steps.h"
#include "support/paths.h"
#include "support/samples.h"
#include "support/temporary_folder.h"
#include "units/file.h"
#include "units/json.h"

#include <cstdlib>
#include <fstream>
#include <functional>
#include <gtest/gtest.h>
#include <set>

namespace vinegar::amp {
namespace {

using testing_support::library;

/// A copy of the shipped data with one file changed.
class OwnData {
public:
  OwnData() {
    std::string pattern = (std::filesystem::temp_directory_path() / "vinegar-data-XXXXXX").string();
    path_ = mkdtemp(pattern.data());
    const auto shipped = testing_support::samplePath("x").parent_path().parent_path();
    for (const char* folder : {"sections", "roles", "tubes"})
      std::filesystem::copy(shipped / folder, path_ / folder, std::filesystem::copy_options::recursive);
  }
  ~OwnData() { std::filesystem::remove_all(path_); }
  OwnData(const OwnData&) = delete;
  OwnData& operator=(const OwnData&) = delete;

  void change(const std::string& file, const std::function<void(units::Json&)>& edit) const {
    auto json = units::Json::parse(*units::readFile(path_ / file));
    edit(json);
    std::ofstream(path_ / file) << json.dump();
  }
  void write(const std::string& file, const std::string& text) const { std::ofstream(path_ / file) << text; }
  [[nodiscard]] tl::expected<Library, Problem> load() const { return Library::load(path_); }
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }

private:
  std::filesystem::path path_;
};

TEST(Library, EveryPartHasARoleThatSaysWhatItDoes) {
  for (const auto& [id, section] : library().sections) {
    EXPECT_FALSE(section.use.empty()) << id;
    for (const auto& part : section.parts) {
      const auto& role = library().role(part.role);
      EXPECT_GT(role.does.size(), 20U) << id << " " << part.ref;
      const bool stepped = hasValue(part.kind) && part.kind != PartKind::signalSource &&
                           part.kind != PartKind::voltageSource && part.kind != PartKind::biasSource;
      if (stepped) {
        EXPECT_TRUE(role.series || !role.stock.empty())
            << id << " " << part.ref << ": nothing for the dial to step through";
      }
    }
  }
}

TEST(Library, DefaultsAreValuesTheDialCanStandOn) {
  for (const auto& [id, section] : library().sections)
    for (const auto& part : section.parts) {
      const auto& role = library().role(part.role);
      if (!hasValue(part.kind) || !role.series) continue;
      const double value = std::get<double>(part.defaults.at("value"));
      EXPECT_NEAR(units::nearest(*role.series, value) / value, 1, 0.2) << id << " " << part.ref;
    }
}

TEST(Library, DrawingsKeepPartsInsideTheirSection) {
  for (const auto& [id, section] : library().sections)
    for (const auto& part : section.parts)
      for (const auto& pin : pinPlaces(part.kind, part.place, part.nodes.size())) {
        EXPECT_GE(pin.x, 0) << id << " " << part.ref;
        EXPECT_LE(pin.x, section.width) << id << " " << part.ref;
      }
}

struct FileMistake {
  const char* what;
  const char* file;
  std::function<void(units::Json&)> make;
  const char* place;
  const char* says;
};

TEST(Library, AMistakeInADataFileIsNamedWithItsPlace) {
  const char* stage = "sections/triode-common-cathode.json";
  const FileMistake mistakes[] = {
      {"kind", stage, [](auto& j) { j["parts"][3]["kind"] = "resistance"; }, "/parts/3", "not known"},
      {"node count", stage,
       [](auto& j) {
         j["parts"][2]["nodes"] = {"a", "g"};
       },
       "/parts/2/nodes", "this many nodes"},
      {"value", stage, [](auto& j) { j["parts"][3]["value"] = "100kF"; }, "/parts/3/value", "farads"},
      {"no place", stage, [](auto& j) { j["drawing"]["places"].erase("Ra"); }, "/drawing/places", "\"Ra\" is missing"},
      {"direction", stage, [](auto& j) { j["drawing"]["places"]["Ra"]["dir"] = "sideways"; }, "/places/Ra", "sideways"},
      {"wire of one point", stage,
       [](auto& j) {
         j["drawing"]["wires"][0] = {"g0", {0, 0}};
       },
       "/wires/0", "two points"},
      {"wire on no node", stage, [](auto& j) { j["drawing"]["wires"][0][0] = "zz"; }, "/wires/0/0", "no part on it"},
      {"point", stage, [](auto& j) { j["drawing"]["wires"][0][1] = {1}; }, "/wires/0/1", "[x, y]"},
      {"far away", stage,
       [](auto& j) {
         j["drawing"]["places"]["Ra"]["at"] = {1e300, 0};
       },
       "/places/Ra/at/0", "grid"},
      {"wider than any", stage, [](auto& j) { j["drawing"]["width"] = 1e9; }, "/drawing/width", "grid"},
      {"no width", stage, [](auto& j) { j["drawing"]["width"] = -5; }, "/drawing/width", "more than nothing"},
      {"too many parts", stage,
       [](auto& j) {
         for (int i = 0; i < 300; ++i)
           j["parts"].push_back(j["parts"][3]);
       },
       "/parts", "more than 200"},
      {"port on no node", stage, [](auto& j) { j["ports"]["in"]["node"] = "q"; }, "/ports/in", "no part on it"},
      {"rail is no port", stage, [](auto& j) { j["rails"] = {"power"}; }, "/rails/0", "not one of the ports"},
      {"carries", stage, [](auto& j) { j["out"] = "double"; }, "triode-common-cathode.json", "double"},
      {"role", stage, [](auto& j) { j["parts"][3]["role"] = "heater-of-rooms"; }, "", "unknown role"},
      {"tube", stage, [](auto& j) { j["parts"][2]["tube"] = "12XX7"; }, "", "catalogue"},
      {"tube of another kind", stage, [](auto& j) { j["parts"][2]["tube"] = "EL84"; }, "", "another kind"},
      {"taper", "sections/volume.json", [](auto& j) { j["parts"][0]["taper"] = "curvy"; }, "/parts/0/taper", "taper"},
      {"where a knob stands", "sections/volume.json", [](auto& j) { j["parts"][0]["stands"] = 11; }, "/parts/0/stands",
       "rotation"},
      {"missing parameter", "sections/push-pull-pentode.json", [](auto& j) { j["parts"][10].erase("primaryOhms"); },
       "/parts/10", "primaryOhms"},
      {"series", "roles/roles.json", [](auto& j) { j["coupling"]["series"] = "E7"; }, "/coupling/series", "E6"},
      {"tube class", "tubes/12AX7.json", [](auto& j) { j["class"] = "hexode"; }, "12AX7.json", "hexode"},
      {"tube parameter", "tubes/12AX7.json", [](auto& j) { j["model"]["parameters"]["K"] = -1; }, "/model/parameters",
       "above 0"},
      {"tube field", "tubes/EL84.json", [](auto& j) { j["model"]["parameters"].erase("MUP"); }, "/parameters", "MUP"}};
  for (const auto& [what, file, make, place, says] : mistakes) {
    const OwnData data;
    data.change(file, make);
    const auto loaded = data.load();
    ASSERT_FALSE(loaded) << what;
    const auto line = loaded.error().line();
    EXPECT_NE(line.find(place), std::string::npos) << what << ": " << line;
    EXPECT_NE(line.find(says), std::string::npos) << what << ": " << line;
    EXPECT_NE(line.find(std::filesystem::path(file).filename().string()), std::string::npos) << what << ": " << line;
  }
}

TEST(Library, AMissingFolderAndBrokenJsonAreTold) {
  const OwnData data;
  data.write("sections/half.json", "{\"id\": ");
  EXPECT_NE(data.load().error().line().find("half.json:1"), std::string::npos);
  EXPECT_NE(Library::load("/no/such/place").error().message.find("installation"), std::string::npos);
}

TEST(Library, ABuildersOwnSectionCompilesAndSolves) {
  const OwnData data;
  auto json = units::Json::parse(*units::readFile(data.path() / "sections/triode-common-cathode.json"));
  json["id"] = "cold-clipper";
  json["parts"][4]["value"] = "10k";
  data.write("sections/cold-clipper.json", json.dump());
  const auto own = data.load();
  ASSERT_TRUE(own) << own.error().line();
  auto design = testing_support::sample("slipway").ink;
  design.line[4].section = "cold-clipper";
  design.line[4].parts["Rk"].settings.erase("value");
  const auto circuit = compile(design, *own);
  ASSERT_TRUE(circuit) << circuit.error().line();
  const auto point = predict::predictOperatingPoint(*circuit);
  ASSERT_TRUE(point);
  for (const auto& tube : point->tubes)
    if (tube.name == "V1b") {
      EXPECT_LT(tube.gridVolts, -2); // colder than 1k5 makes it
    }
}

TEST(PinPlaces, FollowTheDirection) {
  const auto end = [](Direction way) { return pinPlaces(PartKind::resistor, {{1, 2}, way}, 2)[1]; };
  EXPECT_EQ(end(Direction::right), (Point{7, 2}));
  EXPECT_EQ(end(Direction::down), (Point{1, 8}));
  EXPECT_EQ(end(Direction::left), (Point{-5, 2}));
  EXPECT_EQ(end(Direction::up), (Point{1, -4}));
  // The lower tube of a pair stands on its head: cathode at the top.
  EXPECT_EQ(pinPlaces(PartKind::pentode, {{0, 0}, Direction::up}, 4)[3], (Point{0, -4}));
}

TEST(Taper, IsReadFromItsName) {
  EXPECT_EQ(taperNamed("linear")->kind, circuit::Taper::Kind::linear);
  EXPECT_DOUBLE_EQ(taperNamed("log15")->atHalf, 0.15);
  EXPECT_EQ(taperNamed("reverse-log10")->kind, circuit::Taper::Kind::reverseLog);
  const std::vector<std::pair<double, double>> points{{0, 0}, {0.3, 0.04}, {0.5, 0.125}, {1, 1}};
  EXPECT_EQ(measuredTaperOf(points), "measured 0:0 30:4 50:12.5 100:100");
  EXPECT_EQ(taperNamed(measuredTaperOf(points))->points, points);
  for (const char* bad :
       {"measured ", "measured 0:0", "measured 0:0 50:60 100:40", "measured 10:0 100:100",
        "measured 0:0 60:10 50:20 100:100", "measured 0:0 100:101", "measured 0:0 100", "measured a:b 100:100"})
    EXPECT_FALSE(taperNamed(bad)) << bad;
  for (const char* bad : {"", "log", "log0", "log80", "audio", "reverse-log"})
    EXPECT_FALSE(taperNamed(bad)) << bad;
}

TEST(Stepping, FollowsSeriesAndStockAndEndsAtTheirEnds) {
  const auto document = testing_support::sample("slipway");
  const auto step = [&](const char* name, double value, bool up) {
    auto part = *findPart(document.ink, library(), name);
    part.settings["value"] = value;
    return predict::steppedValue(part, library(), up);
  };
  EXPECT_DOUBLE_EQ(*step("C2", 22e-6, true), 33e-6);
  EXPECT_DOUBLE_EQ(*step("R3", 120e3, false), 100e3);
  EXPECT_DOUBLE_EQ(*step("LS1", 8, true), 16);
  EXPECT_FALSE(step("LS1", 16, true));
  EXPECT_FALSE(step("LS1", 2, false));
  EXPECT_DOUBLE_EQ(*step("LS1", 5, false), 4); // from between two stock values to the next
  EXPECT_DOUBLE_EQ(*step("Mains", 230, true), 235);
  EXPECT_FALSE(step("C2", 1, true)); // nobody makes a larger one
  EXPECT_FALSE(step("V1a", 1, true));
}

/// A builder's own files: what is right is there, what is wrong is named with its place, nothing else suffers.
TEST(Library, ReadsWhatABuilderHasOfHisOwn) {
  const testing_support::TemporaryFolder folder;
  const auto write = [&](const std::string& name, std::string text) {
    std::filesystem::create_directories((folder.path / name).parent_path());
    std::ofstream(folder.path / name) << text;
  };
  const auto shipped = [](const std::string& name) {
    return *units::readFile(std::filesystem::path(testing_support::folder("data")) / name);
  };
  const auto with = [](std::string text, const std::string& what, const std::string& instead) {
    text.replace(text.find(what), what.size(), instead);
    return text;
  };
  write("sections/mine.json", with(shipped("sections/volume.json"), "\"id\": \"volume\"", "\"id\": \"my-volume\""));
  write("sections/shipped.json", shipped("sections/volume.json"));
  write("sections/torn.json", "{ \"id\": ");
  write("sections/strange.json",
        with(with(shipped("sections/volume.json"), "\"id\": \"volume\"", "\"id\": \"strange\""),
             "\"role\": \"volume-control\"", "\"role\": \"my-role\""));
  write("roles/mine.json",
        R"({"attic": {"title": "attic part", "does": "Lies in the attic."}, "speaker": {"title": "x", "does": "y"}})");
  write("tubes/mine.json", with(shipped("tubes/12AX7.json"), "\"type\": \"12AX7\"", "\"type\": \"12AX7\""));
  auto library = *Library::load(testing_support::folder("data"));
  const auto sections = library.sections.size(), tubes = library.tubes.types().size();
  const auto problems = library.addOwn(folder.path);
  std::string all;
  for (const auto& problem : problems)
    all += problem.line() + "\n";
  EXPECT_EQ(problems.size(), 5U) << all;
  for (const char* said : {"shipped.json/id: there is a section", "torn.json", "my-role", "roles/mine.json/speaker",
                           "the catalogue has a \"12AX7\" already"})
    EXPECT_NE(all.find(said), std::string::npos) << said << " in\n" << all;
  EXPECT_EQ(library.sections.size(), sections + 1);
  EXPECT_FALSE(library.sections.at("my-volume").ownText.empty());
  EXPECT_TRUE(library.sections.at("volume").ownText.empty());
  EXPECT_EQ(library.role("attic").title, "attic part");
  EXPECT_EQ(library.tubes.types().size(), tubes);
  EXPECT_TRUE(library.addOwn(folder.path / "not-there").empty());
}

/// What the builder changes in his files is there after reading again; who points to a part of the former one may go
/// on.
TEST(Library, ReadsABuildersOwnAgain) {
  const testing_support::TemporaryFolder folder;
  std::filesystem::create_directories(folder.path / "sections");
  auto text = *units::readFile(std::filesystem::path(testing_support::folder("data")) / "sections/volume.json");
  const auto replace = [&](const std::string& what, const std::string& instead) {
    text.replace(text.find(what), what.size(), instead);
  };
  replace("\"id\": \"volume\"", "\"id\": \"mine\"");
  std::ofstream(folder.path / "sections/mine.json") << text;
  auto library = *Library::load(testing_support::folder("data"));
  ASSERT_TRUE(library.addOwn(folder.path).empty());
  const auto* pot = library.sections.at("mine").part("Volume");
  ASSERT_TRUE(pot);
  replace("1M", "500k");
  std::ofstream(folder.path / "sections/mine.json") << text;
  EXPECT_TRUE(library.addOwn(folder.path).empty());
  EXPECT_EQ(std::get<double>(library.sections.at("mine").part("Volume")->defaults.at("value")), 500e3);
  EXPECT_EQ(std::get<double>(pot->defaults.at("value")), 1e6);
  std::ofstream(folder.path / "sections/again.json") << text; // the same id twice
  ASSERT_EQ(library.addOwn(folder.path).size(), 1U);
  // What is taken away is offered to nobody, and is still known to those who use it; put back, it is itself again.
  std::filesystem::remove(folder.path / "sections/again.json");
  std::filesystem::create_directories(folder.path / "tubes");
  auto tube = *units::readFile(std::filesystem::path(testing_support::folder("data")) / "tubes/6J5.json");
  tube.replace(tube.find("\"6J5\""), 5, "\"6J5X\"");
  tube.replace(tube.find("6J5GT"), 5, "6J5XT");
  std::ofstream(folder.path / "tubes/own.json") << tube;
  ASSERT_TRUE(library.addOwn(folder.path).empty());
  const auto onShelf = [&](const std::string& id) {
    const auto all = candidatesFor(testing_support::sample("slipway").ink, library, {"line", "first"});
    return std::any_of(all.begin(), all.end(), [&](const auto& one) { return one.section->id == id; });
  };
  EXPECT_TRUE(onShelf("mine"));
  EXPECT_TRUE(library.tubes.find("6J5X")->offered);
  std::filesystem::rename(folder.path / "sections/mine.json", folder.path / "mine.json");
  std::filesystem::rename(folder.path / "tubes/own.json", folder.path / "own.json");
  ASSERT_TRUE(library.addOwn(folder.path).empty());
  EXPECT_FALSE(onShelf("mine"));
  EXPECT_FALSE(library.tubes.find("6J5X")->offered);
  EXPECT_EQ(std::get<double>(library.sections.at("mine").part("Volume")->defaults.at("value")), 500e3);
  std::filesystem::rename(folder.path / "mine.json", folder.path / "sections/mine.json");
  std::filesystem::rename(folder.path / "own.json", folder.path / "tubes/own.json");
  ASSERT_TRUE(library.addOwn(folder.path).empty());
  EXPECT_TRUE(onShelf("mine"));
  EXPECT_TRUE(library.tubes.find("6J5X")->offered);
  // What could be imported says where it would stand, what not says why.
  EXPECT_EQ(library.placeForOwn(text, "x.json")->string(), "sections/mine.json");
  EXPECT_FALSE(library.placeForOwn("{}", "x.json"));
  EXPECT_FALSE(library.placeForOwn("[1, 2", "x.json"));
  const auto shipped = *units::readFile(std::filesystem::path(testing_support::folder("data")) / "tubes/12AX7.json");
  EXPECT_NE(library.placeForOwn(shipped, "x.json").error().line().find("already"), std::string::npos);
}

TEST(Describe, SaysAChangeAsABuilderWould) {
  const auto design = testing_support::sample("slipway").ink;
  const auto say = [&](const SetField& change) { return describe({{change}}, design, design, library()); };
  EXPECT_EQ(say({"C2", "value", 22e-6, 330e-9}), "C2 22u \u2192 330n");
  EXPECT_EQ(say({"C2", "fitted", true, false}), "C2 fitted \u2192 not fitted");
  EXPECT_EQ(say({"V1a", "tube", std::string("12AX7"), std::string("12AU7")}), "V1a 12AX7 \u2192 12AU7");
  EXPECT_EQ(say({"Volume", "taper", std::string("log15"), std::string("linear")}), "Volume taper log15 \u2192 linear");
}

} // namespace
} // namespace vinegar::amp
