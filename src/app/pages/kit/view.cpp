#include "pages/kit/view.h"

#include "pages/kit/kept.h"

namespace vinegar::app {

void View::own(AskingBase& asking) {
  askings_.push_back(&asking);
  if (!isVisible()) asking.sleep();
}

void View::restAll() {
  for (auto* asking : askings_)
    asking->rest();
  for (auto* kept : kept_)
    kept->empty();
}

KeptBase::KeptBase(View& view) : view_(view) { view.kept_.push_back(this); }
void KeptBase::own(AskingBase& asking) { view_.own(asking); }
void KeptBase::changed() { view_.draw(); }
Asker& KeptBase::asker() const { return view_.asker(); }

void View::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  for (auto* asking : askings_)
    asking->wake();
}

void View::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  for (auto* asking : askings_)
    asking->sleep();
}

} // namespace vinegar::app

#include "moc_view.cpp"
