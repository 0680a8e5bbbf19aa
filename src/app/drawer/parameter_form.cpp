#include "drawer/parameter_form.h"

#include "amp/compile/part_devices.h"
#include "document/session.h"
#include "drawer/value_box.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QFormLayout>
#include <QLineEdit>

namespace vinegar::app {
namespace {

/// Field names of the file in the builder's words.
QString fieldTitle(const std::string& field) {
  return QCoreApplication::translate("Field", amp::fieldWords(field).c_str());
}

/// A rating that nobody has stated is 0 in the file and nothing on screen; no rule holds the part to it.
bool isRating(const std::string& field) { return field.starts_with("rated"); }

Label* caption(const std::string& field) {
  auto* label = new Label(fieldTitle(field));
  label->setFont(textFont(9.5));
  label->setProperty("quiet", true);
  return label;
}

} // namespace

ParameterForm::ParameterForm(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  form_ = new QFormLayout(this);
  form_->setContentsMargins(0, 8, 0, 0);
  form_->setRowWrapPolicy(QFormLayout::DontWrapRows);
}

void ParameterForm::choose(const std::string& field, const amp::Setting& setting) {
  if (const auto problem = pencilField(session_, part_, field, setting)) {
    Q_EMIT refused(QString::fromStdString(problem->line()));
    if (const auto now = amp::findPart(session_.pencilled(), session_.library(), part_)) show(*now);
  } else {
    Q_EMIT accepted();
  }
}

void ParameterForm::addFlag(const std::string& field) {
  auto* check = new QCheckBox(fieldTitle(field));
  check->setObjectName(QString::fromStdString(field));
  form_->addRow(check);
  checks_[field] = check;
  connect(check, &QCheckBox::clicked, this, [this, field](bool on) { choose(field, on); });
}

void ParameterForm::addChoice(const std::string& field) {
  auto* choice = new QComboBox;
  choice->setObjectName(QString::fromStdString(field));
  choice->setAccessibleName(fieldTitle(field));
  choice->setToolTip(tr("Measured: unloaded volts and winding resistances from the meter. Unloaded or loaded: from "
                        "its label, resistances from the rated current and the regulation."));
  for (const auto* given : amp::transformerGivens)
    choice->addItem(QString::fromLatin1(given));
  form_->addRow(caption(field), choice);
  choices_[field] = choice;
  connect(choice, &QComboBox::textActivated, this,
          [this, field](const QString& text) { choose(field, text.toStdString()); });
}

void ParameterForm::addNumber(const std::string& field, amp::PartKind kind) {
  auto* edit = new QLineEdit;
  edit->setFont(figureFont(9.5));
  edit->setMaximumWidth(100);
  if (isRating(field)) edit->setPlaceholderText(tr("not stated"));
  edit->setObjectName(QString::fromStdString(field));
  auto* title = caption(field);
  title->setBuddy(edit);
  edit->setAccessibleName(fieldTitle(field));
  form_->addRow(title, edit);
  edits_[field] = edit;
  connect(edit, &QLineEdit::editingFinished, this, [this, field, edit, kind] {
    if (!edit->isModified()) return;
    edit->setModified(false);
    const auto value = edit->text().isEmpty() && isRating(field)
                           ? 0.0
                           : units::parse(edit->text().toStdString(), amp::settingUnit(kind, field));
    setLook(edit, "bad", !value);
    if (value)
      choose(field, *value);
    else
      Q_EMIT refused(QString::fromStdString(value.error().message));
  });
}

void ParameterForm::build(const amp::ResolvedPart& part) {
  std::vector<std::string> fields;
  for (const auto& [field, setting] : part.settings)
    fields.push_back(field);
  if (builtFor_ == std::pair(part.part->kind, fields)) return;
  builtFor_ = {part.part->kind, std::move(fields)};
  while (form_->rowCount() > 0)
    form_->removeRow(0);
  edits_.clear();
  checks_.clear();
  choices_.clear();
  for (const auto& [field, setting] : part.settings) {
    if (field == "value" || field == "tube" || field == "fitted" || field == "taper") continue;
    if (std::holds_alternative<bool>(setting))
      addFlag(field);
    else if (field == "given")
      addChoice(field);
    else if (std::holds_alternative<double>(setting))
      addNumber(field, part.part->kind);
  }
}

void ParameterForm::show(const amp::ResolvedPart& part) {
  const bool another = part_ != part.name;
  part_ = part.name;
  build(part);
  for (const auto& [field, edit] : edits_) {
    if (another) // what was typed for the other part is not this one's
      setLook(edit, "bad", false);
    if (another || !edit->hasFocus() || !edit->isModified())
      edit->setText(isRating(field) && part.number(field) == 0
                        ? QString()
                        : readingOf(part.number(field), amp::settingUnit(part.part->kind, field), 0));
  }
  for (const auto& [field, choice] : choices_)
    choice->setCurrentText(QString::fromStdString(part.text(field)));
  for (const auto& [field, check] : checks_)
    check->setChecked(std::get<bool>(part.settings.at(field)));
  setVisible(form_->rowCount() > 0);
}

} // namespace vinegar::app

#include "moc_parameter_form.cpp"
