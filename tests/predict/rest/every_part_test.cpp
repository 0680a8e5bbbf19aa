// Whatever a builder does to one part of a working amplifier, there is an answer, and it is the one that a plain dense
// solve gives. Every optional part fitted and unfitted, every value a step up and down and a thousandfold both ways,
// and every section of the library put into its place once.
#include "audit/supply_rules.h"
#include "circuit/noise.h"
#include "predict/overview/steps.h"
#include "predict/supply/supply.h"
#include "support/bench_design.h"
#include "support/samples.h"

#include <Eigen/Dense>
#include <cmath>
#include <gtest/gtest.h>
#include <numbers>

namespace vinegar::predict {
namespace {

using testing_support::library;
using testing_support::sample;
using testing_support::stride;

const std::vector<double>& hertz() {
  static const auto list = circuit::logSpaced(10, 100000, 6);
  return list;
}

/// The transposed equations by a dense solve: what a unit source in each equation does to one node.
Eigen::VectorXcd denseTransfer(const circuit::System& system, const Eigen::VectorXd& x, double f,
                               circuit::Node output) {
  Eigen::MatrixXcd matrix = Eigen::MatrixXcd::Zero(system.size(), system.size());
  for (const auto& entry : circuit::smallSignalEntries(system, x))
    matrix(entry.row, entry.column) += entry.at(2 * std::numbers::pi * f);
  Eigen::VectorXcd unit = Eigen::VectorXcd::Zero(system.size());
  unit[circuit::System::row(output)] = 1;
  return matrix.transpose().partialPivLu().solve(unit);
}

void expectNoiseOfDense(const circuit::System& system, const Eigen::VectorXd& x, circuit::Node output,
                        const std::string& what, const std::vector<double>& few) {
  const auto noise = circuit::solveNoise(system, x, few, output, 0, nullptr);
  ASSERT_TRUE(noise) << what << ": " << noise.error().line();
  for (std::size_t k = 0; k < few.size(); ++k) {
    const auto y = denseTransfer(system, x, few[k], output);
    double power = 0;
    for (const auto& source : noise->sources) {
      const auto at = [&](circuit::Node node) { return node == 0 ? 0.0 : y[circuit::System::row(node)]; };
      const auto transfer = source.branch >= 0 ? y[source.branch] : at(source.from) - at(source.to);
      power += std::norm(transfer) * source.density;
    }
    EXPECT_NEAR(noise->output[k] / power, 1, 1e-5) << what << " at " << few[k] << " Hz";
  }
}

/// Through op, response, noise, supply and findings. Nothing but a node without a DC path may keep it from an answer.
void expectAnswers(const amp::Design& design, const std::string& what, Warmth* warmth = nullptr, bool thorough = true) {
  const auto circuit = amp::compile(design, library());
  ASSERT_TRUE(circuit) << what << ": " << circuit.error().line();
  const auto point = predictOperatingPoint(*circuit, warmth);
  if (!point) {
    EXPECT_NE(point.error().message.find("no DC path"), std::string::npos) << what << ": " << point.error().line();
    return;
  }
  circuit::AcPlan plan = warmth ? warmth->plan->plan() : nullptr;
  const auto ac = circuit::solveAc(*point->system, point->dc.x, hertz(), &plan);
  if (warmth) warmth->plan->keep(plan);
  ASSERT_TRUE(ac) << what << ": " << ac.error().line();
  const auto dense = circuit::solveAcDense(*point->system, point->dc.x, hertz());
  for (std::size_t k = 0; k < hertz().size(); ++k) {
    const auto column = static_cast<Eigen::Index>(k);
    const double largest = dense.x.col(column).cwiseAbs().maxCoeff();
    for (const char* name : {"speaker", "jack"}) {
      const auto node = circuit->probe(name);
      if (node <= 0) continue;
      const auto ours = ac->volts(node, k), theirs = dense.volts(node, k);
      EXPECT_LT(std::abs(ours - theirs), 1e-6 * std::abs(theirs) + 1e-12 * largest)
          << what << ", " << name << " at " << hertz()[k] << " Hz";
    }
    EXPECT_LT((ac->x.col(column) - dense.x.col(column)).cwiseAbs().maxCoeff(), 1e-5 * largest)
        << what << " at " << hertz()[k] << " Hz";
  }
  if (const auto speaker = circuit->probe("speaker"); speaker > 0)
    expectNoiseOfDense(*point->system, point->dc.x, speaker, what,
                       thorough ? std::vector<double>{82.4, 1000, 8000} : std::vector<double>{1000});
  if (point->supply) {
    const auto report = readSupply(*circuit, library(), *point);
    for (const auto& rail : report.rails)
      EXPECT_TRUE(std::isfinite(rail.volts) && std::isfinite(rail.rippleVpp)) << what << ", rail " << rail.name;
  }
  if (!thorough) return;
  for (const auto& finding : audit::auditIdle(testing_support::atRest(design), library())) {
    EXPECT_FALSE(finding.what.empty() || finding.cure.empty()) << what;
    EXPECT_TRUE(finding.part.empty() || circuit->part(finding.part)) << what << ": a finding at " << finding.part;
  }
}

class EveryPart : public testing::TestWithParam<const char*> {};

TEST_P(EveryPart, FittedAndUnfittedHasAnAnswer) {
  const auto ink = sample(GetParam()).ink;
  int seen = 0;
  for (const auto& part : amp::resolveParts(ink, library())) {
    if (!part.part->optional || seen++ % stride() != 0) continue;
    const bool fitted = part.fitted();
    Warmth warmth; // as in the window: from the state before
    expectAnswers(ink, GetParam(), &warmth);
    expectAnswers(amp::withChanges(ink, library(), {{part.name, "fitted", fitted, !fitted}}),
                  std::string(GetParam()) + ", " + part.name + (fitted ? " left out" : " fitted"), &warmth);
  }
}

TEST_P(EveryPart, SteppedHasAnAnswer) {
  const auto ink = sample(GetParam()).ink;
  Warmth warmth;
  int seen = 0;
  for (const auto& part : amp::resolveParts(ink, library())) {
    if (!amp::hasValue(part.part->kind) || !part.fitted() || ++seen % stride() != 0) continue;
    for (const bool up : {true, false})
      if (const auto value = steppedValue(part, library(), up))
        expectAnswers(amp::withChanges(ink, library(), {{part.name, "value", part.value(), *value}}),
                      std::string(GetParam()) + ", " + part.name + " = " + std::to_string(*value), &warmth, false);
  }
}

/// Series resistors from a milliohm to a megohm, where fixed pivots were caught refusing a smooth answer.
TEST_P(EveryPart, FittedWithAnyValueHasAnAnswer) {
  const auto ink = sample(GetParam()).ink;
  int seen = 0;
  for (const auto& part : amp::resolveParts(ink, library())) {
    if (!part.part->optional || part.fitted() || part.part->kind != amp::PartKind::resistor) continue;
    if (seen++ % stride() != 0) continue;
    for (const double ohms : {0.01, 1.0, 10.0, 100.0, 1e3, 1e6})
      expectAnswers(amp::withChanges(ink, library(),
                                     {{part.name, "fitted", false, true}, {part.name, "value", part.value(), ohms}}),
                    std::string(GetParam()) + ", " + part.name + " fitted with " + std::to_string(ohms));
  }
}

INSTANTIATE_TEST_SUITE_P(Samples, EveryPart, testing::Values("slipway", "net-loft", "harbour-office", "chandlery"),
                         [](const auto& info) {
                           std::string name = info.param;
                           std::replace(name.begin(), name.end(), '-', '_');
                           return name;
                         });

amp::SectionUse useOf(const std::string& id, const std::string& section, const std::string& rail) {
  amp::SectionUse use{id, section, {}, {}, {}, {}};
  for (const auto& port : library().sections.at(section).railPorts)
    use.joins[port] = rail;
  return use;
}

/// The least amplifier in which a section has its place.
amp::Design skeletonAround(const std::string& id) {
  const auto& section = library().sections.at(id);
  if (section.port("filament") && section.deck == "supply-lane") { // of an output stage that has its filament outside
    auto design = testing_support::skeleton("2-triode-for-records").ink;
    for (auto& side : design.sides)
      for (auto& use : side.sections)
        if (library().sections.at(use.section).port("filament")) {
          use.section = id;
          use.parts.clear();
        }
    amp::nameParts(design, library());
    return design;
  }
  amp::Design design;
  design.name = id;
  design.supply = {{"mains", "supply-full-wave-bias", {}, {}, "K", {}},
                   {"reservoir", "supply-reservoir", {}, {}, "A", {}},
                   {"node", "supply-rc-node", {}, {}, "B", {}}};
  using amp::Carries;
  const auto add = [&](const std::string& name) {
    design.line.push_back(useOf(name + "-" + std::to_string(design.line.size()), name, "B"));
  };
  if (section.deck == "line") {
    if (section.in != Carries::nothing) add("line-input");
    if (section.in == Carries::balanced) add("cathodyne");
    if (section.in == Carries::speaker) add("single-ended-pentode");
    add(id);
  } else {
    add("line-input");
    add("triode-common-cathode");
    add("volume");
  }
  const auto carried = [&] { return library().sections.at(design.line.back().section).out; };
  if (carried() == Carries::single) {
    if (section.deck == "line") add("volume"); // a grid that hangs on the section's output has its leak there
    add("single-ended-pentode");
  }
  if (carried() == Carries::balanced) add("push-pull-pentode");
  if (carried() == Carries::speaker) add("speaker-load");
  if (section.deck == "supply") {
    if (!section.port("from"))
      design.supply.front().section = id;
    else
      design.supply[1].section = id;
  } else if (section.deck != "line") {
    auto lane = useOf("lane", id, "A");
    const bool elevation = section.deck == "supply-lane";
    design.sides.push_back({"side",
                            {std::move(lane)},
                            section.port("from") ? design.line[design.line.size() - 2].id + ".out" : "",
                            elevation ? "mains.heaterFoot" : design.line[1].id + ".cathodeFoot",
                            {}});
  }
  amp::nameParts(design, library());
  return design;
}

TEST(EverySection, InItsPlaceHasAnAnswerAndEveryPartOfItMayGoOrStep) {
  VINEGAR_LONG_TEST(numbers);
  int seen = 0;
  for (const auto& [name, section] : library().sections) {
    if (!section.refusal.empty()) continue;
    const auto& id = name;
    const auto design = skeletonAround(id);
    Warmth warmth;
    expectAnswers(design, id, &warmth);
    if (HasFatalFailure()) return;
    const auto own = [&](const amp::ResolvedPart& part) { return part.sectionType == id; };
    for (const auto& part : amp::resolveParts(design, library())) {
      if (!own(part) || ++seen % stride() != 0) continue;
      if (part.part->optional)
        expectAnswers(amp::withChanges(design, library(), {{part.name, "fitted", part.fitted(), !part.fitted()}}),
                      id + ", " + part.name + (part.fitted() ? " left out" : " fitted"), nullptr, false);
      if (!amp::hasValue(part.part->kind) || !part.fitted()) continue;
      if (const auto value = steppedValue(part, library(), true))
        expectAnswers(amp::withChanges(design, library(), {{part.name, "value", part.value(), *value}}),
                      id + ", " + part.name + " a step up", &warmth, false);
    }
  }
}

TEST(EverySection, HasDefaultsThatAreLegal) {
  for (const auto& [id, section] : library().sections)
    for (const auto& part : section.parts) {
      const amp::ResolvedPart resolved{part.name, id, id, {}, &part, part.defaults};
      for (const auto& [field, setting] : part.defaults)
        if (const auto problem = amp::checkSetting(resolved, field, setting, library()))
          ADD_FAILURE() << id << " " << part.ref << ": " << problem->message;
    }
}

/// Whatever a parameter may be set to, a nothing or a thousand times what it is: numbers, or the reason there are none.
TEST(EverySection, GivesNumbersOrReasonsAtTheEndsOfWhatIsLegal) {
  VINEGAR_LONG_TEST(numbers);
  int seen = 0;
  for (const auto& [id, section] : library().sections) {
    if (!section.refusal.empty()) continue;
    const auto design = skeletonAround(id);
    for (const auto& part : amp::resolveParts(design, library())) {
      if (part.sectionType != id || !part.fitted()) continue;
      for (const auto& [field, setting] : part.settings) {
        const auto* number = std::get_if<double>(&setting);
        if (!number || field.starts_with("rated") || ++seen % stride() != 0) continue;
        for (const double to : {0.0, (seen % 2 ? 1e-3 : 1e3) * *number}) {
          if (amp::checkSetting(part, field, to, library())) continue; // refused, with its reason
          const auto what = id + ", " + part.name + " " + field + " = " + std::to_string(to);
          const auto circuit =
              amp::compile(amp::withChanges(design, library(), {{part.name, field, *number, to}}), library());
          ASSERT_TRUE(circuit) << what << ": " << circuit.error().line();
          const auto point = predictOperatingPoint(*circuit);
          if (!point) {
            EXPECT_FALSE(point.error().message.empty()) << what;
            continue;
          }
          EXPECT_TRUE(point->dc.x.allFinite()) << what;
          if (const auto ac = circuit::solveAc(*point->system, point->dc.x, {1000})) {
            EXPECT_TRUE(ac->x.allFinite()) << what;
          }
        }
      }
    }
  }
}

} // namespace
} // namespace vinegar::predict
