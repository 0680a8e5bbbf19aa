#pragma once

#include "pages/voice/voice_view.h"
#include "predict/voice/readouts.h"

class QCheckBox;

namespace vinegar::app {

/// The response of the span with what it says in numbers, and what makes each of them.
class CurveView : public VoiceView {
  Q_OBJECT
public:
  CurveView(Page& page, SpanChoice& span);

  [[nodiscard]] QStringList flags() const;
  void setFlags(const QByteArray& flags);
  /// A loudspeaker's measured level over frequency, kept with the design; says what is wrong with the file. Empty: asks
  /// for it.
  Q_INVOKABLE void openSound(const QString& path = {});

protected:
  void put() override;
  void draw() override;
  void clear() override;
  void resizeEvent(QResizeEvent* event) override;

private:
  enum class Heard {
    asItIs,
    thirdOctaves,
    curveA,
    at60,
    at90,
    closedBox,
    openBack,
    ownSound,
    otherSound,
  };
  [[nodiscard]] Heard heard() const;
  void fillHeard();
  /// The first loudspeaker's terminal, or where the volts across its motion stand; empty without one.
  [[nodiscard]] QString speakerNode(bool cone) const;
  void fillSheet();
  void addPartials(CurvePlot::Picture& picture, const predict::Response* response) const;
  void addMarks(CurvePlot::Picture& picture) const;

  Kept<predict::predictResponse> response_{*this, Weight::quick, Of::all};
  Kept<predict::predictReadouts> readouts_{*this, Weight::heavy, Of::inkAndNow};
  QString asked_, askedTo_; ///< the span, as the axis calls it; the node that is asked for
  QString soundOf_;         ///< the loudspeaker that the list names
  int looked_ = -1;         ///< the row of the sheet that is looked at
  QWidget* side_;           ///< tools and readings, right of the plot
  QCheckBox *phase_, *difference_, *notes_;
  QComboBox *heard_, *note_;
  CurvePlot* plot_;
  FigureSheet* sheet_;
  std::vector<std::array<std::string, 2>> makers_; ///< of the sheet's rows
};

} // namespace vinegar::app
