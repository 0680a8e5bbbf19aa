#include "predict/choices/consequences.h"

#include "predict/rest/parallel.h"
#include "predict/rest/stock.h"
#include "predict/stages/propose.h"
#include "predict/supply/held.h"
#include "predict/wave/stage_ports.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::predict {
namespace {
using amp::PartKind;
} // namespace

std::vector<SupplyChoice> valueChoices(const amp::Design& design, const amp::Library& library, const std::string& name,
                                       int each) {
  const auto part = amp::findPart(design, library, name);
  std::vector<SupplyChoice> choices;
  if (!part || !amp::hasValue(part->part->kind)) return choices;
  const auto add = [&](double value) {
    SupplyChoice choice{units::reading(value, amp::valueUnit(part->part->kind), 0), {}};
    if (value != part->value()) choice.changes.push_back({name, "value", part->value(), value});
    if (!part->fitted()) choice.changes.push_back({name, "fitted", false, true});
    choices.push_back(std::move(choice));
  };
  std::vector<double> values{part->value()};
  for (const bool up : {false, true}) {
    auto stepped = *part;
    for (int k = 0; k < each; ++k) {
      const auto next = steppedValue(stepped, library, up);
      if (!next) break;
      values.push_back(*next);
      stepped.settings["value"] = *next;
    }
  }
  std::sort(values.begin(), values.end());
  if (part->part->optional) {
    SupplyChoice without{"none", {}};
    if (part->fitted()) without.changes.push_back({name, "fitted", true, false});
    choices.push_back(std::move(without));
  }
  for (const double value : values)
    add(value);
  return choices;
}

std::vector<Consequence> consequencesOf(const amp::Design& design, const amp::Library& library,
                                        const std::vector<SupplyChoice>& choices, const GoOn& goOn, Warmth warmth) {
  std::vector<Consequence> rows;
  for (const auto& choice : choices) {
    if (goOn && !goOn(static_cast<double>(rows.size()) / static_cast<double>(choices.size()))) break;
    Consequence row;
    row.choice = choice;
    const auto circuit = amp::compile(amp::withChanges(design, library, choice.changes), library);
    const auto point = circuit ? predictOperatingPoint(*circuit, &warmth) : tl::unexpected(circuit.error());
    if (!point || !point->supply) {
      row.problem = point ? Problem{"the supply", "has no mains"} : point.error();
    } else {
      row.report = readSupply(*circuit, library, *point);
      for (const auto& tube : point->tubes) {
        const auto* type = library.tubes.find(tube.type);
        const auto ratings = tubeRatings(tube, type ? type->limits : tubes::Limits{});
        row.tubes.push_back({tube.name, tube.plateAmps, tube.gridVolts, tube.plateWatts,
                             std::any_of(ratings.begin(), ratings.end(), [](const auto& one) {
                               using enum Rating::Quantity;
                               return one.over() && (one.quantity == plateWatts || one.quantity == plateVolts);
                             })});
      }
      row.warnings = warningsOf(*circuit, library, row.report, point->tubes);
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

bool findRebias(std::vector<Consequence>& rows, const Idle& idle, const amp::Library& library, const GoOn& goOn) {
  constexpr double much = 0.07;
  const auto& tubes = idle.circuit->parts;
  const auto tube = std::find_if(tubes.begin(), tubes.end(), [&](const auto& part) {
    return amp::isTube(part.resolved.part->kind) && !part.devices.empty() && outputTransformerOf(*idle.circuit, part);
  });
  if (tube == tubes.end()) return true;
  const auto& name = tube->resolved.name;
  const auto standsIn = [&](const OperatingPoint& point) {
    const auto found =
        std::find_if(point.tubes.begin(), point.tubes.end(), [&](const auto& one) { return one.name == name; });
    return found == point.tubes.end() ? nullptr : &*found;
  };
  const auto* now = standsIn(idle.point);
  if (!now || !(now->plateWatts > 0)) return true;
  return inTwoThreads(rows.size(), goOn, [&](std::size_t i, const GoOn&) {
    auto& row = rows[i];
    if (row.problem || row.choice.changes.empty()) return;
    auto warmth = warmthOf(idle);
    std::vector<amp::SetField> changes;
    // Once more from the value that is found: the rails there are not those of before.
    for (const bool again : {false, true}) {
      auto all = row.choice.changes;
      all.insert(all.end(), changes.begin(), changes.end());
      const auto other = predictIdle(amp::withChanges(*idle.circuit->design, library, all), library, &warmth);
      if (!other) return;
      const auto* then = standsIn(other->point);
      if (!then || !(then->plateAmps > 0)) return;
      if (!again && std::abs(then->plateWatts / now->plateWatts - 1) < much) return;
      auto found = rebias(*other, library, name, now->plateWatts / (then->plateWatts / then->plateAmps));
      if (!found || found->empty()) break;
      const auto alike = [](const amp::SetField& a, const amp::SetField& b) {
        return a.part == b.part && a.field == b.field;
      };
      if (again && !std::equal(found->begin(), found->end(), changes.begin(), changes.end(), alike)) break;
      for (std::size_t c = 0; again && c < changes.size(); ++c)
        (*found)[c].from = changes[c].from;
      changes = std::move(*found);
    }
    std::erase_if(changes, [](const amp::SetField& change) { return change.from == change.to; });
    for (const auto& change : changes) {
      const auto* part = idle.circuit->part(change.part);
      const auto* value = std::get_if<double>(&change.to);
      if (!row.rebiased.empty()) row.rebiased += ", ";
      row.rebiased += change.part;
      if (part && value && change.field == "value")
        row.rebiased += fmt::format(" {}", units::schematic(*value, amp::valueUnit(part->resolved.part->kind)));
    }
    row.rebias = std::move(changes);
  });
}

tl::expected<Consequences, Problem> predictConsequences(const Idle& idle, const amp::Library& library,
                                                        const ConsequencesQuestion& question, const GoOn& goOn) {
  if (!idle.point.supply) return tl::unexpected(noMains());
  const auto* part = idle.circuit->part(question.part);
  if (!part) return Consequences{};
  const auto& design = *idle.circuit->design;
  const auto choices = part->resolved.part->kind == PartKind::rectifier ? rectifierChoices(design, library)
                                                                        : valueChoices(design, library, question.part);
  Consequences answer{question.part, consequencesOf(design, library, choices, goOn, warmthOf(idle))};
  if (answer.rows.size() < choices.size()) return tl::unexpected(Problem::stopped());
  if (question.rebias && !findRebias(answer.rows, idle, library, goOn)) return tl::unexpected(Problem::stopped());
  return answer;
}

} // namespace vinegar::predict
