#pragma once

#include "pages/voice/voice_view.h"
#include "predict/readouts.h"

class QCheckBox;

namespace vinegar::app {

/// The design as it stands beside an earlier revision of it or another amplifier altogether: curves, their difference,
/// and what differs in readings and parts, sections set against each other by what they do.
class CompareView : public AnswerView {
  Q_OBJECT
public:
  CompareView(Page& page, SpanChoice& span);

  [[nodiscard]] PageFrame::Exports exports() override { return page().exportsOf(sheet(), tr("comparison")); }
  /// Another design's file; says what is wrong with it.
  Q_INVOKABLE void open(const QString& path);

protected:
  void put() override;
  void clear() override;

private:
  void fillOthers();
  void takeOther(int index);
  void draw();
  void fillSheet();

  Asking<predict::ResponseQuestion, predict::Response> response_;
  Asking<predict::ReadoutsQuestion, predict::Readouts> readouts_;
  Answers<predict::Response> answers_;
  Answers<predict::Readouts> read_;
  std::shared_ptr<const amp::Design> other_;
  QString otherName_, opened_; ///< opened: the name of a design from a file, for the list
  std::shared_ptr<const amp::Design> openedDesign_;
  QComboBox* others_;
  QCheckBox *levelled_, *difference_;
};

} // namespace vinegar::app
