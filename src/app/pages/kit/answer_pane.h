#pragma once

#include "pages/kit/page_view.h"

class QHBoxLayout;
class QLayout;

namespace vinegar::app {

/// What most views are: an answer in a sentence, a plot, and a table beside it. A base of such a view, after PageView.
class AnswerPane {
protected:
  struct Names {
    const char *answer, *sheet;  ///< object names
    QString about;               ///< of the table, for screen readers
    QString plotFile, sheetFile; ///< that exports propose; empty: it is not exported
  };
  AnswerPane(PageView& view, const Names& names);
  /// How plot and table share the width.
  void setShares(int plot, int sheet);
  /// Over the answer, or between it and what it is about.
  void addFields(QLayout* fields);
  void addUnderAnswer(QWidget* fields);
  [[nodiscard]] QLabel& answer() const { return *answer_; }
  [[nodiscard]] CurvePlot& curves() const { return *plot_; }
  [[nodiscard]] FigureSheet& sheet() const { return *sheet_; }

private:
  QVBoxLayout* column_;
  QHBoxLayout* row_;
  QLabel* answer_;
  CurvePlot* plot_;
  FigureSheet* sheet_;
};

} // namespace vinegar::app
