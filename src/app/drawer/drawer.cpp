#include "drawer/drawer.h"

#include "drawer/dial.h"
#include "drawer/figure_table.h"
#include "drawer/knob.h"
#include "predict/supply.h"
#include "theme/theme.h"
#include "window/session.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QFormLayout>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QSignalBlocker>
#include <QSlider>
#include <QStyle>
#include <QVBoxLayout>
#include <array>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;

constexpr int drawerWidth = 286;
constexpr int paragraphWidth = drawerWidth - 16 - 14 - 12;

QString read(double value, Unit unit, int digits = 3) {
  return QString::fromStdString(units::reading(value, unit, digits));
}

QLabel* label(const QString& text, const QFont& font, const char* property = nullptr) {
  auto* l = new QLabel(text);
  l->setFont(font);
  if (property) l->setProperty(property, true);
  return l;
}

/// Sets a wrapped label's text and its height with it. The drawer's width is fixed, so its layout need not measure
/// every paragraph again whenever a reading changes: that took longer than the prediction.
void setParagraph(QLabel* paragraph, const QString& text) {
  if (paragraph->text() != text) paragraph->setText(text);
  auto policy = paragraph->sizePolicy();
  if (!policy.hasHeightForWidth() && paragraph->minimumHeight() == paragraph->maximumHeight()) return;
  paragraph->setMinimumHeight(0);
  paragraph->setMaximumHeight(QWIDGETSIZE_MAX);
  paragraph->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  paragraph->setFixedHeight(paragraph->heightForWidth(paragraphWidth));
  policy.setHeightForWidth(false);
  paragraph->setSizePolicy(policy);
}

/// Field names of the file in the builder's words.
QString fieldTitle(const std::string& field) {
  static const std::map<std::string, const char*> titles{
      {"ohms", QT_TRANSLATE_NOOP("Field", "Winding resistance")},
      {"secondaryLoad", QT_TRANSLATE_NOOP("Field", "Rated load")},
      {"primaryInductance", QT_TRANSLATE_NOOP("Field", "Primary inductance")},
      {"leakageInductance", QT_TRANSLATE_NOOP("Field", "Leakage inductance")},
      {"primaryOhms", QT_TRANSLATE_NOOP("Field", "Primary resistance")},
      {"secondaryOhms", QT_TRANSLATE_NOOP("Field", "Secondary resistance")},
      {"shuntFarads", QT_TRANSLATE_NOOP("Field", "Shunt capacitance")},
      {"coreLossOhms", QT_TRANSLATE_NOOP("Field", "Core loss")},
      {"voiceCoilShare", QT_TRANSLATE_NOOP("Field", "Coil resistance / rating")},
      {"voiceCoilInductance", QT_TRANSLATE_NOOP("Field", "Coil inductance")},
      {"eddyOhms", QT_TRANSLATE_NOOP("Field", "Eddy-current loss")},
      {"resonanceHertz", QT_TRANSLATE_NOOP("Field", "Resonance")},
      {"mechanicalQ", QT_TRANSLATE_NOOP("Field", "Mechanical Q")},
      {"electricalQ", QT_TRANSLATE_NOOP("Field", "Electrical Q")},
      {"testAmps", QT_TRANSLATE_NOOP("Field", "Test current")},
      {"bendFlux", QT_TRANSLATE_NOOP("Field", "Core bends at (V s, 0: never)")},
      {"tapShare", QT_TRANSLATE_NOOP("Field", "Screen tap")},
      {"outputOhms", QT_TRANSLATE_NOOP("Field", "Output impedance")},
      {"transferOhms", QT_TRANSLATE_NOOP("Field", "Volts out per ampere in")},
      {"delayMilliseconds", QT_TRANSLATE_NOOP("Field", "Delay, ms")},
      {"decaySeconds", QT_TRANSLATE_NOOP("Field", "Decay to -60 dB, s")},
      {"trebleHertz", QT_TRANSLATE_NOOP("Field", "Treble limit")},
      {"given", QT_TRANSLATE_NOOP("Field", "Its volts are")},
      {"regulation", QT_TRANSLATE_NOOP("Field", "Regulation, share")},
      {"ratedVolts", QT_TRANSLATE_NOOP("Field", "Rated volts")},
      {"ratedWatts", QT_TRANSLATE_NOOP("Field", "Rated watts")},
      {"nominalVolts", QT_TRANSLATE_NOOP("Field", "Nominal volts")},
      {"hertz", QT_TRANSLATE_NOOP("Field", "Frequency")},
      {"htVolts", QT_TRANSLATE_NOOP("Field", "HT volts rms, a half")},
      {"htAmps", QT_TRANSLATE_NOOP("Field", "HT rated rms")},
      {"htOhms", QT_TRANSLATE_NOOP("Field", "HT resistance, a half")},
      {"rectifierVolts", QT_TRANSLATE_NOOP("Field", "Rectifier heater volts")},
      {"rectifierAmps", QT_TRANSLATE_NOOP("Field", "Rectifier heater rated")},
      {"rectifierOhms", QT_TRANSLATE_NOOP("Field", "Rectifier heater ohms")},
      {"heaterVolts", QT_TRANSLATE_NOOP("Field", "Heater volts")},
      {"heaterAmps", QT_TRANSLATE_NOOP("Field", "Heater rated")},
      {"heaterOhms", QT_TRANSLATE_NOOP("Field", "Heater resistance")},
      {"biasVolts", QT_TRANSLATE_NOOP("Field", "Bias volts")},
      {"biasAmps", QT_TRANSLATE_NOOP("Field", "Bias rated")},
      {"biasOhms", QT_TRANSLATE_NOOP("Field", "Bias resistance")},
      {"reversed", QT_TRANSLATE_NOOP("Field", "Secondary leads swapped")}};
  const auto found = titles.find(field);
  return found == titles.end() ? QString::fromStdString(field) : QCoreApplication::translate("Field", found->second);
}

void setBad(QWidget* widget, bool bad) {
  if (widget->property("bad").toBool() == bad) return;
  widget->setProperty("bad", bad);
  widget->style()->unpolish(widget);
  widget->style()->polish(widget);
}

} // namespace

Drawer::Drawer(Session& session, QWidget* parent) : QScrollArea(parent), session_(session) {
  setObjectName(QStringLiteral("drawer"));
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFixedWidth(drawerWidth);
  setFocusPolicy(Qt::NoFocus);
  body_ = new QWidget;
  body_->setObjectName(QStringLiteral("drawerBody"));
  column_ = new QVBoxLayout(body_);
  column_->setContentsMargins(16, 12, 14, 12);
  column_->setSpacing(6);

  empty_ = label(tr("Select a part in the run: click it, move with the arrow keys, or type its name."), textFont(10),
                 "quiet");
  empty_->setWordWrap(true);
  setParagraph(empty_, empty_->text());
  column_->addWidget(empty_);
  title_ = label({}, textFont(17, QFont::DemiBold));
  title_->setObjectName(QStringLiteral("partName"));
  role_ = label({}, textFont(10), "quiet");
  role_->setWordWrap(true);
  column_->addWidget(title_);
  column_->addWidget(role_);

  values_ = new FigureTable;
  values_->setObjectName(QStringLiteral("values"));
  values_->setAccessibleName(tr("Value"));
  column_->addWidget(values_);

  dial_ = new Dial;
  column_->addWidget(dial_);
  connect(dial_, &Dial::valueChosen, this, [this](double value) { choose("value", value); });
  typed_ = new QLineEdit;
  typed_->setObjectName(QStringLiteral("typedValue"));
  typed_->setAccessibleName(tr("Value"));
  typed_->setFont(figureFont(10));
  column_->addWidget(typed_);
  connect(typed_, &QLineEdit::returnPressed, this, &Drawer::chooseTyped);
  connect(typed_, &QLineEdit::textEdited, this, [this] {
    setBad(typed_, false);
    error_->hide();
  });
  // What was typed and left without Enter is no value: the box shows the part's own again.
  connect(typed_, &QLineEdit::editingFinished, this, [this] {
    if (!typed_->hasFocus() && typed_->isModified()) setPart(name_);
  });
  tube_ = new QComboBox;
  tube_->setObjectName(QStringLiteral("tubeType"));
  tube_->setAccessibleName(tr("Tube type"));
  column_->addWidget(tube_);
  connect(tube_, &QComboBox::textActivated, this, [this](const QString& type) { choose("tube", type.toStdString()); });
  taper_ = new QComboBox;
  taper_->setAccessibleName(tr("Taper"));
  taper_->setToolTip(tr("How the resistance follows the knob; the figure is the share at half travel in percent"));
  taper_->addItems({QStringLiteral("linear"), QStringLiteral("log10"), QStringLiteral("log15"), QStringLiteral("log20"),
                    QStringLiteral("reverse-log10"), QStringLiteral("reverse-log15")});
  column_->addWidget(taper_);
  connect(taper_, &QComboBox::textActivated, this,
          [this](const QString& taper) { choose("taper", taper.toStdString()); });
  fitted_ = new QCheckBox(tr("Fitted"));
  fitted_->setObjectName(QStringLiteral("fitted"));
  column_->addWidget(fitted_);
  connect(fitted_, &QCheckBox::clicked, this, [this](bool on) { choose("fitted", on); });
  error_ = label({}, textFont(9), "danger");
  error_->setObjectName(QStringLiteral("valueError"));
  error_->setWordWrap(true);
  column_->addWidget(error_);
  rubOut_ = new QPushButton(tr("Rub out this mark"));
  rubOut_->setObjectName(QStringLiteral("rubOutPart"));
  column_->addWidget(rubOut_, 0, Qt::AlignLeft);
  connect(rubOut_, &QPushButton::clicked, this, [this] {
    session_.edit(tr("rub out %1").arg(QString::fromStdString(name_)),
                  [&](amp::Document& d) { amp::rubOut(d, name_); });
  });

  finding_ = label({}, textFont(9.5), "danger");
  finding_->setObjectName(QStringLiteral("partFindings"));
  finding_->setWordWrap(true);
  finding_->hide();
  column_->addWidget(finding_);

  knobRow_ = new QWidget;
  auto* knobLayout = new QHBoxLayout(knobRow_);
  knobLayout->setContentsMargins(0, 0, 0, 0);
  knobLayout->addWidget(label(tr("Stands at"), textFont(10), "quiet"));
  column_->addWidget(knobRow_);

  const auto heading = [this](const QString& text) {
    auto* l = label(text, textFont(10, QFont::DemiBold));
    l->setContentsMargins(0, 8, 0, 0);
    column_->addWidget(l);
    return l;
  };
  readingTitle_ = heading(tr("At idle, DC"));
  readings_ = new FigureTable;
  readings_->setObjectName(QStringLiteral("readings"));
  readings_->setAccessibleName(tr("DC readings"));
  column_->addWidget(readings_);
  stepTitle_ = heading(tr("One step from here, in this circuit"));
  steps_ = new FigureTable;
  steps_->setObjectName(QStringLiteral("steps"));
  steps_->setAccessibleName(tr("Effect of one step"));
  column_->addWidget(steps_);
  stepFoot_ = label(tr("dB over the span shown; change of DC volts across it"), textFont(8), "quiet");
  stepFoot_->setWordWrap(true);
  setParagraph(stepFoot_, stepFoot_->text());
  column_->addWidget(stepFoot_);
  does_ = label({}, textFont(9.5));
  does_->setWordWrap(true);
  does_->setObjectName(QStringLiteral("does"));
  auto* doesTitle = heading(tr("What it does here"));
  column_->addWidget(does_);
  doesTitle->setObjectName(QStringLiteral("doesTitle"));
  parametersBox_ = new QWidget;
  parameters_ = new QFormLayout(parametersBox_);
  parameters_->setContentsMargins(0, 8, 0, 0);
  parameters_->setRowWrapPolicy(QFormLayout::DontWrapRows);
  column_->addWidget(parametersBox_);
  column_->addStretch(1);
  setWidget(body_);
  refresh();
}

void Drawer::setPart(const std::string& name) {
  name_ = name;
  error_->hide();
  setBad(typed_, false);
  refresh();
  verticalScrollBar()->setValue(0);
}

void Drawer::setFindings(const std::vector<audit::Finding>& findings) {
  findings_ = findings;
  showFindings();
}

void Drawer::showFindings() {
  QStringList lines;
  for (const auto& finding : findings_)
    if (!name_.empty() && finding.part == name_)
      lines << QStringLiteral("\u26a0 ") + QString::fromStdString(finding.what + " " + finding.cure);
  finding_->setVisible(!lines.isEmpty());
  if (!lines.isEmpty()) setParagraph(finding_, lines.join(QLatin1Char('\n')));
}

void Drawer::choose(const std::string& field, const amp::Setting& setting) {
  const auto part = amp::findPart(session_.pencilled(), session_.library(), name_);
  if (!part) return;
  if (const auto problem = amp::checkSetting(*part, field, setting, session_.library())) {
    setParagraph(error_, QString::fromStdString(problem->line()));
    error_->show();
    refresh();
    return;
  }
  error_->hide();
  session_.edit(
      tr("pencil %1").arg(QString::fromStdString(name_)),
      [&](amp::Document& d) { amp::pencil(d, session_.library(), name_, field, setting); },
      QStringLiteral("pencil ") + QString::fromStdString(name_ + "/" + field));
}

void Drawer::chooseTyped() {
  const auto part = amp::findPart(session_.pencilled(), session_.library(), name_);
  if (!part) return;
  const auto value = units::parse(typed_->text().toStdString(), amp::valueUnit(part->part->kind));
  const auto problem = value ? amp::checkSetting(*part, "value", *value, session_.library()) : std::nullopt;
  if (!value || problem) {
    setBad(typed_, true);
    setParagraph(error_, QString::fromStdString(value ? problem->line() : value.error().message));
    error_->show();
    return;
  }
  setBad(typed_, false);
  choose("value", *value);
}

void Drawer::buildParameters(const amp::ResolvedPart& part) {
  if (builtFor_ == part.name) return;
  builtFor_ = part.name;
  while (parameters_->rowCount() > 0)
    parameters_->removeRow(0);
  parameterEdits_.clear();
  parameterChecks_.clear();
  parameterChoices_.clear();
  for (const auto& [field, setting] : part.settings) {
    if (field == "value" || field == "tube" || field == "fitted" || field == "taper") continue;
    if (std::holds_alternative<bool>(setting)) {
      auto* check = new QCheckBox(fieldTitle(field));
      check->setObjectName(QString::fromStdString(field));
      parameters_->addRow(check);
      parameterChecks_[field] = check;
      connect(check, &QCheckBox::clicked, this, [this, field](bool on) { choose(field, on); });
    } else if (field == "given") {
      auto* choice = new QComboBox;
      choice->setObjectName(QString::fromStdString(field));
      choice->setAccessibleName(fieldTitle(field));
      choice->setToolTip(tr("Measured: unloaded volts and winding resistances from the meter. Unloaded or loaded: from "
                            "its label, resistances from the rated current and the regulation."));
      for (const auto* given : amp::transformerGivens)
        choice->addItem(QString::fromLatin1(given));
      parameters_->addRow(label(fieldTitle(field), textFont(9.5), "quiet"), choice);
      parameterChoices_[field] = choice;
      connect(choice, &QComboBox::textActivated, this,
              [this, field](const QString& text) { choose(field, text.toStdString()); });
    } else if (std::holds_alternative<double>(setting)) {
      auto* edit = new QLineEdit;
      edit->setFont(figureFont(9.5));
      edit->setMaximumWidth(90);
      edit->setObjectName(QString::fromStdString(field));
      auto* caption = label(fieldTitle(field), textFont(9.5), "quiet");
      caption->setBuddy(edit);
      edit->setAccessibleName(fieldTitle(field));
      parameters_->addRow(caption, edit);
      parameterEdits_[field] = edit;
      connect(edit, &QLineEdit::editingFinished, this, [this, field, edit, kind = part.part->kind] {
        if (!edit->isModified()) return;
        edit->setModified(false);
        const auto value = units::parse(edit->text().toStdString(), amp::settingUnit(kind, field));
        setBad(edit, !value);
        if (value)
          choose(field, *value);
        else {
          setParagraph(error_, QString::fromStdString(value.error().message));
          error_->show();
        }
      });
    }
  }
}

void Drawer::refresh() {
  const auto& library = session_.library();
  const auto named = [this](const std::vector<amp::ResolvedPart>& parts) {
    const auto found = std::find_if(parts.begin(), parts.end(), [this](const auto& p) { return p.name == name_; });
    return found == parts.end() ? nullptr : &*found;
  };
  const auto *ink = named(session_.inkParts()), *now = named(session_.pencilledParts());
  const bool there = ink && now;
  empty_->setVisible(!there);
  for (auto* widget : {static_cast<QWidget*>(title_), static_cast<QWidget*>(role_), static_cast<QWidget*>(values_),
                       static_cast<QWidget*>(does_), body_->findChild<QWidget*>(QStringLiteral("doesTitle"))})
    widget->setVisible(there);
  const bool tube = there && amp::hasType(now->part->kind);
  const bool hasValue = there && amp::hasValue(now->part->kind);
  const bool control = there && amp::isControl(now->part->kind);
  const bool pot = there && now->part->kind == amp::PartKind::pot;
  dial_->setVisible(hasValue && now->fitted() && now->part->kind != amp::PartKind::signalSource);
  typed_->setVisible(hasValue && now->fitted());
  tube_->setVisible(tube);
  taper_->setVisible(pot);
  knobRow_->setVisible(control);
  fitted_->setVisible(there && now->part->optional);
  if (!there) {
    for (auto* widget :
         {static_cast<QWidget*>(error_), static_cast<QWidget*>(rubOut_), static_cast<QWidget*>(readingTitle_),
          static_cast<QWidget*>(readings_), static_cast<QWidget*>(stepTitle_), static_cast<QWidget*>(steps_),
          static_cast<QWidget*>(stepFoot_), parametersBox_})
      widget->hide();
    return;
  }
  if (!error_->text().isEmpty() && error_->isHidden()) error_->clear();
  error_->setVisible(!error_->text().isEmpty());
  const auto& role = library.role(now->part->role);
  const auto& section = library.sections.at(now->sectionType);
  title_->setText(QString::fromStdString(name_));
  QString place = QString::fromStdString(role.title) + QStringLiteral(" \u00b7 ") +
                  QString::fromStdString(section.title) + QStringLiteral(" \u201c") +
                  QString::fromStdString(now->section) + QStringLiteral("\u201d");
  if (amp::isTube(now->part->kind))
    for (const auto& spare : amp::spareHalves(session_.pencilled(), library))
      if (spare.besides == name_)
        place += QStringLiteral("\n") +
                 tr("%1, the other half of the bottle, is spare").arg(QString::fromStdString(spare.name));
  setParagraph(role_, place);
  setParagraph(does_, QString::fromStdString(role.does + (role.more.empty() ? "" : " Larger: " + role.more + ".") +
                                             (role.less.empty() ? "" : " Smaller: " + role.less + ".")));
  const auto unit = amp::valueUnit(now->part->kind);
  showValues(*ink, *now);
  showFindings();
  rubOut_->setVisible(ink->settings != now->settings);
  if (hasValue) {
    const auto part = *now;
    dial_->setDial(now->value(), ink->value(), unit, [this, part](double value, bool up) {
      auto other = part;
      other.settings["value"] = value;
      return predict::steppedValue(other, session_.library(), up);
    });
    if (!typed_->property("bad").toBool())
      typed_->setText(QString::fromStdString(units::schematic(now->value(), unit)));
    typed_->setToolTip(tr("Type a value such as 4k7, 22n or .022u and press Enter"));
  }
  if (tube) {
    const QSignalBlocker block(tube_);
    tube_->clear();
    for (const auto& [name, type] : library.tubes.types())
      if (amp::fits(now->part->kind, type)) tube_->addItem(QString::fromStdString(name));
    tube_->setCurrentText(QString::fromStdString(now->text("tube")));
  }
  if (pot) {
    const QString taper = QString::fromStdString(now->text("taper"));
    if (taper_->findText(taper) < 0) taper_->addItem(taper);
    taper_->setCurrentText(taper);
  }
  if (control) showKnob(*now);
  fitted_->setChecked(now->fitted());
  buildParameters(*now);
  for (const auto& [field, edit] : parameterEdits_)
    if (!edit->hasFocus() || !edit->isModified())
      edit->setText(read(now->number(field), amp::settingUnit(now->part->kind, field), 0));
  for (const auto& [field, choice] : parameterChoices_)
    choice->setCurrentText(QString::fromStdString(now->text(field)));
  for (const auto& [field, check] : parameterChecks_)
    check->setChecked(std::get<bool>(now->settings.at(field)));
  parametersBox_->setVisible(parameters_->rowCount() > 0);
}

void Drawer::showKnob(const amp::ResolvedPart& control) {
  if (!knob_ || knobFor_ != control.section + "." + control.name) {
    delete knob_;
    knob_ = new Knob(session_, control);
    knobRow_->layout()->addWidget(knob_);
    knobFor_ = control.section + "." + control.name;
  }
  knob_->refresh();
}

void Drawer::showValues(const amp::ResolvedPart& ink, const amp::ResolvedPart& now) {
  using Look = FigureTable::Look;
  const auto text = [&](const amp::ResolvedPart& part) {
    if (!amp::hasValue(part.part->kind) || !part.fitted()) return QString::fromStdString(part.label());
    return read(part.value(), amp::valueUnit(part.part->kind), 0);
  };
  FigureTable::Rows rows{{{tr("ink"), Look::quiet}}, {{text(ink), Look::figure, 13}}};
  if (ink.settings != now.settings) {
    rows[0].push_back({tr("pencil"), Look::pencil, 9});
    rows[1].push_back({text(now), Look::pencil, 15});
  } else {
    rows[1].push_back({{}, Look::pencil, 15}); // the same height with and without a mark
  }
  values_->setRows(std::move(rows), 99);
}

void Drawer::display(const Shown& shown) {
  const bool any = !name_.empty() && shown.now() && (*shown.now())->circuit->part(name_);
  const bool steps = any && ((*shown.now())->up || (*shown.now())->down) && shown.question.part == name_;
  readingTitle_->setVisible(any);
  readings_->setVisible(any);
  stepTitle_->setVisible(steps);
  steps_->setVisible(steps);
  stepFoot_->setVisible(steps);
  if (any) showReadings(shown);
  if (steps) showSteps(**shown.now());
}

void Drawer::showSteps(const predict::Overview& now) {
  using Look = FigureTable::Look;
  const auto unit = amp::valueUnit(now.circuit->part(name_)->resolved.part->kind);
  FigureTable::Rows rows{{{},
                          {},
                          {tr("E2"), Look::quiet},
                          {tr("1 kHz"), Look::quiet},
                          {tr("5 kHz"), Look::quiet},
                          {tr("DC"), Look::quiet}}};
  for (const auto& [word, effect] : {std::pair{tr("up"), now.up}, {tr("down"), now.down}}) {
    if (!effect) continue;
    std::vector<FigureTable::Cell> row{{word, Look::quiet},
                                       {QString::fromStdString(units::schematic(effect->value, unit))}};
    if (effect->problem) {
      row.push_back({QStringLiteral("\u26a0 ") + tr("no answer"), Look::danger});
    } else {
      for (const double db : {effect->atE2, effect->at1kHz, effect->at5kHz})
        row.push_back({signedDecibels(db)});
      row.push_back({std::abs(effect->volts) < 5e-3
                         ? QStringLiteral("0 V")
                         : (effect->volts > 0 ? QStringLiteral("+") : QString()) + read(effect->volts, Unit::volt, 2)});
    }
    rows.push_back(std::move(row));
  }
  steps_->setRows(std::move(rows), 2);
}

bool Drawer::showSupplyReadings(const predict::Overview* ink, const predict::Overview* pencil) {
  const auto* any = pencil ? pencil : ink;
  if (!any || !any->point.supply) return false;
  using Pairs = std::vector<std::pair<QString, QString>>;
  const auto read2 = [this](const predict::Overview& overview) {
    const auto report = predict::readSupply(*overview.circuit, session_.library(), *overview.point.supply);
    Pairs pairs;
    const auto limit = [](const QString& text, std::optional<double> most, Unit unit) {
      return most ? text + tr(" of %1").arg(read(*most, unit)) : text;
    };
    for (const auto& r : report.rectifiers)
      if (r.part == name_) {
        pairs.push_back({tr("Peak"), limit(read(r.peakAmps, Unit::ampere), r.limits.peakAmps, Unit::ampere)});
        pairs.push_back({tr("DC, both"), limit(read(r.totalAmps, Unit::ampere), r.limits.directAmps, Unit::ampere)});
        pairs.push_back({tr("rms, one plate"), read(r.rmsAmps, Unit::ampere)});
        pairs.push_back({tr("Conducts"), QStringLiteral("%1\u00b0").arg(r.conductionDegrees, 0, 'f', 0)});
        pairs.push_back({tr("Drop"), read(r.meanDropVolts, Unit::volt)});
        pairs.push_back({tr("In reverse"), limit(read(r.inverseVolts, Unit::volt), r.limits.inverseVolts, Unit::volt)});
      }
    for (const auto& w : report.windings)
      if (w.part == name_)
        pairs.push_back({QString::fromStdString(w.name),
                         tr("%1 of %2").arg(read(w.rmsAmps, Unit::ampere), read(w.ratedAmps, Unit::ampere))});
    for (const auto& h : report.heaters)
      if (h.part == name_) {
        pairs.push_back({tr("Volts rms"), read(h.rmsVolts, Unit::volt)});
        pairs.push_back({tr("Current rms"), read(h.rmsAmps, Unit::ampere)});
      }
    const auto* part = overview.circuit->part(name_);
    const auto kind = part ? part->resolved.part->kind : amp::PartKind::resistor;
    if (kind == amp::PartKind::mains || kind == amp::PartKind::fuse || kind == amp::PartKind::powerTransformer) {
      pairs.push_back({tr("From the mains"), read(report.primaryAmps, Unit::ampere)});
      pairs.push_back(
          {tr("Power"), tr("%1, %2 VA").arg(read(report.primaryWatts, Unit::watt)).arg(report.primaryVa, 0, 'f', 0)});
    }
    return pairs;
  };
  const auto now = read2(*any);
  if (now.empty()) return false;
  const auto before = ink ? read2(*ink) : now;
  using Look = FigureTable::Look;
  FigureTable::Rows rows;
  for (std::size_t i = 0; i < now.size(); ++i) {
    const auto& was = i < before.size() ? before[i].second : QString();
    rows.push_back({{now[i].first, Look::quiet}, {was}});
    if (now[i].second != was) rows.push_back({{{}, Look::quiet}, {now[i].second, Look::pencil}});
  }
  readings_->setRows(std::move(rows), 99);
  return true;
}

void Drawer::showReadings(const Shown& shown) {
  using Look = FigureTable::Look;
  FigureTable::Rows rows;
  const auto add = [&](const QString& name, const QString& ink, const QString& pencil, bool danger = false) {
    rows.push_back({{name, Look::quiet}, {ink, danger && pencil.isEmpty() ? Look::danger : Look::figure}});
    if (!pencil.isEmpty() && pencil != ink) rows.back().push_back({pencil, danger ? Look::danger : Look::pencil});
  };
  const auto* pencilPoint = shown.pencilled() && shown.now() ? &(*shown.now())->point : nullptr;
  const auto* inkPoint = shown.ink ? &(*shown.ink)->point : nullptr;
  const auto both = [&](const QString& name, auto pick, bool danger = false) {
    const QString dash = QStringLiteral("\u2014");
    add(name, inkPoint ? pick(*inkPoint) : dash, pencilPoint ? pick(*pencilPoint) : QString(), danger);
  };
  const auto tubeOf = [this](const predict::OperatingPoint& point) -> const predict::TubeReading* {
    for (const auto& tube : point.tubes)
      if (tube.name == name_) return &tube;
    return nullptr;
  };
  const auto& any = pencilPoint ? *pencilPoint : *inkPoint;
  if (const auto* tube = tubeOf(any)) {
    const auto of = [tubeOf](auto pick) {
      return [tubeOf, pick](const predict::OperatingPoint& point) {
        const auto* t = tubeOf(point);
        return t ? pick(*t) : QStringLiteral("\u2014");
      };
    };
    using T = predict::TubeReading;
    both(tr("Plate to cathode"), of([](const T& t) { return read(t.plateVolts, Unit::volt); }));
    both(tr("Grid to cathode"), of([](const T& t) { return read(t.gridVolts, Unit::volt); }));
    both(tr("Cathode to ground"), of([](const T& t) { return read(t.cathodeVoltsToGround, Unit::volt); }));
    both(tr("Plate current"), of([](const T& t) { return read(t.plateAmps, Unit::ampere); }));
    const bool over = tube->plateWattsLimit && tube->plateWatts > *tube->plateWattsLimit;
    both(tr("Plate power"), of([](const T& t) { return read(t.plateWatts, Unit::watt); }), over);
    if (tube->plateWattsLimit) add(tr("Plate rating"), read(*tube->plateWattsLimit, Unit::watt), {});
    if (tube->screenAmps) {
      both(tr("Screen"), of([](const T& t) { return t.screenAmps ? read(*t.screenAmps, Unit::ampere) : QString(); }));
      both(tr("Screen power"),
           of([](const T& t) { return t.screenWatts ? read(*t.screenWatts, Unit::watt) : QString(); }));
    }
    both(tr("gm here"), of([](const T& t) { return QString::number(t.gm * 1000, 'g', 3) + QStringLiteral(" mS"); }));
    both(tr("rp here"), of([](const T& t) { return read(t.rp, Unit::ohm); }));
    both(tr("mu here"), of([](const T& t) { return QString::number(t.mu, 'g', 3); }));
    readings_->setRows(std::move(rows), 99);
    return;
  }
  if (showSupplyReadings(inkPoint ? shown.ink->get() : nullptr, pencilPoint ? shown.now()->get() : nullptr)) return;
  const auto of = [this](auto pick) {
    return [this, pick](const predict::OperatingPoint& point) {
      const auto* part = point.part(name_);
      return part ? pick(*part) : QStringLiteral("\u2014");
    };
  };
  // Grid leakage leaves nanovolts on every signal node; a meter shows zero there.
  const auto volts = [](double v) { return std::abs(v) < 1e-3 ? QStringLiteral("0 V") : read(v, Unit::volt); };
  const auto amps = [](double a) { return std::abs(a) < 1e-7 ? QStringLiteral("0 A") : read(a, Unit::ampere); };
  const auto watts = [](double w) { return std::abs(w) < 1e-6 ? QStringLiteral("0 W") : read(w, Unit::watt); };
  both(tr("Volts across"), of([&](const predict::PartReading& p) { return volts(std::abs(p.volts)); }));
  both(tr("Current"), of([&](const predict::PartReading& p) { return amps(std::abs(p.amps)); }));
  both(tr("Dissipation"), of([&](const predict::PartReading& p) { return watts(std::max(p.watts, 0.0)); }));
  readings_->setRows(std::move(rows), 99);
}

} // namespace vinegar::app
