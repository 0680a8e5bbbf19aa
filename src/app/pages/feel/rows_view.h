#pragma once

#include "pages/feel/feel_view.h"

namespace vinegar::app {

/// The burst through other supplies, a row each: B+ while it is played, and what comes of it. A row that is looked at
/// has its curve; one click pencils it.
class RowsView : public FeelView {
  Q_OBJECT
public:
  RowsView(Page& page, PhraseBox& phrases, predict::FeelSubject subject, const Names& names);

protected:
  void put() override { rows_.ask(question(coarse), question(middling)); }
  void draw() final;
  void clear() override { looked_ = -1; }
  [[nodiscard]] QString refusal(const predict::Idle& idle) const override;
  [[nodiscard]] virtual predict::FeelRowsQuestion question(double rate) const { return {subject_, burst(rate)}; }
  virtual void drawCurves();
  virtual void fillSheet();
  /// What the rows come to, in a sentence.
  [[nodiscard]] virtual QString said() const;
  [[nodiscard]] const predict::FeelRows* rows() const { return rows_->nowValue(); }
  [[nodiscard]] CoarseFine<predict::predictFeelRows>& asking() { return rows_; }

private:
  CoarseFine<predict::predictFeelRows> rows_{*this, Of::now};
  predict::FeelSubject subject_;
  int looked_ = -1, rebiasColumn_ = -1;
};

/// A row's title, in the reader's language.
QString titleOf(const predict::FeelRow& row);
/// "4.2 %"
QString percentOf(double share);

} // namespace vinegar::app
