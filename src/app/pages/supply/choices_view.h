#pragma once

#include "pages/supply/supply_view.h"
#include "predict/choices/consequences.h"
#include "predict/supply/regulation.h"

class QComboBox;
class QLineEdit;

namespace vinegar::app {

class FigureSheet;

/// What each choice of a rectifier, reservoir, series resistor or mains does to every rail and tube, side by side; a
/// row pencils in by its button. Below it the helper that finds a series resistor from a wanted drop.
class ChoicesView : public SupplyView {
  Q_OBJECT
public:
  explicit ChoicesView(Page& page);

  [[nodiscard]] bool needsNoSide() const override { return true; }

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void draw() override;
  void clear() override;

private:
  void fillSubjects(const amp::Design& design);
  void put();
  void showRows(const std::vector<predict::Consequence>& rows);
  void findResistor();
  void showResistor(const tl::expected<std::shared_ptr<const predict::SeriesResistorAnswer>, Problem>& answer);
  void sayOfResistor(const QString& text, bool danger);

  CoarseFine<predict::predictConsequences> consequences_{*this, Of::now}; ///< finely with the new bias
  Kept<predict::predictSeriesResistor> resistor_{*this, Weight::heavy, Of::now};
  std::vector<predict::Consequence> rows_;
  int rebiasColumn_ = -1;
  QComboBox* subject_;
  FigureSheet* table_;
  QLineEdit *drop_, *full_;
  QLabel* found_;
  QPushButton* pencilFound_;
  std::vector<amp::SetField> foundChanges_;
};

} // namespace vinegar::app
