#pragma once

#include "pages/feel/phrase_box.h"
#include "pages/kit/answer_pane.h"
#include "predict/feel/feel_choices.h"

namespace vinegar::app {

/// A view of the Feel page: an answer in a sentence, a plot and a table of what is played now.
class FeelView : public PageView, protected AnswerPane {
  Q_OBJECT
protected:
  FeelView(Page& page, PhraseBox& phrases, const Names& names);
  void ask(const Answers<predict::Idle>& idle) override;
  /// Asks what the view shows of what is played.
  virtual void put() = 0;
  [[nodiscard]] predict::BurstQuestion burst(double samplesPerSecond) const {
    return {phrases_.sound(), page().context().selection.played().inputPeak, samplesPerSecond};
  }
  /// The answer, with the word that it is not the last where it is coarse.
  void say(const QString& text, bool isCoarse);

  static constexpr double coarse = 6000, middling = 24000, fine = 48000; ///< samples a second

private:
  PhraseBox& phrases_;
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
