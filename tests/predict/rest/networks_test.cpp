// Tone and level networks, attenuators and the guitar's own controls against nodal equations written down here.
#include "amp/acts/acts.h"
#include "predict/voice/loudspeaker.h"
#include "support/bench_design.h"
#include "support/paths.h"
#include "support/samples.h"

#include <Eigen/LU>
#include <array>
#include <cmath>
#include <functional>
#include <gtest/gtest.h>
#include <numbers>

namespace vinegar::predict {
namespace {

using testing_support::atRest;
using testing_support::benchDesign;
using testing_support::levels;
using testing_support::library;
using testing_support::use;
using Complex = std::complex<double>;

/// A network by its own equations: elements between numbered nodes, 0 ground, 1 the network's input, which a volt
/// behind `sourceOhms` drives.
struct Element {
  int a, b;
  double ohms, farads;                  ///< one of them
  const Loudspeaker* speaker = nullptr; ///< in place of both
};
double nodalDecibels(const std::vector<Element>& elements, int nodes, int output, double hertz, double sourceOhms) {
  const double radians = 2 * std::numbers::pi * hertz;
  Eigen::MatrixXcd y = Eigen::MatrixXcd::Zero(nodes, nodes);
  const auto add = [&](int a, int b, Complex siemens) {
    for (const auto& [r, c, sign] : {std::tuple{a, a, 1.0}, {b, b, 1.0}, {a, b, -1.0}, {b, a, -1.0}})
      if (r > 0 && c > 0) y(r - 1, c - 1) += sign * siemens;
  };
  for (const auto& e : elements)
    if (e.a != e.b)
      add(e.a, e.b,
          e.speaker    ? 1.0 / impedanceOf(*e.speaker, hertz)
          : e.ohms > 0 ? Complex(1 / e.ohms)
                       : Complex(0, radians * e.farads));
  add(1, 0, 1 / sourceOhms);
  Eigen::VectorXcd current = Eigen::VectorXcd::Zero(nodes);
  current(0) = 1 / sourceOhms;
  const Eigen::VectorXcd volts = y.partialPivLu().solve(current);
  return 20 * std::log10(std::abs(volts(output - 1)));
}

/// A pot's parts by its rotation: what its law and its worn ends make of it.
std::vector<Element> pot(int top, int wiper, int bottom, double ohms, const char* law, double turn) {
  const double middle = std::string(law) == "log15" ? 0.15 : std::string(law) == "log10" ? 0.1 : 0.5;
  const auto exponential = [](double at, double r) {
    const double root = 1 / at - 1; // a^(1/2) of (a^r - 1)/(a - 1) = at where r = 1/2
    return (std::pow(root, 2 * r) - 1) / (root * root - 1);
  };
  double share = turn;
  if (std::string(law).starts_with("log")) share = exponential(middle, turn);
  if (std::string(law) == "reverse-log10") share = 1 - exponential(0.1, 1 - turn);
  const double least = ohms * 1e-4 + 1;
  return {{top, wiper, std::max(ohms * (1 - share), least), 0}, {wiper, bottom, std::max(ohms * share, least), 0}};
}

struct Network {
  const char* section;
  std::vector<const char*> knobs;
  int nodes, output;
  std::function<std::vector<Element>(const std::vector<double>&)> elements; ///< by the knobs' turns
  int positions = 1; ///< of a switch, its number the last of the turns
};
std::vector<Element> joined(std::vector<Element> all, const std::vector<std::vector<Element>>& more) {
  for (const auto& some : more)
    all.insert(all.end(), some.begin(), some.end());
  return all;
}

std::vector<Network> networks() {
  using Turns = const std::vector<double>&;
  return {
      {"tone-stack-three-control",
       {"Treble", "Bass", "Middle"},
       6,
       6,
       [](Turns t) {
         return joined({{1, 2, 0, 270e-12}, {1, 3, 68e3, 0}, {3, 4, 0, 47e-9}, {3, 5, 0, 33e-9}},
                       {pot(2, 6, 4, 250e3, "linear", t[0]), pot(4, 4, 5, 500e3, "log15", t[1]),
                        pot(5, 5, 0, 25e3, "linear", t[2])});
       }},
      {"tone-stack-fixed-mid",
       {"Treble", "Bass"},
       6,
       6,
       [](Turns t) {
         return joined({{1, 2, 0, 270e-12}, {1, 3, 68e3, 0}, {3, 4, 0, 47e-9}, {3, 5, 0, 33e-9}, {5, 0, 6800, 0}},
                       {pot(2, 6, 4, 250e3, "linear", t[0]), pot(4, 4, 5, 500e3, "log15", t[1])});
       }},
      {"tone-two-control",
       {"Bass", "Treble"},
       3,
       2,
       [](Turns t) {
         return joined({{1, 2, 0, 2.2e-9}, {2, 3, 0, 2.2e-9}, {2, 0, 1e6, 0}},
                       {pot(1, 1, 2, 1e6, "reverse-log10", t[0]), pot(3, 3, 0, 500e3, "log15", t[1])});
       }},
      {"tone-parallel",
       {"Treble", "Bass"},
       6,
       6,
       [](Turns t) {
         return joined({{1, 2, 0, 470e-12}, {3, 6, 220e3, 0}, {1, 4, 100e3, 0}, {4, 0, 0, 10e-9}, {5, 6, 220e3, 0}},
                       {pot(2, 3, 0, 500e3, "log15", t[0]), pot(4, 5, 0, 500e3, "log15", t[1])});
       }},
      {"tone-shelving",
       {"Bass", "Treble"},
       7,
       5,
       [](Turns t) {
         return joined({{1, 2, 100e3, 0},
                        {2, 3, 0, 2.2e-9},
                        {3, 4, 0, 22e-9},
                        {4, 0, 10e3, 0},
                        {3, 5, 100e3, 0},
                        {1, 6, 0, 470e-12},
                        {7, 0, 0, 4.7e-9}},
                       {pot(2, 3, 4, 500e3, "log10", t[0]), pot(6, 5, 7, 500e3, "log10", t[1])});
       }},
      {"tone-stack-mid-shift",
       {"Treble", "Bass", "Middle"},
       6,
       6,
       [](Turns t) {
         return joined(
             {{1, 2, 0, 270e-12}, {1, 3, 68e3, 0}, {3, 4, 0, 47e-9}, {3, 5, 0, t.back() == 1 ? 33e-9 : 10e-9}},
             {pot(2, 6, 4, 250e3, "linear", t[0]), pot(4, 4, 5, 500e3, "log15", t[1]),
              pot(5, 5, 0, 25e3, "linear", t[2])});
       },
       2},
      {"tone-notch",
       {},
       3,
       2,
       [](Turns) {
         return std::vector<Element>{
             {1, 2, 220e3, 0}, {1, 3, 0, 1e-9}, {3, 2, 0, 1e-9}, {3, 0, 22e3, 0}, {2, 0, 470e3, 0}};
       }},
      {"volume-bright-switch",
       {"Volume"},
       2,
       2,
       [](Turns t) {
         return joined(t.back() == 2 ? std::vector<Element>{{1, 2, 0, 120e-12}} : std::vector<Element>{},
                       {pot(1, 2, 0, 1e6, "log15", t[0])});
       },
       2},
      {"volume-bright-rotary",
       {"Volume"},
       2,
       2,
       [](Turns t) {
         constexpr std::array farads{0.0, 47e-12, 120e-12, 330e-12};
         return joined({{1, 2, 0, farads[static_cast<std::size_t>(t.back()) - 1]}}, {pot(1, 2, 0, 1e6, "log15", t[0])});
       },
       4},
      {"mix-two",
       {},
       2,
       2,
       [](Turns) {
         return std::vector<Element>{{1, 2, 470e3, 0}};
       }},
      {"volume", {"Volume"}, 2, 2, [](Turns t) { return pot(1, 2, 0, 1e6, "log15", t[0]); }},
      {"treble-bleed",
       {"Tone"},
       2,
       1,
       [](Turns t) {
         return joined({{1, 2, 0, 4.7e-9}}, {pot(2, 2, 0, 250e3, "log15", t[0])});
       }},
      {"master-volume-before", {"Master"}, 2, 2, [](Turns t) { return pot(1, 2, 0, 500e3, "log15", t[0]); }},
  };
}

/// At both ends of every control and between, from a source of 38 kilohms into 470 kilohms.
TEST(Networks, AgreeWithTheirNodalEquations) {
  constexpr double sourceOhms = 38e3, loadOhms = 470e3;
  const auto hertz = circuit::logSpaced(20, 2e4, 13);
  for (const auto& network : networks()) {
    auto design = benchDesign({use("between", network.section),
                               use("end", "line-load", {{"R", {{"value", loadOhms}}}, {"C", {{"fitted", false}}}})});
    design.line[0].parts["Rsrc"].settings["value"] = sourceOhms;
    std::vector<std::string> knobs;
    for (const auto& part : amp::resolveParts(design, library()))
      if (part.part->kind == amp::PartKind::pot && part.section == "between") knobs.push_back(part.knob);
    std::string shift;
    for (const auto& part : amp::resolveParts(design, library()))
      if (part.part->kind == amp::PartKind::selector && part.section == "between") shift = part.knob;
    ASSERT_EQ(knobs.size(), network.knobs.size()) << network.section;
    std::size_t settings = static_cast<std::size_t>(network.positions);
    for (std::size_t k = 0; k < knobs.size(); ++k)
      settings *= 4;
    for (std::size_t s = 0; s < settings; ++s) {
      std::vector<double> turns;
      for (std::size_t k = 0, rest = s / static_cast<std::size_t>(network.positions); k < knobs.size(); ++k, rest /= 4)
        turns.push_back(static_cast<double>(rest % 4) / 3);
      for (std::size_t k = 0; k < knobs.size(); ++k)
        design.knobs[knobs[k]] = turns[k];
      if (network.positions > 1) {
        turns.push_back(static_cast<double>(s % static_cast<std::size_t>(network.positions) + 1));
        design.knobs[shift] = turns.back();
      }
      const auto idle = atRest(design);
      auto elements = network.elements(turns);
      // The player's cable and load, and the load at the end.
      elements.insert(elements.end(), {{1, 0, 0, 220e-12}, {1, 0, 470e3, 0}, {network.output, 0, loadOhms, 0}});
      const auto source = idle.circuit->localNodes.at("source/src");
      const auto curve = levels(idle, hertz, idle.circuit->netlist.nodeNames()[static_cast<std::size_t>(source)],
                                network.output == 1 ? "jack" : "line");
      for (std::size_t f = 0; f < hertz.size(); ++f)
        ASSERT_NEAR(curve[f], nodalDecibels(elements, network.nodes, network.output, hertz[f], sourceOhms), 0.01)
            << network.section << " setting " << s << " at " << hertz[f];
    }
  }
}

/// Driven on one side behind 38 kilohms, the other on 22 kilohms to ground; 470 and 330 kilohms on the ends.
constexpr const char* balancedBench = R"({"sections": [
  {"id": "test-drive", "title": "drive", "use": "", "group": "input", "out": "balanced",
   "ports": {"out": {"node": "t", "at": [10, 0]}, "outB": {"node": "u", "at": [10, 6]}},
   "parts": [{"ref": "G", "kind": "signal-source", "nodes": ["s"], "value": "1V", "role": "signal-source"},
             {"ref": "R1", "kind": "resistor", "nodes": ["s", "t"], "value": "38k", "role": "grid-stopper"},
             {"ref": "R2", "kind": "resistor", "nodes": ["u", "ground"], "value": "22k", "role": "grid-leak"}],
   "drawing": {"width": 10, "places": {"G": {"at": [0, 0]}, "R1": {"at": [2, 0], "dir": "right"},
               "R2": {"at": [8, 6], "dir": "down"}}, "wires": [["s", [0, 0], [2, 0]]], "grounds": [[8, 12]]}},
  {"id": "test-ends", "title": "ends", "use": "", "group": "input", "in": "balanced",
   "ports": {"in": {"node": "t", "at": [0, 0]}, "inB": {"node": "u", "at": [0, 6]}},
   "parts": [{"ref": "R1", "kind": "resistor", "nodes": ["t", "ground"], "value": "470k", "role": "grid-leak"},
             {"ref": "R2", "kind": "resistor", "nodes": ["u", "ground"], "value": "330k", "role": "grid-leak"}],
   "drawing": {"width": 10, "places": {"R1": {"at": [2, 0], "dir": "down"}, "R2": {"at": [6, 6], "dir": "down"}},
               "wires": [], "grounds": [[2, 6], [6, 12]]}}]})";

TEST(Networks, BalancedOnesAgreeWithTheirNodalEquations) {
  auto own = amp::Library::load(testing_support::folder("data"));
  ASSERT_TRUE(own);
  const auto faults = own->addCopies(balancedBench, "the test");
  ASSERT_TRUE(faults.empty()) << faults.front().line();
  struct Balanced {
    const char *section, *knob;
    int nodes, output; ///< 1 is the driven side, 2 the other, before the network
    std::function<std::vector<Element>(double)> elements;
    std::array<int, 2> ends; ///< where the loads are
  };
  const std::vector<Balanced> all{
      {"cut-control",
       "Cut",
       3,
       1,
       [](double t) {
         return joined({{1, 3, 0, 4.7e-9}}, {pot(3, 2, 2, 250e3, "log15", t)});
       },
       {1, 2}},
      {"balanced-treble-cut",
       "",
       3,
       2,
       [](double) {
         return std::vector<Element>{{1, 3, 0, 1e-9}, {3, 2, 10e3, 0}};
       },
       {1, 2}},
      {"master-volume",
       "Master",
       4,
       3,
       [](double t) {
         return joined({}, {pot(1, 3, 0, 250e3, "log15", t), pot(2, 4, 0, 250e3, "log15", t)});
       },
       {3, 4}}};
  const auto hertz = circuit::logSpaced(20, 2e4, 13);
  for (const auto& network : all)
    for (const double turn : {0.0, 0.3, 0.7, 1.0}) {
      amp::Design design;
      design.name = "balanced";
      design.line = {{"drive", "test-drive", {}, {}, {}, {}},
                     use("between", network.section),
                     {"ends", "test-ends", {}, {}, {}, {}}};
      amp::nameParts(design, *own);
      if (*network.knob) design.knobs[network.knob] = turn;
      const auto idle = predictIdle(design, *own);
      ASSERT_TRUE(idle) << network.section << ": " << idle.error().line();
      auto elements = network.elements(turn);
      elements.insert(elements.end(),
                      {{2, 0, 22e3, 0}, {network.ends[0], 0, 470e3, 0}, {network.ends[1], 0, 330e3, 0}});
      const auto nameOf = [&](const char* local) {
        return idle->circuit->netlist.nodeNames()[static_cast<std::size_t>(idle->circuit->localNodes.at(local))];
      };
      const char* end = network.output == 1 ? "ends/t" : network.output == 2 ? "ends/u" : "ends/t";
      const auto response = predictResponse(*idle, *own, {nameOf("drive/s"), nameOf(end), hertz});
      ASSERT_TRUE(response) << network.section << ": " << response.error().line();
      for (std::size_t f = 0; f < hertz.size(); ++f)
        ASSERT_NEAR(response->decibels[f], nodalDecibels(elements, network.nodes, network.output, hertz[f], 38e3), 0.01)
            << network.section << " at " << turn << ", " << hertz[f] << " Hz";
    }
}

/// Driven behind a kilohm, and a foot of 1.8 kilohms that the loop comes back to.
constexpr const char* feedbackBench = R"({"sections": [
  {"id": "test-drive", "title": "drive", "use": "", "group": "input", "out": "single",
   "ports": {"out": {"node": "t", "at": [10, 0]}},
   "parts": [{"ref": "G", "kind": "signal-source", "nodes": ["s"], "value": "1V", "role": "signal-source"},
             {"ref": "R1", "kind": "resistor", "nodes": ["s", "t"], "value": "1k", "role": "grid-stopper"}],
   "drawing": {"width": 10, "places": {"G": {"at": [0, 0]}, "R1": {"at": [2, 0], "dir": "right"}},
               "wires": [["s", [0, 0], [2, 0]]], "grounds": []}},
  {"id": "test-foot", "title": "foot", "use": "", "group": "input", "in": "single",
   "ports": {"in": {"node": "t", "at": [0, 0]}, "foot": {"node": "f", "at": [6, 6], "join": "open"}},
   "parts": [{"ref": "R1", "kind": "resistor", "nodes": ["t", "ground"], "value": "470k", "role": "grid-leak"},
             {"ref": "R2", "kind": "resistor", "nodes": ["f", "ground"], "value": "1k8", "role": "grid-leak"}],
   "drawing": {"width": 10, "places": {"R1": {"at": [2, 0], "dir": "down"}, "R2": {"at": [6, 6], "dir": "down"}},
               "wires": [], "grounds": [[2, 6], [6, 12]]}}]})";

TEST(Networks, PresenceAndResonanceAgreeWithTheirNodalEquations) {
  auto own = amp::Library::load(testing_support::folder("data"));
  ASSERT_TRUE(own);
  const auto faults = own->addCopies(feedbackBench, "the test");
  ASSERT_TRUE(faults.empty()) << faults.front().line();
  const auto hertz = circuit::logSpaced(20, 2e4, 21);
  for (const bool resonance : {false, true})
    for (const double presence : {0.0, 0.4, 1.0})
      for (const double turned : {0.0, 0.5, 1.0}) {
        if (!resonance && turned > 0) continue;
        amp::Design design;
        design.name = "loop";
        design.line = {{"drive", "test-drive", {}, {}, {}, {}}, {"ends", "test-foot", {}, {}, {}, {}}};
        amp::SectionUse loop{"loop", resonance ? "feedback-presence-resonance" : "feedback-presence", {}, {}, {}, {}};
        design.sides = {{"feedback", {loop}, "drive.out", "ends.foot", {}}};
        amp::nameParts(design, *own);
        design.knobs = {{"Presence", presence}};
        if (resonance) design.knobs["Resonance"] = turned;
        const auto idle = predictIdle(design, *own);
        ASSERT_TRUE(idle) << idle.error().line();
        // 1 driven, 2 the foot, 3 behind the presence's capacitor, 4 before the loop's resistor
        std::vector<Element> elements{{1, 0, 470e3, 0}, {2, 0, 1800, 0}, {2, 0, 4700, 0}, {2, 3, 0, 100e-9}};
        elements = joined(elements, {pot(3, 3, 0, 25e3, "linear", presence)});
        if (resonance)
          elements =
              joined(elements, {{{1, 4, 0, 10e-9}, {4, 2, 47e3, 0}}, pot(1, 1, 4, 1e6, "reverse-log10", turned)});
        else
          elements.push_back({1, 2, 47e3, 0});
        const auto nameOf = [&](const char* local) {
          return idle->circuit->netlist.nodeNames()[static_cast<std::size_t>(idle->circuit->localNodes.at(local))];
        };
        const auto response = predictResponse(*idle, *own, {nameOf("drive/s"), nameOf("ends/f"), hertz});
        ASSERT_TRUE(response) << response.error().line();
        for (std::size_t f = 0; f < hertz.size(); ++f)
          ASSERT_NEAR(response->decibels[f], nodalDecibels(elements, resonance ? 4 : 3, 2, hertz[f], 1e3), 0.01)
              << resonance << " " << presence << " " << turned << " " << hertz[f];
      }
}

/// Between the amplifier and a loudspeaker with all its resonance.
TEST(Networks, AttenuatorsAgreeWithTheirNodalEquations) {
  const std::pair<const char*, std::vector<Element>> all[] = {
      {"attenuator-l", {{1, 2, 5.6, 0}, {2, 0, 3.3, 0}}},
      {"attenuator-t", {{1, 3, 3.9, 0}, {3, 2, 3.9, 0}, {3, 0, 5.6, 0}}}};
  const auto hertz = circuit::logSpaced(20, 2e4, 21);
  for (const auto& [section, network] : all) {
    auto design = testing_support::sample("slipway").ink;
    design.line.insert(design.line.end() - 1, use("between", section));
    amp::nameParts(design, library());
    const auto idle = atRest(design);
    Loudspeaker speaker;
    for (const auto& part : idle.circuit->parts)
      if (part.resolved.part->kind == amp::PartKind::speaker) {
        const auto& own = part.resolved;
        speaker = {own.value() * own.number("voiceCoilShare"),
                   own.number("voiceCoilInductance"),
                   own.number("eddyOhms"),
                   own.number("resonanceHertz"),
                   own.number("mechanicalQ"),
                   own.number("electricalQ")};
      }
    auto elements = network;
    elements.push_back({2, 0, 0, 0, &speaker});
    const auto nameOf = [&](const char* local) {
      return idle.circuit->netlist.nodeNames()[static_cast<std::size_t>(idle.circuit->localNodes.at(local))];
    };
    const auto curve = levels(idle, hertz, nameOf("between/in"), nameOf("between/out"));
    for (std::size_t f = 0; f < hertz.size(); ++f)
      ASSERT_NEAR(curve[f], nodalDecibels(elements, section == std::string("attenuator-l") ? 2 : 3, 2, hertz[f], 1e-6),
                  0.01)
          << section << " at " << hertz[f];
  }
}

/// A guitar's volume and tone at every third of their travel. The coil is an inductor, so its equations are these.
TEST(Networks, AGuitarsOwnControlsAgreeWithTheirNodalEquations) {
  auto design =
      benchDesign({use("end", "line-load", {{"R", {{"value", testing_support::never}}}, {"C", {{"fitted", false}}}})});
  design.line[0] = use("guitar", "guitar-input");
  amp::nameParts(design, library());
  const auto hertz = circuit::logSpaced(40, 2e4, 40);
  for (const double volume : {0.0, 1 / 3.0, 2 / 3.0, 1.0})
    for (const double tone : {0.0, 1 / 3.0, 2 / 3.0, 1.0}) {
      design.knobs["Guitar volume"] = volume;
      design.knobs["Guitar tone"] = tone;
      const auto idle = atRest(design);
      const auto source = idle.circuit->localNodes.at("guitar/pickup");
      const auto curve =
          levels(idle, hertz, idle.circuit->netlist.nodeNames()[static_cast<std::size_t>(source)], "jack");
      for (std::size_t f = 0; f < hertz.size(); ++f) {
        const Complex s(0, 2 * std::numbers::pi * hertz[f]);
        const auto v = pot(0, 0, 0, 250e3, "log10", volume), t = pot(0, 0, 0, 250e3, "log10", tone);
        const Complex jack = 1.0 / (1 / v[1].ohms + s * 470e-12 + 1e-6);
        const Complex coil = 1.0 / (s * 100e-12 + 1.0 / (1.0 / (s * 22e-9) + t[1].ohms) + 1.0 / (v[0].ohms + jack));
        const Complex gain = coil / (coil + 7e3 + s * 3.0) * jack / (v[0].ohms + jack);
        ASSERT_NEAR(curve[f], 20 * std::log10(std::abs(gain)), 0.01) << volume << " " << tone << " " << hertz[f];
      }
    }
}

/// Both jacks' resistors and what an empty jack puts to ground.
TEST(Networks, JacksAgreeWithTheirNodalEquations) {
  const auto hertz = circuit::logSpaced(40, 2e4, 25);
  for (const auto& [section, jacks, knob] :
       {std::tuple{"input-two-jacks", 2, "Plugged into"}, {"input-three-jacks", 3, "Plugged into"}}) {
    auto design = benchDesign(
        {use("end", "line-load", {{"R", {{"value", testing_support::never}}}, {"C", {{"fitted", false}}}})});
    design.line[0] = use("guitar", section);
    amp::nameParts(design, library());
    for (int position = 1; position <= jacks + 1; ++position) {
      design.knobs[knob] = position;
      const auto idle = atRest(design);
      const auto nameOf = [&](const char* local) {
        return idle.circuit->netlist.nodeNames()[static_cast<std::size_t>(idle.circuit->localNodes.at(local))];
      };
      const auto curve = levels(idle, hertz, nameOf("guitar/pickup"), nameOf("guitar/g"));
      const double plugged = position > jacks ? 68e3 / jacks : 68e3;
      const double grounded = position > jacks ? 0 : (jacks - 1) / 68e3; // siemens
      for (std::size_t f = 0; f < hertz.size(); ++f) {
        const Complex s(0, 2 * std::numbers::pi * hertz[f]);
        const double grid = 1 / (grounded + 1e-6);
        const Complex pickup = 1.0 / (1 / 250e3 + s * 470e-12 + 1 / (plugged + grid));
        const Complex gain = pickup / (pickup + 7e3 + s * 3.0) * grid / (plugged + grid);
        ASSERT_NEAR(curve[f], 20 * std::log10(std::abs(gain)), 0.01) << section << " " << position << " " << hertz[f];
      }
    }
  }
}

// --- a loudspeaker by its impedance ---

std::vector<amp::CurvePoint> impedanceCurve(const Loudspeaker& speaker, int points) {
  std::vector<amp::CurvePoint> ohms;
  for (const double f : circuit::logSpaced(10, 2e4, points))
    ohms.push_back({f, std::abs(impedanceOf(speaker, f))});
  return ohms;
}

TEST(Loudspeaker, IsFoundAgainByItsImpedance) {
  const Loudspeaker all[] = {{6.4, 600e-6, 30, 85, 9, 1.1},
                             {12.8, 900e-6, 40, 115, 5, 0.9},
                             {6.8, 120e-6, 20, 50, 4, 0.4},
                             {3.2, 350e-6, 18, 140, 3, 1.5}};
  for (const auto& speaker : all) {
    const auto fit = fitLoudspeaker(impedanceCurve(speaker, 90));
    ASSERT_TRUE(fit) << fit.error().line();
    EXPECT_LT(fit->rms, 2e-3);
    EXPECT_NEAR(fit->speaker.coilOhms / speaker.coilOhms, 1, 0.01);
    EXPECT_NEAR(fit->speaker.resonanceHertz / speaker.resonanceHertz, 1, 0.01);
    EXPECT_NEAR(fit->speaker.mechanicalQ / speaker.mechanicalQ, 1, 0.03);
    EXPECT_NEAR(fit->speaker.electricalQ / speaker.electricalQ, 1, 0.03);
    EXPECT_NEAR(fit->ratedOhms, speaker.coilOhms < 4 ? 4 : speaker.coilOhms < 10 ? 8 : 16, 1e-9);
  }
}

/// The amplifier's own loudspeaker has the impedance that was measured.
TEST(Loudspeaker, InTheAmplifierIsTheOneThatWasMeasured) {
  const Loudspeaker speaker{7.1, 750e-6, 35, 98, 7, 1.3};
  const auto fit = fitLoudspeaker(impedanceCurve(speaker, 200));
  ASSERT_TRUE(fit);
  const auto idle = testing_support::changed(testing_support::sampleAtRest("slipway"),
                                             changesTo(*fit, testing_support::sample("slipway").ink, library()));
  const auto* part = idle.circuit->part("LS1");
  ASSERT_NE(part, nullptr);
  const auto& own = part->resolved;
  const Loudspeaker stands{own.value() * own.number("voiceCoilShare"),
                           own.number("voiceCoilInductance"),
                           own.number("eddyOhms"),
                           own.number("resonanceHertz"),
                           own.number("mechanicalQ"),
                           own.number("electricalQ")};
  for (const double f : circuit::logSpaced(20, 2e4, 50))
    EXPECT_NEAR(std::abs(impedanceOf(stands, f)) / std::abs(impedanceOf(speaker, f)), 1, 0.01) << f;
}

TEST(Loudspeaker, OfTwoHumpsAndNonsenseAreTold) {
  const Loudspeaker low{3.2, 300e-6, 20, 40, 6, 0.8}, high{3.2, 300e-6, 20, 95, 6, 0.8};
  std::vector<amp::CurvePoint> ported;
  for (const double f : circuit::logSpaced(10, 2e4, 120))
    ported.push_back({f, std::abs(impedanceOf(low, f) + impedanceOf(high, f))});
  const auto fit = fitLoudspeaker(ported);
  ASSERT_TRUE(fit);
  EXPECT_GT(fit->worst, 0.25);
  EXPECT_LT(fit->worstHertz, 200);
  // The misfit is what a search over the points finds it to be; they are even over the logarithm of frequency.
  double squares = 0, worst = 0;
  for (const auto& point : ported) {
    const double off = std::log(std::abs(impedanceOf(fit->speaker, point.hertz)) / point.decibels);
    squares += off * off / static_cast<double>(ported.size());
    worst = std::max(worst, std::abs(off));
  }
  EXPECT_NEAR(fit->rms / std::sqrt(squares), 1, 0.02);
  EXPECT_NEAR(fit->worst / worst, 1, 1e-9);
  EXPECT_FALSE(fitLoudspeaker({{100, 8}, {200, 9}}));
  auto levels = impedanceCurve(low, 30);
  levels[3].decibels = -4;
  EXPECT_FALSE(fitLoudspeaker(levels));
}

} // namespace
} // namespace vinegar::predict
