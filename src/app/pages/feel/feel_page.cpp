#include "pages/feel/feel_page.h"

#include "pages/feel/balance_view.h"
#include "pages/feel/burst_view.h"
#include "pages/feel/causes_view.h"
#include "pages/feel/compression_view.h"
#include "pages/feel/sag_view.h"
#include "pages/kit/input_box.h"

#include <QFileDialog>

namespace vinegar::app {

extern const PageFacts feelPage;
const PageFacts feelPage{"Feel", QT_TRANSLATE_NOOP("Page", "Feel"), QT_TRANSLATE_NOOP("Page", "how does it sag?"),
                         makePage<FeelPage>, PageFacts::supplyEnd | PageFacts::sagging};

FeelPage::FeelPage(const PageContext& context, const PageFacts& facts)
    : ViewsPage(context, facts), phrases_(new PhraseBox(context.dataFolder)) {
  frame().addHeadTool(phrases_);
  frame().addHeadTool(new InputBox(context.selection, InputBox::Asks::level));
  burst_ = new BurstView(*this, *phrases_);
  addView("Burst", tr("Burst"), burst_);
  addView("Causes", tr("Causes"), new CausesView(*this, *phrases_));
  addView("Compression", tr("Compression"), new CompressionView(*this, *phrases_));
  addView("Rectifiers", tr("Rectifiers"),
          new RowsView(*this, *phrases_, predict::FeelSubject::rectifiers,
                       {"rectifiersAnswer", "rectifiers", tr("The burst with other rectifiers"), tr("rectifiers"),
                        tr("rectifiers-table")}));
  addView("Sag", tr("More or less"), new SagView(*this, *phrases_));
  addView("Balance", tr("Balance"), new BalanceView(*this, *phrases_));
  addView("Conditions", tr("Conditions"),
          new RowsView(*this, *phrases_, predict::FeelSubject::conditions,
                       {"conditionsAnswer", "conditions", tr("The burst under other conditions"), tr("conditions"),
                        tr("conditions-table")}));
  startViews();
  connect(phrases_, &PhraseBox::recordingWanted, this, [this] {
    const auto path = QFileDialog::getOpenFileName(this, tr("A recording to play"), {},
                                                   tr("Recordings (*.wav *.flac *.aiff *.aif *.ogg)"));
    if (!path.isEmpty()) openRecording(path);
  });
  connect(phrases_, &PhraseBox::refused, this, [this](const QString& why) { this->context().notify(why, true); });
}

void FeelPage::openRecording(const QString& path) { phrases_->openRecording(path); }

QByteArray FeelPage::saveView() const {
  return (QStringList{frame().viewId(), burst_->look()} + phrases_->choice().split(QLatin1Char(' ')))
      .join(QLatin1Char(' '))
      .toUtf8();
}

void FeelPage::restoreView(const QByteArray& view) {
  const auto parts = QString::fromUtf8(view).split(QLatin1Char(' '));
  if (parts.size() == 4) {
    burst_->setLook(parts[1]);
    phrases_->choose(parts[2] + QLatin1Char(' ') + parts[3]);
  }
  ViewsPage::restoreView(parts.value(0).toUtf8());
}

} // namespace vinegar::app

#include "moc_feel_page.cpp"
