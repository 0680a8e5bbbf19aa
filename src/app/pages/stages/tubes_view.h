#pragma once

#include "pages/stages/stage_view.h"
#include "predict/stages/explain.h"

namespace vinegar::app {

class FigureSheet;
class Label;

/// Every tube at a glance, with what a meter read beside what is predicted; a reading is typed into its cell, that of
/// the chosen tube's screen under the table.
class TubesView : public StageView {
  Q_OBJECT
public:
  TubesView(Page& page, TubeChoice& choice);

protected:
  void put(const predict::Idle& now) override;
  void draw() override;
  void clear() override;

private:
  void drawScreen();
  void markChosen();
  void explain();
  void tellMeaning();
  [[nodiscard]] const double* readAt(const std::string& tube, const std::string& electrode) const; ///< null: not read
  void measure(const std::string& tube, const std::string& electrode, const QString& text);

  Kept<predict::predictStages> stages_{*this, Weight::quick, Of::inkAndNow};
  Kept<predict::explainReadings> explanation_{*this, Weight::quick, Of::now};
  FigureSheet* table_;
  QWidget* screenRow_;
  Label *screenSaid_, *screenOff_;
  QLineEdit* screenRead_;
  QLabel* meaning_;
};

} // namespace vinegar::app
