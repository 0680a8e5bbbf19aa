#pragma once

#include "pages/kit/page.h"
#include "predict/overview/trial.h"
#include "theme/text.h"

class QButtonGroup;
class QStackedWidget;
class QPushButton;

namespace vinegar::app {

class FigureTable;
class InHand;
class MarksView;
class Paragraph;
class RunPicture;
class Shelf;
class StartView;
class ValuesView;

/// What stands where, and what would another section do? The piece of the run in hand at the left, the shelf beside it,
/// and of what is looked at there its drawing and its effect on this amplifier, worked out before it is put in.
class ArrangePage : public Page {
  Q_OBJECT
public:
  ArrangePage(const PageContext& context, const PageFacts& facts);
  void restyle() override;
  [[nodiscard]] QByteArray saveView() const override;
  void restoreView(const QByteArray& view) override;
  /// How what is looked at would come in.
  enum class Way { after, instead, before, beside };

protected:
  void draw() override;
  void followDocument() override;
  void followIdle(const Answers<predict::Idle>& idle) override;
  void startAfresh() override;

private:
  void showView(int view);
  void followPiece();
  void fillShelf();
  void look();
  /// The design as it stands and with what is looked at; says why there is no such.
  Sides trialSides();
  void put();
  void act(PieceAct act);
  void choose(Way way);
  void move(int by);
  void doIt(const QString& name, const tl::expected<amp::Design, Problem>& design, const Piece& then);
  [[nodiscard]] Way way() const;
  [[nodiscard]] amp::Spot spot() const;
  /// The amplifier with what is looked at in it.
  [[nodiscard]] tl::expected<amp::Design, Problem> trial(const amp::SectionTemplate& section) const;

  Kept<predict::predictTrial> trial_{*this, Weight::heavy};
  InHand* inHand_;
  QStackedWidget* stack_;
  ValuesView* values_;
  MarksView* marks_;
  StartView* start_;
  bool fromNothing_ = false; ///< of an empty design the shelf is wanted, not the start
  QButtonGroup* ways_;
  Shelf* shelf_;
  RunPicture* picture_;
  Label *title_, *why_;
  Paragraph* use_;
  FigureTable* effect_;
  QPushButton* put_;
  std::uint64_t editions_ = 0;
  std::vector<amp::SectionUse> followed_; ///< the sections that the shelf was filled for, without values
};

} // namespace vinegar::app
