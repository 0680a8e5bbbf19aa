#include "plots/plot_files.h"

#include "files/design_file.h"
#include "theme/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QCoreApplication>
#include <QFileInfo>
#include <QMimeData>
#include <QSvgGenerator>

namespace vinegar::app {
namespace {

QString tr(const char* text) { return QCoreApplication::translate("Plot", text); }

} // namespace

void dressPlot(QCustomPlot& plot) {
  const Theme& t = theme();
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
  bool written = false;
  if (ending == QLatin1String("csv")) {
    const auto problem = files::saveAtomically(path.toStdString(), figures);
    return problem ? QString::fromStdString(problem->line()) : QString();
  }
  if (ending == QLatin1String("svg")) {
    QSvgGenerator svg;
    svg.setFileName(path);
    svg.setSize(plot.size());
    svg.setViewBox(plot.rect());
    svg.setTitle(title);
    QCPPainter painter;
    written = painter.begin(&svg);
    if (written) {
      painter.setMode(QCPPainter::pmVectorized);
      painter.setMode(QCPPainter::pmNoCaching);
      plot.toPainter(&painter, plot.width(), plot.height());
      written = painter.end();
    }
    written = written && QFileInfo(path).size() > 0;
  } else if (ending == QLatin1String("pdf")) {
    written = plot.savePdf(path, plot.width(), plot.height());
  } else if (ending == QLatin1String("png")) {
    written = plot.savePng(path, plot.width(), plot.height(), 2);
  } else {
    return tr("%1: the name must end in .svg, .pdf, .png or .csv").arg(path);
  }
  return written ? QString() : tr("%1: could not be written; is the folder there and is there room?").arg(path);
}

void copyPlot(QCustomPlot& plot, const std::string& figures) {
  auto* data = new QMimeData;
  data->setImageData(plot.toPixmap(plot.width(), plot.height(), 2).toImage());
  data->setText(QString::fromStdString(figures));
  QApplication::clipboard()->setMimeData(data);
}

} // namespace vinegar::app
