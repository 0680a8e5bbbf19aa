#include "widgets/knob.h"

#include "document/session.h"
#include "theme/text.h"
#include "theme/theme.h"

#include <QHBoxLayout>
#include <QSignalBlocker>

namespace vinegar::app {

Knob::Knob(Session& session, const amp::ResolvedPart& control, QWidget* parent)
    : QWidget(parent), session_(session), control_(control) {
  const auto name = QString::fromStdString(control.knob);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  const auto prepare = [&](QWidget* widget, const QString& tip) {
    widget->setObjectName(QStringLiteral("knob ") + name);
    widget->setAccessibleName(name);
    widget->setToolTip(tip);
    row->addWidget(widget, 1);
  };
  if (control.part->kind == amp::PartKind::selector) {
    positions_ = new QComboBox;
    positions_->setMaximumWidth(150);
    for (const auto& position : control.part->positions)
      positions_->addItem(QString::fromStdString(position.title));
    prepare(positions_, tr("%1: where the switch stands. It is how the amp is played, not a change of it.").arg(name));
    connect(positions_, &QComboBox::activated, this, [this](int index) { turn(index + 1); });
  } else {
    slider_ = new QSlider(Qt::Horizontal);
    slider_->setRange(0, 100);
    slider_->setPageStep(10);
    slider_->setMinimumWidth(60);
    slider_->setMaximumWidth(150);
    prepare(slider_, tr("%1, 0 to 10. A knob is how the amp is played, not a change of it.").arg(name));
    value_ = new Label;
    value_->setFont(figureFont(9.5));
    value_->setMinimumWidth(30);
    row->addWidget(value_);
    connect(slider_, &QSlider::valueChanged, this, [this](int position) { turn(position / 100.0); });
  }
  row->addStretch();
  refresh();
}

void Knob::turn(double to) {
  const auto name = QString::fromStdString(control_.knob);
  session_.edit(
      tr("turn %1").arg(name), [&](amp::Document& d) { d.ink.knobs[control_.knob] = to; },
      QStringLiteral("knob ") + name);
}

void Knob::refresh() {
  const double at = amp::knobOf(session_.document().ink, control_);
  if (positions_) {
    positions_->setCurrentIndex(static_cast<int>(at) - 1);
    return;
  }
  const QSignalBlocker block(slider_);
  slider_->setValue(static_cast<int>(std::lround(at * 100)));
  value_->setText(QString::number(at * 10, 'f', 1));
}

} // namespace vinegar::app

#include "moc_knob.cpp"
