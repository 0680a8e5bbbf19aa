#include "window/run_desk.h"

#include "run/run_view.h"

namespace vinegar::app {

RunDesk::RunDesk(RunView& view, Session& session, Asker& asker, FindingsDesk& findings, Selection& selection,
                 const Settings& settings)
    : view_(view), session_(session), asker_(asker), findings_(findings), selection_(selection), settings_(settings) {
  QObject::connect(&selection, &Selection::selected, &view, [this] { view_.select(selection_.part()); });
  QObject::connect(&selection, &Selection::pieceTaken, &view, [this] { view_.take(selection_.piece()); });
  QObject::connect(&view, &RunView::partSelected, &view,
                   [this](const QString& name) { selection_.select(name.toStdString()); });
  QObject::connect(&view, &RunView::pieceTaken, &view, [this](const Piece& piece) { selection_.take(piece); });
  QObject::connect(&view, &RunView::actWanted, &view, [this](PieceAct act) { selection_.want(act); });
}

void RunDesk::startAfresh() {
  drawing_ = nullptr;
  fresh_ = true;
}

bool RunDesk::follow(bool arranging, bool supplyEnd) {
  const auto& library = session_.library();
  auto shape = amp::shapeOf(session_.pencilled(), library);
  auto marks = session_.document().sheet().marks;
  std::erase_if(marks, [](const amp::Mark& mark) { return mark.field() != nullptr; });
  if (drawing_ && shape == drawn_ && marks == drawnMarks_ && arranging == view_.isArranging()) return false;
  drawn_ = std::move(shape);
  drawnMarks_ = std::move(marks);
  drawing_ = std::make_shared<const amp::Drawing>(
      amp::drawRun(session_.pencilled(), library, arranging ? amp::Form::spread : amp::Form::screen));
  RunContent content;
  content.drawing = *drawing_;
  content.gone = whatIsGone(drawnMarks_, *drawing_, library);
  content.putIn = whatIsPutIn(drawnMarks_);
  view_.setRun(std::move(content), settings_.resistors);
  view_.select(selection_.part());
  if (fresh_ && selection_.part().empty()) view_.showEnd(supplyEnd);
  fresh_ = false;
  arrange(arranging);
  return true;
}

void RunDesk::arrange(bool arranging) {
  if (!drawing_) return;
  if (!arranging) return view_.arrange({});
  view_.arrange(Arranging(*drawing_, session_.pencilled()));
  view_.take(selection_.piece());
}

void RunDesk::showReadings() {
  auto readings = runReadings(session_, asker_.idle(), findings_.findings());
  view_.setReadings(std::move(readings.labels), std::move(readings.volts), std::move(readings.stressed));
}

PaperRun RunDesk::onPaper() const {
  return paperRun(session_, asker_.idle(), findings_.findings(), session_.library(), settings_.resistors);
}

} // namespace vinegar::app
