#include "cli/command.h"

#include "cli/output.h"
#include "files/data_folder.h"
#include "files/design_file.h"
#include "predict/stages/published_operation.h"
#include "tubes/fit/fit.h"
#include "tubes/published.h"
#include "units/json.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fmt/format.h>
#include <map>

namespace vinegar::cli {
namespace {

using units::Json;

std::filesystem::path tubeFolder() { return files::dataFolder() / "tubes"; }

double size(const tubes::Deviation& d) { return std::max(1 + d.error, 1 / (1 + d.error)) - 1; }

double quantile(std::vector<double> values, double share) {
  if (values.empty()) return 0;
  std::sort(values.begin(), values.end());
  return values[static_cast<std::size_t>(std::lround(share * static_cast<double>(values.size() - 1)))];
}

std::string place(const tubes::PublishedPoint& point) {
  return fmt::format("{:g} V, grid {:g} V{}", point.plateVolts, point.gridVolts,
                     point.triodeConnected ? ", as a triode" : "");
}

Json parametersOf(const tubes::TriodeModel& m) {
  return {{"K", m.K},   {"MU", m.MU},   {"X", m.X}, {"VCT", m.VCT}, {"KP", m.KP},
          {"W0", m.W0}, {"LAM", m.LAM}, {"N", m.N}, {"VK0", m.VK0}, {"VC0", m.VC0}};
}
Json parametersOf(const tubes::PentodeModel& m) {
  return {{"K", m.K}, {"MU", m.MU}, {"X", m.X},     {"VCT", m.VCT}, {"KP", m.KP},   {"MUP", m.MUP}, {"S", m.S},
          {"M", m.M}, {"W0", m.W0}, {"LAM", m.LAM}, {"N", m.N},     {"VK0", m.VK0}, {"VC0", m.VC0}};
}

int fail(const Problem& problem) { return cli::complain(problem, badDesign); }

/// How far the engine is from every published operation; the table that `--check` closes with.
void printOperations(const tubes::Catalogue& catalogue) {
  fmt::print("\nPublished operations, published / engine at the stated "
             "bias:\n{:<15}{:>6}{:>9}{:>16}{:>15}{:>15}{:>15}{:>15}\n",
             "tube", "volts", "load", "power W", "distortion %", "plate idle mA", "plate full mA", "screen full mA");
  std::map<std::string, std::vector<double>> errors;
  const auto cell = [&](const char* what, std::optional<double> published, double engine, double scale, bool ratio) {
    if (!published) return fmt::format("- / {:.1f}", engine * scale);
    errors[what].push_back(ratio ? std::abs(engine / *published - 1) * 100 : std::abs(engine - *published) * scale);
    return fmt::format("{:.1f} / {:.1f}", *published * scale, engine * scale);
  };
  for (const auto& [name, type] : catalogue.types())
    for (const auto& o : type.operations) {
      const auto load = fmt::format("{}{:g}k", o.tubes > 1 ? "pp " : "", o.loadOhms / 1000);
      const auto engine = predict::reproduceOperation(type, o);
      if (!engine) {
        fmt::print("{:<15}{:>6g}{:>9}  {}\n", name, o.plateVolts, load, engine.error().line());
        continue;
      }
      fmt::print("{:<15}{:>6g}{:>9}{:>16}{:>15}{:>15}{:>15}{:>15}\n", name, o.plateVolts, load,
                 cell("power, %", o.watts, engine->watts, 1, true),
                 cell("distortion, points", o.distortion, engine->distortion, 100, false),
                 cell("plate current idle, %", o.idleAmps, engine->idleAmps, 1000, true),
                 cell("plate current full, %", o.fullAmps, engine->fullAmps, 1000, true),
                 o.screenVolts ? cell("screen current full, %", o.fullScreenAmps, engine->fullScreenAmps, 1000, true)
                               : "");
    }
  fmt::print("\n{:<26}{:>7}{:>9}{:>9}{:>9}\n", "distance", "points", "median", "90 %", "largest");
  for (const auto& [what, list] : errors)
    fmt::print("{:<26}{:>7}{:>9.1f}{:>9.1f}{:>9.1f}\n", what, list.size(), quantile(list, 0.5), quantile(list, 0.9),
               quantile(list, 1));
}

} // namespace

static int printTubes(bool check, const std::string& format) {
  const auto catalogue = tubes::Catalogue::load(tubeFolder());
  if (!catalogue) return fail(catalogue.error());
  if (!check && format == "json") {
    Json list = Json::array();
    for (const auto& [name, type] : catalogue->types())
      list.push_back({{"type", name}, {"family", type.family}, {"published_points", type.published.size()}});
    fmt::print("{}\n", list.dump(1));
    return 0;
  }
  if (!check) {
    for (const auto& [name, type] : catalogue->types())
      fmt::print("{:<16}{:<9}{} published point{}\n", name, type.family, type.published.size(),
                 type.published.size() == 1 ? "" : "s");
    return 0;
  }
  std::map<std::string, std::vector<double>> all;
  std::vector<std::string> excused, over;
  Json rows = Json::array();
  for (const auto& [name, type] : catalogue->types())
    for (const auto& d : tubes::compareWithPublished(type)) {
      const bool pentode = !type.isTriode() && !d.point.triodeConnected;
      all[(pentode ? "pentode " : "triode ") + d.quantity].push_back(size(d));
      rows.push_back({{"tube", name},
                      {"point", place(d.point)},
                      {"quantity", d.quantity},
                      {"published", d.published},
                      {"model", d.modelled},
                      {"error", d.error},
                      {"bar", d.bar},
                      {"exception", d.point.exception}});
      if (!d.over()) continue;
      const auto line = fmt::format("{} at {}: {} off by {:+.1f} %", name, place(d.point), d.quantity, 100 * d.error);
      if (d.point.exception.empty())
        over.push_back(line);
      else
        excused.push_back(line + ": " + d.point.exception);
    }
  if (format == "json") {
    fmt::print("{}\n", rows.dump(1));
    return over.empty() ? 0 : 1;
  }
  fmt::print("{:<18}{:>7}{:>9}{:>9}{:>9}\n", "quantity", "points", "median", "90 %", "largest");
  for (const auto& [quantity, errors] : all)
    fmt::print("{:<18}{:>7}{:>7.1f} %{:>7.1f} %{:>7.1f} %\n", quantity, errors.size(), 100 * quantile(errors, 0.5),
               100 * quantile(errors, 0.9), 100 * quantile(errors, 1));
  for (const auto& [title, lines] :
       {std::pair{"Over their bar, with a known reason", excused}, {"Over their bar", over}})
    if (!lines.empty()) {
      fmt::print("\n{}:\n", title);
      for (const auto& line : lines)
        fmt::print("  {}\n", line);
    }
  printOperations(*catalogue);
  return over.empty() ? 0 : 1;
}

static int fitTubes(const std::vector<std::string>& named) {
  std::vector<std::filesystem::path> paths(named.begin(), named.end());
  if (paths.empty()) {
    for (const auto& entry : std::filesystem::directory_iterator(tubeFolder()))
      if (entry.path().extension() == ".json") paths.push_back(entry.path());
    std::sort(paths.begin(), paths.end());
  }
  for (const auto& path : paths) {
    const auto type = tubes::readTubeFile(path, false);
    if (!type) return fail(type.error());
    if (type->isRectifier()) continue; // its law is its published drop
    const auto model = tubes::fitModel(*type);
    if (!model) return fail({path.string(), model.error().message});
    auto json = *units::parseJson(*units::readFile(path), path.string());
    const bool triode = std::holds_alternative<tubes::TriodeModel>(*model);
    auto& target = json["model"];
    target["equation"] = triode ? "space-charge-triode" : "space-charge-pentode";
    target["parameters"] = triode ? parametersOf(std::get<tubes::TriodeModel>(*model))
                                  : parametersOf(std::get<tubes::PentodeModel>(*model));
    if (!target.contains("grid_current")) {
      const double share =
          triode ? (type->limits.plateWatts.value_or(1) > 8 ? 0.10 : 0.06) : (type->family == "beam" ? 0.25 : 0.12);
      target["grid_current"] = {{"GF", share}, {"VG0", 0.5}, {"WG", 0.12}};
    }
    if (const auto problem = files::saveAtomically(path, json.dump(1) + "\n")) return fail(*problem);
    fmt::print("{} fitted\n", type->name);
  }
  return 0;
}

namespace {
struct TubesAsked {
  bool check = false;
  std::vector<std::string> files;
};
const Registered catalogue{{"Tubes", "tubes", "the tube catalogue", [](CLI::App& options) -> Alone {
                              auto asked = std::make_shared<TubesAsked>();
                              options.add_flag("--check", asked->check, "compare the models with the published points");
                              auto* fit = options
                                              .add_option("--fit", asked->files,
                                                          "fit the models of these files, or of the whole catalogue")
                                              ->expected(0, 1000);
                              return [asked, fit](const Call& call) {
                                if (fit->count() == 0) return printTubes(asked->check, call.format);
                                std::erase(asked->files, std::string{});
                                return fitTubes(asked->files);
                              };
                            }}};
} // namespace

} // namespace vinegar::cli
