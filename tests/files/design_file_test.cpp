#include "amp/acts/acts.h"
#include "files/columns.h"
#include "files/csv.h"
#include "files/design_file.h"
#include "files/results_json.h"
#include "support/paths.h"
#include "support/samples.h"
#include "support/schema.h"
#include "support/temporary_folder.h"
#include "units/csv.h"

#include <csignal>
#include <fstream>
#include <gtest/gtest.h>
#include <random>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

namespace vinegar::files {
namespace {

using testing_support::library;
using testing_support::sample;

std::string text(const std::string& sampleName) { return *units::readFile(testing_support::samplePath(sampleName)); }

using testing_support::TemporaryFolder;

TEST(DesignFile, RoundTripsEverything) {
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    auto document = sample(name);
    amp::pencil(document, library(), "R3", "value", 123456.0);
    amp::pencil(document, library(), "V1a", "tube", std::string("12AU7"));
    amp::ink(document, library(), "a \"quoted\" reason, \u00e6\u00f8\u00e5", "2026-11-23T20:00:00+01:00");
    document.sheets.push_back({"darker", {}, {}});
    document.activeSheet = 1;
    amp::pencil(document, library(), "C2", "fitted", false);
    const auto again = readDesignText(writeDesignText(document, library()), name, library());
    ASSERT_TRUE(again) << again.error().line();
    EXPECT_EQ(again->document, document);
  }
}

/// A design takes along what is its builder's own, and is whole where nobody has that.
TEST(DesignFile, BringsItsBuildersOwnSectionsAlong) {
  const auto shipped = [](const std::string& name) {
    return *units::readFile(std::filesystem::path(testing_support::folder("data")) / name);
  };
  auto section = units::Json::parse(shipped("sections/volume.json"));
  section["id"] = "mine";
  section["parts"][0]["role"] = "attic";
  auto tube = units::Json::parse(shipped("tubes/12AX7.json"));
  tube["type"] = "12AX7-worn";
  tube["aliases"] = units::Json::array();
  const units::Json copies{{"roles", {{"attic", {{"title", "attic part"}, {"does", "Lies in the attic."}}}}},
                           {"tubes", {tube}},
                           {"sections", {section}}};
  auto mine = *amp::Library::load(testing_support::folder("data"));
  const auto bare = mine;
  ASSERT_TRUE(mine.addCopies(copies.dump(), "x").empty());
  auto document = readDesignText(text("slipway"), "x", mine)->document;
  EXPECT_EQ(writeDesignText(document, mine).find("\"own\""), std::string::npos); // it uses none of it yet
  amp::pencil(document, mine,
              *amp::insertSection(document.ink, mine, amp::NameBook(document), {"line", "first"}, "mine"));
  amp::pencil(document, mine, "V1a", "tube", std::string("12AX7-worn"));
  const auto written = writeDesignText(document, mine);
  EXPECT_TRUE(readDesignText(written, "x", mine)->copies.empty());
  EXPECT_EQ(readDesignText(written, "x", mine)->document, document);
  // Elsewhere: it says what it lacks, loses nothing when it is saved all the same, and is itself with the copies.
  auto elsewhere = bare;
  const auto lacking = readDesignText(written, "x", elsewhere);
  ASSERT_FALSE(lacking->copies.empty());
  EXPECT_EQ(readDesignText(writeDesignText(lacking->document, elsewhere), "x", elsewhere)->copies, lacking->copies);
  EXPECT_FALSE(amp::remarks(lacking->document, elsewhere).empty());
  ASSERT_TRUE(elsewhere.addCopies(lacking->copies, "x").empty());
  const auto whole = readDesignText(written, "x", elsewhere);
  EXPECT_TRUE(whole->copies.empty());
  EXPECT_EQ(whole->document, document);
  EXPECT_EQ(writeDesignText(whole->document, elsewhere), written);
  // A copy that cannot be taken is named and kept.
  auto torn = copies;
  torn["sections"][0].erase("parts");
  auto other = bare;
  EXPECT_EQ(other.addCopies(torn.dump(), "there.vinegar").size(), 1U);
  EXPECT_TRUE(other.tubes.find("12AX7-worn"));
  // Where there is another of that name, the design keeps its own beside it under a name of its own, and says so.
  section["title"] = "Another volume";
  auto differs = bare;
  ASSERT_TRUE(
      differs.addCopies(units::Json{{"roles", copies["roles"]}, {"tubes", {tube}}, {"sections", {section}}}.dump(), "x")
          .empty());
  const auto apart = readDesignText(written, "x", differs);
  EXPECT_NE(apart->note.find("another \"mine\""), std::string::npos) << apart->note;
  ASSERT_FALSE(apart->copies.empty());
  ASSERT_TRUE(differs.addCopies(apart->copies, "x").empty());
  const auto both = readDesignText(written, "x", differs);
  EXPECT_TRUE(both->copies.empty());
  const auto others = writeDesignText(both->document, differs);
  EXPECT_EQ(others.find("Another volume"), std::string::npos);
  EXPECT_NE(others, written);
  // Where nobody has the other one it is itself again; where the first is the library's the two stay two.
  auto third = bare;
  ASSERT_TRUE(third.addCopies(readDesignText(others, "x", third)->copies, "x").empty());
  EXPECT_TRUE(readDesignText(others, "x", third)->note.empty());
  // A builder's own file does not take its place while it is there.
  const auto folder = std::filesystem::temp_directory_path() / "vinegar-own-apart";
  std::filesystem::create_directories(folder / "sections");
  std::ofstream(folder / "sections" / "mine.json") << section.dump();
  EXPECT_EQ(mine.addOwn(folder).size(), 1U);
  std::filesystem::remove_all(folder);
}

TEST(Columns, DecimalCommasAreReadOrRefusedWithTheirLine) {
  const auto of = [](const char* text) { return parseColumns(text, "x", "level in dB"); };
  for (const char* text : {"100;1,5\n1000;-3,25\n", "# f;dB\n100\t1,5\n1000\t-3,25\n", "100;1,5;0,1\n1000;-3,25;7\n"}) {
    const auto points = of(text);
    ASSERT_TRUE(points) << text << points.error().line();
    EXPECT_EQ((*points)[0].decibels, 1.5) << text;
    EXPECT_EQ((*points)[1].decibels, -3.25) << text;
  }
  for (const char* text :
       {"100,1,5\n1000,-3,25\n", "100 1,5\n1000 -3,25\n", "50,2\n100,1,5\n", "100;1.000,5\n200;1\n"}) {
    const auto refused = of(text);
    ASSERT_FALSE(refused) << text;
    EXPECT_NE(refused.error().place.find("x:"), std::string::npos) << refused.error().line();
  }
  // Commas that part columns, with further ones: there are points in the numbers.
  const auto plain = of("100,1.5,20\n1000,-3,25\n");
  ASSERT_TRUE(plain);
  EXPECT_EQ((*plain)[1].decibels, -3);
}

TEST(DesignFile, KeepsFieldsItDoesNotKnow) {
  auto json = units::Json::parse(text("slipway"));
  json["workshop"] = {{"shelf", 3}};
  json["line"][1]["glued"] = true;
  json["line"][1]["parts"]["Ra"]["maker"] = "local";
  json["log"] = units::Json::parse(R"([{"number":1,"date":"2026-01-01","reason":"r","changes":[],"mood":"good"}])");
  json["sheets"] = units::Json::parse(R"([{"name":"s","colour":"blue"}])");
  const auto loaded = readDesignText(json.dump(), "x", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  const auto written = units::Json::parse(writeDesignText(loaded->document, library()));
  EXPECT_EQ(written["workshop"]["shelf"], 3);
  EXPECT_EQ(written["line"][1]["glued"], true);
  EXPECT_EQ(written["line"][1]["parts"]["Ra"]["maker"], "local");
  EXPECT_EQ(written["log"][0]["mood"], "good");
  EXPECT_EQ(written["sheets"][0]["colour"], "blue");
}

TEST(DesignFile, ReadsUnitsInEveryNumericField) {
  auto json = units::Json::parse(text("slipway"));
  auto& transformer = json["supply"][0]["parts"]["T"];
  transformer["htVolts"] = "300V";
  transformer["heaterAmps"] = "3A";
  transformer["primaryOhms"] = "12 ohm";
  json["supply"][1]["parts"]["C"]["ratedVolts"] = "0.5kV";
  json["supply"][2]["parts"]["L"]["ohms"] = "210R";
  json["knobs"]["Volume"] = "0.6";
  json["sheets"] = units::Json::parse(
      R"([{"name":"s","changes":[{"part":"C2","field":"value","from":"22u","to":"330n"},
                                 {"part":"T2","field":"htVolts","from":"300V","to":340}]}])");
  const auto loaded = readDesignText(json.dump(), "x", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  const auto plain = sample("slipway");
  EXPECT_EQ(loaded->document.ink, plain.ink);
  EXPECT_EQ(loaded->document.sheets[0].marks,
            (std::vector<amp::Mark>{{{amp::SetField{"C2", "value", 22e-6, 330e-9}}},
                                    {{amp::SetField{"T2", "htVolts", 300.0, 340.0}}}}));
  // The wrong unit is told with its place.
  json["supply"][0]["parts"]["T"]["heaterAmps"] = "3V";
  const auto wrong = readDesignText(json.dump(), "x", library());
  ASSERT_FALSE(wrong);
  EXPECT_EQ(wrong.error().place, "x/supply/0/parts/T/heaterAmps");
}

TEST(DesignFile, KeepsUnknownFieldsOfChanges) {
  auto json = units::Json::parse(text("slipway"));
  json["log"][0]["changes"][0]["heard"] = "brighter";
  json["sheets"] = units::Json::parse(
      R"([{"name":"s","changes":[{"part":"C2","field":"value","from":2.2e-5,"to":3.3e-7,"hunch":true}]}])");
  auto loaded = readDesignText(json.dump(), "x", library());
  ASSERT_TRUE(loaded) << loaded.error().line();
  // Turning the marked value further keeps what stands beside it.
  amp::pencil(loaded->document, library(), "C2", "value", 470e-9);
  const auto written = units::Json::parse(writeDesignText(loaded->document, library()));
  EXPECT_EQ(written["log"][0]["marks"][0][0]["heard"], "brighter");
  EXPECT_EQ(written["sheets"][0]["marks"][0][0]["hunch"], true);
  EXPECT_EQ(written["sheets"][0]["marks"][0][0]["to"], 470e-9);
}

/// Version 1 had single sections beside the line, joined by their ports from either side, in any order.
TEST(DesignFile, LanesOfVersion1BecomeChains) {
  const auto design = [](const std::string& beside) {
    return R"({"format":"vinegar-design","version":1,"name":"old","line":[{"id":"in","section":"line-input"},
      {"id":"first","section":"triode-common-cathode","joins":{"rail":"A"}},
      {"id":"mix","section":"mix-two")" +
           beside + R"(,
      {"id":"power","section":"single-ended-pentode","joins":{"plates":"A","screens":"A"}},
      {"id":"box","section":"speaker-load"}],"supply":[{"id":"bench","section":"supply-fixed-reservoir","node":"A"}]})";
  };
  const auto lanes = R"(},{"id":"power2","section":"volume"}],"lanes":[
      {"id":"drive","section":"reverb-driver","joins":{"in":"first.out","rail":"A"}},
      {"id":"loop","section":"feedback-to-cathode","joins":{"from":"power.out","to":"first.cathodeFoot"}},
      {"id":"tank","section":"spring-tank","joins":{"in":"drive.out"}},
      {"id":"level","section":"volume","joins":{"in":"tank.out")";
  for (const bool fromTheOtherSide : {false, true}) {
    auto text = design(fromTheOtherSide ? R"(,"joins":{"second":"level.out"}})" : "}");
    const auto end = text.rfind(R"(],"supply")");
    std::string beside = lanes + std::string(fromTheOtherSide ? "}}" : R"(,"out":"mix.second"}})");
    beside.erase(0, beside.find(R"(],"lanes")"));
    text.insert(end, beside);
    const auto loaded = readDesignText(text, "old", library());
    ASSERT_TRUE(loaded) << loaded.error().line();
    const auto& ink = loaded->document.ink;
    ASSERT_EQ(ink.sides.size(), 2U);
    EXPECT_EQ(ink.sides[0].id, "drive");
    EXPECT_EQ(ink.sides[0].from, "first.out");
    EXPECT_EQ(ink.sides[0].to, "mix.second");
    ASSERT_EQ(ink.sides[0].sections.size(), 3U);
    EXPECT_EQ(ink.sides[0].sections[2].id, "level");
    EXPECT_EQ(ink.sides[1].from, "power.out");
    EXPECT_EQ(ink.sides[1].to, "first.cathodeFoot");
    EXPECT_TRUE(amp::check(ink, library()).empty());
    const auto written = writeDesignText(loaded->document, library());
    EXPECT_EQ(units::Json::parse(written)["version"], 2);
    EXPECT_EQ(readDesignText(written, "new", library())->document, loaded->document);
  }
}

/// What can be opened can be saved and opened again.
TEST(DesignFile, ThatWouldOutgrowWhatIsReadIsRefusedAtOnce) {
  VINEGAR_LONG_TEST(numbers);
  std::string numbers = "1e14";
  for (int i = 0; i < 1'400'000; ++i)
    numbers += ",1e14"; // written as 100000000000000.0
  const auto small = R"({"format":"vinegar-design","version":1,"name":"x","line":[],"shelf":[)" + numbers + "]}";
  ASSERT_LT(small.size(), std::size_t{10} << 20U);
  const auto loaded = readDesignText(small, "x", library());
  ASSERT_FALSE(loaded);
  EXPECT_NE(loaded.error().message.find("would grow past"), std::string::npos);
  // Pretty as long as that is small, else dense.
  auto document = sample("slipway");
  for (int i = 0; i < 40000; ++i)
    document.log.push_back(
        {i + 4, "2026-01-01", std::string(100, 'r'), {{{amp::SetField{"C2", "value", 1e-6, 2e-6}}}}, {}});
  const auto text = writeDesignText(document, library());
  EXPECT_LT(text.size(), units::largestFile);
  const auto again = readDesignText(text, "x", library());
  ASSERT_TRUE(again) << again.error().line();
  EXPECT_EQ(again->document, document);
}

/// A reader that was given up must not look into a library that may by then be changed.
TEST(DesignFile, TheLibraryIsReadOnlyWhileItIsHeld) {
  const std::string path = testing_support::samplePath("net-loft");
  std::mutex held;
  int asked = 0;
  const auto read = readDesign(path, library(), [&] {
    ++asked;
    return std::unique_lock(held);
  });
  ASSERT_TRUE(read) << read.error().line();
  EXPECT_EQ(asked, 1);
  EXPECT_TRUE(held.try_lock()) << "left held";
  held.unlock();
  const auto givenUp = readDesign(path, library(), [&] { return std::unique_lock(held, std::defer_lock); });
  ASSERT_FALSE(givenUp);
  EXPECT_TRUE(givenUp.error().cancelled);
  const auto missing = readDesign("/nowhere.vinegar", library(), [&] {
    ++asked;
    return std::unique_lock(held);
  });
  EXPECT_FALSE(missing);
  EXPECT_EQ(asked, 1) << "held while a disk is waited for";
}

TEST(DesignFile, FollowsItsSchema) {
  const testing_support::Schema schema(testing_support::folder("docs") + "/design.schema.json");
  for (const char* name : {"slipway", "net-loft", "harbour-office", "chandlery"}) {
    EXPECT_TRUE(schema.accepts(text(name))) << name;
    auto document = sample(name);
    amp::pencil(document, library(), "C2", "value", 1e-7);
    amp::ink(document, library(), "why", "2026-11-23T20:00:00+01:00");
    amp::pencil(document, library(), "C2", "fitted", false);
    EXPECT_TRUE(schema.accepts(writeDesignText(document, library()))) << name;
  }
  EXPECT_FALSE(schema.accepts(R"({"format":"vinegar-design","version":1,"name":"x"})"));
  EXPECT_FALSE(schema.accepts(R"({"format":"other","version":1,"name":"x","line":[]})"));
}

struct Bad {
  const char* what;
  std::string content;
  const char* place; ///< must stand in the message's line
};

TEST(DesignFile, BadFilesGiveOneLineThatNamesThePlace) {
  const std::string good = text("slipway");
  const auto with = [&](const std::string& from, const std::string& to) {
    auto changed = good;
    const auto at = changed.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return changed.replace(at, from.size(), to);
  };
  const Bad cases[] = {
      {"empty", "", "f:1:1"},
      {"truncated", good.substr(0, good.size() / 2), "cut short"},
      {"not JSON", "{\n \"format\": vinegar\n}", "f:2:12"},
      {"deeply nested", std::string(100000, '[') + std::string(100000, ']'), "64 levels"},
      {"huge", std::string((32U << 20U) + 1, ' '), "32 MB"},
      {"beyond range", "{\n \"format\": \"vinegar-design\",\n \"version\": 1e999}", "f:3:13: this number is beyond"},
      {"twice", R"({"format":"vinegar-design","format":"vinegar-design"})", "\"format\" stands twice"},
      {"another format", R"({"format":"recipe"})", "not a Vinegar design"},
      {"no format", "[]", "not a Vinegar design"},
      {"version text", with("\"version\": 1", "\"version\": \"one\""), "f/version"},
      {"version zero", with("\"version\": 1", "\"version\": 0"), "f/version"},
      {"line is no list", with("\"line\": [", "\"line\": 5, \"was\": ["), "f/line"},
      {"wrong-typed section", with("\"section\": \"volume\"", "\"section\": 7"), "f/line/3/section"},
      {"wrong unit", with("\"value\": \"120k\"", "\"value\": \"120nF\""), "f/line/1/parts/Ra/value"},
      {"not a value", with("\"value\": \"120k\"", "\"value\": \"1..2\""), "f/line/1/parts/Ra/value"},
      {"number out of range", with("\"value\": \"120k\"", "\"value\": 1e999"), "f:"},
      {"knob as text", with("\"Volume\": 0.6", "\"Volume\": \"six\""), "f/knobs/Volume"},
      {"sheet out of range", with("\"knobs\"", "\"activeSheet\": 5, \"knobs\""), "f/activeSheet"},
      {"log runs backwards",
       with("\"log\": [",
            "\"was\": [], \"log\": "
            "[{\"number\":2,\"date\":\"\",\"reason\":\"\"},{\"number\":1,\"date\":\"\",\"reason\":\"\"},"),
       "f/log/1/number"},
      {"invalid UTF-8", with("Slipway", "Slip\xff\xfeway"), "f:"}};
  for (const auto& [what, content, place] : cases) {
    const auto loaded = readDesignText(content, "f", library());
    ASSERT_FALSE(loaded) << what;
    const auto line = loaded.error().line();
    EXPECT_NE(line.find(place), std::string::npos) << what << ": " << line;
    EXPECT_EQ(line.find('\n'), std::string::npos) << what;
  }
}

TEST(DesignFile, MutatedFilesNeverCrash) {
  auto document = readDesignText(text("net-loft"), "net-loft", library())->document;
  document.targets["wanted"] = {"jack", "speaker",          {{100, -3}, {1000, 2}}, {"C2"},
                                true,   units::Series::e12, {{"C2", {1e-6}}}};
  document.bands = {{"growl", 80, 240}, {"voice", 500, 1500}};
  document.sound = amp::MeasuredSound{"twelve", {{50, -12}, {100, -1.5}, {5000, 3}}};
  const std::string good = writeDesignText(document, library());
  std::mt19937 random(5);
  int loaded = 0;
  for (int i = 0; i < testing_support::trials(1500); ++i) {
    auto mutated = good;
    for (int edits = 1 + static_cast<int>(random() % 2); edits > 0; --edits) {
      const auto at = random() % mutated.size();
      const auto from = random() % good.size(), length = random() % 30;
      switch (random() % 4) {
      case 0:
        mutated[at] = static_cast<char>(random() % 256);
        break;
      case 1:
        mutated[at] = good[from]; // often still a file
        break;
      case 2:
        mutated.erase(at, length);
        break;
      default:
        mutated.insert(at, good.substr(from, length));
      }
    }
    const auto design = readDesignText(mutated, "m", library());
    if (!design) continue;
    ++loaded;
    if (const auto circuit = amp::compile(design->document.ink, library())) predict::predictOperatingPoint(*circuit);
  }
  EXPECT_GE(loaded, testing_support::trials(20)); // else nothing behind the reader was reached
}

TEST(DesignFile, ANewerVersionOpensReadOnlyWithAMessage) {
  auto newer = text("slipway");
  newer.replace(newer.find("\"version\": 1"), 12, "\"version\": 7");
  const auto loaded = readDesignText(newer, "x", library());
  ASSERT_TRUE(loaded);
  EXPECT_TRUE(loaded->readOnly);
  EXPECT_NE(loaded->note.find("newer"), std::string::npos);
}

TEST(Save, ReplacesWholeOrNotAtAll) {
  const TemporaryFolder folder;
  const auto path = folder.path / "a.vinegar";
  ASSERT_FALSE(saveAtomically(path, "one"));
  chmod(path.c_str(), 0600);
  ASSERT_FALSE(saveAtomically(path, "two"));
  EXPECT_EQ(*units::readFile(path), "two");
  EXPECT_EQ(std::filesystem::status(path).permissions(), std::filesystem::perms(0600));
  const auto link = folder.path / "link.vinegar";
  std::filesystem::create_symlink(path, link);
  ASSERT_FALSE(saveAtomically(link, "three"));
  EXPECT_TRUE(std::filesystem::is_symlink(link));
  EXPECT_EQ(*units::readFile(path), "three");
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path), {}), 2);
  const auto nowhere = saveAtomically(folder.path / "no" / "such" / "folder" / "x", "text");
  ASSERT_TRUE(nowhere);
  EXPECT_NE(nowhere->message.find("folder does not exist"), std::string::npos);
}

TEST(Save, AFullDiskKeepsTheOldFileAndSaysSo) {
  // /dev/full accepts opening and refuses every write, but a temporary file cannot stand beside it; a size limit on
  // this process does the same to a real folder.
  const TemporaryFolder folder;
  const auto path = folder.path / "a.vinegar";
  ASSERT_FALSE(saveAtomically(path, "precious"));
  const auto saveUnderLimit = [&] {
    signal(SIGXFSZ, SIG_IGN);
    const rlimit limit = {16, 16};
    setrlimit(RLIMIT_FSIZE, &limit);
    const auto problem = saveAtomically(path, std::string(100000, 'x'));
    exit(problem && problem->message.find("as it was") != std::string::npos ? 7 : 1);
  };
  EXPECT_EXIT(saveUnderLimit(), testing::ExitedWithCode(7), "");
  EXPECT_EQ(*units::readFile(path), "precious");
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path), {}), 1);
}

TEST(Netlist, FeedsAnIndependentSolver) {
  // A nodal solver of its own, fed by nothing but the printed JSON: linear elements and the tubes' printed slopes give
  // the response that the engine predicts.
  const auto solved = testing_support::solve(sample("net-loft").ink);
  const auto json = netlistJson(solved.circuit, solved.point.system->netlist());
  std::map<std::string, int> rows;
  const auto row = [&](const units::Json& name) {
    const auto text = name.get<std::string>();
    return text == "0" ? -1 : rows.try_emplace(text, static_cast<int>(rows.size())).first->second;
  };
  for (const auto& e : json["elements"])
    for (const auto& node : e["nodes"])
      row(node);
  using Complex = std::complex<double>;
  const std::map<std::string, double> dc(solved.point.nodes.begin(), solved.point.nodes.end());
  const auto volts = [&](const units::Json& name) { return name == "0" ? 0.0 : dc.at(name.get<std::string>()); };
  const auto hertz = std::vector<double>{20.0, 82.4, 1000.0, 7000.0, 20000.0};
  const auto response = predict::responseOf(solved.circuit, solved.point, {"jack", "speaker", hertz});
  ASSERT_TRUE(response);
  for (std::size_t k = 0; k < hertz.size(); ++k) {
    const Complex s(0, 2 * M_PI * hertz[k]);
    int size = static_cast<int>(rows.size());
    for (const auto& e : json["elements"])
      if (e["kind"] == "vsource" || e["kind"] == "inductor")
        ++size;
      else if (e["kind"] == "transformer")
        size += static_cast<int>(e["R"].size());
    Eigen::MatrixXcd Y = Eigen::MatrixXcd::Zero(size, size);
    Eigen::VectorXcd I = Eigen::VectorXcd::Zero(size);
    const auto put = [&](int r, int c, Complex value) {
      if (r >= 0 && c >= 0) Y(r, c) += value;
    };
    const auto admittance = [&](int a, int b, Complex y) { put(a, a, y), put(b, b, y), put(a, b, -y), put(b, a, -y); };
    const auto transconductance = [&](int out, int back, int plus, int minus, double g) {
      put(out, plus, g), put(out, minus, -g), put(back, plus, -g), put(back, minus, g);
    };
    int extra = static_cast<int>(rows.size());
    for (const auto& e : json["elements"]) {
      const auto kind = e["kind"].get<std::string>();
      std::vector<int> n;
      for (const auto& node : e["nodes"])
        n.push_back(row(node));
      const auto branch = [&](int plus, int minus) {
        put(plus, extra, 1), put(minus, extra, -1), put(extra, plus, 1), put(extra, minus, -1);
      };
      if (kind == "resistor")
        admittance(n[0], n[1], 1 / e["value"].get<double>());
      else if (kind == "switch")
        admittance(n[0], n[1], e["state"] == "closed" ? 100.0 : 1e-12);
      else if (kind == "isource") // no signal of its own
        EXPECT_EQ(e["ac"], 0.0);
      else if (kind == "capacitor")
        admittance(n[0], n[1], s * e["value"].get<double>());
      else if (kind == "vsource") {
        branch(n[0], n[1]);
        I(extra++) = e["ac"].get<double>();
      } else if (kind == "inductor") {
        branch(n[0], n[1]);
        Y(extra, extra) = -(s * e["value"].get<double>() + e["rs"].get<double>());
        ++extra;
      } else if (kind == "transformer") {
        const int windings = static_cast<int>(e["R"].size());
        const int first = extra;
        for (int w = 0; w < windings; ++w, ++extra) {
          branch(n[2 * w], n[2 * w + 1]);
          Y(extra, extra) -= e["R"][w].get<double>();
          for (int u = 0; u < windings; ++u)
            Y(extra, first + u) -= s * e["L"][w][u].get<double>();
        }
      } else { // a tube: slopes by differences of the documented law with the printed parameters
        const double h = 1e-4;
        const auto p = [&](const char* name) { return e[name].get<double>(); };
        const tubes::GridCurrentModel gridLaw{p("GF"), p("VG0"), p("WG")};
        const int cathode = n.back(), grid = n[n.size() - 2];
        const double vk = volts(e["nodes"].back()), vp = volts(e["nodes"][0]) - vk,
                     vg = volts(e["nodes"][n.size() - 2]) - vk;
        const auto slope = [&](auto current) { return (current(h) - current(-h)) / (2 * h); };
        transconductance(grid, cathode, grid, cathode,
                         slope([&](double d) { return tubes::gridCurrent(gridLaw, p("K"), vg + d).grid; }));
        if (kind == "triode") {
          const tubes::TriodeModel m{p("K"),  p("MU"),  p("X"), p("VCT"), p("KP"),
                                     p("W0"), p("LAM"), p("N"), p("VK0"), p("VC0")};
          transconductance(n[0], cathode, n[0], cathode,
                           slope([&](double d) { return tubes::triodeCurrent(m, vp + d, vg).plate; }));
          transconductance(n[0], cathode, grid, cathode,
                           slope([&](double d) { return tubes::triodeCurrent(m, vp, vg + d).plate; }));
        } else {
          ASSERT_EQ(kind, "pentode");
          const tubes::PentodeModel m{p("K"), p("MU"), p("X"),   p("VCT"), p("KP"),  p("MUP"), p("S"),
                                      p("M"), p("W0"), p("LAM"), p("N"),   p("VK0"), p("VC0")};
          const double vs = volts(e["nodes"][1]) - vk;
          for (const auto& [out, current] :
               {std::pair{n[0], &tubes::PentodeCurrent::plate}, {n[1], &tubes::PentodeCurrent::screen}}) {
            const auto pick = current;
            transconductance(out, cathode, n[0], cathode,
                             slope([&](double d) { return tubes::pentodeCurrent(m, vp + d, vg, vs).*pick; }));
            transconductance(out, cathode, grid, cathode,
                             slope([&](double d) { return tubes::pentodeCurrent(m, vp, vg + d, vs).*pick; }));
            transconductance(out, cathode, n[1], cathode,
                             slope([&](double d) { return tubes::pentodeCurrent(m, vp, vg, vs + d).*pick; }));
          }
        }
      }
    }
    const Eigen::VectorXcd x = Y.partialPivLu().solve(I);
    const Complex ratio = x(row(json["probes"]["speaker"])) / x(row(json["probes"]["jack"]));
    EXPECT_NEAR(20 * std::log10(std::abs(ratio)), response->decibels[k], 0.01) << hertz[k];
    EXPECT_LT(std::abs(std::remainder(std::arg(ratio) * 180 / M_PI - response->degrees[k], 360)), 0.1) << hertz[k];
  }
}

TEST(Csv, WhatIsNamedLikeAFormulaStaysAName) {
  for (const auto& [cell, written] : {std::pair{"=HYPERLINK(\"x\")", "\"'=HYPERLINK(\"\"x\"\")\""},
                                      {"@sum", "'@sum"},
                                      {"+cmd", "'+cmd"},
                                      {"-", "-"},
                                      {"-1.8 V", "-1.8 V"},
                                      {"+1.38 V, grid current", "\"+1.38 V, grid current\""},
                                      {"R3", "R3"}})
    EXPECT_EQ(units::csvCell(cell), written);
}

TEST(Csv, HasOneRowPerFrequencyAndNamesItsColumns) {
  predict::Response r{{10, 100}, {1, 2}, {0, -90}};
  EXPECT_EQ(responsesCsv({{"", r}}), "frequency_hz,magnitude_db,phase_deg\n10,1,0\n100,2,-90\n");
  EXPECT_EQ(responsesCsv({{"ink", r}, {"pencil", r}}).substr(0, 75),
            "frequency_hz,ink_magnitude_db,ink_phase_deg,pencil_magnitude_db,pencil_phas");
}

TEST(DesignFile, TargetsBandsAndTheSpeakersSoundAreKept) {
  auto document = testing_support::sample("slipway");
  document.targets["less mud"] = {"V1a plate", "speaker",          {{100, -3}, {1000, 0.5}}, {"C5", "R5"},
                                  true,        units::Series::e12, {{"R5", {68e3, 82e3}}}};
  document.targets["as the other one"] = {"jack", "speaker", {{60, 1}, {8000, 2}}, {}, false, std::nullopt, {}};
  document.bands = {{"growl", 80, 240}, {"voice", 500, 1500}};
  document.sound = amp::MeasuredSound{"the old twelve", {{50, -12}, {100, -1.5}, {5000, 3}}};
  const auto text = writeDesignText(document, testing_support::library());
  const auto again = readDesignText(text, "read", testing_support::library());
  ASSERT_TRUE(again) << again.error().line();
  EXPECT_EQ(again->document, document);
  EXPECT_TRUE(testing_support::Schema(testing_support::folder("docs") + "/design.schema.json").accepts(text));
  // What a later version put beside them stays.
  auto later = text;
  for (const auto& [at, more] : {std::pair{"\"E12\"", R"(, "weight": [1, 2])"},
                                 {"\"low\": 80.0", R"(, "colour": "amber")"},
                                 {"\"name\": \"the old twelve\"", R"(, "metres": 0.5)"}}) {
    const auto place = later.find(at);
    ASSERT_NE(place, std::string::npos) << at;
    later.insert(place + std::string(at).size(), more);
  }
  const auto read = readDesignText(later, "read", testing_support::library());
  ASSERT_TRUE(read) << read.error().line();
  const auto written = units::Json::parse(writeDesignText(read->document, testing_support::library()));
  EXPECT_EQ(written["targets"]["less mud"]["weight"], units::Json::parse("[1, 2]"));
  EXPECT_EQ(written["bands"][0]["colour"], "amber");
  EXPECT_EQ(written["sound"]["metres"], 0.5);
  const std::tuple<const char*, const char*, const char*> spoiled[] = {
      {"\"E12\"", "\"E13\"", "targets/less mud/series"},
      {"\"low\": 80", "\"low\": 380", "bands/0"},
      {"\"growl\"", "7", "bands/0/name"},
      {"-12.0", "\"loud\"", "sound/points/0"},
      {"\"points\": [", "\"points\": [[40, 1]], \"more\": [", "sound"}};
  for (const auto& [from, to, place] : spoiled) {
    auto bad = text;
    ASSERT_NE(bad.find(from), std::string::npos) << from;
    bad.replace(bad.find(from), std::string(from).size(), to);
    const auto refused = readDesignText(bad, "read", testing_support::library());
    ASSERT_FALSE(refused) << to;
    EXPECT_NE(refused.error().place.find(place), std::string::npos) << refused.error().line();
  }
}

TEST(DesignFile, CurvesAreReadAsMeasuringProgramsWriteThem) {
  const auto read =
      parseColumns("* measured in the shed\nFreq SPL Phase\n20 70.5 -12\n1e3\t92 3\n10k;81;0\r\n", "x.frd", "level");
  ASSERT_TRUE(read) << read.error().line();
  EXPECT_EQ(*read, (std::vector<amp::CurvePoint>{{20, 70.5}, {1000, 92}, {10000, 81}}));
  const auto falling = parseColumns("\"Hz\",\"ohms\"\n1000,8\n100,7\n", "x.zma", "impedance");
  ASSERT_TRUE(falling) << falling.error().line();
  EXPECT_EQ(falling->front().hertz, 100);
  for (const auto& [text, place] : {std::pair{"", "x"},
                                    {"20 1\n20 2\n", "x"},
                                    {"20 1\nhello 3\n", "x:2"},
                                    {"20 1\n30\n", "x:2"},
                                    {"20 1\n-5 2\n", "x:2"}}) {
    const auto refused = parseColumns(text, "x", "level");
    ASSERT_FALSE(refused) << text;
    EXPECT_EQ(refused.error().place, place) << text;
  }
}

TEST(DesignFile, WhatAMeterReadIsKeptAndNonsenseNamesItsPlace) {
  auto document = testing_support::sample("slipway");
  document.measured = {{"V1a", {{"plate", 163.5}, {"cathode", 1.41}}}, {"V3", {{"screen", 301}}}};
  const auto text = writeDesignText(document, testing_support::library());
  const auto again = readDesignText(text, "read", testing_support::library());
  ASSERT_TRUE(again) << again.error().line();
  EXPECT_EQ(again->document.measured, document.measured);
  auto bad = text;
  bad.replace(bad.find("163.5"), 5, "\"high\"");
  const auto refused = readDesignText(bad, "read", testing_support::library());
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().place.find("measured/V1a/plate"), std::string::npos) << refused.error().line();
}

} // namespace
} // namespace vinegar::files
