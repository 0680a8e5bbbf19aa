#include "pages/kit/input_box.h"

#include "theme/text.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QSignalBlocker>
#include <cmath>
#include <numbers>

namespace vinegar::app {
namespace {

using units::Unit;

constexpr double mostVolts = 100; ///< rms; more is no signal

} // namespace

QString InputBox::level(double peak) { return readingOf(peak / std::numbers::sqrt2, Unit::volt); }

InputBox::InputBox(Selection& selection, Asks asks) : selection_(selection) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  level_ = new QComboBox;
  level_->setEditable(true);
  level_->setInsertPolicy(QComboBox::NoInsert);
  level_->setObjectName(QStringLiteral("inputLevel"));
  level_->setAccessibleName(tr("Volts rms at the jack"));
  level_->setToolTip(tr("Volts rms at the jack, as a generator or meter tells them: type any, as 35mV"));
  level_->addItem(tr("100 mV, strum"), 0.1);
  level_->addItem(tr("700 mV, hard"), 0.7);
  level_->addItem(tr("300 mV, line"), 0.3);
  level_->addItem(tr("20 mV, soft"), 0.02);
  level_->setMinimumWidth(100); // in a narrow window they give way
  level_->setMaximumWidth(128);
  row->addWidget(level_);
  hertz_ = new QComboBox;
  hertz_->setEditable(true);
  hertz_->setInsertPolicy(QComboBox::NoInsert);
  hertz_->setObjectName(QStringLiteral("inputHertz"));
  hertz_->setAccessibleName(tr("Frequency"));
  hertz_->setToolTip(tr("Frequency of the sine: type any, as 440Hz"));
  hertz_->addItem(tr("1 kHz"), 1000.0);
  hertz_->addItem(tr("400 Hz"), 400.0);
  hertz_->addItem(tr("82.4 Hz, E2"), 82.4);
  if (asks == Asks::levelAndRange) hertz_->addItem(tr("worst, E2\u2013E6"), 0.0);
  hertz_->setMinimumWidth(76);
  hertz_->setMaximumWidth(108);
  row->addWidget(hertz_);
  hertz_->setVisible(asks != Asks::level);
  show();
  connect(level_, &QComboBox::activated, this, &InputBox::takeLevel);
  connect(level_->lineEdit(), &QLineEdit::returnPressed, this, &InputBox::takeLevel);
  connect(hertz_, &QComboBox::activated, this, &InputBox::takeHertz);
  connect(hertz_->lineEdit(), &QLineEdit::returnPressed, this, &InputBox::takeHertz);
  connect(&selection_, &Selection::playedChanged, this, &InputBox::show);
}

void InputBox::show() {
  const auto& played = selection_.played();
  const QSignalBlocker noLevel(level_), noHertz(hertz_);
  const auto put = [](QComboBox& box, double value, const QString& text) {
    for (int i = 0; i < box.count(); ++i)
      if (std::abs(box.itemData(i).toDouble() - value) <= 1e-3 * std::abs(value)) {
        box.setCurrentIndex(i);
        box.setEditText(box.itemText(i));
        box.lineEdit()->setCursorPosition(0);
        return;
      }
    box.setCurrentIndex(-1);
    box.setEditText(text);
    box.lineEdit()->setCursorPosition(0);
  };
  put(*level_, played.inputPeak / std::numbers::sqrt2, level(played.inputPeak));
  put(*hertz_, played.hertz, readingOf(played.hertz, Unit::hertz));
}

void InputBox::takeLevel() {
  const int chosen = level_->findText(level_->currentText());
  auto played = selection_.played();
  if (chosen >= 0) {
    played.inputPeak = level_->itemData(chosen).toDouble() * std::numbers::sqrt2;
  } else if (const auto volts = units::parse(level_->currentText().toStdString(), Unit::volt);
             volts && std::isfinite(*volts) && *volts > 1e-6 && *volts <= mostVolts) {
    played.inputPeak = *volts * std::numbers::sqrt2;
  }
  selection_.play(played);
  show(); // what could not be read goes back to what is played
}

void InputBox::takeHertz() {
  const int chosen = hertz_->findText(hertz_->currentText());
  auto played = selection_.played();
  if (chosen >= 0) {
    played.hertz = hertz_->itemData(chosen).toDouble();
  } else if (const auto hertz = units::parse(hertz_->currentText().toStdString(), Unit::hertz);
             hertz && *hertz >= 20 && *hertz <= 20000) {
    played.hertz = *hertz;
  }
  selection_.play(played);
  show();
}

} // namespace vinegar::app

#include "moc_input_box.cpp"
