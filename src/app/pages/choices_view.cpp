#include "pages/choices_view.h"

#include "theme/theme.h"
#include "window/session.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;

QString read(double value, Unit unit, int digits = 3) {
  return QString::fromStdString(units::reading(value, unit, digits));
}

} // namespace

ChoicesView::ChoicesView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  auto* head = new QHBoxLayout;
  auto* word = new QLabel(tr("What if it were another"));
  word->setProperty("quiet", true);
  head->addWidget(word);
  subject_ = new QComboBox;
  subject_->setObjectName(QStringLiteral("choiceOf"));
  subject_->setAccessibleName(tr("Part to choose"));
  subject_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  head->addWidget(subject_);
  head->addStretch();
  auto* copy = new QPushButton(tr("Copy table"));
  head->addWidget(copy);
  column->addLayout(head);
  table_ = new QTableWidget;
  table_->setObjectName(QStringLiteral("choices"));
  table_->setAccessibleName(tr("Choices and what comes of them"));
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(26);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setShowGrid(false);
  table_->setTabKeyNavigation(false);
  table_->setWordWrap(true);
  column->addWidget(table_, 1);
  auto* helper = new QHBoxLayout;
  auto* wish = new QLabel(tr("Series resistor: extra drop"));
  wish->setProperty("quiet", true);
  helper->addWidget(wish);
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
  drop_ = field("wantedDrop", QStringLiteral("20V"), tr("Volts that full current is to lose more than idle current"));
  auto* at = new QLabel(tr("at"));
  at->setProperty("quiet", true);
  helper->addWidget(at);
  full_ = field("fullAmps", QStringLiteral("150mA"), tr("Current from the first rail at full drive"));
  auto* find = new QPushButton(tr("Find"));
  find->setObjectName(QStringLiteral("findResistor"));
  helper->addWidget(find);
  found_ = new QLabel;
  found_->setObjectName(QStringLiteral("foundResistor"));
  found_->setWordWrap(true);
  helper->addWidget(found_, 1);
  pencilFound_ = new QPushButton(tr("Pencil it in"));
  pencilFound_->setObjectName(QStringLiteral("pencilResistor"));
  pencilFound_->hide();
  helper->addWidget(pencilFound_);
  column->addLayout(helper);
  connect(find, &QPushButton::clicked, this, &ChoicesView::findResistor);
  connect(pencilFound_, &QPushButton::clicked, this, [this] { pencil(foundChanges_, tr("series resistor")); });
  connect(copy, &QPushButton::clicked, this, &ChoicesView::copyTable);
  connect(subject_, &QComboBox::activated, this, [this] { ask(design_); });
}

void ChoicesView::fillSubjects() {
  struct Subject {
    QString title;
    QString part;
  };
  std::vector<Subject> subjects;
  const auto& library = session_.library();
  for (const auto& part : amp::resolveParts(*design_, library)) {
    const auto name = QString::fromStdString(part.name);
    const auto& role = part.part->role;
    if (part.part->kind == amp::PartKind::rectifier)
      subjects.insert(subjects.begin(), {tr("rectifier (%1)").arg(name), name});
    else if (role == "reservoir" || role == "series-resistor" || role == "mains" || role == "choke" ||
             role == "power-transformer")
      subjects.push_back({tr("%1 (%2)").arg(QString::fromStdString(library.role(role).title), name), name});
  }
  QStringList now, wanted;
  for (int i = 0; i < subject_->count(); ++i)
    now << subject_->itemText(i);
  for (const auto& subject : subjects)
    wanted << subject.title;
  if (now == wanted) return;
  const QString chosen = subject_->currentText();
  subject_->clear();
  for (const auto& subject : subjects)
    subject_->addItem(subject.title, subject.part);
  if (wanted.contains(chosen)) subject_->setCurrentText(chosen);
}

void ChoicesView::ask(std::shared_ptr<const amp::Design> design) {
  design_ = std::move(design);
  if (!design_) return;
  fillSubjects();
  const auto part = subject_->currentData().toString().toStdString();
  const bool rectifier = subject_->currentText().startsWith(tr("rectifier"));
  work_.ask([this, design = design_, part, rectifier, &library = session_.library()]() -> LatestWins::Deliver {
    const auto choices =
        rectifier ? predict::rectifierChoices(*design, library) : predict::valueChoices(*design, library, part);
    auto rows = predict::predictConsequences(*design, library, choices);
    return [this, rows = std::move(rows)]() mutable {
      rows_ = std::move(rows);
      showRows();
    };
  });
}

void ChoicesView::showRows() {
  QStringList titles{QString(), tr("choice")};
  const predict::Consequence* model = nullptr;
  for (const auto& row : rows_)
    if (!row.problem && !model) model = &row;
  // A raw rectified node that a wire joins to the reservoir says the same volts twice.
  std::vector<std::size_t> rails;
  if (model)
    for (std::size_t i = 0; i < model->report.rails.size(); ++i)
      if (i + 1 >= model->report.rails.size() || model->report.rails[i].node != model->report.rails[i + 1].node)
        rails.push_back(i);
  // Power tubes that stand alike share a column; the small ones are in the tooltip.
  struct Column {
    QString title;
    std::size_t tube;
  };
  std::vector<Column> tubes;
  if (model)
    for (std::size_t i = 0; i < model->tubes.size(); ++i) {
      const auto& tube = model->tubes[i];
      if (tube.plateWatts < 1) continue;
      const auto alike = std::find_if(tubes.begin(), tubes.end(), [&](const Column& c) {
        return std::abs(model->tubes[c.tube].plateWatts - tube.plateWatts) < 1e-4 * tube.plateWatts;
      });
      if (alike != tubes.end())
        alike->title += QStringLiteral(", ") + QString::fromStdString(tube.name);
      else
        tubes.push_back({QString::fromStdString(tube.name), i});
    }
  if (model)
    for (const auto rail : rails)
      titles << QString::fromStdString(model->report.rails[rail].name);
  titles << tr("peak") << tr("HT");
  if (model)
    for (std::size_t w = 1; w < model->report.windings.size(); ++w)
      titles << QString::fromStdString(model->report.windings[w].name.substr(0, 4)); // "rect", "heat", "bias"
  for (const auto& tube : tubes)
    titles << tube.title << tr("bias");
  titles << tr("against it");
  table_->setColumnCount(static_cast<int>(titles.size()));
  table_->setHorizontalHeaderLabels(titles);
  table_->setRowCount(static_cast<int>(rows_.size()));
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  for (int r = 0; r < table_->rowCount(); ++r) {
    const auto& row = rows_[static_cast<std::size_t>(r)];
    const bool current = row.choice.changes.empty();
    int column = 0;
    const auto put = [&](const QString& text, bool danger = false) {
      auto* item = new QTableWidgetItem(text);
      item->setFont(column == static_cast<int>(titles.size()) - 1
                        ? textFont(9)
                        : figureFont(9, current ? QFont::DemiBold : QFont::Normal));
      if (danger) item->setForeground(theme().danger);
      item->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
      table_->setItem(r, column++, item);
      return item;
    };
    if (current) {
      table_->removeCellWidget(r, 0);
      put(tr("now"));
    } else {
      put({});
      auto* button = new QPushButton(tr("Pencil"));
      button->setObjectName(QStringLiteral("pencil ") + QString::fromStdString(row.choice.title));
      button->setAccessibleName(tr("Pencil in %1").arg(QString::fromStdString(row.choice.title)));
      button->setStyleSheet(QStringLiteral("padding: 0px 7px; min-height: 14px; margin: 2px; border-radius: 8px;"));
      const auto changes = row.choice.changes;
      connect(button, &QPushButton::clicked, this,
              [this, changes, title = QString::fromStdString(row.choice.title)] { pencil(changes, title); });
      table_->setCellWidget(r, 0, button);
    }
    put(QString::fromStdString(row.choice.title));
    if (row.problem) {
      while (column < static_cast<int>(titles.size()) - 1)
        put(QStringLiteral("\u2014"));
      put(QStringLiteral("\u26a0 ") + QString::fromStdString(row.problem->line()), true);
      continue;
    }
    for (const auto rail : rails)
      put(read(row.report.rails[rail].volts, Unit::volt));
    double peak = 0;
    for (const auto& rectifier : row.report.rectifiers)
      peak = std::max(peak, rectifier.peakAmps);
    put(read(peak, Unit::ampere));
    for (const auto& winding : row.report.windings)
      put(QStringLiteral("%1%").arg(100 * winding.share(), 0, 'f', 0), winding.share() > 1.02);
    for (const auto& tube : tubes) {
      const auto& t = row.tubes[tube.tube];
      put(tr("%1 %2").arg(read(t.plateAmps, Unit::ampere, 3), read(t.plateWatts, Unit::watt, 3)), t.over());
      put(read(t.gridVolts, Unit::volt));
    }
    QStringList warnings, all;
    for (const auto rail : rails)
      all << tr("%1: ripple %2 pp")
                 .arg(QString::fromStdString(row.report.rails[rail].name),
                      read(row.report.rails[rail].rippleVpp, Unit::volt, 2));
    for (const auto& warning : row.warnings)
      warnings << QString::fromStdString(warning);
    for (const auto& t : row.tubes)
      all << tr("%1: %2, grid %3, %4")
                 .arg(QString::fromStdString(t.name), read(t.plateAmps, Unit::ampere), read(t.gridVolts, Unit::volt),
                      read(t.plateWatts, Unit::watt));
    auto* item =
        put(warnings.isEmpty() ? tr("nothing") : QStringLiteral("\u26a0 ") + warnings.join(QStringLiteral("; ")),
            !warnings.isEmpty());
    item->setToolTip((warnings + QStringList{QString()} + all).join(QLatin1Char('\n')));
    for (int c = 1; c < column; ++c)
      table_->item(r, c)->setToolTip(item->toolTip());
  }
  table_->resizeColumnsToContents();
  for (int c = 2; c + 1 < table_->columnCount(); ++c)
    table_->setColumnWidth(
        c, std::max(table_->columnWidth(c) - 10, table_->horizontalHeader()->fontMetrics().horizontalAdvance(
                                                     table_->horizontalHeaderItem(c)->text()) +
                                                     18)); // figures need less air
  table_->setColumnWidth(0, 80);
  table_->horizontalHeader()->setStretchLastSection(true);
  int others = 0;
  for (int c = 0; c + 1 < table_->columnCount(); ++c)
    others += table_->columnWidth(c);
  table_->setColumnWidth(table_->columnCount() - 1, std::max(130, table_->viewport()->width() - others));
  table_->resizeRowsToContents();
  for (int r = 0; r < table_->rowCount(); ++r) // two lines; the tooltip has the rest
    table_->setRowHeight(r, std::clamp(table_->rowHeight(r), 26, 42));
}

void ChoicesView::pencil(const std::vector<amp::Change>& changes, const QString& title) {
  session_.edit(tr("pencil %1").arg(title), [&](amp::Document& d) {
    for (const auto& change : changes)
      amp::pencil(d, session_.library(), change.part, change.field, change.to);
  });
}

void ChoicesView::findResistor() {
  if (!design_) return;
  const auto drop = units::parse(drop_->text().toStdString(), Unit::volt);
  const auto full = units::parse(full_->text().toStdString(), Unit::ampere);
  if (!drop || !full)
    return sayOfResistor(QString::fromStdString(drop ? full.error().message : drop.error().message), true);
  pencilFound_->hide();
  resistorWork_.ask([this, design = design_, question = predict::SeriesResistorQuestion{*drop, *full},
                     &library = session_.library()]() -> LatestWins::Deliver {
    auto answer = predict::predictSeriesResistor(*design, library, question);
    return [this, answer = std::move(answer)] { showResistor(answer); };
  });
}

void ChoicesView::sayOfResistor(const QString& text, bool danger) {
  found_->setText(text);
  found_->setProperty("danger", danger);
  found_->setStyleSheet(QString()); // takes the property up
  pencilFound_->setVisible(!danger && !foundChanges_.empty());
}

void ChoicesView::showResistor(const tl::expected<predict::SeriesResistorAnswer, Problem>& answer) {
  foundChanges_ = answer ? answer->changes : std::vector<amp::Change>{};
  if (!answer) return sayOfResistor(QString::fromStdString(answer.error().line()), true);
  sayOfResistor(tr("%1 for %2 wanted: drops %3 at idle, %4 at full; %5, buy %6. B+ idle %7, was %8.")
                    .arg(read(answer->ohms, Unit::ohm, 0), read(answer->exactOhms, Unit::ohm),
                         read(answer->idleDrop, Unit::volt), read(answer->fullDrop, Unit::volt),
                         read(answer->wattsFull, Unit::watt, 2), read(answer->wattsToBuy, Unit::watt, 0),
                         read(answer->idleVolts, Unit::volt), read(answer->idleVoltsBefore, Unit::volt)),
                false);
}

void ChoicesView::copyTable() {
  QStringList lines;
  QStringList head;
  for (int c = 1; c < table_->columnCount(); ++c)
    head << table_->horizontalHeaderItem(c)->text();
  lines << head.join(QLatin1Char('\t'));
  for (int r = 0; r < table_->rowCount(); ++r) {
    QStringList cells;
    for (int c = 1; c < table_->columnCount(); ++c)
      cells << (table_->item(r, c) ? table_->item(r, c)->text() : QString());
    lines << cells.join(QLatin1Char('\t'));
  }
  QApplication::clipboard()->setText(lines.join(QLatin1Char('\n')));
}

} // namespace vinegar::app
