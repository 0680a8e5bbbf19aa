#include "pages/arrange/start_view.h"

#include "document/documents.h"
#include "run/run_picture.h"
#include "run/section_sheet.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/figure_sheet.h"
#include "widgets/readings.h"

#include <QDir>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace vinegar::app {

StartView::StartView(Page& page) : page_(page) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  auto* row = new QHBoxLayout;
  auto* words = new Label(tr("Start from an amplifier that works, or from nothing."));
  words->setFont(textFont(11, QFont::DemiBold));
  row->addWidget(words);
  row->addStretch(1);
  auto* nothing = new QPushButton(tr("From nothing"));
  nothing->setObjectName(QStringLiteral("fromNothing"));
  connect(nothing, &QPushButton::clicked, this, &StartView::fromNothing);
  row->addWidget(nothing);
  column->addLayout(row);
  table_ = new FigureSheet;
  table_->setObjectName(QStringLiteral("skeletons"));
  table_->setAccessibleName(tr("Skeletons to start from"));
  table_->setStretched({1});
  column->addWidget(table_, 5);
  about_ = new Label;
  about_->setObjectName(QStringLiteral("skeletonAbout"));
  about_->setFont(textFont(11, QFont::DemiBold));
  about_->setWordWrap(true);
  column->addWidget(about_);
  picture_ = new RunPicture;
  picture_->setObjectName(QStringLiteral("skeletonPicture"));
  column->addWidget(picture_, 3);
  connect(table_, &FigureSheet::rowChosen, this, &StartView::showPicture);
}

void StartView::follow() {
  skeletons_.clear();
  Sides sides{++editions_, {}};
  for (const auto& [folder, own] :
       {std::pair{page_.context().dataFolder + QStringLiteral("/skeletons"), false}, {Documents::ownSkeletons(), true}})
    for (const auto& file : QDir(folder).entryInfoList({QStringLiteral("*.vinegar")}, QDir::Files, QDir::Name)) {
      const auto loaded = Session::read(file.absoluteFilePath(), page_.session().library());
      if (!loaded) {
        skeletons_.push_back({file.fileName(), own, nullptr, {}, QString::fromStdString(loaded.error().line())});
        continue;
      }
      const auto& ink = loaded->document.ink;
      skeletons_.push_back({QString::fromStdString(ink.name),
                            own,
                            std::make_shared<const amp::Design>(ink),
                            QString::fromStdString(loaded->document.about),
                            {}});
      sides.all.push_back({skeletons_.back().name, Side::Look::other, Side::besides, skeletons_.back().design});
    }
  trial_.rest();
  power_.rest();
  draw();
  table_->choose(0);
  showPicture(0);
  trial_.ask({}, sides);
  power_.ask({}, std::move(sides));
}

void StartView::draw() {
  std::vector<FigureSheet::Row> rows;
  for (const auto& skeleton : skeletons_) {
    const auto of = [&](const auto& answers) {
      for (const auto& answer : answers.sides)
        if (answer.side.design == skeleton.design) return answer.get();
      return decltype(answers.any()){};
    };
    const auto* trial = of(*trial_);
    const auto* power = of(*power_);
    FigureSheet::Row row;
    row.cells.push_back({skeleton.name, {}, false, true, true});
    row.cells.push_back({skeleton.problem.isEmpty() ? skeleton.own ? tr("yours") : QString() : warned(skeleton.problem),
                         {},
                         !skeleton.problem.isEmpty(),
                         false,
                         true});
    const auto add = [&](const QString& text, double order) {
      row.cells.push_back({text, {}, false, false, false, order});
    };
    if (trial) {
      const auto& v = trial->vitals;
      add(meterReading(v.reservoirVolts, units::Unit::volt), v.reservoirVolts);
      add(meterReading(v.reservoirAmps, units::Unit::ampere), v.reservoirAmps);
      add(v.gain ? QStringLiteral("%1 dB").arg(v.gain->at1kHz, 0, 'f', 1) : noReading(),
          v.gain ? v.gain->at1kHz : -999);
      const auto clean = power ? power->power : std::nullopt;
      add(!clean             ? noReading()
          : clean->sustained ? tr("%1, %2 held")
                                   .arg(readingOf(clean->atOnce.watts, units::Unit::watt, 2),
                                        readingOf(clean->sustained->watts, units::Unit::watt, 2))
                             : readingOf(clean->atOnce.watts, units::Unit::watt, 2),
          clean ? clean->atOnce.watts : -1);
      add(v.hottestTube.empty() ? noReading()
                                : QStringLiteral("%1 %2").arg(QString::fromStdString(v.hottestTube),
                                                              percent(v.hottestWatts / v.hottestLimit)),
          v.hottestTube.empty() ? 0 : v.hottestWatts / v.hottestLimit);
      add(QString::number(trial->bottles), trial->bottles);
    } else {
      for (int i = 0; i < 6; ++i)
        add(noReading(), 0);
    }
    if (skeleton.design) {
      row.act = tr("Start");
      row.actName = QStringLiteral("start ") + skeleton.name;
      row.actTip = tr("Start from %1").arg(skeleton.name);
      row.acted = [this, design = skeleton.design, name = skeleton.name] {
        page_.session().edit(tr("start from %1").arg(name), [&](amp::Document& d) {
          d.ink = *design;
          for (auto& sheet : d.sheets)
            sheet.marks.clear();
        });
      };
    }
    rows.push_back(std::move(row));
  }
  table_->setSheet({tr("Amplifier"),
                    {},
                    tr("B+ idle"),
                    tr("draw"),
                    tr("gain, 1 kHz"),
                    tr("clean power, 5 %"),
                    tr("hottest plate"),
                    tr("bottles")},
                   std::move(rows), true);
}

void StartView::showPicture(int row) {
  const auto* skeleton =
      row >= 0 && row < static_cast<int>(skeletons_.size()) ? &skeletons_[static_cast<std::size_t>(row)] : nullptr;
  picture_->show(skeleton && skeleton->design
                     ? std::optional(designContent(*skeleton->design, page_.session().library()))
                     : std::nullopt);
  about_->setText(!skeleton                   ? QString()
                  : skeleton->about.isEmpty() ? skeleton->name
                                              : tr("%1. %2").arg(skeleton->name, skeleton->about));
  picture_->setAccessibleName(about_->text());
}

} // namespace vinegar::app

#include "moc_start_view.cpp"
