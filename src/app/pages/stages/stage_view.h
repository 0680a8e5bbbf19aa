#pragma once

#include "pages/kit/page_view.h"
#include "predict/stages/stages.h"

class QComboBox;

namespace vinegar::app {

/// Which tube the page looks at: one box for all its views, that follows what is selected elsewhere.
class TubeChoice : public QWidget {
  Q_OBJECT
public:
  explicit TubeChoice(const PageContext& context);

  [[nodiscard]] std::string tube() const;
  void choose(const std::string& tube);
  /// The tubes of the design; the choice stays where its tube does.
  void fill(const predict::Idle& idle);
  void clear();

Q_SIGNALS:
  void chosen();

private:
  void followSelection();

  PageContext context_;
  QComboBox* box_;
};

/// A view of the Stages page: of a design with tubes.
class StageView : public PageView {
  Q_OBJECT
public:
  StageView(Page& page, TubeChoice& choice);

protected:
  [[nodiscard]] QString refusal(const predict::Idle& idle) const override;
  [[nodiscard]] TubeChoice& choice() const { return choice_; }
  void ask(const Answers<predict::Idle>& idle) final;
  /// Asks what the view shows of the chosen tube, of what stands now.
  virtual void put(const predict::Idle& now) = 0;
  void clear() override { choice_.clear(); }

private:
  TubeChoice& choice_;
};

} // namespace vinegar::app
