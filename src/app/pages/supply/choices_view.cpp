#include "pages/supply/choices_view.h"

#include "predict/supply/held.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/paragraph.h"
#include "widgets/pick_list.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;

/// Power tubes that stand alike share a column; the small ones are in the tooltip.
struct TubeColumn {
  QString title;
  std::size_t tube;
};

std::vector<TubeColumn> tubeColumns(const predict::Consequence& model) {
  std::vector<TubeColumn> columns;
  for (std::size_t i = 0; i < model.tubes.size(); ++i) {
    const auto& tube = model.tubes[i];
    if (tube.plateWatts < 1) continue;
    const auto name = QString::fromStdString(tube.name);
    const auto alike = std::find_if(columns.begin(), columns.end(), [&](const TubeColumn& c) {
      return std::abs(model.tubes[c.tube].plateWatts - tube.plateWatts) < 1e-4 * tube.plateWatts;
    });
    if (alike != columns.end())
      alike->title += QStringLiteral(", ") + name;
    else
      columns.push_back({name, i});
  }
  return columns;
}

/// "HT 62", of a hundred.
QString windingWords(const predict::WindingReading& winding) {
  const auto name = QString::fromStdString(winding.name);
  return QStringLiteral("%1 %2")
      .arg(name == QLatin1String("ht") ? QStringLiteral("HT") : name.left(4))
      .arg(100 * winding.share(), 0, 'f', 0);
}

} // namespace

ChoicesView::ChoicesView(Page& page)
    : SupplyView(page, tr("This design has no mains, so there is nothing to choose.")) {
  auto* column = contentColumn(4);
  auto* head = new QHBoxLayout;
  head->addWidget(quietLabel(tr("What if it were another")));
  subject_ = new QComboBox;
  subject_->setObjectName(QStringLiteral("choiceOf"));
  subject_->setAccessibleName(tr("Part to choose"));
  subject_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  head->addWidget(subject_);
  head->addStretch();
  column->addLayout(head);
  table_ = newSheet("choices", tr("Choices and what comes of them"), tr("choices"));
  column->addWidget(table_, 1);
  auto* helper = new QHBoxLayout;
  helper->addWidget(quietLabel(tr("Series resistor: extra drop")));
  const auto field = [&](const char* name, const QString& text, const QString& about) {
    auto* edit = new QLineEdit(text);
    edit->setObjectName(QLatin1String(name));
    edit->setAccessibleName(about);
    edit->setToolTip(about);
    edit->setFont(figureFont(9.5));
    edit->setFixedWidth(70);
    helper->addWidget(edit);
    connect(edit, &QLineEdit::returnPressed, this, &ChoicesView::findResistor);
    return edit;
  };
  drop_ = field("wantedDrop", QStringLiteral("20V"), tr("Extra drop from idle to full load"));
  helper->addWidget(quietLabel(tr("at")));
  full_ = field("fullAmps", QStringLiteral("150mA"), tr("Current from the first rail at full drive"));
  auto* find = new QPushButton(tr("Find"));
  find->setObjectName(QStringLiteral("findResistor"));
  helper->addWidget(find);
  found_ = new Label;
  found_->setObjectName(QStringLiteral("foundResistor"));
  found_->setWordWrap(true);
  helper->addWidget(found_, 1);
  pencilFound_ = new QPushButton(tr("Pencil it in"));
  pencilFound_->setObjectName(QStringLiteral("pencilResistor"));
  pencilFound_->hide();
  helper->addWidget(pencilFound_);
  column->addLayout(helper);

  connect(table_, &FigureSheet::cellTaken, this, [this](int row, int column) {
    if (column != rebiasColumn_ || static_cast<std::size_t>(row) >= rows_.size()) return;
    const auto& taken = rows_[static_cast<std::size_t>(row)];
    if (taken.rebias.empty()) return;
    auto both = taken.choice.changes;
    both.insert(both.end(), taken.rebias.begin(), taken.rebias.end());
    this->page().session().pencil(both, QString::fromStdString(taken.choice.title));
  });
  resistor_.then = [this] {
    if (resistor_->now()) showResistor(resistor_->now()->value);
  };
  connect(find, &QPushButton::clicked, this, &ChoicesView::findResistor);
  connect(pencilFound_, &QPushButton::clicked, this,
          [this] { this->page().session().pencil(foundChanges_, tr("series resistor")); });
  connect(subject_, &QComboBox::activated, this, &ChoicesView::put);
}

void ChoicesView::fillSubjects(const amp::Design& design) {
  std::vector<std::pair<QString, QString>> subjects; // title, part
  const auto& library = page().session().library();
  for (const auto& part : amp::resolveParts(design, library)) {
    const auto name = QString::fromStdString(part.name);
    const auto& role = part.part->role;
    if (part.part->kind == amp::PartKind::rectifier)
      subjects.insert(subjects.begin(), {tr("rectifier (%1)").arg(name), name});
    else if (role == "reservoir" || role == "series-resistor" || role == "mains" || role == "choke" ||
             role == "power-transformer")
      subjects.emplace_back(tr("%1 (%2)").arg(QString::fromStdString(library.role(role).title), name), name);
  }
  QStringList titles, parts;
  for (const auto& [title, part] : subjects) {
    titles << title;
    parts << part;
  }
  refill(*subject_, titles, parts, {});
}

void ChoicesView::clear() {
  foundChanges_.clear();
  subject_->clear();
  found_->clear();
  pencilFound_->hide();
}

void ChoicesView::ask(const Answers<predict::Idle>& idle) {
  fillSubjects(*idle.any()->circuit->design);
  put();
}

void ChoicesView::put() {
  const auto part = subject_->currentData().toString().toStdString();
  consequences_.ask({part}, {part, true});
}

void ChoicesView::draw() {
  if (const auto* now = standing(*consequences_)) showRows(now->rows);
}

void ChoicesView::showRows(const std::vector<predict::Consequence>& rows) {
  rows_ = rows;
  const auto answered = std::find_if(rows.begin(), rows.end(), [](const auto& row) { return !row.problem; });
  const auto* model = answered == rows.end() ? nullptr : &*answered;
  std::vector<std::size_t> rails;
  if (model)
    for (std::size_t i = 0; i < model->report.rails.size(); ++i)
      if (predict::isItself(model->report.rails, i)) rails.push_back(i);
  const auto tubes = model ? tubeColumns(*model) : std::vector<TubeColumn>{};
  QStringList titles{tr("choice")};
  for (const auto rail : rails)
    titles << QString::fromStdString(model->report.rails[rail].name);
  titles << tr("peak") << tr("winding");
  for (const auto& tube : tubes)
    titles << tube.title << tr("bias");
  rebiasColumn_ = static_cast<int>(titles.size());
  titles << tr("re-bias") << tr("against it");

  std::vector<FigureSheet::Row> shown;
  for (const auto& row : rows) {
    const bool current = row.choice.changes.empty();
    const auto title = QString::fromStdString(row.choice.title);
    auto line = current ? FigureSheet::Row{} : pencilRow(page().session(), row.choice.changes, title);
    const auto put = [&](const QString& text, std::optional<double> order = {}, bool danger = false) {
      line.cells.push_back({text, {}, danger, current, false, order});
    };
    if (current) line.stands = QStringLiteral("  ") + tr("now");
    put(title);
    QString tip;
    if (row.problem) {
      while (line.cells.size() + 1 < static_cast<std::size_t>(titles.size()))
        put(noReading());
      tip = QString::fromStdString(row.problem->line());
      line.cells.push_back({warned(tip), {}, true, false, true});
    } else {
      for (const auto rail : rails)
        put(readingOf(row.report.rails[rail].volts, Unit::volt), row.report.rails[rail].volts);
      double peak = 0;
      for (const auto& rectifier : row.report.rectifiers)
        peak = std::max(peak, rectifier.peakAmps);
      put(readingOf(peak, Unit::ampere), peak);
      // The fullest; the others stand in the tip.
      const auto& windings = row.report.windings;
      const auto fullest = std::max_element(windings.begin(), windings.end(), [](const auto& one, const auto& other) {
        return one.share() < other.share();
      });
      if (fullest == windings.end())
        put(noReading());
      else
        put(tr("%1 %").arg(windingWords(*fullest)), fullest->share(), predict::ratingOf(*fullest).over());
      for (const auto& tube : tubes) {
        const auto& t = row.tubes[tube.tube];
        put(tr("%1 %2").arg(readingOf(t.plateAmps, Unit::ampere, 3), readingOf(t.plateWatts, Unit::watt, 3)),
            t.plateWatts, t.over);
        put(readingOf(t.gridVolts, Unit::volt), t.gridVolts);
      }
      put(row.rebiased.empty() ? QString() : QString::fromStdString(row.rebiased));
      QStringList warnings, all;
      for (const auto& warning : row.warnings)
        warnings << QString::fromStdString(warning);
      for (const auto rail : rails)
        all << tr("%1: ripple %2 pp")
                   .arg(QString::fromStdString(row.report.rails[rail].name),
                        readingOf(row.report.rails[rail].rippleVpp, Unit::volt, 2));
      for (const auto& winding : row.report.windings)
        all << tr("winding %1 %").arg(windingWords(winding));
      for (const auto& t : row.tubes)
        all << tr("%1: %2, grid %3, %4")
                   .arg(QString::fromStdString(t.name), readingOf(t.plateAmps, Unit::ampere),
                        readingOf(t.gridVolts, Unit::volt), readingOf(t.plateWatts, Unit::watt));
      tip = (warnings + QStringList{QString()} + all).join(QLatin1Char('\n'));
      line.cells.push_back({warnings.isEmpty() ? tr("nothing") : warned(warnings.join(QStringLiteral("; "))),
                            {},
                            !warnings.isEmpty(),
                            false,
                            true,
                            static_cast<double>(warnings.size())});
    }
    for (auto& cell : line.cells)
      cell.tip = tip;
    if (!row.rebias.empty())
      line.cells[static_cast<std::size_t>(rebiasColumn_)].tip =
          tr("Has the output tubes dissipate as they do now. A click pencils %1 with it").arg(title);
    shown.push_back(std::move(line));
  }
  table_->setStretched({static_cast<int>(titles.size())}); // the last, after the buttons
  table_->setSheet(titles, std::move(shown), true);
}

void ChoicesView::findResistor() {
  const auto drop = units::parse(drop_->text().toStdString(), Unit::volt);
  const auto full = units::parse(full_->text().toStdString(), Unit::ampere);
  if (!drop || !full)
    return sayOfResistor(QString::fromStdString(drop ? full.error().message : drop.error().message), true);
  pencilFound_->hide();
  resistor_.ask({*drop, *full});
}

void ChoicesView::sayOfResistor(const QString& text, bool danger) {
  found_->setText(text);
  setLook(found_, "danger", danger);
  pencilFound_->setVisible(!danger && !foundChanges_.empty());
}

void ChoicesView::showResistor(
    const tl::expected<std::shared_ptr<const predict::SeriesResistorAnswer>, Problem>& found) {
  foundChanges_ = found ? (*found)->changes : std::vector<amp::SetField>{};
  if (!found) return sayOfResistor(QString::fromStdString(found.error().line()), true);
  const auto& answer = **found;
  sayOfResistor(tr("%1 for %2 wanted: drops %3 at idle, %4 at full; %5, buy %6. B+ idle %7, was %8.")
                    .arg(readingOf(answer.ohms, Unit::ohm, 0), readingOf(answer.exactOhms, Unit::ohm),
                         readingOf(answer.idleDrop, Unit::volt), readingOf(answer.fullDrop, Unit::volt),
                         readingOf(answer.wattsFull, Unit::watt, 2), readingOf(answer.wattsToBuy, Unit::watt, 0),
                         readingOf(answer.idleVolts, Unit::volt), readingOf(answer.idleVoltsBefore, Unit::volt)),
                false);
}

} // namespace vinegar::app

#include "moc_choices_view.cpp"
