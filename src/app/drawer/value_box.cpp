#include "drawer/value_box.h"

#include "document/session.h"
#include "predict/overview/steps.h"
#include "theme/theme.h"
#include "widgets/dial.h"
#include "widgets/figure_table.h"
#include "widgets/knob.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"
#include "widgets/table_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <utility>

namespace vinegar::app {

std::optional<Problem> pencilField(Session& session, const std::string& part, const std::string& field,
                                   const amp::Setting& setting) {
  const auto found = amp::findPart(session.pencilled(), session.library(), part);
  if (!found) return std::nullopt;
  if (auto problem = amp::checkSetting(*found, field, setting, session.library())) return problem;
  session.edit(
      QCoreApplication::translate("Drawer", "pencil %1").arg(QString::fromStdString(part)),
      [&](amp::Document& d) { amp::pencil(d, session.library(), part, field, setting); },
      QStringLiteral("pencil ") + QString::fromStdString(part + "/" + field));
  return std::nullopt;
}

ValueBox::ValueBox(Session& session, int width, QWidget* parent) : QWidget(parent), session_(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  values_ = new FigureTable;
  values_->setObjectName(QStringLiteral("values"));
  values_->setAccessibleName(tr("Value"));
  column->addWidget(values_);
  dial_ = new Dial;
  column->addWidget(dial_);
  connect(dial_, &Dial::valueChosen, this, [this](double value) { choose("value", value); });
  typed_ = new QLineEdit;
  typed_->setObjectName(QStringLiteral("typedValue"));
  typed_->setAccessibleName(tr("Value"));
  typed_->setFont(figureFont(10));
  typed_->setToolTip(tr("Type a value such as 4k7, 22n or .022u and press Enter"));
  column->addWidget(typed_);
  connect(typed_, &QLineEdit::returnPressed, this, &ValueBox::chooseTyped);
  connect(typed_, &QLineEdit::textEdited, this, &ValueBox::clearError);
  typed_->installEventFilter(this);
  // What was typed and left without Enter is no value: the box shows the part's own again.
  connect(typed_, &QLineEdit::editingFinished, this, [this] {
    if (typed_->hasFocus() || !typed_->isModified()) return;
    clearError();
    if (const auto now = amp::findPart(session_.pencilled(), session_.library(), part_))
      typed_->setText(schematicValue(now->value(), amp::valueUnit(now->part->kind)));
  });
  tube_ = new QComboBox;
  tube_->setObjectName(QStringLiteral("tubeType"));
  tube_->setAccessibleName(tr("Tube type"));
  column->addWidget(tube_);
  connect(tube_, &QComboBox::textActivated, this, [this](const QString& type) { choose("tube", type.toStdString()); });
  taper_ = new QComboBox;
  taper_->setAccessibleName(tr("Taper"));
  taper_->setToolTip(tr("How the resistance follows the knob; the figure is the share at half travel in percent"));
  taper_->addItems({QStringLiteral("linear"), QStringLiteral("log10"), QStringLiteral("log15"), QStringLiteral("log20"),
                    QStringLiteral("reverse-log10"), QStringLiteral("reverse-log15")});
  taper_->setObjectName(QStringLiteral("taper"));
  taper_->addItem(tr("measured..."));
  column->addWidget(taper_);
  connect(taper_, &QComboBox::activated, this, [this](int index) {
    if (taper_->itemText(index) == tr("measured..."))
      measureTaper();
    else
      choose("taper", (taper_->itemData(index).isValid() ? taper_->itemData(index).toString() : taper_->itemText(index))
                          .toStdString());
  });
  fitted_ = new QCheckBox(tr("Fitted"));
  fitted_->setObjectName(QStringLiteral("fitted"));
  column->addWidget(fitted_);
  connect(fitted_, &QCheckBox::clicked, this, [this](bool on) { choose("fitted", on); });
  error_ = new Paragraph(width, textFont(9), "danger");
  error_->setObjectName(QStringLiteral("valueError"));
  error_->hide();
  column->addWidget(error_);
  rubOut_ = new QPushButton(tr("Rub out this mark"));
  rubOut_->setObjectName(QStringLiteral("rubOutPart"));
  column->addWidget(rubOut_, 0, Qt::AlignLeft);
  connect(rubOut_, &QPushButton::clicked, this, [this] {
    session_.edit(tr("rub out %1").arg(QString::fromStdString(part_)),
                  [&](amp::Document& d) { amp::rubOut(d, session_.library(), part_); });
  });
  knobRow_ = new QWidget;
  auto* knobLayout = new QHBoxLayout(knobRow_);
  knobLayout->setContentsMargins(0, 0, 0, 0);
  auto* stands = new Label(tr("Stands at"));
  stands->setProperty("quiet", true);
  knobLayout->addWidget(stands);
  column->addWidget(knobRow_);
}

void ValueBox::sayError(const QString& words) {
  error_->setText(words);
  error_->show();
}

void ValueBox::clearError() {
  setLook(typed_, "bad", false);
  error_->hide();
}

void ValueBox::choose(const std::string& field, const amp::Setting& setting) {
  const auto problem = pencilField(session_, part_, field, setting);
  if (!problem) return clearError();
  sayError(QString::fromStdString(problem->line()));
  const auto now = amp::findPart(session_.pencilled(), session_.library(), part_);
  if (now) fitted_->setChecked(now->fitted());
}

/// The builder's own pot, by ohms from its lower end to the wiper as it is turned.
void ValueBox::measureTaper() {
  const auto part = amp::findPart(session_.pencilled(), session_.library(), part_);
  if (!part) return;
  const auto now = amp::taperNamed(part->text("taper"));
  TableDialog::Cells cells;
  if (now && now->kind == circuit::Taper::Kind::measured)
    for (const auto& [travel, share] : now->points)
      cells.push_back({QString::number(10 * travel), schematicValue(share * part->value(), units::Unit::ohm)});
  else
    for (int turned = 0; turned <= 10; ++turned)
      cells.push_back({QString::number(turned), {}});
  const auto lawOf = [](const TableDialog::Cells& rows, QString& wrong) {
    std::vector<std::pair<double, double>> points;
    for (const auto& row : rows) {
      if (row.value(1).isEmpty()) continue;
      const auto turned = units::parse(row.value(0).toStdString());
      const auto ohms = units::parse(row.value(1).toStdString(), units::Unit::ohm);
      if (!turned || !ohms) {
        wrong = QString::fromStdString((turned ? ohms : turned).error().message);
        return std::string();
      }
      points.emplace_back(*turned / 10, *ohms);
    }
    if (points.size() < 2 || points.front().first != 0 || points.back().first != 1 || !(points.back().second > 0)) {
      wrong = tr("From 0 to 10, with at least those two measured");
      return std::string();
    }
    for (auto& [turned, share] : points)
      share /= points.back().second;
    auto name = amp::measuredTaperOf(points);
    if (!amp::taperNamed(name))
      wrong = tr("From line to line both the turn and the ohms rise, in a hundred lines at most");
    return name;
  };
  TableDialog dialog(
      tr("Measured law of %1").arg(QString::fromStdString(part_)),
      tr("Ohms between the lower end and the wiper as it is turned from 0 to 10, with nothing else joined "
         "to it. Leave out what you did not measure."),
      {tr("turned to"), tr("ohms to the lower end")}, cells,
      [&](const TableDialog::Cells& rows) {
        QString wrong;
        lawOf(rows, wrong);
        return wrong;
      },
      this);
  QString wrong;
  if (dialog.exec() == QDialog::Accepted) {
    const auto law = lawOf(dialog.cells(), wrong);
    if (wrong.isEmpty()) return choose("taper", law);
  }
  showTaper(*part);
}

void ValueBox::chooseTyped() {
  const auto part = amp::findPart(session_.pencilled(), session_.library(), part_);
  if (!part) return;
  const auto value = units::parse(typed_->text().toStdString(), amp::valueUnit(part->part->kind));
  const auto problem = value ? amp::checkSetting(*part, "value", *value, session_.library()) : std::nullopt;
  if (!value || problem) {
    setLook(typed_, "bad", true);
    return sayError(QString::fromStdString(value ? problem->line() : value.error().message));
  }
  typed_->setModified(false);
  choose("value", *value);
  if (std::exchange(begunElsewhere_, false)) Q_EMIT typingEnded();
}

bool ValueBox::startTyping(const QString& begun) {
  if (!typed_->isVisible()) return false;
  begunElsewhere_ = true;
  typed_->setFocus();
  typed_->setText(begun);
  typed_->setModified(true);
  clearError();
  return true;
}

bool ValueBox::eventFilter(QObject* watched, QEvent* event) {
  if (watched == typed_ && event->type() == QEvent::FocusOut) begunElsewhere_ = false;
  const bool escapes =
      watched == typed_ && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape;
  if (!escapes || !begunElsewhere_) return QWidget::eventFilter(watched, event);
  Q_EMIT typingEnded(); // the focus goes, and what was typed with it
  return true;
}

void ValueBox::show(const amp::ResolvedPart* ink, const amp::ResolvedPart& now) {
  if (part_ != now.name) clearError();
  part_ = now.name;
  const auto kind = now.part->kind;
  const bool hasValue = amp::hasValue(kind);
  dial_->setVisible(hasValue && now.fitted() && kind != amp::PartKind::signalSource);
  typed_->setVisible(hasValue && now.fitted());
  tube_->setVisible(amp::hasType(kind));
  taper_->setVisible(kind == amp::PartKind::pot);
  knobRow_->setVisible(amp::isControl(kind));
  fitted_->setVisible(now.part->optional);
  fitted_->setChecked(now.fitted());
  rubOut_->setVisible(ink && ink->settings != now.settings);
  showValues(ink, now);
  if (hasValue) {
    const auto unit = amp::valueUnit(kind);
    dial_->setDial(now.value(), ink ? ink->value() : now.value(), unit, [this, part = now](double value, bool up) {
      auto other = part;
      other.settings["value"] = value;
      return predict::steppedValue(other, session_.library(), up);
    });
    if (!typed_->property("bad").toBool()) typed_->setText(schematicValue(now.value(), unit));
  }
  if (amp::hasType(kind)) {
    const QSignalBlocker block(tube_);
    tube_->clear();
    for (const auto& [name, type] : session_.library().tubes.types())
      if (amp::fits(kind, type) && (type.offered || name == now.text("tube")))
        tube_->addItem(QString::fromStdString(name));
    tube_->setCurrentText(QString::fromStdString(now.text("tube")));
  }
  if (kind == amp::PartKind::pot) showTaper(now);
  if (amp::isControl(kind)) showKnob(now);
}

void ValueBox::showTaper(const amp::ResolvedPart& now) {
  const QString taper = QString::fromStdString(now.text("taper"));
  const bool measured = now.text("taper").starts_with(amp::measuredTaper);
  if (const int own = taper_->findText(tr("as measured")); own >= 0) taper_->removeItem(own);
  if (measured)
    taper_->insertItem(0, tr("as measured"), taper);
  else if (taper_->findText(taper) < 0)
    taper_->addItem(taper);
  taper_->setCurrentText(measured ? tr("as measured") : taper);
}

void ValueBox::showKnob(const amp::ResolvedPart& control) {
  if (!knob_ || knobFor_ != control.section + "." + control.name) {
    delete knob_;
    knob_ = new Knob(session_, control);
    knobRow_->layout()->addWidget(knob_);
    knobFor_ = control.section + "." + control.name;
  }
  knob_->refresh();
}

void ValueBox::showValues(const amp::ResolvedPart* ink, const amp::ResolvedPart& now) {
  using Look = FigureTable::Look;
  const auto text = [&](const amp::ResolvedPart& part) {
    if (!amp::hasValue(part.part->kind) || !part.fitted()) return QString::fromStdString(part.label());
    return readingOf(part.value(), amp::valueUnit(part.part->kind), 0);
  };
  FigureTable::Rows rows{{{tr("ink"), Look::quiet}}, {{ink ? text(*ink) : noReading(), Look::figure, 13}}};
  if (!ink || ink->settings != now.settings) {
    rows[0].push_back({tr("pencil"), Look::pencil, 9});
    rows[1].push_back({text(now), Look::pencil, 15});
  } else {
    rows[1].push_back({{}, Look::pencil, 15}); // the same height with and without a mark
  }
  values_->setRows(std::move(rows), 99);
}

} // namespace vinegar::app

#include "moc_value_box.cpp"
