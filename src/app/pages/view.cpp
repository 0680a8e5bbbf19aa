#include "pages/view.h"

namespace vinegar::app {

void View::own(AskingBase& asking) {
  askings_.push_back(&asking);
  if (!isVisible()) asking.sleep();
}

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
