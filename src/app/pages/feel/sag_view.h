#pragma once

#include "pages/feel/rows_view.h"

class QComboBox;
class QDoubleSpinBox;

namespace vinegar::app {

/// More sag or less: stock values and types that come nearest to a wished droop and recovery.
class SagView : public RowsView {
  Q_OBJECT
public:
  SagView(Page& page, PhraseBox& phrases);

protected:
  [[nodiscard]] predict::FeelRowsQuestion question(double rate) const override;
  void put() override;
  [[nodiscard]] QString said() const override;

private:
  void askRows();

  Kept<predict::predictFeelRows> others_{*this, Weight::heavy, Of::now}; ///< rectifiers, and their droop
  QDoubleSpinBox *share_, *back_;
  QComboBox* like_;
};

} // namespace vinegar::app
