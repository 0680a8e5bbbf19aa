#pragma once

#include "pages/feel/feel_view.h"

class QComboBox;
class QSlider;

namespace vinegar::app {

/// A burst over time: the supply and the output while it is played, the other nodes, the bias, or a few cycles at a
/// moment; and what is read of it.
class BurstView : public FeelView {
  Q_OBJECT
public:
  BurstView(Page& page, PhraseBox& phrases);

  [[nodiscard]] QString look() const;
  void setLook(const QString& id);

protected:
  void put() override;
  void clear() override;

private:
  void draw();
  /// The best there is: the fine answers, or a glance at something newer beside what is finely known of it.
  [[nodiscard]] const Answers<predict::Feel>& shown() const;
  [[nodiscard]] bool isCoarse() const { return fine_.empty() || coarse_.edition > fine_.edition; }
  void merge();
  void say(const predict::Feel& now, const predict::Feel* ink);
  void drawSupply(CurvePlot::Picture& picture);
  void drawNodes(CurvePlot::Picture& picture);
  void drawBias(CurvePlot::Picture& picture);
  void drawMoment(CurvePlot::Picture& picture);
  void fillSheet(const predict::Feel& now, const predict::Feel* ink);

  Asking<predict::BurstQuestion, predict::Feel> askCoarse_, askFine_;
  Asking<predict::BurstQuestion, predict::Blame> askBlame_;
  Answers<predict::Feel> coarse_, fine_, merged_;
  predict::BurstQuestion asked_;
  Answers<predict::Blame> blame_;
  QComboBox* look_;
  QSlider* moment_;
  std::vector<std::string> parts_; ///< of the table's rows
};

} // namespace vinegar::app
