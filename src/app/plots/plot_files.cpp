#include "plots/plot_files.h"

#include "document/saving.h"
#include "theme/text.h"
#include "theme/theme.h"

#include <QApplication>
#include <QBuffer>
#include <QClipboard>
#include <QFileInfo>
#include <QLocale>
#include <QMimeData>
#include <QPdfWriter>
#include <QSvgGenerator>

namespace vinegar::app {
void dressPlot(QCustomPlot& plot) {
  const Theme& t = theme();
  // Digits as everywhere else in the program, whatever the desktop's language.
  auto digits = QLocale::c();
  digits.setNumberOptions(QLocale::OmitGroupSeparator);
  plot.setLocale(digits);
  plot.setBackground(t.ground);
  for (auto* rect : plot.axisRects()) {
    rect->setBackground(t.ground);
    for (auto* axis : rect->axes()) {
      axis->setBasePen(QPen(t.hairline));
      axis->setTickPen(QPen(t.hairline));
      axis->setSubTickPen(QPen(Qt::NoPen));
      axis->setTickLabelColor(t.quiet);
      axis->setLabelColor(t.quiet);
      axis->setTickLabelFont(figureFont(8.5));
      axis->setLabelFont(textFont(8.5));
      QColor grid = t.hairline;
      grid.setAlphaF(0.6F);
      axis->grid()->setPen(QPen(grid, 1));
      axis->grid()->setZeroLinePen(QPen(t.hairline, 1));
    }
  }
}

QString savePlot(QCustomPlot& plot, const QString& path, const QString& title, const std::string& figures) {
  const QString ending = QFileInfo(path).suffix().toLower();
  if (ending == QLatin1String("csv")) return saveBytes(path, QByteArray::fromStdString(figures));
  QBuffer buffer;
  buffer.open(QIODevice::WriteOnly);
  bool drawn = true;
  const auto vectors = [&](QPaintDevice& device) {
    QCPPainter painter;
    drawn = painter.begin(&device);
    if (!drawn) return;
    painter.setMode(QCPPainter::pmVectorized);
    painter.setMode(QCPPainter::pmNoCaching);
    plot.toPainter(&painter, plot.width(), plot.height());
    drawn = painter.end();
  };
  if (ending == QLatin1String("svg")) {
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setSize(plot.size());
    svg.setViewBox(plot.rect());
    svg.setTitle(title);
    vectors(svg);
  } else if (ending == QLatin1String("pdf")) {
    QPdfWriter pdf(&buffer);
    pdf.setTitle(title);
    pdf.setResolution(96); // the plot's own measures are screen pixels
    pdf.setPageMargins({});
    pdf.setPageSize(QPageSize(QSizeF(plot.size()) * 72 / 96, QPageSize::Point, {}, QPageSize::ExactMatch));
    vectors(pdf);
  } else if (ending == QLatin1String("png")) {
    drawn = plot.toPixmap(plot.width(), plot.height(), 2).save(&buffer, "PNG");
  } else {
    return tr("%1: the name must end in .svg, .pdf, .png or .csv").arg(path);
  }
  return drawn ? saveBytes(path, buffer.data()) : tr("%1: the picture could not be drawn").arg(path);
}

QString askWhereToSavePlot(QWidget* parent, const QString& title, const QString& proposed) {
  return askWhereToSave(
      parent, title, proposed,
      {tr("Scalable picture (*.svg)"), tr("Page (*.pdf)"), tr("Picture (*.png)"), tr("Figures (*.csv)")});
}

void copyPlot(QCustomPlot& plot, const std::string& figures) {
  auto* data = new QMimeData;
  data->setImageData(plot.toPixmap(plot.width(), plot.height(), 2).toImage());
  data->setText(QString::fromStdString(figures));
  QApplication::clipboard()->setMimeData(data);
}

} // namespace vinegar::app
