#include "run/sheet_dialog.h"

#include "document/saving.h"
#include "theme/text.h"
#include "widgets/paragraph.h"
#include "widgets/readings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>
#include <QResizeEvent>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {
constexpr int mostSeen = 8; ///< sheets in the preview
constexpr double pointMillimetres = 25.4 / 72;
} // namespace

SheetDialog::SheetDialog(PaperRun run, QWidget* parent)
    : QDialog(parent), run_(std::move(run)), paper_(new QComboBox), volts_(new QCheckBox(tr("DC &volts"))),
      told_(quietLabel({}, "sheetsTold")), preview_(new Label), resized_(new QTimer(this)) {
  setWindowTitle(tr("The run on paper"));
  setAttribute(Qt::WA_DeleteOnClose);
  setObjectName(QStringLiteral("sheetDialog"));
  resize(parentWidget() ? QSize(960, 720).boundedTo(parentWidget()->size()) : QSize(960, 720));
  paper_->setObjectName(QStringLiteral("paper"));
  paper_->setAccessibleName(tr("Paper"));
  for (const auto& [title, id] : papers())
    paper_->addItem(title, id);
  paper_->setCurrentIndex(paper_->findData(usualPaper()));
  volts_->setObjectName(QStringLiteral("volts"));
  volts_->setToolTip(tr("Writes the predicted DC volts of every node, without signal"));
  auto* tools = new QHBoxLayout;
  tools->addWidget(paper_);
  tools->addWidget(volts_);
  tools->addWidget(told_, 1);
  auto* scroll = new QScrollArea;
  scroll->setWidget(preview_);
  scroll->setAlignment(Qt::AlignHCenter);
  scroll->setAccessibleName(tr("The sheets as they will be"));
  preview_->setObjectName(QStringLiteral("sheets"));
  auto* close = new QPushButton(tr("Close"));
  auto* save = new QPushButton(tr("Save as\u2026"));
  auto* print = new QPushButton(tr("Print\u2026"));
  save->setObjectName(QStringLiteral("saveSheets"));
  print->setObjectName(QStringLiteral("printSheets"));
  save->setProperty("strong", true);
  save->setDefault(true);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch();
  for (auto* button : {close, print, save})
    buttons->addWidget(button);
  auto* column = new QVBoxLayout(this);
  column->addLayout(tools);
  column->addWidget(scroll, 1);
  column->addLayout(buttons);
  connect(paper_, &QComboBox::currentIndexChanged, this, [this] { fold(); });
  connect(volts_, &QCheckBox::toggled, this, [this] { fold(); });
  connect(close, &QPushButton::clicked, this, &QDialog::reject);
  connect(save, &QPushButton::clicked, this, [this] { this->save(); });
  connect(print, &QPushButton::clicked, this, [this] { this->print(); });
  resized_->setSingleShot(true);
  resized_->setInterval(100);
  connect(resized_, &QTimer::timeout, this, &SheetDialog::showSheets);
  fold();
}

void SheetDialog::fold() {
  folded_ = std::make_unique<FoldedRun>(run_, static_cast<QPageSize::PageSizeId>(paper_->currentData().toInt()),
                                        volts_->isChecked());
  const auto& sheets = folded_->sheets();
  const auto letters = tr("type of %1 points").arg(sheets.letters() / pointMillimetres, 0, 'f', 1);
  told_->setText(sheets.count() == 1 ? tr("One sheet, %1").arg(letters)
                 : sheets.count() <= mostSeen
                     ? tr("%1 sheets, %2").arg(QString::number(sheets.count()), letters)
                     : tr("%1 sheets, %2; the first %3 are shown")
                           .arg(QString::number(sheets.count()), letters, QString::number(mostSeen)));
  setLook(told_, "danger", false);
  showSheets();
}

void SheetDialog::showSheets() {
  const auto& sheets = folded_->sheets();
  const int seen = std::min(sheets.count(), mostSeen);
  // Painted larger and made smaller, so that letters are as large beside the symbols as on paper.
  constexpr int apart = 12, finer = 3;
  const double ratio = devicePixelRatioF();
  const int width = std::max(300, this->width() - 60);
  const double dots = width * ratio / folded_->paper().width();
  const int height = static_cast<int>(folded_->paper().height() * dots / ratio);
  QImage all((QSizeF(width, seen * (height + apart)) * ratio).toSize(), QImage::Format_ARGB32_Premultiplied);
  all.fill(Qt::transparent);
  QPainter painter(&all);
  for (int sheet = 0; sheet < seen; ++sheet)
    painter.drawImage(QPointF(0, sheet * (height + apart) * ratio),
                      folded_->picture(sheet, finer * dots)
                          .scaled(QSize(width, height) * ratio, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
  painter.end();
  auto pixmap = QPixmap::fromImage(std::move(all));
  pixmap.setDevicePixelRatio(ratio);
  preview_->setPixmap(pixmap);
  preview_->resize(pixmap.deviceIndependentSize().toSize());
}

void SheetDialog::save() {
  const QString path = askWhereToSave(this, tr("Save the run"), fileNameOf(run_.words.name) + QStringLiteral(".pdf"),
                                      {tr("Sheets (*.pdf)"), tr("Scalable picture (*.svg)"), tr("Picture (*.png)")});
  if (path.isEmpty()) return;
  if (const auto problem = folded_->save(path); !problem.isEmpty()) return tell(problem);
  accept();
}

void SheetDialog::print() {
  QPrinter printer(QPrinter::HighResolution);
  printer.setDocName(run_.words.name);
  printer.setPageLayout(folded_->layout());
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  // Other paper may have been chosen there.
  if (const auto page = printer.pageLayout().pageSize().id(); page != folded_->layout().pageSize().id())
    folded_ = std::make_unique<FoldedRun>(run_, page, volts_->isChecked());
  if (!folded_->print(printer))
    return tell(tr("The printer could not be started; try another, or save the run to a file."));
  accept();
}

void SheetDialog::tell(const QString& problem) {
  told_->setText(warned(problem));
  setLook(told_, "danger", true);
}

void SheetDialog::resizeEvent(QResizeEvent* event) {
  QDialog::resizeEvent(event);
  if (event->oldSize().width() != event->size().width()) resized_->start();
}

} // namespace vinegar::app

#include "moc_sheet_dialog.cpp"
