// Nothing comes from a supply that is switched off, and its rails do not go under.
#include "files/design_file.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/samples.h"
#include "tubes/model.h"

#include <filesystem>
#include <gtest/gtest.h>

namespace vinegar::predict {
namespace {

using testing_support::library;

amp::Design switchedOff(amp::Design design, int& switches) {
  for (const auto& part : amp::resolveParts(design, library()))
    if (part.part->role == "power-switch" && part.fitted()) {
      design.knobs[part.knob] = 2;
      ++switches;
    }
  return design;
}

void expectDead(const amp::Design& design, const Warmth& before) {
  auto warmth = before;
  const auto idle = predictIdle(design, library(), &warmth);
  ASSERT_TRUE(idle) << design.name << ": " << idle.error().line();
  for (const auto& rail : idle->circuit->rails) {
    // Hot cathodes' electrons bring some tenths of a volt over by themselves: a vacuum rectifier's upward, those of a
    // grid that stands on a plate downward, where silicon lets nothing make up for it.
    EXPECT_GT(idle->point.volts(rail.node), -0.6) << design.name << " " << rail.name;
    EXPECT_LT(idle->point.volts(rail.node), 0.6) << design.name << " " << rail.name;
  }
}

TEST(SwitchedOff, RailsAreAtNothingInEveryAmplifier) {
  std::vector<std::filesystem::path> files;
  for (const char* folder : {"data/samples", "data/skeletons"})
    for (const auto& entry : std::filesystem::directory_iterator(testing_support::folder(folder)))
      if (entry.path().extension() == ".vinegar") files.push_back(entry.path());
  int asked = 0;
  for (const auto& file : files) {
    const auto loaded = files::readDesign(file, library());
    ASSERT_TRUE(loaded) << file;
    int switches = 0;
    const auto off = switchedOff(loaded->document.ink, switches);
    if (switches == 0) continue;
    ++asked;
    expectDead(off, {});
    // Just switched off, from the volts it had.
    Warmth warmth;
    ASSERT_TRUE(predictIdle(loaded->document.ink, library(), &warmth)) << file;
    expectDead(off, warmth);
  }
  EXPECT_GE(asked, 10);
}

/// Every way to make a supply, with every reservoir, off.
TEST(SwitchedOff, EverySupplySectionIsDead) {
  int asked = 0;
  for (const auto& [id, section] : library().sections) {
    if (section.deck != "supply" || section.part("Power") == nullptr) continue;
    auto design = testing_support::sample("slipway").ink;
    ASSERT_FALSE(design.supply.empty());
    auto mains = testing_support::use(design.supply.front().id, id);
    mains.node = design.supply.front().node;
    design.supply.front() = mains;
    for (auto* use : design.sections())
      for (auto& [port, target] : use->joins)
        if (target == "heaters") target = "ground";
    amp::nameParts(design, library());
    if (!amp::check(design, library()).empty()) continue;
    int switches = 0;
    design = switchedOff(std::move(design), switches);
    if (switches == 0) continue;
    ++asked;
    SCOPED_TRACE(id);
    expectDead(design, {});
  }
  EXPECT_GE(asked, 3);
}

/// However soft its law's cut-off, a screen that is not positive draws nothing, and one that is draws what it did.
TEST(SwitchedOff, AScreenUnderTheCathodeDrawsNothing) {
  int asked = 0;
  for (const auto& [name, type] : library().tubes.types()) {
    const auto* model = std::get_if<tubes::PentodeModel>(&type.model);
    if (!model) continue;
    ++asked;
    for (const double screen : {0.0, -1.0, -300.0})
      for (const double plate : {-10.0, 0.0, 5.0}) {
        const auto current = tubes::pentodeCurrent(*model, plate, 0, screen);
        EXPECT_EQ(current.screen, 0) << name << " " << screen << " " << plate;
        EXPECT_EQ(current.screenByGrid, 0) << name;
      }
    const auto current = tubes::pentodeCurrent(*model, 250, -5, 200);
    EXPECT_GT(current.screen, 0) << name;
    EXPECT_GT(tubes::pentodeCurrent(*model, 250, -5, 201).screen, current.screen) << name;
  }
  EXPECT_GE(asked, 8);
}

} // namespace
} // namespace vinegar::predict
