#pragma once

#include "pages/voice/voice_view.h"
#include "predict/voice/fit.h"
#include "predict/voice/variants.h"

class QCheckBox;
class QLineEdit;
class QMenu;

namespace vinegar::app {

/// A wanted curve, drawn by points or read from a file, and the stock values that come near it.
class TargetView : public AnswerView {
  Q_OBJECT
public:
  TargetView(Page& page, SpanChoice& span);

  /// A target file, CSV, or another design for its curve; says what is wrong with it.
  Q_INVOKABLE void open(const QString& path);
  /// The target at hand into the design by this name, and back.
  Q_INVOKABLE void keep(const QString& name);
  Q_INVOKABLE void takeKept(const QString& name);
  /// The curve as it stands is the target again.
  Q_INVOKABLE void startOver();

protected:
  void put() override;
  void draw() override;
  void clear() override;
  void resizeEvent(QResizeEvent* event) override;

private:
  void takeCurve();
  void startFromCurve();
  void suggestParts();
  void nameAdd();
  void find();
  /// The curve of another design, or of this one as it was, as the target.
  void ofDesign(const QString& name, const std::shared_ptr<const amp::Design>& design);
  void fillMenu();
  void fillGrip();
  void take(const amp::Target& target, bool whole);
  [[nodiscard]] std::optional<amp::Target> asked(QString& wrong) const;
  void sayWrong(const QString& wrong);
  void movePoint(int dot, double decibels, bool done);
  void forgetFits();
  void fillSheet();

  Kept<predict::predictResponse> response_{*this, Weight::quick, Of::now};
  Kept<predict::predictFit> fit_{*this, Weight::heavy, Of::now};
  Kept<predict::predictVariants> theirs_{*this, Weight::heavy, Of::all};
  std::vector<predict::TargetPoint> target_;
  QString targetOf_;    ///< the span that it was drawn over
  bool sought_ = false; ///< values were asked for
  bool narrow_ = false;
  int shown_ = 0; ///< the set whose curve is drawn
  QLineEdit* parts_;
  QComboBox *series_, *grip_;
  QMenu* menu_;
  std::vector<amp::ToneBand> listed_; ///< that `grip_` names
  QCheckBox* level_;
  QPushButton *add_, *find_;
};

} // namespace vinegar::app
