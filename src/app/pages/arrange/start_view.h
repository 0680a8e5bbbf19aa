#pragma once

#include "pages/kit/page.h"
#include "predict/levels/levels.h"
#include "predict/overview/trial.h"

class QLabel;

namespace vinegar::app {

class FigureSheet;
class RunPicture;

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

protected:
  [[nodiscard]] Asker& asker() const override { return page_.context().asker; }
  void draw() override;

private:
  struct Skeleton {
    QString name;
    bool own;
    std::shared_ptr<const amp::Design> design;
    QString about;   ///< what it is for
    QString problem; ///< why the file could not be read
  };

  Page& page_;
  Kept<predict::predictTrial> trial_{*this, Weight::heavy};
  Kept<predict::predictCleanPower> power_{*this, Weight::heavy};
  void showPicture(int row);

  FigureSheet* table_;
  QLabel* about_;
  RunPicture* picture_;
  std::vector<Skeleton> skeletons_;
  std::uint64_t editions_ = 0;
};

} // namespace vinegar::app
