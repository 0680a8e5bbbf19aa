#include "widgets/pick_list.h"

#include <QComboBox>
#include <QSignalBlocker>

namespace vinegar::app {

bool refill(QComboBox& box, const QStringList& lines, const QString& otherwise) {
  return refill(box, lines, lines, otherwise);
}

bool refill(QComboBox& box, const QStringList& lines, const QStringList& data, const QString& otherwise) {
  QStringList present;
  for (int i = 0; i < box.count(); ++i)
    present << box.itemText(i);
  if (present == lines) return false;
  const QString chosen = box.currentData().toString();
  const QSignalBlocker quiet(&box);
  box.clear();
  for (qsizetype i = 0; i < lines.size(); ++i)
    box.addItem(lines[i], data[i]);
  for (const auto& wanted : {chosen, otherwise})
    if (const auto at = data.indexOf(wanted); at >= 0) {
      box.setCurrentIndex(static_cast<int>(at));
      break;
    }
  return true;
}

} // namespace vinegar::app
