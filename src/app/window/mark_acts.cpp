#include "window/mark_acts.h"

#include "amp/acts/numbering.h"
#include "theme/text.h"
#include "widgets/readings.h"
#include "window/ink_dialog.h"

#include <QDateTime>

namespace vinegar::app {
namespace {

/// ISO 8601, local time with its offset.
std::string dateNow() {
  const auto now = QDateTime::currentDateTime();
  return now.toOffsetFromUtc(now.offsetFromUtc()).toString(Qt::ISODate).toStdString();
}

} // namespace

void MarkActs::inkAsked(QWidget* window) {
  const auto& document = session_.document();
  if (document.sheet().marks.empty()) return;
  QStringList lines;
  const auto settled = amp::settle(document.ink, session_.library(), document.sheet().marks);
  for (std::size_t i = 0; i < settled.fallen.size(); ++i) {
    const auto words = QString::fromStdString(
        amp::describe(document.sheet().marks[i], document.ink, settled.design, session_.library()));
    lines << (settled.fallen[i]
                  ? tr("stays in pencil, since %1: %2").arg(QString::fromStdString(settled.fallen[i]->message), words)
                  : words);
  }
  if (const auto problems = amp::check(settled.design, session_.library()); !problems.empty())
    lines << warned(
        tr("inked as it is, this amplifier has no answer: %1").arg(QString::fromStdString(problems.front().line())));
  auto* dialog = new InkDialog(lines, window);
  QObject::connect(dialog, &InkDialog::reasonGiven, dialog, [this](const QString& reason) {
    session_.edit(tr("ink"),
                  [&](amp::Document& d) { amp::ink(d, session_.library(), reason.toStdString(), dateNow()); });
  });
  dialog->open();
}

void MarkActs::rubOutAll() {
  session_.edit(tr("rub out all"), [](amp::Document& d) { amp::rubOutAll(d); });
}

void MarkActs::selectNext() {
  // Of each mark the first part that can be looked at; what was taken out is looked at in the list of marks.
  std::vector<std::string> places;
  std::size_t next = 0;
  for (const auto& mark : session_.document().sheet().marks) {
    const auto touched = amp::partsOf(mark);
    const auto seen = std::find_if(touched.begin(), touched.end(), [&](const std::string& part) {
      return amp::findPart(session_.pencilled(), session_.library(), part).has_value();
    });
    if (seen == touched.end()) continue;
    places.push_back(*seen);
    if (touched.contains(selection_.part())) next = places.size();
  }
  if (!places.empty()) selection_.select(places[next % places.size()]);
}

void MarkActs::renumber() {
  std::map<std::string, std::string> names;
  const auto chosen = selection_.part();
  session_.edit(tr("numbering"), [&](amp::Document& d) { names = amp::renumber(d, session_.library(), dateNow()); });
  if (names.empty()) return say_(tr("The parts are numbered by the signal already."));
  selection_.select(names.contains(chosen) ? names.at(chosen) : chosen);
  say_(tr("%1 parts have new numbers: V1 is the first tube that the signal meets, and the supply comes last. The log "
          "has the old ones; Ctrl+Z brings them back.")
           .arg(names.size()));
}

} // namespace vinegar::app
