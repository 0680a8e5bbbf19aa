#include "run/run_readings.h"

#include "predict/rest/ratings.h"
#include "widgets/readings.h"

namespace vinegar::app {

std::vector<RunContent::Gone> whatIsGone(const std::vector<amp::Mark>& marks, const amp::Drawing& drawing,
                                         const amp::Library& library) {
  std::vector<RunContent::Gone> gone;
  const auto frameOf = [&](const std::string& id) -> const amp::Drawing::Frame* {
    for (const auto& frame : drawing.frames)
      if (frame.id == id) return &frame;
    return nullptr;
  };
  const auto title = [&](const amp::SectionUse& use) {
    return QString::fromStdString(amp::describeSection(use, library));
  };
  constexpr double above = 2, beside = 0.7, next = 1.9; // the signal line; a section; words side by side
  std::map<std::string, int> standing;                  // how many stand at a place already
  const auto put = [&](const std::string& after, const amp::Drawing::Frame* frame, const QString& words) {
    const double x = frame ? frame->right + beside : -beside, y = (frame ? frame->origin.y : 0) - above;
    gone.push_back({words, {x + next * standing[after]++, y}});
  };
  for (const auto& mark : marks)
    for (const auto& change : mark.changes) {
      if (const auto* removed = std::get_if<amp::RemoveSection>(&change)) {
        put(removed->spot.after, frameOf(removed->spot.after), title(removed->use));
      } else if (const auto* replaced = std::get_if<amp::ReplaceSection>(&change)) {
        if (const auto* frame = frameOf(replaced->to.id))
          gone.push_back({title(replaced->from), {frame->left + 0.7, frame->origin.y - above}});
      } else if (const auto* chain = std::get_if<amp::RemoveChain>(&change)) {
        const auto from = chain->chain.from.substr(0, chain->chain.from.find('.'));
        put(from, frameOf(from), QString::fromStdString(chain->chain.id));
      }
    }
  return gone;
}

std::set<std::string> whatIsPutIn(const std::vector<amp::Mark>& marks) {
  std::set<std::string> ids;
  for (const auto& mark : marks)
    for (const auto& change : mark.changes) {
      if (const auto* added = std::get_if<amp::AddSection>(&change)) ids.insert(added->use.id);
      if (const auto* replaced = std::get_if<amp::ReplaceSection>(&change)) ids.insert(replaced->to.id);
      if (const auto* chain = std::get_if<amp::AddChain>(&change))
        for (const auto& use : chain->chain.sections)
          ids.insert(use.id);
    }
  return ids;
}

RunReadings runReadings(const Session& session, const Answers<predict::Idle>& idle,
                        const std::vector<audit::Finding>& findings) {
  RunReadings all;
  std::map<std::string, std::string> places; // of the ink's parts
  // What is not fitted is a dash in ink; fitting it is putting it in.
  for (const auto& part : session.inkParts()) {
    all.labels[part.name].ink = part.fitted() ? QString::fromStdString(part.label()) : QString();
    places[part.name] = part.section;
  }
  std::set<std::string> marked;
  const auto& marks = session.document().sheet().marks;
  for (const auto& mark : marks)
    for (const auto& change : mark.changes)
      if (const auto* field = std::get_if<amp::SetField>(&change)) marked.insert(field->part);
  if (!marks.empty())
    for (const auto& part : session.pencilledParts()) {
      auto& label = all.labels[part.name];
      // A half of a bottle that works elsewhere now is new there.
      if (const auto place = places.find(part.name); place != places.end() && place->second != part.section)
        label.ink.clear();
      // What is put in without being fitted is no mark of its own.
      if (label.ink.isEmpty() && !part.fitted() && !marked.contains(part.name)) continue;
      label.pencil = part.fitted() ? QString::fromStdString(part.label()) : QStringLiteral("\u2014");
      // A change that does not show in the label, a winding resistance or a taper, still marks the part.
      if (marked.contains(part.name) && label.pencil == label.ink) label.pencil += QStringLiteral(" *");
    }
  const auto take = [&](const predict::Idle* one, QString InkAndPencil::*which) {
    if (!one) return;
    const auto volts = [&](circuit::Node node) { return meterReading(one->point.volts(node), units::Unit::volt); };
    for (const auto& [key, node] : one->circuit->localNodes)
      if (node >= 0) all.volts[key].*which = volts(node);
    for (const auto& rail : one->circuit->rails)
      all.volts["rail:" + rail.name].*which = volts(rail.node);
  };
  take(idle.inkValue(), &InkAndPencil::ink);
  take(idle.pencilValue(), &InkAndPencil::pencil);
  if (const auto* now = idle.nowValue()) {
    // Over its rating already while the builder turns, before the findings are worked out.
    for (const auto& tube : now->point.tubes)
      if (predict::Rating{tube.name, predict::Rating::Quantity::plateWatts, tube.plateWatts, tube.plateWattsLimit}
              .over())
        all.stressed.insert(tube.name);
    for (const auto& finding : findings)
      all.stressed.insert(finding.part);
  } else if (const auto* problem = idle.problem()) {
    all.stressed.insert(problem->place);
  }
  return all;
}

} // namespace vinegar::app
