#include "pages/stages/splitter_view.h"

#include "pages/stages/stage_words.h"
#include "theme/text.h"
#include "widgets/readings.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <numbers>

namespace vinegar::app {

using LineLook = CurvePlot::Look;

SplitterView::SplitterView(Page& page, TubeChoice& choice) : StageView(page, choice) {
  auto* column = contentColumn(4);
  answer_ = newAnswer("balance");
  column->addWidget(answer_);
  plot_ = newPlot(tr("balance"));
  drive_ = new QPushButton(tr("Against drive"));
  drive_->setObjectName(QStringLiteral("againstDrive"));
  drive_->setCheckable(true);
  plot_->addTool(drive_);
  cure_ = new QPushButton;
  cure_->setObjectName(QStringLiteral("pencilBalance"));
  cure_->hide();
  plot_->addTool(cure_);
  plot_->addFit();
  column->addWidget(plot_, 1);
  connect(cure_, &QPushButton::clicked, this, [this] { this->page().session().pencil(changes_, wordsOf(changes_)); });
  connect(drive_, &QPushButton::toggled, this, &SplitterView::again);
}

void SplitterView::put(const predict::Idle&) {
  balance_.ask({false});
  if (drive_->isChecked())
    driven_.ask({true});
  else
    driven_.rest();
}

void SplitterView::clear() {
  changes_.clear();
  cure_->hide();
  StageView::clear();
}

void SplitterView::draw() {
  const auto* now = standing(*balance_);
  if (!now) return;
  if (now->all.empty())
    return state().say(tr("There is no phase splitter with two outputs in this design, or no signal comes to one."));
  const auto& splitter = now->all.front();
  answer_->setText(std::abs(splitter.at1kHz) < 0.05
                       ? tr("%1: both outputs are alike").arg(sentence(QString::fromStdString(splitter.title)))
                       : tr("%1: the first output is %2 dB against the second")
                             .arg(sentence(QString::fromStdString(splitter.title)), signedDecibels(splitter.at1kHz)));
  changes_ = splitter.cure;
  cure_->setVisible(!changes_.empty());
  cure_->setText(tr("Pencil %1 for %2 dB").arg(wordsOf(changes_), signedDecibels(splitter.cured)));
  CurvePlot::Picture picture;
  const bool drive = drive_->isChecked();
  picture.title = drive ? tr("Balance against drive") : tr("Balance against frequency");
  picture.hertz = !drive;
  picture.xLabel = drive ? tr("mV rms in") : tr("Hz");
  picture.xUnit = drive ? tr("mV") : tr("Hz");
  picture.panes = {{tr("dB, first over second"), tr("dB"), CurvePlot::Pane::Scale::fromZero}};
  if (!drive) picture.panes.push_back({tr("degrees"), tr("\u00b0"), CurvePlot::Pane::Scale::tight});
  double most = 1, turned = 10; // at least so far either way: a tenth of a decibel is no finding
  const auto& answers = drive ? *driven_ : *balance_;
  for (const auto& [splitters, look] :
       {std::pair{answers.inkValue(), LineLook::ink}, {answers.pencilValue(), LineLook::pencil}}) {
    if (!splitters || splitters->all.empty()) continue;
    const auto& one = splitters->all.front();
    for (const double db : drive ? one.driven : one.decibels)
      most = std::max(most, std::abs(db));
    for (const double degrees : one.degrees)
      turned = std::max(turned, std::abs(degrees - 180));
    if (drive) {
      CurvePlot::Curve curve{tr("balance"), {}, one.driven, look};
      for (const double peak : one.inputPeak)
        curve.x.push_back(1000 * peak / std::numbers::sqrt2);
      picture.curves.push_back(std::move(curve));
    } else {
      picture.curves.push_back({tr("balance"), one.hertz, one.decibels, look});
      picture.curves.push_back(
          {tr("phase"), one.hertz, one.degrees, look == LineLook::ink ? LineLook::inkThin : LineLook::pencilThin, 1});
    }
  }
  picture.panes[0].range = {-1.1 * most, 1.1 * most};
  if (!drive) picture.panes[1].range = {180 - 1.1 * turned, 180 + 1.1 * turned};
  plot_->show(std::move(picture));
}

} // namespace vinegar::app

#include "moc_splitter_view.cpp"
