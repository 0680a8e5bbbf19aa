#pragma once

#include "pages/page.h"
#include "predict/levels/levels.h"
#include "predict/overview/trial.h"

namespace vinegar::app {

class FigureSheet;

/// What a new amplifier can start from: skeletons, shipped and the builder's own, each a real design with its computed
/// figures beside it.
class StartView : public View {
  Q_OBJECT
public:
  explicit StartView(Page& page);
  /// Reads the folders anew.
  void follow();

Q_SIGNALS:
  void fromNothing();

private:
  void draw();
  struct Skeleton {
    QString name;
    bool own;
    std::shared_ptr<const amp::Design> design;
    QString problem; ///< why the file could not be read
  };

  Page& page_;
  Asking<predict::TrialQuestion, predict::Trial> trial_;
  Asking<predict::CleanPowerQuestion, predict::CleanPowerAnswer> power_;
  Answers<predict::Trial> trials_;
  Answers<predict::CleanPowerAnswer> powers_;
  FigureSheet* table_;
  std::vector<Skeleton> skeletons_;
  std::uint64_t editions_ = 0;
};

} // namespace vinegar::app
