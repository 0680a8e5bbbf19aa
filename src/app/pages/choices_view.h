#pragma once

#include "predict/supply_choices.h"
#include "window/latest_wins.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace vinegar::app {

class Session;

/// What each choice of a rectifier, reservoir, series resistor or mains does to every rail and tube, side by side; a
/// row pencils in by its button. Below it the helper that finds a series resistor from a wanted drop.
class ChoicesView : public QWidget {
  Q_OBJECT
public:
  explicit ChoicesView(Session& session, QWidget* parent = nullptr);

  /// Asks anew for the design that stands.
  void ask(std::shared_ptr<const amp::Design> design);
  [[nodiscard]] bool idle() const { return work_.idle() && resistorWork_.idle(); }

private:
  void fillSubjects();
  void showRows();
  void pencil(const std::vector<amp::Change>& changes, const QString& title);
  void findResistor();
  void showResistor(const tl::expected<predict::SeriesResistorAnswer, Problem>& answer);
  void sayOfResistor(const QString& text, bool danger);
  void copyTable();

  Session& session_;
  std::shared_ptr<const amp::Design> design_;
  std::vector<predict::Consequence> rows_;
  QComboBox* subject_;
  QTableWidget* table_;
  QLineEdit *drop_, *full_;
  QLabel* found_;
  QPushButton* pencilFound_;
  std::vector<amp::Change> foundChanges_;
  LatestWins work_, resistorWork_;
};

} // namespace vinegar::app
