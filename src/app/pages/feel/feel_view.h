#pragma once

#include "pages/feel/phrase_box.h"
#include "pages/page_view.h"
#include "predict/feel/feel_choices.h"

class QLabel;

namespace vinegar::app {

/// A view of the Feel page: an answer in a sentence, a plot and a table of what is played now.
class FeelView : public PageView {
  Q_OBJECT
public:
  void restyle() override { plot_->restyle(); }
  [[nodiscard]] CurvePlot* plot() override { return plot_; }
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  struct Names {
    const char *answer, *sheet; ///< object names
    QString about;              ///< of the table, for screen readers
    QString file;               ///< that exports propose
  };
  FeelView(Page& page, PhraseBox& phrases, Names names);
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;
  /// Asks what the view shows of what is played.
  virtual void put() = 0;
  [[nodiscard]] predict::BurstQuestion burst(double samplesPerSecond) const {
    return {phrases_.sound(), page().context().selection.played().inputPeak, samplesPerSecond};
  }
  void setShares(int plot, int sheet);
  /// Over the plot and the table.
  void addFields(QWidget* fields);
  [[nodiscard]] QLabel& answer() const { return *answer_; }
  [[nodiscard]] CurvePlot& curves() const { return *plot_; }
  [[nodiscard]] FigureSheet& sheet() const { return *sheet_; }
  void select(const std::string& part) { page().context().selection.select(part); }

  static constexpr double coarse = 6000, middling = 24000, fine = 48000; ///< samples a second

private:
  PhraseBox& phrases_;
  Names names_;
  QVBoxLayout* column_;
  QHBoxLayout* row_;
  QLabel* answer_;
  CurvePlot* plot_;
  FigureSheet* sheet_;
};

/// "B+ (A)": of the rail that feeds the output stage.
QString railWords(const std::string& rail);
/// "13.3 V, 4.2 %"
QString droopWords(const predict::RailDip& dip);
/// "62 ms"; "1.2 s"; that there is none where it is not a number.
QString secondsWords(double seconds);
/// A frequency by its nearest note: "182 Hz, F#3 -28 ct".
QString noteWords(double hertz);

} // namespace vinegar::app
