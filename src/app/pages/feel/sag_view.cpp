#include "pages/feel/sag_view.h"

#include "theme/text.h"
#include "widgets/pick_list.h"
#include "widgets/readings.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>

namespace vinegar::app {

using predict::FeelSubject;

SagView::SagView(Page& page, PhraseBox& phrases)
    : RowsView(
          page, phrases, FeelSubject::sag,
          {"sagAnswer", "sag", tr("Parts that bring more sag or less"), tr("more-or-less"), tr("more-or-less-table")}) {
  auto* fields = new QWidget;
  auto* row = new QHBoxLayout(fields);
  row->setContentsMargins(0, 0, 0, 0);
  const auto box = [&](const char* name, const QString& about, double most, double step, const QString& suffix) {
    auto* spin = new QDoubleSpinBox;
    spin->setObjectName(QLatin1String(name));
    spin->setAccessibleName(about);
    spin->setToolTip(plainTip(about));
    spin->setRange(0, most);
    spin->setSingleStep(step);
    spin->setDecimals(step < 0.1 ? 2 : 1);
    spin->setSuffix(suffix);
    spin->setButtonSymbols(QAbstractSpinBox::NoButtons);
    spin->setFixedWidth(78);
    spin->setKeyboardTracking(false);
    row->addWidget(spin);
    return spin;
  };
  row->addWidget(new Label(tr("Droop")));
  share_ = box("wantedDroop", tr("The droop that is wished, of B+"), 60, 0.5, tr(" %"));
  share_->setValue(8);
  row->addWidget(new Label(tr("back in")));
  back_ = box("wantedBack", tr("Seconds until two thirds of it are regained; 0: as it comes"), 10, 0.05, tr(" s"));
  back_->setSpecialValueText(tr("any time"));
  row->addWidget(new Label(tr("or as with")));
  like_ = new QComboBox;
  like_->setObjectName(QStringLiteral("sagLike"));
  like_->setAccessibleName(tr("A rectifier whose droop is wished"));
  like_->addItem(tr("a rectifier..."));
  like_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  row->addWidget(like_);
  row->addStretch();
  addUnderAnswer(fields);
  like_->setItemData(0, QString());
  others_.then = [this] {
    const auto* all = others_->nowValue();
    QStringList lines{tr("a rectifier...")}, data{QString()};
    for (const auto& one : all ? all->rows : std::vector<predict::FeelRow>{})
      if (!one.problem) {
        lines << tr("%1, %2").arg(titleOf(one), percentOf(one.dip.share()));
        data << QString::number(one.dip.share(), 'g', 17);
      }
    refill(*like_, lines, data, {});
  };
  for (auto* spin : {share_, back_})
    connect(spin, &QDoubleSpinBox::valueChanged, this, [this] { askRows(); });
  connect(like_, &QComboBox::activated, this, [this](int index) {
    if (index > 0) share_->setValue(100 * like_->itemData(index).toString().toDouble());
  });
}

predict::FeelRowsQuestion SagView::question(double rate) const {
  return {FeelSubject::sag, burst(rate), share_->value() / 100, back_->value()};
}

void SagView::put() {
  askRows();
  others_.ask({FeelSubject::rectifiers, burst(coarse)});
}

/// Finely alone: they are looked for coarsely anyway.
void SagView::askRows() { asking().askFine(question(middling)); }

QString SagView::said() const {
  const auto& all = rows()->rows;
  if (all.size() < 2) return tr("No part of this supply has other stock values to try");
  const auto& best = all[1];
  return tr("Nearest to %1: %2, %3. Each row was played; a thing against it stands in its last column")
      .arg(percentOf(share_->value() / 100), titleOf(best), best.problem ? noReading() : percentOf(best.dip.share()));
}

} // namespace vinegar::app

#include "moc_sag_view.cpp"
