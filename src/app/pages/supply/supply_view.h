#pragma once

#include "pages/page.h"
#include "plots/curve_plot.h"

namespace vinegar::app {

/// One of the views of the Supply page. Asked and drawn only while it is the one on screen.
class SupplyView : public View {
  Q_OBJECT
public:
  /// `withoutMains`: what it says of a design that has none.
  SupplyView(Page& page, const QString& withoutMains);

  /// The idle states are others, while the view is shown: asks, or says why there is nothing to ask.
  virtual void follow(const Answers<predict::Idle>& idle);
  /// Another document, or none with an answer: nothing asked, nothing shown.
  virtual void startAfresh();
  /// Whether its content holds the rails' volts, so that they need not stand beside it.
  [[nodiscard]] virtual bool holdsRails() const { return false; }
  virtual void restyle() {}
  [[nodiscard]] virtual PageFrame::Exports exports() { return {}; }
  [[nodiscard]] virtual CurvePlot* plot() { return nullptr; }
  [[nodiscard]] StatePane& state() { return *state_; }

protected:
  void setContent(QWidget* content);
  void own(AskingBase& asking);
  [[nodiscard]] Page& page() const { return page_; }
  /// Asks what the view shows; or draws it, where the idle states hold it.
  virtual void ask(const Answers<predict::Idle>& idle) = 0;
  /// Empties what is shown.
  virtual void clear() = 0;
  /// Says why there is no answer, or that it was cancelled.
  void sayProblem(const Problem& problem);

private:
  Page& page_;
  QString withoutMains_;
  StatePane* state_ = nullptr;
};

/// A view that is one plot.
class PlotView : public SupplyView {
  Q_OBJECT
public:
  PlotView(Page& page, const QString& fileName, const QString& withoutMains);
  void restyle() override { plot_->restyle(); }
  [[nodiscard]] PageFrame::Exports exports() override;
  [[nodiscard]] CurvePlot* plot() override { return plot_; }

protected:
  void clear() override { plot_->clear(); }
  /// Draws what came, or says why nothing did.
  template <class T> void draw(const Answers<T>& answers, CurvePlot::Picture picture) {
    if (picture.curves.empty() && answers.problem()) return sayProblem(*answers.problem());
    state().showContent();
    plot_->show(std::move(picture));
  }

private:
  CurvePlot* plot_;
  QString fileName_;
};

} // namespace vinegar::app
