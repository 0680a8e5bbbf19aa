#include "run/run_files.h"

#include "document/saving.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/readings.h"

#include <QBuffer>
#include <QDate>
#include <QFileInfo>
#include <QLocale>
#include <QPagedPaintDevice>
#include <QPdfWriter>
#include <QSvgGenerator>

namespace vinegar::app {
namespace {

constexpr double margin = 10;     ///< mm
constexpr int mostPixels = 32000; ///< of a picture's height, more is not painted

QString mainsOf(const Session& session) {
  for (const auto& part : session.pencilledParts())
    if (part.part->kind == amp::PartKind::mains)
      return tr("Mains %1, %2")
          .arg(readingOf(part.value(), units::Unit::volt), readingOf(part.number("hertz"), units::Unit::hertz, 2));
  return {};
}

} // namespace

PaperRun paperRun(const Session& session, const Answers<predict::Idle>& idle,
                  const std::vector<audit::Finding>& findings, const amp::Library& library, ResistorStyle style) {
  PaperRun paper;
  auto& content = paper.content;
  const auto& document = session.document();
  auto marks = document.sheet().marks;
  const bool pencil = !marks.empty();
  std::erase_if(marks, [](const amp::Mark& mark) { return mark.field() != nullptr; });
  content.drawing = amp::drawRun(session.pencilled(), library, amp::Form::paper);
  content.gone = whatIsGone(marks, content.drawing, library);
  content.putIn = whatIsPutIn(marks);
  auto readings = runReadings(session, idle, findings);
  content.labels = std::move(readings.labels);
  content.volts = std::move(readings.volts);
  content.stressed = std::move(readings.stressed);
  paper.style = style;
  const auto& log = document.log;
  const auto revision =
      log.empty() ? tr("No revision yet")
                  : tr("Revision %1, %2")
                        .arg(QString::number(log.back().number), QString::fromStdString(log.back().date.substr(0, 10)));
  paper.words = {QString::fromStdString(document.ink.name), pencil ? tr("%1, with pencil").arg(revision) : revision,
                 tr("Drawn %1").arg(QDate::currentDate().toString(Qt::ISODate)), mainsOf(session)};
  return paper;
}

FoldedRun::FoldedRun(const PaperRun& run, QPageSize::PageSizeId page, bool volts) : page_(page), words_(run.words) {
  auto content = run.content;
  if (volts) {
    words_.volts = tr("DC volts to ground, predicted at idle");
  } else {
    content.drawing.tags.clear();
    content.volts.clear();
    for (const auto& flag : content.drawing.flags)
      content.volts[flag.node] = {QStringLiteral(" "), {}};
  }
  painter_ = std::make_unique<RunPainter>(std::move(content), run.style);
  sheets_ = std::make_unique<RunSheets>(*painter_, layout().paintRect(QPageLayout::Millimeter).size());
}

QPageLayout FoldedRun::layout() const {
  return {QPageSize(page_), QPageLayout::Landscape, QMarginsF(margin, margin, margin, margin), QPageLayout::Millimeter};
}

QSizeF FoldedRun::paper() const { return layout().fullRect(QPageLayout::Millimeter).size(); }

void FoldedRun::paint(QPainter& painter, int sheet, double dots) const {
  const OnPaper colours;
  sheets_->paint(painter, sheet, dots, words_);
}

QImage FoldedRun::picture(int sheet, double dots) const {
  QImage image((paper() * dots).toSize(), QImage::Format_RGB32);
  if (image.isNull()) return image;
  image.fill(Qt::white);
  QPainter painter(&image);
  painter.translate(margin * dots, margin * dots);
  paint(painter, sheet, dots);
  return image;
}

bool FoldedRun::print(QPagedPaintDevice& device) const {
  device.setPageLayout(layout());
  QPainter painter;
  if (!painter.begin(&device)) return false;
  // Some printers keep margins of their own: the sheet then is a little smaller.
  const auto wanted = layout().paintRect(QPageLayout::Millimeter).size();
  const double dots = std::min(device.width() / wanted.width(), device.height() / wanted.height());
  for (int sheet = 0; sheet < sheets_->count(); ++sheet) {
    if (sheet > 0 && !device.newPage()) return false;
    paint(painter, sheet, dots);
  }
  return painter.end();
}

QString FoldedRun::save(const QString& path) const {
  const QString ending = QFileInfo(path).suffix().toLower();
  QBuffer buffer;
  buffer.open(QIODevice::WriteOnly);
  bool drawn = false;
  const QSizeF whole(paper().width(), paper().height() * sheets_->count());
  const auto belowEachOther = [&](QPainter& painter, double dots) {
    for (int sheet = 0; sheet < sheets_->count(); ++sheet) {
      painter.save();
      painter.translate(margin * dots, (margin + sheet * paper().height()) * dots);
      paint(painter, sheet, dots);
      painter.restore();
    }
  };
  if (ending == QLatin1String("pdf")) {
    QPdfWriter pdf(&buffer);
    pdf.setTitle(words_.name);
    drawn = print(pdf);
  } else if (ending == QLatin1String("svg")) {
    constexpr double dots = 4;
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setTitle(words_.name);
    svg.setResolution(static_cast<int>(std::lround(dots * 25.4)));
    svg.setViewBox(QRectF({}, whole * dots));
    svg.setSize((whole * dots).toSize());
    QPainter painter;
    drawn = painter.begin(&svg);
    if (drawn) belowEachOther(painter, dots);
  } else if (ending == QLatin1String("png")) {
    constexpr double dots = 9;
    QImage image(whole.height() * dots > mostPixels ? QSize() : (whole * dots).toSize(), QImage::Format_RGB32);
    if (image.isNull())
      return tr("%1: %2 sheets are too large for a picture; save them as .pdf")
          .arg(path, QString::number(sheets_->count()));
    image.fill(Qt::white);
    image.setDotsPerMeterX(static_cast<int>(dots * 1000));
    image.setDotsPerMeterY(static_cast<int>(dots * 1000));
    QPainter painter(&image);
    belowEachOther(painter, dots);
    painter.end();
    drawn = image.save(&buffer, "PNG");
  } else {
    return tr("%1: the name must end in .pdf, .svg or .png").arg(path);
  }
  return drawn ? saveBytes(path, buffer.data()) : tr("%1: the run could not be drawn").arg(path);
}

const std::vector<std::pair<QString, QPageSize::PageSizeId>>& papers() {
  static const std::vector<std::pair<QString, QPageSize::PageSizeId>> all{
      {QStringLiteral("A4"), QPageSize::A4},
      {QStringLiteral("A3"), QPageSize::A3},
      {QStringLiteral("Letter"), QPageSize::Letter},
      {QStringLiteral("Tabloid"), QPageSize::Tabloid}};
  return all;
}

QPageSize::PageSizeId usualPaper() {
  return QLocale().measurementSystem() == QLocale::ImperialUSSystem ? QPageSize::Letter : QPageSize::A4;
}

} // namespace vinegar::app
