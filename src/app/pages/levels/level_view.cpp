#include "pages/levels/level_view.h"

#include "widgets/pick_list.h"
#include "widgets/readings.h"

#include <QComboBox>

namespace vinegar::app {

QString LevelView::atWorst(double hertz) const {
  return played().hertz > 0 ? QString() : tr(" at %1").arg(readingOf(hertz, units::Unit::hertz));
}

LevelView::LevelView(Page& page) : PageView(page) {
  connect(&page.context().selection, &Selection::playedChanged, this, &LevelView::again);
}

void fillControls(QComboBox& box, const amp::Circuit& circuit) {
  QStringList wanted;
  QString volume;
  for (const auto& part : circuit.parts) {
    const auto knob = QString::fromStdString(part.resolved.knob);
    if (part.resolved.part->kind != amp::PartKind::pot || part.devices.empty() || wanted.contains(knob)) continue;
    wanted << knob;
    if (volume.isEmpty() && part.resolved.part->role == "volume-control") volume = knob;
  }
  refill(box, wanted, volume);
}

} // namespace vinegar::app

#include "moc_level_view.cpp"
