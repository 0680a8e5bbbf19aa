#pragma once

#include "files/likenesses.h"
#include "pages/voice/voice_view.h"
#include "predict/voice/loudspeaker.h"
#include "predict/voice/variants.h"

class QDoubleSpinBox;

namespace vinegar::app {

/// What drives the amplifier and what it drives, by class: instruments, cables, speakers, each with what it does to the
/// response here.
class EndsView : public AnswerView {
  Q_OBJECT
public:
  EndsView(Page& page, SpanChoice& span);

  /// A loudspeaker by its impedance in a file; says what is wrong with it.
  Q_INVOKABLE void openImpedance(const QString& path);

protected:
  void put() override;
  void draw() override;
  void clear() override;

private:
  void fillSheet();
  /// The cables of what drives the amplifier, in the order of the run.
  [[nodiscard]] std::vector<const amp::ResolvedPart*> cables() const;
  void showCable();
  void layCable();
  [[nodiscard]] QString aboutMeasured() const;

  Kept<predict::predictVariants> variants_{*this, Weight::heavy, Of::now};
  tl::expected<std::vector<files::Likeness>, Problem> likenesses_;
  std::vector<QString> abouts_; ///< of the rows, with what they are
  struct Measured {
    QString name;
    predict::LoudspeakerFit fit;
  };
  std::optional<Measured> measured_;
  QWidget* cable_;
  QDoubleSpinBox *metres_, *picofarads_;
  int shown_ = -1;
  QString asked_; ///< from where to where
};

} // namespace vinegar::app
