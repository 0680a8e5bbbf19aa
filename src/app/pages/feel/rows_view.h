#pragma once

#include "pages/feel/feel_view.h"

class QComboBox;
class QDoubleSpinBox;

namespace vinegar::app {

/// The burst through other supplies, a row each: B+ while it is played, and what comes of it. A row that is looked at
/// has its curve; one click pencils it.
class RowsView : public FeelView {
  Q_OBJECT
public:
  RowsView(Page& page, PhraseBox& phrases, predict::FeelSubject subject, Names names);

protected:
  void put() override;
  void clear() override;
  [[nodiscard]] QString refusal(const predict::Idle& idle) const override;
  [[nodiscard]] virtual predict::FeelRowsQuestion question(double rate) const { return {subject_, burst(rate)}; }
  virtual void draw();
  virtual void fillSheet();
  /// What the rows come to, in a sentence.
  [[nodiscard]] virtual QString said() const;
  [[nodiscard]] const predict::FeelRows* rows() const { return answers_.nowValue(); }
  [[nodiscard]] int looked() const { return looked_; }
  [[nodiscard]] bool isCoarse() const { return coarse_; }
  /// Coarse ones at once, then fine ones.
  virtual void askRows();
  /// The cells that all such tables share: B+ before, droop, times.
  void addCells(FigureSheet::Row& line, const predict::FeelRow& row) const;
  void askFine();

private:
  predict::FeelSubject subject_;
  Asking<predict::FeelRowsQuestion, predict::FeelRows> ask_, askFine_;
  Answers<predict::FeelRows> answers_;
  predict::FeelRowsQuestion asked_;
  bool coarse_ = true;
  int looked_ = -1;
};

/// What the droop is made of: each part as if it were perfect; and over time what supply, bias and blocking take.
class MakersView : public RowsView {
  Q_OBJECT
public:
  MakersView(Page& page, PhraseBox& phrases);

protected:
  void put() override;
  void clear() override;
  void draw() override;
  void fillSheet() override;
  [[nodiscard]] QString said() const override;

private:
  Asking<predict::BurstQuestion, predict::Blame> askBlame_;
  Answers<predict::Blame> blame_;
  predict::BurstQuestion blamed_;
};

/// More sag or less: stock values and types that come nearest to a wished droop and recovery.
class SagView : public RowsView {
  Q_OBJECT
public:
  SagView(Page& page, PhraseBox& phrases);

protected:
  [[nodiscard]] predict::FeelRowsQuestion question(double rate) const override;
  /// Fine ones alone: they are looked for coarsely anyway.
  void askRows() override { askFine(); }
  void put() override;
  void clear() override;
  [[nodiscard]] QString said() const override;

private:
  Asking<predict::FeelRowsQuestion, predict::FeelRows> askLike_;
  QDoubleSpinBox *share_, *back_;
  QComboBox* like_;
  predict::FeelRows known_;
};

/// Ripple against droop over the reservoir's values, for the design's rectifier and two others.
class BalanceView : public RowsView {
  Q_OBJECT
public:
  BalanceView(Page& page, PhraseBox& phrases);

protected:
  void draw() override;
  [[nodiscard]] QString said() const override;
};

} // namespace vinegar::app
