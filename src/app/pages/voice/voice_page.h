#pragma once

#include "pages/page.h"
#include "predict/idle.h"

class QCheckBox;
class QComboBox;

namespace vinegar::app {

class CurvePlot;
class KnobGrid;

/// What will it sound like? Response of the whole amplifier or of any span of it, with the knobs it is played at.
class VoicePage : public Page {
  Q_OBJECT
public:
  VoicePage(const PageContext& context, const PageFacts& facts);

  void restyle() override;
  [[nodiscard]] QByteArray saveView() const override;
  void restoreView(const QByteArray& view) override;
  [[nodiscard]] CurvePlot* plot() { return plot_; }

protected:
  void followDocument() override;
  void followIdle(const Answers<predict::Idle>& idle) override;
  void startAfresh() override;

private:
  [[nodiscard]] QString from() const;
  [[nodiscard]] QString to() const;
  void setSpan(const QString& from, const QString& to);
  void fillProbes(const amp::Circuit& circuit);
  void ask();
  void draw();

  Asking<predict::ResponseQuestion, predict::Response> response_;
  Answers<predict::Response> answers_;
  QString asked_; ///< the span, as the axis calls it
  QComboBox *from_, *to_;
  QPushButton* whole_;
  QCheckBox *phase_, *notes_;
  KnobGrid* knobs_;
  CurvePlot* plot_;
};

} // namespace vinegar::app
