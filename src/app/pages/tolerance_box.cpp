#include "pages/tolerance_box.h"

#include "theme/text.h"

namespace vinegar::app {
namespace {

predict::Tolerances with(double resistors, double film) {
  predict::Tolerances tolerances;
  tolerances.resistors = resistors;
  tolerances.film = film;
  return tolerances;
}

} // namespace

ToleranceBox::ToleranceBox(const QString& name, QWidget* parent) : QComboBox(parent) {
  setObjectName(name);
  setAccessibleName(tr("Tolerances"));
  for (const auto& [resistors, film] : {std::pair{0.05, 0.1}, {0.01, 0.05}, {0.1, 0.2}}) {
    addItem(tr("%1 % resistors, %2 % film").arg(100 * resistors).arg(100 * film),
            QVariant::fromValue(QPointF(resistors, film)));
    setItemData(count() - 1, plainTip(QString::fromStdString(predict::words(with(resistors, film)))), Qt::ToolTipRole);
  }
}

predict::Tolerances ToleranceBox::tolerances() const {
  const auto chosen = currentData().toPointF();
  return with(chosen.x(), chosen.y());
}

} // namespace vinegar::app

#include "moc_tolerance_box.cpp"
