#pragma once

#include "pages/kit/kept.h"
#include "pages/kit/page.h"
#include "plots/curve_plot.h"
#include "widgets/figure_sheet.h"

class QLabel;
class QStackedWidget;
class QVBoxLayout;

namespace vinegar::app {

/// Gives a table's row a button that pencils changes in; and a row with nothing but that.
void letPencil(FigureSheet::Row& row, Session& session, const std::vector<amp::SetField>& changes,
               const QString& title);
FigureSheet::Row pencilRow(Session& session, const std::vector<amp::SetField>& changes, const QString& title);

/// One of the views of a page. Asked and drawn only while it is the one on screen.
class PageView : public View {
  Q_OBJECT
public:
  explicit PageView(Page& page) : page_(page) {}

  /// The idle states are others, while the view is shown: asks, or says why there is nothing to ask.
  virtual void follow(const Answers<predict::Idle>& idle);
  /// Another document, or none with an answer: nothing asked, nothing shown.
  virtual void startAfresh();
  /// Whether the page's side, which stands left of the views, would only say again what this one shows.
  [[nodiscard]] virtual bool needsNoSide() const { return false; }
  virtual void restyle();
  /// Of its plots and tables, as they were made.
  [[nodiscard]] virtual PageFrame::Exports exports();
  /// The first; null where it has none.
  [[nodiscard]] CurvePlot* plot() const { return plots_.empty() ? nullptr : plots_.front().first; }
  [[nodiscard]] StatePane& state() { return *state_; }

protected:
  void setContent(QWidget* content);
  /// The same of a column without margins, to be filled.
  QVBoxLayout* contentColumn(int spacing);
  [[nodiscard]] Asker& asker() const override { return page_.context().asker; }
  void own(AskingBase& asking) override;
  [[nodiscard]] Page& page() const { return page_; }
  void select(const std::string& part) { page_.context().selection.select(part); }
  /// Emptied with the view, and exported by that file name where there is one.
  QLabel* newAnswer(const char* name, double points = 12);
  CurvePlot* newPlot(const QString& file = {});
  FigureSheet* newSheet(const char* name, const QString& about, const QString& file = {});
  /// What stands: the pencil's answer, else the ink's, with the content shown; null where there is none, with the
  /// reason said.
  template <class A> const A* standing(const Answers<A>& answers) {
    const auto* now = answers.nowValue();
    if (now)
      state().showContent();
    else if (const auto* problem = answers.problem())
      sayProblem(*problem);
    return now;
  }
  /// Asks anew what the view shows, if it is on screen: of another tube, another input.
  void again();
  /// What it says of a design that has an answer but not what the view is about; empty where there is something.
  [[nodiscard]] virtual QString refusal(const predict::Idle&) const { return {}; }
  /// Asks what the view shows; or draws it, where the idle states hold it.
  virtual void ask(const Answers<predict::Idle>& idle) = 0;
  /// Empties what is shown but for the answers that are kept and what `new...` made, which are empty by then.
  virtual void clear() {}
  /// Says why there is no answer, or that it was cancelled.
  void sayProblem(const Problem& problem);

private:
  friend class AnswerPane;
  Page& page_;
  StatePane* state_ = nullptr;
  std::vector<QLabel*> answers_;
  std::vector<std::pair<CurvePlot*, QString>> plots_; ///< with the file names of their exports
  std::vector<std::pair<FigureSheet*, QString>> sheets_;
};

/// A page of several views, of which one is on screen.
class ViewsPage : public Page {
  Q_OBJECT
public:
  using Page::Page;

  void restyle() override;
  [[nodiscard]] QByteArray saveView() const override { return frame().viewId().toUtf8(); }
  void restoreView(const QByteArray& view) override;
  void showView(int view);
  /// Of the view on screen; null where it has none.
  [[nodiscard]] CurvePlot* plot() { return view(viewOnScreen()).plot(); }

protected:
  /// In a derived class's constructor: its views in their order, then `startViews`. Returns the view's number.
  int addView(const char* id, const QString& title, PageView* view);
  /// `side` stands left of them; null: nothing does.
  void startViews(QWidget* side = nullptr);
  [[nodiscard]] int viewOnScreen() const;
  [[nodiscard]] PageView& view(int index) const;
  void followIdle(const Answers<predict::Idle>& idle) override;
  void startAfresh() override;

private:
  QStackedWidget* stack_ = nullptr;
  QWidget* side_ = nullptr;
};

} // namespace vinegar::app
