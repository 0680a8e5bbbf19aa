#pragma once

#include "pages/voice/voice_view.h"
#include "predict/voice/travel.h"

class QCheckBox;

namespace vinegar::app {

/// One control through its travel, how evenly it works and what another law or value would do; and where it and the
/// controls beside it can reach together.
class ControlsView : public AnswerView {
  Q_OBJECT
public:
  ControlsView(Page& page, SpanChoice& span);

protected:
  void put() override;
  void draw() override;
  void clear() override;

private:
  void fillControls();
  /// The pots of the chosen control's section, itself first.
  [[nodiscard]] std::vector<std::string> company() const;
  void fillSheet(const predict::Travel& travel);
  /// Of a switch: what stands at each position, and what it does against the first.
  void fillPositions(const predict::Travel& travel);
  [[nodiscard]] std::vector<const amp::CompiledPart*> partsAt(const std::string& control, std::size_t position) const;
  void takeTyped(const std::string& name, const QString& typed);

  Kept<predict::predictTravel> travel_{*this, Weight::heavy, Of::now};
  Kept<predict::predictEnvelope> envelope_{*this, Weight::heavy, Of::now};
  QString asked_; ///< from where to where
  QComboBox* control_;
  QCheckBox *reach_, *alike_;
  std::vector<std::vector<std::string>> standing_; ///< the parts at each row's position
};

} // namespace vinegar::app
