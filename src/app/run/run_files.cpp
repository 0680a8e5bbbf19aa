#include "run/run_files.h"

#include "document/saving.h"
#include "run/run_view.h"
#include "theme/text.h"
#include "theme/theme.h"

#include <QBuffer>
#include <QFileInfo>
#include <QPainter>
#include <QPdfWriter>
#include <QPrintDialog>
#include <QPrinter>
#include <QSvgGenerator>

namespace vinegar::app {
QString exportRun(const RunView& run, const QString& path, const QString& title, Pages pages) {
  const QSizeF grid = run.drawingSize();
  const QString ending = QFileInfo(path).suffix().toLower();
  QBuffer buffer;
  buffer.open(QIODevice::WriteOnly);
  bool drawn = false;
  QPainter painter;
  if (ending == QLatin1String("pdf")) {
    QPdfWriter pdf(&buffer);
    pdf.setTitle(title);
    pdf.setPageSize(QPageSize(pages == Pages::one ? QPageSize::A3 : QPageSize::A4));
    drawn = run.paintPages(pdf, title, pages);
  } else if (ending == QLatin1String("svg")) {
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setTitle(title);
    svg.setViewBox(QRectF({}, grid * 8));
    svg.setSize((grid * 8).toSize());
    drawn = painter.begin(&svg);
    if (drawn) run.paintOnto(painter, QRectF({}, grid * 8));
    painter.end();
  } else if (ending == QLatin1String("png")) {
    QImage image((grid * 14).toSize(), QImage::Format_ARGB32);
    if (!image.isNull()) {
      image.fill(theme().ground);
      painter.begin(&image);
      run.paintOnto(painter, image.rect());
      painter.end();
      drawn = image.save(&buffer, "PNG");
    }
  } else {
    return tr("%1: the name must end in .pdf, .svg or .png").arg(path);
  }
  return drawn ? saveBytes(path, buffer.data()) : tr("%1: the run could not be drawn").arg(path);
}

QString exportRunAsked(const RunView& run, const QString& title, QWidget* parent) {
  const QString one = tr("One page (*.pdf)"), several = tr("Several pages (*.pdf)");
  QString kind = one;
  const QString path = askWhereToSave(parent, tr("Export the run"), fileNameOf(title) + QStringLiteral(".pdf"),
                                      {one, several, tr("Scalable picture (*.svg)"), tr("Picture (*.png)")}, &kind);
  return path.isEmpty() ? QString() : exportRun(run, path, title, kind == several ? Pages::several : Pages::one);
}

QString printRunAsked(const RunView& run, const QString& title, QWidget* parent) {
  QPrinter printer(QPrinter::HighResolution);
  QPrintDialog dialog(&printer, parent);
  if (dialog.exec() != QDialog::Accepted || run.paintPages(printer, title, Pages::several)) return {};
  return tr("The printer could not be started; try another, or export to a file.");
}

} // namespace vinegar::app
