#pragma once

#include "amp/change/alignment.h"
#include "pages/voice/voice_view.h"
#include "predict/voice/readouts.h"
#include "predict/voice/section_gains.h"

class QCheckBox;

namespace vinegar::app {

/// The design as it stands beside an earlier revision of it or another amplifier altogether: curves, their difference,
/// and what differs in readings and parts, sections set against each other by what they do.
class CompareView : public AnswerView {
  Q_OBJECT
public:
  CompareView(Page& page, SpanChoice& span);

  /// Another design's file; says what is wrong with it.
  Q_INVOKABLE void open(const QString& path);

protected:
  void put() override;
  void draw() override;
  void clear() override;

private:
  void fillOthers();
  struct Chosen {
    QString name;
    std::shared_ptr<const amp::Design> design;
  };
  /// What the list shows chosen; false: it has no answer, which is told.
  bool take(const QComboBox& box, Chosen& chosen);
  void fillSheet();

  Kept<predict::predictResponse> response_{*this, Weight::heavy, Of::all};
  Kept<predict::predictReadouts> readouts_{*this, Weight::heavy, Of::all};
  Kept<predict::predictSectionGains> gains_{*this, Weight::heavy, Of::all};
  [[nodiscard]] std::pair<const predict::SectionGains*, const predict::SectionGains*> gainsOf() const;

  Chosen first_, second_;
  QString opened_; ///< opened: the name of a design from a file, for the list
  std::shared_ptr<const amp::Design> openedDesign_;
  QComboBox *here_, *others_;
  QCheckBox *levelled_, *difference_;
};

} // namespace vinegar::app
