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
  void draw() override;
  void clear() override { parts_.clear(); }

private:
  [[nodiscard]] static QString said(const predict::Feel& now, const predict::Feel* ink);
  void drawSupply(CurvePlot::Picture& picture);
  void drawNodes(CurvePlot::Picture& picture);
  void drawBias(CurvePlot::Picture& picture);
  void drawMoment(CurvePlot::Picture& picture);
  void fillSheet(const predict::Feel& now, const predict::Feel* ink);

  CoarseFine<predict::predictFeel> burst_{*this, Of::all};
  Kept<predict::predictBlame> blame_{*this, Weight::heavy, Of::inkAndNow};
  QComboBox* look_;
  QSlider* moment_;
  std::vector<std::string> parts_; ///< of the table's rows
};

} // namespace vinegar::app
