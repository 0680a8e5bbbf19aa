#include "pages/arrange/marks_view.h"

#include "widgets/readings.h"

namespace vinegar::app {

MarksView::MarksView(Session& session, QWidget* parent) : FigureSheet(parent), session_(session) {
  setObjectName(QStringLiteral("marksTable"));
  setAccessibleName(tr("Pencil marks"));
  setStretched({1, 2});
}

void MarksView::follow() {
  constexpr std::size_t most = 200; // more than anybody reads; a file may hold any number
  const auto& document = session_.document();
  const auto& marks = document.sheet().marks;
  const auto& library = session_.library();
  std::vector<Row> rows;
  const auto shown = std::min(marks.size(), most);
  const std::vector<amp::Mark> looked(marks.begin(), marks.begin() + static_cast<std::ptrdiff_t>(shown));
  const auto settled = amp::settle(document.ink, library, looked);
  for (std::size_t i = 0; i < shown; ++i) {
    const auto words = QString::fromStdString(amp::describe(marks[i], document.ink, settled.design, library));
    Row row;
    row.cells.push_back({words, words, false, false, true});
    // Nothing rests on a mere value.
    const auto leaning = settled.fallen[i] || marks[i].field() ? std::vector<std::size_t>{i}
                                                               : amp::leaningOn(document.ink, library, looked, i);
    QStringList also;
    for (const auto other : leaning)
      if (other != i)
        also << QString::fromStdString(amp::describe(marks[other], document.ink, settled.design, library));
    QString note;
    if (settled.fallen[i])
      note = warned(tr("waits: %1").arg(QString::fromStdString(settled.fallen[i]->message)));
    else if (!also.isEmpty())
      note = tr("with it goes %1").arg(also.join(QStringLiteral("; ")));
    row.cells.push_back({note, note, settled.fallen[i].has_value(), false, true});
    row.act = leaning.size() > 1 ? tr("Rub out %1").arg(leaning.size()) : tr("Rub out");
    row.actName = QStringLiteral("rubOut %1").arg(i);
    row.actTip = tr("Rub out: %1").arg(words);
    row.acted = [this, i] {
      session_.edit(tr("rub out a mark"), [&](amp::Document& d) { amp::rubOut(d, session_.library(), i); });
    };
    rows.push_back(std::move(row));
  }
  setSheet({tr("Mark"), marks.size() > most ? tr("the first %1 of %2").arg(most).arg(marks.size()) : QString()},
           std::move(rows), true);
}

} // namespace vinegar::app

#include "moc_marks_view.cpp"
